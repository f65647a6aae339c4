//! Texts that are worked out while a run stands still.

use std::collections::VecDeque;
use std::rc::Rc;

use super::inner::{Inner, Watching};
use super::rehearsal::{copied, walked};
use super::{Engine, SessionBuilder};
use crate::diagnostic::{Diagnostic, Diagnostics};
use crate::language::{Prepared, Reading, Surroundings};
use crate::meaning::FunctionCore;
use crate::runtime::{Contents, Limits, Memory, Recorder};
use crate::scoping::{Around, Kept};
use crate::source::SourceText;
use crate::typing::Type;
use crate::values::{Held, Look, Value};

/// What is worked out while a run stands still takes no more steps than this: somebody waits for it.
const MOST_STEPS: u64 = 20_000_000;

/// A text that is worked out while a run stands still, with some names around it. It is compiled once, however
/// often it is asked.
#[derive(Debug)]
pub(crate) struct Question {
    prepared: Prepared,
    limits: Limits,
    /// The names around it.
    kept: Vec<Kept>,
    core: Rc<FunctionCore>,
    warnings: Vec<Diagnostic>,
}

impl Question {
    /// Compiles a text with names around it.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn new(
        builder: &SessionBuilder,
        kept: Vec<Kept>,
        text: &str,
    ) -> Result<Question, Diagnostics> {
        let (prepared, limits) = builder.basis();
        let steps = limits.steps.unwrap_or(MOST_STEPS).min(MOST_STEPS);
        let language = prepared.language();
        let source = SourceText::new("what is asked", text);
        let types = vec![Type::Any; kept.len()];
        let around = Surroundings {
            names: Around::Session(&kept),
            types: &types,
        };
        let outcome = language.compiled(&source, around, Reading::Entry);
        let outcome = language.worded(outcome);
        let (compiled, warnings) = (outcome.value, outcome.diagnostics);
        let Some(compiled) = compiled else {
            return Err(Diagnostics(warnings));
        };
        Ok(Question {
            prepared: prepared.clone(),
            limits: Limits {
                steps: Some(steps),
                ..limits
            },
            core: compiled.core,
            kept,
            warnings,
        })
    }

    /// Whether it has just these names around it.
    pub fn has_around(&self, kept: &[Kept]) -> bool {
        self.kept == kept
    }

    /// What it comes to when the names around it hold some values, on copies of what a run has: nothing in that
    /// changes, and there is nothing outside.
    ///
    /// # Errors
    /// What goes wrong in it, or that something cannot be copied.
    pub fn answer(&self, memory: &Memory, values: Vec<Value>) -> Result<Held, Diagnostics> {
        let mut own = Memory {
            wording: memory.wording.clone(),
            random: memory.random.clone(),
            ..Memory::default()
        };
        own.heap.set_most(self.limits.memory);
        let look = &self.prepared.language().definition().values;
        own.heap.set_look(Look::of(look));
        let around = Contents::of(memory).at_rest().with_session(values);
        copied(&around, &own, self.limits, None, &walked)?.put_into(&mut own);
        let mut inner = Inner {
            prepared: self.prepared.clone(),
            engine: Engine::Walk,
            limits: self.limits,
            memory: own,
            types: vec![Type::Any; self.kept.len()],
            kept: self.kept.clone(),
            past: VecDeque::new(),
            remembers: 0,
            watching: Watching::No,
            probe: None,
            brought: Vec::new(),
        };
        let result = inner.core(&self.core, &mut Recorder::default());
        inner.ended(self.warnings.clone(), &result).into_result()
    }
}
