//! Children that a meaning mentions more than once. What is made of one is a part of its function,
//! made once and entered from each mention, so that Core stays linear in the program however its
//! forms nest.
//!
//! Two mentions come to the same only where they stand in the same surroundings: the same variables
//! for the same names, the same landings, the same function, the same errors caught. Surroundings
//! have numbers; what changes them for a body opens a region with a number of its own.

use std::rc::Rc;

use super::core::{Core, CoreKind as K, CorePart, PartId};
use super::instantiate::Maker;
use crate::definition::{Template, TemplateKind as T};
use crate::tree::NodeId;

use rustc_hash::{FxHashMap, FxHashSet};

/// What has so few pieces is made again at each mention: to enter it would take as long.
const SMALL: usize = 8;

/// A part under construction.
#[derive(Debug)]
pub(super) struct Draft {
    pub core: Core,
    /// From how many places it is entered.
    pub entered: u32,
    /// Whether it is known in which region it is made.
    pub is_placed: bool,
}

/// What has been made of children in their surroundings.
#[derive(Debug, Default)]
pub(super) struct Known {
    /// The surroundings at hand.
    pub region: u32,
    regions: u32,
    parts: FxHashMap<(NodeId, u32), PartId>,
}

impl Maker<'_> {
    /// Makes something in surroundings of its own; the parts made there end with it.
    pub(super) fn region(&mut self, make: impl FnOnce(&mut Self) -> Core) -> Core {
        self.known.regions += 1;
        let outer = std::mem::replace(&mut self.known.region, self.known.regions);
        let first = self.functions.part_count();
        let body = make(self);
        self.known.region = outer;
        let parts = self.functions.parts_from(first);
        if parts.is_empty() {
            return body;
        }
        let span = body.span;
        Core::new(K::Parts(parts, Rc::new(body)), span)
    }

    /// The same for what is run at another time than what is around it, or not at all.
    pub(super) fn region_apart(&mut self, make: impl FnOnce(&mut Self) -> Core) -> Core {
        self.apart(|maker| maker.region(make))
    }

    /// A child that is mentioned more than once.
    pub(super) fn shared(&mut self, child: NodeId, make: impl FnOnce(&mut Self) -> Core) -> Core {
        let key = (child, self.known.region);
        if let Some(&part) = self.known.parts.get(&key) {
            let span = self.functions.enter_part(part);
            return Core::new(K::Enter(part), span);
        }
        let core = make(self);
        if is_small(&core) {
            return core;
        }
        let span = core.span;
        let part = self.functions.add_part(core);
        self.known.parts.insert(key, part);
        Core::new(K::Enter(part), span)
    }
}

/// Whether something has few pieces, and no function among them.
fn is_small(core: &Core) -> bool {
    let mut work = vec![core];
    let mut count = 0;
    while let Some(core) = work.pop() {
        count += 1;
        if count > SMALL || matches!(core.kind, K::Function(_) | K::Parts(..)) {
            return false;
        }
        core.each_part(&mut |part| work.push(part));
    }
    true
}

/// The names that a meaning mentions more than once: fields, and children that it has names for.
/// What stands in a loop over children is made for each of them.
pub(super) fn often(means: &Template) -> FxHashSet<&str> {
    let mut counts = FxHashMap::default();
    count(means, 1, &mut counts);
    let often = counts.into_iter().filter(|(_, times)| *times > 1);
    often.map(|(name, _)| name).collect()
}

fn count<'t>(template: &'t Template, weight: u32, counts: &mut FxHashMap<&'t str, u32>) {
    match &template.kind {
        T::Name(name) => *counts.entry(name).or_default() += weight,
        T::All(path) => *counts.entry(&path.field.text).or_default() += weight,
        T::Member(_, part) => *counts.entry(&part.text).or_default() += weight,
        T::Each(own, list, body) => {
            count(list, weight, counts);
            let mut inside = FxHashMap::default();
            count(body, 1, &mut inside);
            for (name, times) in inside {
                let turns = if name == own.text { 1 } else { 2 };
                *counts.entry(name).or_default() += weight * turns * times;
            }
            return;
        }
        _ => {}
    }
    template.each_part(&mut |part| count(part, weight, counts));
}

/// Puts parts that are entered from one place there, and leaves the others as parts.
pub(super) fn settled(body: &mut Core, drafts: Vec<Draft>) -> Vec<Option<CorePart>> {
    let mut parts: Vec<Option<Draft>> = drafts.into_iter().map(Some).collect();
    put_in(body, &mut parts);
    // A part entered more than once may have others in it that are not.
    for index in 0..parts.len() {
        if let Some(mut draft) = parts[index].take() {
            put_in(&mut draft.core, &mut parts);
            parts[index] = Some(draft);
        }
    }
    let kept = parts.into_iter();
    kept.map(|part| part.map(|draft| Rc::new(draft.core)))
        .collect()
}

fn put_in(core: &mut Core, parts: &mut [Option<Draft>]) {
    loop {
        match &mut core.kind {
            K::Enter(part) => {
                let draft = &mut parts[*part as usize];
                match draft.take_if(|draft| draft.entered == 1) {
                    Some(draft) => *core = draft.core,
                    None => return,
                }
            }
            K::Parts(own, body) => {
                own.retain(|part| {
                    let draft = &parts[*part as usize];
                    draft.as_ref().is_none_or(|draft| draft.entered > 1)
                });
                if !own.is_empty() {
                    break;
                }
                let Some(body) = Rc::get_mut(body) else {
                    break;
                };
                let nothing = Core::new(K::Sequence(Vec::new()), body.span);
                *core = std::mem::replace(body, nothing);
            }
            _ => break,
        }
    }
    core.each_part_mut(&mut |part| put_in(part, parts));
}
