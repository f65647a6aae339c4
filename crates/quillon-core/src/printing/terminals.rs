//! The text of a sequence of terminals that comes from no tree.

use super::{Join, Piece, joined};
use crate::lexing::Lexer;
use crate::parsing::Parser;

/// The text of some terminals, each with the text that it gets; nothing if one gets none.
pub(crate) fn text_of_terminals(
    parser: &Parser,
    lexer: &Lexer,
    terminals: &[u16],
    mut text_of: impl FnMut(u16) -> Option<String>,
) -> Option<String> {
    let grammar = parser.grammar();
    let mut pieces = Vec::new();
    for &t in terminals {
        let terminal = grammar.terminals[t as usize];
        let kind = lexer.kind(terminal.kind);
        if kind.is_layout() {
            pieces.push(match kind.name.as_str() {
                "LineEnd" => Piece::Line,
                "Indent" => Piece::Deeper,
                _ => Piece::BackHere,
            });
            continue;
        }
        let join = if terminal.tight {
            Join::Touching
        } else if grammar.of_kind[terminal.kind.0 as usize].1.is_some() {
            Join::Apart
        } else {
            Join::Free
        };
        pieces.push(Piece::Token(text_of(t)?, join, terminal.kind));
    }
    Some(joined(lexer, &pieces, usize::MAX))
}
