//! What `typed` and `denotes` clauses say, as data: types with fields and capitals in them.

use serde::{Deserialize, Serialize};

use super::Name;
use super::template::ValueKind;
use crate::source::Span;

/// A type as the notation writes it, with its place in the definition.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct TypeTerm {
    /// What it is.
    pub kind: TypeTermKind,
    /// Where it stands.
    pub span: Span,
}

/// The ways to write a type.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub enum TypeTermKind {
    /// `integer`, `number`, `text`, `truth`, `nothing`.
    Simple(ValueKind),
    /// `any`: whatever it is, nothing is said against it.
    Any,
    /// `list of T`.
    List(Box<TypeTerm>),
    /// `map of T`.
    Map(Box<TypeTerm>),
    /// `function (A, B) to R`.
    Function(Vec<TypeTerm>, Box<TypeTerm>),
    /// A capital: whatever fits, the same wherever it stands in a clause.
    Capital(String),
    /// `type of FIELD`: that of what is in a field.
    TypeOf(Name),
    /// A type of the language's own, or a field that denotes one.
    Named(Name, Vec<TypeTerm>),
}

/// What a judgment is about.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub enum Subject {
    /// A field, or a capital.
    Name(Name),
    /// A field of a field's forms: `params.name`.
    Part(Name, Name),
}

impl Subject {
    /// The field or capital.
    pub fn name(&self) -> &Name {
        match self {
            Subject::Name(name) | Subject::Part(name, _) => name,
        }
    }
}

/// `left, right : number`
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct Judgment {
    /// What it is about.
    pub subjects: Vec<Subject>,
    /// The type they must have.
    pub wanted: TypeTerm,
}

/// One `typed` clause.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub struct Typed {
    /// Optional fields that must be there, or not, for the clause to count.
    pub given: Vec<(Name, bool)>,
    /// What must hold.
    pub judgments: Vec<Judgment>,
    /// The type of the form.
    pub gives: Option<TypeTerm>,
    /// Where the clause stands.
    pub span: Span,
}

/// A type of the language's own: a line of `types`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct OwnType {
    /// Its name.
    pub name: Name,
    /// The capitals that it is made of: how many types it has inside.
    pub params: Vec<Name>,
}

/// Whether a name stands for whatever type fits: one capital, perhaps with a digit.
pub fn is_capital(name: &str) -> bool {
    let mut chars = name.chars();
    chars.next().is_some_and(|c| c.is_ascii_uppercase()) && chars.all(|c| c.is_ascii_digit())
}

impl TypeTerm {
    /// Calls `visit` on each direct part.
    pub(crate) fn each_part<'a>(&'a self, visit: &mut dyn FnMut(&'a TypeTerm)) {
        match &self.kind {
            TypeTermKind::List(inner) | TypeTermKind::Map(inner) => visit(inner),
            TypeTermKind::Function(params, result) => {
                params.iter().for_each(&mut *visit);
                visit(result);
            }
            TypeTermKind::Named(_, parts) => parts.iter().for_each(visit),
            TypeTermKind::Simple(_)
            | TypeTermKind::Any
            | TypeTermKind::Capital(_)
            | TypeTermKind::TypeOf(_) => {}
        }
    }

    /// Whether a capital stands directly between the brackets of a `function (…)` in it.
    pub(crate) fn has_in_brackets(&self, capital: &str) -> bool {
        let mut found = false;
        if let TypeTermKind::Function(params, _) = &self.kind {
            found = params
                .iter()
                .any(|param| matches!(&param.kind, TypeTermKind::Capital(c) if c == capital));
        }
        self.each_part(&mut |part| found |= part.has_in_brackets(capital));
        found
    }
}

impl Typed {
    /// Every type in the clause.
    pub(crate) fn terms(&self) -> impl Iterator<Item = &TypeTerm> {
        let wanted = self.judgments.iter().map(|judgment| &judgment.wanted);
        wanted.chain(&self.gives)
    }

    /// The capitals in the types that a field is said to have.
    pub(crate) fn capitals_of(&self, field: &str) -> Vec<&str> {
        let about = |judgment: &&Judgment| {
            let mut subjects = judgment.subjects.iter();
            subjects.any(|subject| subject.name().text == field)
        };
        let judged = self.judgments.iter().filter(about);
        judged
            .flat_map(|judgment| judgment.wanted.capitals())
            .collect()
    }

    /// Whether a capital stands for the types of a repeated field, one for each child:
    /// those of the parameters or arguments of a function.
    pub(crate) fn is_sequence(&self, capital: &str, is_repeated: impl Fn(&Name) -> bool) -> bool {
        self.terms().any(|term| term.has_in_brackets(capital))
            && self.judgments.iter().any(|judgment| {
                matches!(&judgment.wanted.kind, TypeTermKind::Capital(c) if c == capital)
                    && judgment.subjects.iter().any(|s| is_repeated(s.name()))
            })
    }
}

impl TypeTerm {
    /// Every capital in it.
    pub(crate) fn capitals(&self) -> Vec<&str> {
        let mut found = Vec::new();
        let mut waiting = vec![self];
        while let Some(term) = waiting.pop() {
            if let TypeTermKind::Capital(capital) = &term.kind {
                found.push(capital.as_str());
            }
            term.each_part(&mut |part| waiting.push(part));
        }
        found
    }
}
