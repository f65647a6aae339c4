//! Answers about the look of definitions and case files.

use std::sync::Arc;

use lsp_types::{
    SelectionRange, SelectionRangeParams, SemanticTokensParams, SemanticTokensResult, Uri,
};
use quillon_core::editing::{Described, around_in_notation, colours_of_notation};
use quillon_core::source::SourceText;

use super::languages::definition_near;
use super::programs::{coloured, nested};
use super::server::Server;
use super::texts::Sort;

/// A text in the notation, if it is one.
fn source(server: &Server, uri: &Uri) -> Option<Arc<SourceText>> {
    let text = server.texts.get(uri)?;
    (text.sort != Sort::Program).then(|| server.source(uri))?
}

pub fn selections(server: &Server, params: &SelectionRangeParams) -> Option<Vec<SelectionRange>> {
    let uri = &params.text_document.uri;
    let source = source(server, uri)?;
    let text = server.texts.get(uri)?;
    let around = |offset| around_in_notation(&source, offset);
    Some(nested(text, params, around))
}

pub fn colours(server: &Server, params: &SemanticTokensParams) -> Option<SemanticTokensResult> {
    let uri = &params.text_document.uri;
    let source = source(server, uri)?;
    let text = server.texts.get(uri)?;
    // A case file names what its definition has.
    let definition = match text.sort {
        Sort::Program | Sort::Definition => None,
        Sort::Cases => definition_near(&text.path).and_then(|path| server.content(&path)),
    };
    let definition = definition.map(|text| SourceText::new("definition", text));
    let described = Described::new(definition.as_ref().unwrap_or(&source));
    let colours = colours_of_notation(&source, &described);
    Some(coloured(text, server.unit, colours))
}
