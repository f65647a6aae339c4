//! Steps of a reduction, as lines and as a page.

use quillon_core::diagnostic::plural;
use quillon_core::reduction::{Ended, Reduction, Shown};
use quillon_core::source::Span;
use quillon_render::xml::escaped;
use unicode_width::UnicodeWidthStr;

use super::style::{ERROR, FORM, GOOD, NOTE, QUIET, RELATED, paint};

/// What the marks of the page mean.
const LEGEND: &str = "<p class=\"by\"><span class=\"changed\">made by the step</span> \
     &nbsp; <span class=\"next\">replaced by the next</span></p>";

/// Every step with what has changed, and under it what the next one replaces.
pub fn listed(found: &Reduction) -> Vec<String> {
    let mut lines = Vec::new();
    let is_stuck = matches!(found.ended, Ended::Stuck(_));
    for (number, shown) in found.steps.iter().enumerate() {
        lines.extend(by(shown));
        let is_last = number + 1 == found.steps.len();
        lines.extend(program(number, shown, is_last && is_stuck));
    }
    lines.push(String::new());
    lines.extend(ending(found));
    lines
}

/// The rule that made a step, and the names that it had to change.
fn by(shown: &Shown) -> Vec<String> {
    let mut lines = Vec::new();
    if let Some(by) = &shown.by {
        lines.push(paint(QUIET, format_args!("       │ {by}")));
    }
    for one in &shown.renamed {
        let text = format_args!(
            "       │ {} becomes {}, so that it captures no other {}",
            one.from, one.to, one.from
        )
        .to_string();
        lines.push(paint(NOTE, text));
    }
    lines
}

fn program(number: usize, shown: &Shown, is_stuck: bool) -> Vec<String> {
    let mut lines = Vec::new();
    let mut start = 0;
    for (index, line) in shown.text.lines().enumerate() {
        let here = Span::new(start, start + line.len());
        let lead = if index == 0 {
            format!("{number:>5}")
        } else {
            " ".repeat(5)
        };
        let changed = shown.marks.changed.and_then(|span| within(span, here));
        let text = match changed {
            Some((from, to)) => format!(
                "{}{}{}",
                &line[..from],
                paint(GOOD, &line[from..to]),
                &line[to..]
            ),
            None => line.to_owned(),
        };
        lines.push(format!("{}  {text}", paint(FORM, lead)));
        let next = shown.marks.will_change.and_then(|span| within(span, here));
        let style = if is_stuck { ERROR } else { RELATED };
        lines.extend(under(line, changed, "━", GOOD));
        lines.extend(under(line, next, "╌", style));
        start += line.len() + 1;
    }
    lines
}

/// A line under a part of a line.
fn under(
    line: &str,
    part: Option<(usize, usize)>,
    sign: &str,
    style: anstyle::Style,
) -> Option<String> {
    let (from, to) = part.filter(|(from, to)| from < to)?;
    let (before, width) = (line[..from].width(), line[from..to].width());
    Some(format!(
        "       {}{}",
        " ".repeat(before),
        paint(style, sign.repeat(width))
    ))
}

/// What of a span is on a line, counted from the line's start.
fn within(span: Span, line: Span) -> Option<(usize, usize)> {
    let (from, to) = (span.start.max(line.start), span.end.min(line.end));
    (from < to).then(|| ((from - line.start) as usize, (to - line.start) as usize))
}

fn ending(found: &Reduction) -> Vec<String> {
    let count = found.steps.len() - 1;
    let steps = plural(count, "step");
    match &found.ended {
        Ended::Value => vec![paint(GOOD, format_args!("finished after {steps}"))],
        Ended::Limit => vec![paint(
            ERROR,
            format_args!("not finished after {steps}; `--limit` allows more"),
        )],
        Ended::Size(parts) => vec![paint(
            ERROR,
            format_args!(
                "not finished after {steps}: the program has grown to more than {parts} parts"
            ),
        )],
        Ended::Depth(levels) => vec![paint(
            ERROR,
            format_args!(
                "not finished after {steps}: the program has grown to more than {levels} levels"
            ),
        )],
        Ended::Cycle(before) => vec![paint(
            ERROR,
            format_args!("after {steps} it is as it was after {before}: it never ends"),
        )],
        Ended::Stuck(why) => {
            let mut lines = vec![paint(
                ERROR,
                format_args!("stuck after {steps}: no rule can be used on what is marked"),
            )];
            lines.extend(why.iter().map(|why| format!("  {why}")));
            lines
        }
    }
}

/// How it has ended, without styles.
pub fn ended(found: &Reduction) -> Vec<String> {
    let lines = ending(found).into_iter();
    lines
        .map(|line| anstream::adapter::strip_str(&line).to_string())
        .collect()
}

/// A page with every step.
pub fn page(name: &str, found: &Reduction) -> Vec<String> {
    let mut out = vec![
        "<!DOCTYPE html>".to_owned(),
        "<html lang=\"en\"><head><meta charset=\"utf-8\">".to_owned(),
        format!("<title>Steps of {}</title>", escaped(name)),
        STYLE.trim().to_owned(),
        format!("</head><body><h1>Steps of {}</h1>", escaped(name)),
        LEGEND.to_owned(),
        "<ol start=\"0\">".to_owned(),
    ];
    for shown in &found.steps {
        out.push("<li>".to_owned());
        if let Some(by) = &shown.by {
            out.push(format!("<div class=\"by\">{}</div>", escaped(by)));
        }
        for one in &shown.renamed {
            out.push(format!(
                "<div class=\"renamed\">{} becomes {}, so that it captures no other {}</div>",
                escaped(&one.from),
                escaped(&one.to),
                escaped(&one.from)
            ));
        }
        out.push(format!("<pre>{}</pre></li>", marked(shown)));
    }
    out.push("</ol>".to_owned());
    for line in ended(found) {
        out.push(format!("<p>{}</p>", escaped(&line)));
    }
    out.push("</body></html>".to_owned());
    out
}

const STYLE: &str = "
<style>
body { font-family: sans-serif; margin: 2em; color: #222; background: #fff; }
pre { font-size: 1.05em; margin: 0.2em 0 0.9em; }
.by { color: #666; font-size: 0.85em; }
.renamed { color: #05788a; font-size: 0.85em; }
.changed { background: #d3f3d6; }
.next { border-bottom: 2px dotted #b26a00; }
</style>
";

/// A program's text with its marks as elements.
fn marked(shown: &Shown) -> String {
    let mut edges: Vec<(usize, bool, &str, usize)> = Vec::new();
    let marks = [
        (shown.marks.changed, "changed"),
        (shown.marks.will_change, "next"),
    ];
    for (span, class) in marks {
        if let Some(span) = span {
            let (start, end) = (span.start as usize, span.end as usize);
            edges.push((start, true, class, end - start));
            edges.push((end, false, class, end - start));
        }
    }
    // Outer elements open first and close last.
    edges.sort_by_key(|&(at, opens, _, length)| {
        (at, opens, if opens { usize::MAX - length } else { length })
    });
    let (mut out, mut at) = (String::new(), 0);
    for (place, opens, class, _) in edges {
        out.push_str(&escaped(&shown.text[at..place]));
        at = place;
        if opens {
            out.push_str(&format!("<span class=\"{class}\">"));
        } else {
            out.push_str("</span>");
        }
    }
    out.push_str(&escaped(&shown.text[at..]));
    out
}
