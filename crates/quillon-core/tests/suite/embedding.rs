//! The core as a library: what goes in and comes out of it.

use std::collections::BTreeMap;

use crate::common;
use quillon_core::Language;
use quillon_core::values::Held;
use serde::Deserialize;

#[derive(Deserialize, PartialEq, Debug)]
enum Gauge {
    Low,
    High,
}

#[derive(Deserialize, PartialEq, Debug)]
struct Boat {
    name: String,
    length: f64,
    lengths: Vec<i64>,
    keeper: Option<String>,
    gauge: Gauge,
}

#[test]
fn values_of_rust_go_in_and_come_out() {
    let boat = Held::map([
        ("name", Held::from("Heron")),
        ("length", Held::from(12)),
        ("lengths", Held::from(vec![4, 8])),
        ("keeper", Held::from(None::<String>)),
        ("gauge", Held::from("High")),
    ]);
    assert_eq!(
        boat.written(),
        r#"{"name": "Heron", "length": 12, "lengths": [4, 8], "keeper": nothing, "gauge": "High"}"#
    );
    let wanted = Boat {
        name: "Heron".to_owned(),
        length: 12.0,
        lengths: vec![4, 8],
        keeper: None,
        gauge: Gauge::High,
    };
    assert_eq!(boat.to::<Boat>().unwrap(), wanted);
    assert_eq!(
        boat.entry("lengths").unwrap().items().unwrap()[1].as_integer(),
        Some(8)
    );
    assert_eq!(Held::from(true).as_truth(), Some(true));
    assert_eq!(Held::from(2.5).as_number(), Some(2.5));
    assert_eq!(Held::from(()).to::<Option<i64>>().unwrap(), None);
    let tons = BTreeMap::from([("Heron", 18), ("Kingcup", 4)]);
    let held = Held::from(tons.clone());
    assert_eq!(held.to::<BTreeMap<String, i32>>().unwrap()["Kingcup"], 4);
    assert_eq!(held.entries().unwrap().len(), 2);
}

#[test]
fn what_does_not_fit_is_said() {
    let said = |held: Held| held.to::<Boat>().unwrap_err().to_string();
    assert_eq!(
        said(Held::map([("name", 3)])),
        "invalid type: integer `3`, expected a string"
    );
    assert_eq!(
        said(Held::map([("name", "Heron")])),
        "missing field `length`"
    );
    let gauge = Held::from(3).to::<Gauge>().unwrap_err();
    assert_eq!(
        gauge.to_string(),
        "a text is needed for Gauge, and this is an integer: 3"
    );
    let mut deep = Held::from(1);
    for _ in 0..10_000 {
        deep = Held::from(vec![deep]);
    }
    let nested = deep.to::<serde_json::Value>().unwrap_err();
    assert_eq!(nested.to_string(), "this value is nested too deeply");
}

#[test]
fn a_definition_with_mistakes_is_an_error_and_warnings_are_kept() {
    let wrong = Language::from_text(
        "own.quillon",
        "language Own\ntokens\n  Blank \" \"\nfrom Go",
    );
    let said = wrong.unwrap_err().to_string();
    assert!(said.contains(" at own.quillon:4:1"), "{said}");
    let text = common::with_tokens("form Go\n  written  \"go\"\n  means    1\n");
    let own = Language::from_text("own.quillon", text.definition().source.text()).unwrap();
    assert!(own.warnings().iter().all(|one| !one.is_error()));
}
