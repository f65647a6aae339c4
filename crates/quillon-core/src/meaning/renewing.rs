//! What a meaning calls by a name of its own, and sets again: where it is always set before it is read the next time, it
//! has a variable for each value that it is set to. So each of them is set once, and what is known of a value is known of
//! its variable (as in static single assignment; Cytron, Ferrante, Rosen, Wegman and Zadeck 1991, without the joins).

use rustc_hash::FxHashMap;

use super::function::VariableId;
use super::instantiate::Maker;
use super::local::Local;

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
        self.note_made(variable, made, None);
    }

    fn note_made(&mut self, variable: VariableId, made: Made, before: Option<u32>) {
        let slot = self.functions.slot_of(variable);
        if let Some(block) = self.renewing.blocks.get_mut(made.block - 1) {
            block.push(slot);
        }
        self.functions.note_named(slot, before);
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
            let before = self.functions.slot_of(variable);
            self.note_made(next, Made { values, ..made }, Some(before));
        }
    }
}
