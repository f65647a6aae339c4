//! Ties the names in `typed` and `denotes` clauses to fields and to the language's own types.

use crate::definition::model::is_capital;
use crate::definition::model::{
    Count, Definition, Form, Name, Subject, TypeTerm, TypeTermKind, Typed,
};
use crate::diagnostic::{Diagnostic, codes, nearest, plural, quote};

/// What is wrong with the types that a definition speaks of.
pub(in crate::definition) fn check(definition: &Definition) -> Vec<Diagnostic> {
    let mut checker = TypeClauseChecker {
        definition,
        found: Vec::new(),
    };
    for form in definition.forms.iter().filter(|form| !form.damaged) {
        let owner = Owner::Form(form);
        form.typed
            .iter()
            .for_each(|typed| checker.typed(owner, typed));
        form.denotes
            .iter()
            .for_each(|term| checker.term(owner, term));
    }
    for provided in &definition.provides {
        let params = provided.params.as_deref().unwrap_or_default();
        let owner = Owner::BuiltIn(&provided.name, params);
        provided
            .typed
            .iter()
            .for_each(|typed| checker.typed(owner, typed));
    }
    checker.own_types();
    checker.found
}

impl Definition {
    /// What is wrong with a type in the meaning of a form.
    pub(crate) fn type_mistakes(&self, form: &Form, term: &TypeTerm) -> Vec<Diagnostic> {
        let mut checker = TypeClauseChecker {
            definition: self,
            found: Vec::new(),
        };
        checker.term(Owner::Form(form), term);
        checker.found
    }
}

/// What a clause belongs to.
#[derive(Clone, Copy)]
enum Owner<'a> {
    Form(&'a Form),
    /// Something built-in, with its parameters.
    BuiltIn(&'a Name, &'a [Name]),
}

impl Owner<'_> {
    fn fields(&self) -> Vec<&str> {
        match self {
            Owner::Form(form) => form.fields.iter().map(|f| f.name.text.as_str()).collect(),
            Owner::BuiltIn(_, params) => params.iter().map(|p| p.text.as_str()).collect(),
        }
    }
}

struct TypeClauseChecker<'a> {
    definition: &'a Definition,
    found: Vec<Diagnostic>,
}

impl TypeClauseChecker<'_> {
    fn error(&mut self, message: String, at: &Name) -> &mut Diagnostic {
        let error = Diagnostic::error(codes::DEFINITION_TYPE, message);
        self.found.push(error.at(&self.definition.source, at.span));
        let last = self.found.len() - 1;
        &mut self.found[last]
    }

    fn own_types(&mut self) {
        let own = &self.definition.types;
        for (index, one) in own.iter().enumerate() {
            if let Some(earlier) = own[..index].iter().find(|o| o.name.text == one.name.text) {
                let (earlier, source) = (earlier.name.span, &self.definition.source);
                let message = format!("type {} is described twice", quote(&one.name.text));
                let error = Diagnostic::error(codes::DEFINITION_DUPLICATE, message)
                    .at(source, one.name.span)
                    .related(source, earlier, "the first time");
                self.found.push(error);
            }
        }
    }

    fn typed(&mut self, owner: Owner<'_>, typed: &Typed) {
        for (name, _) in &typed.given {
            let optional = match owner {
                Owner::Form(form) => form
                    .field_index(&name.text)
                    .map(|index| form.fields[index].count),
                Owner::BuiltIn(..) => None,
            };
            match optional {
                Some(Count::Optional) => {}
                Some(count) => {
                    let message = format!(
                        "`given` asks whether an optional field is there, and {} is {}",
                        quote(&name.text),
                        count.word()
                    );
                    self.error(message, name);
                }
                None => self.unknown_field(owner, name),
            }
        }
        for judgment in &typed.judgments {
            for subject in &judgment.subjects {
                self.subject(owner, subject);
            }
            self.term(owner, &judgment.wanted);
            self.sequence(owner, typed, &judgment.wanted);
        }
        if let Some(gives) = &typed.gives {
            self.term(owner, gives);
            self.sequence(owner, typed, gives);
        }
    }

    fn subject(&mut self, owner: Owner<'_>, subject: &Subject) {
        let name = subject.name();
        let field = match owner {
            Owner::Form(form) => form.field_index(&name.text).map(|i| &form.fields[i]),
            Owner::BuiltIn(..) => None,
        };
        match subject {
            Subject::Name(name) => {
                let unwritten =
                    matches!(owner, Owner::Form(form) if form.binds_unwritten(&name.text));
                let known = unwritten || owner.fields().contains(&name.text.as_str());
                if !known && !is_capital(&name.text) {
                    self.unknown_field(owner, name);
                }
            }
            Subject::Part(name, part) => match field {
                Some(field) => {
                    let forms = self.definition.forms_of(&field.things);
                    let has = |form: &&Form| form.field_index(&part.text).is_some();
                    if !forms.iter().any(has) {
                        let message = format!(
                            "what {} can be has no field {}",
                            quote(&name.text),
                            quote(&part.text)
                        );
                        self.error(message, part);
                    }
                }
                None => self.unknown_field(owner, name),
            },
        }
    }

    /// A capital for the types of a repeated field stands between the brackets of
    /// `function (…)` only.
    fn sequence(&mut self, owner: Owner<'_>, typed: &Typed, term: &TypeTerm) {
        let Owner::Form(form) = owner else {
            return;
        };
        let is_repeated = |name: &Name| {
            form.field_index(&name.text)
                .is_some_and(|index| form.fields[index].count == Count::Many)
        };
        let mut wrong = Vec::new();
        let is_sequence = |capital: &str| typed.is_sequence(capital, is_repeated);
        let mut waiting = vec![(term, true)];
        while let Some((term, may)) = waiting.pop() {
            match &term.kind {
                TypeTermKind::Capital(capital) if !may && is_sequence(capital) => {
                    wrong.push((capital, term.span));
                }
                TypeTermKind::Function(params, result) => {
                    waiting.extend(params.iter().map(|param| (param, true)));
                    waiting.push((result, false));
                }
                _ => term.each_part(&mut |part| waiting.push((part, false))),
            }
        }
        for (capital, span) in wrong {
            let name = Name {
                text: capital.clone(),
                span,
            };
            let message = format!(
                "{capital} stands for the types of a repeated field, one for each, and there is room for one only here"
            );
            self.error(message, &name)
                .remedies
                .push("such a capital stands between the brackets of `function (…)`, or alone after the field".to_owned());
        }
    }

    fn term(&mut self, owner: Owner<'_>, term: &TypeTerm) {
        match &term.kind {
            TypeTermKind::TypeOf(name) if !owner.fields().contains(&name.text.as_str()) => {
                self.unknown_field(owner, name);
            }
            TypeTermKind::Named(name, parts) => self.named(owner, name, parts.len()),
            _ => {}
        }
        term.each_part(&mut |part| self.term(owner, part));
    }

    /// A type of the language's own, or a field that denotes one.
    fn named(&mut self, owner: Owner<'_>, name: &Name, parts: usize) {
        let definition = self.definition;
        if let Some(own) = definition.own_type(&name.text) {
            let wanted = definition.types[own].params.len();
            if wanted != parts {
                let message = format!(
                    "{} is made of {}, and here are {parts}",
                    quote(&name.text),
                    plural(wanted, "type")
                );
                self.error(message, name);
            }
            return;
        }
        let field = match owner {
            Owner::Form(form) => form.field_index(&name.text).map(|i| &form.fields[i]),
            Owner::BuiltIn(..) => None,
        };
        if let Some(field) = field {
            let forms = definition.forms_of(&field.things);
            if forms.iter().all(|form| form.denotes.is_none()) {
                let message = format!("{} can be no form that denotes a type", quote(&name.text));
                self.error(message, name).remedies.extend([
                    format!("for the type of what it gives: `type of {}`", name.text),
                    "for an annotation: a clause `denotes TYPE` in its forms".to_owned(),
                ]);
            }
            return;
        }
        let simple = [
            "integer", "number", "text", "truth", "nothing", "any", "list", "map", "function",
        ];
        let own = definition.types.iter().map(|own| own.name.text.as_str());
        let mut known: Vec<&str> = simple.into_iter().chain(own).collect();
        known.extend(owner.fields());
        let near = nearest(&name.text, known).map(str::to_owned);
        let message = format!("there is no type {}", quote(&name.text));
        let error = self.error(message, name);
        error.why.push(
            "a type is `integer`, `number`, `text`, `truth`, `nothing`, `any`, `list of T`, `map of T`, `function (A) to B`, a single capital, a line of `types`, or a field that denotes one"
                .to_owned(),
        );
        error
            .remedies
            .extend(near.map(|near| format!("did you mean {}?", quote(&near))));
    }

    fn unknown_field(&mut self, owner: Owner<'_>, name: &Name) {
        let fields = owner.fields();
        let near = nearest(&name.text, fields.iter().copied()).map(str::to_owned);
        let listed: Vec<String> = fields.iter().map(|field| quote(field)).collect();
        let (message, what) = match owner {
            Owner::Form(form) => (
                format!(
                    "form {} has no field {}",
                    quote(&form.name.text),
                    quote(&name.text)
                ),
                "fields",
            ),
            Owner::BuiltIn(own, _) => (
                format!(
                    "{} has no parameter {}",
                    quote(&own.text),
                    quote(&name.text)
                ),
                "parameters",
            ),
        };
        let error = self.error(message, name);
        error.why.push(if listed.is_empty() {
            format!("it has no {what}")
        } else {
            format!("its {what} are {}", listed.join(", "))
        });
        error
            .remedies
            .extend(near.map(|near| format!("did you mean {}?", quote(&near))));
    }
}
