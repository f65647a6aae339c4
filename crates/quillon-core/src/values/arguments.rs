//! What functions of a program are called with from outside.

use super::Held;

/// Values to call a function with: a tuple of anything that is a value, or a list of values.
///
/// ```
/// use quillon_core::values::Arguments;
///
/// assert_eq!(("Heron", 4).values().len(), 2);
/// assert_eq!(("Heron",).values().len(), 1);
/// assert_eq!(().values().len(), 0);
/// assert_eq!(vec![4, 6, 9].values().len(), 3);
/// ```
pub trait Arguments {
    /// The values, in order.
    fn values(self) -> Vec<Held>;
}

impl Arguments for () {
    fn values(self) -> Vec<Held> {
        Vec::new()
    }
}

impl<T: Into<Held>> Arguments for Vec<T> {
    fn values(self) -> Vec<Held> {
        self.into_iter().map(Into::into).collect()
    }
}

impl Arguments for &[Held] {
    fn values(self) -> Vec<Held> {
        self.to_vec()
    }
}

macro_rules! tuples {
    ($(($($part:ident)*))*) => {
        $(impl<$($part: Into<Held>),*> Arguments for ($($part,)*) {
            fn values(self) -> Vec<Held> {
                #[allow(non_snake_case)]
                let ($($part,)*) = self;
                vec![$($part.into()),*]
            }
        })*
    };
}

tuples! { (A) (A B) (A B C) (A B C D) (A B C D E) (A B C D E F) (A B C D E F G) (A B C D E F G H) }
