//! Texts. A text never changes; but one that is longer than another and begins with it can
//! take over its bytes, so that a text built piece by piece is not copied each time.

use std::cell::{Cell, RefCell};
use std::hash::{Hash, Hasher};

use super::value::made;
use super::{Heap, Marker, Pool, Ref, Traced, Value};

/// A text.
#[derive(Debug)]
pub(crate) struct Text {
    content: RefCell<Content>,
    /// The hash of the content once it has been asked for; 0 before.
    hash: Cell<u64>,
}

#[derive(Debug)]
enum Content {
    Own(String),
    /// The beginning of a longer text, up to so many bytes.
    Beginning(Ref<Text>, usize),
}

/// From this length on, a text is built in place.
const LONG: usize = 32;

impl Text {
    /// A text.
    pub fn new(text: impl Into<String>) -> Text {
        Text {
            content: RefCell::new(Content::Own(text.into())),
            hash: Cell::new(0),
        }
    }

    /// A text on the current heap.
    pub fn made(text: impl Into<String>) -> Ref<Text> {
        made(Text::new(text), |heap| &heap.texts)
    }

    /// A hash of the content, never 0.
    pub fn hash_of(&self) -> u64 {
        let known = self.hash.get();
        if known != 0 {
            return known;
        }
        let mut hasher = rustc_hash::FxHasher::default();
        (**self).hash(&mut hasher);
        let hash = hasher.finish() | 1;
        self.hash.set(hash);
        hash
    }

    fn is_own(&self) -> bool {
        matches!(*self.content.borrow(), Content::Own(_))
    }
}

impl Traced for Text {
    fn trace(&self, marker: &mut Marker) {
        if let Content::Beginning(longer, _) = *self.content.borrow() {
            marker.value(Value::Text(longer));
        }
    }

    fn room(&self) -> usize {
        match &*self.content.borrow() {
            Content::Own(text) => text.capacity(),
            Content::Beginning(..) => 0,
        }
    }
}

impl std::ops::Deref for Text {
    type Target = str;

    #[inline]
    fn deref(&self) -> &str {
        super::pool::bytes_of(self)
    }
}

impl PartialEq for Text {
    #[inline]
    fn eq(&self, other: &Text) -> bool {
        std::ptr::eq(self, other) || **self == **other
    }
}

impl Eq for Text {}

/// One text after the other.
pub(crate) fn join(a: Ref<Text>, b: Ref<Text>) -> Ref<Text> {
    let (first, second) = (a.len(), b.len());
    if first < LONG || !a.is_own() || !b.is_own() || a.is(b) {
        let mut joined = String::with_capacity(first + second);
        joined.push_str(&a);
        joined.push_str(&b);
        return Text::made(joined);
    }
    Heap::with(|heap| {
        heap.count(Pool::<Text>::SIZE);
        let joined = heap.texts.allocate(Text::new(String::new()));
        let given = Content::Beginning(joined, first);
        if let Content::Own(mut text) = a.content.replace(given) {
            let before = text.capacity();
            text.push_str(&b);
            heap.count(text.capacity() - before);
            joined.content.replace(Content::Own(text));
        }
        joined
    })
}

impl Text {
    /// The text whose bytes these are the beginning of, with how many of them, if that is
    /// another. Goes the whole way, and remembers it.
    pub(super) fn longer(&self) -> Option<(Ref<Text>, usize)> {
        let Content::Beginning(mut longer, length) = *self.content.borrow() else {
            return None;
        };
        let mut far = false;
        loop {
            let next = match *longer.content.borrow() {
                Content::Beginning(next, _) => next,
                Content::Own(_) => break,
            };
            longer = next;
            far = true;
        }
        if far {
            self.content.replace(Content::Beginning(longer, length));
        }
        Some((longer, length))
    }

    /// The text's own bytes, if it has any.
    pub(super) fn own(&self) -> *const str {
        match &*self.content.borrow() {
            Content::Own(text) => std::ptr::from_ref::<str>(text),
            Content::Beginning(..) => std::ptr::from_ref::<str>(""),
        }
    }
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
            all.push(join(last, Text::made("up")));
        }
        for (index, text) in all.iter().enumerate() {
            assert_eq!(text.len(), start.len() + 2 * index);
            assert!(text.starts_with("the flight"));
        }
        // Two different texts with the same beginning.
        let other = join(all[50], Text::made("down"));
        assert!(other.ends_with("updown"));
        assert!(all[51].ends_with("upup"));
    }
}
