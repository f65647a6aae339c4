//! The core inside another program: functions called both ways, limits, errors, threads.

use std::error::Error;
use std::fmt;

use quillon_core::runtime::{Amount, Caller, Host, HostError, Limits, Recorder, TooLarge};
use quillon_core::values::{Function, Held};
use quillon_core::{Engine, Language, Prepared, Reading, Session};

use crate::common::quay;

const ENGINES: [Engine; 2] = [Engine::Machine, Engine::Walk];

/// A host whose functions do something with a function they are given.
#[derive(Default)]
struct Keeper {
    own: Recorder,
    kept: Option<Function>,
}

#[derive(Debug, PartialEq)]
struct Dry(i64);

impl fmt::Display for Dry {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "lock {} is dry", self.0)
    }
}

impl Error for Dry {}

impl Host for Keeper {
    fn output(&mut self, text: &str) {
        self.own.output(text);
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.own.input(amount, most)
    }

    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        let function = values.first().and_then(Held::as_function);
        match (name, function) {
            ("count", _) => Ok(values.len().to_string().into()),
            ("dry", _) => Err(Dry(3).into()),
            ("kept", _) => {
                let kept = self.kept.as_ref().ok_or("nothing is kept")?;
                Ok(caller.call(&kept.clone(), (), self)?)
            }
            ("call", Some(function)) => Ok(caller.call(&function, &values[1..], self)?),
            ("quiet", Some(function)) => {
                let gave = caller.call(&function, &values[1..], self);
                Ok(gave.unwrap_or_else(|problems| problems[0].code.0.into()))
            }
            _ => Err("no such function".into()),
        }
    }
}

fn session(language: &Language, engine: Engine, limits: Limits) -> Session<Keeper> {
    let session = language.session().engine(engine).limits(limits);
    session.start(Keeper::default()).expect("a session")
}

/// What a program gives on both engines, or its error and where it is.
fn comes_to(program: &str, limits: Limits) -> String {
    let language = quay();
    let [machine, walker] = ENGINES.map(|engine| {
        let mut session = session(&language, engine, limits);
        let gave = session.run("p", program);
        let told = match gave {
            Ok(value) => value.shown(),
            Err(problems) => format!("{}: {problems}", problems[0].code.0),
        };
        format!("{}{told}", session.host().own.printed)
    });
    assert_eq!(machine, walker, "{program}");
    machine
}

fn gives(program: &str, wanted: &str) {
    assert_eq!(comes_to(program, Limits::default()), wanted, "{program}");
}

#[test]
fn a_host_calls_back_what_it_was_given() {
    gives("ask \"call\"(fn (x) { x + 1 }, 4)", "5");
    gives(
        "let n = 0; fun up(x) { n := n + x; n }; ask \"call\"(up, 2); ask \"call\"(up, 3)",
        "5",
    );
    // It goes on printing, and calls the host itself.
    gives(
        "ask \"call\"(fn (x) { say x; ask \"call\"(fn (y) { say y; x + y }, 2) }, 1)",
        "1\n2\n3",
    );
    // A repeated field is as many values as it has children.
    gives("ask \"count\"()", "0");
    gives("ask \"count\"(1, 2, 3)", "3");
}

#[test]
fn what_goes_wrong_in_a_function_that_is_called_back_is_told_where_it_is() {
    gives(
        "ask \"call\"(fn (x) { x + yes }, 4)",
        "run.kind: a number is needed here, and this is a truth value: true at p:1:25",
    );
    gives("ask \"quiet\"(fn (x) { x + yes }, 4)", "run.kind");
    gives(
        "try { ask \"call\"(fn (x) { raise x }, 4) } mend m { 7 }",
        "7",
    );
    gives(
        "ask \"call\"(fn (x) { x }, 4, 5)",
        "run.arity: this function takes 1 argument, and gets 2 at p:1:5",
    );
}

#[test]
fn an_error_of_the_host_is_kept_behind_that_of_the_run() {
    let mut session = session(&quay(), Engine::Machine, Limits::default());
    let problems = session.run("p", "1 + ask \"dry\"()").unwrap_err();
    assert_eq!(problems[0].code.0, "run.host");
    assert_eq!(problems.to_string(), "lock 3 is dry at p:1:9");
    let behind = problems.source().expect("the error of the host");
    assert_eq!(behind.downcast_ref(), Some(&Dry(3)));
    // A program that catches it gets its text.
    gives("try { ask \"dry\"() } mend m { 5 }", "5");
}

#[test]
fn host_and_program_call_each_other_so_deep_and_no_deeper() {
    let deep = "fun down(n) { if n < 1 { give 0 } else { give 1 + ask \"call\"(down, n - 1) } };";
    gives(&format!("{deep} down(31)"), "31");
    let told = comes_to(&format!("{deep} down(400)"), Limits::default());
    assert!(
        told.starts_with("run.depth: the program and what is around it call each other 32 deep"),
        "{told}"
    );
}

#[test]
fn limits_hold_through_a_host_that_calls_back() {
    let endless = "ask \"quiet\"(fn (x) { let n = 0; repeat 1000000000 { n := n + x } }, 1); say 1";
    let steps = Limits {
        steps: Some(100_000),
        ..Limits::default()
    };
    let told = comes_to(endless, steps);
    assert!(told.starts_with("run.steps"), "{told}");
    let output = Limits {
        output: Some(5),
        ..Limits::default()
    };
    let told = comes_to(
        "say 12; ask \"quiet\"(fn (x) { say x }, 34); say 56",
        output,
    );
    assert!(told.starts_with("12\n34"), "{told}");
    assert!(told.contains("run.output"), "{told}");
    let depth = Limits {
        depth: 50,
        ..Limits::default()
    };
    let deep = "fun f(n) { if n < 1 { give 0 } else { give 1 + f(n - 1) } };";
    gives_within(&format!("{deep} f(40)"), depth, "40");
    let around = "fun g(n) { if n < 1 { give ask \"call\"(f, 30) } else { give 1 + g(n - 1) } };";
    let nested = format!("{deep} {around} g(30)");
    let told = comes_to(&nested, depth);
    assert!(told.starts_with("run.depth: 50 nested calls"), "{told}");
}

fn gives_within(program: &str, limits: Limits, wanted: &str) {
    assert_eq!(comes_to(program, limits), wanted, "{program}");
}

#[test]
fn nothing_is_freed_that_waits_for_the_host() {
    let program = "let l = [1, 2]; let m = [\"a\" & 1, \"b\" & 2];
        let sum = fold(map(l, fn (x) { ask \"call\"(fn (y) { let m = filled(300, y & \"\"); y }, x) }), 0,
            fn (a, b) { a + b });
        m & sum";
    for engine in ENGINES {
        let mut session = session(&quay(), engine, Limits::default());
        session.collect_always(10_000);
        let gave = session.run("p", program).unwrap();
        assert_eq!(gave.shown(), "[\"a1\", \"b2\"]3", "{engine:?}");
    }
}

#[test]
fn a_coroutine_does_not_suspend_through_the_host() {
    let told = comes_to(
        "let c = flow { ask \"call\"(fn (x) { hand x }, 1) }; next(c, 0)",
        Limits::default(),
    );
    assert!(
        told.starts_with("run.suspend: there is no coroutine here that could be suspended"),
        "{told}"
    );
    // One that is begun and ended inside is no matter.
    gives(
        "ask \"call\"(fn (x) { let c = flow { hand x }; next(c, 0) }, 4)",
        "4",
    );
}

#[test]
fn a_function_of_another_session_is_refused() {
    for engine in ENGINES {
        let language = quay();
        let mut one = session(&language, engine, Limits::default());
        let mut other = session(&language, engine, Limits::default());
        let function = one
            .enter("p", "fn () { 1 }")
            .unwrap()
            .as_function()
            .unwrap();
        let refused = "a function of one session cannot be used in another";
        let called = other.call(&function, ()).unwrap_err();
        assert_eq!(called.to_string(), refused);
        let own = other
            .enter("p", "fn (f) { f }")
            .unwrap()
            .as_function()
            .unwrap();
        let given = other.call(&own, (&function,)).unwrap_err();
        assert_eq!(given.to_string(), refused);
        let among = other.call(&own, (vec![Held::from(1), (&function).into()],));
        assert_eq!(among.unwrap_err().to_string(), refused);
        // Put together from two sessions, it can be in neither.
        let both: Held = vec![Held::from(&function), Held::from(&own)].into();
        assert_eq!(one.call(&function, ()).unwrap().as_integer(), Some(1));
        assert!(one.set_state("kept", both).is_err());
        other.host_mut().kept = Some(function);
        let kept = other.run("p", "ask \"kept\"()").unwrap_err();
        assert!(kept.to_string().starts_with(refused), "{kept}");
    }
}

#[test]
fn functions_are_found_by_name() {
    let mut session = session(&quay(), Engine::Machine, Limits::default());
    session
        .enter("p", "fun toll(boat, tons) { boat & tons }")
        .unwrap();
    session.enter("p", "let level = 4").unwrap();
    let toll = session.function("toll").unwrap();
    assert_eq!(toll.name(), Some("toll"));
    assert_eq!(toll.params(), ["boat", "tons"]);
    assert_eq!(session.call(&toll, ("Heron", 4)).unwrap().shown(), "Heron4");
    assert_eq!(session.call(&toll, vec!["a", "b"]).unwrap().shown(), "ab");
    let missing = session.function("tol").unwrap_err();
    assert_eq!(missing.message, "no function is called `tol`");
    assert_eq!(missing.remedies, ["did you mean `toll`?"]);
    let number = session.function("level").unwrap_err();
    assert_eq!(
        number.message,
        "`level` is no function: it is an integer: 4"
    );
    // What the definition provides is found, too.
    let size = session.function("size").unwrap();
    let length = session.call(&size, (vec![1, 2, 3],)).unwrap();
    assert_eq!(length.as_integer(), Some(3));
}

#[test]
fn limits_can_be_changed_between_two_calls() {
    let mut session = session(&quay(), Engine::Machine, Limits::default());
    let text = "fun count(n) { let i = 0; repeat n { i := i + 1 }; i }";
    session.enter("p", text).unwrap();
    let count = session.function("count").unwrap();
    assert_eq!(
        session.call(&count, (1000,)).unwrap().as_integer(),
        Some(1000)
    );
    session.set_limits(Limits {
        steps: Some(500),
        ..session.limits()
    });
    let stopped = session.call(&count, (100_000,)).unwrap_err();
    assert_eq!(stopped[0].code.0, "run.steps");
    session.set_limits(Limits::default());
    assert_eq!(
        session.call(&count, (1000,)).unwrap().as_integer(),
        Some(1000)
    );
}

#[test]
fn an_entry_that_fails_is_taken_back_and_a_run_leaves_no_names() {
    let mut session = session(&quay(), Engine::Machine, Limits::default());
    session.enter("p", "let l = [1]").unwrap();
    assert!(
        session
            .enter("p", "add(l, 2); let other = 1; raise 3")
            .is_err()
    );
    assert_eq!(session.enter("p", "l").unwrap().shown(), "[1]");
    assert!(session.function("other").is_err());
    session.run("p", "let inside = 4").unwrap();
    assert!(session.enter("p", "inside").is_err());
}

#[test]
fn a_language_serves_many_threads_each_with_sessions_of_its_own() {
    fn shared<T: Send + Sync>(_: &T) {}
    let language = quay();
    shared(&language);
    let sums: Vec<i64> = std::thread::scope(|scope| {
        let begun: Vec<_> = (0..4)
            .map(|number: i64| {
                let language = &language;
                scope.spawn(move || {
                    let prepared = Prepared::new(language);
                    let session = prepared.session().state("kept", number).unwrap();
                    let mut session = session.start(Recorder::default()).unwrap();
                    session.run("p", "kept * 2").unwrap().to().unwrap()
                })
            })
            .collect();
        begun.into_iter().map(|one| one.join().unwrap()).collect()
    });
    assert_eq!(sums, [0, 2, 4, 6]);
}

#[test]
fn sessions_are_their_own_in_all_that_a_program_can_change() {
    let prepared = Prepared::new(&quay());
    let start = || prepared.session().start(Recorder::default()).unwrap();
    let (mut one, mut other) = (start(), start());
    one.enter("p", "keep 5; let here = 1").unwrap();
    assert_eq!(other.enter("p", "kept").unwrap().as_integer(), Some(0));
    assert!(other.enter("p", "here").is_err());
    assert_eq!(one.cell("kept").unwrap().as_integer(), Some(5));
}

#[test]
fn warnings_are_not_lost_beside_a_value() {
    let source = quillon_core::source::SourceText::new("p", "fun f() { 1; 2 }; f()");
    let mut session = session(&quay(), Engine::Machine, Limits::default());
    let outcome = session.run_source(&source, Reading::Program);
    let gave = session.run("p", source.text()).unwrap();
    assert_eq!(gave.as_integer(), Some(2));
    assert_eq!(session.warnings(), outcome.diagnostics);
}
