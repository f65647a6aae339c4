//! What is known of the programs that are run: their trees, the names that they bind, their variables.

use std::cell::RefCell;
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::lives::Lives;
use crate::bytecode::Function;
use crate::definition::{Definition, Reach};
use crate::diagnostic::Diagnostics;
use crate::machine::Call;
use crate::scoping::{Binding, Home, Kept};
use crate::session::{Question, SessionBuilder};
use crate::source::SourceText;
use crate::tree::Tree;

/// So many texts that have been asked are kept compiled.
const MOST_QUESTIONS: usize = 64;

/// What is known of the programs that are run.
#[derive(Debug, Default)]
pub(super) struct Known {
    /// Their trees.
    pub trees: Vec<(Arc<SourceText>, Tree)>,
    /// The names that programs bind, by what they are called.
    pub bound: FxHashMap<String, Kept>,
    /// Those that forms bind without their being written.
    pub unwritten: FxHashSet<String>,
    /// Where the session keeps those that outlive a run.
    pub kept: FxHashMap<String, usize>,
    pub lives: Lives,
    /// What has been asked while a run stood still, by its text.
    questions: RefCell<FxHashMap<String, Rc<Question>>>,
}

impl Known {
    /// Where these names are around.
    pub fn around(kept: &[Kept], definition: &Definition) -> Known {
        let named = || kept.iter().map(|one| one.name.clone());
        let bindings = definition.forms.iter().flat_map(|form| &form.binds);
        let unwritten = bindings.filter(|binds| binds.reach == Reach::Unwritten);
        Known {
            unwritten: unwritten.map(|binds| binds.field.text.clone()).collect(),
            bound: named().zip(kept.iter().cloned()).collect(),
            kept: named().zip(0..).collect(),
            ..Known::default()
        }
    }

    /// A text to be worked out with these names around it.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn question(
        &self,
        builder: &SessionBuilder,
        around: Vec<Kept>,
        text: &str,
    ) -> Result<Rc<Question>, Diagnostics> {
        let asked = self.questions.borrow().get(text).cloned();
        if let Some(asked) = asked.filter(|asked| asked.has_around(&around)) {
            return Ok(asked);
        }
        let question = Rc::new(Question::new(builder, around, text)?);
        let mut all = self.questions.borrow_mut();
        if all.len() >= MOST_QUESTIONS {
            all.clear();
        }
        all.insert(text.to_owned(), Rc::clone(&question));
        Ok(question)
    }

    /// Takes note of the names of a program.
    pub fn learn(&mut self, bindings: &[Binding]) {
        for binding in bindings {
            if let Home::Session(slot) = binding.home {
                self.kept.insert(binding.name.clone(), slot as usize);
            }
        }
        self.bind(bindings);
    }

    /// The same of something that keeps nothing in the session.
    pub fn bind(&mut self, bindings: &[Binding]) {
        self.bound.extend(bindings.iter().map(|binding| {
            let kept = Kept {
                name: binding.name.clone(),
                fixed: binding.fixed,
                dynamic: binding.dynamic,
                space: binding.space.clone(),
                awaited: false,
            };
            (binding.name.clone(), kept)
        }));
    }

    /// The tree of a text.
    pub fn tree(&self, source: &Arc<SourceText>) -> Option<&Tree> {
        let mut trees = self.trees.iter();
        let found = trees.find(|(of, _)| Arc::ptr_eq(of, source));
        found.map(|(_, tree)| tree)
    }

    /// The registers in which a function has a variable, none where it only finds it around it; nothing if
    /// there is none of that name.
    pub fn registers(&self, function: &Function, name: &str) -> Option<Vec<u16>> {
        let mut registers = self.lives.registers(function, name);
        let params = function.params.iter().enumerate();
        let own = params.filter(|(_, param)| &*param.name == name);
        registers.extend(own.map(|(at, _)| at as u16));
        let mut captures = function.captures.iter();
        let is_captured = captures.any(|captured| &*captured.name == name);
        let is_kept = self.kept.contains_key(name);
        let is_known = is_captured || is_kept || !registers.is_empty();
        is_known.then_some(registers)
    }

    /// The register of a variable of a call that may hold something now.
    pub fn register(&self, call: &Call<'_>, name: &str) -> Option<u16> {
        self.register_at(call.function, call.at, name)
    }

    /// The register of a variable of a function that may hold something before an instruction.
    pub fn register_at(&self, function: &Function, at: usize, name: &str) -> Option<u16> {
        let found = self.lives.register(function, at, name);
        let mut params = function.params.iter();
        let param = params.position(|param| &*param.name == name);
        found.or(param.map(|at| at as u16))
    }
}
