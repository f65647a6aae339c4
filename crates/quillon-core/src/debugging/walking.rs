//! How far a run goes on, and where it has been.

use std::rc::Rc;

use super::asking::Asked;
use super::changes::Changes;
use super::checkpoints::Checkpoints;
use super::deeds::{Deed, Deeds, When};
use super::known::Known;
use super::marks::Marks;
use super::recorded::Outside;
use super::searching::{Search, Wanted};
use super::seen::Stopped;
use super::setting::set;
use super::spot::{Spot, until};
use super::stops::StopAt;
use super::{Guide, Order, Pace, Reason, Run};
use crate::diagnostic::{Diagnostic, Diagnostics, Outcome};
use crate::machine::{Leader, Loaded, Until, View, Way, Why};
use crate::source::Span;
use crate::values::Held;

/// What a run is to come to.
#[derive(Clone, Debug)]
pub(super) enum Goal {
    /// A moment.
    Moment(u64, Reason),
    /// Forwards from a place.
    Forwards(Pace, Spot),
    /// The last moment before one at which something was so.
    Search(Search),
    /// The beginning, with nothing changed.
    Anew,
}

/// The guide is asked after so many instructions at the earliest.
const BETWEEN_QUESTIONS: u64 = 1 << 10;

/// And after so many at the latest.
const TURN: u64 = 1 << 20;

impl Goal {
    pub fn begin() -> Goal {
        Goal::Moment(0, Reason::Beginning)
    }

    /// The first moment that matters to one that lies back; nothing if all is to begin anew.
    pub fn first(&self) -> Option<u64> {
        match self {
            Goal::Moment(moment, _) => Some(*moment),
            Goal::Search(search) => Some(search.start()),
            Goal::Forwards(..) | Goal::Anew => None,
        }
    }
}

/// Leads a run for a guide.
pub(super) struct Walker<'g> {
    pub(super) run: &'g Run<'g>,
    pub(super) guide: &'g mut dyn Guide,
    pub(super) goal: Goal,
    /// What another run is to come to.
    pub(super) next: Option<Goal>,
    is_ended: bool,
    pub(super) programs: Vec<Rc<Loaded>>,
    pub(super) known: Known,
    pub(super) marks: Marks,
    pub(super) changes: Changes,
    pub(super) deeds: &'g mut Deeds,
    pub(super) checkpoints: Checkpoints,
    /// The instruction from which on the guide is asked again whether the run is to stand still.
    pub(super) next_question: u64,
    /// How far the run is to go, if nobody asks for it.
    far: Until,
    /// How far it is with the outside.
    pub(super) outside: Outside,
}

impl<'g> Walker<'g> {
    pub fn new(
        run: &'g Run<'g>,
        guide: &'g mut dyn Guide,
        goal: Goal,
        deeds: &'g mut Deeds,
        outside: Outside,
    ) -> Walker<'g> {
        let definition = run.builder.language().definition();
        let apart = guide.checkpoints_apart();
        Walker {
            changes: Changes::of(&guide.stops().all, definition),
            checkpoints: Checkpoints::new(apart, run.builder.basis().1.memory, goal.first()),
            run,
            guide,
            goal,
            next: None,
            is_ended: false,
            programs: Vec::new(),
            known: Known::around(run.kept, definition),
            marks: Marks::default(),
            deeds,
            next_question: 0,
            far: Until::END,
            outside,
        }
    }

    /// How far the run goes first.
    pub fn until(&mut self) -> Until {
        self.go(self.up_to_goal(), 0)
    }

    /// Notes how far the run goes on from a moment; it stops on the way, to ask and to do again what has been
    /// done.
    fn go(&mut self, until: Until, now: u64) -> Until {
        self.far = self.up_to_deed(until);
        Until {
            latest: self
                .far
                .latest
                .min(now + TURN)
                .min(self.checkpoints.next(now)),
            ..self.far
        }
    }

    /// The same of any way to go from a moment.
    fn on_the(&mut self, way: Way, now: u64) -> Way {
        match way {
            Way::On(until) => Way::On(self.go(until, now)),
            Way::Back(moment, until) => Way::Back(moment, self.go(until, moment)),
            Way::End => Way::End,
        }
    }

    pub(super) fn up_to_goal(&self) -> Until {
        match &self.goal {
            Goal::Moment(moment, _) => until(*moment),
            Goal::Forwards(..) | Goal::Anew => until(0),
            Goal::Search(search) => search.begin(),
        }
    }

    /// What another run is to come to, if this one has not come to its own end.
    pub fn after(&mut self) -> Option<Goal> {
        self.next.take()
    }

    /// Whether the walk is over.
    pub fn is_ended(&self) -> bool {
        self.is_ended
    }

    /// The stops that there are now.
    pub(super) fn guide_stops(&self) -> &[StopAt] {
        &self.guide.stops().all
    }

    /// The stop that the run has come to, or what is wrong with the condition of one.
    pub(super) fn stop_at(&mut self, view: &View<'_, '_>, why: Why<'_>) -> Option<Reason> {
        let call = view.innermost();
        let mut here = match why {
            Why::Marked => self.marks.at(call.function, call.at),
            Why::Far => Vec::new(),
            Why::Fails(..) => return self.guide.stops().fault(why),
        };
        here.extend(self.changes.seen(view, &self.known));
        for number in here {
            let Some(stop) = self.marks.stop(number).cloned() else {
                continue;
            };
            if let Some(condition) = &stop.condition {
                match self.evaluate(view, condition).map(|value| value.as_truth()) {
                    Ok(Some(true)) => {}
                    Ok(_) => continue,
                    Err(problems) => {
                        let first: Vec<Diagnostic> = problems.into();
                        let problem = first.into_iter().next()?;
                        return Some(Reason::Condition(number, Box::new(problem)));
                    }
                }
            }
            if !self.marks.counts(number) {
                continue;
            }
            match &stop.log {
                Some(log) if !self.is_searching() => {
                    let text = self.filled_in(view, log);
                    self.guide.logged(&text);
                }
                Some(_) => {}
                None => return Some(Reason::Stop(number)),
            }
        }
        None
    }

    fn is_searching(&self) -> bool {
        matches!(self.goal, Goal::Search(_) | Goal::Moment(..))
    }

    fn evaluate(&self, view: &View<'_, '_>, text: &str) -> Result<Held, Diagnostics> {
        let asked = Asked::new(view, self.run.builder, &self.known, 0, text)?;
        Ok(asked.answer(view)?.value)
    }

    /// A text with what stands in braces worked out.
    fn filled_in(&self, view: &View<'_, '_>, text: &str) -> String {
        let mut out = String::new();
        let mut rest = text;
        while let Some((before, after)) = rest.split_once('{')
            && let Some((inside, after)) = after.split_once('}')
        {
            out += before;
            out += &match self.evaluate(view, inside) {
                Ok(value) => value.shown(),
                Err(problems) => match problems.first_message() {
                    "" => String::new(),
                    message => format!("<{message}>"),
                },
            };
            rest = after;
        }
        out + rest
    }

    /// Lets the guide look, and does what it says.
    pub(super) fn ask(&mut self, view: &mut View<'_, '_>, reason: Reason) -> Way {
        let now = view.now();
        let deeds = self.deeds.count();
        let part_at = self.part_of_stop(view, &reason);
        let mut carried = Vec::new();
        let order = self.guide.stopped(&mut Stopped {
            view,
            builder: self.run.builder,
            known: &self.known,
            deeds: self.deeds,
            carried: &mut carried,
            reason,
            outside: &self.outside,
            part_at,
        });
        if self.deeds.count() > deeds {
            self.forget_after(now, view);
        }
        self.take_in(carried, view);
        // Where it stands once the guide is done with it.
        let spot = Spot::of(view);
        match order {
            Order::On => {
                self.begin(view);
                let until = match &self.goal {
                    Goal::Forwards(pace, from) => from.until(*pace, now),
                    Goal::Moment(moment, _) if now < *moment => until(*moment),
                    Goal::Search(search) if search.is_before(now) => search.begin(),
                    Goal::Search(search) => search.until(now + 1),
                    Goal::Moment(..) | Goal::Anew => Until::END,
                };
                Way::On(until)
            }
            Order::Forwards(pace) => {
                self.begin(view);
                let until = spot.until(pace, now);
                self.goal = Goal::Forwards(pace, spot);
                Way::On(until)
            }
            Order::Backwards(Pace::Instruction) => {
                self.again(view, Goal::Moment(now.saturating_sub(1), Reason::Went))
            }
            Order::Backwards(pace) => {
                let wanted = Wanted::Pace(pace, Vec::new());
                let goal = self.search_for(wanted, now, spot);
                self.again(view, goal)
            }
            Order::ToChange(name) => {
                let goal = self.search_change(name, now, spot);
                self.again(view, goal)
            }
            Order::To(moment) if moment > now => {
                self.goal = Goal::Moment(moment, Reason::Went);
                Way::On(until(moment))
            }
            Order::To(moment) => self.again(view, Goal::Moment(moment, Reason::Went)),
            Order::ToBeginning => self.again(view, Goal::begin()),
            Order::Anew => self.again(view, Goal::Anew),
            Order::End => {
                self.is_ended = true;
                Way::End
            }
        }
    }

    /// The part of a meaning that a stop is at, if that is why the run stands still.
    fn part_of_stop(&self, view: &View<'_, '_>, reason: &Reason) -> Option<Span> {
        let Reason::Stop(number) = reason else {
            return None;
        };
        let call = view.innermost();
        self.marks.part_at(*number, call.function, call.at)
    }

    /// Goes on with the stops that there are now.
    fn begin(&mut self, view: &View<'_, '_>) {
        self.mark();
        // What the instruction changes is seen against what is before it.
        self.changes.seen(view, &self.known);
    }
}

impl Leader for Walker<'_> {
    fn ready(&mut self, program: &Rc<Loaded>) {
        self.make_ready(program);
    }

    fn stopped(&mut self, view: &mut View<'_, '_>, why: Why<'_>) -> Way {
        self.keep_up(view, why);
        self.do_again(view, why);
        let now = view.now();
        let way = if self.is_there(view, why) {
            self.went(view, why)
        } else if self.is_asked_for(now) {
            self.ask(view, Reason::Asked)
        } else {
            Way::On(self.far)
        };
        self.on_the(way, now)
    }

    fn ended(&mut self, view: &mut View<'_, '_>, outcome: &Outcome<Held>) -> Way {
        let Some(goal) = self.at_end(outcome, view.now()) else {
            self.is_ended = true;
            return Way::End;
        };
        let way = self.again(view, goal);
        self.on_the(way, view.now())
    }
}

impl Walker<'_> {
    /// Does what has been done at this moment before.
    fn do_again(&mut self, view: &mut View<'_, '_>, why: Why<'_>) {
        let now = When {
            moment: view.now(),
            has_failed: matches!(why, Why::Fails(..)),
        };
        let (builder, mut carried) = (self.run.builder, Vec::new());
        while let Some(deed) = self.deeds.due(now) {
            // What has come to something before does so again.
            match deed {
                Deed::Set { call, name, text } => {
                    drop(set(view, builder, &self.known, (call, &name), &text));
                }
                Deed::CarryOut { call, text } => {
                    let asked = Asked::new(view, builder, &self.known, call, &text);
                    drop(asked.and_then(|asked| asked.carry_out(view, &mut carried)));
                }
                Deed::GoOnAt(at) => view.go_on_at(at),
            }
        }
        self.take_in(carried, view);
    }

    /// Whether the run has come to where something is to be done, and not only to where it asks.
    fn is_there(&self, view: &View<'_, '_>, why: Why<'_>) -> bool {
        match why {
            Why::Marked | Why::Fails(..) => true,
            Why::Far => self.far.is_reached(view.now(), view.depth()),
        }
    }

    /// Whether the guide wants the run to stand still; it is not asked at every instruction.
    pub(super) fn is_asked_for(&mut self, now: u64) -> bool {
        if now < self.next_question {
            return false;
        }
        self.next_question = now + BETWEEN_QUESTIONS;
        self.guide.is_asked_for()
    }

    /// No further than to what is to be done again.
    fn up_to_deed(&self, until: Until) -> Until {
        Until {
            latest: until.latest.min(self.deeds.next().unwrap_or(u64::MAX)),
            ..until
        }
    }

    /// How far a run goes on that has come somewhere.
    fn went(&mut self, view: &mut View<'_, '_>, why: Why<'_>) -> Way {
        let now = view.now();
        match &self.goal {
            Goal::Moment(moment, reason) => {
                // A failure is seen once its instruction has been carried out.
                let is_of_failure = matches!(reason, Reason::Fault { .. });
                let fails = matches!(why, Why::Fails(..));
                if now >= *moment && fails == is_of_failure {
                    let reason = reason.clone();
                    return self.ask(view, reason);
                }
                let until = if now >= *moment {
                    Until::END
                } else {
                    until(*moment)
                };
                // How often stops have been come to counts on the way, too.
                if matches!(why, Why::Marked) && self.marks.have_skips() {
                    self.stop_at(view, why);
                } else {
                    self.changes.seen(view, &self.known);
                }
                Way::On(until)
            }
            Goal::Forwards(pace, from) => {
                let (pace, from) = (*pace, from.clone());
                if let Some(reason) = self.stop_at(view, why) {
                    return self.ask(view, reason);
                }
                // A place is looked at only where it matters: often every instruction is looked at.
                let is_far = pace != Pace::Stop && !matches!(why, Why::Fails(..));
                if is_far && from.is_left(pace, &Spot::of(view)) {
                    return self.ask(view, Reason::Went);
                }
                if self.is_asked_for(now) {
                    return self.ask(view, Reason::Asked);
                }
                Way::On(from.until(pace, now))
            }
            Goal::Search(_) => self.search(view, why),
            Goal::Anew => self.ask(view, Reason::Beginning),
        }
    }
}
