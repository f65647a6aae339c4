//! From a text to tokens: one minimal automaton for all patterns and all literals of
//! the definition, longest match, one pass.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::definition::{Literal, Thing, Turn};
use crate::diagnostic::{Diagnostic, Outcome, codes, has_errors};
use crate::source::SourceText;

mod automaton;
mod blocks;
mod building;
mod byte_sets;
mod classes;
mod holes;
mod kind;
mod layout;
mod mistakes;
mod nfa;
mod report;
mod scan;
mod signs;
mod token;
mod token_values;
mod words;

use automaton::{Automaton, DEAD};
use blocks::Blocks;
use holes::Pieces;
use kind::{ByName, More};
pub use kind::{Kind, KindId, Origin};
pub use mistakes::mistakes;
pub(crate) use report::no_token;
pub use signs::Signs;
pub use token::Token;
use words::Words;

/// The tokens of one text.
#[derive(Clone, Debug)]
pub struct Tokens {
    /// The text.
    pub source: Arc<SourceText>,
    /// The tokens the tree is made of, in order; the last is the end of the text.
    pub tokens: Vec<Token>,
    /// The ignored ones, in order, if they were asked for.
    pub ignored: Vec<Token>,
    /// Whether the text ends inside a token that is never closed.
    pub unfinished: bool,
    /// The signs among them that are operators before the text begins.
    pub signs: Arc<Signs>,
}

/// Splits texts into the tokens of one language.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Lexer {
    kinds: Arc<[Kind]>,
    #[serde(skip)]
    by_name: ByName,
    /// The signs that are built in operators.
    signs: Arc<Signs>,
    /// One for each group.
    automata: Vec<Automaton>,
    /// What bytes tell by themselves of the tokens of each group.
    #[serde(skip)]
    blocks: Vec<Blocks>,
    /// The group in which texts begin.
    first: Group,
    /// Literals that a pattern matches as well.
    words: Words,
    /// Whether literals are the same in capital and in small letters.
    ignores_case: bool,
    /// The tokens with holes.
    holes: Vec<Pieces>,
    layout: Option<layout::Rules>,
    /// The kind of what is no token.
    odd: KindId,
    /// What to do with a token of each kind: what the scan has to know of a kind, small
    /// enough to stay near.
    care: Vec<Care>,
}

/// A group of tokens, by its number: only its tokens are read where a text is in it.
pub(crate) type Group = u16;

/// The group of literals, and of `tokens` without a name.
const ORDINARY: Group = 0;

/// What is done with a token beside putting it on the list.
#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize)]
#[expect(clippy::struct_excessive_bools, reason = "four independent questions")]
struct Care {
    ignored: bool,
    /// Whether more has to be read than the automaton knows of.
    goes_on: bool,
    /// Whether its text has to be a value.
    is_value: bool,
    /// Whether its text may be one of the words.
    word: bool,
}

/// Pairs of brackets: what people look for by eye, and what line ends inside do not matter
/// in, unless a form says so.
pub const BRACKETS: [(&str, &str); 3] = [("(", ")"), ("[", "]"), ("{", "}")];

/// The kind of a literal, or of something else by its name.
pub(crate) fn kind_named(kinds: &[Kind], name: &str, literal: bool) -> Option<KindId> {
    let is_it = |kind: &Kind| kind.is_literal() == literal && kind.name == name;
    let at = kinds.iter().position(is_it).filter(|&at| at > 0)?;
    Some(KindId(at as u16))
}

/// Whether a text is an opening bracket.
pub(crate) fn is_opening(text: &str) -> bool {
    BRACKETS.iter().any(|(open, _)| *open == text)
}

/// Whether a text is a closing bracket.
pub(crate) fn is_closing(text: &str) -> bool {
    BRACKETS.iter().any(|(_, close)| *close == text)
}

/// No file has more errors worth showing.
const MOST_ERRORS: usize = 100;

impl Lexer {
    /// Whether some token starts with a character.
    pub(crate) fn can_start(&self, c: char) -> bool {
        let mut automata = self.automata.iter();
        automata.any(|automaton| automaton.after(automaton.start(), c) != DEAD)
    }

    /// Whether a text is one token of a kind.
    pub(crate) fn is_one(&self, kind: KindId, text: &str) -> bool {
        let group = self.kind(kind).group;
        let outcome = self.tokens_in(group, &SourceText::new("sample", text));
        let tokens = outcome.value.as_ref().map_or(&[][..], |t| &t.tokens);
        !has_errors(&outcome.diagnostics)
            && tokens.first().is_some_and(|first| {
                (first.kind == kind || first.also() == Some(kind))
                    && first.span.range() == (0..text.len())
            })
    }

    /// Whether a kind is of pieces of a text with holes.
    pub(crate) fn is_piece(&self, kind: KindId) -> bool {
        self.holes.iter().any(|holes| holes.is_piece(kind))
    }

    /// A shortest text that is one token of a kind; nothing for layout, and where every
    /// text is some other token first.
    pub fn sample(&self, kind: KindId) -> Option<String> {
        let own = self.kind(kind);
        let is_it = |text: &str| self.is_one(kind, text);
        match own.origin {
            Origin::Literal => Some(own.name.clone()).filter(|text| is_it(text)),
            Origin::Layout | Origin::Odd => None,
            Origin::Pattern if self.is_piece(kind) => own
                .pattern
                .as_ref()?
                .delimited()
                .map(|(open, _, close)| open + &close),
            Origin::Pattern => {
                let texts = automaton::survey(&[(kind.0, Option::clone(&own.pattern)?)])?;
                texts
                    .into_iter()
                    .filter(|state| !state.accepts.is_empty())
                    .map(|state| state.text)
                    .find(|text| is_it(text))
            }
        }
    }

    /// Whether a token of a kind ends where a hole begins.
    pub(crate) fn begins_hole(&self, kind: KindId) -> bool {
        let mut pieces = self.holes.iter();
        pieces.any(|p| p.is_piece(kind) && kind != p.end_kind())
    }

    /// Whether a token of a kind starts where a hole ends.
    pub(crate) fn ends_hole(&self, kind: KindId) -> bool {
        let mut pieces = self.holes.iter();
        pieces.any(|p| p.is_piece(kind) && kind != p.start_kind())
    }

    /// Whether there is any kind of token that a text can have.
    pub(crate) fn has_kinds(&self) -> bool {
        let mut own = self.kinds.iter().skip(1);
        own.any(|kind| !kind.is_odd())
    }

    /// The kinds, by index.
    pub fn kinds(&self) -> &[Kind] {
        &self.kinds
    }

    /// The kinds, to be kept.
    pub(crate) fn shared_kinds(&self) -> Arc<[Kind]> {
        Arc::clone(&self.kinds)
    }

    /// A kind.
    pub fn kind(&self, id: KindId) -> &Kind {
        &self.kinds[id.0 as usize]
    }

    /// The kind of a literal or of a pattern's name.
    pub fn kind_of(&self, name: &str, literal: bool) -> Option<KindId> {
        self.by_name.find(name, literal)
    }

    /// The kinds of the tokens among some things.
    pub(crate) fn kinds_of<'t>(&'t self, things: &'t [Thing]) -> impl Iterator<Item = KindId> + 't {
        things.iter().filter_map(|thing| match thing {
            Thing::Named(name) => self.kind_of(&name.text, false),
            Thing::Literal(name) => self.kind_of(&name.text, true),
        })
    }

    /// The value that a token stands for: what it holds, or its text.
    pub fn value(&self, source: &SourceText, token: Token) -> Literal {
        let kind = self.kind(token.kind);
        // However a word was written, meanings know it as the definition writes it.
        let text = match kind.origin {
            Origin::Literal if self.ignores_case => &kind.name,
            Origin::Literal | Origin::Pattern | Origin::Layout | Origin::Odd => {
                source.slice(token.span)
            }
        };
        kind.value(text)
            .unwrap_or_else(|_| Literal::Text(text.to_owned()))
    }

    /// Splits a text. Characters outside every token are errors, one a run, and
    /// tokenizing goes on after them.
    pub fn tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.tokens_in(self.first, source)
    }

    /// The same of a text that stands where the tokens of a group are read.
    pub(crate) fn tokens_in(&self, group: Group, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.without_odd(self.scan(group, source, false))
    }

    /// All groups.
    pub(crate) fn groups(&self) -> impl Iterator<Item = Group> {
        0..self.automata.len() as Group
    }

    /// The group in which texts begin.
    pub(crate) fn first_group(&self) -> Group {
        self.first
    }

    /// The group of a kind.
    pub(crate) fn group_of(&self, kind: KindId) -> Group {
        self.kind(kind).group
    }

    /// The groups that a place is in, the innermost last, after a token of a kind.
    pub(crate) fn turn(&self, groups: &mut Vec<Group>, kind: KindId) {
        let Turn { enters, leaves } = self.kind(kind).turn;
        if leaves {
            groups.pop();
            if groups.is_empty() {
                groups.push(self.first);
            }
        }
        groups.extend(enters);
    }

    /// The same, with the ignored tokens.
    pub fn all_tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.without_odd(self.scan(self.first, source, true))
    }

    /// The same of a text that stands where ordinary tokens are read.
    fn all_ordinary(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.without_odd(self.scan(ORDINARY, source, true))
    }

    /// The same, with a stand-in for each run of characters that no token starts with.
    pub(crate) fn tokens_and_odd(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.scan(self.first, source, false)
    }

    fn without_odd(&self, mut outcome: Outcome<Tokens>) -> Outcome<Tokens> {
        if has_errors(&outcome.diagnostics)
            && let Some(tokens) = &mut outcome.value
        {
            tokens.tokens.retain(|token| token.kind != self.odd);
        }
        outcome
    }

    /// Whether line ends matter to it.
    pub(crate) fn has_layout(&self) -> bool {
        self.layout.is_some()
    }

    /// The layout of tokens in which something has been changed, made anew.
    pub(crate) fn laid_out_anew(&self, mut tokens: Tokens) -> Tokens {
        if let Some(rules) = &self.layout {
            let is_layout = |token: &Token| self.kind(token.kind).is_layout();
            tokens.tokens.retain(|token| !is_layout(token));
            rules.apply(&mut tokens, &mut Vec::new());
        }
        tokens
    }

    fn scan(&self, group: Group, source: &Arc<SourceText>, keep_ignored: bool) -> Outcome<Tokens> {
        let scanned = scan::scan(self, group, source, keep_ignored);
        let (mut out, mut diagnostics, suppressed) = scanned;
        if let Some(rules) = &self.layout {
            rules.apply(&mut out, &mut diagnostics);
        }
        if suppressed > 0 {
            diagnostics.push(Diagnostic::note(
                codes::TOKEN_UNKNOWN,
                format!("{suppressed} more errors of this kind are not shown"),
            ));
        }
        Outcome {
            value: Some(out),
            diagnostics,
        }
    }
}
