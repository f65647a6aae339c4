//! From a definition to a language: the automaton of its tokens and the tables of its grammar, for
//! each of its surfaces.

use std::sync::Arc;

use super::{Language, Shared};
use crate::definition::Definition;
use crate::diagnostic::Diagnostic;
use crate::lexing::Lexer;
use crate::parsing::{self, Parser};

impl Language {
    pub(super) fn compile(
        definition: Definition,
        warnings: &[Diagnostic],
    ) -> Result<Language, Vec<Diagnostic>> {
        let others: Vec<Definition> = definition
            .surfaces
            .iter()
            .map(|surface| definition.in_surface(surface))
            .collect();
        // All surfaces number their tokens alike, so that a tree read in one can be
        // written in another.
        let mut literals = parsing::literals(&definition);
        for other in &others {
            for (text, soft) in parsing::literals(other) {
                if !literals.iter().any(|(known, _)| *known == text) {
                    literals.push((text, soft));
                }
            }
        }
        let surfaces = others
            .into_iter()
            .map(|other| Language::compile_one(other, &literals, Vec::new(), &[]))
            .collect::<Result<_, _>>()?;
        Language::compile_one(definition, &literals, surfaces, warnings)
    }

    fn compile_one(
        definition: Definition,
        literals: &[(String, bool)],
        surfaces: Vec<Language>,
        warnings: &[Diagnostic],
    ) -> Result<Language, Vec<Diagnostic>> {
        let own = parsing::literals(&definition);
        let lexer = Lexer::new(&definition, literals, &own).map_err(|error| vec![*error])?;
        let entries = entries(&definition);
        let parser = if entries.is_empty() {
            None
        } else {
            Some(Parser::new(&definition, &lexer, &entries)?)
        };
        Ok(Language::made(
            definition, lexer, parser, surfaces, warnings,
        ))
    }

    /// A language of its parts.
    pub(super) fn made(
        definition: Definition,
        lexer: Lexer,
        parser: Option<Parser>,
        surfaces: Vec<Language>,
        warnings: &[Diagnostic],
    ) -> Language {
        Language {
            shared: Arc::new(Shared {
                checking: definition.has_checks().then(|| definition.checking()),
                definition: Arc::new(definition),
                lexer,
                parser,
                surfaces,
                warnings: warnings.to_vec(),
            }),
            types_off: false,
            signs: None,
        }
    }
}

/// The sorts that may stand alone: the program's first, then the others.
fn entries(definition: &Definition) -> Vec<String> {
    let written: Vec<_> = definition
        .forms
        .iter()
        .filter(|form| form.written.is_some())
        .collect();
    let first = written.first().map(|form| form.sort_name());
    let starts = definition.starts.as_ref().map(|name| name.text.as_str());
    let mut entries: Vec<String> = Vec::new();
    let named = definition.entries.iter().map(|name| name.text.as_str());
    for sort in starts.or(first).into_iter().chain(named) {
        let is_written = written.iter().any(|form| form.sort_name() == sort);
        if is_written && !entries.iter().any(|e| e == sort) {
            entries.push(sort.to_owned());
        }
    }
    entries
}
