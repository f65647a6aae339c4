//! What is tried before anything is asked: one instruction does what is frequent, and all that a
//! meaning asks for first is passed over where it has.

use super::arithmetic::short;
use super::emit::Mark;
use super::folding::{Choice, Choices};
use super::places::{Found, WhereThere};
use super::{Builder, Home, Operand, Register, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{ArmCore, Core, CoreKind as K, Variable};
use crate::operations::Operation as O;
use crate::values::exact_integer;

/// An instruction that is tried.
pub(super) struct Tried {
    op: Op,
    base: u8,
    /// What stands in the fields, without where the value goes.
    fields: Vec<u16>,
}

impl Tried {
    /// An instruction that sets what a map has at a key, if it has it.
    pub fn put(map: Register, name: u16, value: Register) -> Tried {
        Tried {
            op: Op::TryMapPut,
            base: 0,
            fields: vec![map, name, value],
        }
    }

    /// An instruction whose value goes into `a`.
    pub fn of(instruction: Instruction) -> Tried {
        Tried {
            op: instruction.op().unwrap_or(Op::Stop),
            base: instruction.x(),
            fields: vec![instruction.b(), instruction.c()],
        }
    }

    /// Whether it sets something, and has no value.
    fn is_put(&self) -> bool {
        matches!(
            self.op,
            Op::TryPutItem | Op::TryPutItemWhole | Op::TryMapPut
        )
    }

    /// The register of what has no such key, if it is a map, where the instruction has been tried in vain.
    pub fn found_no_key_in(&self) -> Option<Register> {
        self.fields
            .first()
            .copied()
            .filter(|_| self.op == Op::TryMapGet)
    }
}

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
        tried.extend(self.tried_on_text(subject, choices, want));
        tried.extend(self.tried_on_map(subject, choices, want));
        if want != Want::Effect {
            tried.extend(self.tried_operator(subject, choices));
        }
        tried
    }

    fn tried_on_list(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        want: Want,
    ) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::List)?;
        if let K::Apply(O::ListLength, args) = &arm.body.kind {
            let list = args.first().filter(|list| is_subject(list, arm, subject))?;
            return Some(Tried {
                op: Op::TryLength,
                base: 0,
                fields: vec![self.at_hand(list)?],
            });
        }
        self.tried_item(&arm.body, &[], want, |list| is_subject(list, arm, subject))
    }

    fn tried_on_text(
        &mut self,
        subject: &Core,
        choices: &Choices<'_>,
        want: Want,
    ) -> Option<Tried> {
        let arm = arm_of(choices, ValueKind::Text)?;
        let is_of_it = |text: &Core| is_subject(text, arm, subject);
        let tried = self.tried_item(&arm.body, &[], want, is_of_it)?;
        matches!(tried.op, Op::TryLetter | Op::TryLetterWhole).then_some(tried)
    }

    /// Makes a piece of Core. If that does something with an item behind tests that its being there answers, or gives
    /// a place that is checked to be whole, this is tried first, and the rest passed over where it can be done. Of
    /// variables that are set on the way, all must be among some that end with it.
    pub(super) fn behind_tests(
        &mut self,
        core: &Core,
        own: &[(u32, bool)],
        want: Want,
        make: impl FnOnce(&mut Self),
    ) {
        if !WhereThere::may_be(core) {
            make(self);
            return;
        }
        let end = self.mark();
        let tried = match WhereThere::whole(self, core, own) {
            Some(number) => self.tried_whole(number, want),
            None => self.tried_item(core, own, want, |_| true),
        };
        let done = self.try_each(core, tried.as_slice(), want, end);
        make(self);
        if done.is_some() {
            self.here(end);
            self.give_tried(core, done, want);
        }
    }

    /// The integer that a number is equal to.
    fn tried_whole(&mut self, number: u32, want: Want) -> Option<Tried> {
        (want != Want::Effect).then_some(Tried {
            op: Op::TryWhole,
            base: 0,
            fields: vec![self.slot_at_hand(number)?],
        })
    }

    /// An item of a list or a text, where that has it.
    pub(super) fn tried_item(
        &mut self,
        body: &Core,
        own: &[(u32, bool)],
        want: Want,
        is_of_it: impl Fn(&Core) -> bool,
    ) -> Option<Tried> {
        let is_effect = want == Want::Effect;
        let Found {
            operation,
            args,
            base,
            place,
            is_rounded,
        } = WhereThere::find(self, body, own, is_effect)?;
        let [list, at, ..] = args else { return None };
        if !is_of_it(list) {
            return None;
        }
        let mut fields = vec![self.at_hand(list)?];
        let literal = match place.map(|slot| self.home(slot)) {
            Some(Home::Literal(literal)) => Some(literal),
            Some(Home::Register(_) | Home::Same(..) | Home::Items(..) | Home::None) => None,
            None => self.folded(at, 0),
        };
        let literal = match literal {
            Some(Literal::Number(n)) if is_rounded => Some(Literal::Integer(exact_integer(n)?)),
            other => other,
        };
        let is_put = matches!(operation, O::ListPut | O::ListPutItem);
        // Setting an item gives nothing, and there is no room to say so.
        if is_put && !is_effect {
            return None;
        }
        let is_letter = operation == O::TextAt;
        let is_general = is_put || is_letter;
        if let Some(place) = literal.as_ref().and_then(short).filter(|_| !is_general) {
            fields.push(place);
            let op = Op::TryItemInteger;
            return Some(Tried { op, base, fields });
        }
        fields.push(match (literal, place) {
            (Some(literal), _) => self.in_register(&Operand::Literal(literal)),
            (None, Some(slot)) => self.slot_at_hand(slot)?,
            (None, None) => self.at_hand(at)?,
        });
        if is_put {
            fields.push(self.at_hand(args.get(2)?)?);
        }
        let op = match (operation, is_rounded) {
            (O::TextAt, false) => Op::TryLetter,
            (O::TextAt, true) => Op::TryLetterWhole,
            (O::ListPut | O::ListPutItem, false) => Op::TryPutItem,
            (O::ListPut | O::ListPutItem, true) => Op::TryPutItemWhole,
            (_, false) => Op::TryItem,
            (_, true) => Op::TryItemWhole,
        };
        Some(Tried { op, base, fields })
    }

    /// What a choice comes to where it can be made at once: what a map has at a key, if it has it; an item that
    /// was given, if there is one.
    pub(super) fn tried_choice(&mut self, choice: [&Core; 3]) -> Option<Tried> {
        let [test, yes, _] = choice;
        let key = self.tried_key_of(test, yes, |_| true);
        let key = key.or_else(|| self.tried_lookup(test, yes));
        key.or_else(|| self.tried_given(choice).map(Tried::of))
    }

    /// Where an operator is what numbers come to, whatever is asked for before: its instruction.
    fn tried_operator(&mut self, subject: &Core, choices: &Choices<'_>) -> Option<Tried> {
        let (operator, a, b) = self.comes_to(subject, choices)?;
        let instruction = self.operation(operator, &a, &b);
        let mut tried = Tried::of(instruction);
        let adds = match tried.op {
            Op::Add => Some(Op::TryAdd),
            Op::AddInteger => Some(Op::TryAddInteger),
            _ => None,
        };
        if let Some(op) = adds {
            (tried.op, tried.base) = (op, 0);
        }
        Some(tried)
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
    pub(super) fn at_hand(&mut self, core: &Core) -> Option<Register> {
        if let Some(literal) = self.folded(core, 0) {
            return Some(self.in_register(&Operand::Literal(literal)));
        }
        self.slot_at_hand(read_slot(core)?)
    }

    /// The register that a variable is in, if it is always set.
    fn slot_at_hand(&mut self, slot: u32) -> Option<Register> {
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
            if !tried.is_put() {
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
        // Where it cannot be done, the jump is passed over.
        if instruction.op().is_some_and(Op::is_tried) {
            self.jump(end, site);
            self.reached();
        } else {
            self.done(end, site);
        }
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
pub(super) fn arm_of<'c>(choices: &Choices<'c>, kind: ValueKind) -> Option<&'c ArmCore> {
    let mut arms = choices.possible.iter().map(|choice| choice.arm);
    arms.find(|arm| arm.kind.is_none_or(|own| own == kind))
}

/// The slot that is just read.
pub(super) fn read_slot(core: &Core) -> Option<u32> {
    match core.kind {
        K::Read(Variable::Slot(slot), _) => Some(slot),
        _ => None,
    }
}

/// Whether a piece of Core in an arm is the subject of its match.
pub(super) fn is_subject(core: &Core, arm: &ArmCore, subject: &Core) -> bool {
    match (read_slot(core), read_slot(subject)) {
        (Some(own), _) if Some(own) == arm.slot => true,
        (Some(own), Some(other)) => own == other,
        _ => false,
    }
}
