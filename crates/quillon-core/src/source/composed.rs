//! Texts put together from several files: every place in one leads back to its file.

use std::sync::Arc;

use super::{SourceText, Span};

/// A stretch of a composed text, and where it comes from.
#[derive(PartialEq, Eq)]
pub(super) struct Stretch {
    /// Where the stretch starts in the composed text.
    start: u32,
    source: Arc<SourceText>,
    /// Where it comes from.
    span: Span,
}

/// Puts a text together.
#[derive(Default)]
pub struct Composer {
    text: String,
    parts: Vec<Stretch>,
}

impl Composer {
    /// Adds a stretch of a text, which ends in a line end then.
    pub fn add(&mut self, source: &Arc<SourceText>, span: Span) {
        if span.is_empty() {
            return;
        }
        self.parts.push(Stretch {
            start: self.text.len() as u32,
            source: Arc::clone(source),
            span,
        });
        self.text.push_str(source.slice(span));
        if !self.text.ends_with('\n') {
            self.text.push('\n');
        }
    }

    /// The whole text, under the name of the file it was asked for by.
    pub fn finish(self, name: &str) -> Arc<SourceText> {
        SourceText::with_parts(name.to_owned(), self.text, self.parts)
    }
}

impl SourceText {
    /// The names of the files that it is put together from, its own first.
    pub fn files(&self) -> Vec<&str> {
        let mut names = vec![self.name()];
        for part in &self.parts {
            if !names.contains(&part.source.name()) {
                names.push(part.source.name());
            }
        }
        names
    }

    /// Where a span of a composed text comes from; other texts are their own origin.
    pub fn origin(self: &Arc<SourceText>, span: Span) -> (Arc<SourceText>, Span) {
        let after = self.parts.partition_point(|part| part.start <= span.start);
        let Some(part) = after.checked_sub(1).map(|at| &self.parts[at]) else {
            return (Arc::clone(self), span);
        };
        let moved = |offset: u32| {
            let inside = offset.saturating_sub(part.start);
            (part.span.start + inside).min(part.span.end)
        };
        let span = Span {
            start: moved(span.start),
            end: moved(span.end),
        };
        (Arc::clone(&part.source), span)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_lead_back_to_their_files() {
        let outer = SourceText::new("outer", "one\ninclude\ntwo\n");
        let inner = SourceText::new("inner", "three");
        let mut composer = Composer::default();
        composer.add(&outer, Span::new(0, 4));
        composer.add(&inner, Span::new(0, 5));
        composer.add(&outer, Span::new(12, 16));
        let whole = composer.finish("outer");
        assert_eq!(whole.text(), "one\nthree\ntwo\n");
        let place = |text: &str| {
            let at = whole.text().find(text).unwrap();
            let (source, span) = whole.origin(Span::new(at, at + text.len()));
            format!(
                "{} {} {}",
                source.name(),
                source.position(span.start),
                source.slice(span)
            )
        };
        assert_eq!(place("one"), "outer 1:1 one");
        assert_eq!(place("three"), "inner 1:1 three");
        assert_eq!(place("two"), "outer 3:1 two");
    }
}
