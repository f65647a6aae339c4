//! What an editor asks of a program: what is at a place, what a name means and where else it
//! stands, what could come next, how the text is made up. Nothing here knows how an editor asks.

use std::sync::Arc;

use crate::diagnostic::Diagnostic;
use crate::language::{Examined, Language};
use crate::lexing::{KindId, Token, Tokens};
use crate::source::{SourceText, Span};

mod about;
mod calling;
mod clauses;
mod colours;
mod completing;
mod defining;
mod naming;
mod outline;
mod renaming;
mod shape;

pub use about::{About, AboutForm, AboutName};
pub use calling::Call;
pub use colours::{Coloured, Role};
pub use completing::{Candidate, Filling, Piece, help};
pub use defining::{Described, Item, ItemKind};
pub use naming::{Standing, What};
pub use outline::Symbol;

/// A program with all that the stages before a run have found in it.
#[derive(Debug)]
pub struct Looked {
    language: Language,
    source: Arc<SourceText>,
    tokens: Option<Tokens>,
    examined: Examined,
}

impl Looked {
    /// Looks at a program, right or wrong.
    pub fn new(language: &Language, source: &Arc<SourceText>) -> Looked {
        Looked {
            language: language.clone(),
            source: Arc::clone(source),
            tokens: language.all_tokens(source).value,
            examined: language.examined(source),
        }
    }

    /// The text.
    pub fn source(&self) -> &Arc<SourceText> {
        &self.source
    }

    /// The language it is read in.
    pub fn language(&self) -> &Language {
        &self.language
    }

    /// What is wrong, in the order of the text.
    pub fn diagnostics(&self) -> &[Diagnostic] {
        &self.examined.diagnostics
    }

    /// Names that are of no use, in the order of the text.
    pub fn unused(&self) -> impl Iterator<Item = &Diagnostic> {
        self.examined
            .notes
            .iter()
            .filter(|note| note.is_of_no_use())
    }

    /// The same text without the line of a place, if it cannot be read as it is: while a line is being
    /// written, the others tell which names there are. All places stay what they are.
    fn without_line(&self, offset: u32) -> Option<Looked> {
        let is_read = self.examined.names.is_some();
        let is_right = !self.examined.diagnostics.iter().any(Diagnostic::is_error);
        if is_read && is_right {
            return None;
        }
        let line = self.source.line_span(self.source.line_of(offset));
        let text = self.source.text();
        let blank = " ".repeat((line.end - line.start) as usize);
        let (before, after) = (&text[..line.start as usize], &text[line.end as usize..]);
        let source = SourceText::new(self.source.name(), format!("{before}{blank}{after}"));
        let rest = Looked::new(&self.language, &source);
        (rest.examined.names.is_some() || !is_read).then_some(rest)
    }

    /// All tokens that stand for text, in its order.
    fn tokens(&self) -> impl Iterator<Item = Token> {
        let (kept, ignored) = match &self.tokens {
            Some(tokens) => (&tokens.tokens[..], &tokens.ignored[..]),
            None => (&[][..], &[][..]),
        };
        let (mut kept, mut ignored) = (kept.iter().peekable(), ignored.iter().peekable());
        let next = move || {
            let is_ignored = match (kept.peek(), ignored.peek()) {
                (Some(one), Some(other)) => other.span.start < one.span.start,
                (None, other) => other.is_some(),
                (Some(_), None) => false,
            };
            let token = if is_ignored {
                ignored.next()
            } else {
                kept.next()
            };
            token.copied()
        };
        std::iter::from_fn(next).filter(|token| token.kind != KindId::END && !token.span.is_empty())
    }

    /// The token at a place; of two that meet there, the one that is more than a sign.
    pub fn token_at(&self, offset: u32) -> Option<Token> {
        let touching = self
            .tokens()
            .skip_while(|token| token.span.end < offset)
            .take_while(|token| token.span.start <= offset);
        touching.max_by_key(|token| {
            let text = self.source.slice(token.span);
            let is_word = text.starts_with(|c: char| c.is_alphanumeric() || c == '_');
            let is_blank = text.trim().is_empty();
            (
                is_word,
                !is_blank,
                token.span.start <= offset && offset < token.span.end,
            )
        })
    }

    /// The lines of a stretch, the first and the last.
    fn lines_of(&self, span: Span) -> (u32, u32) {
        let last = span.end.max(span.start + 1) - 1;
        (self.source.line_of(span.start), self.source.line_of(last))
    }
}
