//! Answers about case files, and where they name what a definition has.

use std::collections::HashMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use lsp_types::{
    CompletionParams, CompletionResponse, GotoDefinitionParams, GotoDefinitionResponse, Hover,
    HoverParams, Location, TextDocumentPositionParams, TextEdit, Uri,
};
use quillon_core::editing::{Cased, Described, Named};
use quillon_core::source::{SourceText, Span};

use super::definitions::{completed, explained};
use super::languages::definition_near;
use super::positions::Lines;
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

/// Every place in the case files of a definition where a name of it stands.
pub fn places(server: &Server, definition: &Path, named: &Named) -> Vec<Location> {
    let places = files::cases_of(definition).into_iter().flat_map(|path| {
        let text = server.content(&path).unwrap_or_default();
        let spans = Cased::new(&SourceText::new("cases", text.clone())).standings(named);
        let mut open = server.texts.values();
        let open = open.find(|text| text.path == path);
        let uri = open.map(|text| text.uri.clone()).or_else(|| uri_of(&path));
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
