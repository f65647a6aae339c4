//! The state of a language, read from a file.

use std::path::Path;

use quillon_core::SessionBuilder;
use quillon_core::definition::Literal;
use quillon_core::diagnostic::{Diagnostic, codes, quote};
use quillon_core::values::Held;
use serde_json::Value as Json;

use crate::files;
use crate::stop::Stop;

/// A session that begins with the state in a JSON file.
pub fn given(path: &Path, mut builder: SessionBuilder) -> Result<SessionBuilder, Stop> {
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
    for (cell, value) in cells {
        builder = builder.state(&cell, Held::new(literal(&value)))?;
    }
    Ok(builder)
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
