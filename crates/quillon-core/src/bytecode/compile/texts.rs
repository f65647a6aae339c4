//! Texts whose parts are written one after the other, such as `text.join(parts, "")` for a text with holes: no list is made
//! of the parts, and what is nothing but literals is one.

use super::{Builder, MOST, Operand, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::meaning::{Core, CoreKind as K, CorePart};
use crate::operations::Operation as O;

/// A text longer than this is not put together before the program runs.
const LONGEST: usize = 1000;

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
        let Some(parts) = parts_joined(args) else {
            return false;
        };
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

    /// A part where it is, such that it stays what it is while others are made.
    fn part_of_text(&mut self, part: &Part<'_>, others: &[&CorePart]) -> Operand {
        match part {
            Part::Literal(text) => Operand::Literal(Literal::Text(text.clone())),
            Part::Shown(shown) => self.stable_operand(shown, others),
        }
    }
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
        // It shows what it puts together anyway.
        let item = match &item.kind {
            K::Apply(O::Shown, args) => args.first().unwrap_or(item),
            _ => item,
        };
        match &item.kind {
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
