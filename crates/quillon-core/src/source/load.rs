//! From the bytes of a file to a source text.

use std::fmt;
use std::sync::Arc;

use super::SourceText;

/// The largest text accepted, in bytes: offsets are 32-bit.
pub const LARGEST: usize = u32::MAX as usize - 1;

/// Why bytes cannot be taken as source text.
#[derive(Clone, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum LoadError {
    /// The bytes from this offset on, on this line, are not UTF-8.
    NotText {
        /// Offset of the first bad byte.
        offset: usize,
        /// The line it is on, from 1.
        line: usize,
        /// The byte itself.
        byte: u8,
    },
    /// More bytes than 32-bit offsets can count.
    TooLarge {
        /// The number of bytes found.
        bytes: usize,
    },
}

impl fmt::Display for LoadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            LoadError::NotText { offset, line, byte } => write!(
                f,
                "it is not UTF-8 text: byte 0x{byte:02X} on line {line} (offset {offset}) belongs to no character"
            ),
            LoadError::TooLarge { bytes } => write!(
                f,
                "it has {bytes} bytes, and a source text can have at most {LARGEST}"
            ),
        }
    }
}

impl std::error::Error for LoadError {}

/// Makes a source text of the bytes of a file.
pub fn from_bytes(name: &str, bytes: Vec<u8>) -> Result<Arc<SourceText>, LoadError> {
    if bytes.len() > LARGEST {
        return Err(LoadError::TooLarge { bytes: bytes.len() });
    }
    match String::from_utf8(bytes) {
        Ok(text) => Ok(SourceText::new(name, text)),
        Err(error) => {
            let offset = error.utf8_error().valid_up_to();
            let bytes = error.as_bytes();
            Err(LoadError::NotText {
                offset,
                line: bytes[..offset].iter().filter(|&&b| b == b'\n').count() + 1,
                byte: bytes[offset],
            })
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_bad_byte_is_named_with_its_line() {
        let error = from_bytes("t", b"ab\nc\xff".to_vec()).unwrap_err();
        assert!(error.to_string().contains("byte 0xFF on line 2 (offset 4)"));
    }
}
