//! What Core comes to where all that it asks about are numbers: a value at hand, an operator on two of them, or something
//! that the order of two of them decides, such as `if a < b { -1 } else if a > b { 1 } else { 0 }` (symbolic
//! evaluation, after King, 1976).

use super::Builder;
use super::arithmetic::{fold, is_number};
use super::guesses::is_of_numbers;
use super::kinds::{Kinds, NUMERIC, of_literal};
use super::looking::variable_read;
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Variable};

/// So far a piece of Core is gone into.
const DEEPEST: usize = 12;

/// So many pieces of Core are looked at.
const MOST_PIECES: usize = 200;

/// What is at hand without being made.
#[derive(Clone, PartialEq, Debug)]
pub(super) enum Atom {
    /// What a slot holds.
    Slot(u32),
    /// What a match is on.
    Subject,
    Literal(Literal),
}

/// What a piece of Core comes to where some variables hold values of known kinds.
#[derive(Clone, PartialEq, Debug)]
pub(super) enum Outcome {
    /// Just this.
    Atom(Atom),
    /// An operator that makes a number of these.
    Binary(B, Atom, Atom),
    /// What the order of two numbers says.
    Ordered(Ordered),
}

/// What the order of two numbers decides on.
#[derive(Clone, PartialEq, Debug)]
pub(super) struct Ordered {
    pub atoms: [Atom; 2],
    /// What it is where the first is less, where they are equal, where it is greater, and where one of them is not a
    /// number that has an order (NaN).
    gives: [Literal; 4],
}

/// The comparisons, with whether they hold where the first is less, equal, greater, or without an order.
const COMPARISONS: [(B, [bool; 4]); 6] = [
    (B::Less, [true, false, false, false]),
    (B::LessOrEqual, [true, true, false, false]),
    (B::Greater, [false, false, true, false]),
    (B::GreaterOrEqual, [false, true, true, false]),
    (B::Equal, [false, true, false, false]),
    (B::Unequal, [true, false, true, true]),
];

impl Ordered {
    /// A comparison.
    fn of(operator: B, atoms: [Atom; 2]) -> Option<Ordered> {
        let (_, holds) = COMPARISONS.iter().find(|(own, _)| *own == operator)?;
        Some(Ordered {
            atoms,
            gives: holds.map(Literal::Truth),
        })
    }

    /// The same with each literal made another one.
    pub fn map(self, mut make: impl FnMut(&Literal) -> Option<Literal>) -> Option<Ordered> {
        let gives: Option<Vec<Literal>> = self.gives.iter().map(&mut make).collect();
        Some(Ordered {
            gives: gives?.try_into().ok()?,
            ..self
        })
    }

    /// The comparison that comes to this, and whether it is so when that holds.
    pub fn comparison(&self) -> Option<(B, bool)> {
        let mut truths = [false; 4];
        for (truth, literal) in truths.iter_mut().zip(&self.gives) {
            match literal {
                Literal::Truth(own) => *truth = *own,
                _ => return None,
            }
        }
        let opposite = truths.map(|truth| !truth);
        COMPARISONS.iter().find_map(|(operator, holds)| {
            let is_so = *holds == truths;
            (is_so || *holds == opposite).then_some((*operator, is_so))
        })
    }
}

/// What may be asked about.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Asked {
    /// What may be a number.
    Numbers,
    /// What is a number, of one kind or the other.
    SureNumbers,
    /// Nothing: the kinds that are known tell.
    Nothing,
}

/// What is taken for granted while Core is gone through.
pub(super) struct Assumed<'c> {
    /// The subject of the match that is looked at.
    subject: Option<&'c Core>,
    /// Other names for what is at hand.
    names: Vec<(u32, Atom)>,
    /// The kinds of what has been asked about.
    kinds: Vec<(Atom, ValueKind)>,
    asked: Asked,
    /// So many pieces may still be looked at.
    left: usize,
}

impl<'c> Assumed<'c> {
    fn new(subject: Option<&'c Core>, kinds: Vec<(Atom, ValueKind)>, asked: Asked) -> Assumed<'c> {
        Assumed {
            subject,
            names: Vec::new(),
            kinds,
            asked,
            left: MOST_PIECES,
        }
    }
}

impl Builder<'_, '_> {
    /// What a match comes to whose subject is a number, if it may be.
    pub(super) fn outcome_of_match<'c>(
        &self,
        subject: &'c Core,
        arms: &[&'c ArmCore],
    ) -> Option<Outcome> {
        self.for_numbers(Some(subject), Asked::Numbers, |builder, assumed| {
            let arm = builder.arm(subject, arms.iter().copied(), assumed)?;
            builder.outcome(&arm.body, assumed, DEEPEST)
        })
    }

    /// What a piece of Core comes to that asks about numbers.
    pub(super) fn outcome_for_numbers(&self, core: &Core) -> Option<Outcome> {
        self.for_numbers(None, Asked::Numbers, |builder, assumed| {
            builder.outcome(core, assumed, DEEPEST)
        })
    }

    /// Whether a match on a number comes to the same whichever of the two kinds it is of, and all else that is asked
    /// about is of, too.
    pub(super) fn is_alike_for_numbers(&self, core: &Core, subject: &Core) -> bool {
        let outcome = self.for_numbers(Some(subject), Asked::SureNumbers, |builder, assumed| {
            builder.outcome(core, assumed, DEEPEST)
        });
        outcome.is_some()
    }

    /// What an arm of a match comes to, whatever its subject is.
    pub(super) fn outcome_of_arm<'c>(
        &self,
        subject: &'c Core,
        arm: &'c ArmCore,
    ) -> Option<Outcome> {
        let mut assumed = Assumed::new(Some(subject), Vec::new(), Asked::Nothing);
        if let Some(slot) = arm.slot {
            let atom = self.atom_of(subject, &assumed)?;
            assumed.names.push((slot, atom));
        }
        self.outcome(&arm.body, &mut assumed, DEEPEST)
    }

    /// What something comes to if all that is asked about are numbers, whichever of the two kinds they are.
    fn for_numbers<'c>(
        &self,
        subject: Option<&'c Core>,
        may_ask: Asked,
        find: impl Fn(&Self, &mut Assumed<'c>) -> Option<Outcome>,
    ) -> Option<Outcome> {
        let run = |kinds: Vec<(Atom, ValueKind)>| {
            let mut assumed = Assumed::new(subject, kinds, may_ask);
            let outcome = find(self, &mut assumed)?;
            Some((outcome, assumed.kinds))
        };
        let (outcome, asked) = run(Vec::new())?;
        let count = u32::try_from(asked.len())
            .ok()
            .filter(|count| (1..=2).contains(count))?;
        for bits in 1..1_u32 << count {
            let kinds = asked.iter().enumerate().map(|(at, (atom, _))| {
                let is_integer = bits & 1 << at == 0;
                let kind = if is_integer {
                    ValueKind::Integer
                } else {
                    ValueKind::Number
                };
                (atom.clone(), kind)
            });
            let (other, also) = run(kinds.collect())?;
            if other != outcome || also.len() != asked.len() {
                return None;
            }
        }
        Some(outcome)
    }

    /// What a piece of Core comes to.
    fn outcome<'c>(
        &self,
        core: &'c Core,
        assumed: &mut Assumed<'c>,
        depth: usize,
    ) -> Option<Outcome> {
        let depth = depth.checked_sub(1)?;
        assumed.left = assumed.left.checked_sub(1)?;
        match &core.kind {
            K::Literal(literal) => Some(Outcome::Atom(Atom::Literal(literal.clone()))),
            K::Read(..) => {
                let slot = variable_read(core)?;
                self.atom(slot, assumed).map(Outcome::Atom)
            }
            K::Mark(_, body) | K::Fresh(_, body) => self.outcome(body, assumed, depth),
            K::Sequence(parts) => {
                let (last, sets) = parts.split_last()?;
                for set in sets {
                    self.names_what(set, assumed, depth)?;
                }
                self.outcome(last, assumed, depth)
            }
            K::Match(subject, arms) => {
                let may_ask = match assumed.asked {
                    Asked::Numbers => true,
                    Asked::SureNumbers => self.kinds_of_subject(core).is_within(NUMERIC),
                    Asked::Nothing => false,
                };
                let arm = if may_ask {
                    self.arm(subject, arms.iter(), assumed)?
                } else {
                    self.only_arm(core, subject, arms, assumed)?
                };
                self.outcome(&arm.body, assumed, depth)
            }
            K::Binary(operator, parts) => self.operator(*operator, parts, assumed, depth),
            K::Negate(part) => match &part.kind {
                K::Literal(Literal::Integer(n)) => {
                    let opposite = Literal::Integer(n.checked_neg()?);
                    Some(Outcome::Atom(Atom::Literal(opposite)))
                }
                _ => None,
            },
            K::Not(part) => {
                let outcome = self.outcome(part, assumed, depth)?;
                each_literal(outcome, |literal| match literal {
                    Literal::Truth(truth) => Some(Literal::Truth(!truth)),
                    _ => None,
                })
            }
            K::If([test, yes, no]) => {
                let [test, yes, no] =
                    [test, yes, no].map(|part| self.outcome(part, assumed, depth));
                either(test?, yes?, no?)
            }
            _ => None,
        }
    }

    /// Takes note of what a variable is another name for, that is set on the way.
    fn names_what<'c>(&self, set: &'c Core, assumed: &mut Assumed<'c>, depth: usize) -> Option<()> {
        let K::Write(Variable::Slot(slot), _, value) = &set.kind else {
            return None;
        };
        let Outcome::Atom(atom) = self.outcome(value, assumed, depth)? else {
            return None;
        };
        let facts = self.facts(*slot);
        if facts.writes != 1 || facts.shared {
            return None;
        }
        assumed.names.push((*slot, atom));
        Some(())
    }

    /// What an operator comes to: one that instructions do of numbers alone, or a comparison.
    fn operator<'c>(
        &self,
        operator: B,
        [left, right]: &'c [CorePart; 2],
        assumed: &mut Assumed<'c>,
        depth: usize,
    ) -> Option<Outcome> {
        let left = self.outcome(left, assumed, depth)?;
        let right = self.outcome(right, assumed, depth)?;
        let atoms = match (left, right) {
            (Outcome::Atom(left), Outcome::Atom(right)) => [left, right],
            (Outcome::Ordered(ordered), Outcome::Atom(Atom::Literal(with))) => {
                return ordered
                    .map(|literal| fold(operator, literal, &with))
                    .map(Outcome::Ordered);
            }
            _ => return None,
        };
        if let [Atom::Literal(left), Atom::Literal(right)] = &atoms
            && let Some(literal) = fold(operator, left, right)
        {
            return Some(Outcome::Atom(Atom::Literal(literal)));
        }
        // Anything can be equal to anything, but not if one of them is a number only.
        let can_be = |atom: &Atom| match atom {
            Atom::Literal(literal) => is_number(literal),
            asked => assumed.kinds.iter().any(|(own, _)| own == asked),
        };
        let [left, right] = &atoms;
        if matches!(operator, B::Equal | B::Unequal) && !atoms.iter().any(can_be) {
            let binary = || Outcome::Binary(operator, left.clone(), right.clone());
            return (assumed.asked == Asked::Nothing).then(binary);
        }
        if let Some(ordered) = Ordered::of(operator, [left.clone(), right.clone()]) {
            return Some(Outcome::Ordered(ordered));
        }
        is_of_numbers(operator).then(|| Outcome::Binary(operator, left.clone(), right.clone()))
    }

    /// What a slot is another name for.
    fn atom(&self, slot: u32, assumed: &Assumed<'_>) -> Option<Atom> {
        let mut known = assumed.names.iter().rev();
        if let Some((_, atom)) = known.find(|(own, _)| *own == slot) {
            return Some(atom.clone());
        }
        let facts = self.facts(slot);
        if facts.shared || facts.maybe_unset {
            return None;
        }
        match (&facts.literal, facts.alias) {
            (Some(literal), _) => Some(Atom::Literal(literal.clone())),
            (None, Some(other)) => self.atom(other, assumed),
            (None, None) => Some(Atom::Slot(slot)),
        }
    }

    /// What is at hand that a match is on.
    fn atom_of(&self, subject: &Core, assumed: &Assumed<'_>) -> Option<Atom> {
        let is_subject = assumed
            .subject
            .is_some_and(|own| std::ptr::eq(own, subject));
        match variable_read(subject) {
            Some(slot) => self.atom(slot, assumed),
            None => is_subject.then_some(Atom::Subject),
        }
    }

    /// The arm that a match comes to, whatever is not known.
    fn only_arm<'c>(
        &self,
        core: &Core,
        subject: &'c Core,
        arms: &'c [ArmCore],
        assumed: &mut Assumed<'c>,
    ) -> Option<&'c ArmCore> {
        let atom = self.atom_of(subject, assumed)?;
        let arm = if let Atom::Literal(literal) = &atom {
            let takes = |arm: &&ArmCore| {
                arm.kind
                    .is_none_or(|kind| of_literal(literal).is_within(Kinds::of(kind)))
            };
            arms.iter().find(takes)?
        } else {
            let possible = self.possible(core, arms);
            let [only] = &possible[..] else { return None };
            only.asked.is_none().then_some(only.arm)?
        };
        if let Some(slot) = arm.slot {
            assumed.names.push((slot, atom));
        }
        Some(arm)
    }

    /// The arm that a match comes to.
    fn arm<'c>(
        &self,
        subject: &'c Core,
        mut arms: impl Iterator<Item = &'c ArmCore>,
        assumed: &mut Assumed<'c>,
    ) -> Option<&'c ArmCore> {
        let atom = self.atom_of(subject, assumed)?;
        let kind = match &atom {
            Atom::Literal(Literal::Integer(_)) => ValueKind::Integer,
            Atom::Literal(Literal::Number(_)) => ValueKind::Number,
            Atom::Literal(_) => return None,
            asked => {
                let known = assumed.kinds.iter().find(|(own, _)| own == asked);
                let kind = known.map_or(ValueKind::Integer, |(_, kind)| *kind);
                if known.is_none() {
                    assumed.kinds.push((asked.clone(), kind));
                }
                kind
            }
        };
        let arm = arms.find(|arm| arm.kind.is_none_or(|own| own == kind))?;
        if let Some(slot) = arm.slot {
            assumed.names.push((slot, atom));
        }
        Some(arm)
    }
}

/// An outcome with each literal that it can be made another one, if it can be nothing else.
fn each_literal(
    outcome: Outcome,
    mut make: impl FnMut(&Literal) -> Option<Literal>,
) -> Option<Outcome> {
    match outcome {
        Outcome::Atom(Atom::Literal(literal)) => {
            make(&literal).map(|made| Outcome::Atom(Atom::Literal(made)))
        }
        Outcome::Ordered(ordered) => ordered.map(make).map(Outcome::Ordered),
        Outcome::Atom(Atom::Slot(_) | Atom::Subject) | Outcome::Binary(..) => None,
    }
}

/// What one of two comes to, as a test says.
fn either(test: Outcome, yes: Outcome, no: Outcome) -> Option<Outcome> {
    let ordered = match test {
        Outcome::Atom(Atom::Literal(Literal::Truth(truth))) => {
            return Some(if truth { yes } else { no });
        }
        Outcome::Ordered(ordered) => ordered,
        Outcome::Atom(_) | Outcome::Binary(..) => return None,
    };
    let ways = [yes, no].map(|way| match way {
        Outcome::Atom(Atom::Literal(literal)) => Some(std::array::from_fn(|_| literal.clone())),
        // The same two numbers are in the same order.
        Outcome::Ordered(own) if own.atoms == ordered.atoms => Some(own.gives),
        Outcome::Atom(Atom::Slot(_) | Atom::Subject)
        | Outcome::Ordered(_)
        | Outcome::Binary(..) => None,
    });
    let [Some(yes), Some(no)]: [Option<[Literal; 4]>; 2] = ways else {
        return None;
    };
    let mut ways = yes.into_iter().zip(no);
    let decided = ordered.map(|truth| {
        let (yes, no) = ways.next()?;
        match truth {
            Literal::Truth(true) => Some(yes),
            Literal::Truth(false) => Some(no),
            _ => None,
        }
    });
    decided.map(Outcome::Ordered)
}
