//! Messages as the protocols of editors frame them: their length among lines of the form `NAME: VALUE`, an
//! empty line, and so many bytes.

use std::io::{self, BufRead, Read, Write};

/// Larger messages are refused: more than a text of the largest size needs, escaped.
const MOST: usize = 1 << 30;

/// What was read.
pub enum Framed {
    /// The bytes of a message.
    Body(Vec<u8>),
    /// No message.
    Garbage,
    /// The other side has closed.
    End,
}

/// Reads the next message.
pub fn receive(input: &mut impl BufRead) -> io::Result<Framed> {
    let mut length = None;
    loop {
        let mut line = String::new();
        if input.read_line(&mut line)? == 0 {
            return Ok(Framed::End);
        }
        let line = line.trim_end();
        if line.is_empty() {
            break;
        }
        let header = line.split_once(':');
        if let Some((name, value)) = header
            && name.eq_ignore_ascii_case("Content-Length")
        {
            length = value.trim().parse::<usize>().ok();
        }
    }
    let Some(length) = length.filter(|length| *length <= MOST) else {
        return Ok(Framed::Garbage);
    };
    let mut body = Vec::new();
    input.take(length as u64).read_to_end(&mut body)?;
    if body.len() < length {
        return Ok(Framed::End);
    }
    Ok(Framed::Body(body))
}

/// Writes a message.
pub fn send(output: &mut dyn Write, body: &str) -> io::Result<()> {
    write!(output, "Content-Length: {}\r\n\r\n{body}", body.len())?;
    output.flush()
}
