//! Indentation as a witness: what opens on a line is closed before a line that stands no deeper.
//! Where it is not, it is what is not closed, however the closing words or brackets match.

use rustc_hash::FxHashMap;

use super::Parser;
use super::pairs::Pair;
use super::slips::{Mending, Slip};
use crate::lexing::{KindId, Token, Tokens};

/// Something that is not closed.
pub(super) struct Witness {
    /// The token that opens it.
    pub opener: usize,
    /// What closes it, and where.
    pub mending: Mending,
}

/// Something that is open.
struct Open {
    token: usize,
    closer: KindId,
    /// How far the line is indented on which it stands.
    column: u32,
    line: u32,
}

impl Witness {
    /// What is not closed before the token at an index.
    pub fn of(
        parser: &Parser,
        pairs: &FxHashMap<KindId, Pair>,
        tokens: &Tokens,
        index: usize,
    ) -> Option<Witness> {
        let mut scan = Scan {
            tokens,
            pairs,
            line_end: parser.layout_kind("LineEnd"),
            open: Vec::new(),
            lines: Lines::of(tokens),
        };
        let last = tokens.tokens.len().min(index + 1);
        for at in 0..last {
            if let Some(found) = scan.take(parser, at) {
                return Some(found);
            }
        }
        None
    }
}

/// The line and the indentation of each token.
struct Lines(Vec<(u32, u32)>);

impl Lines {
    fn of(tokens: &Tokens) -> Lines {
        let source = &tokens.source;
        let mut found: Vec<(u32, u32)> = Vec::with_capacity(tokens.tokens.len());
        let mut at = 0;
        for token in &tokens.tokens {
            let start = token.span.start.max(at);
            let between = &source.text()[at as usize..start as usize];
            let before = found.last().copied();
            let is_new = before.is_none() || between.contains('\n');
            found.push(match before {
                Some(same) if !is_new => same,
                _ => {
                    let place = source.position(token.span.start);
                    (place.line, place.column)
                }
            });
            at = at.max(token.span.end);
        }
        Lines(found)
    }
}

struct Scan<'a> {
    tokens: &'a Tokens,
    pairs: &'a FxHashMap<KindId, Pair>,
    line_end: Option<KindId>,
    open: Vec<Open>,
    lines: Lines,
}

impl Scan<'_> {
    /// Goes on over a token; what it shows to be not closed.
    fn take(&mut self, parser: &Parser, at: usize) -> Option<Witness> {
        let Token { kind, .. } = self.tokens.tokens[at];
        if parser.lexer_kind(kind).is_layout() {
            return None;
        }
        let (line, column) = self.lines.0[at];
        let is_first = at == 0 || self.lines.0[at - 1].0 != line;
        if is_first && let Some(found) = self.falls_back(at) {
            return Some(found);
        }
        if self.open.last().is_some_and(|open| open.closer == kind) {
            self.open.pop();
        } else if let Some(pair) = self.pairs.get(&kind) {
            self.open.push(Open {
                token: at,
                closer: pair.closer,
                column,
                line,
            });
        }
        None
    }

    /// What should have been closed before a token, the first of its line.
    fn falls_back(&self, at: usize) -> Option<Witness> {
        let (line, column) = self.lines.0[at];
        let kind = self.tokens.tokens[at].kind;
        let top = self.open.last()?;
        let mut content = self.lines.0[top.token + 1..at].iter();
        let deeper = content.find(|own| own.0 != top.line)?;
        if line == top.line || deeper.1 <= top.column || kind == KindId::END {
            return None;
        }
        let mut outer = self.open.iter().rev().skip(1);
        let falls = if outer.any(|open| open.closer == kind && open.column == column) {
            // It stands under what it closes, and that is further out.
            column < top.column || top.closer != kind
        } else {
            let opener = self.tokens.tokens[top.token].kind;
            let middle = self.pairs.get(&opener).map(|pair| &pair.middle);
            let goes_on = middle.is_some_and(|middle| middle.contains(&kind));
            column <= top.column && top.closer != kind && !goes_on
        };
        let closed = [Some(top.closer), self.line_end];
        falls.then(|| Witness {
            opener: top.token,
            mending: Mending {
                slip: Slip::Missing,
                at,
                count: 0,
                with: closed.into_iter().flatten().collect(),
            },
        })
    }
}
