//! Walks back from checkpoints: they find just what a run from the beginning finds.

use quillon_core::debugging::{At, Faults, Order, Pace, StopAt, Stopped, walk};
use quillon_core::runtime::{Amount, Caller, Host, HostError, Limits, Recorder, TooLarge};
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use quillon_core::{Language, Reading};

use crate::common;
use crate::walks::{ON, Script, variables};

/// Everything that can be under way: loops over lists, maps and coroutines, sorts that ask, cleanups, tail
/// calls, shared variables, cells, dynamic variables, chance, input, and failures that are caught.
pub const HOLDS: &str = r#"
precedence of Expr, loosest first
  none Below
  left Add
  suffix Call, Item, Field
usual Program, Let, Add, Words, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Way in Expr
  written  "way" "(" params:Name* by "," ")" "{" steps:Step* by ";" "}"
  opens    scope
  binds    params in steps
  means    function (params) { all steps }
form Change in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form Each in Step
  written  "each" name:Name "in" items:Expr "{" steps:Step* by ";" "}"
  binds    name in steps
  means    each item in items { with name = item { all steps } }
form Count in Step
  written  "count" value:Expr
  means    counted := counted + value
form Say in Step
  written  "say" value:Expr
  means    output(shown(value), "\n")
form Fail in Step
  written  "fail" value:Expr
  means    raise value
form Try in Step
  written  "try" "{" steps:Step* by ";" "}" "else" other:Step "at" "last" last:Step
  means    attempt { attempt { all steps } rescue e { other } } always { last }
form Put in Step
  written  "put" value:Expr "into" target:Expr "at" place:Expr
  means    list.put(target, place, value)
form Keep in Step
  written  "keep" value:Expr "in" target:Expr
  means    list.add(target, value)
form Named in Step
  written  "name" key:Words "of" target:Expr "is" value:Expr
  means    map.put(target, key, value)
form Yield in Expr
  written  "yield" value:Expr
  means    coroutine.suspend(value)
form Below in Expr
  written  left:Expr "<" right:Expr
  means    left < right
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form List in Expr
  written  "[" items:Expr* by "," "]"
  means    [items]
form Map in Expr
  written  "map"
  means    map.new()
form Item in Expr
  written  items:Expr "." place:Number
  means    list.at(items, place)
form Field in Expr
  written  target:Expr "@" key:Words
  means    map.get(target, key)
form Stream in Expr
  written  "stream" body:Expr
  means    coroutine.make(body)
form Next in Expr
  written  "next" stream:Expr
  means    coroutine.resume(stream, 0)
form Sorted in Expr
  written  "sorted" items:Expr "by" test:Expr
  means    list.sort_by(items, function (a, b) { call test with a, b })
form Chance in Expr
  written  "chance" most:Expr
  means    random.integer(1, most)
form Ask in Expr
  written  "ask"
  means    input()
state
  counted = 0
"#;

const EVERYTHING: &str = "let total = 0;
let kept = [3, 1, 2];
let named = map;
name \"first\" of named is kept;
let add = way (n) { total := total + n; keep n in kept; total };
let flow = stream way () { let inner = [7]; yield 1; keep 8 in inner; yield inner; yield 3 };
each n in [1, 2, 3] {
  add(n);
  count n;
  let m = chance 100;
  say next flow
};
say sorted kept by way (a, b) { count 1; a < b };
try { let line = ask; say line; each k in kept { add(k); fail k } } else say \"mended\" at last count 100;
let down = way (n, self) { try { n < 1; self(n + 1, self) } else total := total + 1 at last total := total + 1 };
let deep = way (n, self) { try { fail n } else count n at last say ask; n };
deep(4, deep);
each x in stream way () { yield total; count 5; yield kept } { say x };
say named @ \"first\";
say total";

fn holds() -> Language {
    common::with_tokens(HOLDS)
}

/// The moment, the calls with what they hold, and what has been printed.
pub fn everything(at: &mut Stopped<'_, '_, '_>) -> String {
    let calls: Vec<String> = (0..at.calls().len())
        .map(|call| {
            let span = at.calls()[call].span;
            let own = at.variables(call).into_iter().chain(at.state());
            let own: Vec<String> = own
                .map(|one| format!("{}={}", one.name, one.value.written()))
                .collect();
            format!("{}-{} {}", span.start, span.end, own.join(" "))
        })
        .collect();
    format!("{} {} {}", at.moment(), calls.join(" | "), at.printed())
}

/// What is seen where orders lead, with checkpoints so far apart; and what is printed.
fn walked(apart: u64, orders: &[Order]) -> (Vec<String>, String) {
    let script = Script::new(orders.to_vec()).looking(everything);
    seen_by(script.apart(apart))
}

fn seen_by(mut script: Script) -> (Vec<String>, String) {
    let builder = holds().session().seed(7);
    let printed = script.walk_by(&builder, EVERYTHING, "one\ntwo\nthree\n");
    (script.seen, printed)
}

/// How many instructions the run has, and how it ends.
fn whole() -> (u64, String) {
    let back = Order::Backwards(Pace::Instruction);
    let (seen, _) = walked(u64::MAX, &[ON, back]);
    assert_eq!(seen[1], "ended well", "{seen:?}");
    let last = seen[2].split(' ').next().expect("a moment");
    (last.parse().expect("a moment"), seen[2].clone())
}

#[test]
fn every_moment_is_the_same_from_a_checkpoint() {
    let (last, end) = whole();
    assert!(last > 200, "{last}");
    for moment in 1..last {
        let orders = [ON, Order::To(moment), Order::To(last)];
        let (from_beginning, printed) = walked(u64::MAX, &orders);
        assert_eq!(from_beginning.last(), Some(&end));
        // The first checkpoint is made there; others of so small a run take longer than the way back does.
        for before in [0, 1, 7, 64] {
            let walked = walked(moment.saturating_sub(before).max(1), &orders);
            assert_eq!(
                walked,
                (from_beginning.clone(), printed.clone()),
                "{moment}"
            );
        }
    }
}

#[test]
fn it_can_be_gone_back_to_a_checkpoint_as_often_as_one_likes() {
    let (last, _) = whole();
    let orders: Vec<Order> = std::iter::once(ON)
        .chain((1..40).map(|step| Order::To(step * 7919 % last)))
        .chain([Pace::Form, Pace::Line, Pace::Out, Pace::IntoForm].map(Order::Backwards))
        .chain([
            Order::ToChange("counted".to_owned()),
            Order::ToBeginning,
            ON,
        ])
        .collect();
    assert_eq!(walked(5, &orders), walked(u64::MAX, &orders));
}

#[test]
fn what_has_been_changed_on_the_way_stays_so() {
    let text =
        "let n = 0;\nway up(by) { n := n + by; say n };\nround n < 60 up(1);\ncount n;\nsay n + n";
    let changing = |at: &mut Stopped<'_, '_, '_>| {
        if at.moment() == 60
            && at
                .variables(0)
                .iter()
                .all(|one| one.value.written() != "50")
        {
            at.set(0, "n", "50").expect("there is one");
        }
        everything(at)
    };
    let walked = |apart| {
        let moments = [60, 150, 90, 50, 100].map(Order::To);
        let orders = [
            vec![ON],
            moments.to_vec(),
            vec![Order::Backwards(Pace::Line), ON],
        ];
        let mut script = Script::new(orders.concat()).looking(changing).apart(apart);
        let printed = script.walk(text, "");
        (script.seen, printed)
    };
    let (seen, printed) = walked(u64::MAX);
    assert!(printed.ends_with("59\n60\n120\n"), "{printed}");
    assert!(seen[3].contains("n=5"), "{seen:?}");
    assert_eq!(walked(3), (seen, printed));
}

#[test]
fn how_often_a_stop_has_been_come_to_counts_from_the_beginning() {
    let text = "let n = 0;\nway up(by) { n := n + by };\nround n < 40 up(1);\nsay n";
    let walked = |apart| {
        let orders = [
            ON,
            ON,
            ON,
            Order::Backwards(Pace::Stop),
            Order::Backwards(Pace::Stop),
            ON,
            ON,
        ];
        let mut script = Script::new(orders).looking(variables).apart(apart);
        let counted = StopAt {
            skips: 20,
            ..StopAt::new(At::Function("up".to_owned()))
        };
        script.stops.all.push(counted);
        script.walk(text, "");
        script.seen
    };
    let seen = walked(u64::MAX);
    assert!(
        seen[1].contains("^n=20") && seen[3].contains("^n=22"),
        "{seen:?}"
    );
    assert!(
        seen[4].contains("^n=21") && seen[7].contains("^n=22"),
        "{seen:?}"
    );
    assert_eq!(walked(10), seen);
}

#[test]
fn where_a_variable_was_changed_is_found_from_a_checkpoint() {
    let text = "let n = 0;\nlet m = 0;\nround n < 300 n := n + 1;\nm := 1;\nround n < 900 n := n + 1;\nsay n";
    let walked = |apart| {
        let orders = [
            ON,
            Order::ToChange("m".to_owned()),
            Order::ToChange("n".to_owned()),
            ON,
        ];
        let mut script = Script::new(orders).looking(everything).apart(apart);
        script.walk(text, "");
        script.seen
    };
    assert_eq!(walked(50), walked(u64::MAX));
}

#[test]
fn a_run_that_is_led_has_all_the_room_that_it_has_alone() {
    let language = holds();
    let eight = "[1, 2, 3, 4, 5, 6, 7, 8]";
    let text = format!(
        "let big = [];\neach n in {eight} {{ each m in {eight} {{ each k in {eight} {{ keep {eight} in big }} }} }};\nsay 1"
    );
    let mut ends = Vec::new();
    for memory in (1..24).map(|part| part * 8 * 1024) {
        let walked = |apart| {
            let limits = Limits {
                memory: Some(memory),
                ..Limits::default()
            };
            let mut script = Script::new([ON, Order::Backwards(Pace::Instruction), ON])
                .looking(everything)
                .apart(apart);
            script.walk_by(&language.session().limits(limits), &text, "");
            script.seen.swap_remove(1)
        };
        ends.push(walked(u64::MAX));
        assert_eq!(ends.last(), Some(&walked(2)), "{memory}");
    }
    let is_well = |end: &String| end == "ended well";
    assert!(
        !is_well(&ends[0]) && ends.last().is_some_and(is_well),
        "{ends:?}"
    );
}

#[test]
fn failures_are_gone_back_from() {
    let text =
        "let n = 0;\nround n < 50 n := n + 1;\ntry { fail n } else n := n + 100;\nsay n + \"x\"";
    let walked = |apart| {
        let back = Order::Backwards(Pace::Line);
        let orders = [
            ON,
            back.clone(),
            back.clone(),
            ON,
            back.clone(),
            Order::To(30),
            ON,
            ON,
        ];
        let mut script = Script::new(orders).looking(everything).apart(apart);
        script.stops.faults = Faults {
            raised: true,
            uncaught: true,
        };
        script.walk(text, "");
        script.seen
    };
    let seen = walked(u64::MAX);
    assert!(
        seen.iter().any(|one| one.contains("caught true")),
        "{seen:?}"
    );
    assert!(
        seen.iter().any(|one| one.contains("caught false")),
        "{seen:?}"
    );
    assert_eq!(walked(4), seen);
}

/// Has what it is given called.
struct Calling(Recorder);

impl Host for Calling {
    fn output(&mut self, text: &str) {
        self.0.output(text);
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.0.input(amount, most)
    }

    fn call(
        &mut self,
        _name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        let function = values.first().and_then(Held::as_function);
        let function = function.ok_or("there is nothing to call")?;
        Ok(caller.call(&function, (), self)?)
    }
}

#[test]
fn what_a_host_calls_back_frees_nothing_of_a_checkpoint() {
    let host = "form Host in Expr\n  written \"host\" value:Expr\n  means host.call(\"f\", value)\nstate\n";
    let language = common::with_tokens(&HOLDS.replace("state\n", host));
    let row = format!("{:?}", (0..60).collect::<Vec<_>>());
    let text = format!(
        "let row = {row};
let kept = [];
each a in row {{ each b in row {{ keep [a, [b]] in kept }} }};
let fill = way () {{ each a in row {{ each b in row {{ each c in row {{ [[a], [b, c], [a, b, c]] }} }} }}; 1 }};
say kept.7;
say host fill;
say kept.7"
    );
    let walked = |apart, orders: [Order; 4]| {
        let mut script = Script::new(orders)
            .stop(At::Line("lift".to_owned(), 7))
            .looking(everything)
            .apart(apart);
        let mut host = Calling(Recorder::default());
        let source = SourceText::new("lift", &text);
        let builder = language.session();
        walk(&builder, &source, Reading::Program, &mut host, &mut script);
        (script.seen, host.0.printed)
    };
    let (seen, printed) = walked(u64::MAX, [ON, Order::Backwards(Pace::Line), ON, ON]);
    assert_eq!(printed, "[0, [7]]\n1\n[0, [7]]\n");
    // Straight back to before the host was called, from a checkpoint a little before that.
    let before = seen[2].split(' ').next().expect("a moment");
    let before: u64 = before.parse().expect("a moment");
    assert_eq!(
        walked(before - 4, [ON, Order::To(before), ON, ON]),
        (seen, printed)
    );
}
