//! What an editor asks of a case file: what its words mean, in the notation and in the definition that it
//! is about.

use std::sync::Arc;

use super::clauses;
use super::defining::{Described, Named};
use crate::definition;
use crate::source::{SourceText, Span};

/// The words behind which names of the definition stand.
const NAMING: [&str; 8] = [
    "tree", "tokens", "all", "from", "as", "leaves", "given", "in",
];

/// A case file as it is written.
#[derive(Debug)]
pub struct Cased {
    source: Arc<SourceText>,
    clauses: Vec<Clause>,
}

/// A line of a case that is no program.
#[derive(Debug)]
struct Clause {
    span: Span,
    names: Vec<(Span, String)>,
}

impl Cased {
    /// Looks at a case file, whatever is wrong in it.
    pub fn new(source: &Arc<SourceText>) -> Cased {
        let outlined = definition::outlined(source).into_iter();
        let lines = outlined
            .flat_map(|item| item.clauses)
            .flat_map(|clause| lines_of(source, clause));
        let clauses = lines.map(|span| Clause {
            names: definition::names_in(source, span),
            span,
        });
        Cased {
            clauses: clauses.collect(),
            source: Arc::clone(source),
        }
    }

    /// The name at a place: its clause, and its number in that.
    fn name_at(&self, offset: u32) -> Option<(&Clause, usize)> {
        self.clauses.iter().find_map(|clause| {
            let mut names = clause.names.iter();
            let at = names.position(|(span, _)| span.start <= offset && offset <= span.end)?;
            Some((clause, at))
        })
    }

    /// The name at a place.
    pub fn span_at(&self, offset: u32) -> Option<Span> {
        let (clause, at) = self.name_at(offset)?;
        Some(clause.names[at].0)
    }

    /// What a name is, if it stands where names of the definition do.
    fn meant(&self, clause: &Clause, at: usize) -> Option<Named> {
        let (span, name) = &clause.names[at];
        let mut before = clause.names[..at].iter().rev();
        let word = before.find_map(|(_, word)| clauses::expectation(word).map(|_| word))?;
        if !NAMING.contains(&word.as_str()) {
            return None;
        }
        let rest = &self.source.text()[span.end as usize..];
        let of_form = if rest.starts_with(':') && word != "given" {
            Some(self.form_around(clause, *span)?)
        } else {
            None
        };
        Some(Named {
            name: name.clone(),
            of_form,
        })
    }

    /// The form in whose brackets a field is named: `Add` for `right` in `Add(1, right: 2)`.
    fn form_around(&self, clause: &Clause, field: Span) -> Option<String> {
        let text = self.source.text();
        let before = &text[clause.span.start as usize..field.start as usize];
        let mut closed = 0;
        for (at, c) in before.char_indices().rev() {
            match c {
                ')' => closed += 1,
                '(' if closed > 0 => closed -= 1,
                '(' => {
                    let end = clause.span.start + at as u32;
                    let mut names = clause.names.iter();
                    let form = names.find(|(span, _)| span.end == end);
                    return form.map(|(_, name)| name.clone());
                }
                _ => {}
            }
        }
        None
    }

    /// Every place where a name of the definition stands.
    pub fn standings(&self, named: &Named) -> Vec<Span> {
        let all = self.clauses.iter().flat_map(|clause| {
            let alike = (0..clause.names.len())
                .filter(|at| self.meant(clause, *at).is_some_and(|here| here == *named));
            alike.map(|at| clause.names[at].0)
        });
        all.collect()
    }

    /// Where the thing is defined, in the definition, whose name stands at a place.
    pub fn defined_at(&self, offset: u32, definition: &Described) -> Option<Span> {
        let (clause, at) = self.name_at(offset)?;
        definition.defined(&self.meant(clause, at)?)
    }

    /// What the word at a place says: an expectation, or something of the definition.
    pub fn about(&self, offset: u32, definition: &Described) -> Option<(Span, String)> {
        let (clause, at) = self.name_at(offset)?;
        let (span, name) = &clause.names[at];
        if let Some(named) = self.meant(clause, at)
            && let Some(line) = definition.line_of(&named)
        {
            return Some((*span, line));
        }
        let what = clauses::expectation(name)?;
        Some((*span, format!("`{name}`: {what}")))
    }

    /// The stretch and the text of each name that could stand at a place.
    pub fn candidates(&self, offset: u32, definition: &Described) -> (Span, Vec<String>) {
        let text = self.source.text();
        let before = &text[..offset as usize];
        let start = before
            .trim_end_matches(|c: char| c.is_alphanumeric() || c == '_')
            .len();
        let line = self.source.line_span(self.source.line_of(start as u32));
        let lead = &text[line.start as usize..start];
        let mut words = lead.split_whitespace().rev();
        let naming = words.find(|word| clauses::expectation(word).is_some());
        let mut all: Vec<String> = if lead.is_empty() {
            vec!["case".to_owned(), "cases".to_owned()]
        } else if naming.is_some_and(|word| NAMING.contains(&word)) {
            definition.names()
        } else {
            clauses::expectations().map(str::to_owned).collect()
        };
        all.retain(|one| one.starts_with(&before[start..]));
        (Span::new(start, offset as usize), all)
    }
}

/// The lines of a clause, without those of programs behind bars.
fn lines_of(source: &SourceText, clause: Span) -> Vec<Span> {
    let lines = source.line_of(clause.start)..=source.line_of(clause.end.max(1) - 1);
    let spans = lines.map(|line| {
        let line = source.line_span(line);
        Span {
            start: line.start.max(clause.start),
            end: line.end.min(clause.end),
        }
    });
    spans
        .filter(|span| span.start < span.end && !source.slice(*span).trim_start().starts_with('|'))
        .collect()
}
