//! Clauses in sentences.

use super::{Word, holds};
use crate::definition::{Binds, Definition, Form, Name, Reach};
use crate::source::Span;

/// The tokens of a language.
pub(super) fn tokens(definition: &Definition) -> Vec<Word> {
    let own = definition.tokens.iter().filter(|rule| !rule.piece);
    let each = own.map(|rule| {
        let line = definition.source.line_of(rule.name.span.start);
        let end = definition.source.line_span(line).end;
        let text = definition.source.slice(Span {
            start: rule.name.span.end,
            end,
        });
        Word {
            name: rule.name.text.clone(),
            pattern: without_words(text),
            meaning: match (rule.ignored, rule.holds) {
                (true, _) => "passed over".to_owned(),
                (false, Some(kind)) => holds(kind).to_owned(),
                (false, None) => String::new(),
            },
        }
    });
    each.collect()
}

/// The pattern of a token's line, without the words behind it and the remark.
fn without_words(text: &str) -> String {
    let mut end = text.len();
    // What ends the quoted text, or the class of characters, that is open.
    let mut closes = None;
    let mut is_escaped = false;
    for (at, c) in text.char_indices() {
        match closes {
            Some(_) if std::mem::take(&mut is_escaped) => {}
            Some(_) if c == '\\' => is_escaped = true,
            Some(close) if c == close => closes = None,
            Some(_) => {}
            None if c == '"' || c == '\'' => closes = Some(c),
            None if c == '[' => closes = Some(']'),
            None => {
                let rest = &text[at..];
                let words = [
                    "ignored", "holds ", "enters ", "leaves", "holes ", "until ", "--",
                ];
                let is_behind = text[..at].ends_with(' ');
                if is_behind && words.iter().any(|word| rest.starts_with(word)) {
                    end = at;
                    break;
                }
            }
        }
    }
    text[..end].split_whitespace().collect::<Vec<_>>().join(" ")
}

/// What a form does with names.
pub(super) fn names(form: &Form) -> Vec<String> {
    let mut said: Vec<String> = form.binds.iter().map(bound).collect();
    for uses in &form.uses {
        let field = &uses.field.text;
        said.push(match (uses.to_change, uses.or_binds, uses.or_free) {
            (_, true, _) => {
                format!("`{field}` is what is bound under that name, or is bound here.")
            }
            (true, false, _) => format!("`{field}` has to be bound, and gets another value."),
            (false, false, true) => {
                format!("`{field}` is what is bound under that name, if anything is.")
            }
            (false, false, false) => format!("`{field}` has to be bound."),
        });
    }
    if let Some(opens) = &form.opens {
        said.push(match listed(&opens.around) {
            None => "What is bound in it is known only in it.".to_owned(),
            Some(fields) => format!("What is bound in {fields} is known only there."),
        });
    }
    said
}

/// What a clause binds, and where that is known.
fn bound(binds: &Binds) -> String {
    let what = match &binds.reach {
        Reach::Itself => format!("`{}` is bound", binds.field.text),
        Reach::Part(part) => format!(
            "the `{}` of each of `{}` is bound",
            part.text, binds.field.text
        ),
        Reach::Offered => format!("the names in `{}` are bound", binds.field.text),
        Reach::Unwritten => format!("`{}` is bound without being written", binds.field.text),
    };
    let mut places = Vec::new();
    if binds.throughout {
        places.push("everywhere around it, before it, too".to_owned());
    }
    if binds.onward {
        places.push("from there on".to_owned());
    }
    places.extend(listed(&binds.inside).map(|fields| format!("in {fields}")));
    let known = if places.is_empty() {
        String::new()
    } else {
        format!(", and known {}", places.join(" and "))
    };
    let fixed = if binds.fixed {
        ". It cannot be changed"
    } else {
        ""
    };
    let text = format!("{what}{known}{fixed}.");
    let mut letters = text.chars();
    let first = letters.next().map(char::to_uppercase);
    first.map_or_else(String::new, |first| first.chain(letters).collect())
}

/// Fields, one after the other; nothing if there are none.
fn listed(fields: &[Name]) -> Option<String> {
    let quoted: Vec<String> = fields.iter().map(|one| format!("`{}`", one.text)).collect();
    let (last, before) = quoted.split_last()?;
    Some(if before.is_empty() {
        last.clone()
    } else {
        format!("{} and {last}", before.join(", "))
    })
}
