//! The look of a diagnostic: what is wrong, then four kinds of line, each with its word
//! in the margin: `at` the place with its source, `why`, `try`, and the `code`.

use std::collections::BTreeMap;

use anstyle::Style;
use quillon_core::diagnostic::{Diagnostic, Place, Severity};
use quillon_core::source::SourceText;
use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use super::screen::{self, plain};
use super::style::{ERROR, NOTE, QUIET, RELATED, REMEDY, STRONG, WARNING, paint};

/// The widest stretch of a source line that is shown, in columns.
const WIDEST: usize = 100;

/// More columns than that are not counted: nobody sees what is so far to the right.
const FARTHEST: usize = 4 * WIDEST;

/// How many columns a tab is shown as.
const TAB: &str = "    ";

/// Shows diagnostics on standard error.
pub fn show_all(diagnostics: &[Diagnostic]) {
    for diagnostic in diagnostics {
        show(diagnostic);
    }
}

/// Shows one diagnostic on standard error.
pub fn show(diagnostic: &Diagnostic) {
    screen::tell(&rendered(diagnostic));
}

fn style_of(severity: Severity) -> Style {
    match severity {
        Severity::Error => ERROR,
        Severity::Warning => WARNING,
        Severity::Note => NOTE,
    }
}

/// A line of the margin: its word, right-aligned, and what stands beside it.
fn margin(word: &str, text: &str) -> String {
    beside(word, &plain(text))
}

/// The same for a text with styles of ours.
fn beside(word: &str, text: &str) -> String {
    format!("{}  {text}\n", paint(QUIET, format_args!("{word:>5}")))
}

/// The whole diagnostic, with styles.
pub fn rendered(diagnostic: &Diagnostic) -> String {
    let style = style_of(diagnostic.severity);
    let mut out = format!(
        "{}{} {}\n",
        paint(style, diagnostic.severity.word()),
        paint(QUIET, ":"),
        paint(STRONG, &diagnostic.message)
    );
    if let Some(place) = &diagnostic.place {
        let position = place.source.position(place.span.start);
        let at = format!("{}:{position}", place.source.name());
        out.push_str(&margin("at", &at));
        out.push_str(&excerpt(diagnostic, place, style));
    }
    for (index, call) in diagnostic.calls.iter().enumerate() {
        if let Some(left_out) = diagnostic.calls_left_out
            && left_out.after == index
        {
            out.push_str(&margin("in", &format!("… {} more calls …", left_out.count)));
        }
        let position = call.place.source.position(call.place.span.start);
        let times = match call.times {
            1 => String::new(),
            times => format!(", {times} times in a row"),
        };
        let text = format!(
            "{} called at {}:{position}{times}",
            call.function,
            call.place.source.name()
        );
        out.push_str(&margin("in", &text));
    }
    for why in &diagnostic.why {
        out.push_str(&margin("why", why));
    }
    for remedy in &diagnostic.remedies {
        out.push_str(&beside("try", &paint(REMEDY, remedy)));
    }
    out.push_str(&beside("code", &paint(QUIET, diagnostic.code.0)));
    out.push('\n');
    out
}

/// Something to underline on a line.
struct Mark<'a> {
    start: usize,
    end: usize,
    /// Whether the marked text goes on below.
    goes_on: bool,
    label: Option<&'a str>,
    style: Style,
    sign: char,
}

/// The source lines of a diagnostic's places in one text, with what is marked on them.
fn excerpt(diagnostic: &Diagnostic, place: &Place, style: Style) -> String {
    let source = &place.source;
    let mut by_line: BTreeMap<u32, Vec<Mark<'_>>> = BTreeMap::new();
    let add = |place: &Place, label: Option<&'_ str>, style: Style, sign: char| {
        let line = place.source.line_of(place.span.start);
        let span = place.source.line_span(line);
        let start = (place.span.start.min(span.end) - span.start) as usize;
        let end = (place.span.end.min(span.end).max(span.start) - span.start) as usize;
        (
            line,
            start,
            end.max(start),
            place.span.end > span.end,
            label.map(str::to_owned),
            style,
            sign,
        )
    };
    let mut marks = vec![add(place, diagnostic.label.as_deref(), style, '━')];
    let mut elsewhere = String::new();
    for related in &diagnostic.related {
        if related.place.source == *source {
            marks.push(add(&related.place, Some(&related.label), RELATED, '╌'));
        } else {
            let position = related.place.source.position(related.place.span.start);
            let text = format!(
                "{}:{position}  {}",
                related.place.source.name(),
                related.label
            );
            elsewhere.push_str(&margin("see", &text));
        }
    }
    for (line, start, end, goes_on, label, style, sign) in &marks {
        by_line.entry(*line).or_default().push(Mark {
            start: *start,
            end: *end,
            goes_on: *goes_on,
            label: label.as_deref(),
            style: *style,
            sign: *sign,
        });
    }
    let width = by_line
        .keys()
        .next_back()
        .map_or(1, |l| l.to_string().len());
    let mut out = String::new();
    let mut last = None;
    for (line, marks) in by_line {
        if last.is_some_and(|last| line > last + 1) {
            out.push_str(&format!(
                "       {}\n",
                paint(QUIET, format_args!("{:>width$} ┊", ""))
            ));
        }
        last = Some(line);
        for near in in_sight(marks) {
            out.push_str(&source_line(source, line, &near, width));
        }
    }
    out + &elsewhere
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

fn source_line(source: &SourceText, line: u32, marks: &[Mark<'_>], width: usize) -> String {
    let text = source.slice(source.line_span(line));
    let first = marks.iter().map(|m| m.start).min().unwrap_or(0);
    let from = window(text, first);
    let (shown, cut) = visible(&text[from..]);
    let dots = if from > 0 { "…" } else { "" };
    let mut out = format!(
        "       {} {dots}{shown}{}\n",
        paint(QUIET, format_args!("{line:>width$} │")),
        if cut { "…" } else { "" }
    );
    for mark in marks {
        let before = columns(text, from, mark.start) + dots.width();
        let covered = columns(text, mark.start.max(from), mark.end);
        let room = (WIDEST + 2).saturating_sub(before).max(1);
        let mut underline: String =
            std::iter::repeat_n(mark.sign, covered.clamp(1, room)).collect();
        if mark.goes_on {
            underline.push('…');
        }
        let label = mark
            .label
            .map_or(String::new(), |label| format!(" {label}"));
        out.push_str(&format!(
            "       {} {}{}\n",
            paint(QUIET, format_args!("{:>width$} │", "")),
            " ".repeat(before),
            paint(mark.style, underline + &label)
        ));
    }
    out
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
    } else if cluster.chars().any(screen::acts) {
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
        let all = anstream::adapter::strip_str(&rendered(&diagnostic)).to_string();
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
        let all = anstream::adapter::strip_str(&rendered(&diagnostic)).to_string();
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
