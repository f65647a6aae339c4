//! Errors of names.

use std::collections::hash_map::Entry;

use rustc_hash::FxHashMap;

use super::{Binding, BindingId, Home, Resolver, Unbound};
use crate::definition::{Form, Part};
use crate::diagnostic::{Diagnostic, codes, nearest, plural, quote};
use crate::purposes::{Purposes, binding_of};
use crate::tree::NodeId;

/// More unbound names than this in one program are counted, not shown.
pub(super) const MOST_SHOWN: usize = 50;

impl Resolver<'_> {
    pub(super) fn report_twice(&mut self, binding: BindingId, earlier: BindingId) {
        let source = self.tree.source();
        let binding = self.names.binding(binding);
        let earlier = self.names.binding(earlier);
        let mut diagnostic = Diagnostic::error(
            codes::NAME_DUPLICATE,
            format!("{} is bound twice in the same scope", quote(&binding.name)),
        )
        .with_detail("name", &binding.name);
        if let Some(span) = binding.span {
            diagnostic = diagnostic.at(source, span).label("bound again here");
        }
        if let Some(span) = earlier.span {
            diagnostic = diagnostic.related(source, span, "first bound here");
        }
        self.diagnostics.push(diagnostic.remedy(
            "give one of them another name, or change the first instead of binding it again",
        ));
    }

    pub(super) fn report_fixed(&mut self, leaf: NodeId, binding: BindingId) {
        let source = self.tree.source();
        let binding = self.names.binding(binding);
        let name = quote(&binding.name);
        let message = match binding.home {
            Home::BuiltIn(_) => format!("{name} is built in and cannot be changed"),
            Home::Node(_) | Home::Session(_) => format!("{name} is fixed and cannot be changed"),
        };
        let mut diagnostic = Diagnostic::error(codes::NAME_FIXED, message)
            .with_detail("name", &binding.name)
            .at(source, self.tree.node(leaf).span)
            .label("changed here");
        if let Some(span) = binding.span {
            diagnostic = diagnostic.related(source, span, "bound here as fixed");
        }
        if matches!(binding.home, Home::BuiltIn(_)) {
            diagnostic = diagnostic.remedy("bind a name of your own");
        }
        self.diagnostics.push(diagnostic);
    }

    /// Reports names without a binding, once all bindings are known: each once, with the number of
    /// its other places.
    pub(super) fn report_unbound(&mut self) {
        let unbound = std::mem::take(&mut self.unbound);
        let missing = unbound.iter();
        self.names.missing = missing.map(|one| (one.leaf, one.visible.clone())).collect();
        let mut first: FxHashMap<(String, &str, Elsewhere), usize> = FxHashMap::default();
        let mut all: Vec<(Unbound<'_>, Elsewhere, usize)> = Vec::new();
        let elsewhere = self.elsewhere();
        for one in unbound {
            let space = super::space_of(one.uses.space.as_ref());
            let name = self.folded(self.tree.text(one.leaf)).into_owned();
            let found = self.found_elsewhere(&one, &name, space, &elsewhere);
            match first.entry((name, space, found)) {
                Entry::Occupied(known) => all[*known.get()].2 += 1,
                Entry::Vacant(place) => {
                    place.insert(all.len());
                    all.push((one, found, 0));
                }
            }
        }
        let more = all.len().saturating_sub(MOST_SHOWN);
        all.truncate(MOST_SHOWN);
        let purposes = (!all.is_empty()).then(|| Purposes::of(self.definition));
        for (one, elsewhere, others) in all {
            let mut diagnostic = self.unbound_error(&one, elsewhere, purposes.as_ref());
            if others > 0 {
                let places = plural(others, "other place");
                diagnostic = diagnostic.why(format!("nothing binds it in {places} either"));
            }
            self.diagnostics.push(diagnostic);
        }
        if more > 0 {
            self.diagnostics.push(Diagnostic::note(
                codes::NAME_UNBOUND,
                format!(
                    "{} without a binding are not shown",
                    plural(more, "more name")
                ),
            ));
        }
    }

    /// The first binding of each name that is written, in each space.
    fn elsewhere(&self) -> FxHashMap<String, Vec<BindingId>> {
        let mut all: FxHashMap<String, Vec<BindingId>> = FxHashMap::default();
        for (index, binding) in (0u32..).zip(&self.names.bindings) {
            let known = all
                .entry(self.folded(&binding.name).into_owned())
                .or_default();
            let mut others = known.iter().map(|other| self.names.binding(*other));
            if !others.any(|other| other.space == binding.space) {
                known.push(BindingId(index));
            }
        }
        all
    }

    /// Where the name of a use is bound, though not for it.
    fn found_elsewhere(
        &self,
        one: &Unbound<'_>,
        name: &str,
        space: &str,
        elsewhere: &FxHashMap<String, Vec<BindingId>>,
    ) -> Elsewhere {
        let Some(known) = elsewhere.get(name) else {
            return Elsewhere::Nowhere;
        };
        let at = self.tree.node(one.leaf).span.start;
        let mut known = known.iter();
        let written = |id: &&BindingId| self.names.binding(**id).span.is_some();
        let own = known.clone().filter(written);
        let own = own
            .clone()
            .find(|id| self.names.binding(**id).space == space);
        let Some(&id) = own else {
            let other = known.find(|id| self.names.binding(**id).space != space);
            return other.map_or(Elsewhere::Nowhere, |&id| Elsewhere::OtherSpace(id));
        };
        let binding = self.names.binding(id);
        let home = match binding.home {
            Home::Node(node) => Some(self.tree.node(node).span),
            Home::Session(_) | Home::BuiltIn(_) => None,
        };
        let bound = binding.span.map_or(0, |span| span.start);
        let is_around = home.is_some_and(|home| home.start <= at && at < home.end);
        match self.part_of(binding) {
            Some(part) if is_around => Elsewhere::OtherPart(id, part),
            _ if bound > at => Elsewhere::After(id),
            _ if is_around => Elsewhere::OutOfSight(id),
            _ => Elsewhere::Ended(id),
        }
    }

    /// The part of a form, the only one, in which what it binds is seen.
    fn part_of(&self, binding: &Binding) -> Option<NodeId> {
        let (Home::Node(node), Some(field)) = (binding.home, binding.field) else {
            return None;
        };
        let form = &self.definition.forms[self.tree.form(node)?];
        let mut clauses = form.binds.iter();
        let clause = clauses.find(|clause| form.bound_index(&clause.field.text) == Some(field))?;
        let inside = clause.inside.first().filter(|_| !clause.onward)?;
        let children = self.tree.children(node, form.field_index(&inside.text)?);
        children.first().copied()
    }

    /// The error of a name that nothing binds.
    fn unbound_error(
        &self,
        one: &Unbound<'_>,
        elsewhere: Elsewhere,
        purposes: Option<&Purposes>,
    ) -> Diagnostic {
        let source = self.tree.source();
        let name = self.tree.text(one.leaf);
        let span = self.tree.node(one.leaf).span;
        let message = format!("there is no binding called {}", quote(name));
        let error = Diagnostic::error(codes::NAME_UNBOUND, message)
            .with_detail("name", name)
            .at(source, span);
        let place = |id: BindingId| self.names.binding(id).span.unwrap_or_default();
        let error = error.label(match elsewhere {
            Elsewhere::Nowhere => "nothing binds this name",
            Elsewhere::After(_)
            | Elsewhere::Ended(_)
            | Elsewhere::OutOfSight(_)
            | Elsewhere::OtherPart(..)
            | Elsewhere::OtherSpace(_) => "not bound at this point",
        });
        match elsewhere {
            Elsewhere::Nowhere => self.with_remedy(error, one, name, purposes),
            Elsewhere::After(id) => {
                error.related(source, place(id), "bound only here, after this use")
            }
            Elsewhere::Ended(id) => {
                error.related(source, place(id), "bound here, in a scope that has ended")
            }
            Elsewhere::OutOfSight(id) => error.related(
                source,
                place(id),
                "bound here, where it is not seen from this use",
            ),
            Elsewhere::OtherPart(id, part) => {
                let start = self.tree.node(part).span.start;
                let part = crate::source::Span::new(start as usize, start as usize + 1);
                error.related(source, place(id), "bound here").related(
                    source,
                    part,
                    "bound in this part only, which starts here",
                )
            }
            Elsewhere::OtherSpace(id) => {
                let binding = self.names.binding(id);
                let wanted = super::space_of(one.uses.space.as_ref());
                let why = match (binding.space.as_str(), wanted) {
                    ("", wanted) => format!("{} is bound, but not among the {wanted}", quote(name)),
                    (own, "") => format!("{} is one of the {own}", quote(name)),
                    (own, wanted) => {
                        format!("{} is one of the {own}, not of the {wanted}", quote(name))
                    }
                };
                let error = error.why(why);
                match binding.span {
                    Some(span) => error.related(source, span, "bound here"),
                    None => error,
                }
            }
        }
    }

    /// What may have been meant by a name that is bound nowhere: what means here what it means in
    /// other languages, a name much like it, a word of the language, or a binding that is missing.
    fn with_remedy(
        &self,
        error: Diagnostic,
        one: &Unbound<'_>,
        name: &str,
        purposes: Option<&Purposes>,
    ) -> Diagnostic {
        let source = self.tree.source();
        if let Some([own]) = purposes.map(|known| known.instead_of(name)).as_deref() {
            return error.remedy(format!("write {} instead of {}", quote(own), quote(name)));
        }
        if let Some(near) = nearest(name, one.visible.iter().map(String::as_str)) {
            let mut bindings = self.names.bindings.iter();
            let place = bindings.find(|b| b.name == near).and_then(|b| b.span);
            let error = error.did_you_mean(Some(near));
            return match place {
                Some(place) => error.related(source, place, "a name much like it"),
                None => error,
            };
        }
        let forms = self.definition.forms.iter();
        let heads = forms.clone().filter_map(|form| self.head_beside(one, form));
        let words = forms.filter_map(single_word).chain(heads);
        if let Some(near) = nearest(name, words).filter(|_| !one.uses.to_change) {
            return error.did_you_mean(Some(near));
        }
        let space = super::space_of(one.uses.space.as_ref());
        match binding_of(self.definition, name, space).filter(|_| one.uses.to_change) {
            Some(form) => error.remedy(format!("make it first: {}", quote(&form))),
            None => error,
        }
    }
}

impl<'a> Resolver<'a> {
    /// The word that another form has behind the same signs, where the form of a use has the name.
    fn head_beside(&self, one: &Unbound<'_>, other: &'a Form) -> Option<&'a str> {
        let form = self.definition.forms.iter().find(|form| {
            let mut uses = form.uses.iter();
            uses.any(|uses| std::ptr::eq(uses, one.uses))
        })?;
        let (own, others) = (signs(form)?, signs(other)?);
        let at = own.iter().position(Option::is_none).filter(|at| *at > 0)?;
        let same = own.get(..at) == others.get(..at);
        let word = others.get(at).copied().flatten()?;
        (same && word.starts_with(char::is_alphabetic)).then_some(word)
    }
}

/// What a form is written with, part by part: its literals, and nothing for all else.
fn signs(form: &Form) -> Option<Vec<Option<&str>>> {
    let Part::Sequence(parts) = form.written.as_ref()? else {
        return None;
    };
    let signs = parts.iter().map(|part| match part {
        Part::Literal(text) => Some(text.text.as_str()),
        _ => None,
    });
    Some(signs.collect())
}

/// Where a name that nothing binds is bound, though not for a use.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Elsewhere {
    Nowhere,
    /// Only after the use.
    After(BindingId),
    /// In a scope that is over.
    Ended(BindingId),
    /// In a scope around the use, from which it is not seen.
    OutOfSight(BindingId),
    /// In another part of a form around the use.
    OtherPart(BindingId, NodeId),
    /// In another name space.
    OtherSpace(BindingId),
}

/// The word that a form is all made of.
fn single_word(form: &Form) -> Option<&str> {
    match form.written.as_ref()? {
        Part::Literal(text) if form.fields.is_empty() => Some(&text.text),
        Part::Sequence(parts) => match &parts[..] {
            [Part::Literal(text)] => Some(&text.text),
            _ => None,
        },
        _ => None,
    }
}
