//! Lists that need not be made: what a call gives as one list, and what is only looked at item by item. Their
//! items stay in registers (scalar replacement of aggregates; see Muchnick, 1997, chapter 12), as far as one walk
//! over a function shows that nobody could tell.

use rustc_hash::{FxHashMap, FxHashSet};

use super::looking::{always_fails, asks_for_more, has_at_most, place_of, variable_read};
use super::slots::{Lives, SlotFacts};
use crate::meaning::{Core, CoreKind as K, CorePart, FunctionCore, Label, Variable};
use crate::operations::Operation as O;

/// A list that is made in a function has at most so many items in registers.
const MOST_MADE: usize = 8;

/// A list that is given has at most so many items in registers.
pub(super) const MOST_GIVEN: usize = 31;

/// A loop over a list in registers is written out for so many items, of so many nodes each.
const MOST_TURNS: usize = 4;
const LARGEST_TURN: usize = 60;

/// The lists of a function whose items are in registers.
#[derive(Debug, Default)]
pub(super) struct Lists {
    /// How many items a list has that the function makes, by the slot that holds it.
    pub made: FxHashMap<u32, usize>,
    /// How many registers the items of the last parameter need, if it is such a list; none where only their number
    /// is asked for.
    pub given: Option<usize>,
    /// How many items have been taken where a list is read, by the address of what reads it.
    taken: FxHashMap<*const (), usize>,
    /// The loops that are written out, by the addresses of the lists that they read.
    written_out: FxHashSet<*const ()>,
}

impl Lists {
    /// How many items have been taken of the list that is read here, if its items are in registers.
    pub fn taken<T>(&self, reader: &T) -> Option<usize> {
        self.taken.get(&address(reader)).copied()
    }

    /// How many registers the items of the last parameter need, if a call is to pass them there.
    pub fn listed(&self) -> Option<usize> {
        self.given.filter(|needed| *needed > 0)
    }

    /// Whether the loop over the list that is read here is written out.
    pub fn is_written_out(&self, read: &Core) -> bool {
        self.written_out.contains(&address(read))
    }

    /// The lists of a function with the facts of its slots.
    pub fn of(function: &FunctionCore, slots: &[SlotFacts]) -> Lists {
        let mut walk = Walk {
            slots,
            lists: FxHashMap::default(),
            uses: Vec::new(),
            written_out: FxHashSet::default(),
            trail: Vec::new(),
            dead: false,
            jumped: FxHashSet::default(),
            place: Place::default(),
            parts: 0,
            function,
        };
        let given = function.params.last().map(|param| param.slot);
        if let Some(slot) = given.filter(|_| !function.rest)
            && let facts = &slots[slot as usize]
            && facts.writes == 1
            && !facts.shared
        {
            walk.begin(slot, None);
        }
        walk.visit(&function.body);
        walk.finish(given)
    }
}

fn address<T>(of: &T) -> *const () {
    std::ptr::from_ref(of).cast()
}

/// Where the walk is: so deep in loops, and in which part.
#[derive(Clone, Copy, PartialEq, Eq, Default)]
struct Place {
    loops: u32,
    part: u32,
}

/// A list that may stay in registers.
struct List {
    /// How many items it has; nothing is known of one that is given.
    made: Option<usize>,
    /// Where it comes into being.
    place: Place,
    /// How many items have been taken; nothing is known after ways of different numbers, or once it is a list
    /// like any other.
    taken: Option<usize>,
    /// How many registers its items need.
    needed: usize,
    /// It must be a list from the beginning.
    is_out: bool,
}

struct Walk<'a> {
    slots: &'a [SlotFacts],
    lists: FxHashMap<u32, List>,
    /// What reads which list, and how many items have been taken there.
    uses: Vec<(*const (), u32, usize)>,
    written_out: FxHashSet<*const ()>,
    /// What was known before, to be taken back.
    trail: Vec<(u32, Option<usize>)>,
    /// Nothing gets here.
    dead: bool,
    jumped: FxHashSet<Label>,
    place: Place,
    parts: u32,
    function: &'a FunctionCore,
}

impl Walk<'_> {
    fn finish(self, given: Option<u32>) -> Lists {
        let mut out = Lists {
            written_out: self.written_out,
            ..Lists::default()
        };
        for (&slot, list) in self.lists.iter().filter(|(_, list)| !list.is_out) {
            match list.made {
                Some(count) => {
                    out.made.insert(slot, count);
                }
                None if self.uses.iter().any(|(_, used, _)| *used == slot) => {
                    out.given = Some(list.needed);
                }
                None => {}
            }
        }
        let is_in = |slot: &u32| out.made.contains_key(slot) || Some(*slot) == given;
        let has_given = out.given.is_some();
        for (reader, slot, taken) in self.uses {
            if is_in(&slot) && (has_given || Some(slot) != given) {
                out.taken.insert(reader, taken);
            }
        }
        out
    }

    fn begin(&mut self, slot: u32, made: Option<usize>) {
        self.lists.insert(
            slot,
            List {
                made,
                place: self.place,
                taken: Some(0),
                needed: 0,
                is_out: false,
            },
        );
    }

    /// The slot of the list that a slot always holds.
    fn root(&self, mut slot: u32) -> u32 {
        // Another name stands for what was there before it.
        while let Some(other) = self.slots[slot as usize].alias {
            slot = other;
        }
        slot
    }

    /// The list that is read here and that may be in registers.
    fn list_read(&self, core: &Core) -> Option<u32> {
        let slot = self.root(variable_read(core)?);
        self.lists
            .get(&slot)
            .is_some_and(|list| !list.is_out)
            .then_some(slot)
    }

    fn set(&mut self, slot: u32, taken: Option<usize>) {
        if let Some(list) = self.lists.get_mut(&slot)
            && list.taken != taken
        {
            self.trail.push((slot, list.taken));
            list.taken = taken;
        }
    }

    fn put_out(&mut self, slot: u32) {
        if let Some(list) = self.lists.get_mut(&slot) {
            list.is_out = true;
        }
    }

    /// Notes that a list is looked at; how many items have been taken, if that is known.
    fn looked_at<T>(&mut self, reader: &T, slot: u32) -> Option<usize> {
        let list = self.lists.get(&slot)?;
        let taken = list.taken.filter(|_| list.place.part == self.place.part);
        match taken {
            Some(taken) => self.uses.push((address(reader), slot, taken)),
            None => self.put_out(slot),
        }
        taken
    }

    /// A list is wanted as such: one that is made here is made just then, if that is once at most.
    fn wanted<T>(&mut self, reader: &T, slot: u32) {
        let is_once = |list: &List| list.made.is_some() && list.place == self.place;
        if self.lists.get(&slot).is_some_and(is_once) {
            self.looked_at(reader, slot);
            self.set(slot, None);
        } else {
            self.put_out(slot);
        }
    }

    /// Whether an operation looks at one item or the number of them.
    fn operation(&mut self, operation: O, args: &[CorePart]) -> bool {
        let Some(slot) = args.first().and_then(|list| self.list_read(list)) else {
            return false;
        };
        let list = &self.lists[&slot];
        let (is_given, place, needed) = (list.made.is_none(), list.place, list.needed);
        match (operation, args) {
            (O::ListLength, [read]) => {
                self.looked_at(&**read, slot);
            }
            (O::ListTakeFirst, [read]) if place == self.place => {
                let taken = self.looked_at(&**read, slot);
                let after = taken.map(|taken| taken + 1);
                self.need(slot, needed.max(after.unwrap_or(0)));
                self.set(slot, after);
            }
            (O::ListAt | O::ListItem, [read, at]) if let Some(at) = place_of(operation, at) => {
                let taken = self.looked_at(&**read, slot);
                self.need(slot, needed.max(at + 1));
                // Of a list that is given, items are counted from the first.
                if is_given && taken != Some(0) {
                    self.put_out(slot);
                }
            }
            _ => return false,
        }
        true
    }

    fn need(&mut self, slot: u32, needed: usize) {
        if let Some(list) = self.lists.get_mut(&slot) {
            list.needed = needed;
            list.is_out |= needed > MOST_GIVEN;
        }
    }

    /// Takes back what has become known since a mark; what it was.
    fn undo(&mut self, mark: usize) -> FxHashMap<u32, Option<usize>> {
        let mut undone = FxHashMap::default();
        while self.trail.len() > mark
            && let Some((slot, before)) = self.trail.pop()
        {
            if let Some(list) = self.lists.get_mut(&slot) {
                undone.entry(slot).or_insert(list.taken);
                list.taken = before;
            }
        }
        undone
    }

    /// Forgets what has changed since a mark.
    fn forget(&mut self, mark: usize) {
        let changed: Vec<u32> = self.trail[mark..].iter().map(|(slot, _)| *slot).collect();
        for slot in changed {
            self.set(slot, None);
        }
    }

    /// Visits alternatives. Where one of them is for a list that is at its end, what the others take of it
    /// makes no difference.
    fn alternatives<'p>(
        &mut self,
        parts: impl Iterator<Item = &'p Core>,
        at_end: Option<(usize, u32)>,
    ) {
        let mark = self.trail.len();
        let before = self.dead;
        let mut ends = Vec::new();
        for (index, part) in parts.enumerate() {
            self.dead = before;
            self.visit(part);
            let changed = self.undo(mark);
            if !self.dead {
                ends.push((index, changed));
            }
        }
        self.dead = ends.is_empty();
        let changed: FxHashSet<u32> = ends.iter().flat_map(|end| end.1.keys().copied()).collect();
        for slot in changed {
            let started = self.lists.get(&slot).and_then(|list| list.taken);
            let makes_no_difference = |index: usize, end: &FxHashMap<u32, Option<usize>>| {
                at_end == Some((index, slot)) && !end.contains_key(&slot)
            };
            let mut after = ends
                .iter()
                .filter(|(index, end)| !makes_no_difference(*index, end))
                .map(|(_, end)| end.get(&slot).copied().unwrap_or(started));
            let first = after.next().flatten();
            let same = first.filter(|_| after.all(|other| other == first));
            self.set(slot, same);
        }
    }

    /// Visits what may be passed over, or done more than once.
    fn perhaps(&mut self, visit: impl FnOnce(&mut Self)) {
        let (mark, dead) = (self.trail.len(), self.dead);
        visit(self);
        self.forget(mark);
        self.dead = dead;
    }

    fn turns(&mut self, parts: &[&CorePart]) {
        self.place.loops += 1;
        self.perhaps(|walk| parts.iter().for_each(|part| walk.visit(part)));
        self.place.loops -= 1;
    }

    fn visit(&mut self, core: &Core) {
        match &core.kind {
            K::Read(..) => {
                if let Some(slot) = self.list_read(core) {
                    self.wanted(core, slot);
                }
            }
            K::Apply(operation, args) if self.operation(*operation, args) => {}
            K::Apply(_, args) if always_fails(core) => {
                args.iter().for_each(|arg| self.visit(arg));
                self.dead = true;
            }
            K::Write(variable, _, value) => self.write(variable, value),
            K::If([test, yes, no]) => {
                self.visit(test);
                let at_end = self.at_end(test);
                self.alternatives([&**yes, no].into_iter(), at_end);
            }
            K::Match(subject, arms) => {
                self.visit(subject);
                self.alternatives(arms.iter().map(|arm| &*arm.body), None);
            }
            K::And([first, second]) | K::Or([first, second]) => {
                self.visit(first);
                self.perhaps(|walk| walk.visit(second));
            }
            K::While([test, body]) => self.turns(&[test, body]),
            K::Count(_, [from, to, body]) => {
                self.visit(from);
                self.visit(to);
                self.turns(&[body]);
            }
            K::Each(slot, [list, body]) => {
                if !self.is_written_out(*slot, list, body) {
                    self.visit(list);
                }
                self.turns(&[body]);
            }
            K::Landing(label, body) => {
                let (mark, before) = (self.trail.len(), self.dead);
                self.visit(body);
                if self.jumped.remove(label) {
                    self.forget(mark);
                    self.dead = before;
                }
            }
            K::Jump(label, value) => {
                self.visit(value);
                self.jumped.insert(*label);
                self.dead = true;
            }
            K::Fault(part) | K::Raise(part) => {
                self.visit(part);
                self.dead = true;
            }
            K::Attempt(_, [body, after]) | K::Cleanup([body, after]) => {
                self.perhaps(|walk| walk.visit(body));
                self.perhaps(|walk| walk.visit(after));
            }
            K::Function(function) => {
                for capture in &function.captures {
                    if let Variable::Slot(slot) | Variable::Cell(slot) = capture.from {
                        let slot = self.root(slot);
                        self.wanted(&capture.from, slot);
                    }
                }
            }
            K::Parts(parts, body) => {
                let around = self.place.part;
                let function = self.function;
                for part in parts.iter().filter_map(|part| function.part(*part)) {
                    self.parts += 1;
                    self.place.part = self.parts;
                    self.perhaps(|walk| walk.visit(part));
                }
                self.place.part = around;
                self.visit(body);
            }
            K::Literal(_)
            | K::Enter(_)
            | K::Fresh(..)
            | K::Rebind(..)
            | K::Mark(..)
            | K::Sequence(_)
            | K::Call(..)
            | K::Binary(..)
            | K::Negate(_)
            | K::Not(_)
            | K::Apply(..)
            | K::List(_) => core.each_part(&mut |part| self.visit(part)),
        }
    }

    fn write(&mut self, variable: &Variable, value: &Core) {
        if let Variable::Slot(slot) | Variable::Cell(slot) = *variable {
            let facts = &self.slots[slot as usize];
            // Another name for a list; a guard around it looks at it.
            if facts.alias.is_some() && matches!(value.kind, K::Read(..)) {
                return;
            }
            if let K::List(items) = &value.kind
                && items.len() <= MOST_MADE
                && facts.writes == 1
                && facts.lives != Lives::Throughout
                && !facts.shared
                && !facts.maybe_unset
            {
                items.iter().for_each(|item| self.visit(item));
                self.begin(slot, Some(items.len()));
                return;
            }
        }
        self.visit(value);
    }

    /// Whether a loop over a list in registers is to be written out.
    fn is_written_out(&mut self, item: u32, list: &Core, body: &Core) -> bool {
        let Some(slot) = self.list_read(list) else {
            return false;
        };
        let is_short = self.lists[&slot]
            .made
            .is_some_and(|made| made <= MOST_TURNS);
        let facts = &self.slots[item as usize];
        let mut left = LARGEST_TURN;
        // An item is set once for each of two turns, as far as facts go.
        let is_small = facts.writes == 2 && !facts.shared && has_at_most(body, &mut left);
        if is_short && is_small {
            self.looked_at(list, slot);
            self.written_out.insert(address(list));
        }
        is_short && is_small
    }

    /// Which way of two, if the test decides that, is for a list at its end.
    fn at_end(&self, test: &Core) -> Option<(usize, u32)> {
        let (list, has_more) = asks_for_more(test)?;
        Some((usize::from(has_more), self.list_read(list)?))
    }
}
