//! When values are equal.

use super::Value;
use crate::runtime::compare;

/// Whether two values are equal: numbers by what they amount to, texts, lists and maps
/// by what is in them, functions when they are the same one. `None` when the lists or
/// maps are nested too deeply to compare (a cycle, most likely).
pub(crate) fn equal(a: &Value, b: &Value) -> Option<bool> {
    const DEEPEST: usize = 500;
    equal_within(a, b, DEEPEST)
}

fn equal_within(a: &Value, b: &Value, depth: usize) -> Option<bool> {
    Some(match (a, b) {
        (Value::Nothing, Value::Nothing) => true,
        (Value::Truth(a), Value::Truth(b)) => a == b,
        (Value::Integer(a), Value::Integer(b)) => a == b,
        (Value::Number(_) | Value::Integer(_), Value::Number(_) | Value::Integer(_)) => {
            compare(a, b) == Some(std::cmp::Ordering::Equal)
        }
        (Value::Text(a), Value::Text(b)) => **a == **b,
        (Value::Function(a), Value::Function(b)) => a.is(*b),
        (Value::Coroutine(a), Value::Coroutine(b)) => a.is(*b),
        (Value::List(a), Value::List(b)) => {
            if a.is(*b) {
                return Some(true);
            }
            let (a, b) = (a.items.borrow(), b.items.borrow());
            if a.len() != b.len() {
                return Some(false);
            }
            let deeper = depth.checked_sub(1)?;
            for (a, b) in a.iter().zip(b.iter()) {
                if !equal_within(a, b, deeper)? {
                    return Some(false);
                }
            }
            true
        }
        (Value::Map(a), Value::Map(b)) => {
            if a.is(*b) {
                return Some(true);
            }
            if a.len() != b.len() {
                return Some(false);
            }
            let deeper = depth.checked_sub(1)?;
            for (key, a) in a.entries() {
                match b.get(&key) {
                    Some(b) if equal_within(&a, &b, deeper)? => {}
                    _ => return Some(false),
                }
            }
            true
        }
        _ => false,
    })
}

/// Whether two values are the very same list, map or function, or equal otherwise.
pub(crate) fn same(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::List(a), Value::List(b)) => a.is(*b),
        (Value::Map(a), Value::Map(b)) => a.is(*b),
        _ => equal(a, b).unwrap_or(false),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equality_looks_inside_and_across_kinds_of_number() {
        let list = |items: &[i64]| Value::list(items.iter().map(|&n| Value::Integer(n)).collect());
        assert_eq!(equal(&list(&[1, 2]), &list(&[1, 2])), Some(true));
        assert!(!same(&list(&[1]), &list(&[1])));
        assert_eq!(equal(&Value::Integer(1), &Value::Number(1.0)), Some(true));
        assert_eq!(equal(&Value::text("1"), &Value::Integer(1)), Some(false));
    }
}
