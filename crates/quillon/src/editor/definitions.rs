//! Answers about definitions.

use lsp_types::{
    CompletionItem, CompletionItemKind, CompletionParams, CompletionResponse, CompletionTextEdit,
    DocumentHighlight, DocumentHighlightParams, DocumentSymbol, DocumentSymbolParams,
    DocumentSymbolResponse, FoldingRange, FoldingRangeParams, GotoDefinitionParams,
    GotoDefinitionResponse, Hover, HoverContents, HoverParams, InlayHint, InlayHintLabel,
    InlayHintParams, Location, MarkupContent, MarkupKind, PrepareRenameResponse, ReferenceParams,
    RenameParams, SignatureHelp, SignatureHelpParams, SymbolKind, TextDocumentPositionParams,
    TextEdit, Uri, WorkspaceEdit,
};
use quillon_core::editing::{Described, Item, ItemKind};
use quillon_core::source::{SourceText, Span};
use quillon_core::testing::Verdict;

use super::answers::Refusal;
use super::cases;
use super::programs::{named_symbol, range};
use super::server::Server;
use super::texts::{Sort, Text};
use super::writing;

/// A definition that is open, with what is in it.
fn described<'s>(server: &'s Server, uri: &Uri) -> Option<(&'s Text, Described)> {
    let (text, described) = in_items(server, uri)?;
    (text.sort == Sort::Definition).then_some((text, described))
}

/// A definition or a case file that is open, with its items.
fn in_items<'s>(server: &'s Server, uri: &Uri) -> Option<(&'s Text, Described)> {
    let text = server.texts.get(uri)?;
    if text.sort == Sort::Program {
        return None;
    }
    let source = SourceText::new("definition", text.content.clone());
    Some((text, Described::new(&source)))
}

/// The same with a place in it.
fn at<'s>(
    server: &'s Server,
    place: &TextDocumentPositionParams,
) -> Option<(&'s Text, Described, u32)> {
    let (text, described) = described(server, &place.text_document.uri)?;
    let offset = text.lines.offset(&text.content, place.position);
    Some((text, described, offset))
}

/// The items of a definition, or the cases of a file.
pub fn symbols(server: &Server, params: &DocumentSymbolParams) -> Option<DocumentSymbolResponse> {
    let (text, described) = in_items(server, &params.text_document.uri)?;
    let symbols = described.items().iter().map(|item| symbol(text, item));
    Some(DocumentSymbolResponse::Nested(symbols.collect()))
}

fn symbol(text: &Text, item: &Item) -> DocumentSymbol {
    let kind = match item.kind {
        ItemKind::Form => SymbolKind::CLASS,
        ItemKind::Helper => SymbolKind::FUNCTION,
        ItemKind::Line => SymbolKind::FIELD,
        ItemKind::Other => SymbolKind::NAMESPACE,
    };
    let inside = item.inside.iter().map(|inner| symbol(text, inner));
    let inside = inside.collect();
    named_symbol(text, item.name.clone(), kind, [item.span, item.at], inside)
}

pub fn hover(server: &Server, params: &HoverParams) -> Option<Hover> {
    let (text, described, offset) = at(server, &params.text_document_position_params)?;
    let (span, value) = described.about(offset)?;
    Some(explained(text, span, value))
}

/// A stretch with what is said of it, in Markdown.
pub fn explained(text: &Text, span: Span, value: String) -> Hover {
    Hover {
        contents: HoverContents::Markup(MarkupContent {
            kind: MarkupKind::Markdown,
            value,
        }),
        range: Some(range(text, span)),
    }
}

pub fn definition(
    server: &Server,
    params: &GotoDefinitionParams,
) -> Option<GotoDefinitionResponse> {
    let (text, described, offset) = at(server, &params.text_document_position_params)?;
    let span = described.defined_at(offset)?;
    Some(GotoDefinitionResponse::Scalar(Location {
        uri: text.uri.clone(),
        range: range(text, span),
    }))
}

pub fn references(server: &Server, params: &ReferenceParams) -> Option<Vec<Location>> {
    let (text, described, offset) = at(server, &params.text_document_position)?;
    let defined = described.defined_at(offset);
    let with_defined = params.context.include_declaration;
    let all = described.standings(offset).into_iter();
    let wanted = all.filter(|span| with_defined || Some(*span) != defined);
    let location = |span| Location {
        uri: text.uri.clone(),
        range: range(text, span),
    };
    let mut found: Vec<Location> = wanted.map(location).collect();
    if let Some(named) = described.named_at(offset) {
        found.extend(cases::places(server, &text.path, &named));
    }
    Some(found)
}

pub fn highlights(
    server: &Server,
    params: &DocumentHighlightParams,
) -> Option<Vec<DocumentHighlight>> {
    let (text, described, offset) = at(server, &params.text_document_position_params)?;
    let all = described.standings(offset).into_iter();
    let highlight = |span| DocumentHighlight {
        range: range(text, span),
        kind: None,
    };
    Some(all.map(highlight).collect())
}

pub fn foldings(server: &Server, params: &FoldingRangeParams) -> Option<Vec<FoldingRange>> {
    let (text, described) = in_items(server, &params.text_document.uri)?;
    let all = described.items().iter().map(|item| range(text, item.span));
    let several = all.filter(|range| range.start.line < range.end.line);
    let folding = |range: lsp_types::Range| FoldingRange {
        start_line: range.start.line,
        end_line: range.end.line,
        ..FoldingRange::default()
    };
    Some(several.map(folding).collect())
}

pub fn completion(server: &Server, params: &CompletionParams) -> Option<CompletionResponse> {
    let (text, described, offset) = at(server, &params.text_document_position)?;
    Some(completed(text, described.candidates(offset)))
}

/// What could stand in a stretch.
pub fn completed(text: &Text, (span, candidates): (Span, Vec<String>)) -> CompletionResponse {
    let range = range(text, span);
    let item = |(number, name): (usize, String)| CompletionItem {
        kind: Some(if name.contains('.') {
            CompletionItemKind::FUNCTION
        } else {
            CompletionItemKind::KEYWORD
        }),
        sort_text: Some(format!("{number:05}")),
        text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, name.clone()))),
        label: name,
        ..CompletionItem::default()
    };
    let items = candidates.into_iter().enumerate().map(item);
    CompletionResponse::Array(items.collect())
}

pub fn signature(server: &Server, params: &SignatureHelpParams) -> Option<SignatureHelp> {
    let (_, described, offset) = at(server, &params.text_document_position_params)?;
    Some(writing::consulted(described.call_at(offset)?))
}

/// Whether the name at a place can be exchanged; nothing if the text is no definition.
pub fn renamable(
    server: &Server,
    params: &TextDocumentPositionParams,
) -> Option<Result<PrepareRenameResponse, Refusal>> {
    let (text, described, offset) = at(server, params)?;
    let span = described.renamable(offset);
    let found = span.map(|span| PrepareRenameResponse::Range(range(text, span)));
    Some(found.map_err(Refusal::failed))
}

/// A new name everywhere where an old one stands for the same; nothing if the text is no definition.
pub fn renamed(server: &Server, params: &RenameParams) -> Option<Result<WorkspaceEdit, Refusal>> {
    let (text, described, offset) = at(server, &params.text_document_position)?;
    let name = &params.new_name;
    Some(match described.renamed(offset, name) {
        Ok(spans) => {
            let named = described.named_at(offset);
            let mut places =
                named.map_or_else(Vec::new, |named| cases::places(server, &text.path, &named));
            places.extend(spans.into_iter().map(|span| Location {
                uri: text.uri.clone(),
                range: range(text, span),
            }));
            Ok(WorkspaceEdit::new(cases::edits(places, name)))
        }
        Err(why) => Err(Refusal::failed(why)),
    })
}

/// Behind each example that has been run, what came of it.
pub fn hints(server: &Server, params: &InlayHintParams) -> Option<Vec<InlayHint>> {
    let text = server.texts.get(&params.text_document.uri)?;
    if text.sort == Sort::Program {
        return None;
    }
    let asked = text.lines.span(&text.content, params.range);
    let results = server.results(&text.uri).iter();
    let seen = results.filter(|result| {
        let end = result.span.end;
        asked.start <= end && end <= asked.end && end as usize <= text.content.len()
    });
    let hint = |result: &quillon_core::testing::CaseResult| {
        let label = match result.verdict {
            Verdict::Passed => "passes".to_owned(),
            Verdict::Waiting => "waits for a clause".to_owned(),
            Verdict::Failed => match result.differences.first() {
                Some(difference) => format!("fails: got {}", difference.got.trim()),
                None => "fails".to_owned(),
            },
        };
        let line = text.lines.position(&text.content, result.span.end).line;
        InlayHint {
            position: text.lines.end_of(&text.content, line),
            label: InlayHintLabel::String(label),
            kind: None,
            text_edits: None,
            tooltip: None,
            padding_left: Some(true),
            padding_right: None,
            data: None,
        }
    };
    Some(seen.map(hint).collect())
}
