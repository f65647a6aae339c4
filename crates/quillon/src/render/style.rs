//! The colours, in one place. They are taken out again where there is no terminal.

use anstyle::{AnsiColor, Style};

use quillon_render::plain::plain;

/// Line numbers, positions and other things to look past.
pub const QUIET: Style = AnsiColor::BrightBlack.on_default();
/// An error and what it points at.
pub const ERROR: Style = AnsiColor::BrightRed.on_default().bold();
/// A warning and what it points at.
pub const WARNING: Style = AnsiColor::BrightYellow.on_default().bold();
/// A note and what it points at.
pub const NOTE: Style = AnsiColor::BrightCyan.on_default().bold();
/// Other places that have to do with it.
pub const RELATED: Style = AnsiColor::Cyan.on_default();
/// A remedy.
pub const REMEDY: Style = AnsiColor::BrightGreen.on_default();
/// The heading of a stage.
pub const HEADING: Style = AnsiColor::BrightMagenta.on_default().bold();
/// A form or a kind of token.
pub const FORM: Style = AnsiColor::BrightBlue.on_default().bold();
/// A value.
pub const VALUE: Style = AnsiColor::Green.on_default();
/// What went well.
pub const GOOD: Style = AnsiColor::BrightGreen.on_default().bold();
/// The main thing on a line.
pub const STRONG: Style = Style::new().bold();

/// A text in a style. Whatever the text is, it brings no style of its own.
pub fn paint(style: Style, text: impl std::fmt::Display) -> String {
    format!("{style}{}{style:#}", plain(&text.to_string()))
}

/// What changes to a style that is used here, or back, at the beginning of a text, if something
/// does: bold, underlined, or one of the sixteen colours.
pub fn own(text: &str) -> Option<&str> {
    let inside = text.strip_prefix("\u{1b}[")?;
    let end = inside.find('m')?;
    let is_own = matches!(inside[..end].parse(), Ok(0 | 1 | 4 | 30..=37 | 90..=97));
    is_own.then(|| &text[..="\u{1b}[".len() + end])
}
