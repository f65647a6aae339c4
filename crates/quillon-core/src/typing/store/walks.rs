//! Walks through types. They pass over the parts in which there is nothing for them.

use super::{Args, Copied, GENERIC, Slot, Store, TypeId, Variable};

impl Store {
    /// Begins a walk, on which each part is seen once.
    fn begin_walk(&mut self) {
        self.walk += 1;
    }

    /// Whether a part has not been seen on the walk before.
    fn is_new(&mut self, id: TypeId) -> bool {
        std::mem::replace(&mut self.seen[id.0 as usize], self.walk) != self.walk
    }

    /// Brings all variables in a type down to those of the variable `inside`; false if that is
    /// one of them.
    pub(super) fn lower(&mut self, id: TypeId, inside: TypeId, to: Variable) -> bool {
        let mut waiting = vec![id];
        self.begin_walk();
        while let Some(id) = waiting.pop() {
            let id = self.behind(id);
            if id == inside {
                return false;
            }
            let open = self.open(id);
            let is_deeper = open.depth > to.level.saturating_add(1);
            // One as young could be the variable itself.
            let is_younger = open.youngest > to.birth;
            if !is_deeper && !is_younger || !self.is_new(id) {
                continue;
            }
            match self.entry(id).slot {
                Slot::Variable(variable) => {
                    let origin = self.entry(id).origin;
                    let lower = Variable {
                        level: variable.level.min(to.level),
                        birth: variable.birth.min(to.birth),
                        ..variable
                    };
                    self.set(id, Slot::Variable(lower), origin);
                }
                Slot::Con(_, args) => {
                    self.bound(id, to);
                    waiting.extend_from_slice(self.args(args));
                }
                Slot::Copy(copied) => {
                    if is_deeper || !self.lower_instance(id, copied, to) {
                        let (id, slot, _) = self.find(id);
                        self.bound(id, to);
                        if let Slot::Con(_, args) = slot {
                            waiting.extend_from_slice(self.args(args));
                        }
                    }
                }
                Slot::Any | Slot::Link(_) => {}
            }
        }
        true
    }

    /// Notes that all variables in a type are brought down.
    fn bound(&mut self, id: TypeId, to: Variable) {
        let mut entry = self.entry(id);
        entry.open.depth = entry.open.depth.min(to.level.saturating_add(1));
        entry.open.youngest = entry.open.youngest.min(to.birth + 1);
        self.change(id, entry);
    }

    /// Makes the variables that an instance will have as old as one; false if it has some already
    /// or shares some that are as young.
    fn lower_instance(&mut self, id: TypeId, copied: Copied, to: Variable) -> bool {
        let instance = &self.instances[copied.instance as usize];
        if instance.variables > 0 || self.entry(id).open.youngest > to.birth {
            return false;
        }
        let (level, birth) = (instance.level, instance.birth.min(to.birth));
        self.change_instance(copied.instance, level, birth);
        true
    }

    /// Makes the variables in a type that are deeper than a level stand for any type.
    pub fn generalise(&mut self, id: TypeId, level: u32) {
        enum Walk {
            To(TypeId),
            /// All parts of it have been walked through.
            Back(TypeId, Args),
        }
        let mut waiting = vec![Walk::To(id)];
        self.begin_walk();
        while let Some(next) = waiting.pop() {
            let id = match next {
                Walk::To(id) => self.behind(id),
                Walk::Back(id, args) => {
                    let mut entry = self.entry(id);
                    entry.open = self.open_in(args);
                    entry.is_general = self.has_general(args);
                    self.change(id, entry);
                    continue;
                }
            };
            if self.open(id).depth <= level + 1 || !self.is_new(id) {
                continue;
            }
            let entry = self.entry(id);
            match entry.slot {
                Slot::Variable(variable) => {
                    let general = Variable {
                        level: GENERIC,
                        ..variable
                    };
                    self.set(id, Slot::Variable(general), entry.origin);
                    continue;
                }
                Slot::Copy(copied) => {
                    let instance = &self.instances[copied.instance as usize];
                    if instance.variables == 0 && entry.open.depth <= level + 1 {
                        let birth = instance.birth;
                        self.change_instance(copied.instance, GENERIC, birth);
                        continue;
                    }
                }
                Slot::Con(..) | Slot::Any | Slot::Link(_) => {}
            }
            if let (id, Slot::Con(_, args), _) = self.find(id) {
                waiting.push(Walk::Back(id, args));
                waiting.extend(self.args(args).iter().map(|&arg| Walk::To(arg)));
            }
        }
    }

    /// Whether nothing in a type is open.
    pub fn is_settled(&mut self, id: TypeId) -> bool {
        let mut waiting = vec![id];
        let mut settled: Vec<TypeId> = Vec::new();
        self.begin_walk();
        while let Some(id) = waiting.pop() {
            let id = self.behind(id);
            if self.entry(id).is_settled || !self.is_new(id) {
                continue;
            }
            match self.find(id) {
                (_, Slot::Variable(variable), _) if !variable.reached => return false,
                (id, Slot::Con(_, args), _) => {
                    settled.push(id);
                    waiting.extend_from_slice(self.args(args));
                }
                _ => {}
            }
        }
        // Nothing was open, so nothing in any of them is, and it stays so.
        for id in settled {
            let mut entry = self.entry(id);
            entry.is_settled = true;
            self.change(id, entry);
        }
        true
    }
}
