//! Programs that are started with arguments and leave with an exit status.

use quillon_core::runtime::{Amount, Host, Recorder, TooLarge};
use quillon_core::{Engine, Language};

use crate::common;

/// Who starts programs.
#[derive(Default)]
struct Keeper {
    own: Recorder,
    left: Vec<u8>,
}

impl Host for Keeper {
    fn output(&mut self, text: &str) {
        self.own.output(text);
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.own.input(amount, most)
    }

    fn arguments(&self) -> Vec<String> {
        vec!["Heron".to_owned(), "two words".to_owned()]
    }

    fn leave(&mut self, status: u8) {
        self.left.push(status);
    }
}

fn keepers() -> Language {
    common::with_tokens(
        r#"
usual Program, Let, List, Words, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Say in Step
  written  "say" value:Expr
  means    output(value, "\n")
form Given in Expr
  written  "given"
  means    program.arguments()
form Leave in Step
  written  "leave" status:Expr
  means    program.leave(status)
form Try in Step
  written  "try" "{" steps:Step* by ";" "}" "else" other:Step
  means    attempt { all steps } rescue e { other }
"#,
    )
}

/// What a program prints, the statuses that it leaves with, and how it ends, with both engines.
#[track_caller]
fn comes_to(program: &str) -> (String, Vec<u8>, String) {
    let language = keepers();
    let [one, other] = [Engine::Machine, Engine::Walk].map(|engine| {
        let session = language.session().engine(engine);
        let mut session = session.start(Keeper::default()).expect("a session");
        let ended = match session.run("p", program) {
            Ok(value) => value.shown(),
            Err(problems) => format!("{}: {problems}", problems[0].code.0),
        };
        let host = session.host();
        (host.own.printed.clone(), host.left.clone(), ended)
    });
    assert_eq!(one, other, "{program}");
    one
}

#[test]
fn a_program_knows_what_it_was_started_with() {
    let (printed, left, _) = comes_to("say given");
    assert_eq!(printed, "[\"Heron\", \"two words\"]\n");
    assert!(left.is_empty());
}

#[test]
fn a_program_leaves_when_it_wants() {
    let (printed, left, ended) = comes_to("say 1; leave 3; say 2");
    assert_eq!((printed.as_str(), &left[..]), ("1\n", &[3][..]));
    assert!(ended.starts_with("run.left: "), "{ended}");
    assert!(
        ended.contains("the program leaves here, with the exit status 3"),
        "{ended}"
    );
}

#[test]
fn nothing_catches_that() {
    let (printed, left, ended) = comes_to("try { leave 0 } else say 2; say 3");
    assert_eq!((printed.as_str(), &left[..]), ("", &[0][..]));
    assert!(ended.starts_with("run.left: "), "{ended}");
}

#[test]
fn a_status_that_there_is_not_is_an_error() {
    let (printed, left, _) = comes_to("try { leave 256 } else say \"no\"");
    assert_eq!((printed.as_str(), &left[..]), ("no\n", &[][..]));
    let (_, _, ended) = comes_to("leave 1000");
    assert!(
        ended.contains("an exit status is a number from 0 to 255, and this is 1000"),
        "{ended}"
    );
}
