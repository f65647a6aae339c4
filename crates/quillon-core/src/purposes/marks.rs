//! How a language marks remarks and texts, and what other languages mark them with.

use crate::definition::{Definition, Holds, Pattern};

/// What remarks begin with in other languages.
const REMARKS: [&str; 9] = ["//", "#", "--", ";;", ";", "%", "/*", "(*", "<!--"];

/// What texts stand between in other languages.
pub(crate) const QUOTES: [char; 5] = ['"', '\'', '`', '“', '‘'];

/// Whether a text of signs begins with what some languages begin remarks with: that.
pub(crate) fn is_remark_opener(text: &str) -> bool {
    REMARKS.contains(&text)
}

/// Whether a text is made of signs: of no letters, digits, blanks, and nothing that quotes.
pub(crate) fn is_sign(text: &str) -> bool {
    let is_one = |c: char| !c.is_alphanumeric() && !c.is_whitespace() && !QUOTES.contains(&c);
    !text.is_empty() && text.chars().all(|c| is_one(c) && c != '_')
}

/// How a language marks what is no code.
#[derive(Clone, Debug, Default)]
pub(crate) struct Marks {
    /// What remarks begin with.
    pub remarks: Vec<String>,
    /// What texts stand between.
    pub texts: Vec<(String, String)>,
}

impl Marks {
    /// The marks of a definition's tokens.
    pub fn of(definition: &Definition) -> Marks {
        let mut marks = Marks::default();
        for rule in &definition.tokens {
            let opening = opening(&rule.pattern);
            if rule.ignored && is_sign(&opening) {
                marks.remarks.push(opening.clone());
            }
            if rule.holds == Some(Holds::Text)
                && let Some((open, _, close)) = rule.pattern.delimited()
            {
                marks.texts.push((open, close));
            }
        }
        marks
    }
}

/// The text that a pattern begins with in any case.
fn opening(pattern: &Pattern) -> String {
    match pattern {
        Pattern::Literal(text) | Pattern::Nested(text, _) => text.clone(),
        Pattern::Sequence(parts) => {
            let fixed = parts.iter().map_while(Pattern::fixed);
            let mut all: String = fixed.collect();
            if all.is_empty()
                && let Some(first) = parts.first()
            {
                all = opening(first);
            }
            all
        }
        Pattern::Except(inner, _) => opening(inner),
        Pattern::Class(_) => pattern.fixed().unwrap_or_default(),
        Pattern::Choice(_) | Pattern::Optional(_) | Pattern::Star(_) | Pattern::Plus(_) => {
            String::new()
        }
    }
}
