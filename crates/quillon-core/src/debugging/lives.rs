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
    /// Those that set it, in order.
    sets: Vec<usize>,
}

/// A stretch of code that is gone through more than once: the first instruction, and the one that jumps back.
pub(super) type Loop = (usize, usize);

impl Life {
    fn new(local: &Local) -> Life {
        Life {
            name: Rc::clone(&local.name),
            register: local.register,
            start: local.start as usize,
            end: local.end as usize,
            sets: Vec::new(),
        }
    }

    /// Whether it may hold something before an instruction that these loops are around.
    fn is_at(&self, at: usize, around: &[Loop]) -> bool {
        let is_set_in = |(from, to): &Loop| {
            // Where a loop goes on behind its end, it is another one each time.
            if *from < self.start || self.end <= *to {
                return false;
            }
            let next = self.sets.partition_point(|set| set < from);
            self.sets.get(next).is_some_and(|set| set <= to)
        };
        let is_set = self.sets.first().is_some_and(|set| *set < at);
        self.start <= at && at < self.end && (is_set || around.iter().any(is_set_in))
    }
}

/// The variables of a function, in the order in which their registers become theirs.
#[derive(Debug, Default)]
struct Table {
    lives: Vec<Life>,
    by_name: FxHashMap<Rc<str>, Vec<usize>>,
    loops: Vec<Loop>,
}

impl Table {
    fn new(function: &Function) -> Table {
        let mut table = Table::default();
        let mut by_register: FxHashMap<u16, Vec<usize>> = FxHashMap::default();
        for (number, local) in function.locals.iter().enumerate() {
            table.lives.push(Life::new(local));
            let name = Rc::clone(&local.name);
            table.by_name.entry(name).or_default().push(number);
            by_register.entry(local.register).or_default().push(number);
        }
        for at in function.starts() {
            for register in set_by(function, at) {
                let own = by_register.get(&register).map_or(&[][..], Vec::as_slice);
                let begun = own.partition_point(|number| table.lives[*number].start <= at);
                if let Some(number) = begun.checked_sub(1)
                    && at < table.lives[own[number]].end
                {
                    table.lives[own[number]].sets.push(at);
                }
            }
            let target = function.target(at).filter(|to| *to <= at);
            table.loops.extend(target.map(|to| (to, at)));
        }
        table
    }

    /// The loops around an instruction.
    fn around(&self, at: usize) -> Vec<Loop> {
        let loops = self.loops.iter();
        let around = loops.filter(|(from, to)| *from <= at && at <= *to);
        around.copied().collect()
    }
}

/// The registers that an instruction sets.
pub(super) fn set_by(function: &Function, at: usize) -> impl Iterator<Item = u16> + use<> {
    let word = function.code[at];
    let roles = word
        .op()
        .map_or([Role::None; 4], |op| op.description().fields);
    let [_, a, b, c] = roles;
    let fields = [(a, word.a()), (b, word.b()), (c, word.c())].into_iter();
    let set = fields.filter(|(role, _)| matches!(role, Role::Write | Role::Both));
    set.map(|(_, register)| register)
}

/// The variables of functions.
#[derive(Debug, Default)]
pub(super) struct Lives(FxHashMap<*const Function, Table>);

impl Lives {
    /// Takes note of the variables of a function.
    pub fn learn(&mut self, function: &Function) {
        self.0
            .insert(std::ptr::from_ref(function), Table::new(function));
    }

    /// The variables that may hold something before an instruction, the innermost first.
    pub fn at(&self, function: &Function, at: usize) -> Vec<&Life> {
        let Some(table) = self.0.get(&std::ptr::from_ref(function)) else {
            return Vec::new();
        };
        let around = table.around(at);
        let lives = table.lives.iter().rev();
        lives.filter(|life| life.is_at(at, &around)).collect()
    }

    /// The loops of a function around an instruction.
    pub fn loops(&self, function: &Function, at: usize) -> Vec<Loop> {
        let table = self.0.get(&std::ptr::from_ref(function));
        table.map_or_else(Vec::new, |table| table.around(at))
    }

    /// The registers of the variables of a name in a function.
    pub fn registers(&self, function: &Function, name: &str) -> Vec<u16> {
        let table = self.0.get(&std::ptr::from_ref(function));
        let own = table.and_then(|table| Some((table, table.by_name.get(name)?)));
        own.map_or_else(Vec::new, |(table, own)| {
            own.iter()
                .map(|number| table.lives[*number].register)
                .collect()
        })
    }

    /// The register of the innermost variable of a name that may hold something before an instruction.
    pub fn register(&self, function: &Function, at: usize, name: &str) -> Option<u16> {
        let table = self.0.get(&std::ptr::from_ref(function))?;
        let around = table.around(at);
        let mut own = table.by_name.get(name)?.iter().rev();
        let found = own.find(|number| table.lives[**number].is_at(at, &around))?;
        Some(table.lives[*found].register)
    }
}
