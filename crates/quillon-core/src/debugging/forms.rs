//! Where forms begin to be carried out.

use crate::bytecode::Function;
use crate::definition::Definition;
use crate::source::Span;
use crate::tree::Tree;

/// The stretches of a text that are read as a form, each with whether it is known where it begins.
pub(super) struct Beginnings {
    /// In order, the outer before the inner.
    spans: Vec<Span>,
    /// The innermost of them around each.
    around: Vec<Option<usize>>,
    has_begun: Vec<bool>,
}

impl Beginnings {
    /// Those of a form, by its name.
    pub fn of(definition: &Definition, tree: &Tree, name: &str) -> Beginnings {
        let wanted = definition.form(name);
        let mut spans = Vec::new();
        let mut work = vec![tree.root()];
        while let Some(node) = work.pop() {
            let form = tree.form(node).map(|form| &definition.forms[form]);
            if form.is_some() && form.map(|form| &form.name) == wanted.map(|form| &form.name) {
                spans.push(tree.node(node).span);
            }
            let fields = 0..tree.field_count(node);
            work.extend(fields.flat_map(|field| tree.children(node, field)));
        }
        spans.sort_unstable_by_key(|span| (span.start, std::cmp::Reverse(span.end)));
        spans.dedup();
        let mut around = Vec::with_capacity(spans.len());
        let mut open: Vec<usize> = Vec::new();
        for (at, span) in spans.iter().enumerate() {
            while open.pop_if(|outer| spans[*outer].end < span.end).is_some() {}
            around.push(open.last().copied());
            open.push(at);
        }
        Beginnings {
            has_begun: vec![false; spans.len()],
            around,
            spans,
        }
    }

    /// The instructions of a function at which one of them begins. A function comes after the one that it is
    /// made in, which begins what it has a part of.
    pub fn within(&mut self, function: &Function) -> Vec<usize> {
        let mut found = Vec::new();
        for at in function.starts() {
            let Some(site) = function.site(at).map(|site| site.whole.span) else {
                continue;
            };
            let before = self.spans.partition_point(|span| span.start <= site.start);
            let mut next = before.checked_sub(1);
            while let Some(number) = next.filter(|number| !self.has_begun[*number]) {
                next = self.around[number];
                if site.end <= self.spans[number].end {
                    self.has_begun[number] = true;
                    found.push(at);
                }
            }
        }
        found.dedup();
        found
    }
}
