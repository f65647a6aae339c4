//! `messages`: a definition words the errors of its programs.

use super::{Definition, Message, Name};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::source::Span;

/// What of an error a wording can ask for, by the error's code; the text at the place of
/// the error and the message that there would be are there for all.
const PLACEHOLDERS: [(&str, &[&str]); 9] = [
    ("name.unbound", &["name"]),
    ("name.duplicate", &["name"]),
    ("name.fixed", &["name"]),
    ("run.kind", &["wanted", "got"]),
    ("run.arity", &["function", "wanted", "got"]),
    ("run.unset", &["name"]),
    ("syntax.unexpected", &["found", "expected"]),
    ("syntax.unfinished", &["expected"]),
    ("token.unknown", &[]),
];

/// Puts a definition's words for kinds of values in the place of the usual ones.
fn put_in_words(text: &mut String, kinds: &[(&str, &str)]) {
    for (phrase, own) in kinds {
        let mut from = 0;
        while let Some(at) = text[from..].find(phrase).map(|at| at + from) {
            let end = at + phrase.len();
            let is_inside = |c: Option<char>| c.is_some_and(char::is_alphanumeric);
            if is_inside(text[..at].chars().next_back()) || is_inside(text[end..].chars().next()) {
                from = end;
                continue;
            }
            text.replace_range(at..end, own);
            from = at + own.len();
        }
    }
}

/// The placeholders of every code.
const COMMON: [&str; 2] = ["text", "message"];

/// A part of a wording: text as it stands, or a placeholder with where it stands.
enum MessagePart<'a> {
    Text(&'a str),
    Placeholder(&'a str),
}

/// The parts of a wording; nothing where a brace is not closed.
fn parts(text: &str) -> Option<Vec<MessagePart<'_>>> {
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(open) = rest.find('{') {
        let close = open + rest[open..].find('}')?;
        found.push(MessagePart::Text(&rest[..open]));
        found.push(MessagePart::Placeholder(rest[open + 1..close].trim()));
        rest = &rest[close + 1..];
    }
    found.push(MessagePart::Text(rest));
    Some(found)
}

impl Message {
    /// Whether it words the errors of a code.
    pub(crate) fn is_code(&self) -> bool {
        self.subject.text.contains('.')
    }
}

impl Definition {
    /// Whether it words any errors.
    pub(crate) fn words_errors(&self) -> bool {
        self.messages.iter().any(Message::is_code)
    }

    /// Words errors as the definition says, each once.
    pub(crate) fn reword(&self, diagnostics: &mut [Diagnostic]) {
        let kinds: Vec<(&str, &str)> = self.kinds_called().collect();
        if !self.words_errors() && kinds.is_empty() {
            return;
        }
        for diagnostic in diagnostics.iter_mut().filter(|d| !d.is_reworded) {
            let code = diagnostic.code.0;
            if code.starts_with("run.") || code.starts_with("type.") {
                diagnostic.each_text(|text| put_in_words(text, &kinds));
                diagnostic.is_reworded = !kinds.is_empty();
            }
            let mut messages = self.messages.iter();
            let Some(own) = messages.find(|m| m.subject.text == diagnostic.code.0) else {
                continue;
            };
            let mut message = String::new();
            for part in parts(&own.text).unwrap_or_default() {
                message.push_str(&match part {
                    MessagePart::Text(text) => text.to_owned(),
                    MessagePart::Placeholder("message") => diagnostic.message.clone(),
                    MessagePart::Placeholder("text") => diagnostic
                        .place
                        .as_ref()
                        .map_or("", |place| place.source.slice(place.span))
                        .to_owned(),
                    MessagePart::Placeholder(name) => diagnostic.detail(name).to_owned(),
                });
            }
            diagnostic.message = message;
            diagnostic.is_reworded = true;
        }
    }

    /// What is wrong with the wordings of errors.
    pub(in crate::definition) fn wording_mistakes(&self) -> Vec<Diagnostic> {
        let mut found = Vec::new();
        for message in self.messages.iter().filter(|m| m.is_code()) {
            let Name { text: code, span } = &message.subject;
            if !codes::ALL.iter().any(|(known, _)| known.0 == code) {
                let near = nearest(code, codes::ALL.iter().map(|(known, _)| known.0));
                found.push(
                    self.wording_error(*span, format!("there is no error {}", quote(code)))
                        .did_you_mean(near),
                );
                continue;
            }
            let own = PLACEHOLDERS.iter().find(|(known, _)| known == code);
            let own = own.map_or(&[][..], |(_, names)| *names);
            let known: Vec<&str> = own.iter().copied().chain(COMMON).collect();
            let listed: Vec<String> = known
                .iter()
                .map(|name| quote(&format!("{{{name}}}")))
                .collect();
            let Some(parts) = parts(&message.text) else {
                found.push(self.wording_error(
                    message.place,
                    "a `{` in this wording is not closed".to_owned(),
                ));
                continue;
            };
            for part in parts {
                if let MessagePart::Placeholder(name) = part
                    && !known.contains(&name)
                {
                    let shown = quote(&format!("{{{name}}}"));
                    let problem =
                        self.wording_error(message.place, format!("{code} has no {shown}"));
                    found.push(problem.why(format!("it has {}", listed.join(", "))));
                }
            }
        }
        found
    }

    fn wording_error(&self, span: Span, message: String) -> Diagnostic {
        Diagnostic::error(codes::DEFINITION_NAME, message).at(&self.source, span)
    }
}
