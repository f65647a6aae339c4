//! What would settle a doubt: the line of a precedence table that is missing, or another way
//! to write one of the forms.

use crate::definition::{Definition, Form};
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
            work.extend(a.into_iter().zip(b).map(|(a, b)| [a, b]));
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

/// What would settle it: the line of the precedence table that is missing, or another way
/// to write one of the forms.
pub(crate) fn settlement(definition: &Definition, found: &Ambiguity) -> String {
    let [one, two] = &forms_of(definition, found);
    if let Some(form) = empty(definition, found, one) {
        return format!("{form} can be written as nothing: let a part of it always be there");
    }
    let differently =
        |one: &str, two: &str| format!("make {one} or {two} start or end differently");
    let sort = |form: &str| definition.form(form).map(|f| f.sort_name().to_owned());
    let (Some(sort), true) = (sort(one), sort(one) == sort(two)) else {
        return differently(one, two);
    };
    let all = [one, two].into_iter();
    let have_operands = all
        .clone()
        .all(|form| definition.form(form).is_some_and(|f| f.has_inside(&sort)));
    let missing: Vec<&str> = all
        .filter(|form| have_operands && definition.level_of(form).is_none())
        .map(String::as_str)
        .collect();
    let table = format!("`precedence of {sort}`");
    match (one == two, &missing[..]) {
        (true, [_, ..]) => return format!("add a line `left {one}` or `right {one}` to {table}"),
        (false, [only]) => {
            let other = if *only == one.as_str() { two } else { one };
            return format!("rank {only} in {table}, beside or above {other}");
        }
        (false, [_, _]) => return format!("rank {one} and {two} in {table}"),
        _ => {}
    }
    if let Some(other) = unranked_beside(definition, &sort, found) {
        return format!("rank {other} in {table}, too");
    }
    match taken_for(definition, found) {
        Some([one, two]) => differently(one, two),
        None if one == two => {
            format!("write {one} so that one can tell where each part of it ends")
        }
        None => format!(
            "put {two} and what {one} is made with on lines of their own in {table}, the one to be chosen below the other, or {}",
            differently(one, two)
        ),
    }
}
