//! Programs with a mistake each, which a walk finds: from where it shows to where it was made.

use quillon_core::debugging::{At, Faults, Order, Pace, StopAt};

use crate::walks::{ON, Script, place};

const BACK: Order = Order::Backwards(Pace::Stop);

/// A program, and how its mistake is found.
struct Mistake {
    text: &'static str,
    stops: Vec<StopAt>,
    faults: Faults,
    orders: Vec<Order>,
    /// Where the last order leads, as line and text.
    found: &'static str,
}

impl Mistake {
    fn new(
        text: &'static str,
        orders: impl IntoIterator<Item = Order>,
        found: &'static str,
    ) -> Mistake {
        Mistake {
            text,
            stops: Vec::new(),
            faults: Faults::default(),
            orders: orders.into_iter().collect(),
            found,
        }
    }

    fn stop(mut self, at: At, condition: Option<&str>) -> Mistake {
        self.stops.push(StopAt {
            condition: condition.map(str::to_owned),
            ..StopAt::new(at)
        });
        self
    }

    fn at_faults(mut self, raised: bool) -> Mistake {
        self.faults = Faults {
            raised,
            uncaught: true,
        };
        self
    }

    /// Walks, and compares where it ends up with where the mistake is.
    #[track_caller]
    fn leads_there(self) {
        let mut script = Script::new(self.orders).looking(place);
        script.stops.all = self.stops;
        script.stops.faults = self.faults;
        script.walk(self.text, "");
        let last = script.seen.last().expect("it has been somewhere");
        let at = last.split_once(':').map_or("", |(_, at)| at);
        assert!(at.starts_with(self.found), "{:#?}", script.seen);
    }
}

fn line(number: u32) -> At {
    At::Line("lift".to_owned(), number)
}

fn origin(name: &str) -> Order {
    Order::ToChange(name.to_owned())
}

#[test]
fn a_wrong_total_leads_to_the_statement_that_made_it() {
    let text = "let total = 3;\nlet boats = 4;\ntotal := boats;\nlet fee = 2;\nsay total + fee";
    Mistake::new(text, [ON, origin("total")], "3 ")
        .stop(line(5), None)
        .leads_there();
}

#[test]
fn a_sum_that_misses_the_last_turn_shows_how_far_its_loop_went() {
    let text = "let locks = 4;\nlet i = 1;\nlet passed = 0;\nwhile i < locks {\n  passed := passed + 1;\n  i := i + 1\n};\nsay passed";
    // When the last lock comes up, the loop is over: back from the end, its counter was set last here.
    Mistake::new(text, [ON, origin("i")], "6 ")
        .stop(line(8), Some("passed < locks"))
        .leads_there();
}

#[test]
fn what_fails_leads_to_where_its_operand_comes_from() {
    let text =
        "let draught = 2;\nlet note = \"deep\";\ndraught := note;\nlet low = 1;\nsay draught + low";
    Mistake::new(text, [ON, origin("draught")], "3 ")
        .at_faults(false)
        .leads_there();
}

#[test]
fn a_fault_that_is_swallowed_is_seen_where_it_is_raised() {
    let text = "let water = \"none\";\nlet level = 0;\ntry {\n  level := water + 1\n} else level := 0;\nsay level";
    Mistake::new(text, [ON], "4 ").at_faults(true).leads_there();
}

#[test]
fn a_wrong_argument_leads_to_the_call_that_passed_it() {
    let text = "way toll(tons) {\n  tons + 1\n};\nlet heron = toll(7);\nlet otter = toll(0);\nsay heron + otter";
    let out = Order::Backwards(Pace::Out);
    Mistake::new(text, [ON, out], "5 ")
        .stop(At::Function("toll".to_owned()), Some("tons < 1"))
        .leads_there();
}

#[test]
fn a_variable_that_a_function_changes_beside_its_work_is_watched() {
    let text = "let gates = 2;\nway opened(n) {\n  gates := n;\n  n + 1\n};\nlet once = opened(5);\nsay gates";
    Mistake::new(text, [ON, ON, Order::Backwards(Pace::Instruction)], "3 ")
        .stop(At::Change("gates".to_owned()), None)
        .leads_there();
}

#[test]
fn a_cell_that_counts_twice_leads_to_the_second_count() {
    let text =
        "way passes(n) {\n  count n;\n  n\n};\nlet heron = passes(1);\ncount heron;\nsay heron";
    Mistake::new(text, [ON, origin("counted")], "6 ")
        .stop(line(7), None)
        .leads_there();
}

#[test]
fn calls_without_end_are_seen_from_the_innermost_out() {
    let text = "way down(n) {\n  while n < 9 {\n    n := down(n + 0)\n  };\n  n\n};\nsay down(1)";
    // The same argument a level deeper: the call that should have come nearer to nine.
    Mistake::new(text, [ON, ON, Order::Backwards(Pace::Out)], "3 ")
        .stop(At::Function("down".to_owned()), None)
        .leads_there();
}

#[test]
fn a_loop_that_never_begins_is_walked_past() {
    let text = "let high = 9;\nlet low = 3;\nlet moved = 0;\nwhile high < low {\n  moved := moved + 1\n};\nsay moved";
    let line_on = Order::Forwards(Pace::Line);
    // From the test of the loop, a line on is the end: it has not been gone into.
    let orders = [ON, line_on.clone(), Order::Backwards(Pace::Line)];
    Mistake::new(text, orders, "4 ")
        .stop(line(4), None)
        .leads_there();
    Mistake::new(text, [ON, line_on], "7 ")
        .stop(line(4), None)
        .leads_there();
}

#[test]
fn a_name_that_is_bound_once_more_leads_to_the_inner_binding() {
    let text = "let fee = 1;\nway paid(n) {\n  let fee = n;\n  fee + n\n};\nlet whole = paid(4);\nsay whole + fee";
    Mistake::new(text, [ON, origin("fee")], "3 ")
        .stop(line(4), None)
        .leads_there();
    // Seen from outside, the name is another one.
    Mistake::new(text, [ON, origin("fee")], "1 ")
        .stop(line(7), None)
        .leads_there();
    // And a stop that lies behind is come back to.
    Mistake::new(text, [ON, ON, BACK], "4 ")
        .stop(line(4), None)
        .stop(line(7), None)
        .leads_there();
}
