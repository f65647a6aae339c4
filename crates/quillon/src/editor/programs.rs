//! Answers about programs.

use std::rc::Rc;

use lsp_types::{
    DocumentHighlight, DocumentHighlightKind, DocumentHighlightParams, DocumentSymbol,
    DocumentSymbolParams, DocumentSymbolResponse, FoldingRange, FoldingRangeKind,
    FoldingRangeParams, GotoDefinitionParams, GotoDefinitionResponse, Hover, HoverContents,
    HoverParams, Location, MarkupContent, MarkupKind, ReferenceParams, SelectionRange,
    SelectionRangeParams, SemanticToken, SemanticTokenModifier, SemanticTokenType, SemanticTokens,
    SemanticTokensLegend, SemanticTokensParams, SemanticTokensResult, SymbolKind,
    TextDocumentPositionParams, Uri,
};
use quillon_core::editing::{About, Coloured, Looked, Role, Symbol, What};
use quillon_core::source::Span;

use super::positions::Unit;
use super::server::Server;
use super::texts::Text;

/// A program that is open, with a place in it.
pub struct At<'s> {
    pub text: &'s Text,
    pub looked: Rc<Looked>,
    pub offset: u32,
}

pub fn at<'s>(server: &'s mut Server, place: &TextDocumentPositionParams) -> Option<At<'s>> {
    let uri = &place.text_document.uri;
    let looked = server.looked(uri)?;
    let text = server.texts.get(uri)?;
    let offset = text.lines.offset(&text.content, place.position);
    Some(At {
        text,
        looked,
        offset,
    })
}

/// A program that is open.
pub fn program<'s>(server: &'s mut Server, uri: &Uri) -> Option<(&'s Text, Rc<Looked>)> {
    let looked = server.looked(uri)?;
    Some((server.texts.get(uri)?, looked))
}

pub fn range(text: &Text, span: Span) -> lsp_types::Range {
    text.lines.range(&text.content, span)
}

pub fn hover(server: &mut Server, params: &HoverParams) -> Option<Hover> {
    let found = at(server, &params.text_document_position_params);
    found.and_then(|at| {
        let about = at.looked.about(at.offset)?;
        Some(Hover {
            contents: HoverContents::Markup(MarkupContent {
                kind: MarkupKind::Markdown,
                value: in_words(&at.looked, &about),
            }),
            range: Some(range(at.text, about.span)),
        })
    })
}

/// What is known of a place, as Markdown.
fn in_words(looked: &Looked, about: &About) -> String {
    let mut parts = Vec::new();
    if let Some(name) = &about.name {
        let shown = name.signature.as_ref().unwrap_or(&name.name);
        let shown = match &name.type_of {
            Some(of) => format!("{shown} : {of}"),
            None => shown.clone(),
        };
        parts.push(format!("{} {}", word(name.what), code(&shown)));
        if !name.help.is_empty() {
            parts.push(name.help.clone());
        }
        if let Some(bound) = name.bound {
            let line = looked.source().line_of(bound.start);
            parts.push(format!("bound in line {line}"));
        }
    }
    if about.name.is_some() {
        return parts.join("\n\n");
    }
    if let Some(token) = &about.token {
        parts.push(match &about.held {
            Some(held) => format!("token {token}, holds {}", code(held)),
            None => format!("token {token}"),
        });
    }
    if let Some(form) = &about.form {
        let type_of = form.type_of.as_ref().map(|of| format!(" : {}", code(of)));
        parts.push(format!(
            "form **{}**{}",
            form.name,
            type_of.unwrap_or_default()
        ));
        if !form.remark.is_empty() {
            parts.push(form.remark.clone());
        }
        if !form.written.is_empty() {
            parts.push(format!("written {}", code(&form.written)));
        }
    }
    parts.join("\n\n")
}

/// A text as code in Markdown, whatever backquotes it has.
fn code(text: &str) -> String {
    let text = text.replace('\n', " ");
    if text.contains('`') {
        format!("`` {text} ``")
    } else {
        format!("`{text}`")
    }
}

fn word(what: What) -> &'static str {
    match what {
        What::Variable => "variable",
        What::Constant => "constant",
        What::Parameter => "parameter",
        What::Function => "function",
        What::BuiltInFunction => "built-in function",
        What::BuiltInConstant => "built-in constant",
    }
}

pub fn definition(
    server: &mut Server,
    params: &GotoDefinitionParams,
) -> Option<GotoDefinitionResponse> {
    let found = at(server, &params.text_document_position_params);
    found.and_then(|at| {
        let span = at.looked.bound_at(at.offset)?;
        Some(GotoDefinitionResponse::Scalar(Location {
            uri: at.text.uri.clone(),
            range: range(at.text, span),
        }))
    })
}

pub fn references(server: &mut Server, params: &ReferenceParams) -> Option<Vec<Location>> {
    let with_binding = params.context.include_declaration;
    let found = at(server, &params.text_document_position);
    found.map(|at| {
        let all = at.looked.standings(at.offset).into_iter();
        let wanted = all.filter(|one| with_binding || !one.binds);
        wanted
            .map(|one| Location {
                uri: at.text.uri.clone(),
                range: range(at.text, one.span),
            })
            .collect()
    })
}

pub fn highlights(
    server: &mut Server,
    params: &DocumentHighlightParams,
) -> Option<Vec<DocumentHighlight>> {
    let found = at(server, &params.text_document_position_params);
    found.map(|at| {
        let all = at.looked.standings(at.offset).into_iter();
        all.map(|one| DocumentHighlight {
            range: range(at.text, one.span),
            kind: Some(if one.binds || one.changes {
                DocumentHighlightKind::WRITE
            } else {
                DocumentHighlightKind::READ
            }),
        })
        .collect()
    })
}

pub fn symbols(
    server: &mut Server,
    params: &DocumentSymbolParams,
) -> Option<DocumentSymbolResponse> {
    let (text, looked) = program(server, &params.text_document.uri)?;
    let all = looked.outline();
    Some(DocumentSymbolResponse::Nested(
        all.into_iter().map(|one| symbol(text, one)).collect(),
    ))
}

fn symbol(text: &Text, one: Symbol) -> DocumentSymbol {
    let kind = match one.what {
        What::Function | What::BuiltInFunction => SymbolKind::FUNCTION,
        What::Constant | What::BuiltInConstant => SymbolKind::CONSTANT,
        What::Variable | What::Parameter => SymbolKind::VARIABLE,
    };
    let inside = one
        .inside
        .into_iter()
        .map(|inner| symbol(text, inner))
        .collect();
    named_symbol(text, one.name, kind, [one.span, one.at], inside)
}

/// A symbol with all of it and its name.
#[expect(
    deprecated,
    reason = "the type cannot be made without its deprecated field"
)]
pub fn named_symbol(
    text: &Text,
    name: String,
    kind: SymbolKind,
    [span, at]: [Span; 2],
    inside: Vec<DocumentSymbol>,
) -> DocumentSymbol {
    DocumentSymbol {
        name,
        detail: None,
        kind,
        tags: None,
        deprecated: None,
        range: range(text, span),
        selection_range: range(text, at),
        children: (!inside.is_empty()).then_some(inside),
    }
}

pub fn foldings(server: &mut Server, params: &FoldingRangeParams) -> Option<Vec<FoldingRange>> {
    let found = program(server, &params.text_document.uri);
    found.map(|(text, looked)| {
        let all = looked.foldings().into_iter();
        all.map(|(span, is_comment)| {
            let range = range(text, span);
            FoldingRange {
                start_line: range.start.line,
                end_line: range.end.line,
                kind: is_comment.then_some(FoldingRangeKind::Comment),
                ..FoldingRange::default()
            }
        })
        .collect()
    })
}

pub fn selections(
    server: &mut Server,
    params: &SelectionRangeParams,
) -> Option<Vec<SelectionRange>> {
    let found = program(server, &params.text_document.uri);
    found.map(|(text, looked)| nested(text, params, |offset| looked.around(offset)))
}

/// The stretches around each of the places asked for.
pub fn nested(
    text: &Text,
    params: &SelectionRangeParams,
    around: impl Fn(u32) -> Vec<Span>,
) -> Vec<SelectionRange> {
    let one = |place: &lsp_types::Position| {
        let spans = around(text.lines.offset(&text.content, *place)).into_iter();
        let nested = spans
            .rev()
            .fold(None, |outer: Option<SelectionRange>, span| {
                Some(SelectionRange {
                    range: range(text, span),
                    parent: outer.map(Box::new),
                })
            });
        nested.unwrap_or(SelectionRange {
            range: lsp_types::Range::new(*place, *place),
            parent: None,
        })
    };
    params.positions.iter().map(one).collect()
}

/// What tokens can be, in the order of their numbers.
pub fn legend() -> SemanticTokensLegend {
    SemanticTokensLegend {
        token_types: vec![
            SemanticTokenType::KEYWORD,
            SemanticTokenType::OPERATOR,
            SemanticTokenType::NUMBER,
            SemanticTokenType::STRING,
            SemanticTokenType::COMMENT,
            SemanticTokenType::VARIABLE,
            SemanticTokenType::PARAMETER,
            SemanticTokenType::FUNCTION,
            SemanticTokenType::TYPE,
        ],
        token_modifiers: vec![
            SemanticTokenModifier::DECLARATION,
            SemanticTokenModifier::MODIFICATION,
            SemanticTokenModifier::READONLY,
            SemanticTokenModifier::DEFAULT_LIBRARY,
        ],
    }
}

/// The number of a role, and the bits of what else is said of it.
fn numbered(role: Role) -> (u32, u32) {
    const READONLY: u32 = 1 << 2;
    const LIBRARY: u32 = 1 << 3;
    match role {
        Role::Keyword => (0, 0),
        Role::Operator => (1, 0),
        Role::Number => (2, 0),
        Role::Text => (3, 0),
        Role::Comment => (4, 0),
        Role::Kind => (8, 0),
        Role::Name {
            what,
            binds,
            changes,
        } => {
            let (kind, more) = match what {
                What::Variable => (5, 0),
                What::Constant => (5, READONLY),
                What::Parameter => (6, 0),
                What::Function => (7, 0),
                What::BuiltInFunction => (7, LIBRARY),
                What::BuiltInConstant => (5, READONLY | LIBRARY),
            };
            (kind, more | u32::from(binds) | u32::from(changes) << 1)
        }
    }
}

pub fn colours(server: &mut Server, params: &SemanticTokensParams) -> Option<SemanticTokensResult> {
    let unit = server.unit;
    let found = program(server, &params.text_document.uri);
    found.map(|(text, looked)| coloured(text, unit, looked.colours()))
}

/// The roles of tokens as the protocol has them: each from where the one before begins.
pub fn coloured(text: &Text, unit: Unit, colours: Vec<Coloured>) -> SemanticTokensResult {
    let mut data = Vec::new();
    let (mut line, mut character) = (0, 0);
    for coloured in colours {
        let (token_type, modifiers) = numbered(coloured.role);
        // A token of several lines is several for editors.
        let whole = &text.content[coloured.span.range()];
        let mut start = coloured.span.start;
        for part in whole.split_inclusive('\n') {
            let shown = part.trim_end_matches(['\n', '\r']);
            let place = text.lines.position(&text.content, start);
            start += part.len() as u32;
            if shown.is_empty() {
                continue;
            }
            let delta_line = place.line - line;
            data.push(SemanticToken {
                delta_line,
                delta_start: if delta_line == 0 {
                    place.character - character
                } else {
                    place.character
                },
                length: unit.length(shown),
                token_type,
                token_modifiers_bitset: modifiers,
            });
            (line, character) = (place.line, place.character);
        }
    }
    SemanticTokensResult::Tokens(SemanticTokens {
        result_id: None,
        data,
    })
}
