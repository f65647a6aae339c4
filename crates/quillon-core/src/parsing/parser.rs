//! Reads tokens with the tables: one stack where the tables decide, several where they
//! do not.

use std::collections::VecDeque;

use super::aside::Parked;
use super::assembly::Assembly;
use super::forest::{Derivation, Forest, Ref, Referent};
use super::plans::{Plan, Rules};
use super::stacks::{Entry, Stacks};
use super::tables::{Action, Lookahead, Tables};
use super::touching::{Refusals, Ways};
use super::undoing::Undo;
use super::{Ambiguity, Grammar, lookahead_of};
use crate::diagnostic::Diagnostic;
use crate::lexing::{Signs, Token};
use crate::source::Span;
use crate::tree::{Tree, alike};

/// Why an accepted text has no tree.
pub(super) enum Obstacle {
    /// It can be read in two ways.
    Ambiguous(Box<Ambiguity>),
    /// Nested beyond the limit; where.
    TooDeep(Span),
    /// It was followed in more ways than anyone waits for, up to here.
    TooMany(Span),
    /// It is wrong, and not enough of it could be read.
    Lost,
}

/// So many steps down stacks that are followed side by side are made in any case, and so many
/// more for each token: a language that needs more is hardly one that people read.
const EFFORT: u64 = 4_000_000;
const EFFORT_A_TOKEN: u64 = 1_000;

/// A reading in progress.
pub(super) struct Run<'a> {
    pub(super) grammar: &'a Grammar,
    pub(super) tables: &'a Tables,
    pub(super) rules: &'a Rules,
    pub(super) assembly: Assembly<'a>,
    pub(super) plain: Vec<Entry>,
    pub(super) forked: Option<Stacks<'a>>,
    /// Whether to reduce at once, before it is known that the token at hand can be taken.
    hasty: bool,
    /// The reductions decided on for the token at hand, each with the state it leads to.
    pub(super) decided: Vec<(u32, u32)>,
    /// The states that those would put on top of the plain stack, but for the topmost.
    above: Vec<u32>,
    ambiguity: Option<Ambiguity>,
    /// How many pairs of readings have been compared.
    compared: u32,
    /// How the stack was before the last few tokens, if they were taken with care on one stack.
    pub(super) recent: VecDeque<Undo>,
    /// Whether the text is wrong: something in it has been mended.
    pub(super) is_mended: bool,
    /// Whether the tree of a wrong text is lost.
    pub(super) is_lost: bool,
    /// Steps made down stacks that were followed side by side.
    effort: u64,
    /// Where they became too many.
    given_up_at: Option<Span>,
    /// Where what touches the token before it was refused.
    pub(super) refusals: Refusals,
    /// Every production reduced, if that is to be known; not in haste.
    log: Option<Vec<u32>>,
}

/// More pairs of readings are not compared: each takes the time of what is read.
const MOST_COMPARED: u32 = 1000;

/// What came of giving a token to the parser. A refused one changes nothing.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Step {
    Taken,
    Accepted,
    Refused,
}

impl<'a> Run<'a> {
    /// Starts reading an entry.
    pub fn new(
        grammar: &'a Grammar,
        tables: &'a Tables,
        rules: &'a Rules,
        assembly: Assembly<'a>,
        entry: usize,
    ) -> Run<'a> {
        Run {
            grammar,
            tables,
            rules,
            assembly,
            plain: vec![Entry {
                state: entry as u32 + 1,
                start: 0,
                what: 0,
                height: 0,
            }],
            forked: None,
            hasty: false,
            decided: Vec::new(),
            above: Vec::new(),
            ambiguity: None,
            compared: 0,
            recent: VecDeque::new(),
            is_mended: false,
            is_lost: false,
            effort: 0,
            given_up_at: None,
            refusals: Refusals::default(),
            log: None,
        }
    }

    /// The same, and what is reduced is noted.
    pub fn noting(self) -> Run<'a> {
        Run {
            log: Some(Vec::new()),
            ..self
        }
    }

    /// Every production reduced so far.
    pub fn noted(self) -> Vec<u32> {
        self.log.unwrap_or_default()
    }

    /// The same, in haste: faster, but a refused token leaves the stack in disorder, and
    /// the text has to be read once more.
    pub fn in_haste(self) -> Run<'a> {
        Run {
            hasty: true,
            ..self
        }
    }

    /// Gives the parser tokens from an index on, up to one of which something else than
    /// `Taken` comes: its index, and what came of it.
    pub fn advance(&mut self, tokens: &[Token], mut index: usize) -> (usize, Step) {
        loop {
            if self.hasty && self.forked.is_none() {
                let (at, step) = self.hasten(tokens, index);
                if let Some(step) = step {
                    return (at, step);
                }
                index = at;
            }
            let Some(token) = tokens.get(index) else {
                return (index, Step::Taken);
            };
            match self.step(index as u32, *token) {
                Step::Taken => index += 1,
                step @ (Step::Accepted | Step::Refused) => return (index, step),
            }
        }
    }

    /// Gives the parser a token.
    #[inline(never)]
    pub fn step(&mut self, index: u32, token: Token) -> Step {
        if self.is_mended {
            self.remember();
        }
        let step = self.take(index, token);
        if self.is_mended && step == Step::Refused {
            // It changes nothing.
            self.recent.pop_back();
        }
        step
    }

    fn take(&mut self, index: u32, token: Token) -> Step {
        let choices = self.choices(index, token);
        if self.forked.is_some() {
            let taken_as =
                choices.map_or_else(|| Ways::All(lookahead_of(self.grammar, token)), Ways::First);
            return self.forked_step(index, taken_as);
        }
        let terminals = match choices {
            Some(choices) => Lookahead::only(self.chosen(index, &choices)),
            None => lookahead_of(self.grammar, token),
        };
        let tables = self.tables;
        if let Some(step) = self.plain_step(index, |state| tables.decide(state, terminals)) {
            return step;
        }
        self.forked_step(index, Ways::All(terminals))
    }

    /// A step with one stack; nothing when the tables leave a conflict. What is to be
    /// reduced is decided on the states alone, and done once the token is known to fit.
    fn plain_step(&mut self, index: u32, action: impl Fn(u32) -> Action) -> Option<Step> {
        let mut height = self.plain.len();
        let mut state = self.plain[height - 1].state;
        // How many states the reductions would put on top: `state`, and those in `above`.
        let mut added = 0;
        self.decided.clear();
        loop {
            match action(state) {
                Action::Error => return Some(Step::Refused),
                Action::Fork(_) => return None,
                Action::Shift(state) => {
                    self.carry_out(index);
                    self.plain.push(Assembly::take(index, state));
                    return Some(Step::Taken);
                }
                Action::Leaf(production) => {
                    self.carry_out(index);
                    if let Some(log) = &mut self.log {
                        log.push(production);
                    }
                    let rule = self.rules.rule(production);
                    let state = self.tables.goto(state, rule.left);
                    self.assembly.leaf(&mut self.plain, rule, index, state);
                    return Some(Step::Taken);
                }
                Action::Reduce(id) => {
                    let rule = self.rules.rule(id);
                    if rule.plan == Plan::Accept {
                        self.carry_out(index);
                        return Some(Step::Accepted);
                    }
                    let length = rule.length as usize;
                    let below = if length >= added {
                        height -= length - added;
                        added = 1;
                        self.plain[height - 1].state
                    } else {
                        self.above.truncate(added - 1);
                        self.above.push(state);
                        added -= length;
                        self.above.truncate(added);
                        added += 1;
                        self.above[added - 2]
                    };
                    state = self.tables.goto(below, rule.left);
                    self.decided.push((id, state));
                }
            }
        }
    }

    #[inline]
    pub(super) fn carry_out(&mut self, index: u32) {
        if !self.hasty {
            self.remember_decided();
        }
        if let Some(log) = &mut self.log {
            log.extend(self.decided.iter().map(|(production, _)| production));
        }
        for &(production, state) in &self.decided {
            self.assembly
                .reduce(&mut self.plain, production, state, index);
        }
    }

    #[inline(never)]
    fn forked_step(&mut self, index: u32, ways: Ways) -> Step {
        let before = self.forked.as_ref().map(|stacks| stacks.tops.clone());
        let stacks = self
            .forked
            .get_or_insert_with(|| Stacks::new(self.grammar, self.tables, &self.plain));
        let taken = match ways {
            Ways::First(choices) => {
                let taken = stacks.take_first(&self.plain, index, &choices);
                self.assembly
                    .signs
                    .taken(index, taken.and_then(|taken| taken.mistaken));
                taken.is_some()
            }
            Ways::All(terminals) => {
                stacks.reduce(&self.plain, index, terminals);
                false
            }
        };
        for (production, tokens) in std::mem::take(&mut stacks.declared) {
            self.assembly.declare_of(production, &tokens, index);
        }
        self.effort += std::mem::take(&mut stacks.effort);
        if self.effort > EFFORT + u64::from(index) * EFFORT_A_TOKEN {
            return self.leave_undecided(index);
        }
        if ways.is_end()
            && let Some(root) = stacks.accepted(&self.plain)
        {
            let mut forest = std::mem::take(&mut stacks.forest);
            self.forked = None;
            forest.compare_again(self.grammar);
            self.settle(&forest, 1, &[(0, root)]);
            return Step::Accepted;
        }
        let is_taken = match ways {
            Ways::First(_) => taken,
            Ways::All(terminals) => stacks.shift(index, terminals),
        };
        if !is_taken {
            match before {
                Some(tops) => stacks.tops = tops,
                None => self.forked = None,
            }
            return Step::Refused;
        }
        if let Some((height, entries)) = stacks.single() {
            let mut forest = std::mem::take(&mut stacks.forest);
            self.forked = None;
            forest.compare_again(self.grammar);
            self.settle(&forest, height + 1, &entries);
        }
        Step::Taken
    }

    /// Stops: the text can be followed in ever more ways. Mostly it can then be read in two, at
    /// some place at least.
    #[cold]
    fn leave_undecided(&mut self, index: u32) -> Step {
        let forest = self.forked.take().map(|stacks| stacks.forest);
        let mut forest = forest.unwrap_or_default();
        forest.compare_again(self.grammar);
        self.given_up_at = Some(self.assembly.span(index, index + 1));
        if !self.is_mended
            && let Some(readings) = forest.ambiguity()
        {
            let parked = self.assembly.park(&mut self.plain, 1);
            self.note_ambiguity(&forest, &parked, readings);
        }
        Step::Accepted
    }

    /// Goes back to one stack: the plain one up to a height, and above it what the stacks
    /// have come to.
    pub(super) fn settle(&mut self, forest: &Forest, height: u32, entries: &[(u32, Ref)]) {
        self.remember_cut(height as usize);
        let parked = self.assembly.park(&mut self.plain, height);
        for &(state, value) in entries {
            self.replay(forest, &parked, value, self.ambiguity.is_some());
            if let Some(top) = self.plain.last_mut() {
                top.state = state;
            }
        }
    }

    /// Makes on the plain stack what has been derived beside it. The outermost node with
    /// two readings is kept with both of them, unless ambiguity is to be passed over.
    fn replay(&mut self, forest: &Forest, parked: &Parked, root: Ref, pass_over: bool) {
        enum Work {
            Visit(Ref, bool),
            Reduce(u32, u32),
        }
        let mut work = vec![Work::Visit(root, pass_over || self.is_mended)];
        while let Some(step) = work.pop() {
            match step {
                Work::Reduce(production, end) => {
                    if let Some(log) = &mut self.log {
                        log.push(production);
                    }
                    self.assembly.reduce(&mut self.plain, production, 0, end);
                }
                Work::Visit(node, pass_over) => {
                    let mut known = pass_over || self.ambiguity.is_some();
                    if !known && let Some(other) = forest.other(node) {
                        self.note_ambiguity(forest, parked, [node, other]);
                        known = self.ambiguity.is_some();
                    }
                    match forest.referent(node) {
                        Referent::Token(index) => self.plain.push(Assembly::take(index, 0)),
                        Referent::Plain(height) => {
                            self.assembly.put_back(&mut self.plain, parked, height);
                        }
                        Referent::Derivation(derivation) => {
                            work.push(Work::Reduce(derivation.production, derivation.end));
                            let children = forest.children(derivation).iter().rev();
                            work.extend(children.map(|&child| Work::Visit(child, known)));
                        }
                    }
                }
            }
        }
    }

    fn note_ambiguity(&mut self, forest: &Forest, parked: &Parked, nodes: [Ref; 2]) {
        let derivation = nodes.iter().find_map(|node| match forest.referent(*node) {
            Referent::Derivation(derivation) => Some(derivation),
            Referent::Token(_) | Referent::Plain(_) => None,
        });
        let Some(Derivation {
            production,
            start,
            end,
            ..
        }) = derivation
        else {
            return;
        };
        let height = self.plain.len() as u32;
        let readings = nodes.map(|node| {
            self.replay(forest, parked, node, true);
            let tree = self.assembly.tree_of_top(&self.plain, production, end);
            self.assembly.park(&mut self.plain, height);
            tree
        });
        // Through forms that become others, one tree can be come by in two ways.
        self.compared += 1;
        if self.compared < MOST_COMPARED && alike(&readings[0], &readings[1]) {
            return;
        }
        self.ambiguity = Some(Ambiguity {
            span: self.assembly.span(start, end),
            readings,
            is_given_up: self.given_up_at.is_some(),
        });
    }

    /// The signs that are operators so far.
    pub fn signs(&self) -> &Signs {
        &self.assembly.signs.signs
    }

    /// What is wrong with how signs are declared and used.
    pub fn sign_mistakes(&self) -> Vec<Diagnostic> {
        self.assembly.signs.diagnostics()
    }

    /// Whether the text could end before the token at an index.
    pub fn could_end(&mut self, index: u32) -> bool {
        let terminals = Lookahead {
            main: [None, Some(0)],
            soft: [None, None],
        };
        let mut stacks = match &self.forked {
            Some(stacks) => stacks.clone(),
            None => Stacks::new(self.grammar, self.tables, &self.plain),
        };
        stacks.reduce(&self.plain, index, terminals);
        stacks.accepted(&self.plain).is_some()
    }

    /// The stacks as they are, one entry a symbol.
    pub fn plain_stacks(&self) -> Vec<Vec<Entry>> {
        match &self.forked {
            None => vec![self.plain.clone()],
            Some(stacks) => stacks.plain_stacks(&self.plain),
        }
    }

    /// The tree of a text that has been accepted, or what stands in its way.
    pub fn finish(self) -> Result<Tree, Obstacle> {
        if let Some(ambiguity) = self.ambiguity {
            return Err(Obstacle::Ambiguous(Box::new(ambiguity)));
        }
        if let Some(place) = self.given_up_at {
            return Err(Obstacle::TooMany(place));
        }
        match self.assembly.too_deep() {
            Some(place) => Err(Obstacle::TooDeep(place)),
            None if self.is_lost => Err(Obstacle::Lost),
            None => self.assembly.finish(&self.plain).ok_or(Obstacle::Lost),
        }
    }
}
