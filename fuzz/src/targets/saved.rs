//! Saved programs with changes in their bytes, also under a right sum. What is loaded runs to an
//! end.

use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::{Arc, LazyLock};

use fastrand::Rng;
use quillon_core::bytecode::{Program, load, save};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Language, Prepared, Reading};

use super::runs;
use crate::author::Author;
use crate::{Target, corpus, mutate};

/// Bytes changed anywhere.
pub struct Raw;

/// Bytes changed behind the sum, which is made right.
pub struct RightSum;

/// Saved programs to begin with.
static SAVED: LazyLock<Vec<Vec<u8>>> = LazyLock::new(|| {
    let mut all = Vec::new();
    for known in corpus::ALL.iter() {
        all.extend(
            known
                .programs
                .iter()
                .filter_map(|text| bytes(&known.language, text)),
        );
    }
    let quay = corpus::quay();
    all.extend((100..180).filter_map(|seed| {
        let mut random = Rng::with_seed(seed);
        bytes(&quay.language, &Author::new(&mut random, 0).program())
    }));
    all
});

fn bytes(language: &Language, text: &str) -> Option<Vec<u8>> {
    let source = corpus::source("program", text);
    let code = language
        .code(&source, Around::Nothing, Reading::Program)
        .value?;
    let definition = Arc::clone(&language.definition().source);
    save(&Program { code, definition }).ok()
}

/// How long what stands before the content is: a word, the form, the sum.
const HEAD: usize = 12 + 4 + 8;

/// Makes the sum right (FNV-1a, as the form of the file has it).
fn sum_up(bytes: &mut [u8]) {
    if bytes.len() < HEAD {
        return;
    }
    let sum = bytes[HEAD..]
        .iter()
        .fold(0xcbf2_9ce4_8422_2325_u64, |sum, byte| {
            (sum ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3)
        });
    bytes[HEAD - 8..HEAD].copy_from_slice(&sum.to_le_bytes());
}

/// What sessions of the language of a definition begin with: most inputs have one of a few.
fn prepared(definition: &Arc<SourceText>) -> Option<Prepared> {
    thread_local! {
        static KNOWN: RefCell<HashMap<String, Prepared>> = RefCell::default();
    }
    KNOWN.with(|known| {
        let mut known = known.borrow_mut();
        if let Some(prepared) = known.get(definition.text()) {
            return Some(prepared.clone());
        }
        let prepared = Prepared::new(&Language::load(definition).value?);
        if known.len() > 100 {
            known.clear();
        }
        known.insert(definition.text().to_owned(), prepared.clone());
        Some(prepared)
    })
}

fn any(random: &mut Rng) -> Vec<u8> {
    SAVED[random.usize(..SAVED.len())].clone()
}

fn meet(input: &[u8]) -> Result<(), String> {
    let Ok(program) = load(input) else {
        return Ok(());
    };
    let Some(prepared) = prepared(&program.definition) else {
        return Ok(());
    };
    runs(&prepared, &program.code)
}

impl Target for Raw {
    fn name(&self) -> &'static str {
        "saved-raw"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let mut bytes = any(random);
        mutate::bytes(random, &mut bytes);
        bytes
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        meet(input)
    }
}

impl Target for RightSum {
    fn name(&self) -> &'static str {
        "saved-sum"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let mut bytes = any(random);
        let mut content = bytes.split_off(HEAD);
        // The code stands behind the two texts.
        let texts = content.len() * random.usize(..10) / 10;
        let mut code = content.split_off(texts);
        mutate::bytes(random, &mut code);
        bytes.extend(content);
        bytes.extend(code);
        sum_up(&mut bytes);
        bytes
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        meet(input)
    }
}
