//! Small programs for what no case touches.

use rustc_hash::{FxHashMap, FxHashSet};

use super::super::engines::Trial;
use super::super::generating::{Generator, shrink, source};
use super::Survey;
use crate::ambiguity::each_sample;
use crate::diagnostic::has_errors;
use crate::language::Reading;
use crate::runtime::Limits;
use crate::scoping::Around;

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
pub(super) fn suggestions(survey: &Survey, missing: &FxHashSet<usize>) -> FxHashMap<usize, String> {
    let mut found: FxHashMap<usize, (bool, String)> = FxHashMap::default();
    let Ok(generator) = Generator::new(&survey.language, None) else {
        return FxHashMap::default();
    };
    let touched = |text: &str| {
        let trial = Trial {
            limits: limits(),
            ..Trial::of(&survey.prepared, &source(text))
        };
        survey.touched(&trial)
    };
    // Whether a program keeps the rules of names: one that does says more, but an error may
    // be just what is missing.
    let is_sound = |text: &str| {
        let outcome = survey
            .language
            .compiled(&source(text), Around::Nothing, Reading::Entry);
        !has_errors(&outcome.diagnostics)
    };
    let mut rng = fastrand::Rng::with_seed(0);
    let mut look = |text: &str, found: &mut FxHashMap<usize, (bool, String)>| {
        let mended = generator.mended(text, &mut rng);
        let both = [(true, mended.as_deref()), (false, Some(text))];
        for (sound, text) in both {
            let Some(text) = text else { continue };
            for item in touched(text).intersection(missing) {
                let better = found.get(item).is_none_or(|(known, other)| {
                    (sound, other.len()) > (*known, text.len()) && sound >= *known
                });
                if better {
                    found.insert(*item, (sound, text.to_owned()));
                }
            }
        }
        found.len() < missing.len() || found.values().any(|(sound, _)| !sound)
    };
    let mut count = 0;
    let mut going = true;
    let Some(grammar) = survey.language.grammar() else {
        return FxHashMap::default();
    };
    each_sample(grammar, &mut |text| {
        count += 1;
        going = look(text, &mut found);
        going && count < MOST_SAMPLES
    });
    for seed in 0..MOST_GENERATED {
        let size = SIZES[seed as usize % SIZES.len()];
        if let Some(text) = generator.program(seed, size).filter(|_| going) {
            going = look(&text, &mut found);
        }
    }
    let small = |(item, (sound, text)): (usize, (bool, String))| {
        let text = shrink(&generator, &text, |smaller| {
            touched(smaller).contains(&item) && (!sound || is_sound(smaller))
        });
        (item, text.trim_end().to_owned())
    };
    found.into_iter().map(small).collect()
}
