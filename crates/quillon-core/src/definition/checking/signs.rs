//! Signs that programs declare: `declares` clauses name fields that have what is wanted, and the
//! precedence table has a level for what they declare.

use super::NameChecker;
use crate::definition::model::{
    Count, DeclaredRank, DeclaredSide, Declares, Form, Grouping, Name, PrecedenceTable, Ranks,
    Thing,
};
use crate::diagnostic::{Diagnostic, codes, quote};

/// What a language with a `declares` clause needs beside it.
const LINE: &str = "add a line `declared FORM from 1 to 9` to `precedence`, with the form that has the sign between its operands";

impl NameChecker<'_> {
    /// What a form declares.
    pub(super) fn declares(&mut self, form: &Form) {
        let Some(declares) = &form.declares else {
            return;
        };
        if self.definition.ranks().is_none() {
            let message = "no level of a precedence table is for declared signs".to_owned();
            self.error(codes::DEFINITION_PRECEDENCE, message, &declares.sign)
                .remedies
                .push(LINE.to_owned());
        }
        self.single_token(form, &declares.sign, "a sign");
        if let DeclaredSide::Field(name) = &declares.side {
            self.side(form, name);
        }
        self.rank(form, declares);
    }

    /// A field that has one token that is no fixed text.
    fn single_token(&mut self, form: &Form, name: &Name, what: &str) {
        let Some(field) = self.field(form, name) else {
            return;
        };
        let definition = self.definition;
        let is_token = field.things.iter().all(|thing| match thing {
            Thing::Named(name) => definition.tokens.iter().any(|t| t.name.text == name.text),
            Thing::Literal(_) => false,
        });
        if !is_token || field.count == Count::Many {
            let message = format!(
                "{} is not one token, and cannot be {what}",
                quote(&name.text)
            );
            self.error(codes::DEFINITION_FIELD, message, name);
        }
    }

    /// A field with the words of sides.
    fn side(&mut self, form: &Form, name: &Name) {
        let Some(field) = self.field(form, name) else {
            return;
        };
        let is_side = |thing: &Thing| match thing {
            Thing::Named(_) => false,
            Thing::Literal(text) => Grouping::of_word(&text.text).is_some(),
        };
        if field.count != Count::One || !field.things.iter().all(is_side) {
            let message = format!("{} does not say the side of a sign", quote(&name.text));
            self.error(codes::DEFINITION_FIELD, message, name)
                .remedies
                .push(format!(
                    "let it be words of sides, as in `{}:(\"left\" | \"right\")`, or write one of `left`, `right`, `none`, `prefix` and `suffix` here",
                    name.text
                ));
        }
    }

    fn rank(&mut self, form: &Form, declares: &Declares) {
        match (&declares.rank, self.definition.ranks()) {
            (Some(DeclaredRank::Field(name)), _) => self.single_token(form, name, "a rank"),
            (Some(DeclaredRank::Always(rank, at)), Some(ranks)) => self.in_ranks(*rank, at, ranks),
            (Some(DeclaredRank::Always(..)), None) | (None, _) => {}
        }
    }

    fn in_ranks(&mut self, rank: i64, at: &Name, ranks: Ranks) {
        if !ranks.has(rank) {
            let message = format!(
                "{rank} is none of the ranks from {} to {}",
                ranks.from, ranks.to
            );
            self.error(codes::DEFINITION_PRECEDENCE, message, at);
        }
    }

    /// The levels of declared signs, and of the forms that are ranked among them.
    pub(super) fn declared_levels(&mut self) {
        let definition = self.definition;
        let mut known: Option<&Name> = None;
        for table in &definition.precedence {
            let ranked = table.levels.iter().position(|level| level.ranks.is_some());
            for level in table.levels.iter().filter(|level| level.ranks.is_some()) {
                let first = &level.forms[0];
                if let Some(earlier) = known {
                    let message = "there is another level of declared signs";
                    let error = Diagnostic::error(codes::DEFINITION_PRECEDENCE, message)
                        .at(&definition.source, first.span)
                        .related(&definition.source, earlier.span, "the first one");
                    self.diagnostics.push(error);
                }
                known = Some(first);
                for name in &level.forms {
                    self.has_sign(name);
                }
            }
            self.ranked_lines(table, ranked);
        }
        for provided in &definition.provides {
            if let Some(fixity) = provided.fixity {
                if let Some(ranks) = definition.ranks() {
                    self.in_ranks(fixity.rank, &provided.name, ranks);
                } else {
                    let message = format!(
                        "{} is built in as an operator, and no level of a precedence table is for declared signs",
                        quote(&provided.name.text)
                    );
                    self.error(codes::DEFINITION_PRECEDENCE, message, &provided.name)
                        .remedies
                        .push(LINE.to_owned());
                }
            }
        }
    }

    /// A form of declared signs has one.
    fn has_sign(&mut self, name: &Name) {
        let definition = self.definition;
        let Some(form) = definition.form(&name.text) else {
            return;
        };
        if definition.sign_field(form).is_some() || form.damaged {
            return;
        }
        let message = format!(
            "form {} has no sign that can be declared",
            quote(&name.text)
        );
        let kinds = definition.sign_kinds();
        let remedy = match kinds.first() {
            Some(kind) => format!("let a field of it be a token {}", quote(kind)),
            None => "add `declares SIGN SIDE at RANK` to the form that declares signs".to_owned(),
        };
        self.error(codes::DEFINITION_PRECEDENCE, message, name)
            .remedies
            .push(remedy);
    }

    /// Lines with a rank come after that of declared signs, the looser before the tighter.
    fn ranked_lines(&mut self, table: &PrecedenceTable, ranked: Option<usize>) {
        let ranks = ranked.and_then(|at| table.levels[at].ranks);
        let mut last: Option<i64> = None;
        let mut is_over = false;
        for (at, level) in table.levels.iter().enumerate() {
            let Some(rank) = level.rank else {
                is_over |= last.is_some();
                continue;
            };
            let first = &level.forms[0];
            let trouble = match (ranks, ranked) {
                (Some(_), Some(line)) if at < line || is_over => {
                    "levels with a rank stand directly below that of declared signs".to_owned()
                }
                (Some(ranks), _) if !ranks.has(rank) => {
                    self.in_ranks(rank, first, ranks);
                    continue;
                }
                (Some(_), _) if last.is_some_and(|last| last > rank) => {
                    "a looser rank stands below a tighter one".to_owned()
                }
                (Some(_), _) => {
                    last = Some(rank);
                    continue;
                }
                (None, _) => "only beside declared signs does a level have a rank".to_owned(),
            };
            self.error(codes::DEFINITION_PRECEDENCE, trouble, first);
        }
    }
}
