//! A copy of values that does not change when they do.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::value::{List, Map, Value};

/// Copies values with everything in them; what they share, the copies share, and circles
/// stay circles. Functions are kept as they are.
#[derive(Default)]
pub(crate) struct Copier {
    lists: FxHashMap<*const List, Rc<List>>,
    maps: FxHashMap<*const Map, Rc<Map>>,
}

/// A list or map whose copy is still empty.
enum Open {
    List(Rc<List>, Rc<List>),
    Map(Rc<Map>, Rc<Map>),
}

impl Copier {
    /// A copy of a value. Goes through nested values with a stack of its own.
    pub fn copy(&mut self, value: &Value) -> Value {
        let mut work = Vec::new();
        let result = self.shallow(value, &mut work);
        while let Some(open) = work.pop() {
            match open {
                Open::List(from, to) => {
                    let items = from.0.borrow();
                    let copies = items.iter().map(|item| self.shallow(item, &mut work));
                    *to.0.borrow_mut() = copies.collect();
                }
                Open::Map(from, to) => {
                    let entries = from.0.borrow();
                    let copies = entries
                        .iter()
                        .map(|(key, value)| (key.clone(), self.shallow(value, &mut work)));
                    *to.0.borrow_mut() = copies.collect();
                }
            }
        }
        result
    }

    fn shallow(&mut self, value: &Value, work: &mut Vec<Open>) -> Value {
        match value {
            Value::List(list) => {
                let known = self.lists.entry(Rc::as_ptr(list)).or_insert_with(|| {
                    let copy: Rc<List> = Rc::default();
                    work.push(Open::List(Rc::clone(list), Rc::clone(&copy)));
                    copy
                });
                Value::List(Rc::clone(known))
            }
            Value::Map(map) => {
                let known = self.maps.entry(Rc::as_ptr(map)).or_insert_with(|| {
                    let copy: Rc<Map> = Rc::default();
                    work.push(Open::Map(Rc::clone(map), Rc::clone(&copy)));
                    copy
                });
                Value::Map(Rc::clone(known))
            }
            other => other.clone(),
        }
    }
}
