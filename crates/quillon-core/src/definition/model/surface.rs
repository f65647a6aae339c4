//! `surface NAME reads ".ext"`: a second way to write the forms of a language.

use serde::{Deserialize, Serialize};

use super::fields::fields_of;
use super::{Definition, Field, Name, Part, TokenRule, holes};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};

/// Another way to write a language: what its lines leave out is written as ever.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Surface {
    /// Its name.
    pub name: Name,
    /// File extensions of programs written so, with the dot.
    pub extensions: Vec<Name>,
    /// How forms are written in it.
    pub lines: Vec<(Name, Part)>,
    /// What is built in, with what it is called in it.
    pub called: Vec<(Name, Name)>,
}

impl Surface {
    /// Says what fields of tokens with holes are made of.
    pub(in crate::definition) fn spell_out(&mut self, tokens: &[TokenRule]) {
        for (_, part) in &mut self.lines {
            holes::spell_out(part, tokens);
        }
    }
}

impl Definition {
    /// The language as one of its surfaces has it. Forms and fields are the same ones.
    #[must_use]
    pub fn in_surface(&self, surface: &Surface) -> Definition {
        let mut other = self.clone();
        other.extensions.clone_from(&surface.extensions);
        for (name, part) in &surface.lines {
            if let Some(form) = other.forms.iter_mut().find(|f| f.name.text == name.text) {
                form.written = Some(part.clone()).into();
            }
        }
        for (name, called) in &surface.called {
            let mut provides = other.provides.iter_mut();
            if let Some(provided) = provides.find(|p| p.name.text == name.text) {
                provided.name.text.clone_from(&called.text);
            }
        }
        other
    }

    /// What is wrong with the surfaces, apart from the names in their `written` clauses.
    pub(in crate::definition) fn surface_mistakes(&self) -> Vec<Diagnostic> {
        let mut found = Vec::new();
        for (index, surface) in self.surfaces.iter().enumerate() {
            let earlier = self.surfaces[..index].iter().map(|s| &s.name);
            let known = earlier.chain([&self.name]);
            if let Some(first) = known.into_iter().find(|n| n.text == surface.name.text) {
                found.push(self.said_twice("surface", &surface.name, first));
            }
            for (at, (name, part)) in surface.lines.iter().enumerate() {
                let twice = surface.lines[..at]
                    .iter()
                    .find(|(n, _)| n.text == name.text);
                if let Some((first, _)) = twice {
                    found.push(self.said_twice("form", name, first));
                }
                found.extend(self.line_mistake(name, part));
            }
            found.extend(self.called_mistakes(surface));
        }
        found
    }

    /// What is wrong with what a surface calls what is built in.
    fn called_mistakes(&self, surface: &Surface) -> Vec<Diagnostic> {
        let mut found = Vec::new();
        for (at, (name, called)) in surface.called.iter().enumerate() {
            let known = || self.provides.iter().map(|p| p.name.text.as_str());
            if !known().any(|known| known == name.text) {
                let message = format!("nothing built-in is called {}", quote(&name.text));
                let problem = Diagnostic::error(codes::DEFINITION_NAME, message);
                let problem = problem.at(&self.source, name.span);
                found.push(problem.did_you_mean(nearest(&name.text, known())));
            }
            let mut earlier = surface.called[..at].iter();
            if let Some((first, _)) = earlier.find(|(earlier, _)| earlier.text == name.text) {
                found.push(self.said_twice("name", name, first));
            }
            // What is not renamed keeps its name.
            let is_renamed = |text: &str| surface.called.iter().any(|(n, _)| n.text == text);
            let is_taken = known().any(|known| known == called.text && !is_renamed(known))
                || surface.called[..at]
                    .iter()
                    .any(|(_, earlier)| earlier.text == called.text);
            if is_taken {
                let message = format!("something else is called {} here", quote(&called.text));
                let problem = Diagnostic::error(codes::DEFINITION_DUPLICATE, message);
                found.push(problem.at(&self.source, called.span));
            }
        }
        found
    }

    fn said_twice(&self, what: &str, name: &Name, first: &Name) -> Diagnostic {
        let message = format!("{what} {} is described twice", quote(&name.text));
        Diagnostic::error(codes::DEFINITION_DUPLICATE, message)
            .at(&self.source, name.span)
            .related(&self.source, first.span, "the first time")
    }

    fn line_mistake(&self, name: &Name, part: &Part) -> Option<Diagnostic> {
        let error = |code, message: String| {
            Some(Diagnostic::error(code, message).at(&self.source, name.span))
        };
        let Some(form) = self.form(&name.text) else {
            let known = self.forms.iter().map(|form| form.name.text.as_str());
            let near = nearest(&name.text, known);
            return error(
                codes::DEFINITION_NAME,
                format!("there is no form {}", quote(&name.text)),
            )
            .map(|problem| problem.did_you_mean(near));
        };
        if form.written.is_none() {
            let message = format!(
                "form {} is not written in the language itself",
                quote(&name.text)
            );
            return error(codes::DEFINITION_NAME, message)
                .map(|problem| problem.remedy("give the form a clause `written …`, too"));
        }
        let here = fields_of(part);
        let count_of = |fields: &[Field], wanted: &str| {
            fields
                .iter()
                .find(|f| f.name.text == wanted)
                .map(|f| f.count)
        };
        let names = form
            .fields
            .iter()
            .chain(&here)
            .map(|f| f.name.text.as_str());
        let differs = names
            .into_iter()
            .find(|n| count_of(&form.fields, n) != count_of(&here, n))?;
        let say = |fields: &[Field]| match count_of(fields, differs) {
            None => "not there".to_owned(),
            Some(count) => count.word().to_owned(),
        };
        let message = format!(
            "{} of form {} is {} here, and {} in the form",
            quote(differs),
            quote(&name.text),
            say(&here),
            say(&form.fields)
        );
        error(codes::DEFINITION_FIELD, message).map(|problem| {
            problem
                .why("both ways to write a form give the same tree, so they have the same fields")
        })
    }
}
