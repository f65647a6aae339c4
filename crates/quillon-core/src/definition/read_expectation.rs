//! Examples and case files: a program and what it must do.

use std::sync::Arc;

use super::Name;
use super::cursor::Cursor;
use super::expectation::{Example, Expectation, Expected, Given, Literal, TreeTerm};
use super::lexer::{Mode, Word};
use super::lines::{Item, content_of, items};
use crate::diagnostic::{Diagnostic, Outcome, codes, nearest, quote};
use crate::source::{Position, SourceText, Span};

/// The words that say what must hold.
const EXPECTATIONS: [&str; 6] = ["gives", "prints", "fails", "leaves", "tree", "given"];

/// The cases of one file.
#[derive(Clone, Debug)]
pub struct CaseFile {
    /// The text they were read from.
    pub source: Arc<SourceText>,
    /// The cases, in order.
    pub cases: Vec<Example>,
}

/// Reads a case file; its errors point at its lines.
pub fn read_cases(source: &Arc<SourceText>) -> Outcome<CaseFile> {
    let mut diagnostics = Vec::new();
    let mut cases = Vec::new();
    let (items, stray) = items(source);
    for span in stray {
        diagnostics.push(
            Diagnostic::error(codes::CASE_SYNTAX, "this indented line belongs to no case")
                .at(source, span)
                .remedy("start with a line `case TITLE` or `cases of TITLE`, in column one"),
        );
    }
    for item in &items {
        let head = source.slice(item.head);
        if let Some(title) = head.strip_prefix("cases of ") {
            for (number, &clause) in item.clauses.iter().enumerate() {
                let title = format!("{} ({})", title.trim(), number + 1);
                cases.extend(one_line_case(source, clause, title, &mut diagnostics));
            }
        } else if let Some(title) = head.strip_prefix("case ") {
            cases.extend(long_case(source, item, title.trim(), &mut diagnostics));
        } else {
            diagnostics.push(
                Diagnostic::error(
                    codes::CASE_SYNTAX,
                    format!("{} starts no case", quote(head)),
                )
                .at(source, item.head)
                .remedy(
                    "a case starts with `case TITLE`, a table of short ones with `cases of TITLE`",
                ),
            );
        }
    }
    Outcome {
        value: Some(CaseFile {
            source: Arc::clone(source),
            cases,
        }),
        diagnostics,
    }
}

/// An `example` clause.
pub(super) fn example(
    source: &Arc<SourceText>,
    span: Span,
    title: String,
    diagnostics: &mut Vec<Diagnostic>,
) -> Option<Example> {
    let after = Span {
        start: span.start + "example".len() as u32,
        end: span.end,
    };
    one_line_case(source, after, title, diagnostics)
}

/// A program in backquotes or behind bars, with its expectations after it.
fn one_line_case(
    source: &Arc<SourceText>,
    span: Span,
    title: String,
    diagnostics: &mut Vec<Diagnostic>,
) -> Option<Example> {
    let (barred, rest) = split_bars(source, span);
    let mut example = Example {
        title,
        program: String::new(),
        span,
        given: Vec::new(),
        expectations: Vec::new(),
    };
    let mut has_program = barred.is_some();
    example.program = barred.unwrap_or_default();
    for part in rest {
        let mut cursor = Cursor::new(source, part, Mode::Plain, diagnostics);
        if !has_program && let Word::Program(text) = cursor.peek() {
            example.program.clone_from(text);
            has_program = true;
            cursor.advance();
        }
        while !cursor.at_end() {
            if cursor.eat_word("given") {
                example.given.push(given(&mut cursor)?);
                continue;
            }
            let expectation = expectation(&mut cursor)?;
            example.expectations.push(expectation);
        }
    }
    if !has_program {
        diagnostics.push(
            Diagnostic::error(codes::CASE_SYNTAX, "there is no program here")
                .at(source, span)
                .remedy("put it in backquotes, or put each of its lines behind a bar: `| line`"),
        );
        return None;
    }
    if example.expectations.is_empty() {
        diagnostics.push(
            Diagnostic::error(codes::CASE_SYNTAX, "this program is expected to do nothing in particular")
                .at(source, span)
                .remedy("say what it must do: `gives VALUE`, `prints \"…\"`, `fails \"…\" at LINE:COLUMN` or `tree TREE`"),
        );
        return None;
    }
    Some(example)
}

/// A `case` item: a `program` clause and one clause an expectation.
fn long_case(
    source: &Arc<SourceText>,
    item: &Item,
    title: &str,
    diagnostics: &mut Vec<Diagnostic>,
) -> Option<Example> {
    let mut program = None;
    let (mut given_first, mut expectations) = (Vec::new(), Vec::new());
    let before = diagnostics.len();
    for &clause in &item.clauses {
        let text = source.slice(clause);
        if let Some(rest) = text.strip_prefix("program")
            && !rest.starts_with(|c: char| c.is_alphanumeric())
        {
            let after = Span {
                start: clause.start + "program".len() as u32,
                end: clause.end,
            };
            let (barred, rest) = split_bars(source, after);
            program = barred;
            for part in rest {
                let mut cursor = Cursor::new(source, part, Mode::Plain, diagnostics);
                match cursor.advance().word {
                    Word::Program(text) => program = Some(text),
                    _ => cursor.unexpected("the program"),
                }
            }
            continue;
        }
        let mut cursor = Cursor::new(source, clause, Mode::Plain, diagnostics);
        while !cursor.at_end() {
            if cursor.eat_word("given") {
                match given(&mut cursor) {
                    Some(found) => given_first.push(found),
                    None => break,
                }
                continue;
            }
            match expectation(&mut cursor) {
                Some(found) => expectations.push(found),
                None => break,
            }
        }
    }
    let missing = if program.is_none() {
        Some("a `program`, each line behind a bar: `| line`")
    } else if expectations.is_empty() {
        Some("what it must do: `gives VALUE`, `prints \"…\"`, `fails \"…\"` or `tree TREE`")
    } else {
        None
    };
    if let Some(missing) = missing {
        if diagnostics.len() == before {
            diagnostics.push(
                Diagnostic::error(codes::CASE_SYNTAX, format!("this case lacks {missing}"))
                    .at(source, item.head),
            );
        }
        return None;
    }
    Some(Example {
        title: title.to_owned(),
        program: program?,
        span: item.head,
        given: given_first,
        expectations,
    })
}

/// Separates the lines behind bars, as a program, from the other stretches.
fn split_bars(source: &Arc<SourceText>, span: Span) -> (Option<String>, Vec<Span>) {
    let mut program: Option<String> = None;
    let mut rest: Vec<Span> = Vec::new();
    let first = source.line_of(span.start);
    let mut after_bar = true;
    for line in first..=source.line_of(span.end) {
        let Some((_, mut content)) = content_of(source, line) else {
            continue;
        };
        content.start = content.start.max(span.start);
        if content.start >= content.end {
            continue;
        }
        if line > first
            && let Some(text) = source.slice(content).strip_prefix('|')
        {
            let whole = source.slice(Span {
                start: content.start + 1,
                end: source.line_span(line).end,
            });
            let text = if text.is_empty() { "" } else { whole };
            let program = program.get_or_insert_default();
            program.push_str(text.strip_prefix(' ').unwrap_or(text));
            program.push('\n');
            after_bar = true;
        } else if let Some(last) = rest.last_mut().filter(|_| !after_bar) {
            last.end = content.end;
        } else {
            rest.push(content);
            after_bar = false;
        }
    }
    (program, rest)
}

fn expectation(cursor: &mut Cursor<'_>) -> Option<Expectation> {
    let start = cursor.span();
    let expected = if cursor.eat_word("gives") {
        Expected::Gives(literal(cursor)?)
    } else if cursor.eat_word("prints") {
        Expected::Prints(cursor.text("the printed text in quotes")?.text)
    } else if cursor.eat_word("fails") {
        let message = cursor.text("a part of the message in quotes")?.text;
        let place = if cursor.eat_word("at") {
            Some(position(cursor)?)
        } else {
            None
        };
        Expected::Fails(message, place)
    } else if cursor.eat_word("leaves") {
        let (cell, value) = cell(cursor)?;
        Expected::Leaves(cell, value)
    } else if cursor.eat_word("tree") {
        Expected::Tree(tree_term(cursor)?)
    } else {
        let near = match cursor.peek() {
            Word::Name(word) => nearest(word, EXPECTATIONS),
            _ => None,
        };
        let message = format!(
            "found {} where `gives`, `prints`, `fails`, `leaves`, `tree` or `given` is expected",
            cursor.found()
        );
        let diagnostic = Diagnostic::error(codes::CASE_SYNTAX, message)
            .at(cursor.source, start)
            .did_you_mean(near);
        cursor.report(diagnostic);
        return None;
    };
    Some(Expectation {
        expected,
        span: start.to(cursor.last_span()),
    })
}

/// After `given`: `state NAME = VALUE`, or `input "LINES"`.
fn given(cursor: &mut Cursor<'_>) -> Option<Given> {
    if cursor.eat_word("state") {
        let (name, value) = cell(cursor)?;
        return Some(Given::State(name, value));
    }
    if cursor.eat_word("input") {
        return Some(Given::Input(
            cursor.text("what is to be read, in quotes")?.text,
        ));
    }
    cursor.unexpected_word(&["state", "input"]);
    None
}

/// `NAME = VALUE`
fn cell(cursor: &mut Cursor<'_>) -> Option<(Name, Literal)> {
    let name = cursor.name("a cell of the state")?;
    cursor.expect_sign("=")?;
    Some((name, literal(cursor)?))
}

fn position(cursor: &mut Cursor<'_>) -> Option<Position> {
    let line = whole(cursor)?;
    cursor.expect_sign(":")?;
    let column = whole(cursor)?;
    Some(Position { line, column })
}

fn whole(cursor: &mut Cursor<'_>) -> Option<u32> {
    if let Word::Integer(value) = cursor.peek()
        && let Ok(value) = u32::try_from(*value)
    {
        cursor.advance();
        return Some(value);
    }
    cursor.unexpected("a place as LINE:COLUMN");
    None
}

/// A value as the notation writes it.
pub(super) fn literal(cursor: &mut Cursor<'_>) -> Option<Literal> {
    cursor.enter()?;
    let negative = cursor.eat_sign("-");
    let value = match cursor.peek().clone() {
        Word::Integer(n) => Literal::Integer(if negative { -n } else { n }),
        Word::Number(n) => Literal::Number(if negative { -n } else { n }),
        Word::Text(text) if !negative => Literal::Text(text),
        Word::Name(word) if !negative => match word.as_str() {
            "true" => Literal::Truth(true),
            "false" => Literal::Truth(false),
            "nothing" => Literal::Nothing,
            _ => {
                cursor.unexpected("a value");
                return None;
            }
        },
        Word::Sign("[") if !negative => {
            cursor.advance();
            let items = listed(cursor, "]", literal)?;
            cursor.leave();
            return Some(Literal::List(items));
        }
        Word::Sign("{") if !negative => {
            cursor.advance();
            let pairs = listed(cursor, "}", |cursor| {
                let key = literal(cursor)?;
                cursor.expect_sign(":")?;
                Some((key, literal(cursor)?))
            })?;
            cursor.leave();
            return Some(Literal::Map(pairs));
        }
        _ => {
            cursor.unexpected("a value");
            return None;
        }
    };
    cursor.advance();
    cursor.leave();
    Some(value)
}

/// Items with commas between, up to and over the closing sign.
fn listed<T>(
    cursor: &mut Cursor<'_>,
    close: &'static str,
    mut item: impl FnMut(&mut Cursor<'_>) -> Option<T>,
) -> Option<Vec<T>> {
    let mut items = Vec::new();
    while !cursor.at_sign(close) {
        items.push(item(cursor)?);
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(close)?;
    Some(items)
}

/// A tree as the notation writes it.
pub(super) fn tree_term(cursor: &mut Cursor<'_>) -> Option<TreeTerm> {
    cursor.enter()?;
    let term = match cursor.peek().clone() {
        Word::Name(word) if !["true", "false", "nothing"].contains(&word.as_str()) => {
            cursor.advance();
            if cursor.eat_sign("(") {
                let children = listed(cursor, ")", |cursor| {
                    let named = matches!(cursor.peek_second(), Word::Sign(":"));
                    let name = if named {
                        let name = cursor.name("a field")?.text;
                        cursor.advance();
                        Some(name)
                    } else {
                        None
                    };
                    Some((name, tree_term(cursor)?))
                })?;
                TreeTerm::Form(word, children)
            } else {
                TreeTerm::Word(word)
            }
        }
        Word::Sign("[") => {
            cursor.advance();
            TreeTerm::List(listed(cursor, "]", tree_term)?)
        }
        Word::Program(text) => {
            cursor.advance();
            TreeTerm::Word(text)
        }
        _ => TreeTerm::Value(literal(cursor)?),
    };
    cursor.leave();
    Some(term)
}
