//! Words that can never be read, since a block by indentation stands before them: where it ends, the
//! line that had it ends, too.

use rustc_hash::FxHashMap;

use crate::definition::{Definition, Layout, Name, Part, Thing};
use crate::diagnostic::{Diagnostic, codes, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    if definition.layout != Some(Layout::Indentation) {
        return Vec::new();
    }
    let mut written: FxHashMap<&str, Vec<Option<&Part>>> = FxHashMap::default();
    for form in &definition.forms {
        for name in [&form.name.text, form.sort_name()] {
            written.entry(name).or_default().push(form.written.as_ref());
        }
    }
    let mut lines = Lines {
        written,
        known: FxHashMap::default(),
        depth: 0,
    };
    let mut found = Vec::new();
    for form in &definition.forms {
        if let Some(part) = &*form.written {
            lines.sequences(part, &mut found);
        }
    }
    let told = found.into_iter().map(|word| warning(definition, word));
    told.collect()
}

/// The token that ends a block, and what comes after it.
const END: &str = "Dedent";
const AFTER: &str = "LineEnd";

/// Names that stand for each other deeper than this are not followed.
const DEEPEST: u32 = 50;

struct Lines<'d> {
    /// How the forms of each sort, and each form, are written.
    written: FxHashMap<&'d str, Vec<Option<&'d Part>>>,
    /// Whether what a name stands for always ends with a block; not so while that is worked out, since one
    /// inside of itself says nothing new.
    known: FxHashMap<&'d str, bool>,
    depth: u32,
}

impl<'d> Lines<'d> {
    /// The words in a part that stand directly behind a block.
    fn sequences(&mut self, part: &'d Part, found: &mut Vec<&'d Name>) {
        match part {
            Part::Sequence(parts) => {
                for (at, part) in parts.iter().enumerate() {
                    self.sequences(part, found);
                    if self.ends_block(part) {
                        found.extend(unread(&parts[at + 1..]));
                    }
                }
            }
            Part::Choice(parts) => parts.iter().for_each(|part| self.sequences(part, found)),
            Part::Optional(part) => self.sequences(part, found),
            Part::Repeat(repeat) => {
                self.sequences(&repeat.part, found);
                repeat.by.iter().for_each(|by| self.sequences(by, found));
            }
            Part::Literal(_)
            | Part::Soft(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Tight(_) => {}
        }
    }

    /// Whether a part always ends with a block.
    fn ends_block(&mut self, part: &'d Part) -> bool {
        match part {
            Part::Sequence(parts) => parts.last().is_some_and(|last| self.ends_block(last)),
            Part::Choice(parts) => parts.iter().all(|part| self.ends_block(part)),
            Part::Unnamed(name) => self.named(name),
            Part::Field(_, things) => things.iter().all(|thing| match thing {
                Thing::Named(name) => self.named(name),
                Thing::Literal(_) => false,
            }),
            Part::Repeat(repeat) => repeat.at_least_one && self.ends_block(&repeat.part),
            Part::Literal(_) | Part::Soft(_) | Part::Optional(_) | Part::Tight(_) => false,
        }
    }

    /// The same of all that a name can be: a token, a form, or the forms of a sort.
    fn named(&mut self, name: &'d Name) -> bool {
        let name = &name.text[..];
        if let Some(known) = self.known.get(name) {
            return *known;
        }
        let Some(ways) = self.written.get(name).cloned() else {
            return name == END;
        };
        if self.depth == DEEPEST {
            return false;
        }
        self.known.insert(name, false);
        self.depth += 1;
        let ends = ways
            .into_iter()
            .all(|way| way.is_some_and(|part| self.ends_block(part)));
        self.depth -= 1;
        self.known.insert(name, ends);
        ends
    }
}

/// The first word that is never read of what stands behind a block.
fn unread(rest: &[Part]) -> Option<&Name> {
    for part in rest {
        match part {
            Part::Literal(word) | Part::Soft(word) => return Some(word),
            Part::Optional(inner) => {
                if let Some(word) = first_word(inner) {
                    return Some(word);
                }
            }
            Part::Tight(_) => {}
            Part::Sequence(_)
            | Part::Choice(_)
            | Part::Field(..)
            | Part::Unnamed(_)
            | Part::Repeat(_) => return None,
        }
    }
    None
}

/// The word that a part begins with, if it begins with one.
fn first_word(part: &Part) -> Option<&Name> {
    match part {
        Part::Literal(word) | Part::Soft(word) => Some(word),
        Part::Sequence(parts) => first_word(parts.first()?),
        Part::Choice(_)
        | Part::Field(..)
        | Part::Unnamed(_)
        | Part::Optional(_)
        | Part::Repeat(_)
        | Part::Tight(_) => None,
    }
}

fn warning(definition: &Definition, word: &Name) -> Diagnostic {
    let quoted = quote(&word.text);
    let message = format!("{quoted} is never read here: where a block ends, its line ends, too");
    Diagnostic::warning(codes::CHECK_TOKENS, message)
        .at(&definition.source, word.span)
        .why(format!("behind {} comes {}", quote(END), quote(AFTER)))
        .remedy(format!(
            "write `{AFTER}` before it: `{AFTER} \"{}\"`",
            word.text
        ))
}
