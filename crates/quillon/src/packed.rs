//! What is packed with this executable: a language, or a program with its language.
//!
//! A packed executable is a copy of this one with that behind it. Where the copy says so is a place in its
//! own data, which says how long both parts are, and the sum of the second: so one that is cut off or damaged
//! is told from one in which nothing was packed, and the latter looks at no file.

use std::borrow::Cow;
use std::fs::File;
use std::hint::black_box;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};

use quillon_core::Language;
use quillon_core::definition::Definition;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::source::SourceText;
use serde::{Deserialize, Serialize};
use xxhash_rust::xxh3::xxh3_128;

use crate::atomic;
use crate::paths::shown;
use crate::stop::Unreadable;

/// How the place begins.
const MARK: usize = 32;

/// The mark, how long the executable is without what is packed, how long that is, and its sum.
const LENGTH: usize = MARK + 8 + 8 + 16;

/// The place; in an executable in which nothing is packed there are zeros behind the mark.
static PLACE: [u8; LENGTH] = place();

const fn place() -> [u8; LENGTH] {
    let mark = b"[here quillon packs a language:]";
    let mut place = [0; LENGTH];
    let mut at = 0;
    while at < MARK {
        place[at] = mark[at];
        at += 1;
    }
    place
}

/// What is packed.
#[derive(Debug, Serialize, Deserialize)]
pub struct Pack {
    /// What the executable is called, its version, and what it is for.
    pub name: String,
    pub version: String,
    pub about: String,
    /// The name of the definition's file, its text, and the language that has been made of it.
    definition: String,
    #[serde(borrow)]
    text: Cow<'static, str>,
    #[serde(borrow)]
    language: Cow<'static, [u8]>,
    /// What the names of its programs end in.
    extensions: Vec<String>,
    /// The bytecode of a program; none where only its language is packed.
    #[serde(borrow)]
    bytecode: Cow<'static, [u8]>,
}

/// What is packed with this executable, once that has been looked at.
static OWN: OnceLock<Pack> = OnceLock::new();

/// What is packed with this executable, if anything.
pub fn own() -> Option<&'static Pack> {
    OWN.get()
}

/// What is packed, if a path is that of its definition.
pub fn at(path: &Path) -> Option<&'static Pack> {
    own().filter(|pack| Path::new(&pack.definition) == path)
}

impl Pack {
    /// What is packed with this executable, if anything is.
    ///
    /// # Errors
    /// Why it cannot be used, as a sentence.
    pub fn open() -> Result<Option<&'static Pack>, String> {
        let place = black_box(&PLACE);
        let number = |at: usize| {
            let bytes = place[at..at + 8].try_into().unwrap_or_default();
            u64::from_le_bytes(bytes)
        };
        let (base, length) = (number(MARK), number(MARK + 8));
        if base == 0 {
            return Ok(None);
        }
        // It is wanted as long as the process runs.
        let bytes: &'static [u8] = read_behind(base, length)?.leak();
        if xxh3_128(bytes).to_le_bytes() != place[MARK + 16..] {
            return Err(unusable("is damaged"));
        }
        let pack = postcard::from_bytes(bytes).map_err(|_| unusable("is damaged"))?;
        Ok(Some(OWN.get_or_init(|| pack)))
    }

    /// A language to be packed, and a program of it, as bytecode; nothing if the language cannot be.
    pub fn new(language: &Language, program: Option<Vec<u8>>) -> Option<Pack> {
        let definition = language.definition();
        let file = Path::new(definition.source.name()).file_name();
        // By itself the text is not that of several files any more.
        let name = file.map_or_else(|| "language".into(), |file| file.to_string_lossy());
        let source = SourceText::new(&*name, definition.source.text());
        Some(Pack {
            name: definition.name.text.to_lowercase(),
            version: String::new(),
            about: String::new(),
            extensions: Definition::extensions_of(&source),
            definition: name.into_owned(),
            text: source.text().to_owned().into(),
            language: language.kept()?.into(),
            bytecode: program.unwrap_or_default().into(),
        })
    }

    /// Makes a copy of this executable with this behind it.
    pub fn write(&self, path: &Path) -> io::Result<()> {
        let broken = |why: &str| io::Error::other(why.to_owned());
        let mut bytes = std::fs::read(std::env::current_exe()?)?;
        let base = bytes.len();
        let mark = &black_box(&PLACE)[..MARK];
        let mut found = memchr::memmem::find_iter(&bytes, mark);
        let at = found.next().filter(|_| found.next().is_none());
        let at = at.ok_or_else(|| broken("this executable has no place for it"))?;
        let packed = postcard::to_stdvec(self).map_err(|error| broken(&error.to_string()))?;
        let numbers = [base as u64, packed.len() as u64].map(u64::to_le_bytes);
        let place = &mut bytes[at + MARK..at + LENGTH];
        place[..8].copy_from_slice(&numbers[0]);
        place[8..16].copy_from_slice(&numbers[1]);
        place[16..].copy_from_slice(&xxh3_128(&packed).to_le_bytes());
        bytes.extend(packed);
        atomic::write(path, &bytes)?;
        make_executable(path)
    }

    /// Where the definition is, as paths go: no file.
    pub fn definition(&self) -> PathBuf {
        PathBuf::from(&self.definition)
    }

    /// The same for a program, by its file's name: nothing but programs of the language is read.
    ///
    /// # Errors
    /// The file's extension is none of the language's.
    pub fn reading(&self, program: &Path) -> Result<PathBuf, Unreadable> {
        let known = &self.extensions;
        let name = program.to_string_lossy();
        if known.iter().any(|own| name.ends_with(own.as_str())) {
            return Ok(self.definition());
        }
        let message = format!("{} is no program of {}", shown(program), self.name);
        let problem = Diagnostic::error(codes::FILE_LANGUAGE, message);
        let why = format!("the names of its programs end in {}", known.join(", "));
        Err(Box::new(problem.why(why)))
    }

    /// The bytecode of a program, if it is packed and not only its language.
    pub fn program(&self) -> Option<&[u8]> {
        (!self.bytecode.is_empty()).then_some(&*self.bytecode)
    }

    /// The definition.
    pub fn source(&self) -> Arc<SourceText> {
        SourceText::new(self.definition.as_str(), &*self.text)
    }

    /// The language of a definition's text, if it is that.
    pub fn language(&self, source: &Arc<SourceText>) -> Option<Language> {
        let is_own = source.text() == self.text;
        is_own.then(|| Language::from_kept(source, &self.language))?
    }
}

/// What stands behind so many bytes of this executable.
fn read_behind(base: u64, length: u64) -> Result<Vec<u8>, String> {
    let unreadable = |error: io::Error| format!("this executable cannot be read: {error}");
    let path = std::env::current_exe().map_err(unreadable)?;
    let mut file = File::open(path).map_err(unreadable)?;
    let has = file.metadata().map_err(unreadable)?.len();
    if Some(has) != base.checked_add(length) {
        return Err(unusable(
            "has been cut off, or something has been added to it",
        ));
    }
    file.seek(SeekFrom::Start(base)).map_err(unreadable)?;
    let mut bytes = Vec::with_capacity(length as usize);
    file.read_to_end(&mut bytes).map_err(unreadable)?;
    Ok(bytes)
}

fn unusable(how: &str) -> String {
    format!("this executable {how}: what is packed in it cannot be used; get it once more")
}

#[cfg(unix)]
fn make_executable(path: &Path) -> io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    std::fs::set_permissions(path, std::fs::Permissions::from_mode(0o755))
}

/// Elsewhere the name tells.
#[cfg(not(unix))]
fn make_executable(_path: &Path) -> io::Result<()> {
    Ok(())
}
