//! Texts. A text never changes; but one that is longer than another and begins with it can
//! share its bytes, so that a text built piece by piece is not copied each time.

use std::cell::{Cell, RefCell};
use std::hash::{Hash, Hasher};
use std::rc::Rc;

use super::heap::allocated;
use super::value::made;
use super::{Heap, Marker, Pool, Ref, Traced, ask, spend};
use crate::metering::Stopped;

/// A text.
#[derive(Debug)]
pub(crate) struct Text {
    content: Content,
    /// The hash of the content once it has been asked for; 0 before.
    hash: Cell<u32>,
    characters: Cell<Characters>,
}

/// What is known of the characters of a text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Characters {
    Unknown,
    /// Each byte is one.
    Bytes,
    /// Some have several bytes.
    Clusters,
}

impl Characters {
    /// A line end of two bytes is one character; where there can be none, bytes are characters.
    fn of(text: &str) -> Characters {
        if text.is_ascii() && !text.as_bytes().contains(&b'\r') {
            Characters::Bytes
        } else {
            Characters::Clusters
        }
    }

    /// Of a text with another one after it.
    fn followed_by(self, text: &str) -> Characters {
        match self {
            Characters::Bytes => Characters::of(text),
            Characters::Unknown | Characters::Clusters => self,
        }
    }
}

#[derive(Debug)]
enum Content {
    /// So many bytes of these.
    Short(u8, [u8; SHORT]),
    Own(Box<str>),
    /// So many bytes of what longer texts go on with.
    Beginning(Rc<RefCell<String>>, usize),
}

/// Up to this length, a text has its bytes in itself.
const SHORT: usize = 22;

/// From this length on, a text is built in place.
const LONG: usize = 48;

const _: () = assert!(size_of::<Content>() == 24);
const _: () = assert!(size_of::<Text>() == 32);

impl Text {
    fn with(content: Content) -> Text {
        Text {
            content,
            hash: Cell::new(0),
            characters: Cell::new(Characters::Unknown),
        }
    }

    /// A text.
    pub fn new(text: impl Into<Box<str>> + AsRef<str>) -> Text {
        match Text::short(&[text.as_ref()]) {
            Some(short) => short,
            None => Text::with(Content::Own(text.into())),
        }
    }

    /// A text of these parts, if that is a short one.
    #[inline]
    fn short(parts: &[&str]) -> Option<Text> {
        let mut bytes = [0; SHORT];
        let mut length = 0;
        for part in parts {
            let end = length + part.len();
            bytes.get_mut(length..end)?.copy_from_slice(part.as_bytes());
            length = end;
        }
        Some(Text::with(Content::Short(length as u8, bytes)))
    }

    /// A text on the current heap.
    pub fn made(text: impl Into<Box<str>> + AsRef<str>) -> Ref<Text> {
        Text::new(text).placed()
    }

    /// Puts it on the current heap.
    fn placed(self) -> Ref<Text> {
        made(self.bytes_beside(), |heap| &heap.texts, || self)
    }

    /// An integer as a text on the current heap.
    pub fn of_integer(n: i64) -> Ref<Text> {
        Text::made(itoa::Buffer::new().format(n))
    }

    /// A hash of the content, never 0.
    pub fn hash_of(&self) -> u32 {
        let known = self.hash.get();
        if known != 0 {
            return known;
        }
        let mut hasher = rustc_hash::FxHasher::default();
        (**self).hash(&mut hasher);
        let hash = (hasher.finish() >> 32) as u32 | 1;
        self.hash.set(hash);
        hash
    }

    /// Whether it is equal to another one, where both have their bytes in themselves.
    #[inline]
    pub fn is_equal_at_once(&self, other: &Text) -> Option<bool> {
        match (&self.content, &other.content) {
            (Content::Short(a, bytes), Content::Short(b, others)) => {
                Some(a == b && bytes == others)
            }
            _ => None,
        }
    }

    /// The byte at a place, if it is known that each byte is one character.
    #[inline]
    pub fn plain_byte(&self, place: usize) -> Option<u8> {
        let is_plain = self.characters.get() == Characters::Bytes;
        self.as_bytes().get(place).filter(|_| is_plain).copied()
    }

    /// Whether each byte is one character, as a person takes them.
    pub fn is_plain(&self) -> Result<bool, Stopped> {
        if self.characters.get() == Characters::Unknown {
            spend(self.len() / 8)?;
            self.characters.set(Characters::of(self));
        }
        Ok(self.characters.get() == Characters::Bytes)
    }
}

impl Traced for Text {
    fn trace(&self, _marker: &mut Marker) {}

    fn bytes_beside(&self) -> usize {
        match &self.content {
            Content::Short(..) => 0,
            Content::Own(text) => allocated(text.len()),
            // Each of those that share the bytes counts its part of them.
            Content::Beginning(all, _) => all.borrow().capacity() / Rc::strong_count(all),
        }
    }
}

impl std::ops::Deref for Text {
    type Target = str;

    #[inline]
    fn deref(&self) -> &str {
        match &self.content {
            Content::Short(length, bytes) => super::pool::text_in(bytes, *length),
            Content::Own(text) => text,
            Content::Beginning(all, length) => super::pool::beginning(all, *length),
        }
    }
}

impl PartialEq for Text {
    #[inline]
    fn eq(&self, other: &Text) -> bool {
        let at_once = self.is_equal_at_once(other);
        at_once.unwrap_or_else(|| std::ptr::eq(self, other) || **self == **other)
    }
}

impl Eq for Text {}

/// One text after the other.
pub(crate) fn join(a: Ref<Text>, b: Ref<Text>) -> Result<Ref<Text>, Stopped> {
    // So that what begins with an empty text takes over what comes next, instead of a copy.
    if a.is_empty() {
        return Ok(b);
    }
    // The bytes of the second must not move while they are copied.
    match &b.content {
        Content::Short(length, bytes) => append(a, super::pool::text_in(bytes, *length)),
        Content::Own(b) => append(a, b),
        Content::Beginning(..) => append(a, &b.to_string()),
    }
}

/// A text with an integer at its end.
pub(crate) fn join_integer(a: Ref<Text>, n: i64) -> Result<Ref<Text>, Stopped> {
    append(a, itoa::Buffer::new().format(n))
}

/// A text with something at its end that is not part of the text itself.
pub(crate) fn append(a: Ref<Text>, b: &str) -> Result<Ref<Text>, Stopped> {
    let length = a.len() + b.len();
    if length > super::LARGEST {
        return Err(Stopped::Size);
    }
    if let Some(short) = Text::short(&[&a, b]) {
        return Ok(short.placed());
    }
    if length < LONG {
        let mut joined = String::with_capacity(length);
        joined.push_str(&a);
        joined.push_str(b);
        return Ok(Text::made(joined));
    }
    let all = match &a.content {
        // Nobody has gone on with it yet.
        Content::Beginning(all, own) if *own == all.borrow().len() => Rc::clone(all),
        Content::Short(..) | Content::Own(_) | Content::Beginning(..) => {
            spend(length / 8)?;
            // As much again is there for what comes after it, unless that is too much.
            let room = match ask(2 * length) {
                Ok(()) => 2 * length,
                Err(_) => ask(length).map(|()| length)?,
            };
            let mut all = String::with_capacity(room);
            all.push_str(&a);
            Heap::with(|heap| heap.count(all.capacity()));
            Rc::new(RefCell::new(all))
        }
    };
    let more = {
        let mut all = all.borrow_mut();
        let before = all.capacity();
        if all.len() + b.len() > before {
            ask(2 * before.max(length))?;
        }
        spend(b.len() / 8)?;
        all.push_str(b);
        all.capacity() - before
    };
    let joined = Text::with(Content::Beginning(all, length));
    joined.characters.set(a.characters.get().followed_by(b));
    Ok(Heap::with(|heap| {
        heap.count(Pool::<Text>::SIZE + more);
        heap.texts.allocate(|| joined)
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_built_piece_by_piece_leaves_its_beginnings_as_they_were() {
        let start = Text::made("the flight of locks at Hollin Weir, ");
        let mut all = vec![start];
        for _ in 0..100 {
            let last = all[all.len() - 1];
            all.push(join(last, Text::made("up")).unwrap());
        }
        for (index, text) in all.iter().enumerate() {
            assert_eq!(text.len(), start.len() + 2 * index);
            assert!(text.starts_with("the flight"));
        }
        // Two different texts with the same beginning.
        let other = join(all[50], Text::made("down")).unwrap();
        assert!(other.ends_with("updown"));
        assert!(all[51].ends_with("upup"));
    }
}
