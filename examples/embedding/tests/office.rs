//! The office does what it says, and what a rule does wrong stays with the rule.

use quillon_core::diagnostic::Diagnostics;
use quillon_example_embedding::{Books, NoSuchBoat, Office, language};

fn office(noted: i64) -> Office {
    let language = language().expect("the definition is right");
    let books = Books {
        tons: [("Heron".to_owned(), 18), ("Kingcup".to_owned(), 4)].into(),
        ..Books::default()
    };
    Office::new(&language, books, noted).expect("an office")
}

#[test]
fn rules_reach_the_books_and_the_office_calls_the_rules() {
    let mut office = office(4);
    let rules = "rule plain for boat is 3 + tons of boat * 2. note 7.";
    assert_eq!(office.take_in(rules), Ok(()));
    assert_eq!(office.books().notes, "7\n");
    assert_eq!(office.noted(), Some(5));
    assert_eq!(office.toll("plain", "Heron").unwrap(), 39);
    // The books can change between two calls.
    office.books().tons.insert("Heron".to_owned(), 1);
    assert_eq!(office.toll("plain", "Heron").unwrap(), 5);
}

#[test]
fn the_office_calls_a_rule_back_that_it_was_given() {
    let mut office = office(0);
    let rules = "rule plain for boat is tons of boat * 2. note plain of the fleet";
    assert_eq!(office.take_in(rules), Ok(()));
    assert_eq!(office.books().notes, "44\n");
    // What goes wrong in it is told where the office was called.
    let wrong = "rule odd for boat is boat + 1. note odd of the fleet";
    let said = office.take_in(wrong).unwrap_err().to_string();
    assert_eq!(
        said,
        "a number is needed here, and this is a text: \"Heron\" at today.rules:1:22"
    );
}

#[test]
fn a_wrong_rule_changes_nothing_and_says_where_it_is_wrong() {
    let mut office = office(0);
    let said = |result: Result<(), Diagnostics>| result.expect_err("it is wrong").to_string();
    assert_eq!(
        said(office.take_in("note 1. note 1 + \"a\"")),
        "a number is needed here, and this is a text: \"a\" at today.rules:1:18"
    );
    assert_eq!(office.noted(), Some(0));
    assert_eq!(
        said(office.take_in("rule odd for boat is tons of lock")),
        "there is no binding called `lock` at today.rules:1:30"
    );
    let unknown = office
        .toll("odd", "Heron")
        .expect_err("there is no such rule");
    assert_eq!(unknown.to_string(), "no function is called `odd`");
}

#[test]
fn an_error_of_the_office_is_behind_that_of_the_run() {
    let mut office = office(0);
    let rules = "rule heavy for boat is tons of boat";
    assert_eq!(office.take_in(rules), Ok(()));
    let missing = office.toll("heavy", "Wherry").expect_err("there is none");
    assert_eq!(
        missing.to_string(),
        "no boat is called Wherry at today.rules:1:24"
    );
    let behind = missing.source().expect("the error of the books");
    assert!(behind.is::<NoSuchBoat>());
}
