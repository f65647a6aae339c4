//! Items: dispatches each to the reader of its clauses.

use std::sync::Arc;

use super::cursor::Cursor;
use super::form::written;
use super::include;
use super::lexer::Mode;
use super::line::{
    extensions, layout, parameters, precedence_head, provided, state_cell, token_rule,
};
use super::lines::{Item, items};
use super::meaning::meaning;
use super::typed::own_type;
use crate::definition::model::fields_of;
use crate::definition::model::{
    Definition, Grouping, Helper, Level, Message, Name, PrecedenceTable, Surface,
};
use crate::definition::model::{pieces, spell_out};
use crate::diagnostic::{Diagnostic, codes, nearest, one_of, quote};
use crate::source::{SourceText, Span};

/// The words that start an item.
const ITEMS: [&str; 11] = [
    "language",
    "tokens",
    "precedence",
    "form",
    "surface",
    "include",
    "types",
    "define",
    "state",
    "provides",
    "messages",
];

/// Reads a whole definition, item by item.
pub(in crate::definition) struct Reader<'a> {
    pub(in crate::definition) source: &'a Arc<SourceText>,
    pub diagnostics: Vec<Diagnostic>,
}

impl<'a> Reader<'a> {
    pub fn new(source: &'a Arc<SourceText>) -> Reader<'a> {
        Reader {
            source,
            diagnostics: Vec::new(),
        }
    }

    /// The definition as far as it can be read; nothing if it names no language.
    pub fn definition(&mut self) -> Option<Definition> {
        let (items, stray) = items(self.source);
        for span in stray {
            self.error(span, "this indented line belongs to no item")
                .remedies
                .push("items start in column one: begin with `language NAME`".into());
        }
        let mut definition = Definition {
            source: Arc::clone(self.source),
            name: Name {
                text: String::new(),
                span: Span::default(),
            },
            extensions: Vec::new(),
            starts: None,
            entries: Vec::new(),
            layout: None,
            ignores_case: false,
            tokens: Vec::new(),
            precedence: Vec::new(),
            forms: Vec::new(),
            surfaces: Vec::new(),
            helpers: Vec::new(),
            state: Vec::new(),
            types: Vec::new(),
            provides: Vec::new(),
            messages: Vec::new(),
        };
        for item in &items {
            self.item(item, &mut definition);
        }
        for form in &mut definition.forms {
            if let Some(part) = &mut form.written {
                spell_out(part, &definition.tokens);
                form.fields = fields_of(part);
            }
        }
        for surface in &mut definition.surfaces {
            surface.spell_out(&definition.tokens);
        }
        if definition.name.text.is_empty() && self.diagnostics.is_empty() {
            self.diagnostics.push(
                Diagnostic::error(codes::DEFINITION_EMPTY, "this definition names no language")
                    .at(self.source, Span::default())
                    .remedy("begin with a line `language NAME`, then a `tokens` item"),
            );
        }
        (!definition.name.text.is_empty()).then_some(definition)
    }

    fn error(&mut self, span: Span, message: impl Into<String>) -> &mut Diagnostic {
        self.diagnostics
            .push(Diagnostic::error(codes::DEFINITION_ITEM, message).at(self.source, span));
        let last = self.diagnostics.len() - 1;
        &mut self.diagnostics[last]
    }

    pub(in crate::definition) fn cursor(&mut self, span: Span, mode: Mode) -> Cursor<'_> {
        Cursor::new(self.source, span, mode, &mut self.diagnostics)
    }

    fn item(&mut self, item: &Item, definition: &mut Definition) {
        let text = self.source.slice(item.head);
        let keyword: String = text
            .chars()
            .take_while(|c| c.is_alphanumeric() || *c == '_')
            .collect();
        let keyword_span = Span::new(
            item.head.start as usize,
            item.head.start as usize + keyword.len().max(1),
        );
        let rest = Span {
            start: item.head.start + keyword.len() as u32,
            end: item.head.end,
        };
        match keyword.as_str() {
            "language" => self.language(item, rest, definition),
            "tokens" => self.tokens(item, rest, definition),
            "precedence" => self.precedence(item, rest, definition),
            "form" => self.form(item, rest, definition),
            "surface" => self.surface(item, rest, definition),
            include::WORD => {
                self.error(keyword_span, "this `include` has not been followed")
                    .why
                    .push(
                        "a definition that includes others has to be put together with them first"
                            .into(),
                    );
            }
            "define" => {
                let whole = Span {
                    start: rest.start,
                    end: item.span().end,
                };
                self.define(whole, definition);
            }
            "state" => self.state(item, rest, definition),
            "types" => self.types(item, rest, definition),
            "provides" => self.provides(item, rest, definition),
            "messages" => self.messages(item, rest, definition),
            _ => {
                let near = nearest(&keyword, ITEMS).map(str::to_owned);
                let known: Vec<String> = ITEMS.iter().map(|i| quote(i)).collect();
                let shown = if keyword.is_empty() { text } else { &keyword };
                let message = format!("{} starts no item", quote(shown));
                let error = self.error(keyword_span, message);
                error
                    .why
                    .push(format!("an item starts with {}", one_of(&known)));
                if let Some(near) = near {
                    error
                        .remedies
                        .push(format!("did you mean {}?", quote(&near)));
                }
            }
        }
    }

    /// Opens a clause: its first word, and a cursor after it.
    pub(in crate::definition) fn clause(&mut self, span: Span) -> Option<(Name, Cursor<'_>)> {
        let mut cursor = self.cursor(span, Mode::Plain);
        let word = cursor.name("a clause")?;
        Some((word, cursor))
    }

    pub(in crate::definition) fn unknown_clause(
        &mut self,
        word: &Name,
        known: &[&str],
        owner: &str,
    ) {
        let listed: Vec<String> = known.iter().map(|k| quote(k)).collect();
        self.diagnostics.push(
            Diagnostic::error(
                codes::DEFINITION_CLAUSE,
                format!("{} is no clause of {owner}", quote(&word.text)),
            )
            .at(self.source, word.span)
            .why(format!("its clauses are {}", one_of(&listed)))
            .did_you_mean(nearest(&word.text, known.iter().copied())),
        );
    }

    fn language(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let mut cursor = self.cursor(rest, Mode::Plain);
        if let Some(name) = cursor.name("the language's name") {
            cursor.finish();
            if !definition.name.text.is_empty() {
                self.error(
                    item.head,
                    "a definition describes one language, and this is a second",
                )
                .code = codes::DEFINITION_DUPLICATE;
                return;
            }
            definition.name = name;
        }
        for &span in &item.clauses {
            let Some((word, mut cursor)) = self.clause(span) else {
                continue;
            };
            match word.text.as_str() {
                "reads" => {
                    definition.extensions.extend(extensions(&mut cursor));
                    cursor.finish();
                }
                "starts" => {
                    definition.starts = cursor.name("the sort of a whole program");
                    cursor.finish();
                }
                "entries" => {
                    while let Some(entry) = cursor.name("a sort") {
                        definition.entries.push(entry);
                        if !cursor.eat_sign(",") {
                            break;
                        }
                    }
                    cursor.finish();
                }
                "layout" => {
                    definition.layout = layout(&mut cursor);
                    cursor.finish();
                }
                "ignores" => {
                    definition.ignores_case = cursor.expect_word("case").is_some();
                    cursor.finish();
                }
                _ => {
                    let known = ["reads", "starts", "entries", "layout", "ignores"];
                    self.unknown_clause(&word, &known, "`language`");
                }
            }
        }
    }

    fn tokens(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.cursor(rest, Mode::Plain).finish();
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Pattern);
            if let Some(rule) = token_rule(&mut cursor) {
                let pieces = pieces(&rule);
                definition.tokens.push(rule);
                definition.tokens.extend(pieces);
            }
        }
    }

    fn precedence(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let mut cursor = self.cursor(rest, Mode::Plain);
        let Some(sort) = precedence_head(&mut cursor) else {
            return;
        };
        let mut levels = Vec::new();
        for &span in &item.clauses {
            let Some((word, mut cursor)) = self.clause(span) else {
                continue;
            };
            let grouping = match word.text.as_str() {
                "left" => Grouping::Left,
                "right" => Grouping::Right,
                "none" => Grouping::None,
                "prefix" => Grouping::Prefix,
                "suffix" => Grouping::Suffix,
                _ => {
                    let known = ["left", "right", "none", "prefix", "suffix"];
                    self.unknown_clause(&word, &known, "`precedence`");
                    continue;
                }
            };
            let mut forms = Vec::new();
            while let Some(form) = cursor.name("a form") {
                forms.push(form);
                if !cursor.eat_sign(",") && cursor.at_end() {
                    break;
                }
            }
            levels.push(Level { grouping, forms });
        }
        definition.precedence.push(PrecedenceTable { sort, levels });
    }

    fn surface(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let mut cursor = self.cursor(rest, Mode::Plain);
        let Some(name) = cursor.name("the surface's name") else {
            return;
        };
        let mut surface = Surface {
            name,
            extensions: Vec::new(),
            lines: Vec::new(),
        };
        if cursor.expect_word("reads").is_some() {
            surface.extensions = extensions(&mut cursor);
            cursor.finish();
        }
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Plain);
            if let Some(form) = cursor.name("a form")
                && let Some(part) = written(&mut cursor)
            {
                cursor.finish();
                surface.lines.push((form, part));
            }
        }
        definition.surfaces.push(surface);
    }

    fn define(&mut self, span: Span, definition: &mut Definition) {
        let mut cursor = self.cursor(span, Mode::Plain);
        let Some(name) = cursor.name("the helper's name") else {
            return;
        };
        let Some((params, _)) = parameters(&mut cursor) else {
            return;
        };
        if cursor.expect_sign("=").is_none() {
            return;
        }
        if let Some(body) = meaning(&mut cursor) {
            cursor.finish();
            definition.helpers.push(Helper {
                name,
                params,
                body,
                recursive: false,
            });
        }
    }

    fn state(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.cursor(rest, Mode::Plain).finish();
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Plain);
            if let Some(cell) = state_cell(&mut cursor) {
                cursor.finish();
                definition.state.push(cell);
            }
        }
    }

    fn types(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.cursor(rest, Mode::Plain).finish();
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Plain);
            if let Some(own) = own_type(&mut cursor) {
                cursor.finish();
                definition.types.push(own);
            }
        }
    }

    fn provides(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.cursor(rest, Mode::Plain).finish();
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Plain);
            if let Some(mut provided) = provided(&mut cursor) {
                cursor.finish();
                let after = Span {
                    start: cursor.last_span().end.max(span.start),
                    end: span.end,
                };
                let comment = self.source.slice(after).trim().strip_prefix("--");
                comment
                    .unwrap_or_default()
                    .trim()
                    .clone_into(&mut provided.help);
                definition.provides.push(provided);
            }
        }
    }

    fn messages(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.cursor(rest, Mode::Plain).finish();
        for &span in &item.clauses {
            let mut cursor = self.cursor(span, Mode::Plain);
            let Some(mut subject) = cursor.name("a sort, a token, an error, or a jump") else {
                continue;
            };
            if cursor.eat_sign(".") {
                let Some(rest) = cursor.name("the rest of the error's code") else {
                    continue;
                };
                subject.text = format!("{}.{}", subject.text, rest.text);
                subject.span = subject.span.to(rest.span);
            }
            let unmatched = cursor.eat_word("unmatched");
            if let Some(text) = cursor.text("the wording in quotes") {
                cursor.finish();
                definition.messages.push(Message {
                    subject,
                    unmatched,
                    text: text.text,
                    place: text.span,
                });
            }
        }
    }
}
