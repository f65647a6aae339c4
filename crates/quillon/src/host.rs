//! What a program run from the command line can reach: standard output and input, and the
//! files of the folders that it may use.

use std::io::{BufRead, IsTerminal, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use quillon_core::runtime::{Amount, Host, Recorder, Refused};
use quillon_core::source::SourceText;

use crate::files;

/// Set by Ctrl-C: the run is to end.
static INTERRUPTED: AtomicBool = AtomicBool::new(false);

/// Whether the program waits for input, which nothing but the end of all interrupts.
static READING: AtomicBool = AtomicBool::new(false);

/// The exit status of a program that Ctrl-C has ended, as shells have it.
const ENDED_BY_INTERRUPT: i32 = 130;

/// Lets Ctrl-C end a run instead of everything; a second one, or one while the program
/// waits for input, ends everything.
pub fn watch_for_interrupts() {
    // Without a handler Ctrl-C ends everything, as it always does.
    let _ = ctrlc::set_handler(|| {
        if INTERRUPTED.swap(true, Ordering::SeqCst) || READING.load(Ordering::SeqCst) {
            std::process::exit(ENDED_BY_INTERRUPT);
        }
    });
}

/// Forgets an interrupt that came before what is run next.
pub fn forget_interrupts() {
    INTERRUPTED.store(false, Ordering::SeqCst);
}

/// The folders whose files a run may use.
#[derive(Clone, Debug, Default)]
pub struct Allowed {
    pub read: Vec<PathBuf>,
    pub write: Vec<PathBuf>,
}

/// Where output goes.
enum Out {
    /// Standard output, buffered.
    Standard(std::io::BufWriter<std::io::Stdout>),
    /// A text, to be shown later.
    Kept(String),
    /// Nowhere.
    Nowhere,
}

/// What a run has printed and read.
#[derive(Clone, Default, Debug)]
pub struct Recorded {
    pub printed: String,
    pub input: String,
}

/// The outside of a run.
pub struct Terminal {
    out: Out,
    allowed: Allowed,
    /// What is printed and read is noted here, if it is to be known afterwards.
    recorded: Option<Recorded>,
    /// What is read instead of standard input, if that is for something else.
    given: Option<Recorder>,
    /// Whether a person reads along.
    is_watched: bool,
}

impl Terminal {
    /// Prints as the run does.
    pub fn new(allowed: Allowed) -> Terminal {
        let standard = std::io::BufWriter::with_capacity(1 << 16, std::io::stdout());
        Terminal {
            out: Out::Standard(standard),
            allowed,
            recorded: None,
            given: None,
            is_watched: std::io::stdout().is_terminal(),
        }
    }

    /// Gives what is read from now on, in place of standard input.
    pub fn give(&mut self, input: &str) {
        self.given = Some(Recorder {
            input: input.to_owned(),
            ..Recorder::default()
        });
    }

    /// Notes what is printed and read; it is printed at once if that is wanted.
    pub fn recording(allowed: Allowed, live: bool) -> Terminal {
        let terminal = if live {
            Terminal::new(allowed)
        } else {
            Terminal {
                out: Out::Nowhere,
                ..Terminal::keeping(allowed)
            }
        };
        Terminal {
            recorded: Some(Recorded::default()),
            ..terminal
        }
    }

    /// What has been printed and read since the last time.
    pub fn take_recorded(&mut self) -> Recorded {
        self.recorded
            .as_mut()
            .map(std::mem::take)
            .unwrap_or_default()
    }

    /// Keeps what is printed.
    pub fn keeping(allowed: Allowed) -> Terminal {
        Terminal {
            out: Out::Kept(String::new()),
            allowed,
            recorded: None,
            given: None,
            is_watched: std::io::stdout().is_terminal(),
        }
    }

    /// Writes what is still held back.
    pub fn flush(&mut self) {
        if let Out::Standard(out) = &mut self.out {
            settle(&out.flush());
        }
    }

    /// What has been printed and kept.
    pub fn kept(&self) -> &str {
        match &self.out {
            Out::Standard(_) | Out::Nowhere => "",
            Out::Kept(text) => text,
        }
    }
}

/// The outside of a run that is made several times: what is printed is lost, and input is the
/// same each time.
pub struct Rehearsal {
    outside: Terminal,
    given: Recorder,
}

impl Rehearsal {
    /// What standard input has, unless a person sits there or the program came from it.
    pub fn input(program: &SourceText) -> String {
        let mut input = String::new();
        let is_free = program.name() != files::STANDARD_INPUT;
        if is_free && !std::io::stdin().is_terminal() {
            let mut bytes = Vec::new();
            let _ = std::io::stdin().read_to_end(&mut bytes);
            input = String::from_utf8_lossy(&bytes).into_owned();
        }
        input
    }

    /// A run with this input.
    pub fn new(allowed: Allowed, input: &str) -> Rehearsal {
        Rehearsal {
            outside: Terminal::keeping(allowed),
            given: Recorder {
                input: input.to_owned(),
                ..Recorder::default()
            },
        }
    }
}

impl Host for Rehearsal {
    fn output(&mut self, _text: &str) {}

    fn input(&mut self, amount: Amount) -> Option<String> {
        self.given.input(amount)
    }

    fn is_interrupted(&self) -> bool {
        self.outside.is_interrupted()
    }

    fn read_file(&mut self, path: &str) -> Result<String, Refused> {
        self.outside.read_file(path)
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        self.outside.write_file(path, text)
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        self.outside.has_file(path)
    }

    fn program(&mut self, path: &str, from: &SourceText) -> Result<Arc<SourceText>, Refused> {
        self.outside.program(path, from)
    }
}

impl Host for Terminal {
    fn output(&mut self, text: &str) {
        match &mut self.out {
            Out::Standard(out) => {
                settle(&out.write_all(text.as_bytes()));
                // Who watches sees each line when it is printed.
                if self.is_watched && text.contains('\n') {
                    settle(&out.flush());
                }
            }
            Out::Kept(kept) => kept.push_str(text),
            Out::Nowhere => {}
        }
        if let Some(recorded) = &mut self.recorded {
            recorded.printed.push_str(text);
        }
    }

    fn input(&mut self, amount: Amount) -> Option<String> {
        self.flush();
        READING.store(true, Ordering::SeqCst);
        let read = match &mut self.given {
            Some(given) => given.input(amount),
            None => read(amount),
        };
        READING.store(false, Ordering::SeqCst);
        if let (Some(recorded), Some(read)) = (&mut self.recorded, &read) {
            recorded.input.push_str(read);
            if let Amount::Line = amount {
                recorded.input.push('\n');
            }
        }
        read
    }

    fn is_interrupted(&self) -> bool {
        INTERRUPTED.load(Ordering::SeqCst)
    }

    fn read_file(&mut self, path: &str) -> Result<String, Refused> {
        allowed(&self.allowed.read, path, "--allow-read")?;
        std::fs::read_to_string(path).map_err(|error| refused(path, "read", &error))
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        allowed(&self.allowed.write, path, "--allow-write")?;
        std::fs::write(path, text).map_err(|error| refused(path, "written", &error))
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        allowed(&self.allowed.read, path, "--allow-read")?;
        Ok(Path::new(path).exists())
    }

    /// A program beside the one that asks, or further in. Programs belong together, so no
    /// permission is needed.
    fn program(&mut self, path: &str, from: &SourceText) -> Result<Arc<SourceText>, Refused> {
        let file = files::beside(Path::new(from.name()), Path::new(path));
        files::read(&file).map_err(|_| {
            Refused::new(
                format!("the program {} cannot be read", file.display()),
                "paths begin in the folder of the program that loads",
            )
        })
    }
}

fn read(amount: Amount) -> Option<String> {
    let mut input = std::io::stdin().lock();
    match amount {
        Amount::Line => {
            let mut line = Vec::new();
            input.read_until(b'\n', &mut line).ok()?;
            if line.is_empty() {
                return None;
            }
            let line = String::from_utf8_lossy(&line);
            Some(line.trim_end_matches(['\n', '\r']).to_owned())
        }
        Amount::Character => {
            let mut bytes = vec![0];
            input.read_exact(&mut bytes).ok()?;
            // How long a character is shows in its first byte.
            let length = match bytes[0] {
                0xC0..=0xDF => 2,
                0xE0..=0xEF => 3,
                0xF0..=0xF7 => 4,
                _ => 1,
            };
            bytes.resize(length, 0);
            input.read_exact(&mut bytes[1..]).ok()?;
            Some(String::from_utf8_lossy(&bytes).into_owned())
        }
        Amount::All => {
            let mut all = Vec::new();
            input.read_to_end(&mut all).ok()?;
            Some(String::from_utf8_lossy(&all).into_owned())
        }
    }
}

/// Whether a path lies in one of some folders, links followed.
fn allowed(folders: &[PathBuf], path: &str, option: &str) -> Result<(), Refused> {
    let real = real(Path::new(path));
    let inside = |folder: &PathBuf| {
        let folder = folder.canonicalize();
        folder.is_ok_and(|folder| real.as_ref().is_some_and(|real| real.starts_with(folder)))
    };
    if folders.iter().any(inside) {
        return Ok(());
    }
    Err(Refused::new(
        format!("the file {path} is out of reach"),
        format!("a run uses only files of the folders that `{option} FOLDER` names"),
    ))
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

fn refused(path: &str, what: &str, error: &std::io::Error) -> Refused {
    Refused::new(
        format!("the file {path} cannot be {what}"),
        error.to_string(),
    )
}

/// A reader that has gone away ends the run quietly: nobody is left to tell.
fn settle(result: &std::io::Result<()>) {
    if result.is_err() {
        std::process::exit(crate::exit::Exit::Done as i32);
    }
}
