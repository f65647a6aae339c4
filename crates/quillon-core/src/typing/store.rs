//! Types while they are being found: a store of terms with variables in them, solved by
//! unification (J. A. Robinson, "A machine-oriented logic based on the resolution principle",
//! 1965), with levels for generalising (D. Rémy, "Extension of ML type system with a sorted
//! equational theory on types", 1992).
//!
//! An integer is accepted where a number is needed. So that the order of a program does not
//! matter more than it must, a variable that an integer has reached stays open: it becomes
//! `number` if a number reaches it as well, and `integer` only where nothing else will do.

use rustc_hash::FxHashMap;

use super::Con;
use crate::tree::NodeId;

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
    leaned_on_any: bool,
}

/// Every type of a program.
#[derive(Debug, Default)]
pub(super) struct Store {
    slots: Vec<(Slot, Option<Origin>)>,
    args: Vec<TypeId>,
    /// What slots were before they changed, to go back to.
    trail: Vec<(TypeId, Slot, Option<Origin>)>,
    /// When a slot was last seen on a walk; shared parts are walked once.
    seen: Vec<u32>,
    walk: u32,
    /// Whether anything was accepted only because a side was `any`.
    pub leaned_on_any: bool,
}

impl Store {
    fn add(&mut self, slot: Slot, origin: Option<Origin>) -> TypeId {
        self.slots.push((slot, origin));
        self.seen.push(0);
        TypeId(self.slots.len() as u32 - 1)
    }

    /// A type made of others.
    pub fn con(&mut self, con: Con, args: &[TypeId], origin: Option<Origin>) -> TypeId {
        let first = self.args.len() as u32;
        self.args.extend_from_slice(args);
        let count = args.len() as u32;
        self.add(Slot::Con(con, Args { first, count }), origin)
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
        };
        self.add(Slot::Variable(variable), None)
    }

    /// What a type is, behind all links.
    pub fn find(&self, mut id: TypeId) -> (TypeId, Slot, Option<Origin>) {
        loop {
            match self.slots[id.0 as usize] {
                (Slot::Link(next), _) => id = next,
                (slot, origin) => return (id, slot, origin),
            }
        }
    }

    pub fn args(&self, args: Args) -> &[TypeId] {
        &self.args[args.first as usize..(args.first + args.count) as usize]
    }

    /// Where to go back to.
    pub fn mark(&self) -> Mark {
        Mark {
            trail: self.trail.len(),
            slots: self.slots.len(),
            args: self.args.len(),
            leaned_on_any: self.leaned_on_any,
        }
    }

    /// Takes back all that has been found out since a mark.
    pub fn undo(&mut self, mark: Mark) {
        while self.trail.len() > mark.trail {
            if let Some((id, slot, origin)) = self.trail.pop() {
                self.slots[id.0 as usize] = (slot, origin);
            }
        }
        self.slots.truncate(mark.slots);
        self.seen.truncate(mark.slots);
        self.args.truncate(mark.args);
        self.leaned_on_any = mark.leaned_on_any;
    }

    /// Whether nothing in a type is open.
    pub fn is_settled(&self, id: TypeId) -> bool {
        match self.find(id).1 {
            Slot::Con(_, args) => self.args(args).iter().all(|&arg| self.is_settled(arg)),
            Slot::Variable(variable) => variable.reached,
            Slot::Any | Slot::Link(_) => true,
        }
    }

    fn set(&mut self, id: TypeId, slot: Slot, origin: Option<Origin>) {
        let before = self.slots[id.0 as usize];
        self.trail.push((id, before.0, before.1));
        self.slots[id.0 as usize] = (slot, origin);
    }

    /// Makes two types go together, or says why they do not.
    pub fn relate(&mut self, found: TypeId, wanted: TypeId, fit: Fit) -> Result<(), Clash> {
        let (a, slot_a, origin_a) = self.find(found);
        let (b, slot_b, origin_b) = self.find(wanted);
        if a == b {
            return Ok(());
        }
        match (slot_a, slot_b) {
            (Slot::Variable(one), Slot::Variable(other)) => {
                let both = Variable {
                    level: one.level.min(other.level),
                    reached: one.reached || other.reached,
                    numeric: one.numeric || other.numeric,
                };
                self.set(b, Slot::Variable(both), origin_b.or(origin_a));
                self.set(a, Slot::Link(b), origin_a);
                Ok(())
            }
            (Slot::Variable(variable), Slot::Any) => {
                if fit == Fit::Same {
                    self.meet_any(a, variable, b);
                }
                Ok(())
            }
            (Slot::Any, Slot::Variable(variable)) => {
                self.meet_any(b, variable, a);
                Ok(())
            }
            (Slot::Any, Slot::Con(..)) => {
                self.leaned_on_any = true;
                Ok(())
            }
            (Slot::Con(..), Slot::Any) => {
                self.leaned_on_any |= fit == Fit::Same;
                Ok(())
            }
            (Slot::Variable(variable), Slot::Con(con, _)) => {
                if fit == Fit::Accepted && con == Con::Number {
                    let numeric = Variable {
                        numeric: true,
                        ..variable
                    };
                    self.set(a, Slot::Variable(numeric), origin_a.or(origin_b));
                    return Ok(());
                }
                self.solve(
                    a,
                    variable,
                    b,
                    con,
                    Clash::Mismatch {
                        found: a,
                        wanted: b,
                    },
                )
            }
            (Slot::Con(con, _), Slot::Variable(variable)) => {
                if fit == Fit::Accepted && con == Con::Integer {
                    let reached = Variable {
                        reached: true,
                        ..variable
                    };
                    self.set(b, Slot::Variable(reached), origin_b.or(origin_a));
                    return Ok(());
                }
                self.solve(
                    b,
                    variable,
                    a,
                    con,
                    Clash::Mismatch {
                        found: a,
                        wanted: b,
                    },
                )
            }
            (Slot::Con(one, first), Slot::Con(other, second)) => {
                self.relate_cons((a, one, first), (b, other, second), fit)
            }
            (Slot::Any, Slot::Any) | (Slot::Link(_), _) | (_, Slot::Link(_)) => Ok(()),
        }
    }

    fn meet_any(&mut self, id: TypeId, variable: Variable, any: TypeId) {
        if variable.reached || variable.numeric {
            self.leaned_on_any = true;
        } else {
            self.set(id, Slot::Link(any), None);
        }
    }

    fn solve(
        &mut self,
        id: TypeId,
        variable: Variable,
        with: TypeId,
        con: Con,
        clash: Clash,
    ) -> Result<(), Clash> {
        let is_number = matches!(con, Con::Integer | Con::Number);
        if (variable.reached || variable.numeric) && !is_number {
            return Err(clash);
        }
        if !self.lower(with, id, variable.level) {
            return Err(Clash::Endless);
        }
        let origin = self.slots[id.0 as usize].1;
        self.set(id, Slot::Link(with), origin);
        Ok(())
    }

    fn relate_cons(
        &mut self,
        (a, one, first): (TypeId, Con, Args),
        (b, other, second): (TypeId, Con, Args),
        fit: Fit,
    ) -> Result<(), Clash> {
        if fit == Fit::Accepted && one == Con::Integer && other == Con::Number {
            return Ok(());
        }
        if let (Con::Function { .. }, Con::Function { .. }) = (one, other) {
            return self.relate_functions((a, one, first), (b, other, second), fit);
        }
        if one != other || first.count != second.count {
            return Err(Clash::Mismatch {
                found: a,
                wanted: b,
            });
        }
        // What is inside a list or a map can be put in and taken out: it is the same.
        for index in 0..first.count {
            let (x, y) = (self.arg(first, index), self.arg(second, index));
            self.relate(x, y, Fit::Same)?;
        }
        Ok(())
    }

    fn arg(&self, args: Args, index: u32) -> TypeId {
        self.args[(args.first + index) as usize]
    }

    /// Functions: what is accepted as a parameter goes the other way.
    fn relate_functions(
        &mut self,
        (a, one, first): (TypeId, Con, Args),
        (b, other, second): (TypeId, Con, Args),
        fit: Fit,
    ) -> Result<(), Clash> {
        let (params_a, params_b) = (first.count - 1, second.count - 1);
        let (rest_a, rest_b) = (one.has_rest(), other.has_rest());
        let least = |params: u32, rest: bool| params - u32::from(rest);
        let fits = match (rest_a, rest_b) {
            (true, false) => params_b >= least(params_a, true),
            (false, true) => params_a >= least(params_b, true) && fit == Fit::Same,
            (true, true) | (false, false) => params_a == params_b,
        };
        if !fits {
            return Err(Clash::Count {
                found: a,
                wanted: b,
            });
        }
        for index in 0..params_a.max(params_b) {
            if index >= params_b && !rest_b || index >= params_a && !rest_a {
                continue;
            }
            let x = self.arg(first, index.min(params_a - 1));
            let y = self.arg(second, index.min(params_b - 1));
            self.relate(y, x, fit)?;
        }
        let (x, y) = (self.arg(first, params_a), self.arg(second, params_b));
        self.relate(x, y, fit)
    }

    /// Brings all variables in a type down to a level; false if one of them is `inside`.
    fn lower(&mut self, id: TypeId, inside: TypeId, level: u32) -> bool {
        let mut waiting = vec![id];
        self.walk += 1;
        while let Some(id) = waiting.pop() {
            let (id, slot, origin) = self.find(id);
            if id == inside {
                return false;
            }
            if std::mem::replace(&mut self.seen[id.0 as usize], self.walk) == self.walk {
                continue;
            }
            match slot {
                Slot::Con(_, args) => waiting.extend_from_slice(self.args(args)),
                Slot::Variable(variable) if variable.level > level => {
                    self.set(id, Slot::Variable(Variable { level, ..variable }), origin);
                }
                _ => {}
            }
        }
        true
    }

    /// Makes the variables in a type that are deeper than a level stand for any type.
    pub fn generalise(&mut self, id: TypeId, level: u32) {
        let mut waiting = vec![id];
        self.walk += 1;
        while let Some(id) = waiting.pop() {
            let (id, slot, origin) = self.find(id);
            if std::mem::replace(&mut self.seen[id.0 as usize], self.walk) == self.walk {
                continue;
            }
            match slot {
                Slot::Con(_, args) => waiting.extend_from_slice(self.args(args)),
                Slot::Variable(variable) if variable.level > level => {
                    let level = GENERIC;
                    self.set(id, Slot::Variable(Variable { level, ..variable }), origin);
                }
                _ => {}
            }
        }
    }

    /// A type with fresh variables for those that stand for any type.
    pub fn instantiate(&mut self, id: TypeId, level: u32) -> TypeId {
        let mut known = FxHashMap::default();
        self.instance(id, level, &mut known)
    }

    fn instance(
        &mut self,
        id: TypeId,
        level: u32,
        known: &mut FxHashMap<TypeId, TypeId>,
    ) -> TypeId {
        let (id, slot, origin) = self.find(id);
        if let Some(&copy) = known.get(&id) {
            return copy;
        }
        let copy = match slot {
            Slot::Variable(variable) if variable.level == GENERIC => {
                self.add(Slot::Variable(Variable { level, ..variable }), origin)
            }
            Slot::Con(con, args) => {
                let old = self.args(args).to_vec();
                let new: Vec<TypeId> = old
                    .iter()
                    .map(|&arg| self.instance(arg, level, known))
                    .collect();
                let same = |(&old, &new): (&TypeId, &TypeId)| self.find(old).0 == new;
                if old.iter().zip(&new).all(same) {
                    id
                } else {
                    self.con(con, &new, origin)
                }
            }
            _ => id,
        };
        known.insert(id, copy);
        copy
    }
}
