//! What is seen where a run stands.

use std::sync::Arc;

use quillon_core::debugging::{Around, At, Called, StopAt, Stopped};
use quillon_core::source::SourceText;

use super::values::{LONGEST, Values};

/// The parts of the screen that can be chosen in.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum Pane {
    #[default]
    Source,
    Names,
    Calls,
    Output,
}

impl Pane {
    const ALL: [Pane; 4] = [Pane::Source, Pane::Names, Pane::Calls, Pane::Output];

    /// The next one, or the one before.
    pub fn next(self, is_forwards: bool) -> Pane {
        let here = Pane::ALL.iter().position(|pane| *pane == self);
        let step = if is_forwards { 1 } else { Pane::ALL.len() - 1 };
        Pane::ALL[(here.unwrap_or_default() + step) % Pane::ALL.len()]
    }
}

/// How far a run goes at a time.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum Steps {
    #[default]
    Larger,
    /// By the instruction, so that the next one is said.
    Instructions,
}

/// Everything that is on the screen.
#[derive(Default)]
pub struct Shown {
    /// Why the run stands where it is, and whether that is something wrong.
    pub why: String,
    pub is_wrong: bool,
    /// How many instructions have been carried out.
    pub moment: u64,
    /// What is said below: an answer, or what cannot be done.
    pub said: String,
    /// How far the run goes at a time.
    pub steps: Steps,
    /// The calls under way, the innermost first, and the one that is looked at.
    pub calls: Vec<Called>,
    pub call: usize,
    pub around: Vec<Around>,
    /// The definition, and whether what it says of the form under way is on the screen.
    pub definition: Option<Arc<SourceText>>,
    pub has_meaning: bool,
    pub values: Values,
    /// What is watched, with what it comes to.
    pub watched: Vec<(String, Result<String, String>)>,
    pub stops: Vec<StopAt>,
    pub printed: usize,
    pub pane: Pane,
    /// The line that is chosen in the source, if not the one under way.
    pub line: Option<u32>,
    /// The value that is chosen.
    pub value: usize,
    /// How far the output is scrolled back, in lines.
    pub back: usize,
    /// Whether all keys are shown.
    pub is_helping: bool,
}

impl Shown {
    /// Takes what is seen where the run stands.
    pub fn look(&mut self, at: &Stopped<'_, '_, '_>) {
        self.moment = at.moment();
        self.printed = at.printed();
        self.calls = at.calls();
        self.definition = Some(Arc::clone(&at.definition().source));
        self.call = self.call.min(self.calls.len().saturating_sub(1));
        self.around = at.around(self.call);
        self.values.look(at, self.call);
        self.value = self.value.min(self.values.rows.len().saturating_sub(1));
        if self.steps == Steps::Instructions && self.said.is_empty() {
            self.said = next_instruction(at).unwrap_or_default();
        }
        for (text, value) in &mut self.watched {
            *value = worked_out(at, self.call, text);
        }
    }

    /// Goes back to where the run stands, with what is seen there being the last that is known.
    pub fn forget_choices(&mut self) {
        self.values.note();
        self.said.clear();
        self.forget_line();
        self.back = 0;
    }

    /// Looks at the line under way in the innermost call.
    pub fn forget_line(&mut self) {
        self.call = 0;
        self.line = None;
    }

    /// The call that is looked at.
    pub fn called(&self) -> Option<&Called> {
        self.calls.get(self.call)
    }

    /// The text that is looked at.
    pub fn source(&self) -> Option<&Arc<SourceText>> {
        self.called().map(|call| &call.source)
    }

    /// The line under way in it.
    pub fn line_under_way(&self) -> u32 {
        self.called()
            .map_or(1, |call| call.source.line_of(call.span.start))
    }

    /// The line that is chosen.
    pub fn chosen_line(&self) -> u32 {
        self.line.unwrap_or_else(|| self.line_under_way())
    }

    /// Puts a stop at the chosen line, or takes it away.
    pub fn toggle_stop(&mut self) {
        let Some(source) = self.source() else {
            return;
        };
        let at = At::Line(source.name().to_owned(), self.chosen_line());
        let before = self.stops.len();
        self.stops.retain(|stop| stop.at != at);
        if self.stops.len() == before {
            self.stops.push(StopAt::new(at));
        }
    }

    /// Goes up or down in the chosen pane.
    pub fn go(&mut self, by: i32) {
        let moved = |from: usize, most: usize| {
            let to = from.saturating_add_signed(by as isize);
            to.min(most)
        };
        match self.pane {
            Pane::Source => {
                let most = self.source().map_or(1, |source| source.line_count());
                let line = moved(self.chosen_line() as usize, most).max(1);
                self.line = Some(line as u32);
            }
            Pane::Names => {
                self.value = moved(self.value, self.values.rows.len().saturating_sub(1));
            }
            Pane::Calls => {
                self.call = moved(self.call, self.calls.len().saturating_sub(1));
                self.line = None;
            }
            Pane::Output => self.back = self.back.saturating_add_signed(-by as isize),
        }
    }
}

/// The instruction that comes next.
fn next_instruction(at: &Stopped<'_, '_, '_>) -> Option<String> {
    let here = at.calls().first()?.at;
    let lines = at.instructions(0)?;
    let next = lines.iter().find(|line| line.address == here)?;
    let operands = next.operands.join(", ");
    Some(format!("{here}: {} {operands}", next.mnemonic))
}

/// What a text comes to in a call, or why it comes to nothing.
pub fn worked_out(at: &Stopped<'_, '_, '_>, call: usize, text: &str) -> Result<String, String> {
    let came = at.evaluate(call, text);
    came.map(|answer| answer.value.written_within(LONGEST))
        .map_err(|problems| problems.first_message().to_owned())
}
