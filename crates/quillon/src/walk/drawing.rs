//! Puts a walk on the screen.

use quillon_render::plain::plain;
use ratatui::Frame;
use ratatui::crossterm::event::KeyEvent;
use ratatui::layout::{Constraint, Layout, Position, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Paragraph, Wrap};

use super::keys::{IN_SIGHT, KEYS, Key, Wish, wish};
use super::output::Output;
use super::shown::{Pane, Shown};
use super::texts;
use super::values::{Belongs, Row};
use super::window::{Prompt, Screen};
use crate::render::style;

/// What a tab is shown as.
pub const TAB: &str = "    ";

/// What is on the screen in a walk through a run.
#[derive(Default)]
pub struct Run {
    pub shown: Shown,
    pub output: Output,
}

impl Screen for Run {
    fn draw(&self, frame: &mut Frame<'_>, prompt: Option<&Prompt>) {
        let Run { shown, output } = self;
        if shown.is_helping {
            return help(frame, &KEYS);
        }
        let [head, middle, below, foot] = parts(frame.area());
        frame.render_widget(heading(shown, head.width), head);
        panes(frame, middle, shown, output);
        said(frame, below, &shown.said);
        match prompt {
            Some(prompt) => typing(frame, foot, prompt),
            None => frame.render_widget(keys(foot.width, &KEYS[..IN_SIGHT]), foot),
        }
    }

    fn leaves(&self, key: KeyEvent) -> bool {
        wish(key, self.shown.pane) == Some(Wish::Leave)
    }
}

/// The parts of a screen: its heading, the middle, what is said, and the keys.
pub fn parts(area: Rect) -> [Rect; 4] {
    Layout::vertical([
        Constraint::Length(1),
        Constraint::Min(3),
        Constraint::Length(1),
        Constraint::Length(2),
    ])
    .areas(area)
}

/// What is said below.
pub fn said(frame: &mut Frame<'_>, area: Rect, text: &str) {
    let text = format!(" {}", cut(text, area.width.saturating_sub(1)));
    frame.render_widget(Line::from(text).style(role(style::STRONG)), area);
}

/// A style of this program as one of the screen, without its colour where none is wanted.
pub fn role(style: anstyle::Style) -> Style {
    use std::sync::LazyLock;
    static IN_COLOUR: LazyLock<bool> =
        LazyLock::new(|| std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty()));
    let mut role = Style::new();
    let number = match style::seen(style).get_fg_color() {
        Some(anstyle::Color::Ansi(colour)) => {
            Some(anstyle::Ansi256Color::from_ansi(colour).index())
        }
        Some(anstyle::Color::Ansi256(colour)) => Some(colour.index()),
        Some(anstyle::Color::Rgb(_)) | None => None,
    };
    if let Some(number) = number.filter(|_| *IN_COLOUR) {
        role = role.fg(Color::Indexed(number));
    }
    if style.get_effects().contains(anstyle::Effects::BOLD) {
        role = role.add_modifier(Modifier::BOLD);
    }
    role
}

/// A text without what a terminal would act on, cut to a width.
pub fn cut(text: &str, width: u16) -> String {
    let mut line = plain(text.lines().next().unwrap_or_default()).replace('\t', TAB);
    let width = width as usize;
    if line.chars().count() > width {
        line = line.chars().take(width.saturating_sub(1)).collect();
        line.push('…');
    }
    line
}

fn heading(shown: &Shown, width: u16) -> Line<'static> {
    let name = shown.source().map_or("", |source| source.name());
    let place = format!(" {}:{}", plain(name), shown.line_under_way());
    let moment = format!("{} instructions ", shown.moment);
    let why = if shown.is_wrong {
        role(style::ERROR)
    } else {
        role(style::REMEDY)
    };
    let used = place.chars().count() + moment.chars().count() + 4;
    let room = (width as usize).saturating_sub(used);
    let reason = cut(&shown.why, room as u16);
    let gap = room.saturating_sub(reason.chars().count()) + 2;
    Line::from(vec![
        Span::styled(place, role(style::HEADING)),
        Span::raw("  "),
        Span::styled(reason, why),
        Span::raw(" ".repeat(gap)),
        Span::styled(moment, role(style::QUIET)),
    ])
}

fn panes(frame: &mut Frame<'_>, area: Rect, shown: &Shown, output: &Output) {
    let [left, right] =
        Layout::horizontal([Constraint::Percentage(60), Constraint::Percentage(40)]).areas(area);
    let meaning = if shown.has_meaning { 36 } else { 0 };
    let [text, meaning, printed] = Layout::vertical([
        Constraint::Percentage(72 - meaning),
        Constraint::Percentage(meaning),
        Constraint::Min(4),
    ])
    .areas(left);
    let watched = if shown.watched.is_empty() {
        0
    } else {
        shown.watched.len().min(6) as u16 + 1
    };
    let calls = shown.calls.len().clamp(1, 6) as u16 + 1;
    let [names, watching, stack, around] = Layout::vertical([
        Constraint::Min(4),
        Constraint::Length(watched),
        Constraint::Length(calls),
        Constraint::Percentage(30),
    ])
    .areas(right);
    let is = |pane: Pane| shown.pane == pane;
    let text = pane(frame, text, "source", is(Pane::Source));
    let printed = pane(frame, printed, "output", is(Pane::Output));
    let names = pane(frame, names, "names", is(Pane::Names));
    let stack = pane(frame, stack, "calls", is(Pane::Calls));
    texts::source(frame, text, shown);
    if shown.has_meaning {
        let meaning = pane(frame, meaning, "meaning", false);
        texts::meaning(frame, meaning, shown);
    }
    let lines = output.lines(shown.printed, printed.height as usize, shown.back);
    let lines = lines
        .into_iter()
        .map(|line| Line::from(cut(line, printed.width)));
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), printed);
    values(frame, names, shown);
    if watched > 0 {
        let watching = pane(frame, watching, "watched", false);
        watches(frame, watching, shown);
    }
    stacked(frame, stack, shown);
    let around = pane(frame, around, "around", false);
    forms(frame, around, shown);
}

/// The inside of a part of the screen, once its name and its edge are drawn.
pub fn pane(frame: &mut Frame<'_>, area: Rect, name: &str, is_chosen: bool) -> Rect {
    let (name, edge) = if is_chosen {
        (format!(" {name} ◂ "), role(style::HEADING))
    } else {
        (format!(" {name} "), role(style::QUIET))
    };
    let block = Block::new()
        .borders(Borders::TOP | Borders::LEFT)
        .border_style(edge)
        .title(Span::styled(name, edge));
    let inner = block.inner(area);
    frame.render_widget(block, area);
    inner
}

/// The first of so many things in sight, one of which is to be.
pub fn first_in_sight(wanted: usize, height: u16) -> usize {
    let height = height as usize;
    wanted.saturating_sub(height.saturating_sub(height / 3 + 1))
}

fn values(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let rows = &shown.values.rows;
    if rows.is_empty() {
        let none = Line::styled(" none hold anything yet", role(style::QUIET));
        frame.render_widget(none, area);
        return;
    }
    let wanted = if shown.pane == Pane::Names {
        shown.value
    } else {
        0
    };
    let first = first_in_sight(wanted, area.height);
    let in_sight = rows
        .iter()
        .enumerate()
        .skip(first)
        .take(area.height as usize);
    let lines = in_sight.map(|(at, row)| {
        let line = value(row, area.width);
        if shown.pane == Pane::Names && at == shown.value {
            let text: String = line.spans.iter().map(|part| &*part.content).collect();
            Line::styled(text, Style::new().add_modifier(Modifier::REVERSED))
        } else {
            line
        }
    });
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
}

/// A name and what it holds: behind a star what has changed, and whose it is.
fn value(row: &Row, width: u16) -> Line<'static> {
    let mark = if row.is_changed { "*" } else { " " };
    let fold = match (row.has_parts, row.is_open) {
        (false, _) => " ",
        (true, false) => "+",
        (true, true) => "-",
    };
    let belongs = match row.belongs {
        Belongs::Call => "",
        Belongs::Around => " (around)",
        Belongs::State => " (state)",
    };
    let depth = "  ".repeat(row.depth);
    let belongs = if row.depth > 0 { "" } else { belongs };
    let name = format!("{depth}{}", plain(&row.name));
    let used = name.chars().count() + belongs.len() + 5;
    let text = cut(&row.text, width.saturating_sub(used as u16));
    let changed = if row.is_changed {
        role(style::WARNING)
    } else {
        role(style::VALUE)
    };
    Line::from(vec![
        Span::styled(mark, role(style::WARNING)),
        Span::raw(fold),
        Span::styled(name, role(style::STRONG)),
        Span::styled(belongs, role(style::QUIET)),
        Span::raw(" = "),
        Span::styled(text, changed),
    ])
}

fn watches(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let all = shown.watched.iter().rev().take(area.height as usize).rev();
    let lines = all.map(|(text, value)| {
        let (value, of) = match value {
            Ok(value) => (value, style::VALUE),
            Err(why) => (why, style::QUIET),
        };
        let text = format!(" {}", cut(text, area.width / 2));
        let room = area.width.saturating_sub(text.chars().count() as u16 + 3);
        Line::from(vec![
            Span::raw(text),
            Span::raw(" = "),
            Span::styled(cut(value, room), role(of)),
        ])
    });
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
}

fn stacked(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let first = first_in_sight(shown.call, area.height);
    let in_sight = shown
        .calls
        .iter()
        .enumerate()
        .skip(first)
        .take(area.height as usize);
    let lines = in_sight.map(|(at, call)| {
        let mark = if at == shown.call { ">" } else { " " };
        let line = call.source.line_of(call.span.start);
        let text = format!("{mark}{}  line {line}", call.title());
        let of = if at == shown.call {
            style::STRONG
        } else {
            style::QUIET
        };
        Line::styled(cut(&text, area.width), role(of))
    });
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
}

fn forms(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let Some(source) = shown.source() else {
        return;
    };
    let height = area.height as usize;
    let first = shown.around.len().saturating_sub(height);
    let in_sight = shown.around.iter().enumerate().skip(first);
    let lines = in_sight.map(|(depth, one)| {
        let text = source.slice(one.span);
        let name = format!(" {}{} ", " ".repeat((depth - first).min(8)), one.form);
        let room = area.width.saturating_sub(name.chars().count() as u16);
        Line::from(vec![
            Span::styled(name, role(style::FORM)),
            Span::styled(cut(text, room), role(style::QUIET)),
        ])
    });
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), area);
}

/// The keys that are always in sight, as many as fit.
pub fn keys(width: u16, keys: &[Key]) -> Paragraph<'static> {
    let mut lines: Vec<Vec<Span<'static>>> = vec![vec![Span::raw(" ")]];
    let mut used = 1;
    for (key, what, _) in keys {
        let needed = key.chars().count() + what.chars().count() + 3;
        if used + needed > width as usize {
            lines.push(vec![Span::raw(" ")]);
            used = 1;
        }
        used += needed;
        if let Some(line) = lines.last_mut() {
            line.push(Span::styled(*key, role(style::FORM)));
            line.push(Span::raw(format!(" {what}  ")));
        }
    }
    if let Some(last) = lines.last_mut() {
        last.push(Span::styled("capitals go back", role(style::QUIET)));
    }
    Paragraph::new(lines.into_iter().map(Line::from).collect::<Vec<_>>())
}

/// All keys. They need the whole screen.
pub fn help(frame: &mut Frame<'_>, keys: &[Key]) {
    let inner = pane(frame, frame.area(), "keys: any of them goes back", true);
    let lines = keys.iter().map(|(key, _, what)| {
        Line::from(vec![
            Span::styled(format!("  {key:<7}"), role(style::FORM)),
            Span::raw(*what),
        ])
    });
    frame.render_widget(Paragraph::new(lines.collect::<Vec<_>>()), inner);
}

pub fn typing(frame: &mut Frame<'_>, area: Rect, prompt: &Prompt) {
    let label = format!(" {} ", prompt.asked.label());
    let start = label.chars().count() as u16;
    let width = area.width.saturating_sub(start + 1) as usize;
    let scroll = prompt.typed.visual_scroll(width);
    let typed: String = prompt.typed.value().chars().skip(scroll).collect();
    let help = format!(" {}", prompt.asked.help());
    let lines = vec![
        Line::from(vec![
            Span::styled(label, role(style::HEADING)),
            Span::raw(plain(&typed)),
        ]),
        Line::styled(help, role(style::QUIET)),
    ];
    frame.render_widget(Paragraph::new(lines).wrap(Wrap { trim: false }), area);
    let cursor = prompt.typed.visual_cursor().max(scroll) - scroll;
    frame.set_cursor_position(Position::new(area.x + start + cursor as u16, area.y));
}
