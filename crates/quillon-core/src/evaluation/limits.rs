//! How far a run may go.

use std::time::Duration;

use super::failure::{Culprit, Failure, Problem};
use super::heap;
use super::unwind::failure;
use super::walk::Walker;
use crate::diagnostic::{Code, codes};
use crate::meaning::Part;

/// How far a run may go.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Limits {
    /// The most steps (nodes of Core walked); no limit when missing.
    pub steps: Option<u64>,
    /// The most calls one inside the other.
    pub depth: u32,
    /// How long it may take; no limit when missing.
    pub time: Option<Duration>,
    /// The most bytes it may print; no limit when missing.
    pub output: Option<u64>,
    /// The most bytes that its values and its calls may take, about; no limit when missing.
    pub memory: Option<u64>,
}

impl Default for Limits {
    fn default() -> Limits {
        Limits {
            steps: None,
            depth: 2_000_000,
            time: None,
            output: None,
            memory: Some(4 << 30),
        }
    }
}

/// After so many steps the limits are looked at: often enough for a limit on time, and
/// rarely enough to cost nothing.
const SLICE: u64 = 1 << 14;

impl Walker<'_> {
    /// Looks whether a limit is reached, when a slice of steps is used up, and begins the
    /// next one.
    #[cold]
    pub(super) fn over_a_limit(&mut self, core: &Part) -> Option<Box<Failure>> {
        if self.host.is_interrupted() {
            let problem = Problem::new(
                Culprit::Whole,
                codes::RUN_INTERRUPTED,
                "the run was interrupted here",
            );
            return Some(failure(*problem, core, self.stacks.function()));
        }
        if let Some(limit) = self.limits.time
            && self.started.elapsed() > limit
        {
            let after = format!("{} seconds", limit.as_secs_f64());
            return Some(self.stopped(codes::RUN_TIME, &after, core));
        }
        if let Some(failure) = self.over_memory(core) {
            return Some(failure);
        }
        if self.steps_left == 0 {
            let after = format!("{} steps", self.limits.steps.unwrap_or(u64::MAX));
            return Some(self.stopped(codes::RUN_STEPS, &after, core));
        }
        self.steps = SLICE.min(self.steps_left);
        self.steps_left -= self.steps;
        self.steps += 1;
        None
    }

    fn stopped(&self, limit: Code, after: &str, core: &Part) -> Box<Failure> {
        let problem = Problem::new(
            Culprit::Whole,
            limit,
            format!("the run was stopped after {after}"),
        )
        .why("it may never end; if it does, it needs a higher limit");
        failure(*problem, core, self.stacks.function())
    }

    /// Whether the values alone take more memory than they may.
    #[inline]
    pub(super) fn is_over_memory(&self) -> bool {
        self.limits
            .memory
            .is_some_and(|limit| heap::live() as u64 > limit)
    }

    /// Looks whether the values and the calls take more memory than they may.
    pub(super) fn over_memory(&self, core: &Part) -> Option<Box<Failure>> {
        let limit = self.limits.memory?;
        let outer: usize = self.outer.iter().map(|(stacks, _)| stacks.size()).sum();
        let used = heap::live() + self.stacks.size() + outer;
        if used as u64 <= limit {
            return None;
        }
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_MEMORY,
            format!(
                "the run was stopped: it needs more than {} of memory",
                in_bytes(limit)
            ),
        )
        .why(format!(
            "{} calls are under way, and values take {}",
            self.depth,
            in_bytes(heap::live() as u64)
        ));
        Some(failure(*problem, core, self.stacks.function()))
    }
}

/// A number of bytes as a person reads it.
fn in_bytes(bytes: u64) -> String {
    match bytes {
        0..1024 => format!("{bytes} bytes"),
        1024..1_048_576 => format!("{:.0} KiB", bytes as f64 / 1024.0),
        1_048_576..1_073_741_824 => format!("{:.0} MiB", bytes as f64 / 1_048_576.0),
        _ => format!("{:.1} GiB", bytes as f64 / 1_073_741_824.0),
    }
}
