//! Tokens and trees of a generated program, beside a lexer and a parser written by hand for
//! the demo language. `cargo bench -p quillon-core` prints megabytes a second and ratios.
//!
//! Figures are medians of several runs, all in one process; `QUILLON_BENCH_MB` sets the size
//! of the program in megabytes.

use std::time::Instant;

use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

mod by_hand;

const DEFINITION: &str = include_str!("../../../languages/towpath/towpath.quillon");
const PROGRAMS: [&str; 2] = [
    include_str!("../../../languages/towpath/programs/flight.tow"),
    include_str!("../../../languages/towpath/programs/tolls.tow"),
];

/// The median time of some runs, in seconds, and the last result.
fn median<T>(mut work: impl FnMut() -> T) -> (f64, T) {
    const RUNS: usize = 7;
    let mut times = Vec::with_capacity(RUNS);
    let mut last = None;
    for _ in 0..RUNS {
        drop(last.take());
        let start = Instant::now();
        last = Some(work());
        times.push(start.elapsed().as_secs_f64());
    }
    times.sort_by(f64::total_cmp);
    (times[RUNS / 2], last.expect("there are runs"))
}

/// Copies of the demo's programs, each in a block of its own, of about so many bytes.
fn program(bytes: usize) -> String {
    let mut text = String::with_capacity(bytes + 4096);
    while text.len() < bytes {
        for program in PROGRAMS {
            text.push_str("when yes {\n");
            text.push_str(program);
            text.push_str("}\n");
        }
    }
    text
}

fn main() {
    let megabytes = std::env::var("QUILLON_BENCH_MB")
        .ok()
        .and_then(|n| n.parse().ok())
        .unwrap_or(10.0);
    let text = program((megabytes * 1e6) as usize);
    let size = text.len() as f64 / 1e6;
    let definition = SourceText::new("towpath.quillon", DEFINITION);
    let (compile, language) = median(|| Language::load(&definition).value.expect("no errors"));
    println!("definition compiled in {:.2} ms", compile * 1e3);
    let source = SourceText::new("program", text.as_str());

    let (tokens_time, tokens) = median(|| language.tokens(&source).value.expect("tokens"));
    let (hand_tokens_time, hand_tokens) = median(|| by_hand::tokens(&text));
    assert_eq!(
        tokens.tokens.len(),
        hand_tokens.len() + 1,
        "the same tokens"
    );
    report("tokens", size, tokens_time, hand_tokens_time);

    let (tree_time, tree) = median(|| {
        language
            .tree_of(&tokens, Reading::Program)
            .value
            .expect("a tree")
    });
    let (hand_tree_time, nodes) = median(|| by_hand::parse(&text, &hand_tokens).expect("a tree"));
    println!("tree nodes: {} here, {nodes} by hand", tree.len());
    report("tree", size, tree_time, hand_tree_time);
}

fn report(what: &str, size: f64, ours: f64, by_hand: f64) {
    println!(
        "{what}: {:.0} MB/s, by hand {:.0} MB/s, ratio {:.2}",
        size / ours,
        size / by_hand,
        by_hand / ours
    );
}
