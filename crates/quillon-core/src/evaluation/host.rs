//! Calling the host, and being called back by it.

use super::walk::{Stacked, Walker};
use crate::runtime::{
    ByHost, CallBack, Compile, Failure, Host, Limits, Memory, Problem, Waiting, Watcher, World,
};
use crate::values::{Closure, Ref, Value};

/// What a host can call back into, while the walking evaluator waits.
struct Back<'w> {
    memory: &'w mut Memory,
    limits: Limits,
    compile: &'w Compile<'w>,
    watcher: Option<&'w mut dyn Watcher>,
    waiting: Waiting<'w>,
}

impl CallBack for Back<'_> {
    fn call_back(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        let world = World {
            host,
            compile: self.compile,
            watcher: self.watcher.as_mut().map(|watcher| &mut **watcher as _),
            waiting: Some(self.waiting),
        };
        super::call(function, args, self.memory, self.limits, world)
    }
}

impl Walker<'_> {
    /// Carries out an operation with the help of the host, on the topmost operands from a
    /// place on.
    pub(super) fn by_host(&mut self, by_host: ByHost, from: usize) -> Result<Value, Box<Problem>> {
        let depth = Waiting::around(self.waiting.as_ref())?;
        let (calls, stacks) = (self.calls(), self.size());
        let args = self.stacks.operands[from..].to_vec();
        let stacked = Stacked {
            stacks: &self.stacks,
            outer: &self.outer,
            waiting: self.waiting,
        };
        let mut back = Back {
            memory: &mut *self.memory,
            limits: self.limits,
            compile: self.compile,
            watcher: self.watcher.as_mut().map(|watcher| &mut **watcher as _),
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
        result
    }
}
