//! What can be seen of an entry, for people and for tools.

use std::sync::Arc;

use quillon_core::bytecode::listing;
use quillon_core::debugging::{self, Telling};
use quillon_core::diagnostic::{Diagnostic, has_errors};
use quillon_core::meaning::core_lines;
use quillon_core::source::SourceText;
use quillon_core::tree::to_json;
use quillon_core::{Language, Reading, Stage};
use serde_json::{Value as Json, json};

use super::conversation::{Conversation, Exchange};
use crate::json;
use crate::render;
use crate::render::tokens::in_order;

/// What can be seen of an entry.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum View {
    Tokens,
    Tree,
    Scopes,
    Types,
    Core,
    Code,
    Trace,
    Time,
    State,
}

impl View {
    /// All of them, in the order of the stages.
    pub const ALL: [View; 9] = [
        View::Tokens,
        View::Tree,
        View::Scopes,
        View::Types,
        View::Core,
        View::Code,
        View::Trace,
        View::Time,
        View::State,
    ];

    /// Its name, which is that of its order too.
    pub fn name(self) -> &'static str {
        match self {
            View::Tokens => "tokens",
            View::Tree => "tree",
            View::Scopes => "scopes",
            View::Types => "types",
            View::Core => "core",
            View::Code => "code",
            View::Trace => "trace",
            View::Time => "time",
            View::State => "state",
        }
    }

    /// What it shows.
    pub fn what(self) -> &'static str {
        match self {
            View::Tokens => "its tokens",
            View::Tree => "its tree",
            View::Scopes => "what its names mean",
            View::Types => "the types of what is in it",
            View::Core => "the Core that it becomes",
            View::Code => "its bytecode",
            View::Trace => "how it is run, step by step, on a copy of the session",
            View::Time => "the time and the memory it takes",
            View::State => "the state before and after it",
        }
    }

    /// The view of a name.
    pub fn named(name: &str) -> Option<View> {
        View::ALL.into_iter().find(|view| view.name() == name)
    }

    /// Whether the entry must have been made.
    pub fn needs_run(self) -> bool {
        matches!(self, View::Time | View::State)
    }
}

/// A view of an entry, as lines and as data.
#[derive(Default)]
pub struct Seen {
    pub lines: Vec<String>,
    pub json: Json,
    pub diagnostics: Vec<Diagnostic>,
}

impl Seen {
    fn of(lines: Vec<String>, json: Json, diagnostics: Vec<Diagnostic>) -> Seen {
        Seen {
            lines,
            json,
            diagnostics,
        }
    }

    fn nothing(diagnostics: Vec<Diagnostic>) -> Seen {
        Seen::of(Vec::new(), Json::Null, diagnostics)
    }
}

/// What can be seen of a text with the names that the session has now.
pub fn of_text(conversation: &Conversation<'_>, view: View, source: &Arc<SourceText>) -> Seen {
    of_entry(conversation, view, source, conversation.entries.len(), "")
}

/// The same of an entry before which there were so many others, and that reads this input.
fn of_entry(
    conversation: &Conversation<'_>,
    view: View,
    source: &Arc<SourceText>,
    before: usize,
    input: &str,
) -> Seen {
    let language = &conversation.language;
    match view {
        View::Tokens => {
            let outcome = language.tokens(source);
            let Some(tokens) = outcome.value else {
                return Seen::nothing(outcome.diagnostics);
            };
            let all = in_order(&tokens, false);
            let json = all.map(|t| json::token(language, source, t)).collect();
            let lines = render::tokens::listing(language, &tokens, false);
            Seen::of(lines, json, outcome.diagnostics)
        }
        View::Tree => {
            let outcome = language.tree(source, Reading::Entry);
            let Some(tree) = outcome.value else {
                return Seen::nothing(outcome.diagnostics);
            };
            let json = to_json(language.definition(), language.lexer(), &tree);
            let lines = render::tree::outline(language, &tree);
            Seen::of(lines, json, outcome.diagnostics)
        }
        View::Scopes => scopes(conversation, source),
        View::Types => types(conversation, source),
        View::Core => {
            let outcome = language.compiled(source, conversation.session.around(), Reading::Entry);
            let Some(compiled) = outcome.value else {
                return Seen::nothing(outcome.diagnostics);
            };
            let found = core_lines(&compiled.core);
            Seen::of(
                render::core::outline(&found),
                json!(found),
                outcome.diagnostics,
            )
        }
        View::Code => {
            let outcome = language.code(source, conversation.session.around(), Reading::Entry);
            let Some(code) = outcome.value else {
                return Seen::nothing(outcome.diagnostics);
            };
            let found = listing(&code, language.definition());
            let lines = render::code::listed(&found, Some(source));
            Seen::of(lines, json!(found), outcome.diagnostics)
        }
        View::Trace => trace(conversation, source, before, input),
        View::Time | View::State => Seen::default(),
    }
}

fn scopes(conversation: &Conversation<'_>, source: &Arc<SourceText>) -> Seen {
    let language: &Language = &conversation.language;
    let outcome = language.tree(source, Reading::Entry);
    let mut diagnostics = outcome.diagnostics;
    let Some(tree) = outcome.value else {
        return Seen::nothing(diagnostics);
    };
    let names = language.names(&tree, conversation.session.around().names);
    diagnostics.extend(names.diagnostics);
    let names = names.value.unwrap_or_default();
    let lines = render::names::over_source(&tree, &names);
    Seen::of(lines, json::names(language, &tree, &names), diagnostics)
}

fn types(conversation: &Conversation<'_>, source: &Arc<SourceText>) -> Seen {
    let language: &Language = &conversation.language;
    if let Some(lack) = language.lacks(Stage::Types) {
        return Seen::nothing(vec![lack]);
    }
    let outcome = language.tree(source, Reading::Entry);
    let mut diagnostics = outcome.diagnostics;
    let Some(tree) = outcome.value else {
        return Seen::nothing(diagnostics);
    };
    let around = conversation.session.around();
    let names = language.names(&tree, around.names);
    diagnostics.extend(names.diagnostics);
    let names = names.value.unwrap_or_default();
    let found = language.types(&tree, &names, around.types);
    diagnostics.extend(found.diagnostics);
    let Some(found) = found.value else {
        return Seen::nothing(diagnostics);
    };
    let listed = found.listed(language.definition(), &tree, &names);
    let lines = render::types::over_source(language.definition(), &tree, &listed);
    let json = json::types(language, &tree, &names, &found);
    Seen::of(lines, json, diagnostics)
}

fn trace(
    conversation: &Conversation<'_>,
    source: &Arc<SourceText>,
    before: usize,
    input: &str,
) -> Seen {
    let mut session = match conversation.rehearsal(before, input) {
        Ok(copy) => copy,
        Err(problem) => return Seen::nothing(vec![*problem]),
    };
    let mut lines = Vec::new();
    let mut steps = Vec::new();
    let outcome = debugging::trace(&mut session, source, Reading::Entry, &mut |telling| {
        match telling {
            Telling::Opens(step) => lines.extend(render::trace::opens(step)),
            Telling::Meanwhile(step) => lines.extend(render::trace::meanwhile(step)),
            Telling::Whole(step) => lines.extend(render::trace::whole(step, step.depth)),
            Telling::Closes(step) => lines.extend(render::trace::closes(step)),
        }
        if let Telling::Whole(step) | Telling::Closes(step) = telling {
            steps.push(json::step(step));
        }
    });
    Seen::of(lines, steps.into(), outcome.diagnostics)
}

/// What can be seen of an entry that has just been made.
pub fn of_exchange(conversation: &Conversation<'_>, view: View, exchange: &Exchange) -> Seen {
    match view {
        View::Time => {
            let [before, after] = exchange.bytes;
            let seconds = exchange.time.as_secs_f64();
            let lines = vec![format!(
                "{}   {}",
                in_words(seconds),
                kept_in_words(before, after)
            )];
            let json = json!({ "seconds": seconds, "bytesBefore": before, "bytesAfter": after });
            Seen::of(lines, json, Vec::new())
        }
        View::State => {
            let [before, after] = &exchange.state;
            let cells = before.iter().zip(after);
            let json = cells
                .map(|((name, before), (_, after))| {
                    json!({ "cell": name, "before": before, "after": after })
                })
                .collect();
            Seen::of(render::state::shown(before, after), json, Vec::new())
        }
        View::Tokens
        | View::Tree
        | View::Scopes
        | View::Types
        | View::Core
        | View::Code
        | View::Trace => {
            let input = &exchange.entry.input;
            let mut seen = of_entry(conversation, view, &exchange.source, exchange.before, input);
            // Its errors have been shown.
            if has_errors(&seen.diagnostics) {
                seen.diagnostics.clear();
            }
            seen
        }
    }
}

/// A time with three digits.
fn in_words(seconds: f64) -> String {
    if seconds < 0.001 {
        format!("{:.0} µs", seconds * 1e6)
    } else if seconds < 1.0 {
        format!("{:.1} ms", seconds * 1e3)
    } else {
        format!("{seconds:.2} s")
    }
}

fn kept_in_words(before: usize, after: usize) -> String {
    let difference = after.abs_diff(before);
    let sign = if after < before { "-" } else { "+" };
    format!("values {after} bytes ({sign}{difference})")
}
