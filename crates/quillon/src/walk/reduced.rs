//! Walks through a reduction: a program on the way to its end, rewritten step by step by rules.

use std::io;
use std::sync::Arc;

use quillon_core::debugging::Order;
use quillon_core::definition::Definition;
use quillon_core::diagnostic::quote;
use quillon_core::reduction::{Ended, Reduction, Shown, Walk};
use quillon_core::source::{SourceText, Span as Stretch};
use quillon_render::plain::plain;
use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Paragraph, Wrap};

use super::drawing::{self, cut, first_in_sight, pane, role};
use super::keys::{self, Asked, Key, Wish};
use super::shown::Pane;
use super::window::{Prompt, Screen, Window};
use crate::render::{steps, style};

/// The keys of such a walk.
const KEYS: [Key; 7] = [
    ("f", "step", "a step on; F a step back"),
    (
        "g",
        "to a stop",
        "on to a stop, or to the end; G back to one",
    ),
    ("b", "beginning", "to the beginning"),
    (
        "n",
        "stop at a form",
        "a stop at what the rules of a form make; once more: none any more",
    ),
    ("↑ ↓", "scroll", "the program up and down"),
    ("?", "keys", "all keys"),
    ("q", "leave", "leave"),
];

/// Where a walk through a reduction stands.
pub struct Reduced<'r> {
    definition: &'r Definition,
    /// What the program is called.
    name: String,
    walk: Walk,
    /// The texts of the steps.
    texts: Vec<Arc<SourceText>>,
    /// How many lines of the program are out of sight.
    scroll: u32,
    said: String,
    is_helping: bool,
}

impl<'r> Reduced<'r> {
    pub fn new(definition: &'r Definition, name: &str, found: Reduction) -> Reduced<'r> {
        let text = |step: &Shown| SourceText::new("step", step.text.clone());
        Reduced {
            definition,
            name: name.to_owned(),
            texts: found.steps.iter().map(text).collect(),
            walk: Walk::new(found),
            scroll: 0,
            said: String::new(),
            is_helping: false,
        }
    }

    /// Goes as an order says.
    fn go(&mut self, order: &Order) {
        self.scroll = 0;
        let has_gone = self.walk.go(order);
        if !has_gone && self.walk.is_at_end() && matches!(order, Order::Forwards(_)) {
            "this is the last step: capital letters go back".clone_into(&mut self.said);
        }
    }

    /// Puts a stop at a form, or takes it away; what to say of it.
    fn toggle(&mut self, typed: &str) -> String {
        let name = typed.strip_prefix("form ").unwrap_or(typed).trim();
        if self.definition.form(name).is_none() {
            return format!("there is no form {}", quote(name));
        }
        let stops = &mut self.walk.stops;
        let count = stops.len();
        stops.retain(|stop| stop != name);
        if stops.len() < count {
            return format!("stops no more at {name}");
        }
        stops.push(name.to_owned());
        format!("stops at what rules of {name} make")
    }
}

/// Walks until whoever does has seen enough.
pub fn walk(window: &mut Window<Reduced<'_>>) -> io::Result<()> {
    loop {
        let key = window.key()?;
        if std::mem::take(&mut window.screen.is_helping) {
            continue;
        }
        window.screen.said.clear();
        match keys::wish(key, Pane::Source) {
            Some(Wish::Go(order)) => window.screen.go(&order),
            Some(Wish::Move(by)) => {
                window.screen.scroll = window.screen.scroll.saturating_add_signed(by);
            }
            Some(Wish::Type(Asked::Stop)) => {
                if let Some(typed) = window.ask(Asked::Form, String::new())? {
                    window.screen.said = window.screen.toggle(typed.trim());
                }
            }
            Some(Wish::Help) => window.screen.is_helping = true,
            Some(Wish::Leave) => return Ok(()),
            Some(
                Wish::Type(
                    Asked::Value
                    | Asked::Watch
                    | Asked::Set
                    | Asked::Do
                    | Asked::Origin
                    | Asked::Input
                    | Asked::Form,
                )
                | Wish::ToggleStop
                | Wish::GoOnHere
                | Wish::NextPane(_)
                | Wish::Unfold
                | Wish::Forget
                | Wish::ShowMeaning,
            )
            | None => {
                "a reduction has no such key; ? shows them".clone_into(&mut window.screen.said);
            }
        }
    }
}

impl Screen for Reduced<'_> {
    fn draw(&self, frame: &mut Frame<'_>, prompt: Option<&Prompt>) {
        if self.is_helping {
            return drawing::help(frame, &KEYS);
        }
        let [head, middle, said, foot] = drawing::parts(frame.area());
        frame.render_widget(self.heading(), head);
        self.panes(frame, middle);
        drawing::said(frame, said, &self.said);
        match prompt {
            Some(prompt) => drawing::typing(frame, foot, prompt),
            None => frame.render_widget(drawing::keys(foot.width, &KEYS), foot),
        }
    }

    fn leaves(&self, key: ratatui::crossterm::event::KeyEvent) -> bool {
        keys::wish(key, Pane::Source) == Some(Wish::Leave)
    }
}

impl Reduced<'_> {
    fn heading(&self) -> Line<'static> {
        let walk = &self.walk;
        let is_last = walk.is_at_end();
        let place = format!(" {}  ", plain(&self.name));
        let step = format!("step {} of {}", walk.step(), walk.last());
        let how = match &walk.found().ended {
            _ if !is_last => "",
            Ended::Value => "  finished",
            Ended::Stuck(_) => "  stuck",
            Ended::Cycle(_) => "  in a circle",
            Ended::Limit | Ended::Size(_) | Ended::Depth(_) => "  at the limit",
        };
        let of = match &walk.found().ended {
            Ended::Value => style::GOOD,
            Ended::Stuck(_) | Ended::Cycle(_) | Ended::Limit | Ended::Size(_) | Ended::Depth(_) => {
                style::ERROR
            }
        };
        Line::from(vec![
            Span::styled(place, role(style::HEADING)),
            Span::styled(step, role(style::REMEDY)),
            Span::styled(how, role(of)),
        ])
    }

    fn panes(&self, frame: &mut Frame<'_>, area: Rect) {
        let [left, right] =
            Layout::horizontal([Constraint::Percentage(60), Constraint::Percentage(40)])
                .areas(area);
        let [list, why] =
            Layout::vertical([Constraint::Min(3), Constraint::Percentage(50)]).areas(right);
        let program = pane(frame, left, "program", true);
        let list = pane(frame, list, "steps", false);
        let is_last = self.walk.is_at_end();
        let why = pane(frame, why, if is_last { "end" } else { "rule" }, false);
        frame.render_widget(self.program(program.height), program);
        frame.render_widget(self.list(list), list);
        frame.render_widget(self.why(), why);
    }

    /// The program as it is at the step, from what changes next on where it does not fit.
    fn program(&self, height: u16) -> Paragraph<'static> {
        let text = &self.texts[self.walk.step()];
        let marks = self.walk.shown().marks;
        let wanted = marks.will_change.or(marks.changed);
        let line = wanted.map_or(1, |span| text.line_of(span.start));
        let count = text.line_count() as u32;
        let first = first_in_sight(line as usize - 1, height) as u32 + self.scroll;
        let first = first.min(count.saturating_sub(1)) + 1;
        let lines = (first..=count).take(height as usize).map(|line| {
            let of_line = [marks.changed, marks.will_change].map(Option::unwrap_or_default);
            stretches(text, line, of_line)
        });
        Paragraph::new(lines.collect::<Vec<_>>()).wrap(Wrap { trim: false })
    }

    fn list(&self, area: Rect) -> Paragraph<'static> {
        let first = first_in_sight(self.walk.step(), area.height);
        let all = self.walk.found().steps.iter().enumerate().skip(first);
        let lines = all.take(area.height as usize).map(|(number, step)| {
            let (mark, of) = if number == self.walk.step() {
                (">", style::STRONG)
            } else {
                (" ", style::QUIET)
            };
            let stop = if self.walk.is_stop(number) { "*" } else { " " };
            let words: Vec<&str> = step.text.split_whitespace().collect();
            let text = format!("{stop}{mark}{number:>4} {}", words.join(" "));
            Line::styled(cut(&text, area.width), role(of))
        });
        Paragraph::new(lines.collect::<Vec<_>>())
    }

    /// What made the step, what makes the next of it, and how it ends.
    fn why(&self) -> Paragraph<'static> {
        let mut lines = Vec::new();
        let mut rule = |label: &'static str, step: &Shown, of: Style| {
            let Some(by) = &step.by else { return };
            lines.push(Line::styled(label, role(style::QUIET)));
            lines.push(Line::styled(format!(" {}", plain(by)), of));
            lines.extend(step.renamed.iter().map(|one| {
                let text = format!(" {} becomes {}", plain(&one.from), plain(&one.to));
                Line::styled(text, role(style::NOTE))
            }));
        };
        let found = self.walk.found();
        rule("made by", self.walk.shown(), role(style::GOOD));
        if let Some(next) = found.steps.get(self.walk.step() + 1) {
            rule("made of it next, by", next, role(style::RELATED));
        } else {
            let ending = steps::ended(found).into_iter();
            lines.extend(ending.map(|line| Line::raw(plain(&line).into_owned())));
        }
        Paragraph::new(lines).wrap(Wrap { trim: false })
    }
}

/// What a step has made, and what the next replaces.
fn made() -> Style {
    role(style::GOOD).add_modifier(Modifier::UNDERLINED)
}

fn replaced() -> Style {
    Style::new().add_modifier(Modifier::REVERSED)
}

/// A line with what has been made in it, and what will be replaced, standing out.
fn stretches(text: &SourceText, line: u32, [made_at, next]: [Stretch; 2]) -> Line<'static> {
    let span = text.line_span(line);
    let mut ends = vec![span.start, span.end];
    for mark in [made_at, next] {
        ends.extend([mark.start, mark.end].map(|at| at.clamp(span.start, span.end)));
    }
    ends.sort_unstable();
    ends.dedup();
    let parts = ends.windows(2).map(|ends| {
        let [start, end] = [ends[0], ends[1]];
        let is_in = |mark: Stretch| mark.start <= start && end <= mark.end;
        let of = match (is_in(made_at), is_in(next)) {
            (true, true) => made().patch(replaced()),
            (true, false) => made(),
            (false, true) => replaced(),
            (false, false) => Style::new(),
        };
        let shown = plain(text.slice(Stretch { start, end })).replace('\t', drawing::TAB);
        Span::styled(shown, of)
    });
    Line::from(parts.collect::<Vec<_>>())
}
