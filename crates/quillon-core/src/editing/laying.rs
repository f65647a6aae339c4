//! What the `laid out` clauses say of a program as it stands: before which tokens a line begins, and where
//! blanks stand.

use rustc_hash::FxHashMap;

use super::Looked;
use crate::definition::{Form, LaidOut, Lay, Printed};
use crate::lexing::{Token, is_closing, is_opening};
use crate::tree::{NodeId, Tree};

/// What is said of the places before tokens, by where those begin.
#[derive(Default)]
pub(super) struct Laid {
    lines: FxHashMap<u32, usize>,
    blanks: FxHashMap<u32, bool>,
}

impl Laid {
    /// What is said of a program, of which these are the tokens that can be seen.
    pub fn of(looked: &Looked, solid: &[Token]) -> Laid {
        let definition = looked.language.definition();
        let mut laid = Laid::default();
        let Some(tree) = looked.examined.tree.as_ref() else {
            return laid;
        };
        if definition.forms.iter().all(|form| form.laid_out.is_empty()) {
            return laid;
        }
        let lexer = looked.language.lexer();
        let kept = solid.iter().filter(|token| !lexer.kind(token.kind).ignored);
        let kept: Vec<Token> = kept.copied().collect();
        let mut work = vec![tree.root()];
        while let Some(node) = work.pop() {
            let Some(form) = tree.form(node) else {
                continue;
            };
            for field in 0..tree.field_count(node) {
                work.extend(tree.children(node, field));
            }
            let form = &definition.forms[form];
            if !form.laid_out.is_empty() {
                Node::new(looked, tree, &kept, node, form).lay(&mut laid);
            }
        }
        laid
    }

    /// How many line ends there are at the least before a token.
    pub fn line_ends(&self, start: u32) -> usize {
        self.lines.get(&start).copied().unwrap_or_default()
    }

    /// Whether a blank stands before a token, where that is said.
    pub fn blank(&self, start: u32) -> Option<bool> {
        self.blanks.get(&start).copied()
    }

    fn line(&mut self, token: Option<&Token>, ends: usize) {
        if let Some(token) = token {
            let known = self.lines.entry(token.span.start).or_default();
            *known = ends.max(*known);
        }
    }

    /// Of what stands side by side, the one behind counts.
    fn blanks_around(&mut self, around: [Option<&Token>; 2], [before, behind]: [Option<bool>; 2]) {
        if let (Some(token), Some(blank)) = (around[0], before) {
            self.blanks.insert(token.span.start, blank);
        }
        if let (Some(token), Some(blank)) = (around[1], behind) {
            self.blanks.entry(token.span.start).or_insert(blank);
        }
    }
}

/// A node of a form of which something is said.
struct Node<'n> {
    looked: &'n Looked,
    tree: &'n Tree,
    kept: &'n [Token],
    id: NodeId,
    form: &'n Form,
    /// The texts that the form itself is written with, and those that stand between items.
    literals: Vec<&'n str>,
    separators: Vec<String>,
}

impl<'n> Node<'n> {
    fn new(
        looked: &'n Looked,
        tree: &'n Tree,
        kept: &'n [Token],
        node: NodeId,
        form: &'n Form,
    ) -> Node<'n> {
        let (mut literals, mut separators) = (Vec::new(), Vec::new());
        if let Some(written) = &*form.written {
            written.literals(&mut literals);
            written.separators(&mut separators);
        }
        Node {
            looked,
            tree,
            kept,
            id: node,
            form,
            literals,
            separators,
        }
    }

    fn lay(&self, laid: &mut Laid) {
        for one in &self.form.laid_out {
            if one.literal {
                self.lay_literal(one, laid);
            } else if let Some(field) = self.form.field_index(&one.what.text) {
                self.lay_field(field, one.how, laid);
            }
        }
    }

    fn lay_field(&self, field: usize, how: Printed, laid: &mut Laid) {
        let children = self.tree.children(self.id, field);
        for (number, child) in children.iter().enumerate() {
            let first = self.first_of(*child);
            let is_front = first.is_none_or(|at| self.kept[at].span.start <= self.start());
            match how {
                Printed::Laid(Lay::Inline) => {}
                Printed::Laid(way) => {
                    let ends = if way == Lay::Apart && number > 0 {
                        2
                    } else {
                        1
                    };
                    if !is_front {
                        laid.line(first.map(|at| &self.kept[at]), ends);
                    }
                    if way == Lay::Deeper && number + 1 == children.len() {
                        laid.line(self.behind_items(*child), 1);
                    }
                }
                Printed::Blanks(blanks) => {
                    let first = first.filter(|_| !is_front).map(|at| &self.kept[at]);
                    laid.blanks_around([first, self.behind(*child)], blanks);
                }
            }
        }
    }

    fn lay_literal(&self, one: &LaidOut, laid: &mut Laid) {
        for at in self.own_tokens() {
            let token = &self.kept[at];
            if self.looked.source.slice(token.span) != one.what.text {
                continue;
            }
            let before = Some(token).filter(|token| token.span.start > self.start());
            match one.how {
                Printed::Laid(Lay::Inline) => {}
                Printed::Laid(Lay::Lines | Lay::Deeper | Lay::Apart) => laid.line(before, 1),
                Printed::Blanks(blanks) => {
                    let next = self.kept.get(at + 1).filter(|next| self.holds(next));
                    laid.blanks_around([before, next], blanks);
                }
            }
        }
    }

    fn start(&self) -> u32 {
        self.tree.node(self.id).span.start
    }

    fn holds(&self, token: &Token) -> bool {
        token.span.end <= self.tree.node(self.id).span.end
    }

    /// Whether a bracket is one around an operand, and not one of the form.
    fn is_around(&self, token: &Token, is_bracket: fn(&str) -> bool) -> bool {
        let text = self.looked.source.slice(token.span);
        is_bracket(text) && !self.literals.contains(&text)
    }

    /// The number of the first token of a child, brackets around it included.
    fn first_of(&self, child: NodeId) -> Option<usize> {
        let start = self.tree.node(child).span.start;
        let mut at = self.at(start);
        self.kept.get(at).filter(|token| self.holds(token))?;
        while at > 0
            && self.kept[at - 1].span.start >= self.start()
            && self.is_around(&self.kept[at - 1], is_opening)
        {
            at -= 1;
        }
        Some(at)
    }

    /// The token behind a child, brackets around it left out, if the form goes on there.
    fn behind(&self, child: NodeId) -> Option<&'n Token> {
        let end = self.tree.node(child).span.end;
        let mut rest = self.kept[self.at(end)..].iter();
        let next = rest.find(|token| !self.is_around(token, is_closing));
        next.filter(|token| self.holds(token))
    }

    /// The same behind the last item of a list, which a separator may follow.
    fn behind_items(&self, child: NodeId) -> Option<&'n Token> {
        let behind = self.behind(child)?;
        let text = self.looked.source.slice(behind.span);
        if self.separators.iter().all(|one| one != text) {
            return Some(behind);
        }
        let next = self.kept.get(self.at(behind.span.end));
        next.filter(|token| self.holds(token))
    }

    /// The number of the first token from a place on.
    fn at(&self, start: u32) -> usize {
        self.kept.partition_point(|token| token.span.start < start)
    }

    /// The numbers of the tokens that are none of its children's.
    fn own_tokens(&self) -> Vec<usize> {
        let fields = 0..self.tree.field_count(self.id);
        let children = fields.flat_map(|field| self.tree.children(self.id, field));
        let mut spans: Vec<_> = children.map(|child| self.tree.node(*child).span).collect();
        spans.sort_unstable_by_key(|span| span.start);
        let whole = self.tree.node(self.id).span;
        let mut found = Vec::new();
        let mut from = whole.start;
        for (start, end) in spans
            .iter()
            .map(|span| (span.start, span.end))
            .chain([(whole.end, whole.end)])
        {
            found.extend(self.at(from)..self.at(start.max(from)));
            from = from.max(end);
        }
        found
    }
}
