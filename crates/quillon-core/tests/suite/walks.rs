//! Walking through runs, forwards and backwards.

use quillon_core::debugging::{
    At, Faults, Guide, Order, Pace, Reason, StopAt, Stopped, Stops, lines as lines_to_stop_at, walk,
};
use quillon_core::diagnostic::Outcome;
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use quillon_core::{Language, Reading, SessionBuilder};

use crate::common;

/// Functions, loops, cells and failures, a statement a line.
pub const LIFTS: &str = r#"
precedence of Expr, loosest first
  none Below
  left Add
  suffix Call
usual Program, Let, Add, Words, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Way in Step
  written  "way" name:Name "(" params:Name* by "," ")" "{" steps:Step* by ";" "}"
  opens    scope
  binds    name throughout
  binds    params in steps
  means    name := function (params) { all steps }
form Change in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form While in Step
  written  "while" test:Expr "{" steps:Step* by ";" "}"
  means    while test { all steps }
form Round in Step
  written  "round" test:Expr body:Step
  means    while test { body }
form Block in Step
  written  "begin" steps:Step* by ";" "end"
  opens    scope
  means    all steps
form Count in Step
  written  "count" value:Expr
  means    counted := counted + value
form Say in Step
  written  "say" value:Expr
  means    output(value, "\n")
form Ask in Expr
  written  "ask"
  means    input()
form Fail in Step
  written  "fail" value:Expr
  means    raise value
form Try in Step
  written  "try" "{" steps:Step* by ";" "}" "else" other:Step
  means    attempt { all steps } rescue e { other }
form Below in Expr
  written  left:Expr "<" right:Expr
  means    left < right
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
state
  counted = 0
"#;

/// A language of just those.
pub fn lifts() -> Language {
    common::with_tokens(LIFTS)
}

/// Does what is written down, and notes what it sees.
pub struct Script {
    pub stops: Stops,
    orders: Vec<Order>,
    pub seen: Vec<String>,
    looks: fn(&mut Stopped<'_, '_, '_>) -> String,
    /// How far apart checkpoints are.
    pub apart: u64,
}

/// The line and the text under way, and how deep that is.
pub fn place(at: &mut Stopped<'_, '_, '_>) -> String {
    let calls = at.calls();
    let call = &calls[0];
    let line = call.source.line_of(call.span.start);
    format!(
        "{}:{line} {}",
        calls.len(),
        call.source
            .slice(call.span)
            .lines()
            .next()
            .unwrap_or_default()
    )
}

impl Script {
    pub fn new(orders: impl IntoIterator<Item = Order>) -> Script {
        let mut orders: Vec<Order> = orders.into_iter().collect();
        orders.reverse();
        Script {
            stops: Stops::default(),
            orders,
            seen: Vec::new(),
            looks: place,
            apart: u64::MAX,
        }
    }

    pub fn stop(mut self, at: At) -> Script {
        self.stops.all.push(StopAt::new(at));
        self
    }

    /// With checkpoints so far apart.
    pub fn apart(self, apart: u64) -> Script {
        Script { apart, ..self }
    }

    pub fn looking(self, looks: fn(&mut Stopped<'_, '_, '_>) -> String) -> Script {
        Script { looks, ..self }
    }

    /// Walks through a program; what was seen, and what it printed.
    pub fn walk(&mut self, text: &str, input: &str) -> String {
        self.walk_in(&lifts(), text, input)
    }

    /// The same in a language.
    pub fn walk_in(&mut self, language: &Language, text: &str, input: &str) -> String {
        self.walk_by(&language.session(), text, input)
    }

    /// The same in sessions that a builder makes.
    pub fn walk_by(&mut self, builder: &SessionBuilder, text: &str, input: &str) -> String {
        let source = SourceText::new("lift", text);
        let mut host = Recorder {
            input: input.to_owned(),
            ..Recorder::default()
        };
        walk(builder, &source, Reading::Program, &mut host, self);
        host.printed
    }
}

impl Guide for Script {
    fn stops(&self) -> &Stops {
        &self.stops
    }

    fn checkpoints_apart(&self) -> u64 {
        self.apart
    }

    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order {
        let why = match at.reason().clone() {
            Reason::Beginning => "begins".to_owned(),
            Reason::Went | Reason::Asked => String::new(),
            Reason::Stop(number) => format!("stop {number}"),
            Reason::Fault { error, is_caught } => format!("{} caught {is_caught}", error.message),
            Reason::Condition(number, error) => format!("{number} {}", error.message),
        };
        let looked = (self.looks)(at);
        self.seen
            .push(format!("{looked} {why}").trim_end().to_owned());
        self.orders.pop().unwrap_or(Order::End)
    }

    fn logged(&mut self, text: &str) {
        self.seen.push(format!("log {text}"));
    }

    fn ended(&mut self, outcome: &Outcome<Held>) -> Order {
        let how = outcome
            .diagnostics
            .first()
            .map_or("well", |one| &one.message);
        self.seen.push(format!("ended {how}"));
        self.orders.pop().unwrap_or(Order::End)
    }
}

const LINE: Order = Order::Forwards(Pace::Line);
const INTO: Order = Order::Forwards(Pace::IntoLine);
pub const ON: Order = Order::Forwards(Pace::Stop);
const BACK: Order = Order::Backwards(Pace::Line);

pub const PROGRAM: &str = "let a = 1;
way raised(n) {
  let more = n + 1;
  more + a
};
let b = raised(2);
say b;
a := 5;
say raised(b)";

/// The numbers of the lines seen.
pub fn lines(script: &Script) -> Vec<&str> {
    let lines = script.seen.iter();
    lines
        .map(|one| one.split(' ').next().unwrap_or_default())
        .collect()
}

#[test]
fn a_run_is_walked_line_by_line_over_calls() {
    let mut script = Script::new(std::iter::repeat_n(LINE, 12));
    assert_eq!(script.walk(PROGRAM, ""), "4\n10\n");
    assert_eq!(
        lines(&script),
        ["1:1", "1:2", "1:6", "1:7", "1:8", "1:9", "ended"]
    );
}

#[test]
fn a_run_is_walked_into_calls_and_out_of_them() {
    let orders = [LINE, LINE, INTO, LINE, Order::Forwards(Pace::Out), LINE];
    let mut script = Script::new(orders);
    script.walk(PROGRAM, "");
    assert_eq!(
        lines(&script)[1..],
        ["1:2", "1:6", "2:3", "2:4", "1:7", "1:8"]
    );
}

#[test]
fn a_run_stops_where_it_is_told_to() {
    let mut script = Script::new(std::iter::repeat_n(ON, 9))
        .stop(At::Line("lift".to_owned(), 3))
        .stop(At::Function("raised".to_owned()))
        .stop(At::Place("lift".to_owned(), 9, 5));
    script.walk(PROGRAM, "");
    assert_eq!(
        script.seen[1..],
        [
            "2:3 n + 1 stop 0",
            "1:9 raised(b) stop 2",
            "2:3 n + 1 stop 0",
            "ended well"
        ]
    );
}

#[test]
fn a_walk_back_finds_every_line_again() {
    let orders = [vec![ON], vec![BACK; 5], vec![ON, Order::End]].concat();
    let mut script = Script::new(orders).stop(At::Line("lift".to_owned(), 9));
    // What is printed is printed once.
    assert_eq!(script.walk(PROGRAM, ""), "4\n");
    assert_eq!(
        lines(&script)[1..],
        ["1:9", "1:8", "1:7", "1:6", "1:2", "1:1", "1:9"]
    );
}

/// The variables of the innermost call.
pub fn variables(at: &mut Stopped<'_, '_, '_>) -> String {
    let own = at.variables(0).into_iter().chain(at.state());
    let shown: Vec<String> = own
        .map(|one| {
            let mark = if one.is_captured { "^" } else { "" };
            format!("{mark}{}={}", one.name, one.value.written())
        })
        .collect();
    shown.join(" ")
}

#[test]
fn variables_and_cells_are_seen_where_a_run_stands() {
    let mut script =
        Script::new([LINE, LINE, INTO, LINE, Order::Forwards(Pace::Out), LINE]).looking(variables);
    script.walk(&PROGRAM.replace("say b;", "count b;"), "");
    let seen: Vec<&str> = script.seen.iter().map(String::as_str).collect();
    assert_eq!(seen[0], "counted=0 begins");
    assert!(
        seen[3].contains("n=2") && seen[3].contains("^a=1"),
        "{seen:?}"
    );
    assert!(seen[4].contains("more=3"), "{seen:?}");
    assert!(
        seen[6].contains("b=4") && seen[6].contains("counted=4"),
        "{seen:?}"
    );
}

#[test]
fn a_text_is_worked_out_where_a_run_stands_and_changes_nothing() {
    let mut script = Script::new([ON, LINE])
        .stop(At::Line("lift".to_owned(), 4))
        .looking(|at| {
            let here = at
                .evaluate(0, "raised(n + 10) + more")
                .map(|answer| answer.value.written());
            let around = at.evaluate(1, "a + 1").map(|answer| answer.value.written());
            let wrong = at.evaluate(1, "more").map(|answer| answer.value.written());
            let wrong = wrong.map_err(|all| all.to_string().lines().next().map(str::to_owned));
            format!("{here:?} {around:?} {}", wrong.is_err())
        });
    script.walk(PROGRAM, "");
    assert_eq!(script.seen[1], "Ok(\"17\") Ok(\"2\") true stop 0");
}

#[test]
fn a_text_that_never_comes_to_anything_is_given_up() {
    let endless = |at: &mut Stopped<'_, '_, '_>| match at.evaluate(0, "raised(1)") {
        Ok(answer) => answer.value.written(),
        Err(problems) => Vec::from(problems)[0].code.0.to_owned(),
    };
    let text = "way raised(n) {
  while 0 < 1 { n := n }
};
say 1";
    let mut script = Script::new([LINE]).looking(endless);
    script.walk(text, "");
    assert_eq!(script.seen[1], "run.steps");
}

#[test]
fn a_variable_is_given_another_value() {
    let mut script = Script::new([ON, ON])
        .stop(At::Line("lift".to_owned(), 4))
        .looking(|at| {
            let own = at.set(0, "more", "more + 40").map(|value| value.written());
            let shared = at.set(0, "a", "100").map(|value| value.written());
            let cell = at.set(0, "counted", "7").map(|value| value.written());
            let none = at.set(0, "nobody", "7").is_err();
            format!("{own:?} {shared:?} {cell:?} {none}")
        });
    let text = "way raised(n) {\n  let a = 0; let more = n + 1;\n  let f = 1;\n  say more + a\n};\nraised(2); count 1; say 5";
    let printed = script.walk(text, "");
    assert_eq!(printed, "143\n5\n", "{:?}", script.seen);
    assert_eq!(
        script.seen[1],
        "Ok(\"43\") Ok(\"100\") Ok(\"7\") true stop 0"
    );
}

/// A loop of five turns.
const LOOP: &str = "let i = 0;
while i < 5 {
  i := i + 1;
  say i
}";

#[test]
fn stops_have_conditions_and_are_skipped_and_say_something() {
    let mut script = Script::new(std::iter::repeat_n(ON, 9))
        .stop(At::Line("lift".to_owned(), 4))
        .stop(At::Line("lift".to_owned(), 4))
        .looking(variables);
    script.stops.all[0].condition = Some("3 < i".to_owned());
    script.stops.all[1].log = Some("turn {i} of {i + }".to_owned());
    script.stops.all[1].skips = 2;
    script.walk(LOOP, "");
    let seen: Vec<&str> = script
        .seen
        .iter()
        .map(|one| one.split(" <").next().unwrap())
        .collect();
    assert_eq!(
        seen[1..4],
        [
            "log turn 3 of",
            "i=4 counted=0 stop 0",
            "i=5 counted=0 stop 0"
        ]
    );
    let mut script = Script::new([ON]).stop(At::Line("lift".to_owned(), 4));
    script.stops.all[0].condition = Some("nobody".to_owned());
    script.walk(LOOP, "");
    assert!(
        script.seen[1].contains("0 there is no binding called `nobody`"),
        "{:?}",
        script.seen
    );
}

#[test]
fn what_fails_stops_a_run_before_it_goes_out() {
    let text = "try {\n  fail \"ice\"\n} else say 1;\nfail \"flood\"";
    let ended = "ended this was raised and nothing caught it: flood";
    let faults = |raised: bool, uncaught: bool| {
        let mut script = Script::new(std::iter::repeat_n(ON, 9));
        script.stops.faults = Faults { raised, uncaught };
        script.walk(text, "");
        script.seen.split_off(1)
    };
    let caught = "1:2 fail \"ice\" this is raised: \"ice\" caught true";
    let uncaught = "1:4 fail \"flood\" this was raised and nothing caught it: flood caught false";
    assert_eq!(faults(true, false), [caught, uncaught, ended]);
    assert_eq!(faults(false, true), [uncaught, ended]);
    assert_eq!(faults(false, false), [ended]);
}

#[test]
fn the_end_is_no_end_for_a_walk_back() {
    let orders = [
        ON,
        Order::Backwards(Pace::Stop),
        Order::Backwards(Pace::Stop),
        Order::ToBeginning,
        ON,
    ];
    let mut script = Script::new(orders)
        .stop(At::Line("lift".to_owned(), 4))
        .looking(variables);
    script.walk(LOOP, "");
    // From the first stop on, back and forth.
    let i: Vec<&str> = script
        .seen
        .iter()
        .map(|one| one.split(' ').next().unwrap())
        .collect();
    assert_eq!(
        i,
        [
            "counted=0",
            "i=1",
            "counted=0",
            "counted=0",
            "counted=0",
            "i=1"
        ]
    );
    let orders = [ON, ON, ON, ON, ON, ON, BACK, Order::Backwards(Pace::Stop)];
    let mut script = Script::new(orders)
        .stop(At::Line("lift".to_owned(), 4))
        .looking(variables);
    script.walk(LOOP, "");
    let after: Vec<&str> = script.seen[6..].iter().map(String::as_str).collect();
    assert_eq!(after[0], "ended well");
    assert!(
        after[1].starts_with("i=5") && after[2].starts_with("i=5") && after[2].ends_with("stop 0"),
        "{after:?}"
    );
}

#[test]
fn a_value_is_followed_back_to_where_it_comes_from() {
    let text = "let far = 1;\nlet b = far + 1;\nlet c = 2;\nb := b + c;\nsay c;\ncount b;\nsay b";
    let orders = [
        ON,
        Order::ToChange("b".to_owned()),
        Order::ToChange("b".to_owned()),
        ON,
        Order::ToChange("counted".to_owned()),
    ];
    let mut script = Script::new(orders).stop(At::Line("lift".to_owned(), 7));
    script.walk(text, "");
    assert_eq!(lines(&script)[1..], ["1:7", "1:4", "1:2", "1:7", "1:6"]);
}

#[test]
fn what_comes_from_outside_comes_again() {
    let text = "let a = ask;\nlet b = ask;\nsay a;\nsay b";
    let orders = [ON, BACK, BACK, BACK, ON, Order::Forwards(Pace::Stop)];
    let mut script = Script::new(orders)
        .stop(At::Line("lift".to_owned(), 4))
        .looking(variables);
    assert_eq!(script.walk(text, "one\ntwo\n"), "one\ntwo\n");
    let last = &script.seen[script.seen.len() - 2];
    assert!(
        last.contains("a=\"one\"") && last.contains("b=\"two\""),
        "{last}"
    );
}

#[test]
fn forms_and_instructions_are_walked_one_by_one() {
    let text = "let a = 1 + 2;\nsay a + 3";
    let mut script = Script::new(std::iter::repeat_n(Order::Forwards(Pace::IntoForm), 9));
    script.walk(text, "");
    assert!(
        script.seen.iter().any(|one| one.starts_with("1:2 a + 3")),
        "{:?}",
        script.seen
    );
    let mut script = Script::new(std::iter::repeat_n(Order::Forwards(Pace::Instruction), 99))
        .looking(|at| at.moment().to_string());
    script.walk(text, "");
    let count = script.seen.len() - 1;
    let moments: Vec<String> = (1..count).map(|one| one.to_string()).collect();
    assert_eq!(script.seen[1..count], moments);
    let back = [
        Order::To(3),
        Order::Backwards(Pace::Instruction),
        Order::To(1),
        Order::To(4),
    ];
    let mut script = Script::new(back).looking(|at| at.moment().to_string());
    script.walk(text, "");
    assert_eq!(script.seen[1..], ["3", "2", "1", "4"]);
}

#[test]
fn variables_are_seen_from_where_they_hold_something() {
    let text = "way made(n) {\n  let first = n;\n  let i = 0;\n  while i < 2 {\n    let turn = i;\n    i := i + 1\n  };\n  let last = n + i;\n  say last\n};\nmade(5); made(6)";
    let orders = std::iter::repeat_n(ON, 20);
    let mut script = Script::new(orders).looking(|at| {
        let own = at.variables(0).into_iter().filter(|one| !one.is_captured);
        own.map(|one| one.name).collect::<Vec<_>>().join(" ")
    });
    for line in [2, 4, 6, 8, 9] {
        script = script.stop(At::Line("lift".to_owned(), line));
    }
    script.walk(text, "");
    let seen: Vec<Vec<&str>> = script
        .seen
        .iter()
        .map(|one| one.split(" stop").next().unwrap().split(' ').collect())
        .collect();
    let has = |at: usize, name: &str| seen[at].contains(&name);
    assert!(
        has(1, "n") && !has(1, "first") && !has(1, "last"),
        "{seen:?}"
    );
    assert!(
        has(2, "first") && has(2, "i") && !has(2, "last"),
        "{seen:?}"
    );
    assert!(has(3, "turn") && !has(3, "last"), "{seen:?}");
}

/// A run of some hundred thousand instructions: what lies far back is found, too.
#[test]
fn a_variable_of_a_loop_is_another_one_each_time() {
    let text = "let i = 0;
round i < 3 begin
  i := i + 1;
  let later = i + 10;
  say later
end";
    let mut script = Script::new(std::iter::repeat_n(ON, 9))
        .stop(At::Line("lift".to_owned(), 3))
        .looking(variables);
    script.walk(text, "");
    let told = script.seen.iter().any(|one| one.contains("later"));
    assert!(!told, "{:?}", script.seen);
}

#[test]
fn what_lies_far_back_is_found() {
    let text = "let far = 1;
way idle(n) {
  let i = 0;
  while i < n { i := i + 1 };
  i
};
far := 2;
idle(30000); idle(30000);
say far";
    let orders = [
        ON,
        BACK,
        BACK,
        Order::ToChange("far".to_owned()),
        ON,
        Order::Backwards(Pace::IntoLine),
        Order::Backwards(Pace::Out),
    ];
    let mut script = Script::new(orders).stop(At::Line("lift".to_owned(), 9));
    script.walk(text, "");
    assert_eq!(lines(&script)[1..4], ["1:9", "1:8", "1:7"]);
    assert_eq!(
        lines(&script)[4],
        "1:1",
        "before the change it was set first"
    );
    assert_eq!(lines(&script)[5..], ["1:9", "2:5", "1:8"]);
}

/// Calls deep inside each other: no step back takes longer for them.
#[test]
fn a_walk_back_out_of_deep_calls_ends() {
    let deep = "way down(n) {\n  while n < 5000 { n := down(n + 1) };\n  n\n};\nlet low = down(0);\nsay low";
    let orders = [
        ON,
        Order::Backwards(Pace::IntoLine),
        Order::Backwards(Pace::Out),
        BACK,
    ];
    let mut script = Script::new(orders).stop(At::Line("lift".to_owned(), 6));
    script.walk(deep, "");
    assert_eq!(script.seen.len(), 5, "{:?}", script.seen);
}

#[test]
fn a_name_that_always_holds_the_same_has_a_line_to_stop_at() {
    let text = "let a = 1;\nlet b = 2;\n\nsay a";
    let source = SourceText::new("lift", text);
    let found = lines_to_stop_at(
        &lifts().session(),
        &source,
        Reading::Program,
        Around::Nothing,
    );
    assert_eq!(found.into_iter().collect::<Vec<u32>>(), [1, 2, 4]);
    let mut script = Script::new([ON]).stop(At::Line("lift".to_owned(), 2));
    script.walk(text, "");
    assert_eq!(lines(&script)[1..], ["1:2"]);
}

#[test]
fn a_failure_that_is_come_back_to_is_met_once() {
    let text = "let a = 1;\ntry {\n  fail \"ice\"\n} else say a;\nsay 2";
    let orders = [ON, ON, Order::Backwards(Pace::Stop), ON, ON];
    let mut script = Script::new(orders).stop(At::Line("lift".to_owned(), 5));
    script.stops.faults.raised = true;
    script.walk(text, "");
    let ice = "1:3 fail \"ice\" this is raised: \"ice\" caught true";
    assert_eq!(script.seen[1], ice);
    assert_eq!(script.seen[3], ice, "{:?}", script.seen);
    assert!(script.seen[4].starts_with("1:5"), "{:?}", script.seen);
}

#[test]
fn how_often_a_stop_was_come_to_is_known_after_a_walk_back() {
    let orders = [ON, BACK, ON];
    let mut script = Script::new(orders)
        .stop(At::Line("lift".to_owned(), 4))
        .looking(variables);
    script.stops.all[0].skips = 2;
    script.walk(LOOP, "");
    let i: Vec<&str> = script.seen[1..]
        .iter()
        .map(|one| one.split(' ').next().unwrap())
        .collect();
    assert_eq!(i[0], "i=3");
    assert_eq!(i[2], "i=3", "{:?}", script.seen);
}

/// More names than there are registers: the run is led all the same.
#[test]
fn a_program_of_very_many_names_is_walked() {
    let mut text = String::new();
    for n in 0..40_000 {
        text += &format!("let x{n} = {n};\n");
    }
    text += "say x39999;\nsay 1";
    let mut script = Script::new([ON, BACK]).stop(At::Line("lift".to_owned(), 40_002));
    script.walk(&text, "");
    assert_eq!(lines(&script)[1..], ["1:40002", "1:40001"]);
}
