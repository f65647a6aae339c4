//! Coroutines, each a thread of its own, and programs that are loaded.

use std::any::Any;
use std::rc::Rc;
use std::sync::Arc;

use super::threads::{Asleep, Thread};
use super::{Done, Machine, Resumed, Watched, kept_of, loaded_of};
use crate::bytecode::{Instruction, Last};
use crate::diagnostic::codes;
use crate::runtime::Loaded as Found;
use crate::runtime::{Culprit, Module, Problem};
use crate::source::SourceText;
use crate::values::{Closure, Coroutine, Progress, Ref, Value, ask};

impl Machine<'_> {
    /// Resumes a coroutine; what it gives comes into a register.
    pub(super) fn resume(&mut self, coroutine: Ref<Coroutine>, value: Value, into: u16) -> Done {
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
                let asleep = Asleep {
                    thread,
                    closure: function,
                    at: Thread::begin(function),
                    into: 0,
                };
                self.change(Box::new(asleep), 1, coroutine, into);
                Ok(())
            }
            Progress::Waiting(suspended) => {
                // Each session keeps to one engine.
                let suspended: Box<dyn Any> = suspended;
                let Ok(asleep) = suspended.downcast::<Asleep>() else {
                    return Err(problem("this coroutine belongs to another engine"));
                };
                let depth = asleep.thread.depth;
                let calls = self.calls();
                if calls + depth > self.limits.depth as usize {
                    coroutine.set(Progress::Waiting(asleep));
                    return Err(crate::runtime::too_deep(calls as u32));
                }
                let wanted = self.change(asleep, depth, coroutine, into);
                self.set(wanted, value);
                Ok(())
            }
            Progress::Running => Err(problem("this coroutine is running already")),
            Progress::Ended => {
                coroutine.set(Progress::Ended);
                Err(problem("this coroutine has come to its end"))
            }
        }
    }

    /// Changes to a coroutine, which is to give something into a register; the register for what it goes on with.
    fn change(
        &mut self,
        mut asleep: Box<Asleep>,
        depth: usize,
        coroutine: Ref<Coroutine>,
        into: u16,
    ) -> u16 {
        self.put_down();
        self.outer_calls += self.thread.depth;
        self.outer_size += self.thread.size();
        let wanted = self.exchange(&mut asleep, into);
        self.outer.push(Resumed { asleep, coroutine });
        self.pick_up(depth);
        wanted
    }

    /// Goes on with a thread that waits, and has the one that runs wait in its place; the register for what the one
    /// goes on with, where that for the other is given.
    fn exchange(&mut self, asleep: &mut Asleep, into: u16) -> u16 {
        std::mem::swap(&mut self.thread, &mut asleep.thread);
        std::mem::swap(&mut self.closure, &mut asleep.closure);
        std::mem::swap(&mut self.at, &mut asleep.at);
        std::mem::replace(&mut asleep.into, into)
    }

    /// Notes how much of the stacks is in use, before another thread runs.
    pub(super) fn put_down(&mut self) {
        self.thread.depth = self.top.count(&self.thread.frames);
        let used = self.at.base + self.loaded().registers as usize;
        self.thread.forget_above(used);
    }

    /// Makes the stacks of the thread known that runs now.
    pub(super) fn pick_up(&mut self, depth: usize) {
        self.top = super::Top::of(&mut self.thread.frames, depth);
        self.settle();
        self.measure();
    }

    /// Suspends the coroutine that runs: what resumed it gets the value.
    pub(super) fn suspend(&mut self, value: Value, into: u16) -> Done {
        if self.outer.is_empty() {
            return Err(Problem::new(
                Culprit::Whole,
                codes::RUN_SUSPEND,
                "there is no coroutine here that could be suspended",
            ));
        }
        // It is on the heap from here on.
        let more = self.thread.size().saturating_sub(self.thread.counted);
        ask(more)?;
        self.thread.counted += more;
        self.memory.heap.count(more);
        self.put_down();
        if let Some((Resumed { asleep, coroutine }, wanted)) = self.change_back(into) {
            coroutine.set(Progress::Waiting(asleep));
            self.set(wanted, value);
        }
        Ok(())
    }

    /// Changes back to what resumed the coroutine that runs; gives that, waiting for a value in a register, and the
    /// register that waits for one here.
    fn change_back(&mut self, into: u16) -> Option<(Resumed, u16)> {
        let mut resumed = self.outer.pop()?;
        let depth = resumed.asleep.thread.depth;
        self.outer_calls -= depth;
        self.outer_size -= resumed.asleep.thread.size();
        let wanted = self.exchange(&mut resumed.asleep, into);
        // What resumed it is under way again.
        self.culprit = self.at.pc.plus(-1);
        self.pick_up(depth);
        Some((resumed, wanted))
    }

    /// Goes back to what resumed a coroutine that has come to its end; false if none runs.
    pub(super) fn end_coroutine(&mut self, value: Value) -> bool {
        let Some((resumed, into)) = self.change_back(0) else {
            return false;
        };
        resumed.coroutine.set(Progress::Ended);
        self.set(into, value);
        true
    }

    /// The same for one that has failed: the instruction that resumed it is at fault now.
    pub(super) fn end_failed_coroutine(&mut self) -> bool {
        self.end_coroutine(Value::Nothing)
    }

    /// The text of the program that asks for something: what is built in asks for the
    /// program that has called it.
    fn asking(&self) -> Arc<SourceText> {
        let own = (&self.thread, self.top.count(&self.thread.frames));
        let outer = self.outer.iter().rev().map(|outer| &outer.asleep);
        let around = outer.clone().map(|outer| outer.closure);
        let threads = outer.map(|outer| (&outer.thread, outer.thread.depth));
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
