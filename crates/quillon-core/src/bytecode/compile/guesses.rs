//! Operators on numbers behind what a meaning asks first: where kinds are told apart, or operands are made numbers of,
//! so that two numbers come to one instruction, that is tried on what is there. All else follows behind it.

use super::emit::Mark;
use super::folding::Choices;
use super::kinds::{Kinds, NUMERIC};
use super::looking::variable_read;
use super::{Builder, Home, Operand, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Variable};

/// So far a piece of Core is gone into.
const DEEPEST: usize = 12;

/// What is at hand without being made.
#[derive(Clone, PartialEq, Debug)]
pub(super) enum Atom {
    /// What a slot holds.
    Slot(u32),
    /// What a match is on.
    Subject,
    Literal(Literal),
}

/// What a piece of Core comes to where some variables hold values of known kinds.
#[derive(Clone, PartialEq, Debug)]
enum Outcome {
    /// Just this.
    Atom(Atom),
    /// An operator on these.
    Binary(B, Atom, Atom),
}

/// What is taken for granted while Core is gone through.
struct Assumed<'c> {
    /// The subject of the match that is looked at.
    subject: Option<&'c Core>,
    /// Other names for what is at hand.
    names: Vec<(u32, Atom)>,
    /// The kinds of what has been asked about.
    kinds: Vec<(Atom, ValueKind)>,
    /// Whether nothing is asked about that may be of other kinds.
    is_sure: bool,
}

/// An operand that is made a number of, if it is not one.
struct Coerced<'c> {
    whole: &'c Core,
    slots: &'c [(u32, bool)],
    sets: &'c [CorePart],
    rest: &'c CorePart,
    /// What it is where that is a number.
    atom: Atom,
}

impl Builder<'_, '_> {
    /// The operator that a match comes to where all that it asks about are numbers, and its operands.
    pub(super) fn comes_to(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
    ) -> Option<(B, Operand, Operand)> {
        let arms: Vec<&ArmCore> = choices.possible.iter().map(|choice| choice.arm).collect();
        let outcome = self.for_numbers(Some(subject), false, |builder, assumed| {
            let arm = builder.arm(subject, arms.iter().copied(), assumed)?;
            builder.outcome(&arm.body, assumed, DEEPEST)
        })?;
        let Outcome::Binary(operator, left, right) = outcome else {
            return None;
        };
        let left = self.at_hand_of(&left, choices.register)?;
        let right = self.at_hand_of(&right, choices.register)?;
        Some((operator, left, right))
    }

    /// Whether a match on a number comes to the same whichever of the two kinds it is of, and all else that is asked
    /// about is of, too.
    pub(super) fn is_alike_for_numbers(&self, core: &Core, subject: &Core) -> bool {
        let outcome = self.for_numbers(Some(subject), true, |builder, assumed| {
            builder.outcome(core, assumed, DEEPEST)
        });
        outcome.is_some()
    }

    /// What something comes to if all that is asked about are numbers, whichever of the two kinds they are; if it must
    /// be sure, nothing is asked about that may be something else.
    fn for_numbers<'c>(
        &self,
        subject: Option<&'c Core>,
        is_sure: bool,
        find: impl Fn(&Self, &mut Assumed<'c>) -> Option<Outcome>,
    ) -> Option<Outcome> {
        let run = |kinds: Vec<(Atom, ValueKind)>| {
            let mut assumed = Assumed {
                subject,
                names: Vec::new(),
                kinds,
                is_sure,
            };
            let outcome = find(self, &mut assumed)?;
            Some((outcome, assumed.kinds))
        };
        let (outcome, asked) = run(Vec::new())?;
        let count = u32::try_from(asked.len())
            .ok()
            .filter(|count| (1..=2).contains(count))?;
        for bits in 1..1_u32 << count {
            let kinds = asked.iter().enumerate().map(|(at, (atom, _))| {
                let is_integer = bits & 1 << at == 0;
                let kind = if is_integer {
                    ValueKind::Integer
                } else {
                    ValueKind::Number
                };
                (atom.clone(), kind)
            });
            let (other, also) = run(kinds.collect())?;
            if other != outcome || also.len() != asked.len() {
                return None;
            }
        }
        Some(outcome)
    }

    /// What a piece of Core comes to.
    fn outcome<'c>(
        &self,
        core: &'c Core,
        assumed: &mut Assumed<'c>,
        depth: usize,
    ) -> Option<Outcome> {
        let depth = depth.checked_sub(1)?;
        match &core.kind {
            K::Literal(literal) => Some(Outcome::Atom(Atom::Literal(literal.clone()))),
            K::Read(..) => {
                let slot = variable_read(core)?;
                self.atom(slot, assumed).map(Outcome::Atom)
            }
            K::Mark(_, body) | K::Fresh(_, body) => self.outcome(body, assumed, depth),
            K::Sequence(parts) => {
                let (last, sets) = parts.split_last()?;
                for set in sets {
                    let K::Write(Variable::Slot(slot), _, value) = &set.kind else {
                        return None;
                    };
                    let Outcome::Atom(atom) = self.outcome(value, assumed, depth)? else {
                        return None;
                    };
                    let facts = self.facts(*slot);
                    if facts.writes != 1 || facts.shared {
                        return None;
                    }
                    assumed.names.push((*slot, atom));
                }
                self.outcome(last, assumed, depth)
            }
            K::Match(subject, arms) => {
                let can_be_other = !self.kinds_of_subject(core).is_within(NUMERIC);
                if assumed.is_sure && can_be_other {
                    return None;
                }
                let arm = self.arm(subject, arms.iter(), assumed)?;
                self.outcome(&arm.body, assumed, depth)
            }
            K::Binary(operator, [left, right]) if is_of_numbers(*operator) => {
                let mut atom = |part: &'c Core| match self.outcome(part, assumed, depth)? {
                    Outcome::Atom(atom) => Some(atom),
                    Outcome::Binary(..) => None,
                };
                Some(Outcome::Binary(*operator, atom(left)?, atom(right)?))
            }
            _ => None,
        }
    }

    /// What a slot is another name for.
    fn atom(&self, slot: u32, assumed: &Assumed<'_>) -> Option<Atom> {
        let mut known = assumed.names.iter().rev();
        if let Some((_, atom)) = known.find(|(own, _)| *own == slot) {
            return Some(atom.clone());
        }
        let facts = self.facts(slot);
        if facts.shared || facts.maybe_unset {
            return None;
        }
        match (&facts.literal, facts.alias) {
            (Some(literal), _) => Some(Atom::Literal(literal.clone())),
            (None, Some(other)) => self.atom(other, assumed),
            (None, None) => Some(Atom::Slot(slot)),
        }
    }

    /// The arm that a match comes to.
    fn arm<'c>(
        &self,
        subject: &'c Core,
        mut arms: impl Iterator<Item = &'c ArmCore>,
        assumed: &mut Assumed<'c>,
    ) -> Option<&'c ArmCore> {
        let is_subject = assumed
            .subject
            .is_some_and(|own| std::ptr::eq(own, subject));
        let atom = match variable_read(subject) {
            Some(slot) => self.atom(slot, assumed)?,
            None if is_subject => Atom::Subject,
            None => return None,
        };
        let kind = match &atom {
            Atom::Literal(Literal::Integer(_)) => ValueKind::Integer,
            Atom::Literal(Literal::Number(_)) => ValueKind::Number,
            Atom::Literal(_) => return None,
            asked => {
                let known = assumed.kinds.iter().find(|(own, _)| own == asked);
                let kind = known.map_or(ValueKind::Integer, |(_, kind)| *kind);
                if known.is_none() {
                    assumed.kinds.push((asked.clone(), kind));
                }
                kind
            }
        };
        let arm = arms.find(|arm| arm.kind.is_none_or(|own| own == kind))?;
        if let Some(slot) = arm.slot {
            assumed.names.push((slot, atom));
        }
        Some(arm)
    }

    /// Where something is that is at hand and may be a number.
    fn at_hand_of(&mut self, atom: &Atom, subject: Register) -> Option<Operand> {
        match atom {
            Atom::Literal(literal) => {
                super::arithmetic::is_number(literal).then(|| Operand::Literal(literal.clone()))
            }
            Atom::Subject => Some(Operand::Register(subject)),
            Atom::Slot(slot) => {
                if self.kinds_of(*slot).among(NUMERIC) == Kinds::NONE {
                    return None;
                }
                match self.home(*slot) {
                    Home::Register(register) => Some(Operand::Register(register)),
                    Home::Literal(literal) => {
                        let is_number = super::arithmetic::is_number(&literal);
                        is_number.then_some(Operand::Literal(literal))
                    }
                    Home::Same(..) | Home::Items(..) | Home::None => None,
                }
            }
        }
    }

    /// An operand that is made a number of, if it is not one.
    fn coerced<'c>(&self, core: &'c Core) -> Option<Coerced<'c>> {
        let core = self.simple(core);
        if let K::Mark(_, body) = &core.kind {
            return self.coerced(body);
        }
        let K::Fresh(slots, body) = &core.kind else {
            return None;
        };
        let K::Sequence(parts) = &body.kind else {
            return None;
        };
        let (rest, sets) = parts.split_last()?;
        let are_set = |set: &CorePart| {
            let K::Write(Variable::Slot(slot), ..) = &set.kind else {
                return false;
            };
            let facts = self.facts(*slot);
            let is_own = slots.iter().any(|(own, _)| own == slot);
            is_own && facts.writes == 1 && !facts.shared && !facts.maybe_unset
        };
        if !sets.iter().all(are_set) {
            return None;
        }
        let outcome = self.for_numbers(None, false, |builder, assumed| {
            builder.outcome(rest, assumed, DEEPEST)
        })?;
        let Outcome::Atom(atom) = outcome else {
            return None;
        };
        Some(Coerced {
            whole: core,
            slots,
            sets,
            rest,
            atom,
        })
    }

    /// Whether making a value can neither fail nor change anything.
    pub(super) fn is_at_hand(&self, core: &Core) -> bool {
        let core = self.simple(core);
        match &core.kind {
            K::Literal(_) => true,
            K::Read(Variable::Slot(slot), _) => {
                let facts = self.facts(*slot);
                !facts.shared && !facts.maybe_unset
            }
            K::Mark(_, body) => self.is_at_hand(body),
            _ => false,
        }
    }

    /// An operator on operands of which some are made numbers of: it is tried on what is there. `emit` emits the
    /// instruction; whether that is how it is done.
    pub(super) fn on_guessed(
        &mut self,
        [left, right]: [&CorePart; 2],
        site: u32,
        emit: &dyn Fn(&mut Self, &Operand, &Operand),
    ) -> bool {
        let (first, second) = (self.coerced(left), self.coerced(right));
        if first.is_none() && second.is_none() {
            return false;
        }
        let top = self.top;
        let is_right_at_hand = match &second {
            Some(second) => second.sets.iter().all(|set| match &set.kind {
                K::Write(_, _, value) => self.is_at_hand(value),
                _ => false,
            }),
            None => self.is_at_hand(right),
        };
        match &first {
            None => {
                let a = self.stable_operand(left, &[right]);
                self.with_second(second.as_ref(), right, &a, None, site, emit);
            }
            Some(first) => {
                let sets = first.sets;
                self.within_fresh(first.whole, first.slots, |builder| {
                    sets.iter()
                        .for_each(|set| builder.generate(set, Want::Effect));
                    let Some(raw) = builder.at_hand_of(&first.atom, 0) else {
                        // It is no number.
                        let a = builder.stable_operand(first.rest, &[right]);
                        let b = builder.operand(right);
                        emit(builder, &a, &b);
                        return;
                    };
                    let later = if is_right_at_hand {
                        Some(first.rest)
                    } else {
                        None
                    };
                    let a = match later {
                        Some(_) => raw,
                        None => builder.number_of(first, &raw, site),
                    };
                    builder.with_second(second.as_ref(), right, &a, later, site, emit);
                });
            }
        }
        self.top = top;
        true
    }

    /// The same once the first operand is there; `later` makes a number of that, if it must be.
    fn with_second(
        &mut self,
        second: Option<&Coerced<'_>>,
        right: &CorePart,
        a: &Operand,
        later: Option<&CorePart>,
        site: u32,
        emit: &dyn Fn(&mut Self, &Operand, &Operand),
    ) {
        let Some(second) = second else {
            let b = self.operand(right);
            let end = self.mark();
            emit(self, a, &b);
            if let Some(later) = later {
                self.done(end, site);
                let a = self.stable_operand(later, &[right]);
                emit(self, &a, &b);
            }
            self.here(end);
            return;
        };
        self.within_fresh(second.whole, second.slots, |builder| {
            for set in second.sets {
                builder.generate(set, Want::Effect);
            }
            let end = builder.mark();
            let raw = builder.at_hand_of(&second.atom, 0);
            if let Some(raw) = &raw {
                emit(builder, a, raw);
                builder.done(end, site);
            }
            let a = match later {
                Some(later) => builder.stable_operand(later, &[second.rest]),
                None => a.clone(),
            };
            let b = builder.operand(second.rest);
            emit(builder, &a, &b);
            builder.here(end);
        });
    }

    /// Makes a number of what is there, in a register that nothing else changes.
    fn number_of(&mut self, first: &Coerced<'_>, raw: &Operand, site: u32) -> Operand {
        let Operand::Register(raw) = *raw else {
            return raw.clone();
        };
        let is_own =
            matches!(first.atom, Atom::Slot(slot) if first.slots.iter().any(|own| own.0 == slot));
        let into = if is_own { raw } else { self.register() };
        if !is_own {
            self.emit(Instruction::Move(into, raw), site);
        }
        let is_number = self.mark();
        self.emit(Instruction::JumpNumber(raw, 0), site);
        self.to(is_number);
        let top = self.top;
        // What makes the number looks at what is there until it is made.
        let made = self.register();
        self.generate(first.rest, Want::Into(made));
        self.emit(Instruction::Move(into, made), site);
        self.top = top;
        self.here(is_number);
        Operand::Register(into)
    }

    /// Passes over what comes, up to a mark, where the instruction before could be done.
    pub(super) fn done(&mut self, end: Mark, site: u32) {
        self.emit(Instruction::Done(0), site);
        self.to(end);
        self.reached();
    }
}

/// Whether the instructions of an operator do numbers by themselves, and leave all else.
pub(super) fn is_of_numbers(operator: B) -> bool {
    match operator {
        B::Add
        | B::Subtract
        | B::Multiply
        | B::Divide
        | B::Less
        | B::LessOrEqual
        | B::Greater
        | B::GreaterOrEqual => true,
        B::Equal | B::Unequal | B::Join => false,
    }
}
