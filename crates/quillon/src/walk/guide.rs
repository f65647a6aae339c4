//! Leads a run as keys say.

use std::cell::{Cell, RefCell};
use std::io;
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use quillon_core::Language;
use quillon_core::debugging::{
    At, Guide, Order, Pace, Reason, StopAt, Stopped, Stops, meaning_lines,
};
use quillon_core::diagnostic::{Outcome, quote};
use quillon_core::source::SourceText;
use quillon_core::values::{Held, ValueKind};
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEventKind};

use super::Walked;
use super::drawing::Run;
use super::keys::{self, Asked, Wish};
use super::output::Output;
use super::shown::{Pane, Shown, Steps, worked_out};
use super::values::LONGEST;
use super::window::{Screen, Window};

/// How often it is looked whether a key has been pressed while the run goes on.
const TURN: Duration = Duration::from_millis(50);

/// Why there is no stop at a line.
const NOTHING_DONE: &str = "nothing is done from this line on";

/// What leads a run.
pub struct Led<'w> {
    language: &'w Language,
    source: &'w Arc<SourceText>,
    window: Rc<RefCell<Window<Run>>>,
    stops: Stops,
    /// The lines of the program that do something.
    lines: Vec<u32>,
    last_look: Cell<Instant>,
    /// Whether the run is on the way to an earlier moment.
    goes_back: bool,
}

/// What comes of a wish.
enum Then {
    Go(Order),
    /// The run stands where it is.
    Stay,
    /// A text is carried out where it is.
    CarryOut(String),
}

impl<'w> Led<'w> {
    pub fn new(walked: &Walked<'w>, window: Rc<RefCell<Window<Run>>>) -> Led<'w> {
        let mut stops = Stops::default();
        stops.faults.uncaught = true;
        Led {
            language: walked.language,
            source: walked.source,
            lines: walked.lines.clone(),
            window,
            stops,
            last_look: Cell::new(Instant::now()),
            goes_back: false,
        }
    }

    /// Has keys say how the run goes on; without a place to look at when it is over.
    fn led(&mut self, at: &mut Option<&mut Stopped<'_, '_, '_>>) -> io::Result<Order> {
        let shared = Rc::clone(&self.window);
        loop {
            let mut window = shared.borrow_mut();
            if let Some(at) = at {
                window.screen.shown.look(at);
            }
            let key = window.key()?;
            if std::mem::take(&mut window.screen.shown.is_helping) {
                continue;
            }
            let Some(wish) = keys::wish(key, window.screen.shown.pane) else {
                continue;
            };
            window.screen.shown.said.clear();
            match self.granted(&mut window, at, wish)? {
                Then::Stay => {}
                Then::CarryOut(text) => {
                    // It prints and reads there.
                    drop(window);
                    let said = carry_out(at, &shared, &text);
                    shared.borrow_mut().screen.shown.said = said;
                }
                Then::Go(order) => {
                    self.stops.all.clone_from(&window.screen.shown.stops);
                    window.screen.shown.forget_choices();
                    self.goes_back = goes_back(&order);
                    let why = if self.goes_back {
                        "goes back; Esc stops it"
                    } else {
                        "goes on; any key stops it"
                    };
                    why.clone_into(&mut window.screen.shown.why);
                    window.screen.shown.is_wrong = false;
                    window.draw(None)?;
                    self.last_look.set(Instant::now());
                    return Ok(order);
                }
            }
        }
    }

    fn granted(
        &mut self,
        window: &mut Window<Run>,
        at: &mut Option<&mut Stopped<'_, '_, '_>>,
        wish: Wish,
    ) -> io::Result<Then> {
        let shown = &mut window.screen.shown;
        match wish {
            Wish::Go(Order::Forwards(_)) if at.is_none() => {
                "the run is over: capital letters go back, b begins again"
                    .clone_into(&mut shown.said);
            }
            Wish::Go(order) => {
                let parts = [
                    Order::Forwards(Pace::IntoPart),
                    Order::Backwards(Pace::IntoPart),
                ];
                shown.has_meaning |= parts.contains(&order);
                let instructions = [
                    Order::Forwards(Pace::Instruction),
                    Order::Backwards(Pace::Instruction),
                ];
                shown.steps = if instructions.contains(&order) {
                    Steps::Instructions
                } else {
                    Steps::Larger
                };
                return Ok(Then::Go(order));
            }
            Wish::ShowMeaning => shown.has_meaning = !shown.has_meaning,
            Wish::Leave => return Ok(Then::Go(Order::End)),
            Wish::ToggleStop => {
                self.toggle(shown);
            }
            Wish::GoOnHere => {
                let Run { shown, output } = &mut window.screen;
                shown.said = go_on_here(at, shown.chosen_line());
                if let Some(at) = at {
                    output.forget_from(at.printed());
                    shown.forget_line();
                }
            }
            Wish::NextPane(is_forwards) => shown.pane = shown.pane.next(is_forwards),
            Wish::Move(by) => shown.go(by),
            Wish::Unfold => {
                let chosen = shown.value;
                shown.values.unfold(chosen);
            }
            Wish::Forget => {
                shown.watched.pop();
            }
            Wish::Help => shown.is_helping = true,
            Wish::Type(asked) => {
                let begun = Led::begun(shown, asked);
                if let Some(typed) = window.ask(asked, begun)? {
                    let Run { shown, output } = &mut window.screen;
                    return Ok(self.typed(shown, output, at, asked, typed.trim()));
                }
            }
        }
        Ok(Then::Stay)
    }

    /// Puts a stop at the line that is chosen, or at the next that does something.
    fn toggle(&self, shown: &mut Shown) {
        let chosen = shown.chosen_line();
        let is_own = shown
            .source()
            .is_some_and(|source| Arc::ptr_eq(source, self.source));
        if is_own && !self.lines.contains(&chosen) {
            let Some(next) = self.lines.iter().find(|line| **line > chosen) else {
                NOTHING_DONE.clone_into(&mut shown.said);
                return;
            };
            shown.line = Some(*next);
        }
        shown.toggle_stop();
    }

    /// What stands there before something is typed: the name that is chosen.
    fn begun(shown: &Shown, asked: Asked) -> String {
        let rows = shown.values.rows.iter();
        let chosen = rows.skip(shown.value).find(|row| row.depth == 0);
        let chosen = chosen.filter(|_| shown.pane == Pane::Names);
        let begun = match asked {
            Asked::Origin => chosen.map(|row| row.name.clone()),
            Asked::Set => chosen.map(|row| format!("{} = ", row.name)),
            Asked::Value | Asked::Watch | Asked::Do | Asked::Stop | Asked::Form | Asked::Input => {
                None
            }
        };
        begun.unwrap_or_default()
    }

    fn typed(
        &mut self,
        shown: &mut Shown,
        output: &mut Output,
        at: &mut Option<&mut Stopped<'_, '_, '_>>,
        asked: Asked,
        typed: &str,
    ) -> Then {
        if typed.is_empty() {
            return Then::Stay;
        }
        match (asked, at) {
            (Asked::Origin, _) => return Then::Go(Order::ToChange(typed.to_owned())),
            (Asked::Stop, _) if typed == "fault" => {
                let raised = !self.stops.faults.raised;
                self.stops.faults.raised = raised;
                shown.said = said_of("everything that fails", raised);
            }
            (Asked::Stop, _) => match self.stop(typed) {
                Ok(stop) => {
                    let is_there = shown.stops.contains(&stop);
                    shown.said = said_of(typed, !is_there);
                    if is_there {
                        shown.stops.retain(|other| *other != stop);
                    } else {
                        shown.stops.push(stop);
                    }
                }
                Err(why) => shown.said = why,
            },
            (Asked::Watch, None) => shown
                .watched
                .push((typed.to_owned(), Err("over".to_owned()))),
            (Asked::Watch, Some(at)) => {
                let value = worked_out(at, shown.call, typed);
                shown.watched.push((typed.to_owned(), value));
            }
            (Asked::Value, Some(at)) => {
                shown.said = match worked_out(at, shown.call, typed) {
                    Ok(value) => format!("{typed} = {value}"),
                    Err(why) => why,
                };
            }
            (Asked::Set, Some(at)) => {
                shown.said = match set(at, shown.call, typed) {
                    Ok(said) => {
                        output.forget_from(at.printed());
                        said
                    }
                    Err(why) => why,
                };
            }
            (Asked::Do, Some(_)) => return Then::CarryOut(typed.to_owned()),
            (Asked::Value | Asked::Set | Asked::Do, None) => {
                "the run is over".clone_into(&mut shown.said);
            }
            (Asked::Input | Asked::Form, _) => {}
        }
        Then::Stay
    }

    /// The stop that a text says.
    fn stop(&self, typed: &str) -> Result<StopAt, String> {
        let no_place = || {
            format!(
                "{} is no place to stop at: {}",
                quote(typed),
                Asked::Stop.help()
            )
        };
        let (place, condition) = match typed.split_once(" if ") {
            Some((place, condition)) => (place.trim(), Some(condition.trim().to_owned())),
            None => (typed, None),
        };
        let (word, name) = place.split_once(' ').unwrap_or((place, ""));
        let name = name.trim();
        let definition = self.language.definition();
        let at = match (word, name) {
            ("form", name) if definition.form(name).is_some() => At::Form(name.to_owned()),
            ("form", name) => {
                let known = definition.forms.iter().map(|form| form.name.text.as_str());
                let near = quillon_core::diagnostic::nearest(name, known);
                let near = near.map_or_else(String::new, |near| format!(": is it {near}?"));
                return Err(format!("there is no form {}{near}", quote(name)));
            }
            ("call", name) if !name.is_empty() => At::Function(name.to_owned()),
            ("change", name) if !name.is_empty() => At::Change(name.to_owned()),
            ("meaning", line) => {
                let line: u32 = line.parse().map_err(|_| no_place())?;
                let file = definition.source.name();
                let next = meaning_lines(definition, file)
                    .range(line..)
                    .next()
                    .copied();
                let next = next.ok_or_else(|| "nothing is meant from this line on".to_owned())?;
                At::Line(file.to_owned(), next)
            }
            (line, "") => {
                let line: u32 = line.parse().map_err(|_| no_place())?;
                let mut lines = self.lines.iter();
                let next = lines.find(|known| **known >= line);
                let next = next.ok_or_else(|| NOTHING_DONE.to_owned())?;
                At::Line(self.source.name().to_owned(), *next)
            }
            _ => return Err(no_place()),
        };
        Ok(StopAt {
            condition,
            ..StopAt::new(at)
        })
    }
}

/// Whether an order leads to an earlier moment.
fn goes_back(order: &Order) -> bool {
    match order {
        Order::Backwards(_) | Order::ToChange(_) | Order::To(_) | Order::ToBeginning => true,
        Order::On | Order::Forwards(_) | Order::Anew | Order::End => false,
    }
}

/// What to say when a stop is there now, or no more.
fn said_of(place: &str, is_there: bool) -> String {
    if is_there {
        format!("stops at {place}")
    } else {
        format!("stops no more at {place}")
    }
}

/// Gives a variable another value; what to say of it.
fn set(at: &mut Stopped<'_, '_, '_>, call: usize, typed: &str) -> Result<String, String> {
    let (name, value) = typed.split_once('=').ok_or("write NAME = VALUE")?;
    let name = name.trim();
    let came = at.set(call, name, value.trim());
    came.map(|value| format!("{name} is {} now", value.written_within(LONGEST)))
        .map_err(|problems| problems.first_message().to_owned())
}

/// Carries a text out in the call that is looked at; what to say of it.
fn carry_out(
    at: &mut Option<&mut Stopped<'_, '_, '_>>,
    window: &RefCell<Window<Run>>,
    text: &str,
) -> String {
    let Some(at) = at else {
        return "the run is over".to_owned();
    };
    let call = window.borrow().screen.shown.call;
    let mut came = at.can_carry_out(call, text).map(|()| None);
    if came.is_ok() {
        window.borrow_mut().screen.output.forget_from(at.printed());
        came = at.carry_out(call, text).map(Some);
    }
    match came {
        Ok(value) => {
            let value = value.filter(|value| value.kind() != ValueKind::Nothing);
            let gives = value.map(|value| format!(": it gives {}", value.written_within(LONGEST)));
            format!("{text} is done{}", gives.unwrap_or_default())
        }
        Err(problems) => problems.first_message().to_owned(),
    }
}

/// Has the innermost call go on at a line instead; what to say of it.
fn go_on_here(at: &mut Option<&mut Stopped<'_, '_, '_>>, line: u32) -> String {
    let Some(at) = at else {
        return "the run is over".to_owned();
    };
    let places = at.elsewhere();
    let Some(place) = places.iter().find(|place| place.line == line) else {
        let lines: Vec<String> = places.iter().map(|place| place.line.to_string()).collect();
        return if lines.is_empty() {
            "it cannot go on elsewhere from here".to_owned()
        } else {
            format!("it cannot go on there; it can at {}", lines.join(", "))
        };
    };
    at.go_on_at(*place);
    format!("goes on at line {line} instead")
}

impl Guide for Led<'_> {
    fn stops(&self) -> &Stops {
        &self.stops
    }

    fn is_asked_for(&self) -> bool {
        if self.last_look.get().elapsed() < TURN {
            return false;
        }
        self.last_look.set(Instant::now());
        while event::poll(Duration::ZERO).unwrap_or(false) {
            if let Ok(Event::Key(key)) = event::read()
                && key.kind != KeyEventKind::Release
            {
                let mut window = self.window.borrow_mut();
                let stops = key.code == KeyCode::Esc || window.screen.leaves(key);
                if stops || !self.goes_back {
                    window.note_key(key);
                    return true;
                }
                // Whoever goes back step by step types ahead.
                window.keep_key(key);
            }
        }
        false
    }

    fn logged(&mut self, _text: &str) {}

    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order {
        {
            let mut window = self.window.borrow_mut();
            let (why, is_wrong) = match at.reason() {
                Reason::Beginning => ("at the beginning".to_owned(), false),
                Reason::Went => (String::new(), false),
                Reason::Asked => ("stopped by a key".to_owned(), false),
                Reason::Stop(number) => (
                    self.stops.all.get(*number).map_or_else(String::new, named),
                    false,
                ),
                Reason::Fault { error, .. } => (error.message.clone(), true),
                Reason::Condition(_, error) => {
                    (format!("the condition of a stop: {}", error.message), true)
                }
            };
            (window.screen.shown.why, window.screen.shown.is_wrong) = (why, is_wrong);
        }
        self.led(&mut Some(at)).unwrap_or(Order::End)
    }

    fn ended(&mut self, outcome: &Outcome<Held>) -> Order {
        {
            let mut window = self.window.borrow_mut();
            let errors = outcome.diagnostics.iter().find(|one| one.is_error());
            let shown = &mut window.screen.shown;
            shown.is_wrong = errors.is_some();
            shown.why = match (errors, &outcome.value) {
                (Some(error), _) => format!("over: {}", error.message),
                (None, Some(value)) => format!("over: it gives {}", value.written_within(LONGEST)),
                (None, None) => "over".to_owned(),
            };
            shown.printed = usize::MAX;
        }
        self.led(&mut None).unwrap_or(Order::End)
    }
}

/// What a stop is called.
fn named(stop: &StopAt) -> String {
    match &stop.at {
        At::Line(name, line) => format!("stop at line {line} of {name}"),
        At::Place(_, line, column) => format!("stop at {line}:{column}"),
        At::Function(name) => format!("a call of {name}"),
        At::Form(name) => format!("a form {name}"),
        At::Change(name) => format!("{name} has another value"),
    }
}
