//! What need not be in the code once all of it is there: what nothing ever comes to, and jumps to what comes next anyway.

use rustc_hash::FxHashMap;

use super::emit::Mark;
use super::kinds::{Kinds, NUMERIC};
use super::{Builder, Names};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::template::ValueKind;

/// What is left out is looked for so often: what only jumps from there have led to can be left out then, too.
const ROUNDS: usize = 3;

impl Builder<'_, '_> {
    /// Leaves out what is never carried out, and jumps that lead nowhere else.
    pub(super) fn leave_out(&mut self) {
        // Somebody may stop at each place.
        if self.shared.names == Names::Kept {
            return;
        }
        let mut stays = vec![true; self.code.len()];
        for _ in 0..ROUNDS {
            let before = stays.iter().filter(|stays| **stays).count();
            self.turn_round(&mut stays);
            self.find_unreachable(&mut stays);
            self.find_needless(&mut stays);
            if stays.iter().filter(|stays| **stays).count() == before {
                break;
            }
        }
        if stays.iter().all(|stays| *stays) {
            return;
        }
        let mut moved = Vec::with_capacity(stays.len() + 1);
        let mut count = 0;
        for stays in &stays {
            moved.push(count);
            count += u32::from(*stays);
        }
        moved.push(count);
        let mut keeps = stays.iter();
        self.code.retain(|_| keeps.next().copied().unwrap_or(true));
        let mut keeps = stays.iter();
        self.site_of
            .retain(|_| keeps.next().copied().unwrap_or(true));
        self.patches.retain(|patch| stays[patch.at]);
        for patch in &mut self.patches {
            patch.at = moved[patch.at] as usize;
        }
        self.relocate(&moved);
        self.handlers.retain(|handler| handler.start < handler.end);
    }

    /// Jumps that come to a question of kind that is answered by what was done before them go on where the answer
    /// leads.
    pub(super) fn answer_at_once(&mut self) {
        if self.shared.names == Names::Kept {
            return;
        }
        let leading: FxHashMap<usize, Mark> = self
            .patches
            .iter()
            .map(|patch| (patch.at, patch.mark))
            .collect();
        let is_led_to = self.led_to(&vec![true; self.code.len()]);
        let mut before = None;
        let mut at = 0;
        let mut patches = std::mem::take(&mut self.patches);
        let mut next = patches.iter_mut().peekable();
        while at < self.code.len() {
            let word = self.code[at];
            while next.next_if(|patch| patch.at < at).is_some() {}
            if let Some(patch) = next.next_if(|patch| patch.at == at)
                && matches!(word.op(), Some(Op::Jump | Op::Done))
                && let Some(made) = before.filter(|_| !is_led_to[at])
                && let Some(to) = self.marks[patch.mark].map(|to| to as usize)
                && let Some(question) = self.code.get(to)
                && is_answered(made, *question)
                && let Some(&onward) = leading.get(&to)
                && self.marks[onward].is_some_and(|onward| onward as usize > at)
            {
                patch.mark = onward;
            }
            before = Self::made_by(word).map(|kinds| (word.a(), kinds));
            at += 1 + word.op().map_or(0, |op| op.description().extra);
        }
        self.patches = patches;
    }

    /// Of which kinds the value is that an instruction puts into its first register, where that is always so.
    fn made_by(word: Instruction) -> Option<Kinds> {
        let kind = match word.op()? {
            Op::Integer => ValueKind::Integer,
            Op::Truth => ValueKind::Truth,
            Op::Nothing => ValueKind::Nothing,
            Op::List => ValueKind::List,
            Op::MapNew | Op::MapRow => ValueKind::Map,
            Op::Function => ValueKind::Function,
            Op::JoinShown | Op::JoinShownConstant | Op::Shown => ValueKind::Text,
            op if op.makes_numbers() => return Some(NUMERIC),
            _ => return None,
        };
        Some(Kinds::of(kind))
    }

    /// What jumps and errors lead to, beside what comes before it.
    fn led_to(&self, stays: &[bool]) -> Vec<bool> {
        let mut is_led_to = vec![false; self.code.len() + 1];
        for patch in self.patches.iter().filter(|patch| stays[patch.at]) {
            if let Some(to) = self.marks[patch.mark] {
                is_led_to[to as usize] = true;
            }
        }
        for handler in &self.handlers {
            is_led_to[handler.target as usize] = true;
        }
        is_led_to
    }

    /// A jump over a jump goes where that goes, if what it asks is not so.
    fn turn_round(&mut self, stays: &mut [bool]) {
        let is_led_to = self.led_to(stays);
        for index in 1..self.patches.len() {
            let [over, jump] = &self.patches[index - 1..=index] else {
                return;
            };
            let at = over.at;
            // Who jumps back is asked whether the run may go on.
            let goes_on = |mark: Mark| self.marks[mark].filter(|to| *to as usize > jump.at);
            let is_over = goes_on(over.mark).is_some_and(|to| to as usize == at + 2);
            if !is_over
                || jump.at != at + 1
                || self.code[jump.at].op() != Some(Op::Jump)
                || is_led_to[jump.at]
                || !(stays[at] && stays[jump.at])
                || goes_on(jump.mark).is_none()
            {
                continue;
            }
            if let Some(opposite) = self.code[at].opposite_jump() {
                stays[jump.at] = false;
                self.code[at] = opposite;
                self.patches[index - 1].mark = self.patches[index].mark;
            }
        }
    }

    /// Finds what no way leads to.
    fn find_unreachable(&self, stays: &mut [bool]) {
        let mut is_led_to = self.led_to(stays);
        let mut is_reached = true;
        let mut at = 0;
        while at < self.code.len() {
            let word = self.code[at];
            let op = word.op();
            let after = at + 1 + op.map_or(0, |op| op.description().extra);
            is_reached |= is_led_to[at];
            if is_reached && stays[at] {
                // Where it cannot be done, the next instruction is passed over.
                let passes_over = op.is_some_and(Op::is_tried) || self.is_done(after);
                if passes_over && let Some(past) = is_led_to.get_mut(after + 1) {
                    *past = true;
                }
                is_reached = !word.never_goes_on();
            } else if !is_reached {
                stays[at..after.min(self.code.len())].fill(false);
            }
            at = after;
        }
    }

    fn is_done(&self, at: usize) -> bool {
        self.code.get(at).and_then(|word| word.op()) == Some(Op::Done)
    }

    /// Finds jumps to what comes next anyway.
    fn find_needless(&self, stays: &mut [bool]) {
        // What is carried out after each place, if nothing is done there.
        let mut next = vec![self.code.len(); self.code.len() + 1];
        let mut patches = self.patches.iter().rev().peekable();
        for at in (0..self.code.len()).rev() {
            while patches.next_if(|patch| patch.at > at).is_some() {}
            let target = patches
                .next_if(|patch| patch.at == at)
                .and_then(|patch| self.marks[patch.mark])
                .filter(|to| *to as usize > at);
            let is_jump = self.code[at].op() == Some(Op::Jump);
            if let Some(to) = target
                && is_jump
                && stays[at]
                && !self.belongs_to_one_before(at)
                && next[to as usize] == next[at + 1]
            {
                stays[at] = false;
            }
            next[at] = if stays[at] { at } else { next[at + 1] };
        }
    }

    /// Whether an instruction before it counts on a jump being there.
    fn belongs_to_one_before(&self, at: usize) -> bool {
        // The words after an instruction are taken for one with any code, so that one too many stays at worst.
        self.code[at.saturating_sub(2)..at]
            .iter()
            .any(|word| word.op().is_some_and(Op::is_tried))
    }
}

/// Whether a question of kind is answered with yes by what has been put into a register.
fn is_answered((register, kinds): (u16, Kinds), question: Instruction) -> bool {
    if question.a() != register {
        return false;
    }
    match question.op() {
        Some(Op::JumpNumber) => kinds.is_within(NUMERIC),
        Some(Op::JumpKind) => {
            let asked = ValueKind::ALL.get(usize::from(question.x()));
            asked.is_some_and(|kind| kinds.is_within(Kinds::of(*kind)))
        }
        _ => false,
    }
}
