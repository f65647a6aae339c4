//! Limits hold for one long operation as for many short ones, by both engines; and what would be
//! read, compiled or shown without end is an error or cut.

use std::sync::Arc;
use std::time::Duration;

use quillon_core::runtime::{Amount, Host, Interrupt, Limits, NotRead, Recorder, TooLarge};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading};

use crate::common::quay;

/// The code of the error that a program ends in, or its value.
fn end(language: &Language, engine: Engine, program: &str, limits: Limits) -> String {
    let mut host = Recorder::default();
    let mut session = language
        .session()
        .engine(engine)
        .limits(limits)
        .start(&mut host)
        .unwrap();
    let outcome = session.run_source(&SourceText::new("program", program), Reading::Program);
    match outcome.value {
        Some(value) => value.written(),
        None => outcome.diagnostics[0].code.0.to_owned(),
    }
}

/// The same by both engines, which must agree.
#[track_caller]
fn ends(program: &str, limits: Limits, wanted: &str) {
    let language = quay();
    for engine in [Engine::Machine, Engine::Walk] {
        let end = end(&language, engine, program, limits);
        assert_eq!(end, wanted, "{engine:?}: {program}");
    }
}

/// What a function makes of each of some numbers, one after the other.
fn each(numbers: std::ops::Range<usize>, make: impl Fn(usize) -> String) -> String {
    let all: Vec<String> = numbers.map(make).collect();
    all.concat()
}

fn memory(bytes: u64) -> Limits {
    Limits {
        memory: Some(bytes),
        ..Limits::default()
    }
}

fn time(milliseconds: u64) -> Limits {
    Limits {
        time: Some(Duration::from_millis(milliseconds)),
        ..Limits::default()
    }
}

fn depth(depth: u32) -> Limits {
    Limits {
        depth,
        ..Limits::default()
    }
}

#[test]
fn a_coroutine_resumed_near_the_limit_on_calls_keeps_to_it() {
    let program = "
        fun forever(n) { give 1 + forever(n + 1) };
        fun deep(n) { if n < 1 { hand 0; forever(0) } else { give 1 + deep(n - 1) } };
        let c = flow { deep(10) };
        next(c, 0);
        fun down(n) { if n < 1 { give next(c, 0) } else { give 1 + down(n - 1) } };
        down(45)";
    ends(program, depth(50), "run.depth");
    // What waits is no call under way.
    let waiting = "
        let n = 0;
        repeat 300 { let c = flow { hand 1 }; next(c, 0); n := n + 1 };
        n";
    ends(waiting, depth(100), "300");
}

#[test]
fn memory_is_asked_for_before_it_is_taken() {
    let small = memory(4 << 20);
    for program in [
        "size(filled(100000000, 1))",
        "size(range(1, 100000000))",
        "length(repeated(\"abc\", 60000000))",
        "size(split(repeated(\"x\", 3000000), \"\"))",
        "size(split(repeated(\"x,\", 1000000), \",\"))",
        "length(padded(\"\", 200000000, \"ab\"))",
        "length(reversed(repeated(\"x\", 3000000)))",
        "length(repeated(\"x\", 100000) & filled(900000, 1))",
        "size(map(range(1, 200000), fn (x) { [x] }))",
        "size(sort(range(1, 200000), fn (a, b) { b < a }))",
        "let l = []; repeat 1000000000 { add(l, flow { hand 1 }); next(item(l, size(l) - 1), 0) }",
        "fun rec(n) { dyn d = n; give 1 + rec(n + 1) }; rec(0)",
        "let m = new(); let n = 0; repeat 1000000000 { set(m, n, n); n := n + 1 }",
        "let t = \"0123456789\"; repeat 1000000000 { t := t & t }",
    ] {
        ends(program, small, "run.memory");
    }
    // What has been dropped makes room.
    let dropped = "let n = 0; repeat 300 { let l = filled(100000, n); n := n + 1 }; n";
    ends(dropped, small, "300");
}

#[test]
fn time_is_looked_at_in_long_operations() {
    let start = "let t = repeated(\"e\u{301}\", 2000000); let l = range(1, 300000); ";
    for operation in [
        "length(t)",
        "find(t, \"xy\")",
        "length(upper(t))",
        "length(reversed(t))",
        "size(split(t, \"x\"))",
        "length(padded(t, 5, \"x\"))",
        "size(sorted(l))",
        "size(sort(l, fn (a, b) { b < a }))",
        "if l == copy(l) { }",
        "length(l & \"x\")",
        "size(copy(l))",
        "say l",
    ] {
        let program = format!("{start}repeat 1000000000 {{ {operation} }}");
        ends(&program, time(100), "run.time");
    }
}

#[test]
fn a_limit_is_neither_caught_nor_cleaned_up_after() {
    for program in [
        "try { repeat 1000000000 { 1 } } mend e { 2 }",
        "try { repeat 1000000000 { 1 } } lastly { repeat 1000000000 { 2 } }",
        "dyn d = 1; repeat 1000000000 { try { dyn d = 2; repeat 1000000000 { 1 } } mend e { 2 } }",
    ] {
        let steps = Limits {
            steps: Some(5000),
            ..Limits::default()
        };
        ends(program, steps, "run.steps");
        ends(program, time(50), "run.time");
    }
}

#[test]
fn an_interrupt_ends_a_long_operation() {
    struct Interrupted(Interrupt);
    impl Host for Interrupted {
        fn output(&mut self, _: &str) {}
        fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
            Ok(None)
        }
        fn interrupt(&self) -> Option<Interrupt> {
            Some(self.0.clone())
        }
    }
    let language = quay();
    let program = "let t = repeated(\"e\u{301}\", 3000000); repeat 1000000000 { length(t) }";
    for engine in [Engine::Machine, Engine::Walk] {
        let interrupt = Interrupt::new();
        let mut host = Interrupted(interrupt.clone());
        let mut session = language.session().engine(engine).start(&mut host).unwrap();
        let raised = std::thread::spawn(move || {
            std::thread::sleep(Duration::from_millis(50));
            interrupt.raise();
        });
        let outcome = session.run_source(&SourceText::new("program", program), Reading::Program);
        raised.join().unwrap();
        assert_eq!(outcome.diagnostics[0].code.0, "run.interrupted");
    }
}

/// A list that holds another twice, and so on.
const SHARED: &str = "let a = [1]; let b = [1]; repeat 50 { a := [a, a]; b := [b, b] }; ";

#[test]
fn what_is_shared_is_compared_once_and_shown_in_part() {
    let all = Limits::default();
    ends(&format!("{SHARED}if a == b {{ 1 }} else {{ 2 }}"), all, "1");
    ends(&format!("{SHARED}say a"), memory(32 << 20), "run.memory");
    ends(&format!("{SHARED}try {{ a + 1 }} mend e {{ 3 }}"), all, "3");
    // From outside, a person sees the beginning.
    let language = quay();
    let mut host = Recorder::default();
    let mut session = language.session().limits(all).start(&mut host).unwrap();
    let entry = |text: &str| SourceText::new("entry", text.to_owned());
    let value = session
        .run_source(&entry(&format!("{SHARED}a")), Reading::Program)
        .value
        .unwrap();
    assert!(value.written().ends_with('…'));
    assert!(value.described().chars().count() < 60);
    assert!(value.literal().is_none());
    // And an entry copies each of them once.
    for text in [SHARED, "let c = [a, b]", "size(c)"] {
        let outcome = session.enter_source(&entry(text.trim_end_matches("; ")));
        assert_eq!(outcome.diagnostics.len(), 0, "{text}");
    }
}

#[test]
fn errors_write_no_more_of_a_value_than_they_say() {
    let program = "
        let l = range(1, 500000); let m = new(); let n = 0;
        repeat 5000 { set(m, n, n); n := n + 1 };
        repeat 5000 { try { l + 1 } mend e { 0 }; try { raise l } mend e { 0 } }; 1";
    ends(program, time(20_000), "1");
    let long = "raise repeated(\"x\", 1000000)";
    let language = quay();
    let mut host = Recorder::default();
    let mut session = language.session().start(&mut host).unwrap();
    let outcome = session.run_source(&SourceText::new("program", long), Reading::Program);
    assert!(outcome.diagnostics[0].message.len() < 5000);
}

#[test]
fn going_out_of_very_many_calls_costs_each_of_them_once() {
    // Each call of `f` leads to a tail call.
    let turns = "fun f(n, h) { give 1 + h(n + 1, h) }; fun g(n, h) { give f(n, h) }; f(0, g)";
    ends(turns, depth(60_000), "run.depth");
    let name = "n".repeat(200_000);
    ends(
        &format!("fun {name}(n) {{ give 1 + {name}(n + 1) }}; {name}(0)"),
        depth(60_000),
        "run.depth",
    );
}

/// A host with one other program.
struct Beside(Arc<SourceText>);

impl Host for Beside {
    fn output(&mut self, _: &str) {}
    fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
        Ok(None)
    }
    fn program(&mut self, _: &str, _: &SourceText, _: usize) -> Result<Arc<SourceText>, NotRead> {
        Ok(Arc::clone(&self.0))
    }
}

#[test]
fn a_function_with_as_many_registers_as_there_can_be_loads_a_program() {
    let language = quay();
    let many = |count: usize| {
        let lets = each(0..count, |n| format!("let v{n} = p + {n}; "));
        let sums = each(0..count, |n| format!("s := s + v{n}; "));
        let text = format!("fun big(p) {{ {lets} let s = load \"m\"; {sums} give s }}; big(1)");
        SourceText::new("program", text)
    };
    let registers = |source: &Arc<SourceText>| {
        let code = language
            .code(source, Around::Nothing, Reading::Program)
            .value;
        code.map(|code| usize::from(code.functions[0].registers))
    };
    let needed = registers(&many(100)).expect("it is small");
    let most = many(32_768 - (needed - 100));
    assert_eq!(registers(&most), Some(32_768));
    let mut host = Beside(SourceText::new("m", "let x = 5; let y = [x]; let z = y"));
    let mut session = language.session().start(&mut host).unwrap();
    let outcome = session.run_source(&most, Reading::Program);
    let count = (32_768 - (needed - 100)) as i64;
    // The program that was loaded has three names.
    let sum = 3 + count + count * (count - 1) / 2;
    assert_eq!(
        outcome.value.map(|value| value.written()),
        Some(sum.to_string())
    );
}

#[test]
fn both_engines_count_arguments_from_outside() {
    let language = quay();
    for engine in [Engine::Machine, Engine::Walk] {
        let mut host = Recorder::default();
        let mut session = language.session().engine(engine).start(&mut host).unwrap();
        let sum = session.enter("entry", "fn (a, b) { a + b }").unwrap();
        let sum = sum.as_function().unwrap();
        assert_eq!(sum.params(), ["a", "b"]);
        assert_eq!(session.call(&sum, (1, 2)).unwrap().as_integer(), Some(3));
        for count in [0, 1, 3] {
            let called = session.call(&sum, vec![1; count]).unwrap_err();
            assert!(!sum.takes(count));
            assert_eq!(called[0].code.0, "run.arity", "{engine:?}");
        }
        let rest = session.function("rest").unwrap();
        assert!(rest.takes_more() && rest.takes(0) && rest.takes(9));
        let count = session.call(&rest, (1, "two", 3.5)).unwrap();
        assert_eq!(count.as_integer(), Some(3), "{engine:?}");
    }
}

/// The codes of what is said of a definition, each once.
fn codes(definition: &str) -> Vec<String> {
    let outcome = Language::load(&SourceText::new("own.quillon", definition));
    let mut codes: Vec<String> = outcome
        .diagnostics
        .iter()
        .map(|d| d.code.0.to_owned())
        .collect();
    codes.dedup();
    codes
}

const START: &str = "language Own\n\ntokens\n  Blank  [ \\n]+  ignored\n  Whole  digit+  holds integer\n\n\
    form Program\n  written  steps:Expr*\n  means    all steps\n\
    form Number in Expr\n  written  value:Whole\n  means    value\n";

#[test]
fn definitions_are_no_endless_compile() {
    let empty = format!(
        "{START}form Signed in Expr\n  written  sign:(\"-\" | \"\") value:Whole\n  means value\n"
    );
    assert_eq!(codes(&empty), ["definition.syntax"]);
    let word =
        |means: &str| format!("{START}form Word in Expr\n  written  \"w\"\n  means    {means}\n");
    let chain = word(&format!("{}1", "1 + ".repeat(100_000)));
    assert_eq!(codes(&chain), ["definition.limit"]);
    let pattern = START.replace("digit+ ", &format!("digit{} ", "+".repeat(100_000)));
    assert_eq!(codes(&pattern)[0], "definition.limit");
    let forms = each(0..4000, |n| {
        format!("form F{n} in Expr\n  written  \"k{n}\" left:Expr\n  means    left\n")
    });
    assert_eq!(codes(&format!("{START}{forms}")), ["definition.limit"]);
    // Helpers that double are seen when they are filled in.
    let doubled = each(0..60, |n| {
        format!("define h{n}(x) = h{}(x) + h{}(x)\n", n + 1, n + 1)
    });
    let helpers = format!("{}{doubled}define h60(x) = x\n", word("h0(1)"));
    let language = Language::load(&SourceText::new("own.quillon", helpers))
        .value
        .unwrap();
    let program = SourceText::new("program", "w");
    let compiled = language.compiled(&program, Around::Nothing, Reading::Program);
    assert_eq!(compiled.diagnostics[0].code.0, "definition.limit");
}

#[test]
fn texts_that_can_be_read_in_ever_more_ways_are_left() {
    let pairs = "form One in S\n  written  \"a\"\nform Two in S\n  written  x:S y:S\n\
        form Three in S\n  written  x:S y:S z:S\n";
    let definition = format!("language Own\n\ntokens\n  Blank  [ \\n]+  ignored\n\n{pairs}");
    let language = Language::load(&SourceText::new("own.quillon", definition))
        .value
        .unwrap();
    for count in [3, 60, 3000] {
        let text = SourceText::new("program", "a ".repeat(count));
        let outcome = language.tree(&text, Reading::Program);
        let said = &outcome.diagnostics[0];
        assert_eq!(said.code.0, "syntax.ambiguous");
        assert!(
            said.message.contains("two ways"),
            "{count}: {}",
            said.message
        );
    }
}

#[test]
fn a_program_that_fails_may_be_loaded_again() {
    let language = quay();
    let text = "fun bring() { let v = 0; try { v := load \"m\" } mend e { v := e }; give v }; \
                [bring(), fn () { bring() }(), bring()]";
    for engine in [Engine::Machine, Engine::Walk] {
        let mut host = Beside(SourceText::new("m", "fun f(n) { raise n }; f(7)"));
        let mut session = language.session().engine(engine).start(&mut host).unwrap();
        let outcome = session.run_source(&SourceText::new("program", text), Reading::Program);
        let value = outcome.value.map(|value| value.written());
        // Quay gives the kind of what was raised.
        let raised = r#"["integer", "integer", "integer"]"#;
        assert_eq!(value.as_deref(), Some(raised), "{engine:?}");
    }
}
