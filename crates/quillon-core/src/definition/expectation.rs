//! What an example or a case says a program must do.

use super::Name;
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
    Form(String, Vec<(Option<String>, TreeTerm)>),
    /// A repeated field.
    List(Vec<TreeTerm>),
    /// A token, by the value it holds.
    Value(Literal),
    /// A word: a form without children, or a token by its text.
    Word(String),
}

/// A program and what it must do.
#[derive(Clone, Debug)]
pub struct Example {
    /// What the case is called; examples of a form have the form's name.
    pub title: String,
    /// The program.
    pub program: String,
    /// Where the example stands.
    pub span: Span,
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
}

/// One thing that must hold, with its place.
#[derive(Clone, Debug)]
pub struct Expectation {
    /// What.
    pub expected: Expected,
    /// Where it is said.
    pub span: Span,
}

/// What must hold.
#[derive(Clone, Debug)]
pub enum Expected {
    /// The value of the program.
    Gives(Literal),
    /// Everything it prints.
    Prints(String),
    /// An error whose message has this in it, at this place if one is given.
    Fails(String, Option<Position>),
    /// What a cell of the state holds at the end.
    Leaves(Name, Literal),
    /// Its tree.
    Tree(TreeTerm),
}

/// A named example's title.
pub(super) fn title_of(form: &Name, number: usize) -> String {
    if number == 0 {
        form.text.clone()
    } else {
        format!("{} ({})", form.text, number + 1)
    }
}
