//! What holds for whole groups of instructions.

use super::instruction::{Instruction, Op, Role};
use crate::operations::{Gives, Operation};

impl Op {
    /// Whether it only tries something: the next instruction jumps over what is done where that
    /// fails.
    pub(crate) fn is_tried(self) -> bool {
        matches!(
            self,
            Op::TryLength
                | Op::TryWhole
                | Op::TryItem
                | Op::TryItemInteger
                | Op::TryItemWhole
                | Op::TryLetter
                | Op::TryLetterWhole
                | Op::TryPutItem
                | Op::TryPutItemWhole
                | Op::TryAdd
                | Op::TryAddInteger
                | Op::TryKey
                | Op::TryGiven
                | Op::TryMapGet
                | Op::TryMapPut
                | Op::TryJumpIf
        )
    }

    /// Whether it puts an integer or a number into its first register.
    pub(crate) fn makes_numbers(self) -> bool {
        self.calculates() || matches!(self, Op::TryAdd | Op::TryAddInteger | Op::Negate)
    }

    /// Whether it is arithmetic on two operands.
    fn calculates(self) -> bool {
        matches!(
            self,
            Op::Add
                | Op::AddInteger
                | Op::AddConstant
                | Op::Subtract
                | Op::SubtractInteger
                | Op::SubtractConstant
                | Op::SubtractFrom
                | Op::Multiply
                | Op::MultiplyInteger
                | Op::MultiplyConstant
                | Op::Divide
                | Op::DivideConstant
                | Op::DivideFrom
                | Op::Quotient
                | Op::Remainder
                | Op::RemainderInteger
                | Op::FloorQuotient
                | Op::FloorQuotientInteger
                | Op::Modulo
                | Op::ModuloInteger
        )
    }

    /// Whether it may have a `done` after it: by itself it does nothing but numbers.
    pub(crate) fn may_be_tried(self) -> bool {
        self.calculates() || self.compares()
    }

    /// Whether it compares two numbers, or jumps on that.
    fn compares(self) -> bool {
        matches!(
            self,
            Op::Less
                | Op::LessOrEqual
                | Op::Greater
                | Op::GreaterOrEqual
                | Op::JumpEqualNumbers
                | Op::JumpEqualNumbersInteger
                | Op::JumpLess
                | Op::JumpLessOrEqual
                | Op::JumpGreater
                | Op::JumpGreaterOrEqual
                | Op::JumpLessInteger
                | Op::JumpLessOrEqualInteger
                | Op::JumpGreaterInteger
                | Op::JumpGreaterOrEqualInteger
                | Op::JumpLessConstant
                | Op::JumpLessOrEqualConstant
                | Op::JumpGreaterConstant
                | Op::JumpGreaterOrEqualConstant
        )
    }

    /// What adds and then does what a comparison that jumps says, if that may come right after it.
    pub(crate) fn after_adding(jump: Op) -> Option<Op> {
        Some(match jump {
            Op::JumpLess => Op::AddThenLess,
            Op::JumpLessOrEqual => Op::AddThenLessOrEqual,
            Op::JumpLessInteger => Op::AddThenLessInteger,
            Op::JumpLessOrEqualInteger => Op::AddThenLessOrEqualInteger,
            Op::JumpLessConstant => Op::AddThenLessConstant,
            Op::JumpLessOrEqualConstant => Op::AddThenLessOrEqualConstant,
            _ => return None,
        })
    }

    /// Whether it also carries out the comparison after it.
    pub(crate) fn also_compares(self) -> bool {
        matches!(
            self,
            Op::AddThenLess
                | Op::AddThenLessOrEqual
                | Op::AddThenLessInteger
                | Op::AddThenLessOrEqualInteger
                | Op::AddThenLessConstant
                | Op::AddThenLessOrEqualConstant
        )
    }

    /// Whether it may change more than its registers: what variables share, cells, lists and maps; or runs
    /// other code, which may.
    pub(crate) fn reaches_further(self) -> bool {
        matches!(
            self,
            Op::PutShared
                | Op::PutOuter
                | Op::PutSession
                | Op::PutState
                | Op::PutDynamic
                | Op::TakeDynamic
                | Op::RestoreDynamic
                | Op::Call
                | Op::CallCaptured
                | Op::CallItself
                | Op::CallBuiltIn
                | Op::CallItems
                | Op::CallListed
                | Op::CallListedCaptured
                | Op::GivenTake
                | Op::Push
                | Op::Apply
                | Op::ApplyTwo
                | Op::PutItem
                | Op::TryPutItem
                | Op::TryPutItemWhole
                | Op::ListAdd
                | Op::ListTake
                | Op::MapPut
                | Op::TryMapPut
                | Op::PutKey
                | Op::EachNext
                | Op::Resume
                | Op::Suspend
                | Op::ModuleLoad
        )
    }

    /// Whether it never goes on with the instruction after it, whatever its fields are.
    fn never_goes_on(self) -> bool {
        matches!(
            self,
            Op::Jump
                | Op::Done
                | Op::Return
                | Op::ReturnNothing
                | Op::TailCall
                | Op::TailCallListed
                | Op::TailCallItself
                | Op::Fault
                | Op::Raise
                | Op::NoMatch
        )
    }
}

impl Instruction {
    /// What jumps where it does not, and nowhere else, if there is such an instruction.
    pub(crate) fn opposite_jump(self) -> Option<Instruction> {
        let op = self.op()?;
        let turned = match op {
            Op::JumpKind => Op::JumpUnlessKind,
            Op::JumpUnlessKind => Op::JumpKind,
            _ if op.description().fields[0] == Role::Flag && self.jump().is_some() => {
                return (!op.is_tried()).then(|| self.with_x(1 - self.x()));
            }
            _ => return None,
        };
        Some(Instruction::new(
            turned,
            self.x(),
            self.a(),
            self.b(),
            self.c(),
        ))
    }

    /// Whether it never goes on with the instruction after it.
    pub(crate) fn never_goes_on(self) -> bool {
        match self.op() {
            Some(Op::Apply | Op::ApplyTwo) => {
                let operation = Operation::numbered(self.x());
                operation.is_some_and(|operation| operation.gives() == Gives::Never)
            }
            Some(op) => op.never_goes_on(),
            None => false,
        }
    }
}
