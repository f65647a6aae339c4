//! What an example or a case says a program must do.

use serde::{Deserialize, Serialize};

use super::Name;
use super::typed::TypeTerm;
use crate::source::{Position, Span};

/// A value as the notation writes it.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub enum Literal {
    /// `nothing`
    Nothing,
    /// `true` or `false`
    Truth(bool),
    /// `3`
    Integer(i64),
    /// `3.5`
    Number(f64),
    /// `"three"`
    Text(String),
    /// `[1, 2]`
    List(Vec<Literal>),
    /// `{"a": 1}`
    Map(Vec<(Literal, Literal)>),
}

/// A tree as the notation writes it: `Add(Number(1), right: Number(2))`.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub enum TreeTerm {
    /// A form with its children, by position or by field name.
    Form(Name, Vec<(Option<Name>, TreeTerm)>),
    /// A repeated field, with the place where it ends.
    List(Vec<TreeTerm>, Span),
    /// A token, by the value it holds.
    Value(Literal, Span),
    /// A word: a form without children, or a token by its text.
    Word(Name),
}

/// A program and what it must do.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Example {
    /// What the case is called; examples of a form have the form's name.
    pub title: String,
    /// Entries that are made before the program, in the same session.
    pub after: Vec<Earlier>,
    /// The sort that the program is read as, if it is not the first entry that fits.
    pub reading: Option<Name>,
    /// The surface that the program is written in, if it is not the first.
    pub surface: Option<Name>,
    /// The program; where it is given as a tree, what is written of that.
    pub program: String,
    /// The tree to start from, if no text is to be read.
    pub start: Option<TreeTerm>,
    /// Where the example stands.
    pub span: Span,
    /// All of it.
    pub whole: Span,
    /// What it finds.
    pub given: Vec<Given>,
    /// What must hold.
    pub expectations: Vec<Expectation>,
}

/// An entry that is made before a program.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Earlier {
    /// Its text.
    pub text: String,
    /// The error that it ends in, if it is to end in one.
    pub failing: Option<Failing>,
}

impl Earlier {
    /// One that ends without an error.
    pub fn new(text: impl Into<String>) -> Earlier {
        Earlier {
            text: text.into(),
            failing: None,
        }
    }
}

/// Something that a program finds, with its place.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Given {
    /// A cell of the state that holds something.
    State(Name, Literal),
    /// Lines to be read.
    Input(String),
    /// Where chance starts from.
    Seed(u64),
}

/// One thing that must hold, with its place.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Expectation {
    /// What.
    pub expected: Expected,
    /// Where it is said.
    pub span: Span,
}

/// The error that a program is to end with.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Failing {
    /// One with this in its message.
    Message(String),
    /// One of this code.
    Code(String),
}

/// A cell of the state, or something in what it holds: `log`, `log[0]`, `card["toll"]`.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct CellPath {
    /// The cell.
    pub cell: Name,
    /// The item of a list, counted from 0, or the key of a map, from the outermost in.
    pub at: Vec<Literal>,
}

impl CellPath {
    /// A whole cell.
    pub(crate) fn whole(cell: Name) -> CellPath {
        CellPath {
            cell,
            at: Vec::new(),
        }
    }
}

/// What must hold.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Expected {
    /// The value of the program.
    Gives(Literal),
    /// The value of the program, as the language shows it.
    Shows(String),
    /// Everything it prints.
    Prints(String),
    /// An error, at this place if one is given.
    Fails(Failing, Option<Position>),
    /// What a cell of the state, or something in it, holds at the end.
    Leaves(CellPath, Literal),
    /// Its tree.
    Tree(TreeTerm),
    /// Its tokens, without those that are ignored.
    Tokens(Vec<TreeTerm>),
    /// All of its tokens.
    AllTokens(Vec<TreeTerm>),
    /// Its source, written from its tree.
    PrintsBack(String),
    /// The same with all brackets that there can be.
    Brackets(String),
    /// Where the first entry of the text ends.
    Ends(Position),
    /// The instructions of its bytecode.
    Code(Vec<Name>),
    /// Its type, or that of a name it binds.
    Types(Option<Name>, TypeTerm),
    /// The finished program that it is rewritten to.
    Reduces(String),
    /// The part of what it is rewritten to on which no rule can be used.
    Stuck(String),
}

impl Expected {
    /// The word that it is written with.
    pub fn word(&self) -> &'static str {
        match self {
            Expected::Gives(_) => "gives",
            Expected::Shows(_) => "shows",
            Expected::Prints(_) => "prints",
            Expected::AllTokens(_) => "all tokens",
            Expected::PrintsBack(_) => "prints back",
            Expected::Brackets(_) => "brackets",
            Expected::Ends(_) => "first ends at",
            Expected::Code(_) => "code",
            Expected::Fails(..) => "fails",
            Expected::Leaves(..) => "leaves",
            Expected::Tree(_) => "tree",
            Expected::Tokens(_) => "tokens",
            Expected::Types(..) => "types",
            Expected::Reduces(_) => "reduces to",
            Expected::Stuck(_) => "stuck at",
        }
    }
}

/// A named example's title.
pub(in crate::definition) fn title_of(form: &Name, number: usize) -> String {
    if number == 0 {
        form.text.clone()
    } else {
        format!("{} ({})", form.text, number + 1)
    }
}
