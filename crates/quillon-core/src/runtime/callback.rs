//! Functions of a run that are called back by the host it has called.

use std::cell::Cell;
use std::rc::Rc;
use std::sync::Arc;

use super::failure::{Culprit, Failure, Problem, wrong_count};
use super::host::{Host, HostError, Refused};
use crate::diagnostic::{Cause, Diagnostic, Diagnostics, codes};
use crate::values::{Arguments, Closure, Foreign, Function, Heap, Held, Ref, Roots, Value};

/// So often a host may call back from inside of a function that it has called back: each time
/// takes room on the native stack.
const MOST: u32 = 32;

/// A run that has called its host, and waits.
#[derive(Clone, Copy)]
pub(crate) struct Waiting<'a> {
    /// All that it has.
    pub roots: &'a dyn Roots,
    /// How many of its calls are under way.
    pub calls: u32,
    /// How many bytes its stacks take.
    pub stacks: usize,
    /// How much it may still print.
    pub left: &'a Rc<Cell<u64>>,
    /// How many runs wait, this one among them.
    pub depth: u32,
}

impl Waiting<'_> {
    /// The run around a new one, if there may be one more inside it.
    pub fn around(outer: Option<&Waiting<'_>>) -> Result<u32, Box<Problem>> {
        let depth = outer.map_or(0, |outer| outer.depth) + 1;
        if depth <= MOST {
            return Ok(depth);
        }
        let message = format!(
            "the program and what is around it call each other {MOST} deep, and that is the limit"
        );
        Err(Problem::new(Culprit::Whole, codes::RUN_DEPTH, message))
    }
}

/// What calls a function of the run that waits for the host.
pub(crate) trait CallBack {
    /// Calls a function with some arguments.
    fn call_back(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>>;
}

/// The run that has called a host, for the host to call back functions that it was given.
pub struct Caller<'a> {
    engine: &'a mut dyn CallBack,
    heap: &'a Rc<Heap>,
    /// The limit that a function has come to: it ends the run, whatever the host makes of it.
    struck: Option<Diagnostic>,
}

impl Caller<'_> {
    /// Calls a function of the program that runs; it goes on with this host.
    ///
    /// # Errors
    /// What went wrong in it, or that it belongs to another session.
    pub fn call(
        &mut self,
        function: &Function,
        arguments: impl Arguments,
        host: &mut dyn Host,
    ) -> Result<Held, Diagnostics> {
        let (function, args) = on_heap(self.heap, function, arguments)?;
        let result = self.engine.call_back(function, args, host);
        match result {
            Ok(value) => Ok(Held::of(self.heap, value)),
            Err(failure) => {
                let is_catchable = failure.is_catchable();
                let problem = failure.diagnostic();
                if !is_catchable {
                    self.struck = Some(problem.clone());
                }
                Err(problem.into())
            }
        }
    }
}

impl std::fmt::Debug for Caller<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Caller").finish_non_exhaustive()
    }
}

/// A function and what it is to be called with, on the heap where it runs; an error if it does not
/// take so many, or if anything is of another session.
pub(crate) fn on_heap(
    heap: &Rc<Heap>,
    function: &Function,
    arguments: impl Arguments,
) -> Result<(Ref<Closure>, Vec<Value>), Box<Diagnostic>> {
    let Value::Function(closure) = function.value().on(heap)? else {
        return Err(Foreign.into());
    };
    let args = arguments.values();
    if !function.takes(args.len()) {
        let problem = wrong_count(&function.signature(), args.len());
        return Err(Box::new(problem.without_place()));
    }
    let args = args.iter().map(|arg| arg.on(heap));
    Ok((closure, args.collect::<Result<_, Foreign>>()?))
}

impl From<Foreign> for Box<Problem> {
    fn from(_: Foreign) -> Box<Problem> {
        let message = "a function of one session cannot be used in another";
        Problem::new(Culprit::Whole, codes::RUN_HOST, message)
            .why("it can reach what its own session holds, and nothing else")
    }
}

impl From<Foreign> for Box<Diagnostic> {
    fn from(foreign: Foreign) -> Box<Diagnostic> {
        Box::new(Box::<Problem>::from(foreign).without_place())
    }
}

/// Calls a function of the host.
pub(crate) fn call_host(
    args: &[Value],
    host: &mut dyn Host,
    engine: &mut dyn CallBack,
) -> Result<Value, Box<Problem>> {
    Heap::with_shared(|heap| {
        let Some((Value::Text(name), values)) = args.split_first() else {
            return Err(Problem::kind(
                0,
                "a text",
                &args.first().copied().unwrap_or_default(),
            ));
        };
        let name = name.to_string();
        let given: Vec<Held> = values.iter().map(|value| Held::of(heap, *value)).collect();
        let mut caller = Caller {
            engine,
            heap,
            struck: None,
        };
        let gave = host.call(&name, &given, &mut caller);
        if let Some(struck) = caller.struck {
            return Err(passed_on(struck));
        }
        Ok(gave.map_err(failed)?.on(heap)?)
    })
}

/// The problem that an error of the host makes.
fn failed(error: HostError) -> Box<Problem> {
    let error = match error.downcast::<Refused>() {
        Ok(refused) => return refused.problem(0, codes::RUN_HOST),
        Err(error) => error,
    };
    let error = match error.downcast::<Diagnostics>() {
        Ok(problems) => {
            let first = problems.into_iter().find(Diagnostic::is_error);
            return first.map_or_else(|| failed("it has failed".into()), passed_on);
        }
        Err(error) => error,
    };
    let mut problem = Problem::new(Culprit::Operand(0), codes::RUN_HOST, error.to_string());
    problem.cause = Some(Cause(Arc::from(error)));
    problem
}

/// The problem of a function that was called back, as that of the run.
fn passed_on(inner: Diagnostic) -> Box<Problem> {
    let mut problem = Problem::new(Culprit::Operand(0), inner.code, inner.message.clone());
    problem.why = inner.why.first().cloned();
    problem.passed_on = Some(Box::new(inner));
    problem
}
