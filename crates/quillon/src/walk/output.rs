//! What a program has printed.

/// The most that is kept of it, in bytes.
const MOST: usize = 1 << 20;

/// What has been printed, the end of it where it is long.
#[derive(Default)]
pub struct Output {
    text: String,
    /// How many bytes are no longer kept.
    lost: usize,
}

impl Output {
    pub fn push(&mut self, text: &str) {
        self.text.push_str(text);
        if self.text.len() > 2 * MOST {
            let mut end = self.text.len() - MOST;
            while !self.text.is_char_boundary(end) {
                end += 1;
            }
            self.text.drain(..end);
            self.lost += end;
        }
    }

    /// Forgets what was printed after so many bytes: the run goes on otherwise from there.
    pub fn forget_from(&mut self, printed: usize) {
        let end = printed.saturating_sub(self.lost);
        if self.text.is_char_boundary(end.min(self.text.len())) {
            self.text.truncate(end);
        }
    }

    /// The last lines of what had been printed when so many bytes had been, leaving out so many lines at the
    /// end.
    pub fn lines(&self, printed: usize, count: usize, back: usize) -> Vec<&str> {
        let end = printed.saturating_sub(self.lost).min(self.text.len());
        let text = self.text.get(..end).unwrap_or_default();
        let mut lines: Vec<&str> = text.rsplit('\n').skip(back).take(count + 1).collect();
        // A line end at the end begins no line.
        if lines.first().is_some_and(|first| first.is_empty()) && back == 0 {
            lines.remove(0);
        }
        lines.truncate(count);
        lines.reverse();
        lines
    }
}
