//! Answers about case files, and where they name what a definition has.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use lsp_types::{
    CompletionParams, CompletionResponse, GotoDefinitionParams, GotoDefinitionResponse, Hover,
    HoverParams, Location, PrepareRenameResponse, RenameParams, TextDocumentPositionParams,
    TextEdit, Uri, WorkspaceEdit,
};
use quillon_core::editing::{Cased, Described, Named};
use quillon_core::source::{SourceText, Span};

use super::answers::Refusal;
use super::definitions::{completed, explained};
use super::languages::definition_near;
use super::positions::Lines;
use super::programs::range;
use super::server::Server;
use super::texts::{Sort, uri_of};
use crate::files;

/// A case file that is open, the definition it is about, and a place in it.
struct At {
    uri: Uri,
    cased: Cased,
    offset: u32,
    /// Where the definition is, and its text.
    path: PathBuf,
    definition: Arc<SourceText>,
    described: Described,
}

impl At {
    /// What is named at the place, and where the definition has it.
    fn named(&self) -> Option<(Span, Named)> {
        let defined = self.cased.defined_at(self.offset, &self.described)?;
        Some((defined, self.described.named_at(defined.start)?))
    }
}

/// Why there is nothing to be renamed.
const NO_NAME: &str = "nothing that has a name in the definition stands here";

fn at(server: &mut Server, place: &TextDocumentPositionParams) -> Option<At> {
    let uri = &place.text_document.uri;
    let text = server.texts.get(uri)?;
    if text.sort != Sort::Cases {
        return None;
    }
    let offset = text.lines.offset(&text.content, place.position);
    let near = text.path.clone();
    let source = server.source(uri)?;
    let path = definition_near(&near)?;
    let definition = SourceText::new("definition", server.content(&path)?);
    Some(At {
        uri: uri.clone(),
        cased: Cased::new(&source),
        offset,
        path,
        described: Described::new(&definition),
        definition,
    })
}

pub fn hover(server: &mut Server, params: &HoverParams) -> Option<Hover> {
    let at = at(server, &params.text_document_position_params)?;
    let (span, value) = at.cased.about(at.offset, &at.described)?;
    Some(explained(server.texts.get(&at.uri)?, span, value))
}

pub fn definition(
    server: &mut Server,
    params: &GotoDefinitionParams,
) -> Option<GotoDefinitionResponse> {
    let at = at(server, &params.text_document_position_params)?;
    let span = at.cased.defined_at(at.offset, &at.described)?;
    let lines = Lines::new(at.definition.text(), server.unit);
    Some(GotoDefinitionResponse::Scalar(Location {
        uri: uri_of(&at.path)?,
        range: lines.range(at.definition.text(), span),
    }))
}

pub fn completion(server: &mut Server, params: &CompletionParams) -> Option<CompletionResponse> {
    let at = at(server, &params.text_document_position)?;
    let candidates = at.cased.candidates(at.offset, &at.described);
    Some(completed(server.texts.get(&at.uri)?, candidates))
}

/// Whether the name at a place can be exchanged; nothing if the text is no case file.
pub fn renamable(
    server: &mut Server,
    params: &TextDocumentPositionParams,
) -> Option<Result<PrepareRenameResponse, Refusal>> {
    let at = at(server, params)?;
    let text = server.texts.get(&at.uri)?;
    let found = at.named().and_then(|_| at.cased.span_at(at.offset));
    let found = found.map(|span| PrepareRenameResponse::Range(range(text, span)));
    Some(found.ok_or_else(|| Refusal::failed(NO_NAME)))
}

/// A new name for something that a case file names, in the definition and in all its case files; nothing
/// if the text is none.
pub fn renamed(
    server: &mut Server,
    params: &RenameParams,
) -> Option<Result<WorkspaceEdit, Refusal>> {
    let at = at(server, &params.text_document_position)?;
    let name = &params.new_name;
    let Some((defined, named)) = at.named() else {
        return Some(Err(Refusal::failed(NO_NAME)));
    };
    Some(match at.described.renamed(defined.start, name) {
        Ok(spans) => {
            let mut found = places(server, &at.path, &named);
            let uri = address(server, &at.path)?;
            let lines = Lines::new(at.definition.text(), server.unit);
            found.extend(spans.into_iter().map(|span| Location {
                uri: uri.clone(),
                range: lines.range(at.definition.text(), span),
            }));
            Ok(WorkspaceEdit::new(edits(found, name)))
        }
        Err(why) => Err(Refusal::failed(why)),
    })
}

/// What the editor calls a file.
fn address(server: &Server, path: &Path) -> Option<Uri> {
    let mut open = server.texts.values();
    let open = open.find(|text| text.path == path);
    open.map(|text| text.uri.clone()).or_else(|| uri_of(path))
}

/// Every place in the case files of a definition where a name of it stands.
pub fn places(server: &Server, definition: &Path, named: &Named) -> Vec<Location> {
    let places = files::cases_of(definition).into_iter().flat_map(|path| {
        let text = server.content(&path).unwrap_or_default();
        let spans = Cased::new(&SourceText::new("cases", text.clone())).standings(named);
        let uri = address(server, &path);
        let location = |span: Span| {
            Some(Location {
                uri: uri.clone()?,
                range: Lines::new(&text, server.unit).range(&text, span),
            })
        };
        spans.into_iter().filter_map(location).collect::<Vec<_>>()
    });
    places.collect()
}

/// A new text at some places, by their files.
#[expect(
    clippy::mutable_key_type,
    reason = "the protocol has addresses for keys; nothing in them changes"
)]
pub fn edits(places: Vec<Location>, text: &str) -> HashMap<Uri, Vec<TextEdit>> {
    let mut edits: HashMap<Uri, Vec<TextEdit>> = HashMap::new();
    for place in places {
        let edit = TextEdit::new(place.range, text.to_owned());
        edits.entry(place.uri).or_default().push(edit);
    }
    edits
}
