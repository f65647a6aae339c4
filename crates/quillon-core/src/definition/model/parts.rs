//! What stands in a `written` clause, looked through for something.

use super::{Name, Part, Thing};

impl Thing {
    /// Its text, if it is a fixed one.
    pub(crate) fn literal(&self) -> Option<&str> {
        match self {
            Thing::Literal(text) => Some(&text.text),
            Thing::Named(_) => None,
        }
    }
}

impl Part {
    /// The parts at which there is a choice, in the order of the text: alternatives, what
    /// may be missing, and fields of several things.
    pub(crate) fn choices<'p>(&'p self, found: &mut Vec<&'p Part>) {
        match self {
            Part::Sequence(parts) => parts.iter().for_each(|part| part.choices(found)),
            Part::Choice(parts) => {
                found.push(self);
                parts.iter().for_each(|part| part.choices(found));
            }
            Part::Optional(part) => {
                found.push(self);
                part.choices(found);
            }
            // The things of a repeated field are not told apart.
            Part::Repeat(repeat) if !matches!(repeat.part, Part::Field(..)) => {
                repeat.part.choices(found);
            }
            Part::Field(_, things) if things.len() > 1 => found.push(self),
            _ => {}
        }
    }

    /// The names and literals in it, in the order of the text.
    pub(crate) fn names<'p>(&'p self, found: &mut Vec<&'p Name>) {
        match self {
            Part::Literal(name) | Part::Soft(name) | Part::Field(name, _) | Part::Unnamed(name) => {
                found.push(name);
            }
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.names(found));
            }
            Part::Optional(part) => part.names(found),
            Part::Repeat(repeat) => {
                repeat.part.names(found);
                if let Some(by) = &repeat.by {
                    by.names(found);
                }
            }
            Part::Tight(_) => {}
        }
    }

    /// How a program writes it, in short: the first of alternatives, nothing that may be missing,
    /// and in place of each field what is asked for.
    pub(crate) fn sketch(&self, of_field: &dyn Fn(&str, &[Thing]) -> String) -> String {
        match self {
            Part::Literal(text) | Part::Soft(text) => text.text.clone(),
            Part::Field(name, things) => of_field(&name.text, things),
            Part::Sequence(parts) => {
                let parts = parts.iter().map(|part| part.sketch(of_field));
                let parts: Vec<String> = parts.filter(|part| !part.is_empty()).collect();
                parts.join(" ")
            }
            Part::Choice(parts) => parts
                .first()
                .map_or_else(String::new, |p| p.sketch(of_field)),
            Part::Repeat(repeat) if repeat.at_least_one => repeat.part.sketch(of_field),
            Part::Optional(_) | Part::Repeat(_) | Part::Tight(_) => String::new(),
            Part::Unnamed(_) => "…".to_owned(),
        }
    }

    /// Adds the texts that separate repeated parts, each once.
    pub(crate) fn separators(&self, found: &mut Vec<String>) {
        match self {
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.separators(found));
            }
            Part::Optional(part) => part.separators(found),
            Part::Repeat(repeat) => {
                if let Some(Part::Literal(text)) = &repeat.by
                    && !found.contains(&text.text)
                {
                    found.push(text.text.clone());
                }
                repeat.part.separators(found);
            }
            Part::Literal(_)
            | Part::Soft(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Tight(_) => {}
        }
    }

    /// Adds the fields of each part that is repeated as a whole: they may stand in any turn.
    pub(crate) fn repeated_together<'p>(&'p self, found: &mut Vec<Vec<&'p str>>) {
        match self {
            Part::Repeat(repeat) => {
                let mut fields = Vec::new();
                repeat.part.fields(&mut fields);
                found.push(fields);
            }
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.repeated_together(found));
            }
            Part::Optional(inner) => inner.repeated_together(found),
            Part::Literal(_)
            | Part::Soft(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Tight(_) => {}
        }
    }

    /// Adds the names of the fields in it, each once.
    fn fields<'p>(&'p self, found: &mut Vec<&'p str>) {
        match self {
            Part::Field(name, _) if !found.contains(&name.text.as_str()) => found.push(&name.text),
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.fields(found));
            }
            Part::Optional(inner) => inner.fields(found),
            Part::Repeat(repeat) => {
                repeat.part.fields(found);
                if let Some(by) = &repeat.by {
                    by.fields(found);
                }
            }
            Part::Literal(_)
            | Part::Soft(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Tight(_) => {}
        }
    }

    /// Adds the texts that stand in it, in order.
    pub(crate) fn literals<'p>(&'p self, found: &mut Vec<&'p str>) {
        match self {
            Part::Literal(name) | Part::Soft(name) => found.push(&name.text),
            Part::Field(_, things) => {
                found.extend(things.iter().filter_map(Thing::literal));
            }
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.literals(found));
            }
            Part::Optional(inner) => inner.literals(found),
            Part::Repeat(repeat) => {
                repeat.part.literals(found);
                if let Some(by) = &repeat.by {
                    by.literals(found);
                }
            }
            Part::Unnamed(_) | Part::Tight(_) => {}
        }
    }

    /// Adds the texts in it that are soft.
    pub(crate) fn soft_literals<'p>(&'p self, found: &mut Vec<&'p str>) {
        match self {
            Part::Soft(name) => found.push(&name.text),
            Part::Sequence(parts) | Part::Choice(parts) => {
                parts.iter().for_each(|part| part.soft_literals(found));
            }
            Part::Optional(inner) => inner.soft_literals(found),
            Part::Repeat(repeat) => {
                repeat.part.soft_literals(found);
                if let Some(by) = &repeat.by {
                    by.soft_literals(found);
                }
            }
            Part::Literal(_) | Part::Field(..) | Part::Unnamed(_) | Part::Tight(_) => {}
        }
    }
}
