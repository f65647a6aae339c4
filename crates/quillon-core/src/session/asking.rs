//! Texts that are worked out while a run stands still.

use std::cell::OnceCell;
use std::collections::VecDeque;
use std::rc::Rc;
use std::sync::Arc;

use super::inner::{Inner, Watching};
use super::rehearsal::{copied, walked};
use super::{Engine, SessionBuilder, runs};
use crate::bytecode::{self, Names};
use crate::diagnostic::{Diagnostic, Diagnostics};
use crate::language::{Compiled, Prepared, Reading, Surroundings};
use crate::machine::Loaded;
use crate::runtime::{Contents, Failure, Limits, Memory, Recorder};
use crate::scoping::{Around, Kept};
use crate::source::SourceText;
use crate::typing::Type;
use crate::values::{Closure, Heap, Held, Look, Ref, Value, ValueRow};

/// What a text has come to that was worked out while a run stood still, on copies of what that has.
#[derive(Clone, Debug)]
pub struct Answer {
    /// Its value.
    pub value: Held,
    /// Whether it has changed a variable or a cell there, or would have printed something: to do that in the run,
    /// it has to be carried out.
    pub has_effects: bool,
}

/// A text that is worked out while a run stands still, with some names around it. It is compiled once, however
/// often it is asked.
#[derive(Debug)]
pub(crate) struct Question {
    prepared: Prepared,
    limits: Limits,
    /// The names around it.
    kept: Vec<Kept>,
    pub source: Arc<SourceText>,
    pub compiled: Compiled,
    /// As it is run in the run itself.
    code: OnceCell<Rc<Loaded>>,
    warnings: Vec<Diagnostic>,
}

impl Question {
    /// What is worked out while a run stands still takes no more steps than this: somebody waits for it.
    pub const MOST_STEPS: u64 = 20_000_000;

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
        let steps = limits.steps.unwrap_or(u64::MAX).min(Question::MOST_STEPS);
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
            kept,
            source,
            compiled,
            code: OnceCell::new(),
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
    pub fn answer(&self, memory: &Memory, values: Vec<Value>) -> Result<Answer, Diagnostics> {
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
        let before = traces(&own);
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
        let mut outside = Recorder::default();
        let result = inner.core(&self.compiled.core, &mut outside);
        let value = self.told(&inner.memory.heap, &result)?;
        Ok(Answer {
            value,
            // What it binds itself comes after what was there.
            has_effects: !outside.printed.is_empty() || !traces(&inner.memory).starts_with(&before),
        })
    }

    /// As it is run in a run that is led, on the heap of that.
    ///
    /// # Errors
    /// It is too large.
    pub fn code(&self, heap: &Heap) -> Result<Rc<Loaded>, Diagnostics> {
        if let Some(code) = self.code.get() {
            return Ok(Rc::clone(code));
        }
        let core = &self.compiled.core;
        let function = bytecode::compile(core, self.prepared.functions(), Names::Kept)
            .map_err(|problem| Failure::at_start(*problem, &core.source).diagnostic())?;
        let loaded = Loaded::new(&Rc::new(function), heap, true);
        Ok(Rc::clone(self.code.get_or_init(|| loaded)))
    }

    /// Such code as a function.
    pub fn function(code: Rc<Loaded>) -> Ref<Closure> {
        Closure::made(code, ValueRow::default())
    }

    /// How it has ended on a heap.
    ///
    /// # Errors
    /// What went wrong.
    pub fn told(
        &self,
        heap: &Rc<Heap>,
        result: &Result<Value, Box<Failure>>,
    ) -> Result<Held, Diagnostics> {
        let language = self.prepared.language();
        runs::ended(language, heap, self.warnings.clone(), result).into_result()
    }
}

/// By what it shows that the cells of the state, or the names of a session, hold something else: which values
/// those are, and how long.
fn traces(memory: &Memory) -> Vec<(Option<usize>, u64)> {
    let trace = |value: &Value| {
        let held = value.held().unwrap_or_default();
        let own = match held {
            Value::Truth(truth) => u64::from(truth),
            Value::Integer(n) => n as u64,
            Value::Number(n) => n.to_bits(),
            Value::List(list) => list.len() as u64,
            Value::Map(map) => map.len() as u64,
            Value::Unset
            | Value::Nothing
            | Value::Text(_)
            | Value::Function(_)
            | Value::Coroutine(_)
            | Value::Variable(_)
            | Value::Inner(_) => 0,
        };
        (held.address(), own)
    };
    memory
        .state
        .iter()
        .chain(&memory.session)
        .map(trace)
        .collect()
}
