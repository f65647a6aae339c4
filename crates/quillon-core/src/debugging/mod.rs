//! Runs that somebody walks through: forwards and backwards, instruction by instruction, form by form, line
//! by line, from stop to stop, with the calls and the variables seen at each.
//!
//! A run is the same each time: by its program, its input, its seed and its state. So a moment is found
//! again by how many instructions lie before it, and a walk backwards is a run up to there once more, from a
//! checkpoint or from the beginning. What comes
//! from outside is recorded the first time; what went out then does not go out again.
//!
//! `stops` says where a run is to be stopped, `forms` where forms begin, `meanings` where parts of their meanings
//! do, `marks` marks all that in the code, `changes` what has another value,
//! `walking` how far it goes on, `backwards` how it goes back, `checkpoints` where from, `searching` finds moments that lie
//! back, `deeds` is what has been changed on the way, `elsewhere` where else a call can go on, `seen` tells what there is to see, `programs` takes note of the programs, `known` is what is known of them, `names` where their variables are kept, `asking` works texts out, `setting` gives variables other values, `lives` where variables hold something, `recorded` is the outside. `tracing` tells a
//! whole run, step by step.

mod asking;
mod backwards;
mod changes;
mod checkpoints;
mod deeds;
mod elsewhere;
mod forms;
mod known;
mod lives;
mod marks;
mod meanings;
mod names;
mod programs;
mod recorded;
mod searching;
mod seen;
mod setting;
mod spot;
mod stops;
mod tracing;
mod walking;

use std::collections::BTreeSet;
use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::bytecode::{self, Names};
use crate::diagnostic::{Diagnostic, Diagnostics, Outcome};
use crate::language::{Reading, Surroundings};
use crate::runtime::Host;
use crate::scoping::Kept;
use crate::session::{Session, SessionBuilder};
use crate::source::SourceText;
use crate::values::Held;

pub use crate::session::Answer;
pub use elsewhere::Elsewhere;
pub use meanings::{Meant, meaning_lines, meant};
pub use seen::{Around, Called, Stopped, Variable};
pub use stops::{At, Faults, StopAt, Stops};
pub use tracing::{Change, Step, Telling, trace};

use deeds::Deeds;
use recorded::{Record, Recorded};
use walking::{Goal, Walker};

/// How far a walk goes at a time.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Pace {
    /// An instruction.
    Instruction,
    /// To another form, also in a call.
    IntoForm,
    /// To another form, over calls.
    Form,
    /// To another part of a meaning in the definition, also in a call.
    IntoPart,
    /// To another part of a meaning, over calls.
    Part,
    /// To another line, also in a call.
    IntoLine,
    /// To another line, over calls.
    Line,
    /// Out of the call.
    Out,
    /// To a stop.
    Stop,
}

impl Pace {
    /// Whether it goes through what is inside of a form: its meaning, and what is built in.
    fn is_inside_forms(self) -> bool {
        match self {
            Pace::Instruction | Pace::IntoPart | Pace::Part => true,
            Pace::IntoForm | Pace::Form | Pace::IntoLine | Pace::Line | Pace::Out | Pace::Stop => {
                false
            }
        }
    }
}

/// How a walk goes on.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Order {
    /// As it was going.
    On,
    /// Forwards.
    Forwards(Pace),
    /// Backwards.
    Backwards(Pace),
    /// Back to where a variable of the innermost call, or a cell of the state, was given the value that it
    /// has.
    ToChange(String),
    /// To a moment, whichever way.
    To(u64),
    /// To the beginning.
    ToBeginning,
    /// From the beginning as if it had not been run: nothing has been changed, and what goes out goes out again.
    Anew,
    /// No further.
    End,
}

/// Why a walk is where it is.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Reason {
    /// The run has just begun.
    Beginning,
    /// It has gone as far as it was to.
    Went,
    /// The guide has asked for it.
    Asked,
    /// It has come to a stop, by its number.
    Stop(usize),
    /// Something fails here, and that is caught, or not.
    Fault {
        /// What fails.
        error: Box<Diagnostic>,
        /// Whether the program mends it.
        is_caught: bool,
    },
    /// The condition of a stop, by its number, cannot be worked out.
    Condition(usize, Box<Diagnostic>),
}

/// Somebody who walks through a run.
pub trait Guide {
    /// Where the run is to be stopped; asked for whenever it goes on.
    fn stops(&self) -> &Stops;

    /// The run stands still; how it goes on.
    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order;

    /// A stop that does not stop has something to say.
    fn logged(&mut self, text: &str);

    /// So many instructions at the least lie between two checkpoints: copies in memory of what the run has come
    /// to, from which it goes on again after a walk back. Only some are kept, those that lie far back further
    /// apart.
    fn checkpoints_apart(&self) -> u64 {
        1 << 21
    }

    /// Whether the run is to stand still as soon as it can, be it on the way back: then it stands where it has
    /// come to.
    fn is_asked_for(&self) -> bool {
        false
    }

    /// The run has come to its end; whether to go on from there, backwards.
    fn ended(&mut self, outcome: &Outcome<Held>) -> Order;
}

/// The lines of a program that do something, at which it can be stopped, with what is around it; none if it
/// cannot be run.
pub fn lines<'a>(
    builder: &SessionBuilder,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
    around: impl Into<Surroundings<'a>>,
) -> BTreeSet<u32> {
    let (prepared, _) = builder.basis();
    let compiled = builder.language().compiled(source, around, reading);
    let mut found = FxHashSet::default();
    // As it is led: a variable that always holds the same does something, too.
    if let Some(compiled) = compiled.value
        && let Ok(code) = bytecode::compile(&compiled.core, prepared.functions(), Names::Kept)
    {
        stops::lines_within(&code, &mut found);
    }
    found.into_iter().collect()
}

/// Walks through a run of a program with a host. What a function of the host gives is recorded; where it has
/// called the run back, what that has done to the run is not done again.
pub fn walk(
    builder: &SessionBuilder,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
    host: &mut dyn Host,
    guide: &mut dyn Guide,
) -> Outcome<Held> {
    let builder = builder.clone().seeded().led();
    let run = Run {
        builder: &builder,
        source,
        reading,
        kept: &[],
    };
    walked(&run, &|host| builder.clone().start(host), host, guide)
}

/// Walks through an entry of a conversation, on copies: the session stays as it is. The entry finds all as it
/// was before the last `back` entries; it is over at once if that is not remembered. What earlier entries
/// have made is run as it is, and shows less of itself.
pub fn walk_entry<H>(
    session: &Session<H>,
    back: usize,
    source: &Arc<SourceText>,
    host: &mut dyn Host,
    guide: &mut dyn Guide,
) -> Outcome<Held> {
    let builder = session.language().session().limits(session.limits()).led();
    let run = Run {
        builder: &builder,
        source,
        reading: Reading::Entry,
        kept: session.kept_before(back),
    };
    let copy = |problem: Box<Diagnostic>| Diagnostics::from(problem);
    walked(
        &run,
        &|host| session.led_copy(host, back).map_err(copy),
        host,
        guide,
    )
}

/// A run that is walked through.
struct Run<'r> {
    builder: &'r SessionBuilder,
    source: &'r Arc<SourceText>,
    reading: Reading<'r>,
    /// The names that it finds around it.
    kept: &'r [Kept],
}

/// What makes a session to run in, the same each time.
type Begin<'b> = dyn for<'r> Fn(Recorded<'r>) -> Result<Session<Recorded<'r>>, Diagnostics> + 'b;

fn walked(
    run: &Run<'_>,
    begin: &Begin<'_>,
    host: &mut dyn Host,
    guide: &mut dyn Guide,
) -> Outcome<Held> {
    let mut deeds = Deeds::default();
    let mut record = Record::of(deeds.diverges());
    let mut goal = Goal::begin();
    loop {
        record.rewind();
        deeds.rewind();
        let mut walker = Walker::new(run, guide, goal, &mut deeds, record.outside());
        let outcome = match begin(record.host(host)) {
            Ok(mut session) => session.lead(run.source, run.reading, walker.until(), &mut walker),
            Err(problems) => {
                let outcome = Outcome::failed(problems.into());
                walker.at_end(&outcome, u64::MAX);
                return outcome;
            }
        };
        let next = walker.after();
        goal = match next {
            Some(goal) => goal,
            None if walker.is_ended() => return outcome,
            // Nothing has been run.
            None => match walker.at_end(&outcome, u64::MAX) {
                Some(goal) => goal,
                None => return outcome,
            },
        };
        if matches!(goal, Goal::Anew) {
            deeds.clear();
            record.forget_printed();
            goal = Goal::begin();
        }
    }
}
