//! Finds things in a definition.

use rustc_hash::FxHashMap;

use super::{Definition, Form, Grouping, Template, TemplateKind, Thing};
use crate::diagnostic::quote;

/// A precedence level: the table's index, the level's, and how operators on it group.
pub(crate) type TableLevel = (usize, usize, Grouping);

impl Definition {
    /// The number of lines in `tokens`: the pieces of tokens with holes do not count.
    pub fn named_tokens(&self) -> usize {
        self.tokens.iter().filter(|rule| !rule.piece).count()
    }

    /// The forms that some things can be.
    pub(crate) fn forms_of(&self, things: &[Thing]) -> Vec<&Form> {
        let forms = self.forms.iter();
        forms.filter(|form| form.is_among(things)).collect()
    }

    /// The number of a type of the language's own.
    pub(crate) fn own_type(&self, name: &str) -> Option<usize> {
        self.types.iter().position(|own| own.name.text == name)
    }

    /// Whether anything in it speaks of types: without that nothing is checked.
    pub fn is_typed(&self) -> bool {
        self.forms.iter().any(|form| !form.typed.is_empty())
    }

    /// Whether its programs can be reduced.
    pub fn is_reducing(&self) -> bool {
        let reduces = |form: &Form| !form.rules.is_empty() || !form.reduces_in.is_empty();
        self.forms.iter().any(|form| form.is_value) && self.forms.iter().any(reduces)
    }

    /// The number of a cell of the state.
    pub(crate) fn state_index(&self, name: &str) -> Option<usize> {
        self.state.iter().position(|cell| cell.name.text == name)
    }

    /// The remark that the definition begins with, on one line.
    pub fn remark(&self) -> String {
        let lines = self.source.text().lines();
        let remarks = lines.map_while(|line| line.trim().strip_prefix("--"));
        remarks.map(str::trim).collect::<Vec<_>>().join(" ")
    }

    /// Every sort, in the order of the definition, with its forms.
    pub fn sorts(&self) -> Vec<(&str, Vec<&Form>)> {
        let mut sorts: Vec<(&str, Vec<&Form>)> = Vec::new();
        for form in self.forms.iter().filter(|form| form.written.is_some()) {
            match sorts.iter_mut().find(|(sort, _)| *sort == form.sort_name()) {
                Some((_, forms)) => forms.push(form),
                None => sorts.push((form.sort_name(), vec![form])),
            }
        }
        sorts
    }

    /// The form of a name.
    pub fn form(&self, name: &str) -> Option<&Form> {
        self.forms.iter().find(|form| form.name.text == name)
    }

    /// The index of the form with a name.
    pub(crate) fn form_index(&self, name: &str) -> Option<usize> {
        self.forms.iter().position(|form| form.name.text == name)
    }

    /// Whether any form is a way to write this sort.
    pub(crate) fn has_sort(&self, name: &str) -> bool {
        self.forms.iter().any(|form| form.sort_name() == name)
    }

    /// The precedence level of a form.
    pub(crate) fn level_of(&self, form: &str) -> Option<TableLevel> {
        let mut ranked = self.ranked();
        ranked
            .find(|(name, _)| *name == form)
            .map(|(_, level)| level)
    }

    /// The precedence level of each form that has one.
    pub(crate) fn levels(&self) -> FxHashMap<&str, TableLevel> {
        let mut levels = FxHashMap::default();
        for (name, level) in self.ranked() {
            levels.entry(name).or_insert(level);
        }
        levels
    }

    /// The forms in the precedence tables, each with its level; of one that stands there twice the
    /// first counts.
    fn ranked(&self) -> impl Iterator<Item = (&str, TableLevel)> {
        self.precedence.iter().enumerate().flat_map(|(t, table)| {
            table.levels.iter().enumerate().flat_map(move |(l, level)| {
                let names = level.forms.iter();
                names.map(move |name| (&name.text[..], (t, l, level.grouping)))
            })
        })
    }

    /// How messages call a sort or a token: as `messages` has it, or a token by the only text that it
    /// can be, or by the name in words: `an expression`.
    pub fn wording(&self, name: &str) -> String {
        let mut messages = self.messages.iter();
        let said = messages.find(|m| !m.unmatched && m.subject.text == name);
        let only = || {
            let rule = self.tokens.iter().find(|rule| rule.name.text == name)?;
            let is_seen =
                |text: &String| !text.contains(|c: char| c.is_whitespace() || c.is_control());
            let fixed = rule.pattern.fixed().filter(is_seen);
            fixed.filter(|_| !rule.piece && rule.holes.is_none())
        };
        match said {
            Some(message) => message.text.clone(),
            None => only().map_or_else(
                || crate::diagnostic::article(&crate::diagnostic::humanise(name)),
                |text| crate::diagnostic::quote(&text),
            ),
        }
    }

    /// The names of the landings that there are, and of those that meanings jump to.
    pub(crate) fn landings(&self) -> Vec<&str> {
        fn look<'t>(template: &'t Template, found: &mut Vec<&'t str>) {
            if let TemplateKind::Jump(target, _) | TemplateKind::Landing(target, _) = &template.kind
            {
                found.push(&target.name.text);
            }
            template.each_part(&mut |part| look(part, found));
        }
        let mut found = Vec::new();
        let forms = self.forms.iter().filter_map(|form| form.means.as_ref());
        let helpers = self.helpers.iter().map(|helper| &helper.body);
        let provided = self.provides.iter().map(|provided| &provided.means);
        for means in forms.chain(helpers).chain(provided) {
            look(means, &mut found);
        }
        found
    }

    /// What to say of a jump of a form that finds no landing.
    pub fn unmatched(&self, jump: &str, form: Option<&Form>) -> String {
        let mut words = Vec::new();
        form.and_then(|form| form.written.as_ref())
            .iter()
            .for_each(|part| part.literals(&mut words));
        let this = words
            .first()
            .map_or(String::new(), |word| format!(" {}", quote(word)));
        self.messages
            .iter()
            .find(|m| m.unmatched && m.subject.text == jump)
            .map_or_else(
                || format!("there is nothing here that this{this} could end"),
                |m| m.text.clone(),
            )
    }
}
