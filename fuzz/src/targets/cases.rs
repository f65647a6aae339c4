//! Case files with changes: read, and run.

use fastrand::Rng;
use quillon_core::Prepared;
use quillon_core::definition::read_cases;
use quillon_core::testing::run_case;

use super::program::{input, parts};
use super::{limits, said};
use crate::{Target, corpus, mutate};

pub struct Cases;

impl Target for Cases {
    fn name(&self) -> &'static str {
        "cases"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let all = &*corpus::ALL;
        let number = random.usize(..all.len());
        let any = |random: &mut Rng| {
            random
                .choice(&all[number].cases)
                .cloned()
                .unwrap_or_default()
        };
        let (own, other) = (any(random), any(random));
        let text = mutate::text(random, &own, &other);
        input(number, &text)
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Some((known, text)) = parts(input) else {
            return Ok(());
        };
        let source = corpus::source("fuzzed.cases", text);
        let outcome = read_cases(&source);
        said(&outcome.diagnostics)?;
        let prepared = Prepared::new(&known.language);
        let cases = outcome.value.into_iter().flat_map(|file| file.cases);
        for case in cases.take(4) {
            run_case(&prepared, &source, &case, limits());
        }
        Ok(())
    }
}
