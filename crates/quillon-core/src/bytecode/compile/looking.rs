//! What Core does with a list: looks at an item of it, or asks whether there are any left.

use super::lists::MOST_GIVEN;
use super::operations::base;
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::meaning::{Core, CoreKind as K, CorePart, FunctionCore, Variable};
use crate::operations::{Gives, Operation as O};

/// The list that a test asks whether there are items left in, and what it comes to if there are.
pub(super) fn asks_for_more(test: &Core) -> Option<(&CorePart, bool)> {
    let K::Binary(operator, [left, right]) = &test.kind else {
        return None;
    };
    let (K::Apply(O::ListLength, args), K::Literal(Literal::Integer(number))) =
        (&left.kind, &right.kind)
    else {
        return None;
    };
    let has_more = match (operator, number) {
        (B::Greater | B::Unequal, 0) | (B::GreaterOrEqual, 1) => true,
        (B::Equal | B::LessOrEqual, 0) | (B::Less, 1) => false,
        _ => return None,
    };
    Some((args.first()?, has_more))
}

/// The slot of the variable that is read.
pub(super) fn variable_read(core: &Core) -> Option<u32> {
    match core.kind {
        K::Read(Variable::Slot(slot) | Variable::Cell(slot), _) => Some(slot),
        _ => None,
    }
}

/// Whether an operation looks at one item of a list, or at how many a function has been given, as can be done to one
/// whose items are in registers.
pub(super) fn looks_at_item(function: &FunctionCore, operation: O, args: &[CorePart]) -> bool {
    match (operation, args) {
        (O::ListTakeFirst, [_]) => true,
        (O::ListAt | O::ListItem, [_, at]) => place_of(operation, at).is_some(),
        (O::ListLength, [list]) => {
            let given = function.params.last().map(|param| param.slot);
            given.is_some() && variable_read(list) == given
        }
        _ => false,
    }
}

/// Which item is asked for, counted from 0, if that is known and one that is in a register.
pub(super) fn place_of(operation: O, at: &Core) -> Option<usize> {
    let K::Literal(Literal::Integer(at)) = at.kind else {
        return None;
    };
    let at = at - i64::from(base(operation));
    usize::try_from(at).ok().filter(|at| *at < MOST_GIVEN)
}

/// Whether a piece of Core has no more nodes than are left.
pub(super) fn has_at_most(core: &Core, left: &mut usize) -> bool {
    if *left == 0 {
        return false;
    }
    *left -= 1;
    let mut fits = true;
    core.each_part(&mut |part| fits = fits && has_at_most(part, left));
    fits
}

/// Whether a piece of Core ends in an error once its parts are there.
pub(super) fn always_fails(core: &Core) -> bool {
    match &core.kind {
        K::Fault(_) | K::Raise(_) => true,
        K::Apply(operation, _) => operation.gives() == Gives::Never,
        _ => false,
    }
}

/// Whether a piece of Core changes no list and no map, as far as so many nodes tell.
pub(super) fn changes_nothing(core: &Core, left: &mut usize) -> bool {
    if *left == 0 {
        return false;
    }
    *left -= 1;
    let may_be = match &core.kind {
        K::Apply(operation, _) => gives_plain(*operation),
        // A function that is made is not run.
        K::Function(_)
        | K::Literal(_)
        | K::Read(..)
        | K::Mark(..)
        | K::Write(..)
        | K::Fresh(..)
        | K::Sequence(_)
        | K::If(_)
        | K::Match(..)
        | K::Binary(..)
        | K::Negate(_)
        | K::Not(_)
        | K::And(_)
        | K::Or(_)
        | K::List(_)
        | K::Fault(_)
        | K::Raise(_)
        | K::Jump(..) => true,
        K::Rebind(..)
        | K::Enter(_)
        | K::Parts(..)
        | K::While(_)
        | K::Each(..)
        | K::Count(..)
        | K::Landing(..)
        | K::Call(..)
        | K::Attempt(..)
        | K::Cleanup(_) => false,
    };
    let mut all = may_be;
    core.each_part(&mut |part| all = all && changes_nothing(part, left));
    all
}

/// Whether an operation gives a text, a number or a truth value: it changes nothing then, since what does gives nothing or
/// what it has taken out.
pub(super) fn gives_plain(operation: O) -> bool {
    matches!(
        operation.gives(),
        Gives::Text | Gives::Integer | Gives::Number | Gives::IntegerOrNumber | Gives::Truth
    )
}
