//! What is in use when the most is: what has made it, and what leads to it.

use std::collections::BTreeMap;
use std::sync::Arc;

use rustc_hash::FxHashMap;
use serde::Serialize;

use super::Count;
use crate::machine::{Amount, Holder, Maker, Probe};

/// What was in use when the most was. Looked at each time when a quarter as much again has been made, and at the
/// end of the program.
#[derive(Clone, Debug, Serialize)]
pub struct Alive {
    /// How many instructions had been carried out.
    pub instructions: u64,
    /// How many things there were on the heap.
    pub pieces: u64,
    /// How many bytes they took.
    pub bytes: u64,
    /// By the form that made it, the largest first.
    pub forms: Vec<Piece>,
    /// By the line that made it, in the order of the lines.
    pub lines: Vec<Piece>,
    /// By what leads to it: what several lead to belongs to the first, of the outermost call.
    pub held: Vec<Piece>,
}

/// Some of it.
#[derive(Clone, Debug, Serialize)]
pub struct Piece {
    /// What it is: a form, the text of a line, a variable.
    pub name: String,
    /// The line, where it is one.
    pub line: Option<u32>,
    /// How many things.
    pub pieces: u64,
    /// How many bytes they took.
    pub bytes: u64,
    /// What kinds of things they are, the most first.
    pub kinds: Vec<OfKind>,
}

/// The things of a kind.
#[derive(Clone, Debug, Serialize)]
pub struct OfKind {
    /// The kind.
    pub kind: &'static str,
    /// How many bytes they took.
    pub bytes: u64,
}

/// What is counted together.
#[derive(Default)]
struct Together {
    amount: Amount,
    kinds: FxHashMap<&'static str, u64>,
}

impl Together {
    fn add(&mut self, kind: &'static str, amount: Amount) {
        self.amount.pieces += amount.pieces;
        self.amount.bytes += amount.bytes;
        *self.kinds.entry(kind).or_default() += amount.bytes;
    }

    fn piece(self, name: String, line: Option<u32>) -> Piece {
        let kinds = self.kinds.into_iter();
        let mut kinds: Vec<OfKind> = kinds.map(|(kind, bytes)| OfKind { kind, bytes }).collect();
        kinds.sort_by_key(|one| (std::cmp::Reverse(one.bytes), one.kind));
        Piece {
            name,
            line,
            pieces: self.amount.pieces,
            bytes: self.amount.bytes,
            kinds,
        }
    }
}

impl Count<'_> {
    pub(super) fn alive(&self, probe: &Probe) -> Option<Alive> {
        let alive = probe.alive.as_ref()?;
        let mut forms: BTreeMap<&str, Together> = BTreeMap::new();
        let mut lines: BTreeMap<u32, Together> = BTreeMap::new();
        for ((maker, kind), amount) in &alive.made {
            let form = maker.map_or("what was there before", |maker| self.form_of(probe, maker));
            forms.entry(form).or_default().add(kind, *amount);
            if let Some(line) = maker.and_then(|maker| self.line_of(probe, maker)) {
                lines.entry(line).or_default().add(kind, *amount);
            }
        }
        let mut held: BTreeMap<String, Together> = BTreeMap::new();
        for (holder, amount) in &alive.held {
            held.entry(self.held_by(probe, holder))
                .or_default()
                .add("", *amount);
        }
        let forms = forms
            .into_iter()
            .map(|(name, of)| of.piece(name.to_owned(), None));
        let held = held.into_iter().map(|(name, of)| Piece {
            kinds: Vec::new(),
            ..of.piece(name, None)
        });
        let line = |(line, of): (u32, Together)| {
            let text = self.source.slice(self.source.line_span(line)).trim_end();
            of.piece(text.to_owned(), Some(line))
        };
        Some(Alive {
            instructions: alive.moment,
            pieces: alive.all.pieces,
            bytes: alive.all.bytes,
            forms: largest(forms),
            lines: lines.into_iter().map(line).collect(),
            held: largest(held),
        })
    }

    fn form_of(&self, probe: &Probe, (function, at): Maker) -> &str {
        let function = &probe.functions[function].function;
        let span = function.site(at).map(|site| site.whole.span);
        self.form_at(function, span.unwrap_or_default())
    }

    fn line_of(&self, probe: &Probe, (function, at): Maker) -> Option<u32> {
        let function = &probe.functions[function].function;
        let own = Arc::ptr_eq(&function.source, self.source);
        let span = function.site(at).filter(|_| own)?.whole.span;
        Some(self.source.line_of(span.start))
    }

    fn held_by(&self, probe: &Probe, holder: &Holder) -> String {
        match holder {
            Holder::Variable(function, name) => {
                let function = &probe.functions[*function];
                if function.function.is_program {
                    name.to_string()
                } else {
                    format!("{name} in {}", Self::name(function))
                }
            }
            Holder::State(at) => {
                let cell = self.definition.state.get(*at);
                let name = cell.map_or("", |cell| &cell.name.text);
                format!("{name} of the state")
            }
            Holder::Other => "what is under way, and what is built in".to_owned(),
        }
    }
}

/// The largest first.
fn largest(pieces: impl Iterator<Item = Piece>) -> Vec<Piece> {
    let mut pieces: Vec<Piece> = pieces.collect();
    pieces.sort_by(|a, b| b.bytes.cmp(&a.bytes).then_with(|| a.name.cmp(&b.name)));
    pieces
}
