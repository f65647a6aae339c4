//! Precedence tables against the shapes of the forms that they rank.

use crate::definition::{Definition, Form, Grouping, Name, Part, Thing};
use crate::diagnostic::{Diagnostic, codes, quote};

/// Where a form has operands that its table could group.
#[derive(Clone, Copy)]
struct Edges {
    begins: bool,
    ends: bool,
}

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for table in &definition.precedence {
        for level in &table.levels {
            for name in &level.forms {
                let form = definition.form(&name.text).filter(|form| !form.damaged);
                let Some((form, edges)) =
                    form.and_then(|form| Some((form, edges(definition, form, &table.sort)?)))
                else {
                    continue;
                };
                // A form that only has operands inside does no harm among the prefix ones.
                let is_closed = !edges.begins && !edges.ends;
                let is_inside = form.has_inside(&table.sort.text);
                if level.grouping != Grouping::Prefix || !is_closed || !is_inside {
                    found.extend(misfit(definition, name, level.grouping, edges));
                }
            }
        }
    }
    found
}

/// Whether a form begins and ends with an operand; nothing where that differs from text to text.
fn edges(definition: &Definition, form: &Form, sort: &Name) -> Option<Edges> {
    let part = form.written.as_ref()?;
    if matches!(part, Part::Choice(_)) {
        return None;
    }
    Some(Edges {
        begins: is_edge(definition, part, &sort.text, Side::First),
        ends: is_edge(definition, part, &sort.text, Side::Last),
    })
}

#[derive(Clone, Copy)]
enum Side {
    First,
    Last,
}

/// Whether an operand can stand at a side of a part.
fn is_edge(definition: &Definition, part: &Part, sort: &str, side: Side) -> bool {
    let edge = |part: &Part| is_edge(definition, part, sort, side);
    match part {
        Part::Sequence(parts) => {
            let at = |part: &&Part| !matches!(part, Part::Tight(_));
            let mut all: Vec<&Part> = parts.iter().filter(at).collect();
            if matches!(side, Side::Last) {
                all.reverse();
            }
            for part in all {
                if edge(part) {
                    return true;
                }
                if !matches!(part, Part::Optional(_)) {
                    return false;
                }
            }
            false
        }
        Part::Choice(parts) => parts.iter().any(edge),
        Part::Optional(inner) => edge(inner),
        Part::Repeat(repeat) => edge(&repeat.part),
        Part::Field(_, things) => things.iter().any(|thing| match thing {
            Thing::Named(name) => is_operand(definition, &name.text, sort),
            Thing::Literal(_) => false,
        }),
        Part::Unnamed(name) => is_operand(definition, &name.text, sort),
        Part::Literal(_) | Part::Soft(_) | Part::Tight(_) => false,
    }
}

/// Whether something named is of the sort, or begins or ends with it as a form of another sort may.
fn is_operand(definition: &Definition, name: &str, sort: &str) -> bool {
    let of_sort = |form: &Form| form.sort_name() == sort;
    let is_form = definition.form(name).is_some_and(of_sort);
    name == sort || is_form || {
        let mut forms = definition
            .forms
            .iter()
            .filter(|form| form.sort_name() == name);
        forms.any(|form| form.fields.iter().any(|field| field.can_be(sort)))
    }
}

/// What is wrong with the rank of a form, if anything is.
fn misfit(
    definition: &Definition,
    name: &Name,
    grouping: Grouping,
    edges: Edges,
) -> Option<Diagnostic> {
    let form = quote(&name.text);
    let (problem, remedy) = match (grouping, edges.begins, edges.ends) {
        (_, false, false) => (
            format!("{form} has no operand at either end, so it has no rank"),
            format!("leave {form} out of the table"),
        ),
        (Grouping::Prefix, true, true) => (
            format!("{form} begins with an operand, so it is no prefix form"),
            format!("rank {form} on a level of `left`, `right` or `none`"),
        ),
        (Grouping::Prefix, true, false) => (
            format!("{form} begins with an operand, so it is no prefix form"),
            format!("rank {form} on a level of `suffix`"),
        ),
        (Grouping::Suffix | Grouping::Left, false, true) => (
            format!("{form} does not begin with an operand, so nothing before it groups with it"),
            format!("rank {form} on a level of `prefix`"),
        ),
        (Grouping::Prefix | Grouping::Right | Grouping::None, false, true)
        | (
            Grouping::Suffix | Grouping::Left | Grouping::Right | Grouping::None,
            true,
            true | false,
        ) => return None,
    };
    Some(
        Diagnostic::warning(codes::CHECK_PRECEDENCE, problem)
            .at(&definition.source, name.span)
            .remedy(remedy),
    )
}
