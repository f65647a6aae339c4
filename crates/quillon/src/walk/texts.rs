//! Texts on the screen, with what is under way in them standing out.

use std::sync::Arc;

use quillon_core::debugging::At;
use quillon_core::source::{SourceText, Span as Stretch};
use quillon_render::plain::plain;
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::style::{Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::Paragraph;

use super::drawing::{TAB, first_in_sight, role};
use super::shown::Shown;
use crate::render::style;

/// How many characters before what is under way stay in sight.
const MARGIN: usize = 4;

/// A text, and how much of it is shown where.
struct Looked<'s> {
    text: &'s Arc<SourceText>,
    under_way: Stretch,
    /// The line that is to be in sight, and the one that has been chosen.
    wanted: u32,
    chosen: Option<u32>,
    shown: &'s Shown,
}

/// The program, or what else the call is in that is looked at.
pub fn source(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let Some(call) = shown.called() else {
        return;
    };
    let looked = Looked {
        text: &call.source,
        under_way: call.span,
        wanted: shown.chosen_line(),
        chosen: shown.line,
        shown,
    };
    frame.render_widget(looked.lines(area), area);
}

/// The definition, where it says what the form under way means.
pub fn meaning(frame: &mut Frame<'_>, area: Rect, shown: &Shown) {
    let call = shown.called().filter(|call| !call.meaning.is_empty());
    let (Some(call), Some(definition)) = (call, &shown.definition) else {
        let nothing = " what is under way has no part of a meaning to itself";
        frame.render_widget(Line::styled(nothing, role(style::QUIET)), area);
        return;
    };
    let (text, under_way) = definition.origin(call.meaning);
    let looked = Looked {
        wanted: text.line_of(under_way.start),
        text: &text,
        under_way,
        chosen: None,
        shown,
    };
    frame.render_widget(looked.lines(area), area);
}

impl Looked<'_> {
    fn line_under_way(&self) -> u32 {
        self.text.line_of(self.under_way.start)
    }

    fn lines(&self, area: Rect) -> Paragraph<'static> {
        let count = self.text.line_count();
        let first = first_in_sight(self.wanted as usize - 1, area.height) as u32 + 1;
        let last = (first + u32::from(area.height)).min(count as u32 + 1);
        let digits = count.to_string().len();
        let shift = self.shift((area.width as usize).saturating_sub(digits + 3));
        let lines = (first..last).map(|line| self.line(line, digits, shift));
        Paragraph::new(lines.collect::<Vec<_>>())
    }

    fn line(&self, line: u32, digits: usize, shift: usize) -> Line<'static> {
        let here = self.line_under_way();
        let is_stop = self.shown.stops.iter().any(|stop| {
            matches!(&stop.at, At::Line(name, at) if name == self.text.name() && *at == line)
        });
        let mark = if is_stop { "*" } else { " " };
        // What goes on over several lines stands out in its first, and is marked beside the others.
        let goes_on = line > here && self.text.line_span(line).start < self.under_way.end;
        let arrow = if line == here {
            ">"
        } else if goes_on {
            "|"
        } else {
            " "
        };
        let number = if self.chosen == Some(line) {
            role(style::STRONG).add_modifier(Modifier::UNDERLINED)
        } else {
            role(style::QUIET)
        };
        let mut parts = vec![
            Span::styled(mark, role(style::ERROR)),
            Span::styled(arrow, role(style::REMEDY)),
            Span::styled(format!("{line:>digits$}"), number),
            Span::raw(" "),
        ];
        let standing_out = if goes_on {
            Stretch::default()
        } else {
            self.under_way
        };
        parts.extend(marked(self.text, line, standing_out, shift));
        Line::from(parts)
    }

    /// How many characters at the beginning of lines are out of sight, so that what is under way is in sight.
    fn shift(&self, width: usize) -> usize {
        let line = self.text.line_span(self.line_under_way());
        let before = self.text.slice(Stretch {
            start: line.start,
            end: self.under_way.start,
        });
        let whole = self.text.slice(line).chars().count();
        let column = before.chars().count();
        let first = self.text.slice(self.under_way).lines().next();
        let end = column + first.map_or(0, |first| first.chars().count());
        if whole <= width || end < width {
            return 0;
        }
        // As little as shows all of it, or its beginning.
        (end + 1 - width).min(column.saturating_sub(MARGIN))
    }
}

/// A line with what is under way in it standing out.
fn marked(text: &SourceText, line: u32, under_way: Stretch, shift: usize) -> Vec<Span<'static>> {
    let span = text.line_span(line);
    let within = |at: u32| at.clamp(span.start, span.end);
    let [from, to] = [within(under_way.start), within(under_way.end)];
    let part = |start: u32, end: u32| text.slice(Stretch { start, end });
    let mut hidden = shift;
    let mut shown = |text: &str, style: Style| {
        let skipped: String = text.chars().skip(hidden).collect();
        hidden = hidden.saturating_sub(text.chars().count());
        Span::styled(
            plain(&skipped)
                .replace('\t', TAB)
                .trim_end_matches('\r')
                .to_owned(),
            style,
        )
    };
    let under_way = Style::new().add_modifier(Modifier::REVERSED);
    vec![
        shown(part(span.start, from), Style::new()),
        shown(part(from, to), under_way),
        shown(part(to, span.end), Style::new()),
    ]
}
