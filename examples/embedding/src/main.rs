//! Runs the rules of a day: `cargo run -p quillon-example-embedding`.

use std::error::Error;

use quillon_example_embedding::{Books, Office, language};

const RULES: &str = r#"
rule plain for boat is 3 + tons of boat * 2.
note "the tolls of the day are set".
note plain of the fleet.
"#;

fn main() -> Result<(), Box<dyn Error>> {
    let books = Books {
        tons: [("Heron", 18), ("Kingcup", 4)]
            .map(|(boat, tons)| (boat.to_owned(), tons))
            .into(),
        ..Books::default()
    };
    let language = language()?;
    let mut office = Office::new(&language, books, 0)?;
    office.take_in(RULES)?;
    print!("{}", office.books().notes);
    for boat in ["Heron", "Kingcup", "Wherry"] {
        match office.toll("plain", boat) {
            Ok(toll) => println!("{boat} pays {toll}"),
            Err(problem) => println!("{boat}: {problem}"),
        }
    }
    Ok(())
}
