//! Messages over standard input and output.

use std::io::{self, BufRead};

use lsp_server::Message;

use crate::framed::{self, Framed};

/// What was read.
pub enum Received {
    Message(Message),
    /// No message that can be understood.
    Garbage,
    /// The other side has closed.
    End,
}

/// Reads the next message.
pub fn receive(input: &mut impl BufRead) -> io::Result<Received> {
    Ok(match framed::receive(input)? {
        Framed::Body(body) => understood(&body).map_or(Received::Garbage, Received::Message),
        Framed::Garbage => Received::Garbage,
        Framed::End => Received::End,
    })
}

fn understood(body: &[u8]) -> Option<Message> {
    if let Ok(message) = serde_json::from_slice(body) {
        return Some(message);
    }
    // Some editors cut characters apart that take two units of UTF-16.
    let text = String::from_utf8_lossy(body);
    serde_json::from_str(&without_halves(&text)).ok()
}

/// JSON with a replacement character for each escaped half of a surrogate pair.
fn without_halves(json: &str) -> String {
    let unit = |at: usize| -> Option<u32> {
        let escape = json.get(at..at + 6)?.strip_prefix("\\u")?;
        u32::from_str_radix(escape, 16).ok()
    };
    let mut out = String::with_capacity(json.len());
    let mut at = 0;
    while let Some(found) = json[at..].find('\\') {
        let escape = at + found;
        out += &json[at..escape];
        let (taken, put) = match unit(escape) {
            Some(0xd800..=0xdbff) if matches!(unit(escape + 6), Some(0xdc00..=0xdfff)) => {
                (12, None)
            }
            Some(0xd800..=0xdfff) => (6, Some("\\ufffd")),
            Some(_) => (6, None),
            None => (
                1 + json[escape + 1..].chars().next().map_or(0, char::len_utf8),
                None,
            ),
        };
        out += put.unwrap_or(&json[escape..escape + taken]);
        at = escape + taken;
    }
    out + &json[at..]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn halves_of_characters_are_replaced_and_whole_ones_stay() {
        for (json, mended) in [
            (r#""a\ud83d""#, r#""a\ufffd""#),
            (r#""\ud83d\ude00""#, r#""\ud83d\ude00""#),
            (r#""\ude00\ud83dx""#, r#""\ufffd\ufffdx""#),
            (r#""\\ud83d \n \" é""#, r#""\\ud83d \n \" é""#),
        ] {
            assert_eq!(without_halves(json), mended);
        }
    }

    #[test]
    fn what_is_no_message_does_not_end_the_conversation() {
        let whole = r#"{"jsonrpc":"2.0","method":"exit","params":["\ud83d"]}"#;
        let length = whole.len();
        let text = format!("Content-Length: 3\r\n\r\nabcContent-Length: {length}\r\n\r\n{whole}");
        let mut input = text.as_bytes();
        assert!(matches!(receive(&mut input), Ok(Received::Garbage)));
        let second = receive(&mut input);
        assert!(
            matches!(second, Ok(Received::Message(Message::Notification(n))) if n.method == "exit")
        );
        assert!(matches!(receive(&mut input), Ok(Received::End)));
    }
}
