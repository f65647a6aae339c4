//! Changes of the token where reading got stuck.

use std::ops::Range;

use super::expected::Wanted;
use super::mending::{Question, Tried};
use super::recovery::{Repairer, Trial};
use super::slips::{Mending, Slip};
use crate::definition::Holds;
use crate::diagnostic::nearest;
use crate::lexing::{Kind, KindId, Token, is_closing, is_opening};
use crate::purposes::{Purpose, QUOTES, is_sign as is_sign_text};

impl Repairer<'_> {
    /// All changes of the token where reading got stuck, each with what comes of it.
    pub fn try_here(&self, question: &Question<'_>, wanted: &[Wanted]) -> Vec<Tried> {
        let index = question.index;
        let mut tried = Vec::new();
        self.try_literals(index, wanted, &mut tried);
        self.try_words(question, wanted, &mut tried);
        self.try_kinds(index, wanted, &mut tried);
        for kind in self.operands(wanted) {
            let after = self.take(self.whole(), Token::new(kind, self.tokens[index].span));
            tried.push(Tried {
                reach: self.reach_from(after, index, index),
                rank: 1,
                mending: None,
            });
        }
        tried
    }

    fn token_kind(&self, index: usize) -> &Kind {
        self.parser.lexer_kind(self.tokens[index].kind)
    }

    /// A literal that is missing, or that should stand there, and leaving one out.
    fn try_literals(&self, index: usize, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let token = self.tokens[index];
        let kind = self.token_kind(index);
        let is_sign = kind.is_literal() || kind.is_layout() || kind.is_odd();
        let only = self.only_literal(wanted);
        for kind in self.literals(wanted, false) {
            let after = self.take(self.whole(), Token::new(kind, token.span));
            if after.is_empty() {
                continue;
            }
            let after_line = self.after_line(after.clone(), kind, index);
            tried.push(Tried {
                reach: self.reach_from(after_line, index, index),
                // That lines run on is less likely than that a word is missing.
                rank: if self.parser.lexer_kind(kind).is_layout() {
                    2
                } else {
                    3
                },
                mending: Some(change(Slip::Missing, index..index, kind)),
            });
            if only == Some(kind) || is_sign && self.could_be_meant(token, kind) {
                tried.push(Tried {
                    reach: self.reach_from(after, index + 1, index),
                    rank: 2,
                    mending: Some(change(Slip::Instead, index..index + 1, kind)),
                });
            }
        }
        self.try_signs(index, wanted, tried);
        // What is no sign and no word of the language is hardly too much, unless all else fails. The
        // same sign twice is one too many.
        let text = self.text(token);
        let before = index
            .checked_sub(1)
            .map(|before| self.text(self.tokens[before]));
        let is_again = is_sign_text(text) && before == Some(text);
        let is_literal = kind.is_literal() || kind.is_odd() && is_sign_text(text);
        let rank = match (is_literal, is_again) {
            (_, true) => 2,
            (true, false) => 1,
            (false, false) => 0,
        };
        let is_end = kind.is_layout() || token.kind == KindId::END || kind.is_odd() && !is_literal;
        // Anything else is too much only where nothing but a closing bracket can stand.
        let closes = only.is_some_and(|only| is_closing(&self.parser.lexer_kind(only).name));
        if is_literal || is_again || closes && !is_end {
            tried.push(Tried {
                reach: self.reach_from(self.whole(), index + 1, index),
                rank,
                mending: Some(Mending {
                    slip: Slip::TooMany,
                    at: index,
                    count: 1,
                    with: Vec::new(),
                }),
            });
        }
    }

    /// Whether one token may have been written for another: nobody writes an operator to separate.
    fn could_be_meant(&self, token: Token, kind: KindId) -> bool {
        let separates = |text: &str| [",", ";", ":", "."].contains(&text);
        if self.parser.lexer_kind(token.kind).is_odd() {
            return false;
        }
        let has_text = !self.text(token).is_empty();
        has_text != self.parser.lexer_kind(kind).is_layout()
            && (!separates(&self.parser.lexer_kind(kind).name) || separates(self.text(token)))
    }

    /// Signs for each other, with which something begins: one bracket for another, and one that has
    /// the other in it.
    fn try_signs(&self, index: usize, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let token = self.tokens[index];
        let text = self.text(token);
        let own = self.token_kind(index);
        if !is_sign_text(text) || !(own.is_odd() || is_opening(text)) {
            return;
        }
        for kind in self.literals(wanted, true) {
            let name = self.parser.lexer_kind(kind).name.as_str();
            let is_like = name.contains(text) || is_opening(text) && is_sign_text(name);
            if !is_like || kind == token.kind {
                continue;
            }
            let after = self.take(self.whole(), Token::new(kind, token.span));
            if !after.is_empty() {
                tried.push(Tried {
                    reach: self.reach_from(after, index + 1, index),
                    rank: 3,
                    mending: Some(change(Slip::Instead, index..index + 1, kind)),
                });
            }
        }
    }

    /// Where line ends matter, there is one after a bracket that ends a line and was open: inside it
    /// they did not.
    fn after_line(&self, after: Vec<Trial>, kind: KindId, index: usize) -> Vec<Trial> {
        let closes = is_closing(&self.parser.lexer_kind(kind).name);
        let line_end = self.parser.layout_kind("LineEnd");
        let Some(line_end) = line_end.filter(|_| closes && self.starts_line(index)) else {
            return after;
        };
        let token = self.tokens[index];
        let ended = self.take(after.clone(), Token::new(line_end, token.span));
        if ended.is_empty() { after } else { ended }
    }

    /// Whether a token is the first of its line.
    pub fn starts_line(&self, index: usize) -> bool {
        let Some(before) = index.checked_sub(1) else {
            return true;
        };
        let (end, start) = (self.tokens[before].span.end, self.tokens[index].span.start);
        let between = end.min(start)..start;
        self.source.text()[between.start as usize..between.end as usize].contains('\n')
    }

    /// A word that is misspelt, and what other languages write.
    fn try_words(&self, question: &Question<'_>, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let index = question.index;
        let token = self.tokens[index];
        if let Some(kind) = self.misspelt(token, wanted) {
            let after = self.take(self.whole(), Token::new(kind, token.span));
            tried.push(Tried {
                reach: self.reach_from(after, index + 1, index),
                rank: 6,
                mending: Some(change(Slip::Misspelt, index..index + 1, kind)),
            });
        }
        let text = self.text(token);
        let kinds = &self.parser.kinds;
        for (kind, purpose) in question.strangers.instead_of(text, kinds) {
            let after = self.take(self.whole(), Token::new(kind, token.span));
            if !after.is_empty() {
                tried.push(Tried {
                    reach: self.reach_from(after, index + 1, index),
                    rank: foreign_rank(purpose),
                    mending: Some(change(Slip::Foreign, index..index + 1, kind)),
                });
            }
        }
        self.try_assignment(question, index, tried);
        self.try_remark(question, index, tried);
    }

    /// A variable that is given a value as other languages do it: a name, a sign, a value.
    pub fn try_assignment(&self, question: &Question<'_>, at: usize, tried: &mut Vec<Tried>) {
        let [name, sign] = self.tokens[at..].get(..2).unwrap_or_default() else {
            return;
        };
        let sign = self.text(*sign);
        let is_it =
            |token: &Token| token.kind == name.kind && self.text(*token) == self.text(*name);
        let (strangers, mut before) = (question.strangers, self.tokens[..at].iter());
        let changes = strangers.assignment.as_ref().filter(|_| before.any(is_it));
        let Some(lead) = changes.or(strangers.binding.as_ref()) else {
            return;
        };
        let signs = ["=", ":=", "<-"];
        if at + 2 <= question.index || !signs.contains(&sign) || !lead.kinds.contains(&name.kind) {
            return;
        }
        let mut after = self.whole();
        for kind in &lead.kinds {
            after = self.take(after, Token::new(*kind, name.span));
        }
        tried.push(Tried {
            reach: self.reach_from(after, at + 2, question.index),
            rank: 6,
            mending: Some(Mending {
                slip: Slip::Assignment,
                at,
                count: 2,
                with: lead.kinds.clone(),
            }),
        });
    }

    /// A remark as other languages begin it, which goes to the end of the line.
    pub fn try_remark(&self, question: &Question<'_>, at: usize, tried: &mut Vec<Tried>) {
        let text = self.run_of_signs(at);
        if !question.strangers.begins_remark(text) {
            return;
        }
        let goes_on = |index: &usize| {
            let kind = self.token_kind(*index);
            let is_over = kind.is_layout() || self.tokens[*index].kind == KindId::END;
            !is_over && !self.starts_line(*index)
        };
        let count = 1 + (at + 1..self.tokens.len()).take_while(goes_on).count();
        let words = (at + 1..at + count).filter(|&index| {
            let text = self.text(self.tokens[index]);
            text.starts_with(char::is_alphabetic)
        });
        let is_odd = self.token_kind(at).is_odd();
        // What separates or divides in many languages hardly begins a remark behind something.
        let separates = [";", "%"].contains(&text) && !self.begins_line(at);
        if at + count <= question.index || separates || (!is_odd && words.count() < 2) {
            return;
        }
        // With the line, its end goes.
        let line_end = self.parser.layout_kind("LineEnd");
        let next = self.tokens.get(at + count).map(|token| token.kind);
        let ends = usize::from(next == line_end && self.begins_line(at));
        // What is passed over counts for nothing.
        let from = at + count + ends;
        tried.push(Tried {
            reach: self.reach_from(self.whole(), from, from),
            // A sign that the language has may well be meant.
            rank: if is_odd { 4 } else { 0 },
            mending: Some(Mending {
                slip: Slip::Remark,
                at,
                count,
                with: Vec::new(),
            }),
        });
    }

    /// The text of signs that touch each other, from a token on.
    fn run_of_signs(&self, at: usize) -> &str {
        let first = self.tokens[at].span;
        let mut end = first.end;
        for token in &self.tokens[at + 1..] {
            if token.span.start != end || !is_sign_text(self.text(*token)) {
                break;
            }
            end = token.span.end;
        }
        &self.source.text()[first.start as usize..end as usize]
    }

    /// Whether nothing but layout stands on the line before a token.
    fn begins_line(&self, at: usize) -> bool {
        let before = (0..at)
            .rev()
            .find(|&index| !self.token_kind(index).is_layout());
        before.is_none_or(|before| {
            let between = self.tokens[before].span.end..self.tokens[at].span.start;
            self.source.text()[between.start as usize..between.end as usize].contains('\n')
        })
    }

    /// The same token, were it no word of the language, or did it touch the one before it; and a
    /// text between the quotes of other languages.
    fn try_kinds(&self, index: usize, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let token = self.tokens[index];
        let mut try_one = |slip, kind, stand_in, rank| {
            let after = self.take(self.whole(), stand_in);
            if !after.is_empty() {
                tried.push(Tried {
                    reach: self.reach_from(after, index + 1, index),
                    rank,
                    mending: Some(change(slip, index..index + 1, kind)),
                });
            }
        };
        if !token.tight() {
            try_one(Slip::Blank, token.kind, token.touching(), 5);
        }
        let kind = self.token_kind(index);
        if let Some(like) = kind
            .like
            .filter(|_| self.text(token).starts_with(char::is_alphabetic))
        {
            try_one(Slip::Reserved, like, Token::new(like, token.span), 4);
        }
        if kind.is_odd() {
            self.try_quotes(index, wanted, tried);
        }
    }

    /// A text between the quotes of other languages, or between none.
    fn try_quotes(&self, index: usize, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let holds_text = |kind: &KindId| self.parser.lexer_kind(*kind).holds == Some(Holds::Text);
        let Some(kind) = self.kinds_wanted(wanted).into_iter().find(holds_text) else {
            return;
        };
        let text = self.text(self.tokens[index]);
        let is_quoted = text.starts_with(QUOTES) && text.len() > 2;
        let is_word = |index: &usize| {
            let text = self.text(self.tokens[*index]);
            text.starts_with(char::is_alphabetic) && self.token_kind(*index).is_odd()
        };
        let count = if is_quoted {
            1
        } else {
            (index..self.tokens.len()).take_while(is_word).count()
        };
        if count == 0 {
            return;
        }
        let after = self.take(self.whole(), Token::new(kind, self.tokens[index].span));
        tried.push(Tried {
            reach: self.reach_from(after, index + count, index),
            rank: 7,
            mending: Some(change(Slip::Quotes, index..index + count, kind)),
        });
    }

    /// The only token that can follow, if it is a literal.
    pub fn only_literal(&self, wanted: &[Wanted]) -> Option<KindId> {
        let [Wanted::Terminal(t)] = wanted else {
            return None;
        };
        let kind = self.kind_of(*t);
        self.parser.lexer_kind(kind).is_literal().then_some(kind)
    }

    /// The tokens other than literals that a wanted sort begins with.
    fn operands(&self, wanted: &[Wanted]) -> Vec<KindId> {
        let is_sort = |want: &&Wanted| matches!(want, Wanted::Sort(_));
        let sorts: Vec<Wanted> = wanted.iter().filter(is_sort).cloned().collect();
        self.kinds_wanted(&sorts)
    }

    /// The tokens other than literals that are wanted, or with which something wanted begins.
    fn kinds_wanted(&self, wanted: &[Wanted]) -> Vec<KindId> {
        let mut kinds = Vec::new();
        for want in wanted {
            match want {
                Wanted::Sort(sort) => {
                    let first = self.parser.first_of(sort).into_iter();
                    kinds.extend(first.map(|t| self.kind_of(t)));
                }
                Wanted::Terminal(t) => kinds.push(self.kind_of(*t)),
                Wanted::Operator(_) => {}
            }
        }
        kinds.retain(|kind| {
            let own = self.parser.lexer_kind(*kind);
            !own.is_literal() && !own.is_layout() && *kind != KindId::END
        });
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// The literals and line ends that are wanted by themselves; with `all` also those that a sort
    /// begins with.
    pub fn literals(&self, wanted: &[Wanted], all: bool) -> Vec<KindId> {
        let mut kinds = Vec::new();
        for want in wanted {
            match want {
                Wanted::Terminal(t) => kinds.push(self.kind_of(*t)),
                Wanted::Operator(t) if all => kinds.push(self.kind_of(*t)),
                Wanted::Sort(sort) if all => {
                    let first = self.parser.first_of(sort).into_iter();
                    kinds.extend(first.map(|t| self.kind_of(t)));
                }
                Wanted::Operator(_) | Wanted::Sort(_) => {}
            }
        }
        kinds.retain(|kind| {
            let own = self.parser.lexer_kind(*kind);
            own.is_literal() || own.is_layout()
        });
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// The keyword that a word is a slip of, among those that are wanted.
    pub fn misspelt(&self, token: Token, wanted: &[Wanted]) -> Option<KindId> {
        let text = self.text(token);
        let is_word = text.starts_with(char::is_alphabetic);
        if !is_word || self.parser.lexer_kind(token.kind).is_literal() {
            return None;
        }
        let mut kinds = self.literals(wanted, true);
        let name = |kind: &KindId| self.parser.lexer_kind(*kind).name.as_str();
        kinds.retain(|kind| name(kind).starts_with(char::is_alphabetic));
        kinds.retain(|kind| self.parser.lexer_kind(*kind).is_literal());
        let near = nearest(text, kinds.iter().map(name))?;
        kinds.iter().copied().find(|kind| name(kind) == near)
    }
}

/// A change of some tokens into one.
pub(super) fn change(slip: Slip, tokens: Range<usize>, kind: KindId) -> Mending {
    Mending {
        slip,
        at: tokens.start,
        count: tokens.len(),
        with: vec![kind],
    }
}

/// How likely what other languages write is meant for something here: where a sign could set a
/// variable or compare, it is mostly there to set it.
pub(super) fn foreign_rank(purpose: Purpose) -> u8 {
    match purpose {
        Purpose::Assign | Purpose::Bind => 8,
        _ => 7,
    }
}
