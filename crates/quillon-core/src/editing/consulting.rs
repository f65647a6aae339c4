//! The call in a meaning that is being written at a place of a definition.

use super::calling::Call;
use super::defining::{Described, Item, ItemKind, operation_around};
use crate::definition::{self, Spelt};
use crate::operations::Operation;
use crate::source::Span;

impl Described {
    /// The innermost call whose brackets are open at a place: of an operation, or of a helper.
    pub fn call_at(&self, offset: u32) -> Option<Call> {
        let source = self.source();
        let item = self.items().iter().rfind(|item| item.span.start < offset)?;
        let mut words = definition::spelt(source);
        words.retain(|(span, _)| item.span.start <= span.start && span.end <= offset);
        let (mut depth, mut argument) = (0, 0);
        for (at, (span, what)) in words.iter().enumerate().rev() {
            if *what != Spelt::Sign {
                continue;
            }
            match source.slice(*span) {
                ")" | "]" | "}" => depth += 1,
                "(" | "[" | "{" if depth > 0 => depth -= 1,
                "," if depth == 0 => argument += 1,
                "(" | "[" | "{" => {
                    let before = at.checked_sub(1).map(|at| words[at]);
                    let name = before.filter(|(name, what)| {
                        *what == Spelt::Name
                            && name.end == span.start
                            && name.start != item.at.start
                    });
                    if let Some(call) = name.and_then(|(name, _)| self.call_of(name, argument)) {
                        return Some(call);
                    }
                    argument = 0;
                }
                _ => {}
            }
        }
        None
    }

    /// The call of what a name stands for.
    fn call_of(&self, name: Span, argument: usize) -> Option<Call> {
        let source = self.source();
        if let Some((_, operation)) = operation_around(source, name) {
            return Some(of_operation(operation, argument));
        }
        let text = source.slice(name);
        let is_it = |item: &&Item| item.kind == ItemKind::Helper && item.name == text;
        let found = self.items().iter().find(is_it)?;
        let parameters = self.parameters_behind(found.at)?;
        Some(Call {
            function: text.to_owned(),
            argument: within(argument, parameters.len()),
            parameters,
            help: String::new(),
        })
    }

    /// The names in the brackets behind a name.
    fn parameters_behind(&self, name: Span) -> Option<Vec<String>> {
        let source = self.source();
        let rest = source.text()[name.end as usize..].strip_prefix('(')?;
        let inside = &rest[..rest.find(')')?];
        let names = inside
            .split(',')
            .map(|name| definition::first_word(name.trim_start()));
        Some(
            names
                .filter(|name| !name.is_empty())
                .map(str::to_owned)
                .collect(),
        )
    }
}

fn of_operation(operation: Operation, argument: usize) -> Call {
    let operands = operation.operands().iter();
    let parameters: Vec<String> = operands.map(|one| one.name.to_owned()).collect();
    Call {
        function: operation.name().to_owned(),
        argument: within(argument, parameters.len()),
        parameters,
        help: operation.what().to_owned(),
    }
}

/// The number of an argument, where the last parameter stands for all that follow.
fn within(argument: usize, parameters: usize) -> u32 {
    argument.min(parameters.saturating_sub(1)) as u32
}
