//! Calling the host, and being called back by it.

use super::{Assemble, Done, Machine, Stacked, Watched};
use crate::bytecode::Instruction;
use crate::runtime::{ByHost, CallBack, Compile, Failure, Host, Limits, Memory, Waiting, World};
use crate::values::{Closure, Ref, Value};

/// What a host can call back into, while the machine waits.
struct Back<'m> {
    memory: &'m mut Memory,
    limits: Limits,
    compile: &'m Compile<'m>,
    assemble: &'m Assemble<'m>,
    waiting: Waiting<'m>,
}

impl CallBack for Back<'_> {
    fn call_back(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        let mut world = World::new(host, self.compile);
        world.waiting = Some(self.waiting);
        let (memory, limits) = (&mut *self.memory, self.limits);
        super::call(
            function,
            &args,
            memory,
            limits,
            world,
            self.assemble,
            Watched::No,
        )
    }
}

impl Machine<'_> {
    /// Carries out an operation with the help of the host.
    pub(super) fn by_host(&mut self, by_host: ByHost, word: Instruction) -> Done {
        let from = self.at.base + word.b() as usize;
        let args = self.thread.registers[from..from + word.c() as usize].to_vec();
        // What is called back may collect.
        self.thread
            .forget_above(self.at.base + self.loaded().registers as usize);
        let (calls, stacks) = (self.calls() as u32, self.stacks());
        let depth = Waiting::around(self.waiting.as_ref())?;
        let stacked = Stacked {
            thread: &self.thread,
            frames: self.top.count(&self.thread.frames),
            closure: self.closure,
            outer: &self.outer,
            failure: self.failure.as_deref(),
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
        let result = by_host(&args, &mut *self.host.host, &mut back);
        self.measure();
        self.set(word.a(), result?);
        self.made()
    }
}
