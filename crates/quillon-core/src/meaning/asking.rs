//! Comparisons with fixed values, as questions of kind: `v /= false and v /= nothing` comes to what `match v { truth t => t
//! nothing => false  else => true }` does. However a definition says what counts as true, it is the same Core.

use std::rc::Rc;

use super::core::{ArmCore, Core, CoreKind as K, CorePart, Variable};
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};

/// What has more pieces is left as it is.
const MOST_PIECES: usize = 24;

/// The question of kind that a piece of Core comes to, if that compares one variable with fixed values only, a truth value
/// among them. What asks may need a slot.
pub(super) fn question(core: &Core, slots: &mut u32) -> Option<Core> {
    let may_ask = matches!(
        core.kind,
        K::And(_) | K::Or(_) | K::Not(_) | K::If(_) | K::Binary(B::Equal | B::Unequal, _)
    );
    if !may_ask {
        return None;
    }
    let mut compared = Compared::default();
    compared.look_at(core)?;
    let subject = compared.subject?;
    if !compared.kinds.contains(&ValueKind::Truth) {
        return None;
    }
    let kinds = compared.kinds.iter().copied().map(Some).chain([None]);
    let arms = kinds.map(|kind| {
        let of = Of { kind, slot: *slots };
        let answer = match kind {
            Some(ValueKind::Truth) => Answer::of_truths(core, subject, of),
            _ => Answer::of(core, of, None),
        };
        let (slot, body) = match answer {
            Answer::Always(truth) => (None, made(core, K::Literal(Literal::Truth(truth)))),
            Answer::Asks(body) => {
                *slots += 1;
                (Some(of.slot), body)
            }
        };
        ArmCore { kind, slot, body }
    });
    let arms = arms.collect();
    let mut question = Core::new(K::Match(Rc::clone(subject), arms), core.span);
    question.meaning = core.meaning;
    Some(question)
}

/// What is compared, and with values of which kinds.
#[derive(Default)]
struct Compared<'c> {
    subject: Option<&'c CorePart>,
    kinds: Vec<ValueKind>,
    pieces: usize,
}

impl<'c> Compared<'c> {
    /// Takes note of a piece; nothing if there is something else in it.
    fn look_at(&mut self, core: &'c Core) -> Option<()> {
        self.pieces += 1;
        if self.pieces > MOST_PIECES {
            return None;
        }
        match &core.kind {
            K::Literal(Literal::Truth(_)) => Some(()),
            K::Not(part) => self.look_at(part),
            K::And(parts) | K::Or(parts) => parts.iter().try_for_each(|part| self.look_at(part)),
            K::If(parts) => parts.iter().try_for_each(|part| self.look_at(part)),
            K::Binary(..) => {
                let (_, subject, literal) = comparison(core)?;
                if self
                    .subject
                    .is_some_and(|own| slot_of(own) != slot_of(subject))
                {
                    return None;
                }
                self.subject = Some(subject);
                for kind in kinds_like(literal)? {
                    if !self.kinds.contains(kind) {
                        self.kinds.push(*kind);
                    }
                }
                Some(())
            }
            _ => None,
        }
    }
}

/// A comparison of a variable with a fixed value: whether it asks for the same, and the two.
fn comparison(core: &Core) -> Option<(bool, &CorePart, &Literal)> {
    let K::Binary(operator @ (B::Equal | B::Unequal), [left, right]) = &core.kind else {
        return None;
    };
    let (subject, literal) = match (&left.kind, &right.kind) {
        (K::Read(..), K::Literal(literal)) => (left, literal),
        (K::Literal(literal), K::Read(..)) => (right, literal),
        _ => return None,
    };
    slot_of(subject)?;
    Some((*operator == B::Equal, subject, literal))
}

fn slot_of(core: &Core) -> Option<u32> {
    match core.kind {
        K::Read(Variable::Slot(slot), _) => Some(slot),
        _ => None,
    }
}

/// The kinds of what may be equal to a fixed value.
fn kinds_like(literal: &Literal) -> Option<&'static [ValueKind]> {
    match literal {
        Literal::Nothing => Some(&[ValueKind::Nothing]),
        Literal::Truth(_) => Some(&[ValueKind::Truth]),
        Literal::Integer(_) | Literal::Number(_) => Some(&[ValueKind::Integer, ValueKind::Number]),
        Literal::Text(_) => Some(&[ValueKind::Text]),
        Literal::List(_) | Literal::Map(_) => None,
    }
}

/// A kind of value, or any other, and the slot in which such a value is.
#[derive(Clone, Copy)]
struct Of {
    kind: Option<ValueKind>,
    slot: u32,
}

impl Of {
    /// The value, read as the subject is.
    fn read(self, subject: &CorePart) -> CorePart {
        let name = match &subject.kind {
            K::Read(_, name) => Rc::clone(name),
            _ => Rc::from(""),
        };
        made(subject, K::Read(Variable::Slot(self.slot), name))
    }
}

/// What comparisons come to for values of a kind.
enum Answer {
    Always(bool),
    Asks(CorePart),
}

impl Answer {
    /// What they come to for a truth value: that itself, its opposite, or the same for both.
    fn of_truths(core: &Core, subject: &CorePart, of: Of) -> Answer {
        let [yes, no] = [true, false].map(|truth| Answer::of(core, of, Some(truth)));
        match (yes, no) {
            (Answer::Always(yes), Answer::Always(no)) if yes != no => {
                let asks = Answer::Asks(of.read(subject));
                if yes { asks } else { asks.opposite(core) }
            }
            (yes, _) => yes,
        }
    }

    /// What they come to for a value of a kind, or for one of the two truth values.
    fn of(core: &Core, of: Of, truth: Option<bool>) -> Answer {
        let answer = |part: &CorePart| Answer::of(part, of, truth);
        match &core.kind {
            K::Literal(Literal::Truth(truth)) => Answer::Always(*truth),
            K::Not(part) => answer(part).opposite(core),
            K::And([first, second]) => match [answer(first), answer(second)] {
                [Answer::Always(true), other] | [other, Answer::Always(true)] => other,
                [Answer::Always(false), _] | [_, Answer::Always(false)] => Answer::Always(false),
                [Answer::Asks(first), Answer::Asks(second)] => {
                    Answer::Asks(made(core, K::And([first, second])))
                }
            },
            K::Or([first, second]) => match [answer(first), answer(second)] {
                [Answer::Always(false), other] | [other, Answer::Always(false)] => other,
                [Answer::Always(true), _] | [_, Answer::Always(true)] => Answer::Always(true),
                [Answer::Asks(first), Answer::Asks(second)] => {
                    Answer::Asks(made(core, K::Or([first, second])))
                }
            },
            K::If([test, yes, no]) => match answer(test) {
                Answer::Always(true) => answer(yes),
                Answer::Always(false) => answer(no),
                Answer::Asks(test) => match [answer(yes), answer(no)] {
                    [Answer::Always(true), Answer::Always(false)] => Answer::Asks(test),
                    [Answer::Always(false), Answer::Always(true)] => {
                        Answer::Asks(test).opposite(core)
                    }
                    [yes, no] => {
                        let [yes, no] = [yes, no].map(|way| way.core(core));
                        Answer::Asks(made(core, K::If([test, yes, no])))
                    }
                },
            },
            _ => Answer::of_comparison(core, of, truth),
        }
    }

    fn of_comparison(core: &Core, of: Of, truth: Option<bool>) -> Answer {
        let Some((is_same, subject, literal)) = comparison(core) else {
            return Answer::Always(false);
        };
        let may_be = of
            .kind
            .is_some_and(|kind| kinds_like(literal).is_some_and(|kinds| kinds.contains(&kind)));
        if !may_be {
            return Answer::Always(!is_same);
        }
        match literal {
            Literal::Nothing => Answer::Always(is_same),
            Literal::Truth(own) => Answer::Always((truth == Some(*own)) == is_same),
            Literal::Integer(_)
            | Literal::Number(_)
            | Literal::Text(_)
            | Literal::List(_)
            | Literal::Map(_) => {
                let operator = if is_same { B::Equal } else { B::Unequal };
                let literal = made(core, K::Literal(literal.clone()));
                Answer::Asks(made(core, K::Binary(operator, [of.read(subject), literal])))
            }
        }
    }

    fn opposite(self, core: &Core) -> Answer {
        match self {
            Answer::Always(truth) => Answer::Always(!truth),
            Answer::Asks(part) => Answer::Asks(made(core, K::Not(part))),
        }
    }

    fn core(self, like: &Core) -> CorePart {
        match self {
            Answer::Always(truth) => made(like, K::Literal(Literal::Truth(truth))),
            Answer::Asks(part) => part,
        }
    }
}

/// A piece in the place of another one.
fn made(core: &Core, kind: K) -> CorePart {
    Rc::new(Core::new(kind, core.span))
}
