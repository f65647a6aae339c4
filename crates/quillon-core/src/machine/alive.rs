//! What a run has in use when it has the most: what has made it, and what leads to it.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::{Machine, View, Watched};
use crate::values::Value;

/// An instruction, by the number of its function and its own.
pub(crate) type Maker = (usize, usize);

/// What leads to something that is in use.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
pub(crate) enum Holder {
    /// A variable, by the number of its function and its name.
    Variable(usize, Rc<str>),
    /// A cell of the state, by its number.
    State(usize),
    /// What is being worked out, what is built in, and the like.
    Other,
}

/// How many things there are, and how many bytes they take.
#[derive(Clone, Copy, Default, Debug)]
pub(crate) struct Amount {
    pub pieces: u64,
    pub bytes: u64,
}

impl Amount {
    fn add(&mut self, bytes: usize) {
        self.pieces += 1;
        self.bytes += bytes as u64;
    }
}

/// What was in use when the most was.
#[derive(Debug, Default)]
pub(crate) struct Alive {
    /// What has made the thing at each address, if the run has.
    makers: FxHashMap<usize, Maker>,
    /// How many instructions had been carried out.
    pub moment: u64,
    pub all: Amount,
    /// By what made it, and what it is.
    pub made: FxHashMap<(Option<Maker>, &'static str), Amount>,
    /// By what leads to it.
    pub held: FxHashMap<Holder, Amount>,
}

impl Alive {
    /// Takes note of what has made the things at some addresses.
    pub fn note(&mut self, made: impl Iterator<Item = usize>, maker: Maker) {
        self.makers.extend(made.map(|address| (address, maker)));
    }
}

impl Machine<'_> {
    /// Whether it is asked what is in use.
    pub(super) fn asks_alive(&self) -> bool {
        matches!(&self.watched, Watched::Counted(probe) if probe.alive.is_some())
    }

    /// Frees what is out of use, and takes note of what is not if it is the most so far.
    pub(super) fn survey(&mut self) {
        let (holders, values) = self.holders();
        let mut found: Vec<(Option<usize>, Value, usize)> = Vec::new();
        let heap = Rc::clone(&self.memory.heap);
        heap.survey(&values, self, &mut |by, value, bytes| {
            found.push((by, value, bytes));
        });
        let Watched::Counted(probe) = &mut self.watched else {
            return;
        };
        probe.settle(&heap);
        let moment = probe.functions.iter().flat_map(|one| &one.costs);
        let moment = moment.map(|cost| cost.times).sum();
        let Some(alive) = &mut probe.alive else {
            return;
        };
        let bytes: usize = found.iter().map(|(.., bytes)| bytes).sum();
        if (bytes as u64) < alive.all.bytes {
            return;
        }
        let mut most = Alive {
            makers: std::mem::take(&mut alive.makers),
            moment,
            ..Alive::default()
        };
        for (by, value, bytes) in found {
            let maker = value
                .address()
                .and_then(|address| most.makers.get(&address));
            let maker = maker.copied();
            let holder = by.map_or(&Holder::Other, |by| &holders[by]);
            most.all.add(bytes);
            most.made
                .entry((maker, value.called()))
                .or_default()
                .add(bytes);
            most.held.entry(holder.clone()).or_default().add(bytes);
        }
        *alive = most;
    }

    /// The variables of the calls under way, the outermost first, and the cells of the state; each with what it
    /// holds.
    fn holders(&mut self) -> (Vec<Holder>, Vec<Value>) {
        let mut variables = Vec::new();
        for call in View::of(self).calls().into_iter().rev() {
            let at = call.at as u32;
            let own = call.function.locals.iter();
            for local in own.filter(|local| local.start <= at && at <= local.end) {
                let value = call.register(local.register);
                variables.push((Rc::clone(call.function), Rc::clone(&local.name), value));
            }
        }
        let state = self.memory.state.clone();
        let Watched::Counted(probe) = &mut self.watched else {
            return (Vec::new(), Vec::new());
        };
        let variables = variables.into_iter().map(|(function, name, value)| {
            (Holder::Variable(probe.number(&function), name), value)
        });
        let cells = state.into_iter().enumerate();
        let cells = cells.map(|(at, value)| (Holder::State(at), value));
        variables.chain(cells).unzip()
    }
}
