//! `quillon test`: runs the examples of a definition and its case files, and checks what
//! holds for every program.
//!
//! `suites` finds what there is, `running` runs it in parallel, `report` and `formats` show
//! what came of it, `accepting` writes down what was got, `remembered` keeps which failed,
//! `covering` says what no case touches, `generated` checks programs made up from the
//! definition, and `watching` does it all again whenever a file changes.

use crate::args::{Test as Args, TestFormat};
use crate::exit::Exit;
use crate::output::print_lines;
use crate::stop::Stop;

mod accepting;
mod covering;
mod formats;
mod generated;
mod remembered;
mod report;
mod running;
mod suites;
mod watching;

use running::Results;
pub use running::pool;
pub use suites::beside;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    if args.watch {
        return watching::watch(args);
    }
    once(args)
}

/// Runs everything once.
fn once(args: &Args) -> Result<Exit, Stop> {
    if args.coverage.is_some() {
        return covering::cover(args);
    }
    let mut results = running::run_all(args)?;
    if let Some(count) = args.generated {
        let properties = generated::Promise::Properties;
        results
            .all
            .extend(generated::check(args, count, properties)?);
    }
    if let Some(count) = args.soundness {
        let soundness = generated::Promise::Soundness;
        results
            .all
            .extend(generated::check(args, count, soundness)?);
    }
    if args.format != TestFormat::Json {
        crate::render::show_all(&results.diagnostics);
    }
    match args.format {
        TestFormat::Text => print_lines(&report::lines(&results, args.list))?,
        TestFormat::Json => crate::output::print_json(&formats::json(&results))?,
        TestFormat::Junit => print_text(&formats::junit(&results))?,
        TestFormat::Tap => print_text(&formats::tap(&results))?,
    }
    remembered::remember(&results);
    if args.accept {
        return accepting::accept(args, &results);
    }
    Ok(exit_of(&results))
}

fn exit_of(results: &Results) -> Exit {
    if results.failed() > 0 || results.broken() > 0 {
        Exit::Failed
    } else {
        Exit::Done
    }
}

fn print_text(text: &str) -> Result<(), Stop> {
    use std::io::Write;
    std::io::stdout().write_all(text.as_bytes())?;
    Ok(())
}
