//! Texts whose parts are written one after the other, such as `text.join(parts, "")` for a text with holes: no list is made
//! of the parts, and what is nothing but literals is one.

use super::kinds::{Kinds, NUMERIC, of_literal};
use super::looking::{changes_nothing, gives_plain};
use super::{Builder, MOST, Operand, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::definition::template::{BinaryOperator as B, ValueKind};
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// A text longer than this is not put together before the program runs.
const LONGEST: usize = 1000;

/// So many nodes are looked through to see whether a part changes something.
const LOOKED_THROUGH: usize = 60;

/// So many parts at most are in registers at once.
const MOST_PARTS: usize = 60;

/// A part of a text.
enum Part<'c> {
    Literal(String),
    /// What this shows.
    Shown(&'c CorePart),
}

impl Part<'_> {
    /// What is shown, if it is no literal.
    fn shown(&self) -> Option<&CorePart> {
        match self {
            Part::Literal(_) => None,
            Part::Shown(part) => Some(part),
        }
    }
}

impl Builder<'_, '_> {
    /// Puts parts with separators one after the other, if they are all written there; whether they are.
    pub(super) fn join_written(&mut self, core: &Core, args: &[CorePart], into: Register) -> bool {
        let Some(mut parts) = parts_joined(args) else {
            return false;
        };
        self.leave_showing(&mut parts);
        let operands: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let site = self.site(core, &operands);
        if let [Part::Shown(only)] = &parts[..] {
            let only = self.operand_register(only);
            self.emit(Instruction::Shown(into, only), site);
            return true;
        }
        if let [first, second] = &parts[..] {
            let others: Vec<&CorePart> = second.shown().into_iter().collect();
            let operands = [
                self.part_of_text(first, &others),
                self.part_of_text(second, &[]),
            ];
            self.join_two(operands, site, into);
            return true;
        }
        let first = self.top.min(MOST) as u16;
        for part in &parts {
            let register = self.register();
            let top = self.top;
            match part {
                Part::Literal(text) => self.load(&Literal::Text(text.clone()), register, site),
                Part::Shown(part) => self.generate(part, Want::Into(register)),
            }
            self.top = top;
        }
        let count = parts.len() as u16;
        let number = O::TextOf.number();
        self.emit(Instruction::Apply(number, into, first, count), site);
        true
    }

    /// Has no part shown by itself where what puts them together shows the same.
    fn leave_showing<'c>(&self, parts: &mut [Part<'c>]) {
        let mut after: Vec<&'c CorePart> = Vec::new();
        for part in parts.iter_mut().rev() {
            let Part::Shown(own) = part else { continue };
            let whole: &'c CorePart = own;
            if let K::Apply(O::Shown, args) = &whole.kind
                && let Some(shows) = args.first()
            {
                *own = self.shown_later(whole, shows, &after);
            }
            // More than one that changes something makes no difference.
            if after.is_empty() && !is_still(whole) {
                after.push(whole);
            }
        }
    }

    /// What a part shows, if it shows the same once those after it are made; otherwise the part itself, which gives the text.
    pub(super) fn shown_later<'c>(
        &self,
        part: &'c CorePart,
        shows: &'c CorePart,
        after: &[&CorePart],
    ) -> &'c CorePart {
        if after.iter().all(|after| is_still(after)) || self.shows_the_same(shows) {
            shows
        } else {
            part
        }
    }

    /// Whether a value shows the same at any time: it is no list, no map, and nothing that has one.
    fn shows_the_same(&self, core: &Core) -> bool {
        const PLAIN: Kinds = NUMERIC
            .with(Kinds::of(ValueKind::Text))
            .with(Kinds::of(ValueKind::Truth))
            .with(Kinds::of(ValueKind::Nothing));
        match &self.simple(core).kind {
            K::Literal(literal) => of_literal(literal).is_within(PLAIN),
            K::Read(Variable::Slot(slot), _) => self.kinds_of(*slot).is_within(PLAIN),
            K::Binary(operator, _) => *operator != B::Join,
            K::Negate(_) | K::Not(_) | K::And(_) | K::Or(_) => true,
            K::Apply(operation, _) => gives_plain(*operation),
            _ => false,
        }
    }

    /// A part where it is, such that it stays what it is while others are made.
    fn part_of_text(&mut self, part: &Part<'_>, others: &[&CorePart]) -> Operand {
        match part {
            Part::Literal(text) => Operand::Literal(Literal::Text(text.clone())),
            Part::Shown(shown) => self.stable_operand(shown, others),
        }
    }
}

/// Whether a part changes no value while it is made.
fn is_still(part: &Core) -> bool {
    let mut left = LOOKED_THROUGH;
    changes_nothing(part, &mut left)
}

/// The text that parts with separators come to, if all of them are literals.
pub(super) fn joined_literals(args: &[CorePart]) -> Option<String> {
    match &parts_joined(args)?[..] {
        [] => Some(String::new()),
        [Part::Literal(text)] => Some(text.clone()),
        _ => None,
    }
}

/// The parts of a text, literals next to each other as one.
fn parts_joined(args: &[CorePart]) -> Option<Vec<Part<'_>>> {
    let [list, by] = args else { return None };
    let (K::List(items), K::Literal(Literal::Text(by))) = (&list.kind, &by.kind) else {
        return None;
    };
    let mut parts: Vec<Part<'_>> = Vec::new();
    let mut fits = true;
    for (index, item) in items.iter().enumerate() {
        if index > 0 {
            fits = fits && add(&mut parts, by);
        }
        let shows = match &item.kind {
            K::Apply(O::Shown, args) => args.first().unwrap_or(item),
            _ => item,
        };
        match &shows.kind {
            K::Literal(Literal::Text(text)) => fits = fits && add(&mut parts, text),
            _ => parts.push(Part::Shown(item)),
        }
    }
    (fits && parts.len() <= MOST_PARTS).then_some(parts)
}

/// Adds a literal to the parts of a text; whether it is not too long.
fn add(parts: &mut Vec<Part<'_>>, text: &str) -> bool {
    match parts.last_mut() {
        _ if text.is_empty() => true,
        Some(Part::Literal(before)) => {
            before.push_str(text);
            before.len() <= LONGEST
        }
        Some(Part::Shown(_)) | None => {
            parts.push(Part::Literal(text.to_owned()));
            true
        }
    }
}
