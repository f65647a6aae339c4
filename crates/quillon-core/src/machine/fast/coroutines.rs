//! The handlers of coroutines: one goes on, or gives something to what has resumed it.

use super::{Handler, jump_by, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::slow::{self, Applied};
use crate::machine::{Exit, Machine};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::Resume as usize] = resume;
    all[Op::Suspend as usize] = suspend;
    all[Op::EachNext as usize] = each_next;
    all[Op::EachCheck as usize] = each_check;
    all
}

handlers! {
    fn resume(m, pc, regs, constants) {
        let changed = slow::resume(m, pc, regs, constants);
        go_on(m, pc, regs, constants, changed)
    }

    fn suspend(m, pc, regs, constants) {
        let changed = slow::suspend(m, pc, regs, constants);
        go_on(m, pc, regs, constants, changed)
    }

    fn each_next(m, pc, regs, constants) {
        if let Value::Inner(inner) = regs.see(pc.a())
            && let Some(item) = inner.next_item()
        {
            regs.put(pc.b(), item);
            return jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants);
        }
        let changed = slow::resume_for_turn(m, pc, regs, constants);
        go_on(m, pc, regs, constants, changed)
    }

    fn each_check(m, pc, regs, constants) {
        match regs.see(pc.a()) {
            Value::Coroutine(coroutine) if !coroutine.has_ended() => {
                jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants)
            }
            _ => next(m, pc.plus(1), regs, constants),
        }
    }
}

/// Goes on in the thread that runs now.
#[inline(always)]
fn go_on(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, changed: Applied) -> Exit {
    match changed {
        Applied::Done => {
            let (pc, regs, constants) = m.place();
            next(m, pc, regs, constants)
        }
        Applied::Left => slow::carry_out(m, pc, regs, constants),
        Applied::Failed => Exit::Failed,
    }
}
