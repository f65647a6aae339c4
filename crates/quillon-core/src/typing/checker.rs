//! Goes through a tree and finds the type of each node and binding.

use std::borrow::Cow;
use std::cell::RefCell;
use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::choice::Waiting;
use super::derived::Outline;
use super::judge::declared_fields;
use super::owners::{Owners, is_owner};
use super::store::{Fit, GENERIC, Origin, Store, TypeId};
use super::types::Type;
use super::{Con, Types};
use crate::definition::{Binds, Definition, Form};
use crate::diagnostic::{Diagnostic, Outcome};
use crate::lexing::Lexer;
use crate::scoping::{BindingId, Home, Names, leaves};
use crate::tree::{NodeId, Tree};

/// Finds types; see the module.
pub(super) struct TypeChecker<'a> {
    pub definition: &'a Definition,
    pub lexer: &'a Lexer,
    pub tree: &'a Tree,
    pub names: &'a Names,
    pub store: Store,
    /// How many general bindings are around.
    pub level: u32,
    pub of_node: Vec<Option<TypeId>>,
    of_binding: Vec<Option<TypeId>>,
    pub begun: Vec<bool>,
    /// The nodes that bind general names which can be used before.
    pub owners: Owners,
    changed: FxHashSet<BindingId>,
    /// The names that nothing binds.
    pub unbound: FxHashSet<NodeId>,
    /// The landings around, with the types of what reaches them.
    pub landings: Vec<(&'a str, TypeId)>,
    /// Nodes whose clause is not settled yet.
    pub waiting: Vec<Waiting<'a>>,
    pub chosen: FxHashMap<NodeId, usize>,
    /// The order of the judgments of each clause, by where it starts.
    pub orders: FxHashMap<u32, Rc<[(usize, usize)]>>,
    /// The fields that say what a type is, of each form that has been asked for.
    declared: FxHashMap<usize, Rc<[bool]>>,
    /// What is to be known of each form, by its index.
    pub outlines: Vec<Outline<'a>>,
    /// The types of what a session has kept.
    kept: &'a [Type],
    pub diagnostics: Vec<Diagnostic>,
}

impl<'a> TypeChecker<'a> {
    pub fn new(
        definition: &'a Definition,
        lexer: &'a Lexer,
        tree: &'a Tree,
        names: &'a Names,
        kept: &'a [Type],
    ) -> TypeChecker<'a> {
        TypeChecker {
            definition,
            lexer,
            tree,
            names,
            store: Store::default(),
            level: 0,
            of_node: vec![None; tree.len()],
            of_binding: vec![None; names.bindings.len()],
            begun: vec![false; tree.len()],
            owners: Owners::default(),
            changed: FxHashSet::default(),
            unbound: names.missing.iter().map(|(name, _)| *name).collect(),
            landings: Vec::new(),
            waiting: Vec::new(),
            chosen: FxHashMap::default(),
            orders: FxHashMap::default(),
            declared: FxHashMap::default(),
            outlines: definition.forms.iter().map(Outline::of).collect(),
            kept,
            diagnostics: Vec::new(),
        }
    }

    pub fn check(mut self) -> Outcome<Types> {
        let mut clauses = self.definition.forms.iter().flat_map(|form| &form.binds);
        if clauses.any(|clause| clause.general) {
            self.changed = self.names.changed();
            self.owners = Owners::find(self.definition, self.tree, self.names);
        }
        self.level = 1;
        self.visit(self.tree.root());
        self.settle(0);
        self.diagnostics.sort_by_key(Diagnostic::start);
        // A binding that no clause speaks of can be anything.
        for (index, binding) in self.names.bindings.iter().enumerate() {
            if binding.span.is_some() && self.of_binding[index].is_none() {
                self.of_binding[index] = Some(self.store.any(None));
            }
        }
        Outcome {
            value: Some(Types {
                store: RefCell::new(self.store),
                of_node: self.of_node,
                of_binding: self.of_binding,
                chosen: self.chosen,
            }),
            diagnostics: self.diagnostics,
        }
    }

    /// The type of a form's node.
    pub fn visit(&mut self, id: NodeId) -> TypeId {
        if let Some(known) = self.of_node[id.0 as usize] {
            return known;
        }
        let Some(index) = self.tree.form(id) else {
            return self.store.any(None);
        };
        if self.begun[id.0 as usize] {
            // It is under way, further out: what it gives is not known yet.
            return self.store.any(None);
        }
        let form = &self.definition.forms[index];
        if is_owner(form) {
            self.visit_owner(id);
        } else {
            self.begin(form, id);
            self.finish(index, id);
        }
        self.of_node[id.0 as usize].unwrap_or_else(|| self.store.any(None))
    }

    /// Begins with a node: the names that it binds have types from here on.
    pub fn begin(&mut self, form: &Form, id: NodeId) {
        self.begun[id.0 as usize] = true;
        self.level += u32::from(is_general(form));
        self.bind(form, id);
    }

    /// Finds the type of a node that has been begun.
    pub fn finish(&mut self, index: usize, id: NodeId) {
        let definition = self.definition;
        let form = &definition.forms[index];
        let general = is_general(form);
        let waiting = self.waiting.len();
        let landings = self.landings.len();
        for landing in self.outlines[index].landings.clone() {
            let landed = self.store.fresh(self.level);
            self.landings.push((landing.name, landed));
        }
        let first = if general {
            first_fields(form)
        } else {
            vec![true; form.fields.len()]
        };
        // What an annotation says counts before what is made of it, so that the use is to blame.
        let declared = self.declared_fields(form, index);
        self.visit_fields(form, id, |field| declared[field]);
        let mut judging = self.begin_judging(form, id);
        self.judge_fields(&mut judging, |field| declared[field]);
        self.visit_fields(form, id, |field| first[field]);
        if general {
            self.judge_fields(&mut judging, |field| first[field]);
            self.connect(&mut judging);
            self.settle(waiting);
            self.level -= 1;
            self.generalise(form, id);
            self.visit_fields(form, id, |field| !first[field]);
        }
        let given = self.finish_judging(judging);
        self.landings.truncate(landings);
        self.of_node[id.0 as usize] = Some(given);
    }

    /// The fields of a form that say what a type is, where one of them is an annotation; otherwise
    /// none.
    fn declared_fields(&mut self, form: &'a Form, index: usize) -> Rc<[bool]> {
        let definition = self.definition;
        let known = self.declared.entry(index);
        Rc::clone(known.or_insert_with(|| declared_fields(definition, form)))
    }

    fn visit_fields(&mut self, form: &Form, id: NodeId, which: impl Fn(usize) -> bool) {
        for field in (0..form.fields.len()).filter(|&field| which(field)) {
            for &child in self.tree.children(id, field) {
                if self.tree.form(child).is_some() {
                    self.visit(child);
                }
            }
        }
    }

    /// The names that a clause binds.
    fn leaves(&self, form: &Form, id: NodeId, clause: &Binds) -> Cow<'a, [NodeId]> {
        let (field, reach) = (&clause.field, &clause.reach);
        leaves(self.definition, self.tree, form, id, field, reach)
    }

    /// Makes types for the names that a form binds, on the level where they belong.
    fn bind(&mut self, form: &Form, id: NodeId) {
        for clause in &form.binds {
            for &leaf in self.leaves(form, id, clause).iter() {
                if let Some(binding) = self.names.binding_of(leaf) {
                    self.own_type(binding);
                }
            }
        }
    }

    fn generalise(&mut self, form: &Form, id: NodeId) {
        for clause in form.binds.iter().filter(|clause| clause.general) {
            for &leaf in self.leaves(form, id, clause).iter() {
                let Some(binding) = self.names.binding_of(leaf) else {
                    continue;
                };
                let own = self.own_type(binding);
                if self.changed.contains(&binding) {
                    // A variable that changes keeps one type, whatever is put into it, and is as
                    // open as all around it.
                    let around = self.store.fresh(self.level);
                    let _ = self.store.relate(own, around, Fit::Same);
                } else {
                    self.store.generalise(own, self.level);
                }
            }
        }
    }

    /// The type that a binding has itself, whatever its uses have.
    pub fn own_type(&mut self, binding: BindingId) -> TypeId {
        let slot = binding.0 as usize;
        if let Some(known) = self.of_binding[slot] {
            return known;
        }
        let fresh = self.store.fresh(self.level);
        self.of_binding[slot] = Some(fresh);
        fresh
    }

    /// The type that a use of a binding has.
    pub fn used_type(&mut self, binding: BindingId, origin: Origin) -> TypeId {
        let slot = binding.0 as usize;
        if let Some(owner) = self.owners.of(binding)
            && !self.begun[owner.0 as usize]
        {
            self.visit_owner(owner);
        }
        if let Some(known) = self.of_binding[slot] {
            return self.store.instantiate(known, self.level);
        }
        let data = self.names.binding(binding);
        match data.home {
            Home::BuiltIn(index) => self.built_in(index as usize, origin),
            Home::Session(index) if data.span.is_none() => match self.kept.get(index as usize) {
                Some(kept) => {
                    let known = self.imported(kept, &mut Vec::new());
                    self.of_binding[slot] = Some(known);
                    self.store.instantiate(known, self.level)
                }
                None => self.store.any(None),
            },
            Home::Node(_) | Home::Session(_) => {
                // It is used before the form that binds it is read: one type for all uses.
                let fresh = self.store.fresh(0);
                self.of_binding[slot] = Some(fresh);
                fresh
            }
        }
    }

    /// A type from outside. What was not known then may be anything; what was general is.
    fn imported(&mut self, kept: &Type, met: &mut Vec<(u32, TypeId)>) -> TypeId {
        match kept {
            Type::Any | Type::Variable { general: false, .. } => self.store.any(None),
            Type::Variable {
                number, numeric, ..
            } => {
                if let Some((_, known)) = met.iter().find(|(n, _)| n == number) {
                    return *known;
                }
                let fresh = self.store.fresh(GENERIC);
                if *numeric {
                    let wanted = self.store.con(Con::Number, &[], None);
                    let fit = Fit::Accepted;
                    // A fresh variable can be a number.
                    let _ = self.store.relate(fresh, wanted, fit);
                }
                met.push((*number, fresh));
                fresh
            }
            Type::Con(con, args) => {
                let args: Vec<TypeId> = args.iter().map(|arg| self.imported(arg, met)).collect();
                self.store.con(*con, &args, None)
            }
        }
    }
}

/// Whether a form binds names that are general.
fn is_general(form: &Form) -> bool {
    form.binds.iter().any(|clause| clause.general)
}

/// The fields that are typed before the names that a form binds in general are used:
/// those where they cannot be used, and those that say their types.
fn first_fields(form: &Form) -> Vec<bool> {
    let general: Vec<_> = form.binds.iter().filter(|clause| clause.general).collect();
    let is_inside = |name: &str| {
        let later = general
            .iter()
            .filter(|clause| !clause.onward && !clause.throughout);
        let mut inside = later.flat_map(|clause| &clause.inside);
        inside.any(|field| field.text == name)
    };
    let says = |name: &str| {
        form.typed.iter().any(|typed| {
            let bound = general.iter().map(|clause| &clause.field.text);
            let own: Vec<&str> = bound.flat_map(|field| typed.capitals_of(field)).collect();
            let capitals = typed.capitals_of(name);
            capitals.into_iter().any(|capital| own.contains(&capital))
        })
    };
    let fields = form.fields.iter().map(|field| field.name.text.as_str());
    fields.map(|name| !is_inside(name) || says(name)).collect()
}
