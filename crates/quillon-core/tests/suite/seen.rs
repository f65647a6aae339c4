//! What is seen of a run: the lines of bytecode, and the steps of a trace.

use crate::common::with_tokens;
use quillon_core::bytecode::listing;
use quillon_core::debugging::{Telling, trace};
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading};

/// Orders to a pile, a counted loop, and a helper that uses itself.
const PILES: &str = r#"
state
  pushed = 0
define sum_to(n) = if n = 0 { 0 } else { n + sum_to(n - 1) }
form Program
  written  steps:Step+ by ";"
  opens    scope
  means    all steps
form Stack in Step
  written  "stack" "{" orders:Order* "}"
  means    { let pile = []; each order in orders { order taking pile }; output(shown(pile)) }
form Push in Order
  written  "push" value:Expr
  takes    pile
  means    { list.add(pile, value); pushed := pushed + 1 }
form Join in Order
  written  "join"
  takes    pile
  means    list.add(pile, list.take(pile) + list.take(pile))
form Later in Order
  written  "later" value:Expr
  takes    pile
  means    { let f = function () { list.add(pile, value) }; call f }
form Count in Step
  written  "count" name:Name "to" most:Expr body:Step
  opens    scope around body
  binds    name in body
  means    { name := 0; while name < most { name := name + 1; body; output(".") } }
form Sum in Expr
  written  "sum" value:Expr
  means    sum_to(value)
form Say in Step
  written  "say" value:Expr
  means    output(shown(value))
usual Number, Variable
"#;

/// The instructions of a program, each with the line that it is laid to.
fn lines(language: &Language, program: &str) -> Vec<(u32, &'static str)> {
    let source = SourceText::new("text", program.to_owned());
    let code = language.code(&source, Around::Nothing, Reading::Program);
    let listing = listing(&code.value.unwrap(), language.definition());
    let lines = listing
        .functions
        .iter()
        .flat_map(|function| &function.lines);
    lines.map(|line| (line.line, line.mnemonic)).collect()
}

#[test]
fn what_is_loaded_is_laid_to_the_line_that_uses_it() {
    let language = with_tokens(PILES);
    let program = "say 1;\nstack {\n  push 2\n  push 3\n}";
    let lines = lines(&language, program);
    let of = |line: u32| {
        let own = lines.iter().filter(|(at, _)| *at == line);
        own.map(|(_, mnemonic)| *mnemonic).collect::<Vec<_>>()
    };
    assert_eq!(
        of(3),
        [
            "integer",
            "list_add",
            "get_state",
            "add_integer",
            "put_state"
        ]
    );
    assert_eq!(of(3), of(4));
    assert!(of(1).contains(&"apply"));
    assert!(!of(1).contains(&"list_add"));
}

#[test]
fn helpers_and_what_is_captured_have_their_names_in_listings() {
    let language = with_tokens(PILES);
    let source = SourceText::new("text", "count n to 9 say sum n; stack { later 1 }");
    let code = language.code(&source, Around::Nothing, Reading::Program);
    let listing = listing(&code.value.unwrap(), language.definition());
    let operands = listing.functions.iter().flat_map(|f| &f.lines);
    let operands: Vec<&String> = operands.flat_map(|line| &line.operands).collect();
    assert!(
        operands.iter().any(|o| o.contains("sum_to")),
        "{operands:?}"
    );
    assert!(
        !operands.iter().any(|o| o.contains("variable ")),
        "{operands:?}"
    );
    let captured: Vec<&String> = listing.functions.iter().flat_map(|f| &f.captures).collect();
    assert_eq!(captured, ["pile"]);
}

/// What a trace tells, a line each: what opens, changes, prints, and ends.
fn told(language: &Language, program: &str) -> Vec<String> {
    let mut host = Recorder::default();
    let session = language.session().engine(Engine::Walk);
    let mut session = session.start(&mut host).unwrap();
    let source = SourceText::new("text", program.to_owned());
    let mut told = Vec::new();
    trace(&mut session, &source, Reading::Program, &mut |telling| {
        let effects = |told: &mut Vec<String>, step: &quillon_core::debugging::Step| {
            for change in step.untold_changes() {
                let before = change.before.as_deref().unwrap_or("unset");
                told.push(format!("{} {before} > {}", change.name, change.after));
            }
            if !step.untold_printed().is_empty() {
                told.push(format!("prints {}", step.untold_printed()));
            }
        };
        match telling {
            Telling::Opens(step) => told.push(format!("{} {{", step.form)),
            Telling::Meanwhile(step) => effects(&mut told, step),
            Telling::Whole(step) => {
                told.push(step.form.clone());
                effects(&mut told, step);
            }
            Telling::Closes(step) => {
                effects(&mut told, step);
                told.push("}".to_owned());
            }
        }
    });
    told
}

#[test]
fn what_a_form_is_run_on_is_seen_to_change() {
    let language = with_tokens(PILES);
    assert_eq!(
        told(&language, "stack { push 2 push 3 join }"),
        [
            "Program {",
            "Stack {",
            "Push {",
            "Number",
            "pushed 0 > 1",
            "pile [] > [2]",
            "}",
            "Push {",
            "Number",
            "pushed 1 > 2",
            "pile [2] > [2, 3]",
            "}",
            "Join",
            "pile [2, 3] > [5]",
            "prints [5]",
            "}",
            "}"
        ]
    );
}

#[test]
fn changes_are_told_when_they_happen() {
    let language = with_tokens(PILES);
    assert_eq!(
        told(&language, "count n to 2 say n"),
        [
            "Program {",
            "Count {",
            "n unset > 0",
            "Number",
            "n 0 > 1",
            "Say {",
            "Variable",
            "prints 1",
            "}",
            "prints .",
            "Number",
            "n 1 > 2",
            "Say {",
            "Variable",
            "prints 2",
            "}",
            "prints .",
            "Number",
            "}",
            "}"
        ]
    );
}

#[test]
fn a_trace_comes_to_what_the_program_comes_to() {
    let language = with_tokens(PILES);
    let program = "stack { push 2 later 3 join }; count n to 3 say sum n";
    let plain = crate::common::value(&language, program);
    let mut host = Recorder::default();
    let session = language.session().engine(Engine::Walk);
    let mut session = session.start(&mut host).unwrap();
    let source = SourceText::new("text", program.to_owned());
    let outcome = trace(&mut session, &source, Reading::Program, &mut |_| {});
    let value = outcome.value.unwrap().written();
    let printed = session.into_host().printed.clone();
    assert_eq!(format!("{printed}{value}"), plain);
}
