//! What functions capture of the variables around them: values where these stay what they are, and otherwise the variables.

use super::emit::UNPLACED;
use super::kinds::Kinds;
use super::{Builder, Home, Operand, Register};
use crate::bytecode::unit::From;
use crate::definition::template::ValueKind;
use crate::meaning::Variable;

/// How a captured variable is captured.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Capturing {
    /// As the value that it always has, of one of these kinds.
    Value(Kinds),
    /// As the value that it always has, which is the function that captures it.
    Itself,
    /// As a variable that is shared.
    Variable,
}

impl Capturing {
    /// Of which kinds what is captured can be.
    pub fn kinds(self) -> Kinds {
        match self {
            Capturing::Value(kinds) => kinds,
            Capturing::Itself => Kinds::of(ValueKind::Function),
            Capturing::Variable => Kinds::ANY,
        }
    }
}

impl Builder<'_, '_> {
    /// How a variable of the function around is captured by a function made here.
    pub(super) fn captured_from(
        &mut self,
        from: &Variable,
        itself: Option<u32>,
    ) -> (From, Capturing) {
        match *from {
            Variable::Captured(index) => {
                let how = match self.capturing[index as usize] {
                    // The function around is another one to what is made here.
                    Capturing::Itself => Capturing::Value(Capturing::Itself.kinds()),
                    how @ (Capturing::Value(_) | Capturing::Variable) => how,
                };
                (From::Captured(index as u16), how)
            }
            Variable::Slot(slot) | Variable::Cell(slot) => {
                let shared = self.facts(slot).shared;
                if !shared && itself == Some(slot) {
                    return (From::Itself, Capturing::Itself);
                }
                let register = match self.home(slot) {
                    Home::Register(register) => register,
                    Home::Literal(literal) => self.in_register(&Operand::Literal(literal)),
                    Home::Same(Variable::Captured(index), _) => {
                        let kinds = self.capturing[index as usize].kinds();
                        return (From::Captured(index as u16), Capturing::Value(kinds));
                    }
                    Home::Same(variable, name) => {
                        let register = self.register();
                        let site = UNPLACED;
                        self.read_from_outside(&variable, &name, register, site);
                        register
                    }
                    Home::Items(..) => self.captured_items(from, slot),
                    Home::None => 0,
                };
                let how = if shared {
                    Capturing::Variable
                } else {
                    Capturing::Value(self.kinds_of(slot))
                };
                (From::Register(register), how)
            }
            // Nothing else is ever captured.
            Variable::Session(_)
            | Variable::BuiltIn(_)
            | Variable::State(_)
            | Variable::Dynamic(_) => (From::Itself, Capturing::Value(Kinds::ANY)),
        }
    }

    /// A list whose items are in registers, made for a function that captures it.
    fn captured_items(&mut self, from: &Variable, slot: u32) -> Register {
        let into = self.register();
        if let Some(items) = self.items_read(from, slot) {
            self.list_of(items, into, UNPLACED);
        }
        into
    }
}
