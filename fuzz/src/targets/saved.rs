//! Saved programs with changes: in their bytes, under a right sum, and in their structure. What
//! is loaded runs to an end.

use std::cell::RefCell;
use std::collections::HashMap;
use std::sync::{Arc, LazyLock};

use ciborium::Value;
use fastrand::Rng;
use quillon_core::bytecode::{Program, load, save};
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Prepared, Reading, Session};

use super::{limits, said};
use crate::author::Author;
use crate::{Target, corpus, mutate};

/// Bytes changed anywhere.
pub struct Raw;

/// Bytes changed behind the sum, which is made right.
pub struct RightSum;

/// Numbers changed in the structure: instructions, handlers, counts.
pub struct Changed;

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
    for collect in [0, 50] {
        let mut host = Recorder::default();
        let session = Session::of(Engine::Machine, &prepared, limits(), &mut host);
        let Ok(mut session) = session else {
            return Ok(());
        };
        session.collect_always(collect);
        let outcome = session.run_code(&program.code, &mut host);
        said(&outcome.diagnostics)?;
        outcome.value.map(|value| value.written());
    }
    Ok(())
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

impl Target for Changed {
    fn name(&self) -> &'static str {
        "saved-changed"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let bytes = any(random);
        let Ok(mut content) = ciborium::from_reader::<Value, _>(&bytes[HEAD..]) else {
            return bytes;
        };
        if let Some(code) = field(&mut content, "code") {
            change(random, code);
        }
        let mut changed = bytes[..HEAD].to_vec();
        if ciborium::into_writer(&content, &mut changed).is_err() {
            return bytes;
        }
        sum_up(&mut changed);
        changed
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        meet(input)
    }
}

fn field<'v>(value: &'v mut Value, name: &str) -> Option<&'v mut Value> {
    let pairs = value.as_map_mut()?;
    let mut pairs = pairs.iter_mut();
    pairs
        .find(|(key, _)| key.as_text() == Some(name))
        .map(|(_, value)| value)
}

/// Changes something in a function: an instruction, most of the time.
fn change(random: &mut Rng, function: &mut Value) {
    if random.bool()
        && let Some(inner) = field(function, "functions").and_then(Value::as_array_mut)
        && let Some(inner) = random.choice(inner)
    {
        return change(random, inner);
    }
    for _ in 0..random.usize(1..5) {
        match random.u32(..12) {
            0 => change_number(random, field(function, "registers")),
            1 | 2 => {
                let handlers = field(function, "handlers").and_then(Value::as_array_mut);
                let handler = handlers.and_then(|all| random.choice(all));
                if let Some(handler) = handler {
                    let name = ["start", "end", "target", "register"][random.usize(..4)];
                    change_number(random, field(handler, name));
                    if random.u32(..4) == 0
                        && let Some(purpose) = field(handler, "purpose")
                    {
                        let other = ["Rescue", "Cleanup", "Restore"][random.usize(..3)];
                        *purpose = Value::Text(other.to_owned());
                    }
                }
            }
            3 => {
                let words = field(function, "code").and_then(Value::as_array_mut);
                if let Some(words) = words.filter(|words| words.len() > 1) {
                    let (a, b) = (random.usize(..words.len()), random.usize(..words.len()));
                    words.swap(a, b);
                }
            }
            _ => {
                let words = field(function, "code").and_then(Value::as_array_mut);
                if let Some(word) = words.and_then(|words| random.choice(words)) {
                    change_word(random, word);
                }
            }
        }
    }
}

/// A count changed by a little, or to a number at an edge.
fn change_number(random: &mut Rng, number: Option<&mut Value>) {
    let Some(number) = number else {
        return;
    };
    let Some(old) = number.as_integer().and_then(|old| u64::try_from(old).ok()) else {
        return;
    };
    let new = match random.u32(..3) {
        0 => old.wrapping_add(1),
        1 => old.saturating_sub(1),
        _ => [0, 1, 255, 256, 32_767, 32_768, 65_535][random.usize(..7)],
    };
    *number = Value::Integer(new.into());
}

/// An instruction with another operation, or another field.
fn change_word(random: &mut Rng, word: &mut Value) {
    let Some(old) = word.as_integer().and_then(|old| u64::try_from(old).ok()) else {
        return;
    };
    let new = match random.u32(..6) {
        0 => old & !0xff | u64::from(random.u8(..120)),
        1 => old & !0xff00 | u64::from(random.u8(..)) << 8,
        field => {
            let shift = 16 * u64::from(random.u32(1..4));
            let small = match field {
                2 => random.u16(..16),
                3 => (old >> shift) as u16 ^ 1 << random.u32(..4),
                4 => random.u16(..).wrapping_neg() >> random.u32(..16),
                _ => 0u16.wrapping_sub(random.u16(..12)),
            };
            old & !(0xffff << shift) | u64::from(small) << shift
        }
    };
    *word = Value::Integer(new.into());
}
