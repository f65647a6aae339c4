//! The tree as JSON: `kind`, `span` and `fields` for a form; `kind`, `span`, `text` and
//! `value` for a token.

use serde_json::{Map, Value, json};

use super::{Child, NodeId, Tree, What};
use crate::definition::{Definition, Literal};
use crate::lexing::Lexer;

/// A whole tree. Nodes are made from the leaves up, so that depth costs no stack; the
/// nesting of the result itself is bounded by the depth limit of parsing.
pub fn to_json(definition: &Definition, lexer: &Lexer, tree: &Tree) -> Value {
    node(definition, lexer, tree, tree.root())
}

fn node(definition: &Definition, lexer: &Lexer, tree: &Tree, id: NodeId) -> Value {
    let place = crate::diagnostic::Place::new(tree.source(), tree.node(id).span);
    let mut out = Map::new();
    match tree.node(id).what {
        What::Form(form) => {
            let form = &definition.forms[form as usize];
            out.insert("kind".into(), json!(form.name.text));
            out.insert("span".into(), span_json(&place));
            let mut fields = Map::new();
            for (index, field) in form.fields.iter().enumerate() {
                let value = match tree.field(id, index) {
                    Child::Absent => Value::Null,
                    Child::One(child) => node(definition, lexer, tree, child),
                    Child::Many(items) => items
                        .iter()
                        .map(|&child| node(definition, lexer, tree, child))
                        .collect(),
                };
                fields.insert(field.name.text.clone(), value);
            }
            out.insert("fields".into(), Value::Object(fields));
        }
        What::Token(kind) => {
            out.insert("kind".into(), json!(lexer.kind(kind).name));
            out.insert("span".into(), span_json(&place));
            out.insert("text".into(), json!(tree.text(id)));
            if lexer.kind(kind).holds.is_some()
                && let Some(value) = tree.value(lexer, id)
            {
                out.insert("value".into(), literal_json(&value));
            }
        }
        What::List => {}
    }
    Value::Object(out)
}

/// A place inside a tree, without the file and the text.
fn span_json(place: &crate::diagnostic::Place) -> Value {
    let start = place.source.position(place.span.start);
    json!({
        "start": place.span.start,
        "end": place.span.end,
        "line": start.line,
        "column": start.column,
    })
}

/// A value as JSON.
pub fn literal_json(value: &Literal) -> Value {
    match value {
        Literal::Nothing => Value::Null,
        Literal::Truth(truth) => json!(truth),
        Literal::Integer(n) => json!(n),
        Literal::Number(n) => json!(n),
        Literal::Text(text) => json!(text),
        Literal::List(items) => items.iter().map(literal_json).collect(),
        Literal::Map(pairs) => pairs
            .iter()
            .map(|(k, v)| json!([literal_json(k), literal_json(v)]))
            .collect(),
    }
}
