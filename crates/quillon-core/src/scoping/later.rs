//! Names that nothing binds where they stand, looked at once all bindings are known.

use rustc_hash::FxHashMap;

use super::{BindingId, Found, Resolver, space_of};
use crate::diagnostic::{Diagnostic, codes, quote};

impl Resolver<'_> {
    /// Names in functions may mean what an assignment around the function binds, also one that
    /// comes later: the function runs when it is called.
    pub(super) fn find_assigned(&mut self) {
        if self.assigned.is_empty() {
            return;
        }
        for one in std::mem::take(&mut self.unbound) {
            let space = space_of(one.uses.space.as_ref());
            let name = self.tree.text(one.leaf);
            let found = one
                .around_function
                .and_then(|scope| self.find(name, space, scope))
                .filter(|found| self.assigned.contains(&found.binding));
            match found {
                Some(found) => self.mean(one.leaf, found, one.uses),
                None => self.unbound.push(one),
            }
        }
    }

    /// In an entry that defines something, what functions use may come with a later entry, where
    /// a program could bind it further down.
    pub(super) fn await_entries(&mut self, base: usize) {
        if !self.defines {
            return;
        }
        let definition = self.definition;
        let clauses = definition.forms.iter().flat_map(|form| &form.binds);
        let throughout = clauses.filter(|clause| clause.throughout && !clause.dynamic);
        let spaces: Vec<&str> = throughout.map(|c| space_of(c.space.as_ref())).collect();
        let mut made: FxHashMap<(&str, String), BindingId> = FxHashMap::default();
        for one in std::mem::take(&mut self.unbound) {
            let space = space_of(one.uses.space.as_ref());
            let can_come =
                one.around_function.is_some() && !one.uses.to_change && spaces.contains(&space);
            let text = self.tree.text(one.leaf).to_owned();
            let key = (space, self.folded(&text).into_owned());
            let known = made.get(&key).copied();
            let binding = known.or_else(|| {
                can_come
                    .then(|| self.bind_later(base, &text, space))
                    .flatten()
            });
            let Some(binding) = binding.filter(|_| can_come) else {
                self.unbound.push(one);
                continue;
            };
            self.mean(one.leaf, Found::here(binding), one.uses);
            if made.insert(key, binding).is_none() {
                let message = format!("{} is not bound yet", quote(&text));
                let note = Diagnostic::note(codes::NAME_UNBOUND, message)
                    .at(self.tree.source(), self.tree.node(one.leaf).span)
                    .label("an entry that comes later can bind it")
                    .with_detail("name", &text);
                self.diagnostics.push(note);
            }
        }
    }

    /// Leaves out what may be free.
    pub(super) fn leave_free(&mut self) {
        self.unbound.retain(|one| !one.uses.or_free);
    }

    /// Names that nothing around them binds may still mean a dynamic binding, wherever it
    /// is in the program: which one is found when they run.
    pub(super) fn find_dynamic(&mut self) {
        let mut dynamic: FxHashMap<(String, String), BindingId> = FxHashMap::default();
        for (index, binding) in (0u32..).zip(&self.names.bindings) {
            if binding.dynamic {
                let name = self.folded(&binding.name).into_owned();
                let key = (binding.space.clone(), name);
                dynamic.entry(key).or_insert(BindingId(index));
            }
        }
        let unbound = std::mem::take(&mut self.unbound);
        for one in unbound {
            let space = space_of(one.uses.space.as_ref()).to_owned();
            let name = self.folded(self.tree.text(one.leaf)).into_owned();
            match dynamic.get(&(space, name)) {
                Some(&binding) => self.mean(one.leaf, Found::here(binding), one.uses),
                None => self.unbound.push(one),
            }
        }
    }
}
