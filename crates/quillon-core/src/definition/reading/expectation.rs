//! What a program must do and what it finds, word by word.

use super::cursor::Cursor;
use super::lexer::Word;
use super::typed::type_term;
use crate::definition::model::Name;
use crate::definition::model::{
    CellPath, Expectation, Expected, Failing, Given, Literal, TreeTerm,
};
use crate::diagnostic::{Diagnostic, codes, nearest, one_of, quote};
use crate::source::Position;

/// The words that say what must hold.
pub(in crate::definition) const EXPECTATIONS: [&str; 17] = [
    "gives", "shows", "prints", "fails", "leaves", "tree", "tokens", "all", "brackets", "first",
    "code", "types", "reduces", "stuck", "given", "as", "in",
];

/// One thing that must hold.
pub(in crate::definition) fn expectation(cursor: &mut Cursor<'_>) -> Option<Expectation> {
    let start = cursor.span();
    let expected = if cursor.eat_word("gives") {
        Expected::Gives(literal(cursor)?)
    } else if cursor.eat_word("shows") {
        Expected::Shows(cursor.text("the value as it is shown, in quotes")?.text)
    } else if cursor.eat_word("prints") {
        if cursor.eat_word("back") {
            Expected::PrintsBack(cursor.text("the program as it is written, in quotes")?.text)
        } else {
            Expected::Prints(cursor.text("the printed text in quotes")?.text)
        }
    } else if cursor.eat_word("brackets") {
        Expected::Brackets(
            cursor
                .text("the program with all brackets, in quotes")?
                .text,
        )
    } else if cursor.eat_word("first") {
        cursor.expect_word("ends")?;
        cursor.expect_word("at")?;
        Expected::Ends(position(cursor)?)
    } else if cursor.eat_word("code") {
        cursor.expect_sign("[")?;
        Expected::Code(listed(cursor, "]", |cursor| cursor.name("an instruction"))?)
    } else if cursor.eat_word("fails") {
        let failing = failing(cursor)?;
        let place = if cursor.eat_word("at") {
            Some(position(cursor)?)
        } else {
            None
        };
        Expected::Fails(failing, place)
    } else if cursor.eat_word("leaves") {
        let cell = cell_path(cursor)?;
        cursor.expect_sign("=")?;
        Expected::Leaves(cell, literal(cursor)?)
    } else if cursor.eat_word("tree") {
        Expected::Tree(tree_term(cursor)?)
    } else if cursor.eat_word("all") {
        cursor.expect_word("tokens")?;
        cursor.expect_sign("[")?;
        Expected::AllTokens(listed(cursor, "]", tree_term)?)
    } else if cursor.eat_word("tokens") {
        cursor.expect_sign("[")?;
        Expected::Tokens(listed(cursor, "]", tree_term)?)
    } else if cursor.eat_word("types") {
        let names_binding = matches!(cursor.peek_second(), Word::Sign(":"));
        let name = if names_binding {
            let name = cursor.name("a name that the program binds")?;
            cursor.advance();
            Some(name)
        } else {
            None
        };
        Expected::Types(name, type_term(cursor)?)
    } else if cursor.eat_word("reduces") {
        cursor.expect_word("to")?;
        Expected::Reduces(program(cursor)?)
    } else if cursor.eat_word("stuck") {
        cursor.expect_word("at")?;
        Expected::Stuck(program(cursor)?)
    } else {
        let near = match cursor.peek() {
            Word::Name(word) => nearest(word, EXPECTATIONS),
            _ => None,
        };
        let known = EXPECTATIONS.map(quote);
        let message = format!(
            "expected an expectation such as `gives`, found {}",
            cursor.found()
        );
        let diagnostic = Diagnostic::error(codes::CASE_SYNTAX, message)
            .at(cursor.source, start)
            .why(format!("it begins with {}", one_of(&known)))
            .did_you_mean(near);
        cursor.report(diagnostic);
        return None;
    };
    Some(Expectation {
        expected,
        span: start.to(cursor.last_span()),
    })
}

/// A part of an error's message in quotes, or its code.
pub(in crate::definition) fn failing(cursor: &mut Cursor<'_>) -> Option<Failing> {
    if !matches!(cursor.peek(), Word::Name(_)) || cursor.at_word("at") {
        let message = cursor.text("a part of the message in quotes, or a code")?;
        return Some(Failing::Message(message.text));
    }
    let stage = cursor.name("the stage of a code")?;
    cursor.expect_sign(".")?;
    let rest = cursor.name("the rest of the code")?;
    let code = format!("{}.{}", stage.text, rest.text);
    if codes::ALL.iter().all(|(known, _)| known.0 != code) {
        let near = nearest(&code, codes::ALL.iter().map(|(known, _)| known.0));
        let message = format!("there is no error {}", quote(&code));
        let error = Diagnostic::error(codes::CASE_SYNTAX, message);
        let error = error.at(cursor.source, stage.span.to(rest.span));
        cursor.report(error.did_you_mean(near));
        return None;
    }
    Some(Failing::Code(code))
}

/// A program in backquotes.
fn program(cursor: &mut Cursor<'_>) -> Option<String> {
    if let Word::Program(text) = cursor.peek() {
        let text = text.clone();
        cursor.advance();
        return Some(text);
    }
    cursor.unexpected("a program in backquotes");
    None
}

/// After `given`: `state NAME = VALUE`, `input "LINES"`, or `seed NUMBER`.
pub(in crate::definition) fn given(cursor: &mut Cursor<'_>) -> Option<Given> {
    if cursor.eat_word("state") {
        let (name, value) = cell(cursor)?;
        return Some(Given::State(name, value));
    }
    if cursor.eat_word("input") {
        return Some(Given::Input(
            cursor.text("what is to be read, in quotes")?.text,
        ));
    }
    if cursor.eat_word("seed") {
        if let Word::Integer(seed) = cursor.peek()
            && let Ok(seed) = u64::try_from(*seed)
        {
            cursor.advance();
            return Some(Given::Seed(seed));
        }
        cursor.unexpected("a whole number");
        return None;
    }
    cursor.unexpected_word(&["state", "input", "seed"]);
    None
}

/// `NAME`, `NAME[0]`, `NAME["key"]`
fn cell_path(cursor: &mut Cursor<'_>) -> Option<CellPath> {
    let mut path = CellPath::whole(cursor.name("a cell of the state")?);
    while cursor.eat_sign("[") {
        path.at.push(literal(cursor)?);
        cursor.expect_sign("]")?;
    }
    Some(path)
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
pub(in crate::definition) fn literal(cursor: &mut Cursor<'_>) -> Option<Literal> {
    cursor.enter()?;
    let negative = cursor.eat_sign("-");
    let value = match cursor.peek().clone() {
        Word::Integer(n) => Literal::Integer(if negative { n.wrapping_neg() } else { n }),
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
pub(in crate::definition) fn tree_term(cursor: &mut Cursor<'_>) -> Option<TreeTerm> {
    cursor.enter()?;
    let start = cursor.span();
    let term = match cursor.peek().clone() {
        Word::Name(text) if !["true", "false", "nothing"].contains(&text.as_str()) => {
            cursor.advance();
            let word = Name { text, span: start };
            if cursor.eat_sign("(") {
                TreeTerm::Form(word, listed(cursor, ")", child_term)?)
            } else {
                TreeTerm::Word(word)
            }
        }
        Word::Sign("[") => {
            cursor.advance();
            let items = listed(cursor, "]", tree_term)?;
            TreeTerm::List(items, start.to(cursor.last_span()))
        }
        Word::Program(text) => {
            cursor.advance();
            TreeTerm::Word(Name { text, span: start })
        }
        _ => TreeTerm::Value(literal(cursor)?, start.to(cursor.last_span())),
    };
    cursor.leave();
    Some(term)
}

/// A child of a form, with its field's name if that is written.
fn child_term(cursor: &mut Cursor<'_>) -> Option<(Option<Name>, TreeTerm)> {
    let is_named = matches!(cursor.peek_second(), Word::Sign(":"));
    let field = if is_named {
        let field = cursor.name("a field")?;
        cursor.advance();
        Some(field)
    } else {
        None
    };
    Some((field, tree_term(cursor)?))
}
