//! The operations that a meaning can use, as a table: what each takes, gives, and can end in. What
//! carries them out is in `runtime::natives`, where the table leads to it.

mod synonyms;
mod table;

use crate::definition::template::ValueKind;
use crate::diagnostic::{Code, codes};

pub(crate) use synonyms::meant;
pub(crate) use table::with_operations;

/// How many operands an operation takes.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Arity {
    /// At least so many.
    pub least: usize,
    /// At most so many; any number when missing.
    pub most: Option<usize>,
}

impl Arity {
    /// Whether a count of operands fits.
    pub fn fits(self, count: usize) -> bool {
        count >= self.least && self.most.is_none_or(|most| count <= most)
    }

    /// In words: `2 operands`, `1 operand or more`.
    pub fn described(self, word: &str) -> String {
        use crate::diagnostic::plural;
        match self.most {
            Some(most) if most == self.least => plural(most, word),
            Some(most) => format!("{} to {}", self.least, plural(most, word)),
            None => format!("{} or more", plural(self.least, word)),
        }
    }
}

/// An operand of an operation.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Operand {
    /// Its name in the table.
    pub name: &'static str,
    /// What it must be.
    pub wanted: Wanted,
}

/// What an operand must be.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Wanted {
    /// Any value; what the operation cannot use of them is an error of the run.
    Any,
    /// An integer.
    Integer,
    /// An integer or a number.
    Number,
    /// A text.
    Text,
    /// A list.
    List,
    /// A map.
    Map,
    /// What can be the key of a map.
    Key,
    /// A function.
    Function,
    /// A coroutine.
    Coroutine,
}

impl Wanted {
    /// The kinds that do; none are all of them.
    pub fn kinds(self) -> &'static [ValueKind] {
        use ValueKind as V;
        match self {
            Wanted::Any => &[],
            Wanted::Integer => &[V::Integer],
            Wanted::Number => &[V::Integer, V::Number],
            Wanted::Text => &[V::Text],
            Wanted::List => &[V::List],
            Wanted::Map => &[V::Map],
            Wanted::Key => &[V::Text, V::Integer, V::Number, V::Truth, V::Nothing],
            Wanted::Function => &[V::Function],
            Wanted::Coroutine => &[V::Coroutine],
        }
    }
}

/// What an operation gives.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Gives {
    /// Any value.
    Any,
    /// No value.
    Nothing,
    /// A truth value.
    Truth,
    /// An integer.
    Integer,
    /// An integer, or nothing where there is none.
    IntegerOrNothing,
    /// A number.
    Number,
    /// A number, or nothing where there is none.
    NumberOrNothing,
    /// A number, or an integer where the operands are integers.
    IntegerOrNumber,
    /// A text.
    Text,
    /// A text, or nothing where there is none.
    TextOrNothing,
    /// A list.
    List,
    /// A map.
    Map,
    /// A coroutine.
    Coroutine,
    /// A value of the kind of the first operand.
    LikeFirst,
    /// One of the operands.
    LikeOperands,
    /// It always ends in an error.
    Never,
}

impl Gives {
    /// The kind that it always gives, where there is one.
    pub fn kind(self) -> Option<ValueKind> {
        match self {
            Gives::Nothing => Some(ValueKind::Nothing),
            Gives::Truth => Some(ValueKind::Truth),
            Gives::Integer => Some(ValueKind::Integer),
            Gives::Number => Some(ValueKind::Number),
            Gives::Text => Some(ValueKind::Text),
            Gives::List => Some(ValueKind::List),
            Gives::Map => Some(ValueKind::Map),
            Gives::Coroutine => Some(ValueKind::Coroutine),
            Gives::Any
            | Gives::IntegerOrNothing
            | Gives::NumberOrNothing
            | Gives::IntegerOrNumber
            | Gives::TextOrNothing
            | Gives::LikeFirst
            | Gives::LikeOperands
            | Gives::Never => None,
        }
    }
}

/// What only an engine can carry out: it calls functions, or goes on elsewhere.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum EngineOperation {
    ListMap,
    ListFilter,
    ListFold,
    ListSortBy,
    ListCall,
    CoroutineResume,
    CoroutineSuspend,
    ModuleLoad,
}

macro_rules! describe {
    ($($variant:ident $name:literal ($($operand:ident: $wanted:ident),*) $($least:literal to $most:tt)?
        gives $gives:ident, errors [$($error:ident),*], by $by:ident $way:path, $what:literal;)*) => {
        /// An operation.
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
        #[repr(u8)]
        pub enum Operation {
            $(#[doc = $what] $variant),*
        }

        impl Operation {
            /// All of them, in the order of their numbers.
            pub const ALL: &'static [Operation] = &[$(Operation::$variant),*];

            /// Its name in the meaning notation.
            pub fn name(self) -> &'static str {
                match self { $(Operation::$variant => $name),* }
            }

            /// Its operands.
            pub fn operands(self) -> &'static [Operand] {
                match self {
                    $(Operation::$variant => &[
                        $(Operand { name: stringify!($operand), wanted: Wanted::$wanted }),*
                    ]),*
                }
            }

            /// How many operands it takes.
            pub fn arity(self) -> Arity {
                let bounds: [Option<Arity>; Operation::ALL.len()] =
                    [$(describe!(@arity $($least to $most)?)),*];
                let count = self.operands().len();
                bounds[self as usize].unwrap_or(Arity { least: count, most: Some(count) })
            }

            /// What it gives.
            pub fn gives(self) -> Gives {
                match self { $(Operation::$variant => Gives::$gives),* }
            }

            /// The errors it can end in, beside `run.kind` for an operand of a kind that it
            /// does not take, and the limits of a run.
            pub fn errors(self) -> &'static [Code] {
                match self { $(Operation::$variant => &[$(codes::$error),*]),* }
            }

            /// What it does, in one line.
            pub fn what(self) -> &'static str {
                match self { $(Operation::$variant => $what),* }
            }
        }
    };
    (@arity) => { None };
    (@arity $least:literal to any) => { Some(Arity { least: $least, most: None }) };
    (@arity $least:literal to $most:literal) => { Some(Arity { least: $least, most: Some($most) }) };
}

with_operations!(describe);

impl Operation {
    /// The operation of a name.
    pub fn named(name: &str) -> Option<Operation> {
        Operation::ALL.iter().copied().find(|o| o.name() == name)
    }

    /// The operation of a number; see [`Operation::number`].
    pub(crate) fn numbered(number: u8) -> Option<Operation> {
        Operation::ALL.get(usize::from(number)).copied()
    }

    /// Its number in an instruction: its place in the table.
    pub(crate) fn number(self) -> u8 {
        self as u8
    }

    /// What it gives, in words; the kind of an operand is told by its name.
    pub fn gives_described(self) -> String {
        let first = || self.operands().first().map_or("", |operand| operand.name);
        match self.gives() {
            Gives::Any => "any".to_owned(),
            Gives::IntegerOrNothing => "integer or nothing".to_owned(),
            Gives::NumberOrNothing => "number or nothing".to_owned(),
            Gives::IntegerOrNumber => "integer or number".to_owned(),
            Gives::TextOrNothing => "text or nothing".to_owned(),
            Gives::LikeFirst => format!("like {}", first()),
            Gives::LikeOperands => "like its operands".to_owned(),
            Gives::Never => "no value".to_owned(),
            Gives::Nothing => "nothing".to_owned(),
            Gives::Truth => "truth".to_owned(),
            Gives::Integer => "integer".to_owned(),
            Gives::Number => "number".to_owned(),
            Gives::Text => "text".to_owned(),
            Gives::List => "list".to_owned(),
            Gives::Map => "map".to_owned(),
            Gives::Coroutine => "coroutine".to_owned(),
        }
    }
}
