//! Lines that get too long, broken where that reads well: at the outermost place first. What stands in
//! brackets gets lines of its own, item by item; an operation is broken before its signs. The lines that
//! come of it are looked at in turn, each token once in each pair of brackets that is opened up, so that it
//! all takes time in proportion to the text.

use rustc_hash::FxHashMap;

use super::Looked;
use crate::lexing::{Token, is_closing, is_opening};
use crate::source::Span;
use crate::tree::{NodeId, Tree};

/// A place where a line can be broken.
#[derive(Clone, Copy)]
struct Place {
    level: usize,
    /// Whether a sign of an operation stands there, and no item of a list.
    is_sign: bool,
}

/// The lines of a program that are too long.
pub(super) struct Breaking<'l> {
    looked: &'l Looked,
    solid: &'l [Token],
    width: usize,
    step: usize,
    /// The number of the bracket that closes each one that opens.
    closing: FxHashMap<usize, usize>,
    /// Where the items of lists begin, and the signs of operations, and how deep that is in the tree; what
    /// begins where what is around it begins is as deep as that.
    places: FxHashMap<u32, Place>,
    /// How many characters lie before the beginning and the end of each token.
    columns: Vec<(usize, usize)>,
    /// The tokens before which lines are broken.
    broken: Vec<usize>,
}

impl<'l> Breaking<'l> {
    pub fn new(looked: &'l Looked, solid: &'l [Token], width: usize, step: usize) -> Breaking<'l> {
        let mut breaking = Breaking {
            looked,
            solid,
            width,
            step,
            closing: FxHashMap::default(),
            places: FxHashMap::default(),
            columns: columns(looked, solid),
            broken: Vec::new(),
        };
        breaking.find_brackets();
        if let Some(tree) = &looked.examined.tree {
            breaking.find_levels(tree);
        }
        breaking
    }

    /// The blanks before which lines are broken: what stands between two tokens.
    pub fn gaps(mut self) -> Vec<Span> {
        let mut first = 0;
        while first < self.solid.len() {
            let line = self.line(first);
            let rest = self.solid[first..].iter();
            let count = rest.take_while(|token| self.line_of(token) == line).count();
            let next = first + count.max(1);
            // A comment at the end of a line may stand out.
            let mut end = next;
            while end > first && self.is_comment(end - 1) {
                end -= 1;
            }
            let text_start = self.looked.source.line_span(line).start;
            let indent = self.chars(text_start, self.solid[first].span.start);
            self.fit(first, end, indent);
            first = next;
        }
        self.broken.sort_unstable();
        self.broken.dedup();
        let gap = |at: &usize| Span {
            start: self.solid[at - 1].span.end,
            end: self.solid[*at].span.start,
        };
        self.broken.iter().filter(|at| **at > 0).map(gap).collect()
    }

    /// Breaks a stretch of tokens until it fits, if it can be.
    fn fit(&mut self, first: usize, end: usize, indent: usize) {
        let mut waiting = vec![(first, end, indent)];
        while let Some((first, end, indent)) = waiting.pop() {
            if first >= end || indent + self.width_of(first, end) <= self.width {
                continue;
            }
            let places = self.outermost(first, end);
            if !places.is_empty() {
                let (more, deeper) = (self.filled(first, end, indent, &places), self.step);
                self.cut((first, end), indent, deeper, &more, &mut waiting);
                continue;
            }
            let Some((open, close)) = self.widest_pair(first, end) else {
                continue;
            };
            self.broken.extend([open + 1, close]);
            let inside = indent + self.step;
            let items = self.outermost(open + 1, close);
            let items = if self.are_signs(&items) || are_short(&items, close) {
                self.filled(open + 1, close, inside, &items)
            } else {
                items
            };
            self.cut((open + 1, close), inside, 0, &items, &mut waiting);
            waiting.push((close, end, indent));
        }
    }

    /// Breaks a stretch before some tokens; its parts wait to be looked at, those after the first deeper.
    fn cut(
        &mut self,
        (first, end): (usize, usize),
        indent: usize,
        deeper: usize,
        before: &[usize],
        waiting: &mut Vec<(usize, usize, usize)>,
    ) {
        self.broken.extend(before);
        let starts = [first].into_iter().chain(before.iter().copied());
        let ends = before.iter().copied().chain([end]);
        for (start, end) in starts.zip(ends) {
            let more = if start == first { 0 } else { deeper };
            waiting.push((start, end, indent + more));
        }
    }

    /// The tokens in no brackets of a stretch at which something begins that is in as few forms as any.
    fn outermost(&self, first: usize, end: usize) -> Vec<usize> {
        let mut found: Vec<(usize, usize)> = Vec::new();
        let mut at = first;
        while at < end {
            let place = self.place(at).filter(|_| at > first);
            found.extend(place.map(|place| (place.level, at)));
            // What is in brackets is passed over.
            at = self.closing.get(&at).map_or(at, |close| *close) + 1;
        }
        let least = found.iter().map(|(level, _)| *level).min();
        let own = found.into_iter().filter(|(level, _)| Some(*level) == least);
        own.map(|(_, at)| at).collect()
    }

    fn place(&self, at: usize) -> Option<Place> {
        self.places.get(&self.solid[at].span.start).copied()
    }

    fn are_signs(&self, places: &[usize]) -> bool {
        let mut found = places.iter().filter_map(|at| self.place(*at));
        found.any(|place| place.is_sign)
    }

    /// Those of some places at which a stretch is to be broken so that each line has as much as fits.
    fn filled(&self, first: usize, end: usize, indent: usize, places: &[usize]) -> Vec<usize> {
        let mut found = Vec::new();
        let (mut start, mut room) = (first, self.width.saturating_sub(indent));
        for (number, place) in places.iter().enumerate() {
            let next = places.get(number + 1).copied().unwrap_or(end);
            if self.width_of(start, next) > room && *place > start {
                found.push(*place);
                start = *place;
                room = self.width.saturating_sub(indent + self.step);
            }
        }
        found
    }

    /// The pair of brackets of a stretch, in no others of it, that has the most in it.
    fn widest_pair(&self, first: usize, end: usize) -> Option<(usize, usize)> {
        let mut best = None;
        let mut at = first;
        while at < end {
            let Some(close) = self.closing.get(&at).copied().filter(|close| *close < end) else {
                at += 1;
                continue;
            };
            let width = self.width_of(at, close);
            if close > at + 1 && best.is_none_or(|(most, _)| width > most) {
                best = Some((width, (at, close)));
            }
            at = close + 1;
        }
        best.map(|(_, pair)| pair)
    }

    fn find_brackets(&mut self) {
        let mut open = Vec::new();
        for at in 0..self.solid.len() {
            if self.is_comment(at) {
                continue;
            }
            let text = self.looked.source.slice(self.solid[at].span);
            if is_opening(text) {
                open.push(at);
            } else if is_closing(text)
                && let Some(opens) = open.pop()
            {
                self.closing.insert(opens, at);
            }
        }
    }

    fn find_levels(&mut self, tree: &Tree) {
        let mut work: Vec<(NodeId, usize)> = vec![(tree.root(), 0)];
        while let Some((node, level)) = work.pop() {
            let Some(form) = tree.form(node) else {
                continue;
            };
            let mut children: Vec<(NodeId, bool)> = Vec::new();
            for field in 0..tree.field_count(node) {
                let own = tree.children(node, field).iter().enumerate();
                children.extend(own.map(|(at, child)| (*child, at > 0)));
            }
            children.sort_by_key(|(child, _)| tree.node(*child).span.start);
            self.find_places(tree, node, &children, level);
            let span = tree.node(node).span;
            work.extend(children.iter().map(|(child, _)| {
                let own = tree.node(*child).span;
                let is_front = own.start == span.start;
                // A chain of one operation has all of its signs as deep as the first.
                let is_chain = own.end == span.end && tree.form(*child) == Some(form);
                (*child, level + usize::from(!is_front && !is_chain))
            }));
        }
    }

    /// Takes note of the places of a node, whose children are given in order, each with whether it is an item
    /// that is not the first.
    fn find_places(
        &mut self,
        tree: &Tree,
        node: NodeId,
        children: &[(NodeId, bool)],
        level: usize,
    ) {
        for (child, _) in children.iter().filter(|(_, is_item)| *is_item) {
            let is_sign = false;
            let start = tree.node(*child).span.start;
            self.places.entry(start).or_insert(Place { level, is_sign });
        }
        let span = tree.node(node).span;
        let [first, last] = [children.first(), children.last()]
            .map(|child| child.map(|(child, _)| tree.node(*child).span));
        let begins = first.is_some_and(|first| self.is_at(first.start, span.start));
        let ends = last.is_some_and(|last| self.is_at(span.end, last.end));
        if !begins || !ends {
            return;
        }
        for pair in children.windows(2) {
            // Items have places of their own to be broken at.
            let end = tree.node(pair[0].0).span.end;
            if !pair[1].1
                && let Some(sign) = self.sign_behind(end, pair[1].0, tree)
            {
                let is_sign = true;
                self.places.entry(sign).or_insert(Place { level, is_sign });
            }
        }
    }

    /// Whether only brackets stand between two places.
    fn is_at(&self, one: u32, other: u32) -> bool {
        let (start, end) = (one.min(other), one.max(other));
        let text = self.looked.source.slice(Span { start, end });
        let is_bracket = |c: char| "()[]{}".contains(c) || c.is_whitespace();
        text.chars().all(is_bracket)
    }

    /// Where the sign begins that stands between a place and what comes next.
    fn sign_behind(&self, end: u32, next: NodeId, tree: &Tree) -> Option<u32> {
        let next = tree.node(next).span.start;
        let at = self.solid.partition_point(|token| token.span.start < end);
        let mut between = self.solid[at..].iter();
        let sign = between.find(|token| !is_closing(self.looked.source.slice(token.span)))?;
        let is_sign = !is_opening(self.looked.source.slice(sign.span));
        (is_sign && sign.span.start < next).then_some(sign.span.start)
    }

    fn line_of(&self, token: &Token) -> u32 {
        self.looked.source.line_of(token.span.start)
    }

    fn line(&self, at: usize) -> u32 {
        self.line_of(&self.solid[at])
    }

    fn is_comment(&self, at: usize) -> bool {
        self.looked
            .language
            .lexer()
            .kind(self.solid[at].kind)
            .ignored
    }

    fn chars(&self, start: u32, end: u32) -> usize {
        self.looked
            .source
            .slice(Span { start, end })
            .chars()
            .count()
    }

    /// How many characters a stretch of tokens has.
    fn width_of(&self, first: usize, end: usize) -> usize {
        let last = end.max(first + 1) - 1;
        self.columns[last].1 - self.columns[first].0
    }
}

/// Whether each item of a list is a single token, with what stands between two.
fn are_short(items: &[usize], end: usize) -> bool {
    let nexts = items.iter().skip(1).copied().chain([end]);
    items.iter().zip(nexts).all(|(item, next)| next - item <= 2)
}

/// How many characters lie before the beginning and the end of each token.
fn columns(looked: &Looked, solid: &[Token]) -> Vec<(usize, usize)> {
    let (mut at, mut count) = (0, 0);
    let mut before = |place: u32| {
        let start = std::mem::replace(&mut at, place);
        let end = place;
        count += looked.source.slice(Span { start, end }).chars().count();
        count
    };
    let ends = solid.iter().map(|token| {
        let start = before(token.span.start);
        (start, before(token.span.end))
    });
    ends.collect()
}
