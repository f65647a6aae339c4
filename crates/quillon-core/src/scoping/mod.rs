//! Which binding each name means: lexical scopes, found before anything runs.

use rustc_hash::FxHashMap;

use crate::definition::{Definition, Form};
use crate::diagnostic::{Diagnostic, Outcome};
use crate::source::Span;
use crate::tree::{NodeId, Tree};

mod errors;

/// A binding, by index.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct BindingId(pub u32);

/// Where a variable lives.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Home {
    /// In the scope that a node opens: made afresh each time the node runs.
    Node(NodeId),
    /// In the session: it outlives the run.
    Session(u32),
    /// In the language: a ready-made function or constant.
    ReadyMade(u32),
}

/// A name bound to a variable.
#[derive(Clone, Debug)]
pub struct Binding {
    /// The name.
    pub name: String,
    /// Where it is bound; missing for what was there before the program.
    pub span: Option<Span>,
    /// Where the variable lives.
    pub home: Home,
    /// Whether it cannot be changed.
    pub fixed: bool,
    /// The field of the home node under which it is bound.
    pub field: Option<usize>,
}

/// What the names of a program mean.
#[derive(Clone, Debug, Default)]
pub struct Names {
    /// Every binding.
    pub bindings: Vec<Binding>,
    /// The binding that a name's token means, for uses and bindings alike.
    of_node: FxHashMap<NodeId, BindingId>,
    /// The bindings whose variables live at a node.
    at_node: FxHashMap<NodeId, Vec<BindingId>>,
}

impl Names {
    /// The binding that a name's token means.
    pub fn binding_of(&self, name: NodeId) -> Option<BindingId> {
        self.of_node.get(&name).copied()
    }

    /// A binding.
    pub fn binding(&self, id: BindingId) -> &Binding {
        &self.bindings[id.0 as usize]
    }

    /// The bindings whose variables live at a node.
    pub fn at(&self, node: NodeId) -> &[BindingId] {
        self.at_node.get(&node).map_or(&[], Vec::as_slice)
    }
}

/// A name that a session has kept from an earlier entry.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Kept {
    /// The name.
    pub name: String,
    /// Whether it cannot be changed.
    pub fixed: bool,
}

/// What a program finds around it.
#[derive(Clone, Copy, Debug)]
pub enum Around<'a> {
    /// Nothing: its own names end with it.
    Nothing,
    /// A session: names it binds at the top are kept there.
    Session(&'a [Kept]),
}

/// Finds the binding of every name of a tree.
pub fn resolve(definition: &Definition, tree: &Tree, around: Around<'_>) -> Outcome<Names> {
    let mut resolver = Resolver {
        definition,
        tree,
        names: Names::default(),
        scopes: Vec::new(),
        unbound: Vec::new(),
        diagnostics: Vec::new(),
    };
    let base = resolver.outermost(around);
    resolver.visit(tree.root(), base);
    resolver.report_unbound();
    let mut diagnostics = resolver.diagnostics;
    diagnostics.sort_by_key(|d| d.place.as_ref().map_or(0, |p| p.span.start));
    Outcome {
        value: Some(resolver.names),
        diagnostics,
    }
}

#[derive(Debug)]
struct Scope {
    parent: Option<usize>,
    node: Option<NodeId>,
    names: FxHashMap<String, BindingId>,
    /// The field of the node that is being visited.
    field: Option<usize>,
    /// Set for the scope of a session: the next free variable.
    session: Option<u32>,
}

struct Resolver<'a> {
    definition: &'a Definition,
    tree: &'a Tree,
    names: Names,
    scopes: Vec<Scope>,
    unbound: Vec<(NodeId, Vec<String>)>,
    diagnostics: Vec<Diagnostic>,
}

impl Resolver<'_> {
    fn open(&mut self, parent: Option<usize>, node: Option<NodeId>) -> usize {
        self.scopes.push(Scope {
            parent,
            node,
            names: FxHashMap::default(),
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

    /// The scopes around a program: what is ready-made, what the session has kept, and
    /// one for the program itself.
    fn outermost(&mut self, around: Around<'_>) -> usize {
        let ready_made = self.open(None, None);
        for (index, provided) in self.definition.provides.iter().enumerate() {
            let id = self.binding(Binding {
                name: provided.name.text.clone(),
                span: None,
                home: Home::ReadyMade(index as u32),
                fixed: true,
                field: None,
            });
            self.scopes[ready_made]
                .names
                .insert(provided.name.text.clone(), id);
        }
        let mut parent = ready_made;
        if let Around::Session(kept) = around {
            parent = self.open(Some(ready_made), None);
            for (index, kept) in kept.iter().enumerate() {
                let id = self.binding(Binding {
                    name: kept.name.clone(),
                    span: None,
                    home: Home::Session(index as u32),
                    fixed: kept.fixed,
                    field: None,
                });
                self.scopes[parent].names.insert(kept.name.clone(), id);
            }
        }
        let base = self.open(Some(parent), Some(self.tree.root()));
        if let Around::Session(kept) = around {
            self.scopes[base].session = Some(kept.len() as u32);
        }
        base
    }

    fn visit(&mut self, id: NodeId, scope: usize) {
        let Some(form) = self.tree.form(id) else {
            return;
        };
        let definition = self.definition;
        let form = &definition.forms[form];
        let whole = form.opens.as_ref().is_some_and(|o| o.around.is_empty());
        // In a session the program's own scope is the session's.
        let keeps = self.scopes[scope].session.is_some() && id == self.tree.root();
        let own = if whole && !keeps {
            self.open(Some(scope), Some(id))
        } else {
            scope
        };
        let (bound, regions) = self.bind_inside(form, id, own, scope);
        for index in 0..form.fields.len() {
            let inner = self.scope_of_field(form, id, index, own, &regions);
            if self.scopes[inner].node == Some(id) {
                self.scopes[inner].field = Some(index);
            }
            if own != scope {
                self.scopes[own].field = Some(index);
            }
            self.visit_field(form, id, index, inner);
        }
        self.bind_onward(form, id, scope, &bound);
    }

    /// Makes the bindings of `binds … in …` and, for each set of clauses that share
    /// fields, the scope in which they are seen.
    fn bind_inside(
        &mut self,
        form: &Form,
        id: NodeId,
        own: usize,
        outer: usize,
    ) -> (Vec<Vec<BindingId>>, FxHashMap<Vec<usize>, usize>) {
        let mut bound: Vec<Vec<BindingId>> = vec![Vec::new(); form.binds.len()];
        let mut regions: FxHashMap<Vec<usize>, usize> = FxHashMap::default();
        for (number, clause) in form.binds.iter().enumerate() {
            if clause.inside.is_empty() {
                continue;
            }
            let Some(field) = form.field_index(&clause.field.text) else {
                continue;
            };
            for leaf in self.tree.children(id, field) {
                let home = if clause.onward { Some(outer) } else { None };
                let binding = match home {
                    Some(scope) => self.bind_in(scope, leaf, clause.fixed),
                    None => self.bind_at(id, field, leaf, clause.fixed),
                };
                bound[number].push(binding);
            }
        }
        for index in 0..form.fields.len() {
            let key = clauses_in(form, index);
            if key.is_empty() || regions.contains_key(&key) {
                continue;
            }
            let region = self.open(Some(own), Some(id));
            for &number in &key {
                for &binding in &bound[number] {
                    self.declare(region, binding);
                }
            }
            regions.insert(key, region);
        }
        (bound, regions)
    }

    fn scope_of_field(
        &mut self,
        form: &Form,
        id: NodeId,
        index: usize,
        own: usize,
        regions: &FxHashMap<Vec<usize>, usize>,
    ) -> usize {
        let inner = regions
            .get(&clauses_in(form, index))
            .copied()
            .unwrap_or(own);
        let around = form.opens.as_ref().is_some_and(|opens| {
            opens
                .around
                .iter()
                .any(|name| name.text == form.fields[index].name.text)
        });
        if around {
            self.open(Some(inner), Some(id))
        } else {
            inner
        }
    }

    fn visit_field(&mut self, form: &Form, id: NodeId, index: usize, scope: usize) {
        let name = &form.fields[index].name.text;
        let uses = form.uses.iter().find(|u| u.field.text == *name);
        for child in self.tree.children(id, index) {
            if self.tree.form(child).is_some() {
                self.visit(child, scope);
            } else if let Some(uses) = uses {
                self.look_up(child, scope, uses.to_change);
            }
        }
    }

    fn bind_onward(&mut self, form: &Form, id: NodeId, scope: usize, bound: &[Vec<BindingId>]) {
        for (number, clause) in form.binds.iter().enumerate() {
            if !clause.onward {
                continue;
            }
            if !clause.inside.is_empty() {
                for &binding in &bound[number] {
                    self.declare(scope, binding);
                }
                continue;
            }
            let Some(field) = form.field_index(&clause.field.text) else {
                continue;
            };
            for leaf in self.tree.children(id, field) {
                let binding = self.bind_in(scope, leaf, clause.fixed);
                self.declare(scope, binding);
            }
        }
    }

    /// A binding whose variable lives at a node, under one of its fields.
    fn bind_at(&mut self, node: NodeId, field: usize, leaf: NodeId, fixed: bool) -> BindingId {
        let id = self.binding(Binding {
            name: self.tree.text(leaf).to_owned(),
            span: Some(self.tree.node(leaf).span),
            home: Home::Node(node),
            fixed,
            field: Some(field),
        });
        self.names.of_node.insert(leaf, id);
        id
    }

    /// A binding whose variable lives in a scope.
    fn bind_in(&mut self, scope: usize, leaf: NodeId, fixed: bool) -> BindingId {
        if let Some(next) = &mut self.scopes[scope].session {
            let home = Home::Session(*next);
            *next += 1;
            let id = self.binding(Binding {
                name: self.tree.text(leaf).to_owned(),
                span: Some(self.tree.node(leaf).span),
                home,
                fixed,
                field: None,
            });
            self.names.of_node.insert(leaf, id);
            return id;
        }
        let node = self.scopes[scope].node.unwrap_or_else(|| self.tree.root());
        let field = self.scopes[scope].field;
        let id = self.bind_at(node, field.unwrap_or_default(), leaf, fixed);
        self.names.bindings[id.0 as usize].field = field;
        id
    }

    /// Makes a binding visible in a scope; a second one of the same name is an error.
    fn declare(&mut self, scope: usize, binding: BindingId) {
        let name = self.names.binding(binding).name.clone();
        if let Some(&earlier) = self.scopes[scope].names.get(&name)
            && earlier != binding
        {
            self.report_twice(binding, earlier);
            return;
        }
        self.scopes[scope].names.insert(name, binding);
    }

    fn look_up(&mut self, leaf: NodeId, scope: usize, to_change: bool) {
        let name = self.tree.text(leaf);
        let mut at = Some(scope);
        while let Some(index) = at {
            if let Some(&binding) = self.scopes[index].names.get(name) {
                self.names.of_node.insert(leaf, binding);
                if to_change && self.names.binding(binding).fixed {
                    self.report_fixed(leaf, binding);
                }
                return;
            }
            at = self.scopes[index].parent;
        }
        let visible = self.visible(scope);
        self.unbound.push((leaf, visible));
    }

    /// Every name that can be used in a scope, the innermost first.
    fn visible(&self, scope: usize) -> Vec<String> {
        let mut names = Vec::new();
        let mut at = Some(scope);
        while let Some(index) = at {
            let mut here: Vec<String> = self.scopes[index].names.keys().cloned().collect();
            here.sort();
            names.extend(here);
            at = self.scopes[index].parent;
        }
        names
    }
}

/// The `binds … in` clauses whose names are seen in a field.
fn clauses_in(form: &Form, index: usize) -> Vec<usize> {
    let field = &form.fields[index].name.text;
    form.binds
        .iter()
        .enumerate()
        .filter(|(_, clause)| clause.inside.iter().any(|name| name.text == *field))
        .map(|(number, _)| number)
        .collect()
}
