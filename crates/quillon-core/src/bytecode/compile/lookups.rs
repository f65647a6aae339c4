//! Keys that maps may not have: what is looked up if it is there is looked up at once.

use super::emit::Mark;
use super::folding::Choices;
use super::tries::{Tried, arm_of, is_subject, read_slot};
use super::{Builder, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{Core, CoreKind as K, CorePart};
use crate::operations::Operation as O;

impl Builder<'_, '_> {
    /// Jumps to a mark if it is so, or is not so, that a map has a literal key; whether it is such a key.
    pub(super) fn branch_has(
        &mut self,
        core: &Core,
        args: &[CorePart],
        on: bool,
        to: Mark,
    ) -> bool {
        let [map, key] = args else { return false };
        // What goes back must be counted.
        let Some(name) = self.key(key).filter(|_| !self.is_behind(to)) else {
            return false;
        };
        let map_register = self.operand_register(map);
        let site = self.site(core, &[map, key]);
        let past = self.mark();
        let (there, absent) = if on { (to, past) } else { (past, to) };
        let found = self.register();
        let look = Instruction::TryMapGet(found, map_register, name);
        self.try_one(look, there, site);
        self.emit(
            Instruction::JumpKind(ValueKind::Map as u8, map_register, 0),
            site,
        );
        self.to(absent);
        // It is no map, and the operation says so.
        let key = self.operand_register(key);
        let has = Instruction::ApplyTwo(O::MapHas.number(), found, map_register, key);
        self.emit(has, site);
        self.jump(absent, site);
        self.here(past);
        true
    }

    /// What an arm of a match looks up in its subject.
    pub(super) fn tried_on_map(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        want: Want,
    ) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::Map)?;
        let is_of_it = |map: &Core| is_subject(map, arm, subject);
        match &arm.body.kind {
            K::If([test, yes, _]) if want == Want::Effect => self.tried_put_of(test, yes, is_of_it),
            K::If([test, yes, _]) => self.tried_key_of(test, yes, is_of_it),
            K::Apply(O::MapGet | O::MapFind, args) => self.tried_get(args, is_of_it),
            _ => None,
        }
    }

    /// What is looked up if there is the key, in a map that is found in another one, which is done just once.
    pub(super) fn tried_lookup(&mut self, test: &Core, yes: &Core) -> Option<Tried> {
        let (K::Apply(O::MapHas, asked), K::Apply(O::MapGet, args)) = (&test.kind, &yes.kind)
        else {
            return None;
        };
        let ([map, key], [again, same_key]) = (&asked[..], &args[..]) else {
            return None;
        };
        if !is_same_lookup(map, again) {
            return None;
        }
        let (key, same_key) = (self.folded(key, 0)?, self.folded(same_key, 0)?);
        let name = self.short_constant(&key).filter(|_| key == same_key)?;
        let Literal::Text(_) = key else { return None };
        let map = self.operand_register(map);
        Some(Tried::of(Instruction::TryMapGet(0, map, name)))
    }

    /// What is looked up in a map if it has the key: it is looked up at once.
    pub(super) fn tried_key_of(
        &mut self,
        test: &Core,
        yes: &Core,
        is_of_it: impl Fn(&Core) -> bool,
    ) -> Option<Tried> {
        let (K::Apply(O::MapHas, asked), K::Apply(O::MapGet, args)) = (&test.kind, &yes.kind)
        else {
            return None;
        };
        let are_same = asked.iter().zip(args).all(is_same);
        are_same.then(|| self.tried_get(args, is_of_it)).flatten()
    }

    /// What is set in a map if it has the key: it is set at once.
    pub(super) fn tried_put_of(
        &mut self,
        test: &Core,
        yes: &Core,
        is_of_it: impl Fn(&Core) -> bool,
    ) -> Option<Tried> {
        let (K::Apply(O::MapHas, asked), K::Apply(O::MapPut, args)) = (&test.kind, &yes.kind)
        else {
            return None;
        };
        let [map, key, value] = &args[..] else {
            return None;
        };
        let are_same = asked.iter().zip([map, key]).all(is_same);
        if !are_same || !is_of_it(map) {
            return None;
        }
        let name = self.key(key)?;
        Some(Tried::put(self.at_hand(map)?, name, self.at_hand(value)?))
    }

    fn tried_get(&mut self, args: &[CorePart], is_of_it: impl Fn(&Core) -> bool) -> Option<Tried> {
        let [map, key] = args else { return None };
        if !is_of_it(map) {
            return None;
        }
        if let Some(name) = self.key(key) {
            let map = self.at_hand(map)?;
            return Some(Tried::of(Instruction::TryMapGet(0, map, name)));
        }
        // Another literal would be loaded for nothing where what is tried before it can be done.
        if read_slot(key).is_none() || self.folded(key, 0).is_some() {
            return None;
        }
        let (map, key) = (self.at_hand(map)?, self.at_hand(key)?);
        Some(Tried::of(Instruction::TryKey(0, map, key)))
    }
}

/// Whether two pieces of Core look up the same literal key in the same variable.
fn is_same_lookup(one: &Core, other: &Core) -> bool {
    let (K::Apply(O::MapGet, one), K::Apply(O::MapGet, other)) = (&one.kind, &other.kind) else {
        return false;
    };
    let ([map, key], [same_map, same_key]) = (&one[..], &other[..]) else {
        return false;
    };
    let slot = read_slot(map);
    slot.is_some() && slot == read_slot(same_map) && is_same_text(key, same_key)
}

/// Whether two pieces of Core read the same variable, or are the same text.
fn is_same((a, b): (&CorePart, &CorePart)) -> bool {
    match (read_slot(a), read_slot(b)) {
        (Some(a), Some(b)) => a == b,
        (None, None) => is_same_text(a, b),
        (Some(_), None) | (None, Some(_)) => false,
    }
}

/// Whether two pieces of Core are the same text.
fn is_same_text(a: &Core, b: &Core) -> bool {
    match (&a.kind, &b.kind) {
        (K::Literal(Literal::Text(a)), K::Literal(Literal::Text(b))) => a == b,
        _ => false,
    }
}
