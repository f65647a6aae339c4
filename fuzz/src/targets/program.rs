//! Programs with changes, in every language: each stage, and both engines within limits.

use fastrand::Rng;
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::{Engine, Reading};
use serde_json::{Value, json};

use super::{limits, said};
use crate::{Target, corpus, mutate};

pub struct Program;

/// A language, by its number, and a text in it.
pub(super) fn parts(input: &[u8]) -> Option<(&'static corpus::Known, String)> {
    let input: Value = serde_json::from_slice(input).ok()?;
    let number = usize::try_from(input["language"].as_u64()?).ok()?;
    let known = corpus::ALL.get(number)?;
    Some((known, input["text"].as_str()?.to_owned()))
}

/// The input of a text in a language: what `parts` takes apart.
pub(super) fn input(number: usize, text: &str) -> Vec<u8> {
    json!({ "language": number, "text": text })
        .to_string()
        .into_bytes()
}

pub(super) fn changed(random: &mut Rng) -> Vec<u8> {
    let all = &*corpus::ALL;
    let number = random.usize(..all.len());
    let known = &all[number];
    let any = |random: &mut Rng| random.choice(&known.programs).cloned().unwrap_or_default();
    let (own, other) = (any(random), any(random));
    let text = mutate::text(random, &own, &other);
    input(number, &text)
}

impl Target for Program {
    fn name(&self) -> &'static str {
        "program"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        changed(random)
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Some((known, text)) = parts(input) else {
            return Ok(());
        };
        let language = &known.language;
        let source = corpus::source("fuzzed", text);
        said(&language.all_tokens(&source).diagnostics)?;
        let tree = language.tree(&source, Reading::Entry);
        said(&tree.diagnostics)?;
        language.ahead(&source);
        language.is_unfinished(&source);
        language.front(&source, Reading::Entry);
        let Some(tree) = tree.value else {
            if tree.diagnostics.is_empty() {
                return Err("no tree, and nothing said".to_owned());
            }
            return Ok(());
        };
        let names = language.names(&tree, Around::Nothing);
        said(&names.diagnostics)?;
        if let Some(names) = &names.value {
            said(&language.types(&tree, names, &[]).diagnostics)?;
            language.places(&tree, names);
        }
        for engine in [Engine::Machine, Engine::Walk] {
            let mut host = Recorder::default();
            let Ok(mut session) = language
                .session()
                .engine(engine)
                .limits(limits())
                .start(&mut host)
            else {
                continue;
            };
            session.collect_always(20);
            let outcome = session.run_source(&source, Reading::Entry);
            said(&outcome.diagnostics)?;
            outcome.value.map(|value| value.written());
        }
        Ok(())
    }
}
