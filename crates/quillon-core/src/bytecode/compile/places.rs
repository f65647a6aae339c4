//! Items that are asked for behind tests of their places, such as `if place < 0 { … } else { list.at(l, place) }`:
//! where there is such an item, that says what the tests come to.

use super::Builder;
use super::operations::base;
use super::tries::read_slot;
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::meaning::{Core, CoreKind as K};
use crate::operations::Operation as O;

/// An item that a list has; the list and the place are variables.
struct Item {
    list: u32,
    place: u32,
    /// What places are counted from.
    base: i64,
}

impl Item {
    /// The item that an operation gives or sets.
    fn of(core: &Core) -> Option<Item> {
        let K::Apply(operation, args) = &core.kind else {
            return None;
        };
        let (O::ListAt | O::ListItem | O::ListPut | O::ListPutItem) = operation else {
            return None;
        };
        Some(Item {
            list: read_slot(args.first()?)?,
            place: read_slot(args.get(1)?)?,
            base: i64::from(base(*operation)),
        })
    }

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
            (B::Less, 0) | (B::LessOrEqual, 1) => Some(true),
            (B::GreaterOrEqual, 0) | (B::Greater, 1) => Some(false),
            _ => None,
        }
    }
}

impl Builder<'_, '_> {
    /// What is done with an item, where it is there.
    pub(super) fn where_there<'c>(&mut self, body: &'c Core) -> Option<&'c Core> {
        let K::If([test, yes, no]) = &body.kind else {
            return Some(body);
        };
        [(yes, true), (no, false)]
            .into_iter()
            .find_map(|(way, truth)| {
                let done = self.where_there(way)?;
                let item = Item::of(done)?;
                (self.truth_of(test, &item) == Some(truth)).then_some(done)
            })
    }

    /// What a test comes to where an item is there, if that tells.
    fn truth_of(&mut self, test: &Core, item: &Item) -> Option<bool> {
        match &test.kind {
            K::Not(part) => self.truth_of(part, item).map(|truth| !truth),
            K::And(parts) | K::Or(parts) => {
                let all = matches!(test.kind, K::And(_));
                let comes_to = |part: &Core| self.truth_of(part, item);
                let [first, second] = [&*parts[0], &*parts[1]].map(comes_to);
                (first == Some(all) && second == first).then_some(all)
            }
            K::Binary(operator, [place, bound]) if read_slot(place) == Some(item.place) => {
                match &bound.kind {
                    K::Apply(O::ListLength, list) => {
                        let is_own = read_slot(list.first()?) == Some(item.list);
                        item.against_length(*operator).filter(|_| is_own)
                    }
                    _ => match self.folded(bound, 0)? {
                        Literal::Integer(bound) => item.against(*operator, bound),
                        _ => None,
                    },
                }
            }
            _ => None,
        }
    }
}
