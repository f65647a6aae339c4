//! Coroutines, each a thread of its own, and programs that are loaded.

use std::any::Any;
use std::rc::Rc;
use std::sync::Arc;

use super::raw::Scaled;
use super::threads::Thread;
use super::{Done, Machine, Resumed, Watched, kept_of, loaded_of};
use crate::bytecode::{Instruction, Last};
use crate::diagnostic::codes;
use crate::runtime::Loaded as Found;
use crate::runtime::{Culprit, Module, Problem};
use crate::source::SourceText;
use crate::values::{Closure, Coroutine, Progress, Ref, Value, ask};

impl Machine<'_> {
    /// Resumes a coroutine; what it gives comes into a register.
    pub(super) fn resume(&mut self, coroutine: Ref<Coroutine>, value: Value, into: Scaled) -> Done {
        let problem = |message| Problem::new(Culprit::Operand(0), codes::RUN_COROUTINE, message);
        match coroutine.set(Progress::Running) {
            Progress::Fresh(function) => {
                let calls = self.calls();
                let fits = Self::check_count(function, 0).and_then(|()| {
                    if calls >= self.limits.depth as usize {
                        return Err(crate::runtime::too_deep(calls as u32));
                    }
                    Ok(())
                });
                if let Err(problem) = fits {
                    coroutine.set(Progress::Ended);
                    return Err(problem);
                }
                let mut thread = match Thread::of_coroutine(function) {
                    Ok(thread) => thread,
                    Err(stopped) => {
                        coroutine.set(Progress::Fresh(function));
                        return Err(stopped.into());
                    }
                };
                if loaded_of(function).function.last == Last::Rest {
                    thread.registers[1] = Value::list([]);
                }
                self.change(thread, coroutine, into);
                Ok(())
            }
            Progress::Waiting(suspended) => {
                // Each session keeps to one engine.
                let suspended: Box<dyn Any> = suspended;
                let Ok(thread) = suspended.downcast::<Thread>() else {
                    return Err(problem("this coroutine belongs to another engine"));
                };
                let calls = self.calls();
                if calls + thread.depth > self.limits.depth as usize {
                    coroutine.set(Progress::Waiting(thread));
                    return Err(crate::runtime::too_deep(calls as u32));
                }
                self.change(thread, coroutine, into);
                self.take_up(value);
                Ok(())
            }
            Progress::Running => Err(problem("this coroutine is running already")),
            Progress::Ended => {
                coroutine.set(Progress::Ended);
                Err(problem("this coroutine has come to its end"))
            }
        }
    }

    /// Changes to a coroutine, which is to give something into a register.
    fn change(&mut self, thread: Box<Thread>, coroutine: Ref<Coroutine>, into: Scaled) {
        self.put_down();
        self.thread.into = into;
        self.outer_calls += self.thread.depth;
        self.outer_size += self.thread.size();
        let thread = std::mem::replace(&mut self.thread, thread);
        self.outer.push(Resumed { thread, coroutine });
        self.pick_up();
    }

    /// Notes where the thread that runs is, before something else does.
    pub(super) fn put_down(&mut self) {
        self.thread.put_down(self.used(), &self.memory.heap);
        self.thread.depth = self.top.count(&self.thread.frames);
        self.thread.closure = self.closure;
        self.thread.at = self.at;
    }

    /// Goes on where the thread is that runs now.
    pub(super) fn pick_up(&mut self) {
        self.thread.pick_up(&self.memory.heap);
        self.closure = self.thread.closure;
        self.at = self.thread.at;
        self.top = super::Top::of(&mut self.thread.frames, self.thread.depth);
        self.settle();
        self.measure();
    }

    /// Gives the thread that runs now what it goes on with.
    fn take_up(&mut self, value: Value) {
        self.thread.row(self.at.base).put(self.thread.into, value);
    }

    /// Suspends the coroutine that runs: what resumed it gets the value.
    pub(super) fn suspend(&mut self, value: Value, into: Scaled) -> Done {
        if self.outer.is_empty() {
            return Err(Problem::new(
                Culprit::Whole,
                codes::RUN_SUSPEND,
                "there is no coroutine here that could be suspended",
            ));
        }
        // It is on the heap from here on.
        let size = self.thread.size();
        if size > self.thread.counted {
            let more = size - self.thread.counted;
            ask(more)?;
            self.thread.counted = size;
            self.memory.heap.count(more);
        }
        self.put_down();
        self.thread.into = into;
        if let Some((thread, coroutine)) = self.change_back() {
            coroutine.set(Progress::Waiting(thread));
            self.take_up(value);
        }
        Ok(())
    }

    /// Changes back to what resumed the coroutine that runs; gives that and its thread.
    fn change_back(&mut self) -> Option<(Box<Thread>, Ref<Coroutine>)> {
        let Resumed { thread, coroutine } = self.outer.pop()?;
        let thread = std::mem::replace(&mut self.thread, thread);
        self.outer_calls -= self.thread.depth;
        self.outer_size -= self.thread.size();
        self.pick_up();
        // What resumed it is under way again.
        self.culprit = self.at.pc.plus(-1);
        Some((thread, coroutine))
    }

    /// Goes back to what resumed a coroutine that has come to its end; false if none runs.
    pub(super) fn end_coroutine(&mut self, value: Value) -> bool {
        let Some((_, coroutine)) = self.change_back() else {
            return false;
        };
        coroutine.set(Progress::Ended);
        self.take_up(value);
        true
    }

    /// The same for one that has failed: the instruction that resumed it is at fault now.
    pub(super) fn end_failed_coroutine(&mut self) -> bool {
        self.end_coroutine(Value::Nothing)
    }

    /// The text of the program that asks for something: what is built in asks for the
    /// program that has called it.
    fn asking(&self) -> Arc<SourceText> {
        let own = (&*self.thread, self.top.count(&self.thread.frames));
        let outer = self.outer.iter().rev().map(|outer| &*outer.thread);
        let around = outer.clone().map(|thread| thread.closure);
        let threads = outer.map(|thread| (thread, thread.depth));
        let mut running = std::iter::once(self.closure).chain(around);
        for (thread, depth) in std::iter::once(own).chain(threads) {
            let callers = (0..depth).rev().map(|count| thread.caller(count + 1));
            for closure in running.next().into_iter().chain(callers) {
                let function = &loaded_of(closure).function;
                if !function.built_in {
                    return Arc::clone(&function.source);
                }
            }
        }
        Arc::clone(&self.loaded().function.source)
    }

    /// Forgets the program that was being loaded: it has failed, and may be asked for again.
    #[cold]
    pub(super) fn not_loaded(&mut self) {
        if let Some(name) = self.thread.loading.pop() {
            self.memory.modules.shift_remove(&name);
        }
    }

    /// Keeps what the program that was loaded last has given.
    pub(super) fn module_done(&mut self, word: Instruction) {
        if let Some(name) = self.thread.loading.pop() {
            let done = Module::Done(self.get(word.a()));
            self.memory.modules.insert(name, done);
        }
    }

    /// Runs another program.
    pub(super) fn module_load(&mut self, word: Instruction) -> Done {
        let Value::Text(path) = self.get(word.b()) else {
            return Err(Problem::kind(0, "a text", &self.get(word.b())));
        };
        let from = self.asking();
        match self
            .memory
            .program(&path, &from, &mut self.host, self.compile)?
        {
            Found::Known(value) => {
                self.set(word.a(), value);
                self.at.pc = self.at.pc.plus(1);
                Ok(())
            }
            Found::Code(core, name) => {
                let function = (self.assemble)(&core)?;
                let heap = &self.memory.heap;
                let closure = Closure::of_code(&Rc::new(function), heap, self.watched.is_one());
                if let Watched::Led(_, leader, _) = &mut self.watched {
                    // From a moment before, it would be made ready once more.
                    self.checkpoints.clear();
                    leader.ready(&kept_of(closure));
                }
                self.thread.loading.push(name);
                let entered = self.enter(closure, word.c(), 0, word.a());
                if entered.is_err() {
                    self.not_loaded();
                }
                entered
            }
        }
    }
}
