//! Sets of kinds, and of which kinds literals, operators and operations are; `flow` finds what that comes to in a
//! function.

use rustc_hash::FxHashMap;

use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::Core;
use crate::operations::{Gives, Operation, Wanted};

/// A set of kinds.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
pub(super) struct Kinds(u16);

impl Kinds {
    /// No kind: a value that never comes.
    pub const NONE: Kinds = Kinds(0);
    /// Any kind.
    pub const ANY: Kinds = Kinds((1 << ValueKind::ALL.len()) - 1);

    /// Just one.
    pub const fn of(kind: ValueKind) -> Kinds {
        Kinds(1 << kind as u16)
    }

    /// Those of both.
    pub const fn with(self, other: Kinds) -> Kinds {
        Kinds(self.0 | other.0)
    }

    /// Those that are in both.
    pub fn among(self, other: Kinds) -> Kinds {
        Kinds(self.0 & other.0)
    }

    /// All but those of another.
    pub fn without(self, other: Kinds) -> Kinds {
        Kinds(self.0 & !other.0)
    }

    /// Whether all of them are in another.
    pub fn is_within(self, other: Kinds) -> bool {
        self.without(other) == Kinds::NONE
    }
}

pub(super) const NUMERIC: Kinds = Kinds::of(ValueKind::Integer).with(Kinds::of(ValueKind::Number));

/// What is known of a function's values.
#[derive(Debug, Default)]
pub(super) struct Known {
    /// What each slot can hold.
    pub slots: Vec<Kinds>,
    /// What the subject of each `match` can be, and what a type is demanded of, by the address of that.
    pub subjects: FxHashMap<*const Core, Kinds>,
}

impl Known {
    /// What the subject of a match can be, or what a type is demanded of.
    pub fn subject(&self, of: &Core) -> Kinds {
        self.subjects
            .get(&std::ptr::from_ref(of))
            .copied()
            .unwrap_or(Kinds::ANY)
    }

    /// What a slot can hold.
    pub fn of_slot(&self, slot: u32) -> Kinds {
        self.slots[slot as usize]
    }
}

/// What a literal is.
pub(super) fn of_literal(literal: &Literal) -> Kinds {
    Kinds::of(kind_of_literal(literal))
}

/// The kind of a literal.
pub(super) fn kind_of_literal(literal: &Literal) -> ValueKind {
    match literal {
        Literal::Nothing => ValueKind::Nothing,
        Literal::Truth(_) => ValueKind::Truth,
        Literal::Integer(_) => ValueKind::Integer,
        Literal::Number(_) => ValueKind::Number,
        Literal::Text(_) => ValueKind::Text,
        Literal::List(_) => ValueKind::List,
        Literal::Map(_) => ValueKind::Map,
    }
}

/// What an operator can give. One that fails gives nothing at all.
pub(super) fn of_binary(operator: B, left: Kinds, right: Kinds) -> Kinds {
    match operator {
        B::Equal | B::Unequal | B::Less | B::LessOrEqual | B::Greater | B::GreaterOrEqual => {
            Kinds::of(ValueKind::Truth)
        }
        B::Add | B::Subtract | B::Multiply => {
            let (left, right) = (left.among(NUMERIC), right.among(NUMERIC));
            let integer = Kinds::of(ValueKind::Integer);
            let number = Kinds::of(ValueKind::Number);
            let mut given = left.among(right).among(integer);
            if left.with(right).among(number) != Kinds::NONE {
                given = given.with(number);
            }
            given
        }
        B::Divide => Kinds::of(ValueKind::Number),
        // Two texts, or two lists.
        B::Join => {
            let whole = Kinds::of(ValueKind::Text).with(Kinds::of(ValueKind::List));
            left.among(right).among(whole)
        }
    }
}

/// What an operation can give, of operands of these kinds.
pub(super) fn of_operation(operation: Operation, operands: &[Kinds]) -> Kinds {
    let nothing = Kinds::of(ValueKind::Nothing);
    match operation.gives() {
        Gives::Never => Kinds::NONE,
        Gives::Nothing => nothing,
        Gives::Truth => Kinds::of(ValueKind::Truth),
        Gives::Integer => Kinds::of(ValueKind::Integer),
        Gives::IntegerOrNothing => nothing.with(Kinds::of(ValueKind::Integer)),
        Gives::Number => Kinds::of(ValueKind::Number),
        Gives::IntegerOrNumber => {
            let of_all = operands.iter().fold(NUMERIC, |all, one| all.among(*one));
            let integer = of_all.among(Kinds::of(ValueKind::Integer));
            integer.with(Kinds::of(ValueKind::Number))
        }
        Gives::NumberOrNothing => nothing.with(NUMERIC),
        Gives::Text => Kinds::of(ValueKind::Text),
        Gives::TextOrNothing => nothing.with(Kinds::of(ValueKind::Text)),
        Gives::List => Kinds::of(ValueKind::List),
        Gives::Map => Kinds::of(ValueKind::Map),
        Gives::Coroutine => Kinds::of(ValueKind::Coroutine),
        Gives::LikeFirst => operands.first().copied().unwrap_or(Kinds::ANY),
        Gives::Any | Gives::LikeOperands => Kinds::ANY,
    }
}

/// What the operands of an operator are where it has given something.
pub(super) fn taken_by(operator: B) -> Kinds {
    match operator {
        B::Equal | B::Unequal => Kinds::ANY,
        B::Less | B::LessOrEqual | B::Greater | B::GreaterOrEqual => {
            NUMERIC.with(Kinds::of(ValueKind::Text))
        }
        B::Add | B::Subtract | B::Multiply | B::Divide => NUMERIC,
        B::Join => Kinds::of(ValueKind::Text).with(Kinds::of(ValueKind::List)),
    }
}

/// What an operand is that an operation takes.
pub(super) fn wanted(wanted: Wanted) -> Kinds {
    let kinds = wanted.kinds().iter();
    let all = kinds.fold(Kinds::NONE, |all, kind| all.with(Kinds::of(*kind)));
    if all == Kinds::NONE { Kinds::ANY } else { all }
}
