//! The way to the screen, the only one. What comes from programs, definitions and file names is
//! never sent to a terminal as it is: it could move about on the screen, change its colours, or
//! write in another order than it is read.

use std::borrow::Cow;
use std::io::{IsTerminal, Result, Write};

use quillon_render::plain::{HIDDEN, acts, plain};

use super::style;

/// Lines in styles of ours, without anything else that a terminal would act on.
fn clean(text: &str) -> Cow<'_, str> {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(|c| acts(c) && c != '\n' && c != '\t') {
        let (before, from) = rest.split_at(at);
        out.push_str(before);
        rest = if let Some(own) = style::own(from) {
            out.push_str(own);
            &from[own.len()..]
        } else {
            out.push(HIDDEN);
            let mut chars = from.chars();
            chars.next();
            chars.as_str()
        };
    }
    if out.is_empty() {
        return rest.into();
    }
    out.push_str(rest);
    out.into()
}

/// Prints lines on standard output. Styles are taken out where there is no terminal.
pub fn print(lines: &[String]) -> Result<()> {
    let mut out = std::io::BufWriter::new(anstream::stdout());
    for line in lines {
        writeln!(out, "{}", clean(line))?;
    }
    out.flush()
}

/// Prints a text that is a result for a file or for another program: there it comes as it is.
pub fn hand_over(text: &str) -> Result<()> {
    let mut out = std::io::stdout().lock();
    let text = text.trim_end_matches('\n');
    if out.is_terminal() {
        writeln!(out, "{}", plain(text))
    } else {
        writeln!(out, "{text}")
    }
}

/// Prints a line of a conversation on standard output, where nothing can be done if it does not
/// arrive.
pub fn say(line: impl std::fmt::Display) {
    let _ = writeln!(anstream::stdout(), "{}", clean(&line.to_string()));
}

/// Asks something on standard output, with the cursor left behind it.
pub fn ask(text: &str) {
    let mut out = anstream::stdout();
    let _ = out.write_all(clean(text).as_bytes());
    let _ = out.flush();
}

/// Prints a text on standard error, where nothing can be done if it does not arrive.
pub fn tell(text: &str) {
    let _ = anstream::stderr().write_all(clean(text).as_bytes());
}

/// The same for a line.
pub fn tell_line(line: impl std::fmt::Display) {
    tell(&format!("{line}\n"));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::render::style::{ERROR, paint};

    #[test]
    fn only_styles_of_ours_reach_the_screen() {
        let own = paint(ERROR, "wrong");
        assert_eq!(clean(&own), own);
        for (text, shown) in [
            ("\u{1b}[2J", "·[2J"),
            ("a\u{9b}31mb", "a·31mb"),
            ("\u{1b}]0;title\u{7}", "·]0;title·"),
            ("\u{1b}[7mb", "·[7mb"),
            ("left\u{202e}right", "left·right"),
            ("a\tb\nc\r", "a\tb\nc·"),
            ("水門 e\u{301}", "水門 e\u{301}"),
        ] {
            assert_eq!(clean(text), shown);
        }
        // What is painted cannot bring a style of its own, not even one of ours.
        assert!(!paint(ERROR, &own).contains("\u{1b}[0mwrong"));
        let painted = paint(ERROR, &own);
        assert_eq!(
            painted.matches('\u{1b}').count(),
            own.matches('\u{1b}').count()
        );
    }
}
