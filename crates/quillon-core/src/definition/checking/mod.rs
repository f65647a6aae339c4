//! Ties the names of a definition to what they name.

use rustc_hash::FxHashMap;

use crate::definition::model::{
    Binds, Count, Definition, Expected, Field, Form, Layout, Name, Part, Reach, Thing,
};
use crate::definition::reading::is_reserved;
mod reduces;
mod signs;
mod tokens;
mod typed;
mod unknown;
mod wins;

use crate::diagnostic::{Code, Diagnostic, codes, nearest, quote};
use unknown::Missing;

/// Everything wrong with a definition that was read, except for its meanings.
pub(in crate::definition) fn check(definition: &Definition) -> Vec<Diagnostic> {
    let mut checker = NameChecker {
        definition,
        diagnostics: Vec::new(),
        unknown: FxHashMap::default(),
    };
    checker.tokens();
    checker.language();
    for form in &definition.forms {
        checker.form(form);
    }
    for surface in &definition.surfaces {
        for (_, part) in &surface.lines {
            checker.part(part);
        }
    }
    checker.diagnostics.extend(definition.surface_mistakes());
    checker.duplicates();
    checker.precedence();
    checker.declared_levels();
    checker.values();
    checker.messages();
    checker.count_unknown();
    checker.diagnostics.extend(typed::check(definition));
    checker.diagnostics.extend(reduces::check(definition));
    checker.diagnostics
}

/// Leaves out errors about a word of the meaning notation in a form that has a field of that name: that it cannot be
/// called so is said at the field.
pub(super) fn leave_out_mentions(definition: &Definition, diagnostics: &mut Vec<Diagnostic>) {
    let is_of_words = |diagnostic: &Diagnostic| diagnostic.code == codes::DEFINITION_SYNTAX;
    if !diagnostics.iter().any(is_of_words) {
        return;
    }
    let mut reserved = Vec::new();
    for (at, form) in definition.forms.iter().enumerate() {
        let next = definition.forms.get(at + 1);
        let end = next.map_or(u32::MAX, |next| next.name.span.start);
        let names = form.fields.iter().map(|field| field.name.text.as_str());
        let names = names.filter(|name| is_reserved(name));
        reserved.extend(names.map(|name| (form.name.span.start..end, name)));
    }
    diagnostics.retain(|diagnostic| {
        let Some(place) = &diagnostic.place else {
            return true;
        };
        let is_mentioned = |(form, name): &(std::ops::Range<u32>, &str)| {
            form.contains(&place.span.start) && place.source.slice(place.span) == *name
        };
        !is_of_words(diagnostic) || !reserved.iter().any(is_mentioned)
    });
}

struct NameChecker<'a> {
    definition: &'a Definition,
    diagnostics: Vec<Diagnostic>,
    /// What is not there, with the number of its error and of its other places.
    unknown: FxHashMap<String, (usize, usize)>,
}

impl<'a> NameChecker<'a> {
    fn error(&mut self, code: Code, message: String, name: &Name) -> &mut Diagnostic {
        self.diagnostics
            .push(Diagnostic::error(code, message).at(&self.definition.source, name.span));
        let last = self.diagnostics.len() - 1;
        &mut self.diagnostics[last]
    }

    fn sorts(&self) -> Vec<&'a str> {
        let mut sorts: Vec<&str> = self.definition.forms.iter().map(Form::sort_name).collect();
        sorts.dedup();
        sorts
    }

    fn language(&mut self) {
        let definition = self.definition;
        if definition.forms.is_empty() {
            return;
        }
        let sorts = self.sorts();
        for name in definition.starts.iter().chain(&definition.entries) {
            if !definition.has_sort(&name.text) {
                self.unknown(Missing::Sort, name, &sorts);
            }
        }
    }

    fn twice(&mut self, what: &str, name: &Name, earlier: &Name) {
        self.diagnostics.push(
            Diagnostic::error(
                codes::DEFINITION_DUPLICATE,
                format!("{what} {} is described twice", quote(&name.text)),
            )
            .at(&self.definition.source, name.span)
            .related(&self.definition.source, earlier.span, "the first time"),
        );
    }

    fn values(&mut self) {
        let definition = self.definition;
        for (index, line) in definition.values.iter().enumerate() {
            let mut earlier = definition.values[..index].iter();
            if let Some(earlier) = earlier.find(|earlier| earlier.kind == line.kind) {
                self.twice("the kind", &line.name, &earlier.name);
            }
        }
    }

    fn duplicates(&mut self) {
        let definition = self.definition;
        for (index, form) in definition.forms.iter().enumerate() {
            if let Some(earlier) = definition.forms[..index]
                .iter()
                .find(|other| other.name.text == form.name.text)
            {
                self.twice("form", &form.name, &earlier.name);
            }
            if let Some(token) = definition
                .tokens
                .iter()
                .find(|rule| rule.name.text == form.name.text || rule.name.text == form.sort_name())
            {
                let message = format!(
                    "{} is both a token and a form or sort",
                    quote(&token.name.text)
                );
                self.error(codes::DEFINITION_DUPLICATE, message, &form.name)
                    .remedies
                    .push("give one of them another name".into());
            }
        }
        for (index, helper) in definition.helpers.iter().enumerate() {
            if let Some(earlier) = definition.helpers[..index]
                .iter()
                .find(|other| other.name.text == helper.name.text)
            {
                self.twice("helper", &helper.name, &earlier.name);
            }
        }
        for (index, cell) in definition.state.iter().enumerate() {
            if let Some(earlier) = definition.state[..index]
                .iter()
                .find(|other| other.name.text == cell.name.text)
            {
                self.twice("state", &cell.name, &earlier.name);
            }
        }
        for (index, provided) in definition.provides.iter().enumerate() {
            if let Some(earlier) = definition.provides[..index]
                .iter()
                .find(|other| other.name.text == provided.name.text)
            {
                self.twice("built-in name", &provided.name, &earlier.name);
            }
        }
    }

    fn form(&mut self, form: &Form) {
        if let Some(part) = &*form.written {
            self.part(part);
        }
        for field in &form.fields {
            if is_reserved(&field.name.text) {
                let message = format!(
                    "a field cannot be called {}: it is a word of the meaning notation",
                    quote(&field.name.text)
                );
                self.error(codes::DEFINITION_FIELD, message, &field.name)
                    .remedies
                    .push("give it another name, here and where the form mentions it".to_owned());
            }
        }
        if form.damaged {
            return;
        }
        if let Some(opens) = &form.opens {
            for name in &opens.around {
                self.field(form, name);
            }
        }
        if let (Some(taken), Some(binds)) = (&form.takes, form.binds.iter().find(|b| b.first)) {
            let message = "a form that runs when its scope begins cannot take a value".to_owned();
            self.error(codes::DEFINITION_FIELD, message, &binds.field)
                .remedies
                .push(format!("leave out `first`, or `takes {}`", taken.text));
        }
        for binds in &form.binds {
            if binds.reach == Reach::Unwritten {
                self.unwritten(form, binds);
            } else {
                self.reach(form, &binds.field, &binds.reach);
            }
            for name in &binds.inside {
                self.field(form, name);
            }
        }
        for uses in &form.uses {
            self.name_field(form, &uses.field);
        }
        for example in &form.examples {
            for expectation in &example.expectations {
                if let Expected::Tree(term) = &expectation.expected {
                    self.tree(term);
                }
            }
        }
        for offers in &form.offers {
            self.reach(form, &offers.field, &offers.reach);
        }
        for laid_out in &form.laid_out {
            if laid_out.literal {
                self.laid_out_text(form, &laid_out.what);
            } else {
                self.field(form, &laid_out.what);
            }
        }
        self.wins(form);
        self.declares(form);
        self.diagnostics
            .extend(self.definition.sugar_mistakes(form));
        if let Some(name) = &form.becomes
            && let Some(field) = self.field(form, name)
            && field.count != Count::One
        {
            let message = format!(
                "a form can only become a field that is always there, and {} is {}",
                quote(&name.text),
                field.count.word()
            );
            self.error(codes::DEFINITION_FIELD, message, name);
        }
    }

    /// A text of which is said how it is printed: one with which the form is written, in some surface.
    fn laid_out_text(&mut self, form: &Form, what: &Name) {
        let lines = self.definition.surfaces.iter();
        let lines = lines.flat_map(|surface| &surface.lines);
        let others = lines.filter(|(name, _)| name.text == form.name.text);
        let mut known = Vec::new();
        for part in form.written.iter().chain(others.map(|(_, part)| part)) {
            part.literals(&mut known);
        }
        let mut tokens = self.definition.tokens.iter();
        let is_token = tokens.any(|rule| rule.pattern.only_text().as_ref() == Some(&what.text));
        if is_token || known.contains(&what.text.as_str()) {
            return;
        }
        let message = format!(
            "form {} is not written with {}",
            quote(&form.name.text),
            quote(&what.text)
        );
        let none = "its `written` clause has no quoted texts";
        self.not_among(message, what, &known, ["its quoted texts are", none]);
    }

    /// Reports a name that is none of the known ones, which stand behind some words; or other words say that there
    /// are none.
    fn not_among(&mut self, message: String, name: &Name, known: &[&str], [some, none]: [&str; 2]) {
        let listed: Vec<String> = known.iter().map(|one| quote(one)).collect();
        let near = nearest(&name.text, known.iter().copied()).map(quote);
        let error = self.error(codes::DEFINITION_FIELD, message, name);
        error.why.push(if listed.is_empty() {
            none.to_owned()
        } else {
            format!("{some} {}", listed.join(", "))
        });
        let near = near.map(|near| format!("did you mean {near}?"));
        error.remedies.extend(near);
    }

    /// What a clause means of a field.
    fn reach(&mut self, form: &Form, field: &Name, reach: &Reach) {
        match reach {
            Reach::Itself => self.name_field(form, field),
            Reach::Part(part) => self.name_part(form, field, part),
            Reach::Offered => self.offering_field(form, field),
            Reach::Unwritten => {}
        }
    }

    /// A name that is bound without being written.
    fn unwritten(&mut self, form: &Form, binds: &Binds) {
        let name = &binds.field;
        if form.field_index(&name.text).is_some() {
            let message = format!("{} is a field of the form", quote(&name.text));
            self.error(codes::DEFINITION_FIELD, message, name)
                .remedies
                .push("write it without quotes to bind what the field has".to_owned());
        } else if binds.onward || binds.throughout {
            let message = format!(
                "{} is not written, and can only be bound in fields",
                quote(&name.text)
            );
            self.error(codes::DEFINITION_FIELD, message, name)
                .remedies
                .push(format!("write `binds \"{}\" in FIELD`", name.text));
        }
    }

    /// A field with forms that offer names.
    fn offering_field(&mut self, form: &Form, name: &Name) {
        let Some(field) = self.field(form, name) else {
            return;
        };
        let forms = self.definition.forms_of(&field.things);
        if forms.iter().all(|form| form.offers.is_empty()) {
            let message = format!("{} can be no form that offers a name", quote(&name.text));
            self.error(codes::DEFINITION_FIELD, message, name)
                .remedies
                .push("add `offers FIELD` to the form that has the name".to_owned());
        }
    }

    /// The field of a name in a clause of a form.
    fn field<'b>(&mut self, form: &'b Form, name: &Name) -> Option<&'b Field> {
        let found = form.fields.iter().find(|f| f.name.text == name.text);
        if found.is_none() {
            let known: Vec<&str> = form.fields.iter().map(|f| f.name.text.as_str()).collect();
            let message = format!(
                "form {} has no field {}",
                quote(&form.name.text),
                quote(&name.text)
            );
            let none = "its `written` clause names no fields";
            self.not_among(message, name, &known, ["its fields are", none]);
        }
        found
    }

    /// A field that names a variable must be a token.
    fn name_field(&mut self, form: &Form, name: &Name) {
        let Some(field) = self.field(form, name) else {
            return;
        };
        let sort = field.things.iter().find_map(|thing| match thing {
            Thing::Named(n) if self.definition.has_sort(&n.text) => Some(n.text.clone()),
            Thing::Named(_) | Thing::Literal(_) => None,
        });
        if let Some(sort) = sort {
            let message = format!(
                "{} cannot be bound or used as a name: it is {}, not a token",
                quote(&name.text),
                self.definition.wording(&sort)
            );
            self.error(codes::DEFINITION_FIELD, message, name);
        }
    }

    /// `FIELD.PART`: some form that the field can be has such a field.
    fn name_part(&mut self, form: &Form, field: &Name, part: &Name) {
        let Some(field) = self.field(form, field) else {
            return;
        };
        let forms = self.definition.forms_of(&field.things);
        let known: Vec<&str> = forms
            .iter()
            .flat_map(|form| form.fields.iter().map(|f| f.name.text.as_str()))
            .collect();
        if !known.contains(&part.text.as_str()) {
            let near = nearest(&part.text, known.iter().copied()).map(str::to_owned);
            let message = format!(
                "what {} can be has no field {}",
                quote(&field.name.text),
                quote(&part.text)
            );
            let error = self.error(codes::DEFINITION_FIELD, message, part);
            error
                .remedies
                .extend(near.map(|near| format!("did you mean {}?", quote(&near))));
        }
    }

    fn part(&mut self, part: &Part) {
        match part {
            Part::Sequence(parts) | Part::Choice(parts) => parts.iter().for_each(|p| self.part(p)),
            Part::Field(_, things) => {
                for thing in things {
                    if let Thing::Named(name) = thing {
                        self.thing(name);
                    }
                }
            }
            Part::Unnamed(name) => self.thing(name),
            Part::Optional(inner) => self.part(inner),
            Part::Repeat(repeat) => {
                self.part(&repeat.part);
                repeat.by.iter().for_each(|by| self.part(by));
            }
            Part::Literal(_) | Part::Soft(_) | Part::Tight(_) => {}
        }
    }

    /// A name in a `written` clause: a sort, a form or a token that is not ignored.
    fn thing(&mut self, name: &Name) {
        let definition = self.definition;
        if definition.has_sort(&name.text) || definition.form(&name.text).is_some() {
            return;
        }
        if definition
            .layout
            .is_some_and(|layout| layout.tokens().contains(&name.text.as_str()))
        {
            return;
        }
        match definition.tokens.iter().find(|t| t.name.text == name.text) {
            Some(rule) if rule.ignored => {
                let message = format!(
                    "{} is ignored, so no form can ask for it",
                    quote(&name.text)
                );
                self.error(codes::DEFINITION_NAME, message, name);
            }
            Some(_) => {}
            None => {
                let mut known = self.sorts();
                known.extend(definition.tokens.iter().map(|t| t.name.text.as_str()));
                known.extend(definition.forms.iter().map(|f| f.name.text.as_str()));
                known.extend(["trailing", "by", "soft"]);
                let before = self.diagnostics.len();
                let is_word = name.text.starts_with(char::is_lowercase);
                let what = if is_word {
                    Missing::Word
                } else {
                    Missing::Thing
                };
                self.unknown(what, name, &known);
                if Layout::Indentation.tokens().contains(&name.text.as_str())
                    && let Some(last) = self.diagnostics.get_mut(before)
                {
                    last.remedies = vec![format!(
                        "add `layout {}` to `language`, which makes such tokens",
                        if name.text == "LineEnd" {
                            "lines"
                        } else {
                            "indentation"
                        }
                    )];
                }
            }
        }
    }

    fn precedence(&mut self) {
        let definition = self.definition;
        let mut ranked: Vec<&Name> = Vec::new();
        for table in &definition.precedence {
            if !definition.has_sort(&table.sort.text) {
                let sorts = self.sorts();
                self.unknown(Missing::Sort, &table.sort, &sorts);
                continue;
            }
            for name in table.levels.iter().flat_map(|level| &level.forms) {
                if let Some(earlier) = ranked.iter().find(|n| n.text == name.text) {
                    self.twice("the precedence of", name, earlier);
                }
                ranked.push(name);
                match definition.form(&name.text) {
                    Some(form)
                        if form.sort_name() == table.sort.text
                            || form.has_inside(&table.sort.text) => {}
                    Some(_) => {
                        let message = format!(
                            "form {} is no way to write {}, and has none in it",
                            quote(&name.text),
                            quote(&table.sort.text)
                        );
                        self.error(codes::DEFINITION_PRECEDENCE, message, name);
                    }
                    None => {
                        let known: Vec<&str> = definition
                            .forms
                            .iter()
                            .filter(|f| f.sort_name() == table.sort.text)
                            .map(|f| f.name.text.as_str())
                            .collect();
                        self.unknown(Missing::Form, name, &known);
                    }
                }
            }
        }
    }
}
