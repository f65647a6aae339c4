//! Places where a run stands, and how far it goes from one at a pace.

use std::sync::Arc;

use super::Pace;
use super::seen;
use crate::machine::{Until, View};
use crate::source::{SourceText, Span};

/// Where a run stands.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Spot {
    pub depth: usize,
    pub source: *const SourceText,
    pub line: u32,
    pub span: Span,
    pub meaning: Span,
    pub is_built_in: bool,
}

impl Spot {
    pub fn of(view: &View<'_, '_>) -> Spot {
        let call = view.innermost();
        let span = seen::span(&call);
        let source = &call.function.source;
        Spot {
            depth: view.depth(),
            source: Arc::as_ptr(source),
            line: source.line_of(span.start),
            span,
            meaning: seen::meaning(&call),
            is_built_in: call.function.built_in,
        }
    }

    pub fn is_on_line_of(&self, other: &Spot) -> bool {
        self.line == other.line && self.source == other.source
    }

    /// Whether the same part of the program and of its meaning is under way.
    pub fn is_in_part_of(&self, other: &Spot) -> bool {
        self.span == other.span && self.meaning == other.meaning
    }

    /// How far a run goes on from here before it is looked at again.
    pub fn until(&self, pace: Pace, now: u64) -> Until {
        let deepest = match pace {
            Pace::Instruction | Pace::IntoPart | Pace::IntoForm | Pace::IntoLine => usize::MAX,
            Pace::Part | Pace::Form | Pace::Line => self.depth,
            Pace::Out => self.depth - 1,
            Pace::Stop => 0,
        };
        Until {
            instruction: now + 1,
            deepest,
            ..Until::END
        }
    }

    /// Whether a run that has gone on from here has gone far enough.
    pub fn is_left(&self, pace: Pace, now: &Spot) -> bool {
        let is_out = now.depth < self.depth;
        let is_over = now.depth > self.depth;
        if now.is_built_in && !pace.is_inside_forms() {
            return false;
        }
        match pace {
            Pace::Instruction => true,
            Pace::IntoPart => now.depth != self.depth || !now.is_in_part_of(self),
            Pace::Part | Pace::Form | Pace::Line if is_over => false,
            Pace::Part => is_out || !now.is_in_part_of(self),
            Pace::IntoForm => now.depth != self.depth || now.span != self.span,
            Pace::Form => is_out || now.span != self.span,
            Pace::IntoLine => is_over || !now.is_on_line_of(self),
            Pace::Line => !now.is_on_line_of(self) || is_out && now.span != self.span,
            Pace::Out => is_out,
            Pace::Stop => false,
        }
    }
}

/// Up to a moment.
pub(super) fn until(moment: u64) -> Until {
    Until {
        instruction: moment,
        latest: moment,
        ..Until::END
    }
}
