//! Which binding each name means: lexical scopes, found before anything runs.

use std::borrow::Cow;
use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::definition::{Binds, Definition, Form, Name, Reach, Uses};
use crate::diagnostic::{Diagnostic, Outcome};
use crate::tree::{NodeId, Tree};
use plan::{FieldPlan, Plans};

mod binding;
mod errors;
mod hoist;
mod later;
mod leaves;
mod names;
mod notes;
mod plan;

pub(crate) use leaves::leaves;
pub(crate) use names::folded;
pub use names::{Around, Binding, BindingId, Home, Kept, Mention, Names, Use};
pub use notes::notes;

/// Finds the binding of every name of a tree.
pub(crate) fn resolve(definition: &Definition, tree: &Tree, around: Around<'_>) -> Outcome<Names> {
    let mut resolver = Resolver {
        definition,
        tree,
        plans: Rc::new(Plans::new(definition)),
        binds_throughout: definition
            .forms
            .iter()
            .any(|form| form.binds.iter().any(|clause| clause.throughout)),
        names: Names::default(),
        scopes: Vec::new(),
        unbound: Vec::new(),
        assigned: FxHashSet::default(),
        awaited: FxHashMap::default(),
        defines: false,
        functions: Vec::new(),
        diagnostics: Vec::new(),
    };
    let base = resolver.outermost(around);
    let root = &definition.forms[tree.form(tree.root()).unwrap_or_default()];
    if root.opens.as_ref().is_none_or(|o| !o.around.is_empty()) {
        resolver.hoist(base, None, &[tree.root()]);
    }
    resolver.visit(tree.root(), base);
    resolver.find_dynamic();
    resolver.find_assigned();
    resolver.leave_free();
    resolver.await_entries(base);
    resolver.report_unbound();
    let filled = resolver
        .scopes
        .iter()
        .filter(|scope| !scope.names.is_empty());
    let mut seen = FxHashSet::default();
    let nodes = filled.filter_map(|scope| scope.node);
    resolver.names.scopes = nodes.filter(|node| seen.insert(*node)).collect();
    let mut diagnostics = resolver.diagnostics;
    diagnostics.sort_by_key(Diagnostic::start);
    Outcome {
        value: Some(resolver.names),
        diagnostics,
    }
}

/// A binding that a name has.
#[derive(Clone, Copy, Debug)]
struct Found {
    binding: BindingId,
    scopes_out: u32,
}

impl Found {
    /// In the scope where the name stands.
    fn here(binding: BindingId) -> Found {
        Found {
            binding,
            scopes_out: 0,
        }
    }
}

#[derive(Debug)]
struct Scope {
    parent: Option<usize>,
    node: Option<NodeId>,
    /// The bindings of each space, by name; most scopes have names of one space only.
    names: Vec<(String, FxHashMap<String, BindingId>)>,
    /// The field of the node that is being visited.
    field: Option<usize>,
    /// Set for the scope of a session: the next free variable.
    session: Option<u32>,
}

impl Scope {
    /// Makes a binding visible.
    fn see(&mut self, space: &str, name: &str, binding: BindingId) {
        let known = self.names.iter().position(|(known, _)| known == space);
        let at = known.unwrap_or_else(|| {
            self.names.push((space.to_owned(), FxHashMap::default()));
            self.names.len() - 1
        });
        self.names[at].1.insert(name.to_owned(), binding);
    }

    /// The bindings of a space, by name.
    fn of_space(&self, space: &str) -> Option<&FxHashMap<String, BindingId>> {
        let found = self.names.iter().find(|(known, _)| known == space);
        found.map(|(_, names)| names)
    }
}

/// Where the children of a field are visited.
#[derive(Clone, Copy)]
struct Inner {
    field: usize,
    /// The scope that they are in.
    scope: usize,
    /// The scope of the form itself, if it opens one.
    own: Option<usize>,
    /// The scope around the form.
    around: usize,
}

/// How a name is bound.
#[derive(Clone, Copy)]
struct Manner<'d> {
    fixed: bool,
    dynamic: bool,
    space: &'d str,
}

impl<'d> Manner<'d> {
    fn of(clause: &'d Binds) -> Manner<'d> {
        Manner {
            fixed: clause.fixed,
            dynamic: clause.dynamic,
            space: space_of(clause.space.as_ref()),
        }
    }
}

/// A use of a name that nothing binds.
struct Unbound<'a> {
    leaf: NodeId,
    uses: &'a Uses,
    /// What could stand there.
    visible: Vec<String>,
    /// The scope around the innermost function that it runs in, if it runs in one.
    around_function: Option<usize>,
}

struct Resolver<'a> {
    definition: &'a Definition,
    tree: &'a Tree,
    /// What is to be done in each form.
    plans: Rc<Plans<'a>>,
    /// Whether any form binds something in the whole scope that it stands in.
    binds_throughout: bool,
    names: Names,
    scopes: Vec<Scope>,
    unbound: Vec<Unbound<'a>>,
    /// Bindings that an assignment has made.
    assigned: FxHashSet<BindingId>,
    /// The variables in the session that entries use, and that are still to be bound, by name
    /// space and name.
    awaited: FxHashMap<(String, String), u32>,
    /// Whether the session is to keep a name that is bound throughout.
    defines: bool,
    /// The scopes around the functions that are being visited, the innermost last.
    functions: Vec<usize>,
    diagnostics: Vec<Diagnostic>,
}

impl<'a> Resolver<'a> {
    fn open(&mut self, parent: Option<usize>, node: Option<NodeId>) -> usize {
        self.scopes.push(Scope {
            parent,
            node,
            names: Vec::new(),
            field: None,
            session: None,
        });
        self.scopes.len() - 1
    }

    fn binding(&mut self, binding: Binding) -> BindingId {
        let id = BindingId(self.names.bindings.len() as u32);
        if let Home::Node(node) = binding.home {
            self.names.at_node.entry(node).or_default().push(id);
        }
        self.names.bindings.push(binding);
        id
    }

    /// The scopes around a program: what is built in, what the session has kept, and
    /// one for the program itself.
    fn outermost(&mut self, around: Around<'_>) -> usize {
        let built_in = self.open(None, None);
        let ignores_case = self.definition.ignores_case;
        for (index, provided) in self.definition.provides.iter().enumerate() {
            let id = self.binding(Binding {
                name: provided.name.text.clone(),
                span: None,
                home: Home::BuiltIn(index as u32),
                fixed: true,
                dynamic: false,
                ignores_case,
                space: String::new(),
                hides: None,
                field: None,
            });
            self.see(built_in, "", &provided.name.text, id);
        }
        let mut parent = built_in;
        if let Around::Session(kept) = around {
            parent = self.open(Some(built_in), None);
            for (index, kept) in kept.iter().enumerate() {
                let id = self.binding(Binding {
                    name: kept.name.clone(),
                    span: None,
                    home: Home::Session(index as u32),
                    fixed: kept.fixed,
                    dynamic: kept.dynamic,
                    ignores_case,
                    space: kept.space.clone(),
                    hides: None,
                    field: None,
                });
                self.see(parent, &kept.space, &kept.name, id);
                if kept.awaited {
                    let name = self.folded(&kept.name).into_owned();
                    self.awaited
                        .insert((kept.space.clone(), name), index as u32);
                }
            }
        }
        let base = self.open(Some(parent), Some(self.tree.root()));
        if let Around::Session(kept) = around {
            self.scopes[base].session = Some(kept.len() as u32);
        }
        base
    }

    fn visit(&mut self, id: NodeId, scope: usize) {
        let Some(form_index) = self.tree.form(id) else {
            return;
        };
        let definition = self.definition;
        let form = &definition.forms[form_index];
        let plans = Rc::clone(&self.plans);
        let plan = &plans[form_index];
        // In a session the program's own scope is the session's.
        let keeps = self.scopes[scope].session.is_some() && id == self.tree.root();
        let own = if plan.opens_whole && !keeps {
            self.open(Some(scope), Some(id))
        } else {
            scope
        };
        // Where the program opens none, its names have been bound with the outermost scope.
        if own != scope || keeps && plan.opens_whole {
            self.hoist_fields(own, id, |index| plan.fields[index].is_plain());
        }
        let (bound, regions) = self.bind_inside(form, plan, id, own, scope);
        let scopes = |resolver: &mut Self, index| Inner {
            field: index,
            scope: resolver.scope_of_field(&plan.fields[index], id, index, own, &regions),
            own: (own != scope).then_some(own),
            around: scope,
        };
        for (index, field) in plan.fields.iter().enumerate() {
            match &field.together {
                None => {
                    let inner = scopes(self, index);
                    for &child in self.tree.children(id, index) {
                        self.visit_child(field, id, inner, child);
                    }
                }
                Some(together) if together[0] == index => {
                    let inner = together.iter().map(|&field| scopes(self, field));
                    let inner: Vec<Inner> = inner.collect();
                    for (place, child) in self.in_turn(id, together) {
                        let field = &plan.fields[together[place]];
                        self.visit_child(field, id, inner[place], child);
                    }
                }
                Some(_) => {}
            }
        }
        if plan.binds_onward {
            self.bind_onward(form, id, scope, &bound);
        }
        for uses in form.uses.iter().filter(|uses| uses.or_binds) {
            for &leaf in self.leaves(form, id, &uses.field, &Reach::Itself).iter() {
                self.change_or_bind(leaf, scope, uses);
            }
        }
    }

    fn leaves(&self, form: &Form, id: NodeId, field: &Name, reach: &Reach) -> Cow<'a, [NodeId]> {
        leaves(self.definition, self.tree, form, id, field, reach)
    }

    /// Finds the variable that a name means, or makes one in a scope if there is none that
    /// the program has bound.
    fn change_or_bind(&mut self, leaf: NodeId, scope: usize, uses: &Uses) {
        let space = space_of(uses.space.as_ref());
        let found = self.find(self.tree.text(leaf), space, scope);
        let is_own = |id: BindingId| !matches!(self.names.binding(id).home, Home::BuiltIn(_));
        if let Some(found) = found.filter(|found| is_own(found.binding)) {
            self.mean(leaf, found, uses);
        } else {
            let manner = Manner {
                fixed: false,
                dynamic: false,
                space,
            };
            let binding = self.bind_in(scope, leaf, manner);
            self.assigned.insert(binding);
            self.declare(scope, binding);
        }
    }

    fn scope_of_field(
        &mut self,
        plan: &FieldPlan<'_>,
        id: NodeId,
        index: usize,
        own: usize,
        regions: &[usize],
    ) -> usize {
        let inner = plan.region.map_or(own, |region| regions[region]);
        if plan.opens {
            let opened = self.open(Some(inner), Some(id));
            self.hoist_fields(opened, id, |other| other == index);
            opened
        } else {
            inner
        }
    }

    fn visit_child(&mut self, plan: &FieldPlan<'a>, id: NodeId, inner: Inner, child: NodeId) {
        let Inner {
            field,
            scope,
            own,
            around,
        } = inner;
        if self.scopes[scope].node == Some(id) {
            self.scopes[scope].field = Some(field);
        }
        if let Some(own) = own {
            self.scopes[own].field = Some(field);
        }
        if self.tree.form(child).is_some() {
            if plan.runs_later {
                self.functions.push(around);
            }
            self.visit(child, scope);
            if plan.runs_later {
                self.functions.pop();
            }
        } else if let Some(uses) = plan.uses {
            self.look_up(child, scope, uses);
        }
    }

    /// Makes a binding visible in a scope; a second one of the same name is an error.
    fn declare(&mut self, scope: usize, binding: BindingId) {
        let Binding { name, space, .. } = self.names.binding(binding);
        let name = folded(name, self.definition.ignores_case);
        let here = &self.scopes[scope];
        let names = here.of_space(space);
        let earlier = names.and_then(|names| names.get(&*name));
        if let Some(&earlier) = earlier.filter(|earlier| **earlier != binding) {
            self.report_twice(binding, earlier);
            return;
        }
        let around = here
            .parent
            .and_then(|parent| self.find(&name, space, parent));
        let hidden = around.map(|found| found.binding);
        self.scopes[scope].see(space, &name, binding);
        let home = self.names.binding(binding).home;
        // What has been awaited is there now.
        let is_other = |other: &BindingId| match self.names.binding(*other).home {
            Home::Session(_) => self.names.binding(*other).home != home,
            Home::Node(_) | Home::BuiltIn(_) => *other != binding,
        };
        if let Some(other) = hidden.filter(is_other) {
            self.names.bindings[binding.0 as usize].hides = Some(other);
        }
    }

    /// What a name is known by.
    fn folded<'n>(&self, name: &'n str) -> Cow<'n, str> {
        folded(name, self.definition.ignores_case)
    }

    /// Makes a binding visible in a scope.
    fn see(&mut self, scope: usize, space: &str, name: &str, binding: BindingId) {
        let name = self.folded(name);
        self.scopes[scope].see(space, &name, binding);
    }

    /// The binding that a name has in a scope. What is built in is found in every space.
    fn find(&self, name: &str, space: &str, scope: usize) -> Option<Found> {
        let name = &*self.folded(name);
        let mut at = Some(scope);
        let mut out = 0;
        while let Some(index) = at {
            let here = &self.scopes[index];
            let parent = here.parent;
            let space = if parent.is_some() { space } else { "" };
            let found = here.of_space(space).and_then(|names| names.get(name));
            if let Some(&binding) = found {
                return Some(Found {
                    binding,
                    scopes_out: out,
                });
            }
            out += 1;
            at = parent;
        }
        None
    }

    /// Notes what a name means.
    fn mean(&mut self, leaf: NodeId, found: Found, uses: &Uses) {
        let Found {
            binding,
            scopes_out,
        } = found;
        self.names.of_node.insert(leaf, binding);
        let found = Use {
            scopes_out,
            changes: uses.to_change,
        };
        self.names.uses.insert(leaf, found);
        if uses.to_change && self.names.binding(binding).fixed {
            self.report_fixed(leaf, binding);
        }
    }

    fn look_up(&mut self, leaf: NodeId, scope: usize, uses: &'a Uses) {
        let space = space_of(uses.space.as_ref());
        if let Some(found) = self.find(self.tree.text(leaf), space, scope) {
            self.mean(leaf, found, uses);
            return;
        }
        // Of the others, what else could have been meant is not looked for.
        let visible = if self.unbound.len() < 4 * errors::MOST_SHOWN {
            self.visible(scope, space)
        } else {
            Vec::new()
        };
        self.unbound.push(Unbound {
            leaf,
            uses,
            visible,
            around_function: self.functions.last().copied(),
        });
    }

    /// Every name of a space that can be used in a scope, the innermost first.
    fn visible(&self, scope: usize, space: &str) -> Vec<String> {
        let mut names = Vec::new();
        let mut at = Some(scope);
        while let Some(index) = at {
            let seen = &self.scopes[index];
            let space = if seen.parent.is_some() { space } else { "" };
            let here = seen.of_space(space).into_iter().flat_map(FxHashMap::keys);
            let mut here: Vec<String> = here.cloned().collect();
            here.sort();
            names.extend(here);
            at = self.scopes[index].parent;
        }
        names
    }
}

/// A name space as bindings have it.
fn space_of(space: Option<&Name>) -> &str {
    space.map_or("", |space| space.text.as_str())
}
