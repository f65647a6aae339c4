//! Types while they are being found: a store of terms with variables in them, solved by
//! unification (J. A. Robinson, "A machine-oriented logic based on the resolution principle",
//! 1965), with levels for generalising (D. Rémy, "Extension of ML type system with a sorted
//! equational theory on types", 1992).
//!
//! An integer is accepted where a number is needed. So that the order of a program does not
//! matter more than it must, a variable that an integer has reached stays open: it becomes
//! `number` if a number reaches it as well, and `integer` only where nothing else will do.
//!
//! A type can be as large as a program. So no use of one costs its size: each knows the levels of
//! the variables in it, walks pass over what they cannot change, and an instance of a general type
//! is copied only as far as somebody looks into it (`instances`). No walk uses the native stack.

use super::Con;
use crate::tree::NodeId;

mod instances;
mod relate;
mod walks;

use instances::Instance;

/// A type in a store, by index.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(super) struct TypeId(u32);

/// What a type in a store is.
#[derive(Clone, Copy, Debug)]
pub(super) enum Slot {
    /// Made of others.
    Con(Con, Args),
    /// Whatever it is.
    Any,
    /// Not known yet.
    Variable(Variable),
    /// The same as another.
    Link(TypeId),
    /// The part of an instance for a part of a general type, into which nobody has looked yet.
    Copy(Copied),
}

/// See [`Slot::Copy`].
#[derive(Clone, Copy, Debug)]
pub(super) struct Copied {
    of: TypeId,
    /// The number of the instance.
    instance: u32,
}

/// The types that one is made of: a stretch of the store's list.
#[derive(Clone, Copy, Debug)]
pub(super) struct Args {
    first: u32,
    count: u32,
}

/// A type that is not known yet.
#[derive(Clone, Copy, Debug)]
pub(super) struct Variable {
    /// How many general bindings it is inside of; `GENERIC` once it stands for any type.
    pub level: u32,
    /// An integer has reached it: it is `integer` or `number`.
    pub reached: bool,
    /// It is used where a number is needed: it is `integer` or `number`.
    pub numeric: bool,
    /// When it came to be, or less: a type without a variable as young cannot contain it.
    pub birth: u32,
}

/// The level of variables that stand for any type.
pub(super) const GENERIC: u32 = u32::MAX;

/// How a type came to be.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum How {
    /// A node of the program gives it.
    Gives,
    /// A form needs it of a node.
    Wants,
    /// An annotation says it.
    Declared,
}

/// Where a type comes from.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Origin {
    pub node: NodeId,
    pub how: How,
}

/// Why two types do not go together.
#[derive(Clone, Copy, Debug)]
pub(super) enum Clash {
    /// One is found where another is wanted.
    Mismatch { found: TypeId, wanted: TypeId },
    /// Functions of another number of parameters.
    Count { found: TypeId, wanted: TypeId },
    /// One would have to contain itself.
    Endless,
}

/// How two types have to go together.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Fit {
    /// They are the same.
    Same,
    /// The first is accepted where the second is wanted.
    Accepted,
}

/// A state of a store.
#[derive(Clone, Copy, Debug)]
pub(super) struct Mark {
    trail: usize,
    slots: usize,
    args: usize,
    instances: usize,
    leaned_on_any: bool,
}

/// What bounds the variables in a type that do not stand for any type.
#[derive(Clone, Copy, Default, PartialEq, Eq, Debug)]
struct Open {
    /// One more than the deepest level of one, or more than that; 0 without any.
    depth: u32,
    /// One more than the birth of the youngest, or more than that; 0 without any.
    youngest: u32,
}

impl Open {
    fn of(level: u32, birth: u32) -> Open {
        if level == GENERIC {
            return Open::default();
        }
        Open {
            depth: level + 1,
            youngest: birth + 1,
        }
    }

    fn and(self, other: Open) -> Open {
        Open {
            depth: self.depth.max(other.depth),
            youngest: self.youngest.max(other.youngest),
        }
    }
}

/// A type with what is known of all in it.
#[derive(Clone, Copy, Debug)]
struct Entry {
    slot: Slot,
    origin: Option<Origin>,
    /// Of one made of others: the variables in it that do not stand for any type.
    open: Open,
    /// Whether a variable in it stands for any type.
    is_general: bool,
    /// Whether nothing in it is known to be open.
    is_settled: bool,
}

/// What has changed, to go back to.
#[derive(Clone, Copy, Debug)]
enum Change {
    Entry(TypeId, Entry),
    /// The level and the birth of an instance.
    Instance(u32, u32, u32),
    /// An instance has got a part for this one.
    Part(u32, TypeId),
    /// An instance has got a variable of its own.
    Variable(u32),
}

/// Every type of a program.
#[derive(Debug, Default)]
pub(super) struct Store {
    entries: Vec<Entry>,
    args: Vec<TypeId>,
    instances: Vec<Instance>,
    trail: Vec<Change>,
    /// When an entry was last seen on a walk; shared parts are walked once.
    seen: Vec<u32>,
    walk: u32,
    /// Whether anything was accepted only because a side was `any`.
    pub leaned_on_any: bool,
}

impl Store {
    fn add(&mut self, slot: Slot, origin: Option<Origin>) -> TypeId {
        self.entries.push(Entry {
            slot,
            origin,
            open: Open::default(),
            is_general: false,
            is_settled: false,
        });
        self.seen.push(0);
        TypeId(self.entries.len() as u32 - 1)
    }

    fn entry(&self, id: TypeId) -> Entry {
        self.entries[id.0 as usize]
    }

    fn change(&mut self, id: TypeId, entry: Entry) {
        self.trail.push(Change::Entry(id, self.entry(id)));
        self.entries[id.0 as usize] = entry;
    }

    fn set(&mut self, id: TypeId, slot: Slot, origin: Option<Origin>) {
        let entry = self.entry(id);
        self.change(
            id,
            Entry {
                slot,
                origin,
                ..entry
            },
        );
    }

    /// A type made of others.
    pub fn con(&mut self, con: Con, args: &[TypeId], origin: Option<Origin>) -> TypeId {
        let args = self.new_args(args);
        let id = self.add(Slot::Con(con, args), origin);
        self.entries[id.0 as usize].open = self.open_in(args);
        self.entries[id.0 as usize].is_general = self.has_general(args);
        id
    }

    /// Notes what a type is made of.
    fn new_args(&mut self, args: &[TypeId]) -> Args {
        let first = self.args.len() as u32;
        self.args.extend_from_slice(args);
        let count = args.len() as u32;
        Args { first, count }
    }

    pub fn any(&mut self, origin: Option<Origin>) -> TypeId {
        self.add(Slot::Any, origin)
    }

    /// A type that is not known yet.
    pub fn fresh(&mut self, level: u32) -> TypeId {
        let variable = Variable {
            level,
            reached: false,
            numeric: false,
            birth: self.entries.len() as u32,
        };
        self.add(Slot::Variable(variable), None)
    }

    /// The entry behind all links; nobody looks into it.
    fn behind(&self, mut id: TypeId) -> TypeId {
        while let Slot::Link(next) = self.entry(id).slot {
            id = next;
        }
        id
    }

    /// What a type is, behind all links.
    pub fn find(&mut self, id: TypeId) -> (TypeId, Slot, Option<Origin>) {
        let mut at = self.behind(id);
        let mut waiting = Vec::new();
        // What a part is copied from may be a part of an instance itself, and so on.
        while let Slot::Copy(copied) = self.entry(at).slot {
            let of = self.behind(copied.of);
            if let Slot::Copy(_) = self.entry(of).slot {
                waiting.push(at);
                at = of;
            } else {
                self.look_into(at, copied);
                at = waiting.pop().unwrap_or_else(|| self.behind(id));
            }
        }
        let entry = self.entry(at);
        (at, entry.slot, entry.origin)
    }

    pub fn args(&self, args: Args) -> &[TypeId] {
        &self.args[args.first as usize..(args.first + args.count) as usize]
    }

    fn arg(&self, args: Args, index: u32) -> TypeId {
        self.args[(args.first + index) as usize]
    }

    /// The variables in a type that do not stand for any type.
    fn open(&self, id: TypeId) -> Open {
        let entry = self.entry(self.behind(id));
        match entry.slot {
            Slot::Variable(variable) => Open::of(variable.level, variable.birth),
            Slot::Con(..) => entry.open,
            // Those that it will have of its own, and those that it shares.
            Slot::Copy(copied) => {
                let instance = &self.instances[copied.instance as usize];
                entry.open.and(Open::of(instance.level, instance.birth))
            }
            Slot::Any | Slot::Link(_) => Open::default(),
        }
    }

    fn open_in(&self, args: Args) -> Open {
        let all = self.args(args).iter().map(|&arg| self.open(arg));
        all.fold(Open::default(), Open::and)
    }

    /// Whether a variable in a type stands for any type.
    fn is_general(&self, id: TypeId) -> bool {
        let entry = self.entry(self.behind(id));
        match entry.slot {
            Slot::Variable(variable) => variable.level == GENERIC,
            Slot::Con(..) => entry.is_general,
            Slot::Copy(copied) => self.instances[copied.instance as usize].level == GENERIC,
            Slot::Any | Slot::Link(_) => false,
        }
    }

    fn has_general(&self, args: Args) -> bool {
        self.args(args).iter().any(|&arg| self.is_general(arg))
    }

    /// Where to go back to.
    pub fn mark(&self) -> Mark {
        Mark {
            trail: self.trail.len(),
            slots: self.entries.len(),
            args: self.args.len(),
            instances: self.instances.len(),
            leaned_on_any: self.leaned_on_any,
        }
    }

    /// Takes back all that has been found out since a mark.
    pub fn undo(&mut self, mark: Mark) {
        while self.trail.len() > mark.trail {
            match self.trail.pop() {
                Some(Change::Entry(id, entry)) => self.entries[id.0 as usize] = entry,
                Some(Change::Instance(instance, level, birth)) => {
                    self.instances[instance as usize].level = level;
                    self.instances[instance as usize].birth = birth;
                }
                Some(Change::Part(instance, of)) => {
                    self.instances[instance as usize].parts.remove(&of);
                }
                Some(Change::Variable(instance)) => {
                    self.instances[instance as usize].variables -= 1;
                }
                None => {}
            }
        }
        self.entries.truncate(mark.slots);
        self.seen.truncate(mark.slots);
        self.args.truncate(mark.args);
        self.instances.truncate(mark.instances);
        self.leaned_on_any = mark.leaned_on_any;
    }
}
