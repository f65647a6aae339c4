//! A copy of a session in which a run can be watched, and that changes nothing in the session.

use std::any::Any;
use std::cell::RefCell;
use std::collections::VecDeque;
use std::rc::Rc;

use super::Engine;
use super::inner::{Inner, Maker, Watching};
use crate::diagnostic::{Diagnostic, codes};
use crate::machine::Loaded;
use crate::metering::{Interrupt, Stopped};
use crate::runtime::{Contents, Host, Limits, Memory, Problem};
use crate::scoping::Kept;
use crate::values::{Code, CodeAbroad, Copier, Heap, Look};

impl Inner {
    /// A copy for the engine that walks, as all was before the last `back` entries.
    ///
    /// # Errors
    /// How it was then is not known any more; a value cannot be copied, or all of them are more
    /// than what the limits allow.
    pub fn rehearsal(&self, back: usize, host: &dyn Host) -> Result<Inner, Box<Diagnostic>> {
        self.copy(back, host, Watching::No)
    }

    /// The same for runs that are led.
    pub fn led_copy(&self, back: usize, host: &dyn Host) -> Result<Inner, Box<Diagnostic>> {
        self.copy(back, host, Watching::Led)
    }

    /// The names that were kept before the last `back` entries.
    pub fn kept_before(&self, back: usize) -> &[Kept] {
        let before = self.past.len().checked_sub(back);
        let before = before.and_then(|at| self.past.get(at));
        let count = before.map_or(self.kept.len(), |before| before.kept);
        &self.kept[..count.min(self.kept.len())]
    }

    fn copy(
        &self,
        back: usize,
        host: &dyn Host,
        watching: Watching,
    ) -> Result<Inner, Box<Diagnostic>> {
        let before = match back {
            0 => None,
            _ => Some(self.past.len().checked_sub(back).ok_or_else(|| {
                cannot("how all was before it is not remembered any more".to_owned())
            })?),
        };
        let before = before.map(|at| &self.past[at]);
        let prepared = before.map_or(&self.prepared, |before| &before.prepared);
        let mut memory = Memory {
            wording: self.memory.wording.clone(),
            random: before
                .map_or(&self.memory.random, |before| &before.random)
                .clone(),
            ..Memory::default()
        };
        memory.heap.set_most(self.limits.memory);
        let values = &prepared.language().definition().values;
        memory.heap.set_look(Look::of(values));
        let now = Contents::of(&self.memory);
        let values = before.map_or(&now, |before| &before.values);
        let heap = Rc::clone(&memory.heap);
        let brought = RefCell::new(Vec::new());
        let led = |code: &Rc<dyn Code>| {
            let loaded = led(code, &heap)?;
            brought.borrow_mut().push(Rc::clone(&loaded));
            Some(loaded as Rc<dyn Code>)
        };
        let (engine, code): (_, &CodeAbroad<'_>) = match watching {
            Watching::No | Watching::Counted | Watching::Weighed => (Engine::Walk, &walked),
            Watching::Led => (Engine::Machine, &led),
        };
        let values = copied(values, &memory, self.limits, host.interrupt(), code)?;
        values.put_into(&mut memory);
        let maker = Maker::new(prepared, engine, watching, &heap);
        memory.built_in.set_maker(Rc::new(maker));
        let mut copy = Inner {
            prepared: prepared.clone(),
            engine,
            limits: self.limits,
            memory,
            kept: self.kept.clone(),
            types: self.types.clone(),
            past: VecDeque::new(),
            remembers: 0,
            watching,
            probe: None,
            brought: brought.take(),
        };
        if let Some(before) = before {
            copy.forget_since(before.kept, &before.awaited);
        }
        Ok(copy)
    }
}

/// Values copied to another heap.
pub(super) fn copied(
    values: &Contents,
    memory: &Memory,
    limits: Limits,
    interrupt: Option<Interrupt>,
    code: &CodeAbroad<'_>,
) -> Result<Contents, Box<Diagnostic>> {
    let _entered = memory.heap.enter();
    let _running = memory.heap.meter.run(limits, interrupt);
    let mut copier = Copier::with_code(code);
    let made = values.copied(&mut copier).map_err(|stopped: Stopped| {
        let problem = Box::<Problem>::from(stopped);
        cannot(format!(
            "the session had to be copied, and {}",
            problem.message
        ))
    })?;
    if copier.has_left_out {
        let why = "a value of the session is a coroutine, and where that stands cannot be copied";
        return Err(cannot(why.to_owned()));
    }
    Ok(made)
}

/// The code of a function for the engine that walks.
pub(super) fn walked(code: &Rc<dyn Code>) -> Option<Rc<dyn Code>> {
    let any: &dyn Any = &**code;
    match any.downcast_ref::<Loaded>() {
        Some(loaded) => Some(Rc::clone(loaded.function.core.as_ref()?) as Rc<dyn Code>),
        None => Some(Rc::clone(code)),
    }
}

/// The code of a function for runs that are led, with values of a heap.
fn led(code: &Rc<dyn Code>, heap: &Heap) -> Option<Rc<Loaded>> {
    let any: &dyn Any = &**code;
    let loaded = any.downcast_ref::<Loaded>()?;
    Some(Loaded::new(&loaded.function, heap, true))
}

fn cannot(why: String) -> Box<Diagnostic> {
    let problem = Diagnostic::error(codes::USAGE, "this cannot be followed step by step");
    Box::new(problem.why(why))
}
