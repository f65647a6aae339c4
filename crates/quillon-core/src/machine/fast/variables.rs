//! The handlers of variables that functions share, of what is built in, and of the state.

use super::{Handler, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::Unset as usize] = unset;
    all[Op::CheckSet as usize] = check_set;
    all[Op::GetShared as usize] = get_shared;
    all[Op::PutShared as usize] = put_shared;
    all[Op::GetCaptured as usize] = get_captured;
    all[Op::GetOuter as usize] = get_outer;
    all[Op::PutOuter as usize] = put_outer;
    all[Op::GetBuiltIn as usize] = get_built_in;
    all[Op::GetState as usize] = get_state;
    all[Op::PutState as usize] = put_state;
    all
}

handlers! {
    fn unset(m, pc, regs, constants) {
        regs.put(pc.a(), Value::Unset);
        next(m, pc.plus(1), regs, constants)
    }

    fn check_set(m, pc, regs, constants) {
        if regs.see(pc.a()).is_set() {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn get_shared(m, pc, regs, constants) {
        if let Value::Variable(variable) = regs.see(pc.b()) {
            let value = variable.get();
            if value.is_set() {
                regs.put(pc.a(), value);
                return next(m, pc.plus(1), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn put_shared(m, pc, regs, constants) {
        if let Value::Variable(variable) = regs.see(pc.a()) {
            variable.set(regs.take(pc.b()));
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn get_captured(m, pc, regs, constants) {
        // Asked for so, the value stays in registers of the processor on its way.
        match m.closure.captured_if_any(pc.b_number()) {
            Some(value) => {
                regs.put(pc.a(), value);
                next(m, pc.plus(1), regs, constants)
            }
            None => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn get_outer(m, pc, regs, constants) {
        if let Value::Variable(variable) = m.closure.captured(pc.b_number()) {
            let value = variable.get();
            if value.is_set() {
                regs.put(pc.a(), value);
                return next(m, pc.plus(1), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn put_outer(m, pc, regs, constants) {
        if let Value::Variable(variable) = m.closure.captured(pc.a_number()) {
            variable.set(regs.take(pc.b()));
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn get_state(m, pc, regs, constants) {
        match m.memory.state.get(pc.b_number() as usize) {
            Some(value) => {
                regs.put_kept(pc.a(), value);
                next(m, pc.plus(1), regs, constants)
            }
            None => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn get_built_in(m, pc, regs, constants) {
        match m.memory.built_in.get(pc.b_number() as usize) {
            Some(value) if !matches!(value, Value::Unset) => {
                regs.put(pc.a(), value);
                next(m, pc.plus(1), regs, constants)
            }
            Some(_) | None => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn put_state(m, pc, regs, constants) {
        if let Some(cell) = m.memory.state.get_mut(pc.a_number() as usize) {
            *cell = regs.take(pc.b());
        }
        next(m, pc.plus(1), regs, constants)
    }
}
