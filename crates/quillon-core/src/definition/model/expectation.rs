//! What an example or a case says a program must do.

use super::Name;
use super::typed::TypeTerm;
use crate::source::{Position, Span};

/// A value as the notation writes it.
#[derive(Clone, PartialEq, Debug)]
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
#[derive(Clone, PartialEq, Debug)]
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
#[derive(Clone, Debug)]
pub struct Example {
    /// What the case is called; examples of a form have the form's name.
    pub title: String,
    /// Entries that are made before the program, in the same session.
    pub after: Vec<String>,
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

/// Something that a program finds, with its place.
#[derive(Clone, Debug)]
pub enum Given {
    /// A cell of the state that holds something.
    State(Name, Literal),
    /// Lines to be read.
    Input(String),
    /// Where chance starts from.
    Seed(u64),
}

/// One thing that must hold, with its place.
#[derive(Clone, Debug)]
pub struct Expectation {
    /// What.
    pub expected: Expected,
    /// Where it is said.
    pub span: Span,
}

/// The error that a program is to end with.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Failing {
    /// One with this in its message.
    Message(String),
    /// One of this code.
    Code(String),
}

/// What must hold.
#[derive(Clone, Debug)]
pub enum Expected {
    /// The value of the program.
    Gives(Literal),
    /// Everything it prints.
    Prints(String),
    /// An error, at this place if one is given.
    Fails(Failing, Option<Position>),
    /// What a cell of the state holds at the end.
    Leaves(Name, Literal),
    /// Its tree.
    Tree(TreeTerm),
    /// Its tokens, without those that are ignored.
    Tokens(Vec<TreeTerm>),
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
            Expected::Prints(_) => "prints",
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
