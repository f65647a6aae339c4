//! What could stand at a place: only what the grammar lets stand there.

use rustc_hash::FxHashMap;

use super::{Looked, What};
use crate::definition::{Form, Provided, TemplateKind};
use crate::language::{Language, Possible, Reading};
use crate::lexing::Token;
use crate::operations::Operation;
use crate::scoping::{BindingId, Home};
use crate::source::{SourceText, Span};

/// Something that could stand at a place.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Candidate {
    /// What is put in.
    pub text: String,
    /// What it is.
    pub filling: Filling,
    /// How it is called, or what form it begins.
    pub detail: String,
    /// What the definition says of it.
    pub help: String,
    /// The whole form that it begins, with holes for its fields; empty if it begins none.
    pub form: Vec<Piece>,
}

/// What a candidate is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Filling {
    /// A word of the language.
    Word,
    /// A name.
    Name(What),
}

/// A piece of a form that is to be filled in.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Piece {
    /// Text as it is.
    Text(String),
    /// A hole for a field of this name.
    Hole(String),
}

impl Looked {
    /// What could stand in place of the word at a place: that word's stretch, and the candidates, the
    /// likeliest first.
    pub fn candidates(&self, offset: u32) -> (Span, Vec<Candidate>) {
        let Some(span) = self.begun_at(offset) else {
            return (Span::default(), Vec::new());
        };
        let text = self.source.text();
        let begun = &text[span.start as usize..offset as usize];
        let possible = self.possible_at(span.start);
        let mut all = Vec::new();
        if possible.takes_names {
            all.extend(self.names_in_sight(offset));
            let rest = self.without_begun(span.start);
            let more = rest.map_or_else(Vec::new, |rest| rest.names_in_sight(offset));
            let is_new = |one: &Candidate| all.iter().all(|known| known.text != one.text);
            let new: Vec<Candidate> = more.into_iter().filter(is_new).collect();
            all.splice(0..0, new);
        }
        all.extend(
            possible
                .words
                .into_iter()
                .flat_map(|word| self.begun_by(&word)),
        );
        all.retain(|candidate| candidate.text.starts_with(begun));
        (span, all)
    }

    /// What could stand at a place. What is wrong in lines before it is passed over, a line at a time.
    fn possible_at(&self, offset: u32) -> Possible {
        const MOST: usize = 8;
        let here = self.source.line_of(offset);
        let mut before = self.source.text()[..offset as usize].to_owned();
        for _ in 0..MOST {
            let source = SourceText::new(self.source.name(), before.clone());
            let possible = self.language.possible(&source);
            if possible.takes_names || !possible.words.is_empty() {
                return possible;
            }
            let wrong = self.language.tree(&source, Reading::Program).diagnostics;
            let first = wrong.iter().find(|one| one.is_error());
            let line = first.map_or(here, |one| source.line_of(one.start()));
            if line >= here {
                return possible;
            }
            let span = source.line_span(line);
            before.replace_range(span.range(), &" ".repeat((span.end - span.start) as usize));
        }
        Possible::default()
    }

    /// The word that ends or goes on at a place, up to there, empty where none does; nothing in a comment.
    fn begun_at(&self, offset: u32) -> Option<Span> {
        let here = Span {
            start: offset,
            end: offset,
        };
        // What is behind the place is not read: it says nothing about the word.
        let text = &self.source.text()[..offset as usize];
        let before = SourceText::new(self.source.name(), text);
        let Some(tokens) = self.language.all_tokens(&before).value else {
            return Some(here);
        };
        let touches = |token: &&Token| !token.span.is_empty() && token.span.end == offset;
        if let Some(ignored) = tokens.ignored.last().filter(touches) {
            return before.slice(ignored.span).trim().is_empty().then_some(here);
        }
        let is_word = |c: char| c.is_alphanumeric() || c == '_';
        let touching = tokens.tokens.iter().rfind(touches);
        let word = touching.filter(|token| before.slice(token.span).ends_with(is_word));
        Some(word.map_or(here, |token| Span {
            start: token.span.start,
            end: offset,
        }))
    }

    /// The names that are in sight at a place, the innermost first, and what the language has.
    fn names_in_sight(&self, offset: u32) -> Vec<Candidate> {
        let definition = self.language.definition();
        let mut by_name: FxHashMap<&str, (u32, BindingId)> = FxHashMap::default();
        if let Some((tree, names)) = self.named() {
            for (binding, id) in names.bindings.iter().zip((0..).map(BindingId)) {
                let Home::Node(home) = binding.home else {
                    continue;
                };
                let scope = tree.node(home).span;
                let is_around = scope.start <= offset && offset <= scope.end || home == tree.root();
                let is_typed = binding.span.is_some_and(|span| span.end == offset);
                if !is_around || is_typed {
                    continue;
                }
                let known = by_name.get(&binding.name[..]);
                if known.is_none_or(|(start, _)| *start < scope.start) {
                    by_name.insert(&binding.name, (scope.start, id));
                }
            }
        }
        let mut found: Vec<(&str, (u32, BindingId))> = by_name.into_iter().collect();
        found.sort_unstable_by_key(|(name, (start, _))| (std::cmp::Reverse(*start), *name));
        let own = found.into_iter();
        let own = own.map(|(name, (_, binding))| self.name_candidate(binding, name));
        let words = definition
            .provides
            .iter()
            .filter(|one| one.fixity.is_none());
        own.chain(words.map(built_in)).collect()
    }

    fn name_candidate(&self, binding: BindingId, name: &str) -> Candidate {
        let types = self.examined.types.as_ref();
        let of_binding = types.and_then(|types| types.of_binding(binding));
        let definition = self.language.definition();
        Candidate {
            text: name.to_owned(),
            filling: Filling::Name(self.what(binding)),
            detail: of_binding.map_or_else(String::new, |one| one.shown(definition)),
            help: String::new(),
            form: Vec::new(),
        }
    }

    /// A word of the language, by itself and with each form that it begins.
    fn begun_by(&self, word: &str) -> Vec<Candidate> {
        let candidate = |detail: &str, form: Vec<Piece>| Candidate {
            text: word.to_owned(),
            filling: Filling::Word,
            detail: detail.to_owned(),
            help: String::new(),
            form,
        };
        let forms = self.language.definition().forms.iter();
        let begun = forms.filter(|form| form.begins_with(word));
        let whole = begun.map(|form| (&form.name.text, pieces(form)));
        let whole = whole.filter(|(_, pieces)| !pieces.is_empty());
        let whole: Vec<Candidate> = whole.map(|(name, form)| candidate(name, form)).collect();
        std::iter::once(candidate("", Vec::new()))
            .chain(whole)
            .collect()
    }
}

/// Something that the language has.
fn built_in(provided: &Provided) -> Candidate {
    let what = match provided.params {
        Some(_) => What::BuiltInFunction,
        None => What::BuiltInConstant,
    };
    Candidate {
        text: provided.name.text.clone(),
        filling: Filling::Name(what),
        detail: signature(provided),
        help: help(provided),
        form: Vec::new(),
    }
}

/// The name of something that its language has, with its parameters.
pub fn signature(provided: &Provided) -> String {
    let Some(params) = &provided.params else {
        return provided.name.text.clone();
    };
    let names: Vec<&str> = params.iter().map(|param| &param.text[..]).collect();
    let rest = if provided.rest { "..." } else { "" };
    format!("{}({}{rest})", provided.name.text, names.join(", "))
}

/// What the definition says of something that its language has, or what the operation behind it does.
pub fn help(provided: &Provided) -> String {
    if !provided.help.is_empty() {
        return provided.help.clone();
    }
    match &provided.means.kind {
        TemplateKind::Apply(name, _) => Operation::named(&name.text)
            .map_or_else(String::new, |operation| operation.what().to_owned()),
        _ => String::new(),
    }
}

/// A form as it is written, with a hole for each field that is always there.
fn pieces(form: &Form) -> Vec<Piece> {
    const OPEN: char = '\u{1}';
    const CLOSE: char = '\u{2}';
    let Some(written) = &*form.written else {
        return Vec::new();
    };
    let sketch = written.sketch(&|name, _| format!("{OPEN}{name}{CLOSE}"));
    let mut all = Vec::new();
    for (at, part) in sketch.split(OPEN).enumerate() {
        let (hole, text) = match part.split_once(CLOSE) {
            Some((hole, text)) if at > 0 => (Some(hole), text),
            _ => (None, part),
        };
        all.extend(hole.map(|hole| Piece::Hole(hole.to_owned())));
        all.extend((!text.is_empty()).then(|| Piece::Text(text.to_owned())));
    }
    let has_hole = all.iter().any(|piece| matches!(piece, Piece::Hole(_)));
    if has_hole { all } else { Vec::new() }
}

/// Every form that begins with a word and has holes, by name.
pub fn forms_to_fill_in(language: &Language) -> Vec<(String, Vec<Piece>)> {
    let forms = language.definition().forms.iter();
    let filled = forms.map(|form| (form.name.text.clone(), pieces(form)));
    let begins = |pieces: &[Piece]| match pieces.first() {
        Some(Piece::Text(text)) => text.starts_with(char::is_alphabetic),
        Some(Piece::Hole(_)) | None => false,
    };
    filled.filter(|(_, pieces)| begins(pieces)).collect()
}

/// A form to be filled in, as the Language Server Protocol has it: `${1:name}` is a hole.
pub fn snippet(form: &[Piece]) -> String {
    let mut out = String::new();
    let mut holes = 0;
    for piece in form {
        match piece {
            Piece::Text(text) => out += &escaped(text),
            Piece::Hole(name) => {
                holes += 1;
                out += &format!("${{{holes}:{name}}}");
            }
        }
    }
    out
}

/// Text that stands for itself in what is to be filled in.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        if matches!(c, '\\' | '$' | '}') {
            out.push('\\');
        }
        out.push(c);
    }
    out
}
