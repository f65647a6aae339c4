//! A run told step by step, from its beginning to its end: each node, what it gives, what it changes and prints.

use std::sync::Arc;

use crate::definition::Definition;
use crate::diagnostic::Outcome;
use crate::language::Reading;
use crate::meaning::{Marked, Marks};
use crate::runtime::{Host, Watcher};
use crate::session::Session;
use crate::source::{SourceText, Span};
use crate::values::{Held, Value, told_written};

/// Runs a text, with the names that the session has kept, and tells each of its steps: by the walking engine, which
/// has the value of every node.
pub fn trace<H: Host>(
    session: &mut Session<H>,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
    tell: &mut dyn FnMut(Telling<'_>),
) -> Outcome<Held> {
    let language = session.language().clone();
    let mut tracer = Tracer {
        definition: language.definition(),
        tell,
        open: Vec::new(),
        count: 0,
        state: None,
    };
    session.watch(source, reading, Marks::Nodes, &mut tracer)
}

/// One thing that has changed.
#[derive(Clone, PartialEq, Eq, Debug, serde::Serialize)]
pub struct Change {
    /// The name of the variable, or of the cell of the state.
    pub name: String,
    /// What it held; nothing where it had no value yet.
    pub before: Option<String>,
    /// What it holds.
    pub after: String,
}

/// A step: the run of one node.
#[derive(Clone, Debug)]
pub struct Step {
    /// Its number, counted from 1 in the order in which steps begin.
    pub number: u64,
    /// How many steps it is in.
    pub depth: usize,
    /// The name of its form.
    pub form: String,
    /// The text it is in, and where.
    pub source: Arc<SourceText>,
    /// Its place.
    pub span: Span,
    /// Its value; nothing while it lasts, or if something led out of it.
    pub value: Option<String>,
    /// What it has itself changed, beside what steps in it have.
    pub changes: Vec<Change>,
    /// What it has itself printed.
    pub printed: String,
    /// The number of the node.
    node: u32,
    /// Whether a step in it has begun.
    has_inner: bool,
    /// What it is run on, as text, if it is run on something.
    taken: Option<String>,
    /// How many of its changes, and how much of what it has printed, have been told.
    told: usize,
    told_printed: usize,
}

impl Step {
    /// The changes that have not been told before a step in it.
    pub fn untold_changes(&self) -> &[Change] {
        &self.changes[self.told..]
    }

    /// What it has printed that has not been told before a step in it.
    pub fn untold_printed(&self) -> &str {
        &self.printed[self.told_printed..]
    }

    fn has_untold(&self) -> bool {
        self.told < self.changes.len() || self.told_printed < self.printed.len()
    }
}

/// What is told of a step.
#[derive(Clone, Copy, Debug)]
pub enum Telling<'a> {
    /// It has begun, and a step inside it begins now.
    Opens(&'a Step),
    /// It goes on: what it has changed and printed since it was told last comes before the next
    /// step inside it.
    Meanwhile(&'a Step),
    /// It has ended without any step inside it.
    Whole(&'a Step),
    /// It has ended.
    Closes(&'a Step),
}

/// Makes steps of what the walking evaluator tells, and tells them on.
struct Tracer<'a> {
    definition: &'a Definition,
    tell: &'a mut dyn FnMut(Telling<'_>),
    open: Vec<Step>,
    count: u64,
    /// What the cells of the state held last, as text; nothing before the run.
    state: Option<Vec<String>>,
}

impl Tracer<'_> {
    /// Notes which cells of the state have changed since the last step ended, where no
    /// assignment has told of it: in a list, for example.
    fn note_state(&mut self, state: &[Value]) {
        let before = self
            .state
            .get_or_insert_with(|| state.iter().map(told_written).collect());
        let cells = self.definition.state.iter().zip(state);
        for ((cell, value), before) in cells.zip(before) {
            let now = told_written(value);
            if now == *before {
                continue;
            }
            let before = std::mem::replace(before, now.clone());
            let name = &cell.name.text;
            if let Some(step) = self.open.last_mut()
                && step.changes.iter().all(|change| change.name != *name)
            {
                step.changes.push(Change {
                    name: name.clone(),
                    before: Some(before),
                    after: now,
                });
            }
        }
    }

    /// Notes what the innermost step is run on: before it, and after it what has become of that.
    fn note_taken(&mut self, form: usize, value: Option<&Value>) {
        let name = self.definition.forms[form].takes.as_ref();
        let (Some(name), Some(now), Some(step)) =
            (name, value.map(told_written), self.open.last_mut())
        else {
            return;
        };
        let Some(before) = step.taken.replace(now.clone()) else {
            return;
        };
        if before != now {
            step.changes.push(Change {
                name: name.text.clone(),
                before: Some(before),
                after: now,
            });
        }
    }

    /// Ends the innermost step.
    fn end(&mut self, value: Option<&Value>) {
        if let Some(mut step) = self.open.pop() {
            step.value = value.map(told_written);
            (self.tell)(if step.has_inner {
                Telling::Closes(&step)
            } else {
                Telling::Whole(&step)
            });
        }
    }
}

impl Watcher for Tracer<'_> {
    fn begins(&mut self, marked: Marked, source: &Arc<SourceText>, span: Span, state: &[Value]) {
        let Marked::Node { node, form } = marked else {
            return;
        };
        self.note_state(state);
        if let Some(around) = self.open.last_mut() {
            if !std::mem::replace(&mut around.has_inner, true) {
                (self.tell)(Telling::Opens(around));
            }
            // What has come of it so far comes before what the step in it does.
            if around.has_untold() {
                (self.tell)(Telling::Meanwhile(around));
                (around.told, around.told_printed) = (around.changes.len(), around.printed.len());
            }
        }
        self.count += 1;
        self.open.push(Step {
            number: self.count,
            depth: self.open.len(),
            form: self.definition.forms[form as usize].name.text.clone(),
            source: Arc::clone(source),
            span,
            value: None,
            changes: Vec::new(),
            printed: String::new(),
            node,
            has_inner: false,
            taken: None,
            told: 0,
            told_printed: 0,
        });
    }

    fn ends(&mut self, marked: Marked, value: Option<&Value>, state: &[Value]) {
        let node = match marked {
            Marked::Node { node, .. } => node,
            Marked::Taken(form) => {
                self.note_taken(form as usize, value);
                return;
            }
            Marked::Branch(_) => return,
        };
        // A coroutine that is suspended leaves steps open, and ends them when it is
        // resumed, where others are open.
        let Some(at) = self.open.iter().rposition(|step| step.node == node) else {
            return;
        };
        while self.open.len() > at + 1 {
            self.end(None);
        }
        self.note_state(state);
        self.end(value);
    }

    fn changes(&mut self, name: &str, before: Option<&Value>, after: &Value) {
        let change = Change {
            name: name.to_owned(),
            before: before.map(told_written),
            after: told_written(after),
        };
        if let Some(step) = self.open.last_mut() {
            step.changes.push(change);
        }
    }

    fn prints(&mut self, text: &str) {
        if let Some(step) = self.open.last_mut() {
            step.printed.push_str(text);
        }
    }
}
