//! Tries targets for some time each: `cargo run --release -p quillon-fuzz -- --seconds 60`.

use std::io::{Seek, Write};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use clap::Parser;
use fastrand::Rng;
use quillon_fuzz::{Target, meet, targets};

/// Try to break Quillon with inputs made up and changed at random
#[derive(Debug, Parser)]
struct Args {
    /// The targets; all of them if none is named
    targets: Vec<String>,

    /// How long each is tried at most
    #[arg(long, default_value_t = 60)]
    seconds: u64,

    /// How many inputs of each are tried at most
    #[arg(long, value_name = "COUNT", default_value_t = u64::MAX, hide_default_value = true)]
    inputs: u64,

    /// Where the random numbers begin
    #[arg(long, default_value_t = 1)]
    seed: u64,

    /// Meet the inputs in these files, and make none
    #[arg(long, value_name = "FILE")]
    input: Vec<PathBuf>,

    /// Where inputs are kept that something was wrong with
    #[arg(long, value_name = "FOLDER", default_value = "fuzz/findings")]
    findings: PathBuf,
}

/// When the input under way was begun, in milliseconds since the start; 0 when there is none.
static BEGUN: AtomicU64 = AtomicU64::new(0);

/// Longer than this no input may take.
const LONGEST: Duration = Duration::from_secs(30);

fn main() -> ExitCode {
    let args = Args::parse();
    let mut chosen = Vec::new();
    for name in &args.targets {
        let Some(target) = targets::named(name) else {
            let known: Vec<&str> = targets::ALL.iter().map(|target| target.name()).collect();
            eprintln!("there is no target {name}; there are {}", known.join(", "));
            return ExitCode::from(2);
        };
        chosen.push(target);
    }
    if chosen.is_empty() {
        chosen.extend(targets::ALL);
    }
    // A panic is told when the input is.
    std::panic::set_hook(Box::new(|_| {}));
    let all_well = quillon_core::native_stack::on_deep_stack(|| {
        chosen.iter().all(|target| {
            if args.input.is_empty() {
                tried(*target, &args)
            } else {
                args.input.iter().all(|file| met(*target, file))
            }
        })
    });
    if all_well {
        ExitCode::SUCCESS
    } else {
        ExitCode::FAILURE
    }
}

fn met(target: &dyn Target, file: &Path) -> bool {
    let input = std::fs::read(file).unwrap_or_default();
    let met = meet(target, &input);
    println!("{} {}: {met:?}", target.name(), file.display());
    met.is_ok()
}

/// Tries a target until its time is over, or something is found.
fn tried(target: &'static dyn Target, args: &Args) -> bool {
    let start = Instant::now();
    let under_way = std::env::temp_dir().join(format!("quillon-fuzz-{}", target.name()));
    let watched = under_way.clone();
    std::thread::spawn(move || {
        loop {
            std::thread::sleep(Duration::from_secs(1));
            let begun = BEGUN.load(Ordering::Relaxed);
            let now = start.elapsed().as_millis() as u64;
            if begun > 0 && now.saturating_sub(begun) > LONGEST.as_millis() as u64 {
                println!(
                    "{}: an input takes too long: {}",
                    target.name(),
                    watched.display()
                );
                std::process::exit(1);
            }
        }
    });
    let mut under_way_file = std::fs::File::create(&under_way).ok();
    let (mut count, mut seed) = (0u64, args.seed);
    while count < args.inputs && start.elapsed() < Duration::from_secs(args.seconds) {
        let input = target.make(&mut Rng::with_seed(seed));
        // If the process ends here, this is what it ended with. Always as long, since cutting a
        // file off takes longer than most inputs.
        if let Some(file) = &mut under_way_file {
            let _ = file.rewind();
            let _ = writeln!(file, "--seed {seed:<20}");
        }
        BEGUN.store(
            (start.elapsed().as_millis() as u64).max(1),
            Ordering::Relaxed,
        );
        let met = meet(target, &input);
        BEGUN.store(0, Ordering::Relaxed);
        if let Err(problem) = met {
            let folder = args.findings.join(target.name());
            let file = folder.join(seed.to_string());
            let kept =
                std::fs::create_dir_all(&folder).and_then(|()| std::fs::write(&file, &input));
            println!("{}: seed {seed}: {problem}", target.name());
            println!("kept: {kept:?} {}", file.display());
            return false;
        }
        (count, seed) = (count + 1, seed + 1);
    }
    let _ = std::fs::remove_file(&under_way);
    println!("{}: {count} inputs, nothing wrong", target.name());
    true
}
