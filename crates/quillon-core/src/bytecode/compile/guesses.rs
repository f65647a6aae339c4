//! Operators on numbers behind what a meaning asks first: where kinds are told apart, or operands are made numbers of,
//! so that two numbers come to one instruction, that is tried on what is there. All else follows behind it.

use super::deciding::Known;
use super::emit::Mark;
use super::folding::Choices;
use super::kinds::{Kinds, NUMERIC};
use super::outcomes::{Atom, Outcome};
use super::{Builder, Home, Names, Operand, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};

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
        let (operator, [left, right]) = match self.outcome_of_match(subject, &choices.arms())? {
            Outcome::Binary(operator, left, right) => (operator, [left, right]),
            // An operator that gives it: others would need another instruction.
            Outcome::Ordered(ordered) => match ordered.comparison()? {
                (operator, true) if is_of_numbers(operator) => (operator, ordered.atoms),
                _ => return None,
            },
            Outcome::Atom(_) => return None,
        };
        let left = self.at_hand_of(&left, choices.register)?;
        let right = self.at_hand_of(&right, choices.register)?;
        Some((operator, left, right))
    }

    /// The comparison that a match comes to as a test, with its operands, and whether the test holds where that does.
    pub(super) fn comes_to_test(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        known: Option<&Known>,
    ) -> Option<(B, bool, [Operand; 2])> {
        let Outcome::Ordered(ordered) = self.outcome_of_match(subject, &choices.arms())? else {
            return None;
        };
        let ordered = match known {
            Some(known) => ordered.map(|literal| known.of(literal).map(Literal::Truth))?,
            None => ordered,
        };
        let (operator, is_so) = ordered.comparison()?;
        let [left, right] = &ordered.atoms;
        let left = self.at_hand_of(left, choices.register)?;
        let right = self.at_hand_of(right, choices.register)?;
        Some((operator, is_so, [left, right]))
    }

    /// The equality that a match comes to in every arm, whatever its subject is.
    pub(super) fn always_equality(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
    ) -> Option<(B, [Operand; 2])> {
        if self.shared.names == Names::Kept {
            return None;
        }
        let arms = choices.arms();
        let mut outcomes = arms.iter().map(|arm| self.outcome_of_arm(subject, arm));
        let first = outcomes.next()??;
        if !outcomes.all(|other| other.as_ref() == Some(&first)) {
            return None;
        }
        let Outcome::Binary(operator, left, right) = first else {
            return None;
        };
        let mut operand = |atom: Atom| match atom {
            Atom::Literal(literal) => Some(Operand::Literal(literal)),
            Atom::Subject => Some(Operand::Register(choices.register)),
            Atom::Slot(slot) => match self.home(slot) {
                Home::Register(register) => Some(Operand::Register(register)),
                Home::Literal(literal) => Some(Operand::Literal(literal)),
                Home::Same(..) | Home::Items(..) | Home::None => None,
            },
        };
        Some((operator, [operand(left)?, operand(right)?]))
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
        let Outcome::Atom(atom) = self.outcome_for_numbers(rest)? else {
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
