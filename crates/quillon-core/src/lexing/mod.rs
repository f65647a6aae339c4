//! From a text to tokens: one minimal automaton for all patterns and all literals of
//! the definition, longest match, one pass.

use std::sync::Arc;

use crate::definition::{Definition, Holds, Layout, Literal, Pattern};
use crate::diagnostic::{Diagnostic, Outcome, codes, quote};
use crate::source::{SourceText, Span};

mod automaton;
mod classes;
mod held;
mod layout;
mod mistakes;
mod nfa;
mod scan;

use automaton::{Automaton, DEAD};
pub use mistakes::mistakes;
use rustc_hash::FxHashMap;

/// The index of a token kind; `KindId::END` is the end of the text.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct KindId(pub u16);

impl KindId {
    /// The end of the text.
    pub const END: KindId = KindId(0);
}

/// What makes tokens of a kind.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Origin {
    /// A literal of a `written` clause.
    Literal,
    /// A line of `tokens`; also the end of the text.
    Pattern,
    /// The layout: such tokens have no text of their own.
    Layout,
}

/// A kind of token.
#[derive(Clone, Debug)]
pub struct Kind {
    /// The name of the pattern, or the literal's text.
    pub name: String,
    /// What makes such tokens.
    pub origin: Origin,
    /// Whether it is dropped from the tree.
    pub ignored: bool,
    /// What its text is converted to.
    pub holds: Option<Holds>,
    /// How messages call it.
    pub wording: String,
    escapes: bool,
    /// What it looks like.
    pattern: Option<Pattern>,
    /// The opening and the closing text, where it nests.
    nests: Option<(String, String)>,
}

impl Kind {
    /// Whether it is a literal of a `written` clause.
    pub fn is_literal(&self) -> bool {
        self.origin == Origin::Literal
    }

    /// Whether layout makes it.
    pub fn is_layout(&self) -> bool {
        self.origin == Origin::Layout
    }

    /// A kind of which nothing else is known.
    fn named(name: &str, wording: String) -> Kind {
        Kind {
            name: name.to_owned(),
            origin: Origin::Pattern,
            ignored: false,
            holds: None,
            wording,
            escapes: false,
            pattern: None,
            nests: None,
        }
    }
}

/// One token.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Token {
    /// Its kind.
    pub kind: KindId,
    /// The soft literal that it may be as well.
    pub also: Option<KindId>,
    /// Whether it touches the token before it.
    pub tight: bool,
    /// Where it stands.
    pub span: Span,
}

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
}

/// Splits texts into the tokens of one language.
#[derive(Clone, Debug)]
pub struct Lexer {
    kinds: Vec<Kind>,
    automaton: Automaton,
    /// Soft literals that a pattern matches as well.
    soft: FxHashMap<String, KindId>,
    layout: Option<layout::Rules>,
    /// What to do with a token of each kind: what the scan has to know of a kind, small
    /// enough to stay near.
    care: Vec<Care>,
}

/// What is done with a token beside putting it on the list.
#[derive(Clone, Copy, Debug, Default)]
struct Care {
    ignored: bool,
    nests: bool,
    /// Whether its text has to be a value.
    held: bool,
}

/// Pairs of brackets: what people look for by eye, and what line ends inside do not matter
/// in, unless a form says so.
pub(crate) const BRACKETS: [(&str, &str); 3] = [("(", ")"), ("[", "]"), ("{", "}")];

/// No file has more errors worth showing.
const MOST_ERRORS: usize = 100;

impl Lexer {
    /// Compiles the patterns of a definition and the literals of its `written` clauses,
    /// each with whether it is soft.
    pub fn new(
        definition: &Definition,
        literals: &[(String, bool)],
    ) -> Result<Lexer, Box<Diagnostic>> {
        let mut kinds = vec![Kind::named("end", "the end of the text".to_owned())];
        let mut patterns = Vec::new();
        let mut soft = FxHashMap::default();
        // Literals come first: on a tie they win, so that keywords are reserved.
        for (literal, is_soft) in literals {
            let id = kinds.len() as u16;
            kinds.push(Kind {
                origin: Origin::Literal,
                ..Kind::named(literal, quote(literal))
            });
            if *is_soft {
                soft.insert(literal.clone(), KindId(id));
            } else {
                patterns.push((id, Pattern::Literal(literal.clone())));
            }
        }
        for rule in &definition.tokens {
            let name = &rule.name.text;
            patterns.push((kinds.len() as u16, rule.pattern.clone()));
            kinds.push(Kind {
                ignored: rule.ignored,
                holds: rule.holds,
                pattern: Some(rule.pattern.clone()),
                escapes: held::mentions_backslash(&rule.pattern),
                nests: match &rule.pattern {
                    Pattern::Nested(open, close) => Some((open.clone(), close.clone())),
                    _ => None,
                },
                ..Kind::named(name, definition.wording(name))
            });
        }
        for (literal, kind) in &soft {
            patterns.push((kind.0, Pattern::Literal(literal.clone())));
        }
        for name in definition.layout.map_or(&[][..], Layout::tokens) {
            let wording = match *name {
                "LineEnd" => "the end of the line",
                "Indent" => "a deeper line",
                _ => "the end of the block",
            };
            kinds.push(Kind {
                origin: Origin::Layout,
                ..Kind::named(name, wording.to_owned())
            });
        }
        let automaton = Automaton::new(&patterns).ok_or_else(|| {
            let problem = Diagnostic::error(
                codes::DEFINITION_LIMIT,
                "the token patterns together need too large a table",
            )
            .at(&definition.source, definition.name.span)
            .remedy(
                "simplify the patterns: repeated optional parts that overlap are the usual cause",
            );
            Box::new(problem)
        })?;
        let mut lexer = Lexer {
            kinds,
            automaton,
            soft,
            layout: None,
            care: Vec::new(),
        };
        lexer.care = lexer
            .kinds
            .iter()
            .map(|kind| Care {
                ignored: kind.ignored,
                nests: kind.nests.is_some(),
                held: matches!(kind.holds, Some(Holds::Integer | Holds::Number)),
            })
            .collect();
        lexer.layout = definition
            .layout
            .map(|layout| layout::Rules::new(definition, layout, &lexer));
        Ok(lexer)
    }

    /// Whether some token starts with a character.
    pub fn can_start(&self, c: char) -> bool {
        self.automaton.after(self.automaton.start(), c) != DEAD
    }

    /// A shortest text that is one token of a kind; nothing for layout, and where every
    /// text is some other token first.
    pub fn sample(&self, kind: KindId) -> Option<String> {
        let own = self.kind(kind);
        let is_it = |text: &str| {
            let outcome = self.tokens(&SourceText::new("sample", text));
            !outcome.has_errors()
                && outcome.value.is_some_and(|t| {
                    t.tokens.first().is_some_and(|first| {
                        (first.kind == kind || first.also == Some(kind))
                            && first.span.range() == (0..text.len())
                    })
                })
        };
        match own.origin {
            Origin::Literal => Some(own.name.clone()).filter(|text| is_it(text)),
            Origin::Layout => None,
            Origin::Pattern => {
                let texts = automaton::survey(&[(kind.0, own.pattern.clone()?)])?;
                texts
                    .into_iter()
                    .filter(|state| !state.accepts.is_empty())
                    .map(|state| state.text)
                    .find(|text| is_it(text))
            }
        }
    }

    /// The kinds, by index.
    pub fn kinds(&self) -> &[Kind] {
        &self.kinds
    }

    /// A kind.
    pub fn kind(&self, id: KindId) -> &Kind {
        &self.kinds[id.0 as usize]
    }

    /// The kind of a literal or of a pattern's name.
    pub fn kind_of(&self, name: &str, literal: bool) -> Option<KindId> {
        self.kinds
            .iter()
            .position(|k| k.is_literal() == literal && k.name == name)
            .filter(|&at| at > 0)
            .map(|at| KindId(at as u16))
    }

    /// The value that a token stands for: what it holds, or its text.
    pub fn value(&self, source: &SourceText, token: Token) -> Literal {
        let kind = self.kind(token.kind);
        let text = source.slice(token.span);
        held::held(text, kind.holds, kind.escapes)
            .unwrap_or_else(|_| Literal::Text(text.to_owned()))
    }

    /// Splits a text. Characters outside every token are errors, one a run, and
    /// tokenizing goes on after them.
    pub fn tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.scan(source, false)
    }

    /// The same, with the ignored tokens.
    pub fn all_tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        self.scan(source, true)
    }

    fn scan(&self, source: &Arc<SourceText>, keep_ignored: bool) -> Outcome<Tokens> {
        let (mut out, mut diagnostics, suppressed) = scan::scan(self, source, keep_ignored);
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
