//! Sorting numbers or texts so that a long sort is stopped by a limit in the middle: short runs
//! are sorted at once, and then merged two by two.

use std::cmp::Ordering;

use super::list_room;
use crate::metering::Stopped;
use crate::values::{Value, compare, spend};

/// So much is sorted at once: items, and bytes of texts, which could all have to be compared.
const RUN: usize = 1 << 14;

/// The items in rising order; equals stay in order.
pub(super) fn sorted(items: Vec<Value>) -> Result<Vec<Value>, Stopped> {
    list_room(items.len())?;
    let mut from = items;
    let mut starts = runs(&mut from)?;
    let mut to = Vec::with_capacity(from.len());
    while starts.len() > 1 {
        let mut merged = Vec::with_capacity(starts.len() / 2 + 1);
        for (index, &start) in starts.iter().enumerate().step_by(2) {
            let place = |next: usize| starts.get(next).copied().unwrap_or(from.len());
            let (middle, end) = (place(index + 1), place(index + 2));
            merged.push(start);
            merge(&from[start..middle], &from[middle..end], &mut to)?;
        }
        std::mem::swap(&mut from, &mut to);
        to.clear();
        starts = merged;
    }
    Ok(from)
}

/// Sorts short runs; where each begins.
fn runs(items: &mut [Value]) -> Result<Vec<usize>, Stopped> {
    let mut starts = Vec::new();
    let mut at = 0;
    while at < items.len() {
        starts.push(at);
        let (mut end, mut weight) = (at + 1, weight(&items[at]));
        while let Some(next) = items.get(end) {
            weight += self::weight(next);
            if weight > RUN {
                break;
            }
            end += 1;
        }
        spend(64 * (end - at) + 4 * weight.min(RUN))?;
        items[at..end].sort_by(|a, b| order(a, b).unwrap_or(Ordering::Equal));
        at = end;
    }
    Ok(starts)
}

/// What comparing an item with another could come to.
fn weight(item: &Value) -> usize {
    match item {
        Value::Text(text) => text.len() / 8 + 1,
        _ => 1,
    }
}

fn order(a: &Value, b: &Value) -> Result<Ordering, Stopped> {
    Ok(compare(a, b)?.unwrap_or(Ordering::Equal))
}

fn merge(left: &[Value], right: &[Value], to: &mut Vec<Value>) -> Result<(), Stopped> {
    let (mut i, mut j) = (0, 0);
    while let (Some(a), Some(b)) = (left.get(i), right.get(j)) {
        spend(8)?;
        if order(b, a)?.is_lt() {
            to.push(*b);
            j += 1;
        } else {
            to.push(*a);
            i += 1;
        }
    }
    to.extend_from_slice(&left[i..]);
    to.extend_from_slice(&right[j..]);
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lists_and_long_texts_are_sorted_and_equals_stay_in_order() {
        let mut random = fastrand::Rng::with_seed(3);
        for count in [0, 1, 2, RUN, RUN + 1, 5 * RUN + 3] {
            let items: Vec<Value> = (0..count)
                .map(|_| {
                    let n = random.i64(..1000);
                    if random.bool() {
                        Value::Integer(n)
                    } else {
                        Value::Number(n as f64)
                    }
                })
                .collect();
            let mut expected = items.clone();
            expected.sort_by(|a, b| order(a, b).unwrap());
            let found = sorted(items.clone()).unwrap();
            assert_eq!(format!("{found:?}"), format!("{expected:?}"));
        }
        let texts: Vec<Value> = (0..300)
            .map(|_| Value::text(format!("{}{}", "x".repeat(5000), random.u8(..))))
            .collect();
        let found = sorted(texts.clone()).unwrap();
        assert!(
            found
                .windows(2)
                .all(|pair| order(&pair[0], &pair[1]).unwrap().is_le())
        );
    }
}
