//! The handlers of what makes lists, maps, functions and variables. Where the heap is full they leave it to what
//! collects first.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::{Handler, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::List as usize] = list;
    all[Op::MapNew as usize] = map_new;
    all[Op::MapRow as usize] = map_row;
    all[Op::Function as usize] = function;
    all[Op::Fresh as usize] = fresh;
    all[Op::Share as usize] = share;
    all
}

handlers! {
    fn list(m, pc, regs, constants) {
        if m.memory.heap.is_full() {
            return slow::carry_out(m, pc, regs, constants);
        }
        slow::make_list(regs, pc);
        next(m, pc.plus(1), regs, constants)
    }

    fn map_new(m, pc, regs, constants) {
        if m.memory.heap.is_full() {
            return slow::carry_out(m, pc, regs, constants);
        }
        slow::make_map(regs, pc);
        next(m, pc.plus(1), regs, constants)
    }

    fn map_row(m, pc, regs, constants) {
        if m.memory.heap.is_full() || !slow::make_row(m, regs, pc) {
            return slow::carry_out(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn function(m, pc, regs, constants) {
        if m.memory.heap.is_full() {
            return slow::carry_out(m, pc, regs, constants);
        }
        m.make_function(regs, pc);
        next(m, pc.plus(1), regs, constants)
    }

    fn fresh(m, pc, regs, constants) {
        if m.memory.heap.is_full() {
            return slow::carry_out(m, pc, regs, constants);
        }
        slow::make_variable(regs, pc, Value::Unset);
        next(m, pc.plus(1), regs, constants)
    }

    fn share(m, pc, regs, constants) {
        if m.memory.heap.is_full() {
            return slow::carry_out(m, pc, regs, constants);
        }
        slow::make_variable(regs, pc, regs.take(pc.a()));
        next(m, pc.plus(1), regs, constants)
    }
}
