//! How deep the lines of a program stand: one step further in than the line on which the innermost form
//! begins that they go on with, or its innermost open bracket. What closes a bracket stands as deep as the
//! line that opens it, and so does a word of a form behind lines of its own.

use rustc_hash::FxHashMap;

use super::Looked;
use crate::definition::Count;
use crate::lexing::{Token, is_closing, is_opening};
use crate::tree::{Child, NodeId, Tree};

/// No line stands deeper than so many steps, so that what is put in grows with the program and no faster.
const DEEPEST: usize = 100;

/// The depth of the tokens that begin lines.
pub(super) struct Depths {
    /// By the number of the token among those that can be seen.
    depths: FxHashMap<usize, usize>,
}

impl Depths {
    pub fn of(looked: &Looked, solid: &[Token]) -> Depths {
        let mut measuring = Measuring::new(looked, solid);
        for at in 0..solid.len() {
            measuring.measure(at);
        }
        Depths {
            depths: measuring.of_token,
        }
    }

    /// How many steps a token is set in that begins a line.
    pub fn of_token(&self, at: usize) -> usize {
        let depth = self.depths.get(&at).copied();
        depth.unwrap_or_default().min(DEEPEST)
    }
}

/// An open bracket, or a form that has begun: where, and on which line.
#[derive(Clone, Copy)]
struct Begun {
    at: u32,
    line: u32,
}

struct Measuring<'l> {
    looked: &'l Looked,
    solid: &'l [Token],
    tree: Option<&'l Tree>,
    /// The forms of the tree, in the order in which they begin, the outer before the inner.
    nodes: Vec<NodeId>,
    next_node: usize,
    /// Those that are not over.
    around: Vec<NodeId>,
    brackets: Vec<Begun>,
    /// The number of the next token from each on that is no comment.
    next_kept: Vec<usize>,
    of_token: FxHashMap<usize, usize>,
    of_line: FxHashMap<u32, usize>,
}

impl<'l> Measuring<'l> {
    fn new(looked: &'l Looked, solid: &'l [Token]) -> Measuring<'l> {
        let tree = looked.examined.tree.as_ref();
        let mut nodes = Vec::new();
        let mut work: Vec<NodeId> = tree.iter().map(|tree| tree.root()).collect();
        while let (Some(tree), Some(node)) = (tree, work.pop()) {
            if tree.form(node).is_some() {
                nodes.push(node);
                for field in (0..tree.field_count(node)).rev() {
                    work.extend(tree.children(node, field).iter().rev());
                }
            }
        }
        if let Some(tree) = tree {
            // Fields need not stand in the order in which they are named.
            nodes.sort_by_key(|node| tree.node(*node).span.start);
        }
        let mut next_kept = vec![solid.len(); solid.len()];
        for at in (0..solid.len()).rev() {
            let is_ignored = looked.language.lexer().kind(solid[at].kind).ignored;
            let after = next_kept.get(at + 1).copied().unwrap_or(solid.len());
            next_kept[at] = if is_ignored { after } else { at };
        }
        Measuring {
            next_kept,
            looked,
            solid,
            tree,
            nodes,
            next_node: 0,
            around: Vec::new(),
            brackets: Vec::new(),
            of_token: FxHashMap::default(),
            of_line: FxHashMap::default(),
        }
    }

    fn line(&self, at: u32) -> u32 {
        self.looked.source.line_of(at)
    }

    fn begins_line(&self, at: usize) -> bool {
        let start = self.solid[at].span.start;
        at.checked_sub(1).is_none_or(|before| {
            let end = self.solid[before].span.end;
            // A comment can have the end of its line in it.
            let bytes = self.looked.source.text().as_bytes();
            bytes[(end.max(1) - 1) as usize..start as usize].contains(&b'\n')
        })
    }

    fn measure(&mut self, at: usize) {
        let token = self.solid[at];
        let text = self.looked.source.slice(token.span);
        if self.begins_line(at) {
            let depth = self.depth(at);
            self.of_token.insert(at, depth);
            let line = self.line(token.span.start);
            self.of_line.insert(line, depth);
        }
        if self.is_ignored(token) {
            return;
        }
        if is_opening(text) {
            let (at, line) = (token.span.start, self.line(token.span.start));
            self.brackets.push(Begun { at, line });
        } else if is_closing(text) {
            self.brackets.pop();
        }
    }

    fn is_ignored(&self, token: Token) -> bool {
        self.looked.language.lexer().kind(token.kind).ignored
    }

    /// The innermost form around a place that begins before it.
    fn form_around(&mut self, at: u32) -> Option<NodeId> {
        let tree = self.tree?;
        while let Some(&node) = self.nodes.get(self.next_node)
            && tree.node(node).span.start < at
        {
            self.leave(tree, tree.node(node).span.start);
            self.around.push(node);
            self.next_node += 1;
        }
        self.leave(tree, at);
        self.around.last().copied()
    }

    fn leave(&mut self, tree: &Tree, at: u32) {
        while self
            .around
            .last()
            .is_some_and(|node| tree.node(*node).span.end <= at)
        {
            self.around.pop();
        }
    }

    /// How deep the line stands that a token begins.
    fn depth(&mut self, at: usize) -> usize {
        let token = self.solid[at];
        if self.is_ignored(token) {
            return self.depth_of_comment(at);
        }
        let start = token.span.start;
        let text = self.looked.source.slice(token.span);
        let bracket = self.brackets.last().copied();
        if let Some(bracket) = bracket.filter(|_| is_closing(text)) {
            return self.of_line(bracket.line);
        }
        let form = self.form_around(start);
        let begun = form.and_then(|form| {
            let at = self.tree?.node(form).span.start;
            let line = self.line(at);
            Some(Begun { at, line })
        });
        let own = form.is_some_and(|form| {
            self.is_no_deeper(form, token) || self.is_operation_on_own_lines(form)
        });
        match (begun, bracket) {
            (Some(form), Some(bracket)) if bracket.at >= form.at => {
                self.of_line(bracket.line) + usize::from(bracket.at > form.at || !own)
            }
            (Some(form), _) => self.of_line(form.line) + usize::from(!own),
            (None, Some(bracket)) => self.of_line(bracket.line) + 1,
            (None, None) => 0,
        }
    }

    fn of_line(&self, line: u32) -> usize {
        self.of_line.get(&line).copied().unwrap_or_default()
    }

    /// A comment stands as what comes after it; before what closes a bracket, or a form, one step
    /// further in.
    fn depth_of_comment(&mut self, at: usize) -> usize {
        let next = self.next_kept[at];
        if next == self.solid.len() {
            return 0;
        }
        let depth = self.depth(next);
        let text = self.looked.source.slice(self.solid[next].span);
        let form = self.form_around(self.solid[next].span.start);
        let is_back = is_closing(text)
            || form.is_some_and(|form| self.is_word_behind_lines(form, self.solid[next]));
        depth + usize::from(is_back)
    }

    /// Whether a token that goes on with a form stands no deeper than the form: an opening bracket, an
    /// item of what the form begins with, or a word behind lines of its own.
    fn is_no_deeper(&self, form: NodeId, token: Token) -> bool {
        let text = self.looked.source.slice(token.span);
        text == "{"
            || is_opening(text) && !self.begins_child(form, token)
            || self.is_item_in_front(form, token)
            || self.is_word_behind_lines(form, token)
    }

    fn begins_child(&self, form: NodeId, token: Token) -> bool {
        let Some(tree) = self.tree else {
            return false;
        };
        let mut fields = 0..tree.field_count(form);
        let start = |child: &NodeId| tree.node(*child).span.start;
        fields.any(|field| {
            let children = tree.children(form, field);
            let found = children.binary_search_by_key(&token.span.start, start);
            found.is_ok()
        })
    }

    /// Whether the sort of a form has operators.
    fn is_ranked(&self, form: usize) -> bool {
        let definition = self.looked.language.definition();
        let mut tables = definition.precedence.iter();
        tables.any(|table| table.sort.text == definition.forms[form].sort_name())
    }

    /// Whether a form around is an operation that begins a line and goes on with another form: its
    /// operands stand under each other then.
    fn is_operation_on_own_lines(&self, form: NodeId) -> bool {
        let Some(tree) = self.tree else {
            return false;
        };
        let start = tree.node(form).span.start;
        let outer = self
            .around
            .iter()
            .rposition(|node| tree.node(*node).span.start < start);
        let Some((parent, whole)) =
            outer.and_then(|outer| Some((self.around[outer], *self.around.get(outer + 1)?)))
        else {
            return false;
        };
        let is_single = (0..tree.field_count(parent))
            .any(|field| matches!(tree.field(parent, field), Child::One(child) if child == whole));
        let line = self.looked.source.line_span(self.line(start));
        let before = &self.looked.source.text()[line.start as usize..start as usize];
        let is_operation = tree.form(whole).is_some_and(|whole| self.is_ranked(whole));
        is_operation && is_single && before.trim().is_empty()
    }

    /// Whether a token begins an item of a list with which a form begins that is no operator.
    fn is_item_in_front(&self, form: NodeId, token: Token) -> bool {
        let Some((tree, index)) = self.tree.and_then(|tree| Some((tree, tree.form(form)?))) else {
            return false;
        };
        let own = &self.looked.language.definition().forms[index];
        let start = tree.node(form).span.start;
        let mut fields = own.fields.iter().enumerate();
        !self.is_ranked(index)
            && fields.any(|(at, field)| {
                let children = tree.children(form, at);
                let begins = children
                    .binary_search_by_key(&token.span.start, |child| tree.node(*child).span.start);
                field.count == Count::Many
                    && begins.is_ok()
                    && children
                        .first()
                        .is_some_and(|first| tree.node(*first).span.start == start)
            })
    }

    /// Whether a token is a word of a form, behind something of it that begins a line; or the last word or
    /// sign of it.
    fn is_word_behind_lines(&self, form: NodeId, token: Token) -> bool {
        let Some(tree) = self.tree else {
            return false;
        };
        let text = self.looked.source.slice(token.span);
        let kind = self.looked.language.lexer().kind(token.kind);
        if !kind.is_literal() || self.begins_child(form, token) {
            return false;
        }
        let whole = tree.node(form).span;
        if whole.end == token.span.end {
            return true;
        }
        if !text.starts_with(char::is_alphabetic) {
            return false;
        }
        let first_line = self.line(whole.start);
        let begins_line = |child: &NodeId| {
            let start = tree.node(*child).span.start;
            let line = self.line(start);
            let text = self.looked.source.text();
            let line_start = self.looked.source.line_span(line).start as usize;
            line > first_line
                && start < token.span.start
                && text[line_start..start as usize].trim().is_empty()
        };
        let mut fields = 0..tree.field_count(form);
        fields.any(|field| tree.children(form, field).iter().any(begins_line))
    }
}
