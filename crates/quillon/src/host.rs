//! What a program run from the command line can reach: standard output and input, and the
//! files of the folders that it may use.

use std::io::{BufRead, IsTerminal, Read, Write};
use std::path::Path;
use std::sync::Arc;

use quillon_core::runtime::{Amount, Host, Interrupt, NotRead, Recorder, Refused, TooLarge};
use quillon_core::source::SourceText;

use crate::args::Format;
use crate::files;
use crate::interrupts;
use crate::json::Streamed;
use crate::paths;
use crate::reach::Reach;
use crate::stop::Stop;

/// Where output goes.
enum Out {
    /// Standard output, buffered.
    Standard(std::io::BufWriter<std::io::Stdout>),
    /// Standard output, as part of a result in JSON.
    Json(Streamed),
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
    reach: Reach,
    /// What is printed and read is noted here, if it is to be known afterwards.
    recorded: Option<Recorded>,
    /// What is read instead of standard input, if that is for something else.
    given: Option<Recorder>,
    /// Whether a person reads along.
    is_watched: bool,
    has_printed: bool,
    /// The exit status that the program has left with.
    left: Option<u8>,
}

impl Terminal {
    /// Prints as the run does.
    pub fn new(reach: Reach) -> Terminal {
        let standard = std::io::BufWriter::with_capacity(1 << 16, std::io::stdout());
        Terminal {
            out: Out::Standard(standard),
            reach,
            recorded: None,
            given: None,
            is_watched: std::io::stdout().is_terminal(),
            has_printed: false,
            left: None,
        }
    }

    /// Prints as the run does, into a result in JSON.
    pub fn streaming(reach: Reach, result: Streamed) -> Terminal {
        Terminal {
            out: Out::Json(result),
            reach,
            recorded: None,
            given: None,
            is_watched: false,
            has_printed: false,
            left: None,
        }
    }

    /// The result in JSON, with all that has been printed.
    pub fn into_result(self) -> Option<Streamed> {
        match self.out {
            Out::Json(result) => Some(result),
            Out::Standard(_) | Out::Nowhere => None,
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
    pub fn recording(reach: Reach, live: bool) -> Terminal {
        let terminal = if live {
            Terminal::new(reach)
        } else {
            Terminal::silent(reach)
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

    /// Loses what is printed.
    pub fn silent(reach: Reach) -> Terminal {
        Terminal {
            out: Out::Nowhere,
            reach,
            recorded: None,
            given: None,
            is_watched: std::io::stdout().is_terminal(),
            has_printed: false,
            left: None,
        }
    }

    /// The exit status that the program has left with, if it has.
    pub fn left(&self) -> Option<u8> {
        self.left
    }

    /// Whether anything has been printed.
    pub fn has_printed(&self) -> bool {
        self.has_printed
    }

    /// Writes what is still held back.
    pub fn flush(&mut self) {
        if let Out::Standard(out) = &mut self.out {
            settle(out.flush());
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
    pub fn new(reach: Reach, input: &str) -> Rehearsal {
        Rehearsal {
            outside: Terminal::silent(reach),
            given: Recorder {
                input: input.to_owned(),
                ..Recorder::default()
            },
        }
    }
}

impl Host for Rehearsal {
    fn output(&mut self, _text: &str) {}

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.given.input(amount, most)
    }

    fn interrupt(&self) -> Option<Interrupt> {
        self.outside.interrupt()
    }

    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        self.outside.read_file(path, most)
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        self.outside.write_file(path, text)
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        self.outside.has_file(path)
    }

    fn arguments(&self) -> Vec<String> {
        self.outside.arguments()
    }

    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        self.outside.program(path, from, most)
    }
}

impl Host for Terminal {
    fn output(&mut self, text: &str) {
        self.has_printed |= !text.is_empty();
        match &mut self.out {
            Out::Standard(out) => {
                settle(out.write_all(text.as_bytes()));
                // Who watches sees each line when it is printed.
                if self.is_watched && text.contains('\n') {
                    settle(out.flush());
                }
            }
            Out::Json(result) => settle(result.output(text)),
            Out::Nowhere => {}
        }
        if let Some(recorded) = &mut self.recorded {
            recorded.printed.push_str(text);
        }
    }

    fn keeps_output(&self) -> bool {
        self.recorded.is_some()
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.flush();
        interrupts::set_reading(true);
        let read = match &mut self.given {
            Some(given) => given.input(amount, most),
            None => read(amount, most),
        };
        interrupts::set_reading(false);
        if let (Some(recorded), Ok(Some(read))) = (&mut self.recorded, &read) {
            recorded.input.push_str(read);
            if let Amount::Line = amount {
                recorded.input.push('\n');
            }
        }
        read
    }

    fn interrupt(&self) -> Option<Interrupt> {
        Some(interrupts::interrupt())
    }

    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        self.reach.read_file(path, most)
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        self.reach.write_file(path, text)
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        self.reach.has_file(path)
    }

    fn arguments(&self) -> Vec<String> {
        self.reach.arguments.clone()
    }

    fn leave(&mut self, status: u8) {
        self.left = Some(status);
    }

    /// A program beside the one that asks, or somewhere else that the run may reach.
    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        let file = paths::beside(Path::new(from.name()), Path::new(path));
        let text = self.reach.read_program(&file, most)?;
        Ok(SourceText::new(file.display().to_string(), text))
    }
}

/// Reads standard input. A mistake of the system is the end of it.
fn read(amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
    // One byte more tells what is too large.
    let mut input = std::io::stdin().lock().take(most as u64 + 1);
    let bytes = match amount {
        Amount::Line => {
            let mut line = Vec::new();
            let read = input.read_until(b'\n', &mut line);
            read.is_ok_and(|count| count > 0).then_some(line)
        }
        Amount::Character => character(&mut input),
        Amount::All => {
            let mut all = Vec::new();
            input.read_to_end(&mut all).ok().map(|_| all)
        }
    };
    let Some(bytes) = bytes else {
        return Ok(None);
    };
    if bytes.len() > most {
        return Err(TooLarge);
    }
    let mut text = String::from_utf8(bytes)
        .unwrap_or_else(|error| String::from_utf8_lossy(error.as_bytes()).into_owned());
    if amount == Amount::Line {
        text.truncate(text.trim_end_matches(['\n', '\r']).len());
    }
    Ok(Some(text))
}

/// The bytes of the next character.
fn character(input: &mut impl Read) -> Option<Vec<u8>> {
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
    Some(bytes)
}

/// A reader that has gone away ends the run quietly: nobody is left to tell. Anything else that
/// keeps output from being written ends it with an error.
fn settle(result: std::io::Result<()>) {
    if let Err(error) = result {
        let exit = crate::output::give_up(&Stop::Output(error), Format::Text);
        std::process::exit(i32::from(exit.number()));
    }
}
