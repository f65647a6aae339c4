//! Definitions with changes: read, checked, compiled; advice is asked for, and examples are run.

use fastrand::Rng;
use quillon_core::testing::{examples, run_case};
use quillon_core::{Language, Prepared};

use super::{limits, said};
use crate::{Target, corpus, mutate};

pub struct Definition;

impl Target for Definition {
    fn name(&self) -> &'static str {
        "definition"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let all = &*corpus::ALL;
        let own = &all[random.usize(..all.len())].definition;
        let other = &all[random.usize(..all.len())].definition;
        mutate::text(random, own, other).into_bytes()
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let text = String::from_utf8_lossy(input);
        let source = corpus::source("fuzzed.quillon", text);
        let outcome = Language::load(&source);
        said(&outcome.diagnostics)?;
        let Some(language) = outcome.value else {
            if outcome.diagnostics.is_empty() {
                return Err("no language, and nothing said".to_owned());
            }
            return Ok(());
        };
        said(&language.advice())?;
        let prepared = Prepared::new(&language);
        for example in examples(&language).take(3) {
            run_case(&prepared, &source, example, limits());
        }
        Ok(())
    }
}
