//! The state of a language, read from a file.

use std::path::Path;

use quillon_core::Language;
use quillon_core::definition::Literal;
use quillon_core::diagnostic::{Diagnostic, codes, nearest, quote};
use quillon_core::values::Held;
use serde_json::Value as Json;

use crate::files;
use crate::stop::Stop;

/// The cells that a JSON file gives values to.
pub fn read(path: &Path, language: &Language) -> Result<Vec<(String, Held)>, Stop> {
    let source = files::read(path)?;
    let name = quote(&path.display().to_string());
    let wrong = |message: String| Diagnostic::error(codes::FILE_STATE, message);
    let json: Json = serde_json::from_str(source.text()).map_err(|error| {
        Stop::Unreadable(Box::new(wrong(format!("{name} is no JSON: {error}"))))
    })?;
    let Json::Object(cells) = json else {
        let problem = wrong(format!("{name} is no JSON object"))
            .remedy("write `{\"CELL\": VALUE}`, with a value for each cell that is to be set");
        return Err(Stop::Unreadable(Box::new(problem)));
    };
    let known = &language.definition().state;
    let mut given = Vec::new();
    for (cell, value) in cells {
        if !known.iter().any(|k| k.name.text == cell) {
            let near = nearest(&cell, known.iter().map(|k| k.name.text.as_str()));
            let problem = wrong(format!("the state has no {}", quote(&cell))).did_you_mean(near);
            return Err(Stop::Unreadable(Box::new(problem)));
        }
        given.push((cell, Held::new(literal(&value))));
    }
    Ok(given)
}

fn literal(json: &Json) -> Literal {
    match json {
        Json::Null => Literal::Nothing,
        Json::Bool(truth) => Literal::Truth(*truth),
        Json::Number(number) => number.as_i64().map_or_else(
            || Literal::Number(number.as_f64().unwrap_or_default()),
            Literal::Integer,
        ),
        Json::String(text) => Literal::Text(text.clone()),
        Json::Array(items) => Literal::List(items.iter().map(literal).collect()),
        Json::Object(pairs) => Literal::Map(
            pairs
                .iter()
                .map(|(key, value)| (Literal::Text(key.clone()), literal(value)))
                .collect(),
        ),
    }
}
