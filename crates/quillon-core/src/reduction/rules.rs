//! Whether a rule can be used on a form, and what it makes of it.

use rustc_hash::FxHashMap;

use super::substitute::{Meant, Substitution};
use super::term::{Slot, TermKind, TermPart, Terms};
use crate::definition::{
    Count, Definition, Field, Form, Literal, Name, StateCell, Template, TemplateKind as T,
};
use crate::definition::{Is, Rewrite, RewriteKind as K, Rule};
use crate::diagnostic::quote;
use crate::evaluation;
use crate::lexing::{Lexer, Token};
use crate::meaning;
use crate::runtime::{Limits, Recorder};
use crate::source::{SourceText, Span};

/// What the names of a rule stand for.
type Bound<'a> = Vec<(&'a str, Slot)>;

/// Uses the rules of one language.
pub(super) struct Rules<'a> {
    pub definition: &'a Definition,
    pub lexer: &'a Lexer,
    pub terms: &'a Terms,
}

/// What a rule has made.
pub(super) struct Rewritten {
    pub part: TermPart,
    /// The old number of each token that has been copied.
    pub copied: FxHashMap<u32, u32>,
}

/// Why a rule has not been used.
pub(super) enum Unused {
    /// It does not fit, for this reason.
    Fits(String),
    /// It fits, and what it says cannot be done.
    Fails(String),
}

impl<'a> Rules<'a> {
    /// Whether a part is finished: its form is a value, what is reduced first is finished,
    /// and no rule can be used.
    pub fn is_value(&self, part: &TermPart) -> bool {
        let Some((form, slots)) = part.form() else {
            return true;
        };
        let form = &self.definition.forms[form];
        form.is_value
            && form.reduces_in.iter().all(|field| {
                let index = form.field_index(&field.text);
                index.is_none_or(|index| slots[index].parts().iter().all(|p| self.is_value(p)))
            })
            && !form
                .rules
                .iter()
                .any(|rule| self.conditions(rule, form, slots).is_ok())
    }

    /// What the names of a rule stand for, if its conditions hold.
    fn conditions(
        &self,
        rule: &'a Rule,
        form: &'a Form,
        slots: &[Slot],
    ) -> Result<Bound<'a>, Unused> {
        let fields = form.fields.iter().map(|field| field.name.text.as_str());
        let mut bound: Bound<'a> = fields.zip(slots.iter().cloned()).collect();
        for condition in &rule.conditions {
            self.holds(&condition.name, &condition.is, &mut bound)?;
        }
        if let Some(when) = &rule.when {
            let held = self.computed(when, &bound).map_err(Unused::Fails)?;
            if held != Literal::Truth(true) {
                let text = self.definition.source.slice(when.span);
                return Err(Unused::Fits(format!("{} does not hold", quote(text))));
            }
        }
        Ok(bound)
    }

    /// Uses a rule on a form.
    pub fn apply(
        &self,
        rule: &'a Rule,
        part: &TermPart,
        meant: &Meant<'_>,
    ) -> Result<Rewritten, Unused> {
        let Some((index, slots)) = part.form() else {
            return Err(Unused::Fits("it is no form".to_owned()));
        };
        let bound = self.conditions(rule, &self.definition.forms[index], slots)?;
        let mut making = Making {
            rules: self,
            part,
            meant,
            bound: &bound,
            copied: FxHashMap::default(),
        };
        let slot = making.rewrite(&rule.to, None).map_err(Unused::Fails)?;
        let copied = making.copied;
        match slot {
            Slot::One(part) => Ok(Rewritten { part, copied }),
            Slot::Absent | Slot::Many(_) => Err(Unused::Fails("the rule gives no form".to_owned())),
        }
    }

    fn holds(&self, name: &Name, is: &'a Is, bound: &mut Bound<'a>) -> Result<(), Unused> {
        let Some((_, slot)) = bound.iter().find(|(own, _)| *own == name.text) else {
            return Err(Unused::Fits(format!("there is no {}", quote(&name.text))));
        };
        let slot = slot.clone();
        let fits = |what: &str| Err(Unused::Fits(format!("{} is no {what}", quote(&name.text))));
        match is {
            Is::Value if slot.parts().iter().all(|part| self.is_value(part)) => Ok(()),
            Is::Value => Err(Unused::Fits(format!(
                "{} is not finished",
                quote(&name.text)
            ))),
            Is::Form(wanted, names) => {
                let [one] = slot.parts() else {
                    return fits(&wanted.text);
                };
                let found = one
                    .form()
                    .filter(|(form, _)| self.definition.forms[*form].name.text == wanted.text);
                let Some((_, slots)) = found else {
                    return fits(&wanted.text);
                };
                let names = names.iter().map(|name| name.text.as_str());
                bound.extend(names.zip(slots.iter().cloned()));
                Ok(())
            }
            Is::List(names, others) => {
                let parts = slot.parts();
                let enough = parts.len() >= names.len();
                if !enough || others.is_none() && parts.len() > names.len() {
                    return fits("list of so many");
                }
                let (first, rest) = parts.split_at(names.len());
                let names = names.iter().map(|name| name.text.as_str());
                bound.extend(names.zip(first.iter().cloned().map(Slot::One)));
                if let Some(others) = others {
                    bound.push((&others.text, Slot::Many(rest.to_vec())));
                }
                Ok(())
            }
        }
    }

    /// The value of a piece of meaning over what tokens hold.
    fn computed(&self, template: &Template, bound: &Bound<'_>) -> Result<Literal, String> {
        let filled = self.filled(template, bound)?;
        let cell = StateCell {
            name: Name {
                text: String::new(),
                span: template.span,
            },
            initial: filled,
            is_for_checks: false,
        };
        let core = meaning::initial(self.definition, &cell);
        let limits = Limits {
            steps: Some(1_000_000),
            ..Limits::default()
        };
        let outcome = evaluation::walk(&core.into(), limits, &mut Recorder::default());
        match outcome.into_result() {
            Ok(value) => value
                .literal()
                .ok_or_else(|| "what is worked out cannot be written".to_owned()),
            Err(problems) => Err(problems[0].message.clone()),
        }
    }

    /// A piece of meaning with a name made for the value of each token that it speaks of.
    fn filled(&self, template: &Template, bound: &Bound<'_>) -> Result<Template, String> {
        let mut names = Vec::new();
        mentioned(template, &mut names);
        let mut parts = Vec::new();
        for (name, span) in names {
            let Some((_, slot)) = bound.iter().find(|(own, _)| *own == name) else {
                continue;
            };
            let held = match slot.parts() {
                [one] => self.held(one),
                _ => None,
            };
            let held = held.ok_or_else(|| format!("{} holds no value", quote(name)))?;
            let literal = Template {
                kind: T::Literal(held),
                span,
            };
            let name = Name {
                text: name.to_owned(),
                span,
            };
            parts.push(Template {
                kind: T::Let(name, Box::new(literal)),
                span,
            });
        }
        parts.push(template.clone());
        Ok(Template {
            kind: T::Block(parts),
            span: template.span,
        })
    }

    /// The value that a token holds, or the only token of a form.
    fn held(&self, part: &TermPart) -> Option<Literal> {
        match &part.kind {
            TermKind::Token(kind, text) => {
                let source = SourceText::new("token", text.to_string());
                let span = Span::new(0, text.len());
                Some(self.lexer.value(&source, Token::new(*kind, span)))
            }
            TermKind::Form(_, slots) => {
                match slots.iter().flat_map(Slot::parts).collect::<Vec<_>>()[..] {
                    [only] => self.held(only),
                    _ => None,
                }
            }
        }
    }
}

/// The names that a piece of meaning speaks of, with where they stand.
fn mentioned<'t>(template: &'t Template, out: &mut Vec<(&'t str, Span)>) {
    if let T::Name(name) = &template.kind
        && !out.iter().any(|(known, _)| known == name)
    {
        out.push((name, template.span));
    }
    template.each_part(&mut |part| mentioned(part, out));
}

/// Puts together what takes a form's place.
struct Making<'a, 'b> {
    rules: &'b Rules<'a>,
    part: &'b TermPart,
    meant: &'b Meant<'b>,
    bound: &'b Bound<'a>,
    copied: FxHashMap<u32, u32>,
}

impl Making<'_, '_> {
    fn rewrite(&mut self, rewrite: &Rewrite, field: Option<&Field>) -> Result<Slot, String> {
        match &rewrite.kind {
            K::Name(name) => self.named(name),
            K::Itself => Ok(Slot::One(self.part.clone())),
            K::Form(name, fields) => self.form(name, fields).map(Slot::One),
            K::List(items, others) => {
                let mut all = Vec::new();
                for item in items {
                    all.extend(self.rewrite(item, field)?.parts().to_vec());
                }
                if let Some(others) = others {
                    all.extend(self.named(others)?.parts().to_vec());
                }
                Ok(Slot::Many(all))
            }
            K::Replace(within, name, by) => {
                let within = self.rewrite(within, field)?;
                let by = self.rewrite(by, None)?;
                let (Some(name), Some(by)) = (
                    self.named(name)?.parts().first().cloned(),
                    by.parts().first().cloned(),
                ) else {
                    return Err("there is nothing to replace, or to replace it by".to_owned());
                };
                self.replaced(&within, &name, &by)
            }
            K::Compute(template) => {
                let value = self.rules.computed(template, self.bound)?;
                let things = field.map_or(&[][..], |field| &field.things);
                let made = self.rules.terms.holding(self.rules.lexer, things, &value);
                made.map(Slot::One).ok_or_else(|| {
                    let value = crate::tree::value_text(&value);
                    format!("no token can hold {}", quote(&value))
                })
            }
        }
    }

    fn named(&self, name: &Name) -> Result<Slot, String> {
        let found = self.bound.iter().find(|(own, _)| *own == name.text);
        found
            .map(|(_, slot)| slot.clone())
            .ok_or_else(|| format!("there is no {}", quote(&name.text)))
    }

    fn form(&mut self, name: &Name, given: &[(Option<Name>, Rewrite)]) -> Result<TermPart, String> {
        let definition = self.rules.definition;
        let found = definition.form_index(&name.text);
        let index = found.ok_or_else(|| format!("there is no form {}", quote(&name.text)))?;
        let form: &Form = &definition.forms[index];
        let mut slots = vec![Slot::Absent; form.fields.len()];
        for (position, (field, rewrite)) in given.iter().enumerate() {
            if let Some(slot) = form.slot_of(field.as_ref(), position) {
                slots[slot] = self.rewrite(rewrite, Some(&form.fields[slot]))?;
            }
        }
        for (slot, field) in slots.iter_mut().zip(&form.fields) {
            if field.count == Count::Many {
                *slot = Slot::Many(slot.parts().to_vec());
            }
        }
        Ok(self.rules.terms.form(index, slots))
    }

    fn replaced(&mut self, within: &Slot, name: &TermPart, by: &TermPart) -> Result<Slot, String> {
        let substitution = Substitution {
            definition: self.rules.definition,
            lexer: self.rules.lexer,
            terms: self.rules.terms,
            meant: self.meant,
        };
        let mut all = Vec::new();
        for part in within.parts() {
            let made = substitution.replace(part, name, by)?;
            self.copied.extend(made.copied);
            all.push(made.body);
        }
        Ok(match (within, all.pop()) {
            (Slot::One(_), Some(one)) => Slot::One(one),
            (_, last) => {
                all.extend(last);
                Slot::Many(all)
            }
        })
    }
}
