//! What a run can reach: files, and what it has been given to work on. A folder is opened, and files are opened from there: whatever
//! becomes of links and folders meanwhile, nothing outside of it is ever read or written.

use std::io::{ErrorKind, Read};
use std::path::{Path, PathBuf};

use cap_std::ambient_authority;
use cap_std::fs::{Dir, File, OpenOptions};
use quillon_core::runtime::{NotRead, Refused};
use quillon_core::source::SourceText;

use crate::{atomic, paths};

/// The folders whose files a run may use, none at first, and what it is given.
#[derive(Clone, Debug, Default)]
pub struct Reach {
    /// For reading.
    pub read: Vec<PathBuf>,
    /// For writing.
    pub write: Vec<PathBuf>,
    /// Where the other programs are that it may load; they may lie in folders for reading,
    /// too.
    pub programs: Option<PathBuf>,
    /// The texts that it has been started with.
    pub arguments: Vec<String>,
}

impl Reach {
    /// The same for the run of a program: it may load what lies beside it or further in. What
    /// has been given as a text lies in the folder where one is.
    #[must_use]
    pub fn of_program(self, program: &SourceText) -> Reach {
        let folder = paths::folder_of(Path::new(program.name()));
        Reach {
            programs: Some(folder),
            ..self
        }
    }

    /// What is in a file of at most so many bytes.
    pub fn read_file(&self, path: &str, most: usize) -> Result<String, NotRead> {
        let file = open_within(self.read.iter(), Path::new(path), READING)
            .map_err(|error| error.refused(path, "read"))?;
        content(file, most).map_err(|error| error.not_read(path))
    }

    /// Whether there is a file.
    pub fn has_file(&self, path: &str) -> Result<bool, Refused> {
        match open_within(self.read.iter(), Path::new(path), READING) {
            Ok(_) | Err(Unopened::NoFile) => Ok(true),
            Err(Unopened::Error(error)) => Ok(error.kind() != ErrorKind::NotFound),
            Err(other @ Unopened::Outside(_)) => Err(other.refused(path, "looked for")),
        }
    }

    /// Makes a text what is in a file, as a whole or not at all.
    pub fn write_file(&self, path: &str, text: &str) -> Result<(), Refused> {
        let place = Path::new(path);
        let Some((folder, inside)) = within(self.write.iter(), place) else {
            return Err(Unopened::Outside(WRITING).refused(path, "written"));
        };
        let write = || {
            let name = inside.file_name().ok_or(ErrorKind::InvalidInput)?;
            let folder = Dir::open_ambient_dir(folder, ambient_authority())?;
            let folder = match inside.parent() {
                Some(inner) if !inner.as_os_str().is_empty() => folder.open_dir(inner)?,
                _ => folder,
            };
            atomic::write_in(&folder, name, text.as_bytes())
        };
        write().map_err(|error: std::io::Error| Unopened::Error(error).refused(path, "written"))
    }

    /// The text of a program of at most so many bytes.
    pub fn read_program(&self, path: &Path, most: usize) -> Result<String, NotRead> {
        let shown = path.display().to_string();
        let folders = self.programs.iter().chain(&self.read);
        let file = open_within(folders, path, READING).map_err(|error| match error {
            Unopened::Outside(_) => self.no_program(&shown),
            Unopened::Error(error) if error.kind() == ErrorKind::NotFound => Refused::new(
                format!("the program {shown} cannot be read"),
                "paths begin in the folder of the program that loads, and nothing is there",
            ),
            other @ (Unopened::NoFile | Unopened::Error(_)) => other.refused(&shown, "read"),
        })?;
        content(file, most).map_err(|error| error.not_read(&shown))
    }

    /// The text of a file that a definition includes, which lies in the folder of the definition
    /// or further in.
    pub fn read_included(folder: &Path, path: &Path) -> Result<String, String> {
        const MOST: usize = 1 << 28;
        let shown = path.display().to_string();
        let folder = folder.to_owned();
        let read = match open_within(std::iter::once(&folder), path, READING) {
            Ok(file) => content(file, MOST).map_err(|error| error.not_read(&shown)),
            Err(Unopened::Outside(_)) if !path.exists() => {
                return Err(format!("there is no file {}", paths::shown(path)));
            }
            Err(Unopened::Outside(_)) => Err(Refused::new(
                format!("{} is out of reach", paths::shown(path)),
                "a definition includes what lies in its own folder or further in",
            )
            .into()),
            Err(Unopened::Error(error)) if error.kind() == ErrorKind::NotFound => {
                return Err(format!("there is no file {}", paths::shown(path)));
            }
            Err(other) => Err(other.refused(&shown, "read").into()),
        };
        read.map_err(|problem| match problem {
            NotRead::Refused(refused) => match refused.why {
                Some(why) => format!("{}: {why}", refused.message),
                None => refused.message,
            },
            NotRead::TooLarge => format!("{shown} has more than {MOST} bytes"),
        })
    }

    fn no_program(&self, path: &str) -> Refused {
        let why = match self.programs {
            Some(_) => format!(
                "a program loads what lies in its own folder or further in, and what lies in \
                 the folders that `{READING} FOLDER` names"
            ),
            None => format!(
                "a saved program may have been changed or damaged, so it loads only what lies in \
                 the folders that `{READING} FOLDER` names"
            ),
        };
        Refused::new(format!("the program {path} is out of reach"), why)
    }
}

/// The options that name folders.
const READING: &str = "--files-from";
const WRITING: &str = "--files-into";

/// Why a file is not opened.
enum Unopened {
    /// It lies in no folder that may be used; the option that names those.
    Outside(&'static str),
    /// It is a folder, a device or something else that is no file.
    NoFile,
    Error(std::io::Error),
}

impl From<std::io::Error> for Unopened {
    fn from(error: std::io::Error) -> Unopened {
        Unopened::Error(error)
    }
}

impl Unopened {
    fn refused(self, path: &str, what: &str) -> Refused {
        match self {
            Unopened::Outside(option) => Refused::new(
                format!("the file {path} is out of reach"),
                format!("a run uses only files of the folders that `{option} FOLDER` names"),
            ),
            Unopened::NoFile => Refused::new(
                format!("the file {path} cannot be {what}"),
                "it is a folder, a device or a pipe, and no ordinary file",
            ),
            Unopened::Error(error) => Refused::new(
                format!("the file {path} cannot be {what}"),
                error.to_string(),
            ),
        }
    }
}

/// Opens an ordinary file in one of some folders, for reading.
fn open_within<'f>(
    folders: impl Iterator<Item = &'f PathBuf>,
    path: &Path,
    option: &'static str,
) -> Result<File, Unopened> {
    let Some((folder, inside)) = within(folders, path) else {
        return Err(Unopened::Outside(option));
    };
    let folder = Dir::open_ambient_dir(folder, ambient_authority())?;
    let mut options = OpenOptions::new();
    options.read(true);
    #[cfg(unix)]
    {
        use cap_std::fs::OpenOptionsExt;
        // A pipe that nobody writes to would not come back.
        options.custom_flags(rustix::fs::OFlags::NONBLOCK.bits().cast_signed());
    }
    let file = folder.open_with(inside, &options)?;
    // What has been opened is looked at, and not what the name stands for by now.
    if file.metadata()?.is_file() {
        Ok(file)
    } else {
        Err(Unopened::NoFile)
    }
}

/// The folder that a path lies in, with the rest of the path: as it is written, or where it is
/// when links are followed. Whether it really does is seen when it is opened from there.
fn within<'f>(
    mut folders: impl Iterator<Item = &'f PathBuf>,
    path: &Path,
) -> Option<(&'f Path, PathBuf)> {
    let real = real(path);
    folders.find_map(|folder| {
        let canonical = folder.canonicalize().ok()?;
        let inside = real.as_ref()?.strip_prefix(&canonical).ok()?;
        Some((folder.as_path(), inside.to_owned()))
    })
}

/// Where a file is or would be, links followed.
fn real(path: &Path) -> Option<PathBuf> {
    if let Ok(real) = path.canonicalize() {
        return Some(real);
    }
    // A link that leads nowhere could lead anywhere once something is written there.
    if path.symlink_metadata().is_ok() {
        return None;
    }
    let folder = match path.parent() {
        Some(parent) if parent.as_os_str().is_empty() => Path::new("."),
        Some(parent) => parent,
        None => return None,
    };
    Some(folder.canonicalize().ok()?.join(path.file_name()?))
}

/// Why what is in a file cannot be used.
enum NoContent {
    TooLarge,
    Error(std::io::Error),
}

impl NoContent {
    fn not_read(self, path: &str) -> NotRead {
        match self {
            NoContent::TooLarge => NotRead::TooLarge,
            NoContent::Error(error) => Unopened::Error(error).refused(path, "read").into(),
        }
    }
}

/// What is in a file of at most so many bytes.
fn content(file: File, most: usize) -> Result<String, NoContent> {
    let size = file.metadata().map_or(0, |known| known.len());
    if size > most as u64 {
        return Err(NoContent::TooLarge);
    }
    let mut text = String::new();
    let room = usize::try_from(size).unwrap_or(most);
    text.try_reserve_exact(room)
        .map_err(|_| NoContent::TooLarge)?;
    // It may have grown meanwhile.
    let read = file.take(most as u64 + 1).read_to_string(&mut text);
    read.map_err(NoContent::Error)?;
    if text.len() > most {
        return Err(NoContent::TooLarge);
    }
    Ok(text)
}
