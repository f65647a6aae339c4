//! Variables: read from and written to wherever they live.

use std::rc::Rc;

use super::{Builder, Capturing, Home, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::meaning::{Core, CoreKind as K, Variable};

impl Builder<'_, '_> {
    /// Sees to it that a variable has a value, where it may have none.
    pub(super) fn check_set(&mut self, core: &Core, slot: u32, name: &Rc<str>, register: Register) {
        if self.facts(slot).maybe_unset {
            let site = self.site(core, &[]);
            let name = self.name(name);
            self.emit(Instruction::CheckSet(register, name), site);
        }
    }

    /// Puts what a variable holds into a register.
    pub(super) fn read_into(
        &mut self,
        core: &Core,
        variable: &Variable,
        name: &Rc<str>,
        into: Register,
    ) {
        let site = self.site(core, &[]);
        match *variable {
            Variable::Slot(slot) | Variable::Cell(slot) => {
                let shared = self.facts(slot).shared;
                match self.home(slot) {
                    Home::Literal(literal) => self.load(&literal, into, site),
                    Home::Register(register) if shared => {
                        let name = self.name(name);
                        self.emit(Instruction::GetShared(into, register, name), site);
                    }
                    Home::Register(register) => {
                        self.check_set(core, slot, name, register);
                        self.give(core, register, Want::Into(into));
                    }
                    Home::Same(variable, name) => {
                        self.read_from_outside(&variable, &name, into, site);
                    }
                    Home::Items(..) => {
                        if let Some(items) = self.items_read(core, slot) {
                            self.list_of(items, into, site);
                        }
                    }
                    Home::None => {}
                }
            }
            Variable::Captured(_)
            | Variable::Session(_)
            | Variable::BuiltIn(_)
            | Variable::State(_)
            | Variable::Dynamic(_) => self.read_from_outside(variable, name, into, site),
        }
    }

    /// Reads a variable that is no slot of the function.
    pub(super) fn read_from_outside(
        &mut self,
        variable: &Variable,
        name: &str,
        into: Register,
        site: u32,
    ) {
        match *variable {
            Variable::Slot(_) | Variable::Cell(_) => {}
            Variable::Captured(index) => match self.capturing[index as usize] {
                Capturing::Value(_) | Capturing::Itself => {
                    self.emit(Instruction::GetCaptured(into, index as u16), site);
                }
                Capturing::Variable => {
                    let name = self.name(name);
                    self.emit(Instruction::GetOuter(into, index as u16, name), site);
                }
            },
            Variable::Session(index) => {
                let name = self.name(name);
                self.emit(Instruction::GetSession(into, index as u16, name), site);
            }
            Variable::BuiltIn(index) => {
                let name = self.name(name);
                self.emit(Instruction::GetBuiltIn(into, index as u16, name), site);
            }
            Variable::State(index) => {
                let name = self.name(name);
                self.emit(Instruction::GetState(into, index as u16, name), site);
            }
            Variable::Dynamic(ref key) => {
                let key = self.name(key);
                let name = self.name(name);
                self.emit(Instruction::GetDynamic(into, key, name), site);
            }
        }
    }

    /// Sets a variable.
    pub(super) fn write(&mut self, core: &Core, variable: &Variable, value: &Core) {
        let top = self.top;
        let site = self.site(core, &[]);
        match *variable {
            Variable::Slot(slot) | Variable::Cell(slot) => {
                let facts = self.facts(slot);
                if !facts.shared && (facts.literal.is_some() || facts.alias.is_some()) {
                    // What it is set to may still be asked for its kind.
                    self.generate(value, Want::Effect);
                    return;
                }
                if self.write_items(slot, value) {
                    return;
                }
                let facts = self.facts(slot);
                let shared = facts.shared;
                // Nothing can see it before it is let through.
                let is_new = facts.writes == 1 && !facts.maybe_unset;
                let Some(register) = self.register_of(slot) else {
                    return;
                };
                let from = match &value.kind {
                    K::Function(function) => {
                        let into = if shared { self.register() } else { register };
                        self.make_function(value, function, into, Some(slot));
                        into
                    }
                    _ if shared => self.operand_register(value),
                    _ if is_new
                        && (self.let_through_into(value, register)
                            || self.converted(value, Some(register)).is_some()) =>
                    {
                        register
                    }
                    _ => {
                        self.generate(value, Want::Into(register));
                        register
                    }
                };
                if shared {
                    self.emit(Instruction::PutShared(register, from), site);
                }
            }
            Variable::Captured(index) => {
                let from = self.operand_register(value);
                self.emit(Instruction::PutOuter(index as u16, from), site);
            }
            Variable::Session(index) => {
                let from = self.operand_register(value);
                self.emit(Instruction::PutSession(index as u16, from), site);
            }
            // Scoping lets nothing change what is built in.
            Variable::BuiltIn(_) => self.generate(value, Want::Effect),
            Variable::State(index) => {
                let from = self.operand_register(value);
                self.emit(Instruction::PutState(index as u16, from), site);
            }
            Variable::Dynamic(ref key) => {
                let from = self.operand_register(value);
                let key = self.name(key);
                self.emit(Instruction::PutDynamic(key, from), site);
            }
        }
        self.top = top;
    }
}
