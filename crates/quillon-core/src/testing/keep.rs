//! What was tried in a conversation, as a case.

use super::accept::ending_of;
use super::engines::{Ran, Trial};
use super::expect::clause_of;
use crate::definition::{CellPath, Earlier, Expected, Given, Name};
use crate::diagnostic::{Diagnostic, codes, quoted};
use crate::language::Prepared;
use crate::language::{Language, Reading};
use crate::runtime::Limits;
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::tree::one_line;

/// An entry of a conversation, with what came before it.
#[derive(Clone, Debug)]
pub struct Exchange<'a> {
    /// The language, in the surface that the entries are written in.
    pub prepared: &'a Prepared,
    /// The entries made before, which have not failed.
    pub after: &'a [Earlier],
    /// The entry.
    pub program: &'a str,
    /// The name of that surface, if it is not the first.
    pub surface: Option<&'a str>,
    /// What it read.
    pub input: &'a str,
    /// What it gave, as it was shown; nothing if it failed.
    pub value: Option<&'a str>,
    /// What it printed.
    pub printed: &'a str,
    /// How far it may go.
    pub limits: Limits,
}

/// The case that expects of an entry what came of it, with as few of the entries before
/// as it takes.
///
/// # Errors
/// That it comes to something else when it is run again.
pub fn case_of(exchange: &Exchange<'_>, title: &str) -> Result<String, Box<Diagnostic>> {
    let given = match exchange.input {
        "" => Vec::new(),
        input => vec![Given::Input(input.to_owned())],
    };
    let run = |after: &[Earlier]| {
        let trial = Trial {
            after,
            given: &given,
            limits: exchange.limits,
            ..Trial::of(
                exchange.prepared,
                &SourceText::new("entry", exchange.program.to_owned()),
            )
        };
        trial.run(Engine::Machine)
    };
    let mut after = exchange.after.to_vec();
    let ran = run(&after);
    let value = ran.value.as_ref().map(crate::values::Held::written);
    if value.as_deref() != exchange.value || ran.printed != exchange.printed {
        let message = "run again, this entry gives something else";
        let problem = Diagnostic::error(codes::CASE_SYNTAX, message)
            .why("it depends on chance, on time, on files, or on what the session began with")
            .remedy("write the case by hand, with `given seed`, `given state` or `given input`");
        return Err(Box::new(problem));
    }
    let wanted = ran.traits();
    // From the last on: what only those after it needed goes with them.
    for at in (0..after.len()).rev() {
        let entry = after.remove(at);
        if run(&after).traits() != wanted {
            after.insert(at, entry);
        }
    }
    Ok(written(exchange, &after, &ran, title))
}

/// The case that expects of a program the tree that it has; nothing if it has none.
pub fn tree_case(language: &Language, program: &str, title: &str) -> Option<String> {
    let source = SourceText::new("program", program.to_owned());
    let tree = language.tree(&source, Reading::Entry).value?;
    let line = one_line(language.definition(), language.lexer(), &tree);
    Some(format!(
        "case {title}\n{}  tree {line}\n",
        block("program", program)
    ))
}

fn written(exchange: &Exchange<'_>, after: &[Earlier], ran: &Ran, title: &str) -> String {
    let mut out = format!("case {title}\n");
    if let Some(surface) = exchange.surface {
        out.push_str(&format!("  in {surface}\n"));
    }
    for entry in after {
        out.push_str(&block("after", &entry.text));
    }
    if !exchange.input.is_empty() {
        out.push_str(&format!("  given input {}\n", quoted(exchange.input)));
    }
    out.push_str(&block("program", exchange.program));
    let mut clauses: Vec<String> = Vec::new();
    if !ran.printed.is_empty() {
        clauses.extend(clause_of(&Expected::Prints(ran.printed.clone())));
    }
    let is_nothing = ran
        .value
        .as_ref()
        .is_some_and(crate::values::Held::is_nothing);
    if !is_nothing || clauses.is_empty() {
        clauses.extend(ending_of(ran).and_then(|ending| clause_of(&ending)));
    }
    clauses.extend(state_left(exchange, after, ran));
    for clause in clauses {
        out.push_str(&format!("  {clause}\n"));
    }
    out
}

/// The cells of the state that the entry has changed.
fn state_left(exchange: &Exchange<'_>, after: &[Earlier], ran: &Ran) -> Vec<String> {
    let before = match after {
        [] => super::engines::initial_state(exchange.prepared),
        [others @ .., last] => {
            let trial = Trial {
                after: others,
                limits: exchange.limits,
                ..Trial::of(
                    exchange.prepared,
                    &SourceText::new("entry", last.text.clone()),
                )
            };
            trial.run(Engine::Machine).left
        }
    };
    ran.left
        .iter()
        .filter(|(name, value)| {
            let known = before.iter().find(|(known, _)| known == name);
            known.is_none_or(|(_, old)| old.noted() != value.noted())
        })
        .filter_map(|(name, value)| {
            let name = Name {
                text: name.clone(),
                span: Span::default(),
            };
            let path = CellPath::whole(name);
            clause_of(&Expected::Leaves(path, value.literal()?))
        })
        .collect()
}

/// A text as a clause: in backquotes if it can be, behind bars otherwise.
pub(super) fn block(word: &str, text: &str) -> String {
    let text = text.trim_end();
    if !text.contains(['\n', '`', '\r']) && !text.is_empty() {
        return format!("  {word} `{text}`\n");
    }
    let mut out = format!("  {word}\n");
    for line in text.lines() {
        out.push_str("    | ");
        out.push_str(line);
        out.push('\n');
    }
    out
}
