//! Whether a program has the type that a case expects.

use super::CaseResult;
use super::engines::Trial;
use super::expect::spelt;
use crate::definition::{Expectation, Expected, Name};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::scoping::{Around, Names};
use crate::session::Engine;
use crate::tree::Tree;
use crate::typing::{Type, Types};

impl Trial<'_> {
    /// The program with its names and types.
    fn typed(&self) -> Result<(Tree, Names, Types), Vec<Diagnostic>> {
        let language = self.language();
        if let Some(lack) = language.lacks(crate::Stage::Types) {
            return Err(vec![lack]);
        }
        let mut session = self.session(Engine::Machine)?;
        if let Some(error) = self.enter_before(&mut session) {
            return Err(vec![error]);
        }
        let around = match self.after {
            [] => Around::Nothing.into(),
            _ => session.around(),
        };
        let tree = self.read().into_result()?;
        let names = language.names(&tree, around.names).into_result()?;
        let types = language.types(&tree, &names, around.types).into_result()?;
        Ok((tree, names, types))
    }

    /// The type of the program, or of a name that it binds.
    pub(super) fn type_of(&self, name: Option<&Name>) -> Result<Option<Type>, Vec<Diagnostic>> {
        let (tree, names, types) = self.typed()?;
        let Some(name) = name else {
            return Ok(types.of_node(tree.root()));
        };
        let listed = names.mentions(&tree);
        let bound = listed.iter().find(|mention| {
            let binding = names.binding(mention.binding);
            mention.used.is_none() && binding.name == name.text
        });
        Ok(bound.and_then(|mention| types.of_binding(mention.binding)))
    }
}

impl CaseResult {
    /// Compares the type of a program, or of a name that it binds.
    pub(super) fn check_types(&mut self, trial: &Trial<'_>, expectation: &Expectation) {
        let Expected::Types(name, wanted) = &expectation.expected else {
            return;
        };
        let definition = trial.language().definition();
        match trial.type_of(name.as_ref()) {
            Err(problems) => self.diagnostics.extend(problems),
            Ok(Some(found)) if found.is(definition, wanted) => {}
            Ok(Some(found)) => {
                let wanted = spelt(&self.source, expectation);
                let bound = name
                    .as_ref()
                    .map_or(String::new(), |n| format!("{} : ", n.text));
                let got = format!("{bound}{}", found.shown(definition));
                self.differs(expectation, wanted, got);
            }
            Ok(None) => {
                let name = name.as_ref();
                let message = format!(
                    "the program binds no {}",
                    name.map_or(String::new(), |name| quote(&name.text))
                );
                let span = name.map_or(expectation.span, |name| name.span);
                let problem = Diagnostic::error(codes::CASE_SYNTAX, message);
                self.diagnostics.push(problem.at(&self.source, span));
            }
        }
    }
}
