//! What a definition is: its items and clauses as data, and what follows from them alone.

mod checks;
mod deferred;
mod expectation;
mod field_path;
mod fields;
mod find;
mod form;
mod helper;
mod holes;
mod laid_out;
mod parts;
mod pattern;
mod reduces;
mod signs;
mod sugar;
mod surface;
pub mod template;
mod typed;
mod values;
mod wording;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::lazy::Lazy;
use crate::source::{SourceText, Span};

pub(crate) use deferred::{fields_in_functions, mentioned};
pub(in crate::definition) use expectation::title_of;
pub use expectation::{
    CellPath, Earlier, Example, Expectation, Expected, Failing, Given, Literal, TreeTerm,
};
pub use field_path::FieldPath;
pub(crate) use field_path::FieldRef;
pub(in crate::definition) use fields::fields_of;
pub(crate) use find::TableLevel;
pub use helper::Helper;
pub(in crate::definition) use holes::{pieces, spell_out};
pub(in crate::definition) use laid_out::{BLANKS, WAYS};
pub use laid_out::{LaidOut, Lay, Printed};
pub use pattern::{CharSet, Pattern};
pub use reduces::{Condition, Is, Rewrite, RewriteKind, Rule};
pub(crate) use signs::Place;
pub use signs::{DeclaredRank, DeclaredSide, Declares, Fixity, Ranks};
pub use sugar::Shape;
pub use surface::Surface;
pub use template::{Template, TemplateKind};
pub(crate) use typed::is_capital;
pub use typed::{Judgment, OwnType, Subject, TypeTerm, TypeTermKind, Typed};
pub use values::{EntriesShown, FunctionPart, Shown, ValueLine};

/// A name with the place in the definition where it stands.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Name {
    /// The name.
    pub text: String,
    /// Where it stands.
    pub span: Span,
}

/// A whole definition.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Definition {
    /// The text it was read from.
    #[serde(skip, default = "SourceText::none")]
    pub source: Arc<SourceText>,
    /// The language's name.
    pub name: Name,
    /// File extensions of its programs, with the dot.
    pub extensions: Vec<Name>,
    /// The sort of a whole program.
    pub starts: Option<Name>,
    /// The sorts that may stand alone, the program's first.
    pub entries: Vec<Name>,
    /// What a binder gets behind its name when it is renamed, if that is said.
    pub renames: Option<String>,
    /// So many characters a printed line has at the most, if that is said.
    pub width: Option<usize>,
    /// Whether line ends or indentation matter.
    pub layout: Option<Layout>,
    /// Whether capital and small letters are the same, in quoted texts and in names.
    pub ignores_case: bool,
    /// The tokens, in order of preference.
    pub tokens: Vec<TokenRule>,
    /// The group of tokens in which a text begins, if that is not the ordinary one.
    pub first_group: Option<Name>,
    /// One table a sort.
    pub precedence: Vec<PrecedenceTable>,
    /// The forms.
    pub forms: Vec<Form>,
    /// Other ways to write them.
    pub surfaces: Vec<Surface>,
    /// `define`d helpers of the meaning notation.
    pub helpers: Vec<Helper>,
    /// Cells that outlive a run.
    pub state: Vec<StateCell>,
    /// Types of the language's own.
    pub types: Vec<OwnType>,
    /// Built-in functions and constants.
    pub provides: Vec<Provided>,
    /// What kinds of values are called, and how they look.
    pub values: Vec<ValueLine>,
    /// The designer's own wording.
    pub messages: Vec<Message>,
    /// What the lines that could not be read name: it is there, whatever it is.
    pub(crate) unread: rustc_hash::FxHashSet<String>,
}

/// What of a text's layout is made into tokens.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Layout {
    /// Line ends: `LineEnd`.
    Lines,
    /// Line ends and indentation: `LineEnd`, `Indent`, `Dedent`.
    Indentation,
}

impl Layout {
    /// The names of the tokens that layout makes.
    pub fn tokens(self) -> &'static [&'static str] {
        match self {
            Layout::Lines => &["LineEnd"],
            Layout::Indentation => &["LineEnd", "Indent", "Dedent"],
        }
    }
}

/// One line of `tokens`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct TokenRule {
    /// The token's name.
    pub name: Name,
    /// What it looks like.
    pub pattern: Lazy<Pattern>,
    /// Whether it is dropped from the tree.
    pub ignored: bool,
    /// What its text is converted to.
    pub holds: Option<Holds>,
    /// What may stand in the middle of it.
    pub holes: Option<Holes>,
    /// Whether it is a piece of the token with holes above it: the start, a middle or the
    /// end, in this order.
    pub piece: bool,
    /// The group it belongs to, if that is not the ordinary one: only tokens of the group
    /// that a place is in are read there.
    pub group: Option<Name>,
    /// The group that comes after it.
    pub turn: Turn<Name>,
    /// Whether it goes on to a line that has only the last word of its own.
    pub until_line: bool,
}

/// Which group of tokens comes after a token.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Turn<G> {
    /// One that it enters.
    pub enters: Option<G>,
    /// Whether the one before its own comes back first.
    pub leaves: bool,
}

impl<G> Turn<G> {
    /// The same as before it.
    pub(crate) const NONE: Turn<G> = Turn {
        enters: None,
        leaves: false,
    };
}

/// The name by which rules enter the ordinary group of tokens.
pub(crate) const ORDINARY: &str = "tokens";

/// `holes "{" Expr "}"`: something of a sort inside a token, between two texts.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Holes {
    /// What begins a hole.
    pub open: Name,
    /// What is in it.
    pub sort: Name,
    /// What ends it.
    pub close: Name,
}

/// What the names of the pieces of a token with holes end in.
pub(crate) const PIECES: [&str; 3] = ["Start", "Middle", "End"];

/// The value that a token's text is converted to.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Holds {
    /// A 64-bit integer.
    Integer,
    /// An IEEE double.
    Number,
    /// A text: quotes off, escapes resolved.
    Text,
}

/// `precedence of SORT`: levels from the loosest to the tightest.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct PrecedenceTable {
    /// The sort whose forms are ranked.
    pub sort: Name,
    /// The levels, loosest first.
    pub levels: Vec<Level>,
}

/// One level of a precedence table.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Level {
    /// How forms of this level group among themselves; meaningless where signs say so.
    pub grouping: Grouping,
    /// The forms.
    pub forms: Vec<Name>,
    /// The ranks of the signs that programs declare, if it is the level of those.
    pub ranks: Option<Ranks>,
    /// The rank that it has among declared signs, if it has one.
    pub rank: Option<i64>,
}

/// How operators of one level group.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub enum Grouping {
    /// `a - b - c` is `(a - b) - c`.
    Left,
    /// `a ^ b ^ c` is `a ^ (b ^ c)`.
    Right,
    /// `a < b < c` is an error.
    None,
    /// The operand stands after the operator and extends as far right as it can.
    Prefix,
    /// The operand stands before the operator.
    Suffix,
}

impl Grouping {
    /// The word in the notation.
    pub fn word(self) -> &'static str {
        match self {
            Grouping::Left => "left",
            Grouping::Right => "right",
            Grouping::None => "none",
            Grouping::Prefix => "prefix",
            Grouping::Suffix => "suffix",
        }
    }
}

/// One form: everything about one construct.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Form {
    /// The form's name.
    pub name: Name,
    /// The sort it is a way to write; its own when missing.
    pub sort: Option<Name>,
    /// How it is written.
    pub written: Lazy<Option<Part>>,
    /// Its fields, in the order in which they are written.
    pub fields: Vec<Field>,
    /// Whether, and around what, it opens a scope.
    pub opens: Option<Opens>,
    /// What it binds.
    pub binds: Vec<Binds>,
    /// What names it uses.
    pub uses: Vec<Uses>,
    /// What names it offers to the forms around it.
    pub offers: Vec<Offers>,
    /// What it is run on, by the name that its meaning has for that.
    pub takes: Option<Name>,
    /// The sign that it makes an operator.
    pub declares: Option<Declares>,
    /// The forms that it wins over where a text can be read as either.
    pub wins: Vec<Name>,
    /// The field that it becomes.
    pub becomes: Option<Name>,
    /// The forms that it becomes, put together from its fields, and where that is said.
    pub sugar: Option<(TreeTerm, Span)>,
    /// Where lines end when it is printed.
    pub laid_out: Vec<LaidOut>,
    /// What must hold of the types in it, and its own: the first of them that fits.
    pub typed: Vec<Typed>,
    /// The type that it stands for, where it is an annotation.
    pub denotes: Option<TypeTerm>,
    /// What must hold of it before a program runs.
    pub checks: Lazy<Option<Template>>,
    /// What it means.
    pub means: Lazy<Option<Template>>,
    /// Whether it is finished, as far as reduction goes, once what `reduces_in` has is.
    pub is_value: bool,
    /// The fields that are reduced before it is, in order.
    pub reduces_in: Vec<Name>,
    /// What takes its place, the first rule that can be used.
    pub rules: Vec<Rule>,
    /// Examples that prove it.
    pub examples: Lazy<Vec<Example>>,
    /// Whether a clause of it could not be read: nothing is said then of fields it lacks.
    pub damaged: bool,
}

/// A field of a form.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Field {
    /// Its name; the place is its first mention.
    pub name: Name,
    /// How many children it has.
    pub count: Count,
    /// The sorts, forms or tokens that it can be.
    pub things: Vec<Thing>,
}

/// How many children a field has.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Count {
    /// Always one.
    One,
    /// One or none.
    Optional,
    /// Any number.
    Many,
}

impl Count {
    /// The word for it in a message.
    pub fn word(self) -> &'static str {
        match self {
            Count::One => "always there",
            Count::Optional => "optional",
            Count::Many => "repeated",
        }
    }
}

/// What a field, or an unnamed part, is made of.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Thing {
    /// A sort, a form or a token by name.
    Named(Name),
    /// Exactly this text.
    Literal(Name),
}

/// A part of a `written` clause.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Part {
    /// Parts one after the other.
    Sequence(Vec<Part>),
    /// One of several.
    Choice(Vec<Part>),
    /// Exactly this text; not in the tree.
    Literal(Name),
    /// The same, and elsewhere the text may be what a pattern makes of it.
    Soft(Name),
    /// A named child: one of some things.
    Field(Name, Vec<Thing>),
    /// A token or sort that is not in the tree.
    Unnamed(Name),
    /// There or not.
    Optional(Box<Part>),
    /// Repeated.
    Repeat(Box<Repeat>),
    /// No blank may stand before the next part.
    Tight(Span),
}

/// A repeated part.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Repeat {
    /// What is repeated.
    pub part: Part,
    /// Whether there must be one at least.
    pub at_least_one: bool,
    /// What stands between.
    pub by: Option<Part>,
    /// Whether one more separator may stand at the end.
    pub trailing: bool,
}

/// `opens scope`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Opens {
    /// The fields it is opened around; the whole form when empty.
    pub around: Vec<Name>,
}

/// `binds NAME …`.
#[expect(
    clippy::struct_excessive_bools,
    reason = "each is a word of the clause, and they go together freely"
)]
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Binds {
    /// The field whose text is bound.
    pub field: Name,
    /// What of the field is bound.
    pub reach: Reach,
    /// Visible in the whole enclosing scope, also before.
    pub throughout: bool,
    /// Whether the form is run when the scope begins, and not where it stands.
    pub first: bool,
    /// The name space it belongs to, if not to that of plain names.
    pub space: Option<Name>,
    /// Visible from the end of the form to the end of the enclosing scope.
    pub onward: bool,
    /// Visible in these fields.
    pub inside: Vec<Name>,
    /// Whether it cannot be changed.
    pub fixed: bool,
    /// Whether each use of it may have a type of its own.
    pub general: bool,
    /// Whether uses find the binding that is under way when they run, not the one around
    /// them in the text.
    pub dynamic: bool,
}

/// What of a field a clause means.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Reach {
    /// Its own text.
    Itself,
    /// The text of a field of its forms: `params.name`.
    Part(Name),
    /// All names that its forms offer: `names of target`.
    Offered,
    /// No field at all, but a name that is bound without being written: `"self"`.
    Unwritten,
}

/// `offers FIELD`, `offers names of FIELD`: names that a form leaves to one around it to
/// bind.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Offers {
    /// The field.
    pub field: Name,
    /// What of it.
    pub reach: Reach,
}

/// `uses NAME`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Uses {
    /// The field whose text is looked up.
    pub field: Name,
    /// Whether the variable is changed.
    pub to_change: bool,
    /// Whether it is bound in the scope at hand where nothing binds it.
    pub or_binds: bool,
    /// Whether nothing need bind it: it is free then.
    pub or_free: bool,
    /// The name space it is looked up in, if not in that of plain names.
    pub space: Option<Name>,
}

/// One line of `state`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct StateCell {
    /// Its name, for meanings.
    pub name: Name,
    /// What it holds at first.
    pub initial: Template,
    /// Whether it is there only for what is checked before a program runs.
    pub is_for_checks: bool,
}

/// One line of `provides`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Provided {
    /// The name that programs see.
    pub name: Name,
    /// Its parameters; `None` for a constant.
    pub params: Option<Vec<Name>>,
    /// Whether the last parameter takes all arguments that are left.
    pub rest: bool,
    /// How it stands, if it is a sign that is an operator.
    pub fixity: Option<Fixity>,
    /// What must hold of its arguments' types, and the type of what it gives.
    pub typed: Option<Typed>,
    /// What it does.
    pub means: Template,
    /// The comment on its line: help for those who use it.
    pub help: String,
}

/// One line of `messages`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Message {
    /// What it words: a sort, a token, an error by its code, or a jump followed by
    /// `unmatched`.
    pub subject: Name,
    /// Whether it words a jump that finds no landing.
    pub unmatched: bool,
    /// The wording.
    pub text: String,
    /// Where the wording stands.
    pub place: Span,
}
