//! How far long work is.

use std::time::Duration;

use indicatif::{ProgressBar, ProgressStyle};

/// A bar on standard error, on a terminal only: how many of something are done.
pub fn progress(count: usize, of: &str) -> ProgressBar {
    let bar = ProgressBar::new(count as u64);
    let template = format!("{{bar:40}} {{pos}} of {{len}} {of}");
    if let Ok(style) = ProgressStyle::with_template(&template) {
        bar.set_style(style.progress_chars("━╸ "));
    }
    bar
}

/// What is done for as long as it takes, on standard error, on a terminal only.
pub fn under_way(doing: &'static str) -> ProgressBar {
    let sign = ProgressBar::new_spinner().with_message(doing);
    sign.enable_steady_tick(Duration::from_millis(200));
    sign
}
