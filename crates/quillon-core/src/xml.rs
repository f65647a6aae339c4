//! Text in pictures and pages.

/// Text as XML has it; control characters, which XML cannot have, as a dot.
pub(crate) fn escaped(text: &str) -> String {
    text.chars()
        .map(|c| match c {
            '<' => "&lt;".to_owned(),
            '>' => "&gt;".to_owned(),
            '&' => "&amp;".to_owned(),
            '"' => "&quot;".to_owned(),
            c if c.is_control() => "·".to_owned(),
            c => c.to_string(),
        })
        .collect()
}
