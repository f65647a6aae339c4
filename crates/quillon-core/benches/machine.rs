//! Fifteen programs in the demo language, beside the best machine and a plain walker made by hand for
//! that language, the same work in Rust, the same programs with a definition that says its meanings
//! in the way that costs most to carry out as it stands, and the same in two other languages. `cargo bench -q -p
//! quillon-core --bench machine` prints milliseconds and ratios; names after `--` choose programs, `--quick` leaves walkers out, and `--instructions`
//! counts the processor's instructions instead, with `valgrind`, which has to be there; `--memory` tells the most
//! memory that a run adds, where the system tells that of a process (Linux).
//!
//! Figures are the best of several runs, all of them turn and turn about; the spread is how much longer the machine's
//! longest took. Reading a program and compiling it is not part of them.

use std::process::Command;
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

/// Languages that are described in the natural way too, and are like the demo's in nothing but what their programs do:
/// one in which everything is an expression, one in which every operation says itself what it takes, one that makes what
/// it needs of whatever there is, and one in which every number has a fraction.
const OTHERS: [(&str, &str); 4] = [
    ("basin.quillon", include_str!("peers/basin.quillon")),
    ("cistern.quillon", include_str!("peers/cistern.quillon")),
    ("barge.quillon", include_str!("peers/barge.quillon")),
    ("drift.quillon", include_str!("peers/drift.quillon")),
];

/// The programs of these names: in the demo language, and in the others.
macro_rules! programs {
    ($($name:ident)*) => {
        [$((
            stringify!($name),
            include_str!(concat!("programs/", stringify!($name), ".tow")),
            [
                include_str!(concat!("programs/", stringify!($name), ".basin")),
                include_str!(concat!("programs/", stringify!($name), ".cistern")),
                include_str!(concat!("programs/", stringify!($name), ".barge")),
                include_str!(concat!("programs/", stringify!($name), ".drift")),
            ],
        )),*]
    };
}

/// The name of a program, its text, and its texts in the other languages.
type Texts = (&'static str, &'static str, [&'static str; OTHERS.len()]);

const PROGRAMS: [Texts; 15] = programs![
    calls loops sieve texts closures bodies trees sorting levels higher matrix queens queue scanning halving
];

/// How often each thing is run; the best time counts.
const RUNS: usize = 7;

/// The ways to do the work, in the order of the columns.
const WAYS: [&str; 10] = [
    "machine",
    "natural",
    "other language",
    "strict language",
    "coercing language",
    "fractions only",
    "best by hand",
    "Rust",
    "walker",
    "walker by hand",
];

/// The first of the ways that run programs of the other languages.
const FIRST: usize = 2;

/// The best machine by hand.
const BY_HAND: usize = FIRST + OTHERS.len();

/// The same work in Rust.
const RUST: usize = BY_HAND + 1;

/// The first of the ways that are slow, and no judge of anything but themselves.
const WALKERS: usize = RUST + 1;

/// The languages that the programs are in: the demo's as it is and described in the natural way, and the others.
struct Languages {
    usual: Language,
    natural: Language,
    others: [Language; OTHERS.len()],
}

impl Languages {
    fn new() -> Languages {
        let load = |name: &str, text: String| {
            let language = Language::load(&SourceText::new(name, text));
            language.value.expect("the definition is right")
        };
        Languages {
            usual: load("towpath.quillon", DEFINITION.to_owned()),
            natural: load("natural.quillon", natural::definition(DEFINITION)),
            others: OTHERS.map(|(name, text)| load(name, text.to_owned())),
        }
    }
}

/// A program, ready to be run in each way.
struct Program<'l> {
    name: &'static str,
    source: Arc<SourceText>,
    /// The same in the other languages.
    others: [Arc<SourceText>; OTHERS.len()],
    languages: &'l Languages,
    tree: Rc<tree::Func>,
    best: best::Program,
}

impl Program<'_> {
    fn new((name, text, others): Texts, languages: &Languages) -> Program<'_> {
        let source = SourceText::new(name, text);
        let language = &languages.usual;
        let parsed = language.tree(&source, Reading::Program).value;
        let parsed = parsed.expect("a right program");
        let json = to_json(language.definition(), language.lexer(), &parsed);
        let tree = Rc::new(tree::read(&json));
        let best = best::compiler::compile(&tree);
        Program {
            name,
            source,
            others: others.map(|text| SourceText::new(name, text)),
            languages,
            tree,
            best,
        }
    }

    /// Does the work in one of the ways; the seconds that it took.
    fn run(&self, way: usize) -> f64 {
        let start = Instant::now();
        let seconds = || start.elapsed().as_secs_f64();
        let (printed, took) = match way {
            0 => quillon(Engine::Machine, &self.languages.usual, &self.source),
            1 => quillon(Engine::Machine, &self.languages.natural, &self.source),
            FIRST..BY_HAND => {
                let (language, source) = (
                    &self.languages.others[way - FIRST],
                    &self.others[way - FIRST],
                );
                quillon(Engine::Machine, language, source)
            }
            BY_HAND => (best::run(&self.best), seconds()),
            RUST => (native::run(self.name) + "\n", seconds()),
            WALKERS => quillon(Engine::Walk, &self.languages.usual, &self.source),
            _ => (walker::run(&self.tree), seconds()),
        };
        let wanted = native::run(self.name) + "\n";
        assert_eq!(printed, wanted, "{}, {}", self.name, WAYS[way]);
        took
    }
}

fn quillon(engine: Engine, language: &Language, source: &Arc<SourceText>) -> (String, f64) {
    let mut host = Recorder::default();
    let session = language.session().engine(engine).start(&mut host);
    let mut session = session.expect("a session");
    let code = language
        .code(source, Around::Nothing, Reading::Program)
        .value;
    let code = code.expect("a right program");
    let start = Instant::now();
    let outcome = match engine {
        Engine::Machine => session.run_code(&code),
        Engine::Walk => session.run_source(source, Reading::Program),
    };
    let took = start.elapsed().as_secs_f64();
    assert!(outcome.diagnostics.is_empty(), "{:?}", outcome.diagnostics);
    drop(session);
    (host.printed, took)
}

/// What a program takes in each way, and the spread of the machine.
fn race(program: &Program<'_>, ways: usize) -> (Vec<f64>, f64) {
    let mut best = vec![f64::INFINITY; ways];
    let mut longest: f64 = 0.0;
    for run in 0..RUNS {
        for (way, best) in best.iter_mut().enumerate() {
            if run > 1 && way >= WALKERS {
                continue;
            }
            let took = program.run(way);
            *best = best.min(took);
            if way == 0 {
                longest = longest.max(took);
            }
        }
    }
    let spread = longest / best[0] - 1.0;
    (best, spread)
}

/// The kilobytes of a line of what the system tells of this process: `VmRSS`, what it has, or `VmHWM`, the most so far.
fn kilobytes(line: &str) -> f64 {
    let told = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let told = told.lines().find_map(|one| one.strip_prefix(line));
    let number = told.and_then(|told| told.split_whitespace().nth(1));
    number
        .and_then(|number| number.parse().ok())
        .unwrap_or(f64::NAN)
}

/// The megabytes that a run in each way adds to what the process has before, at most.
fn weigh(name: &str, ways: usize) -> Vec<f64> {
    let own = std::env::current_exe().expect("this program");
    let weighed = |way: usize| {
        let mut once = Command::new(&own);
        let told = once.args(["--once", name, &way.to_string(), "1"]).output();
        let told = String::from_utf8_lossy(&told.expect("this program").stdout).into_owned();
        told.trim().parse::<f64>().expect("a number") / 1024.0
    };
    (0..ways).map(weighed).collect()
}

/// The instructions that a program takes in each way: those of two runs without those of one.
fn count(name: &str, ways: usize) -> Vec<f64> {
    let own = std::env::current_exe().expect("this program");
    let counted = |way: usize, times: usize| {
        let told = Command::new("valgrind")
            .args(["--tool=callgrind", "--callgrind-out-file=/dev/null"])
            .arg(&own)
            .args(["--once", name, &way.to_string(), &times.to_string()])
            .output()
            .expect("valgrind");
        let told = String::from_utf8_lossy(&told.stderr).into_owned();
        let line = told
            .lines()
            .find_map(|line| line.split("Collected :").nth(1));
        let number = line.and_then(|number| number.trim().parse::<f64>().ok());
        number.expect("a number of instructions")
    };
    (0..ways)
        .map(|way| counted(way, 2) - counted(way, 1))
        .collect()
}

/// Prints what was measured, and how often what the machine takes goes into it.
fn show(unit: f64, found: &[f64], sums: &mut [f64]) {
    for (way, one) in found.iter().enumerate() {
        let ratio = one / found[0];
        sums[way] += ratio.ln();
        let ratio = match way {
            0 => String::new(),
            _ => format!("{ratio:.2}"),
        };
        print!("{:>12.2} {ratio:>5}", one * unit);
    }
}

fn main() {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let languages = Languages::new();
    if let [flag, name, way, times] = &args[..]
        && flag == "--once"
    {
        let texts = PROGRAMS.iter().find(|one| one.0 == name);
        let program = Program::new(*texts.expect("a program"), &languages);
        let (way, times): (usize, usize) = (way.parse().unwrap(), times.parse().unwrap());
        let before = kilobytes("VmRSS");
        (0..times).for_each(|_| {
            program.run(way);
        });
        println!("{}", kilobytes("VmHWM") - before);
        return;
    }
    let has = |flag: &str| args.iter().any(|arg| arg == flag);
    let (counts, weighs) = (has("--instructions"), has("--memory"));
    let ways = if counts || weighs || has("--quick") {
        WALKERS
    } else {
        WAYS.len()
    };
    let chosen: Vec<&String> = args.iter().filter(|arg| !arg.starts_with('-')).collect();
    let what = if counts {
        "millions of instructions"
    } else if weighs {
        "megabytes that a run adds"
    } else {
        "milliseconds"
    };
    println!("{what}, and how many times as much as the machine takes");
    print!("{:<9}", "");
    WAYS[..ways].iter().for_each(|way| print!("{way:>18}"));
    println!("{}", if counts || weighs { "" } else { "  spread" });
    let mut sums = vec![0.0; ways];
    let mut shown = 0;
    for texts @ (name, ..) in PROGRAMS {
        if !chosen.is_empty() && !chosen.iter().any(|one| *one == name) {
            continue;
        }
        print!("{name:<9}");
        if counts {
            show(1e-6, &count(name, ways), &mut sums);
            println!();
        } else if weighs {
            show(1.0, &weigh(name, ways), &mut sums);
            println!();
        } else {
            let program = Program::new(texts, &languages);
            let (found, spread) = race(&program, ways);
            show(1e3, &found, &mut sums);
            println!("{:>7.0}%", spread * 100.0);
        }
        shown += 1;
    }
    print!("{:<9}{:>16}", "mean", "");
    for sum in &sums[1..] {
        print!("{:>16.2}", f64::exp(sum / f64::from(shown)));
    }
    println!();
}
