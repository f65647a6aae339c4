//! What stands in a `written` clause, looked through for something.

use super::Part;

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
            _ => {}
        }
    }
}
