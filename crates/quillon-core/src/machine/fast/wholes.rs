//! Numbers that are whole, as integers.
// And numbers are compared as exactly as programs ask for it.
#![allow(clippy::float_cmp, clippy::inline_always)]

/// Integers below this, and above its opposite, are numbers as they are.
pub(super) const EXACT: f64 = 9_007_199_254_740_992.0;

/// What is added to a number so that its lowest bits are the integer that it is equal to: one and a half times the number
/// from which on the last bit counts as one (Warren, Hacker's Delight, the chapter on floating point).
const UNITS: f64 = 6_755_399_441_055_744.0;

/// What `whole` gives is right below this, and above its opposite.
pub(super) const WHOLES: u64 = 1 << 51;

/// The integer that a number is equal to, if it is whole. For a number that is too large for that, or too small, it is
/// no integer between `WHOLES` and its opposite either.
#[inline(always)]
pub(super) fn whole(n: f64) -> Option<i64> {
    let sum = n + UNITS;
    let whole = sum.to_bits().wrapping_sub(UNITS.to_bits()) as i64;
    (sum - UNITS == n).then_some(whole)
}

/// The same of a number that is not below 0, for divisions of 32 bits. What is left of the opposite of 0 is that, so it is
/// not among them.
#[inline(always)]
pub(super) fn narrow(n: f64) -> Option<u32> {
    let whole = whole(n).filter(|_| n.is_sign_positive())?;
    u32::try_from(whole).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whole_numbers_are_integers_and_no_others_seem_to_be_small_ones() {
        let limit = WHOLES as f64;
        let of = |n: f64| whole(n).filter(|whole| whole.unsigned_abs() < WHOLES);
        for n in [
            0.0,
            -0.0,
            1.0,
            -1.0,
            4_294_967_296.0,
            limit - 1.0,
            1.0 - limit,
        ] {
            assert_eq!(of(n), Some(n as i64), "{n}");
        }
        let beyond = [
            0.5,
            -0.5,
            1e-300,
            limit - 0.25,
            limit,
            -limit,
            EXACT,
            -EXACT,
            UNITS,
            -UNITS,
            -2.0 * UNITS,
            1e300,
            -1e300,
            f64::INFINITY,
            f64::NEG_INFINITY,
            f64::NAN,
        ];
        for n in beyond {
            assert_eq!(of(n), None, "{n}");
        }
        // Numbers around every power of two.
        for exponent in -60..1024 {
            for n in [1.0, 1.0 + f64::EPSILON, 1.5, 2.0 - f64::EPSILON] {
                for n in [n * 2f64.powi(exponent), -n * 2f64.powi(exponent)] {
                    let is_one = n.abs() < limit && n.trunc() == n;
                    assert_eq!(of(n), is_one.then_some(n as i64), "{n}");
                }
            }
        }
    }

    #[test]
    fn narrow_ones_are_not_below_zero() {
        assert_eq!(narrow(0.0), Some(0));
        assert_eq!(narrow(4_294_967_295.0), Some(u32::MAX));
        for n in [-0.0, -1.0, 4_294_967_296.0, 0.5, f64::INFINITY, f64::NAN] {
            assert_eq!(narrow(n), None, "{n}");
        }
    }
}
