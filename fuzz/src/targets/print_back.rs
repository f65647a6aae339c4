//! Tokens one after the other as the grammar lets them follow: what can be read is printed back
//! as the same tree.

use fastrand::Rng;
use quillon_core::Reading;
use quillon_core::printing::Brackets;
use quillon_core::testing::Generator;

use super::program::{input, parts};
use crate::{Target, corpus};

pub struct PrintBack;

impl Target for PrintBack {
    fn name(&self) -> &'static str {
        "print-back"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let all = &*corpus::ALL;
        let number = random.usize(..all.len());
        let text = tokens(random, number);
        input(number, &text)
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Some((known, text)) = parts(input) else {
            return Ok(());
        };
        let language = &known.language;
        let source = corpus::source("fuzzed", text);
        let Some(tree) = language.tree(&source, Reading::Entry).value else {
            return Ok(());
        };
        let comments = language.comments(&source);
        language
            .round_trip(&tree, &comments, Reading::Entry)
            .map_err(|text| format!("another tree when read back: {text:?}"))?;
        language.source_of(&tree, Brackets::All, &comments);
        Ok(())
    }
}

/// Some tokens of the programs of a language, in any order or in that of a program, with what
/// the language's own generator makes in between.
fn tokens(random: &mut Rng, number: usize) -> String {
    let known = &corpus::ALL[number];
    if random.u32(..3) == 0 {
        let size = random.usize(3..20);
        let generator = Generator::new(&known.language, None).ok();
        if let Some(text) = generator.and_then(|g| g.program(random.u64(..), size)) {
            return text;
        }
    }
    let program = random.choice(&known.programs).cloned().unwrap_or_default();
    let source = corpus::source("program", program);
    let Some(found) = known.language.all_tokens(&source).value else {
        return String::new();
    };
    let texts: Vec<&str> = found
        .tokens
        .iter()
        .map(|token| source.slice(token.span))
        .filter(|text| !text.is_empty())
        .collect();
    if texts.is_empty() {
        return String::new();
    }
    let literals: Vec<&str> = known
        .language
        .lexer()
        .kinds()
        .iter()
        .filter(|kind| kind.is_literal())
        .map(|kind| kind.name.as_str())
        .collect();
    let mut out = String::new();
    // All in disorder: with few tokens much of that can be read, too.
    if random.bool() {
        for _ in 0..random.usize(1..8) {
            let from = if random.bool() { &literals } else { &texts };
            out.push_str(random.choice(from).unwrap_or(&texts[0]));
            out.push_str([" ", " ", "", "\n", "  \n "][random.usize(..5)]);
        }
        return out;
    }
    let mut at = random.usize(..texts.len());
    for _ in 0..random.usize(1..14) {
        if random.u32(..4) == 0 {
            at = random.usize(..texts.len());
        }
        out.push_str(texts[at % texts.len()]);
        out.push_str([" ", " ", "", "\n"][random.usize(..4)]);
        at += 1;
    }
    out
}
