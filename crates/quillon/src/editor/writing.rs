//! Answers that change a program or help to write it.

use std::collections::HashMap;

use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, CodeActionParams, CompletionItem,
    CompletionItemKind, CompletionParams, CompletionResponse, CompletionTextEdit, Documentation,
    InlayHint, InlayHintKind, InlayHintLabel, InlayHintParams, InsertTextFormat,
    ParameterInformation, ParameterLabel, PrepareRenameResponse, RenameParams, SignatureHelp,
    SignatureHelpParams, SignatureInformation, TextDocumentPositionParams, TextEdit, Uri,
    WorkspaceEdit,
};
use quillon_core::diagnostic::Diagnostic;
use quillon_core::editing::{Call, Filling, What, snippet};
use quillon_core::source::Span;

use super::answers::Refusal;
use super::programs::{at, program, range};
use super::server::Server;
use super::telling;

pub fn renamable(
    server: &mut Server,
    params: &TextDocumentPositionParams,
) -> Result<Option<PrepareRenameResponse>, Refusal> {
    let Some(at) = at(server, params) else {
        return Ok(None);
    };
    let span = at.looked.renamable(at.offset).map_err(Refusal::failed)?;
    Ok(Some(PrepareRenameResponse::Range(range(at.text, span))))
}

pub fn renamed(
    server: &mut Server,
    params: &RenameParams,
) -> Result<Option<WorkspaceEdit>, Refusal> {
    let Some(at) = at(server, &params.text_document_position) else {
        return Ok(None);
    };
    let places = at.looked.renamed(at.offset, &params.new_name);
    let places = places.map_err(Refusal::failed)?.into_iter();
    let edits = places.map(|span| TextEdit::new(range(at.text, span), params.new_name.clone()));
    Ok(Some(edit(&at.text.uri, edits.collect())))
}

/// Changes of one text.
pub fn edit(uri: &Uri, edits: Vec<TextEdit>) -> WorkspaceEdit {
    WorkspaceEdit::new(HashMap::from([(uri.clone(), edits)]))
}

pub fn completion(server: &mut Server, params: &CompletionParams) -> Option<CompletionResponse> {
    let found = at(server, &params.text_document_position);
    found.map(|at| {
        let (span, candidates) = at.looked.candidates(at.offset);
        let range = range(at.text, span);
        let items = candidates
            .into_iter()
            .enumerate()
            .map(|(number, candidate)| {
                let has_form = !candidate.form.is_empty();
                let text = if has_form {
                    snippet(&candidate.form)
                } else {
                    candidate.text.clone()
                };
                CompletionItem {
                    label: candidate.text,
                    kind: Some(match candidate.filling {
                        Filling::Word if has_form => CompletionItemKind::SNIPPET,
                        Filling::Word => CompletionItemKind::KEYWORD,
                        Filling::Name(What::Function | What::BuiltInFunction) => {
                            CompletionItemKind::FUNCTION
                        }
                        Filling::Name(What::Constant | What::BuiltInConstant) => {
                            CompletionItemKind::CONSTANT
                        }
                        Filling::Name(What::Variable | What::Parameter) => {
                            CompletionItemKind::VARIABLE
                        }
                    }),
                    detail: Some(candidate.detail).filter(|detail| !detail.is_empty()),
                    documentation: Some(candidate.help)
                        .filter(|help| !help.is_empty())
                        .map(Documentation::String),
                    sort_text: Some(format!("{number:05}")),
                    insert_text_format: has_form.then_some(InsertTextFormat::SNIPPET),
                    text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, text))),
                    ..CompletionItem::default()
                }
            });
        CompletionResponse::Array(items.collect())
    })
}

pub fn signature(server: &mut Server, params: &SignatureHelpParams) -> Option<SignatureHelp> {
    let found = at(server, &params.text_document_position_params);
    found.and_then(|at| Some(consulted(at.looked.call_at(at.offset)?)))
}

/// A call that is being written, as editors show it.
pub fn consulted(call: Call) -> SignatureHelp {
    let label = format!("{}({})", call.function, call.parameters.join(", "));
    let parameters = call.parameters.into_iter();
    let parameters = parameters.map(|name| ParameterInformation {
        label: ParameterLabel::Simple(name),
        documentation: None,
    });
    SignatureHelp {
        signatures: vec![SignatureInformation {
            label,
            documentation: Some(call.help)
                .filter(|help| !help.is_empty())
                .map(Documentation::String),
            parameters: Some(parameters.collect()),
            active_parameter: None,
        }],
        active_signature: Some(0),
        active_parameter: Some(call.argument),
    }
}

pub fn actions(server: &mut Server, params: &CodeActionParams) -> Option<Vec<CodeActionOrCommand>> {
    let uri = &params.text_document.uri;
    let all: Vec<Diagnostic> = server.found(uri);
    let text = server.texts.get(uri)?;
    let asked = text.lines.span(&text.content, params.range);
    let touched = all.iter().filter(|one| {
        let span = one
            .place
            .as_ref()
            .map_or(Span::default(), |place| place.span);
        span.start <= asked.end && asked.start <= span.end && telling::is_about(one, &text.path)
    });
    let actions = touched.filter_map(|one| {
        let mend = one.mend()?;
        let title = one.remedies.first().map_or_else(
            || format!("write {}", mend.text.trim()),
            |remedy| {
                remedy
                    .trim_end_matches('?')
                    .replace("did you mean", "change to")
            },
        );
        let change = TextEdit::new(range(text, mend.place.span), mend.text);
        let told = telling::diagnostic(server, text, one);
        Some(CodeActionOrCommand::CodeAction(CodeAction {
            is_preferred: Some(true),
            ..quick_fix(uri, title, told, change)
        }))
    });
    let mut actions: Vec<CodeActionOrCommand> = actions.collect();
    let supplied = bindings(server, uri, params.range);
    actions.extend(supplied.unwrap_or_default());
    Some(actions)
}

/// Bindings for names that nothing binds.
fn bindings(
    server: &mut Server,
    uri: &Uri,
    asked: lsp_types::Range,
) -> Option<Vec<CodeActionOrCommand>> {
    let (text, looked) = program(server, uri)?;
    let asked = text.lines.span(&text.content, asked);
    let touched = looked.diagnostics().iter().filter(|one| {
        let place = one.place.as_ref();
        place.is_some_and(|place| place.span.start <= asked.end && asked.start <= place.span.end)
    });
    let bound = touched.filter_map(|one| Some((one, looked.supplied(one)?)));
    let bound: Vec<(Diagnostic, (u32, String))> =
        bound.map(|(one, found)| (one.clone(), found)).collect();
    let text = server.texts.get(uri)?;
    let actions = bound.into_iter().map(|(one, (at, written))| {
        let place = Span { start: at, end: at };
        let title = format!("bind it first: {}", written.trim());
        let change = TextEdit::new(range(text, place), written);
        let told = telling::diagnostic(server, text, &one);
        CodeActionOrCommand::CodeAction(quick_fix(uri, title, told, change))
    });
    Some(actions.collect())
}

/// A change that mends something that is wrong.
fn quick_fix(
    uri: &Uri,
    title: String,
    told: lsp_types::Diagnostic,
    change: TextEdit,
) -> CodeAction {
    CodeAction {
        title,
        kind: Some(CodeActionKind::QUICKFIX),
        diagnostics: Some(vec![told]),
        edit: Some(edit(uri, vec![change])),
        ..CodeAction::default()
    }
}

pub fn hints(server: &mut Server, params: &InlayHintParams) -> Option<Vec<InlayHint>> {
    let found = program(server, &params.text_document.uri);
    found.map(|(text, looked)| {
        let wanted = text.lines.span(&text.content, params.range);
        let hint = |offset: u32, label: String, kind| InlayHint {
            position: text.lines.position(&text.content, offset),
            label: InlayHintLabel::String(label),
            kind: Some(kind),
            text_edits: None,
            tooltip: None,
            padding_left: None,
            padding_right: Some(kind == InlayHintKind::PARAMETER),
            data: None,
        };
        let types = looked.types_of_names(wanted).into_iter();
        let types = types.map(|(at, of)| hint(at, format!(" : {of}"), InlayHintKind::TYPE));
        let names = looked.names_of_arguments(wanted).into_iter();
        let names = names.map(|(at, name)| hint(at, format!("{name}:"), InlayHintKind::PARAMETER));
        types.chain(names).collect()
    })
}
