//! The types that clauses write, filled in for a node or for one use of what is built in.

use super::Con;
use super::checker::TypeChecker;
use super::store::{Fit, Origin, TypeId};
use crate::definition::{Count, Form, Name, Provided, TypeTerm, TypeTermKind as K, is_capital};
use crate::tree::NodeId;

/// What a capital, or an annotation that is not there, stands for in one clause.
#[derive(Clone, Debug)]
pub(super) enum Meant {
    One(TypeId),
    /// One for each child of a repeated field.
    Many(Vec<TypeId>),
}

/// Where a clause is filled in: nothing for what is built in, which has no fields.
pub(super) type At<'f> = Option<(&'f Form, NodeId)>;

/// What the names in a clause stand for.
pub(super) type Meanings = Vec<(String, Meant)>;

impl TypeChecker<'_> {
    /// What a capital stands for.
    pub(super) fn capital(&mut self, capital: &str, meant: &mut Meanings) -> TypeId {
        if let Some(Meant::One(known)) = named(meant, capital) {
            return *known;
        }
        let fresh = self.store.fresh(self.level);
        meant.push((capital.to_owned(), Meant::One(fresh)));
        fresh
    }

    /// A type that a clause writes, for a node.
    pub(super) fn term(
        &mut self,
        term: &TypeTerm,
        at: At<'_>,
        meant: &mut Meanings,
        origin: Origin,
    ) -> TypeId {
        match &term.kind {
            K::Simple(kind) => match Con::of_kind(*kind) {
                Some(con) => self.store.con(con, &[], Some(origin)),
                None => self.store.any(Some(origin)),
            },
            K::Any => self.store.any(Some(origin)),
            K::List(inner) | K::Map(inner) => {
                let con = match term.kind {
                    K::List(_) => Con::List,
                    _ => Con::Map,
                };
                let inner = self.term(inner, at, meant, origin);
                self.store.con(con, &[inner], Some(origin))
            }
            K::Function(params, result) => {
                let mut args = Vec::new();
                for param in params {
                    match &param.kind {
                        K::Capital(capital) => match named(meant, capital) {
                            Some(Meant::Many(types)) => args.extend_from_slice(types),
                            _ => args.push(self.capital(capital, meant)),
                        },
                        _ => args.extend(self.parameter(param, at, meant, origin)),
                    }
                }
                args.push(self.term(result, at, meant, origin));
                let con = Con::Function { rest: false };
                self.store.con(con, &args, Some(origin))
            }
            K::Capital(capital) => self.capital(capital, meant),
            K::TypeOf(name) => match at {
                Some((form, id)) => match form.field_index(&name.text) {
                    Some(field) => self.of_field(form, id, field, true),
                    None => self.store.any(None),
                },
                None => self.capital(&name.text, meant),
            },
            K::Named(name, parts) => match self.definition.own_type(&name.text) {
                Some(own) => {
                    let parts: Vec<TypeId> = parts
                        .iter()
                        .map(|part| self.term(part, at, meant, origin))
                        .collect();
                    self.store.con(Con::Own(own as u16), &parts, Some(origin))
                }
                None => self.annotation(name, at, meant),
            },
        }
    }

    /// A parameter of a function's type: a repeated annotation is as many.
    fn parameter(
        &mut self,
        term: &TypeTerm,
        at: At<'_>,
        meant: &mut Meanings,
        origin: Origin,
    ) -> Vec<TypeId> {
        if let (K::Named(name, _), Some((form, id))) = (&term.kind, at)
            && let Some(field) = form.field_index(&name.text)
            && form.fields[field].count == Count::Many
        {
            let children = self.tree.children(id, field);
            return children.iter().map(|c| self.visit(*c)).collect();
        }
        vec![self.term(term, at, meant, origin)]
    }

    /// What an annotation denotes; one that is not there leaves it open.
    fn annotation(&mut self, name: &Name, at: At<'_>, meant: &mut Meanings) -> TypeId {
        let child = at.and_then(|(form, id)| {
            let field = form.field_index(&name.text)?;
            self.tree.children(id, field).first().copied()
        });
        match child {
            Some(child) => self.visit(child),
            None => self.capital(&name.text, meant),
        }
    }

    /// The type of something built-in, for one use of it.
    pub fn built_in(&mut self, index: usize, origin: Origin) -> TypeId {
        let provided = &self.definition.provides[index];
        let Some(typed) = &provided.typed else {
            return self.store.any(None);
        };
        let mut meant = Vec::new();
        for judgment in &typed.judgments {
            for subject in &judgment.subjects {
                let own = self.capital(&subject.name().text, &mut meant);
                let wanted = self.term(&judgment.wanted, None, &mut meant, origin);
                let is_param = !is_capital(&subject.name().text);
                let fit = if is_param { Fit::Same } else { Fit::Accepted };
                // A parameter is open until its judgment is made.
                let _ = self.store.relate(own, wanted, fit);
            }
        }
        let mut args: Vec<TypeId> = Vec::new();
        for param in provided.params.iter().flatten() {
            let judged = named(&meant, &param.text).is_some();
            args.push(if judged {
                self.capital(&param.text, &mut meant)
            } else {
                self.store.any(None)
            });
        }
        let result = match &typed.gives {
            Some(gives) => self.term(gives, None, &mut meant, origin),
            None => self.store.any(None),
        };
        let Provided {
            params: Some(_),
            rest,
            ..
        } = provided
        else {
            return result;
        };
        args.push(result);
        let con = Con::Function { rest: *rest };
        self.store.con(con, &args, Some(origin))
    }
}

/// What a name in a clause stands for, if that is known.
pub(super) fn named<'m>(meant: &'m Meanings, name: &str) -> Option<&'m Meant> {
    let mut all = meant.iter();
    all.find(|(own, _)| own == name).map(|(_, meant)| meant)
}
