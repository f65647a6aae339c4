//! What is said of a clause that is wrong.

use super::super::cursor::Cursor;
use super::super::lexer::Word;
use super::Trial;
use super::change::{Change, Slip, written};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::Span;

impl<T, R: Fn(&mut Cursor<'_>) -> Option<T>> Trial<'_, R> {
    /// What other notations have here, and this one writes in another way.
    pub(super) fn elsewhere(&self, error: &Diagnostic, stuck: usize) -> Option<Diagnostic> {
        let word = |at: usize| self.words.get(at).map(|lexeme| &lexeme.word);
        let before = stuck.checked_sub(1)?;
        let operand = |at: usize| self.words.get(at).map_or("", |_| self.text(at));
        let (left, right) = (operand(before), operand(stuck + 1));
        let touches = self.words[before].span.end == self.words[stuck].span.start;
        let way = match (word(before)?, word(stuck)?) {
            (_, Word::Odd('%')) => format!("integer.modulo({left}, {right})"),
            (_, Word::Odd('^')) => format!("number.power({left}, {right})"),
            (Word::Name(_), Word::Sign("[")) if touches => {
                let close =
                    (stuck..self.words.len()).find(|&at| word(at) == Some(&Word::Sign("]")))?;
                let inner = self.words[stuck + 1].span.to(self.words[close - 1].span);
                format!("list.at({left}, {})", self.source.slice(inner))
            }
            (Word::Sign(sign @ ("+" | "-" | "*" | "/" | "&")), Word::Sign("=")) if touches => {
                let name = operand(before.checked_sub(1)?);
                let both = self.words[before].span.to(self.words[stuck].span);
                let message = format!("{} cannot stand here", quote(self.source.slice(both)));
                let error = Diagnostic::error(codes::DEFINITION_SYNTAX, message);
                let way = quote(&format!("{name} := {name} {sign} …"));
                return Some(error.at(self.source, both).remedy(format!("write {way}")));
            }
            (Word::Name(name), _) if name == "return" => {
                let message = format!("{} cannot stand here", quote(name));
                let error = Diagnostic::error(codes::DEFINITION_SYNTAX, message);
                let way = quote(&format!("jump LANDING with {}", self.text(stuck)));
                let error = error.at(self.source, self.words[before].span);
                return Some(error.remedy(format!("write {way}, and put a landing around")));
            }
            _ => return None,
        };
        Some(error.clone().remedy(format!("write {}", quote(&way))))
    }

    /// An error in the words of the change that mends it.
    pub(super) fn told(&self, error: Diagnostic, change: &Change) -> Diagnostic {
        let with: Vec<String> = change.with.iter().map(written).collect();
        let with = quote(&with.join(" "));
        let wrong = change.span(self.words);
        let text = quote(self.source.slice(wrong));
        match change.slip {
            Slip::Missing => self.missing(change, &with),
            Slip::TooMany => {
                let mut error = error;
                error.remedies.clear();
                let is_there = error.start() == wrong.start;
                let which = if is_there { "" } else { " before it" };
                error.remedy(format!("leave out {text}{which}"))
            }
            Slip::Instead | Slip::Misspelt => {
                let is_there = error
                    .place
                    .as_ref()
                    .is_some_and(|place| place.span == wrong);
                let mut told = if is_there {
                    error
                } else {
                    let message = format!("{text} cannot stand here");
                    Diagnostic::error(codes::DEFINITION_SYNTAX, message).at(self.source, wrong)
                };
                told.remedies.clear();
                told.remedy(match change.slip {
                    Slip::Misspelt => format!("did you mean {with}?"),
                    Slip::Missing | Slip::Instead | Slip::TooMany | Slip::Quotes | Slip::Braces => {
                        format!("write {with} instead of {text}")
                    }
                })
            }
            Slip::Quotes => error.remedy(format!("put quotes around {text}")),
            Slip::Braces => error.remedy("put `{` and `}` around several steps"),
        }
    }

    /// That something is missing, after what stands before it.
    fn missing(&self, change: &Change, with: &str) -> Diagnostic {
        let start = self.words[change.at].span.start as usize;
        let before = self.source.text()[..start].trim_end().len();
        let place = Span::new(before, before);
        let next = match &self.words[change.at].word {
            Word::End => "the end of the clause".to_owned(),
            _ => quote(self.text(change.at)),
        };
        let message = format!("{with} is missing here");
        let error = Diagnostic::error(codes::DEFINITION_SYNTAX, message)
            .at(self.source, place)
            .label(format!("before {next}"));
        let Some(opener) = self.opener(change) else {
            return error;
        };
        let span = self.words[opener].span;
        let line = self.source.position(span.start).line;
        let open = quote(self.text(opener));
        error
            .remedy(format!("close the {open} of line {line} with {with}"))
            .related(self.source, span, "opened here")
    }

    /// The bracket that what is put in closes.
    fn opener(&self, change: &Change) -> Option<usize> {
        let [Word::Sign(close)] = change.with[..] else {
            return None;
        };
        let pairs = [("(", ")"), ("[", "]"), ("{", "}")];
        let (open, _) = pairs.into_iter().find(|(_, own)| *own == close)?;
        let mut depth = 0;
        (0..change.at).rev().find(|&at| {
            match self.words[at].word {
                Word::Sign(sign) if sign == close => depth += 1,
                Word::Sign(sign) if sign == open && depth == 0 => return true,
                Word::Sign(sign) if sign == open => depth -= 1,
                _ => {}
            }
            false
        })
    }
}
