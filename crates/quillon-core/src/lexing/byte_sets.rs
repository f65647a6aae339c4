//! Which of sixty-four bytes are in some sets, a bit for each.

/// So many bytes are looked at together.
pub(super) const WIDTH: usize = 64;

/// Some ASCII bytes.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub(super) struct Bytes(u128);

impl Bytes {
    pub fn has(self, byte: u8) -> bool {
        byte < 128 && self.0 >> byte & 1 == 1
    }

    pub fn insert(&mut self, byte: u8) {
        self.0 |= 1 << byte;
    }

    pub fn extend(&mut self, other: Bytes) {
        self.0 |= other.0;
    }

    pub fn len(self) -> u32 {
        self.0.count_ones()
    }

    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Each of them, in order.
    pub fn each(self) -> impl Iterator<Item = u8> {
        let rest = std::iter::successors(Some(self.0), |left| Some(left & left.wrapping_sub(1)));
        rest.take_while(|left| *left != 0)
            .map(|left| left.trailing_zeros() as u8)
    }

    /// Whether each byte is one of them.
    pub fn table(self) -> [bool; 256] {
        let mut table = [false; 256];
        self.each().for_each(|byte| table[byte as usize] = true);
        table
    }

    /// Whether some byte is in both.
    pub fn meets(self, other: Bytes) -> bool {
        self.0 & other.0 != 0
    }

    /// Whether each of these is one of those.
    pub fn is_in(self, other: Bytes) -> bool {
        self.0 & !other.0 == 0
    }
}

impl FromIterator<u8> for Bytes {
    fn from_iter<I: IntoIterator<Item = u8>>(bytes: I) -> Bytes {
        let mut set = Bytes::default();
        bytes.into_iter().for_each(|byte| set.insert(byte));
        set
    }
}

/// Some ASCII bytes, in the two ways in which sixty-four of them are looked at.
#[derive(Clone, Debug)]
pub(super) struct ByteSet {
    ranges: Vec<Range>,
    /// For each low half of a byte the high halves that make it one of the set, a bit for each.
    #[cfg(target_arch = "x86_64")]
    rows: [u8; 16],
}

/// The bytes from the first on, and how many more: eight times over each, as they are needed.
#[derive(Clone, Copy, Debug)]
struct Range {
    first: u64,
    more: u64,
}

impl ByteSet {
    pub fn new(bytes: Bytes) -> ByteSet {
        let mut ranges: Vec<(u8, u8)> = Vec::new();
        for byte in (0..128).filter(|byte| bytes.has(*byte)) {
            match ranges.last_mut() {
                Some((first, more)) if *first + *more + 1 == byte => *more += 1,
                _ => ranges.push((byte, 0)),
            }
        }
        let eight = |byte: u8| u64::from(byte) * 0x0101_0101_0101_0101;
        let ranges = ranges.into_iter().map(|(first, more)| Range {
            first: eight(first),
            more: eight(more),
        });
        ByteSet {
            ranges: ranges.collect(),
            #[cfg(target_arch = "x86_64")]
            rows: wider::rows(bytes),
        }
    }

    /// The bytes that are in each of some sets, and those that are not ASCII.
    #[inline]
    pub fn masks<const SETS: usize>(
        sets: [&ByteSet; SETS],
        bytes: &[u8; WIDTH],
    ) -> ([u64; SETS], u64) {
        #[cfg(target_arch = "x86_64")]
        return wide::masks(sets, bytes);
        #[cfg(not(target_arch = "x86_64"))]
        return plain::masks(sets, bytes);
    }
}

/// Sixteen bytes at a time, as every processor of this kind can.
#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code)]
mod wide {
    use std::arch::x86_64::{
        __m128i, _mm_cmpeq_epi8, _mm_min_epu8, _mm_movemask_epi8, _mm_or_si128, _mm_set_epi64x,
        _mm_set1_epi64x, _mm_setzero_si128, _mm_sub_epi8,
    };

    use super::{ByteSet, WIDTH};

    const PARTS: usize = WIDTH / 16;

    #[inline]
    pub fn masks<const SETS: usize>(
        sets: [&ByteSet; SETS],
        bytes: &[u8; WIDTH],
    ) -> ([u64; SETS], u64) {
        // SAFETY: x86-64 has these instructions, whatever else it has.
        unsafe { all(sets, bytes) }
    }

    #[target_feature(enable = "sse2")]
    #[inline]
    fn all<const SETS: usize>(sets: [&ByteSet; SETS], bytes: &[u8; WIDTH]) -> ([u64; SETS], u64) {
        let mut parts = [_mm_setzero_si128(); PARTS];
        for (part, sixteen) in parts.iter_mut().zip(bytes.as_chunks::<16>().0) {
            let [low, high] = [0, 8].map(|at| {
                let eight = sixteen[at..].first_chunk::<8>().copied();
                i64::from_le_bytes(eight.unwrap_or_default())
            });
            *part = _mm_set_epi64x(high, low);
        }
        (sets.map(|set| mask(within(set, &parts))), mask(parts))
    }

    /// Where bytes are in a set: those that are no further from the first of a range than it goes.
    #[target_feature(enable = "sse2")]
    #[inline]
    fn within(set: &ByteSet, parts: &[__m128i; PARTS]) -> [__m128i; PARTS] {
        let mut is_in = [_mm_setzero_si128(); PARTS];
        for range in &set.ranges {
            let first = _mm_set1_epi64x(range.first as i64);
            let more = _mm_set1_epi64x(range.more as i64);
            for (is_in, part) in is_in.iter_mut().zip(parts) {
                let from = _mm_sub_epi8(*part, first);
                let near = _mm_cmpeq_epi8(_mm_min_epu8(from, more), from);
                *is_in = _mm_or_si128(*is_in, near);
            }
        }
        is_in
    }

    /// The highest bit of each byte.
    #[target_feature(enable = "sse2")]
    #[inline]
    fn mask(parts: [__m128i; PARTS]) -> u64 {
        let bits = parts.map(|part| u64::from(_mm_movemask_epi8(part) as u16));
        bits[0] | bits[1] << 16 | bits[2] << 32 | bits[3] << 48
    }
}

/// Thirty-two bytes at a time, where the processor can: a byte is in a set if the row of its low half has
/// the bit of its high half (Langdale and Lemire 2019, "Parsing gigabytes of JSON per second").
#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code)]
pub(super) mod wider {
    use std::arch::x86_64::{
        __m128i, __m256i, _mm_loadu_si128, _mm256_and_si256, _mm256_broadcastsi128_si256,
        _mm256_cmpeq_epi8, _mm256_loadu_si256, _mm256_movemask_epi8, _mm256_set1_epi8,
        _mm256_setzero_si256, _mm256_shuffle_epi8, _mm256_srli_epi16,
    };

    use super::{ByteSet, Bytes, WIDTH};

    /// Whether the processor can.
    #[inline]
    pub fn is_there() -> bool {
        is_x86_feature_detected!("avx2")
            && is_x86_feature_detected!("bmi1")
            && is_x86_feature_detected!("bmi2")
            && is_x86_feature_detected!("lzcnt")
    }

    /// For each low half of a byte the high halves with which it is one of some bytes.
    pub fn rows(bytes: Bytes) -> [u8; 16] {
        let mut rows = [0; 16];
        for byte in bytes.each() {
            rows[byte as usize & 15] |= 1 << (byte >> 4);
        }
        rows
    }

    /// The bit of each high half; none of those that no ASCII byte has.
    const HIGH: [u8; 16] = [1, 2, 4, 8, 16, 32, 64, 128, 0, 0, 0, 0, 0, 0, 0, 0];

    /// The bytes that are in each of some sets, and those that are not ASCII.
    #[target_feature(enable = "avx2,bmi1,bmi2,lzcnt")]
    #[inline]
    pub fn masks<const SETS: usize>(
        sets: [&ByteSet; SETS],
        bytes: &[u8; WIDTH],
    ) -> ([u64; SETS], u64) {
        // SAFETY: each half of the block has thirty-two bytes.
        let halves: [__m256i; 2] =
            [0, 32].map(|at| unsafe { _mm256_loadu_si256(bytes.as_ptr().add(at).cast()) });
        let high = halves.map(|half| {
            let high = _mm256_and_si256(_mm256_srli_epi16::<4>(half), _mm256_set1_epi8(15));
            _mm256_shuffle_epi8(twice(&HIGH), high)
        });
        let within = |set: &ByteSet| {
            let rows = twice(&set.rows);
            let [low, above] = [0, 1].map(|at| {
                let row = _mm256_shuffle_epi8(rows, halves[at]);
                _mm256_cmpeq_epi8(_mm256_and_si256(row, high[at]), _mm256_setzero_si256())
            });
            !mask([low, above])
        };
        (sets.map(within), mask(halves))
    }

    /// Sixteen bytes, twice.
    #[target_feature(enable = "avx2")]
    #[inline]
    fn twice(row: &[u8; 16]) -> __m256i {
        // SAFETY: there are sixteen bytes.
        let row: __m128i = unsafe { _mm_loadu_si128(row.as_ptr().cast()) };
        _mm256_broadcastsi128_si256(row)
    }

    /// The highest bit of each byte.
    #[target_feature(enable = "avx2")]
    #[inline]
    fn mask(halves: [__m256i; 2]) -> u64 {
        let [low, above] = halves.map(|half| u64::from(_mm256_movemask_epi8(half) as u32));
        low | above << 32
    }
}

/// The same a byte at a time.
#[cfg(any(test, not(target_arch = "x86_64")))]
mod plain {
    use super::{ByteSet, WIDTH};

    pub fn masks<const SETS: usize>(
        sets: [&ByteSet; SETS],
        bytes: &[u8; WIDTH],
    ) -> ([u64; SETS], u64) {
        let of = |is: &dyn Fn(u8) -> bool| {
            let bits = bytes.iter().zip(0..);
            bits.fold(0, |mask, (byte, at)| mask | u64::from(is(*byte)) << at)
        };
        let in_set = |set: &ByteSet| {
            of(&|byte| {
                let mut ranges = set.ranges.iter();
                ranges.any(|range| byte.wrapping_sub(range.first as u8) <= range.more as u8)
            })
        };
        (sets.map(in_set), of(&|byte| !byte.is_ascii()))
    }
}

#[cfg(all(test, target_arch = "x86_64"))]
mod tests {
    use super::*;

    #[test]
    #[allow(unsafe_code)]
    fn many_at_a_time_are_as_one_by_one() {
        let sets = [
            (0..128)
                .filter(u8::is_ascii_alphanumeric)
                .chain([b'_'])
                .collect(),
            [b' ', b'\t', b'\n', 127, 0].into_iter().collect(),
            Bytes::default(),
            (0..128).collect::<Bytes>(),
        ];
        let sets = sets.map(ByteSet::new);
        let sets = [&sets[0], &sets[1], &sets[2], &sets[3]];
        for shift in 0..4u8 {
            let mut bytes = [0; WIDTH];
            for (byte, at) in bytes.iter_mut().zip(0u8..) {
                *byte = at + WIDTH as u8 * shift;
            }
            let one_by_one = plain::masks(sets, &bytes);
            assert_eq!(wide::masks(sets, &bytes), one_by_one);
            if wider::is_there() {
                // SAFETY: it has just been asked.
                assert_eq!(unsafe { wider::masks(sets, &bytes) }, one_by_one);
            }
        }
    }
}
