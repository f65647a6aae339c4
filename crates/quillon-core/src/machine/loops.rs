//! Loops over values, and what stands around the calls that operations make.

use std::cell::RefCell;

use super::{Done, Machine};
use crate::bytecode::{Instruction, Op};
use crate::diagnostic::codes;
use crate::runtime::{self, Culprit, Problem, Sorting};
use crate::values::{Inner, Turns, Value, described};

impl Machine<'_> {
    /// Loops over values.
    pub(super) fn each(&mut self, op: Op, word: Instruction) -> Done {
        match op {
            Op::EachNext => return self.next_of_coroutine(word),
            Op::EachCheck => {
                let ended = match &self.get(word.a()) {
                    Value::Coroutine(coroutine) => coroutine.has_ended(),
                    _ => true,
                };
                return if ended {
                    Ok(())
                } else {
                    self.jump(i32::from(word.c() as i16))
                };
            }
            _ => {}
        }
        let items = match self.get(word.b()) {
            Value::List(list) => {
                runtime::list_room(list.len())?;
                list.copied()
            }
            Value::Map(map) if op == Op::EachBegin => {
                runtime::list_room(map.len())?;
                map.key_values()
            }
            coroutine @ Value::Coroutine(_) if op == Op::EachBegin => {
                self.set(word.a(), coroutine);
                return Ok(());
            }
            other => {
                let wanted = match op {
                    Op::EachBegin => "a list, a map or a coroutine",
                    _ => "a list",
                };
                return Err(Problem::kind(0, wanted, &other));
            }
        };
        let turns = Inner::Turns(RefCell::new(Turns { items, next: 0 }));
        self.set(word.a(), Value::Inner(Value::inner(turns)));
        self.made()
    }

    /// The next item where it is not one of a list.
    fn next_of_coroutine(&mut self, word: Instruction) -> Done {
        match self.get(word.a()) {
            Value::Coroutine(coroutine) if !coroutine.has_ended() => {
                self.resume(coroutine, Value::Nothing, word.b())
            }
            _ => {
                self.at.pc = self.at.pc.plus(1);
                Ok(())
            }
        }
    }

    /// Instructions around calls that operations make.
    pub(super) fn higher(&mut self, op: Op, word: Instruction) -> Done {
        let sorting = |register: u16| match &self.get(register) {
            Value::Inner(inner) => Some(inner.follow()),
            _ => None,
        };
        match op {
            Op::CheckFunction => match &self.get(word.a()) {
                Value::Function(_) => Ok(()),
                other => Err(Problem::kind(0, "a function", other)),
            },
            Op::CheckAnswer => answer(&self.get(word.a())).map(|_| ()),
            Op::SortBegin => {
                let Value::List(list) = &self.get(word.b()) else {
                    return Err(Problem::kind(0, "a list", &self.get(word.b())));
                };
                runtime::list_room(2 * list.len())?;
                let sorting = Inner::state(Sorting::new(list.copied()));
                self.set(word.a(), Value::Inner(Value::inner(sorting)));
                self.made()
            }
            Op::SortAsk => {
                let asked = sorting(word.a()).and_then(|inner| inner.with_state(Sorting::ask));
                let asked = asked.flatten();
                let Some([first, second]) = asked else {
                    return Ok(());
                };
                self.set(word.b(), first);
                self.set(word.b() + 1, second);
                self.jump(i32::from(word.c() as i16))
            }
            Op::SortAnswer => {
                let answer = answer(&self.get(word.b()))?;
                // The compiler makes an answer only after a question.
                let is_asked = sorting(word.a())
                    .and_then(|inner| inner.with_state(|s: &mut Sorting| s.answer(answer)));
                let is_asked = is_asked == Some(true);
                if is_asked {
                    return Ok(());
                }
                let message = "this answers a sort that has asked nothing";
                Err(Problem::new(Culprit::Whole, codes::RUN_BYTECODE, message))
            }
            _ => {
                let sorted = sorting(word.b()).and_then(|inner| inner.with_state(Sorting::sorted));
                self.set(word.a(), Value::list(sorted.unwrap_or_default()));
                self.made()
            }
        }
    }
}

/// What a function that was asked has answered.
fn answer(value: &Value) -> Result<bool, Box<Problem>> {
    match value {
        Value::Truth(truth) => Ok(*truth),
        other => Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_KIND,
            format!(
                "the function must give a truth value, and it gives {}",
                described(other)
            ),
        )),
    }
}
