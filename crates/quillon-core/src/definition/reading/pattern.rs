//! Token patterns: the operators of the W3C's EBNF.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::{CharSet, Pattern};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};

/// The named classes.
const CLASSES: [&str; 5] = [
    "letter",
    "digit",
    "any",
    "identifier_start",
    "identifier_part",
];

/// The words that may follow a pattern.
const SUFFIXES: [&str; 6] = ["ignored", "holds", "holes", "enters", "leaves", "until"];

/// A pattern: alternatives of sequences.
pub(in crate::definition) fn pattern(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    cursor.enter()?;
    let mut choices = vec![sequence(cursor)?];
    while cursor.eat_sign("|") {
        choices.push(sequence(cursor)?);
    }
    cursor.leave();
    Some(if choices.len() == 1 {
        choices.remove(0)
    } else {
        Pattern::Choice(choices)
    })
}

fn sequence(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    let mut parts = Vec::new();
    while starts_part(cursor) {
        parts.push(difference(cursor)?);
    }
    match parts.len() {
        0 => {
            cursor.unexpected(
                "a pattern (a quoted text, a class like `[a-z]`, or `letter`, `digit`, `any`)",
            );
            None
        }
        1 => parts.pop(),
        _ => Some(Pattern::Sequence(parts)),
    }
}

fn starts_part(cursor: &Cursor<'_>) -> bool {
    match cursor.peek() {
        Word::Text(_) | Word::Class(_) => true,
        Word::Name(name) => !SUFFIXES.contains(&name.as_str()),
        _ => cursor.at_sign("("),
    }
}

/// `A - B`, which binds looser than what repeats and tighter than what follows.
fn difference(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    let start = cursor.span();
    let mut part = repeated(cursor)?;
    while cursor.eat_sign("-") {
        cursor.link()?;
        part = match (part, repeated(cursor)?) {
            (Pattern::Class(left), Pattern::Class(right)) => Pattern::Class(left.minus(&right)),
            (left, right) => Pattern::Except(Box::new(left), Box::new(right)),
        };
        if matches!(&part, Pattern::Class(set) if set.is_empty()) {
            cursor.error(
                codes::DEFINITION_PATTERN,
                "nothing is left of this class, so nothing can match it",
                start.to(cursor.last_span()),
            );
            return None;
        }
    }
    Some(part)
}

fn repeated(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    let mut part = single(cursor)?;
    loop {
        cursor.link()?;
        part = if cursor.eat_sign("*") {
            Pattern::Star(Box::new(part))
        } else if cursor.eat_sign("+") {
            Pattern::Plus(Box::new(part))
        } else if cursor.eat_sign("?") {
            Pattern::Optional(Box::new(part))
        } else {
            return Some(part);
        };
    }
}

fn single(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    if cursor.eat_sign("(") {
        let inner = pattern(cursor)?;
        cursor.expect_sign(")")?;
        return Some(inner);
    }
    let span = cursor.span();
    match cursor.peek().clone() {
        Word::Text(text) => {
            cursor.advance();
            let mut characters = text.chars();
            Some(match (characters.next(), characters.next()) {
                (Some(c), None) => Pattern::Class(CharSet::single(c)),
                _ => Pattern::Literal(text),
            })
        }
        Word::Class(set) => {
            cursor.advance();
            if set.is_empty() {
                cursor.error(
                    codes::DEFINITION_PATTERN,
                    "this class has no characters, so nothing can match it",
                    span,
                );
                return None;
            }
            Some(Pattern::Class(set))
        }
        Word::Name(name) => {
            cursor.advance();
            let set = match name.as_str() {
                "letter" => CharSet::letter(),
                "digit" => CharSet::digit(),
                "any" => CharSet::any(),
                "identifier_start" => CharSet::identifier_start(),
                "identifier_part" => CharSet::identifier_part(),
                "nested" => return nested(cursor),
                _ => {
                    let near = nearest(&name, CLASSES.into_iter().chain(SUFFIXES));
                    cursor.report(
                        Diagnostic::error(
                            codes::DEFINITION_PATTERN,
                            format!("{} is no class of characters", quote(&name)),
                        )
                        .at(cursor.source, span)
                        .why("the named classes are `letter`, `digit`, `any`, `identifier_start` and `identifier_part`; a text to match stands in quotes")
                        .did_you_mean(near),
                    );
                    return None;
                }
            };
            Some(Pattern::Class(set))
        }
        _ => {
            cursor.unexpected("a pattern");
            None
        }
    }
}

/// `nested "(*" "*)"`: the opening and the closing text.
fn nested(cursor: &mut Cursor<'_>) -> Option<Pattern> {
    let open = cursor.text("the opening text in quotes")?;
    let close = cursor.text("the closing text in quotes")?;
    if open.text.is_empty() || close.text.is_empty() || open.text == close.text {
        cursor.error(
            codes::DEFINITION_PATTERN,
            "what nests needs an opening and a closing text, and they must differ",
            open.span.to(close.span),
        );
        return None;
    }
    Some(Pattern::Nested(open.text, close.text))
}
