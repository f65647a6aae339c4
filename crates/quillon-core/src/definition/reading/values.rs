//! The lines of `values`.

use super::cursor::Cursor;
use crate::definition::model::template::ValueKind;
use crate::definition::model::{EntriesShown, FunctionPart, Name, Shown, ValueLine};
use crate::diagnostic::codes;

/// `map called "a card" shown "{" plain key ": " value by ", " "}"`
pub(in crate::definition) fn value_line(cursor: &mut Cursor<'_>) -> Option<ValueLine> {
    let words = ValueKind::ALL.map(ValueKind::word);
    let span = cursor.span();
    let word = cursor.clause(&words, || "`values`".to_owned())?;
    let kind = ValueKind::ALL
        .into_iter()
        .find(|kind| kind.word() == word)?;
    let mut line = ValueLine {
        kind,
        name: Name {
            text: word.to_owned(),
            span,
        },
        called: None,
        shown: None,
    };
    if cursor.eat_word("called") {
        line.called = Some(cursor.text("what messages call it, in quotes")?);
    }
    if line.called.is_none() || !cursor.at_end() {
        if !cursor.at_word("shown") && line.called.is_none() {
            cursor.unexpected_word(&["called", "shown"]);
            return None;
        }
        cursor.expect_word("shown")?;
        line.shown = Some(shown(cursor, kind)?);
    }
    cursor.finish()?;
    Some(line)
}

fn shown(cursor: &mut Cursor<'_>, kind: ValueKind) -> Option<Shown> {
    Some(match kind {
        ValueKind::Nothing => Shown::Nothing(quoted(cursor, "how it is shown, in quotes")?),
        ValueKind::Coroutine => Shown::Coroutine(quoted(cursor, "how it is shown, in quotes")?),
        ValueKind::Truth => {
            let yes = quoted(cursor, "how what is true is shown, in quotes")?;
            cursor.expect_word("or")?;
            Shown::Truths([
                yes,
                quoted(cursor, "how what is false is shown, in quotes")?,
            ])
        }
        ValueKind::Integer => {
            let message = "an integer is shown by its digits";
            cursor.error(codes::DEFINITION_SYNTAX, message, cursor.last_span());
            return None;
        }
        ValueKind::Number => {
            cursor.expect_word("as")?;
            cursor.expect_word("integer")?;
            Shown::AsInteger
        }
        ValueKind::Text => {
            let open = quoted(cursor, "what stands before a text, in quotes")?;
            cursor.expect_word("text")?;
            Shown::Between([
                open,
                quoted(cursor, "what stands behind a text, in quotes")?,
            ])
        }
        ValueKind::List => {
            let open = quoted(cursor, "what stands before the items, in quotes")?;
            cursor.expect_word("item")?;
            let between = between(cursor)?;
            let close = quoted(cursor, "what stands behind the items, in quotes")?;
            Shown::Items([open, between, close])
        }
        ValueKind::Map => Shown::Entries(entries(cursor)?),
        ValueKind::Function => Shown::Function(function(cursor)?),
    })
}

fn quoted(cursor: &mut Cursor<'_>, what: &str) -> Option<String> {
    cursor.text(what).map(|name| name.text)
}

/// `by ", "`
fn between(cursor: &mut Cursor<'_>) -> Option<String> {
    cursor.expect_word("by")?;
    quoted(cursor, "what stands between two of them, in quotes")
}

/// `"{" plain key ": " value by ", " "}"`
fn entries(cursor: &mut Cursor<'_>) -> Option<EntriesShown> {
    let open = quoted(cursor, "what stands before the entries, in quotes")?;
    let is_plain = cursor.eat_word("plain");
    cursor.expect_word("key")?;
    let to = quoted(cursor, "what stands between a key and its value, in quotes")?;
    cursor.expect_word("value")?;
    Some(EntriesShown {
        open,
        is_plain,
        to,
        between: between(cursor)?,
        close: quoted(cursor, "what stands behind the entries, in quotes")?,
    })
}

/// `"way " name "(" params by ", " ")"`
fn function(cursor: &mut Cursor<'_>) -> Option<Vec<FunctionPart>> {
    let mut parts = vec![FunctionPart::Text(quoted(
        cursor,
        "how a function is shown, in quotes",
    )?)];
    while !cursor.at_end() {
        parts.push(if cursor.eat_word("name") {
            FunctionPart::Name
        } else if cursor.eat_word("params") {
            FunctionPart::Params(between(cursor)?)
        } else {
            FunctionPart::Text(quoted(cursor, "a text in quotes, `name` or `params`")?)
        });
    }
    Some(parts)
}
