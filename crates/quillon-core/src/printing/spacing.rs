//! Joins tokens to a text, with blanks where they are needed and where they read well.

use super::lines::Lines;
use super::{Join, Piece};
use crate::lexing::{KindId, Lexer};
use crate::source::SourceText;

/// Signs that stand close to what is before them, and to what is after them.
const CLOSE_BEFORE: [&str; 6] = [",", ";", ")", "]", ".", ":"];
const CLOSE_AFTER: [&str; 3] = ["(", "[", "."];

/// The text of some tokens, with lines of at most so many characters as far as they can be broken.
/// Where closing up would make other tokens of them, all are set apart.
pub(crate) fn joined(lexer: &Lexer, pieces: &[Piece], width: usize) -> String {
    let blanks = matters_not(lexer, " ");
    // A line can be broken only where its end is no more than a blank.
    let is_blank = matters_not(lexer, "\n");
    let width = if blanks && is_blank && !lexer.has_layout() {
        width
    } else {
        usize::MAX
    };
    let finish = |lines: Lines<'_>| {
        let mut text = lines.finish(width);
        if (is_blank || lexer.has_layout()) && !text.ends_with('\n') {
            text.push('\n');
        }
        text
    };
    let close = finish(join(lexer, pieces, blanks, true));
    if tokens_of(lexer, &close) == texts(pieces) {
        return close;
    }
    finish(join(lexer, pieces, blanks, false))
}

fn join<'t>(lexer: &Lexer, pieces: &'t [Piece], blanks: bool, close_up: bool) -> Lines<'t> {
    let mut text = Lines::default();
    let mut last: Option<&str> = None;
    let mut touch = false;
    let mut wanted: Option<bool> = None;
    for piece in pieces {
        match piece {
            Piece::Token(token, how) => {
                let gap = last.is_some_and(|before| match how {
                    _ if touch => false,
                    Join::Touching => false,
                    // A touching bracket could be taken for part of an operand.
                    Join::Apart if ends_operand(before) => true,
                    Join::Apart | Join::Close | Join::Free => {
                        let close = wanted.map_or_else(
                            || {
                                *how == Join::Close
                                    || CLOSE_BEFORE.contains(&token.as_str())
                                    || CLOSE_AFTER.contains(&before)
                            },
                            |blank| !blank,
                        );
                        !(close_up && close && stay_apart(lexer, before, token))
                    }
                });
                wanted = None;
                text.put(token, gap && blanks);
                last = Some(token);
                touch = false;
            }
            Piece::Touch => touch = true,
            Piece::Blanks(blank) => wanted = Some(*blank),
            Piece::Break => text.may_break(),
            Piece::Open => text.open(),
            Piece::Close => text.close(),
            Piece::Comment {
                text: comment,
                own_line,
                to_line_end,
            } => {
                if *own_line {
                    text.end_line(1);
                } else {
                    text.stay();
                }
                text.put(comment.trim_end(), true);
                if *own_line || *to_line_end {
                    text.end_line(1);
                }
                touch = false;
            }
            Piece::BackHere => text.depth = text.depth.saturating_sub(1),
            Piece::Line => text.end_line(1),
            Piece::Blank => text.end_line(2),
            Piece::Deeper => {
                text.depth += 1;
                text.end_line(1);
            }
            Piece::Back => {
                text.depth = text.depth.saturating_sub(1);
                text.end_line(1);
            }
        }
    }
    text
}

/// Whether an operand can end with a token.
fn ends_operand(token: &str) -> bool {
    token.ends_with(|c: char| c.is_alphanumeric() || "_\"')]}".contains(c))
}

/// Whether a text is passed over by the language.
fn matters_not(lexer: &Lexer, text: &str) -> bool {
    let outcome = lexer.tokens(&SourceText::new("blank", text));
    !outcome.has_errors() && outcome.value.is_some_and(|t| t.tokens.len() == 1)
}

/// Whether two texts side by side are still the two tokens.
fn stay_apart(lexer: &Lexer, before: &str, after: &str) -> bool {
    tokens_of(lexer, &format!("{before}{after}")) == [before, after]
}

/// The texts of the tokens of a text, those of layout left out.
fn tokens_of(lexer: &Lexer, text: &str) -> Vec<String> {
    let source = SourceText::new("joined", text);
    let outcome = lexer.tokens(&source);
    if outcome.has_errors() {
        return Vec::new();
    }
    let tokens = outcome.value.map_or_else(Vec::new, |t| t.tokens);
    tokens
        .iter()
        .filter(|token| token.kind != KindId::END && !lexer.kind(token.kind).is_layout())
        .map(|token| source.slice(token.span).to_owned())
        .collect()
}

fn texts(pieces: &[Piece]) -> Vec<String> {
    pieces
        .iter()
        .filter_map(|piece| {
            let Piece::Token(text, _) = piece else {
                return None;
            };
            Some(text.clone())
        })
        .collect()
}
