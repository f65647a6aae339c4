//! What a meaning calls by a name of its own, and sets again: where it is always set before it is read the next time, it
//! has a variable for each value that it is set to. So each of them is set once, and what is known of a value is known of
//! its variable (as in static single assignment; Cytron, Ferrante, Rosen, Wegman and Zadeck 1991, without the joins).

use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::core::{Core, CoreKind as K, CorePart, Variable};
use super::function::VariableId;
use super::instantiate::Maker;
use super::local::Local;
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;

/// So many values of a name have variables of their own. All of them have room at once.
const MOST_VALUES: u32 = 8;

/// The names that blocks make, and where.
#[derive(Debug, Default)]
pub(super) struct Renewing {
    /// The stretch at hand: all that is made in it is run once, one after the other.
    stretch: u32,
    stretches: u32,
    made: FxHashMap<VariableId, Made>,
    /// The slots of each block that is open.
    blocks: Vec<Vec<u32>>,
}

/// A name that a block makes.
#[derive(Clone, Copy, Debug)]
struct Made {
    stretch: u32,
    /// The block, counted from the outermost.
    block: usize,
    /// How many values it has been set to.
    values: u32,
}

impl Maker<'_> {
    /// Makes something that is run at another time than what is around it, or not at all.
    pub(super) fn apart<T>(&mut self, make: impl FnOnce(&mut Self) -> T) -> T {
        self.renewing.stretches += 1;
        let own = self.renewing.stretches;
        let outer = std::mem::replace(&mut self.renewing.stretch, own);
        let core = make(self);
        self.renewing.stretch = outer;
        core
    }

    /// Begins a block.
    pub(super) fn open_block(&mut self) {
        self.renewing.blocks.push(Vec::new());
    }

    /// Ends a block; the slots of the names that it has made.
    pub(super) fn close_block(&mut self) -> Vec<u32> {
        self.renewing.blocks.pop().unwrap_or_default()
    }

    /// Notes that the block at hand has made the name noted last.
    pub(super) fn made_by_block(&mut self) {
        let Some(variable) = self.locals.last().and_then(|(_, local)| local.variable()) else {
            return;
        };
        let made = Made {
            stretch: self.renewing.stretch,
            block: self.renewing.blocks.len(),
            values: 1,
        };
        self.note_made(variable, made);
    }

    fn note_made(&mut self, variable: VariableId, made: Made) {
        let slot = self.functions.slot_of(variable);
        if let Some(block) = self.renewing.blocks.get_mut(made.block - 1) {
            block.push(slot);
        }
        self.functions.note_named(slot, made.values > 1);
        self.renewing.made.insert(variable, made);
    }

    /// Gives a name that is about to be set a variable of its own for that, if nothing can come to what it has been
    /// before.
    pub(super) fn renew(&mut self, name: &str) {
        let found = self.locals.iter().rposition(|(own, _)| own == name);
        let Some(at) = found else { return };
        let Local::Variable(variable, from) = self.locals[at].1 else {
            return;
        };
        let Some(made) = self.renewing.made.get(&variable).copied() else {
            return;
        };
        let is_in_line = made.stretch == self.renewing.stretch
            && made.values < MOST_VALUES
            && self.functions.is_only_own(variable);
        if is_in_line {
            let next = self.functions.variable(name);
            self.locals[at].1 = Local::Variable(next, from);
            let values = made.values + 1;
            self.note_made(next, Made { values, ..made });
        }
    }
}

/// The slots of a function that are names of blocks.
#[derive(Debug, Default)]
pub(super) struct Named {
    /// All of them. They are always set before they are read.
    all: FxHashSet<u32>,
    /// Those of later values.
    later: FxHashSet<u32>,
    /// How many places read one, or capture it.
    reads: FxHashMap<u32, u32>,
    /// The integer that one is always set to; none where it is set to something else.
    integers: FxHashMap<u32, Option<i64>>,
}

impl Named {
    /// Takes note of one, and whether it is one of a later value.
    pub fn note(&mut self, slot: u32, is_later: bool) {
        self.all.insert(slot);
        if is_later {
            self.later.insert(slot);
        }
    }

    /// Leaves out what later values are set to and nothing reads, and has what is set just to be read next there itself.
    pub fn leave_out_unread<'c>(&mut self, bodies: impl Iterator<Item = &'c mut Core>) {
        if self.later.is_empty() {
            return;
        }
        let mut bodies: Vec<&mut Core> = bodies.collect();
        for body in &bodies {
            self.count_reads(body);
        }
        let mut gone = FxHashSet::default();
        for body in &mut bodies {
            self.leave_out(body, &mut gone);
        }
    }

    fn count_reads(&mut self, core: &Core) {
        if let K::Read(Variable::Slot(slot), _) = &core.kind {
            *self.reads.entry(*slot).or_default() += 1;
        }
        if let K::Write(Variable::Slot(slot), _, value) = &core.kind {
            let set = match value.kind {
                K::Literal(Literal::Integer(n)) => Some(n),
                _ => None,
            };
            let known = self.integers.entry(*slot).or_insert(set);
            *known = known.filter(|known| set == Some(*known));
        }
        if let K::Function(function) = &core.kind {
            for capture in &function.captures {
                if let Variable::Slot(slot) | Variable::Cell(slot) = &capture.from {
                    *self.reads.entry(*slot).or_default() += 2;
                }
            }
        }
        core.each_part(&mut |part| self.count_reads(part));
    }

    /// Whether a slot is that of a later value, and read in so many places.
    fn is_read(&self, slot: u32, times: u32) -> bool {
        self.later.contains(&slot) && self.reads.get(&slot).copied().unwrap_or(0) == times
    }

    /// Adds the slots to `gone` that nothing sets any more.
    fn leave_out(&self, core: &mut Core, gone: &mut FxHashSet<u32>) {
        core.each_part_mut(&mut |part| self.leave_out(part, gone));
        match &mut core.kind {
            K::Sequence(parts) => {
                let last = parts.pop();
                let before = std::mem::take(parts).into_iter().flat_map(in_line);
                parts.extend(before.filter(|part| match self.needless(part) {
                    Some(slot) => !gone.insert(slot),
                    None => !matches!(part.kind, K::Literal(_)),
                }));
                parts.extend(last);
                gone.extend(self.give_at_once(parts));
                self.put_in_place(parts, gone);
            }
            K::Fresh(slots, _) => slots.retain(|(slot, _)| !gone.contains(slot)),
            _ => return,
        }
        // What is left of it may be nothing but its only part.
        let only = match std::mem::replace(&mut core.kind, K::Sequence(Vec::new())) {
            K::Sequence(parts) if parts.len() == 1 => parts.into_iter().next(),
            K::Fresh(slots, body) if slots.is_empty() => Some(body),
            other => {
                core.kind = other;
                None
            }
        };
        match only.map(Rc::try_unwrap) {
            Some(Ok(only)) => *core = only,
            Some(Err(shared)) => core.kind = K::Sequence(vec![shared]),
            None => {}
        }
    }

    /// What a piece sets that nothing reads, to what is there in any case.
    fn needless(&self, core: &Core) -> Option<u32> {
        let K::Write(Variable::Slot(slot), _, value) = &core.kind else {
            return None;
        };
        let is_there = match &value.kind {
            K::Literal(_) => true,
            K::Read(Variable::Slot(from), _) => self.all.contains(from),
            _ => false,
        };
        (is_there && self.is_read(*slot, 0)).then_some(*slot)
    }

    /// Gives what a sequence sets last and then reads, where nothing else reads it; the slot that it needs no more.
    fn give_at_once(&self, parts: &mut Vec<CorePart>) -> Option<u32> {
        let [.., set, read] = &mut parts[..] else {
            return None;
        };
        let K::Read(Variable::Slot(slot), _) = read.kind else {
            return None;
        };
        if !self.is_read(slot, 1) || !gives_instead(set, slot) {
            return None;
        }
        parts.pop();
        Some(slot)
    }

    /// Has what parts of a sequence set where the part after each of them reads it first of all, and nothing else does; adds
    /// the slots that are needed no more.
    fn put_in_place(&self, parts: &mut Vec<CorePart>, gone: &mut FxHashSet<u32>) {
        let mut put: Vec<CorePart> = Vec::with_capacity(parts.len());
        for mut part in parts.drain(..) {
            if let Some(before) = put.last()
                && let K::Write(Variable::Slot(slot), _, value) = &before.kind
                && self.is_read(*slot, 1)
                && self.put_first(&mut part, *slot, value)
            {
                gone.insert(*slot);
                put.pop();
            }
            put.push(part);
        }
        *parts = put;
    }

    /// Puts a value where a piece reads a slot first of all that it does, each time that it is evaluated; whether it does
    /// that.
    fn put_first(&self, part: &mut CorePart, slot: u32, value: &CorePart) -> bool {
        if matches!(part.kind, K::Read(Variable::Slot(own), _) if own == slot) {
            *part = Rc::clone(value);
            return true;
        }
        let Some(core) = Rc::get_mut(part) else {
            return false;
        };
        match &mut core.kind {
            K::Binary(operator, [left, right]) => {
                let is_put = self.put_first(left, slot, value);
                if let Some(own) = self.behind_neutral(*operator, left, right)
                    && left.span == core.span
                {
                    *left = own;
                }
                is_put
            }
            K::Write(Variable::Slot(_), _, first)
            | K::Negate(first)
            | K::Not(first)
            | K::Match(first, _)
            | K::And([first, _])
            | K::Or([first, _])
            | K::If([first, ..]) => self.put_first(first, slot, value),
            K::Apply(_, parts) | K::List(parts) | K::Sequence(parts) => {
                let first = parts.first_mut();
                first.is_some_and(|first| self.put_first(first, slot, value))
            }
            _ => false,
        }
    }

    /// The second operand of what is the first one here, where the first one of all is a 0 that is added or a 1 that is
    /// multiplied by: a fold over any number of operands begins with that. All that this does is to see whether the second
    /// one is a number, and so does what comes next, if nothing is in between.
    fn behind_neutral(&self, operator: B, left: &Core, right: &Core) -> Option<CorePart> {
        let K::Binary(inner, [neutral, own]) = &left.kind else {
            return None;
        };
        if *inner != operator {
            return None;
        }
        let neutral = match &neutral.kind {
            K::Literal(Literal::Integer(n)) => *n,
            K::Read(Variable::Slot(slot), _) => *self.integers.get(slot)?.as_ref()?,
            _ => return None,
        };
        let is_same = match operator {
            B::Multiply => {
                neutral == 1 && matches!(right.kind, K::Literal(_) | K::Read(Variable::Slot(_), _))
            }
            // The number -0 added to that is 0, which -0 and what is no integer can tell from -0.
            B::Add => neutral == 0 && matches!(right.kind, K::Literal(Literal::Integer(_))),
            _ => false,
        };
        is_same.then(|| Rc::clone(own))
    }
}

/// Has a part give what it would set a slot to last of all; whether that is what it does.
fn gives_instead(part: &mut CorePart, slot: u32) -> bool {
    let Some(core) = Rc::get_mut(part) else {
        return false;
    };
    match &mut core.kind {
        K::Write(Variable::Slot(own), _, value) if *own == slot => {
            let value = Rc::clone(value);
            *part = value;
            true
        }
        K::Sequence(parts) => {
            let is_done = |part: &CorePart| !matches!(part.kind, K::Literal(_));
            let Some(last) = parts.iter().rposition(is_done) else {
                return false;
            };
            if !gives_instead(&mut parts[last], slot) {
                return false;
            }
            parts.truncate(last + 1);
            true
        }
        _ => false,
    }
}

/// The parts of a sequence that stands in another one, or what stands there.
fn in_line(part: CorePart) -> Vec<CorePart> {
    match &part.kind {
        K::Sequence(parts) if part.meaning.is_empty() => parts.clone(),
        _ => vec![part],
    }
}
