//! One pass over a text: the longest token at each place, and what is no token.

use std::sync::Arc;

use super::automaton::Automaton;
use super::blocks::Blocks;
use super::holes::{Hole, PieceEnd};
use super::{Care, Group, KindId, Lexer, More, Token, Tokens, token_values};
use crate::diagnostic::Diagnostic;
use crate::source::{SourceText, Span};

/// The tokens of a text, what is wrong with it, and how many errors are left out.
pub(super) fn scan(
    lexer: &Lexer,
    group: Group,
    source: &Arc<SourceText>,
    keep_ignored: bool,
) -> (Tokens, Vec<Diagnostic>, usize) {
    let mut scan = Scan {
        keep_ignored,
        lexer,
        source,
        out: Tokens {
            source: Arc::clone(source),
            tokens: Vec::with_capacity(source.text().len() / 4),
            ignored: Vec::new(),
            unfinished: false,
            signs: Arc::clone(&lexer.signs),
        },
        open: Vec::new(),
        groups: vec![group],
        diagnostics: Vec::new(),
        suppressed: 0,
    };
    scan.all();
    scan.out.tokens.shrink_to_fit();
    (scan.out, scan.diagnostics, scan.suppressed)
}

/// One pass over a text.
pub(super) struct Scan<'a> {
    keep_ignored: bool,
    pub lexer: &'a Lexer,
    pub source: &'a Arc<SourceText>,
    pub out: Tokens,
    /// The holes open, the outermost first.
    open: Vec<Hole>,
    /// The groups of tokens that the place is in, the innermost last.
    groups: Vec<Group>,
    pub diagnostics: Vec<Diagnostic>,
    pub suppressed: usize,
}

/// What stands at a place.
pub(super) enum Found {
    Token(KindId, usize),
    /// A token in which a hole begins at the end.
    Holed(usize, usize),
    /// Something that is never closed; where that shows.
    Unclosed(KindId, usize),
    /// No token; where the automaton gave up, and in which state.
    Nothing {
        stopped: usize,
        state: u32,
    },
}

impl<'a> Scan<'a> {
    fn all(&mut self) {
        let lexer = self.lexer;
        let source = self.source;
        let bytes = source.text().as_bytes();
        let mut at = 0;
        let mut tight = false;
        while at < bytes.len() {
            if self.open.is_empty() {
                (at, tight) = self.plain(at, tight);
            }
            if at < bytes.len() {
                (at, tight) = self.rarer(at, tight);
            }
        }
        while let Some(hole) = self.open.pop() {
            let pieces = &lexer.holes[hole.of];
            self.open_hole(hole.at, pieces.hole(), pieces.end());
        }
        // The end is where the last token ends: what is missing is missing there, not
        // after the blanks that follow.
        let end = self
            .out
            .tokens
            .last()
            .map_or(0, |token| token.span.end as usize);
        let span = Span::new(end, end);
        self.out.tokens.push(Token::new(KindId::END, span));
    }

    /// Goes on over tokens for which the automaton ends where they do, up to a place where
    /// something else stands. Apart from what is rarer, so that all it needs is at hand.
    #[inline(never)]
    fn plain(&mut self, mut at: usize, mut tight: bool) -> (usize, bool) {
        let lexer = self.lexer;
        let source = self.source;
        let bytes = source.text().as_bytes();
        let automaton = self.automaton();
        while at < bytes.len() {
            if !self.keep_ignored {
                (at, tight) = self.by_blocks(self.blocks(), at, tight);
            }
            let (state, end) = automaton.run_ascii(bytes, at);
            let Some(kind) = automaton.accepted(state) else {
                break;
            };
            let care = lexer.care[kind as usize];
            // With more than ASCII, the automaton is run again with an eye on where the
            // last token ended.
            if care.goes_on || bytes.get(end).is_some_and(|&byte| byte >= 128) {
                break;
            }
            if care.ignored && !self.keep_ignored {
                tight = false;
            } else {
                self.token(KindId(kind), at, end, tight);
                tight = !care.ignored;
            }
            at = end;
        }
        (at, tight)
    }

    /// Whether nobody asks for tokens of a kind.
    #[inline]
    fn is_passed_over(&self, kind: KindId) -> bool {
        self.lexer.care[kind.0 as usize].ignored && !self.keep_ignored
    }

    /// Puts a token on the list.
    #[expect(
        clippy::inline_always,
        reason = "the loop over all tokens is a third slower without"
    )]
    #[inline(always)]
    fn token(&mut self, mut kind: KindId, start: usize, end: usize, tight: bool) {
        let Care {
            ignored,
            is_value,
            word,
            ..
        } = self.lexer.care[kind.0 as usize];
        let mut also = None;
        if word {
            let bytes = self.source.text().as_bytes();
            (kind, also) = self.lexer.words.called_any(bytes, start, end, kind);
        }
        let token = Token::new(kind, Span::new(start, end)).with(also, tight);
        if ignored {
            self.out.ignored.push(token);
            return;
        }
        if is_value {
            self.check_value(token);
        }
        self.out.tokens.push(token);
    }

    /// The same for a token of any kind; whether the next one would touch it.
    #[inline(never)]
    fn any_token(&mut self, kind: KindId, start: usize, end: usize, tight: bool) -> bool {
        if !self.is_passed_over(kind) {
            self.token(kind, start, end, tight);
        }
        !self.lexer.care[kind.0 as usize].ignored
    }

    /// Whatever is not the common case, at a place: where to go on, and whether a token
    /// there would touch the one before it.
    fn rarer(&mut self, at: usize, tight: bool) -> (usize, bool) {
        let text = self.source.text();
        if let Some(hole) = self.open.last().copied()
            && self.lexer.holes[hole.of].ends_at(&hole, text, at)
        {
            self.open.pop();
            let from = at + self.lexer.holes[hole.of].end().len();
            return self.piece(hole.of, hole.start, at, from, tight);
        }
        match self.find(at) {
            Found::Token(kind, end) => {
                if let Some(hole) = self.open.last_mut() {
                    self.lexer.holes[hole.of].count(hole, &text[at..end]);
                }
                let touches = self.any_token(kind, at, end, tight);
                self.lexer.turn(&mut self.groups, kind);
                (end, touches)
            }
            Found::Holed(of, end) => self.piece(of, at, at, end, tight),
            Found::Unclosed(kind, stopped) => {
                self.unfinished(at, stopped, kind);
                (stopped, false)
            }
            Found::Nothing { stopped, state } => (self.bad(at, stopped, state), false),
        }
    }

    /// Reads a piece of a token with holes that starts at `start`; the piece itself starts
    /// at `at`, and what is its own in it at `from`.
    fn piece(
        &mut self,
        of: usize,
        start: usize,
        at: usize,
        from: usize,
        tight: bool,
    ) -> (usize, bool) {
        let pieces = &self.lexer.holes[of];
        match pieces.read(self.source.text(), from) {
            Ok((what, end)) => {
                if what == PieceEnd::Hole {
                    self.open
                        .push(Hole::new(of, start, end - pieces.hole().len()));
                }
                (
                    end,
                    self.any_token(pieces.kind(start == at, what), at, end, tight),
                )
            }
            Err(stopped) => {
                let text = self.source.text();
                let around = self.open.last().copied();
                let line = around.map_or("", |hole| &text[hole.start..at]);
                let whole = pieces.kind(true, PieceEnd::Close);
                match around {
                    // What begins here is the end of the text around the hole.
                    Some(hole) if start == at && hole.of == of && !line.contains('\n') => {
                        self.lacks_end(hole.at, pieces.hole(), pieces.end());
                        self.open.pop();
                        let end = at + pieces.open.len();
                        self.stand_in(pieces.end_kind(), at, end);
                        (end, false)
                    }
                    _ => {
                        self.unfinished(start, stopped, whole);
                        if start == at {
                            self.stand_in(whole, start, stopped);
                        }
                        (stopped, false)
                    }
                }
            }
        }
    }

    /// The longest token at a place.
    pub fn find(&self, start: usize) -> Found {
        match self.automaton().longest(self.source.text(), start) {
            Ok((kind, end)) => self.found(KindId(kind), start, end),
            Err((stopped, state)) => Found::Nothing { stopped, state },
        }
    }

    /// The automaton of the group that the place is in.
    #[inline]
    pub fn automaton(&self) -> &'a Automaton {
        let group = self.groups.last().copied().unwrap_or(self.lexer.first);
        &self.lexer.automata[group as usize]
    }

    /// What bytes tell of the tokens of that group.
    #[inline]
    fn blocks(&self) -> &'a Blocks {
        let group = self.groups.last().copied().unwrap_or(self.lexer.first);
        &self.lexer.blocks[group as usize]
    }

    /// Goes on to the line that has only the last word of the opening.
    fn to_line(&self, kind: KindId, start: usize, end: usize) -> Found {
        let text = self.source.text();
        match token_values::closing_line(text, start, end) {
            Some(end) => Found::Token(kind, end),
            None => Found::Unclosed(kind, text.len()),
        }
    }

    fn found(&self, kind: KindId, start: usize, end: usize) -> Found {
        if self.lexer.kind(kind).more == More::Lines {
            return self.to_line(kind, start, end);
        }
        if let Some((open, close)) = &self.lexer.kind(kind).nests {
            return self.nested(kind, open, close, end);
        }
        let holes = &self.lexer.holes;
        match holes.iter().position(|pieces| pieces.is_whole(kind)) {
            Some(of) => Found::Holed(of, end),
            None => Found::Token(kind, end),
        }
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
                (None, None) => return Found::Unclosed(kind, text.len()),
            }
        }
        Found::Token(kind, at)
    }
}
