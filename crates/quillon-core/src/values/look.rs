//! How values look in the notation of a language.

use std::rc::Rc;

use crate::definition::{EntriesShown, FunctionPart, Shown, ValueLine};

/// How values look.
#[derive(Clone, Debug)]
pub(crate) struct Look {
    pub nothing: String,
    /// What is true, and what is false.
    pub truths: [String; 2],
    /// Whether a number without a fraction looks like an integer.
    pub is_one_number: bool,
    /// What stands around a text inside of something else.
    pub quotes: [String; 2],
    /// What stands before, between and behind the items of a list.
    pub items: [String; 3],
    pub entries: EntriesShown,
    /// How a function looks, unless it is as usual.
    pub function: Option<Vec<FunctionPart>>,
    /// How a coroutine looks, unless it is as usual.
    pub coroutine: Option<String>,
}

impl Default for Look {
    /// That of the notation of definitions.
    fn default() -> Look {
        Look {
            nothing: "nothing".to_owned(),
            truths: ["true".to_owned(), "false".to_owned()],
            is_one_number: false,
            quotes: ["\"".to_owned(), "\"".to_owned()],
            items: ["[".to_owned(), ", ".to_owned(), "]".to_owned()],
            entries: EntriesShown {
                open: "{".to_owned(),
                is_plain: false,
                to: ": ".to_owned(),
                between: ", ".to_owned(),
                close: "}".to_owned(),
            },
            function: None,
            coroutine: None,
        }
    }
}

thread_local! {
    /// The one that most heaps share.
    static USUAL: Rc<Look> = Rc::default();
}

impl Look {
    /// That of the notation of definitions.
    pub fn usual() -> Rc<Look> {
        USUAL.with(Rc::clone)
    }

    /// The look that a definition's `values` give.
    pub fn of(lines: &[ValueLine]) -> Rc<Look> {
        if lines.is_empty() {
            return Look::usual();
        }
        let mut look = Look::default();
        for shown in lines.iter().filter_map(|line| line.shown.clone()) {
            match shown {
                Shown::Nothing(text) => look.nothing = text,
                Shown::Coroutine(text) => look.coroutine = Some(text),
                Shown::Truths(truths) => look.truths = truths,
                Shown::AsInteger => look.is_one_number = true,
                Shown::Between(quotes) => look.quotes = quotes,
                Shown::Items(items) => look.items = items,
                Shown::Entries(entries) => look.entries = entries,
                Shown::Function(parts) => look.function = Some(parts),
            }
        }
        Rc::new(look)
    }
}
