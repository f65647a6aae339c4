//! Making functions and beginning them, where that is not the frequent case.

use super::raw::{Pc, Row, Scaled};
use super::threads::Frame;
use super::{At, Done, Loaded, Machine, fast, loaded_of, slow};
use crate::bytecode::{Counts, Instruction, Last, Op};
use crate::runtime::{self, Problem, wrong_count};
use crate::values::{Closure, Ref, Value, ValueRow};

impl Machine<'_> {
    /// Makes the function of an instruction.
    #[inline(never)]
    pub(super) fn make_function(&self, regs: Row, pc: Pc) {
        use crate::bytecode::From;
        let loaded = &self.loaded().functions[pc.long() as usize];
        let all = &loaded.function.captures;
        let mut has_itself = false;
        let values = all.iter().map(|one| match one.from {
            From::Register(register) => regs.get(register),
            From::Captured(outer) => self.closure.captured(outer),
            From::Itself => {
                has_itself = true;
                Value::Unset
            }
        });
        let captured = ValueRow::gathered(all.len(), values);
        let closure = Closure::made(std::rc::Rc::<Loaded>::clone(loaded), captured);
        if has_itself {
            for (index, _) in all
                .iter()
                .enumerate()
                .filter(|(_, one)| matches!(one.from, From::Itself))
            {
                closure.set_captured(index, Value::Function(closure));
            }
        }
        regs.put(pc.a(), Value::Function(closure));
    }

    /// Calls a function with the arguments in a window.
    pub(super) fn call(&mut self, word: Instruction, callee: Value) -> Done {
        let closure = self.callable(callee)?;
        self.enter(closure, word.b(), u16::from(word.x()), word.a())
    }

    /// Calls a function in the place of the running one.
    pub(super) fn tail_call(&mut self, word: Instruction) -> Done {
        let closure = self.callable(self.get(word.c()))?;
        let count = u16::from(word.x());
        Self::check_count(closure, usize::from(count))?;
        self.take_place(word, closure, count)
    }

    /// Calls the running function in its own place.
    pub(super) fn tail_call_itself(&mut self, word: Instruction) -> Done {
        let closure = self.callable(Value::Function(self.closure))?;
        self.take_place(word, closure, u16::from(word.x()))
    }

    /// Begins a function whose arguments are in a window, in the place of the running one.
    fn take_place(&mut self, word: Instruction, closure: Ref<Closure>, count: u16) -> Done {
        self.grow_for(closure, self.at.base, count)?;
        let regs = self.thread.row(self.at.base);
        let window = Scaled::new(word.b());
        fast::replace(self, self.culprit, regs, window, count as u8, closure);
        self.start(closure, self.at.base, count);
        Ok(())
    }

    /// Calls a function with arguments that end in a list, whose items are in the window.
    pub(super) fn call_listed(&mut self, word: Instruction, callee: Value) -> Done {
        let closure = self.callable(callee)?;
        let count = self.lay_out(word, closure)?;
        self.grow_for(closure, self.at.base + word.b() as usize, count)?;
        self.begin(closure, word.b(), count, word.a());
        Ok(())
    }

    /// The same in the place of the running function.
    pub(super) fn tail_call_listed(&mut self, word: Instruction) -> Done {
        let closure = self.callable(self.get(word.c()))?;
        let count = self.lay_out(word, closure)?;
        self.take_place(word, closure, count)
    }

    /// Has the arguments of a call that end in a list as the function takes them; how many registers that takes.
    fn lay_out(&mut self, word: Instruction, closure: Ref<Closure>) -> Result<u16, Box<Problem>> {
        let counts = Counts::of(word.x());
        let before = u16::from(counts.before);
        Self::check_count(closure, usize::from(before) + 1)?;
        let window = self.thread.row(self.at.base + word.b() as usize);
        if loaded_of(closure).listed == u32::from(before) + 1 {
            window.set(before, Value::Unset);
            window.set(before + 1, Value::Integer(i64::from(counts.items)));
            return Ok(counts.registers() as u16);
        }
        slow::gather(window, before, u16::from(counts.items));
        self.made()?;
        Ok(before + 1)
    }

    /// The list that was given to the running function, or one of the items that came in its place and have not been
    /// taken: where all is well, nobody asks for that.
    pub(super) fn given(&mut self, word: Instruction) -> Value {
        let given = self.thread.row(self.at.base).window(Scaled::new(word.b()));
        match (given.get(0), given.get(1)) {
            (Value::Unset, Value::Integer(count)) => {
                let is_item = word.op() == Some(Op::GivenItem);
                let taken = if is_item { 0 } else { i64::from(word.c()) };
                let left = u16::try_from(count - taken).unwrap_or(0);
                let most = if is_item { word.c() } else { 0 };
                Value::list(given.slice(2 + taken as u16, left.min(most)))
            }
            (other, _) => other,
        }
    }

    /// A function that is about to be called, which is a step.
    fn callable(&mut self, callee: Value) -> Result<Ref<Closure>, Box<Problem>> {
        let Value::Function(closure) = callee else {
            return Err(Problem::kind(0, "a function", &callee));
        };
        self.fuel -= 1;
        if self.fuel == 0 {
            self.pause()?;
        }
        Ok(closure)
    }

    /// Calls a function with the items of a list, which is where the window begins.
    pub(super) fn call_items(&mut self, word: Instruction) -> Done {
        let (list, function) = (self.get(word.b()), self.get(word.c()));
        let (items, closure) = runtime::spread(list, function)?;
        self.fuel -= 1;
        if self.fuel == 0 {
            self.pause()?;
        }
        let count = items.len() as u16;
        Self::check_count(closure, items.len())?;
        let inner = self.at.base + word.b() as usize;
        self.grow_for(closure, inner, count)?;
        self.thread.registers[inner..inner + items.len()].copy_from_slice(&items);
        self.begin(closure, word.b(), count, word.a());
        Ok(())
    }

    /// Goes into a function whose arguments are where its registers begin.
    fn begin(&mut self, closure: Ref<Closure>, window: u16, count: u16, into: u16) {
        let inner = self.at.base + window as usize;
        self.top.push(Frame {
            pc: self.at.pc,
            constants: self.at.constants,
            closure: self.closure,
            window: Scaled::new(window),
            into: Scaled::new(into),
            is_tail: false,
        });
        self.closure = closure;
        self.start(closure, inner, count);
    }

    /// Makes room for a function whose registers begin at a place of the stack.
    fn grow_for(&mut self, closure: Ref<Closure>, inner: usize, count: u16) -> Done {
        let needed = loaded_of(closure).registers + u32::from(count) + 1;
        self.grow(inner, needed)
    }

    /// Begins a function whose arguments are in the window.
    pub(super) fn enter(
        &mut self,
        closure: Ref<Closure>,
        window: u16,
        count: u16,
        into: u16,
    ) -> Done {
        Self::check_count(closure, usize::from(count))?;
        self.grow_for(closure, self.at.base + window as usize, count)?;
        self.begin(closure, window, count, into);
        Ok(())
    }

    pub(super) fn check_count(closure: Ref<Closure>, count: usize) -> Done {
        if loaded_of(closure).takes(count) {
            return Ok(());
        }
        Err(wrong_count(&closure.code().signature(), count))
    }

    /// Starts the code of a function that is the running one now.
    fn start(&mut self, closure: Ref<Closure>, base: usize, count: u16) {
        let loaded: &Loaded = loaded_of(closure);
        if loaded.function.last == Last::Rest {
            let fixed = loaded.function.params.len() - 1;
            let registers = &mut self.thread.registers[base..];
            registers[fixed] = Value::list(&registers[fixed..usize::from(count)]);
        }
        self.at = At {
            pc: loaded.start,
            base,
            constants: loaded.constants,
        };
    }
}
