//! Putting instructions one after the other, and settling how far they jump.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::{Builder, MOST, Register};
use crate::bytecode::instruction::{Instruction, Op, Role};
use crate::bytecode::unit::Constant;
use crate::definition::Literal;

/// A place in the code that is jumped to.
pub(super) type Mark = usize;

/// An instruction that jumps to a mark.
pub(super) struct Patch {
    pub at: usize,
    pub mark: Mark,
}

/// The place of an instruction that only loads what a later one uses, until that is known.
pub(super) const UNPLACED: u32 = u32::MAX;

impl Builder<'_, '_> {
    /// Puts an instruction at the end; where it is.
    pub(super) fn emit(&mut self, instruction: Instruction, site: u32) -> usize {
        self.code.push(instruction);
        self.site_of.push(site);
        self.code.len() - 1
    }

    /// Puts a word that belongs to the instruction before it.
    pub(super) fn emit_word(&mut self, site: u32) {
        self.code.push(Instruction(0));
        self.site_of.push(site);
    }

    /// A place that is not there yet.
    pub(super) fn mark(&mut self) -> Mark {
        self.marks.push(None);
        self.marks.len() - 1
    }

    /// A place is here.
    pub(super) fn here(&mut self, mark: Mark) {
        self.marks[mark] = Some(self.code.len() as u32);
        self.reached();
    }

    /// What comes here is reached in some other way than from the instruction before.
    pub(super) fn reached(&mut self) {
        self.reached_at = self.code.len();
    }

    /// Whether nothing that comes here is ever carried out.
    pub(super) fn is_unreachable(&self) -> bool {
        let last = self.code.last().copied();
        self.reached_at != self.code.len() && last.is_some_and(Instruction::never_goes_on)
    }

    /// The instruction put last jumps to a place.
    pub(super) fn to(&mut self, mark: Mark) {
        let at = self.code.len() - 1;
        self.patches.push(Patch { at, mark });
    }

    /// Jumps to a place.
    pub(super) fn jump(&mut self, mark: Mark, site: u32) {
        self.emit(Instruction::Jump(0), site);
        self.to(mark);
    }

    /// Whether what jumps to a mark from here on goes back.
    pub(super) fn is_behind(&self, mark: Mark) -> bool {
        self.marks[mark].is_some()
    }

    /// An instruction that has no place of its own, since it only loads something, is where that
    /// is used.
    fn place_loads(&mut self) {
        let mut used = 0;
        for site in self.site_of.iter_mut().rev() {
            match *site {
                UNPLACED => *site = used,
                placed => used = placed,
            }
        }
    }

    /// Settles how far each instruction jumps.
    pub(super) fn settle(&mut self) {
        // Nothing jumps as far as a short field cannot say in a function this small.
        if self.code.len() >= i16::MAX as usize - 1 {
            self.lengthen();
        } else {
            self.shorten_ways();
            self.answer_at_once();
            self.leave_out();
        }
        self.place_loads();
        for Patch { at, mark } in std::mem::take(&mut self.patches) {
            let target = self.marks[mark].unwrap_or_default();
            let far = target as i32 - at as i32 - 1;
            let word = self.code[at];
            let short = word
                .op()
                .is_some_and(|op| op.description().fields[3] == Role::Jump);
            self.code[at] = if short {
                word.with_c(far as i16 as u16)
            } else {
                word.with_long(far)
            };
        }
        self.join_turns();
    }

    /// Lets what counts a loop also decide whether it goes on.
    fn join_turns(&mut self) {
        let mut at = 0;
        while at < self.code.len() {
            let op = self.code[at].op();
            let after = at + 1 + op.map_or(0, |op| op.description().extra);
            if op == Some(Op::AddInteger)
                && let Some(next) = self.code.get(after)
                && let Some(both) = self.code[at].before(*next)
            {
                self.code[at] = both;
            }
            at = after;
        }
    }

    /// What jumps to an instruction that only jumps on goes where that goes, if it is further on:
    /// who jumps back is asked whether the run may go on.
    fn shorten_ways(&mut self) {
        // From the end on, so that where a later one goes is known.
        self.patches.sort_unstable_by_key(|patch| patch.at);
        let mut onward: FxHashMap<usize, Mark> = FxHashMap::default();
        for patch in self.patches.iter_mut().rev() {
            let place = |mark: Mark| self.marks[mark].map(|at| at as usize);
            if let Some(at) = place(patch.mark).filter(|at| *at > patch.at)
                && let Some(&next) = onward.get(&at)
            {
                patch.mark = next;
            }
            let is_jump = self.code[patch.at].op() == Some(Op::Jump);
            if is_jump && place(patch.mark).is_some_and(|to| to > patch.at) {
                onward.insert(patch.at, patch.mark);
            }
        }
    }

    /// Makes short jumps long: each jumps to an instruction after it that jumps on, and what
    /// does not jump passes that over.
    fn lengthen(&mut self) {
        let mut moved = vec![0u32; self.code.len() + 1];
        // Where the long jump for each short one is.
        let mut far = vec![None; self.code.len()];
        let (mut code, mut sites) = (Vec::new(), Vec::new());
        let mut at = 0;
        while at < self.code.len() {
            let description = self.code[at].op().map(Op::description);
            let is_short = description.is_some_and(|d| d.fields[3] == Role::Jump);
            let has_done = self
                .code
                .get(at + 1)
                .is_some_and(|next| next.op() == Some(Op::Done));
            // A loop over items goes on after the check that belongs to it, and what is tried before what says so:
            // both stay together.
            let count = match self.code[at].op() {
                Some(Op::EachNext) => 2,
                _ if is_short && has_done => 2,
                _ => 1 + description.map_or(0, |d| d.extra),
            };
            for index in 0..count {
                let word = self.code[at + index];
                moved[at + index] = code.len() as u32;
                let is_short_too = is_short && word.op() != Some(Op::Done);
                code.push(if is_short_too {
                    word.with_c((count - index) as u16)
                } else {
                    word
                });
                sites.push(self.site_of[at + index]);
            }
            if is_short {
                for _ in 0..2 {
                    code.push(Instruction::new(Op::Jump, 0, 0, 0, 0).with_long(1));
                    sites.push(self.site_of[at]);
                }
                let short = if has_done { 1 } else { count };
                far[at..at + short].fill(Some(code.len() - 1));
            }
            at += count;
        }
        moved[self.code.len()] = code.len() as u32;
        for patch in &mut self.patches {
            patch.at = far[patch.at].unwrap_or(moved[patch.at] as usize);
        }
        (self.code, self.site_of) = (code, sites);
        self.relocate(&moved);
    }

    /// Tells all that knows a place in the code where it has moved to.
    pub(super) fn relocate(&mut self, moved: &[u32]) {
        let to = |place: u32| moved[(place as usize).min(moved.len() - 1)];
        for mark in self.marks.iter_mut().flatten() {
            *mark = to(*mark);
        }
        for local in &mut self.locals {
            local.start = to(local.start);
            local.end = to(local.end);
        }
        for begun in &mut self.begun {
            begun.at = to(begun.at);
            begun.end = to(begun.end);
        }
        for handler in &mut self.handlers {
            handler.start = to(handler.start);
            handler.end = to(handler.end);
            handler.target = to(handler.target);
        }
    }

    /// The number of a constant.
    pub(super) fn constant(&mut self, literal: &Literal) -> u32 {
        let (key, constant) = match literal {
            Literal::Integer(n) => ((0, *n as u64, None), Constant::Integer(*n)),
            Literal::Number(n) => ((1, n.to_bits(), None), Constant::Number(*n)),
            Literal::Text(text) => {
                let text: Rc<str> = Rc::from(text.as_str());
                ((2, 0, Some(Rc::clone(&text))), Constant::Text(text))
            }
            Literal::Nothing | Literal::Truth(_) | Literal::List(_) | Literal::Map(_) => {
                ((0, 0, None), Constant::Integer(0))
            }
        };
        if let Some(&known) = self.known_constants.get(&key) {
            return known;
        }
        let number = self.constants.len() as u32;
        self.constants.push(constant);
        self.known_constants.insert(key, number);
        number
    }

    /// The number of a constant, if it fits into a field.
    pub(super) fn short_constant(&mut self, literal: &Literal) -> Option<u16> {
        let number = self.constant(literal) as usize;
        (number <= MOST).then_some(number as u16)
    }

    /// The number of a name.
    pub(super) fn name(&mut self, name: &str) -> u16 {
        if let Some(number) = self.short_constant(&Literal::Text(name.to_owned())) {
            number
        } else {
            self.too_large("a function has more than 65536 constants before a name");
            0
        }
    }

    /// Puts a literal into a register.
    pub(super) fn load(&mut self, literal: &Literal, into: Register, site: u32) {
        match literal {
            Literal::Nothing => {
                self.emit(Instruction::Nothing(into), site);
            }
            Literal::Truth(truth) => {
                self.emit(Instruction::Truth(u8::from(*truth), into), site);
            }
            Literal::Integer(n) if i32::try_from(*n).is_ok() => {
                self.emit(Instruction::Integer(into, *n as i32), site);
            }
            Literal::Integer(_) | Literal::Number(_) | Literal::Text(_) => {
                let number = self.constant(literal);
                self.emit(Instruction::Constant(into, number as i32), site);
            }
            Literal::List(items) => {
                let parts: Vec<Literal> = items.clone();
                self.gathered(&parts, site, |builder, first, count| {
                    builder.emit(Instruction::List(into, first, count), site);
                });
            }
            Literal::Map(pairs) => {
                let parts: Vec<Literal> = pairs
                    .iter()
                    .flat_map(|(key, value)| [key.clone(), value.clone()])
                    .collect();
                let map_of = crate::operations::Operation::MapOf.number();
                self.gathered(&parts, site, |builder, first, count| {
                    builder.emit(Instruction::Apply(map_of, into, first, count), site);
                });
            }
        }
    }

    /// Puts literals into registers one after the other, for an instruction.
    fn gathered(&mut self, parts: &[Literal], site: u32, then: impl FnOnce(&mut Self, u16, u16)) {
        let top = self.top;
        let first = top.min(MOST) as u16;
        for part in parts {
            let register = self.register();
            self.load(part, register, site);
        }
        then(self, first, parts.len().min(MOST) as u16);
        self.top = top;
    }
}
