//! What is rare, or long: done in full, apart from the handlers.

use std::fmt::Write as _;

use super::heap::{Buffer, Head, Heap, Kind, LARGEST, List, Shared, Text};
use super::word::{CARD, FUNC, INT, LIST, OTHER, TEXT, Word};
use crate::peers::values::{Op as Sign, V};

/// A value that stands in the program; texts in it stay for good.
pub fn constant(value: &V) -> Word {
    match value {
        V::Nothing => Word::NOTHING,
        V::Truth(truth) => Word::truth(*truth),
        V::Int(n) => {
            assert!(Word::fits(*n), "a larger constant than the programs need");
            Word::small(*n)
        }
        V::Num(n) => Word::real(*n),
        V::Text(text) => {
            let bytes = text.buffer.borrow().as_bytes()[..text.length].to_vec();
            let mut lasting = Heap::new(Vec::new());
            let word = text_of(&mut lasting, &bytes);
            std::mem::forget(lasting);
            word
        }
        V::List(_) | V::Card(_) | V::Func(_) | V::Shared(_) => unreachable!("no constant"),
    }
}

/// An integer, in an object of its own where it takes more than forty-eight bits.
pub fn integer(heap: &mut Heap, n: i64) -> Word {
    if Word::fits(n) {
        return Word::small(n);
    }
    let big = heap
        .take_made(size_of::<Shared>(), Kind::Big, 0)
        .cast::<Shared>();
    unsafe { (*big).value = Word(n as u64) };
    Word::object(OTHER, big)
}

/// The integer that a value is.
pub fn whole(word: Word) -> Option<i64> {
    match word.tag() {
        INT => Some(word.integer()),
        OTHER => unsafe {
            let big = word.at::<Shared>();
            ((*big).head.kind == Kind::Big).then(|| (*big).value.0 as i64)
        },
        _ => None,
    }
}

pub fn number(word: Word) -> f64 {
    match whole(word) {
        Some(n) => n as f64,
        None if word.is_number() => word.number(),
        None => panic!("a number is needed"),
    }
}

/// An operator on any two values.
#[inline(never)]
pub fn operate(heap: &mut Heap, sign: Sign, a: Word, b: Word) -> Word {
    let Some((m, n)) = whole(a).zip(whole(b)) else {
        return match sign {
            Sign::Add => Word::real(number(a) + number(b)),
            Sign::Sub => Word::real(number(a) - number(b)),
            Sign::Mul => Word::real(number(a) * number(b)),
            Sign::Div => Word::real(number(a) / number(b)),
            Sign::Eq => Word::truth(equal(a, b)),
            Sign::Ne => Word::truth(!equal(a, b)),
            Sign::Lt => Word::truth(number(a) < number(b)),
            Sign::Le => Word::truth(number(a) <= number(b)),
            Sign::Gt => Word::truth(number(a) > number(b)),
            Sign::Ge => Word::truth(number(a) >= number(b)),
            Sign::FloorDiv | Sign::Mod | Sign::Join => panic!("not made for that"),
        };
    };
    let result = match sign {
        Sign::Add => m.checked_add(n),
        Sign::Sub => m.checked_sub(n),
        Sign::Mul => m.checked_mul(n),
        Sign::FloorDiv => Some(m.div_euclid(n)),
        Sign::Mod => Some(m.rem_euclid(n)),
        Sign::Div => return Word::real(m as f64 / n as f64),
        Sign::Eq => return Word::truth(m == n),
        Sign::Ne => return Word::truth(m != n),
        Sign::Lt => return Word::truth(m < n),
        Sign::Le => return Word::truth(m <= n),
        Sign::Gt => return Word::truth(m > n),
        Sign::Ge => return Word::truth(m >= n),
        Sign::Join => panic!("not made for that"),
    };
    integer(heap, result.expect("too large"))
}

#[inline(never)]
pub fn equal(a: Word, b: Word) -> bool {
    if a.is(TEXT) && b.is(TEXT) {
        return unsafe { bytes(a.at()) == bytes(b.at()) };
    }
    match (whole(a), whole(b)) {
        (Some(a), Some(b)) => a == b,
        (None, None) if a.is_number() && b.is_number() => a.number() == b.number(),
        (Some(n), None) if b.is_number() => n as f64 == b.number(),
        (None, Some(n)) if a.is_number() => n as f64 == a.number(),
        _ => a == b,
    }
}

/// The bytes of a text.
pub unsafe fn bytes<'a>(text: *const Text) -> &'a [u8] {
    unsafe {
        let length = (*text).head.extra as usize;
        let from = if (*text).head.flag {
            text.cast::<u8>().add(size_of::<Head>())
        } else {
            (*(*text).buffer).bytes.as_ptr()
        };
        std::slice::from_raw_parts(from, length)
    }
}

/// A new text; a short one has its bytes in itself.
pub fn text_of(heap: &mut Heap, bytes: &[u8]) -> Word {
    if bytes.len() <= 40 {
        return short(heap, bytes, &[]);
    }
    let buffer = Buffer {
        bytes: bytes.to_vec(),
        users: 1,
    };
    of_buffer(heap, Box::into_raw(Box::new(buffer)))
}

fn short(heap: &mut Heap, a: &[u8], b: &[u8]) -> Word {
    let length = a.len() + b.len();
    let size = size_of::<Head>() + length;
    let text = heap.take_made(size.max(16), Kind::Text, length as u32);
    unsafe {
        (*text).flag = true;
        // Short ones are compared as a word.
        *text.add(1).cast::<u64>() = 0;
        let to = text.add(1).cast::<u8>();
        std::ptr::copy_nonoverlapping(a.as_ptr(), to, a.len());
        std::ptr::copy_nonoverlapping(b.as_ptr(), to.add(a.len()), b.len());
    }
    Word::object(TEXT, text)
}

fn of_buffer(heap: &mut Heap, buffer: *mut Buffer) -> Word {
    unsafe {
        let length = (*buffer).bytes.len();
        let text = heap.take_made(size_of::<Text>(), Kind::Text, length as u32);
        heap.has_more(text, 0);
        (*text.cast::<Text>()).buffer = buffer;
        Word::object(TEXT, text)
    }
}

/// As a program shows it.
pub fn shown(word: Word) -> String {
    if let Some(n) = whole(word) {
        return n.to_string();
    }
    match word {
        Word::NOTHING => "nothing".to_owned(),
        Word::YES => "true".to_owned(),
        Word::NO => "false".to_owned(),
        _ if word.is_number() => format!("{:?}", word.number()),
        _ if word.is(TEXT) => String::from_utf8_lossy(unsafe { bytes(word.at()) }).into_owned(),
        _ => "…".to_owned(),
    }
}

/// One text after the other; the first one's buffer is gone on with where it can be.
#[inline(never)]
pub fn join(heap: &mut Heap, a: Word, b: Word) -> Word {
    let mut digits = [0_u8; 24];
    let more: &[u8] = if b.is(TEXT) {
        unsafe { bytes(b.at()) }
    } else if let Some(n) = whole(b) {
        let (mut rest, mut at) = (n.unsigned_abs(), digits.len());
        loop {
            at -= 1;
            digits[at] = b'0' + (rest % 10) as u8;
            rest /= 10;
            if rest == 0 {
                break;
            }
        }
        if n < 0 {
            at -= 1;
            digits[at] = b'-';
        }
        &digits[at..]
    } else {
        &shown(b).into_bytes()
    };
    if !a.is(TEXT) {
        let mut all = shown(a);
        let _ = write!(all, "{}", String::from_utf8_lossy(more));
        return text_of(heap, all.as_bytes());
    }
    unsafe {
        let first = a.at::<Text>();
        let own = bytes(first);
        if own.len() + more.len() <= 40 {
            return short(heap, own, more);
        }
        let buffer = (*first).buffer;
        if !(*first).head.flag && (*buffer).bytes.len() == own.len() {
            (*buffer).bytes.extend_from_slice(more);
            (*buffer).users += 1;
            return of_buffer(heap, buffer);
        }
        let mut bytes = Vec::with_capacity(2 * (own.len() + more.len()));
        bytes.extend_from_slice(own);
        bytes.extend_from_slice(more);
        of_buffer(heap, Box::into_raw(Box::new(Buffer { bytes, users: 1 })))
    }
}

/// A list of these items.
pub unsafe fn list(heap: &mut Heap, items: *const Word, length: usize) -> Word {
    let room = length;
    let own = size_of::<List>() + room * size_of::<Word>();
    let is_inside = own <= LARGEST;
    let size = if is_inside { own } else { size_of::<List>() };
    unsafe {
        let list = heap.take_made(size, Kind::List, 0).cast::<List>();
        let to = if is_inside {
            list.add(1).cast::<Word>()
        } else {
            (*list).head.flag = true;
            heap.has_more(list, room * size_of::<Word>());
            row(room)
        };
        std::ptr::copy_nonoverlapping(items, to, length);
        (*list).items = to;
        (*list).length = length as u32;
        (*list).room = room as u32;
        Word::object(LIST, list)
    }
}

fn row(room: usize) -> *mut Word {
    let mut row: Vec<Word> = Vec::with_capacity(room);
    let at = row.as_mut_ptr();
    std::mem::forget(row);
    at
}

/// Makes room for more items.
#[cold]
#[inline(never)]
pub unsafe fn grow(heap: &mut Heap, list: *mut List) {
    unsafe {
        let (old, room) = ((*list).items, (*list).room as usize);
        let more = (room * 2).max(8);
        let to = row(more);
        heap.has_more(list, more * size_of::<Word>());
        std::ptr::copy_nonoverlapping(old, to, (*list).length as usize);
        if (*list).head.flag {
            drop(Vec::from_raw_parts(old, 0, room));
        }
        (*list).head.flag = true;
        (*list).items = to;
        (*list).room = more as u32;
    }
}

/// The length of a list or a text.
pub fn length(word: Word) -> i64 {
    match word.tag() {
        LIST => unsafe { i64::from((*word.at::<List>()).length) },
        TEXT => {
            let bytes = unsafe { bytes(word.at()) };
            if bytes.is_ascii() {
                return bytes.len() as i64;
            }
            String::from_utf8_lossy(bytes).chars().count() as i64
        }
        CARD | FUNC => panic!("a list or a text is needed"),
        _ => panic!("a list is needed"),
    }
}
