//! How far a run may go.

use std::time::Duration;

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
pub(crate) fn in_bytes(bytes: u64) -> String {
    match bytes {
        0..1024 => format!("{bytes} bytes"),
        1024..1_048_576 => format!("{:.0} KiB", bytes as f64 / 1024.0),
        1_048_576..1_073_741_824 => format!("{:.0} MiB", bytes as f64 / 1_048_576.0),
        _ => format!("{:.1} GiB", bytes as f64 / 1_073_741_824.0),
    }
}
