//! The grammar of a language as its users read it: in the EBNF of the W3C, in the one of ISO/IEC
//! 14977, as the abstract syntax beside them, and as data.

mod ebnf;
mod shapes;

use crate::definition::{Count, Definition, Form, Part, Thing};
use ebnf::{LETTER, Tightness, Writer};

pub use shapes::{LanguageShape, shapes};

/// How a grammar is written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Notation {
    /// The EBNF of the W3C, as in the recommendation for XML.
    W3c,
    /// ISO/IEC 14977.
    Iso,
}

/// The whole grammar, a rule a sort and a rule a token. Precedence is not part of it.
pub fn text(definition: &Definition, notation: Notation) -> String {
    let writer = Writer { notation };
    let mut out = match notation {
        _ if !definition.ignores_case => String::new(),
        Notation::W3c => "/* capital and small letters are alike */\n\n".to_owned(),
        Notation::Iso => "(* capital and small letters are alike *)\n\n".to_owned(),
    };
    for (sort, forms) in definition.sorts() {
        let choices: Vec<String> = forms
            .iter()
            .filter_map(|form| form.written.as_ref())
            .map(|part| writer.part(part, Tightness::Choice))
            .collect();
        out.push_str(&writer.rule(sort, &choices));
    }
    for form in forms_asked_for(definition) {
        if let Some(part) = &*form.written {
            let choice = writer.part(part, Tightness::Choice);
            out.push_str(&writer.rule(&form.name.text, &[choice]));
        }
    }
    for rule in definition.tokens.iter().filter(|rule| !rule.ignored) {
        out.push_str(&writer.rule(
            &rule.name.text,
            &[writer.pattern(&rule.pattern, Tightness::Choice)],
        ));
    }
    if notation == Notation::W3c && out.contains(LETTER) {
        out.push_str(&format!("{LETTER}\n  ::= /* a letter of Unicode */\n\n"));
    }
    out
}

/// The forms of a sort with others that some form asks for by name.
fn forms_asked_for(definition: &Definition) -> Vec<&Form> {
    let mut names: Vec<&str> = Vec::new();
    for part in definition
        .forms
        .iter()
        .filter_map(|form| form.written.as_ref())
    {
        names_in(part, &mut names);
    }
    let asked = |form: &&Form| {
        let name = form.name.text.as_str();
        names.contains(&name) && !definition.has_sort(name)
    };
    definition.forms.iter().filter(asked).collect()
}

/// The abstract syntax: what the tree has, with the names of the fields.
pub fn abstract_syntax(definition: &Definition) -> String {
    let mut out = String::new();
    for (sort, forms) in definition.sorts() {
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
            super::text(&definition(), Notation::W3c),
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
        let text = super::text(&definition(), Notation::Iso);
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
            abstract_syntax(&definition()),
            "Program\n  = Program(steps: Step*)\n\nStep\n  = Open(gates: Name*, keeper: Name?, all: (\"all\" | Name)?)\n\n"
        );
    }
}
