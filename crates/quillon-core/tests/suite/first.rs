//! Forms that run when their scope begins: what they bind has its value from the start.

use crate::common::{mistakes, said, value, with_tokens};
use quillon_core::Language;
use quillon_core::runtime::Recorder;

const WORKS: &str = r#"
precedence of Expr, loosest first
  left    Plus
  suffix  Call
form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Def in Step
  written  "to" name:Name "(" params:Name* by "," ")" ":" body:Step
  opens    scope around body
  binds    name throughout first, params in body
  means    name := function (params) { body }
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name throughout
  means    name := value
form Show in Step
  written  "say" value:Expr
  means    output(shown(value), " ")
form Block in Step
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
form When in Step
  written  "when" test:Expr body:Step
  means    if test > 0 { body } else { 0 }
form Times in Step
  written  "repeat" count:Whole body:Step
  opens    scope around body
  means    let i = 0; while i < count { body; i := i + 1 }
form Give in Step
  written  value:Expr
  means    value
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
usual Var, Number
"#;

fn works() -> Language {
    with_tokens(WORKS)
}

#[test]
fn what_runs_first_is_there_from_the_start() {
    let own = works();
    for (text, wanted) in [
        ("twice(4); to twice(a): a + a; twice(5)", "10"),
        ("say twice(4); to twice(a): a + a; 1", "8 1"),
        // Each other, and above both.
        (
            "say even(3); to even(n): when n odd(n); to odd(n): when n n + even(0)",
            "3 nothing",
        ),
        // In a block, in a function and in a loop it is the block's, the function's, the loop's.
        ("{ f(1); to f(a): a + 7; f(2) }", "9"),
        ("to g(a): { h(a); to h(b): a + b; h(1) }; g(5)", "6"),
        ("repeat 2 { say f(1); to f(a): a + 1 }", "2 2 nothing"),
        // Under a form without a scope of its own it is the scope's around.
        ("say f(1); when 0 to f(a): a + 3", "4 0"),
        // What it uses is looked at when it runs.
        ("to f(): level; let level = 3; f()", "3"),
        // What does not run first has no value there.
        ("say level; let level = 3", "1:5 `level` has no value yet"),
    ] {
        let found = value(&own, text);
        assert_eq!(found, wanted, "{text}");
    }
}

#[test]
fn it_is_so_in_a_conversation_and_in_one_entry_of_it() {
    let own = works();
    let mut session = own.session().start(Recorder::default()).unwrap();
    let mut enter = |text: &str| match session.enter("entry", text) {
        Ok(value) => value.written(),
        Err(problems) => said(&problems[0]),
    };
    assert_eq!(enter("twice(4) + 1; to twice(a): a + a; twice(4)"), "8");
    assert_eq!(enter("twice(6)"), "12");
}

#[test]
fn what_is_run_on_something_cannot_run_first() {
    let found = mistakes(&format!(
        "language A\n{}{}",
        crate::common::TOKENS,
        "form Program\n  written parts:Part*\n  opens scope\n  means all parts taking 1\n\
         form Part\n  written name:Name\n  takes it\n  binds name throughout first\n  means name := it\n"
    ));
    assert!(
        found.iter().any(
            |line| line.contains("a form that runs when its scope begins cannot take a value")
        ),
        "{found:?}"
    );
}

#[test]
fn entries_can_use_what_comes_later_as_a_program_can() {
    let own = works();
    let mut session = own.session().start(Recorder::default()).unwrap();
    session.remember(8);
    let enter = |session: &mut quillon_core::Session<Recorder>, text: &str| {
        let source = quillon_core::source::SourceText::new("entry", text.to_owned());
        let outcome = session.enter_source(&source);
        let told = outcome.diagnostics.iter().map(said).collect::<Vec<_>>();
        let value = outcome
            .value
            .map_or("-".to_owned(), |value| value.written());
        format!("{value} {}", told.join("; ")).trim_end().to_owned()
    };
    let even = "to even(n): when n odd(n)";
    assert_eq!(
        enter(&mut session, even),
        "nothing 1:20 `odd` is not bound yet"
    );
    // Until it is, running it is an error, and it is not called anything else.
    assert_eq!(
        enter(&mut session, "even(2)"),
        "- 1:20 `odd` has no value yet"
    );
    assert_eq!(
        enter(&mut session, "to odd(n): when n n + even(0)"),
        "nothing"
    );
    assert_eq!(enter(&mut session, "even(2)"), "2");
    // Bound once more it is another one, as ever.
    assert_eq!(enter(&mut session, "to odd(n): 7"), "nothing");
    assert_eq!(enter(&mut session, "even(2)"), "2");
    assert_eq!(enter(&mut session, "odd(2)"), "7");
    // What is taken back is awaited again.
    assert!((0..5).all(|_| session.undo()));
    assert_eq!(
        enter(&mut session, "even(2)"),
        "- 1:20 `odd` has no value yet"
    );
    assert_eq!(enter(&mut session, "let odd = 3"), "nothing");
    assert_eq!(enter(&mut session, "odd"), "3");
    // Nothing is awaited outside of functions, nor in an entry that defines nothing.
    assert_eq!(
        enter(&mut session, "tide + 1"),
        "- 1:1 there is no binding called `tide`"
    );
    // Nor in a program.
    assert_eq!(value(&own, even), "1:20 there is no binding called `odd`");
}
