//! What each key is for.

use quillon_core::debugging::{Order, Pace};
use ratatui::crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::shown::Pane;

/// What is asked for at the bottom of the screen.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Asked {
    /// A text to work out.
    Value,
    /// A text to work out wherever the run stands.
    Watch,
    /// Where to stop.
    Stop,
    /// The form at whose rules to stop.
    Form,
    /// A name, and what it is to hold.
    Set,
    /// A text to carry out in the run.
    Do,
    /// The name of what has come from somewhere.
    Origin,
    /// What the program reads.
    Input,
}

impl Asked {
    /// What stands before what is typed.
    pub fn label(self) -> &'static str {
        match self {
            Asked::Value => "value of",
            Asked::Watch => "watch",
            Asked::Stop => "stop at",
            Asked::Form => "stop at rules of form",
            Asked::Set => "set",
            Asked::Do => "do",
            Asked::Origin => "back to where this got its value:",
            Asked::Input => "the program reads",
        }
    }

    /// What can be typed.
    pub fn help(self) -> &'static str {
        match self {
            Asked::Value => "an expression; it changes nothing",
            Asked::Watch => "an expression, worked out at each stop",
            Asked::Stop => {
                "12 · form NAME · call NAME · change NAME · meaning 12 · fault; ` if TEST` behind"
            }
            Asked::Form => "the name of a form",
            Asked::Set => "NAME = VALUE",
            Asked::Do => "what the language can say; what it does belongs to the run",
            Asked::Origin => "a name, or a cell of the state",
            Asked::Input => "a line; Esc ends the input",
        }
    }
}

/// What a key asks for.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Wish {
    /// To go on.
    Go(Order),
    /// Something that has to be typed.
    Type(Asked),
    /// A stop at the chosen line, or none any more.
    ToggleStop,
    /// To go on at the chosen line instead.
    GoOnHere,
    /// Another pane.
    NextPane(bool),
    /// To go up or down in a pane by so many lines.
    Move(i32),
    /// To see the parts of a value, or no longer.
    Unfold,
    /// To lose what is watched and chosen.
    Forget,
    /// To see what the form under way means, or no longer.
    ShowMeaning,
    /// All keys.
    Help,
    /// To see no more.
    Leave,
}

/// A key, what it does in a word, and in full.
pub type Key = (&'static str, &'static str, &'static str);

/// The keys, by what they are for: those that are said first are always in sight.
pub const KEYS: [Key; 22] = [
    ("l", "line", "a line on, over calls; L a line back"),
    ("i", "into calls", "a line on, into calls; I a line back"),
    ("f", "form", "a form on, over calls; F a form back"),
    ("g", "to a stop", "on to a stop; G back to one"),
    ("o", "out", "out of the call; O back to where it was made"),
    (
        "s",
        "stop here",
        "a stop at the chosen line, or none any more",
    ),
    ("v", "value", "what an expression comes to here"),
    ("?", "keys", "all keys"),
    ("q", "leave", "leave"),
    ("e", "", "a form on, into calls; E a form back"),
    (
        "m",
        "",
        "show what the form under way means in the definition, or no longer",
    ),
    (
        "p",
        "",
        "a part of the meaning on, into calls; P a part back",
    ),
    ("x", "", "an instruction on; X an instruction back"),
    ("b", "", "to the beginning of the run"),
    ("c", "", "back to where a name got the value that it has"),
    (
        "n",
        "",
        "a stop at a line, a form, a call, a change, a fault, or none any more",
    ),
    (
        "a",
        "",
        "go on at the chosen line, leaving out or repeating what lies between",
    ),
    ("=", "", "give a variable or a cell another value"),
    (
        "r",
        "",
        "carry out a text in the run: a call, a change, whatever can be said",
    ),
    ("w", "", "watch an expression; d drops the last one"),
    (
        "Tab",
        "",
        "the next pane; ↑ ↓ choose in it, also a line, a call, a value",
    ),
    ("Enter", "", "show the parts of the chosen value"),
];

/// How many of them are always in sight.
pub const IN_SIGHT: usize = 9;

/// What a key asks for; nothing if nothing.
pub fn wish(key: KeyEvent, pane: Pane) -> Option<Wish> {
    if key.modifiers.contains(KeyModifiers::CONTROL) {
        return matches!(key.code, KeyCode::Char('c' | 'd')).then_some(Wish::Leave);
    }
    Some(match key.code {
        KeyCode::Char(letter) => return of_letter(letter),
        KeyCode::Down => Wish::Move(1),
        KeyCode::Up => Wish::Move(-1),
        KeyCode::PageDown => Wish::Move(10),
        KeyCode::PageUp => Wish::Move(-10),
        KeyCode::Right => Wish::Go(Order::Forwards(Pace::Line)),
        KeyCode::Left => Wish::Go(Order::Backwards(Pace::Line)),
        KeyCode::Tab => Wish::NextPane(true),
        KeyCode::BackTab => Wish::NextPane(false),
        KeyCode::Enter if pane == Pane::Names => Wish::Unfold,
        KeyCode::Home => Wish::Go(Order::ToBeginning),
        _ => return None,
    })
}

fn of_letter(letter: char) -> Option<Wish> {
    let pace = match letter.to_ascii_lowercase() {
        'l' => Some(Pace::Line),
        'i' => Some(Pace::IntoLine),
        'f' => Some(Pace::Form),
        'e' => Some(Pace::IntoForm),
        'g' => Some(Pace::Stop),
        'o' => Some(Pace::Out),
        'p' => Some(Pace::IntoPart),
        'x' => Some(Pace::Instruction),
        _ => None,
    };
    if let Some(pace) = pace {
        let order = if letter.is_ascii_uppercase() {
            Order::Backwards(pace)
        } else {
            Order::Forwards(pace)
        };
        return Some(Wish::Go(order));
    }
    Some(match letter {
        'b' => Wish::Go(Order::ToBeginning),
        'c' => Wish::Type(Asked::Origin),
        'n' => Wish::Type(Asked::Stop),
        'v' => Wish::Type(Asked::Value),
        'w' => Wish::Type(Asked::Watch),
        '=' => Wish::Type(Asked::Set),
        'r' => Wish::Type(Asked::Do),
        'm' => Wish::ShowMeaning,
        's' => Wish::ToggleStop,
        'a' => Wish::GoOnHere,
        'd' => Wish::Forget,
        '?' => Wish::Help,
        'q' => Wish::Leave,
        _ => return None,
    })
}

/// Whether a key ends what is typed: well, or giving it up.
pub fn ends_typing(key: KeyEvent) -> Option<bool> {
    let is_control = key.modifiers.contains(KeyModifiers::CONTROL);
    match key.code {
        KeyCode::Enter => Some(true),
        KeyCode::Esc => Some(false),
        KeyCode::Char('c' | 'd') if is_control => Some(false),
        _ => None,
    }
}
