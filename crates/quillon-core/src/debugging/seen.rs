//! What is seen where a run stands still.

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::Reason;
use super::deeds::{Deed, Deeds, When};
use super::elsewhere::{self, Elsewhere};
use super::known::Known;
use super::setting::set;
use crate::bytecode::{self, Function, Line};
use crate::definition::Definition;
use crate::diagnostic::Diagnostics;
use crate::machine::{Call, View};
use crate::scoping::Kept;
use crate::session::SessionBuilder;
use crate::source::{SourceText, Span};
use crate::tree::Tree;
use crate::values::{Held, Value};

/// A call under way.
#[derive(Clone, Debug)]
pub struct Called {
    /// The name of the function; nothing for the program, or where it has none.
    pub name: Option<String>,
    /// The text that it stands in.
    pub source: Arc<SourceText>,
    /// What is under way in it.
    pub span: Span,
    /// The part of a meaning that is under way, in the definition; empty where that is not known. Where the
    /// run has been stopped in a meaning, the part that the stop is at.
    pub meaning: Span,
    /// The address of the instruction under way in its function.
    pub at: usize,
    /// Whether it is the program.
    pub is_program: bool,
    /// Whether it is built in: its text is that of the definition.
    pub is_built_in: bool,
}

impl Called {
    /// What it is called in a list of calls.
    pub fn title(&self) -> &str {
        match &self.name {
            Some(name) => name,
            None if self.is_program => "the program",
            None => "a function",
        }
    }
}

/// A variable with what it holds.
#[derive(Clone, Debug)]
pub struct Variable {
    /// What it is called.
    pub name: String,
    /// What it holds.
    pub value: Held,
    /// Whether it belongs to a function around.
    pub is_captured: bool,
}

/// A form that is under way.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Around {
    /// The name of the form.
    pub form: String,
    /// What it was read from.
    pub span: Span,
}

/// A run that stands still.
pub struct Stopped<'s, 'v, 'm> {
    pub(super) view: &'s mut View<'v, 'm>,
    pub(super) builder: &'s SessionBuilder,
    pub(super) known: &'s Known,
    pub(super) deeds: &'s mut Deeds,
    pub(super) reason: Reason,
    pub(super) printed: usize,
    /// The part of a meaning that a stop is at, if it is.
    pub(super) part_at: Option<Span>,
}

impl Stopped<'_, '_, '_> {
    /// Why it stands still.
    pub fn reason(&self) -> &Reason {
        &self.reason
    }

    /// The moment: how many instructions have been carried out before.
    pub fn moment(&self) -> u64 {
        self.view.now()
    }

    fn when(&self) -> When {
        When {
            moment: self.view.now(),
            has_failed: matches!(self.reason, Reason::Fault { .. }),
        }
    }

    /// How many bytes have been printed before.
    pub fn printed(&self) -> usize {
        self.printed
    }

    /// The definition, in which the meanings stand.
    pub fn definition(&self) -> &Definition {
        self.builder.language().definition()
    }

    /// The forms under way in a call, the outermost first; none in what is built in.
    pub fn around(&self, call: usize) -> Vec<Around> {
        let calls = self.view.calls();
        let Some(call) = calls.get(call) else {
            return Vec::new();
        };
        let tree = self.known.tree(&call.function.source);
        tree.map_or_else(Vec::new, |tree| self.forms_around(tree, span(call)))
    }

    /// The forms of a tree that a stretch lies in.
    fn forms_around(&self, tree: &Tree, span: Span) -> Vec<Around> {
        let forms = &self.builder.language().definition().forms;
        let mut found = Vec::new();
        let mut next = Some(tree.root());
        while let Some(node) = next {
            if let Some(form) = tree.form(node) {
                found.push(Around {
                    form: forms[form].name.text.clone(),
                    span: tree.node(node).span,
                });
            }
            let fields = 0..tree.field_count(node);
            let mut inner = fields.flat_map(|field| tree.children(node, field)).copied();
            next = inner.find(|inner| {
                let around = tree.node(*inner).span;
                around.start <= span.start && span.end <= around.end
            });
        }
        found
    }

    /// The calls under way, the innermost first.
    pub fn calls(&self) -> Vec<Called> {
        let mut calls: Vec<Called> = self.view.calls().iter().map(called).collect();
        if let (Some(part), Some(innermost)) = (self.part_at, calls.first_mut()) {
            innermost.meaning = part;
        }
        calls
    }

    /// The instructions of the function of a call.
    pub fn instructions(&self, call: usize) -> Option<Vec<Line>> {
        let calls = self.view.calls();
        let call = calls.get(call)?;
        let listing = bytecode::listing(call.function, self.builder.language().definition());
        let own = listing.functions.into_iter().next()?;
        Some(own.lines)
    }

    /// The variables that a call sees, by its number from the innermost on: its own, and those that it has
    /// from functions around it.
    pub fn variables(&self, call: usize) -> Vec<Variable> {
        let heap = &self.view.memory().heap;
        let seen = values(self.view, self.known, call).into_iter();
        seen.map(|(name, value, is_captured)| Variable {
            name,
            value: Held::of(heap, value),
            is_captured,
        })
        .collect()
    }

    /// The cells of the state.
    pub fn state(&self) -> Vec<Variable> {
        let definition = self.builder.language().definition();
        let memory = self.view.memory();
        let cells = definition.state.iter().zip(&memory.state);
        let own = cells.filter(|(cell, _)| !cell.is_for_checks);
        own.map(|(cell, value)| Variable {
            name: cell.name.text.clone(),
            value: Held::of(&memory.heap, *value),
            is_captured: false,
        })
        .collect()
    }

    /// What a text comes to where a call stands: on copies, so that the run stays as it is, and without
    /// anything outside.
    ///
    /// # Errors
    /// What is wrong with it, or goes wrong in it.
    pub fn evaluate(&self, call: usize, text: &str) -> Result<Held, Diagnostics> {
        evaluate(self.view, self.builder, self.known, call, text)
    }

    /// Gives a variable of the innermost call, or a cell of the state, what a text comes to. That belongs to the
    /// run from now on: a walk back to before and on again finds it.
    ///
    /// # Errors
    /// What is wrong with the text; that there is no such variable; or that the value is one of a copy only,
    /// like a function.
    pub fn set(&mut self, name: &str, text: &str) -> Result<Held, Diagnostics> {
        let held = set(self.view, self.builder, self.known, name, text)?;
        let (name, text) = (name.to_owned(), text.to_owned());
        self.deeds.add(self.when(), Deed::Set { name, text });
        Ok(held)
    }

    /// The places of its function where the innermost call can go on instead; none in what is built in, and
    /// where something fails.
    pub fn elsewhere(&self) -> Vec<Elsewhere> {
        let call = self.view.innermost();
        if call.function.built_in || matches!(self.reason, Reason::Fault { .. }) {
            return Vec::new();
        }
        elsewhere::places(call.function, call.at, &self.known.lives)
    }

    /// Has the innermost call go on at such a place, at which the run stands then. What lies between is not
    /// done, or done once more. That belongs to the run from now on, as what is set does.
    pub fn go_on_at(&mut self, place: Elsewhere) {
        if self.elsewhere().contains(&place) {
            self.view.go_on_at(place.at);
            self.deeds.add(self.when(), Deed::GoOnAt(place.at));
        }
    }
}

fn called(call: &Call<'_>) -> Called {
    let function = call.function;
    Called {
        name: function.name.as_deref().map(str::to_owned),
        source: Arc::clone(&function.source),
        span: span(call),
        meaning: meaning(call),
        at: call.at,
        is_program: function.is_program,
        is_built_in: function.built_in,
    }
}

/// What is under way in a call.
pub(super) fn span(call: &Call<'_>) -> Span {
    let site = call.function.site(call.at);
    site.map_or(Span::default(), |site| site.whole.span)
}

/// The part of a meaning that is under way in a call.
pub(super) fn meaning(call: &Call<'_>) -> Span {
    let site = call.function.site(call.at);
    site.map_or(Span::default(), |site| site.meaning)
}

/// What a call's function has captured by a name.
pub(super) fn captured(call: &Call<'_>, name: &str) -> Option<Value> {
    let mut captures = call.function.captures.iter();
    let number = captures.position(|captured| &*captured.name == name)?;
    Some(call.captured(number as u16))
}

/// What a variable holds, if it holds anything.
fn contents(value: Value) -> Option<Value> {
    let value = match value {
        Value::Variable(shared) => shared.get(),
        other => other,
    };
    value.is_set().then_some(value)
}

/// What a call sees of variables that programs bind: name, value, whether it is one of a function around, or
/// one that the session keeps.
fn values(view: &View<'_, '_>, known: &Known, call: usize) -> Vec<(String, Value, bool)> {
    let mut found = own_values(view, known, call);
    let mut kept: Vec<(&String, &usize)> = known.kept.iter().collect();
    kept.sort_unstable_by_key(|(_, slot)| std::cmp::Reverse(**slot));
    for (name, slot) in kept {
        let value = view.memory().session.get(*slot);
        let is_hidden = found.iter().any(|(other, ..)| other == name);
        if let Some(value) = value
            .and_then(|value| contents(*value))
            .filter(|_| !is_hidden)
        {
            found.push((name.clone(), value, true));
        }
    }
    found
}

/// The same without what the session keeps.
fn own_values(view: &View<'_, '_>, known: &Known, call: usize) -> Vec<(String, Value, bool)> {
    let mut found: Vec<(String, Value, bool)> = Vec::new();
    let mut names: FxHashSet<String> = FxHashSet::default();
    let mut add = |name: &str, value: Value, is_around: bool| {
        if let Some(value) = contents(value)
            && known.bound.contains_key(name)
            && names.insert(name.to_owned())
        {
            found.push((name.to_owned(), value, is_around));
        }
    };
    let mut within: Option<&Rc<Function>> = None;
    for call in view.each_call().skip(call) {
        let function = call.function;
        // Those that have made the functions of the calls inside.
        let is_around = within.is_some();
        let makes =
            |inner: &Rc<Function>| function.functions.iter().any(|one| Rc::ptr_eq(one, inner));
        if !within.is_none_or(makes) {
            continue;
        }
        within = Some(function);
        for life in known.lives.at(function, call.at) {
            add(&life.name, call.register(life.register), is_around);
        }
        for (param, register) in function.params.iter().zip(0..) {
            // What the language adds is the program's if it can name it.
            if !param.is_hidden || known.unwritten.contains(&*param.name) {
                add(&param.name, call.register(register), is_around);
            }
        }
        for (captured, number) in function.captures.iter().zip(0..) {
            add(&captured.name, call.captured(number), true);
        }
    }
    found
}

/// What a text comes to where a call stands.
pub(super) fn evaluate(
    view: &View<'_, '_>,
    builder: &SessionBuilder,
    known: &Known,
    call: usize,
    text: &str,
) -> Result<Held, Diagnostics> {
    // Functions know what the session keeps by where it is, so that stays where it is.
    let kept = &view.memory().session;
    let nameless = Kept {
        name: String::new(),
        fixed: true,
        dynamic: false,
        space: String::new(),
        awaited: false,
    };
    let nameless = kept.iter().map(|value| (nameless.clone(), *value));
    let mut names: Vec<(Kept, Value)> = nameless.collect();
    for (name, slot) in &known.kept {
        if let (Some(known), Some(own)) = (known.bound.get(name), names.get_mut(*slot)) {
            own.0 = known.clone();
        }
    }
    let own = own_values(view, known, call).into_iter();
    names.extend(own.filter_map(|(name, value, _)| Some((known.bound.get(&name)?.clone(), value))));
    let (names, values): (Vec<Kept>, Vec<Value>) = names.into_iter().unzip();
    let question = known.question(builder, names, text)?;
    question.answer(view.memory(), values)
}
/// Where a variable of the innermost call, or a cell of the state, is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Place {
    /// With the call; others may share it.
    Call {
        /// Whether functions share it.
        is_shared: bool,
    },
    /// Where every call finds it.
    Everywhere,
}

/// What a variable of the innermost call, or a cell of the state, holds, if anything, and where it is.
pub(super) fn held_in(
    view: &View<'_, '_>,
    known: &Known,
    name: &str,
    cell: Option<usize>,
    register: Option<u16>,
) -> Option<(Value, Place)> {
    let inner = view.innermost();
    let own = register
        .map(|register| inner.register(register))
        .or_else(|| captured(&inner, name));
    if let Some(own) = own {
        let is_shared = matches!(own, Value::Variable(_));
        return Some((contents(own)?, Place::Call { is_shared }));
    }
    let around = known
        .in_session(view, name)
        .or_else(|| view.memory().state.get(cell?).copied())?;
    Some((contents(around)?, Place::Everywhere))
}

/// A value in short: what can be kept while the run goes on.
pub(super) fn told(value: Value) -> String {
    match value {
        Value::Integer(n) => n.to_string(),
        other => crate::values::told_written(&other),
    }
}

/// What a variable of the innermost call, or a cell of the state, holds, in short.
pub(super) fn trace_of(
    view: &View<'_, '_>,
    known: &Known,
    name: &str,
    cell: Option<usize>,
) -> Option<String> {
    let register = known.register(&view.innermost(), name);
    held_in(view, known, name, cell, register).map(|(value, _)| told(value))
}
