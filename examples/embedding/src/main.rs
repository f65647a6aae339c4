//! Runs the rules of a day: `cargo run -p quillon-example-embedding`.

use std::process::ExitCode;

use quillon_core::diagnostic::Diagnostic;
use quillon_example_embedding::{Books, Office, language};

const RULES: &str = r#"
rule plain for boat is 3 + tons of boat * 2.
note "the tolls of the day are set".
"#;

fn main() -> ExitCode {
    let books = Books {
        tons: [("Heron", 18), ("Kingcup", 4)]
            .map(|(boat, tons)| (boat.to_owned(), tons))
            .into(),
        ..Books::default()
    };
    let language = match language() {
        Ok(language) => language,
        Err(mistakes) => return fail(mistakes.iter().map(Diagnostic::in_one_line)),
    };
    let mut office = match Office::new(&language, books, 0) {
        Ok(office) => office,
        Err(mistake) => return fail([mistake.in_one_line()].into_iter()),
    };
    if let Err(mistakes) = office.take_in(RULES) {
        return fail(mistakes.iter().map(Diagnostic::in_one_line));
    }
    print!("{}", office.books.notes);
    for boat in ["Heron", "Kingcup", "Wherry"] {
        match office.toll("plain", boat) {
            Ok(toll) => println!("{boat} pays {}", toll.shown()),
            Err(mistakes) => {
                for mistake in mistakes {
                    println!("{boat}: {}", mistake.in_one_line());
                }
            }
        }
    }
    ExitCode::SUCCESS
}

fn fail(messages: impl Iterator<Item = String>) -> ExitCode {
    messages.for_each(|message| eprintln!("{message}"));
    ExitCode::FAILURE
}
