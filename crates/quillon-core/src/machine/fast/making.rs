//! The handlers of what makes lists, maps, functions and variables. Where the heap is full they leave it to what
//! collects first.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::{Handler, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::List as usize] = list;
    all[Op::MapNew as usize] = map_new;
    all[Op::MapRow as usize] = map_row;
    all[Op::Function as usize] = function;
    all[Op::EachBegin as usize] = each_begin;
    all[Op::Fresh as usize] = fresh;
    all[Op::Share as usize] = share;
    all
}

/// Handlers of instructions of so many words that make something, where that could be done at once.
macro_rules! making {
    ($($name:ident, $words:literal: ($m:ident, $pc:ident, $regs:ident) $make:block)*) => {
        $(fn $name($m: &mut Machine<'_>, $pc: Pc, $regs: Row, constants: Row) -> Exit {
            if $m.memory.heap.is_full() || !$make {
                return slow::carry_out($m, $pc, $regs, constants);
            }
            next($m, $pc.plus($words), $regs, constants)
        })*
    };
}

making! {
    list, 1: (m, pc, regs) {
        slow::make_list(regs, pc);
        true
    }
    map_new, 1: (m, pc, regs) {
        slow::make_map(regs, pc);
        true
    }
    map_row, 2: (m, pc, regs) { slow::make_row(m, regs, pc) }
    function, 1: (m, pc, regs) {
        m.make_function(regs, pc);
        true
    }
    each_begin, 1: (m, pc, regs) { slow::begin_turns(regs, pc) }
    fresh, 1: (m, pc, regs) {
        slow::make_variable(regs, pc);
        true
    }
    share, 1: (m, pc, regs) {
        slow::share_variable(regs, pc);
        true
    }
}
