//! Running other programs from a program, and the operations that need the walker itself.

use std::sync::Arc;

use super::stacks::Going;
use super::walk::Walker;
use crate::meaning::{Operation, Part};
use crate::runtime::{self, Loaded, Problem};
use crate::source::SourceText;
use crate::values::{Closure, Value, seen};

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
            O::ListCall => {
                let args = self.stacks.operands.split_off(from);
                return self.call_with_items(&args, core);
            }
            O::CoroutineResume | O::CoroutineSuspend => {
                let args = self.stacks.operands.split_off(from);
                return self.coroutine(operation, args, core);
            }
            O::ModuleLoad => {
                let path = self.stacks.operands.pop().unwrap_or_default();
                return self.load(&path, core);
            }
            _ => {}
        }
        if runtime::takes_input(operation) && self.memory.heap.is_half_full() {
            self.collect();
        }
        let result = self.with_room(|walker| {
            let args = &walker.stacks.operands[from..];
            runtime::apply(operation, args, &mut walker.host, &mut walker.memory.random)
        });
        if operation == O::Output
            && let Some(watcher) = &mut self.watcher
        {
            let args = &self.stacks.operands[from..];
            let printed: String = args.iter().map(seen).collect();
            watcher.prints(&printed);
        }
        self.stacks.operands.truncate(from);
        match result {
            Ok(value) => self.made(value, core),
            Err(problem) => self.fail(*problem, core),
        }
    }

    fn coroutine(&mut self, operation: Operation, args: Vec<Value>, core: &Part) -> Going {
        let mut args = args.into_iter();
        let first = args.next().unwrap_or_default();
        match (operation, first) {
            (Operation::CoroutineSuspend, value) => self.suspend(value, core),
            (Operation::CoroutineResume, Value::Coroutine(coroutine)) => {
                self.resume(coroutine, args.next().unwrap_or_default(), core)
            }
            (_, other) => self.fail(*Problem::kind(0, "a coroutine", &other), core),
        }
    }

    /// The text of the program that asks for something: what is ready-made asks for the
    /// program that has called it.
    fn asking(&self) -> Arc<SourceText> {
        let outer = self.outer.iter().rev().map(|(stacks, _)| stacks);
        for stacks in std::iter::once(&self.stacks).chain(outer) {
            for frame in stacks.frames.iter().rev() {
                let own = frame.closure.core();
                if let Some(asking) = [own, &frame.from.caller]
                    .into_iter()
                    .find(|f| !f.ready_made)
                {
                    return Arc::clone(&asking.source);
                }
            }
        }
        Arc::clone(&self.stacks.function().source)
    }

    /// Runs another program, or gives what it gave when it was run.
    fn load(&mut self, path: &Value, core: &Part) -> Going {
        let Value::Text(path) = path else {
            return self.fail(*Problem::kind(0, "a text", path), core);
        };
        let from = self.asking();
        let loaded = self
            .memory
            .program(path, &from, &mut self.host, self.compile);
        match loaded {
            Ok(Loaded::Known(value)) => Going::Give(value),
            Ok(Loaded::Code(function, name)) => {
                self.begin_module(Closure::of_core(&function, Vec::new()), name, core)
            }
            Err(problem) => self.fail(*problem, core),
        }
    }
}
