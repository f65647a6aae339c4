//! Checks every meaning of a definition when it is read: unknown fields, helpers and
//! operations, and how many operands they get.

mod jumps;
mod kinds;
mod names;
mod repeats;
mod unknown;

pub use jumps::only_parts;
pub use repeats::repeats;

use rustc_hash::FxHashMap;

use crate::definition::template::Wanted;
use crate::definition::{Count, Definition, FieldPath, Form, Name, Template, TemplateKind};
use crate::diagnostic::{Code, Diagnostic, codes, nearest, quote};
use crate::operations::Operation;
use crate::source::Span;
use jumps::stray_jumps;

use TemplateKind as T;

/// Everything wrong with the meanings of a definition.
pub fn check(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = check_meanings(definition);
    if definition.has_checks() {
        found.extend(check_clauses(definition));
    }
    found
}

/// Everything wrong with the `checks` clauses of a definition.
fn check_clauses(definition: &Definition) -> Vec<Diagnostic> {
    let checking = definition.checking();
    let mut checker = MeaningChecker::of(&checking);
    let mut spans: Vec<Span> = Vec::new();
    for (form, of_check) in definition.forms.iter().zip(&checking.forms) {
        if let Some(checks) = &*form.checks {
            checker.form(of_check);
            spans.push(checks.span);
        }
    }
    let mut found = checker.diagnostics;
    if found.is_empty() {
        let is_in = |jump: &Diagnostic| {
            let at = jump.place.as_ref().map(|place| place.span);
            at.is_some_and(|at| {
                spans
                    .iter()
                    .any(|span| span.start <= at.start && at.end <= span.end)
            })
        };
        found.extend(stray_jumps(&checking).into_iter().filter(is_in));
    }
    found
}

fn check_meanings(definition: &Definition) -> Vec<Diagnostic> {
    let mut checker = MeaningChecker::of(definition);
    for form in &definition.forms {
        checker.form(form);
    }
    checker.form = None;
    for helper in &definition.helpers {
        checker.locals = helper.params.iter().map(local).collect();
        checker.whole(&helper.body);
        if helper.recursive {
            checker.leaving(&helper.body, &helper.name.text, &mut Vec::new());
        }
    }
    for cell in &definition.state {
        checker.locals.clear();
        checker.whole(&cell.initial);
    }
    for provided in &definition.provides {
        checker.locals = provided.params.iter().flatten().map(local).collect();
        checker.whole(&provided.means);
    }
    // A form that could not be read, or whose meaning is wrong, may be the one with the landing.
    let is_right = definition.forms.iter().all(|form| !form.damaged);
    if is_right && !crate::diagnostic::has_errors(&checker.diagnostics) {
        checker.diagnostics.extend(stray_jumps(definition));
    }
    checker.diagnostics
}

/// A name that a meaning has made.
#[derive(Clone, Debug)]
pub(super) struct Local {
    name: String,
    /// Whether it stands for a child, whose fields can be asked for.
    child: bool,
}

pub(super) fn local(name: &Name) -> Local {
    Local {
        name: name.text.clone(),
        child: false,
    }
}

pub(super) struct MeaningChecker<'a> {
    pub definition: &'a Definition,
    pub form: Option<&'a Form>,
    pub locals: Vec<Local>,
    pub diagnostics: Vec<Diagnostic>,
    /// What nothing in the meaning at hand is called, with the number of its error and of its other
    /// places.
    unknown: FxHashMap<String, (usize, usize)>,
}

impl<'a> MeaningChecker<'a> {
    fn of(definition: &'a Definition) -> MeaningChecker<'a> {
        MeaningChecker {
            definition,
            form: None,
            locals: Vec::new(),
            diagnostics: Vec::new(),
            unknown: FxHashMap::default(),
        }
    }

    /// Checks what a form means.
    fn form(&mut self, form: &'a Form) {
        let Some(means) = form.means.as_ref().filter(|_| !form.damaged) else {
            return;
        };
        self.form = Some(form);
        self.locals = form.takes.iter().map(local).collect();
        self.whole(means);
    }

    pub(super) fn error(&mut self, code: Code, message: String, span: Span) -> &mut Diagnostic {
        self.diagnostics
            .push(Diagnostic::error(code, message).at(&self.definition.source, span));
        let last = self.diagnostics.len() - 1;
        &mut self.diagnostics[last]
    }

    /// Whether a name is that of a cell of the state, and of nothing nearer.
    fn is_state(&self, name: &str) -> bool {
        self.field_of(name).is_none() && self.definition.state_index(name).is_some()
    }

    pub(super) fn is_local(&self, name: &str) -> bool {
        self.locals.iter().any(|local| local.name == name)
    }

    /// Checks a part in which one more name is known.
    pub(super) fn within(&mut self, name: &Name, child: bool, part: &Template) {
        self.locals.push(Local {
            name: name.text.clone(),
            child,
        });
        self.template(part);
        self.locals.pop();
    }

    pub(super) fn template(&mut self, template: &Template) {
        let span = template.span;
        match &template.kind {
            T::Name(name) => {
                self.name(name, span);
                self.run_alone(name, span);
            }
            T::All(path) => {
                if let Some(part) = &path.part {
                    self.member(&path.field, part);
                } else {
                    self.field(&path.field, &[Count::Many, Count::Optional], "repeated");
                    self.run_alone(&path.field.text, span);
                }
            }
            T::Taking(path, value) => {
                self.template(value);
                match &path.part {
                    Some(part) => self.member(&path.field, part),
                    None => self.taking(&path.field),
                }
            }
            T::Member(owner, field) => self.member(owner, field),
            T::Spelling(part) => self.spelling(part),
            T::Given(path) => match &path.part {
                Some(part) => self.member(&path.field, part),
                None if self.may_be_free(&path.field) => {}
                None => self.field(&path.field, &[Count::Optional, Count::Many], "optional"),
            },
            T::Each(name, list, body) => self.each(name, list, body),
            T::Block(parts) => {
                let depth = self.locals.len();
                for part in parts {
                    self.template(part);
                    if let T::Let(name, _) = &part.kind {
                        self.locals.push(local(name));
                    }
                }
                self.locals.truncate(depth);
            }
            T::Set(path, value) => {
                let name = &path.field.text;
                if let Some(part) = &path.part {
                    self.variable_of_child(path, part);
                } else if !self.is_local(name) && !self.is_state(name) {
                    self.variable(&path.field, false);
                    self.changed(&path.field);
                }
                self.template(value);
            }
            T::With(name, value, body) => {
                self.template(value);
                self.variable(name, false);
                self.template(body);
            }
            T::Function(head, body) => self.function(head, body),
            T::Match(subject, arms) => {
                self.template(subject);
                for arm in arms {
                    match &arm.name {
                        Some(name) => self.within(name, false, &arm.body),
                        None => self.template(&arm.body),
                    }
                }
            }
            T::Attempt(body, name, rescue) => {
                self.template(body);
                self.within(name, false, rescue);
            }
            T::Apply(name, args) => {
                self.apply(name, args.len());
                args.iter().for_each(|arg| self.template(arg));
            }
            T::Fits(value, wanted, _) => {
                self.template(value);
                self.wanted(wanted);
            }
            T::Fault(message, at) => {
                self.template(message);
                match at {
                    Some(FieldPath {
                        field,
                        part: Some(part),
                    }) => self.member(field, part),
                    Some(at) if self.is_local(&at.field.text) => {}
                    Some(at) if self.is_state(&at.field.text) => self.no_place(&at.field),
                    Some(at) => self.field(&at.field, &[], ""),
                    None => {}
                }
            }
            _ => {
                if let T::Landing(target, _) | T::Jump(target, _) = &template.kind
                    && let Some(label) = &target.label
                {
                    self.field(label, &[], "");
                }
                let mut parts = Vec::new();
                template.each_part(&mut |part| parts.push(part));
                parts.into_iter().for_each(|part| self.template(part));
            }
        }
    }

    /// The type that a value is tested for: what it names is there.
    fn wanted(&mut self, wanted: &Wanted) {
        match wanted {
            Wanted::Part(owner, _) => self.name(&owner.text, owner.span),
            Wanted::Type(term) => {
                if let Some(form) = self.form {
                    let found = self.definition.type_mistakes(form, term);
                    self.diagnostics.extend(found);
                }
            }
        }
    }

    /// Whether a field is a use of a name that nothing need bind.
    fn may_be_free(&self, field: &Name) -> bool {
        self.form.is_some_and(|form| form.may_be_free(field))
    }

    /// Whether a name is bound by the form without being written.
    pub(super) fn is_unwritten(&self, name: &str) -> bool {
        self.form.is_some_and(|form| form.binds_unwritten(name))
    }

    pub(super) fn field_of(&self, name: &str) -> Option<&crate::definition::Field> {
        self.form?.fields.iter().find(|f| f.name.text == name)
    }

    fn name(&mut self, name: &str, span: Span) {
        let is_known = self.is_local(name) || self.field_of(name).is_some() || self.is_state(name);
        if !is_known && !self.is_unwritten(name) {
            self.unknown(name, span);
        }
    }

    /// A field that is run by itself: none of its forms may want something to run on.
    fn run_alone(&mut self, name: &str, span: Span) {
        if self.is_local(name) {
            return;
        }
        let Some(field) = self.field_of(name) else {
            return;
        };
        let mut forms = self.definition.forms.iter();
        let wants = |form: &&Form| form.takes.is_some() && form.is_among(&field.things);
        let Some(form) = forms.find(wants) else {
            return;
        };
        let message = format!(
            "{} can be form {}, which is run on something",
            quote(name),
            quote(&form.name.text)
        );
        let remedy = if field.count == Count::Many {
            format!("write `each one in {name} {{ one taking … }}`")
        } else {
            format!("write `{name} taking …`")
        };
        self.error(codes::DEFINITION_MEANING, message, span)
            .remedies
            .push(remedy);
    }

    /// A child that is run on something.
    fn taking(&mut self, name: &Name) {
        let is_child = self.locals.iter().any(|l| l.name == name.text && l.child);
        if is_child {
            return;
        }
        let Some(field) = self.field_of(&name.text) else {
            self.unknown(&name.text, name.span);
            return;
        };
        let takes_none = self
            .definition
            .forms_of(&field.things)
            .iter()
            .all(|form| form.takes.is_none());
        if field.count == Count::Many {
            let message = format!("{} is repeated: one is run at a time", quote(&name.text));
            self.error(codes::DEFINITION_MEANING, message, name.span)
                .remedies
                .push(format!(
                    "write `each one in {} {{ one taking … }}`",
                    name.text
                ));
        } else if takes_none {
            let message = format!("{} can be no form that takes a value", quote(&name.text));
            self.error(codes::DEFINITION_MEANING, message, name.span)
                .remedies
                .push("add `takes NAME` to those forms".to_owned());
        }
    }

    fn field(&mut self, name: &Name, counts: &[Count], what: &str) {
        let Some(field) = self.field_of(&name.text) else {
            self.unknown(&name.text, name.span);
            return;
        };
        if !counts.is_empty() && !counts.contains(&field.count) {
            let message = format!("field {} is always there exactly once", quote(&name.text));
            self.error(codes::DEFINITION_MEANING, message, name.span)
                .why
                .push(
                    format!("only an {what} field can be asked for like this")
                        .replace("an repeated", "a repeated"),
                );
        }
    }

    pub(super) fn member(&mut self, owner: &Name, field: &Name) {
        let is_child = self
            .locals
            .iter()
            .rev()
            .find(|l| l.name == owner.text)
            .map(|l| l.child);
        if is_child == Some(true) {
            return;
        }
        let Some(owner_field) = self.field_of(&owner.text) else {
            let is_module = Operation::ALL
                .iter()
                .any(|o| o.name().starts_with(&format!("{}.", owner.text)));
            if is_module {
                let message = format!(
                    "{} is an operation: its operands stand in parentheses after it",
                    quote(&format!("{}.{}", owner.text, field.text))
                );
                self.error(
                    codes::DEFINITION_MEANING,
                    message,
                    owner.span.to(field.span),
                );
            } else {
                self.unknown(&owner.text, owner.span);
            }
            return;
        };
        // The field must be one that some form of the child has.
        let fields: Vec<&str> = self
            .definition
            .forms_of(&owner_field.things)
            .into_iter()
            .flat_map(|form| form.fields.iter().map(|f| f.name.text.as_str()))
            .collect();
        if !fields.contains(&field.text.as_str()) {
            let near = nearest(&field.text, fields).map(str::to_owned);
            let message = format!(
                "what {} can be has no field {}",
                quote(&owner.text),
                quote(&field.text)
            );
            let error = self.error(codes::DEFINITION_FIELD, message, field.span);
            if let Some(near) = near {
                error
                    .remedies
                    .push(format!("did you mean {}?", quote(&near)));
            }
        }
    }

    fn spelling(&mut self, part: &Template) {
        match &part.kind {
            T::Name(name) if self.field_of(name).is_some() => {}
            T::Name(name) if self.locals.iter().any(|l| l.name == *name && l.child) => {}
            T::Name(name) if !self.is_local(name) => self.unknown(name, part.span),
            T::Member(owner, field) => self.member(owner, field),
            _ => {
                self.error(
                    codes::DEFINITION_MEANING,
                    "`spelling of` works on a field, whose text it gives".to_owned(),
                    part.span,
                );
            }
        }
    }

    /// A field of what a field stands for, as a parameter.
    pub(super) fn part_that_is_bound(&mut self, path: &FieldPath, part: &Name) {
        let text = path.text();
        let Some(form) = self.form else {
            let message = format!("{} is no variable here", quote(&text));
            self.error(codes::DEFINITION_MEANING, message, path.span());
            return;
        };
        if form.binds_part(&path.field.text, &part.text) {
            return;
        }
        let message = format!("{} is not bound here", quote(&text));
        self.error(codes::DEFINITION_MEANING, message, path.span())
            .remedies
            .push(format!("add `binds {text} in …`"));
    }
}
