//! The values of what is built in: a function is made when it is first asked for.

use std::cell::Cell;
use std::fmt::Debug;
use std::rc::Rc;

use super::Problem;
use crate::values::{Marker, Value};

/// Makes built-in functions.
pub(crate) trait MakesBuiltIns: Debug {
    /// The function of a number; nothing if there is none.
    ///
    /// # Errors
    /// It is too large for the engine.
    fn make(&self, index: usize) -> Result<Option<Value>, Box<Problem>>;
}

/// The built-in functions and constants of a session, in the definition's order. A function that nobody has asked for is
/// unset.
#[derive(Clone, Debug, Default)]
pub(crate) struct BuiltInValues {
    values: Vec<Cell<Value>>,
    maker: Option<Rc<dyn MakesBuiltIns>>,
}

impl BuiltInValues {
    /// So many without a value, of which functions are made by a maker.
    pub fn made_by(maker: Rc<dyn MakesBuiltIns>, count: usize) -> BuiltInValues {
        BuiltInValues {
            values: vec![Cell::new(Value::Unset); count],
            maker: Some(maker),
        }
    }

    /// These values.
    pub fn of(values: impl IntoIterator<Item = Value>) -> BuiltInValues {
        BuiltInValues {
            values: values.into_iter().map(Cell::new).collect(),
            maker: None,
        }
    }

    /// Has another maker make what is not there yet: for a copy, which has a heap of its own and perhaps another engine.
    pub fn set_maker(&mut self, maker: Rc<dyn MakesBuiltIns>) {
        self.maker = Some(maker);
    }

    /// What is there of one, which may be unset; nothing beyond the last.
    #[inline]
    pub fn get(&self, index: usize) -> Option<Value> {
        self.values.get(index).map(Cell::get)
    }

    /// Gives one a value.
    pub fn set(&mut self, index: usize, value: Value) {
        if let Some(cell) = self.values.get(index) {
            cell.set(value);
        }
    }

    /// The value of one, which is made if need be.
    ///
    /// # Errors
    /// It is too large for the engine.
    pub fn ready(&self, index: usize) -> Result<Option<Value>, Box<Problem>> {
        let known = self.get(index).and_then(Value::held);
        let (None, Some(maker)) = (known, &self.maker) else {
            return Ok(known);
        };
        let made = maker.make(index)?;
        if let (Some(cell), Some(value)) = (self.values.get(index), made) {
            cell.set(value);
        }
        Ok(made)
    }

    /// All that is there.
    pub fn all(&self) -> impl Iterator<Item = Value> {
        self.values.iter().map(Cell::get)
    }

    /// The same.
    pub fn all_mut(&mut self) -> impl Iterator<Item = &mut Value> {
        self.values.iter_mut().map(Cell::get_mut)
    }

    /// Shows the marker what is there.
    pub fn trace(&self, marker: &mut Marker) {
        self.all().for_each(|value| marker.value(value));
    }
}
