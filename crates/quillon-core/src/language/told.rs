//! What is told of a text that is wrong in its tokens and in how they stand together: each cause
//! once.

use crate::diagnostic::{Diagnostic, Outcome, codes, plural};
use crate::lexing::BRACKETS;
use crate::parsing::Parts;
use crate::source::{SourceText, Span};
use crate::tree::Tree;

/// What came of reading a text.
pub(super) struct Read {
    /// The tree, or what is wrong.
    pub tree: Outcome<Tree>,
    /// What could be read of a wrong text.
    pub parts: Option<Parts>,
    /// The stretches that the errors speak of.
    pub told: Vec<Span>,
}

impl Read {
    pub fn failed(diagnostics: Vec<Diagnostic>) -> Read {
        Read {
            tree: Outcome::failed(diagnostics),
            parts: None,
            told: Vec::new(),
        }
    }

    /// Adds what is wrong with the tokens: what the syntax errors do not say already. What is no
    /// token stands in the way of reading, so that errors of both kinds are at the same place.
    pub fn with_wrong_tokens(&mut self, source: &SourceText, wrong: Vec<Diagnostic>) {
        if let Some(tree) = self.tree.value.take() {
            self.parts = Some(Parts {
                tree,
                gaps: Vec::new(),
            });
        }
        let mut said = std::mem::take(&mut self.tree.diagnostics);
        // What is begun like a token and never finished swallows what closes the rest.
        let unfinished = |one: &Diagnostic| one.code == codes::TOKEN_UNFINISHED;
        let ends: Vec<u32> = wrong
            .iter()
            .filter(|one| unfinished(one))
            .map(Diagnostic::start)
            .collect();
        let line = |at: u32| source.line_of(at);
        said.retain(|one| {
            let is_end = one.code == codes::SYNTAX_UNFINISHED;
            let is_after = |end: &u32| is_end && one.start() >= *end;
            !ends
                .iter()
                .any(|end| is_after(end) || line(*end) == line(one.start()))
        });
        let spans = said.iter().filter_map(|one| Some(one.place.as_ref()?.span));
        let told: Vec<Span> = spans.chain(std::mem::take(&mut self.told)).collect();
        let is_said = |one: &Diagnostic| {
            let at = one.start();
            one.code == codes::TOKEN_UNKNOWN
                && told.iter().any(|span| span.start <= at && at < span.end)
        };
        let mut all: Vec<Diagnostic> = wrong.into_iter().filter(|one| !is_said(one)).collect();
        if let Some(parts) = &mut self.parts {
            let lines = ends.iter().map(|end| source.line_span(line(*end)));
            parts.gaps.extend(lines);
        }
        let gaps = self.parts.iter().flat_map(|parts| &parts.gaps);
        let gaps: Vec<Span> = gaps.copied().collect();
        let in_gap = |one: &Diagnostic| {
            let at = one.start() as usize;
            gaps.iter().any(|gap| gap.range().contains(&at))
        };
        all.retain(|one| one.code != codes::TOKEN_UNKNOWN || !in_gap(one));
        all.extend(said);
        all.sort_by_key(Diagnostic::start);
        self.tree.diagnostics = once(all);
    }
}

/// The same without what is said of the same odd text again, or of the bracket that belongs to it:
/// its first place is told, with the number of the others.
fn once(all: Vec<Diagnostic>) -> Vec<Diagnostic> {
    let mut kept: Vec<(Diagnostic, usize)> = Vec::new();
    for one in all {
        let odd = odd_text(&one);
        let known = kept
            .iter_mut()
            .find(|(other, _)| odd.is_some() && odd_text(other) == odd);
        match known {
            Some((_, others)) => *others += 1,
            None => kept.push((one, 0)),
        }
    }
    let told = kept.into_iter().map(|(one, others)| {
        if others == 0 {
            return one;
        }
        let places = plural(others, "other place");
        one.why(format!("it stands in {places}, too"))
    });
    told.collect()
}

/// The odd text that an error is about; an opening bracket for the one that closes it.
fn odd_text(one: &Diagnostic) -> Option<String> {
    let place = one
        .place
        .as_ref()
        .filter(|_| one.code == codes::TOKEN_UNKNOWN)?;
    let text = place.source.slice(place.span);
    let bracket = BRACKETS.iter().find(|(_, close)| *close == text);
    Some(bracket.map_or(text, |(open, _)| open).to_owned())
}
