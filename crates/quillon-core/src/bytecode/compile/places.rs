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
    names: Vec<(u32, u32)>,
    /// Guards on the way, with the slots whose values they let through.
    guards: Vec<(u32, &'c Core)>,
    /// Variables that end with what is gone through: nobody misses them where it is passed over.
    own: Vec<u32>,
}

/// An operation on an item.
pub(super) struct Found<'c> {
    pub operation: O,
    pub args: &'c [CorePart],
    /// What places are counted from.
    pub base: u8,
    /// The slot of the place, where it is not just the operand.
    pub place: Option<u32>,
}

/// An item that a list has; the list and the place are variables.
struct Item {
    list: u32,
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

/// A place without the 1 that may be taken from it, and what it is counted from then.
fn counted_from<'c>(builder: &mut Builder<'_, '_>, place: &'c Core, base: u8) -> (&'c Core, u8) {
    match &place.kind {
        K::Binary(B::Subtract, [from, one])
            if base == 0 && builder.folded(one, 0) == Some(Literal::Integer(1)) =>
        {
            (from, 1)
        }
        _ => (place, base),
    }
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
        let start = WhereThere {
            own: own.iter().map(|(slot, _)| *slot).collect(),
            ..WhereThere::default()
        };
        start.reach(builder, body, is_effect, DEEPEST)
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
                    let other = self.name(builder, value)?;
                    self.names.push((*slot, other));
                }
                self.reach(builder, last, is_effect, depth)
            }
            _ => None,
        }
    }

    /// What has been found, if the tests come to it.
    fn found(
        &self,
        builder: &mut Builder<'_, '_>,
        operation: O,
        args: &'c [CorePart],
    ) -> Option<Found<'c>> {
        let (place, base) = counted_from(builder, args.get(1)?, base(operation));
        let is_operand = base == self::base(operation);
        if self.tests.is_empty() && self.names.is_empty() && is_operand {
            return Some(Found {
                operation,
                args,
                base,
                place: None,
            });
        }
        let item = Item {
            list: self.slot(builder, args.first()?)?,
            place: self.slot(builder, place)?,
            base: i64::from(base),
        };
        let holds =
            |(test, truth): &(&Core, bool)| self.truth_of(builder, test, &item) == Some(*truth);
        // Where there is an item, its place is an integer, and what it is in a list or a text.
        let whole = match operation {
            O::TextAt => ValueKind::Text,
            _ => ValueKind::List,
        };
        let lets_it = |(slot, guard): &(u32, &Core)| {
            (*slot == item.place && lets_through(guard, ValueKind::Integer))
                || (*slot == item.list && lets_through(guard, whole))
        };
        let all_hold = self.tests.iter().all(holds) && self.guards.iter().all(lets_it);
        all_hold.then_some(Found {
            operation,
            args,
            base,
            place: Some(item.place),
        })
    }

    /// The slot that a value is taken from, on one of the ways to it.
    fn name(&mut self, builder: &Builder<'_, '_>, value: &'c Core) -> Option<u32> {
        let let_through = passed_on_for_some(value);
        if !std::ptr::eq(let_through, value) {
            let slot = self.slot(builder, let_through)?;
            self.guards.push((slot, value));
            return Some(slot);
        }
        if let K::If([test, yes, no]) = &value.kind {
            let (way, truth) = [(yes, true), (no, false)]
                .into_iter()
                .find(|(way, _)| variable_read(way).is_some())?;
            self.tests.push((test, truth));
            return self.slot(builder, way);
        }
        self.slot(builder, value)
    }

    /// The slot that is read, by the first of its names.
    fn slot(&self, builder: &Builder<'_, '_>, core: &Core) -> Option<u32> {
        let mut slot = variable_read(core)?;
        loop {
            let named = self.names.iter().find(|(own, _)| *own == slot);
            match named.map(|(_, other)| *other).or(builder.facts(slot).alias) {
                Some(other) => slot = other,
                None => return Some(slot),
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
                let is_place = |core: &Core| self.slot(builder, core) == Some(item.place);
                let (operator, bound) = match [left, right].map(|core| is_place(core)) {
                    [true, false] => (*operator, right),
                    [false, true] => (mirrored(*operator), left),
                    [true, true] | [false, false] => return None,
                };
                match &bound.kind {
                    K::Apply(O::ListLength | O::TextLength, list) => {
                        let is_own = self.slot(builder, list.first()?) == Some(item.list);
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
