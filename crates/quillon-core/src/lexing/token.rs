//! A token: its kind and where it stands.

use super::KindId;
use crate::source::Span;

/// One token, in twelve bytes: there are millions of them.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Token {
    /// Its kind.
    pub kind: KindId,
    /// The soft literal that it may be as well, and whether it touches the one before.
    marks: u16,
    /// Where it stands.
    pub span: Span,
}

/// The mark of a token that touches the one before it.
const TIGHT: u16 = 1 << 15;

impl Token {
    /// A token of a kind.
    #[inline]
    pub fn new(kind: KindId, span: Span) -> Token {
        Token {
            kind,
            marks: 0,
            span,
        }
    }

    /// The same with the soft literal that it may be as well, and whether it touches the
    /// token before it.
    #[inline]
    pub(super) fn with(self, also: Option<KindId>, tight: bool) -> Token {
        let marks = also.map_or(0, |kind| kind.0) | if tight { TIGHT } else { 0 };
        Token { marks, ..self }
    }

    /// The same, were there no blank before it.
    #[must_use]
    pub(crate) fn touching(self) -> Token {
        self.with(self.also(), true)
    }

    /// The soft literal that it may be as well.
    #[inline]
    pub fn also(self) -> Option<KindId> {
        let also = self.marks & !TIGHT;
        (also != 0).then_some(KindId(also))
    }

    /// Whether it touches the token before it.
    #[inline]
    pub fn tight(self) -> bool {
        self.marks & TIGHT != 0
    }
}
