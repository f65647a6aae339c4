//! What commands show of a program, against what a case expects.

use super::CaseResult;
use super::engines::Trial;
use super::expect::clause_of;
use crate::bytecode::listing;
use crate::definition::{Expectation, Expected, Name};
use crate::diagnostic::{Diagnostic, Outcome, has_errors};
use crate::lexing::Tokens;
use crate::printing::Brackets;
use crate::scoping::Around;
use crate::source::Span;

impl Trial<'_> {
    /// What a command shows of the program, as the same kind of expectation; no result for
    /// those that are no command's, or where there is nothing to show.
    pub(super) fn commanded(
        &self,
        expected: &Expected,
    ) -> Result<Option<Expected>, Vec<Diagnostic>> {
        Ok(match expected {
            Expected::PrintsBack(_) => self.source(Brackets::Fewest)?.map(Expected::PrintsBack),
            Expected::Brackets(_) => self.source(Brackets::All)?.map(Expected::Brackets),
            Expected::Ends(_) => {
                let (outcome, end) = self.language().front(&self.program, self.reading());
                if end.is_none() {
                    return Err(outcome.diagnostics);
                }
                end.map(|end| Expected::Ends(self.program.position(end)))
            }
            Expected::Code(_) => Some(Expected::Code(self.instructions()?)),
            Expected::Gives(_)
            | Expected::Shows(_)
            | Expected::Prints(_)
            | Expected::Fails(..)
            | Expected::Leaves(..)
            | Expected::Tree(_)
            | Expected::Tokens(_)
            | Expected::AllTokens(_)
            | Expected::Types(..)
            | Expected::Reduces(_)
            | Expected::Stuck(_) => None,
        })
    }

    /// The tokens of its text: all of them, if a case is to tell all.
    pub(super) fn tokens(&self, expected: &Expected) -> Outcome<Tokens> {
        let is_all = matches!(expected, Expected::AllTokens(_));
        if is_all {
            self.language().all_tokens(&self.program)
        } else {
            self.language().tokens(&self.program)
        }
    }

    /// The source of its tree, with its comments.
    fn source(&self, brackets: Brackets) -> Result<Option<String>, Vec<Diagnostic>> {
        let tree = self.read().into_result()?;
        let language = self.language();
        let comments = language.comments(&self.program);
        let text = language.source_of(&tree, brackets, &comments);
        Ok(text.map(|text| text.trim_end().to_owned()))
    }

    /// The instructions of its functions, one after the other.
    fn instructions(&self) -> Result<Vec<Name>, Vec<Diagnostic>> {
        let language = self.language();
        let code = language.code(&self.program, Around::Nothing, self.reading());
        let code = code.into_result()?;
        let listing = listing(&code, language.definition());
        let lines = listing
            .functions
            .iter()
            .flat_map(|function| &function.lines);
        let names = lines.map(|line| Name {
            text: line.mnemonic.to_owned(),
            span: Span::default(),
        });
        Ok(names.collect())
    }
}

impl CaseResult {
    /// Compares what a command shows.
    pub(super) fn check_commanded(&mut self, trial: &Trial<'_>, expectation: &Expectation) {
        let got = match trial.commanded(&expectation.expected) {
            Ok(Some(got)) => got,
            Ok(None) => return,
            Err(problems) => {
                debug_assert!(has_errors(&problems));
                self.diagnostics.extend(problems);
                return;
            }
        };
        let (wanted, got) = (clause_of(&expectation.expected), clause_of(&got));
        if let (Some(wanted), Some(got)) = (wanted, got)
            && wanted != got
        {
            self.differs(expectation, wanted, got);
        }
    }
}
