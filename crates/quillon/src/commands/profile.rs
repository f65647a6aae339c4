//! `quillon profile`: where a run spends its time.

use std::sync::Arc;

use quillon_core::profiling::{Profile, profile};
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading};
use quillon_render::flame;
use serde_json::{Value, json};

use crate::args::{Format, Profile as Args, ProfileView};
use crate::exit::Exit;
use crate::host::Rehearsal;
use crate::inputs::one_program;
use crate::interrupts;
use crate::output::{print_json, print_lines, report, status, with_diagnostics};
use crate::render::profile as render;
use crate::render::progress::progress;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    interrupts::watch_for();
    let input = one_program(&args.program, &args.common)?;
    one(args, &input.language, &input.source, input.reading)
}

fn one(
    args: &Args,
    language: &Language,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
) -> Result<Exit, Stop> {
    // The program runs several times, each time with the same input; what it prints is not
    // what is asked for.
    let input = Rehearsal::input(source);
    let host = Rehearsal::new(args.running.reach(source), &input);
    let is_of_heap = args.view == ProfileView::Heap;
    let mut session = if is_of_heap {
        args.running.weighing(language, host)?
    } else {
        args.running.counting(language, host)?
    };
    // Counted, on the machine alone, and on the walking evaluator.
    let runs = match (is_of_heap, args.no_walk) {
        (true, _) => 1,
        (false, true) => 2,
        (false, false) => 3,
    };
    let bar = progress(runs, "runs");
    bar.tick();
    let mut outcome = profile(&mut session, source, reading);
    bar.inc(1);
    let went_well = outcome.diagnostics.iter().all(|d| !d.is_error());
    let is_timed = went_well && !is_of_heap;
    if let Some(profile) = outcome.value.as_mut().filter(|_| is_timed) {
        let timed = |engine| -> Result<_, Stop> {
            let host = Rehearsal::new(args.running.reach(source), &input);
            let mut session = args.running.session(engine, language, host)?;
            let time = session.time(source, reading);
            bar.inc(1);
            Ok(time)
        };
        let machine = timed(Engine::Machine)?;
        let walker = if args.no_walk {
            None
        } else {
            Some(timed(Engine::Walk)?)
        };
        profile.timed(machine, walker);
    }
    bar.finish_and_clear();
    show(args, source, outcome.value.as_ref(), &outcome.diagnostics)?;
    Ok(status(&outcome.diagnostics))
}

fn show(
    args: &Args,
    source: &SourceText,
    profile: Option<&Profile>,
    diagnostics: &[quillon_core::diagnostic::Diagnostic],
) -> Result<(), Stop> {
    if args.common.format == Format::Json {
        let value = profile.map_or(Value::Null, |profile| json!(profile));
        return print_json(&with_diagnostics("profile", &value, diagnostics));
    }
    if let Some(profile) = profile {
        print_lines(&match args.view {
            ProfileView::Table => render::shown(profile),
            ProfileView::Heap => render::heap(profile),
            ProfileView::Flame => {
                let title = format!("calls of {}", source.name());
                vec![flame::to_svg(&profile.flame, &title).trim_end().to_owned()]
            }
        })?;
    }
    report(diagnostics, Format::Text);
    Ok(())
}
