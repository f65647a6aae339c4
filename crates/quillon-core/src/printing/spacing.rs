//! Joins tokens to a text, with blanks where they are needed and where they read well.

use super::{Join, Piece};
use crate::lexing::{KindId, Lexer};
use crate::source::SourceText;

/// How deep one level is indented, in blanks.
const STEP: usize = 2;

/// Signs that stand close to what is before them, and to what is after them.
const CLOSE_BEFORE: [&str; 6] = [",", ";", ")", "]", ".", ":"];
const CLOSE_AFTER: [&str; 3] = ["(", "[", "."];

/// The text of some tokens. Where closing up would make other tokens of them, all are set
/// apart.
pub(crate) fn joined(lexer: &Lexer, pieces: &[Piece]) -> String {
    let blanks = matters_not(lexer, " ");
    let close = join(lexer, pieces, blanks, true);
    if tokens_of(lexer, &close) == texts(pieces) {
        return close;
    }
    join(lexer, pieces, blanks, false)
}

fn join(lexer: &Lexer, pieces: &[Piece], blanks: bool, close_up: bool) -> String {
    let mut text = Text::default();
    let mut last: Option<&str> = None;
    let mut touch = false;
    for piece in pieces {
        match piece {
            Piece::Token(token, how) => {
                let gap = last.is_some_and(|before| match how {
                    _ if touch => false,
                    Join::Touching => false,
                    // A touching bracket could be taken for part of an operand.
                    Join::Apart if ends_operand(before) => true,
                    Join::Apart | Join::Close | Join::Free => {
                        let close = *how == Join::Close
                            || CLOSE_BEFORE.contains(&token.as_str())
                            || CLOSE_AFTER.contains(&before);
                        !(close_up && close && stay_apart(lexer, before, token))
                    }
                });
                text.put(token, gap && blanks);
                last = Some(token);
                touch = false;
            }
            Piece::Touch => touch = true,
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
    if !text.out.ends_with('\n') {
        text.out.push('\n');
    }
    text.out
}

/// A text in the making. Line ends wait for what comes after them, so that several in a
/// row are one, and a comment can still come before them.
#[derive(Default)]
struct Text {
    out: String,
    depth: usize,
    /// How many line ends wait.
    waiting: usize,
    /// How many wait for a comment to come before them.
    kept: usize,
}

impl Text {
    fn end_line(&mut self, count: usize) {
        self.waiting = self.waiting.max(count);
    }

    /// Puts off the line ends that wait until after a comment.
    fn stay(&mut self) {
        self.kept = std::mem::take(&mut self.waiting);
    }

    fn put(&mut self, token: &str, gap: bool) {
        if !self.out.is_empty() {
            if self.waiting > 0 {
                self.out.push_str(&"\n".repeat(self.waiting));
                self.out.push_str(&" ".repeat(self.depth * STEP));
            } else if gap {
                self.out.push(' ');
            }
        }
        self.out.push_str(token);
        self.waiting = std::mem::take(&mut self.kept);
    }
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
        .filter_map(|piece| match piece {
            Piece::Token(text, _) => Some(text.clone()),
            _ => None,
        })
        .collect()
}
