//! The look of a diagnostic: what is wrong, then four kinds of line, each with its word
//! in the margin: `at` the place with its source, `why`, `try`, and the `code`.

use std::collections::BTreeMap;
use std::fmt::Display;

use quillon_core::diagnostic::{Diagnostic, Place, Related, Severity};
use quillon_core::source::SourceText;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use crate::plain::acts;
use crate::styled::{Role, Styled};

/// The widest stretch of a source line that is shown, in columns.
const WIDEST: usize = 100;

/// More columns than that are not counted: nobody sees what is so far to the right.
const FARTHEST: usize = 4 * WIDEST;

/// How many columns a tab is shown as.
const TAB: &str = "    ";

fn role_of(severity: Severity) -> Role {
    match severity {
        Severity::Error => Role::Error,
        Severity::Warning => Role::Warning,
        Severity::Note => Role::Note,
    }
}

/// A diagnostic with the source lines of its places, ended by an empty line: without styles as it
/// is, or with those that whoever shows it has for each role.
///
/// ```
/// use quillon_core::Language;
///
/// let problems = Language::from_text("tolls.quillon", "langauge Tolls\n").unwrap_err();
/// let shown = quillon_render::diagnostic(&problems[0]).to_string();
/// assert!(shown.contains("1 │ langauge Tolls"));
/// assert!(shown.contains("try  did you mean `language`?"));
/// ```
pub fn diagnostic(diagnostic: &Diagnostic) -> Styled {
    let mut page = Page::default();
    page.whole(diagnostic);
    page.out
}

/// What is being written.
#[derive(Default)]
struct Page {
    out: Styled,
}

impl Page {
    fn put(&mut self, role: Role, text: impl Display) {
        self.out.push(role, text);
    }

    /// A line of the margin: its word, right-aligned, and what stands beside it.
    fn margin(&mut self, word: &str, role: Role, text: impl Display) {
        self.put(Role::Quiet, format_args!("{word:>5}"));
        self.put(Role::Plain, "  ");
        self.put(role, text);
        self.put(Role::Plain, "\n");
    }

    fn whole(&mut self, diagnostic: &Diagnostic) {
        let role = role_of(diagnostic.severity);
        self.put(role, diagnostic.severity.word());
        self.put(Role::Quiet, ":");
        self.put(Role::Plain, " ");
        self.put(Role::Strong, &diagnostic.message);
        self.put(Role::Plain, "\n");
        if let Some(place) = &diagnostic.place {
            let position = place.source.position(place.span.start);
            let at = format!("{}:{position}", place.source.name());
            self.margin("at", Role::Plain, at);
            self.excerpt(diagnostic, place, role);
        }
        self.calls(diagnostic);
        for why in &diagnostic.why {
            self.margin("why", Role::Plain, why);
        }
        for remedy in &diagnostic.remedies {
            self.margin("try", Role::Remedy, remedy);
        }
        self.margin("code", Role::Quiet, diagnostic.code.0);
        self.put(Role::Plain, "\n");
    }

    /// The calls on the way to an error of a run.
    fn calls(&mut self, diagnostic: &Diagnostic) {
        for (index, call) in diagnostic.calls.iter().enumerate() {
            if let Some(left_out) = diagnostic.calls_left_out
                && left_out.after == index
            {
                let text = format!("… {} more calls …", left_out.count);
                self.margin("in", Role::Plain, text);
            }
            let position = call.place.source.position(call.place.span.start);
            let times = match call.times {
                1 => String::new(),
                times => format!(", {times} times in a row"),
            };
            let (function, name) = (&call.function, call.place.source.name());
            let text = format!("{function} called at {name}:{position}{times}");
            self.margin("in", Role::Plain, text);
        }
    }
}

/// Something to underline on a line.
struct Mark<'a> {
    start: usize,
    end: usize,
    /// Whether the marked text goes on below.
    goes_on: bool,
    label: Option<&'a str>,
    role: Role,
    sign: char,
}

impl<'a> Mark<'a> {
    /// What is marked of a place, and on which line it begins.
    fn of(place: &Place, label: Option<&'a str>, role: Role, sign: char) -> (u32, Mark<'a>) {
        let line = place.source.line_of(place.span.start);
        let span = place.source.line_span(line);
        let start = (place.span.start.min(span.end) - span.start) as usize;
        let end = (place.span.end.min(span.end).max(span.start) - span.start) as usize;
        let mark = Mark {
            start,
            end: end.max(start),
            goes_on: place.span.end > span.end,
            label,
            role,
            sign,
        };
        (line, mark)
    }
}

impl Page {
    /// The source lines of a diagnostic's places in one text, with what is marked on them.
    fn excerpt(&mut self, diagnostic: &Diagnostic, place: &Place, role: Role) {
        let source = &place.source;
        let (here, elsewhere): (Vec<&Related>, Vec<&Related>) = diagnostic
            .related
            .iter()
            .partition(|related| related.place.source == *source);
        let own = Mark::of(place, diagnostic.label.as_deref(), role, '━');
        let others = here
            .into_iter()
            .map(|related| Mark::of(&related.place, Some(&related.label), Role::Related, '╌'));
        let mut by_line: BTreeMap<u32, Vec<Mark<'_>>> = BTreeMap::new();
        for (line, mark) in std::iter::once(own).chain(others) {
            by_line.entry(line).or_default().push(mark);
        }
        let last = by_line.keys().next_back();
        let width = last.map_or(1, |line| line.to_string().len());
        let mut last = None;
        for (line, marks) in by_line {
            if last.is_some_and(|last| line > last + 1) {
                self.gutter(format_args!("{:>width$} ┊", ""));
                self.put(Role::Plain, "\n");
            }
            last = Some(line);
            for near in in_sight(marks) {
                self.source_line(source, line, &near, width);
            }
        }
        for related in elsewhere {
            let position = related.place.source.position(related.place.span.start);
            let name = related.place.source.name();
            let text = format!("{name}:{position}  {}", related.label);
            self.margin("see", Role::Plain, text);
        }
    }

    /// What stands to the left of a source line.
    fn gutter(&mut self, text: impl Display) {
        self.put(Role::Plain, "       ");
        self.put(Role::Quiet, text);
    }

    fn source_line(&mut self, source: &SourceText, line: u32, marks: &[Mark<'_>], width: usize) {
        let text = source.slice(source.line_span(line));
        let first = marks.iter().map(|m| m.start).min().unwrap_or(0);
        let from = window(text, first);
        let (shown, cut) = visible(&text[from..]);
        let dots = if from > 0 { "…" } else { "" };
        self.gutter(format_args!("{line:>width$} │"));
        let end = if cut { "…" } else { "" };
        self.put(Role::Plain, format_args!(" {dots}{shown}{end}\n"));
        for mark in marks {
            let before = columns(text, from, mark.start) + dots.width();
            let covered = columns(text, mark.start.max(from), mark.end);
            let room = (WIDEST + 2).saturating_sub(before).max(1);
            let mut underline: String =
                std::iter::repeat_n(mark.sign, covered.clamp(1, room)).collect();
            if mark.goes_on {
                underline.push('…');
            }
            if let Some(label) = mark.label {
                underline.push(' ');
                underline.push_str(label);
            }
            self.gutter(format_args!("{:>width$} │", ""));
            self.put(Role::Plain, format_args!(" {}", " ".repeat(before)));
            self.put(mark.role, underline);
            self.put(Role::Plain, "\n");
        }
    }
}

/// The marks of a line, those together that are in sight of each other: what is too far apart on
/// a long line is shown in several pieces.
fn in_sight(marks: Vec<Mark<'_>>) -> Vec<Vec<Mark<'_>>> {
    let mut pieces: Vec<Vec<Mark<'_>>> = Vec::new();
    for mark in marks {
        let near = |piece: &&mut Vec<Mark<'_>>| piece[0].start.abs_diff(mark.start) < WIDEST / 2;
        match pieces.iter_mut().find(near) {
            Some(piece) => piece.push(mark),
            None => pieces.push(vec![mark]),
        }
    }
    pieces
}

/// Where to begin showing a line so that a place on it is in sight.
fn window(text: &str, place: usize) -> usize {
    const BEFORE: usize = 60;
    // Further on it is not in sight from the beginning, whatever stands there.
    const FAR: usize = 1 << 12;
    if place < FAR && columns(text, 0, place.min(text.len())) + 20 <= WIDEST {
        return 0;
    }
    let mut from = place.min(text.len()).saturating_sub(BEFORE);
    while !text.is_char_boundary(from) {
        from += 1;
    }
    from
}

/// A stretch of text as it is shown, and whether it was cut.
fn visible(text: &str) -> (String, bool) {
    let mut out = String::new();
    let mut width = 0;
    for cluster in text.graphemes(true) {
        let shown = cluster_shown(cluster);
        width += shown.width();
        if width > WIDEST {
            return (out, true);
        }
        out.push_str(&shown);
    }
    (out, false)
}

/// A character as it is shown: tabs widened, control characters as a dot.
fn cluster_shown(cluster: &str) -> std::borrow::Cow<'_, str> {
    if cluster == "\t" {
        TAB.into()
    } else if cluster.chars().any(acts) {
        "·".into()
    } else {
        cluster.into()
    }
}

/// The columns that a stretch of a line takes on the screen.
fn columns(text: &str, from: usize, to: usize) -> usize {
    let stretch = text.get(from..to.max(from)).unwrap_or("");
    let mut columns = 0;
    for cluster in stretch.graphemes(true) {
        columns += cluster_shown(cluster).width();
        if columns > FARTHEST {
            break;
        }
    }
    columns
}

#[cfg(test)]
mod tests {
    use super::*;
    use quillon_core::diagnostic::codes;
    use quillon_core::source::Span;

    /// A diagnostic over a stretch of a text, as lines without styles, from the source on.
    fn shown(text: &str, start: usize, end: usize) -> Vec<String> {
        let source = SourceText::new("t", text);
        let diagnostic = Diagnostic::error(codes::RUN_KIND, "wrong")
            .at(&source, Span::new(start, end))
            .label("here");
        let all = super::diagnostic(&diagnostic).to_string();
        all.lines()
            .skip(2)
            .take_while(|l| !l.contains("code"))
            .map(str::to_owned)
            .collect()
    }

    #[test]
    fn underlines_are_as_wide_as_what_is_seen() {
        assert_eq!(
            shown("say 水門 + 1", 4, 10),
            ["       1 │ say 水門 + 1", "         │     ━━━━ here"]
        );
        assert_eq!(
            shown("\tsay x", 5, 6),
            ["       1 │     say x", "         │         ━ here"]
        );
    }

    #[test]
    fn an_empty_place_has_one_mark_and_a_long_one_goes_on() {
        assert_eq!(
            shown("say", 3, 3),
            ["       1 │ say", "         │    ━ here"]
        );
        assert_eq!(
            shown("say 1\nsay 2", 4, 11),
            ["       1 │ say 1", "         │     ━… here"]
        );
        assert_eq!(shown("", 0, 0), ["       1 │ ", "         │ ━ here"]);
    }

    #[test]
    fn long_lines_are_cut_around_the_place() {
        let text = format!("{}!{}", "a".repeat(5000), "b".repeat(5000));
        let lines = shown(&text, 5000, 5001);
        assert!(lines[0].chars().count() < 130, "{}", lines[0]);
        let mark = lines[1].chars().position(|c| c == '━').unwrap();
        assert_eq!(lines[0].chars().nth(mark), Some('!'));
    }

    #[test]
    fn control_characters_do_no_harm() {
        let lines = shown("say \u{1b}[31m", 4, 5);
        assert_eq!(lines[0], "       1 │ say ·[31m");
    }

    #[test]
    fn line_numbers_line_up_and_gaps_are_marked() {
        let text = "one\n".repeat(12);
        let source = SourceText::new("t", text);
        let diagnostic = Diagnostic::error(codes::RUN_KIND, "wrong")
            .at(&source, Span::new(40, 43))
            .related(&source, Span::new(0, 3), "the first");
        let all = super::diagnostic(&diagnostic).to_string();
        let lines: Vec<&str> = all.lines().skip(2).take(5).collect();
        assert_eq!(
            lines,
            [
                "        1 │ one",
                "          │ ╌╌╌ the first",
                "          ┊",
                "       11 │ one",
                "          │ ━━━"
            ]
        );
    }
}
