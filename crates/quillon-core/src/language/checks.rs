//! What must hold of a program before it runs.

use std::rc::Rc;

use super::Language;
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Outcome};
use crate::evaluation;
use crate::meaning::{self, FunctionCore, Marks};
use crate::runtime::{BuiltInValues, Failure, Limits, Memory, Recorder, World};
use crate::scoping::Names;
use crate::tree::Tree;
use crate::values::{Closure, Look, Value};

/// So many steps a check may take for each node of a program, and for none.
const STEPS: u64 = 10_000;

/// The most diagnostics of a program that are told.
const MOST: usize = 25;

impl Language {
    /// What a program has that the definition refuses: all that its `checks` find.
    pub fn refused(&self, tree: &Tree, names: &Names) -> Vec<Diagnostic> {
        let Some(checking) = &self.shared.checking else {
            return Vec::new();
        };
        let core = meaning::program(checking, self.lexer(), tree, names);
        let Some(core) = core.value else {
            return core.diagnostics;
        };
        let limits = Limits {
            steps: Some(STEPS.saturating_mul(tree.len() as u64 + 1)),
            ..Limits::default()
        };
        let mut diagnostics = looked_at(checking, &Rc::new(core), limits);
        diagnostics.sort_by_key(Diagnostic::start);
        diagnostics.truncate(MOST);
        let worded = self.worded(Outcome {
            value: Some(()),
            diagnostics,
        });
        worded.diagnostics
    }
}

/// Carries out what a program checks: what it finds, and what went wrong while it looked.
fn looked_at(
    definition: &Definition,
    program: &Rc<FunctionCore>,
    limits: Limits,
) -> Vec<Diagnostic> {
    let mut memory = Memory {
        refused: Some(Vec::new()),
        ..Memory::default()
    };
    let heap = Rc::clone(&memory.heap);
    let _entered = heap.enter();
    heap.set_look(Look::of(&definition.values));
    let helpers = definition.recursive_helpers().map(|helper| {
        let core = Rc::new(meaning::helper(definition, helper, Marks::None));
        Value::Function(Closure::of_core(&core, &[]))
    });
    let provided = definition.provides.iter().map(|_| Value::Nothing);
    memory.built_in = BuiltInValues::of(provided.chain(helpers));
    let mut host = Recorder::default();
    let mut run = |core: &Rc<FunctionCore>, memory: &mut Memory| {
        let world = World::new(&mut host, &|_| Err(Vec::new()));
        evaluation::run(core, memory, limits, world)
    };
    let ended = (|| -> Result<(), Box<Failure>> {
        for cell in &definition.state {
            let core = Rc::new(meaning::initial(definition, cell));
            let value = run(&core, &mut memory)?;
            memory.state.push(value);
        }
        run(program, &mut memory).map(drop)
    })();
    let mut found = memory.refused.take().unwrap_or_default();
    if let Err(failure) = ended {
        let told = failure.diagnostic();
        found.push(told.why("this came up while the program was checked, before it ran"));
    }
    found
}
