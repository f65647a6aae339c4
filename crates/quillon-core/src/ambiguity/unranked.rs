//! Many operators without a rank: one warning that names them, with the lines to add.

use super::{Doubt, Found};
use crate::definition::{Definition, Form, Part, Thing};
use crate::diagnostic::{one_of, plural, quote};
use crate::purposes::{Purpose, Purposes};

/// So many pairs that lack a rank are told one by one.
const FEW: usize = 2;

/// Ambiguities of which those between operators without a rank are one, if they are many.
pub(super) fn grouped(definition: &Definition, found: Vec<Found>) -> Vec<Doubt> {
    let sorts = definition.forms.iter().map(Form::sort_name);
    let mut told: Vec<&str> = Vec::new();
    let mut left = found;
    let mut doubts = Vec::new();
    for sort in sorts {
        if told.contains(&sort) {
            continue;
        }
        told.push(sort);
        let lacks = |name: &String| {
            let form = definition
                .form(name)
                .filter(|form| form.sort_name() == sort);
            form.is_some_and(|form| form.has_inside(sort) && definition.level_of(name).is_none())
        };
        let of_sort = |name: &String| {
            let form = definition.form(name);
            form.is_some_and(|form| form.sort_name() == sort && form.has_inside(sort))
        };
        let is_one = |one: &Found| one.forms.iter().any(lacks) && one.forms.iter().all(of_sort);
        let (group, others): (Vec<Found>, Vec<Found>) = left.into_iter().partition(is_one);
        left = others;
        if group.len() <= FEW {
            doubts.extend(group.into_iter().map(Doubt::One));
        } else {
            doubts.extend(one_for(definition, sort, group));
        }
    }
    doubts.extend(left.into_iter().map(Doubt::One));
    doubts.sort_by_key(Doubt::length);
    doubts
}

/// One warning for all ambiguities of a sort that ranks would settle.
fn one_for(definition: &Definition, sort: &str, group: Vec<Found>) -> Option<Doubt> {
    let count = group.len();
    let mut names: Vec<String> = Vec::new();
    for name in group.iter().flat_map(|found| &found.forms) {
        if definition.level_of(name).is_none() && !names.contains(name) {
            names.push(name.clone());
        }
    }
    let shortest = group.into_iter().next()?;
    let place = |name: &String| {
        definition
            .forms
            .iter()
            .position(|form| form.name.text == *name)
    };
    names.sort_by_key(place);
    let listed: Vec<String> = names.iter().map(|name| quote(name)).collect();
    let (are, pairs) = if names.len() == 1 {
        ("has", plural(count, "pair"))
    } else {
        ("have", plural(count, "pair"))
    };
    let message = format!(
        "{} {are} no rank, so that {pairs} of forms can be read in two ways",
        one_of(&listed).replace(" or ", " and ")
    );
    let lines = lines(definition, sort, &names);
    let has_table = definition
        .precedence
        .iter()
        .any(|table| table.sort.text == sort);
    let table = format!("precedence of {sort}, loosest first");
    let remedy = if has_table {
        format!("add to `{table}`: {}", lines.join("; "))
    } else {
        format!("add `{table}` with the lines {}", lines.join("; "))
    };
    Some(Doubt::Many {
        shortest,
        message,
        remedy,
    })
}

/// The lines of a table that rank some forms as most languages do, loosest first.
fn lines(definition: &Definition, sort: &str, names: &[String]) -> Vec<String> {
    let purposes = Purposes::of_forms(definition);
    let purpose = |name: &String| {
        let mut all = purposes.iter();
        all.find(|(form, _)| form == name)
            .map(|(_, purpose)| *purpose)
    };
    let mut levels: Vec<(u8, &str, Vec<&str>)> = Vec::new();
    for name in names {
        let Some(form) = definition.form(name) else {
            continue;
        };
        let (level, word) = rank(form, sort, purpose(name));
        match levels
            .iter_mut()
            .find(|(own, own_word, _)| (*own, *own_word) == (level, word))
        {
            Some((.., forms)) => forms.push(name),
            None => levels.push((level, word, vec![name])),
        }
    }
    levels.sort_by_key(|(level, ..)| *level);
    let lines = levels.into_iter();
    lines
        .map(|(_, word, forms)| quote(&format!("{word} {}", forms.join(", "))))
        .collect()
}

/// The level of a form among those of most languages, and how it groups.
fn rank(form: &Form, sort: &str, purpose: Option<Purpose>) -> (u8, &'static str) {
    let parts = match &*form.written {
        Some(Part::Sequence(parts)) => &parts[..],
        _ => &[],
    };
    let is_operand = |part: Option<&Part>| match part {
        Some(Part::Field(_, things)) => things
            .iter()
            .any(|thing| matches!(thing, Thing::Named(name) if name.text == sort)),
        _ => false,
    };
    match (is_operand(parts.first()), is_operand(parts.last()), purpose) {
        (false, _, Some(Purpose::Not)) => (4, "prefix"),
        (false, _, Some(Purpose::If | Purpose::Function)) => (0, "prefix"),
        (false, ..) => (9, "prefix"),
        (true, false, _) => (11, "suffix"),
        (true, true, Some(Purpose::Assign | Purpose::Bind)) => (1, "right"),
        (true, true, Some(Purpose::Or)) => (2, "left"),
        (true, true, Some(Purpose::And)) => (3, "left"),
        (true, true, Some(Purpose::Add | Purpose::Subtract)) => (7, "left"),
        (
            true,
            true,
            Some(Purpose::Multiply | Purpose::Divide | Purpose::Quotient | Purpose::Remainder),
        ) => (8, "left"),
        (true, true, Some(Purpose::Power)) => (10, "right"),
        (
            true,
            true,
            Some(
                Purpose::Equal
                | Purpose::Unequal
                | Purpose::Less
                | Purpose::AtMost
                | Purpose::More
                | Purpose::AtLeast,
            ),
        ) => (5, "none"),
        (true, true, _) => (6, "left"),
    }
}
