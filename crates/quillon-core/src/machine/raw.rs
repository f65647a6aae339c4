//! Where the machine is in its code, and its registers: bare addresses, followed without a
//! look at where they lead.
//!
//! # Safety
//!
//! Code runs only after the verifier has found ([`crate::bytecode::verify`]) that
//!
//! - each register it names is below the function's number of registers, each constant and
//!   captured value is there, and a call's window lies inside the function's registers;
//! - each jump leads to an instruction of the same function, and none runs past the end.
//!
//! And before a function is begun, the machine makes sure that the stack has room for all its
//! registers. The compiler's own code is what the verifier accepts: the tests check all of it.
//! In builds with debug assertions every access is checked against the stack it belongs to.
// A `dyn` pointer does not tell how what it leads to is aligned; as what it is, it is.
#![allow(unsafe_code, clippy::inline_always, clippy::cast_ptr_alignment)]

use std::cell::Cell;
use std::mem::MaybeUninit;

use super::Loaded;
use super::checks::{self, What};
use crate::bytecode::{Instruction, MOST_REGISTERS, Role};
use crate::values::{Closure, Ref, Value};

/// A place in the code of a function.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Pc(*const Cell<u64>);

impl Pc {
    /// The first instruction of some code.
    pub fn start(code: &[Cell<u64>]) -> Pc {
        Pc(code.as_ptr())
    }

    /// The whole word here.
    #[inline(always)]
    pub fn word(self) -> u64 {
        checks::place(self.0, What::Instruction);
        // SAFETY: it is inside the code; see the module.
        unsafe { (*self.0).get() }
    }

    /// A part of the word here.
    #[inline(always)]
    fn part<T: Copy>(self, byte: usize) -> T {
        checks::place(self.0, What::Instruction);
        // SAFETY: it is inside the code, and a part of a word is one of the word's bytes on.
        unsafe { self.0.cast::<u8>().add(byte).cast::<T>().read() }
    }

    /// The number of the instruction here.
    #[inline(always)]
    pub fn number(self) -> u8 {
        self.part::<u8>(0)
    }

    /// The field `x` of the instruction here.
    #[inline(always)]
    pub fn x(self) -> u8 {
        self.part::<u8>(1)
    }

    /// The field `a`, a register.
    #[inline(always)]
    pub fn a(self) -> Scaled {
        Scaled(u16::from_le(self.part::<u16>(2)))
    }

    /// The field `b`, a register.
    #[inline(always)]
    pub fn b(self) -> Scaled {
        Scaled(u16::from_le(self.part::<u16>(4)))
    }

    /// The field `c`, a register.
    #[inline(always)]
    pub fn c(self) -> Scaled {
        Scaled(u16::from_le(self.part::<u16>(6)))
    }

    /// The field `a` as a number.
    #[inline(always)]
    pub fn a_number(self) -> u16 {
        self.a().0
    }

    /// The field `b` as a number.
    #[inline(always)]
    pub fn b_number(self) -> u16 {
        self.b().0
    }

    /// The field `c` as a number.
    #[inline(always)]
    pub fn c_number(self) -> u16 {
        self.c().0
    }

    /// The fields `b` and `c` as one integer.
    #[inline(always)]
    pub fn long(self) -> i32 {
        i32::from_le(self.part::<i32>(4))
    }

    /// Puts another word here: what an instruction remembers.
    #[inline(always)]
    pub fn remember(self, word: u64) {
        checks::place(self.0, What::Instruction);
        // SAFETY: it is inside the code; see the module.
        unsafe { (*self.0).set(word) }
    }

    /// So many words from here.
    #[inline(always)]
    pub fn plus(self, words: i32) -> Pc {
        Pc(self.0.wrapping_offset(words as isize))
    }

    /// How many words it is from the start of its code.
    pub fn words_from(self, start: Pc) -> usize {
        (self.0 as usize).wrapping_sub(start.0 as usize) / size_of::<u64>()
    }
}

/// A register as the machine's own code has it: counted in halves, so that it is found by one
/// addition.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Scaled(u16);

impl Scaled {
    /// A register.
    ///
    /// # Panics
    /// Its number is one that no function has: neither the compiler nor the verifier lets it
    /// in.
    pub fn new(register: u16) -> Scaled {
        assert!(usize::from(register) < MOST_REGISTERS, "no such register");
        Scaled(register << 1)
    }

    /// Its number.
    pub fn register(self) -> usize {
        usize::from(self.0 >> 1)
    }
}

/// An instruction as the machine's own code has it.
pub(super) fn scaled(word: Instruction) -> u64 {
    let Some(op) = word.op() else {
        return word.0;
    };
    let mut out = word.0;
    for (field, shift) in [(1, 16), (2, 32), (3, 48)] {
        let is_register = matches!(
            op.description().fields[field],
            Role::Read
                | Role::Write
                | Role::Both
                | Role::Registers
                | Role::Row
                | Role::Window
                | Role::Given
        );
        if is_register {
            let register = (word.0 >> shift) as u16;
            out &= !(0xffff << shift);
            out |= u64::from(Scaled::new(register).0) << shift;
        }
    }
    out
}

/// The value at a place, both halves by themselves: they have often just been written so, and a
/// processor is slow to read as one what was written as two.
///
/// # Safety
/// There is a value.
#[inline(always)]
unsafe fn by_halves(place: *const Value) -> Value {
    const { assert!(size_of::<Value>() == 2 * size_of::<u64>()) };
    let place = place.cast::<MaybeUninit<u64>>();
    // SAFETY: a value is two words, either of which may be without meaning.
    unsafe { std::mem::transmute([place.read_volatile(), place.add(1).read_volatile()]) }
}

/// The registers of a running function, or its constants.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Row(*mut Value);

impl Row {
    /// A row from some place of a stack on.
    pub fn of(stack: &mut [Value], at: usize) -> Row {
        debug_assert!(at <= stack.len());
        Row(stack.as_mut_ptr().wrapping_add(at))
    }

    /// A row that is only read.
    pub fn constants(values: &[Value]) -> Row {
        Row(values.as_ptr().cast_mut())
    }

    #[inline(always)]
    fn place(self, register: u16) -> *mut Value {
        let place = self.0.wrapping_add(register as usize);
        checks::place(place, What::Register);
        place
    }

    #[inline(always)]
    fn scaled(self, register: Scaled) -> *mut Value {
        let place = self.half(register);
        checks::place(place, What::Register);
        place
    }

    /// Where a register is, of which nothing may be there: a window can begin at the end.
    #[inline(always)]
    fn half(self, register: Scaled) -> *mut Value {
        let half = size_of::<Value>() / 2;
        let place = self.0.cast::<u8>();
        place.wrapping_add(usize::from(register.0) * half).cast()
    }

    /// What a register holds.
    #[inline(always)]
    pub fn see<'r>(self, register: Scaled) -> &'r Value {
        // SAFETY: the register is inside the stack, whose places all hold values; see the
        // module. The reference is used before anything is written.
        unsafe { &*self.scaled(register) }
    }

    /// What a register holds.
    #[inline(always)]
    pub fn take(self, register: Scaled) -> Value {
        // SAFETY: as for `see`.
        unsafe { by_halves(self.scaled(register)) }
    }

    /// Puts a value into a register.
    #[inline(always)]
    pub fn put(self, register: Scaled, value: Value) {
        // SAFETY: as for `see`.
        unsafe { *self.scaled(register) = value }
    }

    /// Puts a value that is kept elsewhere into a register.
    #[inline(always)]
    pub fn put_kept(self, register: Scaled, kept: &Value) {
        // SAFETY: there is a value behind a reference.
        self.put(register, unsafe { by_halves(kept) });
    }

    /// Puts a truth into a register, with both halves written whole: a truth is one byte, and whoever
    /// reads the value soon after would wait until that has come to the memory.
    #[inline(always)]
    pub fn put_truth(self, register: Scaled, truth: bool) {
        let place = self.scaled(register);
        // SAFETY: as for `see`. A value is two words (see `by_halves`), the kind and what is held, of
        // which a truth is the first byte.
        unsafe {
            let [kind, _]: [MaybeUninit<u64>; 2] = std::mem::transmute(Value::Truth(truth));
            let held = u64::from_ne_bytes([u8::from(truth), 0, 0, 0, 0, 0, 0, 0]);
            place.cast::<MaybeUninit<u64>>().write(kind);
            place.cast::<u64>().add(1).write(held);
        }
    }

    /// The row from a register on.
    #[inline(always)]
    pub fn window(self, register: Scaled) -> Row {
        Row(self.half(register))
    }

    /// The row of which this is the window.
    #[inline(always)]
    pub fn before_window(self, register: Scaled) -> Row {
        let half = size_of::<Value>() / 2;
        let place = self.0.cast::<u8>();
        Row(place.wrapping_sub(usize::from(register.0) * half).cast())
    }

    /// What a register holds.
    #[inline(always)]
    pub fn get(self, register: u16) -> Value {
        // SAFETY: as for `see`.
        unsafe { *self.place(register) }
    }

    /// A constant of the row.
    #[inline(always)]
    pub fn constant<'r>(self, number: u32) -> &'r Value {
        let place = self.0.wrapping_add(number as usize);
        checks::place(place, What::Constant);
        // SAFETY: there is a constant of that number; see the module.
        unsafe { &*place }
    }

    /// Puts a value into a register.
    #[inline(always)]
    pub fn set(self, register: u16, value: Value) {
        // SAFETY: as for `see`.
        unsafe { *self.place(register) = value }
    }

    /// Copies a register to another.
    #[inline(always)]
    pub fn copy(self, to: Scaled, from: Scaled) {
        self.put(to, self.take(from));
    }

    /// Some registers one after the other.
    pub fn slice<'r>(self, first: u16, count: u16) -> &'r [Value] {
        if count == 0 {
            return &[];
        }
        self.place(first + count - 1);
        // SAFETY: as for `see`, for each of them.
        unsafe { std::slice::from_raw_parts(self.place(first), count as usize) }
    }

    /// The row so many registers on.
    #[inline(always)]
    pub fn plus(self, registers: u32) -> Row {
        Row(self.0.wrapping_add(registers as usize))
    }

    /// Whether there are more than so many registers before the end of the stack.
    #[inline(always)]
    pub fn has_room(self, end: Row, registers: u32) -> bool {
        self.plus(registers).0 < end.0
    }

    /// How many registers it is from another row of the same stack.
    #[inline(always)]
    pub fn from(self, start: Row) -> usize {
        (self.0 as usize).wrapping_sub(start.0 as usize) / size_of::<Value>()
    }
}

/// The frames of calls under way.
#[derive(Debug)]
pub(super) struct Top<F>(*mut F);

impl<F> Clone for Top<F> {
    fn clone(&self) -> Top<F> {
        *self
    }
}

impl<F> Copy for Top<F> {}

impl<F> PartialEq for Top<F> {
    #[inline(always)]
    fn eq(&self, other: &Top<F>) -> bool {
        self.0 == other.0
    }
}

impl<F> Top<F> {
    /// The place after some of the frames of a stack.
    pub fn of(frames: &mut [F], count: usize) -> Top<F> {
        debug_assert!(count <= frames.len());
        Top(frames.as_mut_ptr().wrapping_add(count))
    }

    /// Whether there is room for a frame before the end of the room for frames. In every state,
    /// also where the end lies below the top.
    #[inline(always)]
    pub fn is_below(self, end: Top<F>) -> bool {
        self.0 < end.0
    }

    /// Puts a frame on top; there is room, since the top is not the end.
    #[inline(always)]
    pub fn push(&mut self, frame: F) {
        checks::place(self.0, What::Frame);
        // SAFETY: the machine compares with the end of the stack before.
        unsafe { self.0.write(frame) };
        self.0 = self.0.wrapping_add(1);
    }

    /// Takes the topmost frame away; there is one, since the bottom one stops the machine.
    #[inline(always)]
    pub fn pop<'f>(&mut self) -> &'f F {
        self.0 = self.0.wrapping_sub(1);
        checks::place(self.0, What::Frame);
        // SAFETY: see above.
        unsafe { &*self.0 }
    }

    /// The topmost frame.
    #[inline(always)]
    pub fn last<'f>(self) -> &'f mut F {
        checks::place(self.0.wrapping_sub(1), What::Frame);
        // SAFETY: see above.
        unsafe { &mut *self.0.wrapping_sub(1) }
    }

    /// How many frames there are from the first of the stack.
    #[inline(always)]
    pub fn count(self, frames: &[F]) -> usize {
        (self.0 as usize).wrapping_sub(frames.as_ptr() as usize) / size_of::<F>()
    }
}

/// The code of a function that the machine has made; it meets no others.
#[inline(always)]
pub(super) fn loaded_of<'c>(function: Ref<Closure>) -> &'c Loaded {
    let function = function.follow();
    checks::is::<Loaded>(&**function.code());
    // SAFETY: each session keeps to one engine, and all functions that the machine makes have
    // this for their code, which stays as long as they do.
    unsafe { &*function.place().cast::<Loaded>() }
}
