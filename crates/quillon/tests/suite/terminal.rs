//! The REPL on a terminal: a pseudo-terminal, with keys pressed and the screen read.

use std::path::Path;
use std::time::{Duration, Instant};

use crate::common::Folder;
use crate::common::pty::{PATIENCE, Pty};

/// A terminal with the REPL in it.
struct Terminal {
    pty: Pty,
    /// How much of the screen has been read.
    read: usize,
}

impl Terminal {
    /// The REPL in a folder, ready for the first entry.
    fn open(folder: &Path, args: &[&str]) -> Terminal {
        let args: Vec<&str> = std::iter::once("repl")
            .chain(args.iter().copied())
            .collect();
        let mut terminal = Terminal::with(folder, &args);
        terminal.sees("Ctrl-D leaves");
        terminal.sees("> ");
        terminal
    }

    /// The program in a folder, with whatever it is told.
    fn with(folder: &Path, args: &[&str]) -> Terminal {
        Terminal {
            pty: Pty::start(folder, (40, 100), args),
            read: 0,
        }
    }

    /// Presses keys.
    fn keys(&mut self, keys: &str) -> &mut Terminal {
        self.pty.keys(keys);
        self
    }

    /// Types a line.
    fn line(&mut self, line: &str) -> &mut Terminal {
        self.keys(line).keys("\r")
    }

    /// What has come since the last time, without colours and movements.
    fn fresh(&self) -> String {
        shown(&self.pty.written.lock().unwrap()[self.read..])
    }

    /// Waits until something is on the screen after what was seen the last time.
    #[track_caller]
    fn sees(&mut self, wanted: &str) -> &mut Terminal {
        let start = Instant::now();
        while start.elapsed() < PATIENCE {
            if self.fresh().contains(wanted) {
                let screen = self.pty.written.lock().unwrap();
                let rest = &screen[self.read..];
                // Up to where it ends, and no further.
                let ends: Vec<usize> = (0..=rest.len()).collect();
                let end = ends.partition_point(|end| !shown(&rest[..*end]).contains(wanted));
                self.read += end;
                drop(screen);
                return self;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        panic!("{wanted:?} does not come:\n{}", self.fresh());
    }

    /// Waits until the program has ended.
    #[track_caller]
    fn ends(mut self) {
        let start = Instant::now();
        while start.elapsed() < PATIENCE {
            if let Some(status) = self.pty.child.try_wait().unwrap() {
                assert!(status.success(), "{status:?}");
                return;
            }
            std::thread::sleep(Duration::from_millis(10));
        }
        panic!("it does not end:\n{}", self.fresh());
    }

    /// Ends the program as a crash would.
    fn kill(mut self) {
        self.pty.child.kill().unwrap();
        self.pty.child.wait().unwrap();
    }
}

fn shown(bytes: &[u8]) -> String {
    plain(&String::from_utf8_lossy(bytes))
}

/// A text without the sequences that colour it and move the cursor.
fn plain(text: &str) -> String {
    let mut out = String::new();
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        if c != '\u{1b}' {
            out.push(c);
            continue;
        }
        if chars.next_if_eq(&'[').is_some() {
            while chars.next().is_some_and(|c| !c.is_ascii_alphabetic()) {}
        } else {
            chars.next();
        }
    }
    out
}

#[test]
fn values_come_back_and_the_prompt_shows_what_is_open() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &[]);
    terminal.line("1 + 2").sees("3\r\n").sees("Towpath> ");
    terminal.line("way toll(n) {").sees("way { │ ");
    terminal.line("when n > 2 {").sees("way { when { │ ");
    terminal.line("answer [n, 1").sees("[ │ ");
    terminal.line("] }").sees("way { │ ");
    terminal.line("}").sees("Towpath> ");
    terminal.line("toll(3)").sees("[3, 1]");
    terminal.line("say \"gate").sees("is never finished");
    terminal.sees("Towpath> ").keys("\u{4}");
    terminal.ends();
}

#[test]
fn tokens_have_colours_and_brackets_match() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &[]);
    terminal.keys("let n be (1 + \"x\")").sees("\"x\")");
    let raw = String::from_utf8_lossy(&terminal.pty.written.lock().unwrap()).into_owned();
    for coloured in [
        "\u{1b}[1m\u{1b}[38;5;111mlet",
        "\u{1b}[38;5;79m\"x\"",
        "\u{1b}[7m(",
    ] {
        assert!(raw.contains(coloured), "{coloured:?} is not in {raw:?}");
    }
    terminal.keys("\u{3}");
    terminal.sees("Ctrl-D or `/leave` leaves").line("/leave");
    terminal.ends();
}

#[test]
fn words_names_keys_orders_and_files_are_completed() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &[]);
    terminal
        .line("let boats be [heron: [tons: 18], wren: [tons: 9]]")
        .sees("\n")
        .sees("Towpath> ");
    terminal.keys("boats.h\t").sees("boats.heron");
    terminal
        .keys(".t\t")
        .sees("boats.heron.tons")
        .line("")
        .sees("18");
    terminal.keys("forev\t").sees("forever").keys("\u{15}");
    terminal.keys("say bo\t").sees("say boats").keys("\u{15}");
    terminal.keys("larg\t").sees("largest").keys("\u{15}");
    terminal.keys("/tok\t").sees("/tokens").keys("\u{15}");
    terminal
        .keys("/load programs/to\t")
        .sees("programs/tolls.tow")
        .line("");
    terminal.sees("together");
    // Where only `be` can stand, nothing else is offered.
    terminal.keys("let n b\t").sees("let n be").keys("\u{15}");
    terminal.line("/leave");
    terminal.ends();
}

#[test]
fn an_interrupt_ends_the_entry_that_runs_and_nothing_else() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &[]);
    terminal.line("let n be 7").sees("\n").sees("Towpath> ");
    terminal
        .line("say \"begun\" forever { change n to n + 1 }")
        .sees("begun\r\n");
    terminal.keys("\u{3}").sees("interrupted").sees("Towpath> ");
    terminal.line("n").sees("7\r\n");
    terminal.line("/leave");
    terminal.ends();
}

#[test]
fn an_interrupt_ends_a_run_or_all_of_it_where_it_waits_for_input() {
    let folder = Folder::with_demo();
    folder.write("on.tow", "say \"begun\" forever { let n be 1 }\n");
    let mut running = Terminal::with(folder.path(), &["run", "on.tow"]);
    running.sees("begun").keys("\u{3}").sees("interrupted here");
    assert_eq!(running.pty.child.wait().unwrap().exit_code(), 1);

    let folder = Folder::with_definition(
        "language Asking\n  reads  \".ask\"\n  starts Program\ntokens\n  Blank [ \\n]+ ignored\n\
         form Program\n  written \"ask\"\n  means { output(\"ready\"); input() }\n",
    );
    folder.write("a.ask", "ask");
    let mut asking = Terminal::with(folder.path(), &["run", "a.ask"]);
    asking.sees("ready").keys("\u{3}");
    assert_eq!(asking.pty.child.wait().unwrap().exit_code(), 130);
}

#[test]
fn what_was_entered_is_known_the_next_time_whatever_ended_it() {
    let folder = Folder::with_demo();
    let mut first = Terminal::open(folder.path(), &[]);
    let mut second = Terminal::open(folder.path(), &[]);
    first.line("say \"upper\"").sees("upper\r\n").sees("> ");
    second.line("say \"lower\"").sees("lower\r\n").sees("> ");
    first.line("/keep from a terminal").sees("kept in");
    first.kill();
    second
        .line("[1,")
        .sees("[ │ ")
        .line("2]")
        .sees("[1, 2]")
        .sees("> ");
    second.kill();
    let history = std::fs::read_to_string(folder.path().join("state/quillon/Towpath.history"));
    assert_eq!(
        history.unwrap(),
        "\"say \\\"upper\\\"\"\n\"say \\\"lower\\\"\"\n\"/keep from a terminal\"\n\"[1,\\n2]\"\n"
    );
    let mut third = Terminal::open(folder.path(), &[]);
    third
        .keys("\u{1b}[A\u{1b}[A\u{1b}[A\u{1b}[A")
        .sees("say \"lower\"")
        .line("")
        .sees("lower\r\n");
    third.line("/leave");
    third.ends();
    folder
        .quillon(&["test", "--only", "from a terminal"])
        .ends_with(0)
        .shows("1 passed, 0 failed");
}

#[test]
fn a_definition_that_is_saved_counts_from_the_next_entry_on() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &["--watch"]);
    terminal.line("let n be 2").sees("\n").sees("Towpath> ");
    let path = folder.path().join("towpath.quillon");
    let text = std::fs::read_to_string(&path).unwrap();
    let changed = text.replace("means    left + right", "means    left + right + 100");
    assert_ne!(text, changed);
    std::fs::write(&path, changed).unwrap();
    // The news of it takes a moment.
    let start = Instant::now();
    while start.elapsed() < PATIENCE {
        terminal.line("n + 1").sees("\n");
        std::thread::sleep(Duration::from_millis(200));
        if terminal.fresh().contains("103") {
            break;
        }
        terminal.sees("Towpath> ");
    }
    terminal.sees("103");
    let all = plain(&String::from_utf8_lossy(
        &terminal.pty.written.lock().unwrap(),
    ));
    assert!(all.contains("Towpath is reloaded; 1 name kept"), "{all}");
    terminal.line("/leave");
    terminal.ends();
}

#[test]
fn lines_typed_while_an_entry_runs_are_entries_of_their_own() {
    let folder = Folder::with_demo();
    let mut terminal = Terminal::open(folder.path(), &[]);
    terminal
        .line("say \"begun\" count n from 1 to 3000000 { do n } say \"over\"")
        .sees("begun\r\n");
    terminal.line("1 + 2").line("let m be 40").line("m + 4");
    terminal.sees("over").sees("Towpath> 1 + 2").sees("3\r\n");
    terminal.sees("Towpath> m + 4").sees("44\r\n").sees("> ");
    terminal.line("/leave");
    terminal.ends();
}

#[test]
fn the_demo_waits_for_a_key_between_its_parts() {
    let folder = Folder::new();
    let mut demo = Terminal::with(folder.path(), &["demo"]);
    demo.sees("This is one form")
        .sees("any key goes on, q leaves");
    assert!(!demo.fresh().contains("its tokens"));
    demo.keys(" ").sees("its tokens").sees("any key goes on");
    demo.keys("\r").sees("its tree").sees("any key goes on");
    demo.keys("q");
    demo.ends();
    let mut demo = Terminal::with(folder.path(), &["demo"]);
    for part in [
        "one form",
        "its tokens",
        "its tree",
        "its value",
        "a mistake",
    ] {
        demo.sees(part).sees("any key goes on").keys("x");
    }
    demo.sees("a longer program").sees("what next");
    demo.ends();
}
