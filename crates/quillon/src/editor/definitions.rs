//! Answers about definitions.

use lsp_types::{DocumentSymbol, DocumentSymbolParams, DocumentSymbolResponse, SymbolKind};
use quillon_core::editing::{Item, items};

use super::programs::named_symbol;
use super::server::Server;
use super::texts::{Sort, Text};
use quillon_core::source::SourceText;

/// The items of a definition, or nothing if the text is none.
pub fn symbols(server: &Server, params: &DocumentSymbolParams) -> Option<DocumentSymbolResponse> {
    let text = server.texts.get(&params.text_document.uri)?;
    if text.sort != Sort::Definition {
        return None;
    }
    let source = SourceText::new("definition", text.content.clone());
    let all = items(&source).into_iter();
    let symbols = all.map(|item| symbol(text, item));
    Some(DocumentSymbolResponse::Nested(symbols.collect()))
}

fn symbol(text: &Text, item: Item) -> DocumentSymbol {
    let kind = match (item.is_form, item.inside.is_empty()) {
        (true, _) => SymbolKind::CLASS,
        (false, true) => SymbolKind::PROPERTY,
        (false, false) => SymbolKind::NAMESPACE,
    };
    let inside = item.inside.into_iter().map(|inner| symbol(text, inner));
    let inside = inside.collect();
    named_symbol(text, item.name, kind, [item.span, item.at], inside)
}
