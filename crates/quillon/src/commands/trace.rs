//! `quillon trace`: each step of a run.

use std::sync::Arc;

use quillon_core::debugging::{Step, Telling, trace};
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading};

use crate::args::{Format, Trace as Args};
use crate::exit::Exit;
use crate::host::Terminal;
use crate::inputs::one_program;
use crate::interrupts;
use crate::json;
use crate::output::{report, status};
use crate::render;
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
    check_form(args, language)?;
    // What the program prints is shown with the step that prints it.
    let host = Terminal::silent(args.running.reach(source));
    let mut session = args.running.session(Engine::Walk, language, host)?;
    let mut written = Ok(());
    let outcome = trace(&mut session, source, reading, &mut |telling| {
        if written.is_ok() {
            written = tell(args, telling);
        }
    });
    written?;
    report(&outcome.diagnostics, Format::Text);
    Ok(status(&outcome.diagnostics))
}

/// A form that the language does not have is a mistake worth a word.
fn check_form(args: &Args, language: &Language) -> Result<(), Stop> {
    use quillon_core::diagnostic::{Diagnostic, codes, nearest, quote};
    let Some(asked) = &args.form else {
        return Ok(());
    };
    let definition = language.definition();
    if definition.form(asked).is_some() {
        return Ok(());
    }
    let known = definition.forms.iter().map(|form| form.name.text.as_str());
    let problem = Diagnostic::error(
        codes::USAGE,
        format!("{} has no form {}", definition.name.text, quote(asked)),
    )
    .did_you_mean(nearest(asked, known));
    Err(Stop::Usage(Box::new(problem)))
}

/// Whether a step is asked for by something that picks single steps.
fn is_picked(args: &Args, step: &Step) -> bool {
    let on_line = |line: u32| step.source.position(step.span.start).line == line;
    args.line.is_none_or(on_line)
        && args.form.as_ref().is_none_or(|form| step.form == *form)
        && args
            .watch
            .as_ref()
            .is_none_or(|name| step.changes.iter().any(|change| change.name == *name))
}

fn tell(args: &Args, telling: Telling<'_>) -> Result<(), Stop> {
    let (Telling::Opens(step)
    | Telling::Meanwhile(step)
    | Telling::Whole(step)
    | Telling::Closes(step)) = telling;
    let in_range = args.from.is_none_or(|from| step.number >= from)
        && args.to.is_none_or(|to| step.number <= to)
        && args.fold.is_none_or(|deepest| step.depth < deepest);
    if !in_range || !is_picked(args, step) {
        return Ok(());
    }
    let picks = args.line.is_some() || args.form.is_some() || args.watch.is_some();
    let ended = matches!(telling, Telling::Whole(_) | Telling::Closes(_));
    if args.common.format == Format::Json {
        return if ended { print_line(step) } else { Ok(()) };
    }
    // Single steps stand by themselves; others show what is in what.
    let folded = args.fold.is_some_and(|deepest| step.depth + 1 == deepest);
    let lines = match telling {
        _ if picks || folded => {
            if !ended {
                return Ok(());
            }
            render::trace::whole(step, if picks { 0 } else { step.depth })
        }
        Telling::Opens(step) => render::trace::opens(step),
        Telling::Meanwhile(step) => render::trace::meanwhile(step),
        Telling::Whole(step) => render::trace::whole(step, step.depth),
        Telling::Closes(step) => render::trace::closes(step),
    };
    crate::output::print_lines(&lines)
}

/// A step as one line of JSON.
fn print_line(step: &Step) -> Result<(), Stop> {
    use std::io::Write;
    writeln!(std::io::stdout(), "{}", json::step(step))?;
    Ok(())
}
