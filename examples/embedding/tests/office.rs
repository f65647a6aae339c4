//! The office does what it says, and what a rule does wrong stays with the rule.

use quillon_example_embedding::{Books, Office, language};

fn books() -> Books {
    Books {
        tons: [("Heron".to_owned(), 18)].into(),
        ..Books::default()
    }
}

#[test]
fn rules_reach_the_books_and_the_office_calls_the_rules() {
    let language = language().expect("the definition is right");
    let mut office = Office::new(&language, books(), 4).expect("an office");
    let rules = "rule plain for boat is 3 + tons of boat * 2. note 7.";
    assert_eq!(office.take_in(rules), Ok(()));
    assert_eq!(office.books.notes, "7\n");
    assert_eq!(office.noted(), Some(5));
    let toll = office.toll("plain", "Heron").expect("a toll");
    assert_eq!(toll.as_integer(), Some(39));
    // The books can change between two calls.
    office.books.tons.insert("Heron".to_owned(), 1);
    let toll = office.toll("plain", "Heron").expect("a toll");
    assert_eq!(toll.shown(), "5");
}

#[test]
fn a_wrong_rule_changes_nothing_and_says_where_it_is_wrong() {
    let language = language().expect("the definition is right");
    let mut office = Office::new(&language, books(), 0).expect("an office");
    let said = |result: Result<(), quillon_core::diagnostic::Diagnostics>| {
        let mistakes = result.expect_err("it is wrong");
        mistakes[0].in_one_line()
    };
    assert_eq!(
        said(office.take_in("note 1. note 1 + \"a\"")),
        "a number is needed here, and this is a text: \"a\" at today.rules:1:18"
    );
    assert_eq!(office.noted(), Some(0));
    assert_eq!(
        said(office.take_in("rule odd for boat is tons of lock")),
        "there is no binding called `lock` at today.rules:1:30"
    );
    assert!(
        office
            .toll("odd", "Heron")
            .is_err_and(|found| found.is_empty())
    );
    assert_eq!(
        office.take_in("rule heavy for boat is tons of boat"),
        Ok(())
    );
    let missing = office
        .toll("heavy", "Wherry")
        .expect_err("there is no such boat");
    assert_eq!(
        missing[0].in_one_line(),
        "no boat is called Wherry at today.rules:1:24"
    );
}
