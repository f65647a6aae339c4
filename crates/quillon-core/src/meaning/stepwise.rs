//! What meanings do step by step with names of their own, as one expression where that is the same: what is set just to be
//! read next is there itself, integers that are known are literals, and what is added to a new list is among its items. It
//! is done once a function is whole, when it is known who reads what.

use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::core::{Core, CoreKind as K, CorePart, Variable, mentions};
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::operations::Operation as O;

/// So far a piece is gone into to find what is done first or last in it.
const DEEPEST: usize = 12;

/// So many nodes are looked through to see whether a value mentions the list that it is added to.
const LOOKED_THROUGH: usize = 200;

/// The slots of a function that are names of blocks.
#[derive(Debug, Default)]
pub(super) struct Named {
    /// All of them. They are always set before they are read.
    all: FxHashSet<u32>,
    /// Those of later values.
    later: FxHashSet<u32>,
    /// Those of names that have later values.
    renewed: FxHashSet<u32>,
    uses: FxHashMap<u32, Uses>,
    /// The slots that nothing sets any more.
    gone: FxHashSet<u32>,
}

/// What is done with a slot.
#[derive(Clone, Copy, Debug, Default)]
struct Uses {
    reads: u32,
    writes: u32,
    /// Whether a function captures it.
    is_captured: bool,
    /// The integer that it is always set to.
    integer: Option<i64>,
}

impl Named {
    /// Takes note of one; of a later value, with the one of the value before it.
    pub fn note(&mut self, slot: u32, before: Option<u32>) {
        self.all.insert(slot);
        if let Some(before) = before {
            self.later.insert(slot);
            self.renewed.extend([before, slot]);
        }
    }

    /// Makes steps in the bodies of a function one expression.
    pub fn settle<'c>(&mut self, bodies: impl Iterator<Item = &'c mut Core>) {
        if self.all.is_empty() {
            return;
        }
        let mut bodies: Vec<&mut Core> = bodies.collect();
        for body in &bodies {
            self.count(body);
        }
        for body in &mut bodies {
            self.put_together(body);
        }
    }

    fn count(&mut self, core: &Core) {
        match &core.kind {
            K::Read(Variable::Slot(slot), _) => self.uses(*slot).reads += 1,
            K::Write(Variable::Slot(slot), _, value) => {
                let integer = literal(value);
                let uses = self.uses(*slot);
                uses.integer = integer.filter(|own| uses.writes == 0 || uses.integer == Some(*own));
                uses.writes += 1;
            }
            K::Function(function) => {
                for capture in &function.captures {
                    if let Variable::Slot(slot) | Variable::Cell(slot) = &capture.from {
                        self.uses(*slot).is_captured = true;
                    }
                }
            }
            _ => {}
        }
        core.each_part(&mut |part| self.count(part));
    }

    fn uses(&mut self, slot: u32) -> &mut Uses {
        self.uses.entry(slot).or_default()
    }

    /// What is done with a slot that is a name of a block.
    fn uses_of(&self, slot: u32) -> Option<Uses> {
        let uses = self.uses.get(&slot).copied();
        uses.filter(|_| self.all.contains(&slot))
    }

    /// Whether a slot is set in one place, to a later value, and read in one.
    fn is_read_once(&self, slot: u32) -> bool {
        self.is_later(slot) && self.is_set_once(slot, 1)
    }

    /// Whether a slot is set in one place, and read in so many.
    fn is_set_once(&self, slot: u32, reads: u32) -> bool {
        let is_so = |uses: Uses| uses.reads == reads && uses.writes == 1 && !uses.is_captured;
        self.uses_of(slot).is_some_and(is_so)
    }

    fn is_later(&self, slot: u32) -> bool {
        self.later.contains(&slot)
    }

    /// The integer that a slot always holds whose name is set step by step.
    fn integer_in(&self, slot: u32) -> Option<i64> {
        let uses = self.uses_of(slot).filter(|uses| !uses.is_captured)?;
        uses.integer.filter(|_| self.renewed.contains(&slot))
    }

    /// The integer that a piece always gives, if that is known without going far into it.
    fn integer_of(&self, core: &Core, depth: usize) -> Option<i64> {
        let depth = depth.checked_sub(1)?;
        match &core.kind {
            K::Literal(_) => literal(core),
            K::Read(Variable::Slot(slot), _) => self.integer_in(*slot),
            K::Binary(operator, [left, right]) => {
                let left = self.integer_of(left, depth)?;
                let right = self.integer_of(right, depth)?;
                match operator {
                    B::Add => left.checked_add(right),
                    B::Subtract => left.checked_sub(right),
                    _ => None,
                }
            }
            _ => None,
        }
    }

    fn put_together(&mut self, core: &mut Core) {
        core.each_part_mut(&mut |part| self.put_together(part));
        match &mut core.kind {
            K::Read(Variable::Slot(slot), _) => {
                if let Some(integer) = self.integer_in(*slot) {
                    let uses = self.uses(*slot);
                    uses.reads = uses.reads.saturating_sub(1);
                    core.kind = K::Literal(Literal::Integer(integer));
                }
                return;
            }
            K::Write(Variable::Slot(slot), _, value) if self.is_later(*slot) => {
                if let Some(integer) = self.integer_of(value, DEEPEST)
                    && let Some(value) = Rc::get_mut(value)
                {
                    value.kind = K::Literal(Literal::Integer(integer));
                    let uses = self.uses(*slot);
                    uses.integer = (uses.writes == 1).then_some(integer);
                }
                return;
            }
            K::Sequence(parts) => self.put_in_line(parts),
            K::Fresh(slots, _) => slots.retain(|(slot, _)| !self.gone.contains(slot)),
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

    /// The same for the parts of a sequence.
    fn put_in_line(&mut self, parts: &mut Vec<CorePart>) {
        let last = parts.pop();
        let mut left = Vec::with_capacity(parts.len() + 1);
        for part in parts.drain(..).flat_map(in_line) {
            match self.needless(&part) {
                Some(slot) => {
                    self.gone.insert(slot);
                }
                None if matches!(part.kind, K::Literal(_)) => {}
                None => left.push(part),
            }
        }
        left.extend(last.map(|last| match self.needless(&last) {
            Some(slot) => {
                self.gone.insert(slot);
                // Setting something gives nothing.
                Rc::new(Core::new(K::Literal(Literal::Nothing), last.span))
            }
            None => last,
        }));
        self.gather(&mut left);
        self.give_at_once(&mut left);
        self.put_in_place(&mut left);
        *parts = left;
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
        let is_unread = self.renewed.contains(slot) && self.is_set_once(*slot, 0);
        (is_there && is_unread).then_some(*slot)
    }

    /// Has what parts add to a list, as soon as it is made and before anything else is done with it, among its items.
    fn gather(&mut self, parts: &mut Vec<CorePart>) {
        let mut at = 0;
        while at + 1 < parts.len() {
            let (before, after) = parts.split_at_mut(at + 1);
            at += 1;
            let Some(K::Write(Variable::Slot(slot), _, value)) =
                Rc::get_mut(&mut before[at - 1]).map(|part| &mut part.kind)
            else {
                continue;
            };
            let slot = *slot;
            let is_own = self.uses_of(slot).is_some_and(|uses| !uses.is_captured);
            let Some(K::List(items)) = Rc::get_mut(value).map(|value| &mut value.kind) else {
                continue;
            };
            if !is_own {
                continue;
            }
            let mut added = Vec::new();
            let mut taken = 0;
            for part in after {
                let before = added.len();
                if !adds(part, slot, &mut added) {
                    added.truncate(before);
                    break;
                }
                taken += 1;
            }
            let uses = self.uses(slot);
            uses.reads = uses.reads.saturating_sub(added.len() as u32);
            items.extend(added);
            parts.drain(at..at + taken);
        }
    }

    /// Gives what a sequence sets last and then reads, where nothing else reads it.
    fn give_at_once(&mut self, parts: &mut Vec<CorePart>) {
        let [.., set, read] = &mut parts[..] else {
            return;
        };
        let K::Read(Variable::Slot(slot), _) = read.kind else {
            return;
        };
        if self.is_read_once(slot) && gives_instead(set, slot, DEEPEST) {
            parts.pop();
            self.gone.insert(slot);
        }
    }

    /// Has what parts of a sequence set where the part after each of them reads it first of all, and nothing else does.
    fn put_in_place(&mut self, parts: &mut Vec<CorePart>) {
        let mut put: Vec<CorePart> = Vec::with_capacity(parts.len());
        for mut part in parts.drain(..) {
            if let Some(before) = put.last()
                && let K::Write(Variable::Slot(slot), _, value) = &before.kind
                && self.is_set_once(*slot, 1)
                && (self.is_later(*slot) || matches!(value.kind, K::List(_)))
                && put_first(&mut part, *slot, value, DEEPEST)
            {
                self.gone.insert(*slot);
                put.pop();
            }
            put.push(part);
        }
        *parts = put;
    }
}

/// Puts a value where a piece reads a slot first of all that it does, each time that it is evaluated; whether it does
/// that.
fn put_first(part: &mut CorePart, slot: u32, value: &CorePart, depth: usize) -> bool {
    if matches!(part.kind, K::Read(Variable::Slot(own), _) if own == slot) {
        *part = Rc::clone(value);
        return true;
    }
    let (Some(core), Some(depth)) = (Rc::get_mut(part), depth.checked_sub(1)) else {
        return false;
    };
    match &mut core.kind {
        K::Binary(operator, [left, right]) => {
            let is_put = put_first(left, slot, value, depth);
            if let Some(own) = behind_neutral(*operator, left, right)
                && left.span == core.span
            {
                *left = own;
            }
            is_put
        }
        K::Write(_, _, first)
        | K::Jump(_, first)
        | K::Fault(first)
        | K::Raise(first)
        | K::Each(_, [first, _])
        | K::Fresh(_, first)
        | K::Negate(first)
        | K::Not(first)
        | K::Match(first, _)
        | K::And([first, _])
        | K::Or([first, _])
        | K::If([first, ..]) => put_first(first, slot, value, depth),
        K::Apply(operation, parts) => {
            let first = parts.first_mut();
            let is_put = first.is_some_and(|first| put_first(first, slot, value, depth));
            if let Some(only) = only_item(*operation, parts) {
                *part = only;
            }
            is_put
        }
        K::List(parts) | K::Sequence(parts) => {
            let first = parts.first_mut();
            first.is_some_and(|first| put_first(first, slot, value, depth))
        }
        _ => false,
    }
}

/// What an operation gives that looks at the only item of a list which is made just for that.
fn only_item(operation: O, args: &[CorePart]) -> Option<CorePart> {
    let [list, place] = args else { return None };
    let K::List(items) = &list.kind else {
        return None;
    };
    let [only] = &items[..] else { return None };
    let first = match operation {
        O::ListAt => 0,
        O::ListItem => 1,
        _ => return None,
    };
    (literal(place) == Some(first)).then(|| Rc::clone(only))
}

/// The second operand of what is the first one here, where the first one of all is a 0 that is added or a 1 that is
/// multiplied by: a fold over any number of operands begins with that. All that this does is to see whether the second one
/// is a number, and so does what comes next, if nothing is in between.
fn behind_neutral(operator: B, left: &Core, right: &Core) -> Option<CorePart> {
    let K::Binary(inner, [neutral, own]) = &left.kind else {
        return None;
    };
    let neutral = literal(neutral)?;
    let is_same = match operator {
        B::Multiply => {
            neutral == 1 && matches!(right.kind, K::Literal(_) | K::Read(Variable::Slot(_), _))
        }
        // The number -0 added to that is 0, which -0 and what is no integer can tell from -0.
        B::Add => neutral == 0 && matches!(right.kind, K::Literal(Literal::Integer(_))),
        _ => false,
    };
    (is_same && *inner == operator).then(|| Rc::clone(own))
}

/// Takes what a part adds to the list in a slot; whether it does nothing else.
fn adds(part: &Core, slot: u32, added: &mut Vec<CorePart>) -> bool {
    match &part.kind {
        K::Literal(_) => true,
        K::Sequence(parts) => parts.iter().all(|part| adds(part, slot, added)),
        K::Apply(O::ListAdd, args) => match &args[..] {
            [list, value] => {
                let is_it = matches!(list.kind, K::Read(Variable::Slot(own), _) if own == slot);
                let mut left = LOOKED_THROUGH;
                let fits = is_it && !mentions(value, slot, &mut left);
                if fits {
                    added.push(Rc::clone(value));
                }
                fits
            }
            _ => false,
        },
        _ => false,
    }
}

/// The integer that a piece is.
fn literal(core: &Core) -> Option<i64> {
    match core.kind {
        K::Literal(Literal::Integer(n)) => Some(n),
        _ => None,
    }
}

/// Has a part give what it would set a slot to last of all; whether that is what it does.
fn gives_instead(part: &mut CorePart, slot: u32, depth: usize) -> bool {
    let (Some(core), Some(depth)) = (Rc::get_mut(part), depth.checked_sub(1)) else {
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
            if !gives_instead(&mut parts[last], slot, depth) {
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
