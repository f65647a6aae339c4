//! The code of the page on embedding: each block of it stands here, is compiled, and runs.

#![allow(
    clippy::items_after_statements,
    reason = "blocks of the page stand as they are"
)]

use std::error::Error;

use quillon_core::Language;

const TOLLS: &str = include_str!("tolls.quillon");

fn language() -> Result<Language, quillon_core::diagnostic::Diagnostics> {
    Language::from_text("tolls.quillon", TOLLS)
}

fn session() -> Result<quillon_core::Session<quillon_core::runtime::Recorder>, Box<dyn Error>> {
    let session = language()?.session();
    Ok(session.start(quillon_core::runtime::Recorder::default())?)
}

#[test]
fn a_definition_is_loaded() -> Result<(), Box<dyn Error>> {
    let language = Language::from_text("tolls.quillon", TOLLS)?;
    assert!(language.warnings().is_empty());
    Ok(())
}

#[test]
fn a_session_is_begun() -> Result<(), Box<dyn Error>> {
    use std::time::Duration;

    use quillon_core::runtime::{Limits, Recorder};

    let language = Language::from_text("tolls.quillon", TOLLS)?;
    let limits = Limits {
        steps: Some(1_000_000),
        time: Some(Duration::from_secs(1)),
        memory: Some(16 << 20),
        output: Some(1 << 16),
        ..Limits::default()
    };
    let mut session = language
        .session()
        .limits(limits)
        .state("rate", 7)?
        .start(Recorder::default())?;
    let value = session.run("first.tolls", "rate * 6")?;
    assert_eq!(value.as_integer(), Some(42));
    Ok(())
}

#[test]
fn values_go_in_and_out() -> Result<(), Box<dyn Error>> {
    let mut session = session()?;
    use quillon_core::values::Held;

    #[derive(serde::Deserialize)]
    struct Boat {
        name: String,
        tons: u32,
    }

    let boat: Boat = session.enter("p.tolls", "boat \"Heron\" 6 * 3")?.to()?;
    assert_eq!((boat.name.as_str(), boat.tons), ("Heron", 18));

    let list = Held::from(vec![4, 6, 9]);
    let map = Held::map([("name", Held::from("Kingcup")), ("stops", list)]);
    assert_eq!(
        map.entry("stops")
            .and_then(|stops| stops.items())
            .map(|items| items.len()),
        Some(3)
    );
    assert_eq!(map.written(), r#"{"name": "Kingcup", "stops": [4, 6, 9]}"#);
    Ok(())
}

#[test]
fn functions_of_the_program_are_called() -> Result<(), Box<dyn Error>> {
    let mut session = session()?;
    session.enter(
        "rules.tolls",
        "rule toll(tons, locks) = tons * rate + locks * 3",
    )?;
    let toll = session.function("toll")?;
    assert_eq!(toll.params(), ["tons", "locks"]);
    let pence: u32 = session.call(&toll, (18, 2))?.to()?;
    assert_eq!(pence, 42);

    let wrong = session.call(&toll, (18,)).unwrap_err();
    assert_eq!(wrong.to_string(), "`toll` takes 2 arguments, and gets 1");
    Ok(())
}

#[test]
fn functions_of_ones_own_are_offered() -> Result<(), Box<dyn Error>> {
    let language = language()?;
    use quillon_core::runtime::{Amount, Caller, Host, HostError, TooLarge};
    use quillon_core::values::Held;

    #[derive(Default)]
    struct Office {
        printed: String,
    }

    impl Host for Office {
        fn output(&mut self, text: &str) {
            self.printed.push_str(text);
        }

        fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
            Ok(None)
        }

        fn call(
            &mut self,
            name: &str,
            values: &[Held],
            caller: &mut Caller<'_>,
        ) -> Result<Held, HostError> {
            match (name, values) {
                // Any error will do: it is kept as the source of the run's error.
                ("tons", [text]) => Ok(text.shown().parse::<i64>()?.into()),
                // A function that was given can be called back.
                ("twice", [rule]) => {
                    let rule = rule.as_function().ok_or("a rule is needed")?;
                    let once = caller.call(&rule, (10,), self)?;
                    Ok(caller.call(&rule, (once,), self)?)
                }
                _ => Err(format!("the office has no {name}").into()),
            }
        }
    }

    let mut session = language.session().start(Office::default())?;
    session.enter("p.tolls", "rule more(x) = x * rate")?;
    assert_eq!(
        session
            .enter("p.tolls", "ask \"twice\"(more)")?
            .as_integer(),
        Some(40)
    );

    let wrong = session
        .enter("p.tolls", "ask \"tons\"(\"many\")")
        .unwrap_err();
    assert_eq!(
        wrong.to_string(),
        "invalid digit found in string at p.tolls:1:5"
    );
    assert!(std::error::Error::source(&wrong).is_some());
    Ok(())
}

#[test]
fn errors_are_shown() -> Result<(), Box<dyn Error>> {
    let mut session = session()?;
    let problems = session.run("p.tolls", "rate + \"a\"").unwrap_err();
    for problem in problems.iter() {
        // What the command line shows, with the source line; `shown` gives each part a style by its role.
        let page = quillon_render::diagnostic(problem);
        assert!(page.to_string().contains("1 │ rate + \"a\""));
        let html = page.shown(|role, text| format!("<span class=\"{role:?}\">{text}</span>"));
        assert!(html.contains("<span class=\"Error\">error</span>"));
    }
    Ok(())
}

/// A text without what formatting may change.
fn bare(text: &str) -> String {
    let text: String = text.chars().filter(|c| !c.is_whitespace()).collect();
    text.replace(",)", ")")
}

#[test]
fn every_block_of_the_page_stands_here() {
    let page = include_str!("../../../docs/embedding.md");
    let blocks = |kind: &str| -> Vec<&str> {
        let begun = page.split(kind).skip(1);
        begun
            .map(|rest| rest.split("```").next().unwrap())
            .collect()
    };
    let here = bare(include_str!("page.rs"));
    let all = blocks("```rust\n");
    assert_eq!(all.len(), 6);
    for (number, block) in all.into_iter().enumerate() {
        for part in block.split("\n\n") {
            assert!(here.contains(&bare(part)), "{number}: {part}");
        }
    }
    assert_eq!(blocks("```quillon\n"), [TOLLS]);
}
