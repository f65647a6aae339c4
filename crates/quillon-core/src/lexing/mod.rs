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

use automaton::{Automaton, DEAD};
use held::NotHeld;
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
        let mut scan = Scan {
            keep_ignored,
            lexer: self,
            source,
            out: Tokens {
                source: Arc::clone(source),
                tokens: Vec::with_capacity(source.text().len() / 6),
                ignored: Vec::new(),
                unfinished: false,
            },
            diagnostics: Vec::new(),
            suppressed: 0,
        };
        scan.all();
        let Scan {
            mut out,
            mut diagnostics,
            suppressed,
            ..
        } = scan;
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

/// One pass over a text.
struct Scan<'a> {
    keep_ignored: bool,
    lexer: &'a Lexer,
    source: &'a Arc<SourceText>,
    out: Tokens,
    diagnostics: Vec<Diagnostic>,
    suppressed: usize,
}

/// What stands at a place.
enum Found {
    Token(KindId, usize),
    /// Something that nests and is never closed.
    Unclosed(KindId),
    /// No token; where the automaton gave up, and in which state.
    Nothing {
        stopped: usize,
        state: u32,
    },
}

impl Scan<'_> {
    fn all(&mut self) {
        let length = self.source.text().len();
        let mut at = 0;
        let mut tight = false;
        while at < length {
            match self.find(at) {
                Found::Token(kind, end) => {
                    let span = Span::new(at, end);
                    let Care { ignored, held, .. } = self.lexer.care[kind.0 as usize];
                    if !ignored || self.keep_ignored {
                        let token = Token {
                            kind,
                            also: self.also(kind, span),
                            tight,
                            span,
                        };
                        if ignored {
                            self.out.ignored.push(token);
                        } else {
                            if held {
                                self.check_value(token);
                            }
                            self.out.tokens.push(token);
                        }
                    }
                    tight = !ignored;
                    at = end;
                }
                Found::Unclosed(kind) => {
                    tight = false;
                    self.unfinished(at, length, kind);
                    at = length;
                }
                Found::Nothing { stopped, state } => {
                    tight = false;
                    at = self.bad(at, stopped, state);
                }
            }
        }
        // The end is where the last token ends: what is missing is missing there, not
        // after the blanks that follow.
        let end = self
            .out
            .tokens
            .last()
            .map_or(0, |token| token.span.end as usize);
        self.out.tokens.push(Token {
            kind: KindId::END,
            also: None,
            tight: false,
            span: Span::new(end, end),
        });
    }

    /// The longest token at a place.
    #[inline]
    fn find(&self, start: usize) -> Found {
        let automaton = &self.lexer.automaton;
        let bytes = self.source.text().as_bytes();
        // Mostly the automaton ends where a token does; only if not, or if there is more
        // than ASCII, is it run again with an eye on where the last one ended.
        let (state, end) = automaton.run_ascii(automaton.start(), bytes, start);
        let ascii_only = bytes.get(end).is_none_or(|&byte| byte < 128);
        match automaton.accepted(state) {
            Some(kind) if ascii_only && end > start => {
                if self.lexer.care[kind as usize].nests {
                    return self.found(KindId(kind), end);
                }
                Found::Token(KindId(kind), end)
            }
            _ => self.find_slowly(start),
        }
    }

    fn found(&self, kind: KindId, end: usize) -> Found {
        match &self.lexer.kind(kind).nests {
            Some((open, close)) => self.nested(kind, open, close, end),
            None => Found::Token(kind, end),
        }
    }

    fn find_slowly(&self, start: usize) -> Found {
        let automaton = &self.lexer.automaton;
        let mut state = automaton.start();
        let mut at = start;
        let mut best = None;
        for c in self.source.text()[start..].chars() {
            let next = automaton.after(state, c);
            if next == DEAD {
                break;
            }
            state = next;
            at += c.len_utf8();
            if let Some(kind) = automaton.accepted(state) {
                best = Some((KindId(kind), at));
            }
        }
        match best {
            Some((kind, end)) => self.found(kind, end),
            None => Found::Nothing { stopped: at, state },
        }
    }

    /// The soft literal that a token may be as well.
    #[inline]
    fn also(&self, kind: KindId, span: Span) -> Option<KindId> {
        if self.lexer.soft.is_empty() || self.lexer.kind(kind).is_literal() {
            return None;
        }
        self.lexer.soft.get(self.source.slice(span)).copied()
    }

    /// Goes on from after an opening text to the closing one that belongs to it.
    fn nested(&self, kind: KindId, open: &str, close: &str, start: usize) -> Found {
        let text = self.source.text();
        let mut depth = 1;
        let mut at = start;
        while depth > 0 {
            let rest = &text[at..];
            let next_close = rest.find(close);
            // Only an opening that starts before the next closing text counts.
            let limit = next_close.map_or(rest.len(), |offset| offset + open.len() - 1);
            let next_open = rest.as_bytes()[..limit.min(rest.len())]
                .windows(open.len())
                .position(|window| window == open.as_bytes());
            match (next_open, next_close) {
                (Some(offset), _) => {
                    depth += 1;
                    at += offset + open.len();
                }
                (None, Some(offset)) => {
                    depth -= 1;
                    at += offset + close.len();
                }
                (None, None) => {
                    return Found::Unclosed(kind);
                }
            }
        }
        Found::Token(kind, at)
    }

    fn report(&mut self, diagnostic: Diagnostic) {
        if self.diagnostics.len() < MOST_ERRORS {
            self.diagnostics.push(diagnostic);
        } else {
            self.suppressed += 1;
        }
    }

    /// Reports a token that is begun and not finished where the line or the text ends.
    fn unfinished(&mut self, start: usize, stopped: usize, kind: KindId) {
        let text = self.source.text();
        let wording = &self.lexer.kind(kind).wording;
        let at_end = stopped == text.len();
        self.out.unfinished |= at_end;
        let opening = match &self.lexer.kind(kind).nests {
            Some((open, _)) => open.clone(),
            None => text[start..].chars().take(1).collect(),
        };
        let (limit, remedy) = if at_end {
            ("before the text ends", "close it")
        } else {
            ("before the line ends", "close it on the same line")
        };
        self.report(
            Diagnostic::error(
                codes::TOKEN_UNKNOWN,
                format!("what starts here like {wording} is never finished"),
            )
            .at(self.source, Span::new(start, stopped))
            .label(format!(
                "opened with {}, not closed {limit}",
                quote(&opening)
            ))
            .remedy(remedy),
        );
    }

    /// Reports what is no token and gives the place to go on from.
    fn bad(&mut self, start: usize, stopped: usize, state: u32) -> usize {
        let text = self.source.text();
        let at_line_end = text[stopped..]
            .chars()
            .next()
            .is_none_or(|c| c == '\n' || c == '\r');
        let kinds = self.lexer.automaton.reachable_kinds(state);
        if stopped > start
            && at_line_end
            && let [kind] = kinds[..]
        {
            self.unfinished(start, stopped, KindId(kind));
            return stopped;
        }
        let mut end = start;
        while let Some(c) = text[end..].chars().next() {
            if end > start && (c.is_whitespace() || matches!(self.find(end), Found::Token(..))) {
                break;
            }
            end += c.len_utf8();
        }
        let span = Span::new(start, end);
        let bad = &text[start..end];
        let message = if bad.chars().count() == 1 {
            format!("no token starts with {}", quote(bad))
        } else {
            format!("no token starts with any of {}", quote(bad))
        };
        let mut diagnostic = Diagnostic::error(codes::TOKEN_UNKNOWN, message).at(self.source, span);
        if let Some(c) = bad.chars().next().filter(|c| !c.is_ascii()) {
            diagnostic = diagnostic.why(format!("this character is U+{:04X}", c as u32));
        }
        self.report(diagnostic);
        end
    }

    /// Reports a token whose text cannot be the value it is said to hold.
    fn check_value(&mut self, token: Token) {
        let kind = self.lexer.kind(token.kind);
        let text = self.source.slice(token.span);
        // Up to 18 decimal digits always fit: most tokens end here.
        let numeric = match kind.holds {
            Some(Holds::Integer) => text.len() > 18 || !text.bytes().all(|b| b.is_ascii_digit()),
            // Digits with one point among them always are a number.
            Some(Holds::Number) => !text.bytes().all(|b| b.is_ascii_digit() || b == b'.'),
            _ => false,
        };
        if !numeric {
            return;
        }
        let Err(problem) = held::held(text, kind.holds, kind.escapes) else {
            return;
        };
        let diagnostic = match problem {
            NotHeld::TooLarge => Diagnostic::error(
                codes::TOKEN_INTEGER,
                format!("{} is too large for an integer", quote(text)),
            )
            .why(format!("the largest integer is {}", i64::MAX)),
            NotHeld::NotANumber => Diagnostic::error(
                codes::TOKEN_HELD,
                format!(
                    "{} cannot be read as {}",
                    quote(text),
                    match kind.holds {
                        Some(Holds::Integer) => "an integer",
                        _ => "a number",
                    }
                ),
            )
            .why(format!("the definition says that {} holds one", kind.name)),
        };
        let diagnostic = diagnostic.at(self.source, token.span);
        self.report(diagnostic);
    }
}
