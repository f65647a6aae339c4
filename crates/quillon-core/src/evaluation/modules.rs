//! Running other programs from a program, and the operations that need the walking evaluator itself.

use std::sync::Arc;

use super::higher::Work;
use super::stacks::Going;
use super::walk::Walker;
use crate::meaning::CorePart;
use crate::operations::{EngineOperation, Operation};
use crate::runtime::{self, Around, CarriedOut, Loaded, Problem, carried_out};
use crate::source::SourceText;
use crate::values::{Closure, Heap, Value, seen};

impl Walker<'_> {
    /// Carries out an operation on the topmost operands.
    pub(super) fn apply(&mut self, operation: Operation, count: usize, core: &CorePart) -> Going {
        let from = self.stacks.operands.len() - count;
        let native = match carried_out(operation) {
            CarriedOut::Native(native) => native,
            CarriedOut::Host(by_host) => {
                let result = self.by_host(by_host, from);
                self.stacks.operands.truncate(from);
                return match result {
                    Ok(value) => self.made(value, core),
                    Err(problem) => self.fail(*problem, core),
                };
            }
            CarriedOut::Engine(operation) => {
                let args = self.stacks.operands.split_off(from);
                return self.apply_itself(operation, &args, core);
            }
        };
        if runtime::takes_input(operation) && self.memory.heap.is_half_full() {
            self.collect();
        }
        let result = self.with_room(|walker| {
            let args = &walker.stacks.operands[from..];
            let mut around = Around {
                host: &mut walker.host,
                random: &mut walker.memory.random,
            };
            native(args, &mut around)
        });
        if operation == Operation::Output
            && let Some(watcher) = &mut self.watcher
        {
            let args = &self.stacks.operands[from..];
            let printed: String = args
                .iter()
                .map(|arg| seen(arg, &Heap::with(Heap::look)))
                .collect();
            watcher.prints(&printed);
        }
        self.stacks.operands.truncate(from);
        match result {
            Ok(value) => self.made(value, core),
            Err(problem) => self.fail(*problem, core),
        }
    }

    /// Carries out an operation that calls functions, or goes on elsewhere.
    fn apply_itself(
        &mut self,
        operation: EngineOperation,
        args: &[Value],
        core: &CorePart,
    ) -> Going {
        use EngineOperation as O;
        let operand = |index: usize| args.get(index).copied().unwrap_or_default();
        match operation {
            O::ListMap => self.begin_calling(args, core, Work::map),
            O::ListFilter => self.begin_calling(args, core, Work::filter),
            O::ListFold => self.begin_calling(args, core, Work::fold),
            O::ListSortBy => self.begin_calling(args, core, Work::sort),
            O::ListCall => self.call_with_items(args, core),
            O::CoroutineSuspend => self.suspend(operand(0), core),
            O::CoroutineResume => match operand(0) {
                Value::Coroutine(coroutine) => self.resume(coroutine, operand(1), core),
                other => self.fail(*Problem::kind(0, "a coroutine", &other), core),
            },
            O::ModuleLoad => self.load(&operand(0), core),
        }
    }

    /// The text of the program that asks for something: what is built in asks for the
    /// program that has called it.
    fn asking(&self) -> Arc<SourceText> {
        let outer = self.outer.iter().rev().map(|(stacks, _)| stacks);
        for stacks in std::iter::once(&self.stacks).chain(outer) {
            for frame in stacks.frames.iter().rev() {
                let own = frame.closure.core();
                if let Some(asking) = [own, &frame.from.caller].into_iter().find(|f| !f.built_in) {
                    return Arc::clone(&asking.source);
                }
            }
        }
        Arc::clone(&self.stacks.function().source)
    }

    /// Runs another program, or gives what it gave when it was run.
    fn load(&mut self, path: &Value, core: &CorePart) -> Going {
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
                self.begin_module(Closure::of_core(&function, &[]), name, core)
            }
            Err(problem) => self.fail(*problem, core),
        }
    }
}
