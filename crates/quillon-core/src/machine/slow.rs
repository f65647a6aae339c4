//! What the handlers leave: every instruction in full, as the walker would do it, errors
//! included.

use super::raw::{Pc, Row};
use super::{Done, Exit, Machine, fast};
use crate::bytecode::{Instruction, Op};
use crate::definition::template::BinaryOperator as B;
use crate::diagnostic::codes;
use crate::operations::Operation;
use crate::runtime::{
    self, Around, CarriedOut, Culprit, Division, Native, Problem, binary, carried_out,
    integer_division, negate, not_set,
};
use crate::values::{Map, Ref, Text, Traced, Value, described, join, shown};

/// Carries out an instruction and goes on.
#[cold]
#[inline(never)]
pub(super) fn carry_out(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    m.culprit = pc;
    m.stand(pc.plus(1), regs, constants);
    if !step(m, pc) {
        return Exit::Failed;
    }
    let (pc, regs, constants) = m.place();
    fast::next(m, pc, regs, constants)
}

/// Pauses at an instruction that leads elsewhere, and goes on there.
#[cold]
#[inline(never)]
pub(super) fn pause(m: &mut Machine<'_>, pc: Pc, to: Pc, regs: Row, constants: Row) -> Exit {
    m.culprit = pc;
    m.stand(to, regs, constants);
    if !rest(m) {
        return Exit::Failed;
    }
    let (pc, regs, constants) = m.place();
    fast::next(m, pc, regs, constants)
}

/// Carries out an instruction; whether that went well.
#[inline(never)]
fn step(m: &mut Machine<'_>, pc: Pc) -> bool {
    let loaded = m.loaded();
    let word = loaded.function.code[pc.words_from(loaded.start)];
    // The verifier lets no other number in.
    let op = word.op().unwrap_or(Op::Stop);
    let done = match m.perform(op, word) {
        Err(problem) if problem.may_be_tried_again => m.perform_after_collecting(pc, op, word),
        done => done,
    };
    m.noted(done)
}

/// Counts the instruction at a place; its number.
#[inline(never)]
pub(super) fn count(m: &mut Machine<'_>, pc: Pc) -> u8 {
    let loaded = m.loaded();
    let at = pc.words_from(loaded.start);
    let number = loaded.function.code[at].number();
    m.count(at);
    number
}

/// Makes a list of some registers.
#[inline(never)]
pub(super) fn make_list(regs: Row, pc: Pc) {
    let items = regs.window(pc.b()).slice(0, pc.c_number());
    regs.put(pc.a(), Value::list(items.to_vec()));
}

/// Makes a map.
#[inline(never)]
pub(super) fn make_map(regs: Row, pc: Pc) {
    regs.put(pc.a(), Value::map([]));
}

/// Puts a value at a key that a map does not have yet; whether that could be done at once.
#[inline(never)]
pub(super) fn put_at_end(m: &Machine<'_>, map: Ref<Map>, pc: Pc, regs: Row) -> bool {
    let (heap, known) = (&m.memory.heap, pc.plus(1).word());
    let number = (known & !fast::LEADS_ON) >> 32;
    let Some(next) = heap.shape(number as u32) else {
        return false;
    };
    if heap.is_full() || !map.put_at_end(known as u32, next, regs.take(pc.c())) {
        return false;
    }
    if known as u32 == 0 {
        heap.count(map.room());
    }
    true
}

/// Looks at the limits; whether they are kept.
#[inline(never)]
fn rest(m: &mut Machine<'_>) -> bool {
    let done = m.pause();
    m.noted(done)
}

/// Joins two texts, unless they are too large.
#[inline(never)]
pub(super) fn join_texts(regs: Row, pc: Pc, first: Ref<Text>, second: Ref<Text>) -> bool {
    match join(first, second) {
        Ok(joined) => {
            regs.put(pc.a(), Value::Text(joined));
            true
        }
        Err(_) => false,
    }
}

impl Machine<'_> {
    /// Notes what went wrong, if anything did.
    fn noted(&mut self, done: Done) -> bool {
        if let Err(problem) = done {
            // A raised value is there already.
            if self.failure.is_none() {
                self.failure = Some(self.failure_of(*problem));
            }
            return false;
        }
        true
    }

    /// Carries out an instruction once more, from where it began, when it has asked for room
    /// that there was not: after a collection there may be.
    #[cold]
    fn perform_after_collecting(&mut self, pc: Pc, op: Op, word: Instruction) -> Done {
        self.at.pc = pc.plus(1);
        self.collect();
        self.perform(op, word)
    }

    #[inline(never)]
    fn perform(&mut self, op: Op, word: Instruction) -> Done {
        use Op as O;
        let (a, b, c) = (word.a(), word.b(), word.c());
        match op {
            O::Move => self.set(a, self.get(b)),
            O::Unset => self.set(a, Value::Unset),
            O::CheckSet => {
                if !&self.get(a).is_set() {
                    return Err(self.not_set(b, false));
                }
            }
            O::Fresh => {
                self.set(a, Value::Variable(Value::variable(Value::Unset)));
                return self.made();
            }
            O::Share => {
                self.set(a, Value::Variable(Value::variable(self.get(a))));
                return self.made();
            }
            O::GetShared
            | O::GetOuter
            | O::GetSession
            | O::GetReadyMade
            | O::GetState
            | O::GetDynamic => return self.read(op, word),
            O::PutSession => self.memory.set_session(u32::from(a), self.get(b)),
            O::PutState => {
                let value = self.get(b);
                if let Some(cell) = self.memory.state.get_mut(a as usize) {
                    *cell = value;
                }
            }
            O::PutDynamic | O::RestoreDynamic => {
                let name = self.name(a);
                match self.get(b).if_set() {
                    Some(value) => self.memory.dynamic.insert(name.as_str().into(), value),
                    None => self.memory.dynamic.remove(name.as_str()),
                };
            }
            O::TakeDynamic => {
                let name = self.name(b);
                let held = self.memory.dynamic.remove(name.as_str());
                self.set(a, held.unwrap_or(Value::Unset));
            }
            O::JoinShown | O::JoinShownConstant | O::Shown => return self.join_shown(op, word),
            O::Negate => self.set(a, negate(&self.get(b))?),
            O::Not => match &self.get(b) {
                Value::Truth(truth) => self.set(a, Value::Truth(!truth)),
                other => return Err(Problem::kind(0, "a truth value", other)),
            },
            O::JumpIf => {
                if u8::from(truth(&self.get(a), 0)?) == word.x() {
                    return self.jump(word.long());
                }
            }
            O::NoMatch => {
                let message = format!("nothing here is for {}", described(&self.get(a)));
                return Err(Problem::new(Culprit::Operand(0), codes::RUN_MATCH, message));
            }
            O::Function => return self.make_function(a, word.long() as usize),
            O::CallItems => return self.call_items(word),
            O::Call | O::CallCaptured | O::CallReadyMade | O::TailCall => {
                return self.call(op, word);
            }
            O::List => {
                let from = self.at.base + b as usize;
                let items = self.thread.registers[from..from + c as usize].to_vec();
                self.set(a, Value::list(items));
                return self.made();
            }
            O::Apply => return self.apply(word),
            O::MapNew => {
                self.set(a, Value::map([]));
                return self.made();
            }
            O::Fault => return Err(Problem::fault(Culprit::Whole, &self.get(a))),
            O::Raise => return self.raise(self.get(a)),
            O::Finish => return self.finish(self.get(a)),
            O::Resume | O::Suspend => return self.coroutine(op, word),
            O::ModuleLoad | O::ModuleDone => return self.module(op, word),
            O::EachBegin | O::ItemsBegin | O::EachNext | O::EachCheck => {
                return self.each(op, word);
            }
            O::CheckFunction
            | O::CheckAnswer
            | O::SortBegin
            | O::SortAsk
            | O::SortAnswer
            | O::SortEnd => return self.higher(op, word),
            O::Push | O::ListLength | O::Item | O::PutItem | O::ListAdd | O::MapGet | O::MapPut => {
                return self.structure(op, word);
            }
            _ => return self.operator(op, word),
        }
        Ok(())
    }

    /// After something has been made: frees what is out of use, if it is time.
    pub(super) fn made(&mut self) -> Done {
        let heap = &self.memory.heap;
        if heap.is_full() {
            return self.clean_up();
        }
        Ok(())
    }

    /// Jumps so many words from the next instruction, which is a step.
    pub(super) fn jump(&mut self, by: i32) -> Done {
        self.at.pc = self.at.pc.plus(by);
        self.fuel -= 1;
        if self.fuel == 0 { self.pause() } else { Ok(()) }
    }

    /// A name, or a key, by its number among the constants.
    fn name(&self, number: u16) -> String {
        match self.at.constants.constant(u32::from(number)) {
            Value::Text(text) => text.to_string(),
            _ => String::new(),
        }
    }

    fn not_set(&self, name: u16, is_dynamic: bool) -> Box<Problem> {
        not_set(&self.name(name), is_dynamic)
    }

    /// Reads a variable that is not just a register.
    fn read(&mut self, op: Op, word: Instruction) -> Done {
        let at = |place: u16| place as usize;
        let b = word.b();
        let held = match op {
            Op::GetShared => match &self.get(b) {
                Value::Variable(variable) => variable.get().if_set(),
                _ => None,
            },
            Op::GetOuter => match self.closure.captured(b) {
                Value::Variable(variable) => variable.get().if_set(),
                _ => None,
            },
            Op::GetSession => self.memory.session.get(at(b)).and_then(|v| v.if_set()),
            Op::GetReadyMade => self.memory.ready_made.get(at(b)).copied(),
            Op::GetState => self.memory.state.get(at(b)).copied(),
            _ => self.memory.dynamic.get(self.name(b).as_str()).copied(),
        };
        match held {
            Some(value) => {
                self.set(word.a(), value);
                Ok(())
            }
            None => Err(self.not_set(word.c(), op == Op::GetDynamic)),
        }
    }

    /// Operators on two values, and the jumps that compare.
    fn operator(&mut self, op: Op, word: Instruction) -> Done {
        let constants = self.at.constants;
        let field = |n: u16| Value::Integer(i64::from(n as i16));
        let constant = |n: u16| *constants.constant(u32::from(n));
        if let Some((operator, second)) = comparison(op) {
            let b = match second {
                Second::Register => self.get(word.b()),
                Second::Integer => field(word.b()),
                Second::Constant => constant(word.b()),
            };
            let holds = binary(operator, &self.get(word.a()), &b)?;
            if matches!(holds, Value::Truth(truth) if u8::from(truth) == word.x()) {
                return self.jump(i32::from(word.c() as i16));
            }
            return Ok(());
        }
        let (mut left, mut right) = match op {
            Op::AddInteger
            | Op::SubtractInteger
            | Op::MultiplyInteger
            | Op::FloorQuotientInteger
            | Op::ModuloInteger => (self.get(word.b()), field(word.c())),
            Op::AddConstant | Op::SubtractConstant | Op::MultiplyConstant | Op::DivideConstant => {
                (self.get(word.b()), constant(word.c()))
            }
            Op::SubtractFrom | Op::DivideFrom => (constant(word.b()), self.get(word.c())),
            _ => (self.get(word.b()), self.get(word.c())),
        };
        // The literal stood first.
        if word.x() == 1 {
            std::mem::swap(&mut left, &mut right);
        }
        let value = match division(op) {
            Some(division) => integer_division(division, &left, &right)?,
            None => binary(operator(op), &left, &right)?,
        };
        self.set(word.a(), value);
        if op == Op::Join { self.made() } else { Ok(()) }
    }

    /// Texts one after the other, whatever they are made of.
    fn join_shown(&mut self, op: Op, word: Instruction) -> Done {
        let first = match self.get(word.b()) {
            Value::Text(text) => text,
            other => shown(&other)?,
        };
        if op == Op::Shown {
            self.set(word.a(), Value::Text(first));
            return self.made();
        }
        let second = match op {
            Op::JoinShown => self.get(word.c()),
            _ => *self.at.constants.constant(u32::from(word.c())),
        };
        let joined = match second {
            Value::Text(second) => join(first, second)?,
            other => {
                let second = shown(&other)?;
                join(first, second)?
            }
        };
        self.set(word.a(), Value::Text(joined));
        self.made()
    }

    fn apply(&mut self, word: Instruction) -> Done {
        let Some(operation) = Operation::numbered(word.x()) else {
            unreachable!("the verifier lets only numbers of operations by");
        };
        if runtime::takes_input(operation) && self.memory.heap.is_half_full() {
            self.collect();
        }
        let from = self.at.base + word.b() as usize;
        let args = &self.thread.registers[from..from + word.c() as usize];
        let mut around = Around {
            host: &mut self.host,
            random: &mut self.memory.random,
        };
        let value = native(operation)(args, &mut around)?;
        self.set(word.a(), value);
        self.made()
    }

    /// Instructions on lists and maps.
    fn structure(&mut self, op: Op, word: Instruction) -> Done {
        let (a, b, c) = (word.a(), word.b(), word.c());
        let counted = |from_0: Operation, from_1: Operation| match word.x() {
            0 => from_0,
            _ => from_1,
        };
        let name = |number: u16| *self.at.constants.constant(u32::from(number));
        let (operation, args) = match op {
            Op::Push | Op::ListAdd => (Operation::ListAdd, vec![self.get(a), self.get(b)]),
            Op::ListLength => (Operation::ListLength, vec![self.get(b)]),
            Op::Item => (
                counted(Operation::ListAt, Operation::ListItem),
                vec![self.get(b), self.get(c)],
            ),
            Op::PutItem => (
                counted(Operation::ListPut, Operation::ListPutItem),
                vec![self.get(a), self.get(b), self.get(c)],
            ),
            Op::MapGet => (Operation::MapGet, vec![self.get(b), name(c)]),
            _ => (Operation::MapPut, vec![self.get(a), name(b), self.get(c)]),
        };
        let before = match args[0] {
            Value::Map(map) => map.shape(),
            _ => None,
        };
        let mut around = Around {
            host: &mut self.host,
            random: &mut self.memory.random,
        };
        let value = native(operation)(&args, &mut around)?;
        if matches!(op, Op::ListLength | Op::Item | Op::MapGet) {
            self.set(a, value);
        }
        if let (Op::MapGet | Op::MapPut, Value::Map(map), Value::Text(key)) = (op, args[0], args[1])
        {
            // The word after it remembers where the key was.
            if let Some((shape, place)) = map.place_of(key) {
                let known = match before {
                    // A key that was not there before leads to another shape.
                    Some(before) if before != shape => {
                        u64::from(before) | u64::from(shape) << 32 | fast::LEADS_ON
                    }
                    _ => u64::from(shape) | u64::from(place) << 32,
                };
                self.culprit.plus(1).remember(known);
            }
            self.at.pc = self.at.pc.plus(1);
        }
        self.made()
    }
}

fn truth(value: &Value, operand: usize) -> Result<bool, Box<Problem>> {
    match value {
        Value::Truth(truth) => Ok(*truth),
        other => Err(Problem::kind(operand, "a truth value", other)),
    }
}

/// What an instruction compares a register with.
#[derive(Clone, Copy)]
enum Second {
    Register,
    Integer,
    Constant,
}

/// The operator of a jump that compares, and with what.
fn comparison(op: Op) -> Option<(B, Second)> {
    Some(match op {
        Op::JumpEqual => (B::Equal, Second::Register),
        Op::JumpLess => (B::Less, Second::Register),
        Op::JumpLessOrEqual => (B::LessOrEqual, Second::Register),
        Op::JumpGreater => (B::Greater, Second::Register),
        Op::JumpGreaterOrEqual => (B::GreaterOrEqual, Second::Register),
        Op::JumpEqualInteger => (B::Equal, Second::Integer),
        Op::JumpEqualConstant => (B::Equal, Second::Constant),
        Op::JumpLessInteger => (B::Less, Second::Integer),
        Op::JumpLessConstant => (B::Less, Second::Constant),
        Op::JumpLessOrEqualInteger => (B::LessOrEqual, Second::Integer),
        Op::JumpLessOrEqualConstant => (B::LessOrEqual, Second::Constant),
        Op::JumpGreaterInteger => (B::Greater, Second::Integer),
        Op::JumpGreaterConstant => (B::Greater, Second::Constant),
        Op::JumpGreaterOrEqualInteger => (B::GreaterOrEqual, Second::Integer),
        Op::JumpGreaterOrEqualConstant => (B::GreaterOrEqual, Second::Constant),
        _ => return None,
    })
}

fn division(op: Op) -> Option<Division> {
    Some(match op {
        Op::Quotient => Division::Quotient,
        Op::Remainder => Division::Remainder,
        Op::FloorQuotient | Op::FloorQuotientInteger => Division::FloorQuotient,
        Op::Modulo | Op::ModuloInteger => Division::Modulo,
        _ => return None,
    })
}

fn operator(op: Op) -> B {
    match op {
        Op::Add | Op::AddInteger | Op::AddConstant => B::Add,
        Op::Subtract | Op::SubtractInteger | Op::SubtractConstant | Op::SubtractFrom => B::Subtract,
        Op::Multiply | Op::MultiplyInteger | Op::MultiplyConstant => B::Multiply,
        Op::Divide | Op::DivideConstant | Op::DivideFrom => B::Divide,
        Op::Join => B::Join,
        Op::Equal => B::Equal,
        Op::Unequal => B::Unequal,
        Op::Less => B::Less,
        Op::LessOrEqual => B::LessOrEqual,
        Op::Greater => B::Greater,
        _ => B::GreaterOrEqual,
    }
}

/// The function that carries out an operation.
fn native(operation: Operation) -> Native {
    match carried_out(operation) {
        CarriedOut::Native(native) => native,
        CarriedOut::Engine(_) => {
            unreachable!("the verifier lets by only operations that are functions on values")
        }
    }
}
