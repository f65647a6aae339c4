//! Functions under construction: slots, landings, and variables shared with the
//! functions inside.

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::asking;
use super::core::{
    Capture, Core, CoreKind, CorePart, FunctionCore, Label, ParamCore, PartId, Variable,
};
use super::shared;
use super::stepwise::Named;
use crate::scoping::BindingId;
use crate::source::{SourceText, Span};

/// A variable of the program under construction, by index.
pub(super) type VariableId = usize;

/// A variable that has been given a slot.
#[derive(Clone, Debug)]
struct Known {
    /// The function that owns it, counted from the outermost.
    owner: usize,
    slot: u32,
    name: Rc<str>,
    /// The function that owns it, counted in the order of the text.
    function: u32,
}

/// Where a variable of the program is kept when it runs.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Place {
    /// The function whose variable it is, counted in the order of the text; 0 is the
    /// program itself.
    pub function: u32,
    /// The slot of that function.
    pub slot: u32,
    /// Whether functions inside capture it.
    pub captured: bool,
}

/// Where the variables of a program's bindings are kept.
#[derive(Clone, Debug, Default)]
pub struct Places(pub(super) FxHashMap<BindingId, Place>);

impl Places {
    /// The place of a binding's variable, if it has a slot.
    pub fn of(&self, binding: BindingId) -> Option<Place> {
        self.0.get(&binding).copied()
    }
}

/// A landing that is open.
#[derive(Debug)]
struct Landing {
    name: String,
    /// What the program calls it.
    called: Option<Rc<str>>,
    label: Label,
    /// How many jumps end it.
    jumps: usize,
}

impl Landing {
    fn is(&self, name: &str, called: Option<&str>) -> bool {
        self.name == name && (called.is_none() || self.called.as_deref() == called)
    }
}

/// A function under construction.
#[derive(Debug, Default)]
struct Draft {
    /// Its number in the order of the text.
    number: u32,
    slots: u32,
    /// Slots of variables that functions inside share: they hold cells.
    shared: FxHashSet<u32>,
    captures: Vec<Capture>,
    captured: FxHashMap<VariableId, u32>,
    landings: Vec<Landing>,
    labels: Label,
    /// What is mentioned more than once.
    parts: Vec<shared::Draft>,
    /// The names of its blocks.
    named: Named,
}

/// The functions under construction, each inside the one before.
#[derive(Debug, Default)]
pub(super) struct Functions {
    drafts: Vec<Draft>,
    variables: Vec<Known>,
    /// How many functions have been begun.
    count: u32,
    /// Slots that functions inside share, with the numbers of their functions.
    captured: FxHashSet<(u32, u32)>,
}

impl Functions {
    /// Starts a function inside the current one.
    pub fn enter(&mut self) {
        self.drafts.push(Draft {
            number: self.count,
            ..Draft::default()
        });
        self.count += 1;
    }

    fn draft(&mut self) -> &mut Draft {
        let last = self.drafts.len() - 1;
        &mut self.drafts[last]
    }

    /// A fresh variable of the current function.
    pub fn variable(&mut self, name: &str) -> VariableId {
        let slot = self.slot();
        let function = self.draft().number;
        self.variables.push(Known {
            owner: self.drafts.len() - 1,
            function,
            slot,
            name: Rc::from(name),
        });
        self.variables.len() - 1
    }

    /// A slot of the current function for a passing value.
    pub fn slot(&mut self) -> u32 {
        let draft = self.draft();
        draft.slots += 1;
        draft.slots - 1
    }

    /// Takes note of a slot of the current function that is a name of a block; of a later value, with the slot of the one
    /// before it.
    pub fn note_named(&mut self, slot: u32, before: Option<u32>) {
        self.draft().named.note(slot, before);
    }

    /// The slot of a variable of the current function.
    pub fn slot_of(&self, variable: VariableId) -> u32 {
        self.variables[variable].slot
    }

    /// Where a variable is kept.
    pub fn place(&self, variable: VariableId) -> Place {
        let Known { function, slot, .. } = self.variables[variable];
        Place {
            function,
            slot,
            captured: self.captured.contains(&(function, slot)),
        }
    }

    /// The name of a variable.
    pub fn name_of(&self, variable: VariableId) -> Rc<str> {
        Rc::clone(&self.variables[variable].name)
    }

    /// Whether the function that owns a variable is still under construction.
    pub fn is_open(&self, variable: VariableId) -> bool {
        let Known {
            owner, function, ..
        } = self.variables[variable];
        let draft = self.drafts.get(owner);
        draft.is_some_and(|draft| draft.number == function)
    }

    /// Whether the current function owns a variable, and none inside has captured it so far.
    pub fn is_only_own(&self, variable: VariableId) -> bool {
        let Known {
            owner,
            slot,
            function,
            ..
        } = self.variables[variable];
        owner + 1 == self.drafts.len() && !self.captured.contains(&(function, slot))
    }

    /// Where the current function finds a variable; every function on the way from its
    /// owner captures it.
    pub fn find(&mut self, variable: VariableId) -> Variable {
        let Known {
            owner,
            slot,
            name,
            function,
        } = self.variables[variable].clone();
        let current = self.drafts.len() - 1;
        if owner == current {
            return Variable::Slot(slot);
        }
        self.drafts[owner].shared.insert(slot);
        self.captured.insert((function, slot));
        let mut from = Variable::Cell(slot);
        for draft in &mut self.drafts[owner + 1..=current] {
            let next = draft.captures.len() as u32;
            let index = *draft.captured.entry(variable).or_insert_with(|| {
                draft.captures.push(Capture {
                    name: Rc::clone(&name),
                    from: from.clone(),
                });
                next
            });
            from = Variable::Captured(index);
        }
        from
    }

    /// Opens a landing; close it with `close_landing`.
    pub fn open_landing(&mut self, name: &str, called: Option<Rc<str>>) -> Label {
        let draft = self.draft();
        draft.labels += 1;
        let label = draft.labels;
        draft.landings.push(Landing {
            name: name.to_owned(),
            called,
            label,
            jumps: 0,
        });
        label
    }

    /// Closes the landing opened last; how many jumps end it.
    pub fn close_landing(&mut self) -> usize {
        let landing = self.draft().landings.pop();
        landing.map_or(0, |landing| landing.jumps)
    }

    /// Takes note of a jump to the innermost landing of a name in the current function; if the program calls it
    /// something, to the innermost that it calls so. The label of that.
    pub fn jump_to(&mut self, name: &str, called: Option<&str>) -> Option<Label> {
        let mut landings = self.drafts.last_mut()?.landings.iter_mut().rev();
        let found = landings.find(|landing| landing.is(name, called))?;
        found.jumps += 1;
        Some(found.label)
    }

    /// The innermost landing of a name in the current function; if the program calls it
    /// something, the innermost that it calls so.
    pub fn landing(&self, name: &str, called: Option<&str>) -> Option<Label> {
        let mut landings = self.drafts.last()?.landings.iter().rev();
        let found = landings.find(|landing| landing.is(name, called));
        found.map(|landing| landing.label)
    }

    /// What the program calls the landings of a name in the current function.
    pub fn labels(&self, name: &str) -> Vec<Rc<str>> {
        let landings = self
            .drafts
            .last()
            .into_iter()
            .flat_map(|draft| &draft.landings);
        let named = landings.filter(|landing| landing.name == name);
        named.filter_map(|landing| landing.called.clone()).collect()
    }

    /// Whether a function around the current one has such a landing.
    pub fn landing_outside(&self, name: &str, called: Option<&str>) -> bool {
        let around = self.drafts.len().saturating_sub(1);
        let mut landings = self.drafts[..around]
            .iter()
            .flat_map(|draft| &draft.landings);
        landings.any(|landing| landing.is(name, called))
    }

    /// How many parts the current function has so far.
    pub fn part_count(&self) -> PartId {
        self.drafts.last().map_or(0, |draft| draft.parts.len()) as PartId
    }

    /// The parts of the current function from one on that no region has yet.
    pub fn parts_from(&mut self, first: PartId) -> Vec<PartId> {
        let parts = &mut self.draft().parts[first as usize..];
        let fresh = (first..).zip(parts).filter(|(_, part)| !part.is_placed);
        fresh
            .map(|(id, part)| {
                part.is_placed = true;
                id
            })
            .collect()
    }

    /// Adds a part to the current function, entered from one place.
    pub fn add_part(&mut self, core: Core) -> PartId {
        let parts = &mut self.draft().parts;
        parts.push(shared::Draft {
            core,
            entered: 1,
            is_placed: false,
        });
        parts.len() as PartId - 1
    }

    /// Enters a part of the current function from one more place; where it comes from.
    pub fn enter_part(&mut self, part: PartId) -> Span {
        let part = &mut self.draft().parts[part as usize];
        part.entered += 1;
        part.core.span
    }

    /// Finishes the current function.
    pub fn leave(&mut self, parts: Finished<'_>) -> FunctionCore {
        let mut draft = self.drafts.pop().unwrap_or_default();
        let mut body = parts.body;
        let mut entered = shared::settled(&mut body, std::mem::take(&mut draft.parts));
        let parts_of_it = entered.iter_mut().flatten().filter_map(Rc::get_mut);
        draft
            .named
            .settle(std::iter::once(&mut body).chain(parts_of_it));
        share(&mut body, &mut draft);
        for part in entered.iter_mut().flatten().filter_map(Rc::get_mut) {
            share(part, &mut draft);
        }
        let params = parts
            .params
            .iter()
            .map(|param| {
                let slot = self.variables[param.variable].slot;
                ParamCore {
                    name: self.name_of(param.variable),
                    slot,
                    is_cell: draft.shared.contains(&slot),
                    is_hidden: param.is_hidden,
                }
            })
            .collect();
        FunctionCore {
            name: parts.name.map(Rc::from),
            params,
            rest: parts.rest,
            captures: draft.captures,
            slots: draft.slots,
            body: Rc::new(body),
            parts: entered,
            source: Arc::clone(parts.source),
            built_in: parts.built_in,
        }
    }
}

/// A parameter of a function under construction.
pub(super) struct Param {
    pub variable: VariableId,
    /// See `ParamCore`.
    pub is_hidden: bool,
}

impl Param {
    /// One that messages count.
    pub fn seen(variable: VariableId) -> Param {
        Param {
            variable,
            is_hidden: false,
        }
    }
}

/// What a finished function is made of, beside its slots and captures.
pub(super) struct Finished<'a> {
    pub name: Option<&'a str>,
    pub params: &'a [Param],
    pub rest: bool,
    pub body: Core,
    pub source: &'a Arc<SourceText>,
    pub built_in: bool,
}

/// Goes over a finished body, now that it is known which variables are shared, and
/// turns their slots into cells.
fn share(core: &mut Core, draft: &mut Draft) {
    if let Some(question) = asking::question(core, &mut draft.slots) {
        *core = question;
    }
    match &mut core.kind {
        CoreKind::Read(variable, _) | CoreKind::Write(variable, ..) => {
            if let Variable::Slot(slot) = variable
                && draft.shared.contains(slot)
            {
                *variable = Variable::Cell(*slot);
            }
        }
        CoreKind::Fresh(slots, _) => {
            for (slot, cell) in slots {
                *cell = draft.shared.contains(slot);
            }
        }
        CoreKind::Each(slot, parts) | CoreKind::Attempt(slot, parts)
            if draft.shared.contains(slot) =>
        {
            through_cell(slot, &mut parts[1], draft);
        }
        CoreKind::Count(slot, [_, _, body]) if draft.shared.contains(slot) => {
            through_cell(slot, body, draft);
        }
        CoreKind::Match(_, arms) => {
            for arm in arms {
                if let Some(slot) = &mut arm.slot
                    && draft.shared.contains(slot)
                {
                    through_cell(slot, &mut arm.body, draft);
                }
            }
        }
        _ => {}
    }
    core.each_part_mut(&mut |part| share(part, draft));
}

/// Puts a shared variable, given its value by a construct, into a fresh cell: the
/// construct fills a passing slot, and its body begins by copying it.
fn through_cell(slot: &mut u32, body: &mut CorePart, draft: &mut Draft) {
    let shared = std::mem::replace(slot, draft.slots);
    draft.slots += 1;
    let span = body.span;
    let passing = Core::new(CoreKind::Read(Variable::Slot(*slot), Rc::from("")), span);
    let copy = CoreKind::Write(Variable::Cell(shared), None, Rc::new(passing));
    let parts = vec![Rc::new(Core::new(copy, span)), Rc::clone(body)];
    let sequence = Rc::new(Core::new(CoreKind::Sequence(parts), span));
    *body = Rc::new(Core::new(
        CoreKind::Fresh(vec![(shared, true)], sequence),
        span,
    ));
}

/// Fresh variables in slots for a sequence.
pub(super) fn fresh(slots: Vec<u32>, mut parts: Vec<Core>, span: Span) -> Core {
    let body = if parts.len() == 1 {
        parts.remove(0)
    } else {
        Core::new(sequence(parts), span)
    };
    if slots.is_empty() {
        return body;
    }
    let slots = slots.into_iter().map(|slot| (slot, false)).collect();
    Core::new(CoreKind::Fresh(slots, Rc::new(body)), span)
}

/// One after the other.
pub(super) fn sequence(parts: Vec<Core>) -> CoreKind {
    CoreKind::Sequence(parts.into_iter().map(Rc::new).collect())
}
