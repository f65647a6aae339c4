//! Loops over values, and what stands around the calls that operations make.

use std::cell::Cell;

use super::raw::Scaled;
use super::{Done, Machine};
use crate::bytecode::Instruction;
use crate::diagnostic::codes;
use crate::runtime::{self, Culprit, Problem, Sorting};
use crate::values::{Inner, Turns, Value, ValueRow, described};

/// A loop over the items of a row.
pub(super) fn over(items: ValueRow) -> Value {
    let next = Cell::new(0);
    Value::Inner(Value::inner(Inner::Turns(Turns { items, next })))
}

impl Machine<'_> {
    /// Begins a loop over a list, the keys of a map, or a coroutine.
    pub(super) fn each_begin(&mut self, word: Instruction) -> Done {
        let items = match self.get(word.b()) {
            Value::List(list) => {
                runtime::list_room(list.len())?;
                list.items.clone()
            }
            Value::Map(map) => {
                runtime::list_room(map.len())?;
                ValueRow::of(&map.key_values())
            }
            coroutine @ Value::Coroutine(_) => {
                self.set(word.a(), coroutine);
                return Ok(());
            }
            other => return Err(Problem::kind(0, "a list, a map or a coroutine", &other)),
        };
        self.turns(word, items)
    }

    /// Begins a loop over the integers from one up to another.
    pub(super) fn count_begin(&mut self, word: Instruction) -> Done {
        let from = runtime::integer_operand(0, &self.get(word.a()))?;
        let to = runtime::integer_operand(1, &self.get(word.b()))?;
        if from > to {
            return self.jump(i32::from(word.c() as i16));
        }
        Ok(())
    }

    /// Begins a loop over a list.
    pub(super) fn items_begin(&mut self, word: Instruction) -> Done {
        let items = match self.get(word.b()) {
            Value::List(list) => {
                runtime::list_room(list.len())?;
                list.items.clone()
            }
            other => return Err(Problem::kind(0, "a list", &other)),
        };
        self.turns(word, items)
    }

    fn turns(&mut self, word: Instruction, items: ValueRow) -> Done {
        self.set(word.a(), over(items));
        self.made()
    }

    /// The next item where it is not one of a list.
    pub(super) fn next_of_coroutine(&mut self, word: Instruction) -> Done {
        match self.get(word.a()) {
            Value::Coroutine(coroutine) if !coroutine.has_ended() => {
                self.resume(coroutine, Value::Nothing, Scaled::new(word.b()))
            }
            _ => {
                self.at.pc = self.at.pc.plus(1);
                Ok(())
            }
        }
    }

    pub(super) fn check_function(value: Value) -> Done {
        match value {
            Value::Function(_) => Ok(()),
            other => Err(Problem::kind(0, "a function", &other)),
        }
    }

    pub(super) fn check_answer(value: Value) -> Done {
        answer(&value).map(|_| ())
    }

    /// Begins a sort of a list.
    pub(super) fn sort_begin(&mut self, word: Instruction) -> Done {
        let Value::List(list) = self.get(word.b()) else {
            return Err(Problem::kind(0, "a list", &self.get(word.b())));
        };
        runtime::list_room(2 * list.len())?;
        let sorting = Inner::state(Sorting::new(list.items.to_vec()));
        self.set(word.a(), Value::Inner(Value::inner(sorting)));
        self.made()
    }

    /// Works on the sort in a register; nothing if there is none.
    fn sorting<R>(&self, register: u16, work: impl FnOnce(&mut Sorting) -> R) -> Option<R> {
        match self.get(register) {
            Value::Inner(inner) => inner.follow().with_state(work),
            _ => None,
        }
    }

    /// Two items of a sort to be compared, and jumps; goes on when all are sorted.
    pub(super) fn sort_ask(&mut self, word: Instruction) -> Done {
        let Some([first, second]) = self.sorting(word.a(), Sorting::ask).flatten() else {
            return Ok(());
        };
        self.set(word.b(), first);
        self.set(word.b() + 1, second);
        self.jump(i32::from(word.c() as i16))
    }

    /// Takes the answer of a comparison.
    pub(super) fn sort_answer(&mut self, word: Instruction) -> Done {
        let answer = answer(&self.get(word.b()))?;
        // The compiler makes an answer only after a question.
        if self.sorting(word.a(), |sorting| sorting.answer(answer)) == Some(true) {
            return Ok(());
        }
        let message = "this answers a sort that asked for nothing";
        Err(Problem::new(Culprit::Whole, codes::RUN_BYTECODE, message))
    }

    /// The list that a sort has made.
    pub(super) fn sort_end(&mut self, word: Instruction) -> Done {
        let sorted = self.sorting(word.b(), Sorting::sorted);
        self.set(word.a(), Value::list(sorted.unwrap_or_default()));
        self.made()
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
