//! Looks for short texts that can be read in two ways.
//!
//! Where the tables keep no conflict, there is none, and nothing is searched. Otherwise
//! texts are made in which one production stands inside another at every place where it
//! can, and then two at once, each embedded in a smallest program; the parser says which of
//! them have two readings. Ambiguity between two forms shows with the forms side by side,
//! so this finds what people stumble over; it is no proof that there is nothing else.

use std::time::{Duration, Instant};

use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, codes, plural, quote};
use crate::lexing::Lexer;
use crate::parsing::{Ambiguity, Parser};
use crate::printing::{self, Brackets, Comments};
use crate::source::SourceText;
use crate::tree::one_line;

mod changes;
mod samples;
mod settlement;
mod unranked;

use samples::Samples;
use settlement::forms_of;
pub(crate) use settlement::settlement;

/// More ambiguities than this are not worth showing at once.
const MOST_SHOWN: usize = 5;

/// The longest text tried, in tokens.
const LONGEST: usize = 40;

/// A grammar, with all that reading and writing by it takes.
#[derive(Clone, Copy)]
pub(crate) struct Grammar<'a> {
    pub definition: &'a Definition,
    pub lexer: &'a Lexer,
    pub parser: &'a Parser,
}

/// What a search came to.
#[derive(Clone, Default, Debug)]
pub struct Findings {
    /// A warning for each ambiguity, the shortest text first.
    pub diagnostics: Vec<Diagnostic>,
    /// How many texts were tried.
    pub tried: usize,
    /// Whether the time was up before all texts of the kind searched were tried.
    pub cut_short: bool,
}

/// A text with two readings.
struct Found {
    /// How long it is, in tokens.
    length: usize,
    /// The forms in which the readings part.
    forms: [String; 2],
    ambiguity: Ambiguity,
}

impl Found {
    /// Whether its readings part in two forms, whichever is which: what settles it settles all of those.
    fn is_of(&self, forms: &[String; 2]) -> bool {
        let [one, two] = &self.forms;
        *forms == self.forms || (forms[0] == *two && forms[1] == *one)
    }
}

/// Something to warn of.
enum Doubt {
    /// A text with two readings.
    One(Found),
    /// Many texts for one reason, the shortest of them, with what to say and to do.
    Many {
        shortest: Found,
        message: String,
        remedy: String,
    },
}

impl Doubt {
    fn length(&self) -> usize {
        match self {
            Doubt::One(found)
            | Doubt::Many {
                shortest: found, ..
            } => found.length,
        }
    }

    fn warning(&self, grammar: Grammar<'_>) -> Diagnostic {
        match self {
            Doubt::One(found) => {
                let remedy = settlement(grammar, &found.ambiguity);
                warning(grammar, found).remedy(remedy)
            }
            Doubt::Many {
                shortest,
                message,
                remedy,
            } => {
                let mut warning = warning(grammar, shortest);
                warning.message.clone_from(message);
                warning.remedy(remedy)
            }
        }
    }
}

/// Gives texts of a language in which each form stands inside each other where it can, the
/// plain ones first, until `tell` says to stop.
pub(crate) fn each_sample(grammar: Grammar<'_>, tell: &mut dyn FnMut(&str) -> bool) {
    let samples = Samples::new(grammar.parser, grammar.lexer);
    samples.each_text(LONGEST, &mut |_, text| tell(text));
}

/// Searches a grammar for at most so long.
pub(crate) fn search(grammar: Grammar<'_>, limit: Duration) -> Findings {
    let mut findings = Findings::default();
    if grammar.parser.size().2 == 0 {
        return findings;
    }
    let samples = Samples::new(grammar.parser, grammar.lexer);
    let start = Instant::now();
    let mut found: Vec<Found> = Vec::new();
    samples.each_text(LONGEST, &mut |length, text| {
        findings.tried += 1;
        if let Some((forms, ambiguity)) = try_text(grammar, text) {
            let new = Found {
                length,
                forms,
                ambiguity,
            };
            match found.iter_mut().find(|known| known.is_of(&new.forms)) {
                Some(known) if known.length > length => *known = new,
                Some(_) => {}
                None => found.push(new),
            }
        }
        findings.cut_short = start.elapsed() > limit;
        !findings.cut_short
    });
    found.sort_by_key(|found| found.length);
    let doubts = unranked::grouped(grammar.definition, found);
    let more = doubts.len().saturating_sub(MOST_SHOWN);
    let shown = doubts.iter().take(MOST_SHOWN);
    findings.diagnostics = shown.map(|doubt| doubt.warning(grammar)).collect();
    if more > 0 {
        findings.diagnostics.push(Diagnostic::note(
            codes::CHECK_AMBIGUOUS,
            format!(
                "{} of forms can be read in two ways",
                plural(more, "more pair")
            ),
        ));
    }
    findings
}

/// A text with two readings, and the forms that differ.
fn try_text(grammar: Grammar<'_>, text: &str) -> Option<([String; 2], Ambiguity)> {
    let definition = grammar.definition;
    let source = SourceText::new("witness", text);
    let tokens = grammar.lexer.tokens(&source);
    if tokens.has_errors() {
        return None;
    }
    let ambiguity = grammar.parser.ambiguity(definition, &tokens.value?, 0)?;
    Some((forms_of(definition, &ambiguity), ambiguity))
}

/// The warning for a text with two readings that differ in some forms; how to settle it is not in it
/// yet.
fn warning(grammar: Grammar<'_>, found: &Found) -> Diagnostic {
    let Found {
        forms, ambiguity, ..
    } = found;
    let definition = grammar.definition;
    let span = definition
        .form(&forms[0])
        .map_or(definition.name.span, |form| form.name.span);
    let shown = ambiguity.readings[0].source().text().trim_end();
    let shown = if shown.is_empty() {
        "the empty text".to_owned()
    } else {
        quote(shown)
    };
    let message = format!("{shown} can be read in two ways");
    let mut diagnostic =
        Diagnostic::warning(codes::CHECK_AMBIGUOUS, message).at(&definition.source, span);
    diagnostic.why.extend(readings(grammar, ambiguity));
    diagnostic
}

/// The two readings in words: each as source with all brackets, where that tells them
/// apart, and as a tree.
pub(crate) fn readings(grammar: Grammar<'_>, found: &Ambiguity) -> Vec<String> {
    const LONGEST: usize = 160;
    let Grammar {
        definition,
        lexer,
        parser,
    } = grammar;
    let sources = found.readings.each_ref().map(|tree| {
        let (brackets, comments) = (Brackets::All, Comments::default());
        let text = printing::source_of(definition, lexer, parser, tree, brackets, &comments)?;
        let text = text.trim_end().replace('\n', " ");
        (text.chars().count() <= LONGEST).then_some(text)
    });
    let tell_apart = sources[0] != sources[1] && sources.iter().all(Option::is_some);
    ["as", "or"]
        .into_iter()
        .zip(&found.readings)
        .zip(&sources)
        .map(|((word, tree), source)| {
            let line = one_line(definition, lexer, tree);
            let mut shown: String = line.chars().take(LONGEST).collect();
            if shown.len() < line.len() {
                shown.push('…');
            }
            match source {
                Some(source) if tell_apart => format!("{word}  {}   {shown}", quote(source)),
                _ => format!("{word}  {shown}"),
            }
        })
        .collect()
}
