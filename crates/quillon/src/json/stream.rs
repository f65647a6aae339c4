//! Results in JSON that are written while they come to be: what a program prints is not kept.

use std::io::{BufWriter, Result, Stdout, Write};

use quillon_core::source::floor;
use serde_json::{Map, Value};

use crate::output::JSON_VERSION;

/// A result, an object, on its way to standard output.
pub struct Streamed {
    out: BufWriter<Stdout>,
    /// What the program is called.
    program: String,
    /// Whether anything has been written.
    is_begun: bool,
}

impl Streamed {
    /// A result of which nothing has been written.
    pub fn new(program: &str) -> Streamed {
        Streamed {
            out: BufWriter::with_capacity(1 << 16, std::io::stdout()),
            program: program.to_owned(),
            is_begun: false,
        }
    }

    fn begin(&mut self) -> Result<()> {
        if !std::mem::replace(&mut self.is_begun, true) {
            let program = serde_json::to_string(&self.program)?;
            write!(
                self.out,
                "{{\n  \"version\": {JSON_VERSION},\n  \"program\": {program},\n  \"output\": \""
            )?;
        }
        Ok(())
    }

    /// Writes what the program prints.
    pub fn output(&mut self, text: &str) -> Result<()> {
        const PIECE: usize = 1 << 14;
        self.begin()?;
        let mut rest = text;
        while !rest.is_empty() {
            let (piece, after) = rest.split_at(floor(rest, PIECE));
            let quoted = serde_json::to_string(piece)?;
            self.out
                .write_all(&quoted.as_bytes()[1..quoted.len() - 1])?;
            rest = after;
        }
        Ok(())
    }

    /// Writes all else that is in the result.
    pub fn finish(mut self, rest: &Map<String, Value>) -> Result<()> {
        self.begin()?;
        write!(self.out, "\"")?;
        for (name, value) in rest {
            let name = serde_json::to_string(name)?;
            let value = serde_json::to_string_pretty(value)?.replace('\n', "\n  ");
            write!(self.out, ",\n  {name}: {value}")?;
        }
        writeln!(self.out, "\n}}")?;
        self.out.flush()
    }
}
