//! Stops in a definition: where parts of meanings begin to be carried out.

use std::collections::BTreeSet;

use rustc_hash::FxHashSet;

use super::stops::At;
use crate::bytecode::Function;
use crate::definition::{Definition, Template};
use crate::source::Span;

/// The lines of a file of a definition at which a part of a meaning begins: there, a run can be stopped.
pub fn meaning_lines(definition: &Definition, file: &str) -> BTreeSet<u32> {
    let mut lines = BTreeSet::new();
    each_part(definition, &mut |span| {
        lines.extend(line_in(definition, span, file));
    });
    lines
}

/// What a part of a meaning belongs to.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Meant<'d> {
    /// A form, by its name.
    Form(&'d str),
    /// A helper.
    Helper(&'d str),
    /// Something built-in.
    BuiltIn(&'d str),
}

/// What a part of a meaning belongs to, if to anything.
pub fn meant(definition: &Definition, part: Span) -> Option<Meant<'_>> {
    let has = |whole: Span| whole.start <= part.start && part.end <= whole.end;
    let form = definition.forms.iter().find(|form| {
        let mut meanings = [&form.means, &form.checks].into_iter().flatten();
        meanings.any(|meaning| has(meaning.span))
    });
    let helper = || {
        let mut helpers = definition.helpers.iter();
        helpers.find(|helper| has(helper.body.span))
    };
    let provided = || {
        let mut provided = definition.provides.iter();
        provided.find(|provided| has(provided.means.span))
    };
    form.map(|form| Meant::Form(&form.name.text))
        .or_else(|| helper().map(|helper| Meant::Helper(&helper.name.text)))
        .or_else(|| provided().map(|provided| Meant::BuiltIn(&provided.name.text)))
}

/// The parts of meanings that a stop at a line stands for, if it is a line of the definition: where they
/// begin.
#[derive(Debug)]
pub(super) struct Parts(FxHashSet<u32>);

impl Parts {
    /// Those of a stop: of its line, or of the first after it that has any.
    pub fn of(definition: &Definition, at: &At) -> Option<Parts> {
        let At::Line(file, line) = at else {
            return None;
        };
        let mut parts: Vec<(u32, u32)> = Vec::new();
        each_part(definition, &mut |span| {
            let own = line_in(definition, span, file).filter(|own| own >= line);
            parts.extend(own.map(|own| (own, span.start)));
        });
        let (next, _) = *parts.iter().min()?;
        let here = parts.into_iter().filter(|(own, _)| *own == next);
        Some(Parts(here.map(|(_, start)| start).collect()))
    }

    /// The innermost of them that an instruction of a function is a part of.
    pub fn around(&self, function: &Function, at: usize) -> Option<Span> {
        let begun = function.begun.iter().rev();
        let mut around = begun.filter(|begun| begun.at as usize <= at && at < begun.end as usize);
        let found = around.find(|begun| self.0.contains(&begun.part.start));
        found.map(|begun| begun.part)
    }

    /// The instructions of a function at which they are done, the first for each stretch of the program: where the
    /// part itself does something or, if it only decides, where what is in it begins.
    pub fn within(&self, function: &Function) -> Vec<usize> {
        let mut known: FxHashSet<Span> = FxHashSet::default();
        let mut found = Vec::new();
        for at in function.starts() {
            let site = function.site(at);
            let own = site.filter(|site| self.0.contains(&site.meaning.start));
            if own.is_some_and(|site| known.insert(site.whole.span)) {
                found.push(at);
            }
        }
        for begun in &function.begun {
            let at = begun.at as usize;
            let is_one = self.0.contains(&begun.part.start) && at < function.code.len();
            if is_one && known.insert(begun.span) {
                found.push(at);
            }
        }
        found
    }
}

/// The line of a file where a stretch of a definition begins, if it is of that file.
fn line_in(definition: &Definition, span: Span, file: &str) -> Option<u32> {
    let (source, span) = definition.source.origin(span);
    (source.name() == file).then(|| source.line_of(span.start))
}

/// Goes over the parts of the meanings of forms and of helpers: those of what is built in are not stopped in.
fn each_part(definition: &Definition, tell: &mut dyn FnMut(Span)) {
    let forms = definition
        .forms
        .iter()
        .flat_map(|form| [&form.means, &form.checks]);
    let helpers = definition.helpers.iter().map(|helper| &helper.body);
    let mut open: Vec<&Template> = forms.flatten().chain(helpers).collect();
    while let Some(part) = open.pop() {
        tell(part.span);
        part.each_part(&mut |inner| open.push(inner));
    }
}
