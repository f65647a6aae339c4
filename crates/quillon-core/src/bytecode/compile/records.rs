//! Maps whose keys are literals: made at once, with the values in a row, as long as nothing could see the map before it
//! is whole.

use std::rc::Rc;

use super::{Builder, Home, MOST, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::bytecode::unit::Constant;
use crate::definition::Literal;
use crate::meaning::{Core, CoreKind as K, CorePart, Variable, mentions};
use crate::operations::Operation as O;
use crate::values::LONGEST_ROW;

/// So many nodes are looked through to see whether a value mentions the map that it is put into.
const LOOKED_THROUGH: usize = 200;

/// A map with literal keys.
#[derive(Default)]
struct Record {
    keys: Vec<Rc<str>>,
    values: Vec<CorePart>,
}

impl Record {
    /// Puts an entry at the end; whether a map made at once can have it.
    fn put(&mut self, key: &Core, value: &CorePart) -> bool {
        let K::Literal(Literal::Text(key)) = &key.kind else {
            return false;
        };
        let is_new = self.keys.iter().all(|known| **known != **key);
        let fits = is_new && self.keys.len() < LONGEST_ROW;
        if fits {
            self.keys.push(Rc::from(key.as_str()));
            self.values.push(Rc::clone(value));
        }
        fits
    }

    /// Takes all that a part puts into the map in a slot; whether it does nothing else.
    fn takes(&mut self, part: &Core, slot: u32) -> bool {
        match &part.kind {
            K::Literal(_) => true,
            K::Sequence(parts) => parts.iter().all(|part| self.takes(part, slot)),
            K::Apply(O::MapPut, args) => match &args[..] {
                [map, key, value] => {
                    let is_it = matches!(map.kind, K::Read(Variable::Slot(own), _) if own == slot);
                    let mut left = LOOKED_THROUGH;
                    is_it && !mentions(value, slot, &mut left) && self.put(key, value)
                }
                _ => false,
            },
            _ => false,
        }
    }
}

impl Builder<'_, '_> {
    /// Compiles a variable that is set to a new map, with the parts after it that only put something into that; how
    /// many of them there are. None where that is not what the part does. Where nothing is left but to give the map, it
    /// is made where that is wanted, and nowhere else: a register that nobody reads would keep it alive.
    pub(super) fn record_in_variable(
        &mut self,
        part: &Core,
        after: &[CorePart],
        last: &Core,
        want: Want,
    ) -> Option<usize> {
        let K::Write(Variable::Slot(slot), _, made) = &part.kind else {
            return None;
        };
        if !matches!(&made.kind, K::Apply(O::MapNew, args) if args.is_empty()) {
            return None;
        }
        // Who reads the variable reads it after all of this.
        let facts = self.facts(*slot);
        if facts.shared || facts.writes > 1 || facts.maybe_unset || facts.alias.is_some() {
            return None;
        }
        let into = self.register_of(*slot)?;
        let mut record = Record::default();
        let mut taken = 0;
        for part in after {
            let before = record.keys.len();
            if !record.takes(part, *slot) {
                record.keys.truncate(before);
                record.values.truncate(before);
                break;
            }
            taken += 1;
        }
        if record.keys.is_empty() {
            return None;
        }
        let gives = matches!(last.kind, K::Read(Variable::Slot(own), _) if own == *slot);
        let reads = self.facts(*slot).reads as usize;
        let only_gives = gives && taken == after.len() && reads == record.keys.len() + 1;
        let wanted = match want {
            Want::Into(wanted) if only_gives => Some(wanted),
            Want::Into(_) | Want::Effect | Want::Tail => None,
        };
        let is_made = self.record(made, &record, wanted.unwrap_or(into));
        if let Some(wanted) = wanted.filter(|_| is_made) {
            self.scope().homes[*slot as usize] = Home::Register(wanted);
        }
        is_made.then_some(taken)
    }

    /// Compiles `map.of` with literal keys; whether they are.
    pub(super) fn record_of(&mut self, core: &Core, args: &[CorePart], into: Register) -> bool {
        let mut record = Record::default();
        let are_keys = args.chunks(2).all(|pair| match pair {
            [key, value] => record.put(key, value),
            _ => false,
        });
        are_keys && !args.is_empty() && self.record(core, &record, into)
    }

    /// Makes a map at once; whether there was room for its keys among the constants.
    fn record(&mut self, core: &Core, record: &Record, into: Register) -> bool {
        let Some(keys) = self.row_of_names(&record.keys) else {
            return false;
        };
        let top = self.top;
        let first = self.row_to_read(&record.values);
        let site = self.site(core, &[]);
        let count = record.keys.len() as u8;
        self.emit(Instruction::MapRow(count, into, first, keys), site);
        self.emit_word(site);
        self.top = top;
        true
    }

    /// The number of the first of some names that stand one after the other among the constants.
    fn row_of_names(&mut self, names: &[Rc<str>]) -> Option<u16> {
        if let Some(known) = self.known_rows.get(names) {
            return Some(*known);
        }
        let first = self.constants.len();
        if first + names.len() > MOST {
            return None;
        }
        let texts = names.iter().cloned().map(Constant::Text);
        self.constants.extend(texts);
        self.known_rows.insert(names.into(), first as u16);
        Some(first as u16)
    }
}
