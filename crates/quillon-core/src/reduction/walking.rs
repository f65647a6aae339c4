//! A walk through a reduction: it stands at one of its steps, and goes forwards and backwards.

use super::{Ended, Reduction, Shown};
use crate::debugging::{Order, Pace};

/// Where a walk through a reduction stands.
#[derive(Debug)]
pub struct Walk {
    found: Reduction,
    step: usize,
    /// The forms at whose rules it stops.
    pub stops: Vec<String>,
}

impl Walk {
    /// A walk at the beginning of a reduction whose programs are all kept.
    pub fn new(found: Reduction) -> Walk {
        Walk {
            found,
            step: 0,
            stops: Vec::new(),
        }
    }

    /// The number of the step, from 0: the program as it was at first.
    pub fn step(&self) -> usize {
        self.step
    }

    /// The number of the last step.
    pub fn last(&self) -> usize {
        self.found.steps.len().saturating_sub(1)
    }

    /// Whether it stands at the last step.
    pub fn is_at_end(&self) -> bool {
        self.step == self.last()
    }

    /// All steps, with how they end.
    pub fn found(&self) -> &Reduction {
        &self.found
    }

    /// The program at the step.
    pub fn shown(&self) -> &Shown {
        &self.found.steps[self.step]
    }

    /// Whether the program is finished in the end.
    pub fn is_finished(&self) -> bool {
        self.found.ended == Ended::Value
    }

    /// Goes as an order says; whether it stands elsewhere then.
    pub fn go(&mut self, order: &Order) -> bool {
        let here = self.step;
        self.step = match order {
            Order::Forwards(Pace::Stop) => (here + 1..=self.last())
                .find(|step| self.is_stop(*step))
                .unwrap_or(self.last()),
            Order::Backwards(Pace::Stop) => {
                let before = (0..here).rev().find(|step| self.is_stop(*step));
                before.unwrap_or(0)
            }
            Order::Forwards(_) => (here + 1).min(self.last()),
            Order::Backwards(_) => here.saturating_sub(1),
            Order::ToBeginning | Order::Anew => 0,
            Order::On | Order::ToChange(_) | Order::To(_) | Order::End => here,
        };
        self.step != here
    }

    /// Whether a step is made by a rule of a form at which it stops.
    pub fn is_stop(&self, step: usize) -> bool {
        let by = self.found.steps[step].by.as_ref();
        let form = by.and_then(|by| by.split_once(": ")).map(|(form, _)| form);
        form.is_some_and(|form| self.stops.iter().any(|stop| stop == form))
    }
}
