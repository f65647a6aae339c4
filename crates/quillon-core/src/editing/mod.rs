//! What an editor asks of a program: what is at a place, what a name means and where else it
//! stands, what could come next, how the text is made up. Nothing here knows how an editor asks.

use std::cell::OnceCell;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::definition::Form;
use crate::diagnostic::Diagnostic;
use crate::language::{Examined, Extent, Language, Reading};
use crate::lexing::{BRACKETS, KindId, Token, Tokens, is_opening};
use crate::source::{SourceText, Span};
use crate::tree::Tree;

mod about;
mod breaking;
mod calling;
mod cases;
mod clauses;
mod colours;
mod completing;
mod consulting;
mod defining;
mod depth;
mod laying;
mod naming;
mod notation;
mod outline;
mod renaming;
mod rules;
mod shape;
mod supplying;
mod tidying;

pub(crate) use about::remark_above;
pub use about::{About, AboutForm, AboutName};
pub use calling::Call;
pub use cases::Cased;
pub use clauses::words_of_lines;
pub use colours::{Coloured, Role};
pub use completing::{Candidate, Filling, Piece, forms_to_fill_in, help, signature, snippet};
pub use defining::{Described, Item, ItemKind, Named};
pub use naming::{Standing, What};
pub use notation::{around_in_notation, colours_of_notation};
pub use outline::Symbol;
pub use rules::{Dialect, Looks, Rule, escaped, one_of, rules};
pub use tidying::{Blanks, Indent, arranged, arranged_program, begun};

/// A program with all that the stages before a run have found in it.
#[derive(Debug)]
pub struct Looked {
    language: Language,
    source: Arc<SourceText>,
    /// Its tokens, what is passed over among them, once they have been asked for.
    tokens: OnceCell<Option<Tokens>>,
    examined: Examined,
    /// What making its Core tells, once that has been asked.
    in_core: OnceCell<Vec<Diagnostic>>,
}

impl Looked {
    /// Looks at a program, right or wrong.
    pub fn new(language: &Language, source: &Arc<SourceText>) -> Looked {
        let mut looked = Looked {
            language: language.clone(),
            source: Arc::clone(source),
            tokens: OnceCell::new(),
            examined: language.examined(source),
            in_core: OnceCell::new(),
        };
        if looked.examined.names.is_none()
            && let Some(rest) = looked.rest_without(looked.wrong_at())
        {
            let rest = language.examined(&rest);
            looked.examined.tree = rest.tree;
            looked.examined.names = rest.names;
            looked.examined.types = rest.types;
        }
        looked
    }

    /// A program of which only the tree matters, which has been read already.
    fn of_tree(language: &Language, source: Arc<SourceText>, tree: Tree) -> Looked {
        Looked {
            language: language.clone(),
            source,
            tokens: OnceCell::new(),
            examined: Examined::of_tree(tree),
            in_core: OnceCell::new(),
        }
    }

    /// Where the last thing begins that is wrong.
    fn wrong_at(&self) -> u32 {
        let errors = self
            .examined
            .diagnostics
            .iter()
            .filter(|one| one.is_error());
        let last = errors.filter_map(|one| one.place.as_ref()).next_back();
        last.map_or(0, |place| place.span.start)
    }

    /// The text.
    pub fn source(&self) -> &Arc<SourceText> {
        &self.source
    }

    /// The language it is read in.
    pub fn language(&self) -> &Language {
        &self.language
    }

    /// What is wrong, in the order of the text, as far as the Core does not tell.
    pub fn diagnostics(&self) -> &[Diagnostic] {
        &self.examined.diagnostics
    }

    /// What else is wrong: what making the Core tells. It is made when this is first asked, which takes
    /// longer than all else.
    pub fn wrong_in_core(&self) -> &[Diagnostic] {
        self.in_core
            .get_or_init(|| self.language.wrong_in_core(&self.examined))
    }

    /// The same, as far as that has been asked.
    pub fn known_in_core(&self) -> Option<&[Diagnostic]> {
        self.in_core.get().map(Vec::as_slice)
    }

    /// Names that are of no use, in the order of the text: not those that a misspelt name may mean, nor
    /// in a text with parts that cannot be read those that stand anywhere else in it.
    pub fn unused(&self) -> impl Iterator<Item = &Diagnostic> {
        let errors = self.diagnostics().iter().filter(|one| one.is_error());
        let meant: Vec<String> = errors
            .filter_map(|one| Some(one.mend()?.text.trim().to_owned()))
            .collect();
        let mut often: FxHashMap<&str, usize> = FxHashMap::default();
        if self.examined.has_gaps {
            for token in self.tokens() {
                *often.entry(self.source.slice(token.span)).or_default() += 1;
            }
        }
        let may_be_used = move |note: &Diagnostic| {
            let place = note.place.as_ref();
            let name = place.map_or("", |place| self.source.slice(place.span));
            meant.iter().any(|meant| meant == name)
                || often.get(name).is_some_and(|count| *count > 1)
        };
        let notes = self.examined.notes.iter();
        notes.filter(move |note| note.is_of_no_use() && !may_be_used(note))
    }

    /// A look at the same text without what is being written at a place, if the text is wrong: what is
    /// around it tells which names there are.
    fn without_begun(&self, offset: u32) -> Option<Looked> {
        if !self.examined.diagnostics.iter().any(Diagnostic::is_error) {
            return None;
        }
        let rest = self.rest_without(offset)?;
        Some(Looked::new(&self.language, &rest))
    }

    /// The text without what is being written at a place. Forms that are open are ended behind it, so that
    /// all places stay what they are.
    fn rest_without(&self, offset: u32) -> Option<Arc<SourceText>> {
        let text = self.source.text();
        let line = self.source.line_span(self.source.line_of(offset));
        // A place can be inside the end of its line.
        let end = line.end.max(offset) as usize;
        let has_words = self
            .language
            .definition()
            .forms
            .iter()
            .any(Form::ends_in_a_word);
        let mut found = None;
        for start in self.beginnings(offset) {
            let blank = " ".repeat(end - start as usize);
            let text = format!("{}{blank}{}", &text[..start as usize], &text[end..]);
            // Brackets are found without reading, so they are tried first.
            let words = || has_words.then(|| self.closing_words(&text)).flatten();
            let brackets = std::iter::once(Some(self.closing(&text)));
            for ending in brackets.chain(std::iter::once_with(words)).flatten() {
                let source = SourceText::new(self.source.name(), format!("{text}{ending}"));
                match self.language.extent(&source, Reading::Program) {
                    Extent::Whole => return Some(source),
                    Extent::Parts => found = found.or(Some(source)),
                    Extent::Nothing => {}
                }
            }
        }
        found
    }

    /// What ends the forms that a text leaves open, if it is the beginning of a program.
    fn closing_words(&self, text: &str) -> Option<String> {
        let source = SourceText::new(self.source.name(), text);
        let closing = self.language.ahead(&source).closing;
        let words = closing.iter().flat_map(|word| [" ", word]);
        (!closing.is_empty()).then(|| words.collect())
    }

    /// What closes the brackets that a text leaves open.
    fn closing(&self, text: &str) -> String {
        let source = SourceText::new(self.source.name(), text);
        let mut open: Vec<&str> = Vec::new();
        for token in self
            .language
            .tokens(&source)
            .value
            .iter()
            .flat_map(|found| &found.tokens)
        {
            let text = source.slice(token.span);
            if let Some((_, close)) = BRACKETS.iter().find(|(open, _)| *open == text) {
                open.push(close);
            } else if open.last() == Some(&text) {
                open.pop();
            }
        }
        open.iter().rev().flat_map(|close| [" ", *close]).collect()
    }

    /// Where what is being written at a place may begin, the nearest first: at the place, at separators
    /// before it, and behind them and what opens.
    fn beginnings(&self, offset: u32) -> Vec<u32> {
        const MOST: usize = 6;
        let lexer = self.language.lexer();
        let separators = self.separators();
        let is_separator = |text: &str| separators.contains(&text);
        let before = self.tokens().take_while(|token| token.span.start < offset);
        let before: Vec<Token> = before
            .filter(|token| !lexer.kind(token.kind).ignored)
            .collect();
        let text = |token: &Token| self.source.slice(token.span);
        let line = |token: &Token| self.source.line_of(token.span.start);
        let found = (0..before.len()).rev().filter(|at| {
            let token = &before[*at];
            at.checked_sub(1).map(|at| &before[at]).is_none_or(|last| {
                is_separator(text(token))
                    || is_separator(text(last))
                    || is_opening(text(last))
                    || line(last) != line(token)
            })
        });
        let starts = found.map(|at| before[at].span.start);
        std::iter::once(offset).chain(starts).take(MOST).collect()
    }

    /// All tokens that stand for text, in its order.
    fn tokens(&self) -> impl Iterator<Item = Token> {
        let tokens = self
            .tokens
            .get_or_init(|| self.language.all_tokens(&self.source).value);
        let (kept, ignored) = match tokens {
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
