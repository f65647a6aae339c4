//! What `is value` and `reduces` clauses say, as data.

use serde::{Deserialize, Serialize};

use super::Name;
use super::template::Template;
use crate::source::Span;

/// `reduces CONDITIONS when TEST to RESULT`
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Rule {
    /// What the fields must be.
    pub conditions: Vec<Condition>,
    /// What must hold of values in them.
    pub when: Option<Template>,
    /// What takes the form's place.
    pub to: Rewrite,
    /// Where the rule stands.
    pub span: Span,
}

/// `fn is Lambda(x, body)`
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Condition {
    /// A field, or a name from a condition before.
    pub name: Name,
    /// What it must be.
    pub is: Is,
}

/// What something must be for a rule to be used.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Is {
    /// Finished.
    Value,
    /// A form, with names for its fields in order.
    Form(Name, Vec<Name>),
    /// A repeated field of so many children, with names for them; and one for the others, if
    /// there may be any.
    List(Vec<Name>, Option<Name>),
}

/// What takes the place of a form.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Rewrite {
    /// What it is.
    pub kind: RewriteKind,
    /// Where it stands.
    pub span: Span,
}

/// The ways to put something together.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum RewriteKind {
    /// A field, or a name from a condition.
    Name(Name),
    /// The form itself, as it stands.
    Itself,
    /// A form with its fields, by position or by name.
    Form(Name, Vec<(Option<Name>, Rewrite)>),
    /// Children of a repeated field; all of a name with `...` after it.
    List(Vec<Rewrite>, Option<Name>),
    /// `body[x := arg]`: every free use of a name replaced.
    Replace(Box<Rewrite>, Name, Box<Rewrite>),
    /// A value worked out of others: what a token holds.
    Compute(Template),
}
