//! From a text to tokens: one minimal automaton for all patterns and all literals of
//! the definition, longest match, one pass.

use std::sync::Arc;

use crate::definition::{Definition, Holds, Literal, Pattern};
use crate::diagnostic::{Diagnostic, Outcome, codes, quote};
use crate::source::{SourceText, Span};

mod automaton;
mod classes;
mod held;
mod nfa;

use automaton::{Automaton, DEAD};
use held::NotHeld;

/// The index of a token kind; `KindId::END` is the end of the text.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub struct KindId(pub u16);

impl KindId {
    /// The end of the text.
    pub const END: KindId = KindId(0);
}

/// A kind of token.
#[derive(Clone, Debug)]
pub struct Kind {
    /// The name of the pattern, or the literal's text.
    pub name: String,
    /// Whether it is a literal of a `written` clause.
    pub literal: bool,
    /// Whether it is dropped from the tree.
    pub ignored: bool,
    /// What its text is converted to.
    pub holds: Option<Holds>,
    /// How messages call it.
    pub wording: String,
    escapes: bool,
}

/// One token.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Token {
    /// Its kind.
    pub kind: KindId,
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
    /// The ignored ones, in order.
    pub ignored: Vec<Token>,
    /// Whether the text ends inside a token that is never closed.
    pub unfinished: bool,
}

/// Splits texts into the tokens of one language.
#[derive(Clone, Debug)]
pub struct Lexer {
    kinds: Vec<Kind>,
    automaton: Automaton,
}

/// No file has more errors worth showing.
const MOST_ERRORS: usize = 100;

impl Lexer {
    /// Compiles the patterns of a definition and the literals of its `written` clauses.
    pub fn new(definition: &Definition, literals: &[String]) -> Result<Lexer, Box<Diagnostic>> {
        let mut kinds = vec![Kind {
            name: "end".to_owned(),
            literal: false,
            ignored: false,
            holds: None,
            wording: "the end of the text".to_owned(),
            escapes: false,
        }];
        // Literals come first: on a tie they win, so that keywords are reserved.
        let mut patterns = Vec::new();
        for literal in literals {
            patterns.push((kinds.len() as u16, Pattern::Literal(literal.clone())));
            kinds.push(Kind {
                name: literal.clone(),
                literal: true,
                ignored: false,
                holds: None,
                wording: quote(literal),
                escapes: false,
            });
        }
        for rule in &definition.tokens {
            patterns.push((kinds.len() as u16, rule.pattern.clone()));
            kinds.push(Kind {
                name: rule.name.text.clone(),
                literal: false,
                ignored: rule.ignored,
                holds: rule.holds,
                wording: definition.wording(&rule.name.text),
                escapes: held::mentions_backslash(&rule.pattern),
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
        Ok(Lexer { kinds, automaton })
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
            .position(|k| k.literal == literal && k.name == name)
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
        let mut scan = Scan {
            lexer: self,
            source,
            out: Tokens {
                source: Arc::clone(source),
                tokens: Vec::new(),
                ignored: Vec::new(),
                unfinished: false,
            },
            diagnostics: Vec::new(),
            suppressed: 0,
        };
        scan.all();
        let Scan {
            out,
            mut diagnostics,
            suppressed,
            ..
        } = scan;
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
    lexer: &'a Lexer,
    source: &'a Arc<SourceText>,
    out: Tokens,
    diagnostics: Vec<Diagnostic>,
    suppressed: usize,
}

/// What stands at a place.
enum Found {
    Token(KindId, usize),
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
                    let ignored = self.lexer.kind(kind).ignored;
                    let token = Token { kind, tight, span };
                    if ignored {
                        self.out.ignored.push(token);
                    } else {
                        self.check_value(token);
                        self.out.tokens.push(token);
                    }
                    tight = !ignored;
                    at = end;
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
            tight: false,
            span: Span::new(end, end),
        });
    }

    /// The longest token at a place.
    fn find(&self, start: usize) -> Found {
        let automaton = &self.lexer.automaton;
        let text = self.source.text();
        let bytes = text.as_bytes();
        let mut state = automaton.start();
        let mut last_live = state;
        let mut at = start;
        let mut best = None;
        while let Some(&byte) = bytes.get(at) {
            if byte < 128 {
                state = automaton.after_ascii(state, byte);
                if state == DEAD {
                    break;
                }
                at += 1;
            } else {
                let Some(c) = text[at..].chars().next() else {
                    break;
                };
                state = automaton.after(state, c);
                if state == DEAD {
                    break;
                }
                at += c.len_utf8();
            }
            last_live = state;
            if let Some(kind) = automaton.accepted(state) {
                best = Some((KindId(kind), at));
            }
        }
        match best {
            Some((kind, end)) => Found::Token(kind, end),
            None => Found::Nothing {
                stopped: at,
                state: last_live,
            },
        }
    }

    fn report(&mut self, diagnostic: Diagnostic) {
        if self.diagnostics.len() < MOST_ERRORS {
            self.diagnostics.push(diagnostic);
        } else {
            self.suppressed += 1;
        }
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
            let wording = &self.lexer.kinds[kind as usize].wording;
            self.out.unfinished |= stopped == text.len();
            let opening = text[start..].chars().next().unwrap_or(' ');
            let limit = if stopped == text.len() {
                "before the text ends"
            } else {
                "before the line ends"
            };
            let span = Span::new(start, stopped);
            let remedy = if stopped == text.len() {
                "close it"
            } else {
                "close it on the same line"
            };
            self.report(
                Diagnostic::error(
                    codes::TOKEN_UNKNOWN,
                    format!("what starts here like {wording} is never finished"),
                )
                .at(self.source, span)
                .label(format!(
                    "opened with {}, not closed {limit}",
                    quote(&opening.to_string())
                ))
                .remedy(remedy),
            );
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
            Some(Holds::Number) => true,
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
