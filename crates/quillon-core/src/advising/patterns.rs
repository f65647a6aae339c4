//! Token patterns that take more than they should.

use crate::definition::{Definition, Pattern, TokenRule};
use crate::diagnostic::{Diagnostic, codes, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let rules = definition.tokens.iter();
    rules.filter_map(|rule| greedy(definition, rule)).collect()
}

/// A pattern from an opening to a closing text that goes on to the last closing text there is.
fn greedy(definition: &Definition, rule: &TokenRule) -> Option<Diagnostic> {
    let (open, inner, close) = rule.pattern.delimited()?;
    let Pattern::Class(set) = inner else {
        return None;
    };
    // What is repeated can be all of the closing text.
    let takes_close = close.chars().all(|c| set.contains(c));
    let is_single = close.chars().count() == 1;
    if !takes_close || rule.piece || rule.holes.is_some() {
        return None;
    }
    let name = quote(&rule.name.text);
    let better = if is_single {
        format!("\"{open}\" [^{close}]* \"{close}\"")
    } else {
        format!("\"{open}\" (any* - (any* \"{close}\" any*)) \"{close}\"")
    };
    Some(
        Diagnostic::warning(
            codes::CHECK_TOKENS,
            format!(
                "{name} is greedy: it goes on to the last {} of the text",
                quote(&close)
            ),
        )
        .at(&definition.source, rule.name.span)
        .why("the longest match wins, and what is repeated can be the closing text")
        .remedy(format!("write {}", quote(&better))),
    )
}
