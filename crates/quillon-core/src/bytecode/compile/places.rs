//! Items that are asked for behind tests of their places, such as `if place < 0 { … } else { list.at(l, place) }`:
//! where there is such an item, that says what the tests come to.

use super::Builder;
use super::conditions::mirrored;
use super::guards::{lets_through, passed_on_for_some};
use super::looking::variable_read;
use super::operations::base;
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// So far a piece of Core is gone into.
const DEEPEST: usize = 6;

/// What is done with an item, and what must hold for that.
#[derive(Clone, Default)]
pub(super) struct WhereThere<'c> {
    /// What the tests on the way must come to.
    tests: Vec<(&'c Core, bool)>,
    /// Slots that hold what another does, if the tests come to that.
    names: Vec<Name>,
    /// Guards on the way, with the slots whose values they let through.
    guards: Vec<(u32, &'c Core)>,
    /// Variables that end with what is gone through: nobody misses them where it is passed over.
    own: Vec<u32>,
    /// Whether a number is brought to an integer on the way: where it is whole, that is equal to it.
    is_rounded: bool,
}

/// A slot that holds what another does, or the integer that this is equal to.
#[derive(Clone, Copy)]
struct Name {
    own: u32,
    other: Source,
}

/// Where a value comes from.
#[derive(Clone, Copy)]
struct Source {
    slot: u32,
    /// Whether it is the integer that the number there is equal to.
    is_rounded: bool,
}

/// An operation on an item.
pub(super) struct Found<'c> {
    pub operation: O,
    pub args: &'c [CorePart],
    /// What places are counted from.
    pub base: u8,
    /// The slot of the place, where it is not just the operand.
    pub place: Option<u32>,
    /// Whether the place is a number that must be whole.
    pub is_rounded: bool,
}

/// An item that a list has; the list and the place are variables. Or any integer.
struct Item {
    list: Option<u32>,
    place: u32,
    /// What places are counted from.
    base: i64,
}

impl Item {
    /// What a comparison of its place with an integer comes to, if its being there tells.
    fn against(&self, operator: B, bound: i64) -> Option<bool> {
        match operator {
            B::Less if bound <= self.base => Some(false),
            B::LessOrEqual if bound < self.base => Some(false),
            B::GreaterOrEqual if bound <= self.base => Some(true),
            B::Greater if bound < self.base => Some(true),
            _ => None,
        }
    }

    /// The same of a comparison with the length of its list.
    fn against_length(&self, operator: B) -> Option<bool> {
        match (operator, self.base) {
            (B::Less | B::Unequal, 0) | (B::LessOrEqual, 1) => Some(true),
            (B::GreaterOrEqual | B::Equal, 0) | (B::Greater, 1) => Some(false),
            _ => None,
        }
    }
}

/// What a test must come to for something to do nothing but go on behind it.
fn tested(core: &Core) -> Option<(&Core, bool)> {
    let is_empty = |way: &Core| matches!(way.kind, K::Literal(_));
    match &core.kind {
        K::While([test, _]) => Some((test, false)),
        K::If([test, _, no]) if is_empty(no) => Some((test, false)),
        K::If([test, yes, _]) if is_empty(yes) => Some((test, true)),
        _ => None,
    }
}

/// The number that is brought to an integer, or what is not.
fn unrounded(core: &Core) -> &Core {
    match &core.kind {
        K::Apply(O::NumberFloor | O::NumberCeiling | O::NumberTruncate | O::NumberRound, args) => {
            args.first().map_or(core, |number| &**number)
        }
        _ => core,
    }
}

/// What a comparison of equal numbers comes to.
fn of_equals(operator: B) -> Option<bool> {
    match operator {
        B::Equal | B::LessOrEqual | B::GreaterOrEqual => Some(true),
        B::Unequal | B::Less | B::Greater => Some(false),
        B::Add | B::Subtract | B::Multiply | B::Divide | B::Join => None,
    }
}

/// A place without the 1 that may be taken from it, and what it is counted from then.
fn counted_from<'c>(builder: &mut Builder<'_, '_>, place: &'c Core, base: u8) -> (&'c Core, u8) {
    match &place.kind {
        _ if builder.folded(place, 0).is_some() => (place, base),
        K::Binary(B::Subtract, [from, one]) if base == 0 && is_one(builder, one) => (from, 1),
        _ => (place, base),
    }
}

/// Whether a part of a text is the letter at a place: it goes up to the next place, such as from `i` to `i + 1` or from
/// `i - 1` to `i`.
fn is_letter(builder: &mut Builder<'_, '_>, args: &[CorePart]) -> bool {
    let [_, from, to] = args else {
        return false;
    };
    if let (Some(Literal::Integer(from)), Some(Literal::Integer(to))) =
        (builder.folded(from, 0), builder.folded(to, 0))
    {
        return from.checked_add(1) == Some(to);
    }
    let (near, far) = match (&from.kind, &to.kind) {
        (_, K::Binary(B::Add, [near, one])) if is_one(builder, one) => (near, from),
        (_, K::Binary(B::Add, [one, near])) if is_one(builder, one) => (near, from),
        (K::Binary(B::Subtract, [near, one]), _) if is_one(builder, one) => (near, to),
        _ => return false,
    };
    let near = variable_read(builder.simple(near));
    near.is_some() && near == variable_read(builder.simple(far))
}

fn is_one(builder: &mut Builder<'_, '_>, core: &Core) -> bool {
    builder.folded(core, 0) == Some(Literal::Integer(1))
}

impl<'c> WhereThere<'c> {
    /// Whether a piece of Core may be something that is done with an item behind tests.
    pub fn may_be(core: &Core) -> bool {
        let K::Sequence(parts) = &core.kind else {
            return false;
        };
        parts.iter().any(|part| tested(part).is_some())
    }

    /// What is done with an item if the list has it.
    pub fn find(
        builder: &mut Builder<'_, '_>,
        body: &'c Core,
        own: &[(u32, bool)],
        is_effect: bool,
    ) -> Option<Found<'c>> {
        WhereThere::through(own).reach(builder, body, is_effect, DEEPEST)
    }

    /// The slot of a number, where what comes to an integer comes to the one that this number is equal to, if it is
    /// equal to any.
    pub fn whole(
        builder: &mut Builder<'_, '_>,
        body: &'c Core,
        own: &[(u32, bool)],
    ) -> Option<u32> {
        let mut way = WhereThere::through(own);
        let number = way.name(builder, body, DEEPEST)?;
        let integer = Item {
            list: None,
            place: number.slot,
            base: i64::MIN,
        };
        (number.is_rounded && way.all_hold(builder, &integer, ValueKind::List))
            .then_some(number.slot)
    }

    /// Nothing gone through yet but variables that end with it.
    fn through(own: &[(u32, bool)]) -> WhereThere<'c> {
        WhereThere {
            own: own.iter().map(|(slot, _)| *slot).collect(),
            ..WhereThere::default()
        }
    }

    /// Goes on to an operation, by the ways that come to one, until it is found that the tests come to that.
    fn reach(
        mut self,
        builder: &mut Builder<'_, '_>,
        core: &'c Core,
        is_effect: bool,
        depth: usize,
    ) -> Option<Found<'c>> {
        let depth = depth.checked_sub(1)?;
        match &core.kind {
            K::Apply(
                operation @ (O::ListAt | O::ListItem | O::ListPut | O::ListPutItem | O::TextAt),
                args,
            ) => self.found(builder, *operation, args),
            K::Apply(O::TextSlice, args) if is_letter(builder, args) => {
                self.found(builder, O::TextAt, args)
            }
            K::Mark(_, body) => self.reach(builder, body, is_effect, depth),
            K::Fresh(slots, body) => {
                self.own.extend(slots.iter().map(|(slot, _)| *slot));
                self.reach(builder, body, is_effect, depth)
            }
            K::If([test, yes, no]) => {
                [(yes, true), (no, false)]
                    .into_iter()
                    .find_map(|(way, truth)| {
                        let mut path = self.clone();
                        path.tests.push((test, truth));
                        path.reach(builder, way, is_effect, depth)
                    })
            }
            K::Sequence(parts) => {
                let (mut last, mut sets) = parts.split_last()?;
                // A value that nobody wants.
                if is_effect && builder.is_at_hand(last) {
                    (last, sets) = sets.split_last()?;
                }
                self.take_note(builder, sets)?;
                self.reach(builder, last, is_effect, depth)
            }
            _ => None,
        }
    }

    /// Takes note of what must hold and of what is set on the way.
    fn take_note(&mut self, builder: &mut Builder<'_, '_>, sets: &'c [CorePart]) -> Option<()> {
        for set in sets {
            if let Some(test) = tested(set) {
                self.tests.push(test);
                continue;
            }
            let K::Write(Variable::Slot(slot), _, value) = &set.kind else {
                return None;
            };
            let facts = builder.facts(*slot);
            if facts.writes != 1 || facts.shared || !self.own.contains(slot) {
                return None;
            }
            let other = self.name(builder, value, DEEPEST)?;
            self.names.push(Name { own: *slot, other });
        }
        Some(())
    }

    /// What has been found, if the tests come to it.
    fn found(
        &mut self,
        builder: &mut Builder<'_, '_>,
        operation: O,
        args: &'c [CorePart],
    ) -> Option<Found<'c>> {
        let (place, base) = counted_from(builder, args.get(1)?, base(operation));
        let is_operand = base == self::base(operation);
        let is_plain = !matches!(place.kind, K::Fresh(..)) && is_operand;
        if self.tests.is_empty() && self.names.is_empty() && is_plain {
            return Some(Found {
                operation,
                args,
                base,
                place: None,
                is_rounded: false,
            });
        }
        let place = self.name(builder, place, DEEPEST)?;
        let item = Item {
            list: Some(self.slot(builder, args.first()?)?),
            place: place.slot,
            base: i64::from(base),
        };
        // Where there is an item, it is one of a list or a text.
        let whole = match operation {
            O::TextAt => ValueKind::Text,
            _ => ValueKind::List,
        };
        let all_hold = self.all_hold(builder, &item, whole);
        all_hold.then_some(Found {
            operation,
            args,
            base,
            place: Some(place.slot),
            is_rounded: place.is_rounded,
        })
    }

    /// Whether all tests come to what they must where an item is there, in something of a kind, and all guards let
    /// through what they must.
    fn all_hold(&self, builder: &mut Builder<'_, '_>, item: &Item, whole: ValueKind) -> bool {
        // The place is an integer then, or is equal to one.
        let lets_it = |(slot, guard): &(u32, &Core)| {
            (*slot == item.place
                && lets_through(guard, ValueKind::Integer)
                && (!self.is_rounded || lets_through(guard, ValueKind::Number)))
                || (Some(*slot) == item.list && lets_through(guard, whole))
        };
        self.guards.iter().all(lets_it)
            && (self.tests.iter())
                .all(|(test, truth)| self.truth_of(builder, test, item) == Some(*truth))
    }

    /// Where a value is taken from, on one of the ways to it.
    fn name(
        &mut self,
        builder: &mut Builder<'_, '_>,
        value: &'c Core,
        depth: usize,
    ) -> Option<Source> {
        let depth = depth.checked_sub(1)?;
        let let_through = passed_on_for_some(value);
        if !std::ptr::eq(let_through, value) {
            let source = self.name(builder, let_through, depth)?;
            self.guards.push((source.slot, value));
            return Some(source);
        }
        match &value.kind {
            K::If([test, yes, no]) => {
                let is_value = |way: &Core| variable_read(unrounded(way)).is_some();
                let (way, truth) = [(yes, true), (no, false)]
                    .into_iter()
                    .find(|(way, _)| is_value(way))?;
                self.tests.push((test, truth));
                self.name(builder, way, depth)
            }
            K::Fresh(slots, body) => {
                self.own.extend(slots.iter().map(|(slot, _)| *slot));
                self.name(builder, body, depth)
            }
            K::Sequence(parts) => {
                let (last, sets) = parts.split_last()?;
                self.take_note(builder, sets)?;
                self.name(builder, last, depth)
            }
            _ => {
                let given = unrounded(value);
                let mut source = self.source(builder, given)?;
                source.is_rounded |= !std::ptr::eq(given, value);
                self.is_rounded |= source.is_rounded;
                Some(source)
            }
        }
    }

    /// The slot that is read, by the first of its names.
    fn slot(&self, builder: &Builder<'_, '_>, core: &Core) -> Option<u32> {
        Some(self.source(builder, core)?.slot)
    }

    /// Where what is read comes from first.
    fn source(&self, builder: &Builder<'_, '_>, core: &Core) -> Option<Source> {
        let mut slot = variable_read(core)?;
        let mut is_rounded = false;
        loop {
            if let Some(name) = self.names.iter().find(|name| name.own == slot) {
                slot = name.other.slot;
                is_rounded |= name.other.is_rounded;
            } else if let Some(other) = builder.facts(slot).alias {
                slot = other;
            } else {
                return Some(Source { slot, is_rounded });
            }
        }
    }

    /// What a test comes to where an item is there, if that tells.
    fn truth_of(&self, builder: &mut Builder<'_, '_>, test: &Core, item: &Item) -> Option<bool> {
        match &test.kind {
            K::Not(part) => self.truth_of(builder, part, item).map(|truth| !truth),
            K::And(parts) | K::Or(parts) => {
                let all = matches!(test.kind, K::And(_));
                let mut comes_to = |part: &Core| self.truth_of(builder, part, item);
                let [first, second] = [comes_to(&parts[0]), comes_to(&parts[1])];
                (first == Some(all) && second == first).then_some(all)
            }
            K::Binary(operator, [left, right]) => {
                let is_place =
                    |core: &Core| self.slot(builder, unrounded(core)) == Some(item.place);
                let (operator, bound) = match [left, right].map(|core| is_place(core)) {
                    [true, false] => (*operator, right),
                    [false, true] => (mirrored(*operator), left),
                    // A whole number is equal to the integer that it is brought to.
                    [true, true] => return of_equals(*operator),
                    [false, false] => return None,
                };
                match &bound.kind {
                    K::Apply(O::ListLength | O::TextLength, list) => {
                        let is_own = Some(self.slot(builder, list.first()?)?) == item.list;
                        item.against_length(operator).filter(|_| is_own)
                    }
                    _ => match builder.folded(bound, 0)? {
                        Literal::Integer(bound) => item.against(operator, bound),
                        _ => None,
                    },
                }
            }
            _ => None,
        }
    }
}
