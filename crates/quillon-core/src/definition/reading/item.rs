//! Items: dispatches each to the reader of its clauses.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::cursor::Cursor;
use super::form::written;
use super::include;
use super::lexer::{Mode, Word};
use super::line::{
    extensions, group_head, layout, names, parameters, precedence_head, provided, state_cell,
    token_rule, width,
};
use super::lines::{ITEMS, Item, Strayed, first_word, items};
use super::meaning::{fresh_name, meaning};
use super::signs::level;
use super::trial;
use super::typed::own_type;
use super::values::value_line;
use crate::definition::model::fields_of;
use crate::definition::model::{
    Definition, Helper, Layout, Message, Name, Part, PrecedenceTable, Surface,
};
use crate::definition::model::{pieces, spell_out};
use crate::diagnostic::{Diagnostic, codes, nearest, one_of, quote};
use crate::source::{SourceText, Span};

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
        self.only(|_| true)
    }

    /// What the items say that tell how programs are found, and nothing else.
    pub fn outside(&mut self) -> Option<Definition> {
        self.only(|word| matches!(word, "language" | "surface"))
    }

    /// Reads those of the items that are wanted, by the word with which they begin.
    fn only(&mut self, is_wanted: impl Fn(&str) -> bool) -> Option<Definition> {
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
            renames: None,
            first_group: None,
            width: None,
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
            values: Vec::new(),
            messages: Vec::new(),
            unread: FxHashSet::default(),
        };
        for item in &items {
            if is_wanted(first_word(self.source.slice(item.head))) {
                self.item(item, &mut definition);
            }
        }
        for form in &mut definition.forms {
            if let Some(part) = &mut *form.written {
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

    /// Reads a clause; what is wrong with it is mended if that is clear.
    pub(in crate::definition) fn read<T>(
        &mut self,
        span: Span,
        reader: impl Fn(&mut Cursor<'_>) -> Option<T>,
    ) -> Option<T> {
        trial::read(
            self.source,
            span,
            Mode::Plain,
            &mut self.diagnostics,
            reader,
        )
    }

    /// Nothing stands behind the word of an item.
    fn head_alone(&mut self, rest: Span) {
        self.read(rest, |cursor| {
            cursor.finish()?;
            Some(())
        });
    }

    /// The first word of a clause that could not be read: what it names is there, whatever it is.
    fn unread(&self, span: Span, definition: &mut Definition) {
        let text = self.source.slice(span).trim_start();
        let end = text.find(|c: char| !(c.is_alphanumeric() || c == '_'));
        let name = &text[..end.unwrap_or(text.len())];
        if !name.is_empty() {
            definition.unread.insert(name.to_owned());
        }
    }

    fn item(&mut self, item: &Item, definition: &mut Definition) {
        let text = self.source.slice(item.head);
        let keyword = first_word(text);
        let start = item.head.start as usize;
        let keyword_span = Span::new(start, start + keyword.len().max(1));
        let rest = Span {
            start: item.head.start + keyword.len() as u32,
            end: item.head.end,
        };
        for strayed in &item.strayed {
            self.strayed(item, strayed);
        }
        let known = ITEMS.into_iter().find(|known| *known == keyword);
        let meant = known.or_else(|| self.unknown_item(text, keyword, keyword_span));
        match meant {
            Some("language") => self.language(item, rest, definition),
            Some("tokens") => self.tokens(item, rest, definition),
            Some("precedence") => self.precedence(item, rest, definition),
            Some("form") => self.form(item, rest, definition),
            Some("surface") => self.surface(item, rest, definition),
            Some(include::WORD) => {
                self.error(keyword_span, "this `include` has not been followed")
                    .why
                    .push(
                        "a definition that includes others has to be put together with them first"
                            .into(),
                    );
            }
            Some("define") => self.define(item, rest, definition),
            Some("state") => self.state(item, rest, definition),
            Some("types") => self.types(item, rest, definition),
            Some("provides") => self.provides(item, rest, definition),
            Some("values") => self.values(item, rest, definition),
            Some("messages") => self.messages(item, rest, definition),
            Some(_) | None => {}
        }
    }

    /// Reports a word that starts no item; the item that was probably meant.
    fn unknown_item(&mut self, text: &str, keyword: &str, span: Span) -> Option<&'static str> {
        let near = nearest(keyword, ITEMS);
        let known: Vec<String> = ITEMS.iter().map(|i| quote(i)).collect();
        let shown = if keyword.is_empty() { text } else { keyword };
        let message = format!("{} starts no item", quote(shown));
        let error = self.error(span, message);
        error
            .why
            .push(format!("an item starts with {}", one_of(&known)));
        let near = ITEMS.into_iter().find(|item| Some(*item) == near)?;
        error
            .remedies
            .push(format!("did you mean {}?", quote(near)));
        Some(near)
    }

    /// Reports a clause that is not indented like those it stands with.
    fn strayed(&mut self, item: &Item, strayed: &Strayed) {
        let head = self.source.slice(item.head);
        let owner = match first_word(head) {
            "form" => {
                let name = head.split_whitespace().nth(1).unwrap_or_default();
                format!("clause of `form {name}`")
            }
            "language" => "clause of `language`".to_owned(),
            other => format!("line of {}", quote(other)),
        };
        let remedy = match strayed.like {
            Some(line) => format!("indent it like line {line}"),
            None => "indent it".to_owned(),
        };
        let message = format!("this is a {owner}; {remedy}");
        self.error(strayed.span, message).remedies.push(remedy);
    }

    fn language(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let name = self.read(rest, |cursor| {
            let name = cursor.name("the language's name")?;
            cursor.finish()?;
            Some(name)
        });
        if let Some(name) = name {
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
            match self.read(span, language_clause) {
                Some(LanguageClause::Reads(all)) => definition.extensions.extend(all),
                Some(LanguageClause::Starts(sort)) => definition.starts = Some(sort),
                Some(LanguageClause::Entries(sorts)) => definition.entries.extend(sorts),
                Some(LanguageClause::Renames(mark)) => definition.renames = Some(mark),
                Some(LanguageClause::Width(width)) => definition.width = Some(width),
                Some(LanguageClause::Layout(layout)) => definition.layout = Some(layout),
                Some(LanguageClause::IgnoresCase) => definition.ignores_case = true,
                None => {}
            }
        }
    }

    fn tokens(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let Some((group, is_first)) = self.read(rest, group_head) else {
            return;
        };
        if let Some(group) = group.as_ref().filter(|_| is_first) {
            match &definition.first_group {
                Some(known) => {
                    let message = format!("texts begin in {} already", quote(&known.text));
                    self.error(group.span, message);
                    // That nothing comes to it follows from that.
                    definition.unread.insert(group.text.clone());
                }
                None => definition.first_group = Some(group.clone()),
            }
        }
        for &span in &item.clauses {
            let found = &mut self.diagnostics;
            let rule = trial::read(self.source, span, Mode::Pattern, found, token_rule);
            if let Some(mut rule) = rule {
                rule.group.clone_from(&group);
                let pieces = pieces(&rule);
                definition.tokens.push(rule);
                definition.tokens.extend(pieces);
            } else {
                self.unread(span, definition);
            }
        }
    }

    fn precedence(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let Some(sort) = self.read(rest, precedence_head) else {
            return;
        };
        let mut levels = Vec::new();
        for &span in &item.clauses {
            levels.extend(self.read(span, level));
        }
        definition.precedence.push(PrecedenceTable { sort, levels });
    }

    fn surface(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let head = self.read(rest, |cursor| {
            let name = cursor.name("the surface's name")?;
            cursor.expect_word("reads")?;
            Some((name, extensions(cursor)?))
        });
        let Some((name, extensions)) = head else {
            return;
        };
        let mut surface = Surface {
            name,
            extensions,
            lines: Vec::new(),
            called: Vec::new(),
        };
        for &span in &item.clauses {
            match self.read(span, surface_line) {
                Some(SurfaceLine::Written(form, part)) => surface.lines.push((form, part)),
                Some(SurfaceLine::Called(name, called)) => surface.called.push((name, called)),
                None => {}
            }
        }
        definition.surfaces.push(surface);
    }

    fn define(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        let whole = Span {
            start: rest.start,
            end: item.span().end,
        };
        let helper = self.read(whole, |cursor| {
            let name = fresh_name(cursor)?;
            let (params, _) = parameters(cursor)?;
            cursor.expect_sign("=")?;
            let body = meaning(cursor)?;
            cursor.finish()?;
            Some(Helper {
                name,
                params,
                body,
                recursive: false,
            })
        });
        match helper {
            Some(helper) => definition.helpers.push(helper),
            None => self.unread(whole, definition),
        }
    }

    fn state(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.head_alone(rest);
        for &span in &item.clauses {
            let cell = self.read(span, |cursor| {
                let cell = state_cell(cursor)?;
                cursor.finish()?;
                Some(cell)
            });
            match cell {
                Some(cell) => definition.state.push(cell),
                None => self.unread(span, definition),
            }
        }
    }

    fn types(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.head_alone(rest);
        for &span in &item.clauses {
            let own = self.read(span, |cursor| {
                let own = own_type(cursor)?;
                cursor.finish()?;
                Some(own)
            });
            match own {
                Some(own) => definition.types.push(own),
                None => self.unread(span, definition),
            }
        }
    }

    fn provides(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.head_alone(rest);
        for &span in &item.clauses {
            let read = self.read(span, |cursor| {
                let provided = provided(cursor)?;
                cursor.finish()?;
                Some((provided, cursor.last_span().end))
            });
            let Some((mut provided, end)) = read else {
                self.unread(span, definition);
                continue;
            };
            let after = Span {
                start: end.max(span.start),
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

    fn values(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.head_alone(rest);
        for &span in &item.clauses {
            definition.values.extend(self.read(span, value_line));
        }
    }

    fn messages(&mut self, item: &Item, rest: Span, definition: &mut Definition) {
        self.head_alone(rest);
        for &span in &item.clauses {
            definition.messages.extend(self.read(span, message));
        }
    }
}

/// A line of `surface`.
enum SurfaceLine {
    /// How a form is written.
    Written(Name, Part),
    /// What something built-in is called.
    Called(Name, Name),
}

fn surface_line(cursor: &mut Cursor<'_>) -> Option<SurfaceLine> {
    // Names that are no words stand in quotes.
    let quoted_or = |cursor: &mut Cursor<'_>, what: &str| match cursor.peek() {
        Word::Text(_) => cursor.text(what),
        _ => cursor.name(what),
    };
    let name = quoted_or(cursor, "a form, or what is built in")?;
    let line = if cursor.eat_word("called") {
        SurfaceLine::Called(name, quoted_or(cursor, "what it is called here")?)
    } else {
        SurfaceLine::Written(name, written(cursor)?)
    };
    cursor.finish()?;
    Some(line)
}

/// A clause of `language`.
enum LanguageClause {
    Reads(Vec<Name>),
    Starts(Name),
    Entries(Vec<Name>),
    Renames(String),
    Width(usize),
    Layout(Layout),
    IgnoresCase,
}

fn language_clause(cursor: &mut Cursor<'_>) -> Option<LanguageClause> {
    let known = [
        "reads", "starts", "entries", "renames", "width", "layout", "ignores",
    ];
    let clause = match cursor.clause(&known, || "`language`".to_owned())? {
        "reads" => LanguageClause::Reads(extensions(cursor)?),
        "starts" => LanguageClause::Starts(cursor.name("the sort of a whole program")?),
        "entries" => LanguageClause::Entries(names(cursor, |cursor| cursor.name("a sort"))?),
        "renames" => {
            cursor.expect_word("with")?;
            let mark = cursor.text("what a renamed binder gets behind its name, in quotes")?;
            LanguageClause::Renames(mark.text)
        }
        "width" => LanguageClause::Width(width(cursor)?),
        "layout" => LanguageClause::Layout(layout(cursor)?),
        _ => {
            cursor.expect_word("case")?;
            LanguageClause::IgnoresCase
        }
    };
    cursor.finish()?;
    Some(clause)
}

/// A line of `messages`.
fn message(cursor: &mut Cursor<'_>) -> Option<Message> {
    let mut subject = cursor.name("a sort, a token, an error, or a jump")?;
    if cursor.eat_sign(".") {
        let rest = cursor.name("the rest of the error's code")?;
        subject.text = format!("{}.{}", subject.text, rest.text);
        subject.span = subject.span.to(rest.span);
    }
    let unmatched = cursor.eat_word("unmatched");
    let text = cursor.text("the wording in quotes")?;
    cursor.finish()?;
    Some(Message {
        subject,
        unmatched,
        text: text.text,
        place: text.span,
    })
}
