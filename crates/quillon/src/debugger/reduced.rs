//! Walks a client through a reduction: each step is a text of its own, which the client asks for by number.

use quillon_core::Reading;
use quillon_core::debugging::{At, Order, Pace};
use quillon_core::reduction::{Bounds, Walk, reduce};
use quillon_core::source::SourceText;
use serde_json::{Value, json};

use super::adapter::{Adapter, THREAD};
use super::answers::place_of;
use super::launch::Launched;
use super::line::Request;
use crate::render::steps;

/// The only scope that there is.
const SCOPE: i64 = 1;

impl Adapter {
    /// Reduces a program as far as some steps, and walks through that; its exit status.
    pub fn reduce(&mut self, launched: &Launched, most: usize) -> i32 {
        let language = launched.builder.language();
        let bounds = Bounds {
            steps: most,
            ..Bounds::default()
        };
        let outcome = reduce(language, &launched.source, Reading::Program, bounds);
        self.tell_of(&outcome.diagnostics);
        let Some(found) = outcome.value else {
            return 1;
        };
        let mut walk = Walk::new(found);
        walk.stops = self.forms();
        if launched.is_debugged {
            let begun = if launched.stops_on_entry {
                Some("entry")
            } else {
                on(&mut walk, &Order::Forwards(Pace::Stop))
            };
            if let Some(why) = begun {
                self.tell_step(why);
                self.stand(&mut walk, launched);
            }
        }
        if !self.is_over {
            self.tell_end(&walk);
        }
        i32::from(!walk.is_finished())
    }

    /// Answers the client until the walk is over.
    fn stand(&mut self, walk: &mut Walk, launched: &Launched) {
        while !self.is_over {
            let Some(request) = self.line.next() else {
                self.is_over = true;
                return;
            };
            if let Some(order) = Adapter::order(&request, false) {
                let going = json!({ "allThreadsContinued": true });
                self.line.answer(&request, Ok(going));
                match on(walk, &order) {
                    Some(why) => self.tell_step(why),
                    None => return,
                }
                continue;
            }
            let seen = seen(walk, &request);
            let answer = seen.unwrap_or_else(|| self.set(&request, Some(launched)));
            walk.stops = self.forms();
            self.line.answer(&request, answer);
        }
    }

    /// The forms at whose rules it stops: those of which function breakpoints are.
    fn forms(&self) -> Vec<String> {
        let all = self.breakpoints.stops.all.iter();
        let forms = all.filter_map(|stop| match &stop.at {
            At::Function(name) => Some(name.clone()),
            At::Line(..) | At::Place(..) | At::Form(_) | At::Change(_) => None,
        });
        forms.collect()
    }

    fn tell_step(&self, why: &str) {
        self.tell(
            "stopped",
            &json!({ "reason": why, "threadId": THREAD, "allThreadsStopped": true }),
        );
    }

    /// Tells what a reduction has come to, and how it has ended.
    fn tell_end(&self, walk: &Walk) {
        let told = |category: &str, text: &str| {
            let text = format!("{}\n", text.trim_end());
            self.tell("output", &json!({ "category": category, "output": text }));
        };
        let found = walk.found();
        if let Some(last) = found.steps.last() {
            told("stdout", &last.text);
        }
        let category = if walk.is_finished() {
            "console"
        } else {
            "stderr"
        };
        told(category, &steps::ended(found).join("\n"));
    }
}

/// Goes as an order says; why it stands still then, and nothing at its end.
fn on(walk: &mut Walk, order: &Order) -> Option<&'static str> {
    let has_gone = walk.go(order);
    let is_stop = has_gone && walk.is_stop(walk.step());
    match order {
        Order::Forwards(Pace::Stop) if !is_stop => None,
        Order::Forwards(_) if !has_gone => None,
        _ if is_stop => Some("breakpoint"),
        Order::Anew | Order::ToBeginning => Some("entry"),
        Order::Forwards(_)
        | Order::Backwards(_)
        | Order::On
        | Order::ToChange(_)
        | Order::To(_)
        | Order::End => Some("step"),
    }
}

/// What is seen of a step, if that is asked for.
fn seen(walk: &Walk, request: &Request) -> Option<Result<Value, String>> {
    let arguments = &request.arguments;
    Some(Ok(match request.command.as_str() {
        "stackTrace" => json!({ "stackFrames": [frame(walk)], "totalFrames": 1 }),
        "scopes" => json!({ "scopes": [
            { "name": "Reduction", "variablesReference": SCOPE, "expensive": false },
        ] }),
        "variables" => json!({ "variables": variables(walk) }),
        "source" => {
            let number = arguments["sourceReference"].as_u64();
            let number = number.or(arguments["source"]["sourceReference"].as_u64());
            let step = (number.unwrap_or_default() as usize).checked_sub(1);
            let shown = step.and_then(|step| walk.found().steps.get(step))?;
            json!({ "content": shown.text })
        }
        "evaluate" | "setVariable" | "completions" | "gotoTargets" | "goto" | "disassemble"
        | "exceptionInfo" => {
            let why = "a reduction has nothing beside its steps: expressions are evaluated in runs";
            return Some(Err(why.to_owned()));
        }
        _ => return None,
    }))
}

/// The step, at what is replaced next or else at what has been made.
fn frame(walk: &Walk) -> Value {
    let shown = walk.shown();
    let text = SourceText::new("step", shown.text.as_str());
    let span = shown.marks.will_change.or(shown.marks.changed);
    let [line, column, end_line, end_column] = place_of(&text, span.unwrap_or_default());
    json!({
        "id": 1,
        "name": shown.by.as_deref().unwrap_or("the program"),
        "source": {
            "name": format!("step {} of {}", walk.step(), walk.last()),
            "sourceReference": walk.step() + 1,
        },
        "line": line,
        "column": column,
        "endLine": end_line,
        "endColumn": end_column,
    })
}

/// What there is to know of a step, by name.
fn variables(walk: &Walk) -> Vec<Value> {
    let shown = walk.shown();
    let next = walk.found().steps.get(walk.step() + 1);
    let mut known = vec![("step", format!("{} of {}", walk.step(), walk.last()))];
    let by = |name, by: Option<&String>| by.map(|by| (name, by.clone()));
    known.extend(by("made by", shown.by.as_ref()));
    known.extend(by("next, by", next.and_then(|next| next.by.as_ref())));
    let renamed = shown.renamed.iter();
    known.extend(renamed.map(|one| ("renamed", format!("{} becomes {}", one.from, one.to))));
    if walk.is_at_end() {
        known.push(("end", steps::ended(walk.found()).join("; ")));
    }
    let variable = |(name, value)| json!({ "name": name, "value": value, "variablesReference": 0 });
    known.into_iter().map(variable).collect()
}
