//! What is seen where a run stands still.

use std::sync::Arc;

use super::Reason;
use super::asking::{Asked, Carried};
use super::deeds::{Deed, Deeds, When};
use super::elsewhere::{self, Elsewhere};
use super::known::Known;
use super::names::all_set;
use super::recorded::Outside;
use super::setting::set;
use crate::bytecode::{self, Line};
use crate::definition::Definition;
use crate::diagnostic::Diagnostics;
use crate::machine::{Call, View};
use crate::session::{Answer, SessionBuilder};
use crate::source::{SourceText, Span};
use crate::tree::Tree;
use crate::values::Held;

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
    /// What has been carried out.
    pub(super) carried: &'s mut Vec<Carried>,
    pub(super) reason: Reason,
    pub(super) outside: &'s Outside,
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
        self.outside.shown()
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
        let seen = all_set(self.view, self.known, call).into_iter();
        let seen = seen.filter_map(|one| {
            Some(Variable {
                value: Held::of(heap, one.value()?),
                name: one.name,
                is_captured: one.is_around,
            })
        });
        seen.collect()
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
    pub fn evaluate(&self, call: usize, text: &str) -> Result<Answer, Diagnostics> {
        self.asked(call, text)?.answer(self.view)
    }

    fn asked(&self, call: usize, text: &str) -> Result<Asked, Diagnostics> {
        Asked::new(self.view, self.builder, self.known, call, text)
    }

    /// Whether a text can be carried out where a call stands.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn can_carry_out(&self, call: usize, text: &str) -> Result<(), Diagnostics> {
        self.asked(call, text)?.is_ready(self.view)
    }

    /// Carries a text out where a call stands, with what it does to the run and outside; what that comes to. No
    /// stop stops it. That belongs to the run from now on: a walk back to before and on again finds it.
    ///
    /// # Errors
    /// What is wrong with it: then nothing is done. Or what goes wrong in it: what it has done until then is done.
    pub fn carry_out(&mut self, call: usize, text: &str) -> Result<Held, Diagnostics> {
        let asked = self.asked(call, text)?;
        asked.is_ready(self.view)?;
        let text = text.to_owned();
        self.deeds.add(self.when(), Deed::CarryOut { call, text });
        asked.carry_out(self.view, self.carried)
    }

    /// Gives a variable of a call, or a cell of the state, what a text comes to there. That belongs to the run
    /// from now on: a walk back to before and on again finds it.
    ///
    /// # Errors
    /// What is wrong with the text; that there is no such variable; or that the value is one of a copy only,
    /// like a function.
    pub fn set(&mut self, call: usize, name: &str, text: &str) -> Result<Held, Diagnostics> {
        let held = set(self.view, self.builder, self.known, (call, name), text)?;
        let (name, text) = (name.to_owned(), text.to_owned());
        self.deeds.add(self.when(), Deed::Set { call, name, text });
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
