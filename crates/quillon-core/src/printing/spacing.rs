//! Joins tokens to a text, with blanks where they are needed and where they read well.

use super::lines::Lines;
use super::{Join, Piece};
use crate::lexing::{Group, KindId, Lexer, Token};
use crate::source::SourceText;

/// Signs that stand close to what is before them, and to what is after them.
const CLOSE_BEFORE: [&str; 6] = [",", ";", ")", "]", ".", ":"];
const CLOSE_AFTER: [&str; 3] = ["(", "[", "."];

/// The text of some tokens, with lines of at most so many characters as far as they can be broken.
/// Where closing up would make other tokens of them, all are set apart.
pub(crate) fn joined(lexer: &Lexer, pieces: &[Piece], width: usize) -> String {
    let joiner = Joiner::of(lexer, pieces);
    let close = joiner.text(pieces, width, true);
    if tokens_of(lexer, joiner.first, &close) == texts(pieces) {
        return close;
    }
    joiner.text(pieces, width, false)
}

/// Joins pieces.
struct Joiner<'a> {
    lexer: &'a Lexer,
    /// The group of tokens in which the text begins.
    first: Group,
    /// Whether a blank, and a line end, are passed over, in each group.
    passes: Vec<(bool, bool)>,
}

impl<'a> Joiner<'a> {
    fn of(lexer: &'a Lexer, pieces: &[Piece]) -> Joiner<'a> {
        let kind = pieces.iter().find_map(|piece| {
            let Piece::Token(_, _, kind) = piece else {
                return None;
            };
            Some(*kind)
        });
        let passes = |group| [" ", "\n"].map(|text| matters_not(lexer, group, text));
        let groups = lexer.groups().map(passes);
        Joiner {
            lexer,
            first: kind.map_or(lexer.first_group(), |kind| lexer.group_of(kind)),
            passes: groups.map(|[blank, end]| (blank, end)).collect(),
        }
    }

    fn text(&self, pieces: &[Piece], width: usize, close_up: bool) -> String {
        let mut groups = vec![self.first];
        let lines = self.join(pieces, &mut groups, close_up);
        // A line can be broken only where its end is no more than a blank.
        let always = self.passes.iter().all(|(blank, end)| *blank && *end);
        let can_break = always && !self.lexer.has_layout();
        let mut text = lines.finish(if can_break { width } else { usize::MAX });
        let (_, ends) = self.passes_in(&groups);
        if (ends || self.lexer.has_layout()) && !text.ends_with('\n') {
            text.push('\n');
        }
        text
    }

    fn passes_in(&self, groups: &[Group]) -> (bool, bool) {
        let group = groups.last().copied().unwrap_or(self.first);
        self.passes[group as usize]
    }

    fn join<'t>(&self, pieces: &'t [Piece], groups: &mut Vec<Group>, close_up: bool) -> Lines<'t> {
        let mut text = Lines::default();
        let mut last: Option<&str> = None;
        // The group in which the last token began.
        let mut began = self.first;
        let mut touch = false;
        let mut wanted: Option<bool> = None;
        for piece in pieces {
            let (blanks, line_ends) = self.passes_in(groups);
            let ends = line_ends || self.lexer.has_layout();
            match piece {
                Piece::Token(token, how, kind) => {
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
                            !(close_up && close && may_touch(self.lexer, began, before, token))
                        }
                    });
                    text.put(token, gap && blanks);
                    wanted = None;
                    last = Some(token);
                    touch = false;
                    began = groups.last().copied().unwrap_or(self.first);
                    self.lexer.turn(groups, *kind);
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
                // Where a line end would be a part of the text, none is put in.
                Piece::Line | Piece::Blank | Piece::Deeper | Piece::Back if !ends => {}
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
}

/// Whether two texts side by side are still the two tokens that they are in a group.
pub(crate) fn may_touch(lexer: &Lexer, group: Group, before: &str, after: &str) -> bool {
    tokens_of(lexer, group, &format!("{before}{after}")) == [before, after]
}

/// The texts of the tokens of a text that begins in a group, those of layout left out.
fn tokens_of(lexer: &Lexer, group: Group, text: &str) -> Vec<String> {
    let source = SourceText::new("joined", text);
    let outcome = lexer.tokens_in(group, &source);
    if outcome.has_errors() {
        return Vec::new();
    }
    let tokens = outcome.value.map_or_else(Vec::new, |t| t.tokens);
    let is_own = |token: &&Token| token.kind != KindId::END && !lexer.kind(token.kind).is_layout();
    let own = tokens.iter().filter(is_own);
    own.map(|token| source.slice(token.span).to_owned())
        .collect()
}

/// Whether an operand can end with a token.
fn ends_operand(token: &str) -> bool {
    token.ends_with(|c: char| c.is_alphanumeric() || "_\"')]}".contains(c))
}

/// Whether a text is passed over where the tokens of a group are read.
fn matters_not(lexer: &Lexer, group: Group, text: &str) -> bool {
    let outcome = lexer.tokens_in(group, &SourceText::new("blank", text));
    !outcome.has_errors() && outcome.value.is_some_and(|t| t.tokens.len() == 1)
}

fn texts(pieces: &[Piece]) -> Vec<String> {
    pieces
        .iter()
        .filter_map(|piece| {
            let Piece::Token(text, ..) = piece else {
                return None;
            };
            Some(text.clone())
        })
        .collect()
}
