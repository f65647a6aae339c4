//! The look of definitions and case files: what each of their words is, and what is around a place.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::What;
use super::clauses;
use super::colours::{Coloured, Role};
use super::defining::{Described, ItemKind, operation_around};
use super::shape::nested;
use crate::definition::{self, Spelt};
use crate::source::{SourceText, Span};

/// The words of lines in which names of one's own can stand.
const MEANINGS: [&str; 6] = ["means", "checks", "define", "provides", "reduces", "typed"];

/// What is around words of the notation.
struct Around<'a> {
    source: &'a SourceText,
    /// What has a name for the whole definition.
    known: FxHashMap<&'a str, Role>,
    /// The fields of the form that is being read.
    fields: FxHashSet<&'a str>,
    /// The word of the item, and that of the clause.
    item: &'a str,
    clause: &'a str,
}

/// The stretches of a definition or a case file that are something to a reader, in order. What a case
/// file names is told by the definition that it is about.
pub fn colours_of_notation(source: &Arc<SourceText>, definition: &Described) -> Vec<Coloured> {
    let spelt = definition::spelt(source);
    let mut around = Around {
        source,
        known: known(definition),
        fields: FxHashSet::default(),
        item: "",
        clause: "",
    };
    let mut found = Vec::with_capacity(spelt.len());
    let mut line = 0;
    for (at, &(span, what)) in spelt.iter().enumerate() {
        let begins =
            source.line_of(span.start) != std::mem::replace(&mut line, source.line_of(span.end));
        let is_word = begins && what == Spelt::Name && around.begin(span, &spelt[at..]);
        let role = match what {
            Spelt::Name if is_word => Role::Keyword,
            Spelt::Name => around.name(span),
            Spelt::Number => Role::Number,
            Spelt::Text | Spelt::Program => Role::Text,
            Spelt::Sign => Role::Operator,
            Spelt::Comment => Role::Comment,
        };
        found.push(Coloured { span, role });
    }
    found
}

/// What has a name for a whole definition.
fn known(definition: &Described) -> FxHashMap<&str, Role> {
    let mut known: FxHashMap<&str, Role> = FxHashMap::default();
    known.extend(definition.sorts().map(|sort| (sort, Role::Kind)));
    for item in definition.items() {
        let lines = match item.name.as_str() {
            "provides" => named(What::Function),
            "state" => named(What::Variable),
            _ => Role::Kind,
        };
        known.extend(item.inside.iter().map(|line| (line.name.as_str(), lines)));
        match item.kind {
            ItemKind::Form => known.insert(&item.name, Role::Kind),
            ItemKind::Helper => known.insert(&item.name, named(What::Function)),
            ItemKind::Line | ItemKind::Other => None,
        };
    }
    known
}

fn named(what: What) -> Role {
    Role::Name {
        what,
        binds: false,
        changes: false,
    }
}

impl Around<'_> {
    /// Takes note of the name that a line begins with; whether it is a word of the notation.
    fn begin(&mut self, span: Span, rest: &[(Span, Spelt)]) -> bool {
        let word = self.source.slice(span);
        let line = self.source.line_span(self.source.line_of(span.start));
        if span.start > line.start {
            let is_clause =
                ["form", "language"].contains(&self.item) && clauses::clause(word).is_some();
            if is_clause {
                self.clause = word;
            }
            return is_clause || clauses::expectation(word).is_some();
        }
        self.item = word;
        self.clause = word;
        // The fields of a form are named before they are used, but in any clause.
        let own = rest.iter().skip(1).take_while(|(next, _)| {
            let line = self.source.line_span(self.source.line_of(next.start));
            next.start > line.start
        });
        self.fields = own
            .filter(|(next, what)| *what == Spelt::Name && self.is_before_colon(*next))
            .map(|(next, _)| self.source.slice(*next))
            .collect();
        clauses::item(word).is_some() || ["case", "cases"].contains(&word)
    }

    fn is_before_colon(&self, span: Span) -> bool {
        self.source.text()[span.end as usize..].starts_with(':')
    }

    fn name(&self, span: Span) -> Role {
        let text = self.source.slice(span);
        if operation_around(self.source, span).is_some() {
            return named(What::BuiltInFunction);
        }
        if self.fields.contains(text) {
            return Role::Name {
                what: What::Parameter,
                binds: self.is_before_colon(span),
                changes: false,
            };
        }
        let own = self.known.get(text).copied();
        let is_of_notation = definition::is_reserved(text) || !MEANINGS.contains(&self.clause);
        own.unwrap_or(if is_of_notation {
            Role::Keyword
        } else {
            named(What::Variable)
        })
    }
}

/// The stretches around a place in a definition or a case file, from the word on outwards.
pub fn around_in_notation(source: &Arc<SourceText>, offset: u32) -> Vec<Span> {
    let is_here = |span: &Span| span.start <= offset && offset <= span.end;
    let spelt = definition::spelt(source).into_iter().map(|(span, _)| span);
    let word = spelt.into_iter().find(is_here);
    let line = source.line_span(source.line_of(offset));
    let text = source.slice(line);
    let start = line.start as usize + text.len() - text.trim_start().len();
    let line = Span::new(start, start + text.trim().len());
    let mut all: Vec<Span> = word.into_iter().chain([line]).collect();
    for item in definition::outlined(source) {
        let whole = item
            .clauses
            .last()
            .map_or(item.head, |last| item.head.to(*last));
        if is_here(&whole) {
            all.extend(item.clauses.iter().copied().filter(is_here));
            all.push(whole);
        }
    }
    nested(all, Span::new(0, source.text().len()))
}
