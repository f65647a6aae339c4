//! Conversions: what gives a value as it is where that is of some kinds, and makes something else of other kinds, such as
//! `match v { integer n => n  number n => n  text t => text.to_number(t) }`. What is of those kinds stays where it is.

use super::folding::{Choice, Choices};
use super::guards::passes;
use super::looking::variable_read;
use super::{Builder, Home, Names, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::template::ValueKind;
use crate::meaning::{Core, CoreKind as K, CorePart};

/// A match that is a conversion.
struct Conversion<'c> {
    core: &'c Core,
    subject: &'c CorePart,
    /// The kinds of which values are given as they are.
    kinds: Vec<ValueKind>,
    /// The arms for all else.
    others: Vec<Choice<'c>>,
}

impl Builder<'_, '_> {
    /// What a conversion gives, in a register of its own; that is the one where it is wanted, if that is known. Nothing
    /// if a piece of Core is none, or somebody may look at what it does.
    pub(super) fn converted(&mut self, core: &Core, into: Option<Register>) -> Option<Register> {
        if self.shared.names == Names::Kept {
            return None;
        }
        let core = self.simple(core);
        let top = self.top;
        let (slot, value, conversion) = self.value_converted(core)?;
        let register = match into {
            Some(into) => {
                self.generate(value, Want::Into(into));
                into
            }
            None => self.operand_register(value),
        };
        if let Some(slot) = slot {
            self.scope().homes[slot as usize] = Home::Register(register);
        }
        let is_own = into.is_some() || usize::from(register) >= top;
        let into = if is_own { register } else { self.register() };
        self.convert(&conversion, register, into);
        self.top = top.max(usize::from(into) + 1);
        Some(into)
    }

    /// The value that is converted, and the variable that it is kept in, if there is one.
    fn value_converted<'c>(
        &self,
        core: &'c Core,
    ) -> Option<(Option<u32>, &'c Core, Conversion<'c>)> {
        let Some((slot, value, rest)) = self.kept(core) else {
            let conversion = self.conversion(core)?;
            return Some((None, &**conversion.subject, conversion));
        };
        let conversion = self.conversion(rest)?;
        let facts = self.facts(slot);
        let has_place = facts.alias.is_none() && facts.literal.is_none();
        let is_it = variable_read(conversion.subject) == Some(slot);
        (is_it && has_place).then_some((Some(slot), value, conversion))
    }

    /// The conversion that a piece of Core is.
    fn conversion<'c>(&self, core: &'c Core) -> Option<Conversion<'c>> {
        let K::Match(subject, arms) = &core.kind else {
            return None;
        };
        let possible = self.possible(core, arms);
        let (passing, others): (Vec<_>, Vec<_>) = possible
            .into_iter()
            .partition(|choice| passes(choice.arm, subject));
        let kinds: Option<Vec<ValueKind>> = passing.iter().map(|choice| choice.asked).collect();
        let kinds = kinds.filter(|kinds| !kinds.is_empty() && !others.is_empty())?;
        Some(Conversion {
            core,
            subject,
            kinds,
            others,
        })
    }

    /// Makes what is in one register what a conversion gives, in another or in the same.
    fn convert(&mut self, conversion: &Conversion<'_>, register: Register, into: Register) {
        let Conversion {
            core,
            subject,
            kinds,
            others,
        } = conversion;
        let site = self.site(core, &[subject]);
        let past = self.mark();
        if into != register {
            self.emit(Instruction::Move(into, register), site);
        }
        self.jump_if_any(kinds, into, past, site);
        for choice in others {
            self.bind_arm(choice.arm, subject, register);
        }
        // What makes it looks at what is there until it is made.
        let made = if into == register {
            self.register()
        } else {
            into
        };
        let choices = Choices {
            possible: others.iter().map(|one| Choice { ..*one }).collect(),
            register,
            site,
        };
        self.by_kind(core, &choices, |builder, arm| {
            builder.generate(&arm.body, Want::Into(made));
            if made != into && !builder.is_unreachable() {
                builder.emit(Instruction::Move(into, made), site);
            }
            Some(past)
        });
        self.here(past);
    }
}
