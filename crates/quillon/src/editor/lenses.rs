//! Lenses: what can be done with a program, a case or a form, shown above it; and doing it.

use std::sync::Arc;

use lsp_server::{ErrorCode, Message, Request, RequestId, Response};
use lsp_types::request::{
    ApplyWorkspaceEdit, CodeLensRefresh, ExecuteCommand, InlayHintRefreshRequest, Request as _,
};
use lsp_types::{
    ApplyWorkspaceEditParams, CodeLens, CodeLensParams, Command, ExecuteCommandParams, MessageType,
    Position, Range, TextEdit, Uri,
};
use quillon_core::Stage;
use quillon_core::definition::Example;
use quillon_core::editing::Described;
use quillon_core::source::{SourceText, Span};
use quillon_core::testing::Verdict;
use serde_json::{Value, json};

use super::answers::Refusal;
use super::errands::{Came, Done, Ending};
use super::programs::range;
use super::server::Server;
use super::telling;
use super::texts::{Sort, Text};
use super::writing::edit;

/// Runs a program: its address.
const RUN: &str = "quillon.run";
/// Runs a case or an example: the address of its text, and where it begins.
const CASE: &str = "quillon.case";
/// Shows the readings of a text: the address of the definition, and a number.
const READINGS: &str = "quillon.readings";
/// Adds an example: the address of the definition, and the name of a form.
const EXAMPLE: &str = "quillon.example";

/// What can be asked to be done.
pub const COMMANDS: [&str; 4] = [RUN, CASE, READINGS, EXAMPLE];

/// Of what a program prints so many lines are shown.
const MOST_LINES: usize = 20;

pub fn lenses(server: &mut Server, params: &CodeLensParams) -> Option<Vec<CodeLens>> {
    let uri = &params.text_document.uri;
    match server.texts.get(uri)?.sort {
        Sort::Program => of_program(server, uri),
        Sort::Definition => of_definition(server, uri),
        Sort::Cases => of_cases(server, uri),
    }
}

fn lens(range: Range, title: impl Into<String>, command: &str, arguments: &Value) -> CodeLens {
    CodeLens {
        range,
        command: Some(Command {
            title: title.into(),
            command: command.to_owned(),
            arguments: arguments.as_array().cloned(),
        }),
        data: None,
    }
}

fn of_program(server: &mut Server, uri: &Uri) -> Option<Vec<CodeLens>> {
    let path = server.texts.get(uri)?.path.clone();
    let language = server.language_of(&path)?;
    if language.lacks(Stage::Meaning).is_some() {
        return None;
    }
    let title = match server.ran(uri) {
        Some(ending) => format!("run again: it {}", ending.outline()),
        None => "run this program".to_owned(),
    };
    let top = Range::new(Position::new(0, 0), Position::new(0, 0));
    Some(vec![lens(top, title, RUN, &json!([uri]))])
}

fn of_cases(server: &mut Server, uri: &Uri) -> Option<Vec<CodeLens>> {
    let examples = server.examples_of(uri);
    let text = server.texts.get(uri)?;
    let lenses = examples.iter().filter_map(|case| of_case(text, case.span));
    Some(lenses.collect())
}

/// The lens of a case, unless that stands in another file which is included.
fn of_case(text: &Text, span: Span) -> Option<CodeLens> {
    if span.end as usize > text.content.len() {
        return None;
    }
    let start = text.lines.position(&text.content, span.start);
    let arguments = json!([text.uri, span.start]);
    let place = Range::new(start, start);
    Some(lens(place, "run this case", CASE, &arguments))
}

fn of_definition(server: &mut Server, uri: &Uri) -> Option<Vec<CodeLens>> {
    let language = server.right_language(uri)?;
    let source = server.source(uri)?;
    let described = Described::new(&source);
    let examples = server.examples_of(uri);
    let readings = server.readings(uri);
    let text = server.texts.get(uri)?;
    let mut all: Vec<CodeLens> = examples
        .iter()
        .filter_map(|case| of_case(text, case.span))
        .collect();
    for item in described.items().iter().filter(|item| item.is_form()) {
        let mut forms = language.definition().forms.iter();
        let form = forms.find(|form| form.name.text == item.name);
        if form.is_some_and(|form| form.examples.is_empty() && form.written.is_some()) {
            let title = "no example yet: add the smallest";
            let arguments = json!([uri, item.name]);
            all.push(lens(range(text, item.at), title, EXAMPLE, &arguments));
        }
    }
    let numbered = readings.iter().enumerate();
    for (number, one) in numbered.filter(|(_, one)| telling::is_about(one, &text.path)) {
        let span = one.place.as_ref().map(|place| place.span);
        let place = span.map_or_else(Range::default, |span| range(text, span));
        let title = "show both readings";
        all.push(lens(place, title, READINGS, &json!([uri, number])));
    }
    Some(all)
}

/// Does what is asked for; nothing when the answer comes later.
pub fn execute(server: &mut Server, request: Request) -> Option<Response> {
    let id = request.id.clone();
    let params: ExecuteCommandParams = match serde_json::from_value(request.params) {
        Ok(params) => params,
        Err(error) => {
            let code = ErrorCode::InvalidParams as i32;
            return Some(Response::new_err(id, code, error.to_string()));
        }
    };
    match executed(server, &params, &id) {
        Ok(Some(value)) => Some(Response::new_ok(id, value)),
        Ok(None) => None,
        Err(refusal) => Some(Response::new_err(id, refusal.code as i32, refusal.message)),
    }
}

fn executed(
    server: &mut Server,
    params: &ExecuteCommandParams,
    id: &RequestId,
) -> Result<Option<Value>, Refusal> {
    let gone = || Refusal::failed("this text is not open, or no language for it is found");
    let argument = |number: usize| params.arguments.get(number).cloned().unwrap_or_default();
    let uri: Uri = serde_json::from_value(argument(0))
        .map_err(|_| Refusal::failed("the first argument is the address of a text"))?;
    let source = server.source(&uri).ok_or_else(gone)?;
    match params.command.as_str() {
        RUN => {
            let path = server.texts.get(&uri).map(|text| text.path.clone());
            let path = path.ok_or_else(gone)?;
            let language = server.language_of(&path).ok_or_else(gone)?;
            server.errands.run(uri, source, language, id.clone());
            Ok(None)
        }
        CASE => {
            let start = argument(1).as_u64();
            let mut examples = server.examples_of(&uri).into_iter();
            let case: Option<Example> =
                examples.find(|case| Some(u64::from(case.span.start)) == start);
            let case = case.ok_or_else(|| Refusal::failed("no case begins there any more"))?;
            let language = server.language_for_cases(&uri).ok_or_else(gone)?;
            server.errands.case(uri, source, language, case, id.clone());
            Ok(None)
        }
        READINGS => {
            let number = argument(1).as_u64().unwrap_or_default() as usize;
            let readings = server.readings(&uri);
            let found = readings.get(number);
            let found = found.ok_or_else(|| Refusal::failed("that is not known any more"))?;
            let lines = std::iter::once(&found.message).chain(&found.why);
            let text = lines.cloned().collect::<Vec<String>>().join("\n");
            server.show(MessageType::INFO, text.clone());
            Ok(Some(Value::String(text)))
        }
        EXAMPLE => {
            let form = argument(1).as_str().unwrap_or_default().to_owned();
            let language = server.right_language(&uri).ok_or_else(gone)?;
            if end_of_form(&source, &form).is_none() {
                return Err(Refusal::failed("there is no such form"));
            }
            let request = id.clone();
            server.errands.example(uri, source, language, form, request);
            Ok(None)
        }
        other => Err(Refusal::failed(format!("{other} is not known here"))),
    }
}

/// Takes note of what an errand has come to.
pub fn done(server: &mut Server, done: Done) {
    let Done {
        uri,
        source,
        request,
        came,
    } = done;
    let is_fresh = server
        .source(&uri)
        .is_some_and(|now| now.text() == source.text());
    let answer = match came {
        Came::Ran(ending) => {
            let name = source.name().to_owned();
            server.show(MessageType::INFO, shown(&name, &ending));
            let answer = json!({
                "value": ending.value,
                "printed": ending.printed,
                "errors": ending.errors,
            });
            if is_fresh {
                server.note_run(&uri, ending);
            }
            server.ask::<CodeLensRefresh>(());
            answer
        }
        Came::Case(result) => {
            let verdict = match result.verdict {
                Verdict::Passed => "passes",
                Verdict::Failed => "fails",
                Verdict::Waiting => "waits for a clause",
            };
            let differences = result.differences.iter().map(
                |one| json!({ "what": one.what.words(), "expected": one.expected, "got": one.got }),
            );
            let answer = json!({
                "verdict": verdict,
                "differences": differences.collect::<Vec<Value>>(),
            });
            if is_fresh {
                server.note_case(&uri, *result);
                server.ask::<InlayHintRefreshRequest>(());
            }
            answer
        }
        Came::Readings(found) => {
            server.note_readings(&uri, source.text(), found);
            server.ask::<CodeLensRefresh>(());
            return;
        }
        Came::Example(form, clause) => {
            let place = end_of_form(&source, &form).filter(|_| is_fresh);
            if let (Some(place), Some(clause), Some(text)) =
                (place, &clause, server.texts.get(&uri))
            {
                let at = text.lines.position(&text.content, place);
                let change = TextEdit::new(Range::new(at, at), format!("\n{}", clause.trim_end()));
                let edit = edit(&uri, vec![change]);
                server.ask::<ApplyWorkspaceEdit>(ApplyWorkspaceEditParams {
                    label: Some("add the smallest example".to_owned()),
                    edit,
                });
            } else {
                let message = "no small program is found that has this form in it";
                server.show(MessageType::WARNING, message.to_owned());
            }
            json!(clause)
        }
        Came::Broke => {
            let message = "this has failed by a mistake in quillon itself".to_owned();
            match request {
                Some(request) => {
                    let code = ErrorCode::InternalError as i32;
                    server.say(&Message::Response(Response::new_err(
                        request, code, message,
                    )));
                }
                None => server.note_readings(&uri, source.text(), Vec::new()),
            }
            return;
        }
    };
    if let Some(request) = request {
        server.say(&Message::Response(Response::new_ok(request, answer)));
    }
}

/// Where the last line of a form ends.
fn end_of_form(source: &Arc<SourceText>, form: &str) -> Option<u32> {
    let described = Described::new(source);
    let mut items = described.items().iter();
    let item = items.find(|item| item.is_form() && item.name == form)?;
    Some(item.span.end)
}

/// What a run has come to, with the first lines of what it printed.
fn shown(name: &str, ending: &Ending) -> String {
    let mut lines = vec![format!("{name} {}", ending.outline())];
    lines.extend(ending.printed.lines().take(MOST_LINES).map(str::to_owned));
    let more = ending.printed.lines().count().saturating_sub(MOST_LINES);
    if more > 0 {
        lines.push(format!("and {more} lines more"));
    }
    lines.join("\n")
}

/// The name of the request that executes commands.
pub fn is_command(request: &Request) -> bool {
    request.method == ExecuteCommand::METHOD
}
