//! Whether a program does what a case expects.

use super::engines::{Ran, Trial};
use super::{CaseResult, Compared, Difference};
use crate::definition::{CellPath, Expectation, Expected, Failing, Literal, Name, TreeTerm};
use crate::diagnostic::{Diagnostic, codes, nearest, quote, quoted};
use crate::language::Language;
use crate::lexing::{KindId, Token, Tokens};
use crate::source::{Position, SourceText};
use crate::tree::{Tree, matches, one_line, token_text, value_text};
use crate::values::Held;

impl Expected {
    /// Whether only a run can tell.
    pub(super) fn needs_run(&self) -> bool {
        !matches!(
            self,
            Expected::Tree(_)
                | Expected::Tokens(_)
                | Expected::AllTokens(_)
                | Expected::PrintsBack(_)
                | Expected::Brackets(_)
                | Expected::Ends(_)
                | Expected::Code(_)
                | Expected::Types(..)
                | Expected::Reduces(_)
                | Expected::Stuck(_)
        )
    }
}

impl CellPath {
    /// What stands there in what the cell holds, if anything does.
    pub(super) fn held(&self, cell: &Held) -> Option<Held> {
        let mut held = cell.clone();
        for at in &self.at {
            held = held.part(at)?;
        }
        Some(held)
    }

    /// As cases write it.
    fn written(&self) -> String {
        let parts = self.at.iter().map(|at| format!("[{}]", written(at)));
        format!("{}{}", self.cell.text, parts.collect::<String>())
    }
}

impl Failing {
    /// Whether an error is the one that is meant.
    pub(super) fn is(&self, error: &Diagnostic) -> bool {
        match self {
            Failing::Message(part) => error.message.contains(part),
            Failing::Code(code) => error.code.0 == code,
        }
    }

    /// As cases write it.
    pub(super) fn written(&self) -> String {
        match self {
            Failing::Message(part) => quoted(part),
            Failing::Code(code) => code.clone(),
        }
    }
}

impl CaseResult {
    pub(super) fn differs(&mut self, expectation: &Expectation, expected: String, got: String) {
        self.differences.push(Difference {
            what: match expectation.expected {
                Expected::Gives(_) | Expected::Shows(_) => Compared::Value,
                Expected::Prints(_) => Compared::Output,
                Expected::Fails(..) => Compared::Error,
                Expected::Leaves(..) => Compared::State,
                Expected::Tree(_) => Compared::Tree,
                Expected::Tokens(_) | Expected::AllTokens(_) => Compared::Tokens,
                Expected::PrintsBack(_) | Expected::Brackets(_) => Compared::Source,
                Expected::Ends(_) => Compared::End,
                Expected::Code(_) => Compared::Code,
                Expected::Types(..) => Compared::Types,
                Expected::Reduces(_) | Expected::Stuck(_) => Compared::Reduction,
            },
            expected,
            got,
            span: expectation.span,
        });
    }

    /// Compares the tokens; where the case expects an error, those beside it.
    pub(super) fn check_tokens(
        &mut self,
        trial: &Trial<'_>,
        expectation: &Expectation,
        fails: bool,
    ) {
        let (Expected::Tokens(terms) | Expected::AllTokens(terms)) = &expectation.expected else {
            return;
        };
        let outcome = trial.tokens(&expectation.expected);
        let Some(tokens) = outcome
            .value
            .filter(|_| fails || !outcome.diagnostics.iter().any(Diagnostic::is_error))
        else {
            self.diagnostics.extend(outcome.diagnostics);
            return;
        };
        let of_text = real_tokens(&tokens);
        let same = of_text.len() == terms.len()
            && of_text
                .iter()
                .zip(terms)
                .all(|(token, term)| is_token(trial.language(), &tokens.source, *token, term));
        if !same {
            let wanted = spelt(&self.source, expectation);
            self.differs(expectation, wanted, tokens_text(trial.language(), &tokens));
        }
    }

    /// Compares the tree.
    pub(super) fn check_tree(&mut self, trial: &Trial<'_>, expectation: &Expectation) {
        let Expected::Tree(term) = &expectation.expected else {
            return;
        };
        let Some(tree) = self.tree_of(trial) else {
            return;
        };
        let (definition, lexer) = (trial.language().definition(), trial.language().lexer());
        if let Err(mismatch) = matches(definition, lexer, &tree, term) {
            let position = tree.source().position(tree.node(mismatch.node).span.start);
            let wanted = spelt(&self.source, expectation);
            let got = one_line(definition, lexer, &tree);
            self.differs(expectation, wanted, got);
            let why = format!("{} at {position}", mismatch.problem);
            self.notes.push(why);
        }
    }

    fn tree_of(&mut self, trial: &Trial<'_>) -> Option<Tree> {
        let parsed = trial.read();
        if parsed.value.is_none() {
            self.diagnostics.extend(parsed.diagnostics);
        }
        parsed.value
    }

    /// Compares what a run came to.
    pub(super) fn check_ran(&mut self, language: &Language, ran: &Ran, expectation: &Expectation) {
        let difference = match &expectation.expected {
            Expected::Tree(_)
            | Expected::Tokens(_)
            | Expected::AllTokens(_)
            | Expected::PrintsBack(_)
            | Expected::Brackets(_)
            | Expected::Ends(_)
            | Expected::Code(_)
            | Expected::Types(..)
            | Expected::Reduces(_)
            | Expected::Stuck(_) => None,
            Expected::Shows(text) => ran.value.as_ref().and_then(|value| {
                let shown = value.written();
                (shown != *text).then(|| (text.clone(), shown))
            }),
            Expected::Gives(literal) => ran
                .value
                .as_ref()
                .and_then(|value| (!value.is(literal)).then(|| (written(literal), value.noted()))),
            Expected::Leaves(path, literal) => {
                let name = &path.cell;
                match ran.left.iter().find(|(known, _)| *known == name.text) {
                    // An error has kept the run from leaving anything.
                    None if ran.left.is_empty() && ran.error().is_some() => None,
                    None => {
                        let problem = no_cell(language, name).at(&self.source, name.span);
                        self.diagnostics.push(problem);
                        None
                    }
                    Some((_, value)) => {
                        let held = path.held(value);
                        let is_it = held.as_ref().is_some_and(|held| held.is(literal));
                        let got = || held.map_or("no such part".to_owned(), |held| held.noted());
                        (!is_it).then(|| (written(literal), got()))
                    }
                }
            }
            Expected::Prints(text) => {
                (ran.printed != *text).then(|| (text.clone(), ran.printed.clone()))
            }
            Expected::Fails(failing, place) => failure(ran, failing, *place),
        };
        if let Some((expected, got)) = difference {
            self.differs(expectation, expected, got);
        }
    }
}

/// How an error differs from the one expected: what was, and what came.
pub(super) fn failure(
    ran: &Ran,
    failing: &Failing,
    place: Option<Position>,
) -> Option<(String, String)> {
    let with_place = |what: String, at: Option<Position>| match at {
        Some(at) => format!("{what} at {at}"),
        None => what,
    };
    let expected = with_place(failing.written(), place);
    let is_it = |error: &Diagnostic| {
        failing.is(error) && place.is_none_or(|place| position(error) == Some(place))
    };
    if ran.errors.iter().any(is_it) {
        return None;
    }
    let Some(error) = nearest_to(&ran.errors, failing, place) else {
        let got = match &ran.value {
            Some(value) => format!("no error; it gives {}", value.noted()),
            None => "no error".to_owned(),
        };
        return Some((expected, got));
    };
    let at = position(error);
    let got = match failing {
        Failing::Message(_) => format!("{:?}", error.message),
        Failing::Code(_) => format!("{}, {:?},", error.code.0, error.message),
    };
    Some((expected, with_place(got, at)))
}

/// Of several errors the one that was most likely meant: what is said, where it is said, or the first.
fn nearest_to<'e>(
    errors: &'e [Diagnostic],
    failing: &Failing,
    place: Option<Position>,
) -> Option<&'e Diagnostic> {
    let said = errors.iter().find(|error| failing.is(error));
    let there = || {
        errors
            .iter()
            .find(|error| place.is_some() && position(error) == place)
    };
    said.or_else(there).or_else(|| errors.first())
}

/// Where an error points.
pub(super) fn position(error: &Diagnostic) -> Option<Position> {
    let place = error.place.as_ref()?;
    Some(place.source.position(place.span.start))
}

fn written(literal: &Literal) -> String {
    Held::new(literal.clone()).noted()
}

/// An expectation as it is written, without its first word.
pub(super) fn spelt(source: &SourceText, expectation: &Expectation) -> String {
    let text = source.slice(expectation.span);
    let word = expectation.expected.word();
    text.strip_prefix(word).unwrap_or(text).trim().to_owned()
}

/// The tokens of a text but for its end, with the ignored ones if they were asked for.
fn real_tokens(tokens: &Tokens) -> Vec<Token> {
    let all = tokens.tokens.iter().chain(&tokens.ignored);
    let mut all: Vec<Token> = all.filter(|t| t.kind != KindId::END).copied().collect();
    all.sort_by_key(|token| token.span.start);
    all
}

/// Tokens as cases write them.
pub(super) fn tokens_text(language: &Language, tokens: &Tokens) -> String {
    let all = real_tokens(tokens).into_iter();
    let texts: Vec<String> = all
        .map(|token| token_text(language.lexer(), &tokens.source, token))
        .collect();
    format!("[{}]", texts.join(", "))
}

/// Whether a token is what a case expects: its kind, its text, its value, or its kind with
/// one of them.
fn is_token(language: &Language, source: &SourceText, token: Token, term: &TreeTerm) -> bool {
    let lexer = language.lexer();
    let text = source.slice(token.span);
    let kind = &lexer.kind(token.kind).name;
    match term {
        TreeTerm::Word(word) => word.text == text || word.text == *kind,
        TreeTerm::Value(value, _) => {
            let is_text = matches!(value, Literal::Text(wanted) if wanted == text);
            is_text || lexer.value(source, token) == *value
        }
        TreeTerm::Form(name, children) => match &children[..] {
            [(None, inner)] => name.text == *kind && is_token(language, source, token, inner),
            _ => false,
        },
        TreeTerm::List(..) => false,
    }
}

/// The error for a cell of the state that there is not; without its place.
pub(super) fn no_cell(language: &Language, name: &Name) -> Diagnostic {
    let cells = language.definition().state.iter();
    let near = nearest(&name.text, cells.map(|cell| cell.name.text.as_str()));
    Diagnostic::error(
        codes::CASE_SYNTAX,
        format!("the state has no {}", quote(&name.text)),
    )
    .did_you_mean(near)
}

/// What a case expects, as it is written; a value that cannot be written is none.
pub(crate) fn clause_of(expected: &Expected) -> Option<String> {
    Some(match expected {
        Expected::Gives(literal) => format!("gives {}", finite(literal)?),
        Expected::Prints(text) => format!("prints {}", quoted(text)),
        Expected::Fails(failing, Some(at)) => {
            format!("fails {} at {at}", failing.written())
        }
        Expected::Fails(failing, None) => format!("fails {}", failing.written()),
        Expected::Leaves(path, literal) => {
            format!("leaves {} = {}", path.written(), finite(literal)?)
        }
        Expected::Reduces(program) => format!("reduces to `{program}`"),
        Expected::Stuck(part) => format!("stuck at `{part}`"),
        Expected::Shows(text) => format!("shows {}", quoted(text)),
        Expected::PrintsBack(text) => format!("prints back {}", quoted(text)),
        Expected::Brackets(text) => format!("brackets {}", quoted(text)),
        Expected::Ends(at) => format!("first ends at {at}"),
        Expected::Code(ops) => {
            let ops: Vec<&str> = ops.iter().map(|op| op.text.as_str()).collect();
            format!("code [{}]", ops.join(", "))
        }
        Expected::Tree(_) | Expected::Tokens(_) | Expected::AllTokens(_) | Expected::Types(..) => {
            return None;
        }
    })
}

fn finite(literal: &Literal) -> Option<String> {
    match literal {
        Literal::Number(n) if !n.is_finite() => None,
        other => Some(value_text(other)),
    }
}
