//! Tables of numbers of which most are zero, as they are kept: those that are not zero, each with how many
//! zeros stand before it.

use std::marker::PhantomData;

use serde::de::{Error, Visitor};
use serde::{Deserializer, Serializer};

/// How many numbers there are, and then for each that is not zero six bytes. Where more zeros stand before it
/// than two bytes can say, one of them is written as well.
pub fn serialize<S: Serializer, T: Copy + Into<u32>>(
    table: &[T],
    serializer: S,
) -> Result<S::Ok, S::Error> {
    let mut bytes = (table.len() as u32).to_le_bytes().to_vec();
    let mut zeros = 0u16;
    for &number in table {
        let number: u32 = number.into();
        if number == 0 && zeros < u16::MAX {
            zeros += 1;
        } else {
            bytes.extend(zeros.to_le_bytes());
            bytes.extend(number.to_le_bytes());
            zeros = 0;
        }
    }
    serializer.serialize_bytes(&bytes)
}

/// The same table again.
pub fn deserialize<'de, D: Deserializer<'de>, T: Copy + Default + From<u32>>(
    deserializer: D,
) -> Result<Vec<T>, D::Error> {
    struct Table<T>(PhantomData<T>);
    impl<T: Copy + Default + From<u32>> Visitor<'_> for Table<T> {
        type Value = Vec<T>;

        fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
            f.write_str("a table of numbers")
        }

        fn visit_bytes<E: Error>(self, bytes: &[u8]) -> Result<Vec<T>, E> {
            let cut = || E::custom("the table is not whole");
            let (length, bytes) = bytes.split_first_chunk().ok_or_else(cut)?;
            let mut table = vec![T::default(); u32::from_le_bytes(*length) as usize];
            let mut at = 0;
            for &[a, b, c, d, e, f] in bytes.as_chunks().0 {
                at += u16::from_le_bytes([a, b]) as usize;
                let number = u32::from_le_bytes([c, d, e, f]);
                *table.get_mut(at).ok_or_else(cut)? = T::from(number);
                at += 1;
            }
            Ok(table)
        }
    }
    deserializer.deserialize_bytes(Table(PhantomData))
}

#[cfg(test)]
mod tests {
    #[derive(serde::Serialize, serde::Deserialize)]
    struct Kept(#[serde(with = "super")] Vec<u32>);

    #[test]
    fn a_table_comes_back_as_it_was() {
        let mut long = vec![0; 200_000];
        long[150_000] = 7;
        for table in [vec![], vec![0], vec![0, 0, u32::MAX, 1, 0], long] {
            let bytes = postcard::to_stdvec(&Kept(table.clone())).unwrap();
            let Kept(back) = postcard::from_bytes(&bytes).unwrap();
            assert_eq!(back, table);
        }
    }
}
