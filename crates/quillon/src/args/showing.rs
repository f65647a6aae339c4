//! What the commands take that show a stage of the work.

use std::path::PathBuf;

use clap::{Args as ClapArgs, ValueEnum};

use super::{Common, Format, Program};

/// How a grammar is shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum GrammarView {
    /// In the EBNF of the W3C, with the abstract syntax after it
    Both,
    /// In the EBNF of the W3C
    W3c,
    /// In the EBNF of ISO/IEC 14977
    Iso,
    /// The abstract syntax: what the tree has
    Abstract,
    /// As railroad diagrams, a picture
    Svg,
    /// As railroad diagrams, a page with both notations
    Html,
}

// Arguments of `grammar`.
#[derive(Debug, ClapArgs)]
pub struct Grammar {
    /// The definition; without it, the one in this folder or above
    pub definition: Option<PathBuf>,

    /// How to show the grammar
    #[arg(long = "as", value_name = "VIEW", default_value = "both")]
    pub view: GrammarView,

    /// Only this sort, in a picture
    #[arg(long, value_name = "SORT")]
    pub sort: Option<String>,

    /// The surface (concrete syntax) to show; by default the first
    #[arg(long, value_name = "SURFACE")]
    pub surface: Option<String>,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

// Arguments of `tokens`.
#[derive(Debug, ClapArgs)]
pub struct Tokens {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// Show ignored tokens too
    #[arg(long)]
    pub all: bool,
}

/// How a tree is shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum TreeView {
    /// One line for each node
    Text,
    /// All on one line, as cases write it
    Line,
    /// For tools
    Json,
    /// As an s-expression
    Sexp,
    /// As a graph in the DOT language
    Dot,
    /// As a picture
    Svg,
    /// As source again, with the fewest brackets
    Source,
}

// Arguments of `tree`.
#[derive(Debug, ClapArgs)]
pub struct Tree {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// How to show the tree
    #[arg(long = "as", value_name = "VIEW", default_value = "text")]
    pub view: TreeView,

    /// Show the source with brackets around every operand
    #[arg(long, conflicts_with = "view")]
    pub brackets: bool,

    /// Read the text as this sort; by default as the first entry that fits
    #[arg(long, value_name = "SORT")]
    pub entry: Option<String>,

    /// Read the longest entry at the front of the text, and show where it ends
    #[arg(long)]
    pub first: bool,
}

/// How names are shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum ScopesView {
    /// Under the source, with the scopes in the margin
    Source,
    /// A line for each name
    Table,
    /// The scopes with their variables as a Graphviz graph
    Dot,
    /// The same as a picture
    Svg,
}

/// How steps are shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum StepsView {
    /// As lines
    Text,
    /// As a page
    Html,
}

// Arguments of `steps`.
#[derive(Debug, ClapArgs)]
pub struct Steps {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// Stop after N steps
    #[arg(long, value_name = "STEPS", default_value_t = 1000)]
    pub limit: usize,

    /// How to show the steps
    #[arg(long = "as", value_name = "VIEW", default_value = "text")]
    pub view: StepsView,
}

/// How types are shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum TypesView {
    /// Under the source
    Source,
    /// A line for each node and binding
    Table,
}

// Arguments of `types`.
#[derive(Debug, ClapArgs)]
pub struct Types {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// How to show the types
    #[arg(long = "as", value_name = "VIEW", default_value = "source")]
    pub view: TypesView,

    /// Show why the expression at this place has its type
    #[arg(long, value_name = "LINE:COLUMN")]
    pub why: Option<String>,
}

// Arguments of `core`.
#[derive(Debug, ClapArgs)]
pub struct Core {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,
}

// Arguments of `code`.
#[derive(Debug, ClapArgs)]
pub struct Code {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// Show each line of the program above its instructions
    #[arg(long)]
    pub lines: bool,
}

// Arguments of `scopes`.
#[derive(Debug, ClapArgs)]
pub struct Scopes {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// How to show the names
    #[arg(long = "as", value_name = "VIEW", default_value = "source")]
    pub view: ScopesView,

    /// Show notes on names that are never used, never changed, or shadow another
    #[arg(long)]
    pub notes: bool,
}

// Arguments of `translate`.
#[derive(Debug, ClapArgs)]
pub struct Translate {
    #[command(flatten)]
    pub program: Program,

    #[command(flatten)]
    pub common: Common,

    /// The surface to write; the name of the language means the first
    #[arg(long, value_name = "SURFACE")]
    pub to: String,
}

// Arguments of `explain`.
#[derive(Debug, ClapArgs)]
pub struct Explain {
    /// The place: `FILE:LINE:COLUMN`
    pub place: String,

    #[command(flatten)]
    pub common: Common,
}
