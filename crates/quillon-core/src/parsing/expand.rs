//! `written` clauses as plain sequences of symbols: choices and optional parts are
//! multiplied out, so that nothing has to be decided before it is seen; repetitions
//! become left-recursive helpers.

use super::grammar::{Builder, Production, Role, Symbol};
use crate::definition::{Grouping, Name, Part, Repeat, Thing};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::Span;

/// More sequences than this a form does not get: further choices become helpers.
const MOST_SEQUENCES: usize = 48;

/// Symbols with their roles.
type Sequence = Vec<(Symbol, Role)>;

/// Expands the parts of one form.
pub(super) struct Expander<'a, 'b> {
    pub builder: &'a mut Builder<'b>,
    pub form: usize,
    pub level: Option<(usize, usize, Grouping)>,
    /// Whether what is expanded can be the last thing in the form: only there does the
    /// form's precedence say how far a list goes.
    pub last: bool,
}

/// A sequence in the making; `tight` when a `~` waits for the next symbol.
#[derive(Clone, Default)]
struct Draft {
    symbols: Sequence,
    tight: Option<Span>,
}

impl Expander<'_, '_> {
    /// Every sequence that a part stands for.
    pub fn alternatives(&mut self, part: &Part) -> Vec<Sequence> {
        let drafts = self.extend(vec![Draft::default()], part);
        drafts
            .into_iter()
            .map(|draft| {
                if let Some(span) = draft.tight {
                    self.misplaced_tight(span);
                }
                draft.symbols
            })
            .collect()
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
            Part::Choice(parts) => parts
                .iter()
                .flat_map(|part| self.extend(drafts.clone(), part))
                .collect(),
            Part::Optional(_) if drafts.len() * 2 > MOST_SEQUENCES => {
                self.through_helper(drafts, part)
            }
            Part::Optional(inner) => {
                let mut all = self.extend(drafts.clone(), inner);
                all.extend(drafts);
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
                things
                    .iter()
                    .flat_map(|thing| {
                        self.push(drafts.clone(), role, |builder, tight| {
                            symbol_of(builder, thing, tight)
                        })
                    })
                    .collect()
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
        for sequence in self.alternatives(part) {
            self.helper_production(left, &sequence);
        }
        self.push(drafts, Role::Inner, |_, _| Symbol::Nonterminal(left))
    }

    fn helper_production(&mut self, left: u16, sequence: &Sequence) {
        self.builder.production(Production {
            left,
            right: sequence.iter().map(|&(symbol, _)| symbol).collect(),
            roles: sequence.iter().map(|&(_, role)| role).collect(),
            form: Some(self.form),
            node: false,
            level: self.level,
        });
    }

    fn repeat(&mut self, drafts: Vec<Draft>, repeat: &Repeat) -> Vec<Draft> {
        let separators: Vec<Sequence> = match &repeat.by {
            Some(by) => self.alternatives(by),
            None => vec![Vec::new()],
        };
        let (list, role) = self.list(repeat, &separators);
        let listed = self.push(drafts.clone(), role, |_, _| Symbol::Nonterminal(list));
        let mut all = Vec::new();
        if repeat.trailing {
            for separator in &separators {
                all.extend(listed.iter().map(|draft| {
                    let mut draft = draft.clone();
                    draft.symbols.extend(separator);
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
    fn list(&mut self, repeat: &Repeat, separators: &[Sequence]) -> (u16, Role) {
        if let Part::Field(name, things) = &repeat.part {
            let items: Vec<Symbol> = things
                .iter()
                .map(|thing| symbol_of(self.builder, thing, false))
                .collect();
            let between: Vec<Vec<Symbol>> = separators
                .iter()
                .map(|s| s.iter().map(|&(symbol, _)| symbol).collect())
                .collect();
            let role = Role::Items(self.field(name));
            let key = (items, between, self.level.filter(|_| self.last));
            if let Some(&list) = self.builder.lists.get(&key) {
                return (list, role);
            }
            let list = self.builder.helper();
            let sequences: Vec<Sequence> =
                key.0.iter().map(|&item| vec![(item, Role::Item)]).collect();
            let own = std::mem::replace(&mut self.level, key.2);
            self.builder.lists.insert(key, list);
            self.list_productions(list, &sequences, separators);
            self.level = own;
            return (list, role);
        }
        let list = self.builder.helper();
        let mut sequences = self.alternatives(&repeat.part);
        sequences.retain(|sequence| !sequence.is_empty());
        self.list_productions(list, &sequences, separators);
        (list, Role::Inner)
    }

    fn list_productions(&mut self, list: u16, items: &[Sequence], separators: &[Sequence]) {
        for item in items {
            self.helper_production(list, item);
            for separator in separators {
                let mut more = vec![(Symbol::Nonterminal(list), Role::Inner)];
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
