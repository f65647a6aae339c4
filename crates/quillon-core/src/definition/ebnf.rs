//! The grammar as its users read it: the EBNF of the W3C, the one of ISO/IEC 14977, and the
//! abstract syntax beside them.

use super::{Count, Definition, Form, Part, Pattern, Thing};

/// How a grammar is written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Notation {
    /// The EBNF of the W3C, as in the recommendation for XML.
    W3c,
    /// ISO/IEC 14977.
    Iso,
}

/// How tightly a piece holds together: whether it needs brackets inside another.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd)]
enum Holds {
    Choice,
    Sequence,
    Unit,
}

impl Definition {
    /// Every sort, in the order of the definition, with its forms.
    pub fn sorts(&self) -> Vec<(&str, Vec<&Form>)> {
        let mut sorts: Vec<(&str, Vec<&Form>)> = Vec::new();
        for form in self.forms.iter().filter(|form| form.written.is_some()) {
            match sorts.iter_mut().find(|(sort, _)| *sort == form.sort_name()) {
                Some((_, forms)) => forms.push(form),
                None => sorts.push((form.sort_name(), vec![form])),
            }
        }
        sorts
    }

    /// The whole grammar, a rule a sort and a rule a token. Precedence is not part of it.
    pub fn grammar_text(&self, notation: Notation) -> String {
        let writer = Writer { notation };
        let mut out = match notation {
            _ if !self.ignores_case => String::new(),
            Notation::W3c => "/* capital and small letters are alike */\n\n".to_owned(),
            Notation::Iso => "(* capital and small letters are alike *)\n\n".to_owned(),
        };
        for (sort, forms) in self.sorts() {
            let choices: Vec<String> = forms
                .iter()
                .filter_map(|form| form.written.as_ref())
                .map(|part| writer.part(part, Holds::Choice))
                .collect();
            out.push_str(&writer.rule(sort, &choices));
        }
        for form in self.forms_asked_for() {
            if let Some(part) = &form.written {
                let choice = writer.part(part, Holds::Choice);
                out.push_str(&writer.rule(&form.name.text, &[choice]));
            }
        }
        for rule in self.tokens.iter().filter(|rule| !rule.ignored) {
            out.push_str(&writer.rule(
                &rule.name.text,
                &[writer.pattern(&rule.pattern, Holds::Choice)],
            ));
        }
        if notation == Notation::W3c && out.contains(LETTER) {
            out.push_str(&format!("{LETTER}\n  ::= /* a letter of Unicode */\n\n"));
        }
        out
    }

    /// The forms of a sort with others that some form asks for by name.
    fn forms_asked_for(&self) -> Vec<&Form> {
        let mut names: Vec<&str> = Vec::new();
        for part in self.forms.iter().filter_map(|form| form.written.as_ref()) {
            names_in(part, &mut names);
        }
        let asked = |form: &&Form| {
            let name = form.name.text.as_str();
            names.contains(&name) && !self.has_sort(name)
        };
        self.forms.iter().filter(asked).collect()
    }

    /// The abstract syntax: what the tree has, with the names of the fields.
    pub fn abstract_syntax(&self) -> String {
        let mut out = String::new();
        for (sort, forms) in self.sorts() {
            let choices: Vec<String> = forms
                .iter()
                .filter(|form| form.becomes.is_none() && form.sugar.is_none())
                .map(|form| shape(form))
                .collect();
            if choices.is_empty() {
                continue;
            }
            out.push_str(sort);
            out.push_str("\n  = ");
            out.push_str(&choices.join("\n  | "));
            out.push_str("\n\n");
        }
        out
    }
}

/// How the letters of Unicode are called: neither notation could list them.
const LETTER: &str = "letter";

/// The names that a part mentions.
fn names_in<'a>(part: &'a Part, names: &mut Vec<&'a str>) {
    match part {
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().for_each(|inner| names_in(inner, names));
        }
        Part::Optional(inner) => names_in(inner, names),
        Part::Repeat(repeat) => {
            names_in(&repeat.part, names);
            if let Some(by) = &repeat.by {
                names_in(by, names);
            }
        }
        Part::Field(_, things) => names.extend(things.iter().filter_map(|thing| match thing {
            Thing::Named(name) => Some(name.text.as_str()),
            Thing::Literal(_) => None,
        })),
        Part::Unnamed(name) => names.push(&name.text),
        Part::Literal(_) | Part::Soft(_) | Part::Tight(_) => {}
    }
}

/// A form with its fields: `If(test: Expr, yes: Block, no: Block?)`.
fn shape(form: &Form) -> String {
    let fields: Vec<String> = form
        .fields
        .iter()
        .map(|field| {
            let things: Vec<String> = field
                .things
                .iter()
                .map(|thing| match thing {
                    Thing::Named(name) => name.text.clone(),
                    Thing::Literal(name) => format!("{:?}", name.text),
                })
                .collect();
            let things = match &things[..] {
                [one] => one.clone(),
                several => format!("({})", several.join(" | ")),
            };
            let count = match field.count {
                Count::One => "",
                Count::Optional => "?",
                Count::Many => "*",
            };
            format!("{}: {things}{count}", field.name.text)
        })
        .collect();
    if fields.is_empty() {
        form.name.text.clone()
    } else {
        format!("{}({})", form.name.text, fields.join(", "))
    }
}

struct Writer {
    notation: Notation,
}

impl Notation {
    /// A part of a `written` clause in this notation.
    pub(crate) fn text_of(self, part: &Part) -> String {
        Writer { notation: self }.part(part, Holds::Sequence)
    }
}

impl Writer {
    fn rule(&self, name: &str, choices: &[String]) -> String {
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
    fn held(text: String, own: Holds, wanted: Holds) -> String {
        if own < wanted {
            format!("({text})")
        } else {
            text
        }
    }

    fn sequence(&self, parts: &[String], wanted: Holds) -> String {
        match parts {
            [] => String::new(),
            [one] => one.clone(),
            _ => Self::held(
                parts.join(match self.notation {
                    Notation::W3c => " ",
                    Notation::Iso => ", ",
                }),
                Holds::Sequence,
                wanted,
            ),
        }
    }

    fn optional(&self, inner: impl Fn(Holds) -> String) -> String {
        match self.notation {
            Notation::W3c => format!("{}?", inner(Holds::Unit)),
            Notation::Iso => format!("[{}]", inner(Holds::Choice)),
        }
    }

    fn any_number(&self, inner: impl Fn(Holds) -> String) -> String {
        match self.notation {
            Notation::W3c => format!("{}*", inner(Holds::Unit)),
            Notation::Iso => format!("{{{}}}", inner(Holds::Choice)),
        }
    }

    fn once_or_more(&self, inner: impl Fn(Holds) -> String, wanted: Holds) -> String {
        match self.notation {
            Notation::W3c => format!("{}+", inner(Holds::Unit)),
            Notation::Iso => self.sequence(
                &[
                    inner(Holds::Sequence),
                    format!("{{{}}}", inner(Holds::Choice)),
                ],
                wanted,
            ),
        }
    }

    fn choice(choices: &[String], wanted: Holds) -> String {
        match choices {
            [one] => one.clone(),
            _ => Self::held(choices.join(" | "), Holds::Choice, wanted),
        }
    }

    fn part(&self, part: &Part, wanted: Holds) -> String {
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
                let parts = parts.iter().map(|p| self.part(p, Holds::Sequence));
                let parts: Vec<String> = parts.filter(|p| !p.is_empty()).collect();
                self.sequence(&parts, wanted)
            }
            Part::Choice(parts) => {
                let choices: Vec<String> = parts
                    .iter()
                    .map(|p| self.part(p, Holds::Sequence))
                    .collect();
                Self::choice(&choices, wanted)
            }
            Part::Optional(inner) => self.optional(|holds| self.part(inner, holds)),
            Part::Repeat(repeat) => self.repeat(repeat, wanted),
        }
    }

    fn repeat(&self, repeat: &super::Repeat, wanted: Holds) -> String {
        let item = |holds| self.part(&repeat.part, holds);
        let Some(by) = &repeat.by else {
            return if repeat.at_least_one {
                self.once_or_more(item, wanted)
            } else {
                self.any_number(item)
            };
        };
        let more = |holds| {
            let parts = vec![self.part(by, Holds::Sequence), item(Holds::Sequence)];
            self.sequence(&parts, holds)
        };
        let all = |holds| {
            let mut parts = vec![item(Holds::Sequence), self.any_number(more)];
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

    fn pattern(&self, pattern: &Pattern, wanted: Holds) -> String {
        match pattern {
            Pattern::Literal(text) => self.literal(text),
            Pattern::Class(set) => self.class(set, wanted),
            Pattern::Sequence(parts) => {
                let parts: Vec<String> = parts
                    .iter()
                    .map(|p| self.pattern(p, Holds::Sequence))
                    .collect();
                self.sequence(&parts, wanted)
            }
            Pattern::Choice(parts) => {
                let choices: Vec<String> = parts
                    .iter()
                    .map(|p| self.pattern(p, Holds::Sequence))
                    .collect();
                Self::choice(&choices, wanted)
            }
            Pattern::Optional(inner) => self.optional(|holds| self.pattern(inner, holds)),
            Pattern::Star(inner) => self.any_number(|holds| self.pattern(inner, holds)),
            Pattern::Plus(inner) => self.once_or_more(|holds| self.pattern(inner, holds), wanted),
            Pattern::Except(part, but) => Self::held(
                format!(
                    "{} - {}",
                    self.pattern(part, Holds::Unit),
                    self.pattern(but, Holds::Unit)
                ),
                Holds::Sequence,
                wanted,
            ),
            Pattern::Nested(open, close) => match self.notation {
                Notation::W3c => format!("/* from {open} to the {close} that belongs to it */"),
                Notation::Iso => format!("? from {open} to the {close} that belongs to it ?"),
            },
        }
    }

    /// A class of characters: by name where it has one, by what it lacks where that is less.
    fn class(&self, set: &super::CharSet, wanted: Holds) -> String {
        use super::CharSet;
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
                let shown: Vec<String> = ranges.iter().map(|&r| w3c_range(r)).collect();
                format!("[{}{}]", if negated { "^" } else { "" }, shown.concat())
            }
            Notation::Iso => {
                let shown: Vec<String> = ranges.iter().map(|&r| self.iso_range(r)).collect();
                let list = Self::choice(&shown, if negated { Holds::Unit } else { wanted });
                if negated {
                    Self::held(
                        format!("? any character ? - {list}"),
                        Holds::Sequence,
                        wanted,
                    )
                } else {
                    list
                }
            }
        }
    }

    fn iso_range(&self, (low, high): (u32, u32)) -> String {
        match (char::from_u32(low), char::from_u32(high)) {
            (Some(c), _) if low == high => self.literal(&c.to_string()),
            (Some(a), Some(b)) if high - low < 12 => (a..=b)
                .map(|c| self.literal(&c.to_string()))
                .collect::<Vec<_>>()
                .join(" | "),
            _ => format!("? a character from {low:X} to {high:X} (hexadecimal) ?"),
        }
    }
}

fn w3c_range((low, high): (u32, u32)) -> String {
    let one = |code: u32| match char::from_u32(code) {
        Some(c) if c.is_ascii_graphic() && !"]^-[\\".contains(c) => c.to_string(),
        _ => format!("#x{code:X}"),
    };
    if low == high {
        one(low)
    } else {
        format!("{}-{}", one(low), one(high))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::SourceText;

    const TEXT: &str = "language Own

tokens
  Blank  [ \\n]+  ignored
  Text   '\"' ([^\"\\n] | \"''\")* '\"'
  Name   letter (letter | [0-9_])*

form Program
  written  steps:Step* by \";\" trailing

form Open in Step
  written  \"open\" gates:Name+ (\"by\" keeper:Name)? | \"shut\" all:(\"all\" | Name)

form Group in Step
  written  \"(\" step:Step \")\"
  becomes  step
";

    fn definition() -> Definition {
        Definition::read(&SourceText::new("own", TEXT))
            .value
            .unwrap()
    }

    #[test]
    fn the_grammar_in_the_ebnf_of_the_w3c() {
        assert_eq!(
            definition().grammar_text(Notation::W3c),
            "Program
  ::= (Step (\";\" Step)* \";\"?)?

Step
  ::= \"open\" Name+ (\"by\" Name)? | \"shut\" (\"all\" | Name)
    | \"(\" Step \")\"

Text
  ::= '\"' ([^#xA#x22] | \"''\")* '\"'

Name
  ::= letter (letter | [0-9_])*

letter
  ::= /* a letter of Unicode */

"
            .replace("#x22", "\"")
        );
    }

    #[test]
    fn the_grammar_in_the_ebnf_of_iso() {
        let text = definition().grammar_text(Notation::Iso);
        assert!(
            text.contains("Program\n  = [Step, {\";\", Step}, [\";\"]]\n  ;\n"),
            "{text}"
        );
        assert!(
            text.contains("\"open\", Name, {Name}, [\"by\", Name]"),
            "{text}"
        );
        assert!(text.contains("? any character ? - ("), "{text}");
    }

    #[test]
    fn the_abstract_syntax_has_fields_and_no_brackets() {
        assert_eq!(
            definition().abstract_syntax(),
            "Program\n  = Program(steps: Step*)\n\nStep\n  = Open(gates: Name*, keeper: Name?, all: (\"all\" | Name)?)\n\n"
        );
    }
}
