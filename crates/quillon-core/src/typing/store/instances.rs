//! Instances of general types: each use has variables of its own for those that stand for any
//! type. A part of an instance is made when somebody looks into it.

use rustc_hash::FxHashMap;

use super::{Change, Copied, Slot, Store, TypeId, Variable};

/// A use of a general type.
#[derive(Debug)]
pub(super) struct Instance {
    /// The level of its own variables; `GENERIC` once they stand for any type.
    pub level: u32,
    /// When it came to be, or less: the birth of variables that it will have.
    pub birth: u32,
    /// What stands in it for the parts of the general type.
    pub parts: FxHashMap<TypeId, TypeId>,
    /// How many variables of its own it has by now.
    pub variables: u32,
}

impl Store {
    /// A type with fresh variables for those that stand for any type.
    pub fn instantiate(&mut self, id: TypeId, level: u32) -> TypeId {
        let id = self.behind(id);
        if !self.is_general(id) {
            return id;
        }
        self.instances.push(Instance {
            level,
            birth: self.entries.len() as u32,
            parts: FxHashMap::default(),
            variables: 0,
        });
        self.part(self.instances.len() as u32 - 1, id)
    }

    /// What stands in an instance for a part of its general type.
    fn part(&mut self, instance: u32, of: TypeId) -> TypeId {
        let of = self.behind(of);
        if !self.is_general(of) {
            return of;
        }
        if let Some(&known) = self.instances[instance as usize].parts.get(&of) {
            return known;
        }
        let entry = self.entry(of);
        let part = if let Slot::Variable(variable) = entry.slot {
            let one = &mut self.instances[instance as usize];
            one.variables += 1;
            let own = Variable {
                level: one.level,
                birth: one.birth,
                ..variable
            };
            self.trail.push(Change::Variable(instance));
            self.add(Slot::Variable(own), entry.origin)
        } else {
            let part = self.add(Slot::Copy(Copied { of, instance }), entry.origin);
            self.entries[part.0 as usize].open = self.open(of);
            part
        };
        self.instances[instance as usize].parts.insert(of, part);
        self.trail.push(Change::Part(instance, of));
        part
    }

    /// Makes a part of an instance, with parts that nobody has looked into.
    pub(super) fn look_into(&mut self, id: TypeId, copied: Copied) {
        let Copied { of, instance } = copied;
        let of = self.behind(of);
        let slot = self.entry(of).slot;
        let origin = self.entry(id).origin;
        let Slot::Con(con, args) = slot else {
            let part = self.part(instance, of);
            self.set(id, Slot::Link(part), origin);
            return;
        };
        let mut parts = Vec::with_capacity(args.count as usize);
        for index in 0..args.count {
            let arg = self.arg(args, index);
            parts.push(self.part(instance, arg));
        }
        let args = self.new_args(&parts);
        let mut entry = self.entry(id);
        entry.slot = Slot::Con(con, args);
        entry.open = self.open_in(args);
        entry.is_general = self.has_general(args);
        self.change(id, entry);
    }

    /// Gives an instance another level and birth.
    pub(super) fn change_instance(&mut self, instance: u32, level: u32, birth: u32) {
        let one = &mut self.instances[instance as usize];
        let before = Change::Instance(instance, one.level, one.birth);
        (one.level, one.birth) = (level, birth);
        self.trail.push(before);
    }
}
