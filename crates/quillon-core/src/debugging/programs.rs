//! The programs that a walk goes through: what is known of them, and what is marked in them.

use std::rc::Rc;
use std::sync::Arc;

use super::asking::Carried;
use super::changes::Changes;
use super::marks::{Marks, each};
use super::stops::StopAt;
use super::walking::Walker;
use crate::language::Reading;
use crate::machine::{Loaded, View};
use crate::scoping::Around;

impl Walker<'_> {
    /// Takes note of a program before it is run.
    pub(super) fn make_ready(&mut self, program: &Rc<Loaded>) {
        if self.programs.is_empty() {
            let stops = self.guide.stops().all.clone();
            self.begin_marks(stops);
        }
        let language = self.run.builder.language();
        let source = &program.function.source;
        let is_run = Arc::ptr_eq(source, self.run.source);
        // Other programs that it uses are whole; what a session has was entered.
        let reading = match (is_run, self.run.kept) {
            (true, _) => self.run.reading,
            (false, []) => Reading::Program,
            (false, _) => Reading::Entry,
        };
        if let Some(tree) = language.tree(source, reading).value {
            // As it is compiled: only what is run finds names around it.
            let around = match self.run.kept {
                kept if is_run && !kept.is_empty() => Around::Session(kept),
                _ => Around::Nothing,
            };
            if let Some(names) = language.names(&tree, around).value {
                self.known.learn(&names.bindings);
            }
            self.known.trees.push((Arc::clone(source), tree));
        }
        self.take_in_code(program);
    }

    /// Takes note of the programs of texts that have been carried out: functions of them can be called later.
    pub(super) fn take_in(&mut self, carried: Vec<Carried>, view: &mut View<'_, '_>) {
        for Carried { question, programs } in carried {
            let is_known =
                |program: &Rc<Loaded>| self.programs.iter().any(|one| Rc::ptr_eq(one, program));
            let fresh: Vec<Rc<Loaded>> =
                programs.into_iter().filter(|one| !is_known(one)).collect();
            for program in fresh {
                if Arc::ptr_eq(&program.function.source, &question.source) {
                    let compiled = &question.compiled;
                    self.known.bind(&compiled.names.bindings);
                    let tree = compiled.tree.clone();
                    self.known.trees.push((Arc::clone(&question.source), tree));
                    self.take_in_code(&program);
                } else {
                    // From a moment before, it would be made ready once more.
                    self.forget_checkpoints(view);
                    self.make_ready(&program);
                }
            }
        }
    }

    fn take_in_code(&mut self, program: &Rc<Loaded>) {
        each(program, &mut |loaded| {
            self.known.lives.learn(&loaded.function);
        });
        self.programs.push(Rc::clone(program));
        let definition = self.run.builder.language().definition();
        self.marks
            .put_in(program, &self.known, definition, &mut self.changes);
    }

    /// Marks the instructions that stops are at.
    pub(super) fn mark(&mut self) {
        let stops = &self.guide.stops().all;
        if self.marks.are_of(stops) {
            return;
        }
        self.marks.take_away(&self.programs);
        let stops = stops.clone();
        self.begin_marks(stops);
        let definition = self.run.builder.language().definition();
        for program in &self.programs {
            self.marks
                .put_in(program, &self.known, definition, &mut self.changes);
        }
    }

    /// Takes other stops, none of which has been come to.
    fn begin_marks(&mut self, stops: Vec<StopAt>) {
        let definition = self.run.builder.language().definition();
        self.changes = Changes::of(&stops, definition);
        self.marks = Marks::of(stops, definition);
    }
}
