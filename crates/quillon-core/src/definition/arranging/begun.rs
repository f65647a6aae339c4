//! How deep a line stands that has just been begun.

use std::sync::Arc;

use super::{is_one_clause, mode_of, rows};
use crate::definition::reading::{Lexeme, Word, items, lex};
use crate::source::{SourceText, Span};

/// The column in which a line of a definition or a case file would stand, in blanks, if it went on with
/// what is before it: a clause of the item, more of a clause that has an open bracket or ends with a sign,
/// more of a program behind bars. Nothing behind an empty line, where all is open.
pub fn column_of_begun_line(source: &Arc<SourceText>, offset: u32) -> Option<usize> {
    let line = source.line_span(source.line_of(offset));
    let rest = source.slice(line).trim();
    let before = &source.text()[..line.start as usize];
    let last = before.lines().last()?;
    if last.trim().is_empty() || last.trim().starts_with("--") {
        return None;
    }
    let is_program = last.trim().starts_with('|');
    let stand_in = match rest {
        "" if is_program => "|",
        "" => "x",
        rest => rest,
    };
    let so_far = SourceText::new(source.name(), before);
    let (mut items, _) = items(&so_far);
    let item = items.pop()?;
    let stretch = if is_one_clause(so_far.slice(item.head)) {
        item.span()
    } else {
        item.clauses.last().copied().unwrap_or(item.head)
    };
    let goes_on = is_program || goes_on(&so_far, stretch, so_far.slice(item.head));
    let own = set_in(before, item.clauses.last().copied());
    let blanks = " ".repeat(if goes_on { own + 1 } else { own });
    let begun = format!(
        "{}{blanks}{stand_in}\n",
        &before[item.head.start as usize..]
    );
    let begun = SourceText::new(source.name(), begun);
    let rows = rows::rows(&begun).ok()?;
    let text = super::columns::written(&rows);
    let column = |line: &String| line.len() - line.trim_start().len();
    text.iter().rev().find(|line| !line.is_empty()).map(column)
}

/// How far the clauses of an item are set in.
fn set_in(text: &str, clause: Option<Span>) -> usize {
    let start = clause.map_or(0, |clause| clause.start as usize);
    let lead = &text[..start];
    let lead = lead.len() - lead.trim_end_matches([' ', '\t']).len();
    if lead == 0 {
        super::columns::STEP
    } else {
        lead
    }
}

/// Whether a clause says more behind its last line.
fn goes_on(source: &Arc<SourceText>, clause: Span, head: &str) -> bool {
    // The title of a case is no notation.
    if head.starts_with("case") && source.slice(clause) == head {
        return false;
    }
    let mut lexemes: Vec<Lexeme> = lex(source, clause, mode_of(head), &mut Vec::new());
    lexemes.pop();
    let open = lexemes.iter().fold(0_usize, |open, lexeme| {
        if rows::is_opening(lexeme) {
            open + 1
        } else if rows::is_closing(lexeme) {
            open.saturating_sub(1)
        } else {
            open
        }
    });
    let last = lexemes.last();
    let ends_with_sign = last.is_some_and(|last| {
        matches!(last.word, Word::Sign(sign) if !rows::is_closing(last) && !["*", "+", "?"].contains(&sign))
    });
    open > 0 || ends_with_sign
}
