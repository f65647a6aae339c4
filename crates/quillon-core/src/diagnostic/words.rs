//! Wording helpers, so that messages read like sentences.

/// A piece of source in backquotes, shortened in the middle when long, with line
/// ends and other control characters shown as escapes.
pub fn quote(text: &str) -> String {
    const LONGEST: usize = 48;
    let mut shown: String = text
        .chars()
        .take(LONGEST * 4)
        .flat_map(|c| {
            let escaped: Vec<char> = if c.is_control() {
                c.escape_default().collect()
            } else {
                vec![c]
            };
            escaped
        })
        .collect();
    let count = text.chars().count();
    if count > LONGEST {
        let head: String = shown.chars().take(LONGEST / 2).collect();
        let tail: String = text
            .chars()
            .skip(count - LONGEST / 3)
            .filter(|c| !c.is_control())
            .collect();
        shown = format!("{head}…{tail}");
    }
    if shown.contains('`') {
        format!("‘{shown}’")
    } else {
        format!("`{shown}`")
    }
}

/// A text in quotes, with escapes.
pub fn quoted(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + 2);
    out.push('"');
    escape(&mut out, text, Some('"'));
    out.push('"');
    out
}

/// Puts a text at the end of another as it stands between quotes; the quote that ends it, if it is
/// a single character, has a backslash before it.
pub(crate) fn escape(out: &mut String, text: &str, quote: Option<char>) {
    for c in text.chars() {
        match c {
            c if Some(c) == quote => out.extend(['\\', c]),
            '\\' => out.push_str("\\\\"),
            '\n' => out.push_str("\\n"),
            '\t' => out.push_str("\\t"),
            '\r' => out.push_str("\\r"),
            '\0' => out.push_str("\\0"),
            c if c.is_control() => out.extend(c.escape_unicode()),
            c => out.push(c),
        }
    }
}

/// `a` or `an` before a word.
pub(crate) fn article(word: &str) -> String {
    let vowel = word
        .chars()
        .next()
        .is_some_and(|c| "aeiouAEIOU".contains(c));
    format!("{} {word}", if vowel { "an" } else { "a" })
}

/// Shortenings that designers use for names of sorts and tokens, written out.
const SHORTENINGS: &[(&str, &str)] = &[
    ("expr", "expression"),
    ("exp", "expression"),
    ("stmt", "statement"),
    ("decl", "declaration"),
    ("def", "definition"),
    ("defn", "definition"),
    ("param", "parameter"),
    ("params", "parameters"),
    ("arg", "argument"),
    ("args", "arguments"),
    ("pat", "pattern"),
    ("cmd", "command"),
    ("instr", "instruction"),
    ("ident", "identifier"),
    ("id", "identifier"),
    ("num", "number"),
    ("int", "integer"),
    ("prog", "program"),
    ("op", "operator"),
    ("fn", "function"),
    ("func", "function"),
];

/// A name in capitals or with underscores as words in lower case: `ArgList` is
/// `argument list`.
pub(crate) fn humanise(name: &str) -> String {
    let mut words: Vec<String> = Vec::new();
    let mut fresh = true;
    for c in name.chars() {
        if c == '_' || c == '-' {
            fresh = true;
            continue;
        }
        if fresh || c.is_uppercase() {
            words.push(String::new());
            fresh = false;
        }
        if let Some(word) = words.last_mut() {
            word.extend(c.to_lowercase());
        }
    }
    for word in &mut words {
        if let Some((_, long)) = SHORTENINGS.iter().find(|(short, _)| short == word) {
            *word = (*long).to_owned();
        }
    }
    words.join(" ")
}

/// `a`, `a or b`, `a, b or c`.
pub(crate) fn one_of(choices: &[String]) -> String {
    match choices {
        [] => "nothing".to_owned(),
        [one] => one.clone(),
        [most @ .., last] => format!("{} or {last}", most.join(", ")),
    }
}

/// `1 item`, `3 items`.
pub fn plural(count: usize, word: &str) -> String {
    if count == 1 {
        format!("1 {word}")
    } else {
        format!("{count} {word}s")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_become_words() {
        assert_eq!(humanise("Expr"), "expression");
        assert_eq!(humanise("ArgList"), "argument list");
        assert_eq!(humanise("water_level"), "water level");
        assert_eq!(article("expression"), "an expression");
        assert_eq!(one_of(&["a".into(), "b".into(), "c".into()]), "a, b or c");
    }

    #[test]
    fn quotes_stay_on_one_line() {
        assert_eq!(quote("a\nb"), "`a\\nb`");
        assert_eq!(quote("a`b"), "‘a`b’");
        assert!(quote(&"x".repeat(500)).chars().count() < 60);
    }
}
