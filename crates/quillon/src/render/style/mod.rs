//! The colours, in one place. They are taken out again where there is no terminal. Each of the sixteen stands for a role
//! here; what it looks like where there are more is said by [`palette`].

use anstyle::{AnsiColor, Color, Style};

use quillon_render::plain::plain;

mod palette;

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

/// A style as it looks on this terminal.
pub fn seen(style: Style) -> Style {
    match style.get_fg_color() {
        Some(Color::Ansi(role)) => match palette::colour(role) {
            Some(colour) => style.fg_color(Some(colour.into())),
            None => style,
        },
        Some(Color::Ansi256(_) | Color::Rgb(_)) | None => style,
    }
}

/// A text in a style. Whatever the text is, it brings no style of its own.
pub fn paint(style: Style, text: impl std::fmt::Display) -> String {
    let style = seen(style);
    format!("{style}{}{style:#}", plain(&text.to_string()))
}

/// What changes to a style that is used here, or back, at the beginning of a text, if something
/// does: bold, underlined, or a colour.
pub fn own(text: &str) -> Option<&str> {
    let inside = text.strip_prefix("\u{1b}[")?;
    let end = inside.find('m')?;
    let numbers: &str = &inside[..end];
    let is_own = match numbers.strip_prefix("38;5;") {
        Some(colour) => colour.parse::<u8>().is_ok(),
        None => matches!(numbers.parse(), Ok(0 | 1 | 4 | 30..=37 | 90..=97)),
    };
    is_own.then(|| &text[..="\u{1b}[".len() + end])
}
