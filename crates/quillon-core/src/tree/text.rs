//! The tree as text: one line, or one line a node.

use super::{Child, NodeId, Tree, What};
use crate::definition::{Definition, Literal};
use crate::lexing::{Lexer, Token};
use crate::source::{Position, SourceText};

/// One line of the tree drawn as an outline.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Line {
    /// How deep the node lies, from 0.
    pub depth: usize,
    /// The field it is in; repeated fields have a place in brackets: `steps[0]`.
    pub field: Option<String>,
    /// The form's name.
    pub form: Option<String>,
    /// A token's value as the notation writes it.
    pub value: Option<String>,
    /// Where it starts.
    pub position: Position,
}

/// The tree as an outline, a line a node.
pub fn lines(definition: &Definition, lexer: &Lexer, tree: &Tree) -> Vec<Line> {
    let mut out = Vec::new();
    let mut work: Vec<(NodeId, usize, Option<String>)> = vec![(tree.root(), 0, None)];
    while let Some((id, depth, field)) = work.pop() {
        let position = tree.source().position(tree.node(id).span.start);
        let mut line = Line {
            depth,
            field,
            form: None,
            value: None,
            position,
        };
        if let Some(form) = tree.form(id) {
            let form = &definition.forms[form];
            line.form = Some(form.name.text.clone());
            let mut children = Vec::new();
            for (index, field) in form.fields.iter().enumerate() {
                match tree.field(id, index) {
                    Child::Absent => {}
                    Child::One(child) => {
                        children.push((child, depth + 1, Some(field.name.text.clone())));
                    }
                    Child::Many(items) => {
                        children.extend(items.iter().enumerate().map(|(i, &child)| {
                            (child, depth + 1, Some(format!("{}[{i}]", field.name.text)))
                        }));
                    }
                }
            }
            work.extend(children.into_iter().rev());
        } else {
            line.value = Some(leaf(lexer, tree, id));
        }
        out.push(line);
    }
    out
}

/// A token's node: its value if it holds one, its text otherwise.
pub fn leaf(lexer: &Lexer, tree: &Tree, id: NodeId) -> String {
    let span = tree.node(id).span;
    match tree.node(id).what {
        What::Token(kind) => token_leaf(lexer, tree.source(), Token::new(kind, span)),
        What::Form(_) | What::List => word(tree.text(id)),
    }
}

fn token_leaf(lexer: &Lexer, source: &SourceText, token: Token) -> String {
    if lexer.kind(token.kind).holds.is_some() {
        value_text(&lexer.value(source, token))
    } else {
        word(source.slice(token.span))
    }
}

/// A text as it is, if it looks like a word, and in backquotes otherwise.
fn word(text: &str) -> String {
    let is_word = text.chars().all(|c| c.is_alphanumeric() || c == '_')
        && text.starts_with(|c: char| c.is_alphabetic() || c == '_');
    if is_word {
        text.to_owned()
    } else {
        format!("`{text}`")
    }
}

/// A token as cases write it: `let`, `` `+` ``, `Name(level)`, `Whole(2)`.
pub(crate) fn token_text(lexer: &Lexer, source: &SourceText, token: Token) -> String {
    let kind = lexer.kind(token.kind);
    if kind.is_literal() {
        word(&kind.name)
    } else if kind.is_layout() {
        kind.name.clone()
    } else {
        format!("{}({})", kind.name, token_leaf(lexer, source, token))
    }
}

/// A value as the notation writes it.
pub fn value_text(value: &Literal) -> String {
    match value {
        Literal::Nothing => "nothing".to_owned(),
        Literal::Truth(truth) => truth.to_string(),
        Literal::Integer(n) => n.to_string(),
        Literal::Number(n) => format!("{n:?}"),
        Literal::Text(text) => crate::diagnostic::quoted(text),
        Literal::List(items) => {
            let items: Vec<String> = items.iter().map(value_text).collect();
            format!("[{}]", items.join(", "))
        }
        Literal::Map(pairs) => {
            let pairs: Vec<String> = pairs
                .iter()
                .map(|(k, v)| format!("{}: {}", value_text(k), value_text(v)))
                .collect();
            format!("{{{}}}", pairs.join(", "))
        }
    }
}

/// A piece of a line that is still to be written.
enum Piece {
    Text(String),
    Node(NodeId),
}

/// Writes a tree from the root, with what a node is written as. Works with a stack of its
/// own, so that depth costs no native stack.
fn written_out(tree: &Tree, pieces_of: impl Fn(NodeId) -> Vec<Piece>) -> String {
    let mut out = String::new();
    let mut work = vec![Piece::Node(tree.root())];
    while let Some(piece) = work.pop() {
        match piece {
            Piece::Text(text) => out.push_str(&text),
            Piece::Node(id) => work.extend(pieces_of(id).into_iter().rev()),
        }
    }
    out
}

/// The tree on one line, as cases write it: `Add(Number(1), Number(2))`. Fields after
/// one that is absent are written with their names.
pub fn one_line(definition: &Definition, lexer: &Lexer, tree: &Tree) -> String {
    written_out(tree, |id| {
        let Some(form) = tree.form(id) else {
            return vec![Piece::Text(leaf(lexer, tree, id))];
        };
        let form = &definition.forms[form];
        let mut pieces = Vec::new();
        let mut named = false;
        for (index, field) in form.fields.iter().enumerate() {
            let child = tree.field(id, index);
            if let Child::Absent = child {
                named = true;
                continue;
            }
            if !pieces.is_empty() {
                pieces.push(Piece::Text(", ".to_owned()));
            }
            if named {
                pieces.push(Piece::Text(format!("{}: ", field.name.text)));
            }
            match child {
                Child::Absent => {}
                Child::One(child) => pieces.push(Piece::Node(child)),
                Child::Many(items) => {
                    pieces.push(Piece::Text("[".to_owned()));
                    for (i, &item) in items.iter().enumerate() {
                        if i > 0 {
                            pieces.push(Piece::Text(", ".to_owned()));
                        }
                        pieces.push(Piece::Node(item));
                    }
                    pieces.push(Piece::Text("]".to_owned()));
                }
            }
        }
        let name = form.name.text.clone();
        if pieces.is_empty() {
            return vec![Piece::Text(name)];
        }
        pieces.insert(0, Piece::Text(name + "("));
        pieces.push(Piece::Text(")".to_owned()));
        pieces
    })
}

/// The tree as an s-expression: a form is `(Form child …)`, with one element a field; a
/// repeated field is `(: item …)`, one that is absent `()`. Texts are in quotes.
pub fn to_sexp(definition: &Definition, lexer: &Lexer, tree: &Tree) -> String {
    written_out(tree, |id| {
        let Some(form) = tree.form(id) else {
            let text = leaf(lexer, tree, id);
            let sign = text.strip_prefix('`').and_then(|t| t.strip_suffix('`'));
            return vec![Piece::Text(match sign {
                Some(sign) => crate::diagnostic::quoted(sign),
                None => text,
            })];
        };
        let form = &definition.forms[form];
        let mut pieces = vec![Piece::Text(format!("({}", form.name.text))];
        for index in 0..form.fields.len() {
            pieces.push(Piece::Text(" ".to_owned()));
            match tree.field(id, index) {
                Child::Absent => pieces.push(Piece::Text("()".to_owned())),
                Child::One(child) => pieces.push(Piece::Node(child)),
                Child::Many(items) => {
                    pieces.push(Piece::Text("(:".to_owned()));
                    for &item in items {
                        pieces.push(Piece::Text(" ".to_owned()));
                        pieces.push(Piece::Node(item));
                    }
                    pieces.push(Piece::Text(")".to_owned()));
                }
            }
        }
        pieces.push(Piece::Text(")".to_owned()));
        pieces
    })
}
