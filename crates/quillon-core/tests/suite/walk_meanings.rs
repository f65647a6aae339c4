//! Walking through the meanings of forms, in the definition, beside the program.

use std::sync::Arc;

use quillon_core::Language;
use quillon_core::debugging::{At, Order, Pace, Stopped, meaning_lines};
use quillon_core::source::SourceText;

use crate::common::{TOKENS, with_usual};
use crate::walks::{ON, Script};

/// A language whose meanings have several parts, in two files.
fn basins() -> Language {
    let shared = "define clipped(v) =
  if v < 10 { v }
  else { 10 }
";
    let own = format!(
        "language Basins
{TOKENS}
include \"shared\"
usual Program, Let, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Fill in Expr
  written  \"fill\" by:Expr
  means    {{
             let level = by + 1;
             clipped(level)
           }}
form Twice in Expr
  written  \"twice\" value:Expr
  means    let v = value; v + v
provides
  bare(x) means x + 100
"
    );
    let own = SourceText::new("basins", with_usual(&own));
    let whole = quillon_core::definition::with_includes(&own, &mut |_, name| {
        Ok(SourceText::new(name, shared))
    });
    Language::load(&whole.unwrap()).into_result().unwrap()
}

const PROGRAM: &str = "let a = fill 3;
let b = twice fill 20;
b";

/// What is under way in the program, and what of its meaning.
fn both(at: &mut Stopped<'_, '_, '_>) -> String {
    let calls = at.calls();
    let (source, span) = at.definition().source.origin(calls[0].meaning);
    let first = |text: &str| text.lines().next().unwrap_or_default().to_owned();
    format!(
        "{} | {}:{} {}",
        first(calls[0].source.slice(calls[0].span)),
        source.name(),
        source.line_of(span.start),
        first(source.slice(span))
    )
}

fn told(script: &Script) -> Vec<&str> {
    script.seen.iter().map(String::as_str).collect()
}

fn line_of(text: &str) -> u32 {
    let language = basins();
    let source: &Arc<SourceText> = &language.definition().source;
    let at = source.text().find(text).unwrap() as u32;
    let (source, span) = source.origin(quillon_core::source::Span { start: at, end: at });
    source.line_of(span.start)
}

#[test]
fn a_walk_goes_through_the_parts_of_meanings() {
    let forwards = std::iter::repeat_n(Order::Forwards(Pace::IntoPart), 40);
    let mut script = Script::new(forwards).looking(both);
    script.walk_in(&basins(), PROGRAM, "");
    let all = told(&script);
    let wanted = [
        "fill 3 | basins:",
        "fill 3 | shared:2 v < 10",
        "fill 20 | basins:",
        "fill 20 | shared:2 v < 10",
        "twice fill 20 | basins:",
    ];
    let mut left = all.iter();
    for one in wanted {
        assert!(left.any(|seen| seen.starts_with(one)), "{one} in {all:#?}");
    }
    for pair in all.windows(2) {
        assert_ne!(pair[0], pair[1], "each is another: {all:#?}");
    }
    assert!(all.iter().any(|seen| seen.contains("by + 1")), "{all:#?}");
    assert!(all.iter().any(|seen| seen.contains("v + v")), "{all:#?}");
    // The way back is the way there.
    let there = all.len() - 1;
    let orders = std::iter::repeat_n(Order::Forwards(Pace::IntoPart), there - 1)
        .chain(std::iter::repeat_n(
            Order::Backwards(Pace::IntoPart),
            there - 1,
        ))
        .chain([Order::End]);
    let mut again = Script::new(orders).looking(both);
    again.walk_in(&basins(), PROGRAM, "");
    let again = told(&again);
    let there = &again[..there];
    let back: Vec<&str> = again[there.len() - 1..].iter().rev().copied().collect();
    assert_eq!(there[1..], back[1..], "{again:#?}");
}

#[test]
fn a_run_stops_at_a_line_of_the_definition() {
    let at = |file: &str, line: u32| At::Line(file.to_owned(), line);
    let stops = |at: At| {
        let mut script = Script::new(std::iter::repeat_n(ON, 9))
            .stop(at)
            .looking(both);
        script.walk_in(&basins(), PROGRAM, "");
        script.seen[1..].to_vec()
    };
    // In a helper of another file: once each time.
    let seen = stops(at("shared", 2));
    assert_eq!(seen.len(), 3, "{seen:#?}");
    assert!(seen[0].starts_with("fill 3 | shared:2"), "{seen:#?}");
    assert!(seen[1].starts_with("fill 20 | shared:2"), "{seen:#?}");
    // Where nothing is meant, at the next line that means something.
    let seen = stops(at("basins", line_of("form Twice")));
    assert_eq!(seen.len(), 2, "{seen:#?}");
    assert!(seen[0].starts_with("twice fill 20 | "), "{seen:#?}");
    assert!(seen[0].ends_with(" v + v stop 0"), "{seen:#?}");
    let seen = stops(at("shared", 3));
    assert_eq!(seen.len(), 2, "only the second is clipped: {seen:#?}");
    assert_eq!(stops(at("shared", 9)), ["ended well"]);
    assert_eq!(stops(at("elsewhere", 2)), ["ended well"]);
}

#[test]
fn each_of_what_is_in_itself_is_stopped_in() {
    let line = line_of("let level = by + 1");
    let mut script = Script::new(std::iter::repeat_n(ON, 9))
        .stop(At::Line("basins".to_owned(), line))
        .looking(both);
    script.walk_in(&basins(), "let z = 1;\nlet a = fill fill fill 1;\na", "");
    let seen: Vec<&str> = script.seen[1..].iter().map(String::as_str).collect();
    let inner: Vec<&str> = seen
        .iter()
        .map(|one| one.split(" | ").next().unwrap())
        .collect();
    // Each does its own work, the innermost first.
    assert_eq!(
        inner,
        ["fill 1", "fill fill 1", "fill fill fill 1", "ended well"],
        "{seen:#?}"
    );
}

#[test]
fn the_lines_that_mean_something_are_known() {
    let language = basins();
    let lines = |file: &str| meaning_lines(language.definition(), file);
    assert_eq!(lines("shared").into_iter().collect::<Vec<_>>(), [2, 3]);
    let own = lines("basins");
    assert!(own.contains(&line_of("let level = by + 1")));
    assert!(
        !own.contains(&line_of("bare(x)")),
        "nothing is stopped in what is built in"
    );
    assert!(!own.contains(&line_of("form Fill")));
    assert!(lines("elsewhere").is_empty());
}
