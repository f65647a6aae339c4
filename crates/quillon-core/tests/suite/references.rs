//! What a definition tells those who use its language.

use std::sync::Arc;

use quillon_core::Language;
use quillon_core::reference::{self, Described, Reference};
use quillon_core::source::SourceText;

use crate::common;

const LEVELS: &str = "-- Levels: sums of water,
-- and names for them.
language Levels
  reads    \".level\", \".lvl\"
  starts   Steps
  entries  Steps, Sum
tokens
  Blank   [ \\t\\r\\n]+  ignored  -- between words
  Text    '\"' [^\"\\\\]* '\"'  holds text
  Whole   digit+  holds integer
  Name    letter+
precedence of Sum, loosest first
  left   Add
  right  Raise
form Steps
  written  steps:Step* by \";\"
  opens    scope
  means    all steps
-- Gives a level a name.
-- It can be changed later.
form Let in Step
  written  \"let\" name:Name \"=\" value:Sum
  binds    name onward
  means    name := value
  example  `let a = 2; say a`  prints \"2\\n\"
  example  `let a = 2; say a`  prints \"3\\n\"
form Fixed in Step
  written  \"fix\" name:Name \"=\" value:Sum \"in\" body:Sum
  opens    scope around body
  binds    name in body fixed
  means    name := value; body
form Change in Step
  written  name:Name \":=\" value:Sum
  uses     name to change
  means    name := value
form Say in Step
  written  \"say\" value:Sum
  means    output(value, \"\\n\")
form Add in Sum
  written  left:Sum \"+\" right:Sum
  means    left + right
  example  `1 + 2`  gives 3
form Raise in Sum
  written  left:Sum \"^\" right:Sum
  means    number.power(left, right)
form Level in Sum
  written  name:Name
  uses     name
  means    name
form Number in Sum
  written  value:Whole
  means    value
provides
  highest(a, b) means if a > b { a } else { b }  -- the higher of two
messages
  run.kind  \"{got} is no level\"
";

fn levels() -> Language {
    common::language(LEVELS)
}

fn told() -> Reference {
    reference::of(&levels(), None)
}

fn form<'r>(reference: &'r Reference, name: &str) -> &'r Described {
    let mut forms = reference.sorts.iter().flat_map(|sort| &sort.forms);
    forms.find(|form| form.name == name).expect(name)
}

#[test]
fn a_language_is_told_by_its_definition() {
    let told = told();
    assert_eq!(told.name, "Levels");
    assert_eq!(told.about, "Levels: sums of water, and names for them.");
    assert_eq!(told.extensions, [".level", ".lvl"]);
    let words: Vec<(&str, &str, &str)> = told
        .tokens
        .iter()
        .map(|one| (&*one.name, &*one.pattern, &*one.meaning))
        .collect();
    assert_eq!(
        words,
        [
            ("Blank", "[ \\t\\r\\n]+", "passed over"),
            ("Text", "'\"' [^\"\\\\]* '\"'", "a text, without its quotes"),
            ("Whole", "digit+", "a whole number"),
            ("Name", "letter+", ""),
        ]
    );
    let sorts: Vec<(&str, bool)> = told
        .sorts
        .iter()
        .map(|sort| (&*sort.name, sort.is_program))
        .collect();
    assert_eq!(sorts, [("Steps", true), ("Step", false), ("Sum", false)]);
    assert_eq!(told.sorts[2].stands_in, ["Let", "Fixed", "Change", "Say"]);
    assert_eq!(told.built_in[0].signature, "highest(a, b)");
    assert_eq!(told.built_in[0].help, "the higher of two");
    assert_eq!(told.errors[0].wording, "{got} is no level");
    assert_eq!(
        told.errors[0].what,
        "a value of a kind that does not belong there"
    );
}

#[test]
fn forms_say_what_they_do_with_names() {
    let told = told();
    let one = form(&told, "Let");
    assert_eq!(
        one.remark,
        "Gives a level a name.\nIt can be changed later."
    );
    assert_eq!(one.written, "\"let\" name:Name \"=\" value:Sum");
    assert_eq!(one.names, ["`name` is bound, and known from there on."]);
    assert_eq!(
        form(&told, "Fixed").names,
        [
            "`name` is bound, and known in `body`. It cannot be changed.",
            "What is bound in `body` is known only there.",
        ]
    );
    assert_eq!(
        form(&told, "Change").names,
        ["`name` has to be bound, and gets another value."]
    );
    assert_eq!(form(&told, "Level").names, ["`name` has to be bound."]);
}

#[test]
fn only_examples_that_hold_are_told() {
    let told = told();
    let examples = &form(&told, "Let").examples;
    assert_eq!(examples.len(), 1);
    assert_eq!(examples[0].gives, ["prints \"2\\n\""]);
    assert_eq!(told.left_out, ["Let: let a = 2; say a"]);
    assert_eq!(form(&told, "Add").examples[0].gives, ["gives 3"]);
}

#[test]
fn what_holds_tightest_comes_first() {
    let told = told();
    let levels: Vec<(&str, &str)> = told.operators[0]
        .levels
        .iter()
        .map(|(how, forms)| (how.split(':').next().unwrap(), &*forms[0].0))
        .collect();
    assert_eq!(
        levels,
        [("from the right", "Raise"), ("from the left", "Add")]
    );
}

#[test]
fn a_program_to_begin_with_is_one_that_runs() {
    let first = told().first.expect("an example prints something");
    assert_eq!(
        (&*first.program, &*first.output),
        ("let a = 2; say a", "2\n")
    );
    let program = |text: &str| -> Arc<SourceText> { SourceText::new("day.level", text) };
    let own = reference::of(&levels(), Some(&program("say 1 + 2\n"))).first;
    assert_eq!(own.unwrap().output, "3\n");
    let wrong = reference::of(&levels(), Some(&program("say nobody"))).first;
    assert_eq!(
        wrong.unwrap().program,
        "let a = 2; say a",
        "an example instead"
    );
}
