//! Layout as tokens: line ends, and the beginning and end of indented blocks.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{BRACKETS, KindId, Lexer, Token, Tokens};
use crate::definition::{Definition, Layout, Part};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::{SourceText, Span};

/// Which tokens layout makes, and which brackets it heeds.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(super) struct Rules {
    line_end: KindId,
    /// `Indent` and `Dedent`, where indentation matters.
    blocks: Option<(KindId, KindId)>,
    /// Opening brackets; true where line ends matter inside.
    opening: Vec<(KindId, bool)>,
    closing: Vec<KindId>,
}

impl Rules {
    /// The rules of a definition, once the lexer has the kinds that layout makes.
    pub fn new(definition: &Definition, layout: Layout, lexer: &Lexer) -> Rules {
        let kind = |name: &str| lexer.kind_of(name, false).unwrap_or(KindId::END);
        let literal = |text: &str| lexer.kind_of(text, true);
        let mut opening = Vec::new();
        let mut closing = Vec::new();
        for (open, close) in BRACKETS {
            let matters = definition
                .forms
                .iter()
                .filter_map(|form| form.written.as_ref())
                .any(|part| mentions_literal(part, open) && mentions_layout(part));
            opening.extend(literal(open).map(|kind| (kind, matters)));
            closing.extend(literal(close));
        }
        for pieces in &lexer.holes {
            opening.push((pieces.start_kind(), false));
            closing.push(pieces.end_kind());
        }
        Rules {
            line_end: kind("LineEnd"),
            blocks: (layout == Layout::Indentation).then(|| (kind("Indent"), kind("Dedent"))),
            opening,
            closing,
        }
    }

    /// Puts the tokens that layout makes among the others.
    pub fn apply(&self, tokens: &mut Tokens, diagnostics: &mut Vec<Diagnostic>) {
        let source = Arc::clone(&tokens.source);
        let mut pass = Pass {
            rules: self,
            source: &source,
            out: Vec::with_capacity(tokens.tokens.len() * 2),
            brackets: Vec::new(),
            blocks: vec![String::new()],
            ended_in_block: false,
            diagnostics,
        };
        for &token in &tokens.tokens {
            pass.take(token);
        }
        tokens.unfinished |= pass.ended_in_block;
        tokens.tokens = pass.out;
    }
}

fn mentions_literal(part: &Part, text: &str) -> bool {
    any_part(
        part,
        &|part| matches!(part, Part::Literal(name) | Part::Soft(name) if name.text == text),
    )
}

fn mentions_layout(part: &Part) -> bool {
    any_part(
        part,
        &|part| matches!(part, Part::Unnamed(name) if Layout::Indentation.tokens().contains(&name.text.as_str())),
    )
}

/// Whether a part, or one inside it, passes.
fn any_part(part: &Part, pass: &dyn Fn(&Part) -> bool) -> bool {
    pass(part)
        || match part {
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().any(|inner| any_part(inner, pass))
            }
            Part::Optional(inner) => any_part(inner, pass),
            Part::Repeat(repeat) => {
                any_part(&repeat.part, pass)
                    || repeat.by.as_ref().is_some_and(|by| any_part(by, pass))
            }
            Part::Literal(_)
            | Part::Soft(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Tight(_) => false,
        }
}

struct Pass<'a> {
    rules: &'a Rules,
    source: &'a Arc<SourceText>,
    out: Vec<Token>,
    /// The brackets open, each with whether line ends matter inside.
    brackets: Vec<bool>,
    /// The indentation of each block open, the outermost first.
    blocks: Vec<String>,
    /// Whether the text ends inside an indented block.
    ended_in_block: bool,
    diagnostics: &'a mut Vec<Diagnostic>,
}

impl Pass<'_> {
    fn take(&mut self, token: Token) {
        let is_end = token.kind == KindId::END;
        if let Some(&last) = self.out.last() {
            let new_line = is_end
                || self
                    .source
                    .slice(Span {
                        start: last.span.end,
                        end: token.span.start,
                    })
                    .contains('\n');
            let heeds = self.brackets.last().copied().unwrap_or(true);
            let beside_bracket = self.is_opening(last) || self.is_closing(token);
            if new_line && heeds && !beside_bracket {
                self.line(last, token, is_end);
            }
        } else if !is_end {
            self.blocks[0] = self.indentation(token).to_owned();
        }
        if let Some(&(_, matters)) = self.rules.opening.iter().find(|(k, _)| *k == token.kind) {
            self.brackets.push(matters);
        } else if self.is_closing(token) {
            self.brackets.pop();
        }
        self.out.push(token);
    }

    fn is_opening(&self, token: Token) -> bool {
        self.rules
            .opening
            .iter()
            .any(|(kind, _)| *kind == token.kind)
    }

    fn is_closing(&self, token: Token) -> bool {
        self.rules.closing.contains(&token.kind)
    }

    /// The blanks before the first token of a line.
    fn indentation(&self, token: Token) -> &str {
        let start = self
            .source
            .line_span(self.source.line_of(token.span.start))
            .start;
        let before = self.source.slice(Span {
            start,
            end: token.span.start,
        });
        &before[..before.len() - before.trim_start().len()]
    }

    fn put(&mut self, kind: KindId, at: u32) {
        let span = Span { start: at, end: at };
        self.out.push(Token::new(kind, span));
    }

    /// A line has ended after `last`; `next` starts another, or is the end.
    fn line(&mut self, last: Token, next: Token, is_end: bool) {
        let end = last.span.end;
        let Some((indent, dedent)) = self.rules.blocks.filter(|_| self.brackets.is_empty()) else {
            self.put(self.rules.line_end, end);
            return;
        };
        let deep = if is_end {
            self.ended_in_block = self.blocks.len() > 1;
            self.blocks[0].clone()
        } else {
            self.indentation(next).to_owned()
        };
        let top = &self.blocks[self.blocks.len() - 1];
        if deep.len() > top.len() && deep.starts_with(top.as_str()) {
            self.blocks.push(deep);
            self.put(indent, next.span.start);
            return;
        }
        let mixed = !top.starts_with(deep.as_str());
        while self.blocks.len() > 1 && self.blocks[self.blocks.len() - 1].len() > deep.len() {
            self.blocks.pop();
            self.put(dedent, end);
        }
        if *self.blocks[self.blocks.len() - 1] != deep {
            self.misplaced(next, mixed);
        }
        self.put(self.rules.line_end, end);
    }

    fn misplaced(&mut self, token: Token, mixed: bool) {
        let message = if mixed {
            "this line is indented with other blanks than the lines around it"
        } else {
            "the indentation of this line fits no block around it"
        };
        self.diagnostics.push(
            Diagnostic::error(codes::TOKEN_INDENTATION, message)
                .at(self.source, token.span)
                .remedy("indent it like the first line of the block it belongs to, with the same blanks"),
        );
    }
}
