//! Where the columns of a line begin.

use crate::definition::reading::{EXPECTATIONS, Lexeme, Word, first_word};
use crate::source::{SourceText, Span};

use super::rows::Place;

/// A stretch of a line that stands under the same of other lines.
pub(super) struct Cell {
    pub column: Column,
    pub text: String,
}

/// What a stretch of a line is; in the order in which they follow each other.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) enum Column {
    /// What the line begins with.
    First,
    /// What comes after the word of a clause, or a name.
    Value,
    /// What becomes of a token, and the type of a function.
    Role,
    /// What more becomes of a token, and what a function means.
    More,
    /// What an example is expected to do.
    Expected,
    /// A sign, and what comes after it.
    Sign,
    /// A comment behind a line.
    Remark,
}

impl Column {
    /// All that can come after the first.
    pub const LATER: [Column; 6] = [
        Column::Value,
        Column::Role,
        Column::More,
        Column::Expected,
        Column::Sign,
        Column::Remark,
    ];

    /// How many blanks stand before it at least.
    pub fn gap(self) -> usize {
        match self {
            Column::First => 0,
            Column::Sign => 1,
            Column::Value | Column::Role | Column::More | Column::Remark => 2,
            Column::Expected => 3,
        }
    }

    /// Whether it is the same in all lines of an item, however far from each other they are.
    pub fn is_of_item(self) -> bool {
        self == Column::Value
    }
}

impl Cell {
    pub fn first(text: &str) -> Cell {
        Cell {
            column: Column::First,
            text: text.to_owned(),
        }
    }
}

/// The words of `tokens` that say what becomes of a token.
const ROLES: [&str; 6] = ["ignored", "holds", "holes", "enters", "leaves", "until"];

/// The words of a line with which columns begin.
pub(super) fn starts(head: &str, place: Place, lexemes: &[Lexeme]) -> Vec<(usize, Column)> {
    match place {
        Place::Clause => in_clause(first_word(head), lexemes),
        Place::Body(_) | Place::Deeper(_) => arm(lexemes).into_iter().collect(),
        Place::Blank | Place::Comment { .. } | Place::Head | Place::Barred | Place::Untouched => {
            Vec::new()
        }
    }
}

fn in_clause(item: &str, lexemes: &[Lexeme]) -> Vec<(usize, Column)> {
    let value = after_first(lexemes).map(|at| (at, Column::Value));
    let later = value.map_or(lexemes.len(), |(at, _)| at + 1);
    match item {
        "case" => Vec::new(),
        "cases" => expected(lexemes).into_iter().collect(),
        "state" => {
            let sign = find(lexemes, 1, |word| *word == Word::Sign("="));
            sign.map(|at| (at, Column::Sign)).into_iter().collect()
        }
        "tokens" => {
            let roles = (later..lexemes.len()).filter(|at| is_word(&lexemes[*at], &ROLES));
            let roles = roles.zip([Column::Role, Column::More]);
            value.into_iter().chain(roles).collect()
        }
        "provides" => {
            // The type comes first, where there is one.
            let typed = value.filter(|(at, _)| is_word(&lexemes[*at], &["typed"]));
            let means = typed.and(find_word(lexemes, later, &["means"]));
            let means = means.map(|at| (at, Column::More));
            value.into_iter().chain(means).collect()
        }
        "form" if is_word(&lexemes[0], &["example"]) => {
            value.into_iter().chain(expected(lexemes)).collect()
        }
        _ => value.into_iter().collect(),
    }
}

/// The clauses that begin with two words.
const PAIRS: [(&str, &str); 2] = [("laid", "out"), ("is", "value")];

/// Where the name of a line or the word of a clause is over.
fn after_first(lexemes: &[Lexeme]) -> Option<usize> {
    let mut depth = 0_usize;
    let has_two_words = PAIRS.iter().any(|(first, second)| {
        lexemes.len() > 1 && is_word(&lexemes[0], &[first]) && is_word(&lexemes[1], &[second])
    });
    for (at, lexeme) in lexemes.iter().enumerate() {
        let is_apart = at > 0 && lexemes[at - 1].span.end < lexeme.span.start;
        if is_apart && depth == 0 && !(at == 1 && has_two_words) {
            return Some(at);
        }
        if lexeme.word == Word::Sign("(") {
            depth += 1;
        } else if lexeme.word == Word::Sign(")") {
            depth = depth.saturating_sub(1);
        }
    }
    None
}

fn is_word(lexeme: &Lexeme, words: &[&str]) -> bool {
    matches!(&lexeme.word, Word::Name(name) if words.contains(&name.as_str()))
}

fn find(lexemes: &[Lexeme], from: usize, is: impl Fn(&Word) -> bool) -> Option<usize> {
    (from..lexemes.len()).find(|at| is(&lexemes[*at].word))
}

fn find_word(lexemes: &[Lexeme], from: usize, words: &[&str]) -> Option<usize> {
    (from..lexemes.len()).find(|at| is_word(&lexemes[*at], words))
}

/// Where what is expected of a program on the same line begins.
fn expected(lexemes: &[Lexeme]) -> Option<(usize, Column)> {
    let program = find(lexemes, 0, |word| matches!(word, Word::Program(_)))?;
    let at = find_word(lexemes, program + 1, &EXPECTATIONS)?;
    Some((at, Column::Expected))
}

/// Where the sign of an arm stands, in a line that is one.
fn arm(lexemes: &[Lexeme]) -> Option<(usize, Column)> {
    let sign = find(lexemes, 1, |word| *word == Word::Sign("=>"))?;
    let before = &lexemes[..sign];
    let is_pattern = !before
        .iter()
        .any(|lexeme| matches!(lexeme.word, Word::Sign("{" | "}" | ";")));
    is_pattern.then_some((sign, Column::Sign))
}

/// The stretches of a line, with one blank between words where there were some.
pub(super) fn cells(
    source: &SourceText,
    line: u32,
    lexemes: &[Lexeme],
    starts: &[(usize, Column)],
) -> Vec<Cell> {
    let mut cells: Vec<Cell> = vec![Cell::first("")];
    let signs = lexemes.iter();
    let signs = signs.filter(|lexeme| lexeme.word == Word::Sign("=>"));
    // Nothing but blanks tells where an arm behind another begins.
    let has_arms = signs.count() > 1;
    let mut end = None;
    for (at, lexeme) in lexemes.iter().enumerate() {
        let start = starts.iter().find(|(start, _)| *start == at);
        if let Some((_, column)) = start {
            cells.push(Cell {
                column: *column,
                text: String::new(),
            });
        }
        let last = cells.len() - 1;
        let text = &mut cells[last].text;
        let blanks = end.map_or(0, |end: u32| lexeme.span.start - end);
        if !text.is_empty() && blanks > 0 {
            text.push_str(if blanks > 1 && has_arms { "  " } else { " " });
        }
        text.push_str(source.slice(lexeme.span));
        end = Some(lexeme.span.end);
    }
    let end = end.unwrap_or(source.line_span(line).start);
    let rest = Span {
        start: end,
        end: source.line_span(line).end,
    };
    let rest = source.slice(rest).trim();
    if rest.starts_with("--") {
        cells.push(Cell {
            column: Column::Remark,
            text: rest.to_owned(),
        });
    }
    cells
}
