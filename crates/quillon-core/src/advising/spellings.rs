//! Tokens that must be written and are not in the tree, though they can be spelt in several ways: no
//! tree of such a form can be written as source again.

use crate::definition::{Definition, Name, Part};
use crate::diagnostic::{Diagnostic, codes, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for form in &definition.forms {
        let mut names = Vec::new();
        form.written
            .iter()
            .for_each(|part| required(part, &mut names));
        let lost = |name: &&&Name| {
            let token = definition
                .tokens
                .iter()
                .find(|rule| rule.name.text == name.text);
            token.is_some_and(|rule| rule.pattern.only_text().is_none())
        };
        if let Some(name) = names.iter().find(lost) {
            let (token, form) = (quote(&name.text), quote(&form.name.text));
            let message = format!("trees of form {form} cannot be written as source again");
            let diagnostic = Diagnostic::warning(codes::CHECK_TOKENS, message)
                .at(&definition.source, name.span)
                .why(format!(
                    "{token} can be spelt in several ways, and the tree does not say in which it was"
                ))
                .remedy(format!(
                    "give it a field, `sign:{}`, or put its text in quotes",
                    name.text
                ));
            found.push(diagnostic);
        }
    }
    found
}

/// The tokens and sorts without a field that are always written.
fn required<'p>(part: &'p Part, found: &mut Vec<&'p Name>) {
    match part {
        Part::Unnamed(name) => found.push(name),
        Part::Sequence(parts) => parts.iter().for_each(|part| required(part, found)),
        Part::Repeat(repeat) => {
            if repeat.at_least_one {
                required(&repeat.part, found);
            }
            if let Some(by) = &repeat.by {
                required(by, found);
            }
        }
        // Where there is a choice, another part may do.
        Part::Choice(_)
        | Part::Optional(_)
        | Part::Literal(_)
        | Part::Soft(_)
        | Part::Field(..)
        | Part::Tight(_) => {}
    }
}
