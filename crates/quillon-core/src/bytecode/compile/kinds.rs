//! Of which kinds values can be, found by going over a function until nothing new is found (an
//! abstract interpretation that does not look at order, after Kildall, 1973): what a variable can
//! hold is what any place sets it to. So a `match` need not ask for kinds that its subject never is of.

use rustc_hash::FxHashMap;

use super::slots::{Names, SlotFacts};
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{ArmCore, Core, CoreKind as K, FunctionCore, Variable};
use crate::operations::{Gives, Operation};

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

/// After so many rounds over a function, what changes still can be anything: each takes as long as
/// the function is.
const MOST_ROUNDS: usize = 6;

/// What is known of a function's values.
#[derive(Debug, Default)]
pub(super) struct Known {
    /// What each slot can hold.
    slots: Vec<Kinds>,
    /// What the subject of each `match` can be, by the address of the match.
    subjects: FxHashMap<*const Core, Kinds>,
}

impl Known {
    /// What can be known of a function, with the facts of its slots.
    pub fn of(function: &FunctionCore, facts: &[SlotFacts], names: Names) -> Known {
        let mut known = Known {
            slots: vec![Kinds::NONE; facts.len()],
            subjects: FxHashMap::default(),
        };
        // What functions share is set by others, too, and what somebody looks at may be set by them.
        for (slot, facts) in known.slots.iter_mut().zip(facts) {
            let is_looked_at = names == Names::Kept && facts.name.is_some();
            if facts.shared || is_looked_at {
                *slot = Kinds::ANY;
            }
        }
        for param in &function.params {
            known.slots[param.slot as usize] = Kinds::ANY;
        }
        for round in 0.. {
            let before = known.slots.clone();
            function.pieces().for_each(|piece| {
                known.visit(piece);
            });
            // Where nothing is asked, nothing need be known.
            if known.subjects.is_empty() {
                known.slots.fill(Kinds::ANY);
                break;
            }
            if known.slots == before {
                break;
            }
            if round == MOST_ROUNDS {
                known.slots.fill(Kinds::ANY);
            }
        }
        known
    }

    /// What the subject of a match can be.
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

    fn set(&mut self, slot: u32, kinds: Kinds) {
        let known = &mut self.slots[slot as usize];
        *known = known.with(kinds);
    }

    fn slot(&self, variable: &Variable) -> Kinds {
        match variable {
            Variable::Slot(slot) | Variable::Cell(slot) => self.slots[*slot as usize],
            Variable::Captured(_)
            | Variable::Session(_)
            | Variable::BuiltIn(_)
            | Variable::State(_)
            | Variable::Dynamic(_) => Kinds::ANY,
        }
    }

    /// What a piece of Core can give, as far as is known, and what it sets.
    fn visit(&mut self, core: &Core) -> Kinds {
        let nothing = Kinds::of(ValueKind::Nothing);
        match &core.kind {
            K::Literal(literal) => of_literal(literal),
            K::Read(variable, _) => self.slot(variable),
            K::Write(variable, _, value) => {
                let kinds = self.visit(value);
                if let Variable::Slot(slot) | Variable::Cell(slot) = variable {
                    self.set(*slot, kinds);
                }
                nothing
            }
            K::Fresh(_, body) | K::Rebind(_, body) | K::Mark(_, body) | K::Parts(_, body) => {
                self.visit(body)
            }
            K::Sequence(parts) => {
                let each = parts.iter().map(|part| self.visit(part));
                each.last().unwrap_or(nothing)
            }
            K::If([test, yes, no]) => {
                self.visit(test);
                let yes = self.visit(yes);
                yes.with(self.visit(no))
            }
            K::Match(subject, arms) => self.matching(core, subject, arms),
            K::While(parts) => {
                self.all(parts);
                nothing
            }
            K::Each(slot, parts) => {
                self.set(*slot, Kinds::ANY);
                self.all(parts);
                nothing
            }
            K::Count(slot, parts) => {
                self.set(*slot, Kinds::of(ValueKind::Integer));
                self.all(parts);
                nothing
            }
            K::Attempt(slot, [body, rescue]) => {
                self.set(*slot, Kinds::ANY);
                let body = self.visit(body);
                body.with(self.visit(rescue))
            }
            K::Cleanup([body, after]) => {
                let body = self.visit(body);
                self.visit(after);
                body
            }
            K::Binary(operator, [left, right]) => {
                let left = self.visit(left);
                let right = self.visit(right);
                of_binary(*operator, left, right)
            }
            K::Negate(part) => self.visit(part).among(NUMERIC),
            K::Not(part) => {
                self.visit(part);
                Kinds::of(ValueKind::Truth)
            }
            K::And(parts) | K::Or(parts) => {
                self.all(parts);
                Kinds::of(ValueKind::Truth)
            }
            K::Apply(operation, args) => {
                self.all(args);
                of_operation(*operation)
            }
            K::List(items) => {
                self.all(items);
                Kinds::of(ValueKind::List)
            }
            K::Function(_) => Kinds::of(ValueKind::Function),
            K::Call(callee, args) => {
                self.visit(callee);
                self.all(args);
                Kinds::ANY
            }
            K::Landing(_, body) => {
                self.visit(body);
                Kinds::ANY
            }
            K::Jump(_, part) | K::Fault(part) | K::Raise(part) => {
                self.visit(part);
                Kinds::NONE
            }
            K::Enter(_) => Kinds::ANY,
        }
    }

    fn all(&mut self, parts: &[crate::meaning::CorePart]) {
        for part in parts {
            self.visit(part);
        }
    }

    fn matching(&mut self, core: &Core, subject: &Core, arms: &[ArmCore]) -> Kinds {
        let mut left = self.visit(subject);
        self.subjects.insert(std::ptr::from_ref(core), left);
        let mut given = Kinds::NONE;
        for arm in arms {
            let taken = arm.kind.map_or(left, |kind| left.among(Kinds::of(kind)));
            if let Some(slot) = arm.slot {
                self.set(slot, taken);
            }
            // What cannot be reached gives nothing, and sets nothing.
            if taken != Kinds::NONE {
                given = given.with(self.visit(&arm.body));
            }
            left = left.without(taken);
        }
        given
    }
}

fn of_literal(literal: &Literal) -> Kinds {
    Kinds::of(match literal {
        Literal::Nothing => ValueKind::Nothing,
        Literal::Truth(_) => ValueKind::Truth,
        Literal::Integer(_) => ValueKind::Integer,
        Literal::Number(_) => ValueKind::Number,
        Literal::Text(_) => ValueKind::Text,
        Literal::List(_) => ValueKind::List,
        Literal::Map(_) => ValueKind::Map,
    })
}

/// What an operator can give. One that fails gives nothing at all.
fn of_binary(operator: B, left: Kinds, right: Kinds) -> Kinds {
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
        B::Divide => NUMERIC,
        // Two texts, or two lists.
        B::Join => {
            let whole = Kinds::of(ValueKind::Text).with(Kinds::of(ValueKind::List));
            left.among(right).among(whole)
        }
    }
}

fn of_operation(operation: Operation) -> Kinds {
    let nothing = Kinds::of(ValueKind::Nothing);
    match operation.gives() {
        Gives::Nothing => nothing,
        Gives::Truth => Kinds::of(ValueKind::Truth),
        Gives::Integer => Kinds::of(ValueKind::Integer),
        Gives::IntegerOrNothing => nothing.with(Kinds::of(ValueKind::Integer)),
        Gives::Number | Gives::IntegerOrNumber => NUMERIC,
        Gives::NumberOrNothing => nothing.with(NUMERIC),
        Gives::Text => Kinds::of(ValueKind::Text),
        Gives::TextOrNothing => nothing.with(Kinds::of(ValueKind::Text)),
        Gives::List => Kinds::of(ValueKind::List),
        Gives::Map => Kinds::of(ValueKind::Map),
        Gives::Coroutine => Kinds::of(ValueKind::Coroutine),
        Gives::Any | Gives::LikeFirst | Gives::LikeOperands => Kinds::ANY,
    }
}
