//! What the words of the notation say, in a line each; docs/notation.md has the whole of it.

/// The words that items begin with.
const ITEMS: [(&str, &str); 12] = [
    (
        "language",
        "the name of the language, the extensions of its programs, where they start, and how lines matter",
    ),
    (
        "tokens",
        "a line for each kind of token: a name, a pattern, and what becomes of it",
    ),
    (
        "precedence",
        "how tightly the operators of a sort bind, a level a line, loosest first",
    ),
    (
        "form",
        "something that can be written: how, what it binds, what it means",
    ),
    ("surface", "another way to write the same language"),
    ("include", "another file, as if it stood here"),
    (
        "types",
        "the types that the language has beside the usual ones",
    ),
    ("define", "a helper that meanings can use"),
    (
        "state",
        "cells that outlive a run, each with what it holds at first",
    ),
    (
        "provides",
        "what programs find built-in: functions and constants",
    ),
    ("values", "how values look when they are shown"),
    (
        "messages",
        "how messages call things, and how errors are worded",
    ),
];

/// The words that clauses begin with: those of a form, and those of the language.
const CLAUSES: [(&str, &str); 24] = [
    (
        "written",
        "how it is written: texts in quotes, and fields as `name:Sort`",
    ),
    ("opens", "`opens scope`: names bound in it end with it"),
    (
        "binds",
        "which field is a name that is bound, and where that is seen",
    ),
    ("uses", "which field is a name that must be bound"),
    ("offers", "names that a form around it may bind"),
    ("takes", "a name for what the form is run on"),
    ("declares", "a sign that it makes an operator from here on"),
    (
        "wins",
        "`wins over FORM`: it is meant where a text can be read as either",
    ),
    (
        "typed",
        "what must hold of the types in it, and its own type",
    ),
    (
        "denotes",
        "the type that it stands for, where it is an annotation",
    ),
    ("becomes", "the field, or the forms, that it is short for"),
    ("laid", "`laid out`: where lines end when it is printed"),
    ("checks", "what must hold of it before a program runs"),
    ("means", "what it does and gives"),
    ("is", "`is value`: reduction goes no further in it"),
    (
        "reduces",
        "the fields that are reduced first, and what takes its place",
    ),
    (
        "example",
        "a program with what it gives, prints, or fails with",
    ),
    ("reads", "the extensions of programs"),
    ("starts", "the sort of a whole program"),
    ("entries", "the sorts that may stand alone"),
    ("layout", "whether line ends or indentation matter"),
    (
        "ignores",
        "`ignores case`: capital and small letters are alike",
    ),
    (
        "renames",
        "what rewriting puts behind a name that is in the way",
    ),
    (
        "width",
        "how many characters a line of a printed program has at most",
    ),
];

/// The words of case files: what stands before a program, and what is expected of it.
const EXPECTATIONS: [(&str, &str); 20] = [
    (
        "program",
        "the program of the case, in backquotes or behind bars",
    ),
    ("gives", "the value is this one, and of the same kind"),
    (
        "prints",
        "this is everything that was printed; `prints back`: this source is written from the tree",
    ),
    (
        "fails",
        "there is an error with this in its message, or of this code, `at` this place",
    ),
    ("leaves", "a cell of the state holds this at the end"),
    ("tree", "the tree is this one"),
    (
        "tokens",
        "the tokens are these, without those that are ignored",
    ),
    (
        "all",
        "`all tokens`: the tokens are these, with the ignored ones",
    ),
    (
        "types",
        "the type of the program, or of a name in it, is this one",
    ),
    ("shows", "this is the value as it is shown"),
    (
        "reduces",
        "`reduces to`: rewriting it ends with this program",
    ),
    (
        "stuck",
        "`stuck at`: rewriting it ends where no rule can be used on this part",
    ),
    (
        "brackets",
        "this source, with all brackets, is written from the tree",
    ),
    (
        "first",
        "`first ends at`: the first entry of the text ends here",
    ),
    ("code", "these are the instructions of its functions"),
    (
        "given",
        "what the program finds: `given state`, `given input`, `given seed`",
    ),
    (
        "after",
        "an entry that is made before the program, in the same session",
    ),
    ("as", "the sort that the program is read as"),
    ("in", "the surface that the program is written in"),
    (
        "from",
        "a tree that the case starts from, in place of a text",
    ),
];

/// What a word of a case file says.
pub(super) fn expectation(word: &str) -> Option<&'static str> {
    of(&EXPECTATIONS, word)
}

/// The words that the lines of a case begin with.
pub(super) fn expectations() -> impl Iterator<Item = &'static str> {
    EXPECTATIONS.iter().map(|(word, _)| *word)
}

/// The words that items of definitions and case files begin with, and those that their other lines do.
pub fn words_of_lines() -> [Vec<&'static str>; 2] {
    let of_cases = ["case", "cases"];
    let items = items().chain(of_cases).collect();
    let lines = CLAUSES.iter().chain(&EXPECTATIONS).map(|(word, _)| *word);
    let mut lines: Vec<&str> = lines.collect();
    lines.sort_unstable();
    lines.dedup();
    [items, lines]
}

/// What an item of a word is.
pub(super) fn item(word: &str) -> Option<&'static str> {
    of(&ITEMS, word)
}

/// What a clause of a word says.
pub(super) fn clause(word: &str) -> Option<&'static str> {
    of(&CLAUSES, word)
}

/// The words that items begin with.
pub(super) fn items() -> impl Iterator<Item = &'static str> {
    ITEMS.iter().map(|(word, _)| *word)
}

/// The words that the clauses of a form begin with.
pub(super) fn clauses() -> impl Iterator<Item = &'static str> {
    let of_forms = CLAUSES.iter().map(|(word, _)| *word);
    of_forms.take_while(|word| *word != "reads")
}

fn of(table: &[(&str, &'static str)], word: &str) -> Option<&'static str> {
    let found = table.iter().find(|(known, _)| *known == word)?;
    Some(found.1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::definition::{words_of_expectations, words_of_notation};

    #[test]
    fn every_word_of_the_notation_is_explained() {
        let [of_items, of_clauses] = words_of_notation();
        for word in of_items {
            assert!(item(word).is_some(), "{word}");
        }
        for word in of_clauses {
            let first = word.split(' ').next().unwrap_or(word);
            assert!(clauses().any(|known| known == first), "{word}");
        }
        for word in words_of_expectations() {
            assert!(expectation(word).is_some(), "{word}");
        }
    }
}
