//! Of which kinds values can be, found by going over a function until nothing new is found (an abstract
//! interpretation, after Kildall, 1973). What a variable can hold is what any place sets it to; where it is set just
//! once, also what has been asked of it on the way. So a `match` need not ask for kinds that its subject never is of
//! there.

use rustc_hash::FxHashMap;

use super::demands::kind_demanded;
use super::kinds::{Kinds, Known, NUMERIC, of_binary, of_literal, of_operation, taken_by, wanted};
use super::slots::{Around, Names, SlotFacts};
use crate::definition::template::{BinaryOperator, ValueKind};
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, FunctionCore, Label, Variable};
use crate::operations::Operation;

/// After so many rounds over a function, what changes still can be anything: each takes as long as
/// the function is.
const MOST_ROUNDS: usize = 6;

const TRUTH: Kinds = Kinds::of(ValueKind::Truth);
const NOTHING: Kinds = Kinds::of(ValueKind::Nothing);

/// What can be known of a function, with the facts of its slots.
pub(super) fn known(function: &FunctionCore, facts: &[SlotFacts], around: Around<'_>) -> Known {
    let mut flow = Flow::of(function, facts, around);
    for round in 0.. {
        flow.has_changed = false;
        for piece in function.pieces() {
            flow.begin();
            flow.visit(piece);
        }
        // Where nothing is asked, nothing need be known.
        if flow.known.subjects.is_empty() {
            flow.give_up();
            break;
        }
        if !flow.has_changed {
            break;
        }
        if round == MOST_ROUNDS {
            flow.give_up();
        }
    }
    flow.known
}

/// What a part of Core that may be left out, or is one of several, has made known: slots and what they hold then.
type Learnt = FxHashMap<u32, Kinds>;

struct Flow<'f> {
    known: Known,
    facts: &'f [SlotFacts],
    around: Around<'f>,
    /// What each slot can hold at the place that is looked at.
    now: Vec<Kinds>,
    /// The slots of which something has been learnt, with what was known before.
    trail: Vec<(u32, Kinds)>,
    /// Nothing gets here.
    dead: bool,
    /// What jumps to landings bring.
    brought: FxHashMap<Label, Kinds>,
    /// Whether more can be than in the round before.
    has_changed: bool,
}

impl Flow<'_> {
    fn of<'f>(function: &FunctionCore, facts: &'f [SlotFacts], around: Around<'f>) -> Flow<'f> {
        let mut known = Known {
            slots: vec![Kinds::NONE; facts.len()],
            subjects: FxHashMap::default(),
        };
        // What functions share is set by others, too, and what somebody looks at may be set by them.
        for (slot, facts) in known.slots.iter_mut().zip(facts) {
            if facts.shared || around.shows(facts) {
                *slot = Kinds::ANY;
            }
        }
        for param in &function.params {
            known.slots[param.slot as usize] = Kinds::ANY;
        }
        Flow {
            known,
            facts,
            around,
            now: Vec::new(),
            trail: Vec::new(),
            dead: false,
            brought: FxHashMap::default(),
            has_changed: false,
        }
    }

    /// Begins a piece of the function.
    fn begin(&mut self) {
        self.now.clone_from(&self.known.slots);
        self.trail.clear();
        self.dead = false;
    }

    /// Takes it that everything can be anything.
    fn give_up(&mut self) {
        self.known.slots.fill(Kinds::ANY);
        for kinds in self.brought.values_mut() {
            *kinds = Kinds::ANY;
        }
    }

    /// Whether a slot holds the same as long as it lives, however often it comes to life.
    fn is_set_once(&self, slot: u32) -> bool {
        let facts = &self.facts[slot as usize];
        let is_once = facts.writes == 1 || facts.is_set_by_turn();
        is_once && !facts.shared && !facts.maybe_unset && !self.around.shows(facts)
    }

    /// What a slot is set to.
    fn set(&mut self, slot: u32, kinds: Kinds) {
        let known = &mut self.known.slots[slot as usize];
        let all = known.with(kinds);
        self.has_changed |= *known != all;
        *known = all;
        self.learn(slot, all);
    }

    fn learn(&mut self, slot: u32, kinds: Kinds) {
        let now = &mut self.now[slot as usize];
        if *now != kinds {
            self.trail.push((slot, *now));
            *now = kinds;
        }
    }

    /// The slot that something reads, by the first of its names, if it always holds the same.
    fn slot_read(&self, core: &Core) -> Option<u32> {
        let K::Read(Variable::Slot(slot) | Variable::Cell(slot), _) = &core.kind else {
            return None;
        };
        let mut slot = *slot;
        while let Some(other) = self.facts[slot as usize].alias {
            slot = other;
        }
        self.is_set_once(slot).then_some(slot)
    }

    /// What something gives is of these kinds, or nothing gets any further.
    fn narrow(&mut self, core: &Core, to: Kinds) {
        if let Some(slot) = self.slot_read(core) {
            let kinds = self.now[slot as usize].among(to);
            self.learn(slot, kinds);
        }
    }

    /// Takes back what has been learnt since a mark: what was known of each slot by then.
    fn take_back(&mut self, mark: usize) -> Learnt {
        let mut learnt = Learnt::default();
        for (slot, before) in self.trail.split_off(mark).into_iter().rev() {
            let now = std::mem::replace(&mut self.now[slot as usize], before);
            learnt.entry(slot).or_insert(now);
        }
        learnt
    }

    /// Goes on behind alternatives with what each of them has learnt that comes to its end.
    fn join(&mut self, ways: impl IntoIterator<Item = Option<Learnt>>) {
        let mut all: Option<Learnt> = None;
        for learnt in ways.into_iter().flatten() {
            all = Some(match all {
                None => learnt,
                Some(all) => {
                    let both = all.into_iter().filter_map(|(slot, kinds)| {
                        let other = learnt.get(&slot)?;
                        Some((slot, kinds.with(*other)))
                    });
                    both.collect()
                }
            });
        }
        self.dead = all.is_none();
        for (slot, kinds) in all.unwrap_or_default() {
            self.learn(slot, kinds);
        }
    }

    /// Visits one of several alternatives: what has been learnt at its end, if it comes there, and what it gives.
    fn way(&mut self, visit: impl FnOnce(&mut Self) -> Kinds) -> (Option<Learnt>, Kinds) {
        let (mark, before) = (self.trail.len(), self.dead);
        let kinds = visit(self);
        let learnt = self.take_back(mark);
        let dead = std::mem::replace(&mut self.dead, before);
        ((!dead).then_some(learnt), kinds)
    }

    /// Visits what may be passed over, or be done more than once.
    fn perhaps(&mut self, visit: impl FnOnce(&mut Self)) {
        self.way(|flow| {
            visit(flow);
            Kinds::NONE
        });
    }

    /// What a piece of Core can give, as far as is known, and what it sets.
    fn visit(&mut self, core: &Core) -> Kinds {
        if self.dead {
            return Kinds::NONE;
        }
        let kinds = self.visit_kind(core);
        if self.dead { Kinds::NONE } else { kinds }
    }

    fn visit_kind(&mut self, core: &Core) -> Kinds {
        match &core.kind {
            K::Literal(literal) => of_literal(literal),
            K::Read(variable, _) => self.read(core, variable),
            K::Write(variable, _, value) => {
                let kinds = self.visit(value);
                if let Variable::Slot(slot) | Variable::Cell(slot) = variable
                    && !self.dead
                {
                    self.set(*slot, kinds);
                }
                NOTHING
            }
            K::Fresh(_, body) | K::Rebind(_, body) | K::Mark(_, body) | K::Parts(_, body) => {
                self.visit(body)
            }
            K::Sequence(parts) => {
                let each = parts.iter().map(|part| self.visit(part));
                each.last().unwrap_or(NOTHING)
            }
            K::If(parts) => self.choice(parts),
            K::Match(subject, arms) => self.matching(core, subject, arms),
            K::While([test, body]) => {
                self.truth(test);
                self.perhaps(|flow| {
                    flow.visit(body);
                });
                NOTHING
            }
            K::Each(slot, [list, body]) => {
                self.visit(list);
                self.turns(*slot, Kinds::ANY, body);
                NOTHING
            }
            K::Count(slot, [from, to, body]) => {
                self.visit(from);
                self.visit(to);
                self.turns(*slot, Kinds::of(ValueKind::Integer), body);
                NOTHING
            }
            K::Binary(operator, [left, right]) => self.binary(*operator, left, right),
            K::Negate(part) => {
                let kinds = self.visit(part).among(NUMERIC);
                self.narrow(part, NUMERIC);
                kinds
            }
            K::Not(part) => {
                self.truth(part);
                TRUTH
            }
            K::And([first, second]) | K::Or([first, second]) => {
                self.truth(first);
                self.perhaps(|flow| flow.truth(second));
                TRUTH
            }
            K::Apply(operation, args) => self.operation(core, *operation, args),
            K::List(items) => {
                self.all(items);
                Kinds::of(ValueKind::List)
            }
            K::Function(_) => Kinds::of(ValueKind::Function),
            K::Call(callee, args) => {
                self.visit(callee);
                self.all(args);
                self.narrow(callee, Kinds::of(ValueKind::Function));
                Kinds::ANY
            }
            K::Fault(part) | K::Raise(part) => {
                self.visit(part);
                self.dead = true;
                Kinds::NONE
            }
            K::Enter(_) => Kinds::ANY,
            K::Landing(..) | K::Jump(..) | K::Attempt(..) | K::Cleanup(_) => self.way_out(core),
        }
    }

    /// What leads out of something, and what waits there.
    fn way_out(&mut self, core: &Core) -> Kinds {
        match &core.kind {
            K::Landing(label, body) => {
                let (learnt, kinds) = self.way(|flow| flow.visit(body));
                // A jump may come from anywhere in it, and from a part that is gone over later.
                let Some(brought) = self.brought.get(label).copied() else {
                    self.join([learnt]);
                    return kinds;
                };
                kinds.with(brought)
            }
            K::Jump(label, value) => {
                let kinds = self.visit(value);
                if !self.dead {
                    let is_new = !self.brought.contains_key(label);
                    let brought = self.brought.entry(*label).or_default();
                    let all = brought.with(kinds);
                    self.has_changed |= is_new || *brought != all;
                    *brought = all;
                }
                self.dead = true;
                Kinds::NONE
            }
            K::Attempt(slot, [body, rescue]) => {
                let (learnt, given) = self.way(|flow| flow.visit(body));
                let (other, rescued) = self.way(|flow| {
                    flow.set(*slot, Kinds::ANY);
                    flow.visit(rescue)
                });
                self.join([learnt, other]);
                given.with(rescued)
            }
            K::Cleanup([body, after]) => {
                let (learnt, kinds) = self.way(|flow| flow.visit(body));
                self.visit(after);
                if !self.dead {
                    self.join([learnt]);
                }
                kinds
            }
            _ => Kinds::ANY,
        }
    }

    fn all(&mut self, parts: &[CorePart]) {
        for part in parts {
            self.visit(part);
        }
    }

    /// What is read: by whichever of its names more is known.
    fn read(&self, core: &Core, variable: &Variable) -> Kinds {
        let slot = match variable {
            Variable::Slot(slot) | Variable::Cell(slot) => slot,
            Variable::Captured(index) if self.around.names == Names::AsNeeded => {
                let known = self.around.captured.get(*index as usize).copied();
                return known.unwrap_or(Kinds::ANY);
            }
            Variable::BuiltIn(index) => {
                let is_function = self.around.built_in.is_function(*index as usize);
                return if is_function {
                    Kinds::of(ValueKind::Function)
                } else {
                    Kinds::ANY
                };
            }
            Variable::Captured(_)
            | Variable::Session(_)
            | Variable::State(_)
            | Variable::Dynamic(_) => return Kinds::ANY,
        };
        let kinds = self.now[*slot as usize];
        self.slot_read(core)
            .map_or(kinds, |first| kinds.among(self.now[first as usize]))
    }

    /// What decides on something is a truth value once it has.
    fn truth(&mut self, test: &Core) {
        self.visit(test);
        self.narrow(test, TRUTH);
    }

    fn turns(&mut self, slot: u32, kinds: Kinds, body: &Core) {
        self.perhaps(|flow| {
            flow.set(slot, kinds);
            flow.visit(body);
        });
    }

    fn choice(&mut self, [test, yes, no]: &[CorePart; 3]) -> Kinds {
        self.truth(test);
        let (first, given) = self.way(|flow| {
            flow.assume(test, true);
            flow.visit(yes)
        });
        let (second, otherwise) = self.way(|flow| {
            flow.assume(test, false);
            flow.visit(no)
        });
        self.join([first, second]);
        given.with(otherwise)
    }

    /// What a test that has come to a truth value tells of kinds.
    fn assume(&mut self, test: &Core, truth: bool) {
        match &test.kind {
            K::Not(part) => self.assume(part, !truth),
            K::Mark(_, part) => self.assume(part, truth),
            K::And(parts) if truth => parts.iter().for_each(|part| self.assume(part, true)),
            K::Or(parts) if !truth => parts.iter().for_each(|part| self.assume(part, false)),
            K::Apply(Operation::Fits, args) => {
                if let [value, pattern] = &args[..]
                    && let Some((kinds, is_all)) = kind_demanded(pattern)
                {
                    if truth {
                        self.narrow(value, kinds);
                    } else if is_all {
                        self.narrow(value, Kinds::ANY.without(kinds));
                    }
                }
            }
            _ => {}
        }
    }

    fn binary(&mut self, operator: BinaryOperator, left: &Core, right: &Core) -> Kinds {
        let first = self.visit(left);
        let second = self.visit(right);
        let taken = taken_by(operator);
        self.narrow(left, taken);
        self.narrow(right, taken);
        of_binary(operator, first, second)
    }

    fn operation(&mut self, core: &Core, operation: Operation, args: &[CorePart]) -> Kinds {
        let mut kinds: Vec<Kinds> = args.iter().map(|arg| self.visit(arg)).collect();
        for (operand, arg) in operation.operands().iter().zip(args) {
            self.narrow(arg, wanted(operand.wanted));
        }
        if operation == Operation::Demand
            && let [value, pattern, _] = args
            && let Some((demanded, _)) = kind_demanded(pattern)
        {
            self.ask(core, kinds[0]);
            kinds[0] = kinds[0].among(demanded);
            self.narrow(value, demanded);
        }
        if matches!(
            operation,
            Operation::NumberModulo | Operation::NumberRemainder
        ) {
            self.ask(core, kinds[0]);
        }
        let given = of_operation(operation, &kinds);
        self.dead |= given == Kinds::NONE;
        given
    }

    /// A value of these kinds is asked about here.
    fn ask(&mut self, at: &Core, kinds: Kinds) {
        // What stands in more than one place may be asked about different values there.
        let all = self.known.subjects.entry(std::ptr::from_ref(at));
        let all = all.or_default();
        *all = all.with(kinds);
    }

    fn matching(&mut self, core: &Core, subject: &Core, arms: &[ArmCore]) -> Kinds {
        let mut left = self.visit(subject);
        if self.dead {
            return Kinds::NONE;
        }
        self.ask(core, left);
        let mut given = Kinds::NONE;
        let mut ways = Vec::new();
        for arm in arms {
            let taken = arm.kind.map_or(left, |kind| left.among(Kinds::of(kind)));
            left = left.without(taken);
            // What cannot be reached gives nothing, and sets nothing.
            if taken == Kinds::NONE {
                continue;
            }
            let (learnt, kinds) = self.way(|flow| {
                flow.narrow(subject, taken);
                if let Some(slot) = arm.slot {
                    flow.set(slot, taken);
                }
                flow.visit(&arm.body)
            });
            given = given.with(kinds);
            ways.push(learnt);
        }
        self.join(ways);
        given
    }
}
