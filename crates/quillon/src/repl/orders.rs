//! What the REPL itself can be told.

use quillon_core::diagnostic::{nearest, quote};

use super::views::View;

/// An order.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Order {
    /// Show something of an entry, of the last one if there is no text.
    See(View, String),
    /// Show views after every entry from now on: those that are not shown, and no more those
    /// that are. Without any, say which are.
    Also(Vec<View>),
    Names,
    Ready(String),
    Load(String),
    Reload,
    Language(String),
    Surface(String),
    Save(String),
    Keep(String),
    /// Walk through an entry, the last one if there is no text.
    Debug(String),
    Undo,
    Help,
    Leave,
}

/// How orders that are no views are written, and what they do.
pub const OTHERS: [(&str, &str); 14] = [
    (
        "/also VIEW…",
        "show these after every entry from now on, or no more",
    ),
    ("/names", "list the names kept so far, with their values"),
    ("/ready [NAME]", "list what is built in, or say more of one"),
    ("/load FILE", "make a program an entry"),
    (
        "/reload",
        "go on with the definition as its file has it now",
    ),
    (
        "/language FILE",
        "switch to another language, or back to an earlier one",
    ),
    (
        "/surface NAME",
        "go on in another surface of the language; the entries so far are written in it",
    ),
    ("/save FILE", "write all entries so far as a program"),
    (
        "/keep [TITLE]",
        "keep the last entry as a case of the language",
    ),
    (
        "/debug [ENTRY]",
        "walk through an entry, or the last one; nothing of the conversation changes",
    ),
    ("/undo", "take the last entry back"),
    ("/help", "show this list"),
    ("/leave", "leave; so does Ctrl-D"),
    (
        " ENTRY",
        "a line that begins with a blank is an entry, whatever it begins with",
    ),
];

/// The words that orders begin with, without the stroke.
pub fn words() -> impl Iterator<Item = &'static str> {
    let views = View::ALL.into_iter().map(View::name);
    let others = OTHERS
        .iter()
        .filter_map(|(order, _)| order.strip_prefix('/')?.split(' ').next());
    views.chain(others)
}

/// The order that a line is; nothing if it is none, and the inner error if it is a wrong
/// one.
pub fn read(line: &str) -> Option<Result<Order, String>> {
    let order = line.trim_end().strip_prefix('/')?;
    if !order.starts_with(|c: char| c.is_ascii_lowercase()) {
        return None;
    }
    let (word, rest) = order.split_once(char::is_whitespace).unwrap_or((order, ""));
    let rest = rest.trim();
    if let Some(view) = View::named(word) {
        return Some(Ok(Order::See(view, rest.to_owned())));
    }
    let file = |make: fn(String) -> Order| match rest {
        "" => Err(format!("{} needs a file", quote(&format!("/{word}")))),
        rest => Ok(make(rest.to_owned())),
    };
    Some(match word {
        "also" => views(rest).map(Order::Also),
        "names" => Ok(Order::Names),
        "ready" => Ok(Order::Ready(rest.to_owned())),
        "load" => file(Order::Load),
        "reload" => Ok(Order::Reload),
        "language" => file(Order::Language),
        "surface" if rest.is_empty() => Err("`/surface` needs a name".to_owned()),
        "surface" => Ok(Order::Surface(rest.to_owned())),
        "save" => file(Order::Save),
        "keep" => Ok(Order::Keep(rest.to_owned())),
        "debug" => Ok(Order::Debug(rest.to_owned())),
        "undo" => Ok(Order::Undo),
        "help" => Ok(Order::Help),
        "leave" => Ok(Order::Leave),
        _ => Err(unknown(word)),
    })
}

/// The order that a word stands for in many other places, were it no entry.
pub fn meant_by(entry: &str) -> Option<&'static str> {
    match entry
        .trim()
        .trim_start_matches([':', '.'])
        .trim_end_matches("()")
    {
        "quit" | "exit" | "bye" | "q" => Some("/leave"),
        "help" | "?" | "h" => Some("/help"),
        "undo" => Some("/undo"),
        _ => None,
    }
}

fn views(rest: &str) -> Result<Vec<View>, String> {
    let one = |word: &str| {
        View::named(word.trim_start_matches('/')).ok_or_else(|| {
            let names: Vec<&str> = View::ALL.into_iter().map(View::name).collect();
            let near = nearest(word, names.iter().copied());
            let hint = near.map_or_else(
                || format!("there are {}", names.join(", ")),
                |near| format!("did you mean `{near}`?"),
            );
            format!("there is no view {}; {hint}", quote(word))
        })
    };
    rest.split_whitespace().map(one).collect()
}

fn unknown(word: &str) -> String {
    let hint = nearest(word, words()).map_or_else(
        || {
            "`/help` lists what there is; an entry that begins with `/` needs a blank before it"
                .to_owned()
        },
        |near| format!("did you mean `/{near}`?"),
    );
    format!("there is no {}; {hint}", quote(&format!("/{word}")))
}
