//! Maps. A map with a few texts as keys has its values in a row; which key is where says its
//! shape, which it shares with every map that got the same keys in the same order (after
//! Chambers, Ungar and Lee, "An efficient implementation of SELF", 1989). Any other map is a
//! table.

use std::cell::{Cell, OnceCell, RefCell};
use std::convert::Infallible;
use std::hash::{BuildHasherDefault, Hash, Hasher};

use indexmap::IndexMap;
use rustc_hash::FxHasher;

use super::{Heap, List, Marker, Ref, Text, Traced, Value, ValueRow, ask};
use crate::metering::Stopped;

/// A map; keys stay in the order in which they were first put.
#[derive(Debug)]
pub(crate) struct Map {
    /// Which keys the row is for; nothing when there is a table.
    shape: Cell<Option<Ref<Shape>>>,
    row: ValueRow,
    table: OnceCell<Box<RefCell<Table>>>,
}

/// What a map has.
enum Entries<'m> {
    Row(Ref<Shape>, &'m ValueRow),
    Table(&'m RefCell<Table>),
}

/// Any keys with their values.
#[derive(Clone, Debug, Default)]
struct Table {
    all: IndexMap<Key, Value, BuildHasherDefault<FxHasher>>,
    /// If it tells of an error that has been caught, the calls that were under way.
    calls: Option<Ref<List>>,
}

/// Which keys the maps of a kind have.
#[derive(Debug, Default)]
pub(crate) struct Shape {
    /// Tells it from others; 0 has no keys.
    pub number: u32,
    keys: Vec<Ref<Text>>,
    /// The shapes with one key more.
    next: RefCell<Vec<(Ref<Text>, Ref<Shape>)>>,
}

/// Most keys of a map in a row: more are found faster in a table.
pub(crate) const LONGEST_ROW: usize = 24;

/// So many values a row has room for at first.
const FIRST_ROW: usize = 4;

/// Most ways to go on from one shape: with more, the keys are rather data.
const MOST_WAYS: usize = 64;

impl Shape {
    /// A shape with a number.
    pub fn with(number: u32, keys: Vec<Ref<Text>>) -> Shape {
        Shape {
            number,
            keys,
            next: RefCell::default(),
        }
    }

    /// Where a key's value is in the row.
    #[inline]
    pub fn position(&self, key: Ref<Text>) -> Option<usize> {
        let same = self.keys.iter().position(|own| own.is(key));
        same.or_else(|| self.keys.iter().position(|own| **own == *key))
    }

    /// The shape with a key more.
    pub fn and(&self, key: Ref<Text>) -> Option<Ref<Shape>> {
        let mut next = self.next.borrow_mut();
        if let Some((_, shape)) = next.iter().find(|(own, _)| **own == *key) {
            return Some(*shape);
        }
        if self.keys.len() >= LONGEST_ROW || next.len() >= MOST_WAYS {
            return None;
        }
        Heap::with(|heap| {
            let key = heap.intern(&key);
            let mut keys = self.keys.clone();
            keys.push(key);
            let shape = heap.add_shape(keys)?;
            next.push((key, shape));
            Some(shape)
        })
    }
}

impl Default for Map {
    /// A map without keys, on the current heap.
    fn default() -> Map {
        Map::of_shape(Heap::with(Heap::no_keys), ValueRow::default())
    }
}

impl Map {
    /// A map of a shape, with the value of each of its keys in order.
    #[inline]
    pub fn of_shape(shape: Ref<Shape>, values: ValueRow) -> Map {
        debug_assert_eq!(shape.keys.len(), values.len());
        Map {
            shape: Cell::new(Some(shape)),
            row: values,
            table: OnceCell::new(),
        }
    }

    fn see(&self) -> Entries<'_> {
        match self.shape.get() {
            Some(shape) => Entries::Row(shape, &self.row),
            None => Entries::Table(self.table.get_or_init(Box::default)),
        }
    }

    /// Makes it a table, if it is none.
    fn become_table(&self) -> &RefCell<Table> {
        let table = match self.see() {
            Entries::Table(table) => return table,
            Entries::Row(shape, values) => {
                let keys = shape.keys.iter().map(|key| Key::Text(*key));
                Table {
                    all: keys.zip(values.iter()).collect(),
                    calls: None,
                }
            }
        };
        let room = table.all.capacity();
        Heap::with(|heap| heap.count(room * ENTRY));
        self.row.swap(&ValueRow::default());
        self.shape.set(None);
        self.table.get_or_init(|| Box::new(RefCell::new(table)))
    }

    /// The number of keys.
    pub fn len(&self) -> usize {
        match self.see() {
            Entries::Row(_, values) => values.len(),
            Entries::Table(table) => table.borrow().all.len(),
        }
    }

    /// The value at a key.
    pub fn get(&self, key: &Key) -> Option<Value> {
        match (self.see(), key) {
            (Entries::Row(shape, values), Key::Text(key)) => values.get(shape.position(*key)?),
            (Entries::Row(..), _) => None,
            (Entries::Table(table), key) => table.borrow().all.get(key).copied(),
        }
    }

    /// Whether there is such a key.
    pub fn has(&self, key: &Key) -> bool {
        self.get(key).is_some()
    }

    /// Asks for the room that one key more needs.
    pub fn reserve_one(&self) -> Result<(), Stopped> {
        match self.see() {
            Entries::Row(..) => Ok(()),
            Entries::Table(table) => {
                let table = &mut table.borrow_mut().all;
                if table.len() < table.capacity() {
                    return Ok(());
                }
                let room = (2 * table.len()).max(4);
                ask(room * ENTRY)?;
                let before = table.capacity();
                table.reserve(room - table.len());
                let more = table.capacity() - before;
                Heap::with(|heap| heap.count(more * ENTRY));
                Ok(())
            }
        }
    }

    /// Sets the value at a key.
    pub fn put(&self, key: Key, value: Value) {
        if let (Entries::Row(shape, values), Key::Text(key)) = (self.see(), &key) {
            if let Some(at) = shape.position(*key) {
                values.put(at, || value);
                return;
            }
            if let Some(longer) = shape.and(*key) {
                self.shape.set(Some(longer));
                push(values, value);
                return;
            }
        }
        let table = &mut self.become_table().borrow_mut().all;
        let before = table.capacity();
        table.insert(key, value);
        let more = table.capacity() - before;
        if more > 0 {
            Heap::with(|heap| heap.count(more * ENTRY));
        }
    }

    /// Takes a key and its value away.
    pub fn remove(&self, key: &Key) {
        if self.has(key) {
            self.become_table().borrow_mut().all.shift_remove(key);
        }
    }

    /// Shows each key and its value, in order, until that ends in an error.
    pub fn each<E>(&self, mut see: impl FnMut(Key, Value) -> Result<(), E>) -> Result<(), E> {
        match self.see() {
            Entries::Row(shape, values) => {
                let mut pairs = shape.keys.iter().zip(values.iter());
                pairs.try_for_each(|(key, value)| see(Key::Text(*key), value))
            }
            Entries::Table(table) => {
                let table = table.borrow();
                table
                    .all
                    .iter()
                    .try_for_each(|(key, value)| see(*key, *value))
            }
        }
    }

    /// The keys and their values, in order.
    pub fn entries(&self) -> Vec<(Key, Value)> {
        match self.see() {
            Entries::Row(shape, values) => {
                let keys = shape.keys.iter().map(|key| Key::Text(*key));
                keys.zip(values.iter()).collect()
            }
            Entries::Table(table) => {
                let table = table.borrow();
                table.all.iter().map(|(k, v)| (*k, *v)).collect()
            }
        }
    }

    /// The first of the keys, in order.
    pub fn first_keys(&self, most: usize) -> Vec<Key> {
        match self.see() {
            Entries::Row(shape, _) => shape
                .keys
                .iter()
                .take(most)
                .map(|k| Key::Text(*k))
                .collect(),
            Entries::Table(table) => table.borrow().all.keys().take(most).copied().collect(),
        }
    }

    /// The keys as values, in order.
    pub fn key_values(&self) -> Vec<Value> {
        let mut keys = Vec::with_capacity(self.len());
        let Ok(()) = self.each(|key, _| {
            keys.push(key.value());
            Ok::<(), Infallible>(())
        });
        keys
    }

    /// The first of the values, in the order of the keys.
    pub fn first_values(&self, most: usize) -> Vec<Value> {
        match self.see() {
            Entries::Row(_, values) => values.iter().take(most).collect(),
            Entries::Table(table) => table.borrow().all.values().take(most).copied().collect(),
        }
    }

    /// The values, in the order of the keys.
    pub fn values(&self) -> Vec<Value> {
        let mut values = Vec::with_capacity(self.len());
        let Ok(()) = self.each(|_, value| {
            values.push(value);
            Ok::<(), Infallible>(())
        });
        values
    }

    /// A new map with the same entries.
    pub fn copied(&self) -> Map {
        Map {
            shape: self.shape.clone(),
            row: self.row.clone(),
            table: self.table.clone(),
        }
    }

    /// Puts another value in the place of each that leads to something on the heap.
    pub fn exchange(&self, mut other: impl FnMut(Value) -> Value) {
        match self.see() {
            Entries::Row(_, values) => values.exchange(other),
            Entries::Table(table) => {
                let mut table = table.borrow_mut();
                let led = table.all.values_mut();
                for value in led.filter(|value| value.address().is_some()) {
                    *value = other(*value);
                }
            }
        }
    }

    /// Makes it one that tells of an error, with the calls that were under way.
    pub fn set_calls(&self, calls: Ref<List>) {
        self.become_table().borrow_mut().calls = Some(calls);
    }

    /// If it tells of an error that has been caught, the calls that were under way; nothing for
    /// what programs make.
    pub fn calls(&self) -> Option<Ref<List>> {
        match self.see() {
            Entries::Row(..) => None,
            Entries::Table(table) => table.borrow().calls,
        }
    }

    /// The number of its shape, with where a key's value is in the row; nothing for a table
    /// or a key it does not have.
    pub fn place_of(&self, key: Ref<Text>) -> Option<(u32, u32)> {
        match self.see() {
            Entries::Row(shape, _) => {
                let at = shape.position(key)?;
                Some((shape.number, at as u32))
            }
            Entries::Table(_) => None,
        }
    }

    /// The number of its shape, which is 0 without keys; nothing for a table.
    pub fn shape(&self) -> Option<u32> {
        self.shape.get().map(|shape| shape.number)
    }

    /// Adds a value at the end of the row, if the map has a shape of that number; it has the
    /// next one then. Whether that could be done without more room.
    #[inline]
    pub fn put_at_end(&self, number: u32, next: Ref<Shape>, value: Value) -> bool {
        let mut can = self.shape() == Some(number);
        if can {
            if number == 0 {
                self.row.reserve(FIRST_ROW);
            }
            can = self.row.push(value);
        }
        if can {
            self.shape.set(Some(next));
        }
        can
    }

    /// The value at a place of the row, if the map has a shape of that number.
    #[inline]
    pub fn at_place(&self, number: u32, place: u32) -> Option<Value> {
        if self.shape.get()?.number != number {
            return None;
        }
        self.row.get(place as usize)
    }

    /// Sets the value at a place of the row; whether the map has a shape of that number. The value is asked for
    /// when that is known.
    #[inline]
    pub fn put_at_place(&self, number: u32, place: u32, value: impl FnOnce() -> Value) -> bool {
        self.shape() == Some(number) && self.row.put(place as usize, value)
    }
}

/// The bytes of an entry in a table, with its place in the index.
const ENTRY: usize = size_of::<(Key, Value)>() + 2 * size_of::<usize>();

fn push(values: &ValueRow, value: Value) {
    if values.push(value) {
        return;
    }
    let before = values.bytes();
    values.reserve((2 * values.len()).max(FIRST_ROW));
    Heap::with(|heap| heap.count(values.bytes() - before));
    values.push(value);
}

impl Traced for Map {
    fn trace(&self, marker: &mut Marker) {
        match self.see() {
            Entries::Row(_, values) => values.trace(marker),
            Entries::Table(table) => {
                let table = table.borrow();
                if let Some(calls) = table.calls {
                    marker.value(Value::List(calls));
                }
                for (key, value) in &table.all {
                    if let Key::Text(text) = key {
                        marker.value(Value::Text(*text));
                    }
                    marker.value(*value);
                }
            }
        }
    }

    fn bytes_beside(&self) -> usize {
        match self.see() {
            Entries::Row(_, values) => values.bytes(),
            Entries::Table(table) => table.borrow().all.capacity() * ENTRY,
        }
    }
}

/// A value that can be a key.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Key {
    /// The absence of a value.
    Nothing,
    /// True or false.
    Truth(bool),
    /// An integer, or a number equal to one.
    Integer(i64),
    /// The bits of any other number.
    Number(u64),
    /// A text.
    Text(Ref<Text>),
}

impl PartialEq for Key {
    fn eq(&self, other: &Key) -> bool {
        match (self, other) {
            (Key::Nothing, Key::Nothing) => true,
            (Key::Truth(a), Key::Truth(b)) => a == b,
            (Key::Integer(a), Key::Integer(b)) => a == b,
            (Key::Number(a), Key::Number(b)) => a == b,
            (Key::Text(a), Key::Text(b)) => **a == **b,
            _ => false,
        }
    }
}

impl Eq for Key {}

impl Hash for Key {
    fn hash<H: Hasher>(&self, state: &mut H) {
        match self {
            Key::Nothing => state.write_u64(0),
            Key::Truth(truth) => state.write_u64(1 + u64::from(*truth)),
            Key::Integer(n) => state.write_i64(*n),
            Key::Number(bits) => state.write_u64(*bits),
            Key::Text(text) => state.write_u32(text.hash_of()),
        }
    }
}

impl Key {
    /// A text as a key.
    pub fn text(text: &str) -> Key {
        Key::Text(Text::made(text))
    }

    /// The value that the key stands for.
    pub fn value(&self) -> Value {
        match *self {
            Key::Nothing => Value::Nothing,
            Key::Truth(truth) => Value::Truth(truth),
            Key::Integer(n) => Value::Integer(n),
            Key::Number(bits) => Value::Number(f64::from_bits(bits)),
            Key::Text(text) => Value::Text(text),
        }
    }
}
