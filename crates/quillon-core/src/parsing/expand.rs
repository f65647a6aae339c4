//! `written` clauses as plain sequences of symbols: choices and optional parts are
//! multiplied out, so that nothing has to be decided before it is seen; repetitions
//! become left-recursive helpers.

use super::grammar::{Builder, Production, Role, Symbol};
use crate::definition::{Grouping, Name, Part, Repeat, Thing};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::Span;
use rustc_hash::FxHashMap;

/// More sequences than this a form does not get: further choices become helpers.
const MOST_SEQUENCES: usize = 48;

/// Expands the parts of one form.
pub(super) struct Expander<'a, 'b> {
    pub builder: &'a mut Builder<'b>,
    pub form: usize,
    pub level: Option<(usize, usize, Grouping)>,
    /// Whether what is expanded can be the last thing in the form: only there does the
    /// form's precedence say how far a list goes.
    pub last: bool,
    /// The numbers of the form's choices (see `Part::choices`), by where they stand.
    points: FxHashMap<*const Part, u16>,
}

/// A sequence in the making.
#[derive(Clone, Default)]
pub(super) struct Draft {
    /// Symbols with their roles.
    symbols: Vec<(Symbol, Role)>,
    /// Which way was taken at each choice.
    choices: Vec<(u16, u16)>,
    /// Set when a `~` waits for the next symbol.
    tight: Option<Span>,
}

impl Draft {
    fn extend(&mut self, other: &Draft) {
        self.symbols.extend(&other.symbols);
        self.choices.extend(&other.choices);
    }

    /// As a way to write a nonterminal.
    pub fn production(
        &self,
        left: u16,
        form: usize,
        node: bool,
        level: Option<(usize, usize, Grouping)>,
    ) -> Production {
        Production {
            left,
            right: self.symbols.iter().map(|&(symbol, _)| symbol).collect(),
            roles: self.symbols.iter().map(|&(_, role)| role).collect(),
            form: Some(form),
            node,
            level,
            choices: self.choices.clone(),
        }
    }
}

impl<'a, 'b> Expander<'a, 'b> {
    /// Ready to expand what a form is written as.
    pub fn new(
        builder: &'a mut Builder<'b>,
        form: usize,
        level: Option<(usize, usize, Grouping)>,
        written: &Part,
    ) -> Expander<'a, 'b> {
        let mut points = Vec::new();
        written.choices(&mut points);
        let points = (0..)
            .zip(points)
            .map(|(number, part)| (std::ptr::from_ref(part), number));
        Expander {
            builder,
            form,
            level,
            last: true,
            points: points.collect(),
        }
    }
}

impl Expander<'_, '_> {
    /// Every sequence that a part stands for.
    pub fn alternatives(&mut self, part: &Part) -> Vec<Draft> {
        let mut drafts = self.extend(vec![Draft::default()], part);
        for draft in &mut drafts {
            if let Some(span) = draft.tight.take() {
                self.misplaced_tight(span);
            }
        }
        drafts
    }

    /// Notes that one way was taken at a choice.
    fn chosen(&self, mut drafts: Vec<Draft>, part: &Part, way: usize) -> Vec<Draft> {
        if let Some(&number) = self.points.get(&std::ptr::from_ref(part)) {
            for draft in &mut drafts {
                draft.choices.push((number, way as u16));
            }
        }
        drafts
    }

    fn misplaced_tight(&mut self, span: Span) {
        let source = &self.builder.definition.source;
        let diagnostic = Diagnostic::error(
            codes::DEFINITION_SYNTAX,
            "`~` must stand before a quoted text or a token",
        )
        .at(source, span)
        .why("it says that no blank may stand before the token that follows");
        if !self.builder.diagnostics.contains(&diagnostic) {
            self.builder.diagnostics.push(diagnostic);
        }
    }

    /// Every draft followed by every sequence that a part stands for.
    fn extend(&mut self, drafts: Vec<Draft>, part: &Part) -> Vec<Draft> {
        match part {
            Part::Sequence(parts) => self.sequence(drafts, parts),
            Part::Choice(parts) if drafts.len() * parts.len() > MOST_SEQUENCES => {
                self.through_helper(drafts, part)
            }
            Part::Choice(parts) => {
                let mut all = Vec::new();
                for (way, inner) in parts.iter().enumerate() {
                    let drafts = self.chosen(drafts.clone(), part, way);
                    all.extend(self.extend(drafts, inner));
                }
                all
            }
            Part::Optional(_) if drafts.len() * 2 > MOST_SEQUENCES => {
                self.through_helper(drafts, part)
            }
            Part::Optional(inner) => {
                let there = self.chosen(drafts.clone(), part, 0);
                let mut all = self.extend(there, inner);
                all.extend(self.chosen(drafts, part, 1));
                all
            }
            Part::Literal(name) | Part::Soft(name) => {
                let name = &name.text;
                self.push(drafts, Role::Drop, |builder, tight| {
                    literal(builder, name, tight)
                })
            }
            Part::Unnamed(name) => {
                let name = &name.text;
                self.push(drafts, Role::Drop, |builder, tight| {
                    builder.named(name, tight)
                })
            }
            Part::Field(name, things) => {
                let role = Role::Field(self.field(name));
                let mut all = Vec::new();
                for (way, thing) in things.iter().enumerate() {
                    let drafts = self.chosen(drafts.clone(), part, way);
                    all.extend(self.push(drafts, role, |builder, tight| {
                        symbol_of(builder, thing, tight)
                    }));
                }
                all
            }
            Part::Repeat(repeat) => self.repeat(drafts, repeat),
            Part::Tight(span) => drafts
                .into_iter()
                .map(|mut draft| {
                    draft.tight = Some(*span);
                    draft
                })
                .collect(),
        }
    }

    fn sequence(&mut self, mut drafts: Vec<Draft>, parts: &[Part]) -> Vec<Draft> {
        let last = self.last;
        for (index, part) in parts.iter().enumerate() {
            self.last = last && parts[index + 1..].iter().all(can_be_absent);
            drafts = self.extend(drafts, part);
        }
        self.last = last;
        drafts
    }

    fn field(&self, name: &Name) -> u16 {
        self.builder.definition.forms[self.form]
            .field_index(&name.text)
            .unwrap_or_default() as u16
    }

    fn push(
        &mut self,
        drafts: Vec<Draft>,
        role: Role,
        mut symbol: impl FnMut(&mut Builder<'_>, bool) -> Symbol,
    ) -> Vec<Draft> {
        drafts
            .into_iter()
            .map(|mut draft| {
                let tight = draft.tight.take();
                let symbol = symbol(self.builder, tight.is_some());
                if let (Some(span), Symbol::Nonterminal(_)) = (tight, symbol) {
                    self.misplaced_tight(span);
                }
                draft.symbols.push((symbol, role));
                draft
            })
            .collect()
    }

    /// A part that would multiply out too far, as a nonterminal of its own.
    fn through_helper(&mut self, drafts: Vec<Draft>, part: &Part) -> Vec<Draft> {
        let left = self.builder.helper();
        for draft in self.alternatives(part) {
            self.helper_production(left, &draft);
        }
        self.push(drafts, Role::Inner, |_, _| Symbol::Nonterminal(left))
    }

    fn helper_production(&mut self, left: u16, draft: &Draft) {
        self.builder
            .production(draft.production(left, self.form, false, self.level));
    }

    fn repeat(&mut self, drafts: Vec<Draft>, repeat: &Repeat) -> Vec<Draft> {
        let separators: Vec<Draft> = match &repeat.by {
            Some(by) => self.alternatives(by),
            None => vec![Draft::default()],
        };
        let (list, role) = self.list(repeat, &separators);
        let listed = self.push(drafts.clone(), role, |_, _| Symbol::Nonterminal(list));
        let mut all = Vec::new();
        if repeat.trailing {
            for separator in &separators {
                all.extend(listed.iter().map(|draft| {
                    let mut draft = draft.clone();
                    draft.extend(separator);
                    draft
                }));
            }
        }
        all.extend(listed);
        if !repeat.at_least_one {
            all.extend(drafts);
        }
        all
    }

    /// The nonterminal for one or more of the repeated part. A list of one field is
    /// shared by all forms that have such a list: what two forms have in common is
    /// read once, and which form it is can be decided later.
    fn list(&mut self, repeat: &Repeat, separators: &[Draft]) -> (u16, Role) {
        if let Part::Field(name, things) = &repeat.part {
            let items: Vec<Symbol> = things
                .iter()
                .map(|thing| symbol_of(self.builder, thing, false))
                .collect();
            let between: Vec<Vec<Symbol>> = separators
                .iter()
                .map(|s| s.symbols.iter().map(|&(symbol, _)| symbol).collect())
                .collect();
            let role = Role::Items(self.field(name));
            let key = (items, between, self.level.filter(|_| self.last));
            if let Some(&list) = self.builder.lists.get(&key) {
                return (list, role);
            }
            let list = self.builder.helper();
            let item = |&item: &Symbol| Draft {
                symbols: vec![(item, Role::Item)],
                ..Draft::default()
            };
            let items: Vec<Draft> = key.0.iter().map(item).collect();
            let own = std::mem::replace(&mut self.level, key.2);
            self.builder.lists.insert(key, list);
            self.list_productions(list, &items, separators);
            self.level = own;
            return (list, role);
        }
        let list = self.builder.helper();
        let mut items = self.alternatives(&repeat.part);
        items.retain(|item| !item.symbols.is_empty());
        self.list_productions(list, &items, separators);
        (list, Role::Inner)
    }

    fn list_productions(&mut self, list: u16, items: &[Draft], separators: &[Draft]) {
        for item in items {
            self.helper_production(list, item);
            for separator in separators {
                let mut more = Draft {
                    symbols: vec![(Symbol::Nonterminal(list), Role::Inner)],
                    ..Draft::default()
                };
                more.extend(separator);
                more.extend(item);
                self.helper_production(list, &more);
            }
        }
    }
}

/// Whether a part may stand for nothing at all.
fn can_be_absent(part: &Part) -> bool {
    match part {
        Part::Optional(_) | Part::Tight(_) => true,
        Part::Repeat(repeat) => !repeat.at_least_one,
        Part::Sequence(parts) => parts.iter().all(can_be_absent),
        Part::Choice(parts) => parts.iter().any(can_be_absent),
        Part::Literal(_) | Part::Soft(_) | Part::Field(..) | Part::Unnamed(_) => false,
    }
}

fn literal(builder: &mut Builder<'_>, text: &str, tight: bool) -> Symbol {
    let kind = builder
        .lexer
        .kind_of(text, true)
        .unwrap_or(crate::lexing::KindId::END);
    builder.terminal(kind, tight)
}

fn symbol_of(builder: &mut Builder<'_>, thing: &Thing, tight: bool) -> Symbol {
    match thing {
        Thing::Named(name) => builder.named(&name.text, tight),
        Thing::Literal(name) => literal(builder, &name.text, tight),
    }
}
