//! What is in use when the most is: by what made it, and by what leads to it.

use quillon_core::profiling::{Alive, Piece, profile};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

use crate::common;
use crate::walks::LIFTS;

/// A language of lists, records and functions, with a cell.
fn sheds() -> Language {
    let own = r#"
usual List
form Put in Step
  written  "put" value:Expr "into" list:Expr
  means    list.add(list, value)
form Store in Step
  written  "store" value:Expr
  means    counted := value
form Boat in Expr
  written  "boat" tons:Expr
  means    {"tons": tons}
"#;
    common::with_tokens(&format!("{LIFTS}{own}"))
}

fn alive(text: &str) -> Alive {
    let language = sheds();
    let builder = language.session().weighed();
    let mut session = builder.start(Recorder::default()).unwrap();
    let source = SourceText::new("program", text);
    let outcome = profile(&mut session, &source, Reading::Program);
    outcome.into_result().unwrap().alive.unwrap()
}

fn piece<'a>(pieces: &'a [Piece], name: &str) -> &'a Piece {
    let found = pieces.iter().find(|one| one.name == name);
    found.unwrap_or_else(|| panic!("{name} in {pieces:#?}"))
}

#[test]
fn what_is_dropped_is_not_in_use() {
    let seen = alive(
        "let kept = [];
let i = 0;
while i < 3000 {
  put boat i into kept;
  let gone = [i, i, i];
  i := i + 1
};
kept",
    );
    let kept = piece(&seen.held, "kept");
    assert_eq!(kept.pieces, 3001, "the list and what is in it");
    assert!(kept.bytes * 10 > seen.bytes * 9, "{seen:#?}");
    let boats = piece(&seen.forms, "Boat");
    assert_eq!(boats.pieces, 3000);
    assert_eq!(boats.kinds.len(), 1);
    assert_eq!(boats.kinds[0].kind, "map");
    assert_eq!(seen.forms[0].name, "Boat", "the largest first");
    let lists = piece(&seen.forms, "List");
    assert!(lists.pieces <= 3, "{lists:#?}");
    let line = seen.lines.iter().find(|one| one.line == Some(4)).unwrap();
    assert_eq!(line.pieces, 3000);
    let together: u64 = seen.forms.iter().map(|one| one.bytes).sum();
    assert_eq!(together, seen.bytes);
    let together: u64 = seen.held.iter().map(|one| one.bytes).sum();
    assert_eq!(together, seen.bytes);
}

#[test]
fn the_most_is_looked_at_also_where_it_is_gone_in_the_end() {
    let seen = alive(
        "way filled(n) {
  let all = [];
  let i = 0;
  while i < n { put boat i into all; i := i + 1 };
  1
};
filled(5000);
store [1, 2, 3]",
    );
    let all = piece(&seen.held, "all in filled");
    // What was made since it was looked at last is at most a quarter.
    assert!(all.pieces > 3500, "{seen:#?}");
    assert!(seen.instructions > 10_000);
}

#[test]
fn a_small_program_is_looked_at_in_the_end() {
    let seen = alive(
        "let name = \"Heron of the upper pound\";
let boats = [boat 1, boat 2];
way told(x) { name + x };
store [boats, [4]];
boats",
    );
    // What two lead to belongs to the first of them.
    assert_eq!(piece(&seen.held, "boats").pieces, 3);
    assert_eq!(piece(&seen.held, "counted of the state").pieces, 2);
    // The variable, which the function itself can use, and the function.
    assert_eq!(piece(&seen.held, "told").pieces, 2);
    assert_eq!(piece(&seen.forms, "List").pieces, 3);
    assert_eq!(piece(&seen.forms, "Boat").pieces, 2);
}
