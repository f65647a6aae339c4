//! Operations against their table: kinds of operands, and errors.

use crate::operations::{CASES, language, meaning};
use quillon_core::Reading;
use quillon_core::operations::{Operation, Wanted};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;

/// A value that an operand can be.
fn sample(wanted: Wanted) -> &'static str {
    match wanted {
        Wanted::Any | Wanted::Integer => "1",
        Wanted::Number => "1.5",
        Wanted::Text | Wanted::Key => "\"a\"",
        Wanted::List => "[1]",
        Wanted::Map => "map.new()",
        Wanted::Function => "function (x) { x }",
        Wanted::Coroutine => "coroutine.make(function () { 1 })",
    }
}

#[test]
fn operands_are_of_the_kinds_that_the_table_says() {
    let named = Operation::ALL.iter().filter(|o| !o.name().contains(' '));
    for operation in named {
        for (number, operand) in operation.operands().iter().enumerate() {
            let wrong = match operand.wanted {
                Wanted::Any => continue,
                Wanted::Function => "[]",
                _ => "function (x) { x }",
            };
            let before = operation.operands()[..number].iter();
            let mut args: Vec<&str> = before.map(|operand| sample(operand.wanted)).collect();
            let hidden = format!("any({wrong})");
            args.push(&hidden);
            let after = operation.operands()[number + 1..].iter();
            args.extend(after.map(|operand| sample(operand.wanted)));
            let call = format!("{}({})", operation.name(), args.join(", "));
            assert_eq!(code_of(&call), Some("run.kind"), "{call}");
            let said = meaning(&call);
            assert!(said.contains(" is needed here, and this is "), "{said}");
        }
    }
}

/// The code of the error that a meaning ends in, if it does.
fn code_of(text: &str) -> Option<&'static str> {
    let language = language(text);
    let mut host = Recorder::default();
    let mut session = language.session().start(&mut host).ok()?;
    let source = SourceText::new("text", "run");
    let outcome = session.run_source(&source, Reading::Program);
    outcome.diagnostics.first().map(|error| error.code.0)
}

#[test]
fn each_error_of_an_operation_is_one_that_its_table_names() {
    let mut seen = 0;
    for (text, _) in CASES {
        let name = text.split('(').next().unwrap_or_default();
        let (Some(operation), Some(code)) = (Operation::named(name), code_of(text)) else {
            continue;
        };
        let known = operation.errors().iter().any(|known| known.0 == code);
        assert!(known || code == "run.kind", "{text}: {code}");
        seen += 1;
    }
    assert!(seen > 30, "only {seen} errors are tried");
}
