//! What would mend a wrong text, found by trying: one token is put in, exchanged or left out, and
//! the one after which most can be read is offered, if one clearly is (after Burke and Fisher,
//! 1987). The token where reading got stuck need not be the wrong one: the one before it is tried,
//! too.

use super::expected::{Inquiry, Wanted};
use super::recovery::{Repairer, Trial};
use crate::diagnostic::nearest;
use crate::lexing::{BRACKETS, KindId, Token};

/// One token that mends a text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Mending {
    /// It is missing before the token where reading got stuck.
    Insert(KindId),
    /// It should stand where that token stands.
    Replace(KindId),
    /// That token should not be there.
    LeaveOut,
    /// It should stand where the token before stands, which begins at a height of the stack.
    ReplaceBefore(KindId, usize),
    /// The token before should not be there.
    LeaveOutBefore(usize),
}

/// What is to be done about a wrong text.
#[derive(Clone, Copy, Debug)]
pub(super) struct Advice {
    pub mending: Mending,
    /// The number of the stack on which it helps.
    pub stack: usize,
    /// Whether it lets what follows be read.
    pub is_tried: bool,
}

/// So many tokens are read after a change, at most.
const FAR: usize = 24;

/// A change must let so many be read.
const ENOUGH: usize = 2;

/// A change with what comes of it: how many tokens can be read, and how likely a slip it is where
/// that is the same. An operand that may be missing is a change, too, but nobody knows which.
type Tried = (usize, u8, Option<Mending>);

/// The change of one token after which most can be read, if one is clearly the best, or the only
/// word that can follow.
pub(super) fn mending(
    repairers: &[Repairer<'_>],
    index: usize,
    inquiry: &Inquiry<'_>,
) -> Option<Advice> {
    let mut tried = Vec::new();
    for (number, repairer) in repairers.iter().enumerate() {
        let all = repairer.tried(index, inquiry).into_iter();
        tried.extend(all.map(|(reach, rank, mending)| (reach, rank, mending, number)));
    }
    let best = tried.iter().map(|&(reach, rank, ..)| (reach, rank)).max()?;
    let mut found = tried.iter().filter(|one| (one.0, one.1) == best);
    let &(reach, _, mending, number) = found.next()?;
    // Several that do as well: nobody knows which was meant.
    let is_clear = reach >= ENOUGH && found.all(|other| other.2 == mending);
    if let Some(mending) = mending.filter(|_| is_clear) {
        return Some(Advice {
            mending,
            stack: number,
            is_tried: true,
        });
    }
    // Where only one word can follow, that is what is missing, whatever comes after it.
    let only = repairers
        .first()?
        .only_literal(&wanted_by(repairers, inquiry))?;
    Some(Advice {
        mending: Mending::Insert(only),
        stack: 0,
        is_tried: false,
    })
}

/// What could come next on any of the stacks.
fn wanted_by(repairers: &[Repairer<'_>], inquiry: &Inquiry<'_>) -> Vec<Wanted> {
    let all = repairers.iter().flat_map(|one| inquiry.wanted(one.stack));
    let mut all: Vec<Wanted> = all.collect();
    all.sort();
    all.dedup();
    all
}

impl Repairer<'_> {
    /// All changes of one token, each with what comes of it.
    fn tried(&self, index: usize, inquiry: &Inquiry<'_>) -> Vec<Tried> {
        let wanted = inquiry.wanted(self.stack);
        let mut tried = Vec::new();
        self.try_here(index, &wanted, &mut tried);
        self.try_before(index, inquiry, &mut tried);
        tried
    }

    /// The only token that can follow, if it is a literal.
    fn only_literal(&self, wanted: &[Wanted]) -> Option<KindId> {
        let [Wanted::Terminal(t)] = wanted else {
            return None;
        };
        let kind = self.kind_of(*t);
        self.parser.lexer_kind(kind).is_literal().then_some(kind)
    }

    /// Changes of the token where reading got stuck.
    fn try_here(&self, index: usize, wanted: &[Wanted], tried: &mut Vec<Tried>) {
        let token = self.tokens[index];
        let is_literal = self.parser.lexer_kind(token.kind).is_literal();
        let only = self.only_literal(wanted);
        for kind in self.literals(wanted, false) {
            let stand_in = Token::new(kind, token.span);
            let after = self.take(self.whole(), stand_in);
            if !after.is_empty() {
                tried.push((
                    self.far(after.clone(), index),
                    3,
                    Some(Mending::Insert(kind)),
                ));
                if is_literal || only == Some(kind) {
                    tried.push((self.far(after, index + 1), 2, Some(Mending::Replace(kind))));
                }
            }
        }
        if let Some(kind) = self.misspelt(token, wanted) {
            let after = self.take(self.whole(), Token::new(kind, token.span));
            tried.push((self.far(after, index + 1), 5, Some(Mending::Replace(kind))));
        }
        for kind in self.operands(wanted) {
            let after = self.take(self.whole(), Token::new(kind, token.span));
            tried.push((self.far(after, index), 1, None));
        }
        if is_literal {
            tried.push((
                self.far(self.whole(), index + 1),
                1,
                Some(Mending::LeaveOut),
            ));
        }
    }

    /// Changes of the token before it.
    fn try_before(&self, index: usize, inquiry: &Inquiry<'_>, tried: &mut Vec<Tried>) {
        let Some(before) = index.checked_sub(1) else {
            return;
        };
        let token = self.tokens[before];
        // What has been read up to that token.
        let begun = self.stack.iter().skip(1);
        let height = 1 + begun
            .take_while(|entry| (entry.start as usize) < before)
            .count();
        let is_single = self
            .stack
            .get(height)
            .is_some_and(|e| e.start as usize == before);
        if !is_single {
            return;
        }
        let begun = vec![Trial::up_to(height)];
        if self.parser.lexer_kind(token.kind).is_literal() {
            // A sign that separates may be one too many; a bracket or a word hardly is.
            let text = self.text(token);
            let brackets = BRACKETS.iter().flat_map(|(open, close)| [open, close]);
            if text.starts_with(char::is_alphanumeric) || brackets.into_iter().any(|b| *b == text) {
                return;
            }
            let reach = self.far(begun, index);
            tried.push((reach, 0, Some(Mending::LeaveOutBefore(height))));
            return;
        }
        let wanted = inquiry.wanted(&self.stack[..height]);
        if let Some(kind) = self.misspelt(token, &wanted) {
            let after = self.take(begun, Token::new(kind, token.span));
            let reach = self.far(after, index);
            tried.push((reach, 4, Some(Mending::ReplaceBefore(kind, height))));
        }
    }

    /// How many tokens can be read from an index on.
    fn far(&self, trials: Vec<Trial>, from: usize) -> usize {
        self.reach_within(trials, from, FAR)
    }

    /// The tokens other than literals that a wanted sort begins with.
    fn operands(&self, wanted: &[Wanted]) -> Vec<KindId> {
        let sorts = wanted.iter().filter_map(|want| match want {
            Wanted::Sort(sort) => Some(self.parser.first_of(sort)),
            Wanted::Terminal(_) | Wanted::Operator(_) => None,
        });
        let mut kinds: Vec<KindId> = sorts.flatten().map(|t| self.kind_of(t)).collect();
        kinds.retain(|kind| !self.parser.lexer_kind(*kind).is_literal());
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// The literals that are wanted by themselves; with `all` also those that a sort begins with.
    fn literals(&self, wanted: &[Wanted], all: bool) -> Vec<KindId> {
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
        kinds.retain(|kind| self.parser.lexer_kind(*kind).is_literal());
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// The keyword that a name is a slip of, among those that are wanted.
    fn misspelt(&self, token: Token, wanted: &[Wanted]) -> Option<KindId> {
        let text = self.text(token);
        let is_word = text.starts_with(char::is_alphabetic);
        if !is_word || self.parser.lexer_kind(token.kind).is_literal() {
            return None;
        }
        let mut kinds = self.literals(wanted, true);
        let name = |kind: &KindId| self.parser.lexer_kind(*kind).name.as_str();
        kinds.retain(|kind| name(kind).starts_with(char::is_alphabetic));
        let near = nearest(text, kinds.iter().map(name))?;
        kinds.iter().copied().find(|kind| name(kind) == near)
    }
}
