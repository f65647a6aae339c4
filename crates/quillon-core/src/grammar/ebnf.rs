//! Parts and patterns in the EBNF of the W3C or of ISO/IEC 14977.

use super::Notation;
use crate::definition::{CharSet, Part, Pattern, Repeat, Thing};

/// How tightly a piece holds together: whether it needs brackets inside another.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd)]
pub(super) enum Tightness {
    Choice,
    Sequence,
    Unit,
}

/// How the letters of Unicode are called: neither notation could list them.
pub(super) const LETTER: &str = "letter";

pub(super) struct Writer {
    pub notation: Notation,
}

impl Notation {
    /// A part of a `written` clause in this notation.
    pub(crate) fn text_of(self, part: &Part) -> String {
        Writer { notation: self }.part(part, Tightness::Sequence)
    }
}

impl Writer {
    pub fn rule(&self, name: &str, choices: &[String]) -> String {
        match self.notation {
            Notation::W3c => format!("{name}\n  ::= {}\n\n", choices.join("\n    | ")),
            Notation::Iso => format!("{name}\n  = {}\n  ;\n\n", choices.join("\n  | ")),
        }
    }

    /// A text in the quotes that it does not have in it.
    fn literal(&self, text: &str) -> String {
        let printable = text.chars().all(|c| !c.is_control());
        if printable && !text.contains('"') {
            return format!("\"{text}\"");
        }
        if printable && !text.contains('\'') {
            return format!("'{text}'");
        }
        // Neither notation has escapes: what cannot be quoted is written by its code.
        let codes: Vec<String> = text.chars().map(|c| self.code_point(c as u32)).collect();
        codes.join(match self.notation {
            Notation::W3c => " ",
            Notation::Iso => ", ",
        })
    }

    fn code_point(&self, code: u32) -> String {
        match self.notation {
            Notation::W3c => format!("#x{code:X}"),
            Notation::Iso => format!("? the character {code:X} (hexadecimal) ?"),
        }
    }

    /// Puts brackets around what would fall apart.
    fn bracketed(text: String, own: Tightness, wanted: Tightness) -> String {
        if own < wanted {
            format!("({text})")
        } else {
            text
        }
    }

    fn sequence(&self, parts: &[String], wanted: Tightness) -> String {
        match parts {
            [] => String::new(),
            [one] => one.clone(),
            _ => Self::bracketed(
                parts.join(match self.notation {
                    Notation::W3c => " ",
                    Notation::Iso => ", ",
                }),
                Tightness::Sequence,
                wanted,
            ),
        }
    }

    fn optional(&self, inner: impl Fn(Tightness) -> String) -> String {
        match self.notation {
            Notation::W3c => format!("{}?", inner(Tightness::Unit)),
            Notation::Iso => format!("[{}]", inner(Tightness::Choice)),
        }
    }

    fn any_number(&self, inner: impl Fn(Tightness) -> String) -> String {
        match self.notation {
            Notation::W3c => format!("{}*", inner(Tightness::Unit)),
            Notation::Iso => format!("{{{}}}", inner(Tightness::Choice)),
        }
    }

    fn once_or_more(&self, inner: impl Fn(Tightness) -> String, wanted: Tightness) -> String {
        match self.notation {
            Notation::W3c => format!("{}+", inner(Tightness::Unit)),
            Notation::Iso => self.sequence(
                &[
                    inner(Tightness::Sequence),
                    format!("{{{}}}", inner(Tightness::Choice)),
                ],
                wanted,
            ),
        }
    }

    fn choice(choices: &[String], wanted: Tightness) -> String {
        match choices {
            [one] => one.clone(),
            _ => Self::bracketed(choices.join(" | "), Tightness::Choice, wanted),
        }
    }

    pub fn part(&self, part: &Part, wanted: Tightness) -> String {
        match part {
            Part::Literal(name) | Part::Soft(name) => self.literal(&name.text),
            Part::Unnamed(name) => name.text.clone(),
            Part::Tight(_) => String::new(),
            Part::Field(_, things) => {
                let choices: Vec<String> = things
                    .iter()
                    .map(|thing| match thing {
                        Thing::Named(name) => name.text.clone(),
                        Thing::Literal(name) => self.literal(&name.text),
                    })
                    .collect();
                Self::choice(&choices, wanted)
            }
            Part::Sequence(parts) => {
                let parts = parts.iter().map(|p| self.part(p, Tightness::Sequence));
                let parts: Vec<String> = parts.filter(|p| !p.is_empty()).collect();
                self.sequence(&parts, wanted)
            }
            Part::Choice(parts) => {
                let choices: Vec<String> = parts
                    .iter()
                    .map(|p| self.part(p, Tightness::Sequence))
                    .collect();
                Self::choice(&choices, wanted)
            }
            Part::Optional(inner) => self.optional(|holds| self.part(inner, holds)),
            Part::Repeat(repeat) => self.repeat(repeat, wanted),
        }
    }

    fn repeat(&self, repeat: &Repeat, wanted: Tightness) -> String {
        let item = |holds| self.part(&repeat.part, holds);
        let Some(by) = &repeat.by else {
            return if repeat.at_least_one {
                self.once_or_more(item, wanted)
            } else {
                self.any_number(item)
            };
        };
        let more = |holds| {
            let parts = vec![
                self.part(by, Tightness::Sequence),
                item(Tightness::Sequence),
            ];
            self.sequence(&parts, holds)
        };
        let all = |holds| {
            let mut parts = vec![item(Tightness::Sequence), self.any_number(more)];
            if repeat.trailing {
                parts.push(self.optional(|holds| self.part(by, holds)));
            }
            self.sequence(&parts, holds)
        };
        if repeat.at_least_one {
            all(wanted)
        } else {
            self.optional(all)
        }
    }

    pub fn pattern(&self, pattern: &Pattern, wanted: Tightness) -> String {
        match pattern {
            Pattern::Literal(text) => self.literal(text),
            Pattern::Class(set) => self.class(set, wanted),
            Pattern::Sequence(parts) => {
                let parts: Vec<String> = parts
                    .iter()
                    .map(|p| self.pattern(p, Tightness::Sequence))
                    .collect();
                self.sequence(&parts, wanted)
            }
            Pattern::Choice(parts) => {
                let choices: Vec<String> = parts
                    .iter()
                    .map(|p| self.pattern(p, Tightness::Sequence))
                    .collect();
                Self::choice(&choices, wanted)
            }
            Pattern::Optional(inner) => self.optional(|holds| self.pattern(inner, holds)),
            Pattern::Star(inner) => self.any_number(|holds| self.pattern(inner, holds)),
            Pattern::Plus(inner) => self.once_or_more(|holds| self.pattern(inner, holds), wanted),
            Pattern::Except(part, but) => Self::bracketed(
                format!(
                    "{} - {}",
                    self.pattern(part, Tightness::Unit),
                    self.pattern(but, Tightness::Unit)
                ),
                self.exception(),
                wanted,
            ),
            Pattern::Nested(open, close) => match self.notation {
                Notation::W3c => format!("/* from {open} to the {close} that belongs to it */"),
                Notation::Iso => format!("? from {open} to the {close} that belongs to it ?"),
            },
        }
    }

    /// A class of characters: by name where it has one, by what it lacks where that is less.
    fn class(&self, set: &CharSet, wanted: Tightness) -> String {
        let named = [
            (CharSet::letter(), "a letter of Unicode"),
            (CharSet::any(), "any character"),
        ];
        if let Some((_, name)) = named.iter().find(|(known, _)| known == set) {
            return match self.notation {
                Notation::W3c if *name == "any character" => "[#x0-#x10FFFF]".to_owned(),
                Notation::W3c => LETTER.to_owned(),
                Notation::Iso => format!("? {name} ?"),
            };
        }
        let inverse = set.complement();
        let negated = inverse.ranges().len() < set.ranges().len();
        let ranges = if negated {
            inverse.ranges()
        } else {
            set.ranges()
        };
        match self.notation {
            Notation::W3c => {
                if let ([(low, high)], false) = (ranges, negated)
                    && low == high
                    && let Some(c) = char::from_u32(*low)
                {
                    return self.literal(&c.to_string());
                }
                let shown: Vec<String> = ranges
                    .iter()
                    .map(|&(low, high)| w3c_range(low, high))
                    .collect();
                format!("[{}{}]", if negated { "^" } else { "" }, shown.concat())
            }
            Notation::Iso => {
                let shown = ranges
                    .iter()
                    .flat_map(|&(low, high)| self.iso_range(low, high));
                let shown: Vec<String> = shown.collect();
                let list = Self::choice(&shown, if negated { Tightness::Unit } else { wanted });
                if negated {
                    Self::bracketed(
                        format!("? any character ? - {list}"),
                        self.exception(),
                        wanted,
                    )
                } else {
                    list
                }
            }
        }
    }

    /// The choices that a range of characters is.
    fn iso_range(&self, low: u32, high: u32) -> Vec<String> {
        match (char::from_u32(low), char::from_u32(high)) {
            (Some(a), Some(b)) if high - low < 12 => {
                (a..=b).map(|c| self.literal(&c.to_string())).collect()
            }
            _ => vec![format!(
                "? a character from {low:X} to {high:X} (hexadecimal) ?"
            )],
        }
    }

    /// How tightly `A - B` holds together: in ISO/IEC 14977 tighter than a sequence does; the W3C
    /// does not say, and puts brackets around it.
    fn exception(&self) -> Tightness {
        match self.notation {
            Notation::W3c => Tightness::Choice,
            Notation::Iso => Tightness::Sequence,
        }
    }
}

fn w3c_range(low: u32, high: u32) -> String {
    let one = |code: u32| match char::from_u32(code) {
        Some(c) if c.is_ascii_graphic() && !"]^-[\\".contains(c) => c.to_string(),
        _ => format!("#x{code:X}"),
    };
    match high - low {
        0 => one(low),
        1 => one(low) + &one(high),
        _ => format!("{}-{}", one(low), one(high)),
    }
}
