//! The REPL for tools: a JSON object a line in, and one a line out.

use std::path::Path;

use quillon_core::diagnostic::{Diagnostic, codes, has_errors};
use serde::Deserialize;
use serde_json::{Map, Value as Json, json};

use super::lines::next_line;
use super::views::{self, View};
use super::{Repl, keeping};
use crate::exit::Exit;
use crate::stop::Stop;

/// A line that comes in.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase", deny_unknown_fields)]
struct Asked {
    /// An entry to be made.
    entry: Option<String>,
    /// What it reads.
    #[serde(default)]
    input: String,
    /// An entry to be looked at, and not made.
    look: Option<String>,
    /// Something else that is to be done.
    order: Option<Simple>,
    /// What is to be seen of the entry.
    #[serde(default)]
    views: Vec<String>,
    /// A file that an order needs.
    file: Option<String>,
    /// The title of a case.
    #[serde(default)]
    title: String,
    /// Given back as it is.
    id: Option<Json>,
}

/// What can be done that is no entry.
#[derive(Debug, Deserialize)]
#[serde(rename_all = "camelCase")]
enum Simple {
    Names,
    State,
    Undo,
    Reload,
    Save,
    Keep,
    Leave,
}

/// Answers every line, until there is none any more.
pub fn answer(repl: &mut Repl<'_>, keep_going: bool) -> Result<Exit, Stop> {
    use std::io::Write;
    let mut exit = Exit::Done;
    loop {
        let Some(line) = next_line() else {
            return Ok(exit);
        };
        // One that is no text is answered like any other that is no question.
        let asked = match line {
            Ok(line) if line.trim().is_empty() => continue,
            Ok(line) => serde_json::from_str::<Asked>(&line).map_err(std::io::Error::from),
            Err(error) if error.kind() == std::io::ErrorKind::InvalidData => Err(error),
            Err(error) => return Err(Stop::Output(error)),
        };
        // A line that cannot be understood is answered, and the conversation goes on.
        let goes_on = keep_going || asked.is_err();
        let (mut out, leave) = match asked {
            Err(error) => (wrong(&format!("this is no question: {error}")), false),
            Ok(asked) => {
                let leave = matches!(asked.order, Some(Simple::Leave));
                let mut out = one(repl, &asked);
                if let Some(id) = asked.id {
                    out.insert("id".to_owned(), id);
                }
                (out, leave)
            }
        };
        let failed = out.get("ok") == Some(&Json::Bool(false));
        out.entry("ok").or_insert(Json::Bool(true));
        let mut standard = std::io::stdout().lock();
        writeln!(standard, "{}", Json::Object(out))?;
        standard.flush()?;
        if failed {
            exit = Exit::Failed;
        }
        if leave || failed && !goes_on {
            return Ok(exit);
        }
    }
}

type Answer = Map<String, Json>;

fn object(json: Json) -> Answer {
    match json {
        Json::Object(object) => object,
        Json::Null | Json::Bool(_) | Json::Number(_) | Json::String(_) | Json::Array(_) => {
            Map::new()
        }
    }
}

fn wrong(message: &str) -> Answer {
    with_problems(&[Diagnostic::error(codes::USAGE, message)])
}

fn with_problems(diagnostics: &[Diagnostic]) -> Answer {
    object(json!({ "ok": !has_errors(diagnostics), "diagnostics": diagnostics }))
}

fn stopped(stop: Stop) -> Answer {
    match stop {
        Stop::Unreadable(problem) | Stop::Usage(problem) => with_problems(&[*problem]),
        Stop::Definition(problems) => with_problems(&problems),
        Stop::Output(error) => wrong(&error.to_string()),
    }
}

fn one(repl: &mut Repl<'_>, asked: &Asked) -> Answer {
    let views: Result<Vec<View>, &String> = asked
        .views
        .iter()
        .map(|name| View::named(name).ok_or(name))
        .collect();
    let views = match views {
        Ok(views) => views,
        Err(name) => return wrong(&format!("there is no view {name:?}")),
    };
    match (&asked.entry, &asked.look, &asked.order) {
        (Some(text), None, None) => enter(repl, text, &asked.input, &views),
        (None, Some(text), None) => look(repl, text, &views),
        (None, None, Some(order)) => order_of(repl, order, asked),
        _ => wrong("a question has one of `entry`, `look` and `order`"),
    }
}

fn enter(repl: &mut Repl<'_>, text: &str, input: &str, views: &[View]) -> Answer {
    let conversation = repl.conversation_mut();
    let source = conversation.source(text);
    conversation.give(input);
    conversation.enter(&source);
    let conversation = repl.conversation();
    let Some(exchange) = conversation.last() else {
        return Answer::new();
    };
    let mut out = object(json!({
        "ok": exchange.value.is_some(),
        "value": exchange.value.as_ref().map(quillon_core::values::Held::written),
        "kind": exchange.value.as_ref().map(|value| value.kind().word()),
        "printed": exchange.printed,
        "unfinished": repl.is_unfinished(text),
        "diagnostics": exchange.diagnostics,
    }));
    let seen = views.iter().map(|view| {
        let seen = views::of_exchange(conversation, *view, exchange);
        (view.name().to_owned(), seen.json)
    });
    out.extend(seen);
    out
}

fn look(repl: &mut Repl<'_>, text: &str, views: &[View]) -> Answer {
    let source = repl.conversation_mut().source(text);
    let conversation = repl.conversation();
    let mut out = Answer::new();
    let mut problems: Vec<Diagnostic> = Vec::new();
    for view in views {
        if view.needs_run() {
            return wrong(&format!(
                "the view {:?} needs an entry that is made",
                view.name()
            ));
        }
        let seen = views::of_text(conversation, *view, &source);
        out.insert(view.name().to_owned(), seen.json);
        for problem in seen.diagnostics {
            let known = problems
                .iter()
                .any(|p| p.in_one_line() == problem.in_one_line());
            if !known {
                problems.push(problem);
            }
        }
    }
    out.insert("unfinished".to_owned(), repl.is_unfinished(text).into());
    out.extend(with_problems(&problems));
    out
}

fn order_of(repl: &mut Repl<'_>, order: &Simple, asked: &Asked) -> Answer {
    let said = |result: Result<String, Stop>| match result {
        Ok(said) => object(json!({ "said": said })),
        Err(stop) => stopped(stop),
    };
    match order {
        Simple::Names => {
            let names = repl.conversation().session.names().into_iter();
            let names: Vec<Json> = names
                .map(|(name, value)| {
                    json!({
                        "name": name,
                        "kind": value.as_ref().map(|value| value.kind().word()),
                        "value": value.as_ref().map(quillon_core::values::Held::written),
                    })
                })
                .collect();
            object(json!({ "names": names }))
        }
        Simple::State => {
            let cells = repl.conversation().session.state();
            let cells: Vec<Json> = cells
                .map(|(name, value)| json!({ "cell": name, "value": value.written() }))
                .collect();
            object(json!({ "state": cells }))
        }
        Simple::Undo => match repl.conversation_mut().undo() {
            Some(text) => object(json!({ "undone": text })),
            None => wrong("there is no entry to take back"),
        },
        Simple::Reload => match repl.conversation_mut().reload() {
            Ok(lost) => {
                let lost: Vec<Json> = lost
                    .iter()
                    .map(|lost| json!({ "name": lost.name, "isState": lost.is_state, "why": lost.why }))
                    .collect();
                object(json!({ "lost": lost }))
            }
            Err(stop) => stopped(stop),
        },
        Simple::Save => match &asked.file {
            Some(file) => said(keeping::save(repl.conversation(), Path::new(file))),
            None => wrong("`save` needs a `file`"),
        },
        Simple::Keep => said(keeping::keep(repl.conversation(), &asked.title)),
        Simple::Leave => Answer::new(),
    }
}
