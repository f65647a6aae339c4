//! Running other programs from a program, and the operations that need the walker itself.

use std::rc::Rc;
use std::sync::Arc;

use super::coroutines::Coroutine;
use super::failure::{Culprit, Problem};
use super::natives;
use super::stacks::Going;
use super::value::{Closure, Text, Value};
use super::walk::Walker;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::meaning::{FunctionCore, Operation, Part};
use crate::source::SourceText;

/// Makes the Core of another program: one that gives what the program exports.
pub type Compile<'a> = dyn Fn(&Arc<SourceText>) -> Result<Rc<FunctionCore>, Vec<Diagnostic>> + 'a;

/// Another program that has been asked for.
#[derive(Debug)]
pub(super) enum Module {
    /// It runs.
    Running,
    /// It has run, and this is what it gave.
    Done(Value),
}

impl Walker<'_> {
    /// Carries out an operation on the topmost operands.
    pub(super) fn apply(&mut self, operation: Operation, count: usize, core: &Part) -> Going {
        use Operation as O;
        let from = self.stacks.operands.len() - count;
        match operation {
            O::ListMap | O::ListFilter | O::ListFold | O::ListSortBy => {
                let args = self.stacks.operands.split_off(from);
                return self.begin_calling(operation, &args, core);
            }
            O::CoroutineMake | O::CoroutineResume | O::CoroutineSuspend | O::CoroutineEnded => {
                let args = self.stacks.operands.split_off(from);
                return self.coroutine(operation, args, core);
            }
            O::ModuleLoad => {
                let path = self.stacks.operands.pop().unwrap_or_default();
                return self.load(&path, core);
            }
            _ => {}
        }
        let args = &self.stacks.operands[from..];
        let result = natives::apply(operation, args, &mut self.host, &mut self.memory.random);
        if operation == O::Output
            && let Some(watcher) = &mut self.watcher
        {
            let printed: String = args.iter().map(super::shown).collect();
            watcher.prints(&printed);
        }
        self.stacks.operands.truncate(from);
        match result {
            Ok(value) => {
                if self.is_over_memory()
                    && let Some(failure) = self.over_memory(core)
                {
                    return Going::Fail(failure);
                }
                Going::Give(value)
            }
            Err(problem) => self.fail(*problem, core),
        }
    }

    fn coroutine(&mut self, operation: Operation, args: Vec<Value>, core: &Part) -> Going {
        let mut args = args.into_iter();
        let first = args.next().unwrap_or_default();
        match (operation, first) {
            (Operation::CoroutineSuspend, value) => self.suspend(value, core),
            (Operation::CoroutineMake, Value::Function(function)) => {
                Going::Give(Value::Coroutine(Rc::new(Coroutine::new(function))))
            }
            (Operation::CoroutineMake, other) => {
                self.fail(*Problem::kind(0, "a function", &other), core)
            }
            (Operation::CoroutineResume, Value::Coroutine(coroutine)) => {
                self.resume(&coroutine, args.next().unwrap_or_default(), core)
            }
            (_, Value::Coroutine(coroutine)) => Going::Give(Value::Truth(coroutine.has_ended())),
            (_, other) => self.fail(*Problem::kind(0, "a coroutine", &other), core),
        }
    }

    /// Runs another program, or gives what it gave when it was run.
    fn load(&mut self, path: &Value, core: &Part) -> Going {
        let Value::Text(path) = path else {
            return self.fail(*Problem::kind(0, "a text", path), core);
        };
        match self.module(path) {
            Ok(Loaded::Known(value)) => Going::Give(value),
            Ok(Loaded::Code(function, name)) => {
                let closure = Rc::new(Closure {
                    function,
                    captured: Vec::new(),
                });
                self.memory.modules.insert(name.clone(), Module::Running);
                self.begin_module(&closure, name, core)
            }
            Err(problem) => self.fail(*problem, core),
        }
    }

    fn module(&mut self, path: &Text) -> Result<Loaded, Box<Problem>> {
        let problem =
            |message: String| Problem::new(Culprit::Operand(0), codes::RUN_MODULE, message);
        let from = Arc::clone(&self.stacks.function().source);
        let source = self
            .host
            .program(path, &from)
            .map_err(|refused| refused.problem(0, codes::RUN_MODULE))?;
        let name = source.name().to_owned();
        match self.memory.modules.get(&name) {
            Some(Module::Done(value)) => return Ok(Loaded::Known(value.clone())),
            Some(Module::Running) => return Err(self.circle(&name)),
            None => {}
        }
        let function = (self.compile)(&source).map_err(|diagnostics| {
            let errors: Vec<String> = diagnostics.iter().map(Diagnostic::in_one_line).collect();
            problem(format!("the program {} has mistakes", quote(path))).why(errors.join("; "))
        })?;
        Ok(Loaded::Code(function, name))
    }

    /// The error of a program that comes to load itself.
    fn circle(&self, name: &str) -> Box<Problem> {
        let from = self.memory.modules.get_index_of(name).unwrap_or_default();
        let mut chain: Vec<&str> = self
            .memory
            .modules
            .iter()
            .skip(from)
            .filter(|(_, module)| matches!(module, Module::Running))
            .map(|(name, _)| name.as_str())
            .collect();
        chain.push(name);
        Problem::new(
            Culprit::Operand(0),
            codes::RUN_MODULE,
            format!("{} comes to load itself", quote(name)),
        )
        .why(chain.join(" loads "))
    }
}

/// A program that was asked for.
enum Loaded {
    Known(Value),
    Code(Rc<FunctionCore>, String),
}
