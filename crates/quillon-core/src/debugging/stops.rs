//! Where a run is to be stopped.

use rustc_hash::FxHashSet;

use super::Reason;
use crate::bytecode::{Function, Op};
use crate::machine::Why;
use crate::values::told_written;

/// A place or a happening at which a run is stopped.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum At {
    /// A line of a program or of the definition, by the file's name, or the first after it that does something.
    Line(String, u32),
    /// A place within a line: what begins there, or is the innermost thing around it; line and column from
    /// 1, in characters.
    Place(String, u32, u32),
    /// A call of a function, by its name.
    Function(String),
    /// Where something begins that is read as a form, by its name.
    Form(String),
    /// Where a variable of the innermost call, or a cell of the state, has been given another value.
    Change(String),
}

/// A stop.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct StopAt {
    /// Where.
    pub at: At,
    /// Only if this, worked out there, is true.
    pub condition: Option<String>,
    /// Only after so many times.
    pub skips: u64,
    /// Instead of stopping, this is said: what stands in braces is worked out there.
    pub log: Option<String>,
}

impl StopAt {
    /// A stop without conditions.
    pub fn new(at: At) -> StopAt {
        StopAt {
            at,
            condition: None,
            skips: 0,
            log: None,
        }
    }
}

/// Which failures stop a run.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub struct Faults {
    /// All of them.
    pub raised: bool,
    /// Those that nothing mends.
    pub uncaught: bool,
}

/// Where a run is to be stopped.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub struct Stops {
    /// The stops; a reason names one by its number.
    pub all: Vec<StopAt>,
    /// The failures.
    pub faults: Faults,
}

impl Stops {
    /// The failure that stops a run, if it does.
    pub(super) fn fault(&self, why: Why<'_>) -> Option<Reason> {
        let Why::Fails(failure, is_caught) = why else {
            return None;
        };
        let is_wanted = self.faults.raised || self.faults.uncaught && !is_caught;
        is_wanted.then(|| {
            let mut error = Box::new(failure.clone().diagnostic());
            if let Some(raised) = failure.raised.filter(|_| is_caught) {
                error.message = format!("this is raised: {}", told_written(&raised));
            }
            Reason::Fault { error, is_caught }
        })
    }
}

/// The lines of a function that do something, each with the instructions that come to it from another.
pub(super) fn lines(function: &Function) -> Vec<(u32, usize)> {
    let mut found = Vec::new();
    let mut last = None;
    for at in function.starts() {
        let Some(site) = function.site(at) else {
            continue;
        };
        // What only leads to the same line has not begun it.
        if matches!(function.code[at].op(), Some(Op::Jump | Op::Done)) {
            continue;
        }
        let line = function.source.line_of(site.whole.span.start);
        if last != Some(line) {
            found.push((line, at));
            last = Some(line);
        }
    }
    found
}

/// The lines that do something in a function and in those that it makes.
pub(super) fn lines_within(function: &Function, found: &mut FxHashSet<u32>) {
    found.extend(lines(function).into_iter().map(|(line, _)| line));
    for inner in &function.functions {
        lines_within(inner, found);
    }
}

/// The instructions of a function that a stop at a line or a function is at; `known` are
/// all lines that do something in its text.
pub(super) fn instructions(function: &Function, at: &At, known: &FxHashSet<u32>) -> Vec<usize> {
    if function.built_in {
        return Vec::new();
    }
    match at {
        At::Line(name, line) if function.source.name() == name => {
            let next = known.iter().filter(|known| *known >= line).min();
            let lines = lines(function).into_iter();
            let here = lines.filter(|(line, _)| Some(line) == next);
            here.map(|(_, at)| at).collect()
        }
        At::Function(name) if function.name.as_deref() == Some(name) => vec![0],
        // Those are found in a program as a whole.
        At::Line(..) | At::Place(..) | At::Function(_) | At::Form(_) | At::Change(_) => Vec::new(),
    }
}

/// How well a stretch stands for a place: what begins there comes first, then what is smallest.
pub(super) type Nearness = (bool, u32);

/// The first instruction of the stretch of a function that stands best for a place.
pub(super) fn nearest(function: &Function, at: &At) -> Option<(Nearness, usize)> {
    let At::Place(name, line, column) = at else {
        return None;
    };
    if function.built_in || function.source.name() != name {
        return None;
    }
    let offset = function.source.offset_at(*line, *column)?;
    let near = function.starts().filter_map(|at| {
        let span = function.site(at)?.whole.span;
        let is_around = span.start <= offset && offset < span.end;
        is_around.then_some(((span.start != offset, span.end - span.start), at))
    });
    near.min()
}
