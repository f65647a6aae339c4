//! Walking through runs in a terminal, with keys pressed and the screen read.

use std::fs;
use std::path::Path;
use std::time::{Duration, Instant};

use crate::common::Folder;
use crate::common::pty::{PATIENCE, Pty};

/// A walk in a terminal.
struct Walk {
    pty: Pty,
    /// Rows and columns.
    size: (u16, u16),
}

impl Walk {
    fn start(folder: &Path, size: (u16, u16), args: &[&str]) -> Walk {
        let args: Vec<&str> = std::iter::once("walk")
            .chain(args.iter().copied())
            .collect();
        Walk {
            pty: Pty::start(folder, size, &args),
            size,
        }
    }

    /// Through a program in the demo's language.
    fn through(program: &str) -> (Folder, Walk) {
        let folder = Folder::with_demo();
        fs::write(folder.path().join("day.tow"), program).unwrap();
        let mut walk = Walk::start(folder.path(), (24, 80), &["day.tow"]);
        walk.sees("at the beginning");
        (folder, walk)
    }

    fn screen(&self) -> vt100::Parser {
        let mut parser = vt100::Parser::new(self.size.0, self.size.1, 0);
        parser.process(&self.pty.written.lock().unwrap());
        parser
    }

    /// Presses keys.
    fn keys(&mut self, keys: &str) -> &mut Walk {
        self.pty.keys(keys);
        self
    }

    /// Waits until something is on the screen.
    #[track_caller]
    fn sees(&mut self, wanted: &str) -> &mut Walk {
        self.waits(wanted, true)
    }

    /// Waits until something is no longer on the screen.
    #[track_caller]
    fn sees_no(&mut self, wanted: &str) -> &mut Walk {
        self.waits(wanted, false)
    }

    #[track_caller]
    fn waits(&mut self, wanted: &str, is_there: bool) -> &mut Walk {
        let start = Instant::now();
        loop {
            let contents = self.screen().screen().contents();
            if contents.contains(wanted) == is_there {
                return self;
            }
            let not = if is_there { "does not come" } else { "stays" };
            assert!(start.elapsed() < PATIENCE, "{wanted:?} {not}:\n{contents}");
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    /// The text on the screen that stands out: what is under way.
    fn under_way(&self) -> String {
        let parser = self.screen();
        let screen = parser.screen();
        let (rows, cols) = self.size;
        let places = (0..rows).flat_map(|row| (0..cols).map(move |col| (row, col)));
        let cells = places.filter_map(|(row, col)| screen.cell(row, col));
        let marked = cells.filter(|cell| cell.inverse());
        marked.map(vt100::Cell::contents).collect()
    }

    /// Waits until this is under way.
    #[track_caller]
    fn is_at(&mut self, wanted: &str) -> &mut Walk {
        let start = Instant::now();
        while self.under_way() != wanted {
            let contents = self.screen().screen().contents();
            let under_way = self.under_way();
            assert!(
                start.elapsed() < PATIENCE,
                "{under_way:?}, not {wanted:?}:\n{contents}"
            );
            std::thread::sleep(Duration::from_millis(10));
        }
        self
    }

    /// Leaves, which gives the terminal back.
    #[track_caller]
    fn leaves(mut self) {
        self.keys("q");
        let start = Instant::now();
        while start.elapsed() < PATIENCE {
            // What it has written last may come after its end.
            let parser = self.screen();
            let is_given_back =
                !parser.screen().alternate_screen() && !parser.screen().hide_cursor();
            if let Some(status) = self.pty.child.try_wait().unwrap()
                && is_given_back
            {
                assert!(status.success(), "{status:?}");
                return;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        let contents = self.screen().screen().contents();
        panic!("it does not end, or keeps the screen or the cursor:\n{contents}");
    }
}

const PROGRAM: &str = "let toll be 3
way due(tons) {
  let whole be tons * toll
  answer whole + 1
}
let first be due(20)
say first
change toll to 4
say due(first)
";

#[test]
fn a_run_is_walked_by_keys_in_both_directions() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    walk.is_at("let toll be 3")
        .sees("none hold anything yet")
        .keys("l");
    walk.sees("toll = 3").keys("l").is_at("20");
    walk.keys("i").is_at("toll");
    walk.sees("tons = 20")
        .sees("toll (around) = 3")
        .sees("due  line 3");
    walk.sees("Let let whole be").keys("l").is_at("whole + 1");
    walk.sees("whole = 60").keys("o").sees("first = 61");
    walk.keys("l").sees("│61").keys("L").sees_no("│61");
    walk.keys("g").sees("over: it gives nothing").sees("│245");
    walk.keys("l").sees("the run is over").keys("L");
    walk.sees("toll = 4").keys("b").sees("at the beginning");
    walk.leaves();
}

#[test]
fn a_run_stops_where_keys_have_said() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    walk.keys("ncall due\r").sees("stops at call due").keys("g");
    walk.sees("a call of due")
        .keys("g")
        .sees("tons = 61")
        .keys("G");
    walk.sees("tons = 20")
        .keys("ncall due\r")
        .sees("stops no more");
    walk.keys("nchange toll\r")
        .sees("stops at change toll")
        .keys("g");
    walk.sees("toll has another value")
        .sees("toll = 4")
        .keys("b");
    walk.sees("at the beginning")
        .keys("nchange toll\r")
        .sees("stops no more");
    walk.keys("n9 if first < 3\r")
        .sees("stops at 9 if")
        .keys("g");
    walk.sees("over:").keys("b").keys("nform Lantern\r");
    walk.sees("there is no form")
        .keys("nform Sy\r")
        .sees("is it Say?");
    // At a line that is chosen, or the next that does something.
    walk.keys("\u{1b}[B\u{1b}[B\u{1b}[B\u{1b}[Bs")
        .sees("*| 6")
        .keys("g")
        .is_at("20");
    walk.sees("stop at line 6");
    walk.leaves();
}

#[test]
fn values_are_worked_out_and_watched_and_set_and_unfolded() {
    let (_folder, mut walk) = Walk::through(
        "let berths be [1, [name: \"Heron\", tons: 20]]\nlet toll be 3\nlet more be toll + 1\nsay more\n",
    );
    walk.keys("lll")
        .sees("more = 4")
        .keys("vtoll + 10\r")
        .sees("toll + 10 = 13");
    walk.keys("vnobody\r")
        .sees("there is no binding called")
        .keys("wtoll * 2\r");
    walk.sees("toll * 2 = 6")
        .keys("=toll = 7\r")
        .sees("toll is 7 now")
        .sees("toll * 2 = 14");
    walk.keys("d").sees_no("toll * 2");
    // Down to the list, and into it.
    walk.keys("\t\u{1b}[B\u{1b}[B\r")
        .sees("0 = 1")
        .sees("+  1 = {");
    walk.keys("\u{1b}[B\u{1b}[B\r").sees("\"name\" = \"Heron\"");
    // It got it here, by hand; before, where the program gives it.
    walk.keys("ctoll\u{15}toll\r")
        .sees_no("toll is 7 now")
        .sees("toll = 3")
        .keys("ctoll\u{15}toll\r")
        .sees("day.tow:2")
        .sees_no("more = 4");
    walk.leaves();
}

#[test]
fn a_text_is_carried_out_in_the_run() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    walk.keys("ll")
        .sees("> 6 let first")
        .keys("rchange toll to toll + 10\r")
        .sees("change toll to toll + 10 is done")
        .sees("toll = 13")
        .keys("rdue(1)\r")
        .sees("due(1) is done: it gives 14")
        .keys("rsay \"early\"\r")
        .sees("│early")
        .keys("rsay nobody\r")
        .sees("there is no binding called");
    // It belongs to the run.
    walk.keys("L").sees_no("│early").sees("toll = 3");
    walk.keys("ll").sees("│early").sees("first = 261");
    walk.keys("gr1\r").sees("the run is over");
    walk.leaves();
}

#[test]
fn a_walk_asks_for_what_a_program_reads_and_reads_it_once() {
    let folder = Folder::with_definition(
        "language Asking\n  reads  \".ask\"\n  starts Program\ntokens\n  Blank [ \\n]+ ignored\n\
         form Program\n  written steps:Step*\n  means all steps\n\
         form Ask in Step\n  written \"ask\"\n  means output(input(), \"!\\n\")\n",
    );
    fs::write(folder.path().join("a.ask"), "ask\nask\nask\n").unwrap();
    let mut walk = Walk::start(folder.path(), (24, 80), &["a.ask"]);
    walk.sees("at the beginning")
        .keys("l")
        .sees("the program reads");
    walk.keys("Heron\r")
        .sees("│Heron!")
        .keys("L")
        .sees_no("│Heron!");
    // What was read is read again.
    walk.keys("l").sees("│Heron!");
    // A text that is carried out reads, too.
    walk.keys("rask\r")
        .sees("the program reads")
        .keys("Teal\r")
        .sees("│Teal!");
    walk.keys("l").sees("the program reads");
    walk.keys("\u{1b}").sees("│nothing!");
    walk.leaves();
}

#[test]
fn a_run_without_end_is_stopped_by_a_key() {
    let (_folder, mut walk) = Walk::through("let n be 0\nwhile 0 < 1 { change n to n + 1 }\n");
    walk.keys("g").sees("goes on; any key stops it").keys(" ");
    walk.sees("stopped by a key")
        .keys("L")
        .sees_no("stopped by a key");
    walk.leaves();
}

#[test]
fn a_way_back_is_given_up_by_a_key_and_others_wait() {
    let (_folder, mut walk) = Walk::through("let n be 0\nwhile 0 < 1 { change n to n + 1 }\n");
    walk.keys("g").sees("goes on; any key stops it");
    // The way back takes about as long as the way there.
    std::thread::sleep(Duration::from_secs(2));
    walk.keys(" ").sees("stopped by a key");
    walk.keys("G")
        .sees("goes back; Esc stops it")
        .keys("\u{1b}");
    walk.sees("stopped by a key");
    // What is typed ahead counts when the run has come there.
    walk.keys("G?").sees("goes back; Esc stops it");
    walk.sees("any of them goes back")
        .keys(" ")
        .sees("at the beginning");
    walk.leaves();
}

#[test]
fn the_meaning_of_what_is_under_way_is_shown_and_walked_through() {
    let (folder, mut walk) = Walk::through(PROGRAM);
    let text = fs::read_to_string(folder.path().join("towpath.quillon")).unwrap();
    walk.keys("m")
        .sees(" meaning ")
        .keys("m")
        .sees_no(" meaning ");
    // It comes with a step through it.
    walk.keys("p").sees(" meaning ");
    let line = text
        .lines()
        .position(|line| line.starts_with("form Say "))
        .unwrap()
        + 1;
    walk.keys(&format!("nmeaning {line}\r"))
        .sees("stops at meaning")
        .keys("g");
    walk.sees("of towpath.quillon")
        .sees("form Say")
        .keys("nmeaning 9999\r");
    walk.sees("nothing is meant from this line on");
    walk.keys("b")
        .sees("at the beginning")
        .keys("x")
        .sees(" 1: ")
        .keys("?")
        .sees("show what the form under way means")
        .keys(" ");
    walk.keys("m").sees_no(" meaning ");
    walk.leaves();
}

#[test]
fn a_walk_fits_the_terminal_whatever_its_size() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    walk.keys("?")
        .sees("a line on, over calls")
        .sees("a stop at a line, a form, a call, a change, a fault, or none any more")
        .sees("show the parts of the chosen value")
        .keys(" ")
        .is_at("let toll be 3");
    for size in [(40, 140), (8, 30), (3, 10), (24, 80)] {
        walk.size = size;
        walk.pty.written.lock().unwrap().clear();
        walk.pty.resize(size.0, size.1);
        walk.keys("l");
        std::thread::sleep(Duration::from_millis(100));
    }
    // A key that comes while the run still goes on only stops it.
    let start = Instant::now();
    while !walk.screen().screen().contents().contains("first = 61") && start.elapsed() < PATIENCE {
        walk.keys("l");
        std::thread::sleep(Duration::from_millis(200));
    }
    walk.sees("first = 61");
    walk.leaves();
}

#[test]
fn what_cannot_be_walked_is_said_without_taking_the_terminal() {
    let folder = Folder::with_demo();
    fs::write(folder.path().join("wrong.tow"), "say (1\n").unwrap();
    let mut walk = Walk::start(folder.path(), (24, 80), &["wrong.tow"]);
    walk.sees("wrong.tow:");
    assert!(!walk.screen().screen().alternate_screen());
    assert_eq!(walk.pty.child.wait().unwrap().exit_code(), 1);
    folder.write("day.tow", PROGRAM);
    let piped = folder.quillon(&["walk", "day.tow"]);
    piped
        .ends_with(2)
        .says("a walk needs a terminal")
        .says("quillon trace");
}

#[cfg(unix)]
#[test]
fn a_walk_that_is_ended_from_outside_gives_the_terminal_back() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    // As a terminal that goes away does.
    walk.pty.child.kill().unwrap();
    walk.pty.child.wait().unwrap();
    walk.sees_no("at the beginning");
    assert!(!walk.screen().screen().alternate_screen());
}

#[test]
fn an_entry_of_a_conversation_is_walked() {
    let folder = Folder::with_demo();
    let mut walk = Walk {
        pty: Pty::start(folder.path(), (24, 80), &["repl"]),
        size: (24, 80),
    };
    // Each line is waited for, as one who types does.
    let entry = |walk: &mut Walk, line: &str| {
        walk.keys(line).sees(line).keys("\r");
        walk.sees(&format!("{line}\nTowpath> "));
    };
    walk.sees("Towpath>");
    entry(&mut walk, "let toll be 3");
    entry(
        &mut walk,
        "way due(tons) { let whole be tons * toll answer whole + 1 }",
    );
    walk.keys("/debug due(20)\r");
    walk.sees("at the beginning")
        .is_at("due")
        .keys("i")
        .sees("tons = 20");
    walk.sees("toll (around) = 3")
        .keys("ff")
        .sees("whole = 60")
        .keys("vdue(1)\r");
    walk.sees("due(1) = 4")
        .keys("g")
        .sees("over: it gives 61")
        .keys("L");
    walk.sees_no("over:")
        .keys("q")
        .sees("due(20)\n")
        .sees("Towpath>");
    // The last entry, as all was before it.
    entry(&mut walk, "change toll to toll + 1");
    walk.keys("/debug\r").sees("at the beginning");
    walk.sees("toll (around) = 3").keys("q").sees("/debug\n");
    walk.keys("toll\r")
        .sees("\n4\n")
        .keys("/debug nobody\r")
        .sees("there is no binding");
    // An interrupt is that of the conversation again.
    walk.keys("while 0 < 1 { change toll to 5 }\r")
        .sees("change toll to 5 }");
    std::thread::sleep(Duration::from_millis(300));
    walk.keys("\u{3}")
        .sees("interrupted")
        .keys("toll + 100\r")
        .sees("\n104\n");
    walk.keys("/leave\r");
    assert!(walk.pty.child.wait().unwrap().success());
}

#[test]
fn a_run_goes_on_at_a_chosen_line() {
    let (_folder, mut walk) = Walk::through(PROGRAM);
    // On line 3 in the call; down to line 4, and there.
    walk.keys("i").sees(":2 ").keys("i").sees(":6 ").keys("i");
    walk.sees("tons = 20").sees(":3 ");
    walk.keys("\u{1b}[Ba").sees("goes on at line 4 instead");
    walk.sees(":4 ").keys("L").sees(":6 ");
    walk.keys("b").sees(":1 ").keys("\u{1b}[B\u{1b}[B\u{1b}[Ba");
    walk.sees("it cannot go on there; it can at 1, 2, 6");
    walk.leaves();
}

const FLOWS: &str = "language Flows
  reads    \".flow\"
  starts   Flow
  entries  Flow
tokens
  Blank   [ \\n]+  ignored
  Whole   digit+  holds integer
precedence of Flow, loosest first
  left Join
  left Lock
form Amount in Flow
  written  value:Whole
  means    value
  is value
form Join in Flow
  written  left:Flow \"+\" right:Flow
  means    left + right
  reduces  in left, then in right
  reduces  left is Amount(a), right is Amount(b) to Amount(a + b)
form Lock in Flow
  written  left:Flow \"*\" right:Flow
  means    left * right
  reduces  in left, then in right
  reduces  left is Amount(a), right is Amount(b) to Amount(a * b)
form Shut in Flow
  written  \"shut\"
";

#[test]
fn a_reduction_is_walked_both_ways() {
    let folder = Folder::with_definition(FLOWS);
    fs::write(folder.path().join("day.flow"), "1 + 2 * 3 + 4 * 5\n").unwrap();
    let mut walk = Walk::start(folder.path(), (24, 80), &["--reduction", "day.flow"]);
    walk.sees("step 0 of 4").is_at("2 * 3");
    walk.keys("f").sees("step 1 of 4").is_at("1 + 6");
    walk.sees("made by").sees("Lock: reduces left is");
    walk.keys("F").sees("step 0 of 4").is_at("2 * 3");
    walk.keys("nForm Lock\r")
        .sees("there is no form `Form Lock`");
    walk.keys("nLock\r")
        .sees("stops at what rules of Lock make");
    walk.keys("gg").sees("step 3 of 4").is_at("7 + 20");
    walk.keys("g").sees("step 4 of 4  finished");
    walk.sees("finished after 4 steps").sees("made by");
    walk.keys("l").sees("this is the last step");
    walk.keys("G")
        .sees("step 3 of 4")
        .keys("b")
        .sees("step 0 of 4");
    walk.keys("?")
        .sees("to the beginning")
        .keys("x")
        .sees("step 0 of 4");
    walk.keys("v").sees("a reduction has no such key");
    walk.leaves();
}

#[test]
fn a_reduction_that_is_stuck_says_why() {
    let folder = Folder::with_definition(FLOWS);
    fs::write(folder.path().join("day.flow"), "1 + shut\n").unwrap();
    let mut walk = Walk::start(folder.path(), (24, 80), &["--reduction", "day.flow"]);
    walk.sees("step 0 of 0  stuck").is_at("shut");
    walk.sees("form `Shut` is no value, and");
    walk.leaves();
    fs::write(folder.path().join("night.flow"), "1 + 2 + 3\n").unwrap();
    let mut walk = Walk::start(folder.path(), (12, 40), &["--reduction=1", "night.flow"]);
    walk.keys("g").sees("step 1 of 1  at the limit");
    walk.leaves();
}
