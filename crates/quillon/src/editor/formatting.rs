//! Answers that put the blanks of a text in order.

use lsp_types::{
    DocumentFormattingParams, DocumentOnTypeFormattingParams, DocumentRangeFormattingParams,
    FormattingOptions, TextEdit, Uri,
};
use quillon_core::editing::{Blanks, Indent, arranged, begun};
use quillon_core::source::Span;

use super::answers::Refusal;
use super::programs::{at, program, range};
use super::server::Server;
use super::texts::{Sort, Text};

/// What makes an editor ask how the line is to stand.
pub const FIRST_TRIGGER: &str = "\n";
/// More of them: what closes a bracket.
pub const MORE_TRIGGERS: [&str; 3] = ["}", ")", "]"];

type Edits = Result<Option<Vec<TextEdit>>, Refusal>;

/// The most blanks that a step may have.
const WIDEST_STEP: u32 = 32;

fn indent(options: &FormattingOptions) -> Indent {
    if options.insert_spaces {
        Indent::of_blanks(options.tab_size.min(WIDEST_STEP) as usize)
    } else {
        Indent::of_tabs()
    }
}

fn edits(text: &Text, blanks: Vec<Blanks>) -> Vec<TextEdit> {
    let edit = |(span, blanks)| TextEdit::new(range(text, span), blanks);
    blanks.into_iter().map(edit).collect()
}

/// The changes of a text, those that pass.
fn tidied(
    server: &mut Server,
    uri: &Uri,
    options: &FormattingOptions,
    pass: impl Fn(&Text, Span) -> bool,
) -> Edits {
    let is_program = server.texts.get(uri).map(|text| text.sort == Sort::Program);
    let blanks = match is_program {
        Some(true) => program(server, uri).map(|(_, looked)| looked.tidied(&indent(options))),
        Some(false) => server.source(uri).map(|source| arranged(&source)),
        None => None,
    };
    let (Some(blanks), Some(text)) = (blanks, server.texts.get(uri)) else {
        return Ok(None);
    };
    let mut blanks = blanks.map_err(Refusal::failed)?;
    blanks.retain(|(span, _)| pass(text, *span));
    Ok(Some(edits(text, blanks)))
}

pub fn file(server: &mut Server, params: &DocumentFormattingParams) -> Edits {
    let uri = &params.text_document.uri;
    tidied(server, uri, &params.options, |_, _| true)
}

pub fn stretch(server: &mut Server, params: &DocumentRangeFormattingParams) -> Edits {
    let uri = &params.text_document.uri;
    tidied(server, uri, &params.options, |text, span| {
        let asked = text.lines.span(&text.content, params.range);
        asked.start <= span.end && span.start <= asked.end
    })
}

/// The line of a definition or a case file that is being written.
pub fn line_of_notation(
    server: &mut Server,
    params: &DocumentOnTypeFormattingParams,
) -> Option<Vec<TextEdit>> {
    let place = &params.text_document_position;
    let uri = &place.text_document.uri;
    if server.texts.get(uri)?.sort == Sort::Program {
        return None;
    }
    let source = server.source(uri)?;
    let text = server.texts.get(uri)?;
    let changed = if params.ch == FIRST_TRIGGER {
        begun(&source, text.lines.offset(&text.content, place.position))
    } else {
        let all = arranged(&source).unwrap_or_default();
        change_of_line(text, all, place.position.line)
    };
    let changed = changed.filter(|(span, blanks)| source.slice(*span) != blanks);
    Some(edits(text, changed.into_iter().collect()))
}

/// The change of the blanks that a line begins with.
fn change_of_line(text: &Text, all: Vec<Blanks>, line: u32) -> Option<Blanks> {
    all.into_iter()
        .find(|(span, _)| text.lines.position(&text.content, span.end).line == line)
}

/// The line that is being written: as the program has it if it is right, and otherwise as the brackets
/// before it say.
pub fn line(server: &mut Server, params: &DocumentOnTypeFormattingParams) -> Option<Vec<TextEdit>> {
    let place = &params.text_document_position;
    let at = at(server, place)?;
    let indent = indent(&params.options);
    let is_begun = params.ch == FIRST_TRIGGER;
    let whole = (!is_begun).then(|| at.looked.tidied(&indent).ok());
    let changed = match whole.flatten() {
        Some(blanks) => change_of_line(at.text, blanks, place.position.line),
        None => at.looked.begun_line(at.offset, &indent),
    };
    let changed = changed.filter(|(span, blanks)| at.looked.source().slice(*span) != blanks);
    Some(edits(at.text, changed.into_iter().collect()))
}
