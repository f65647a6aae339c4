//! Text in XML: in pictures, pages and results for other tools.

/// Text as XML has it. Characters that XML cannot have are replaced by U+FFFD.
pub fn escaped(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        match c {
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '&' => out.push_str("&amp;"),
            '"' => out.push_str("&quot;"),
            '\n' | '\t' => out.push(c),
            c if c.is_control() || ('\u{fffe}'..='\u{ffff}').contains(&c) => out.push('\u{fffd}'),
            c => out.push(c),
        }
    }
    out
}

/// The same on one line of a picture: control characters are seen as a dot.
pub fn on_one_line(text: &str) -> String {
    escaped(&text.replace(char::is_control, "·"))
}
