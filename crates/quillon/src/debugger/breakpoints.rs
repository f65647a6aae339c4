//! Where a run is to be stopped, as a client says it.

use std::collections::BTreeSet;
use std::path::Path;
use std::sync::Arc;

use quillon_core::Reading;
use quillon_core::debugging::{At, Faults, StopAt, Stops, lines, meaning_lines};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use serde_json::{Value, json};

use super::launch::Launched;
use crate::files;

/// The stops that have been asked for.
#[derive(Default)]
pub struct Breakpoints {
    /// Those in texts: the path of each, and what was asked for.
    texts: Vec<(String, Vec<Value>)>,
    functions: Vec<Value>,
    /// Those at changes of variables.
    changes: Vec<Value>,
    faults: Faults,
    /// What was said of each, in the order of the stops; its number for the client.
    pub numbers: Vec<i64>,
    pub stops: Stops,
    last: i64,
}

/// The names of the kinds of failures that can stop a run.
pub const RAISED: &str = "raised";
pub const UNCAUGHT: &str = "uncaught";

impl Breakpoints {
    /// Takes the breakpoints of a text in place of those that it had; what is said of each.
    pub fn set_in_text(&mut self, arguments: &Value, launched: Option<&Launched>) -> Value {
        let path = arguments["source"]["path"]
            .as_str()
            .unwrap_or_default()
            .to_owned();
        let asked = arguments["breakpoints"]
            .as_array()
            .cloned()
            .unwrap_or_default();
        self.texts.retain(|(known, _)| *known != path);
        let known = launched.map(|launched| lines_of(launched, &path));
        let first = self.last;
        let said = asked.iter().zip(first + 1..).map(|(asked, number)| {
            let line = asked["line"].as_i64().unwrap_or_default();
            let next = known
                .as_ref()
                .map(|known| known.range(line as u32..).next());
            match next {
                Some(Some(line)) => json!({ "id": number, "verified": true, "line": line }),
                Some(None) => json!({
                    "id": number,
                    "verified": false,
                    "line": line,
                    "message": "nothing is done from this line on",
                }),
                None => json!({ "id": number, "verified": true, "line": line }),
            }
        });
        let said: Vec<Value> = said.collect();
        let mut numbered = asked;
        for (asked, number) in numbered.iter_mut().zip(first + 1..) {
            asked["id"] = number.into();
        }
        self.last += numbered.len() as i64;
        self.texts.push((path, numbered));
        self.gather(launched);
        json!({ "breakpoints": said })
    }

    /// Takes the breakpoints of functions.
    pub fn set_in_functions(&mut self, arguments: &Value, launched: Option<&Launched>) -> Value {
        let (asked, said) = self.numbered(arguments);
        self.functions = asked;
        self.gather(launched);
        said
    }

    /// Takes the breakpoints at changes of variables.
    pub fn set_at_changes(&mut self, arguments: &Value, launched: Option<&Launched>) -> Value {
        let (asked, said) = self.numbered(arguments);
        self.changes = asked;
        self.gather(launched);
        said
    }

    /// What is asked for, with a number each, and what is said of it.
    fn numbered(&mut self, arguments: &Value) -> (Vec<Value>, Value) {
        let asked = arguments["breakpoints"].as_array();
        let mut asked = asked.cloned().unwrap_or_default();
        let mut said = Vec::new();
        for asked in &mut asked {
            self.last += 1;
            asked["id"] = self.last.into();
            said.push(json!({ "id": self.last, "verified": true }));
        }
        (asked, json!({ "breakpoints": said }))
    }

    /// Takes the kinds of failures.
    pub fn set_faults(&mut self, arguments: &Value, launched: Option<&Launched>) -> Value {
        let filters = arguments["filters"].as_array().cloned().unwrap_or_default();
        let has = |name: &str| filters.iter().any(|filter| filter == name);
        self.faults = Faults {
            raised: has(RAISED),
            uncaught: has(UNCAUGHT),
        };
        self.gather(launched);
        json!({ "breakpoints": filters.iter().map(|_| json!({ "verified": true })).collect::<Vec<_>>() })
    }

    /// Makes stops of all that has been asked for.
    pub fn gather(&mut self, launched: Option<&Launched>) {
        self.stops = Stops {
            all: Vec::new(),
            faults: self.faults,
        };
        self.numbers.clear();
        let Some(launched) = launched.filter(|launched| launched.is_debugged) else {
            self.stops.faults = Faults::default();
            return;
        };
        for (path, asked) in &self.texts {
            let in_definition = launched.definition_file(Path::new(path));
            let name = if launched.is_program(Path::new(path)) {
                launched.source.name()
            } else {
                in_definition.unwrap_or(path)
            };
            // A meaning is stopped in by the line.
            let has_columns =
                in_definition.is_none() && asked.iter().any(|asked| asked["column"].is_u64());
            let source = has_columns.then(|| text_of(launched, path)).flatten();
            for asked in asked {
                let line = asked["line"].as_u64().unwrap_or_default() as u32;
                let units = asked["column"].as_u64();
                let column = units.and_then(|units| column_of(source.as_ref()?, line, units));
                let at = match column {
                    Some(column) => At::Place(name.to_owned(), line, column),
                    None => At::Line(name.to_owned(), line),
                };
                self.numbers.push(asked["id"].as_i64().unwrap_or_default());
                self.stops.all.push(stop(at, asked));
            }
        }
        let named = |asked: &Value, name: &str| asked[name].as_str().unwrap_or_default().to_owned();
        let functions = self.functions.iter();
        let functions = functions.map(|asked| (asked, At::Function(named(asked, "name"))));
        let changes = self.changes.iter();
        let changes = changes.map(|asked| (asked, At::Change(named(asked, "dataId"))));
        for (asked, at) in functions.chain(changes) {
            self.numbers.push(asked["id"].as_i64().unwrap_or_default());
            self.stops.all.push(stop(at, asked));
        }
    }
}

fn stop(at: At, asked: &Value) -> StopAt {
    let text = |name: &str| {
        let text = asked[name].as_str().map(str::trim);
        text.filter(|text| !text.is_empty()).map(str::to_owned)
    };
    // `3`, `>= 3`, `= 3`: from the third time on.
    let hits = text("hitCondition").and_then(|hits| {
        let digits = hits.trim_start_matches(|c: char| !c.is_ascii_digit());
        let count: u64 = digits.parse().ok()?;
        let is_after = hits.starts_with('>') && !hits.starts_with(">=");
        Some(count + u64::from(is_after))
    });
    StopAt {
        condition: text("condition"),
        skips: hits.map_or(0, |hits| hits.saturating_sub(1)),
        log: text("logMessage"),
        ..StopAt::new(at)
    }
}

/// A text in which breakpoints are.
fn text_of(launched: &Launched, path: &str) -> Option<Arc<SourceText>> {
    if launched.is_program(Path::new(path)) {
        return Some(launched.source.clone());
    }
    files::read(Path::new(path)).ok()
}

/// The column in characters of a place that is given in units of UTF-16, both from 1.
fn column_of(source: &SourceText, line: u32, units: u64) -> Option<u32> {
    if line == 0 || line as usize > source.line_count() {
        return None;
    }
    let span = source.line_span(line);
    let mut before = 0;
    let mut left = units.saturating_sub(1);
    for c in source.slice(span).chars() {
        let width = c.len_utf16() as u64;
        if left < width {
            break;
        }
        left -= width;
        before += c.len_utf8() as u32;
    }
    Some(source.position(span.start + before).column)
}

/// The lines of a program or of the definition at which a run can be stopped.
fn lines_of(launched: &Launched, path: &str) -> BTreeSet<u32> {
    if let Some(file) = launched.definition_file(Path::new(path)) {
        return meaning_lines(launched.builder.language().definition(), file);
    }
    let source = text_of(launched, path);
    let found = source.map(|source| {
        lines(
            &launched.builder,
            &source,
            Reading::Program,
            Around::Nothing,
        )
    });
    found.unwrap_or_default()
}
