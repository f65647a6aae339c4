//! What the word being typed could become: words of the language, names, keys, files.

use std::path::Path;

use quillon_core::lexing::{KindId, Token};
use quillon_core::source::SourceText;
use rustyline::completion::Pair;

use super::editing::Around;
use super::orders;
use super::views::View;

/// Where the word at the cursor starts, and what it could become.
pub fn complete(around: &Around, line: &str, cursor: usize) -> (usize, Vec<Pair>) {
    let typed = &line[..cursor];
    if around.begun.is_empty() && typed.starts_with('/') {
        return order(around, typed);
    }
    entry(around, typed)
}

fn pairs(words: impl IntoIterator<Item = String>) -> Vec<Pair> {
    let mut words: Vec<String> = words.into_iter().collect();
    words.sort();
    words.dedup();
    let pair = |word: String| Pair {
        display: word.clone(),
        replacement: word,
    };
    words.into_iter().map(pair).collect()
}

/// An order: its word, or what stands after it.
fn order(around: &Around, typed: &str) -> (usize, Vec<Pair>) {
    let Some((word, rest)) = typed[1..].split_once(' ') else {
        let fitting = orders::words().filter(|word| word.starts_with(&typed[1..]));
        return (1, pairs(fitting.map(str::to_owned)));
    };
    let last = rest.rsplit(' ').next().unwrap_or("");
    let start = typed.len() - last.len();
    match word {
        "load" | "save" | "language" => (start, files(last)),
        "also" => {
            let views = View::ALL.into_iter().map(View::name);
            let fitting = views.filter(|view| view.starts_with(last));
            (start, pairs(fitting.map(str::to_owned)))
        }
        "ready" => {
            let all = around.language.definition().provides.iter();
            let names = all.map(|provided| provided.name.text.clone());
            (start, pairs(names.filter(|name| name.starts_with(last))))
        }
        _ => {
            let (at, found) = entry(around, rest);
            (typed.len() - rest.len() + at, found)
        }
    }
}

/// Files and folders whose path begins like this.
fn files(begun: &str) -> Vec<Pair> {
    let (folder, name) = match begun.rfind('/') {
        Some(at) => (&begun[..=at], &begun[at + 1..]),
        None => ("", begun),
    };
    let place = if folder.is_empty() {
        Path::new(".")
    } else {
        Path::new(folder)
    };
    let entries = std::fs::read_dir(place).into_iter().flatten().flatten();
    let fitting = entries.filter_map(|entry| {
        let file = entry.file_name().to_string_lossy().into_owned();
        let hidden = file.starts_with('.') && !name.starts_with('.');
        if hidden || !file.starts_with(name) {
            return None;
        }
        let stroke = if entry.path().is_dir() { "/" } else { "" };
        Some(format!("{folder}{file}{stroke}"))
    });
    pairs(fitting)
}

/// A word of an entry.
fn entry(around: &Around, typed: &str) -> (usize, Vec<Pair>) {
    let whole = format!("{}{typed}", around.begun);
    let source = SourceText::new("entry", whole.clone());
    let outcome = around.language.lexer().tokens(&source);
    let Some(mut tokens) = outcome.value else {
        return (typed.len(), Vec::new());
    };
    tokens
        .tokens
        .retain(|t| t.kind != KindId::END && !t.span.is_empty());
    if tokens.unfinished
        && outcome
            .diagnostics
            .iter()
            .any(quillon_core::diagnostic::Diagnostic::is_error)
    {
        return inside_text(around, &source, &tokens.tokens, typed);
    }
    let is_word = |c: char| c.is_alphanumeric() || c == '_';
    // What the cursor touches is still being typed, if it is a word.
    let last = tokens.tokens.last().copied();
    let touched = last.filter(|token| {
        token.span.end as usize == whole.len() && source.slice(token.span).ends_with(is_word)
    });
    let start = touched.map_or(whole.len(), |token| token.span.start as usize);
    let begun = &whole[start..];
    let before = &tokens.tokens[..tokens.tokens.len() - usize::from(touched.is_some())];
    let mut words = keys(around, &source, before);
    if words.is_empty() {
        words = possible(around, &whole[..start], &source, before);
    }
    words.retain(|word| word.starts_with(begun) && word != begun);
    let at = typed.len().saturating_sub(whole.len() - start);
    (at, pairs(words))
}

/// The words of the language that could come after a text, and names where a name could.
fn possible(around: &Around, before: &str, source: &SourceText, tokens: &[Token]) -> Vec<String> {
    let language = &around.language;
    let possible = language.possible(&SourceText::new("entry", before));
    let mut words = possible.words;
    if possible.takes_names {
        words.extend(around.names.iter().map(|(name, _)| name.clone()));
        let ready = language.definition().provides.iter();
        words.extend(ready.map(|provided| provided.name.text.clone()));
        // Names of the entry itself: parameters and the like.
        let own = tokens.iter().filter(|token| language.is_name(token.kind));
        words.extend(own.map(|token| source.slice(token.span).to_owned()));
    }
    words
}

/// The keys of the map that the tokens before the cursor lead to: a name, and after it signs
/// and keys in turn, with a sign at the end.
fn keys(around: &Around, source: &SourceText, tokens: &[Token]) -> Vec<String> {
    let lexer = around.language.lexer();
    let is_sign = |token: &Token| {
        let text = source.slice(token.span);
        lexer.kind(token.kind).is_literal() && !text.starts_with(|c: char| c.is_alphanumeric())
    };
    let touches = |left: &Token, right: &Token| left.span.end == right.span.start;
    if !tokens.last().is_some_and(is_sign) {
        return Vec::new();
    }
    // Back to the name that it begins with.
    let mut first = tokens.len() - 1;
    while first >= 1
        && is_sign(&tokens[first])
        && !is_sign(&tokens[first - 1])
        && touches(&tokens[first - 1], &tokens[first])
    {
        first -= 1;
        if first == 0
            || !is_sign(&tokens[first - 1])
            || !touches(&tokens[first - 1], &tokens[first])
        {
            break;
        }
        first -= 1;
    }
    let path: Vec<&str> = tokens[first..]
        .iter()
        .filter(|token| !is_sign(token))
        .map(|token| source.slice(token.span).trim_matches(['"', '\'']))
        .collect();
    let Some((name, inner)) = path.split_first() else {
        return Vec::new();
    };
    let known = around.names.iter().find(|(known, _)| known == name);
    let mut value = known.and_then(|(_, value)| value.clone());
    for key in inner {
        value = value.and_then(|value| value.entry(key));
    }
    value.map_or_else(Vec::new, |value| value.keys())
}

/// Inside a text that is not closed: keys of the map before it, or files.
fn inside_text(
    around: &Around,
    source: &SourceText,
    tokens: &[Token],
    typed: &str,
) -> (usize, Vec<Pair>) {
    let end = tokens.last().map_or(0, |token| token.span.end as usize);
    let open = source.text()[end..].trim_start();
    let begun = open.trim_start_matches(|c: char| !c.is_alphanumeric() && !"./~_".contains(c));
    let at = typed.len().saturating_sub(begun.len());
    let mut words = keys(around, source, tokens);
    words.retain(|word| word.starts_with(begun));
    if words.is_empty() && !begun.is_empty() {
        return (at, files(begun));
    }
    (at, pairs(words))
}
