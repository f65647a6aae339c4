//! When values are equal.

use std::cmp::Ordering;

use rustc_hash::FxHashMap;

use super::{List, Map, Ref, Value, spend};
use crate::metering::Stopped;

/// Whether two values are equal: numbers by what they amount to, texts, lists and maps by
/// what is in them, functions when they are the same one.
pub(crate) fn equal(a: &Value, b: &Value) -> Result<bool, Stopped> {
    match (a, b) {
        (Value::List(_), Value::List(_)) | (Value::Map(_), Value::Map(_)) => {
            Comparison::default().run(*a, *b)
        }
        _ => equal_outside(a, b),
    }
}

/// Whether two values are the very same list, map or function, or equal otherwise.
pub(crate) fn same(a: &Value, b: &Value) -> Result<bool, Stopped> {
    match (a, b) {
        (Value::List(a), Value::List(b)) => Ok(a.is(*b)),
        (Value::Map(a), Value::Map(b)) => Ok(a.is(*b)),
        _ => equal(a, b),
    }
}

/// The same for values of which not both are lists or maps.
#[inline]
fn equal_outside(a: &Value, b: &Value) -> Result<bool, Stopped> {
    Ok(match (a, b) {
        (Value::Nothing, Value::Nothing) => true,
        (Value::Truth(a), Value::Truth(b)) => a == b,
        (Value::Integer(a), Value::Integer(b)) => a == b,
        (Value::Number(_) | Value::Integer(_), Value::Number(_) | Value::Integer(_)) => {
            super::compare_numbers(a, b) == Some(Ordering::Equal)
        }
        (Value::Text(a), Value::Text(b)) => {
            let is_alike = a.len() == b.len();
            if is_alike {
                spend(a.len() / 8)?;
            }
            is_alike && **a == **b
        }
        (Value::Function(a), Value::Function(b)) => a.is(*b),
        (Value::Coroutine(a), Value::Coroutine(b)) => a.is(*b),
        _ => false,
    })
}

/// So many pairs of lists or maps are compared before it is looked at whether a pair comes
/// again: most values are small, and share nothing.
const UNSUSPECTED: usize = 64;

/// A comparison of lists and maps. What has been compared is not compared again: the two are
/// taken for equal, since all of it is unequal otherwise (after Hopcroft and Karp, "A linear
/// algorithm for testing equivalence of finite automata", 1971). So values that share their
/// parts are compared in linear time, and values that contain themselves come to an end.
#[derive(Default)]
struct Comparison {
    /// Pairs still to be compared.
    open: Vec<(Value, Value)>,
    pairs: usize,
    /// What has been taken for equal to what, by address.
    leaders: FxHashMap<usize, usize>,
}

impl Comparison {
    fn run(mut self, a: Value, b: Value) -> Result<bool, Stopped> {
        self.open.push((a, b));
        while let Some((a, b)) = self.open.pop() {
            let are_equal = match (a, b) {
                (Value::List(a), Value::List(b)) => self.lists(a, b)?,
                (Value::Map(a), Value::Map(b)) => self.maps(a, b)?,
                _ => equal_outside(&a, &b)?,
            };
            if !are_equal {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether two lists could be equal; their lists and maps are left to be compared.
    fn lists(&mut self, a: Ref<List>, b: Ref<List>) -> Result<bool, Stopped> {
        if self.is_known(a.address(), b.address()) {
            return Ok(true);
        }
        let (a, b) = (&a.items, &b.items);
        if a.len() != b.len() {
            return Ok(false);
        }
        spend(4 * a.len() + 16)?;
        for (a, b) in a.iter().zip(b.iter()) {
            if !self.inside(&a, &b)? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// The same for two maps.
    fn maps(&mut self, a: Ref<Map>, b: Ref<Map>) -> Result<bool, Stopped> {
        if self.is_known(a.address(), b.address()) {
            return Ok(true);
        }
        if a.len() != b.len() {
            return Ok(false);
        }
        spend(32 * a.len() + 16)?;
        let mut are_equal = Ok(true);
        let _ = a.each(|key, value| {
            are_equal = match b.get(&key) {
                Some(other) => self.inside(&value, &other),
                None => Ok(false),
            };
            match are_equal {
                Ok(true) => Ok(()),
                _ => Err(()),
            }
        });
        are_equal
    }

    fn inside(&mut self, a: &Value, b: &Value) -> Result<bool, Stopped> {
        match (a, b) {
            (Value::List(_), Value::List(_)) | (Value::Map(_), Value::Map(_)) => {
                self.open.push((*a, *b));
                Ok(true)
            }
            _ => equal_outside(a, b),
        }
    }

    /// Whether two lists or maps are the same one or have been taken for equal; from here on
    /// they are.
    fn is_known(&mut self, a: usize, b: usize) -> bool {
        if a == b {
            return true;
        }
        self.pairs += 1;
        if self.pairs <= UNSUSPECTED {
            return false;
        }
        let (a, b) = (self.leader(a), self.leader(b));
        if a != b {
            self.leaders.insert(a, b);
        }
        a == b
    }

    /// What stands for all that has been taken for equal to something.
    fn leader(&mut self, of: usize) -> usize {
        let mut at = of;
        while let Some(&next) = self.leaders.get(&at) {
            // The way is halved each time it is gone.
            if let Some(&further) = self.leaders.get(&next) {
                self.leaders.insert(at, further);
            }
            at = next;
        }
        at
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::values::Key;

    fn list(items: &[i64]) -> Value {
        Value::gathered(items.len(), items.iter().copied().map(Value::Integer))
    }

    #[test]
    fn equality_looks_inside_and_across_kinds_of_number() {
        assert_eq!(equal(&list(&[1, 2]), &list(&[1, 2])), Ok(true));
        assert_eq!(equal(&list(&[1, 2]), &list(&[1, 3])), Ok(false));
        assert_eq!(same(&list(&[1]), &list(&[1])), Ok(false));
        assert_eq!(equal(&Value::Integer(1), &Value::Number(1.0)), Ok(true));
        assert_eq!(equal(&Value::text("1"), &Value::Integer(1)), Ok(false));
        let map = |n| Value::map([(Key::text("a"), list(&[n]))]);
        assert_eq!(equal(&map(1), &map(1)), Ok(true));
        assert_eq!(equal(&map(1), &map(2)), Ok(false));
    }

    /// A list that holds another twice, so many times over.
    fn shared(innermost: Value, times: usize) -> Value {
        (0..times).fold(innermost, |inner, _| Value::list(vec![inner, inner]))
    }

    #[test]
    fn what_is_shared_is_compared_once() {
        let (a, b) = (shared(list(&[1]), 200), shared(list(&[1]), 200));
        assert_eq!(equal(&a, &b), Ok(true));
        assert_eq!(equal(&a, &shared(list(&[2]), 200)), Ok(false));
        assert_eq!(equal(&a, &shared(list(&[1]), 201)), Ok(false));
    }

    /// Lists in a ring of some length, each of which holds the next, and the first a number.
    fn ring(length: usize, number: i64) -> Value {
        let all: Vec<Value> = (0..length).map(|_| list(&[])).collect();
        for (index, one) in all.iter().enumerate() {
            if let Value::List(one) = one {
                one.reserve_one().unwrap();
                one.items.push(all[(index + 1) % length]);
                one.items
                    .push(Value::Integer(if index == 0 { number } else { 0 }));
            }
        }
        all[0]
    }

    #[test]
    fn values_that_contain_themselves_are_compared_to_an_end() {
        assert_eq!(equal(&ring(1, 0), &ring(1, 0)), Ok(true));
        assert_eq!(equal(&ring(101, 0), &ring(103, 0)), Ok(true));
        assert_eq!(equal(&ring(101, 1), &ring(101, 1)), Ok(true));
        assert_eq!(equal(&ring(101, 1), &ring(103, 1)), Ok(false));
        assert_eq!(equal(&ring(1, 0), &ring(1, 1)), Ok(false));
    }

    #[test]
    fn depth_takes_no_native_stack() {
        let deep = |n| (0..200_000).fold(list(&[n]), |inner, _| Value::list(vec![inner]));
        assert_eq!(equal(&deep(1), &deep(1)), Ok(true));
        assert_eq!(equal(&deep(1), &deep(2)), Ok(false));
    }
}
