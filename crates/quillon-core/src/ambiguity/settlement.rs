//! What would settle a doubt: the line of a precedence table that is missing, or another way
//! to write one of the forms.

use super::Grammar;
use super::changes::{Change, Side, Trial, told};
use crate::definition::{Definition, Form, Grouping};
use crate::parsing::Ambiguity;
use crate::source::Span;
use crate::tree::{NodeId, Tree};

/// The forms in which the two readings part.
pub(super) fn forms_of(definition: &Definition, ambiguity: &Ambiguity) -> [String; 2] {
    let [one, two] = &ambiguity.readings;
    let nodes = parting(definition, [one, two], [one.root(), two.root()]);
    [(one, nodes[0]), (two, nodes[1])].map(|(tree, node)| match tree.form(node) {
        Some(form) => definition.forms[form].name.text.clone(),
        None => String::new(),
    })
}

/// The outermost nodes at which two readings of one text part: their forms are not the same,
/// or what is in them groups in another way.
fn parting(definition: &Definition, trees: [&Tree; 2], nodes: [NodeId; 2]) -> [NodeId; 2] {
    let mut nodes = nodes;
    loop {
        let forms = [0, 1].map(|at| trees[at].form(nodes[at]));
        let (Some(form), true) = (forms[0], forms[0] == forms[1]) else {
            return nodes;
        };
        let children = [0, 1].map(|at| children(trees[at], nodes[at]));
        if children[0].len() == children[1].len()
            && definition.forms[form].has_inside(definition.forms[form].sort_name())
            && edges(trees[0], nodes[0], &children[0]) != edges(trees[1], nodes[1], &children[1])
        {
            return nodes;
        }
        let pairs = children[0].iter().zip(&children[1]);
        let mut differing = pairs.filter(|(one, two)| differ(trees, [**one, **two]));
        match differing.next() {
            Some((&one, &two))
                if [one, two]
                    .iter()
                    .zip(trees)
                    .all(|(n, t)| t.form(*n).is_some()) =>
            {
                nodes = [one, two];
            }
            _ => return nodes,
        }
    }
}

fn children(tree: &Tree, node: NodeId) -> Vec<NodeId> {
    let fields = 0..tree.field_count(node);
    fields
        .flat_map(|field| tree.children(node, field))
        .copied()
        .collect()
}

/// Where the children at the left and at the right edge of a node end and begin.
fn edges(tree: &Tree, node: NodeId, children: &[NodeId]) -> [Option<u32>; 2] {
    let whole = tree.node(node).span;
    let spans = [children.first(), children.last()].map(|child| child.map(|c| tree.node(*c).span));
    let first = spans[0].filter(|first| first.start == whole.start);
    let last = spans[1].filter(|last| last.end == whole.end);
    [first.map(|first| first.end), last.map(|last| last.start)]
}

fn differ(trees: [&Tree; 2], nodes: [NodeId; 2]) -> bool {
    let mut work = vec![nodes];
    while let Some([one, two]) = work.pop() {
        let (a, b) = (trees[0].node(one), trees[1].node(two));
        if a.span != b.span || trees[0].form(one) != trees[1].form(two) {
            return true;
        }
        for field in 0..trees[0].field_count(one) {
            let (a, b) = (trees[0].children(one, field), trees[1].children(two, field));
            if a.len() != b.len() {
                return true;
            }
            work.extend(a.iter().zip(b).map(|(a, b)| [*a, *b]));
        }
    }
    false
}

/// Every form in a tree, and what it covers.
fn forms_in<'a>(definition: &'a Definition, tree: &Tree) -> Vec<(&'a Form, Span)> {
    let mut work = vec![tree.root()];
    let mut forms = Vec::new();
    while let Some(node) = work.pop() {
        let form = tree.form(node).map(|form| &definition.forms[form]);
        forms.extend(form.map(|form| (form, tree.node(node).span)));
        work.extend(children(tree, node));
    }
    forms
}

/// What the one reading takes for one form, and the other for another; the smallest such piece.
fn taken_for<'a>(definition: &'a Definition, found: &Ambiguity) -> Option<[&'a str; 2]> {
    let [one, two] = found
        .readings
        .each_ref()
        .map(|tree| forms_in(definition, tree));
    let only = |own: &[(&'a Form, Span)], others: &[(&Form, Span)]| {
        let mut own = own.to_vec();
        own.retain(|(form, span)| {
            let mut others = others.iter();
            !others.any(|(other, there)| other.name == form.name && there == span)
        });
        own
    };
    let (one, two) = (only(&one, &two), only(&two, &one));
    let pairs = one.iter().flat_map(|a| two.iter().map(move |b| (a, b)));
    let alike = pairs.filter(|(a, b)| a.1 == b.1);
    let smallest = alike.min_by_key(|(a, _)| a.1.end - a.1.start);
    smallest.map(|(a, b)| [&*a.0.name.text, &*b.0.name.text])
}

/// A form that is there in one of the readings without any text of its own.
fn empty<'a>(definition: &'a Definition, found: &Ambiguity, around: &str) -> Option<&'a str> {
    let all = found.readings.iter();
    let mut all = all.flat_map(|tree| forms_in(definition, tree));
    let empty = all.find(|(form, span)| span.is_empty() && form.name.text != around);
    empty.map(|(form, _)| form.name.text.as_str())
}

/// A form of another sort in one of the readings that takes part in how the operators of a
/// sort group, and has no place in its table.
fn unranked_beside(definition: &Definition, sort: &str, found: &Ambiguity) -> Option<String> {
    let all = found.readings.iter();
    let all = all.flat_map(|tree| forms_in(definition, tree));
    let all = all.map(|(form, _)| form);
    let mut beside = all.filter(|form| {
        let edges = [form.fields.first(), form.fields.last()];
        let at_edge = edges.into_iter().flatten().any(|field| field.can_be(sort));
        form.sort_name() != sort
            && at_edge
            && definition.level_of(&form.name.text).is_none()
            && is_part_of_operator(definition, form, sort)
    });
    beside.next().map(|form| form.name.text.clone())
}

/// Whether an operator of a sort has forms of this one's sort in it.
fn is_part_of_operator(definition: &Definition, form: &Form, sort: &str) -> bool {
    let mut forms = definition.forms.iter();
    forms.any(|other| {
        other.sort_name() == sort
            && definition.level_of(&other.name.text).is_some()
            && other.has_inside(form.sort_name())
    })
}

/// What would settle it: a line of a precedence table, which of two forms wins, or another way to
/// write one of them. What can be tried is tried, and shown only if the text has one reading then.
pub(crate) fn settlement(grammar: Grammar<'_>, found: &Ambiguity) -> String {
    let definition = grammar.definition;
    let [one, two] = &forms_of(definition, found);
    if let Some(form) = empty(definition, found, one) {
        return format!("{form} can be written as nothing: let a part of it always be there");
    }
    let pair = taken_for(definition, found).unwrap_or([one, two]);
    let trial = Trial::of(grammar, found);
    let choices = [
        ranks(definition, one, two),
        beside(definition, one, found),
        wins(pair),
        wins([one, two]),
    ];
    for changes in choices {
        if let Some(told) = told(definition, &trial.kept(changes)) {
            return told;
        }
    }
    if pair[0] == pair[1] {
        format!("write {one} so that one can tell where each part of it ends")
    } else {
        format!("make {} or {} start or end differently", pair[0], pair[1])
    }
}

/// The ranks that two forms of one sort could get.
fn ranks(definition: &Definition, one: &str, two: &str) -> Vec<Change> {
    let [Some(a), Some(b)] = [one, two].map(|name| definition.form(name)) else {
        return Vec::new();
    };
    let sort = a.sort_name();
    if b.sort_name() != sort || !a.has_inside(sort) || !b.has_inside(sort) {
        return Vec::new();
    }
    let mut lacking: Vec<&str> = vec![one];
    if one != two {
        lacking.push(two);
    }
    lacking.retain(|form| definition.level_of(form).is_none());
    match lacking[..] {
        [] => Vec::new(),
        [only] if one != two => {
            let other = if only == one { two } else { one };
            let place = |side| Change::Place {
                form: only.to_owned(),
                side,
                other: other.to_owned(),
            };
            [Side::Beside, Side::Above, Side::Below].map(place).into()
        }
        _ => {
            let forms: Vec<String> = lacking.iter().map(|&form| form.to_owned()).collect();
            lines(sort, &forms, &[Grouping::Left, Grouping::Right])
        }
    }
}

/// A line for a form of another sort that takes part in how the operators of a form's sort group.
fn beside(definition: &Definition, form: &str, found: &Ambiguity) -> Vec<Change> {
    let sort = definition.form(form).map(Form::sort_name);
    let beside = sort.and_then(|sort| Some((sort, unranked_beside(definition, sort, found)?)));
    beside.map_or_else(Vec::new, |(sort, form)| {
        let groupings = [Grouping::Suffix, Grouping::Prefix, Grouping::Left];
        lines(sort, &[form], &groupings)
    })
}

fn lines(sort: &str, forms: &[String], groupings: &[Grouping]) -> Vec<Change> {
    let line = |&grouping: &Grouping| Change::Line {
        sort: sort.to_owned(),
        grouping,
        forms: forms.to_vec(),
    };
    groupings.iter().map(line).collect()
}

/// That one form wins over another, or the other way round.
fn wins([one, two]: [&str; 2]) -> Vec<Change> {
    let pairs = [[one, two], [two, one]].into_iter();
    pairs
        .filter(|[winner, loser]| winner != loser)
        .map(|[winner, loser]| Change::Wins {
            winner: winner.to_owned(),
            loser: loser.to_owned(),
        })
        .collect()
}
