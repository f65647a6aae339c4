//! Fifteen programs in the demo language, beside the best machine and a plain walker made by hand for
//! that language, the same work in Rust, and the same programs with a definition that says its meanings
//! in the way that costs most to carry out as it stands. `cargo bench -q -p quillon-core --bench machine` prints
//! milliseconds and ratios; names after `--` choose programs.
//!
//! Figures are the best of several runs, all of them turn and turn about. Reading a program
//! and compiling it is not part of them.

use std::rc::Rc;
use std::sync::Arc;
use std::time::Instant;

use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::tree::to_json;
use quillon_core::{Engine, Language, Reading};

mod peers;

use peers::{best, native, natural, tree, walker};

const DEFINITION: &str = include_str!("../../../languages/towpath/towpath.quillon");

const PROGRAMS: [(&str, &str); 15] = [
    ("calls", include_str!("programs/calls.tow")),
    ("loops", include_str!("programs/loops.tow")),
    ("sieve", include_str!("programs/sieve.tow")),
    ("texts", include_str!("programs/texts.tow")),
    ("closures", include_str!("programs/closures.tow")),
    ("bodies", include_str!("programs/bodies.tow")),
    ("trees", include_str!("programs/trees.tow")),
    ("sorting", include_str!("programs/sorting.tow")),
    ("levels", include_str!("programs/levels.tow")),
    ("higher", include_str!("programs/higher.tow")),
    ("matrix", include_str!("programs/matrix.tow")),
    ("queens", include_str!("programs/queens.tow")),
    ("queue", include_str!("programs/queue.tow")),
    ("scanning", include_str!("programs/scanning.tow")),
    ("halving", include_str!("programs/halving.tow")),
];

/// How often each thing is run; the best time counts.
const RUNS: usize = 7;

/// The ways to do the work, in the order of the columns.
const WAYS: [&str; 6] = [
    "machine",
    "walker",
    "by hand",
    "walker by hand",
    "Rust",
    "natural",
];

fn quillon(engine: Engine, language: &Language, source: &Arc<SourceText>) -> (String, f64) {
    let mut host = Recorder::default();
    let session = language.session().engine(engine).start(&mut host);
    let mut session = session.expect("a session");
    match engine {
        Engine::Machine => {
            let code = language
                .code(source, Around::Nothing, Reading::Program)
                .value;
            let code = code.expect("a right program");
            let start = Instant::now();
            let outcome = session.run_code(&code);
            let took = start.elapsed().as_secs_f64();
            assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
            (host.printed, took)
        }
        Engine::Walk => {
            let start = Instant::now();
            let outcome = session.run_source(source, Reading::Program);
            let took = start.elapsed().as_secs_f64();
            assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
            (host.printed, took)
        }
    }
}

/// The best time of each way, in seconds; they must all come to the same.
fn race(name: &str, text: &str, language: &Language, natural: &Language) -> [f64; 6] {
    let source = SourceText::new(name, text);
    let parsed = language.tree(&source, Reading::Program).value;
    let json = to_json(
        language.definition(),
        language.lexer(),
        &parsed.expect("a right program"),
    );
    let by_hand = Rc::new(tree::read(&json));
    let compiled = best::compiler::compile(&by_hand);
    let mut best = [f64::INFINITY; 6];
    for run in 0..RUNS {
        for (way, best) in best.iter_mut().enumerate() {
            // The walkers are slow, and no judge of anything but themselves.
            if run > 1 && (way == 1 || way == 3) {
                continue;
            }
            let start = Instant::now();
            let (printed, took) = match way {
                0 => quillon(Engine::Machine, language, &source),
                1 => quillon(Engine::Walk, language, &source),
                2 => (best::run(&compiled), start.elapsed().as_secs_f64()),
                3 => (walker::run(&by_hand), start.elapsed().as_secs_f64()),
                4 => (native::run(name) + "\n", start.elapsed().as_secs_f64()),
                _ => quillon(Engine::Machine, natural, &source),
            };
            let wanted = native::run(name) + "\n";
            assert_eq!(printed, wanted, "{name}, {}", WAYS[way]);
            *best = best.min(took);
        }
    }
    best
}

fn main() {
    let chosen: Vec<String> = std::env::args()
        .skip(1)
        .filter(|a| !a.starts_with('-'))
        .collect();
    let source = SourceText::new("towpath.quillon", DEFINITION);
    let language = Language::load(&source).value.expect("the demo is right");
    let natural = SourceText::new("natural.quillon", natural::definition(DEFINITION));
    let natural = Language::load(&natural).value.expect("it is right, too");
    println!("milliseconds, and how many times as fast the machine is");
    print!("{:<9}", "");
    for way in WAYS {
        print!("{way:>16}");
    }
    println!();
    let mut sums = [0.0; 6];
    let mut count = 0.0;
    for (name, text) in PROGRAMS {
        if !chosen.is_empty() && !chosen.iter().any(|c| c == name) {
            continue;
        }
        let times = race(name, text, &language, &natural);
        print!("{name:<9}");
        for (way, time) in times.iter().enumerate() {
            let ratio = time / times[0];
            sums[way] += ratio.ln();
            let ratio = if way == 0 {
                String::new()
            } else {
                format!("{ratio:.2}")
            };
            print!("{:>10.2} {ratio:>5}", time * 1e3);
        }
        println!();
        count += 1.0;
    }
    print!("{:<9}", "mean");
    for (way, sum) in sums.iter().enumerate() {
        let mean = f64::exp(sum / count);
        let mean = if way == 0 {
            String::new()
        } else {
            format!("{mean:.2}")
        };
        print!("{mean:>16}");
    }
    println!();
}
