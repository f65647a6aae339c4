//! Diagnostics as editors show them.

use std::path::Path;

use lsp_types::{
    DiagnosticRelatedInformation, DiagnosticSeverity, DiagnosticTag, Location, NumberOrString,
    Range,
};
use quillon_core::diagnostic::{Diagnostic, Place, Severity};

use super::positions::Lines;
use super::server::Server;
use super::texts::{Text, uri_of};

/// Whether a diagnostic is about a file: one that names no place is about the file at hand.
pub fn is_about(one: &Diagnostic, path: &Path) -> bool {
    let place = one.place.as_ref();
    place.is_none_or(|place| Path::new(place.source.name()) == path)
}

/// A diagnostic of an open text.
pub fn diagnostic(server: &Server, text: &Text, one: &Diagnostic) -> lsp_types::Diagnostic {
    let span = one.place.as_ref().map(|place| place.span);
    let range = span.map_or_else(Range::default, |span| text.lines.range(&text.content, span));
    let related = one.related.iter().filter_map(|related| {
        Some(DiagnosticRelatedInformation {
            location: location(server, &related.place)?,
            message: related.label.clone(),
        })
    });
    let related: Vec<DiagnosticRelatedInformation> = related.collect();
    lsp_types::Diagnostic {
        range,
        severity: Some(match one.severity {
            Severity::Error => DiagnosticSeverity::ERROR,
            Severity::Warning => DiagnosticSeverity::WARNING,
            Severity::Note => DiagnosticSeverity::HINT,
        }),
        code: Some(NumberOrString::String(one.code.0.to_owned())),
        source: Some("quillon".to_owned()),
        message: message(one),
        related_information: (!related.is_empty()).then_some(related),
        tags: one.is_of_no_use().then(|| vec![DiagnosticTag::UNNECESSARY]),
        ..lsp_types::Diagnostic::default()
    }
}

/// The message, and below it the cause and what to try.
fn message(one: &Diagnostic) -> String {
    let mut lines = vec![one.message.clone()];
    lines.extend(one.why.iter().map(|why| format!("why: {why}")));
    lines.extend(one.remedies.iter().map(|remedy| format!("try: {remedy}")));
    lines.join("\n")
}

/// A place for the editor: in an open text, or in a file.
pub fn location(server: &Server, place: &Place) -> Option<Location> {
    let path = Path::new(place.source.name());
    let mut texts = server.texts.values();
    if let Some(text) = texts.find(|text| text.path == path) {
        return Some(Location {
            uri: text.uri.clone(),
            range: text.lines.range(&text.content, place.span),
        });
    }
    let text = place.source.text();
    let lines = Lines::new(text, server.unit);
    Some(Location {
        uri: uri_of(path)?,
        range: lines.range(text, place.span),
    })
}
