//! From a tree to Core, and to bytecode.

use std::rc::Rc;
use std::sync::Arc;

use super::{Language, Prepared, Reading, Stage};
use crate::bytecode::{self, Function};
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Outcome, has_errors};
use crate::lexing::Lexer;
use crate::meaning::{self, FunctionCore, Marks, Places};
use crate::runtime::Failure;
use crate::scoping::{Around, BindingId, Home, Names};
use crate::source::SourceText;
use crate::tree::Tree;
use crate::typing::{Type, Types};

/// What every stage has made of a program.
#[derive(Debug)]
pub struct Compiled {
    /// Its tree.
    pub tree: Tree,
    /// What its names mean.
    pub names: Names,
    /// Its types, if the language has any and checks them.
    pub types: Option<Types>,
    /// What it means.
    pub core: Rc<FunctionCore>,
}

/// What the stages between tree and Core have come to.
#[derive(Default)]
pub(super) struct Found {
    pub names: Option<Names>,
    pub types: Option<Types>,
    pub diagnostics: Vec<Diagnostic>,
}

/// What is around a program, for each stage that asks.
#[derive(Clone, Copy, Debug)]
pub struct Surroundings<'a> {
    /// For its names.
    pub names: Around<'a>,
    /// The types of what a session has kept, in the order of the names.
    pub types: &'a [Type],
}

impl<'a> From<Around<'a>> for Surroundings<'a> {
    /// Names of which no types are known.
    fn from(names: Around<'a>) -> Surroundings<'a> {
        Surroundings { names, types: &[] }
    }
}

impl Language {
    /// The Core of a tree.
    pub fn core(&self, tree: &Tree, names: &Names) -> Outcome<FunctionCore> {
        self.core_by(tree, names, meaning::program)
    }

    /// The Core that one of the ways to make it makes.
    pub(super) fn core_by(
        &self,
        tree: &Tree,
        names: &Names,
        make: impl Fn(&Definition, &Lexer, &Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<FunctionCore> {
        if let Some(lack) = self.lacks(Stage::Meaning) {
            return Outcome::failed(vec![lack]);
        }
        self.worded(make(self.definition(), self.lexer(), tree, names))
    }

    /// Where the variables of a program are kept when it runs: nothing for those of a
    /// session, what is built in, or a language without meanings.
    pub fn places(&self, tree: &Tree, names: &Names) -> Places {
        meaning::places(self.definition(), self.lexer(), tree, names)
    }

    /// All stages from text to Core: the tree, its names, its types, and the Core.
    pub fn compiled<'s>(
        &self,
        source: &Arc<SourceText>,
        around: impl Into<Surroundings<'s>>,
        reading: Reading<'_>,
    ) -> Outcome<Compiled> {
        self.compiled_by(source, around.into(), reading, |tree, names| {
            self.core(tree, names)
        })
    }

    /// The same with marks in the Core, for a run that is watched.
    pub(crate) fn compiled_marked(
        &self,
        source: &Arc<SourceText>,
        around: Surroundings<'_>,
        reading: Reading<'_>,
        marks: Marks,
    ) -> Outcome<Compiled> {
        self.compiled_by(source, around, reading, |tree, names| {
            self.core_by(tree, names, |definition, lexer, tree, names| {
                meaning::marked(definition, lexer, tree, names, marks)
            })
        })
    }

    fn compiled_by(
        &self,
        source: &Arc<SourceText>,
        around: Surroundings<'_>,
        reading: Reading<'_>,
        core: impl Fn(&Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<Compiled> {
        let read = self.read(source, reading);
        let mut diagnostics = read.tree.diagnostics;
        let Some(tree) = read.tree.value else {
            if let Some(parts) = read.parts {
                let more = self.found_in_parts(&parts, &diagnostics, around);
                diagnostics.extend(more.diagnostics);
                diagnostics.sort_by_key(Diagnostic::start);
            }
            return Outcome::failed(diagnostics);
        };
        let rest = self.compiled_tree_by(tree, around, core);
        diagnostics.extend(rest.diagnostics);
        Outcome {
            value: rest.value,
            diagnostics,
        }
    }

    /// The stages from tree to Core.
    pub fn compiled_tree<'s>(
        &self,
        tree: Tree,
        around: impl Into<Surroundings<'s>>,
    ) -> Outcome<Compiled> {
        self.compiled_tree_by(tree, around.into(), |tree, names| self.core(tree, names))
    }

    fn compiled_tree_by(
        &self,
        tree: Tree,
        around: Surroundings<'_>,
        core: impl Fn(&Tree, &Names) -> Outcome<FunctionCore>,
    ) -> Outcome<Compiled> {
        let found = self.found(&tree, around);
        let mut diagnostics = found.diagnostics;
        let Some(names) = found.names.filter(|_| !has_errors(&diagnostics)) else {
            return Outcome::failed(diagnostics);
        };
        let core = core(&tree, &names);
        diagnostics.extend(core.diagnostics);
        let value = core.value.map(|core| Compiled {
            tree,
            names,
            types: found.types,
            core: Rc::new(core),
        });
        Outcome { value, diagnostics }
    }

    /// What names, types and checks come to in a tree that is whole; if something is wrong, with the
    /// jumps that nothing ends.
    fn found(&self, tree: &Tree, around: Surroundings<'_>) -> Found {
        let mut found = self.found_before_core(tree, around);
        if let Some(names) = &found.names
            && has_errors(&found.diagnostics)
        {
            let lost = self.lost_jumps(tree, names, &found.diagnostics);
            found.diagnostics.extend(lost);
            found.diagnostics.sort_by_key(Diagnostic::start);
        }
        found
    }

    /// What names, types and checks come to in a tree that is whole.
    pub(super) fn found_before_core(&self, tree: &Tree, around: Surroundings<'_>) -> Found {
        let names = self.names(tree, around.names);
        let mut found = Found {
            names: names.value,
            types: None,
            diagnostics: names.diagnostics,
        };
        let Some(names) = &found.names else {
            return found;
        };
        if self.checks_types() {
            let checked = self.types(tree, names, around.types);
            found.diagnostics.extend(checked.diagnostics);
            found.types = checked.value;
        }
        if !has_errors(&found.diagnostics) {
            found.diagnostics.extend(self.refused(tree, names));
        }
        found
    }

    /// The bytecode of a program.
    pub fn code<'s>(
        &self,
        source: &Arc<SourceText>,
        around: impl Into<Surroundings<'s>>,
        reading: Reading<'_>,
    ) -> Outcome<Rc<Function>> {
        let compiled = self.compiled(source, around, reading);
        let mut diagnostics = compiled.diagnostics;
        let value = compiled.value.and_then(|compiled| {
            let made = bytecode::compile(
                &compiled.core,
                Prepared::new(self).functions(),
                bytecode::Names::AsNeeded,
            );
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
        let around = Surroundings::from(Around::Nothing);
        let compiled = self.compiled_by(source, around, Reading::Program, |tree, names| {
            let exported = self.exported(tree, names);
            self.core_by(tree, names, |definition, lexer, tree, names| {
                meaning::module(definition, lexer, tree, names, &exported)
            })
        });
        let compiled = compiled.into_result()?;
        Ok(compiled.core)
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
