//! How a text is made up: what can be folded, and what is around a place.

use super::Looked;
use crate::source::Span;
use crate::tree::NodeId;

impl Looked {
    /// The stretches of several lines that can be folded, each with whether it is a comment: of those
    /// that begin on one line, the longest.
    pub fn foldings(&self) -> Vec<(Span, bool)> {
        let mut found: Vec<(Span, bool)> = Vec::new();
        if let Some(tree) = &self.examined.tree {
            let nodes = (0..tree.len() as u32).map(NodeId);
            let forms = nodes.filter(|node| tree.form(*node).is_some() && *node != tree.root());
            found.extend(forms.map(|node| (tree.node(node).span, false)));
        }
        let lexer = self.language.lexer();
        let ignored = self.tokens().filter(|token| lexer.kind(token.kind).ignored);
        let remarks = ignored.filter(|token| !self.source.slice(token.span).trim().is_empty());
        found.extend(remarks.map(|token| (token.span, true)));
        let mut found: Vec<((u32, u32), (Span, bool))> = found
            .into_iter()
            .map(|one| (self.lines_of(one.0), one))
            .filter(|((first, last), _)| first < last)
            .collect();
        found.sort_by_key(|((first, last), (span, _))| (*first, std::cmp::Reverse(*last), *span));
        found.dedup_by_key(|((first, _), _)| *first);
        found.into_iter().map(|(_, one)| one).collect()
    }

    /// The stretches around a place, from the token on outwards.
    pub fn around(&self, offset: u32) -> Vec<Span> {
        let token = self.token_at(offset).map(|token| token.span);
        let tree = self.examined.tree.as_ref();
        let path = tree.map_or_else(Vec::new, |tree| {
            let at = token.map_or(offset, |token| token.start);
            let path = tree.path(at).into_iter().rev();
            path.map(|step| tree.node(step.node).span).collect()
        });
        let whole = Span::new(0, self.source.text().len());
        nested(token.into_iter().chain(path), whole)
    }
}

/// Those of some stretches that contain the ones before them, and the whole.
pub(super) fn nested(stretches: impl IntoIterator<Item = Span>, whole: Span) -> Vec<Span> {
    let mut all: Vec<Span> = Vec::new();
    for span in stretches.into_iter().chain([whole]) {
        let is_larger = all
            .last()
            .is_none_or(|last| span != *last && span.start <= last.start && span.end >= last.end);
        if is_larger {
            all.push(span);
        }
    }
    all
}
