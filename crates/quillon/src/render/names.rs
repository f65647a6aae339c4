//! Names over their source, and as a table.

use anstyle::Style;
use quillon_core::scoping::{Home, Mention, Names};
use quillon_core::tree::Tree;
use unicode_width::UnicodeWidthStr;

use super::style::{FORM, GOOD, QUIET, VALUE, paint};
use super::table::{self, Cell};

/// What a mention of a name does.
pub fn role(mention: &Mention) -> &'static str {
    match mention.used {
        None => "binds",
        Some(used) if used.changes => "changes",
        Some(_) => "uses",
    }
}

/// Where a binding stands, in words.
fn home(tree: &Tree, names: &Names, mention: &Mention) -> String {
    let binding = names.binding(mention.binding);
    match (binding.span, binding.home) {
        (Some(span), _) => tree.source().position(span.start).to_string(),
        (None, Home::ReadyMade(_)) => "ready-made".to_owned(),
        (None, _) => "before".to_owned(),
    }
}

/// A line for each name.
pub fn listed(tree: &Tree, names: &Names) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = names
        .mentions(tree)
        .iter()
        .map(|mention| {
            let binding = names.binding(mention.binding);
            let place = tree.source().position(tree.node(mention.node).span.start);
            let is_ready_made = matches!(binding.home, Home::ReadyMade(_));
            let used = mention.used.filter(|_| !is_ready_made);
            let out = used.map_or(String::new(), |used| used.scopes_out.to_string());
            vec![
                Cell::right(place.to_string(), QUIET),
                Cell::new(&binding.name, FORM),
                Cell::new(role(mention), style(mention)),
                Cell::new(home(tree, names, mention), VALUE),
                Cell::right(out, QUIET),
                Cell::new(&binding.space, QUIET),
            ]
        })
        .collect();
    if rows.is_empty() {
        return vec!["there are no names".to_owned()];
    }
    table::lines(
        &["place", "name", "does", "bound at", "scopes out", "space"],
        &rows,
    )
}

fn style(mention: &Mention) -> Style {
    match mention.used {
        None => GOOD,
        Some(used) if used.changes => VALUE,
        Some(_) => Style::new(),
    }
}

/// The source with the number of its binding under each name, and the scopes in which
/// something is bound as lines in the margin.
pub fn over_source(tree: &Tree, names: &Names) -> Vec<String> {
    let source = tree.source();
    let mentions = names.mentions(tree);
    let mut numbers: Vec<u32> = Vec::new();
    for mention in &mentions {
        if !numbers.contains(&mention.binding.0) {
            numbers.push(mention.binding.0);
        }
    }
    let scopes: Vec<(u32, u32)> = names
        .scopes
        .iter()
        .map(|&node| {
            let span = tree.node(node).span;
            (
                source.line_of(span.start),
                source.line_of(span.end.max(span.start + 1) - 1),
            )
        })
        .collect();
    let (margins, wide) = margins(&scopes, source.line_count() as u32);
    let mut lines = Vec::new();
    let mut next = 0;
    for line in 1..=source.line_count() as u32 {
        let span = source.line_span(line);
        if span.is_empty() && line as usize == source.line_count() {
            break;
        }
        let (here, below) = &margins[line as usize - 1];
        let pad = |bars: &str| format!("{bars}{}", " ".repeat(wide - bars.chars().count()));
        let text = source.slice(span).replace('\t', " ");
        lines.push(format!(
            "{} {} {text}",
            paint(QUIET, format_args!("{line:>4}")),
            paint(QUIET, pad(here))
        ));
        let mut marks = String::new();
        let mut width = 0;
        while let Some(mention) = mentions.get(next)
            && tree.node(mention.node).span.start < span.end.max(span.start + 1)
        {
            let start = tree.node(mention.node).span.start;
            let column = source
                .slice(quillon_core::source::Span {
                    start: span.start,
                    end: start,
                })
                .width();
            let number = numbers
                .iter()
                .position(|n| *n == mention.binding.0)
                .map_or(0, |n| n + 1);
            let mark = match mention.used {
                None => format!("={number}"),
                Some(used) if used.changes => format!("!{number}"),
                Some(_) => format!("{number}"),
            };
            // Names side by side may leave no room: then a mark moves to the right.
            let gap = column
                .saturating_sub(width)
                .max(usize::from(width > 0 && column <= width));
            marks.push_str(&" ".repeat(gap));
            marks.push_str(&paint(style(mention), &mark));
            width += gap + mark.len();
            next += 1;
        }
        if !marks.is_empty() {
            lines.push(format!("     {} {marks}", paint(QUIET, pad(below))));
        }
    }
    lines.push(String::new());
    lines.push(paint(QUIET, "=1 bound here   1 used   !1 changed"));
    let ready: Vec<String> = numbers
        .iter()
        .enumerate()
        .map(|(at, &id)| (at + 1, names.binding(quillon_core::scoping::BindingId(id))))
        .filter(|(_, binding)| matches!(binding.home, Home::ReadyMade(_)))
        .map(|(number, binding)| format!("{number} {}", binding.name))
        .collect();
    if !ready.is_empty() {
        lines.push(paint(
            QUIET,
            format_args!("ready-made: {}", ready.join(", ")),
        ));
    }
    lines
}

/// For each line, the bars beside it and under it; and how wide the margin is.
fn margins(scopes: &[(u32, u32)], count: u32) -> (Vec<(String, String)>, usize) {
    let mut all = Vec::new();
    let mut wide = 0;
    for line in 1..=count {
        let (mut here, mut below) = (String::new(), String::new());
        for &(first, last) in scopes {
            if line < first || line > last {
                continue;
            }
            let single = first == last;
            here.push(match (line == first, line == last) {
                _ if single => '╶',
                (true, _) => '┌',
                (_, true) => '└',
                _ => '│',
            });
            below.push(if line == last { ' ' } else { '│' });
        }
        wide = wide.max(here.chars().count());
        all.push((here, below));
    }
    (all, wide)
}
