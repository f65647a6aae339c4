//! Runs within a run that waits for them: of functions that its host calls back, and of what somebody who leads
//! it has done where it stands still.

use std::rc::Rc;

use super::{Assemble, Course, Done, Leader, Machine, Stacked, Until, Watched};
use crate::bytecode::Instruction;
use crate::diagnostic::Outcome;
use crate::runtime::{
    ByHost, CallBack, Compile, Failure, Host, Limits, Memory, Problem, Waiting, World,
};
use crate::values::{Closure, Ref, Value};

/// What can be called back into, while the machine waits.
struct Back<'m> {
    memory: &'m mut Memory,
    limits: Limits,
    compile: &'m Compile<'m>,
    assemble: &'m Assemble<'m>,
    waiting: Waiting<'m>,
}

impl Back<'_> {
    /// Calls a function; somebody may lead it, who does not stop it.
    fn call(
        &mut self,
        function: Ref<Closure>,
        args: &[Value],
        host: &mut dyn Host,
        leader: Option<&mut dyn Leader>,
    ) -> Result<Value, Box<Failure>> {
        let course = Course {
            now: 0,
            until: Until::END,
        };
        let told = |_: &_| Outcome::failed(Vec::new());
        let watched = match leader {
            Some(leader) => Watched::Led(course, leader, &told),
            None => Watched::No,
        };
        let mut world = World::new(host, self.compile);
        world.waiting = Some(self.waiting);
        let (memory, limits) = (&mut *self.memory, self.limits);
        super::call(
            function,
            args,
            memory,
            limits,
            world,
            self.assemble,
            watched,
        )
    }
}

impl CallBack for Back<'_> {
    fn call_back(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        self.call(function, &args, host, None)
    }
}

impl Machine<'_> {
    /// Carries out an operation with the help of the host.
    pub(super) fn by_host(&mut self, by_host: ByHost, word: Instruction) -> Done {
        let from = self.at.base + word.b() as usize;
        let args = self.thread.registers[from..from + word.c() as usize].to_vec();
        let result = self.wait(None, |back, host| by_host(&args, host, back))?;
        self.set(word.a(), result?);
        self.made()
    }

    /// Calls a function that takes nothing where the run stands still, perhaps because of a failure that is about
    /// to go out: with all that the run has, in so many steps at most. Nothing stops it on the way.
    pub(super) fn run_within(
        &mut self,
        function: Ref<Closure>,
        failure: Option<&Failure>,
        steps: u64,
        leader: &mut dyn Leader,
    ) -> Result<Value, Box<Failure>> {
        let heap = Rc::clone(&self.memory.heap);
        let result = heap.meter.within(steps, || {
            self.wait(failure, |back, host| {
                back.call(function, &[], host, Some(leader))
            })
        });
        result.unwrap_or_else(|problem| Err(self.failure_of(*problem)))
    }

    /// Waits for something that calls back, perhaps with a failure that is about to go out.
    fn wait<R>(
        &mut self,
        failure: Option<&Failure>,
        with: impl FnOnce(&mut Back<'_>, &mut dyn Host) -> R,
    ) -> Result<R, Box<Problem>> {
        // What is called back may collect.
        self.put_down();
        let (calls, stacks) = (self.calls() as u32, self.stacks());
        let depth = Waiting::around(self.waiting.as_ref())?;
        let stacked = Stacked {
            thread: &self.thread,
            frames: self.top.count(&self.thread.frames),
            closure: self.closure,
            outer: &self.outer,
            failure: failure.or(self.failure.as_deref()),
            checkpoints: &self.checkpoints,
            waiting: self.waiting,
        };
        let mut back = Back {
            memory: &mut *self.memory,
            limits: self.limits,
            compile: self.compile,
            assemble: self.assemble,
            waiting: Waiting {
                roots: &stacked,
                calls,
                stacks,
                left: &self.host.left,
                depth,
            },
        };
        let result = with(&mut back, &mut *self.host.host);
        self.pick_up();
        Ok(result)
    }
}
