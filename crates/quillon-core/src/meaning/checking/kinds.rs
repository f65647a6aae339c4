//! Kinds of value that can never fit where a meaning puts them: found when the definition
//! is read. Only what is certain is said; most kinds are known when a program runs.

use crate::definition::template::{BinaryOperator as B, ValueKind as V};
use crate::definition::{Count, Definition, Form, Literal, Template, TemplateKind as T, Thing};
use crate::diagnostic::{Diagnostic, codes, one_of, quote};
use crate::operations::Operation;
use crate::source::Span;

/// Every operand of a meaning whose kind can never be one that is wanted.
pub(super) fn misfits(
    definition: &Definition,
    form: Option<&Form>,
    means: &Template,
) -> Vec<Diagnostic> {
    let mut search = Search {
        definition,
        form,
        own: Vec::new(),
        given: Vec::new(),
        found: Vec::new(),
    };
    search.template(means);
    search.found
}

const TRUTH: &[V] = &[V::Truth];
const NUMBERS: &[V] = &[V::Integer, V::Number];

struct Search<'a> {
    definition: &'a Definition,
    form: Option<&'a Form>,
    /// Names that the meaning itself makes: what they hold is not followed.
    own: Vec<&'a str>,
    /// The functions that a call gives, and an operator behind them takes.
    given: Vec<Span>,
    found: Vec<Diagnostic>,
}

impl<'a> Search<'a> {
    fn template(&mut self, template: &'a Template) {
        match &template.kind {
            T::Let(name, _) | T::Each(name, ..) | T::Attempt(_, name, _) => {
                self.own.push(&name.text);
            }
            T::Match(_, arms) => {
                let names = arms.iter().filter_map(|arm| arm.name.as_ref());
                self.own.extend(names.map(|name| name.text.as_str()));
            }
            T::Function(head, _) => self
                .own
                .extend(head.params.iter().map(|p| p.field.text.as_str())),
            _ => {}
        }
        match &template.kind {
            T::If(test, ..) | T::While(test, _) | T::Not(test) => self.wants(test, TRUTH),
            T::And(a, b) | T::Or(a, b) => {
                self.wants(a, TRUTH);
                self.wants(b, TRUTH);
            }
            T::Negate(a) => self.wants(a, NUMBERS),
            T::Call(callee, args) => {
                self.wants(callee, &[V::Function]);
                self.given
                    .extend(args.last().and_then(taken_by_an_operator));
            }
            T::Binary(operator, a, b) => {
                let wanted = wanted_by(*operator);
                self.wants(a, wanted);
                self.wants(b, wanted);
                self.both(*operator, a, b);
            }
            T::Apply(name, args) => {
                if let Some(operation) = Operation::named(&name.text)
                    && self.definition.helper(&name.text).is_none()
                {
                    for (operand, arg) in operation.operands().iter().zip(args) {
                        self.wants(arg, operand.wanted.kinds());
                    }
                }
            }
            _ => {}
        }
        let mut parts = Vec::new();
        template.each_part(&mut |part| parts.push(part));
        parts.into_iter().for_each(|part| self.template(part));
    }

    /// Notes an operand of a kind that is not among those wanted; none wanted is any.
    fn wants(&mut self, operand: &Template, wanted: &[V]) {
        let Some(kind) = self.kind(operand) else {
            return;
        };
        if wanted.is_empty() || wanted.contains(&kind) {
            return;
        }
        let kinds = wanted.iter();
        let listed: Vec<String> = kinds.map(|kind| kind.described().to_owned()).collect();
        let text = self.definition.source.slice(operand.span);
        let message = format!(
            "{} is always {}, and {} is needed here",
            quote(text),
            kind.described(),
            one_of(&listed)
        );
        let error = Diagnostic::error(codes::DEFINITION_MEANING, message);
        let mut error = error.at(&self.definition.source, operand.span);
        if self.given.contains(&operand.span) {
            error = error.remedy("if the call is to end before the operator, put it into brackets: `(call … with …)`");
        }
        self.found.push(error);
    }

    /// Two operands that would have to be of one kind.
    fn both(&mut self, operator: B, a: &Template, b: &Template) {
        let needs_one = matches!(
            operator,
            B::Join | B::Less | B::LessOrEqual | B::Greater | B::GreaterOrEqual
        );
        let (Some(left), Some(right)) = (self.kind(a), self.kind(b)) else {
            return;
        };
        let alike = left == right || (NUMBERS.contains(&left) && NUMBERS.contains(&right));
        let wanted = wanted_by(operator);
        if needs_one && !alike && wanted.contains(&left) && wanted.contains(&right) {
            let message = format!(
                "{} is always {}, and the other side of `{}` is {}",
                quote(self.definition.source.slice(b.span)),
                right.described(),
                operator.sign(),
                left.described()
            );
            self.found.push(
                Diagnostic::error(codes::DEFINITION_MEANING, message)
                    .at(&self.definition.source, b.span),
            );
        }
    }

    /// The kind that the value of a template always has, where that is certain.
    fn kind(&self, template: &Template) -> Option<V> {
        Some(match &template.kind {
            T::Literal(literal) => of_literal(literal),
            T::List(_) => V::List,
            T::Function(..) => V::Function,
            T::Not(_) | T::And(..) | T::Or(..) | T::Given(_) => V::Truth,
            T::While(..) | T::Each(..) | T::Set(..) => V::Nothing,
            T::Binary(operator, ..) => match operator {
                B::Divide => V::Number,
                B::Add | B::Subtract | B::Multiply | B::Join => return None,
                _ => V::Truth,
            },
            T::Apply(name, _) => {
                if self.definition.helper(&name.text).is_some() {
                    return None;
                }
                Operation::named(&name.text)?.gives().kind()?
            }
            T::Name(name) => return self.field_kind(name),
            _ => return None,
        })
    }

    /// The kind of a field that is always one token which holds a value.
    fn field_kind(&self, name: &str) -> Option<V> {
        let form = self.form?;
        if self.own.contains(&name)
            || form.is_name_field(name)
            || form.takes.as_ref().is_some_and(|t| t.text == name)
        {
            return None;
        }
        let field = &form.fields[form.field_index(name)?];
        if field.count == Count::Many {
            return Some(V::List);
        }
        if field.count == Count::Optional {
            return None;
        }
        let mut kinds = field.things.iter().map(|thing| match thing {
            Thing::Literal(_) => Some(V::Text),
            Thing::Named(name) => {
                let mut tokens = self.definition.tokens.iter();
                let token = tokens.find(|token| token.name.text == name.text)?;
                Some(match token.holds {
                    Some(crate::definition::Holds::Integer) => V::Integer,
                    Some(crate::definition::Holds::Number) => V::Number,
                    Some(crate::definition::Holds::Text) | None => V::Text,
                })
            }
        });
        let first = kinds.next()??;
        kinds.all(|kind| kind == Some(first)).then_some(first)
    }
}

/// The function that an operator has as its left operand, where that is the last argument of a call.
fn taken_by_an_operator(argument: &Template) -> Option<Span> {
    let mut first = argument;
    while let T::And(left, _) | T::Or(left, _) | T::Binary(_, left, _) = &first.kind {
        first = left;
    }
    let is_taken = first.span != argument.span && matches!(first.kind, T::Function(..));
    is_taken.then_some(first.span)
}

fn of_literal(literal: &Literal) -> V {
    match literal {
        Literal::Nothing => V::Nothing,
        Literal::Truth(_) => V::Truth,
        Literal::Integer(_) => V::Integer,
        Literal::Number(_) => V::Number,
        Literal::Text(_) => V::Text,
        Literal::List(_) => V::List,
        Literal::Map(_) => V::Map,
    }
}

fn wanted_by(operator: B) -> &'static [V] {
    match operator {
        B::Add | B::Subtract | B::Multiply | B::Divide => NUMBERS,
        B::Join => &[V::Text, V::List],
        B::Equal | B::Unequal => &[],
        B::Less | B::LessOrEqual | B::Greater | B::GreaterOrEqual => {
            &[V::Integer, V::Number, V::Text]
        }
    }
}
