//! What is seen where a run stands still.

use std::path::Path;

use quillon_core::debugging::{Called, Meant, Reason, Stopped, Variable, meant};
use quillon_core::source::{SourceText, Span};
use quillon_core::values::{Held, ValueKind};
use serde_json::{Value, json};

use super::completions;
use super::instructions;
use super::line::Request;

/// How much of a value that has been asked for is told, in bytes.
const LONGEST: usize = 1 << 16;

/// And of one among others, of which the parts can be asked for.
const LONGEST_IN_SHORT: usize = 1 << 10;

/// Something with parts that a client can ask for.
#[derive(Clone)]
enum Node {
    /// The variables of a call, by its number: its own, or those of functions around it.
    Variables(usize, bool),
    /// The cells of the state.
    State,
    /// A value.
    Value(Held),
}

/// What a client can ask for by number, as long as the run stands still.
#[derive(Default)]
pub struct Nodes {
    all: Vec<Node>,
    /// Whether the part of a meaning that is under way is shown as a call of its own.
    shows_meanings: bool,
    since: Since,
}

/// What has come of an answer beside itself.
#[derive(Default)]
pub enum Since {
    #[default]
    Nothing,
    /// What was known of variables may be otherwise.
    Changed,
    /// A text has changed something on copies only.
    OnCopies(String),
}

/// What is written before a text in the console that is to be carried out in the run.
pub const DO: &str = "/do ";

/// Why nothing is known of a reference.
const GONE: &str = "this is not known any more";

/// The number of the meaning that is under way among the frames; those of calls begin with 1.
const MEANING: usize = 1 << 40;

/// The call that a frame is of, by its number from the innermost on.
fn call_of(frame: usize) -> usize {
    if frame == MEANING {
        0
    } else {
        frame.saturating_sub(1)
    }
}

impl Nodes {
    /// Forgets what was known, where the run stands still anew.
    pub fn begin(&mut self, shows_meanings: bool) {
        self.all.clear();
        self.shows_meanings = shows_meanings;
    }

    fn add(&mut self, node: Node) -> usize {
        self.all.push(node);
        self.all.len()
    }

    /// Answers a request about where the run stands; nothing if it is about something else.
    pub fn answer(
        &mut self,
        at: &mut Stopped<'_, '_, '_>,
        request: &Request,
    ) -> Option<Result<Value, String>> {
        let arguments = &request.arguments;
        let number = |name: &str| arguments[name].as_u64().unwrap_or_default() as usize;
        let text = |name: &str| arguments[name].as_str().unwrap_or_default();
        Some(match request.command.as_str() {
            "stackTrace" => Ok(self.frames(at, number("startFrame"), number("levels"))),
            "scopes" => Ok(self.scopes(at, call_of(number("frameId")))),
            "variables" => {
                let (start, count) = (number("start"), number("count"));
                self.variables(at, number("variablesReference"), start, count)
            }
            "evaluate" => self.evaluate(at, arguments),
            "setVariable" => self.set(
                at,
                number("variablesReference"),
                (text("name"), text("value")),
            ),
            "disassemble" => instructions::told(at, arguments),
            "completions" => Ok(completions::told(at, call_of(number("frameId")), arguments)),
            "gotoTargets" => Ok(elsewhere(at, arguments)),
            "exceptionInfo" => match at.reason() {
                Reason::Fault { error, is_caught } => Ok(json!({
                    "exceptionId": error.code.0,
                    "description": error.message,
                    "breakMode": if *is_caught { "always" } else { "unhandled" },
                })),
                Reason::Beginning
                | Reason::Went
                | Reason::Asked
                | Reason::Stop(_)
                | Reason::Condition(..) => Err("nothing fails here".to_owned()),
            },
            _ => return None,
        })
    }

    /// What a text comes to, or what carrying it out does if that is asked for in the console.
    fn evaluate(
        &mut self,
        at: &mut Stopped<'_, '_, '_>,
        arguments: &Value,
    ) -> Result<Value, String> {
        let call = call_of(arguments["frameId"].as_u64().unwrap_or_default() as usize);
        let text = arguments["expression"].as_str().unwrap_or_default();
        let is_typed = arguments["context"] == "repl";
        let came = match text.trim_start().strip_prefix(DO) {
            Some(text) if is_typed => {
                self.since = Since::Changed;
                at.carry_out(call, text)
            }
            _ => at.evaluate(call, text).map(|answer| {
                if is_typed && answer.has_effects {
                    self.since = Since::OnCopies(text.to_owned());
                }
                answer.value
            }),
        };
        came.map(|value| self.valued("result", &value))
            .map_err(|problems| problems.first_message().to_owned())
    }

    /// Gives a variable or a cell another value.
    fn set(
        &mut self,
        at: &mut Stopped<'_, '_, '_>,
        reference: usize,
        (name, text): (&str, &str),
    ) -> Result<Value, String> {
        let node = reference.checked_sub(1).and_then(|at| self.all.get(at));
        let call = match node {
            Some(Node::Variables(call, _)) => *call,
            Some(Node::State) => 0,
            Some(Node::Value(_)) => {
                let how = "the language itself changes the parts of a value";
                return Err(format!(
                    "{how}: write {DO}and how it says that, in the console"
                ));
            }
            None => return Err(GONE.to_owned()),
        };
        let came = at.set(call, name, text);
        if came.is_ok() {
            self.since = Since::Changed;
        }
        came.map(|value| self.valued("value", &value))
            .map_err(|problems| problems.first_message().to_owned())
    }

    /// What has come of the last answer that a client may want to know.
    pub fn since(&mut self) -> Since {
        std::mem::take(&mut self.since)
    }

    /// The calls under way with what the innermost does in the definition, or so many of them from one on.
    fn frames(&self, at: &Stopped<'_, '_, '_>, start: usize, levels: usize) -> Value {
        let calls = at.calls();
        let innermost = calls.first().filter(|_| self.shows_meanings);
        let meaning = innermost.and_then(|innermost| meaning(at, innermost));
        let before = usize::from(meaning.is_some());
        let most = if levels == 0 { usize::MAX } else { levels };
        let own = calls.iter().enumerate();
        let own = own.map(|(number, call)| {
            let mut frame = frame(number, call);
            frame["instructionPointerReference"] = instructions::address(number, call.at).into();
            frame
        });
        // Only those that are asked for are made.
        let frames: Vec<Value> = match meaning {
            Some(meaning) if start == 0 => {
                std::iter::once(meaning).chain(own.take(most - 1)).collect()
            }
            _ => own.skip(start - before.min(start)).take(most).collect(),
        };
        json!({ "stackFrames": frames, "totalFrames": calls.len() + before })
    }

    fn scopes(&mut self, at: &Stopped<'_, '_, '_>, call: usize) -> Value {
        let variables = at.variables(call);
        let mut scopes = Vec::new();
        for (name, is_captured) in [("Variables", false), ("Around", true)] {
            let count = variables
                .iter()
                .filter(|one| one.is_captured == is_captured)
                .count();
            if count > 0 || !is_captured {
                let reference = self.add(Node::Variables(call, is_captured));
                scopes.push(json!({
                    "name": name,
                    "presentationHint": if is_captured { "closure" } else { "locals" },
                    "variablesReference": reference,
                    "namedVariables": count,
                    "expensive": false,
                }));
            }
        }
        let cells = at.state().len();
        if cells > 0 {
            let reference = self.add(Node::State);
            scopes.push(json!({
                "name": "State",
                "variablesReference": reference,
                "namedVariables": cells,
                "expensive": false,
            }));
        }
        json!({ "scopes": scopes })
    }

    /// The parts of something, or so many of them from one on.
    fn variables(
        &mut self,
        at: &Stopped<'_, '_, '_>,
        reference: usize,
        start: usize,
        count: usize,
    ) -> Result<Value, String> {
        let node = reference.checked_sub(1).and_then(|at| self.all.get(at));
        let node = node.cloned().ok_or(GONE)?;
        let named = |all: Vec<Variable>| -> Vec<(String, Held)> {
            all.into_iter().map(|one| (one.name, one.value)).collect()
        };
        let parts = match node {
            Node::Variables(call, is_captured) => {
                let mut all = at.variables(call);
                all.retain(|one| one.is_captured == is_captured);
                named(all)
            }
            Node::State => named(at.state()),
            Node::Value(value) => parts(&value),
        };
        let most = if count == 0 { usize::MAX } else { count };
        let wanted = parts.into_iter().skip(start).take(most);
        let shown = wanted.map(|(name, value)| {
            let has_parts = value.count().is_some();
            let longest = if has_parts { LONGEST_IN_SHORT } else { LONGEST };
            let mut shown = self.valued_within("value", &value, longest);
            shown["name"] = name.into();
            shown
        });
        let shown: Vec<Value> = shown.collect();
        Ok(json!({ "variables": shown }))
    }

    /// A value under a name, and a reference where it has parts.
    fn valued(&mut self, name: &str, value: &Held) -> Value {
        self.valued_within(name, value, LONGEST)
    }

    /// The same with the value in so many bytes.
    fn valued_within(&mut self, name: &str, value: &Held, longest: usize) -> Value {
        let count = value.count();
        let reference = if count.is_some_and(|count| count > 0) {
            self.add(Node::Value(value.clone()))
        } else {
            0
        };
        let mut shown = json!({
            "type": value.kind().word(),
            "variablesReference": reference,
        });
        shown[name] = value.written_within(longest).into();
        if let Some(count) = count {
            let parts = if value.kind() == ValueKind::List {
                "indexedVariables"
            } else {
                "namedVariables"
            };
            shown[parts] = count.into();
        }
        shown
    }
}

/// The parts of a value: the items of a list, counted from 0, or the entries of a map.
fn parts(value: &Held) -> Vec<(String, Held)> {
    if let Some(items) = value.items() {
        let numbered = items.into_iter().enumerate();
        return numbered
            .map(|(at, item)| (format!("[{at}]"), item))
            .collect();
    }
    let entries = value.entries().unwrap_or_default().into_iter();
    entries.map(|(key, value)| (key.written(), value)).collect()
}

/// Where the innermost call can go on at a line, or at the first after it where it can.
fn elsewhere(at: &Stopped<'_, '_, '_>, arguments: &Value) -> Value {
    let line = arguments["line"].as_u64().unwrap_or_default();
    let calls = at.calls();
    let innermost = calls.first().filter(|call| {
        let path = source_of(&call.source)["path"].clone();
        path == arguments["source"]["path"]
    });
    let places = at.elsewhere().into_iter().enumerate();
    let next = places
        .filter(|(_, place)| u64::from(place.line) >= line)
        .min_by_key(|(_, place)| place.line);
    let targets = innermost.zip(next).map(|(call, (number, place))| {
        let [line, column, end_line, end_column] = place_of(&call.source, place.span);
        json!({
            "id": number,
            "label": call.source.text()[call.source.line_span(place.line).range()].trim(),
            "line": line,
            "column": column,
            "endLine": end_line,
            "endColumn": end_column,
            "instructionPointerReference": instructions::address(0, place.at),
        })
    });
    json!({ "targets": targets.into_iter().collect::<Vec<_>>() })
}

fn frame(number: usize, call: &Called) -> Value {
    let hint = if call.is_built_in { "subtle" } else { "normal" };
    let place = (&*call.source, call.span);
    shown_at(number + 1, call.title(), hint, place)
}

/// The part of a meaning that is under way, as a frame above that of the call.
fn meaning(at: &Stopped<'_, '_, '_>, innermost: &Called) -> Option<Value> {
    if innermost.meaning.is_empty() {
        return None;
    }
    let (source, span) = at.definition().source.origin(innermost.meaning);
    let name = match meant(at.definition(), innermost.meaning)? {
        Meant::Form(name) => format!("what {name} means"),
        Meant::Helper(name) | Meant::BuiltIn(name) => name.to_owned(),
    };
    Some(shown_at(MEANING, &name, "normal", (&source, span)))
}

fn shown_at(id: usize, name: &str, hint: &str, (source, span): (&SourceText, Span)) -> Value {
    let [line, column, end_line, end_column] = place_of(source, span);
    json!({
        "id": id,
        "name": name,
        "source": source_of(source),
        "line": line,
        "column": column,
        "endLine": end_line,
        "endColumn": end_column,
        "presentationHint": hint,
    })
}

/// A text as a client knows it.
pub fn source_of(source: &SourceText) -> Value {
    let path = Path::new(source.name());
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let short = path
        .file_name()
        .map_or_else(|| path.display(), |name| Path::new(name).display());
    json!({ "name": short.to_string(), "path": whole.display().to_string() })
}

/// Line and column of both ends of a stretch, from 1, in units of UTF-16.
pub fn place_of(source: &SourceText, span: Span) -> [usize; 4] {
    let of = |offset: u32| {
        let line = source.line_of(offset);
        let start = source.line_span(line).start;
        let before = &source.text()[start as usize..offset as usize];
        [line as usize, before.encode_utf16().count() + 1]
    };
    let ([line, column], [end_line, end_column]) = (of(span.start), of(span.end));
    [line, column, end_line, end_column]
}
