//! Examples and cases: a program and what it must do.

use std::sync::Arc;

use super::cursor::Cursor;
use super::expectation::{EXPECTATIONS, expectation, failing, given, tree_term};
use super::lexer::{Mode, Word};
use super::lines::{Item, content_of};
use super::trial;
use crate::definition::model::{Earlier, Example, Expectation, Expected, Failing, Given};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::{SourceText, Span};

/// What to do about a case without a program.
const NO_PROGRAM: &str = "put it in backquotes, or put each of its lines behind a bar: `| line`";

/// Whether the next word says what a case finds or expects.
fn begins_clause(cursor: &Cursor<'_>) -> bool {
    match cursor.peek() {
        Word::Name(word) => EXPECTATIONS.contains(&word.as_str()),
        _ => false,
    }
}

/// An `example` clause.
pub(in crate::definition) fn example(
    source: &Arc<SourceText>,
    span: Span,
    title: String,
    diagnostics: &mut Vec<Diagnostic>,
) -> Option<Example> {
    let after = Span {
        start: span.start + "example".len() as u32,
        end: span.end,
    };
    let mut reader = CaseReader::new(source);
    let example = reader.short_case(after, title);
    diagnostics.extend(reader.diagnostics);
    example.filter(|example| !example.expectations.is_empty())
}

/// Reads cases, in a definition or in a file of their own.
pub(in crate::definition) struct CaseReader<'a> {
    source: &'a Arc<SourceText>,
    pub diagnostics: Vec<Diagnostic>,
}

impl<'a> CaseReader<'a> {
    pub fn new(source: &'a Arc<SourceText>) -> CaseReader<'a> {
        CaseReader {
            source,
            diagnostics: Vec::new(),
        }
    }

    pub fn report(&mut self, diagnostic: Diagnostic) {
        self.diagnostics.push(diagnostic);
    }

    fn cursor(&mut self, span: Span) -> Cursor<'_> {
        Cursor::new(self.source, span, Mode::Plain, &mut self.diagnostics)
    }

    fn read<T>(&mut self, span: Span, reader: impl Fn(&mut Cursor<'_>) -> Option<T>) -> Option<T> {
        trial::read(
            self.source,
            span,
            Mode::Plain,
            &mut self.diagnostics,
            reader,
        )
    }

    /// A program in backquotes or behind bars, with its expectations after it.
    pub fn short_case(&mut self, span: Span, title: String) -> Option<Example> {
        let (barred, rest) = split_bars(self.source, span);
        let mut example = empty(title, span, span);
        let mut has_program = barred.is_some();
        example.program = barred.unwrap_or_default();
        let before = self.diagnostics.len();
        for part in rest {
            let read = self.read(part, |cursor| {
                let mut own = example.clone();
                let mut has_program = has_program;
                while !cursor.at_end() {
                    short_clause(cursor, &mut own, &mut has_program)?;
                }
                Some((own, has_program))
            });
            if let Some(read) = read {
                (example, has_program) = read;
            }
        }
        // What follows from a mistake above is not said.
        if self.diagnostics.len() > before {
            return None;
        }
        self.finished(example, has_program, span)
    }

    /// A `case` item: a `program` clause and one clause an expectation.
    pub fn long_case(&mut self, item: &Item, title: &str) -> Option<Example> {
        let mut example = empty(title.to_owned(), item.head, item.span());
        let mut has_program = false;
        let before = self.diagnostics.len();
        for &span in &item.clauses {
            if let Some(after) = self.after_word(span, "program") {
                example.program = self.text(after)?;
                has_program = true;
            } else if let Some(after) = self.after_word(span, "after") {
                let entry = self.earlier(after)?;
                example.after.push(entry);
            } else if let Some(printed) = self.barred(span, "prints back") {
                let expected = Expected::PrintsBack(printed.trim_end().to_owned());
                example.expectations.push(Expectation { expected, span });
            } else if let Some(printed) = self.barred(span, "prints") {
                let expected = Expected::Prints(printed);
                example.expectations.push(Expectation { expected, span });
            } else if let Some(input) = self.barred(span, "given input") {
                example.given.push(Given::Input(input));
            } else {
                let read = self.read(span, |cursor| {
                    let mut own = example.clone();
                    let mut is_there = has_program;
                    if cursor.at_word("from") {
                        is_there = false;
                        short_clause(cursor, &mut own, &mut is_there)?;
                    }
                    while !cursor.at_end() {
                        clause(cursor, &mut own)?;
                    }
                    Some((own, is_there))
                });
                if let Some(read) = read {
                    (example, has_program) = read;
                }
            }
        }
        // What follows from a mistake above is not said.
        if self.diagnostics.len() > before {
            return None;
        }
        self.finished(example, has_program, item.head)
    }

    /// The case, unless it has no program; one without expectations is said to be so.
    fn finished(&mut self, example: Example, has_program: bool, at: Span) -> Option<Example> {
        if !has_program {
            self.report(
                Diagnostic::error(codes::CASE_SYNTAX, "there is no program here")
                    .at(self.source, at)
                    .remedy(NO_PROGRAM),
            );
            return None;
        }
        if example.expectations.is_empty() {
            let accept = format!("quillon test --accept --only \"{}\"", example.title);
            self.report(
                Diagnostic::error(
                    codes::CASE_EMPTY,
                    "this program is expected to do nothing in particular",
                )
                .at(self.source, at)
                .remedy("say what it must do: `gives VALUE`, `prints \"…\"`, `fails \"…\" at LINE:COLUMN` or `tree TREE`")
                .remedy(format!("or run `{accept}`, which writes down what it does")),
            );
        }
        Some(example)
    }

    /// An entry in backquotes, or behind bars, and the error that it ends in, if it does: of one
    /// behind bars before it.
    fn earlier(&mut self, after: Span) -> Option<Earlier> {
        let (barred, rest) = split_bars(self.source, after);
        match (barred, &rest[..]) {
            (Some(text), []) => Some(Earlier::new(text)),
            (Some(text), [failing]) => {
                let failing = self.read(*failing, |cursor| {
                    let found = ended_in(cursor)?;
                    cursor.finish()?;
                    found
                })?;
                Some(Earlier {
                    text,
                    failing: Some(failing),
                })
            }
            (None | Some(_), _) => self.read(after, |cursor| {
                let entry = earlier(cursor)?;
                cursor.finish()?;
                Some(entry)
            }),
        }
    }

    /// A text in backquotes or behind bars; anything else is reported.
    fn text(&mut self, after: Span) -> Option<String> {
        let (barred, rest) = split_bars(self.source, after);
        if barred.is_some() && rest.is_empty() {
            return barred;
        }
        let mut cursor = self.cursor(rest.first().copied().unwrap_or(after));
        let text = match cursor.peek().clone() {
            Word::Program(text) if rest.len() == 1 && barred.is_none() => Some(text),
            _ => None,
        };
        if text.is_some() {
            cursor.advance();
        } else {
            cursor.unexpected("a program in backquotes, or lines behind bars");
        }
        cursor.finish();
        text
    }

    /// The lines behind bars of a clause of a word, if it has nothing else.
    fn barred(&self, span: Span, word: &str) -> Option<String> {
        let after = self.after_word(span, word)?;
        let (barred, rest) = split_bars(self.source, after);
        barred.filter(|_| rest.is_empty())
    }

    /// What stands in a clause after a word, if it begins with it.
    fn after_word(&self, span: Span, word: &str) -> Option<Span> {
        let rest = self.source.slice(span).strip_prefix(word)?;
        (!rest.starts_with(|c: char| c.is_alphanumeric())).then(|| Span {
            start: span.start + word.len() as u32,
            end: span.end,
        })
    }
}

/// A case of which only the place is known.
fn empty(title: String, span: Span, whole: Span) -> Example {
    Example {
        title,
        after: Vec::new(),
        reading: None,
        surface: None,
        program: String::new(),
        start: None,
        span,
        whole,
        given: Vec::new(),
        expectations: Vec::new(),
    }
}

/// A program, what comes before it, or one thing that a case finds or expects.
fn short_clause(
    cursor: &mut Cursor<'_>,
    example: &mut Example,
    has_program: &mut bool,
) -> Option<()> {
    if let (Word::Text(_), false) = (cursor.peek(), *has_program) {
        let message = format!("expected a program, found {}", cursor.found());
        let error = Diagnostic::error(codes::CASE_SYNTAX, message).at(cursor.source, cursor.span());
        cursor.report(error.remedy("put programs in backquotes"));
        return None;
    }
    if cursor.eat_word("after") {
        example.after.push(earlier(cursor)?);
    } else if *has_program {
        clause(cursor, example)?;
    } else if let Word::Program(text) = cursor.peek() {
        example.program.clone_from(text);
        *has_program = true;
        cursor.advance();
    } else if cursor.eat_word("from") {
        let start = cursor.span();
        example.start = Some(tree_term(cursor)?);
        let span = start.to(cursor.last_span());
        cursor.source.slice(span).clone_into(&mut example.program);
        *has_program = true;
    } else if begins_clause(cursor) {
        clause(cursor, example)?;
    } else {
        let has_word =
            cursor.at_word("program") && matches!(cursor.peek_second(), Word::Program(_));
        let (message, remedy) = if has_word {
            (
                "a case on one line has its program without this word",
                "leave it out",
            )
        } else {
            ("there is no program here", NO_PROGRAM)
        };
        let error = Diagnostic::error(codes::CASE_SYNTAX, message);
        cursor.report(error.at(cursor.source, cursor.span()).remedy(remedy));
        return None;
    }
    Some(())
}

/// An entry in backquotes, and the error that it ends in, if it does.
fn earlier(cursor: &mut Cursor<'_>) -> Option<Earlier> {
    let Word::Program(text) = cursor.peek().clone() else {
        cursor.unexpected("an entry in backquotes, or lines behind bars");
        return None;
    };
    cursor.advance();
    let failing = ended_in(cursor)?;
    Some(Earlier { text, failing })
}

/// `failing "no binding"`, if it stands here.
#[expect(clippy::option_option, reason = "an outcome, and whether it is there")]
fn ended_in(cursor: &mut Cursor<'_>) -> Option<Option<Failing>> {
    if cursor.eat_word("failing") {
        return failing(cursor).map(Some);
    }
    Some(None)
}

/// One thing that a case finds or expects.
fn clause(cursor: &mut Cursor<'_>, example: &mut Example) -> Option<()> {
    if cursor.eat_word("given") {
        example.given.push(given(cursor)?);
    } else if cursor.eat_word("as") {
        example.reading = Some(cursor.name("the sort that the program is read as")?);
    } else if cursor.eat_word("in") {
        example.surface = Some(cursor.name("the surface that the program is written in")?);
    } else {
        example.expectations.push(expectation(cursor)?);
    }
    Some(())
}

/// Separates the lines behind bars, as a program, from the other stretches.
pub(in crate::definition) fn split_bars(
    source: &Arc<SourceText>,
    span: Span,
) -> (Option<String>, Vec<Span>) {
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
        if source.slice(content).trim().is_empty() {
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
