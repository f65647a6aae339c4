//! Texts from outside as they can be shown. What comes from programs, definitions and file names
//! is never sent to a terminal as it is: it could move about on the screen, change its colours, or
//! write in another order than it is read.

use std::borrow::Cow;

/// What is shown in the place of a character that a terminal would act on.
pub const HIDDEN: char = '·';

/// Whether a terminal could act on a character: the control characters of C0 and C1, and those
/// that change the direction of writing.
pub fn acts(c: char) -> bool {
    c.is_control()
        || matches!(
            c,
            '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}'
        )
}

/// A text from outside as it can be shown: line ends and tabs stay.
pub fn plain(text: &str) -> Cow<'_, str> {
    let is_plain = |c: char| !acts(c) || c == '\n' || c == '\t';
    if text.chars().all(is_plain) {
        return text.into();
    }
    text.chars()
        .map(|c| if is_plain(c) { c } else { HIDDEN })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_terminal_acts_on_is_a_dot() {
        for (text, shown) in [
            ("\u{1b}[2J", "·[2J"),
            ("a\u{9b}31mb", "a·31mb"),
            ("left\u{202e}right", "left·right"),
            ("a\tb\nc\r", "a\tb\nc·"),
            ("水門 e\u{301}", "水門 e\u{301}"),
        ] {
            assert_eq!(plain(text), shown);
        }
    }
}
