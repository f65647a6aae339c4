//! The meaning notation: read by precedence climbing over the words of a clause.

use super::brackets::{arguments, block, braces};
use super::cursor::Cursor;
use super::functions::{calling, function};
use super::lexer::Word;
use super::names::{field, target};
use super::typed::type_term;
use crate::definition::model::template::{
    Arm, BinaryOperator, Template, TemplateKind, ValueKind, Wanted,
};
use crate::definition::model::{FieldPath, Literal, Name};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::source::Span;

use TemplateKind as T;

/// Words that the meaning notation keeps for itself.
const RESERVED: [&str; 25] = [
    "all", "and", "attempt", "call", "demand", "each", "else", "false", "fault", "function",
    "given", "if", "jump", "landing", "let", "match", "not", "nothing", "or", "raise", "rescue",
    "spelling", "true", "while", "with",
];

/// Whether a field could not be named like this in a meaning.
pub(crate) fn is_reserved(name: &str) -> bool {
    RESERVED.contains(&name)
}

/// A whole `means` clause: statements with `;` between.
pub(in crate::definition) fn meaning(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    let mut parts = vec![statement(cursor)?];
    while cursor.eat_sign(";") {
        if cursor.at_end() {
            break;
        }
        parts.push(statement(cursor)?);
    }
    if parts.len() == 1 && !matches!(parts[0].kind, T::Let(..)) {
        return parts.pop();
    }
    Some(spanned(cursor, start, T::Block(parts)))
}

pub(super) fn spanned(cursor: &Cursor<'_>, start: Span, kind: TemplateKind) -> Template {
    Template {
        kind,
        span: start.to(cursor.last_span()),
    }
}

pub(super) fn statement(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    if cursor.eat_word("let") {
        let name = fresh_name(cursor)?;
        cursor.expect_sign("=")?;
        let value = expression(cursor)?;
        return Some(spanned(cursor, start, T::Let(name, Box::new(value))));
    }
    expression(cursor)
}

/// A name that a meaning may make.
pub(in crate::definition) fn fresh_name(cursor: &mut Cursor<'_>) -> Option<Name> {
    let name = cursor.name("a name")?;
    if is_reserved(&name.text) {
        let message = format!(
            "{} is a word of the meaning notation and cannot be a name",
            quote(&name.text)
        );
        cursor.report(
            Diagnostic::error(codes::DEFINITION_SYNTAX, message)
                .at(cursor.source, name.span)
                .why(format!("its words are {}", RESERVED.join(", "))),
        );
        return None;
    }
    Some(name)
}

/// A piece of meaning that is worked out where it stands.
pub(in crate::definition) fn meaning_expression(cursor: &mut Cursor<'_>) -> Option<Template> {
    or(cursor)
}

/// An expression, or an assignment.
pub(super) fn expression(cursor: &mut Cursor<'_>) -> Option<Template> {
    cursor.enter()?;
    let start = cursor.span();
    if matches!(cursor.peek_second(), Word::Sign(":=")) {
        let name = fresh_name(cursor)?;
        cursor.advance();
        let value = expression(cursor)?;
        cursor.leave();
        return Some(spanned(cursor, start, T::Set(name.into(), Box::new(value))));
    }
    let found = or(cursor)?;
    // `FIELD.SUB := …`
    if let T::Member(owner, field) = &found.kind
        && cursor.eat_sign(":=")
    {
        let name = FieldPath {
            field: owner.clone(),
            part: Some(field.clone()),
        };
        let value = expression(cursor)?;
        cursor.leave();
        return Some(spanned(cursor, start, T::Set(name, Box::new(value))));
    }
    cursor.leave();
    Some(found)
}

fn or(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    let mut left = and(cursor)?;
    while cursor.eat_word("or") {
        cursor.link()?;
        let right = and(cursor)?;
        left = spanned(cursor, start, T::Or(Box::new(left), Box::new(right)));
    }
    Some(left)
}

fn and(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    let mut left = not(cursor)?;
    while cursor.eat_word("and") {
        cursor.link()?;
        let right = not(cursor)?;
        left = spanned(cursor, start, T::And(Box::new(left), Box::new(right)));
    }
    Some(left)
}

fn not(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    if cursor.eat_word("not") {
        cursor.enter()?;
        let inner = not(cursor)?;
        cursor.leave();
        return Some(spanned(cursor, start, T::Not(Box::new(inner))));
    }
    let left = binary(cursor, 0)?;
    if !cursor.eat_word("fits") {
        return Some(left);
    }
    let wanted = wanted(cursor)?;
    Some(spanned(
        cursor,
        start,
        T::Fits(Box::new(left), wanted, false),
    ))
}

/// The type after `fits`.
fn wanted(cursor: &mut Cursor<'_>) -> Option<Wanted> {
    if matches!(cursor.peek_second(), Word::Sign(".")) {
        let owner = cursor.name("a field")?;
        cursor.advance();
        return Some(Wanted::Part(owner, cursor.name("a field of its forms")?));
    }
    type_term(cursor).map(Wanted::Type)
}

/// The operators by level, loosest first.
const LEVELS: [&[(&str, BinaryOperator)]; 4] = [
    &[
        ("=", BinaryOperator::Equal),
        ("/=", BinaryOperator::Unequal),
        ("<", BinaryOperator::Less),
        ("<=", BinaryOperator::LessOrEqual),
        (">", BinaryOperator::Greater),
        (">=", BinaryOperator::GreaterOrEqual),
    ],
    &[("&", BinaryOperator::Join)],
    &[("+", BinaryOperator::Add), ("-", BinaryOperator::Subtract)],
    &[
        ("*", BinaryOperator::Multiply),
        ("/", BinaryOperator::Divide),
    ],
];

fn binary(cursor: &mut Cursor<'_>, level: usize) -> Option<Template> {
    let Some(operators) = LEVELS.get(level) else {
        return unary(cursor);
    };
    let start = cursor.span();
    let mut left = binary(cursor, level + 1)?;
    loop {
        let Word::Sign(sign) = *cursor.peek() else {
            return Some(left);
        };
        let Some((_, operator)) = operators.iter().find(|(s, _)| *s == sign) else {
            return Some(left);
        };
        cursor.link()?;
        cursor.advance();
        let right = binary(cursor, level + 1)?;
        left = spanned(
            cursor,
            start,
            T::Binary(*operator, Box::new(left), Box::new(right)),
        );
    }
}

fn unary(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    if cursor.eat_sign("-") {
        if matches!(cursor.peek(), Word::Integer(i64::MIN)) {
            return Some(literal(cursor, Literal::Integer(i64::MIN)));
        }
        cursor.enter()?;
        let inner = unary(cursor)?;
        cursor.leave();
        return Some(spanned(cursor, start, T::Negate(Box::new(inner))));
    }
    primary(cursor)
}

pub(super) fn primary(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    match cursor.peek().clone() {
        Word::Integer(i64::MIN) => {
            let message = "9223372036854775808 is too large for an integer".to_owned();
            cursor.error(codes::DEFINITION_SYNTAX, message, start);
            None
        }
        Word::Integer(n) => Some(literal(cursor, Literal::Integer(n))),
        Word::Number(n) => Some(literal(cursor, Literal::Number(n))),
        Word::Text(text) => Some(literal(cursor, Literal::Text(text))),
        Word::Sign("(") => {
            cursor.advance();
            let inner = expression(cursor)?;
            cursor.expect_sign(")")?;
            Some(inner)
        }
        Word::Sign("[") => {
            cursor.advance();
            let items = arguments(cursor, "]")?;
            Some(spanned(cursor, start, T::List(items)))
        }
        Word::Sign("{") => braces(cursor),
        Word::Name(word) => match keyword(cursor, &word) {
            Some(found) => found,
            None => name(cursor),
        },
        Word::Class(_) | Word::Program(_) | Word::Sign(_) | Word::Odd(_) | Word::End => {
            cursor.unexpected("a meaning");
            None
        }
    }
}

fn literal(cursor: &mut Cursor<'_>, value: Literal) -> Template {
    let span = cursor.advance();
    Template {
        kind: T::Literal(value),
        span,
    }
}

/// A construct that starts with a reserved word; the outer `None` when it is none.
#[expect(
    clippy::option_option,
    reason = "outside: not a keyword; inside: a mistake"
)]
fn keyword(cursor: &mut Cursor<'_>, word: &str) -> Option<Option<Template>> {
    let constant = match word {
        "true" => Some(Literal::Truth(true)),
        "false" => Some(Literal::Truth(false)),
        "nothing" => Some(Literal::Nothing),
        _ => None,
    };
    if let Some(constant) = constant {
        return Some(Some(literal(cursor, constant)));
    }
    let read: fn(&mut Cursor<'_>) -> Option<TemplateKind> = match word {
        "all" => |c| Some(T::All(field(c, "a repeated field")?)),
        "given" => |c| Some(T::Given(field(c, "an optional field")?)),
        "spelling" => |c| {
            c.expect_word("of")?;
            Some(T::Spelling(Box::new(name(c)?)))
        },
        "each" => each,
        "if" => conditional,
        "while" => |c| {
            let test = boxed(expression(c))?;
            Some(T::While(test, boxed(block(c))?))
        },
        "match" => matching,
        "landing" => |c| {
            let target = target(c)?;
            Some(T::Landing(target, boxed(block(c))?))
        },
        "jump" => |c| {
            let target = target(c)?;
            let value = if c.eat_word("with") {
                Some(boxed(expression(c))?)
            } else {
                None
            };
            Some(T::Jump(target, value))
        },
        "function" => function,
        "call" => calling,
        "with" => |c| {
            let name = fresh_name(c)?;
            c.expect_sign("=")?;
            let value = boxed(expression(c))?;
            Some(T::With(name, value, boxed(block(c))?))
        },
        "fault" => |c| {
            let message = boxed(binary(c, 0))?;
            let at = if c.eat_word("at") {
                Some(field(c, "a field")?)
            } else {
                None
            };
            Some(T::Fault(message, at))
        },
        "demand" => |c| {
            let value = boxed(binary(c, 0))?;
            c.expect_word("fits")?;
            Some(T::Fits(value, wanted(c)?, true))
        },
        "raise" => |c| Some(T::Raise(boxed(expression(c))?)),
        "attempt" => attempt,
        _ => return None,
    };
    let start = cursor.advance();
    Some(read(cursor).map(|kind| spanned(cursor, start, kind)))
}

pub(super) fn boxed(template: Option<Template>) -> Option<Box<Template>> {
    template.map(Box::new)
}

/// `attempt { } rescue e { } always { }`, of which one of the two may be missing.
fn attempt(cursor: &mut Cursor<'_>) -> Option<TemplateKind> {
    let start = cursor.last_span();
    let body = boxed(block(cursor))?;
    let cleans_up = cursor.at_word("always");
    let guarded = if cleans_up {
        body
    } else {
        cursor.expect_word("rescue")?;
        let name = fresh_name(cursor)?;
        let rescued = T::Attempt(body, name, boxed(block(cursor))?);
        Box::new(spanned(cursor, start, rescued))
    };
    if cursor.eat_word("always") {
        return Some(T::Always(guarded, boxed(block(cursor))?));
    }
    Some(guarded.kind)
}

fn each(cursor: &mut Cursor<'_>) -> Option<TemplateKind> {
    // `each in values`: the name is what is missing.
    if cursor.at_word("in") && !matches!(cursor.peek_second(), Word::Name(word) if word == "in") {
        cursor.missing_name("a name");
        return None;
    }
    let name = fresh_name(cursor)?;
    cursor.expect_word("in")?;
    let list = boxed(expression(cursor))?;
    Some(T::Each(name, list, boxed(block(cursor))?))
}

fn conditional(cursor: &mut Cursor<'_>) -> Option<TemplateKind> {
    let test = boxed(expression(cursor))?;
    let yes = boxed(block(cursor))?;
    let no = if cursor.at_word("else") && !matches!(cursor.peek_second(), Word::Sign("=>")) {
        cursor.advance();
        if cursor.at_word("if") {
            cursor.enter()?;
            let start = cursor.advance();
            let kind = conditional(cursor)?;
            cursor.leave();
            Some(Box::new(spanned(cursor, start, kind)))
        } else {
            Some(boxed(block(cursor))?)
        }
    } else {
        None
    };
    Some(T::If(test, yes, no))
}

fn matching(cursor: &mut Cursor<'_>) -> Option<TemplateKind> {
    let subject = boxed(expression(cursor))?;
    cursor.expect_sign("{")?;
    let mut arms = Vec::new();
    while !cursor.at_sign("}") {
        let word = cursor.name("a kind of value, or `else`")?;
        let kind = ValueKind::ALL.into_iter().find(|k| k.word() == word.text);
        if kind.is_none() && word.text != "else" {
            let known = ValueKind::ALL
                .map(ValueKind::word)
                .into_iter()
                .chain(["else"]);
            let message = format!(
                "{} is no kind of value; the kinds are nothing, truth, integer, number, text, list, map and function",
                quote(&word.text)
            );
            cursor.report(
                Diagnostic::error(codes::DEFINITION_SYNTAX, message)
                    .at(cursor.source, word.span)
                    .did_you_mean(nearest(&word.text, known)),
            );
            return None;
        }
        let is_word = matches!(cursor.peek(), Word::Name(word) if is_reserved(word));
        let name = if is_word || cursor.at_sign("=>") {
            None
        } else {
            Some(fresh_name(cursor)?)
        };
        cursor.expect_sign("=>")?;
        let body = expression(cursor)?;
        arms.push(Arm { kind, name, body });
        if !cursor.eat_sign(";") {
            cursor.eat_sign(",");
        }
    }
    cursor.expect_sign("}")?;
    Some(T::Match(subject, arms))
}

/// A name, `child.field`, a helper with arguments, or an operation such as
/// `list.length(xs)`.
fn name(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    if cursor.at_word("let") {
        let message = "a `let` stands among the steps of a block, and gives no value by itself";
        let remedy = "put `{` and `}` around several steps: `{ let a = …; … }`";
        let error = Diagnostic::error(codes::DEFINITION_SYNTAX, message);
        cursor.report(error.at(cursor.source, start).remedy(remedy));
        return None;
    }
    let first = fresh_name(cursor)?;
    let mut second = None;
    if cursor.eat_sign(".") {
        second = Some(cursor.name("a field or an operation")?);
    }
    if cursor.eat_sign("(") {
        let args = arguments(cursor, ")")?;
        let whole = match second {
            Some(second) => Name {
                text: format!("{}.{}", first.text, second.text),
                span: first.span.to(second.span),
            },
            None => first,
        };
        return Some(spanned(cursor, start, T::Apply(whole, args)));
    }
    let kind = match second {
        Some(second) if cursor.eat_word("taking") => {
            let (field, part) = (first, Some(second));
            T::Taking(FieldPath { field, part }, boxed(primary(cursor))?)
        }
        Some(second) => T::Member(first, second),
        None if cursor.eat_word("taking") => T::Taking(first.into(), boxed(primary(cursor))?),
        None => T::Name(first.text),
    };
    Some(spanned(cursor, start, kind))
}
