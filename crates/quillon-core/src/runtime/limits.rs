//! How far a run may go.

use std::time::{Duration, Instant};

use super::{Culprit, Metered, Problem};
use crate::diagnostic::{Code, codes};

/// How far a run may go.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Limits {
    /// The most steps (nodes of Core walked, or instructions on the way around loops and into
    /// functions); no limit when missing.
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

/// A number of bytes as a person reads it.
fn in_bytes(bytes: u64) -> String {
    match bytes {
        0..1024 => format!("{bytes} bytes"),
        1024..1_048_576 => format!("{:.0} KiB", bytes as f64 / 1024.0),
        1_048_576..1_073_741_824 => format!("{:.0} MiB", bytes as f64 / 1_048_576.0),
        _ => format!("{:.1} GiB", bytes as f64 / 1_073_741_824.0),
    }
}

/// After so many steps the limits are looked at: often enough for a limit on time, and
/// rarely enough to cost nothing.
const SLICE: u64 = 1 << 14;

/// What is left of the limits of a run.
#[derive(Debug)]
pub(crate) struct Budget {
    limits: Limits,
    started: Instant,
    steps_left: u64,
}

impl Budget {
    /// All of it.
    pub fn new(limits: Limits) -> Budget {
        Budget {
            limits,
            started: Instant::now(),
            steps_left: limits.steps.unwrap_or(u64::MAX),
        }
    }

    /// How many steps may be made until the limits are looked at again.
    #[cold]
    pub fn slice(&mut self, host: &Metered<'_>) -> Result<u64, Box<Problem>> {
        if host.is_interrupted() {
            return Err(Problem::new(
                Culprit::Whole,
                codes::RUN_INTERRUPTED,
                "the run was interrupted here",
            ));
        }
        if let Some(limit) = self.limits.time
            && self.started.elapsed() > limit
        {
            let after = format!("{} seconds", limit.as_secs_f64());
            return Err(stopped(codes::RUN_TIME, &after));
        }
        if self.steps_left == 0 {
            let after = format!("{} steps", self.limits.steps.unwrap_or(u64::MAX));
            return Err(stopped(codes::RUN_STEPS, &after));
        }
        let steps = SLICE.min(self.steps_left);
        self.steps_left -= steps;
        Ok(steps + 1)
    }

    /// Whether so many bytes are more than there may be.
    #[inline]
    pub fn is_exceeded(&self, bytes: usize) -> bool {
        self.limits.memory.is_some_and(|limit| bytes as u64 > limit)
    }

    /// The problem of values and calls that need so many bytes, if that is too much.
    pub fn too_much(&self, values: usize, calls: usize, depth: u32) -> Option<Box<Problem>> {
        let limit = self.limits.memory?;
        if (values + calls) as u64 <= limit {
            return None;
        }
        let limit = in_bytes(limit);
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_MEMORY,
            format!("the run was stopped: it needs more than {limit} of memory"),
        );
        let values = in_bytes(values as u64);
        Some(problem.why(format!(
            "{depth} calls are under way, and values take {values}"
        )))
    }
}

fn stopped(limit: Code, after: &str) -> Box<Problem> {
    Problem::new(
        Culprit::Whole,
        limit,
        format!("the run was stopped after {after}"),
    )
    .why("it may never end; if it does, it needs a higher limit")
}
