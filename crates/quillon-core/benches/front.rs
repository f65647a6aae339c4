//! Tokens and trees of a generated program, beside a lexer and a parser written by hand for
//! the demo language. `cargo bench -p quillon-core` prints megabytes a second and ratios.
//!
//! Figures are the best of several runs, ours and the other turn and turn about; `QUILLON_BENCH_MB` sets the size
//! of the program in megabytes.

use std::sync::Arc;
use std::time::Instant;

use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

mod by_hand;

const DEFINITION: &str = include_str!("../../../languages/towpath/towpath.quillon");
const PROGRAMS: [&str; 2] = [
    include_str!("../../../languages/towpath/programs/flight.tow"),
    include_str!("../../../languages/towpath/programs/tolls.tow"),
];

/// How often each thing is run; the best time counts, since everything else on a machine
/// only ever makes it slower.
const RUNS: usize = 9;

/// The best times of two ways to do the same, taken turn and turn about, in seconds; and
/// their last results.
fn race<A, B>(mut ours: impl FnMut() -> A, mut theirs: impl FnMut() -> B) -> (f64, f64, A, B) {
    let mut best = [f64::INFINITY; 2];
    let mut last = None;
    for _ in 0..RUNS {
        drop(last.take());
        let start = Instant::now();
        let a = ours();
        best[0] = best[0].min(start.elapsed().as_secs_f64());
        let start = Instant::now();
        let b = theirs();
        best[1] = best[1].min(start.elapsed().as_secs_f64());
        last = Some((a, b));
    }
    let (a, b) = last.expect("there are runs");
    (best[0], best[1], a, b)
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
    let language = compiled();
    let source = SourceText::new("program", text.as_str());

    let (ours, by_hand, tokens, hand_tokens) = race(
        || language.tokens(&source).value.expect("tokens"),
        || by_hand::tokens(&text),
    );
    assert_eq!(
        tokens.tokens.len(),
        hand_tokens.len() + 1,
        "the same tokens"
    );
    report("tokens", size, ours, by_hand);

    let (ours, by_hand, tree, nodes) = race(
        || {
            language
                .tree_of(&tokens, Reading::Program)
                .value
                .expect("a tree")
        },
        || by_hand::parse(&text, &hand_tokens).expect("a tree"),
    );
    report("tree", size, ours, by_hand);
    println!(
        "tree: {} nodes, {:.1} bytes a node ({nodes} nodes by hand); {:.1} bytes a byte of text",
        tree.len(),
        tree.bytes() as f64 / tree.len() as f64,
        tree.bytes() as f64 / (size * 1e6)
    );
}

/// The demo language; prints how long it takes to compile, and a language of a hundred
/// forms.
fn compiled() -> Language {
    let load = |source: &Arc<SourceText>| Language::load(source).value.expect("no errors");
    let demo = SourceText::new("towpath.quillon", DEFINITION);
    let hundred = SourceText::new("hundred.quillon", hundred_forms());
    let (one, other, language, large) = race(|| load(&demo), || load(&hundred));
    println!(
        "definitions: {} forms in {:.2} ms, {} forms in {:.2} ms",
        language.definition().forms.len(),
        one * 1e3,
        large.definition().forms.len(),
        other * 1e3
    );
    language
}

/// A definition of a hundred forms: sixty commands, thirty-six operators on twelve levels,
/// and four more.
fn hundred_forms() -> String {
    let mut text = String::from(
        "language Hundred\n  reads \".hundred\"\n\ntokens\n  Blank [ \\n]+ ignored\n  Whole digit+ holds integer\n  Name letter+\n\nprecedence of Expr, loosest first\n",
    );
    for level in 0..12 {
        let grouping = if level % 3 == 2 { "right" } else { "left" };
        let forms: Vec<String> = (0..3).map(|n| format!("Op{level}x{n}")).collect();
        text += &format!("  {grouping} {}\n", forms.join(", "));
    }
    text += "\nform Program\n  written steps:Step* by \";\" trailing\n  means all steps\n";
    for n in 0..60 {
        let parts = [
            "value:Expr",
            "value:Expr \"to\" other:Expr",
            "name:Name \"of\" (value:Expr)?",
        ];
        text += &format!(
            "\nform Command{n} in Step\n  written \"command{n}\" {}\n  means nothing\n",
            parts[n % 3]
        );
    }
    for level in 0..12 {
        for n in 0..3 {
            let sign = format!(
                "{}{}",
                ["+", "*", "&"][n],
                "<>=!@#$%^?:-".chars().nth(level).unwrap_or('~')
            );
            text += &format!(
                "\nform Op{level}x{n} in Expr\n  written left:Expr \"{sign}\" right:Expr\n  means left + right\n"
            );
        }
    }
    text += "\nform Number in Expr\n  written value:Whole\n  means value\n";
    text += "\nform Word in Expr\n  written name:Name\n  means spelling of name\n";
    text += "\nform Group in Expr\n  written \"(\" inner:Expr \")\"\n  becomes inner\n";
    text
}

fn report(what: &str, size: f64, ours: f64, by_hand: f64) {
    println!(
        "{what}: {:.0} MB/s, by hand {:.0} MB/s, ratio {:.2}",
        size / ours,
        size / by_hand,
        by_hand / ours
    );
}
