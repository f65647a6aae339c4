//! Every instruction in full, one arm for each.

use super::raw::Scaled;
use super::{Done, Machine};
use crate::bytecode::{Instruction, Op};
use crate::definition::template::BinaryOperator as B;
use crate::diagnostic::codes;
use crate::operations::Operation;
use crate::runtime::{
    self, Around, CarriedOut, Culprit, Division, Native, Problem, binary, carried_out,
    integer_division, negate,
};
use crate::values::{Value, described, shown};

/// Where the two operands of an operator are.
#[derive(Clone, Copy)]
enum Operands {
    /// In registers.
    Registers,
    /// In a register, and a field that is the second.
    Integer,
    /// In a register, and a constant that is the second.
    Constant,
    /// In a constant, and a register that is the second.
    ConstantFirst,
}

impl Machine<'_> {
    // It is a table.
    #[allow(clippy::too_many_lines)]
    #[inline(never)]
    pub(super) fn perform(&mut self, op: Op, word: Instruction) -> Done {
        use Op as O;
        use Operands as From;
        let (a, b, c) = (word.a(), word.b(), word.c());
        match op {
            O::Move => self.set(a, self.get(b)),
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
            O::GetShared => return self.found(word, held_by(self.get(b))),
            O::GetOuter => return self.found(word, held_by(self.closure.captured(b))),
            O::GetSession => {
                return self.found(word, self.memory.in_session(b as usize));
            }
            O::GetBuiltIn => {
                let built_in = self.built_in(b)?;
                return self.found(word, built_in);
            }
            O::GetState => return self.found(word, self.memory.state.get(b as usize).copied()),
            O::PutSession => self.memory.set_session(a as usize, self.get(b)),
            O::GetDynamic => {
                let held = self.memory.dynamic.get(self.name(b).as_str()).copied();
                let value = held.ok_or_else(|| self.not_set(c, true))?;
                self.set(a, value);
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

            O::Add => return self.operate(word, B::Add, From::Registers),
            // The comparison comes next.
            O::AddInteger
            | O::AddThenLess
            | O::AddThenLessOrEqual
            | O::AddThenLessInteger
            | O::AddThenLessOrEqualInteger
            | O::AddThenLessConstant
            | O::AddThenLessOrEqualConstant => return self.operate(word, B::Add, From::Integer),
            O::AddConstant => return self.operate(word, B::Add, From::Constant),
            O::Subtract => return self.operate(word, B::Subtract, From::Registers),
            O::SubtractInteger => return self.operate(word, B::Subtract, From::Integer),
            O::SubtractConstant => return self.operate(word, B::Subtract, From::Constant),
            O::SubtractFrom => return self.operate(word, B::Subtract, From::ConstantFirst),
            O::Multiply => return self.operate(word, B::Multiply, From::Registers),
            O::MultiplyInteger => return self.operate(word, B::Multiply, From::Integer),
            O::MultiplyConstant => return self.operate(word, B::Multiply, From::Constant),
            O::Divide => return self.operate(word, B::Divide, From::Registers),
            O::DivideConstant => return self.operate(word, B::Divide, From::Constant),
            O::DivideFrom => return self.operate(word, B::Divide, From::ConstantFirst),
            O::Quotient => return self.divide(word, Division::Quotient, From::Registers),
            O::Remainder => return self.divide(word, Division::Remainder, From::Registers),
            O::RemainderInteger => return self.divide(word, Division::Remainder, From::Integer),
            O::FloorQuotient => {
                return self.divide(word, Division::FloorQuotient, From::Registers);
            }
            O::FloorQuotientInteger => {
                return self.divide(word, Division::FloorQuotient, From::Integer);
            }
            O::Modulo => return self.divide(word, Division::Modulo, From::Registers),
            O::ModuloInteger => return self.divide(word, Division::Modulo, From::Integer),
            O::Join => {
                self.operate(word, B::Join, From::Registers)?;
                return self.made();
            }
            O::JoinShown => return self.join_shown(word, self.get(c)),
            O::JoinShownConstant => {
                return self.join_shown(word, *self.at.constants.constant(u32::from(c)));
            }
            O::Shown => {
                self.set(a, Value::Text(shown(&self.get(b))?));
                return self.made();
            }
            O::Negate => self.set(a, negate(&self.get(b))?),
            O::Not => self.set(a, Value::Truth(!truth(&self.get(b), 0)?)),
            O::Equal => return self.operate(word, B::Equal, From::Registers),
            O::Unequal => return self.operate(word, B::Unequal, From::Registers),
            O::Less => return self.operate(word, B::Less, From::Registers),
            O::LessOrEqual => return self.operate(word, B::LessOrEqual, From::Registers),
            O::Greater => return self.operate(word, B::Greater, From::Registers),
            O::GreaterOrEqual => return self.operate(word, B::GreaterOrEqual, From::Registers),

            O::JumpIf => {
                if u8::from(truth(&self.get(a), 0)?) == word.x() {
                    return self.jump(word.long());
                }
            }
            O::JumpEqual | O::JumpEqualNumbers => {
                return self.compare(word, B::Equal, self.get(b));
            }
            O::JumpLess => return self.compare(word, B::Less, self.get(b)),
            O::JumpLessOrEqual => return self.compare(word, B::LessOrEqual, self.get(b)),
            O::JumpGreater => return self.compare(word, B::Greater, self.get(b)),
            O::JumpGreaterOrEqual => return self.compare(word, B::GreaterOrEqual, self.get(b)),
            O::JumpEqualInteger | O::JumpEqualNumbersInteger => {
                return self.compare(word, B::Equal, field(b));
            }
            O::JumpLessInteger => return self.compare(word, B::Less, field(b)),
            O::JumpLessOrEqualInteger => return self.compare(word, B::LessOrEqual, field(b)),
            O::JumpGreaterInteger => return self.compare(word, B::Greater, field(b)),
            O::JumpGreaterOrEqualInteger => {
                return self.compare(word, B::GreaterOrEqual, field(b));
            }
            O::JumpEqualConstant => return self.compare(word, B::Equal, self.constant(b)),
            O::JumpLessConstant => return self.compare(word, B::Less, self.constant(b)),
            O::JumpLessOrEqualConstant => {
                return self.compare(word, B::LessOrEqual, self.constant(b));
            }
            O::JumpGreaterConstant => return self.compare(word, B::Greater, self.constant(b)),
            O::JumpGreaterOrEqualConstant => {
                return self.compare(word, B::GreaterOrEqual, self.constant(b));
            }
            O::NoMatch => {
                let message = format!("nothing here is for {}", described(&self.get(a)));
                return Err(Problem::new(Culprit::Operand(0), codes::RUN_MATCH, message));
            }

            O::Function => {
                let regs = self.thread.row(self.at.base);
                self.make_function(regs, self.culprit);
                return self.made();
            }
            O::Call => return self.call(word, self.get(c)),
            O::CallCaptured => return self.call(word, self.closure.captured(c)),
            O::CallItself => return self.call(word, Value::Function(self.closure)),
            O::CallBuiltIn => {
                let built_in = self.built_in(c)?;
                return self.call(word, built_in.unwrap_or_default());
            }
            O::CallItems => return self.call_items(word),
            O::CallListed => return self.call_listed(word, self.get(c)),
            O::CallListedCaptured => return self.call_listed(word, self.closure.captured(c)),
            O::TailCallListed => return self.tail_call_listed(word),
            O::TailCall => return self.tail_call(word),
            O::TailCallItself => return self.tail_call_itself(word),

            O::List => {
                let from = self.at.base + b as usize;
                let items = self.thread.registers[from..from + c as usize].to_vec();
                self.set(a, Value::list(items));
                return self.made();
            }
            O::Apply => return self.apply(word),
            O::ApplyTwo => return self.apply_two(word),
            O::Push | O::ListAdd => {
                self.native(function_of(Operation::ListAdd), &[self.get(a), self.get(b)])?;
                return self.made();
            }
            O::ListLength => {
                let length = self.native(function_of(Operation::ListLength), &[self.get(b)])?;
                self.set(a, length);
            }
            O::ListTake => {
                let last = self.native(function_of(Operation::ListTake), &[self.get(b)])?;
                self.set(a, last);
            }
            O::Item => {
                let item = self.native(item_from(word), &[self.get(b), self.get(c)])?;
                self.set(a, item);
            }
            O::ItemInteger => {
                let item = self.native(item_from(word), &[self.get(b), field(c)])?;
                self.set(a, item);
            }
            O::PutItem => {
                let counted = [Operation::ListPut, Operation::ListPutItem];
                let operation = counted[usize::from(word.x() != 0)];
                self.native(
                    function_of(operation),
                    &[self.get(a), self.get(b), self.get(c)],
                )?;
            }
            O::GivenLength | O::GivenTake | O::GivenItem => {
                let (operation, given) = (on_given(op, word), self.given(word));
                let args = [given, field(c)];
                let args = if op == O::GivenItem {
                    &args[..]
                } else {
                    &args[..1]
                };
                let value = self.native(operation, args)?;
                self.set(a, value);
            }
            O::MapGet => {
                let (map, key) = (self.get(b), self.constant(c));
                let value = self.native(function_of(Operation::MapGet), &[map, key])?;
                self.set(a, value);
                self.remember(map, key, None);
            }
            O::MapPut => {
                let (map, key) = (self.get(a), self.constant(b));
                let before = match map {
                    Value::Map(map) => map.shape(),
                    _ => None,
                };
                self.native(function_of(Operation::MapPut), &[map, key, self.get(c)])?;
                self.remember(map, key, before);
                return self.made();
            }
            O::PutKey => {
                self.native(
                    function_of(Operation::MapPut),
                    &[self.get(a), self.get(b), self.get(c)],
                )?;
                return self.made();
            }
            O::MapRow => return self.make_row(word),
            O::MapNew => {
                self.set(a, Value::map([]));
                return self.made();
            }

            O::EachBegin => return self.each_begin(word),
            O::CountBegin => return self.count_begin(word),
            O::ItemsBegin => return self.items_begin(word),
            O::EachNext => return self.next_of_coroutine(word),
            O::CheckFunction => return Self::check_function(self.get(a)),
            O::CheckAnswer => return Self::check_answer(self.get(a)),
            O::SortBegin => return self.sort_begin(word),
            O::SortAsk => return self.sort_ask(word),
            O::SortAnswer => return self.sort_answer(word),
            O::SortEnd => return self.sort_end(word),

            O::Resume => {
                let coroutine = match self.get(b) {
                    Value::Coroutine(coroutine) => coroutine,
                    other => return Err(Problem::kind(0, "a coroutine", &other)),
                };
                return self.resume(coroutine, self.get(c), Scaled::new(a));
            }
            O::Suspend => return self.suspend(self.get(b), Scaled::new(a)),
            O::ModuleLoad => return self.module_load(word),
            O::ModuleDone => self.module_done(word),
            O::Fault => return Err(Problem::fault(Culprit::Whole, &self.get(a))),
            O::Raise => return self.raise(self.get(a)),
            O::Finish => return self.finish(self.get(a)),

            O::Constant
            | O::Integer
            | O::Truth
            | O::Nothing
            | O::Unset
            | O::PutShared
            | O::PutState
            | O::GetCaptured
            | O::PutOuter
            | O::Jump
            | O::Done
            | O::JumpKind
            | O::JumpUnlessKind
            | O::JumpNumber
            | O::TryJumpIf
            | O::CountNext
            | O::EachCheck
            | O::TryKey
            | O::TryGiven
            | O::TryMapGet
            | O::TryMapPut
            | O::Return
            | O::ReturnNothing
            | O::Stop
            | O::TryLength
            | O::TryWhole
            | O::TryItem
            | O::TryItemWhole
            | O::TryItemInteger
            | O::TryLetter
            | O::TryLetterWhole
            | O::TryPutItem
            | O::TryPutItemWhole
            | O::TryAdd
            | O::TryAddInteger => unreachable!("its handler carries it out whatever it finds"),
        }
        Ok(())
    }

    /// A constant by its number in a field.
    pub(super) fn constant(&self, number: u16) -> Value {
        *self.at.constants.constant(u32::from(number))
    }

    /// What is built in, made if need be.
    fn built_in(&self, index: u16) -> Result<Option<Value>, Box<Problem>> {
        self.memory.built_in.ready(usize::from(index))
    }

    /// What a variable holds that is not just a register.
    fn found(&mut self, word: Instruction, held: Option<Value>) -> Done {
        let value = held.ok_or_else(|| self.not_set(word.c(), false))?;
        self.set(word.a(), value);
        Ok(())
    }

    /// What the two operands of an operator are.
    fn operands(&self, word: Instruction, from: Operands) -> (Value, Value) {
        match from {
            Operands::Registers => (self.get(word.b()), self.get(word.c())),
            Operands::Integer => (self.get(word.b()), field(word.c())),
            Operands::Constant => (self.get(word.b()), self.constant(word.c())),
            Operands::ConstantFirst => (self.constant(word.b()), self.get(word.c())),
        }
    }

    /// An operator on two values.
    fn operate(&mut self, word: Instruction, operator: B, from: Operands) -> Done {
        let (first, second) = self.operands(word, from);
        // The literal stood first.
        let (left, right) = if word.x() == 1 {
            (second, first)
        } else {
            (first, second)
        };
        let value = binary(operator, &left, &right)?;
        self.set(word.a(), value);
        Ok(())
    }

    /// A division of integers, or what one of any numbers leaves, if `x` says so.
    fn divide(&mut self, word: Instruction, division: Division, from: Operands) -> Done {
        let (left, right) = self.operands(word, from);
        let value = match division {
            Division::Remainder if word.x() == 1 => {
                self.native(function_of(Operation::NumberRemainder), &[left, right])?
            }
            Division::Modulo if word.x() == 1 => {
                self.native(function_of(Operation::NumberModulo), &[left, right])?
            }
            Division::Quotient
            | Division::Remainder
            | Division::FloorQuotient
            | Division::Modulo => integer_division(division, &left, &right)?,
        };
        self.set(word.a(), value);
        Ok(())
    }

    /// Jumps if a comparison with a register holds, or does not, as `x` says.
    fn compare(&mut self, word: Instruction, operator: B, second: Value) -> Done {
        let holds = binary(operator, &self.get(word.a()), &second)?;
        if matches!(holds, Value::Truth(truth) if u8::from(truth) == word.x()) {
            return self.jump(i32::from(word.c() as i16));
        }
        Ok(())
    }

    fn apply(&mut self, word: Instruction) -> Done {
        let Some(operation) = Operation::numbered(word.x()) else {
            unreachable!("the verifier lets only numbers of operations by");
        };
        let native = match carried_out(operation) {
            CarriedOut::Native(native) => native,
            CarriedOut::Host(by_host) => return self.by_host(by_host, word),
            CarriedOut::Engine(_) => unreachable!("the verifier lets none of these by"),
        };
        if runtime::takes_input(operation) && self.memory.heap.is_half_full() {
            self.collect();
        }
        let args = self.thread.row(self.at.base).slice(word.b(), word.c());
        let value = self.native(native, args)?;
        self.set(word.a(), value);
        self.made()
    }

    fn apply_two(&mut self, word: Instruction) -> Done {
        let Some(operation) = Operation::numbered(word.x()) else {
            unreachable!("the verifier lets only numbers of operations by");
        };
        let value = self.native(
            function_of(operation),
            &[self.get(word.b()), self.get(word.c())],
        )?;
        self.set(word.a(), value);
        self.made()
    }

    /// Carries out an operation on values.
    #[inline]
    pub(super) fn native(&mut self, native: Native, args: &[Value]) -> Result<Value, Box<Problem>> {
        let mut around = Around {
            host: &mut self.host,
            random: &mut self.memory.random,
        };
        native(args, &mut around)
    }
}

/// The function that finds an item, counted as an instruction says.
fn item_from(word: Instruction) -> Native {
    function_of(if word.x() == 0 {
        Operation::ListAt
    } else {
        Operation::ListItem
    })
}

/// The function for a list that was given, as an instruction says.
fn on_given(op: Op, word: Instruction) -> Native {
    match op {
        Op::GivenLength => function_of(Operation::ListLength),
        Op::GivenTake => function_of(Operation::ListTakeFirst),
        _ => item_from(word),
    }
}

/// An integer in a field.
fn field(number: u16) -> Value {
    Value::Integer(i64::from(number as i16))
}

/// What a shared variable holds, if it holds anything.
fn held_by(shared: Value) -> Option<Value> {
    match shared {
        Value::Variable(variable) => variable.get().if_set(),
        _ => None,
    }
}

fn truth(value: &Value, operand: usize) -> Result<bool, Box<Problem>> {
    match value {
        Value::Truth(truth) => Ok(*truth),
        other => Err(Problem::kind(operand, "a truth value", other)),
    }
}

/// The function that carries out an operation.
fn function_of(operation: Operation) -> Native {
    match carried_out(operation) {
        CarriedOut::Native(native) => native,
        CarriedOut::Host(_) | CarriedOut::Engine(_) => {
            unreachable!("instructions of their own are only for functions on values")
        }
    }
}
