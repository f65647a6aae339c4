//! The heap: where texts, lists, maps, functions and cells live, and the collector that
//! frees those that nothing leads to any more (mark and sweep, after McCarthy, "Recursive
//! functions of symbolic expressions and their computation by machine", 1960, swept piece
//! by piece as room is needed).
//!
//! A collection happens only where an engine asks for one, between two instructions, when
//! all values in use can be reached from its roots. So nothing else has to register what it
//! holds meanwhile, and a [`Ref`] in hand stays good throughout an operation.

mod collecting;

use std::cell::{Cell, RefCell};
use std::rc::{Rc, Weak};

use rustc_hash::FxHashMap;

use super::pool::{Pool, Ref};
use super::{Closure, Coroutine, Inner, List, Look, Map, Rows, Shape, Text, Value, Variable};
use crate::metering::{Meter, Stopped};

pub(crate) use collecting::Marker;

/// Something on the heap.
pub(crate) trait Traced {
    /// Shows the marker every value in it.
    fn trace(&self, marker: &mut Marker);

    /// The bytes it needs beside its own.
    fn bytes_beside(&self) -> usize;
}

/// Something that holds values from outside of the heap.
pub(crate) trait Roots {
    /// Shows the marker every value it holds.
    fn trace(&self, marker: &mut Marker);
}

/// No collection before so many bytes have been made since the last one. What is used again then is still near the
/// processor.
const LEAST: usize = 1 << 20;

/// In a heap that is small, twice as many as there are in use may be made, up to so many.
const SMALL: usize = 4 << 20;

/// Most shapes of maps that are told apart: a program that makes up keys without end gets
/// maps of the ordinary kind.
const MOST_SHAPES: usize = 4096;

/// Where in a text that has characters of several bytes one begins.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reading {
    pub text: Ref<Text>,
    /// Its number among the characters, and its place among the bytes.
    pub character: usize,
    pub at: usize,
    /// How many there are, once they have been counted.
    pub count: Option<usize>,
}

/// A heap.
pub(crate) struct Heap {
    /// Itself.
    own: Weak<Heap>,
    pub texts: Pool<Text>,
    pub lists: Pool<List>,
    pub maps: Pool<Map>,
    pub functions: Pool<Closure>,
    pub variables: Pool<Variable>,
    pub coroutines: Pool<Coroutine>,
    pub inner: Pool<Inner>,
    shapes: Pool<Shape>,
    /// Every shape; they stay as long as the heap.
    known_shapes: RefCell<Vec<Ref<Shape>>>,
    /// Texts that are keys of shapes or constants, by content.
    interned: RefCell<FxHashMap<Box<str>, Ref<Text>>>,
    /// The texts of one byte that have been made.
    letters: [Cell<Option<Ref<Text>>>; 128],
    /// Where characters were looked for last.
    reading: Cell<Option<Reading>>,
    /// Values held from outside, with how many times.
    held: RefCell<FxHashMap<usize, (Value, u32)>>,
    /// Bytes that the last collection found in use.
    lived: Cell<usize>,
    /// Bytes made since then, and how many may be.
    made: Cell<usize>,
    /// Bytes made before.
    made_before: Cell<u64>,
    /// How many collections there have been.
    collections: Cell<u64>,
    /// Bytes that there may be in all.
    most: Cell<usize>,
    enough: Cell<usize>,
    /// How many chances to collect are all taken.
    stress: Cell<u32>,
    /// Whether it is noted what is made.
    is_followed: Cell<bool>,
    /// How values look.
    look: RefCell<Rc<Look>>,
    /// How far the run under way may go.
    pub meter: Meter,
    /// Rows of values. Last, since all of the above may have some.
    pub rows: Rows,
}

/// The bytes that an allocation of so many takes, as allocators have them: a few for
/// themselves, and nothing smaller than two words.
pub(super) fn allocated(bytes: usize) -> usize {
    match bytes {
        0 => 0,
        _ => (bytes + 8).next_multiple_of(16).max(32),
    }
}

/// Asks for room for so many bytes, of all that the run may have.
///
/// # Errors
/// There is not so much. A collection may find some, so whoever is told so changes nothing
/// before, and can be asked again after one.
#[inline]
pub(crate) fn ask(bytes: usize) -> Result<(), Stopped> {
    Heap::with(|heap| heap.meter.ask(bytes, heap.used()))
}

/// Counts work on values that is about to be done, in units of about a nanosecond.
///
/// # Errors
/// The run has come to a limit, or was interrupted.
#[inline]
pub(crate) fn spend(work: usize) -> Result<(), Stopped> {
    Heap::with(|heap| heap.meter.spend(work))
}

thread_local! {
    static CURRENT: Cell<*const Heap> = const { Cell::new(std::ptr::null()) };
}

/// Keeps a heap the current one of the thread.
pub(crate) struct Entered {
    before: *const Heap,
    /// The heap outlives its being current.
    _heap: Rc<Heap>,
}

impl Drop for Entered {
    fn drop(&mut self) {
        CURRENT.with(|current| current.set(self.before));
    }
}

impl Heap {
    /// An empty heap.
    pub fn new() -> Rc<Heap> {
        let heap = Rc::new_cyclic(|own| Heap {
            own: own.clone(),
            texts: Pool::new(),
            lists: Pool::new(),
            maps: Pool::new(),
            functions: Pool::new(),
            variables: Pool::new(),
            coroutines: Pool::new(),
            inner: Pool::new(),
            shapes: Pool::new(),
            known_shapes: RefCell::default(),
            interned: RefCell::default(),
            letters: [const { Cell::new(None) }; 128],
            reading: Cell::new(None),
            held: RefCell::default(),
            lived: Cell::new(0),
            made: Cell::new(0),
            made_before: Cell::new(0),
            collections: Cell::new(0),
            most: Cell::new(usize::MAX),
            enough: Cell::new(LEAST),
            stress: Cell::new(0),
            is_followed: Cell::new(false),
            look: RefCell::new(Look::usual()),
            meter: Meter::new(),
            rows: Rows::new(),
        });
        let root = heap.shapes.allocate(Shape::default);
        heap.known_shapes.borrow_mut().push(root);
        heap
    }

    /// Makes this the heap in which new values of this thread are made, until the guard is
    /// dropped.
    #[must_use]
    pub fn enter(self: &Rc<Heap>) -> Entered {
        let before = CURRENT.with(|current| current.replace(Rc::as_ptr(self)));
        Entered {
            before,
            _heap: Rc::clone(self),
        }
    }

    /// Does something with the current heap of this thread.
    #[allow(clippy::inline_always)]
    #[inline(always)]
    pub fn with<T>(what: impl FnOnce(&Heap) -> T) -> T {
        let mut current = CURRENT.with(Cell::get);
        if current.is_null() {
            current = Heap::for_good();
        }
        what(super::pool::entered(current))
    }

    /// Whoever runs something has entered a heap first; else the thread gets one for good.
    #[cold]
    #[inline(never)]
    fn for_good() -> *const Heap {
        std::mem::forget(Heap::new().enter());
        CURRENT.with(Cell::get)
    }

    /// Does something with the current heap of this thread, as one to be kept.
    pub fn with_shared<T>(what: impl FnOnce(&Rc<Heap>) -> T) -> T {
        Heap::with(|heap| match heap.own.upgrade() {
            Some(shared) => what(&shared),
            None => what(&Heap::new()),
        })
    }

    /// How the values on it look.
    pub fn look(&self) -> Rc<Look> {
        Rc::clone(&self.look.borrow())
    }

    /// Has the values on it look in another way.
    pub fn set_look(&self, look: Rc<Look>) {
        *self.look.borrow_mut() = look;
    }

    /// Counts bytes that have been made.
    #[inline]
    pub fn count(&self, bytes: usize) {
        self.made.set(self.made.get() + bytes);
    }

    /// About how many bytes are in use; what has been dropped since the last collection is
    /// among them.
    #[inline]
    pub fn used(&self) -> usize {
        self.lived.get() + self.made.get()
    }

    /// How many bytes have ever been made.
    pub fn made_in_all(&self) -> u64 {
        self.made_before.get() + self.made.get() as u64
    }

    /// How many collections there have been.
    #[inline]
    pub fn collections(&self) -> u64 {
        self.collections.get()
    }

    /// How many bytes may be made when so many are in use: as many again, and more where that is
    /// little, but not more than there may be.
    fn room_after(&self, lived: usize) -> usize {
        let left = self.most.get().saturating_sub(lived).saturating_add(1);
        let more = (2 * lived).clamp(LEAST, SMALL);
        lived.max(more).min(left)
    }

    /// Makes so many bytes all that there may be: it is time for a collection before there are
    /// more.
    pub fn set_most(&self, most: Option<u64>) {
        let most = most.and_then(|most| usize::try_from(most).ok());
        self.most.set(most.unwrap_or(usize::MAX));
        if self.stress.get() == 0 {
            self.enough.set(self.room_after(self.lived.get()));
        }
    }

    /// Whether it is time for a collection.
    #[inline]
    pub fn is_full(&self) -> bool {
        self.made.get() >= self.enough.get()
    }

    /// Whether more is in use than the run may have, or was, when it was last looked at.
    pub fn is_too_large(&self) -> bool {
        self.meter.is_exceeded(self.used())
    }

    /// Whether half of what the run may have is in use.
    pub fn is_half_full(&self) -> bool {
        self.meter.is_exceeded(2 * self.used())
    }

    /// Takes every chance to collect for so many times: for tests.
    pub fn set_stress(&self, times: u32) {
        self.stress.set(times);
        if times > 0 {
            self.enough.set(0);
        }
    }

    /// The one text of this heap with a content that is a constant or a key of a shape.
    pub fn intern(&self, text: &str) -> Ref<Text> {
        if let [byte] = text.as_bytes()
            && let Some(letter) = self.letter(*byte)
        {
            return letter;
        }
        if let Some(known) = self.interned.borrow().get(text) {
            return *known;
        }
        let made = self.texts.allocate(|| Text::new(text));
        self.interned.borrow_mut().insert(text.into(), made);
        made
    }

    /// The text of one byte, if it has been asked for before.
    #[inline]
    pub fn known_letter(&self, byte: u8) -> Option<Ref<Text>> {
        self.letters.get(usize::from(byte))?.get()
    }

    /// The text of one byte, which is a character of its own.
    #[inline]
    pub fn letter(&self, byte: u8) -> Option<Ref<Text>> {
        let known = self.letters.get(usize::from(byte))?;
        if known.get().is_none() {
            let text = char::from(byte).to_string();
            known.set(Some(self.texts.allocate(|| Text::new(text))));
        }
        known.get()
    }

    /// Where characters of a text were looked for last.
    pub fn reading(&self, text: Ref<Text>) -> Option<Reading> {
        self.reading.get().filter(|reading| reading.text.is(text))
    }

    /// Notes where a character of a text begins.
    pub fn set_reading(&self, reading: Reading) {
        self.reading.set(Some(reading));
    }

    /// The shape of a map without keys.
    pub fn no_keys(&self) -> Ref<Shape> {
        self.known_shapes.borrow()[0]
    }

    /// The shape of a number, if there is one.
    #[inline]
    pub fn shape(&self, number: u32) -> Option<Ref<Shape>> {
        self.known_shapes.borrow().get(number as usize).copied()
    }

    /// A shape of its own, unless there are too many.
    pub fn add_shape(&self, keys: Vec<Ref<Text>>) -> Option<Ref<Shape>> {
        let mut known = self.known_shapes.borrow_mut();
        if known.len() >= MOST_SHAPES {
            return None;
        }
        let shape = Shape::with(known.len() as u32, keys);
        let shape = self.shapes.allocate(|| shape);
        known.push(shape);
        Some(shape)
    }

    /// Keeps a value as long as it is held as often as this has been called.
    pub fn hold(&self, value: Value) {
        if let Some(address) = value.address() {
            let mut held = self.held.borrow_mut();
            held.entry(address).or_insert((value, 0)).1 += 1;
        }
    }

    /// Undoes `hold`.
    pub fn let_go(&self, value: Value) {
        if let Some(address) = value.address() {
            let mut held = self.held.borrow_mut();
            if let Some((_, times)) = held.get_mut(&address) {
                *times -= 1;
                if *times == 0 {
                    held.remove(&address);
                }
            }
        }
    }
}

impl std::fmt::Debug for Heap {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let mut debug = f.debug_struct("Heap");
        debug.field("used", &self.used()).finish_non_exhaustive()
    }
}
