//! Where a run spends its time: by line of the source, by form, by function; what it makes on
//! the heap; and how the two engines compare on it.

mod alive;

use std::collections::BTreeMap;
use std::sync::Arc;
use std::time::Duration;

use rustc_hash::FxHashMap;
use serde::Serialize;

use crate::bytecode::Function;
use crate::definition::Definition;
use crate::diagnostic::Outcome;
use crate::language::Reading;
use crate::machine::{Calls, Cost, Counted, Probe};
use crate::runtime::Host;
use crate::session::Session;
use crate::source::{SourceText, Span};
use crate::tree::{Tree, What};

pub use alive::{Alive, OfKind, Piece};

/// What something has cost.
#[derive(Clone, Debug, Serialize)]
pub struct Share {
    /// What: a form, a function; the text of a line.
    pub name: String,
    /// The line of the program, where it is one.
    pub line: Option<u32>,
    /// How many instructions were carried out for it.
    pub instructions: u64,
    /// The time laid to it, in seconds.
    pub seconds: f64,
    /// How often something was made on the heap.
    pub allocations: u64,
    /// How many bytes were made.
    pub bytes: u64,
}

/// A call in the picture of calls.
#[derive(Clone, Debug, Serialize)]
pub struct Flame {
    /// What is called.
    pub name: String,
    /// The time in it and in the calls in it, in seconds.
    pub seconds: f64,
    /// The calls in it.
    pub calls: Vec<Flame>,
}

/// What is known of a run.
#[derive(Clone, Debug, Serialize)]
pub struct Profile {
    /// The time of a run by the machine that nobody watched, in seconds.
    pub machine_seconds: f64,
    /// The time of a run by the walking evaluator, in seconds, if there was one.
    pub walker_seconds: Option<f64>,
    /// How many times as long the walking evaluator took.
    pub ratio: Option<f64>,
    /// How many instructions were carried out.
    pub instructions: u64,
    /// How often something was made on the heap, and how many bytes.
    pub allocations: u64,
    /// See `allocations`.
    pub bytes: u64,
    /// How often the heap was freed of what was out of use.
    pub collections: u64,
    /// By line of the program, in the order of the lines.
    pub lines: Vec<Share>,
    /// By form, the dearest first.
    pub forms: Vec<Share>,
    /// By function, the dearest first.
    pub functions: Vec<Share>,
    /// The calls, from the program on.
    pub flame: Flame,
    /// What was in use when the most was, if that has been asked.
    pub alive: Option<Alive>,
}

/// Runs a program with a session that counts, and says what came of it.
pub fn profile<H: Host>(
    session: &mut Session<H>,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
) -> Outcome<Profile> {
    let language = session.language().clone();
    let tree = language.tree(source, reading);
    let outcome = session.run_source(source, reading);
    let value = tree.value.map(|tree| {
        let probe = session.take_probe()?;
        let count = Count {
            definition: language.definition(),
            source,
            forms: forms_by_place(&tree),
        };
        Some(count.profile(&probe))
    });
    let value = value.flatten();
    Outcome {
        value,
        diagnostics: outcome.diagnostics,
    }
}

impl Profile {
    /// Adds how long runs took that nobody watched.
    pub fn timed(&mut self, machine: Duration, walker: Option<Duration>) {
        self.machine_seconds = machine.as_secs_f64();
        self.walker_seconds = walker.map(|walker| walker.as_secs_f64());
        self.ratio = self
            .walker_seconds
            .map(|walker| walker / self.machine_seconds.max(1e-9));
    }
}

/// The form of the innermost node at each place of a tree.
fn forms_by_place(tree: &Tree) -> FxHashMap<Span, u16> {
    let mut forms = FxHashMap::default();
    let mut open = vec![tree.root()];
    while let Some(id) = open.pop() {
        let node = tree.node(id);
        if let What::Form(form) = node.what {
            forms.insert(node.span, form);
            for field in 0..tree.field_count(id) {
                open.extend(tree.children(id, field));
            }
        }
    }
    forms
}

struct Count<'a> {
    definition: &'a Definition,
    source: &'a Arc<SourceText>,
    forms: FxHashMap<Span, u16>,
}

impl Count<'_> {
    fn profile(&self, probe: &Probe) -> Profile {
        let mut lines: BTreeMap<u32, Cost> = BTreeMap::new();
        let mut forms: FxHashMap<String, Cost> = FxHashMap::default();
        let mut functions: FxHashMap<String, Cost> = FxHashMap::default();
        let mut all = Cost::default();
        for counted in &probe.functions {
            let own = Arc::ptr_eq(&counted.function.source, self.source);
            let mut whole = Cost::default();
            for (at, cost) in counted.costs.iter().enumerate() {
                if cost.times == 0 {
                    continue;
                }
                whole.add(*cost);
                let span = counted.function.site(at).map(|site| site.whole.span);
                let span = span.unwrap_or_default();
                if own {
                    let line = self.source.line_of(span.start);
                    lines.entry(line).or_default().add(*cost);
                }
                let form = self.form_at(&counted.function, span);
                forms.entry(form.to_owned()).or_default().add(*cost);
            }
            all.add(whole);
            functions.entry(Self::name(counted)).or_default().add(whole);
        }
        let line = |(line, cost): (u32, Cost)| {
            let text = self.source.slice(self.source.line_span(line)).trim_end();
            share(text, Some(line), cost)
        };
        Profile {
            machine_seconds: 0.0,
            walker_seconds: None,
            ratio: None,
            instructions: all.times,
            allocations: all.allocations,
            bytes: all.bytes,
            collections: probe.collections,
            lines: lines.into_iter().map(line).collect(),
            forms: dearest(forms),
            functions: dearest(functions),
            flame: Self::flame("all", &probe.calls, probe),
            alive: self.alive(probe),
        }
    }

    /// The form of a stretch of a function's text.
    fn form_at(&self, function: &Function, span: Span) -> &str {
        let own = Arc::ptr_eq(&function.source, self.source);
        let form = self.forms.get(&span).filter(|_| own);
        form.map_or("what is built in", |form| {
            &self.definition.forms[*form as usize].name.text
        })
    }

    /// What a function is called.
    fn name(counted: &Counted) -> String {
        let function = &counted.function;
        if let Some(name) = &function.name {
            return name.to_string();
        }
        if function.is_program {
            return "the program".to_owned();
        }
        let site = function.sites.first();
        let start = site.map_or(0, |site| site.whole.span.start);
        format!("function on line {}", function.source.line_of(start))
    }

    fn flame(name: &str, calls: &Calls, probe: &Probe) -> Flame {
        let inner = calls.inner.iter().map(|call| {
            let name = Self::name(&probe.functions[call.function]);
            Self::flame(&name, call, probe)
        });
        let inner: Vec<Flame> = inner.collect();
        let inside: f64 = inner.iter().map(|flame| flame.seconds).sum();
        Flame {
            name: name.to_owned(),
            seconds: calls.time.as_secs_f64() + inside,
            calls: inner,
        }
    }
}

fn share(name: &str, line: Option<u32>, cost: Cost) -> Share {
    Share {
        name: name.to_owned(),
        line,
        instructions: cost.times,
        seconds: cost.time.as_secs_f64(),
        allocations: cost.allocations,
        bytes: cost.bytes,
    }
}

/// The shares, the dearest first.
fn dearest(costs: FxHashMap<String, Cost>) -> Vec<Share> {
    let shares = costs.into_iter();
    let mut shares: Vec<Share> = shares
        .map(|(name, cost)| share(&name, None, cost))
        .collect();
    shares.sort_by(|a, b| {
        let by_count = b.instructions.cmp(&a.instructions);
        b.seconds
            .total_cmp(&a.seconds)
            .then(by_count)
            .then(a.name.cmp(&b.name))
    });
    shares
}
