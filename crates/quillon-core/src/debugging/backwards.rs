//! How a walk goes back: to something that lies before, from a checkpoint or in another run.

use super::searching::{Came, Search, Wanted};
use super::spot::Spot;
use super::walking::{Goal, Walker};
use super::{Order, Reason};
use crate::diagnostic::Outcome;
use crate::machine::{Until, View, Way, Why};
use crate::source::Span;
use crate::values::Held;

impl Walker<'_> {
    /// After the end of the run, after so many instructions: what it is to come to when it is run once more.
    pub(super) fn at_end(&mut self, outcome: &Outcome<Held>, end: u64) -> Option<Goal> {
        if let Goal::Search(search) = &self.goal {
            return Some(after(search.clone()));
        }
        let order = self.guide.ended(outcome);
        let from = Spot {
            depth: usize::MAX,
            source: std::ptr::null(),
            line: 0,
            span: Span::default(),
            meaning: Span::default(),
            is_built_in: false,
        };
        match order {
            Order::End | Order::On | Order::Forwards(_) => None,
            Order::Backwards(pace) => {
                let wanted = Wanted::Pace(pace, Vec::new());
                Some(self.search_for(wanted, end, from))
            }
            Order::ToChange(name) => Some(self.search_change(name, end, from)),
            Order::To(moment) => Some(Goal::Moment(moment, Reason::Went)),
            Order::ToBeginning => Some(Goal::begin()),
            Order::Anew => Some(Goal::Anew),
        }
    }

    pub(super) fn search_change(&self, name: String, end: u64, from: Spot) -> Goal {
        let cell = self.run.builder.language().definition().state_index(&name);
        let wanted = Wanted::Change {
            name,
            cell,
            held: None,
            last: 0,
        };
        self.search_for(wanted, end, from)
    }

    pub(super) fn search_for(&self, wanted: Wanted, end: u64, from: Spot) -> Goal {
        Goal::Search(Search::new(wanted, end, from, self.has_past()))
    }

    /// Takes note of where a search has come; how far it goes on.
    pub(super) fn search(&mut self, view: &mut View<'_, '_>, why: Why<'_>) -> Way {
        let now = view.now();
        if let Goal::Search(search) = &self.goal
            && search.is_before(now)
        {
            // It has only come to what is done again.
            return Way::On(search.begin());
        }
        let stop = self.stop_at(view, why);
        let Goal::Search(search) = &mut self.goal else {
            return Way::On(Until::END);
        };
        search.note(view, &self.known, stop);
        if search.is_over(now) {
            let goal = after(search.clone());
            return self.again(view, goal);
        }
        let until = search.until(now + 1);
        if self.is_asked_for(now) {
            return self.ask(view, Reason::Asked);
        }
        Way::On(until)
    }

    /// Goes to something that lies back: from a checkpoint if there is one before it, else in another run.
    pub(super) fn again(&mut self, view: &mut View<'_, '_>, goal: Goal) -> Way {
        if let Some(first) = goal.first()
            && let Some(moment) = self.go_back(view, first)
        {
            self.goal = goal;
            self.checkpoints.want_before(first);
            return Way::Back(moment, self.up_to_goal());
        }
        self.next = Some(goal);
        Way::End
    }

    /// Brings the run back to the latest checkpoint that is not after a moment; its moment.
    fn go_back(&mut self, view: &mut View<'_, '_>, first: u64) -> Option<u64> {
        // What has come from outside after what has just been changed is to be forgotten first.
        if self.deeds.diverges().get() {
            return None;
        }
        self.mark();
        let moment = view.kept().filter(|moment| *moment <= first).max()?;
        let beside = self.checkpoints.all.get(&moment)?;
        let is_as_it_was = self.marks.are_of(&beside.stops);
        if !is_as_it_was && self.has_past() || !view.go_back(moment) {
            return None;
        }
        if is_as_it_was {
            self.marks.set_times(&beside.times);
            self.changes.set_held(&beside.held);
        }
        self.outside.go_back(beside.place);
        self.deeds.go_back(beside.done);
        self.next_question = moment;
        Some(moment)
    }

    /// Whether it matters to some stop what was before.
    pub(super) fn has_past(&self) -> bool {
        self.marks.have_skips() || !self.changes.is_empty()
    }
}

/// What another run is to come to after a search.
fn after(search: Search) -> Goal {
    match search.came() {
        Came::Found(at, reason) => Goal::Moment(at, reason),
        Came::Wider(search) => Goal::Search(*search),
        Came::Nothing => Goal::begin(),
    }
}
