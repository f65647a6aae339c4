//! What is kept as bytes until it is asked for. A language that was compiled before has much that one short
//! program has no use for: the meanings of forms that it does not have, what only messages need.

use std::fmt;
use std::ops::{Deref, DerefMut};
use std::sync::OnceLock;

use serde::de::{DeserializeOwned, Visitor};
use serde::ser::Error as _;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// Something that is made of its bytes when it is first asked for.
#[derive(Clone)]
pub struct Lazy<T> {
    made: OnceLock<T>,
    /// None for what was never kept.
    bytes: Box<[u8]>,
}

impl<T> From<T> for Lazy<T> {
    fn from(made: T) -> Lazy<T> {
        Lazy {
            made: OnceLock::from(made),
            bytes: Box::default(),
        }
    }
}

impl<T: Default> Default for Lazy<T> {
    fn default() -> Lazy<T> {
        T::default().into()
    }
}

impl<T: DeserializeOwned> Deref for Lazy<T> {
    type Target = T;

    fn deref(&self) -> &T {
        self.made.get_or_init(|| {
            // Bytes of another build, or not whole, are known by what stands before them.
            postcard::from_bytes(&self.bytes).expect("bytes that this build has written")
        })
    }
}

impl<T: DeserializeOwned + fmt::Debug> fmt::Debug for Lazy<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        (**self).fmt(f)
    }
}

impl<T: DeserializeOwned> DerefMut for Lazy<T> {
    fn deref_mut(&mut self) -> &mut T {
        let _ = Deref::deref(self);
        self.made.get_mut().expect("it has just been made")
    }
}

impl<'a, T: DeserializeOwned> IntoIterator for &'a Lazy<T>
where
    &'a T: IntoIterator,
{
    type Item = <&'a T as IntoIterator>::Item;
    type IntoIter = <&'a T as IntoIterator>::IntoIter;

    fn into_iter(self) -> Self::IntoIter {
        (&**self).into_iter()
    }
}

impl<T: Serialize + DeserializeOwned> Serialize for Lazy<T> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let bytes = postcard::to_stdvec(&**self).map_err(S::Error::custom)?;
        serializer.serialize_bytes(&bytes)
    }
}

impl<'de, T> Deserialize<'de> for Lazy<T> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Lazy<T>, D::Error> {
        struct Bytes;
        impl Visitor<'_> for Bytes {
            type Value = Box<[u8]>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("bytes")
            }

            fn visit_bytes<E: serde::de::Error>(self, bytes: &[u8]) -> Result<Box<[u8]>, E> {
                // Nothing is kept as no bytes at all, not even nothing.
                if bytes.is_empty() {
                    return Err(E::custom("no bytes"));
                }
                Ok(bytes.into())
            }
        }
        let bytes = deserializer.deserialize_bytes(Bytes)?;
        Ok(Lazy {
            made: OnceLock::new(),
            bytes,
        })
    }
}
