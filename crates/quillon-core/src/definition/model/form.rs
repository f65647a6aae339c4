//! What can be asked of a form and its fields.

use super::{Field, Form, Lay, Name, Part, Printed, Reach, Thing};
use crate::source::{SourceText, Span};

impl Form {
    /// The sort's name: the form's own name when it is in none.
    pub(crate) fn sort_name(&self) -> &str {
        self.sort.as_ref().map_or(&self.name.text, |s| &s.text)
    }

    /// Whether it is one of some things, by its own name or by its sort's.
    pub(crate) fn is_among(&self, things: &[Thing]) -> bool {
        let is_it = |name: &Name| name.text == self.sort_name() || name.text == self.name.text;
        let mut things = things.iter();
        things.any(|thing| matches!(thing, Thing::Named(name) if is_it(name)))
    }

    /// How a field is laid out when it is printed, if that is said.
    pub(crate) fn lay_of(&self, what: &str, literal: bool) -> Option<Lay> {
        self.printed(what, literal).find_map(|how| match how {
            Printed::Laid(lay) => Some(lay),
            Printed::Blanks(_) => None,
        })
    }

    /// Whether a blank stands before a field, or a text, and behind it, where that is said.
    pub(crate) fn blanks_of(&self, what: &str, literal: bool) -> [Option<bool>; 2] {
        let mut all = [None, None];
        for how in self.printed(what, literal) {
            if let Printed::Blanks([before, after]) = how {
                all = [all[0].or(before), all[1].or(after)];
            }
        }
        all
    }

    /// What is said of how a field, or a text, is printed.
    fn printed(&self, what: &str, literal: bool) -> impl Iterator<Item = Printed> {
        let all = self.laid_out.iter();
        let own = all.filter(move |l| l.literal == literal && l.what.text == what);
        own.map(|laid_out| laid_out.how)
    }

    /// The index of a field.
    pub(crate) fn field_index(&self, name: &str) -> Option<usize> {
        self.fields.iter().position(|field| field.name.text == name)
    }

    /// The index of a field, or of a name that the form binds without its being written: those
    /// come after the fields.
    pub(crate) fn bound_index(&self, name: &str) -> Option<usize> {
        let mut unwritten = self.binds.iter().filter(|b| b.reach == Reach::Unwritten);
        let mut position = || unwritten.position(|b| b.field.text == name);
        self.field_index(name)
            .or_else(|| Some(self.fields.len() + position()?))
    }

    /// Whether the form binds a name without its being written.
    pub(crate) fn binds_unwritten(&self, name: &str) -> bool {
        let index = self.bound_index(name);
        index.is_some_and(|index| index >= self.fields.len())
    }

    /// Whether a field is a use of a name that nothing need bind.
    pub(crate) fn may_be_free(&self, field: &Name) -> bool {
        let mut uses = self.uses.iter();
        uses.any(|uses| uses.or_free && uses.field.text == field.text)
    }

    /// The index of a field that is meant by its name, or by its position.
    pub(crate) fn slot_of(&self, name: Option<&Name>, position: usize) -> Option<usize> {
        match name {
            Some(name) => self.field_index(&name.text),
            None => (position < self.fields.len()).then_some(position),
        }
    }

    /// Whether a scope is opened around a field.
    pub(crate) fn opens_around(&self, index: usize) -> bool {
        self.opens.as_ref().is_some_and(|opens| {
            let mut around = opens.around.iter();
            around.any(|name| name.text == self.fields[index].name.text)
        })
    }

    /// Whether `FIELD.PART` is bound here.
    pub(crate) fn binds_part(&self, field: &str, part: &str) -> bool {
        let mut binds = self.binds.iter();
        binds.any(|b| b.field.text == field && matches!(&b.reach, Reach::Part(p) if p.text == part))
    }

    /// Whether the text of a field is offered to be bound around the form.
    pub fn offers(&self, name: &str) -> bool {
        let mut offers = self.offers.iter();
        offers.any(|o| o.field.text == name && o.reach == Reach::Itself)
    }

    /// Whether a field stands for a variable: it is bound or used as a name here.
    pub fn is_name_field(&self, name: &str) -> bool {
        self.binds
            .iter()
            .any(|b| b.field.text == name && b.reach == Reach::Itself)
            || self.uses.iter().any(|u| u.field.text == name)
            || self.offers(name)
    }
}

impl Form {
    /// Whether a field is a name that the form binds, and nothing else.
    pub(crate) fn only_binds(&self, field: &str) -> bool {
        let binds = self.binds.iter().any(|clause| clause.field.text == field);
        binds && !self.uses.iter().any(|clause| clause.field.text == field)
    }

    /// Whether it is written with a word first.
    pub(crate) fn begins_with(&self, word: &str) -> bool {
        let mut part = self.written.as_ref();
        loop {
            part = match part {
                Some(Part::Sequence(parts)) => parts.first(),
                Some(Part::Literal(text) | Part::Soft(text)) => return text.text == word,
                Some(
                    Part::Choice(_)
                    | Part::Field(..)
                    | Part::Unnamed(_)
                    | Part::Optional(_)
                    | Part::Repeat(_)
                    | Part::Tight(_),
                )
                | None => return false,
            };
        }
    }

    /// Whether it is written with a word last that is made of letters.
    pub(crate) fn ends_in_a_word(&self) -> bool {
        let mut part = self.written.as_ref();
        while let Some(Part::Sequence(parts)) = part {
            part = parts.last();
        }
        let Some(Part::Literal(last) | Part::Soft(last)) = part else {
            return false;
        };
        last.text.starts_with(char::is_alphabetic)
    }

    /// How it is written, as the text of its definition has it: from its first part to the end of
    /// the line of its last.
    pub(crate) fn written_text(&self, source: &SourceText) -> Option<String> {
        let mut names = Vec::new();
        self.written.as_ref()?.names(&mut names);
        let (first, last) = (names.first()?, names.last()?);
        let end = source.line_span(source.line_of(last.span.start)).end;
        let start = source.line_span(source.line_of(first.span.start)).start;
        let text = source.slice(Span { start, end });
        let text = text.trim_start().trim_start_matches("written");
        Some(text.split_whitespace().collect::<Vec<_>>().join(" "))
    }

    /// Whether a field of it can be a form of a sort.
    pub(crate) fn has_inside(&self, sort: &str) -> bool {
        self.fields.iter().any(|field| field.can_be(sort))
    }
}

impl Field {
    /// Whether it can be a form of a sort.
    pub(crate) fn can_be(&self, sort: &str) -> bool {
        let is_sort = |thing: &Thing| matches!(thing, Thing::Named(name) if name.text == sort);
        self.things.iter().any(is_sort)
    }
}
