//! What those who use a language want to know of it, from its definition alone: how its texts are written,
//! every form with what it binds and gives, operators by how tightly they hold, what is built in, what errors say.
//! How that looks is a matter of whoever shows it.
//!
//! `words` says clauses in sentences.

use std::sync::Arc;

use crate::definition::{Definition, Example, Expected, Form, Grouping, Holds};
use crate::diagnostic::codes;
use crate::editing::{help, remark_above, signature};
use crate::language::{Language, Prepared, Reading};
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::testing::{Trial, Verdict, case_limits, run_case, written_clause};

mod words;

/// What there is to know of a language.
#[derive(Clone, Debug, Default)]
pub struct Reference {
    /// What the language is called.
    pub name: String,
    /// What it is for: the remark at the beginning of its definition.
    pub about: String,
    /// What the names of its programs' files end in.
    pub extensions: Vec<String>,
    /// A program to begin with, and what it prints.
    pub first: Option<Worked>,
    /// Its tokens.
    pub tokens: Vec<Word>,
    /// Its forms, by sort.
    pub sorts: Vec<Sort>,
    /// Its operators, a table a sort that has any.
    pub operators: Vec<Operators>,
    /// What programs find without binding it.
    pub built_in: Vec<BuiltIn>,
    /// What it says when something goes wrong.
    pub errors: Vec<Said>,
    /// Examples of the definition that do not hold, and are left out.
    pub left_out: Vec<String>,
}

/// A program with what it prints.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Worked {
    /// Its text.
    pub program: String,
    /// What it prints.
    pub output: String,
}

/// A kind of token.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Word {
    /// Its name.
    pub name: String,
    /// What it looks like, as the definition has it.
    pub pattern: String,
    /// What is said of it in a sentence.
    pub meaning: String,
}

/// A sort with its forms.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Sort {
    /// Its name.
    pub name: String,
    /// Whether a whole program is one.
    pub is_program: bool,
    /// Its forms.
    pub forms: Vec<Described>,
    /// The forms of other sorts in which it stands.
    pub stands_in: Vec<String>,
}

/// A form.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Described {
    /// Its name.
    pub name: String,
    /// The remark above it in the definition.
    pub remark: String,
    /// How it is written, as the definition has it.
    pub written: String,
    /// What it does with names, in sentences.
    pub names: Vec<String>,
    /// Its types, as the definition has them.
    pub types: Vec<String>,
    /// Examples that hold.
    pub examples: Vec<Shown>,
}

/// An example that holds.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Shown {
    /// Entries before it, in the same conversation.
    pub before: Vec<String>,
    /// The program.
    pub program: String,
    /// What comes of it, as cases say it.
    pub gives: Vec<String>,
    /// What it prints, where that is said.
    pub prints: Option<String>,
}

/// The operators of a sort.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Operators {
    /// The sort.
    pub sort: String,
    /// The levels, the one that holds tightest first: how those of it group, and the forms with how they are
    /// written.
    pub levels: Vec<(String, Vec<(String, String)>)>,
}

/// Something that programs find without binding it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct BuiltIn {
    /// Its name.
    pub name: String,
    /// The name with its parameters.
    pub signature: String,
    /// What it does.
    pub help: String,
    /// Its type, as the definition has it.
    pub types: String,
}

/// What is said when something goes wrong.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Said {
    /// What goes wrong.
    pub what: String,
    /// What is said then, in the words of the language.
    pub wording: String,
}

/// What there is to know of a language. A program to begin with can be given; else an example of a whole
/// program is one.
pub fn of(language: &Language, first: Option<&Arc<SourceText>>) -> Reference {
    let definition = language.definition();
    let mut reference = Reference {
        name: definition.name.text.clone(),
        about: definition.remark(),
        extensions: definition
            .extensions
            .iter()
            .map(|one| one.text.clone())
            .collect(),
        tokens: words::tokens(definition),
        operators: operators(definition),
        built_in: built_in(definition),
        errors: errors(definition),
        ..Reference::default()
    };
    let prepared = Prepared::new(language);
    let is_program = |sort: &str| {
        definition
            .starts
            .as_ref()
            .is_some_and(|one| one.text == sort)
    };
    for (name, forms) in definition.sorts() {
        let mut described = Vec::new();
        for form in forms {
            let mut one = described_form(definition, form);
            for example in &form.examples {
                let ran = run_case(&prepared, &definition.source, example, case_limits());
                if ran.verdict == Verdict::Passed {
                    one.examples.push(shown(example));
                } else {
                    let left_out = format!("{}: {}", form.name.text, example.program);
                    reference.left_out.push(left_out);
                }
            }
            described.push(one);
        }
        reference.sorts.push(Sort {
            is_program: is_program(name),
            forms: described,
            stands_in: stands_in(definition, name),
            name: name.to_owned(),
        });
    }
    reference.first = first.and_then(|program| worked(&prepared, program));
    if reference.first.is_none() {
        reference.first = first_example(&reference);
    }
    reference
}

/// An example as it is told.
fn shown(example: &Example) -> Shown {
    let expected = || example.expectations.iter().map(|one| &one.expected);
    Shown {
        before: example.after.iter().map(|one| one.text.clone()).collect(),
        program: example.program.clone(),
        gives: expected().filter_map(written_clause).collect(),
        prints: expected().find_map(|one| {
            if let Expected::Prints(text) = one {
                Some(text.clone())
            } else {
                None
            }
        }),
    }
}

/// A program with what it prints, if it runs well.
fn worked(prepared: &Prepared, program: &Arc<SourceText>) -> Option<Worked> {
    let trial = Trial {
        limits: case_limits(),
        ..Trial::of(prepared, program)
    };
    let ran = trial.run(Engine::Machine);
    let is_right = prepared
        .language()
        .tree(program, Reading::Program)
        .into_result()
        .is_ok();
    (is_right && ran.errors.is_empty()).then(|| Worked {
        program: program.text().trim_end().to_owned(),
        output: ran.printed,
    })
}

/// The longest example of a whole program that prints something.
fn first_example(reference: &Reference) -> Option<Worked> {
    let forms = reference.sorts.iter().flat_map(|sort| &sort.forms);
    let examples = forms.flat_map(|form| &form.examples);
    let alone = examples.filter(|one| one.before.is_empty());
    let printing = alone.filter_map(|one| {
        Some(Worked {
            program: one.program.clone(),
            output: one.prints.clone()?,
        })
    });
    printing.max_by_key(|one| one.program.len())
}

/// A `typed` clause without its word, on one line.
fn types(definition: &Definition, span: Span) -> String {
    let text = definition.source.slice(span).trim();
    let text = text.strip_prefix("typed").unwrap_or(text);
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

fn described_form(definition: &Definition, form: &Form) -> Described {
    Described {
        name: form.name.text.clone(),
        remark: remark_above(&definition.source, form.name.span),
        written: form.written_text(&definition.source).unwrap_or_default(),
        names: words::names(form),
        types: form
            .typed
            .iter()
            .map(|typed| types(definition, typed.span))
            .collect(),
        examples: Vec::new(),
    }
}

/// The forms that have something of a sort in them, without its own.
fn stands_in(definition: &Definition, sort: &str) -> Vec<String> {
    let others = definition
        .forms
        .iter()
        .filter(|form| form.sort_name() != sort);
    let around = others.filter(|form| form.has_inside(sort));
    around.map(|form| form.name.text.clone()).collect()
}

fn operators(definition: &Definition) -> Vec<Operators> {
    let tables = definition.precedence.iter();
    let each = tables.map(|table| Operators {
        sort: table.sort.text.clone(),
        levels: table
            .levels
            .iter()
            .rev()
            .map(|level| {
                let forms = level.forms.iter().map(|name| {
                    let form = definition.form(&name.text);
                    let written = form.and_then(|form| form.written_text(&definition.source));
                    (name.text.clone(), written.unwrap_or_default())
                });
                (grouping(level.grouping).to_owned(), forms.collect())
            })
            .collect(),
    });
    each.collect()
}

/// How operators of a level group, in words.
fn grouping(grouping: Grouping) -> &'static str {
    match grouping {
        Grouping::Left => "from the left: a ∘ b ∘ c is (a ∘ b) ∘ c",
        Grouping::Right => "from the right: a ∘ b ∘ c is a ∘ (b ∘ c)",
        Grouping::None => "not at all: brackets are needed",
        Grouping::Prefix => "before its operand",
        Grouping::Suffix => "behind its operand",
    }
}

fn built_in(definition: &Definition) -> Vec<BuiltIn> {
    let each = definition.provides.iter().map(|one| BuiltIn {
        name: one.name.text.clone(),
        signature: signature(one),
        help: help(one),
        types: one
            .typed
            .as_ref()
            .map_or_else(String::new, |typed| types(definition, typed.span)),
    });
    each.collect()
}

/// The errors that the definition words.
fn errors(definition: &Definition) -> Vec<Said> {
    let said = definition.messages.iter().filter_map(|message| {
        let known = codes::ALL
            .iter()
            .find(|(code, _)| code.0 == message.subject.text);
        let what = match known {
            Some((_, what)) => (*what).to_owned(),
            None if message.unmatched => {
                format!("`{}` where nothing is left by it", message.subject.text)
            }
            None => return None,
        };
        Some(Said {
            what,
            wording: message.text.clone(),
        })
    });
    said.collect()
}

/// What a token's text is converted to, in words.
fn holds(holds: Holds) -> &'static str {
    match holds {
        Holds::Integer => "a whole number",
        Holds::Number => "a number",
        Holds::Text => "a text, without its quotes",
    }
}
