//! Tokens with holes: texts in the middle of which there are tokens again. The automaton
//! of the language knows only how they open; what stands between there and a hole, or the
//! end, is read here, one repeated item of the pattern after another, so that a hole begins
//! only where an item could.

use serde::{Deserialize, Serialize};

use super::KindId;
use super::automaton::Automaton;
use crate::definition::{Pattern, TokenRule};

/// How a token with holes is put together.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(super) struct Pieces {
    /// The kind of a whole token without holes; those of the pieces follow it.
    whole: KindId,
    /// What the token opens with.
    pub open: String,
    /// What begins a hole.
    hole: String,
    /// What ends a hole.
    end: String,
    /// The bracket that the end of a hole would close: inside a hole it nests.
    bracket: Option<String>,
    items: Automaton,
}

/// A hole that is open.
#[derive(Clone, Copy, Debug)]
pub(super) struct Hole {
    /// The token it is in, by its number among those with holes.
    pub of: usize,
    /// Where that token starts.
    pub start: usize,
    /// Where the hole starts.
    pub at: usize,
    /// How many brackets are open inside that the end of the hole would close.
    depth: u32,
}

/// What ends a piece.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum PieceEnd {
    /// The token is over.
    Close,
    /// A hole begins.
    Hole,
}

const CLOSE: u16 = 0;
const HOLE: u16 = 1;
const ITEM: u16 = 2;

impl Pieces {
    /// The pieces of a token, if it has holes; an error if its pattern is too large.
    pub fn new(rule: &TokenRule, whole: KindId) -> Option<Result<Pieces, ()>> {
        let holes = rule.holes.as_ref()?;
        let (open, inner, close) = rule.pattern.delimited()?;
        let (hole, end) = (holes.open.text.clone(), holes.close.text.clone());
        let items = Automaton::new(&[
            (CLOSE, Pattern::Literal(close)),
            (HOLE, Pattern::Literal(hole.clone())),
            (ITEM, inner.clone()),
        ]);
        let bracket = super::BRACKETS
            .iter()
            .find(|(open, close)| end == *close && hole.ends_with(open))
            .map(|(open, _)| (*open).to_owned());
        Some(items.ok_or(()).map(|items| Pieces {
            whole,
            open,
            hole,
            end,
            bracket,
            items,
        }))
    }

    /// Whether a kind is that of a whole token.
    pub fn is_whole(&self, kind: KindId) -> bool {
        self.whole == kind
    }

    /// Whether a kind is that of one of the pieces.
    pub fn is_piece(&self, kind: KindId) -> bool {
        (1..=3).any(|piece| kind.0 == self.whole.0 + piece)
    }

    /// The kind of the piece that starts a token.
    pub fn start_kind(&self) -> KindId {
        KindId(self.whole.0 + 1)
    }

    /// The kind of the piece that ends a token.
    pub fn end_kind(&self) -> KindId {
        KindId(self.whole.0 + 3)
    }

    /// The kind of a piece, by whether it is the first and by what ends it.
    pub fn kind(&self, first: bool, end: PieceEnd) -> KindId {
        match (first, end) {
            (true, PieceEnd::Close) => self.whole,
            (true, PieceEnd::Hole) => self.start_kind(),
            (false, PieceEnd::Hole) => KindId(self.whole.0 + 2),
            (false, PieceEnd::Close) => self.end_kind(),
        }
    }

    /// What begins a hole.
    pub fn hole(&self) -> &str {
        &self.hole
    }

    /// What ends a hole.
    pub fn end(&self) -> &str {
        &self.end
    }

    /// Reads on from a place inside the token: what ends the piece, and where it ends; or
    /// where nothing fits any more.
    pub fn read(&self, text: &str, mut at: usize) -> Result<(PieceEnd, usize), usize> {
        loop {
            match self.items.longest(text, at) {
                Ok((CLOSE, end)) => return Ok((PieceEnd::Close, end)),
                Ok((HOLE, end)) => return Ok((PieceEnd::Hole, end)),
                Ok((_, end)) => at = end,
                Err((stopped, _)) => return Err(stopped.max(at)),
            }
        }
    }

    /// Whether a hole ends at a place.
    pub fn ends_at(&self, hole: &Hole, text: &str, at: usize) -> bool {
        hole.depth == 0 && text[at..].starts_with(&self.end)
    }

    /// Counts a bracket inside a hole.
    pub fn count(&self, hole: &mut Hole, token: &str) {
        if self.bracket.as_deref().is_some_and(|b| token.ends_with(b)) {
            hole.depth += 1;
        } else if self.bracket.is_some() && token == self.end {
            hole.depth = hole.depth.saturating_sub(1);
        }
    }
}

impl Hole {
    /// A hole that has just begun.
    pub fn new(of: usize, start: usize, at: usize) -> Hole {
        Hole {
            of,
            start,
            at,
            depth: 0,
        }
    }
}
