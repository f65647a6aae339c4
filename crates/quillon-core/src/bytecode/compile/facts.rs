//! What can be known of a function's variables before it is compiled: which must be shared
//! through the heap, which may be read before they are set, which are another name for a
//! literal or for another variable.

use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::flow;
use super::guards::given_by;
use super::lists::Lists;
use super::slots::{Around, Facts, Lives, Names, SlotFacts};
use crate::definition::Literal;
use crate::meaning::{Core, CoreKind as K, CorePart, FunctionCore, Label, PartId, Variable};
use crate::operations::Operation;

/// So many bytes a text has at most that stands in place of the variable that is always that text.
const SHORT: usize = 32;

/// The life of a slot: between the numbers of two nodes, in a loop so deep.
#[derive(Clone, Copy, Debug)]
struct Life {
    from: u32,
    to: u32,
    loops: u32,
}

struct Study<'a> {
    facts: Facts,
    lives: Vec<Life>,
    /// Where each slot is set, by the numbers of nodes.
    set_at: Vec<Vec<u32>>,
    /// The slots in the order in which they are set.
    set_log: Vec<u32>,
    assigned: Vec<bool>,
    /// The slots in the order in which they were assigned.
    trail: Vec<u32>,
    /// Nothing gets here.
    dead: bool,
    loops: u32,
    node: u32,
    jumped: FxHashSet<Label>,
    /// Slots that functions capture; more than 1 when one is set to a function that captures it after others have.
    captured: FxHashMap<u32, u32>,
    /// The slots that each part sets, once it has been visited.
    parts: Vec<Option<Rc<[u32]>>>,
    /// Whether there may be lists whose items can be in registers.
    lists: bool,
    function: &'a FunctionCore,
    writers: &'a mut Writers,
    around: Around<'a>,
}

/// Which captured variables functions set, by the addresses of the functions.
#[derive(Default)]
pub(super) struct Writers(FxHashMap<*const FunctionCore, Rc<FxHashSet<u32>>>);

impl Writers {
    /// The captured variables that a function sets, itself or through functions in it.
    pub fn of(&mut self, function: &Rc<FunctionCore>) -> Rc<FxHashSet<u32>> {
        let address = Rc::as_ptr(function);
        if let Some(known) = self.0.get(&address) {
            return Rc::clone(known);
        }
        let mut set = FxHashSet::default();
        function
            .pieces()
            .for_each(|piece| self.look(piece, &mut set));
        let set = Rc::new(set);
        self.0.insert(address, Rc::clone(&set));
        set
    }

    fn look(&mut self, core: &Core, set: &mut FxHashSet<u32>) {
        match &core.kind {
            K::Write(Variable::Captured(index), ..) => {
                set.insert(*index);
            }
            K::Function(inner) => {
                let inside = self.of(inner);
                for (index, capture) in inner.captures.iter().enumerate() {
                    if let Variable::Captured(outer) = capture.from
                        && inside.contains(&(index as u32))
                    {
                        set.insert(outer);
                    }
                }
            }
            _ => {}
        }
        core.each_part(&mut |part| self.look(part, set));
    }
}

/// Studies a function.
pub(super) fn study<'a>(
    function: &'a FunctionCore,
    around: Around<'a>,
    writers: &'a mut Writers,
) -> Facts {
    let count = function.slots as usize;
    let whole = Life {
        from: 0,
        to: u32::MAX,
        loops: 0,
    };
    let mut study = Study {
        facts: Facts {
            slots: vec![SlotFacts::default(); count],
            is_plain: true,
            ..Facts::default()
        },
        lives: vec![whole; count],
        set_at: vec![Vec::new(); count],
        set_log: Vec::new(),
        assigned: vec![false; count],
        trail: Vec::new(),
        dead: false,
        loops: 0,
        node: 0,
        jumped: FxHashSet::default(),
        captured: FxHashMap::default(),
        parts: vec![None; function.parts.len()],
        lists: false,
        function,
        writers,
        around,
    };
    for param in &function.params {
        let slot = param.slot as usize;
        study.assigned[slot] = true;
        study.facts.slots[slot].writes = 1;
        study.facts.slots[slot].name = Some(Rc::clone(&param.name));
    }
    study.visit(&function.body);
    study.finish()
}

impl Study<'_> {
    fn finish(mut self) -> Facts {
        for (&slot, &times) in &self.captured {
            if self.facts.slots[slot as usize].writes != 1 || times != 1 {
                self.facts.slots[slot as usize].shared = true;
            }
        }
        for slot in 0..self.facts.slots.len() {
            let facts = &self.facts.slots[slot];
            let is_shown = self.around.shows(facts);
            if facts.writes != 1 || facts.maybe_unset || facts.shared || is_shown {
                self.facts.slots[slot].literal = None;
                self.facts.slots[slot].alias = None;
            } else if let Some(other) = facts.alias
                && !self.lasts(other, slot)
            {
                self.facts.slots[slot].alias = None;
            }
        }
        self.facts.size = self.node;
        self.facts.kinds = flow::known(self.function, &self.facts.slots, self.around);
        if self.lists && self.around.names == Names::AsNeeded {
            self.facts.lists = Lists::of(self.function, &self.facts.slots);
        }
        self.facts
    }

    /// Whether a slot stays as it is while another lives.
    fn lasts(&self, other: u32, slot: usize) -> bool {
        let facts = &self.facts.slots[other as usize];
        let (outer, inner) = (self.lives[other as usize], self.lives[slot]);
        let changes = self.set_at[other as usize]
            .iter()
            // What is set last of all is set when nothing reads the other any more.
            .any(|&at| inner.from <= at && at < inner.to);
        !facts.shared
            && !facts.maybe_unset
            && !changes
            && outer.from <= inner.from
            && inner.to <= outer.to
    }

    fn assign(&mut self, slot: u32) {
        if !std::mem::replace(&mut self.assigned[slot as usize], true) {
            self.trail.push(slot);
        }
    }

    /// Sets a slot.
    fn set(&mut self, slot: u32) {
        let again = self.loops > self.lives[slot as usize].loops;
        self.facts.slots[slot as usize].writes += 1 + u32::from(again);
        self.set_at[slot as usize].push(self.node);
        self.set_log.push(slot);
        self.assign(slot);
    }

    /// Takes back what has been assigned since a mark.
    fn undo(&mut self, mark: usize) -> Vec<u32> {
        let undone = self.trail.split_off(mark);
        for &slot in &undone {
            self.assigned[slot as usize] = false;
        }
        undone
    }

    /// Visits alternatives: what all of them assign that come to their end is assigned.
    fn alternatives<'p>(&mut self, parts: impl Iterator<Item = (Option<u32>, &'p CorePart)>) {
        let mark = self.trail.len();
        let before = self.dead;
        let mut common: Option<Vec<u32>> = None;
        for (slot, part) in parts {
            self.dead = before;
            match slot {
                Some(slot) => self.living(&[slot], |study| {
                    study.set(slot);
                    study.visit(part);
                }),
                None => self.visit(part),
            }
            let assigned = self.undo(mark);
            if self.dead {
                continue;
            }
            common = Some(match common {
                None => assigned,
                Some(common) => {
                    let these: FxHashSet<u32> = assigned.into_iter().collect();
                    common.into_iter().filter(|s| these.contains(s)).collect()
                }
            });
        }
        self.dead = common.is_none();
        for slot in common.unwrap_or_default() {
            self.assign(slot);
        }
    }

    /// Visits something as long as which some slots live.
    fn living(&mut self, slots: &[u32], visit: impl FnOnce(&mut Self)) {
        let from = self.node;
        for &slot in slots {
            self.facts.slots[slot as usize].lives = Lives::InPart;
            self.lives[slot as usize] = Life {
                from,
                to: u32::MAX,
                loops: self.loops,
            };
        }
        visit(self);
        for &slot in slots {
            self.lives[slot as usize].to = self.node;
        }
    }

    /// Visits what may be passed over, or done more than once.
    fn perhaps(&mut self, visit: impl FnOnce(&mut Self)) {
        let (mark, dead) = (self.trail.len(), self.dead);
        visit(self);
        self.undo(mark);
        self.dead = dead;
    }

    /// Visits what a loop does with what is in a slot at each turn.
    fn turns(&mut self, slot: u32, body: &Core) {
        self.facts.is_plain = false;
        self.loops += 1;
        self.perhaps(|study| {
            study.living(&[slot], |study| {
                // Set anew each turn.
                study.facts.slots[slot as usize].lives = Lives::ByTurn;
                study.set(slot);
                study.set(slot);
                study.visit(body);
            });
        });
        self.loops -= 1;
    }

    fn visit(&mut self, core: &Core) {
        self.node += 1;
        match &core.kind {
            K::Read(Variable::Slot(slot) | Variable::Cell(slot), name) => {
                let facts = &mut self.facts.slots[*slot as usize];
                facts.reads += 1;
                facts.name.get_or_insert_with(|| Rc::clone(name));
                if !self.dead && !self.assigned[*slot as usize] {
                    self.facts.slots[*slot as usize].maybe_unset = true;
                }
            }
            K::Literal(_) | K::Read(..) => {}
            K::Write(variable, name, value) => {
                self.lists |= matches!(value.kind, K::List(_));
                if let Variable::Slot(slot) | Variable::Cell(slot) = variable
                    && let Some(name) = name
                {
                    self.facts.slots[*slot as usize].name = Some(Rc::clone(name));
                }
                self.write(variable, value);
            }
            K::Fresh(slots, body) => {
                let slots: Vec<u32> = slots.iter().map(|(slot, _)| *slot).collect();
                self.living(&slots, |study| study.visit(body));
            }
            K::Apply(operation, args) => {
                self.lists |= super::looking::looks_at_item(self.function, *operation, args);
                args.iter().for_each(|arg| self.visit(arg));
            }
            K::Parts(parts, body) => {
                self.facts.is_plain = false;
                parts.iter().for_each(|&part| self.part(part));
                self.visit(body);
            }
            K::Enter(part) => {
                let sets = self.parts[*part as usize].clone();
                for &slot in sets.iter().flat_map(|sets| sets.iter()) {
                    self.set_at[slot as usize].push(self.node);
                    self.set_log.push(slot);
                }
            }
            K::Rebind(_, body) => {
                self.facts.has_cleanups = true;
                self.visit(body);
            }
            K::Function(function) => self.function(function, None),
            K::If([test, yes, no]) => {
                self.visit(test);
                self.alternatives([(None, yes), (None, no)].into_iter());
            }
            K::Match(subject, arms) => {
                self.visit(subject);
                if let K::Read(Variable::Slot(other), _) = subject.kind {
                    for slot in arms.iter().filter_map(|arm| arm.slot) {
                        self.facts.slots[slot as usize].alias = Some(other);
                    }
                }
                self.alternatives(arms.iter().map(|arm| (arm.slot, &arm.body)));
            }
            K::And([first, second]) | K::Or([first, second]) => {
                self.visit(first);
                self.perhaps(|study| study.visit(second));
            }
            K::While([test, body]) => {
                self.facts.is_plain = false;
                self.loops += 1;
                self.visit(test);
                self.perhaps(|study| study.visit(body));
                self.loops -= 1;
            }
            K::Each(slot, [list, body]) => {
                self.visit(list);
                self.turns(*slot, body);
            }
            K::Count(slot, [from, to, body]) => {
                self.visit(from);
                self.visit(to);
                self.turns(*slot, body);
            }
            K::Landing(..) | K::Jump(..) | K::Attempt(..) | K::Cleanup(_) => self.way_out(core),
            _ => core.each_part(&mut |part| self.visit(part)),
        }
        if super::looking::always_fails(core) {
            self.dead = true;
        }
    }

    /// Visits a part before what enters it, as often as that may be: what it sets counts as set
    /// more than once, and as not set after it.
    fn part(&mut self, part: PartId) {
        let Some(core) = self.function.part(part) else {
            return;
        };
        let before = self.set_log.len();
        self.loops += 1;
        self.perhaps(|study| study.visit(core));
        self.loops -= 1;
        let mut sets = self.set_log[before..].to_vec();
        sets.sort_unstable();
        sets.dedup();
        self.parts[part as usize] = Some(sets.into());
    }

    /// What leads out of something, and what waits there.
    fn way_out(&mut self, core: &Core) {
        match &core.kind {
            K::Landing(label, body) => {
                self.facts.is_plain = false;
                let mark = self.trail.len();
                let before = self.dead;
                self.visit(body);
                if self.jumped.remove(label) {
                    self.undo(mark);
                    self.dead = before;
                }
            }
            K::Jump(label, value) => {
                self.visit(value);
                self.jumped.insert(*label);
                self.dead = true;
            }
            K::Attempt(slot, [body, rescue]) => {
                self.facts.is_plain = false;
                let mark = self.trail.len();
                let before = self.dead;
                self.visit(body);
                let assigned = self.undo(mark);
                let ended = std::mem::replace(&mut self.dead, before);
                self.living(&[*slot], |study| {
                    study.set(*slot);
                    study.visit(rescue);
                });
                let rescued = self.undo(mark);
                let both = match (ended, self.dead) {
                    (false, false) => assigned
                        .into_iter()
                        .filter(|slot| rescued.contains(slot))
                        .collect(),
                    (false, true) => assigned,
                    (true, _) => rescued,
                };
                self.dead = ended && self.dead;
                for slot in both {
                    self.assign(slot);
                }
            }
            K::Cleanup([body, after]) => {
                self.facts.has_cleanups = true;
                self.facts.is_plain = false;
                let mark = self.trail.len();
                let before = self.dead;
                self.visit(body);
                let assigned = self.undo(mark);
                let ended = std::mem::replace(&mut self.dead, before);
                self.visit(after);
                self.dead |= ended;
                for slot in assigned {
                    self.assign(slot);
                }
            }
            _ => {}
        }
    }

    fn write(&mut self, variable: &Variable, value: &Core) {
        let (Variable::Slot(slot) | Variable::Cell(slot)) = *variable else {
            self.visit(value);
            return;
        };
        if let K::Function(function) = &value.kind {
            self.node += 1;
            self.function(function, Some(slot));
            self.set(slot);
            return;
        }
        self.visit(value);
        let facts = &mut self.facts.slots[slot as usize];
        match &given_by(value).kind {
            K::Literal(
                literal @ (Literal::Nothing
                | Literal::Truth(_)
                | Literal::Integer(_)
                | Literal::Number(_)),
            ) => facts.literal = Some(literal.clone()),
            // Such as a key: long ones are not copied to each place that reads them.
            K::Literal(literal @ Literal::Text(text)) if text.len() <= SHORT => {
                facts.literal = Some(literal.clone());
            }
            K::Apply(Operation::TextJoin, args) => {
                let text = super::texts::joined_literals(args);
                facts.literal = text.filter(|text| text.len() <= SHORT).map(Literal::Text);
            }
            K::Read(Variable::Slot(other), _) => facts.alias = Some(*other),
            _ => {}
        }
        self.set(slot);
    }

    /// Looks at what a function captures. `into` is the slot that it is put into right away.
    fn function(&mut self, function: &Rc<FunctionCore>, into: Option<u32>) {
        self.facts.is_plain = false;
        let sets = self.writers.of(function);
        for (index, capture) in function.captures.iter().enumerate() {
            let (Variable::Cell(slot) | Variable::Slot(slot)) = capture.from else {
                continue;
            };
            let facts = &mut self.facts.slots[slot as usize];
            facts.reads += 1;
            if sets.contains(&(index as u32)) {
                facts.shared = true;
            } else if into == Some(slot) {
                // Inside a loop around which the slot lives, it is set again.
                *self.captured.entry(slot).or_insert(0) += 1;
            } else if !self.assigned[slot as usize] {
                facts.shared = true;
            }
            // One that is set again after this is shared too.
            self.captured.entry(slot).or_insert(1);
        }
    }
}
