//! What an editor asks of a definition, whatever is wrong in it: its items, what its names mean, and
//! what could stand at a place.

use std::sync::Arc;

use super::clauses;
use crate::definition::{self, Noted};
use crate::diagnostic::{Diagnostic, quote};
use crate::language::Language;
use crate::operations::Operation;
use crate::source::{SourceText, Span, exchanged};

/// An item of a definition, or a line of one that names something.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Item {
    /// What it is called: the name of a form, or the words that the item begins with.
    pub name: String,
    /// What it is.
    pub kind: ItemKind,
    /// All of it.
    pub span: Span,
    /// The name.
    pub at: Span,
    /// The names in it: tokens, built-in functions, helpers, cells.
    pub inside: Vec<Item>,
}

/// What an item is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum ItemKind {
    /// A form.
    Form,
    /// A helper of meanings.
    Helper,
    /// A line of an item that names something: a token, a built-in function, a cell.
    Line,
    /// Anything else.
    Other,
}

impl Item {
    /// Whether it is a form.
    pub fn is_form(&self) -> bool {
        self.kind == ItemKind::Form
    }
}

/// Something that a definition gives a name.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Named {
    /// The name.
    pub name: String,
    /// The form that it is a field of, if it is one.
    pub of_form: Option<String>,
}

/// Why there is nothing to be renamed.
const NO_NAME: &str = "nothing that has a name in this definition stands here";

/// A definition as it is written.
#[derive(Debug)]
pub struct Described {
    source: Arc<SourceText>,
    items: Vec<Item>,
    /// The words of each item that are names, and where the item's clauses begin.
    words: Vec<Words>,
}

#[derive(Debug)]
struct Words {
    names: Vec<(Span, String)>,
    clauses: Vec<Span>,
}

impl Described {
    /// Looks at a definition.
    pub fn new(source: &Arc<SourceText>) -> Described {
        let mut items = Vec::new();
        let mut words = Vec::new();
        for Noted {
            head,
            clauses,
            names,
        } in definition::outlined(source)
        {
            items.push(item(source, head, &clauses));
            words.push(Words { names, clauses });
        }
        Described {
            source: Arc::clone(source),
            items,
            words,
        }
    }

    /// The text.
    pub(super) fn source(&self) -> &Arc<SourceText> {
        &self.source
    }

    /// The items, in the order of the text.
    pub fn items(&self) -> &[Item] {
        &self.items
    }

    /// The name at a place, with the number of its item.
    fn name_at(&self, offset: u32) -> Option<(usize, Span, &str)> {
        let all = self.words.iter().enumerate();
        let mut names =
            all.flat_map(|(item, words)| words.names.iter().map(move |one| (item, one)));
        let is_here = |span: &Span| span.start <= offset && offset <= span.end;
        let (item, (span, name)) = names.find(|(_, (span, _))| is_here(span))?;
        Some((item, *span, name))
    }

    /// Where the thing is defined whose name stands at a place: a field of the form, a form, a sort, a
    /// token, or what else has a line of its own.
    pub fn defined_at(&self, offset: u32) -> Option<Span> {
        let (item, _, name) = self.name_at(offset)?;
        self.field(item, name).or_else(|| self.global(name))
    }

    /// What the name at a place is the name of.
    pub fn named_at(&self, offset: u32) -> Option<Named> {
        let (item, _, name) = self.name_at(offset)?;
        let is_field = self.field(item, name).is_some();
        if !is_field {
            self.global(name)?;
        }
        Some(Named {
            name: name.to_owned(),
            of_form: is_field.then(|| self.items[item].name.clone()),
        })
    }

    /// Where something is defined.
    pub(super) fn defined(&self, named: &Named) -> Option<Span> {
        match &named.of_form {
            Some(form) => {
                let is_it = |item: &Item| item.is_form() && item.name == *form;
                self.field(self.items.iter().position(is_it)?, &named.name)
            }
            None => self.global(&named.name),
        }
    }

    /// The line in which something is defined, as Markdown.
    pub(super) fn line_of(&self, named: &Named) -> Option<String> {
        let defined = self.defined(named)?;
        let line = self.source.line_span(self.source.line_of(defined.start));
        Some(format!("`{}`", self.source.slice(line).trim()))
    }

    /// What has a name for everything in the definition, and the fields of its forms.
    pub(super) fn names(&self) -> Vec<String> {
        let mut all: Vec<String> = Vec::new();
        for (at, (item, words)) in self.items.iter().zip(&self.words).enumerate() {
            if item.kind != ItemKind::Other {
                all.push(item.name.clone());
            }
            all.extend(item.inside.iter().map(|inner| inner.name.clone()));
            let names = words.names.iter().map(|(_, name)| name);
            all.extend(names.filter(|name| self.field(at, name).is_some()).cloned());
        }
        let mut seen = rustc_hash::FxHashSet::default();
        all.retain(|name| seen.insert(name.clone()));
        all
    }

    /// The first mention of a field of a form: a name with a colon behind it.
    fn field(&self, item: usize, name: &str) -> Option<Span> {
        if !self.items[item].is_form() {
            return None;
        }
        let mut names = self.words[item].names.iter();
        let declares = |span: &Span| self.source.text()[span.end as usize..].starts_with(':');
        let found = names.find(|(span, text)| text == name && declares(span))?;
        Some(found.0)
    }

    fn global(&self, name: &str) -> Option<Span> {
        let inside = self.items.iter().flat_map(|item| &item.inside);
        let own = self
            .items
            .iter()
            .filter(|item| item.kind != ItemKind::Other);
        let mut all = own.chain(inside);
        if let Some(found) = all.find(|one| one.name == name) {
            return Some(found.at);
        }
        // A sort has no line: the first form in it stands for it.
        let mut sorts = self.named_sorts();
        let found = sorts.find(|(_, sort)| sort == name)?;
        Some(found.0)
    }

    /// The sorts that forms are said to be in, each where that is said.
    fn named_sorts(&self) -> impl Iterator<Item = &(Span, String)> {
        let forms = self.items.iter().zip(&self.words);
        let heads = forms.filter(|(item, _)| item.is_form());
        heads.flat_map(|(item, words)| {
            let first = words.clauses.first();
            let first = first.map_or(item.span.end, |clause| clause.start);
            let in_head = words.names.iter();
            let in_head = in_head.take_while(move |(span, _)| span.end <= first);
            // Behind `form`, its name and `in`.
            in_head.skip(3)
        })
    }

    /// The sorts that forms are said to be in.
    pub(super) fn sorts(&self) -> impl Iterator<Item = &str> {
        self.named_sorts().map(|(_, sort)| sort.as_str())
    }

    /// Every place where the name at a place stands for the same, in the order of the text.
    pub fn standings(&self, offset: u32) -> Vec<Span> {
        let Some((item, _, name)) = self.name_at(offset) else {
            return Vec::new();
        };
        let is_field = self.field(item, name).is_some();
        if !is_field && self.global(name).is_none() {
            return Vec::new();
        }
        let mut found = Vec::new();
        for (number, words) in self.words.iter().enumerate() {
            // What is a field of another form is not the same.
            let is_other = if is_field {
                number != item
            } else {
                self.field(number, name).is_some()
            };
            if !is_other {
                let alike = words.names.iter().filter(|(_, text)| text == name);
                found.extend(alike.map(|(span, _)| *span));
            }
        }
        found
    }

    /// The name at a place that another can be put for.
    ///
    /// # Errors
    /// Why there is none, as a sentence.
    pub fn renamable(&self, offset: u32) -> Result<Span, String> {
        let found = self.name_at(offset).map(|(_, span, _)| span);
        found
            .filter(|_| !self.standings(offset).is_empty())
            .ok_or_else(|| NO_NAME.to_owned())
    }

    /// The stretches where a new name is to be put for the one at a place.
    ///
    /// # Errors
    /// Why it cannot be put there, as a sentence.
    pub fn renamed(&self, offset: u32, name: &str) -> Result<Vec<Span>, String> {
        let places = self.standings(offset);
        if places.is_empty() {
            return Err(NO_NAME.to_owned());
        }
        if !name.starts_with(char::is_alphabetic) || definition::first_word(name) != name {
            return Err(format!("{} is no name in a definition", quote(name)));
        }
        let changed = exchanged(
            self.source.text(),
            places.iter().map(|place| (*place, name)),
        );
        let errors = |source: &Arc<SourceText>| {
            let mut found = Language::load(source).diagnostics;
            found.retain(Diagnostic::is_error);
            found
        };
        let before = errors(&self.source).len();
        match errors(&SourceText::new(self.source.name(), changed)).get(before) {
            Some(error) => Err(format!("the definition would be wrong: {}", error.message)),
            None => Ok(places),
        }
    }

    /// What the notation says of the word at a place: a clause, an item, an operation; and the stretch
    /// it stands in.
    pub fn about(&self, offset: u32) -> Option<(Span, String)> {
        let (item, span, name) = self.name_at(offset)?;
        if let Some((whole, operation)) = operation_around(&self.source, span) {
            let head = format!("`{}`", operation.name());
            return Some((whole, format!("{head}: {}", operation.what())));
        }
        let begins = |clause: &Span| clause.start == span.start;
        if self.words[item].clauses.iter().any(begins)
            && let Some(what) = clauses::clause(name)
        {
            return Some((span, format!("`{name}`: {what}")));
        }
        if self.items[item].span.start == span.start
            && let Some(what) = clauses::item(name)
        {
            return Some((span, format!("`{name}`: {what}")));
        }
        Some((span, self.line_of(&self.named_at(offset)?)?))
    }

    /// The stretch and the text of each name that could stand at a place.
    pub fn candidates(&self, offset: u32) -> (Span, Vec<String>) {
        let text = self.source.text();
        let before = &text[..offset as usize];
        let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '.';
        let start = before.trim_end_matches(is_part).len();
        let span = Span::new(start, offset as usize);
        let line = self.source.line_span(self.source.line_of(span.start));
        let lead = &text[line.start as usize..start];
        let item = self
            .items
            .iter()
            .rposition(|item| item.span.start <= span.start);
        let mut all: Vec<String> = if lead.is_empty() {
            clauses::items().map(str::to_owned).collect()
        } else if lead.trim().is_empty() && item.is_some_and(|item| self.items[item].is_form()) {
            clauses::clauses().map(str::to_owned).collect()
        } else {
            self.names_for(item)
        };
        let begun = &before[start..];
        all.retain(|one| one.starts_with(begun));
        (span, all)
    }

    /// The fields of an item, and what has a name in the definition, and all operations.
    fn names_for(&self, item: Option<usize>) -> Vec<String> {
        let mut all: Vec<String> = Vec::new();
        if let Some(item) = item {
            let names = self.words[item].names.iter();
            let fields = names.filter(|(_, name)| self.field(item, name).is_some());
            all.extend(fields.map(|(_, name)| name.clone()));
        }
        for one in &self.items {
            all.extend(one.inside.iter().map(|inner| inner.name.clone()));
            if one.kind != ItemKind::Other {
                all.push(one.name.clone());
            }
        }
        all.extend(self.sorts().map(str::to_owned));
        all.extend(
            Operation::ALL
                .iter()
                .map(|operation| operation.name().to_owned()),
        );
        let mut seen = rustc_hash::FxHashSet::default();
        all.retain(|name| seen.insert(name.clone()));
        all
    }
}

/// The operation of which a word is a part: `text.joined`.
pub(super) fn operation_around(source: &SourceText, span: Span) -> Option<(Span, Operation)> {
    let text = source.text();
    let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '.';
    let before = &text[..span.start as usize];
    let start = before.trim_end_matches(is_part).len();
    let rest = &text[span.end as usize..];
    let end = text.len() - rest.trim_start_matches(is_part).len();
    let whole = Span::new(start, end);
    let operation = Operation::named(source.slice(whole))?;
    Some((whole, operation))
}

fn item(source: &Arc<SourceText>, head: Span, clauses: &[Span]) -> Item {
    let text = source.slice(head);
    let word = definition::first_word(text);
    let kind = match word {
        "form" => ItemKind::Form,
        "define" => ItemKind::Helper,
        _ => ItemKind::Other,
    };
    let at = if kind == ItemKind::Other {
        head
    } else {
        let rest = &text[word.len()..];
        let start = head.start as usize + word.len() + (rest.len() - rest.trim_start().len());
        let name = definition::first_word(rest.trim_start());
        Span::new(start, start + name.len())
    };
    let lists = ["tokens", "provides", "state", "types"].contains(&word);
    let named = clauses.iter().filter(|_| lists).filter_map(|clause| {
        let name = definition::first_word(source.slice(*clause));
        let start = clause.start as usize;
        (!name.is_empty()).then(|| Item {
            name: name.to_owned(),
            kind: ItemKind::Line,
            span: *clause,
            at: Span::new(start, start + name.len()),
            inside: Vec::new(),
        })
    });
    Item {
        name: source.slice(at).to_owned(),
        kind,
        span: clauses.last().map_or(head, |last| head.to(*last)),
        at,
        inside: named.collect(),
    }
}
