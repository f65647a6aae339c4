//! What is tried before anything is asked: one instruction does what is frequent, and all that a
//! meaning asks for first is passed over where it has.

use super::arithmetic::{is_number, short};
use super::emit::Mark;
use super::folding::{Choice, Choices};
use super::kinds::{Kinds, NUMERIC};
use super::operations::base;
use super::{Builder, Register, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// An instruction that is tried.
pub(super) struct Tried {
    op: Op,
    base: u8,
    /// What stands in the fields, without where the value goes.
    fields: Vec<u16>,
}

impl Tried {
    /// Whether it finds the value at its key in a map wherever there is one.
    pub fn finds_any_key(&self) -> bool {
        self.op == Op::TryMapGet
    }
}

/// So many matches inside each other are gone through for a sum.
const DEEPEST: usize = 4;

impl Builder<'_, '_> {
    /// What a match on a kind does if its subject is a list, a map or a number, where that is one
    /// instruction on what is at hand.
    pub(super) fn tried(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        want: Want,
    ) -> Vec<Tried> {
        if choices.possible.len() < 2 {
            return Vec::new();
        }
        let mut tried = Vec::new();
        tried.extend(self.tried_on_list(subject, choices, want));
        tried.extend(self.tried_on_map(subject, choices));
        tried.extend(self.tried_sum(subject, choices));
        tried
    }

    fn tried_on_list(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        want: Want,
    ) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::List)?;
        let K::Apply(operation, args) = &self.where_there(&arm.body)?.kind else {
            return None;
        };
        let (op, base) = match operation {
            O::ListLength => (Op::TryLength, 0),
            O::ListAt | O::ListItem => (Op::TryItem, base(*operation)),
            O::ListPut | O::ListPutItem => (Op::TryPutItem, base(*operation)),
            _ => return None,
        };
        if !is_subject(args.first()?, arm, subject) {
            return None;
        }
        // Setting an item gives nothing, and there is no room to say so.
        if op == Op::TryPutItem && want != Want::Effect {
            return None;
        }
        if let (Op::TryItem, [list, place]) = (op, &args[..])
            && let Some(place) = self.folded(place, 0).as_ref().and_then(short)
        {
            return Some(Tried {
                op: Op::TryItemInteger,
                base,
                fields: vec![self.at_hand(list)?, place],
            });
        }
        let fields: Option<Vec<Register>> = args.iter().map(|part| self.at_hand(part)).collect();
        Some(Tried {
            op,
            base,
            fields: fields?,
        })
    }

    fn tried_on_map(&mut self, subject: &Core, choices: &Choices<'_>) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::Map)?;
        let is_of_it = |map: &Core| is_subject(map, arm, subject);
        match &arm.body.kind {
            K::If([test, yes, _]) => self.tried_key_of(test, yes, is_of_it),
            K::Apply(O::MapGet | O::MapFind, args) => self.tried_get(args, is_of_it),
            _ => None,
        }
    }

    /// What is looked up in a map if it has the key: it is looked up at once.
    pub(super) fn tried_key(&mut self, test: &Core, yes: &Core) -> Option<Tried> {
        self.tried_key_of(test, yes, |_| true)
    }

    fn tried_key_of(
        &mut self,
        test: &Core,
        yes: &Core,
        is_of_it: impl Fn(&Core) -> bool,
    ) -> Option<Tried> {
        let (K::Apply(O::MapHas, asked), K::Apply(O::MapGet, args)) = (&test.kind, &yes.kind)
        else {
            return None;
        };
        let is_same = |(a, b): (&CorePart, &CorePart)| match (read_slot(a), read_slot(b)) {
            (Some(a), Some(b)) => a == b,
            (None, None) => is_same_text(a, b),
            (Some(_), None) | (None, Some(_)) => false,
        };
        let are_same = asked.iter().zip(args).all(is_same);
        are_same.then(|| self.tried_get(args, is_of_it)).flatten()
    }

    fn tried_get(&mut self, args: &[CorePart], is_of_it: impl Fn(&Core) -> bool) -> Option<Tried> {
        let [map, key] = args else { return None };
        if !is_of_it(map) {
            return None;
        }
        if let Some(name) = self.key(key) {
            return Some(Tried {
                op: Op::TryMapGet,
                base: 0,
                fields: vec![self.at_hand(map)?, name],
            });
        }
        // Another literal would be loaded for nothing where what is tried before it can be done.
        if read_slot(key).is_none() || self.folded(key, 0).is_some() {
            return None;
        }
        Some(Tried {
            op: Op::TryKey,
            base: 0,
            fields: vec![self.at_hand(map)?, self.at_hand(key)?],
        })
    }

    /// Where a sum is what is made of two numbers, whatever is asked for before: the sum.
    fn tried_sum(&mut self, subject: &Core, choices: &Choices<'_>) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::Integer)?;
        if !std::ptr::eq(arm, arm_of(choices, ValueKind::Number)?) {
            return None;
        }
        let mut asked = vec![(subject, arm)];
        let [left, right] = loop {
            let (_, arm) = asked[asked.len() - 1];
            match &arm.body.kind {
                K::Binary(B::Add, operands) => break operands,
                K::Match(inner, arms) if asked.len() < DEEPEST => {
                    asked.push((inner, arm_of_numbers(arms)?));
                }
                _ => return None,
            }
        };
        let is_operand = |(subject, arm): &(&Core, &ArmCore)| {
            is_subject(left, arm, subject) || is_subject(right, arm, subject)
        };
        if !asked.iter().all(is_operand) {
            return None;
        }
        if !self.may_be_number(left) || !self.may_be_number(right) {
            return None;
        }
        let literal = self.folded(right, 0);
        if let Some(integer) = literal.as_ref().and_then(short) {
            return Some(Tried {
                op: Op::TryAddInteger,
                base: 0,
                fields: vec![self.at_hand(left)?, integer],
            });
        }
        Some(Tried {
            op: Op::TryAdd,
            base: 0,
            fields: vec![self.at_hand(left)?, self.at_hand(right)?],
        })
    }

    /// Whether something at hand may be a number.
    fn may_be_number(&mut self, core: &Core) -> bool {
        match self.folded(core, 0) {
            Some(literal) => is_number(&literal),
            None => {
                read_slot(core).is_none_or(|slot| self.kinds_of(slot).among(NUMERIC) != Kinds::NONE)
            }
        }
    }

    /// Where a truth value decides for itself, that is tried first: what is asked for after it is
    /// of another kind.
    pub(super) fn try_truth(
        &mut self,
        subject: &Core,
        choices: &mut Choices<'_>,
        on: bool,
        to: Mark,
        past: Mark,
    ) {
        let decides = |choice: &Choice<'_>| {
            let arm = choice.arm;
            let is_asked = choice.asked == Some(ValueKind::Truth);
            is_asked && is_subject(self.simple(&arm.body), arm, subject)
        };
        let Some(at) = choices.possible.iter().position(decides) else {
            return;
        };
        choices.possible.remove(at);
        let on = u8::from(on);
        self.emit(
            Instruction::TryJumpIf(on, choices.register, 0),
            choices.site,
        );
        self.to(to);
        self.jump(past, choices.site);
        self.reached();
    }

    /// The register that a literal is put into, or that a variable is in, if it is just read
    /// and always set.
    fn at_hand(&mut self, core: &Core) -> Option<Register> {
        if let Some(literal) = self.folded(core, 0) {
            return Some(self.in_register(&super::Operand::Literal(literal)));
        }
        let K::Read(Variable::Slot(slot), _) = core.kind else {
            return None;
        };
        let facts = self.facts(slot);
        if facts.shared || facts.maybe_unset {
            return None;
        }
        self.register_of(slot)
    }

    /// Tries instructions in turn; where one can be done, the rest is passed over up to a mark. The
    /// register where the value is then, if there are any.
    pub(super) fn try_each(
        &mut self,
        core: &Core,
        tried: &[Tried],
        want: Want,
        end: Mark,
    ) -> Option<Register> {
        if tried.is_empty() {
            return None;
        }
        let site = self.site(core, &[]);
        let into = match want {
            Want::Into(register) => register,
            Want::Effect | Want::Tail => self.register(),
        };
        for tried in tried {
            let mut fields = tried.fields.clone();
            if tried.op != Op::TryPutItem {
                fields.insert(0, into);
            }
            fields.resize(3, 0);
            let [a, b, c] = [fields[0], fields[1], fields[2]];
            let instruction = Instruction::new(tried.op, tried.base, a, b, c);
            self.try_one(instruction, end, site);
        }
        Some(into)
    }

    /// Tries an instruction; where it can be done, what comes is passed over up to a mark.
    pub(super) fn try_one(&mut self, instruction: Instruction, end: Mark, site: u32) {
        self.emit(instruction, site);
        let extra = instruction.op().map_or(0, |op| op.description().extra);
        for _ in 0..extra {
            self.emit_word(site);
        }
        self.jump(end, site);
        // Where it cannot be done, the jump is passed over.
        self.reached();
    }

    /// Gives what has been tried to the caller, if that wants it: all else has been given already, so
    /// that a call at the end of it stays one in the place of the function.
    pub(super) fn give_tried(&mut self, core: &Core, done: Option<Register>, want: Want) {
        if let (Some(register), Want::Tail) = (done, want) {
            self.give(core, register, Want::Tail);
        }
    }
}

/// The arm that takes values of a kind, if any can come.
fn arm_of<'c>(choices: &Choices<'c>, kind: ValueKind) -> Option<&'c ArmCore> {
    let mut arms = choices.possible.iter().map(|choice| choice.arm);
    arms.find(|arm| arm.kind.is_none_or(|own| own == kind))
}

/// The arm that takes all numbers.
fn arm_of_numbers(arms: &[ArmCore]) -> Option<&ArmCore> {
    let of = |kind| {
        let mut arms = arms.iter();
        arms.find(|arm: &&ArmCore| arm.kind.is_none_or(|own| own == kind))
    };
    of(ValueKind::Integer)
        .filter(|arm| of(ValueKind::Number).is_some_and(|other| std::ptr::eq(*arm, other)))
}

/// The slot that is just read.
pub(super) fn read_slot(core: &Core) -> Option<u32> {
    match core.kind {
        K::Read(Variable::Slot(slot), _) => Some(slot),
        _ => None,
    }
}

/// Whether two pieces of Core are the same text.
fn is_same_text(a: &Core, b: &Core) -> bool {
    match (&a.kind, &b.kind) {
        (K::Literal(Literal::Text(a)), K::Literal(Literal::Text(b))) => a == b,
        _ => false,
    }
}

/// Whether a piece of Core in an arm is the subject of its match.
fn is_subject(core: &Core, arm: &ArmCore, subject: &Core) -> bool {
    match (read_slot(core), read_slot(subject)) {
        (Some(own), _) if Some(own) == arm.slot => true,
        (Some(own), Some(other)) => own == other,
        _ => false,
    }
}
