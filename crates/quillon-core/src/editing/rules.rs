//! Colours by regular expressions, for editors that have nothing else before a server answers: what a
//! definition says of tokens, as far as such expressions can say it.

use super::Role;
use crate::definition::{CharSet, Definition, Holds, Pattern, TokenRule};
use crate::lexing::Lexer;
use crate::source::SourceText;

/// How a kind of token is coloured. Of several rules the first that fits counts.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Rule {
    /// What such tokens are; nothing for names, which are found out later.
    pub role: Option<Role>,
    /// What they look like.
    pub looks: Looks,
}

/// What tokens look like.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Looks {
    /// One of these words, with no letter, digit or `_` before or behind it.
    Words(Vec<String>),
    /// One of these texts, whatever stands beside it, the longer before the shorter.
    Signs(Vec<String>),
    /// A regular expression.
    Fits(String),
    /// From one text to another, over any number of lines.
    Between {
        /// What begins it.
        open: String,
        /// What ends it.
        close: String,
        /// Whether a backslash takes away the meaning of what comes behind it.
        escapes: bool,
        /// Whether another one can begin inside it.
        nests: bool,
        /// What begins and what ends a hole in it, with tokens of the language between.
        hole: Option<(String, String)>,
    },
    /// From a text to the end of the line.
    Line(String),
}

/// How regular expressions are written.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Dialect {
    /// As in most editors: groups `(?:…)`, alternatives `|`, looking ahead `(?!…)`.
    Usual,
    /// As in Vim, after `\v`.
    Vim,
    /// As in Emacs, which cannot look ahead.
    Emacs,
}

/// The rules of a language, in the order in which they are tried.
pub fn rules(definition: &Definition, lexer: &Lexer, dialect: Dialect) -> Vec<Rule> {
    let ordinary = definition.tokens.iter().filter(|rule| !rule.piece);
    let (ignored, kept): (Vec<&TokenRule>, Vec<&TokenRule>) =
        ordinary.partition(|rule| rule.ignored);
    let remarks = ignored.into_iter().filter(|rule| !is_blank(&rule.pattern));
    let mut all: Vec<Rule> = remarks
        .map(|rule| Rule {
            role: Some(Role::Comment),
            looks: looks(&rule.pattern, dialect),
        })
        .collect();
    let holding = |wanted: Holds| kept.iter().filter(move |rule| rule.holds == Some(wanted));
    all.extend(holding(Holds::Text).map(|rule| Rule {
        role: Some(Role::Text),
        looks: with_holes(looks(&rule.pattern, dialect), rule),
    }));
    // A number with a point begins like one without.
    for number in [Holds::Number, Holds::Integer] {
        all.extend(holding(number).map(|rule| Rule {
            role: Some(Role::Number),
            looks: Looks::Fits(regular(&rule.pattern, dialect)),
        }));
    }
    let literals = lexer.kinds().iter().filter(|kind| kind.is_literal());
    let literals = literals.map(|kind| kind.name.clone());
    let (words, mut signs): (Vec<String>, Vec<String>) =
        literals.partition(|text| text.chars().all(|c| c.is_alphanumeric() || c == '_'));
    let (words, mut glued): (Vec<String>, Vec<String>) =
        words.into_iter().partition(|word| begins_more(lexer, word));
    for texts in [&mut signs, &mut glued] {
        texts.sort_by_key(|text| std::cmp::Reverse(text.chars().count()));
    }
    for (texts, looks) in [(words, Looks::Words as fn(_) -> _), (glued, Looks::Signs)] {
        if !texts.is_empty() {
            all.push(Rule {
                role: Some(Role::Keyword),
                looks: looks(texts),
            });
        }
    }
    all.extend(
        kept.iter()
            .filter(|rule| rule.holds.is_none())
            .map(|rule| Rule {
                role: None,
                looks: Looks::Fits(regular(&rule.pattern, dialect)),
            }),
    );
    if !signs.is_empty() {
        all.push(Rule {
            role: Some(Role::Operator),
            looks: Looks::Signs(signs),
        });
    }
    all
}

/// Whether a word is another token with a letter, a digit or `_` behind it.
fn begins_more(lexer: &Lexer, word: &str) -> bool {
    ["a", "Z", "0", "_"].into_iter().any(|more| {
        let source = SourceText::new("word", format!("{word}{more}"));
        let first = lexer.all_tokens(&source).value.and_then(|found| {
            let both = found.tokens.iter().chain(&found.ignored);
            both.copied().find(|token| token.span.start == 0)
        });
        first.is_none_or(|token| {
            token.span.end as usize > word.len() && !lexer.kind(token.kind).is_literal()
        })
    })
}

/// The looks of a token, with the holes that its rule gives it.
fn with_holes(looks: Looks, rule: &TokenRule) -> Looks {
    match (looks, &rule.holes) {
        (
            Looks::Between {
                open,
                close,
                escapes,
                nests,
                ..
            },
            Some(holes),
        ) => Looks::Between {
            open,
            close,
            escapes,
            nests,
            hole: Some((holes.open.text.clone(), holes.close.text.clone())),
        },
        (looks, _) => looks,
    }
}

/// Whether a pattern matches nothing that can be seen.
fn is_blank(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Literal(text) => text.trim().is_empty(),
        Pattern::Class(set) => {
            let mut ranges = set.ranges().iter();
            let blank = |code: u32| char::from_u32(code).is_some_and(char::is_whitespace);
            ranges.all(|&(low, high)| (low..=high).all(blank))
        }
        Pattern::Sequence(parts) | Pattern::Choice(parts) => parts.iter().all(is_blank),
        Pattern::Optional(part)
        | Pattern::Star(part)
        | Pattern::Plus(part)
        | Pattern::Except(part, _) => is_blank(part),
        Pattern::Nested(..) => false,
    }
}

/// What tokens look like that may go over several lines, or to the end of one.
fn looks(pattern: &Pattern, dialect: Dialect) -> Looks {
    if let Pattern::Nested(open, close) = pattern {
        return Looks::Between {
            open: open.clone(),
            close: close.clone(),
            escapes: false,
            nests: true,
            hole: None,
        };
    }
    if let Some((open, inner, close)) = pattern.delimited() {
        return Looks::Between {
            open,
            close,
            escapes: has_escapes(inner),
            nests: false,
            hole: None,
        };
    }
    let fits = || Looks::Fits(regular(pattern, dialect));
    let Pattern::Sequence(parts) = pattern else {
        return fits();
    };
    // A fixed text, what is in the middle, and perhaps another fixed text.
    let Some(at) = parts.iter().position(|part| part.only_text().is_none()) else {
        return fits();
    };
    let fixed =
        |parts: &[Pattern]| -> Option<String> { parts.iter().map(Pattern::only_text).collect() };
    let (Some(open), Some(close)) = (fixed(&parts[..at]), fixed(&parts[at + 1..])) else {
        return fits();
    };
    if open.is_empty() {
        return fits();
    }
    match &parts[at] {
        Pattern::Star(inner) if close.is_empty() && is_rest_of_line(inner) => Looks::Line(open),
        Pattern::Except(any, end) => match (&**any, closing(end)) {
            (Pattern::Star(_), Some(end)) if close.is_empty() || close == end => Looks::Between {
                open,
                close: end,
                escapes: false,
                nests: false,
                hole: None,
            },
            _ => fits(),
        },
        Pattern::Literal(_)
        | Pattern::Class(_)
        | Pattern::Sequence(_)
        | Pattern::Choice(_)
        | Pattern::Optional(_)
        | Pattern::Star(_)
        | Pattern::Plus(_)
        | Pattern::Nested(..) => fits(),
    }
}

/// Whether a class has all but the end of the line.
fn is_rest_of_line(pattern: &Pattern) -> bool {
    matches!(pattern, Pattern::Class(set) if !set.contains('\n') && set.contains('a') && set.contains('~'))
}

/// The text in `any* TEXT any*`.
fn closing(pattern: &Pattern) -> Option<String> {
    let Pattern::Sequence(parts) = pattern else {
        return None;
    };
    let [Pattern::Star(_), inner @ .., Pattern::Star(_)] = &parts[..] else {
        return None;
    };
    inner.iter().map(Pattern::only_text).collect()
}

/// Whether a backslash and what comes behind it are one part of it.
fn has_escapes(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Sequence(parts) => {
            matches!(parts.first(), Some(first) if first.only_text().as_deref() == Some("\\"))
        }
        Pattern::Choice(parts) => parts.iter().any(has_escapes),
        Pattern::Optional(part) | Pattern::Star(part) | Pattern::Plus(part) => has_escapes(part),
        Pattern::Literal(_) | Pattern::Class(_) | Pattern::Nested(..) | Pattern::Except(..) => {
            false
        }
    }
}

/// A pattern as a regular expression. Of what nests only the opening is one; what is excepted is
/// looked for first, where the dialect can.
fn regular(pattern: &Pattern, dialect: Dialect) -> String {
    let group = |inner: &str| match dialect {
        Dialect::Usual => format!("(?:{inner})"),
        Dialect::Vim => format!("%({inner})"),
        Dialect::Emacs => format!("\\(?:{inner}\\)"),
    };
    let is_one_character = |pattern: &Pattern| match pattern {
        Pattern::Class(_) => true,
        Pattern::Literal(text) => text.chars().count() == 1,
        Pattern::Sequence(_)
        | Pattern::Choice(_)
        | Pattern::Optional(_)
        | Pattern::Star(_)
        | Pattern::Plus(_)
        | Pattern::Nested(..)
        | Pattern::Except(..) => false,
    };
    let part = |pattern: &Pattern| {
        let whole = regular(pattern, dialect);
        if is_one_character(pattern) {
            whole
        } else {
            group(&whole)
        }
    };
    match pattern {
        Pattern::Literal(text) | Pattern::Nested(text, _) => escaped(text, dialect),
        Pattern::Class(set) => match pattern.only_text() {
            Some(text) => escaped(&text, dialect),
            None => class(set),
        },
        Pattern::Sequence(parts) => {
            let each = parts.iter().map(|inner| {
                if matches!(inner, Pattern::Choice(_) | Pattern::Except(..)) {
                    part(inner)
                } else {
                    regular(inner, dialect)
                }
            });
            each.collect()
        }
        Pattern::Choice(parts) => {
            let each = parts.iter().map(|inner| regular(inner, dialect));
            alternatives(each, dialect)
        }
        Pattern::Optional(inner) => format!("{}?", part(inner)),
        Pattern::Star(inner) => format!("{}*", part(inner)),
        Pattern::Plus(inner) => format!("{}+", part(inner)),
        Pattern::Except(inner, but) => {
            let but = regular(but, dialect);
            let inner = part(inner);
            match dialect {
                Dialect::Usual => format!("(?!{but}){inner}"),
                Dialect::Vim => format!("%({but})@!{inner}"),
                Dialect::Emacs => inner,
            }
        }
    }
}

/// Regular expressions as alternatives.
fn alternatives(each: impl Iterator<Item = String>, dialect: Dialect) -> String {
    let each: Vec<String> = each.collect();
    each.join(match dialect {
        Dialect::Usual | Dialect::Vim => "|",
        Dialect::Emacs => "\\|",
    })
}

/// A regular expression for one of some texts.
pub fn one_of(texts: &[String], dialect: Dialect) -> String {
    alternatives(texts.iter().map(|text| escaped(text, dialect)), dialect)
}

/// A text that stands for itself.
pub fn escaped(text: &str, dialect: Dialect) -> String {
    let mut out = String::new();
    for c in text.chars() {
        let is_special = match dialect {
            Dialect::Usual => "\\^$.|?*+()[]{}/".contains(c),
            // After `\v` every sign may be something.
            Dialect::Vim => c.is_ascii_punctuation() && c != '_',
            Dialect::Emacs => "\\^$.?*+[]".contains(c),
        };
        if is_special {
            out.push('\\');
        }
        match c {
            '\n' => out.push_str("\\n"),
            '\t' => out.push_str("\\t"),
            c => out.push(c),
        }
    }
    out
}

/// A set of characters in brackets; one of very many as all but the others.
fn class(set: &CharSet) -> String {
    let is_open = set.contains('\u{10ffff}');
    let shown = if is_open {
        set.complement()
    } else {
        set.clone()
    };
    let mut inner = String::new();
    // The first stretches are those that people write.
    for &(low, high) in shown.ranges().iter().filter(|(low, _)| *low < 0x250) {
        inner += &in_class(low);
        if high > low {
            inner += &format!("-{}", in_class(high.min(0x24f)));
        }
    }
    match (is_open, inner.is_empty()) {
        (true, true) => "[\\s\\S]".to_owned(),
        (true, false) => format!("[^{inner}]"),
        (false, _) => format!("[{inner}]"),
    }
}

fn in_class(code: u32) -> String {
    match char::from_u32(code) {
        Some('\n') => "\\n".to_owned(),
        Some('\r') => "\\r".to_owned(),
        Some('\t') => "\\t".to_owned(),
        Some(c) if "\\]^-[&~".contains(c) => format!("\\{c}"),
        Some(c) if !c.is_control() => c.to_string(),
        _ => format!("\\x{code:02x}"),
    }
}
