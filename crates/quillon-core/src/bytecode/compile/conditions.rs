//! Truth values where they decide how to go on: comparisons jump at once, and `and`, `or`
//! and `not` are only ways to go.

use super::deciding::Known;
use super::emit::Mark;
use super::folding::{Both, Choices};
use super::kinds::NUMERIC;
use super::looking::variable_read;
use super::{Builder, Operand, Register};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{Core, CoreKind as K, CorePart};
use crate::operations::Operation as O;

/// The jumps for a comparison.
#[derive(Clone, Copy, Debug)]
struct Comparison {
    registers: Op,
    with_integer: Op,
    /// Nothing where a constant has to be in a register.
    with_constant: Option<Op>,
    /// Whether they jump when it holds, or when it does not.
    holds: bool,
}

impl Comparison {
    /// The same where it is only tried on numbers: all else can be equal, too.
    fn of_numbers(self) -> Comparison {
        if self.registers != Op::JumpEqual {
            return self;
        }
        Comparison {
            registers: Op::JumpEqualNumbers,
            with_integer: Op::JumpEqualNumbersInteger,
            with_constant: None,
            ..self
        }
    }
}

/// The operator that says the same with its operands the other way round.
pub(super) fn mirrored(operator: B) -> B {
    match operator {
        B::Less => B::Greater,
        B::LessOrEqual => B::GreaterOrEqual,
        B::Greater => B::Less,
        B::GreaterOrEqual => B::LessOrEqual,
        B::Equal | B::Unequal | B::Add | B::Subtract | B::Multiply | B::Divide | B::Join => {
            operator
        }
    }
}

/// A comparison with a literal behind, if there is one.
fn literal_second(operator: B, operands: [Operand; 2]) -> (B, [Operand; 2]) {
    match operands {
        [a @ Operand::Literal(_), b @ Operand::Register(_)] => (mirrored(operator), [b, a]),
        other => (operator, other),
    }
}

/// The jumps for an operator, if it compares.
fn comparison(operator: B) -> Option<Comparison> {
    let [registers, with_integer, with_constant] = match operator {
        B::Equal | B::Unequal => [Op::JumpEqual, Op::JumpEqualInteger, Op::JumpEqualConstant],
        B::Less => [Op::JumpLess, Op::JumpLessInteger, Op::JumpLessConstant],
        B::LessOrEqual => [
            Op::JumpLessOrEqual,
            Op::JumpLessOrEqualInteger,
            Op::JumpLessOrEqualConstant,
        ],
        B::Greater => [
            Op::JumpGreater,
            Op::JumpGreaterInteger,
            Op::JumpGreaterConstant,
        ],
        B::GreaterOrEqual => [
            Op::JumpGreaterOrEqual,
            Op::JumpGreaterOrEqualInteger,
            Op::JumpGreaterOrEqualConstant,
        ],
        B::Add | B::Subtract | B::Multiply | B::Divide | B::Join => return None,
    };
    Some(Comparison {
        registers,
        with_integer,
        with_constant: Some(with_constant),
        holds: operator != B::Unequal,
    })
}

impl Builder<'_, '_> {
    /// Jumps to a mark if a piece of Core gives this truth value, and goes on otherwise.
    pub(super) fn branch(&mut self, core: &Core, on: bool, to: Mark) {
        self.branch_of(core, core, on, to);
    }

    /// The same for the last part of a piece of Core, which is at fault as a whole.
    pub(super) fn branch_of(&mut self, core: &Core, whole: &Core, on: bool, to: Mark) {
        let core = self.simple(core);
        let top = self.top;
        match self.folded_truth(core) {
            Some(truth) => {
                if truth == on {
                    let site = self.site(core, &[]);
                    self.jump(to, site);
                }
            }
            None => self.branch_on(core, whole, on, to),
        }
        self.top = top;
    }

    fn branch_on(&mut self, core: &Core, whole: &Core, on: bool, to: Mark) {
        match &core.kind {
            K::Mark(_, body) => self.branch_of(body, whole, on, to),
            K::Not(part) => self.branch(part, !on, to),
            K::And([first, second]) | K::Or([first, second]) => {
                let both = Both {
                    parts: [first, second],
                    all: matches!(core.kind, K::And(_)),
                };
                self.both(&both, second, on, to);
            }
            K::Sequence(parts) if !parts.is_empty() => {
                let last = parts.len() - 1;
                for part in &parts[..last] {
                    self.generate(part, super::Want::Effect);
                }
                self.branch_of(&parts[last], whole, on, to);
            }
            K::Fresh(..) if let Some(both) = self.as_both(core) => {
                self.both(&both, whole, on, to);
            }
            K::Fresh(slots, body) => self.within_fresh(core, slots, |builder| {
                builder.branch_of(body, whole, on, to);
            }),
            K::If(parts) => self.branch_either(parts, whole, on, to),
            K::Match(subject, arms) if let Some(arm) = self.settled(core, subject, arms) => {
                self.branch_of(&arm.body, whole, on, to);
            }
            K::Match(subject, arms) => {
                let past = self.mark();
                let mut choices = self.choices(core, subject, arms);
                if let Some((operator, operands)) = self.always_equality(subject, &choices)
                    && let (operator, [a, b]) = literal_second(operator, operands)
                    && let Some(jump) = comparison(operator)
                {
                    self.jump_if_equal(jump, [&a, &b], on, to, choices.site);
                    return;
                }
                self.try_truth(subject, &mut choices, on, to, past);
                self.try_test(core, &choices, None, on, to, past);
                self.by_kind(core, &choices, |builder, arm| {
                    builder.branch_of(&arm.body, whole, on, to);
                    Some(past)
                });
                self.here(past);
            }
            K::Apply(O::MapHas, args) if self.branch_has(core, args, on, to) => {}
            K::Apply(O::Fits, args) if self.branch_fits(core, args, on, to) => {}
            K::Binary(operator, [left, right])
                if let Some(known) = self.compared(*operator, left, right) =>
            {
                self.branch_known(left, &known, on, to);
            }
            K::Binary(operator, [left, right]) if self.is_literal_before_number([left, right]) => {
                match comparison(mirrored(*operator)) {
                    Some(jump) => self.compare(core, jump, [right, left], on, to),
                    None => self.test(core, whole, on, to),
                }
            }
            K::Binary(operator, [left, right]) => match comparison(*operator) {
                Some(jump) => self.compare(core, jump, [left, right], on, to),
                None => self.test(core, whole, on, to),
            },
            _ => self.test(core, whole, on, to),
        }
    }

    /// Tries a match on a kind as a test, where that is the comparison of two numbers if all that it asks about are
    /// numbers; what is `known` of it may say what its values come to.
    pub(super) fn try_test(
        &mut self,
        core: &Core,
        choices: &Choices<'_>,
        known: Option<&Known>,
        on: bool,
        to: Mark,
        past: Mark,
    ) {
        let K::Match(subject, _) = &core.kind else {
            return;
        };
        let Some((operator, is_so, operands)) = self.comes_to_test(subject, choices, known) else {
            return;
        };
        let (operator, [a, b]) = literal_second(operator, operands);
        let Some(jump) = comparison(operator) else {
            return;
        };
        let site = self.site(core, &[]);
        self.jump_comparing(jump.of_numbers(), [&a, &b], on == is_so, to, site);
        self.done(past, site);
    }

    /// Whether a literal number is compared with a variable that holds a number: that cannot fail, whichever stands
    /// first.
    fn is_literal_before_number(&mut self, [left, right]: [&Core; 2]) -> bool {
        let Some(literal) = self.folded(left, 0) else {
            return false;
        };
        let is_number = super::arithmetic::is_number(&literal);
        let slot = variable_read(self.simple(right));
        is_number && slot.is_some_and(|slot| self.kinds_of(slot).is_within(NUMERIC))
    }

    /// Jumps on one of two, as a test says.
    fn branch_either(&mut self, parts: &[CorePart; 3], whole: &Core, on: bool, to: Mark) {
        let [test, yes, no] = parts;
        if let Some(truth) = self.folded_truth(test) {
            self.branch_of(if truth { yes } else { no }, whole, on, to);
            return;
        }
        self.one_of_two(parts, |builder, way| builder.branch_of(way, whole, on, to));
    }

    /// Makes one of two ways to go, as a test says.
    pub(super) fn one_of_two(
        &mut self,
        [test, yes, no]: &[CorePart; 3],
        mut make: impl FnMut(&mut Self, &Core),
    ) {
        let (otherwise, past) = (self.mark(), self.mark());
        self.branch(test, false, otherwise);
        make(self, yes);
        if !self.is_unreachable() {
            let site = self.site(yes, &[]);
            self.jump(past, site);
        }
        self.here(otherwise);
        make(self, no);
        self.here(past);
    }

    /// Jumps on a truth value in a register.
    fn test(&mut self, core: &Core, whole: &Core, on: bool, to: Mark) {
        let register = self.operand_register(core);
        let site = self.site(core, &[whole]);
        self.emit(Instruction::JumpIf(u8::from(on), register, 0), site);
        self.to(to);
    }

    /// `and`, where both must be `all`, or `or`, where one may be; the second as a whole is at
    /// fault if it is no truth value.
    fn both(&mut self, both: &Both<'_>, whole: &Core, on: bool, to: Mark) {
        let [first, second] = both.parts;
        if both.all == on {
            let past = self.mark();
            self.branch(first, !on, past);
            self.branch_of(second, whole, on, to);
            self.here(past);
        } else {
            self.branch(first, on, to);
            self.branch_of(second, whole, on, to);
        }
    }

    fn compare(
        &mut self,
        core: &Core,
        jump: Comparison,
        [left, right]: [&CorePart; 2],
        on: bool,
        to: Mark,
    ) {
        let site = self.site(core, &[left, right]);
        let emit = |builder: &mut Self, a: &Operand, b: &Operand| {
            builder.jump_comparing(jump, [a, b], on, to, site);
        };
        if jump.registers != Op::JumpEqual && self.on_guessed([left, right], site, &emit) {
            return;
        }
        let a = self.stable_operand(left, &[right]);
        let b = self.operand(right);
        if jump.registers == Op::JumpEqual {
            self.jump_if_equal(jump, [&a, &b], on, to, site);
        } else {
            self.jump_comparing(jump, [&a, &b], on, to, site);
        }
    }

    /// Jumps to a mark if an equality of anything comes to this truth value.
    fn jump_if_equal(
        &mut self,
        jump: Comparison,
        [a, b]: [&Operand; 2],
        on: bool,
        to: Mark,
        site: u32,
    ) {
        let is_nothing = |operand: &Operand| matches!(operand, Operand::Literal(Literal::Nothing));
        let other = match (a, b) {
            (Operand::Register(other), second) if is_nothing(second) => Some(*other),
            (first, Operand::Register(other)) if is_nothing(first) => Some(*other),
            _ => None,
        };
        let Some(other) = other.filter(|_| !self.is_behind(to)) else {
            self.jump_comparing(jump, [a, b], on, to, site);
            return;
        };
        let nothing = ValueKind::Nothing as u8;
        self.emit(
            if on == jump.holds {
                Instruction::JumpKind(nothing, other, 0)
            } else {
                Instruction::JumpUnlessKind(nothing, other, 0)
            },
            site,
        );
        self.to(to);
    }

    /// Jumps to a mark if a comparison comes to this truth value.
    fn jump_comparing(
        &mut self,
        jump: Comparison,
        [a, b]: [&Operand; 2],
        on: bool,
        to: Mark,
        site: u32,
    ) {
        let flag = u8::from(on == jump.holds);
        let a = self.in_register(a);
        if let Operand::Literal(Literal::Integer(n)) = b
            && let Ok(n) = i16::try_from(*n)
        {
            self.emit(
                Instruction::new(jump.with_integer, flag, a, n as u16, 0),
                site,
            );
        } else if let Operand::Literal(
            literal @ (Literal::Integer(_) | Literal::Number(_) | Literal::Text(_)),
        ) = b
            && let Some(with_constant) = jump.with_constant
            && let Some(constant) = self.short_constant(literal)
        {
            self.emit(Instruction::new(with_constant, flag, a, constant, 0), site);
        } else {
            let b = self.in_register(b);
            self.emit(Instruction::new(jump.registers, flag, a, b, 0), site);
        }
        self.to(to);
    }

    /// The truth value that a piece of Core always gives, if that can be seen.
    pub(super) fn folded_truth(&mut self, core: &Core) -> Option<bool> {
        match &core.kind {
            K::And([first, second]) => {
                if self.folded_truth(first)? {
                    self.folded_truth(second)
                } else {
                    Some(false)
                }
            }
            K::Or([first, second]) => {
                if self.folded_truth(first)? {
                    Some(true)
                } else {
                    self.folded_truth(second)
                }
            }
            _ => match self.folded(core, 0)? {
                Literal::Truth(truth) => Some(truth),
                _ => None,
            },
        }
    }

    /// Puts a truth value into a register.
    pub(super) fn truth_into(&mut self, core: &Core, into: Register) {
        let site = self.site(core, &[]);
        if let Some(truth) = self.folded_truth(core) {
            self.load(&Literal::Truth(truth), into, site);
            return;
        }
        if let K::Not(part) = &core.kind
            && !matches!(part.kind, K::And(_) | K::Or(_) | K::Not(_) | K::Binary(..))
        {
            let top = self.top;
            let register = self.operand_register(part);
            let site = self.site(core, &[part]);
            self.emit(Instruction::Not(into, register), site);
            self.top = top;
            return;
        }
        let (no, end) = (self.mark(), self.mark());
        self.branch(core, false, no);
        self.load(&Literal::Truth(true), into, site);
        self.jump(end, site);
        self.here(no);
        self.load(&Literal::Truth(false), into, site);
        self.here(end);
    }
}
