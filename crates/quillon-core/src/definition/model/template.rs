//! The meaning notation as a tree: what a `means` clause says, before it is
//! instantiated for a node of a program.

use serde::{Deserialize, Serialize};

use super::Name;
use super::expectation::Literal;
use super::field_path::{FieldPath, FieldRef};
use super::typed::TypeTerm;
use crate::source::Span;

/// A piece of meaning with its place in the definition.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Template {
    /// What it is.
    pub kind: TemplateKind,
    /// Where it stands.
    pub span: Span,
}

/// The kinds of meaning.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum TemplateKind {
    /// A fixed value.
    Literal(Literal),
    /// A field, a name made by `let` or `each`, or a parameter.
    Name(String),
    /// A field of a child: `entry.key`.
    Member(Name, Name),
    /// `spelling of FIELD`.
    Spelling(Box<Template>),
    /// `given FIELD`.
    Given(FieldPath),
    /// `all FIELD`.
    All(FieldPath),
    /// `each NAME in LIST { … }`.
    Each(Name, Box<Template>, Box<Template>),
    /// `{ …; … }`.
    Block(Vec<Template>),
    /// `let NAME = VALUE`, for the rest of the block.
    Let(Name, Box<Template>),
    /// `NAME := VALUE`.
    Set(FieldPath, Box<Template>),
    /// `with NAME = VALUE { … }`.
    With(Name, Box<Template>, Box<Template>),
    /// `if … { } else { }`.
    If(Box<Template>, Box<Template>, Option<Box<Template>>),
    /// `while … { }`.
    While(Box<Template>, Box<Template>),
    /// `match … { KIND NAME => … else => … }`.
    Match(Box<Template>, Vec<Arm>),
    /// `landing NAME { … }`.
    Landing(Target, Box<Template>),
    /// `jump NAME with VALUE`.
    Jump(Target, Option<Box<Template>>),
    /// `function (PARAMS) { … }`.
    Function(FunctionHead, Box<Template>),
    /// `call F with ARGS`.
    Call(Box<Template>, Vec<Template>),
    /// A helper or an operation: `truthy(test)`, `list.length(xs)`.
    Apply(Name, Vec<Template>),
    /// `VALUE fits TYPE`; with `demand` before it, it must.
    Fits(Box<Template>, Wanted, bool),
    /// `a + b`.
    Binary(BinaryOperator, Box<Template>, Box<Template>),
    /// `- a`.
    Negate(Box<Template>),
    /// `not a`.
    Not(Box<Template>),
    /// `a and b`: the second runs only when the first is true.
    And(Box<Template>, Box<Template>),
    /// `a or b`: the second runs only when the first is false.
    Or(Box<Template>, Box<Template>),
    /// `[a, b]`.
    List(Vec<Template>),
    /// `fault "…" at FIELD`.
    Fault(Box<Template>, Option<FieldPath>),
    /// `raise VALUE`.
    Raise(Box<Template>),
    /// `FIELD taking VALUE`: runs a child on a value.
    Taking(FieldPath, Box<Template>),
    /// `attempt { … } rescue NAME { … }`.
    Attempt(Box<Template>, Name, Box<Template>),
    /// `attempt { … } always { … }`: the second runs whatever comes of the first.
    Always(Box<Template>, Box<Template>),
}

/// What stands before the body of a function.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct FunctionHead {
    /// What the function is called, of parts that are put together; empty when it is called
    /// as what it is bound to.
    pub called: Vec<NamePart>,
    /// Its parameters.
    pub params: Vec<FieldPath>,
}

impl FunctionHead {
    /// The fields that it is called after.
    pub(crate) fn fields_called(&self) -> impl Iterator<Item = &str> {
        self.called.iter().filter_map(|part| match part {
            NamePart::Field(field) => Some(field.text.as_str()),
            NamePart::Text(_) => None,
        })
    }
}

/// A part of what a function is called.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum NamePart {
    /// This text.
    Text(String),
    /// What the program writes in a field.
    Field(Name),
}

/// The type that a value is tested for.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Wanted {
    /// A type, or a field that denotes one.
    Type(TypeTerm),
    /// A field of a child that denotes one: `param.kind`.
    Part(Name, Name),
}

/// One arm of a `match`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Arm {
    /// The kind it takes; anything when missing (`else`).
    pub kind: Option<ValueKind>,
    /// The name for the value.
    pub name: Option<Name>,
    /// What it does.
    pub body: Template,
}

/// The kinds of value.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
#[non_exhaustive]
pub enum ValueKind {
    /// The absence of a value.
    Nothing,
    /// True or false.
    Truth,
    /// A 64-bit integer.
    Integer,
    /// An IEEE double.
    Number,
    /// A Unicode text.
    Text,
    /// A list.
    List,
    /// A map.
    Map,
    /// A function.
    Function,
    /// A function that can be suspended and resumed.
    Coroutine,
}

impl ValueKind {
    /// All of them.
    pub const ALL: [ValueKind; 9] = [
        ValueKind::Nothing,
        ValueKind::Truth,
        ValueKind::Integer,
        ValueKind::Number,
        ValueKind::Text,
        ValueKind::List,
        ValueKind::Map,
        ValueKind::Function,
        ValueKind::Coroutine,
    ];

    /// The word in the notation.
    pub fn word(self) -> &'static str {
        match self {
            ValueKind::Nothing => "nothing",
            ValueKind::Truth => "truth",
            ValueKind::Integer => "integer",
            ValueKind::Number => "number",
            ValueKind::Text => "text",
            ValueKind::List => "list",
            ValueKind::Map => "map",
            ValueKind::Function => "function",
            ValueKind::Coroutine => "coroutine",
        }
    }

    /// As messages have it: `an integer`, `a truth value`.
    pub fn described(self) -> &'static str {
        match self {
            ValueKind::Nothing => "nothing",
            ValueKind::Truth => "a truth value",
            ValueKind::Integer => "an integer",
            ValueKind::Number => "a number",
            ValueKind::Text => "a text",
            ValueKind::List => "a list",
            ValueKind::Map => "a map",
            ValueKind::Function => "a function",
            ValueKind::Coroutine => "a coroutine",
        }
    }
}

/// The operators with two operands that always run both.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub enum BinaryOperator {
    /// `+`
    Add,
    /// `-`
    Subtract,
    /// `*`
    Multiply,
    /// `/`
    Divide,
    /// `&`: two texts or two lists, one after the other.
    Join,
    /// `=`
    Equal,
    /// `/=`: not equal.
    Unequal,
    /// `<`
    Less,
    /// `<=`
    LessOrEqual,
    /// `>`
    Greater,
    /// `>=`
    GreaterOrEqual,
}

impl BinaryOperator {
    /// The sign in the notation.
    pub fn sign(self) -> &'static str {
        match self {
            BinaryOperator::Add => "+",
            BinaryOperator::Subtract => "-",
            BinaryOperator::Multiply => "*",
            BinaryOperator::Divide => "/",
            BinaryOperator::Join => "&",
            BinaryOperator::Equal => "=",
            BinaryOperator::Unequal => "/=",
            BinaryOperator::Less => "<",
            BinaryOperator::LessOrEqual => "<=",
            BinaryOperator::Greater => ">",
            BinaryOperator::GreaterOrEqual => ">=",
        }
    }
}

/// What a jump ends: a landing, by its name, and where it is `called` something by what the
/// program calls it.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct Target {
    /// The landing's name.
    pub name: Name,
    /// The field with the name that the program gives it.
    pub label: Option<Name>,
}

impl Template {
    /// The field that it names, or the field of a child: `lines`, `line.items`.
    pub(crate) fn field_path(&self) -> Option<FieldRef<'_>> {
        match &self.kind {
            TemplateKind::Name(field) => Some(FieldRef::from(field.as_str())),
            TemplateKind::Member(owner, part) => Some(FieldRef {
                field: &owner.text,
                part: Some(&part.text),
            }),
            _ => None,
        }
    }

    /// Calls `visit` on each direct part.
    pub(crate) fn each_part<'a>(&'a self, visit: &mut dyn FnMut(&'a Template)) {
        use TemplateKind as T;
        match &self.kind {
            T::Literal(_)
            | T::Name(_)
            | T::Member(..)
            | T::Given(_)
            | T::All(_)
            | T::Jump(_, None) => {}
            T::Spelling(a)
            | T::Let(_, a)
            | T::Set(_, a)
            | T::Landing(_, a)
            | T::Jump(_, Some(a))
            | T::Function(_, a)
            | T::Negate(a)
            | T::Not(a)
            | T::Fault(a, _)
            | T::Raise(a)
            | T::Fits(a, ..)
            | T::Taking(_, a) => visit(a),
            T::Each(_, a, b)
            | T::With(_, a, b)
            | T::While(a, b)
            | T::Binary(_, a, b)
            | T::And(a, b)
            | T::Or(a, b)
            | T::Attempt(a, _, b)
            | T::Always(a, b) => {
                visit(a);
                visit(b);
            }
            T::If(a, b, c) => {
                visit(a);
                visit(b);
                if let Some(c) = c {
                    visit(c);
                }
            }
            T::Block(parts) | T::Apply(_, parts) | T::List(parts) => {
                parts.iter().for_each(visit);
            }
            T::Call(callee, args) => {
                visit(callee);
                args.iter().for_each(visit);
            }
            T::Match(subject, arms) => {
                visit(subject);
                arms.iter().for_each(|arm| visit(&arm.body));
            }
        }
    }
}
