//! Operators on two values.

use super::guesses::is_of_numbers;
use super::kinds::Kinds;
use super::{Builder, Operand, Register};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};
use crate::operations::{Gives, Operation as O};
use crate::runtime::binary;
use crate::values::{Value, exact_integer};

/// An integer that fits into a field.
pub(super) fn short(literal: &Literal) -> Option<u16> {
    match literal {
        Literal::Integer(n) => i16::try_from(*n).ok().map(|n| n as u16),
        _ => None,
    }
}

/// The instruction for an operator on two registers.
fn on_registers(operator: B) -> Op {
    match operator {
        B::Add => Op::Add,
        B::Subtract => Op::Subtract,
        B::Multiply => Op::Multiply,
        B::Divide => Op::Divide,
        B::Join => Op::Join,
        B::Equal => Op::Equal,
        B::Unequal => Op::Unequal,
        B::Less => Op::Less,
        B::LessOrEqual => Op::LessOrEqual,
        B::Greater => Op::Greater,
        B::GreaterOrEqual => Op::GreaterOrEqual,
    }
}

/// The instructions for an operator with an integer that fits into a field, and with a
/// constant, as its second operand.
fn on_literals(operator: B) -> (Option<Op>, Option<Op>) {
    match operator {
        B::Add => (Some(Op::AddInteger), Some(Op::AddConstant)),
        B::Subtract => (Some(Op::SubtractInteger), Some(Op::SubtractConstant)),
        B::Multiply => (Some(Op::MultiplyInteger), Some(Op::MultiplyConstant)),
        B::Divide => (None, Some(Op::DivideConstant)),
        _ => (None, None),
    }
}

/// Whether it is an integer or a number.
pub(super) fn is_number(literal: &Literal) -> bool {
    matches!(literal, Literal::Integer(_) | Literal::Number(_))
}

/// What a conversion gives for a literal, if it gives a small value without an error.
pub(super) fn converted(operation: O, literal: &Literal) -> Option<Literal> {
    match (operation, literal) {
        (O::Shown, Literal::Text(text)) => Some(Literal::Text(text.clone())),
        (O::Shown, Literal::Integer(n)) => Some(Literal::Text(n.to_string())),
        (O::NumberReal, Literal::Integer(n)) => Some(Literal::Number(*n as f64)),
        (O::NumberReal, Literal::Number(n)) => Some(Literal::Number(*n)),
        (O::NumberFloor, Literal::Number(n)) => exact_integer(n.floor()).map(Literal::Integer),
        (O::NumberCeiling, Literal::Number(n)) => exact_integer(n.ceil()).map(Literal::Integer),
        (O::NumberTruncate, Literal::Number(n)) => exact_integer(n.trunc()).map(Literal::Integer),
        (O::NumberRound, Literal::Number(n)) => exact_integer(n.round()).map(Literal::Integer),
        (
            O::NumberFloor | O::NumberCeiling | O::NumberTruncate | O::NumberRound,
            Literal::Integer(n),
        ) => Some(Literal::Integer(*n)),
        _ => None,
    }
}

/// What an operator gives for two literals, if it gives a small value without an error.
pub(super) fn fold(operator: B, left: &Literal, right: &Literal) -> Option<Literal> {
    if let (B::Equal | B::Unequal, Literal::Text(text), other)
    | (B::Equal | B::Unequal, other, Literal::Text(text)) = (operator, left, right)
    {
        let is_same = matches!(other, Literal::Text(other) if other == text);
        return Some(Literal::Truth(is_same == (operator == B::Equal)));
    }
    let small = |literal: &Literal| match literal {
        Literal::Nothing => Some(Value::Nothing),
        Literal::Truth(truth) => Some(Value::Truth(*truth)),
        Literal::Integer(n) => Some(Value::Integer(*n)),
        Literal::Number(n) => Some(Value::Number(*n)),
        Literal::Text(_) | Literal::List(_) | Literal::Map(_) => None,
    };
    match binary(operator, &small(left)?, &small(right)?).ok()? {
        Value::Truth(truth) => Some(Literal::Truth(truth)),
        Value::Integer(n) => Some(Literal::Integer(n)),
        Value::Number(n) => Some(Literal::Number(n)),
        _ => None,
    }
}

impl Builder<'_, '_> {
    /// An operator on two values.
    pub(super) fn binary(
        &mut self,
        core: &Core,
        operator: B,
        [left, right]: [&CorePart; 2],
        into: Register,
    ) {
        let top = self.top;
        if operator == B::Join && self.join_shown(core, [left, right], into) {
            self.top = top;
            return;
        }
        let site = self.site(core, &[left, right]);
        let emit = |builder: &mut Self, a: &Operand, b: &Operand| {
            let instruction = builder.operation(operator, a, b);
            builder.emit(instruction.with_a(into), site);
        };
        if is_of_numbers(operator) && self.on_guessed([left, right], site, &emit) {
            self.top = top;
            return;
        }
        let a = self.stable_operand(left, &[right]);
        let b = self.operand(right);
        emit(self, &a, &b);
        self.top = top;
    }

    /// What a piece of Core shows, if it gives a text whatever that is: `shown` of something, or
    /// something that is a text already.
    fn as_text<'c>(&self, core: &'c CorePart) -> Option<&'c CorePart> {
        match &core.kind {
            K::Mark(_, body) => self.as_text(body),
            K::Apply(O::Shown, args) => args.first(),
            K::Apply(operation, _) if operation.gives() == Gives::Text => Some(core),
            K::Literal(Literal::Text(_)) => Some(core),
            K::Read(Variable::Slot(slot), _) => {
                let is_text = self.kinds_of(*slot).is_within(Kinds::of(ValueKind::Text));
                is_text.then_some(core)
            }
            K::Binary(B::Join, [left, right])
                if self.as_text(left).is_some() || self.as_text(right).is_some() =>
            {
                Some(core)
            }
            _ => None,
        }
    }

    /// Texts one after the other, where both sides are texts whatever they are made of; whether
    /// that is so.
    fn join_shown(&mut self, core: &Core, [left, right]: [&CorePart; 2], into: Register) -> bool {
        let (Some(a), Some(b)) = (self.as_text(left), self.as_text(right)) else {
            return false;
        };
        let a = self.shown_later(left, a, &[right]);
        let site = self.site(core, &[left, right]);
        let first = self.stable_operand(a, &[b]);
        let second = self.operand(b);
        self.join_two([first, second], site, into);
        true
    }

    /// Puts what two values show one after the other.
    pub(super) fn join_two(&mut self, [first, second]: [Operand; 2], site: u32, into: Register) {
        let first = self.in_register(&first);
        if let Operand::Literal(literal @ Literal::Text(_)) = &second
            && let Some(constant) = self.short_constant(literal)
        {
            self.emit(Instruction::JoinShownConstant(into, first, constant), site);
        } else {
            let second = self.in_register(&second);
            self.emit(Instruction::JoinShown(into, first, second), site);
        }
    }

    /// The instruction for an operator, without where its value goes.
    pub(super) fn operation(&mut self, operator: B, a: &Operand, b: &Operand) -> Instruction {
        self.with_literal(operator, a, b).unwrap_or_else(|| {
            let (a, b) = (self.in_register(a), self.in_register(b));
            Instruction::new(on_registers(operator), 0, 0, a, b)
        })
    }

    /// The same where an operand is a literal and there is an instruction for that.
    fn with_literal(&mut self, operator: B, a: &Operand, b: &Operand) -> Option<Instruction> {
        let (integer, constant) = on_literals(operator);
        let (register, literal, first) = match (a, b) {
            (Operand::Register(register), Operand::Literal(literal)) => (*register, literal, 0),
            (Operand::Literal(literal), Operand::Register(register)) => (*register, literal, 1),
            _ => return None,
        };
        if !is_number(literal) {
            return None;
        }
        let commutes = matches!(operator, B::Add | B::Multiply);
        if first == 1 && !commutes {
            let op = match operator {
                B::Subtract => Op::SubtractFrom,
                B::Divide => Op::DivideFrom,
                _ => return None,
            };
            let constant = self.short_constant(literal)?;
            return Some(Instruction::new(op, 0, 0, constant, register));
        }
        if let (Some(op), Some(n)) = (integer, short(literal)) {
            return Some(Instruction::new(op, first, 0, register, n));
        }
        let op = constant?;
        let constant = self.short_constant(literal)?;
        Some(Instruction::new(op, first, 0, register, constant))
    }
}
