//! Braces in meanings: blocks, and maps with the keys that are written.

use crate::common::{mistakes, value, with_tokens};
use quillon_core::Language;

/// A form whose meaning is this, with a number and an optional name.
fn meaning(means: &str) -> Language {
    with_tokens(&format!(
        "
state
  card = {{\"tons\": 4, \"of\": {{\"name\": \"Heron\"}}}}
form Program
  written  number:Whole (\"as\" word:Name)?
  means    {means}
"
    ))
}

#[test]
fn a_map_has_the_keys_and_values_in_the_order_of_the_text() {
    let language =
        meaning("{ \"tons\": number, \"double\": number * 2, \"word\": spelling of word }");
    assert_eq!(
        value(&language, "4 as heron"),
        "{\"tons\": 4, \"double\": 8, \"word\": \"heron\"}"
    );
    // A comma may stand behind the last.
    assert_eq!(value(&meaning("{ \"a\": 1, }"), "1"), "{\"a\": 1}");
}

#[test]
fn keys_are_any_meanings_and_the_last_of_two_alike_counts() {
    assert_eq!(
        value(&meaning("{ 1: 2, number + 1: 3, shown(number): 4 }"), "1"),
        "{1: 2, 2: 3, \"1\": 4}"
    );
    assert_eq!(
        value(&meaning("{ \"a\": 1, \"b\": 2, \"a\": number }"), "3"),
        "{\"a\": 3, \"b\": 2}"
    );
}

#[test]
fn maps_stand_in_maps_in_lists_and_in_arguments() {
    assert_eq!(
        value(
            &meaning("[{ \"a\": { \"b\": [number, {\"c\": nothing}] } }]"),
            "1"
        ),
        "[{\"a\": {\"b\": [1, {\"c\": nothing}]}}]"
    );
    assert_eq!(
        value(
            &meaning("list.length(map.keys({ \"a\": 1, \"b\": 2 }))"),
            "1"
        ),
        "2"
    );
    assert_eq!(
        value(
            &meaning("if number > 1 { { \"many\": number } } else { { \"few\": number } }"),
            "2"
        ),
        "{\"many\": 2}"
    );
}

#[test]
fn each_run_has_a_map_of_its_own() {
    let language = meaning(
        "let make = function () { { \"a\": 1 } }; let one = call make; map.put(one, \"a\", 2); [one, call make]",
    );
    assert_eq!(value(&language, "1"), "[{\"a\": 2}, {\"a\": 1}]");
}

#[test]
fn a_cell_begins_with_a_map() {
    let language = meaning("map.get(map.get(card, \"of\"), \"name\")");
    assert_eq!(value(&language, "1"), "\"Heron\"");
}

#[test]
fn blocks_are_blocks() {
    assert_eq!(value(&meaning("{ }"), "1"), "nothing");
    assert_eq!(value(&meaning("{ let a = number; a + 1 }"), "1"), "2");
    assert_eq!(value(&meaning("{ 1; 2; }"), "1"), "2");
    assert_eq!(
        value(
            &meaning("match number { integer n => { let m = n; m }  else => 0 }"),
            "7"
        ),
        "7"
    );
}

/// The mistakes of a meaning, without their places.
fn wrong(means: &str) -> Vec<String> {
    let told = mistakes(&format!(
        "language Own\ntokens\n  Whole  digit+  holds integer\nform Program\n  written  number:Whole\n  means    {means}\n"
    ));
    let without = told.into_iter().map(|one| {
        let (_, message) = one.split_once(' ').unwrap();
        message.to_owned()
    });
    without.collect()
}

#[test]
fn what_is_neither_block_nor_map_is_said() {
    assert_eq!(wrong("{ \"a\": }"), ["expected a meaning, found `}`"]);
    assert_eq!(wrong("{ \"a\": 1, \"b\" }"), ["expected `:`, found `}`"]);
    assert_eq!(wrong("{ \"a\": 1; 2 }"), ["`}` is missing here"]);
    assert_eq!(wrong("{ 1, 2 }"), ["expected `}`, found `,`"]);
    assert_eq!(
        wrong("if number > 1 { \"a\": 1 } else { 2 }"),
        ["expected `}`, found `:`"]
    );
}

#[test]
fn a_let_that_stands_in_no_block_is_told_so() {
    for means in [
        "match number { integer n => let a = n; a  else => 0 }",
        "number + let a = 1",
        "shown(let a = 1)",
        "[let a = 1]",
    ] {
        assert_eq!(
            wrong(means),
            ["a `let` stands among the steps of a block, and gives no value by itself"],
            "{means}"
        );
    }
    // A name cannot be called so.
    assert_eq!(
        wrong("let let = 1; 2"),
        ["`let` is a word of the meaning notation and cannot be a name"]
    );
}
