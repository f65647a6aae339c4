//! Text in files and pages of XML.

/// Text as XML has it; characters that XML cannot have are left out.
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
