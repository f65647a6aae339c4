//! What the compiler makes of Core, and how the machine and its heap behave.

use crate::common::{self, with_tokens};
use crate::walks::LIFTS;
use quillon_core::profiling::profile;
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading};

const TOWPATH: &str = include_str!("../../../../languages/towpath/towpath.quillon");

fn towpath() -> Language {
    let source = SourceText::new("towpath.quillon", TOWPATH);
    Language::load(&source).value.expect("the demo is right")
}

/// How many instructions a program takes.
fn instructions(language: &Language, program: &str) -> u64 {
    let mut host = Recorder::default();
    let mut session = language
        .session()
        .counted()
        .start(&mut host)
        .expect("a session");
    let source = SourceText::new("program", program);
    let outcome = profile(&mut session, &source, Reading::Program);
    assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
    outcome.value.expect("a profile").instructions
}

/// How many instructions more a program takes for each turn or call more.
fn each(language: &Language, program: impl Fn(u32) -> String) -> f64 {
    let of = |count| instructions(language, &program(count)) as f64;
    (of(3000) - of(1000)) / 2000.0
}

#[test]
fn an_empty_turn_takes_two_instructions_and_a_call_three() {
    let language = towpath();
    let turn = each(&language, |n| format!("count boat from 1 to {n} {{ }}"));
    assert!(turn <= 2.0, "{turn}");
    let with_call = each(&language, |n| {
        format!("way f(a) {{ answer a }} count boat from 1 to {n} {{ do f(boat) }}")
    });
    assert!(with_call - turn <= 3.0, "{with_call}");
    // An item of a list is one instruction, though the meaning asks for kinds.
    let with_item = each(&language, |n| {
        format!("let l be [1] let i be 0 change i to 1 count boat from 1 to {n} {{ do l#i }}")
    });
    assert!(with_item - turn <= 1.0, "{with_item}");
}

/// A language whose meanings demand kinds, and name a key before it is looked up.
#[test]
fn a_kind_that_is_demanded_is_one_jump_and_a_named_key_is_none() {
    let more = r#"
form Boat in Expr
  written  "boat"
  means    map.of("tons", 4)
form Sure in Step
  written  "sure" value:Expr
  means    demand value fits map of any
form Level in Step
  written  "level" value:Expr
  means    demand value fits number
form Part in Expr
  written  "part" name:Name "of" value:Expr
  means    let key = spelling of name; let map = value; map.get(map, key)
"#;
    let language = with_tokens(&LIFTS.replace("state\n", &format!("{more}state\n")));
    let turns = |step: &'static str| {
        each(&language, move |n| {
            format!("let b = boat; let i = 0; while i < {n} {{ {step} i := i + 1 }}")
        })
    };
    let empty = turns("");
    assert!(turns("sure b;") - empty <= 1.0);
    assert!(turns("level i;") - empty <= 2.0);
    assert!(turns("part tons of b;") - empty <= 1.0);
}

/// As users get it, each handler jumps to the next. If only one of these kept something on the native
/// stack, a million turns would be far more than a thread of a megabyte has.
#[test]
fn instructions_take_no_native_stack() {
    let program = r#"
        way f(a) { answer a + 1 }
        let all be [1] let card be [name: "Heron", length: 12] let i be 0 let text be ""
        count boat from 1 to 1000000 {
            change i to f(boat) % 7
            change all#1 to all#1 + i * 2 - boat / 4
            change card.length to card.length + 1.5
            when i < 3 and card.length > 2 or i = 6 { change text to "low" }
        }
        say card.name
    "#;
    let thread = std::thread::Builder::new()
        .stack_size(1 << 20)
        .spawn(move || {
            let mut host = Recorder::default();
            let session = towpath().session().start(&mut host);
            let source = SourceText::new("program", program);
            let outcome = session.unwrap().run_source(&source, Reading::Program);
            assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
            assert_eq!(host.printed, "Heron\n");
        });
    thread.unwrap().join().unwrap();
}

#[test]
fn what_is_worked_out_beforehand_keeps_its_errors() {
    let language = towpath();
    for (program, wanted) in [
        ("say 1 + 2 * 3", "7\n"),
        (
            "say 9223372036854775807 + 1",
            "1:5 9223372036854775807 + 1 is too large for an integer",
        ),
        (
            "say 1 / 0",
            "1:9 this is zero, and nothing can be divided by zero",
        ),
        (
            "say yes and 3",
            "1:13 a truth value is needed here, and this is an integer: 3",
        ),
        (
            "say 1 + \"a\"",
            "1:9 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "when 1 < \"a\" { }",
            "1:10 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "say -9223372036854775807 - 2",
            "1:5 -9223372036854775807 - 2 is too large for an integer",
        ),
    ] {
        let got = common::value(&language, program);
        let got = got.strip_suffix("nothing").unwrap_or(&got);
        assert_eq!(got, wanted, "{program}");
    }
}

#[test]
fn variables_that_change_are_shared_and_others_are_not() {
    let language = towpath();
    for (program, wanted) in [
        (
            "let n be 1 let f be way () gives n change n to 2 answer f()",
            "2",
        ),
        (
            "let n be 1 let f be way () { change n to n + 1 } do f() answer n",
            "2",
        ),
        (
            "let l be [] count i from 1 to 3 { do add(l, way gives i) } answer [l#1(), l#2(), l#3()]",
            "[1, 2, 3]",
        ),
        (
            "let f be nothing count i from 1 to 2 { let k be i when i = 1 { change f to way gives k } change k to 9 } answer f()",
            "9",
        ),
        (
            "way f(n) { let g be way () gives n change n to n + 1 answer g() } answer f(1)",
            "2",
        ),
        (
            "let a be 1 let b be a change a to 5 answer [a, b]",
            "[5, 1]",
        ),
    ] {
        assert_eq!(common::value(&language, program), wanted, "{program}");
    }
}

/// A run of a program within so much memory.
fn within(engine: Engine, program: &str, megabytes: u64) -> String {
    let language = towpath();
    let limits = Limits {
        memory: Some(megabytes << 20),
        ..Limits::default()
    };
    let mut host = Recorder::default();
    let mut session = language
        .session()
        .engine(engine)
        .limits(limits)
        .start(&mut host)
        .expect("a session");
    let source = SourceText::new("program", program);
    let outcome = session.run_source(&source, Reading::Program);
    match outcome.diagnostics.first() {
        Some(error) => error.message.clone(),
        None => host.printed,
    }
}

#[test]
fn what_nothing_leads_to_is_freed_circles_too() {
    let circles =
        "count n from 1 to 200000 { let a be [n, nothing] let b be [a] change a#2 to b } say 1";
    let cards = "let kept be [] count n from 1 to 200000 { let c be [name: \"Heron\", n: n] change c.n to c when n % 50000 = 0 { do add(kept, c) } } say length(kept)";
    for engine in [Engine::Machine, Engine::Walk] {
        assert_eq!(within(engine, circles, 24), "1\n");
        assert_eq!(within(engine, cards, 24), "4\n");
    }
}

#[test]
fn values_that_grow_without_end_are_stopped() {
    for program in [
        "let l be [] forever { do add(l, [1, 2, 3]) }",
        "let t be \"Heron\" forever { change t to t & t }",
        "way f(n) { answer 1 + f([n]) } say f(1)",
    ] {
        for engine in [Engine::Machine, Engine::Walk] {
            let said = within(engine, program, 48);
            assert!(
                said.contains("needs more than 48 MiB of memory")
                    || said.contains("grow too large"),
                "{program}: {said}"
            );
        }
    }
}

#[test]
fn functions_of_any_size_run() {
    let language = towpath();
    // Jumps farther than the short fields can say, and more constants than one can count.
    let mut long = "let n be 0\nwhile n < 2 {\n".to_owned();
    for index in 0..9000 {
        long.push_str(&format!("when n = {index}.5 {{ say \"{index}\" }}\n"));
    }
    long.push_str("change n to n + 1 }\n");
    long.push_str(
        "let sum be 0 each tons in [1, 2, 3] { change sum to sum + tons }\nanswer [n, sum]",
    );
    assert_eq!(common::value(&language, &long), "[2, 6]");
    let items: Vec<String> = (0..70_000).map(|n| format!("{n}.25")).collect();
    let list = format!("answer length([{}])", items.join(", "));
    assert_eq!(common::value(&language, &list), "70000");
    let args: Vec<String> = (0..300).map(|n| n.to_string()).collect();
    let call = format!("answer largest({})", args.join(", "));
    let mut host = Recorder::default();
    let mut session = language.session().start(&mut host).expect("a session");
    let outcome = session.run_source(&SourceText::new("program", call), Reading::Program);
    assert!(
        outcome.diagnostics[0]
            .message
            .contains("a call has more than 255 arguments")
    );
}

/// A boat that has left is nobody's, though it was the first: memory does not grow with those that have gone through.
#[test]
fn what_was_made_for_a_variable_is_kept_by_nothing_else() {
    let program = |boats: u32| {
        format!(
            "let first be [tons: 0, behind: nothing] let last be first count boat from 1 to {boats} {{ \
             let next be [tons: boat, behind: nothing] change last.behind to next change last to next \
             when boat > 20 {{ change first to first.behind }} }} say first.tons"
        )
    };
    let limits = Limits {
        memory: Some(8 << 20),
        ..Limits::default()
    };
    let mut host = Recorder::default();
    let language = towpath();
    let session = language.session().limits(limits).start(&mut host);
    let source = SourceText::new("program", program(200_000));
    let outcome = session.unwrap().run_source(&source, Reading::Program);
    assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
    assert_eq!(host.printed, "199980\n");
}
