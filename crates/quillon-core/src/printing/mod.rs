//! From a tree back to source that parses to the same tree, with the fewest brackets.
//!
//! A node is written with the shortest production of its form that takes all its fields
//! (`fill`); brackets stand where precedence would read something else (`brackets`); what
//! comes out is a list of tokens, which `spacing` joins.

use std::sync::Arc;

use crate::definition::Definition;
use crate::lexing::{KindId, Lexer, Tokens};
use crate::parsing::Parser;
use crate::source::SourceText;
use crate::tree::{Tree, one_line};

mod brackets;
mod comments;
mod fill;
mod lines;
mod lists;
mod productions;
mod spacing;
mod terminals;

pub use comments::Comments;
pub(crate) use spacing::{joined, may_touch};
pub(crate) use terminals::text_of_terminals;

/// So many characters a line has at the most, as far as it can be broken.
pub(crate) const WIDTH: usize = 100;

/// How many brackets are written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Brackets {
    /// Only those without which the text would be read differently.
    Fewest,
    /// Around every operand that is itself made with an operator.
    All,
}

/// A token to be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Piece {
    /// A text of a kind of token, and how it stands to the one before.
    Token(String, Join, KindId),
    /// The next token touches the one before.
    Touch,
    /// Whether a blank stands before the next token, as `laid out` has it.
    Blanks(bool),
    /// The line may be broken here if it gets too long.
    Break,
    /// A part begins whose lines are deeper where they are broken.
    Open,
    /// It ends.
    Close,
    /// A comment.
    Comment {
        text: String,
        own_line: bool,
        to_line_end: bool,
    },
    /// A line ends, since the language or the layout wants it.
    Line,
    /// The same, with an empty line after it.
    Blank,
    /// A line ends, and the next ones are deeper.
    Deeper,
    /// A line ends, and the next ones are less deep.
    Back,
    /// The same without a line end: the language's own end of a block.
    BackHere,
}

/// How a token stands to the one before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Join {
    /// It must touch it.
    Touching,
    /// There must be a blank.
    Apart,
    /// Either.
    Free,
    /// It should touch it, if it stays a token of its own.
    Close,
}

/// The source of a tree, with comments; nothing if some node cannot be written: a form without a bracket
/// form where brackets are needed, or a part whose text the tree does not have.
pub fn source_of(
    definition: &Definition,
    lexer: &Lexer,
    parser: &Parser,
    tree: &Tree,
    brackets: Brackets,
    comments: &Comments,
) -> Option<String> {
    let mut writer = fill::Writer::new(definition, lexer, parser, tree, brackets, comments);
    writer.node(tree.root(), None)?;
    writer.comments_before(u32::MAX);
    let width = definition.width.unwrap_or(WIDTH);
    Some(spacing::joined(lexer, &writer.out, width))
}

/// Writes the tree that a text was read as, reads that, and compares: `Ok` when it is the
/// same tree with the same comments, and otherwise what was written. A tree that cannot be written is passed over.
pub fn round_trip(
    definition: &Definition,
    lexer: &Lexer,
    parser: &Parser,
    tree: &Tree,
    comments: &Comments,
    entry: usize,
) -> Result<(), String> {
    let fewest = Brackets::Fewest;
    let Some(text) = source_of(definition, lexer, parser, tree, fewest, comments) else {
        return Ok(());
    };
    let source = SourceText::new("printed back", text.clone());
    let again: Option<Tokens> = lexer.tokens(&source).value;
    let again = again.map(|tokens| Tokens {
        signs: Arc::clone(tree.signs()),
        ..tokens
    });
    let same = again
        .and_then(|tokens| {
            parser
                .parse(definition, lexer, &tokens, entry)
                .outcome
                .value
        })
        .is_some_and(|second| {
            one_line(definition, lexer, &second) == one_line(definition, lexer, tree)
        });
    let texts = |comments: &Comments| {
        let mut all: Vec<String> = comments.all.iter().map(|c| c.text.clone()).collect();
        all.sort();
        all
    };
    let kept = texts(&Comments::of(lexer, &source)) == texts(comments);
    if same && kept { Ok(()) } else { Err(text) }
}
