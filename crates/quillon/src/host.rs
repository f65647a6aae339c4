//! What a program run from the command line can reach: standard output and input.

use std::io::{BufRead, Write};

use quillon_core::evaluation::Host;

/// Standard output, buffered, and standard input.
pub struct Terminal {
    out: std::io::BufWriter<std::io::Stdout>,
}

impl Terminal {
    pub fn new() -> Terminal {
        Terminal {
            out: std::io::BufWriter::with_capacity(1 << 16, std::io::stdout()),
        }
    }

    /// Writes what is still held back.
    pub fn flush(&mut self) {
        settle(&self.out.flush());
    }
}

impl Host for Terminal {
    fn output(&mut self, text: &str) {
        settle(&self.out.write_all(text.as_bytes()));
    }

    fn input(&mut self) -> Option<String> {
        self.flush();
        let mut line = String::new();
        match std::io::stdin().lock().read_line(&mut line) {
            Ok(0) | Err(_) => None,
            Ok(_) => {
                let end = line.trim_end_matches(['\n', '\r']).len();
                line.truncate(end);
                Some(line)
            }
        }
    }
}

/// A reader that has gone away ends the run quietly: nobody is left to tell.
fn settle(result: &std::io::Result<()>) {
    if result.is_err() {
        std::process::exit(crate::exit::Exit::Done as i32);
    }
}
