//! What a definition mentions and does not have: each once, with the number of its other places.

use super::NameChecker;
use crate::definition::model::template::ValueKind;
use crate::definition::model::{Message, Name, TreeTerm};
use crate::diagnostic::{codes, nearest, plural, quote, quoted};

/// What can be mentioned and not be there.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Missing {
    Form,
    Sort,
    Group,
    /// A sort, a form or a token.
    Thing,
    /// The same, by a name that looks like a word of programs.
    Word,
    /// A sort or a token.
    Worded,
}

impl Missing {
    fn word(self) -> &'static str {
        match self {
            Missing::Form => "form",
            Missing::Sort => "sort",
            Missing::Group => "group of tokens",
            Missing::Thing | Missing::Word => "sort, form or token",
            Missing::Worded => "sort or token",
        }
    }

    /// What would make a name one.
    fn remedy(self, name: &str) -> String {
        match self {
            Missing::Form => format!("describe it: `form {name}`"),
            Missing::Sort => format!("describe a form of it: `form … in {name}`"),
            Missing::Group => format!("describe it: an item `tokens {name}`"),
            Missing::Word => {
                let text = quote(name);
                format!("put quotes around {text} where programs have the word")
            }
            Missing::Thing | Missing::Worded => format!(
                "describe it: `form … in {name}` for a sort, a line `{name} …` of `tokens` for a token"
            ),
        }
    }
}

impl NameChecker<'_> {
    pub(super) fn unknown(&mut self, what: Missing, name: &Name, known: &[&str]) {
        if self.definition.unread.contains(&name.text) {
            return;
        }
        let message = format!("there is no {} {}", what.word(), quote(&name.text));
        if let Some((_, others)) = self.unknown.get_mut(&message) {
            *others += 1;
            return;
        }
        self.unknown
            .insert(message.clone(), (self.diagnostics.len(), 0));
        let near = nearest(&name.text, known.iter().copied()).map(str::to_owned);
        let error = self.error(codes::DEFINITION_NAME, message, name);
        let has_near = near.is_some();
        let near = near.map(|near| format!("did you mean {}?", quote(&near)));
        error.remedies.extend(near);
        if !has_near || what == Missing::Word {
            error.remedies.push(what.remedy(&name.text));
        }
    }

    /// Says of what is not there how often it is mentioned.
    pub(super) fn count_unknown(&mut self) {
        for (at, others) in self.unknown.values() {
            if *others > 0 {
                let places = plural(*others, "other place");
                let why = format!("it is mentioned in {places}, too");
                self.diagnostics[*at].why.push(why);
            }
        }
    }

    pub(super) fn messages(&mut self) {
        self.diagnostics.extend(self.definition.wording_mistakes());
        let landings = self.definition.landings();
        let is_lost = |m: &&Message| m.unmatched && !landings.contains(&m.subject.text.as_str());
        for message in self.definition.messages.iter().filter(is_lost) {
            let name = &message.subject;
            let near = nearest(&name.text, landings.iter().copied()).map(str::to_owned);
            let text = format!("no meaning jumps to {}", quote(&name.text));
            let error = self.error(codes::DEFINITION_NAME, text, name);
            error
                .remedies
                .extend(near.map(|near| format!("did you mean {}?", quote(&near))));
        }
        let own = |m: &&Message| !m.unmatched && !m.is_code();
        for message in self.definition.messages.iter().filter(own) {
            let name = &message.subject.text;
            let known = self.definition.has_sort(name)
                || self.definition.tokens.iter().any(|t| t.name.text == *name);
            let kind = ValueKind::ALL.into_iter().find(|kind| kind.word() == name);
            if let Some(kind) = kind.filter(|_| !known) {
                let text = format!("{} is a kind of value, no sort or token", quote(name));
                let error = self.error(codes::DEFINITION_NAME, text, &message.subject);
                let called = quoted(&message.text);
                error.remedies.push(format!(
                    "say what it is called under `values`: `{} called {called}`",
                    kind.word()
                ));
            } else if !known {
                let mut all = self.sorts();
                all.extend(self.definition.tokens.iter().map(|t| t.name.text.as_str()));
                self.unknown(Missing::Worded, &message.subject, &all);
            }
        }
    }

    /// The forms of an expected tree are there.
    pub(super) fn tree(&mut self, term: &TreeTerm) {
        let mut waiting = vec![term];
        while let Some(term) = waiting.pop() {
            match term {
                TreeTerm::Form(name, children) => {
                    if self.definition.form(&name.text).is_none() {
                        let forms = self.definition.forms.iter();
                        let known: Vec<&str> = forms.map(|form| form.name.text.as_str()).collect();
                        self.unknown(Missing::Form, name, &known);
                    }
                    waiting.extend(children.iter().map(|(_, child)| child));
                }
                TreeTerm::List(items, _) => waiting.extend(items),
                TreeTerm::Word(_) | TreeTerm::Value(..) => {}
            }
        }
    }
}
