//! The last stages of a language: from a tree to Core.

use std::rc::Rc;
use std::sync::Arc;

use crate::bytecode::{self, Function};
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Outcome, has_errors};
use crate::language::{Language, Reading, Stage, failed};
use crate::lexing::Lexer;
use crate::meaning::{self, FunctionCore, Marks, Places};
use crate::runtime::Failure;
use crate::scoping::{Around, BindingId, Home, Names};
use crate::session::Prepared;
use crate::source::SourceText;
use crate::tree::Tree;

impl Language {
    /// The Core of a tree.
    pub fn core(&self, tree: &Tree, names: &Names) -> Outcome<FunctionCore> {
        self.core_by(tree, names, meaning::program)
    }

    /// The Core that one of the ways to make it makes.
    fn core_by(
        &self,
        tree: &Tree,
        names: &Names,
        make: impl Fn(&Definition, &Lexer, &Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<FunctionCore> {
        if let Some(lack) = self.lacks(Stage::Meaning) {
            return failed(vec![lack]);
        }
        self.worded(make(self.definition(), self.lexer(), tree, names))
    }

    /// Where the variables of a program are kept when it runs: nothing for those of a
    /// session, what is ready-made, or a language without meanings.
    pub fn places(&self, tree: &Tree, names: &Names) -> Places {
        meaning::places(self.definition(), self.lexer(), tree, names)
    }

    /// All stages from text to Core: the tree, its names, and the Core.
    pub fn compiled(
        &self,
        source: &Arc<SourceText>,
        around: Around<'_>,
        reading: Reading<'_>,
    ) -> Outcome<(Tree, Names, Rc<FunctionCore>)> {
        self.compiled_by(source, around, reading, |tree, names| {
            self.core(tree, names)
        })
    }

    /// The same with marks in the Core, for a run that is watched.
    pub(crate) fn compiled_marked(
        &self,
        source: &Arc<SourceText>,
        around: Around<'_>,
        reading: Reading<'_>,
        marks: Marks,
    ) -> Outcome<(Tree, Names, Rc<FunctionCore>)> {
        self.compiled_by(source, around, reading, |tree, names| {
            self.core_by(tree, names, |definition, lexer, tree, names| {
                meaning::marked(definition, lexer, tree, names, marks)
            })
        })
    }

    fn compiled_by(
        &self,
        source: &Arc<SourceText>,
        around: Around<'_>,
        reading: Reading<'_>,
        core: impl Fn(&Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<(Tree, Names, Rc<FunctionCore>)> {
        let tree = self.tree(source, reading);
        let mut diagnostics = tree.diagnostics;
        let Some(tree) = tree.value else {
            return failed(diagnostics);
        };
        let rest = self.compiled_tree_by(&tree, around, core);
        diagnostics.extend(rest.diagnostics);
        Outcome {
            value: rest.value.map(|(names, core)| (tree, names, core)),
            diagnostics,
        }
    }

    /// The stages from tree to Core: the names, and the Core.
    pub fn compiled_tree(
        &self,
        tree: &Tree,
        around: Around<'_>,
    ) -> Outcome<(Names, Rc<FunctionCore>)> {
        self.compiled_tree_by(tree, around, |tree, names| self.core(tree, names))
    }

    fn compiled_tree_by(
        &self,
        tree: &Tree,
        around: Around<'_>,
        core: impl Fn(&Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<(Names, Rc<FunctionCore>)> {
        let names = self.names(tree, around);
        let mut diagnostics = names.diagnostics;
        let Some(names) = names.value.filter(|_| !has_errors(&diagnostics)) else {
            return failed(diagnostics);
        };
        let core = core(tree, &names);
        diagnostics.extend(core.diagnostics);
        Outcome {
            value: core.value.map(|core| (names, Rc::new(core))),
            diagnostics,
        }
    }

    /// The bytecode of a program.
    pub fn code(
        &self,
        source: &Arc<SourceText>,
        around: Around<'_>,
        reading: Reading<'_>,
    ) -> Outcome<Rc<Function>> {
        let compiled = self.compiled(source, around, reading);
        let mut diagnostics = compiled.diagnostics;
        let value = compiled.value.and_then(|(_, _, core)| {
            let made = bytecode::compile(&core, Prepared::new(self).functions());
            made.map_err(|problem| {
                let failure = Failure::at_start(*problem, source);
                diagnostics.push(failure.diagnostic());
            })
            .ok()
        });
        Outcome {
            value: value.map(Rc::new),
            diagnostics,
        }
    }

    /// The Core of another program, for one that loads it: it gives a map of what its
    /// outermost names hold.
    pub fn module(&self, source: &Arc<SourceText>) -> Result<Rc<FunctionCore>, Vec<Diagnostic>> {
        let compiled =
            self.compiled_by(source, Around::Nothing, Reading::Program, |tree, names| {
                let exported = self.exported(tree, names);
                self.core_by(tree, names, |definition, lexer, tree, names| {
                    meaning::module(definition, lexer, tree, names, &exported)
                })
            });
        compiled.into_result().map(|(_, _, core)| core)
    }

    /// The bindings of a program's outermost scope.
    fn exported(&self, tree: &Tree, names: &Names) -> Vec<BindingId> {
        let outermost = self.names(tree, Around::Session(&[])).value;
        let outermost = outermost.unwrap_or_default().bindings;
        let is_outermost = |span| {
            let mut others = outermost.iter();
            others.any(|other| matches!(other.home, Home::Session(_)) && other.span == span)
        };
        (0u32..)
            .zip(&names.bindings)
            .filter(|(_, binding)| binding.span.is_some() && is_outermost(binding.span))
            .map(|(index, _)| BindingId(index))
            .collect()
    }
}
