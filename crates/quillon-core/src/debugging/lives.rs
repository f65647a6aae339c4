//! Where the variables of functions hold something: their registers are theirs before that, too.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use crate::bytecode::{Function, Local, Role};

/// A variable in a register.
#[derive(Debug)]
pub(super) struct Life {
    pub name: Rc<str>,
    pub register: u16,
    /// The instructions in which the register is the variable's.
    start: usize,
    end: usize,
    /// The first that sets it.
    first: usize,
    /// Loops in which it is set, from the instruction that is jumped to, to the one that jumps.
    loops: Vec<(usize, usize)>,
}

impl Life {
    fn new(function: &Function, local: &Local) -> Life {
        let (start, end) = (local.start as usize, local.end as usize);
        let inside = |at: &usize| start <= *at && *at < end;
        let sets: Vec<usize> = function
            .starts()
            .filter(inside)
            .filter(|at| sets(function, *at, local.register))
            .collect();
        let loops = function.starts().filter(inside).filter_map(|at| {
            let by = function.code[at].jump()?;
            let to = usize::try_from(at as i64 + 1 + i64::from(by)).ok()?;
            let has_one = sets.iter().any(|set| to <= *set && *set <= at);
            (to <= at && has_one).then_some((to, at))
        });
        Life {
            name: Rc::clone(&local.name),
            register: local.register,
            start,
            end,
            first: sets.first().copied().unwrap_or(end),
            loops: loops.collect(),
        }
    }

    /// Whether it may hold something before an instruction.
    fn is_at(&self, at: usize) -> bool {
        let is_in_loop = |(from, to): &(usize, usize)| *from <= at && at <= *to;
        self.start <= at && at < self.end && (self.first < at || self.loops.iter().any(is_in_loop))
    }
}

/// Whether an instruction sets a register.
fn sets(function: &Function, at: usize, register: u16) -> bool {
    let word = function.code[at];
    let Some(op) = word.op() else {
        return false;
    };
    let [_, a, b, c] = op.description().fields;
    let fields = [(a, word.a()), (b, word.b()), (c, word.c())];
    fields
        .iter()
        .any(|(role, field)| matches!(role, Role::Write | Role::Both) && *field == register)
}

/// The variables of functions.
#[derive(Debug, Default)]
pub(super) struct Lives(FxHashMap<*const Function, Vec<Life>>);

impl Lives {
    /// Takes note of the variables of a function.
    pub fn learn(&mut self, function: &Function) {
        let lives = function.locals.iter();
        let lives = lives.map(|local| Life::new(function, local)).collect();
        self.0.insert(std::ptr::from_ref(function), lives);
    }

    /// The variables that may hold something before an instruction, the innermost first.
    pub fn at(&self, function: &Function, at: usize) -> impl Iterator<Item = &Life> {
        let known = self.0.get(&std::ptr::from_ref(function));
        let lives = known.into_iter().flatten().rev();
        lives.filter(move |life| life.is_at(at))
    }
}
