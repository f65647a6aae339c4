//! Small programs for what no case touches.

use rustc_hash::{FxHashMap, FxHashSet};

use super::super::engines::Trial;
use super::super::generating::{Generator, shrink, source};
use super::Survey;
use crate::ambiguity::each_sample;
use crate::runtime::Limits;

/// How many texts that put one form into another are looked at.
const MOST_SAMPLES: usize = 1500;

/// How many programs are made up beyond those.
const MOST_GENERATED: u64 = 400;

/// The size of those, in tokens.
const SIZES: [usize; 4] = [6, 12, 25, 50];

/// Programs that loop need not be followed to their end.
fn limits() -> Limits {
    Limits {
        steps: Some(20_000),
        depth: 1000,
        memory: Some(1 << 26),
        ..Limits::default()
    }
}

/// A small program for as many of the missing items as one is found for.
pub(super) fn suggestions(survey: &Survey, missing: FxHashSet<usize>) -> FxHashMap<usize, String> {
    let mut found: FxHashMap<usize, String> = FxHashMap::default();
    let Ok(generator) = Generator::new(&survey.language, None) else {
        return found;
    };
    let touched = |text: &str| {
        let trial = Trial {
            limits: limits(),
            ..Trial::of(&survey.prepared, &source(text))
        };
        survey.touched(&trial)
    };
    let mut rng = fastrand::Rng::with_seed(0);
    let mut look = |text: &str, found: &mut FxHashMap<usize, String>| {
        // A program that keeps the rules of names says more than one that breaks them; but
        // an error may be what is missing.
        let mended = generator.mended(text, &mut rng);
        for text in [mended.as_deref(), Some(text)].into_iter().flatten() {
            for item in touched(text).intersection(&missing) {
                let known = found.get(item);
                if known.is_none_or(|known| text.len() < known.len()) {
                    found.insert(*item, text.to_owned());
                }
            }
        }
        found.len() < missing.len()
    };
    let mut count = 0;
    each_sample(&survey.language, &mut |text| {
        count += 1;
        look(text, &mut found) && count < MOST_SAMPLES
    });
    for seed in 0..MOST_GENERATED {
        if found.len() == missing.len() {
            break;
        }
        let size = SIZES[seed as usize % SIZES.len()];
        if let Some(text) = generator.program(seed, size) {
            look(&text, &mut found);
        }
    }
    for (item, text) in &mut found {
        // The smallest ones are small already.
        const LONG: usize = 16;
        if text.len() > LONG {
            *text = shrink(&generator, text, |smaller| touched(smaller).contains(item));
        }
        text.truncate(text.trim_end().len());
    }
    found
}
