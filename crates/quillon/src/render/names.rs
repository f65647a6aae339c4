//! Names over their source, and as a table.

use std::collections::HashMap;

use anstyle::Style;
use quillon_core::meaning::Places;
use quillon_core::scoping::{BindingId, Home, Mention, Names};
use quillon_core::source::Span;
use quillon_core::tree::Tree;
use unicode_width::UnicodeWidthStr;

use super::style::{FORM, GOOD, QUIET, RELATED, VALUE, paint};
use super::table::{self, Cell};
use quillon_render::plain::plain;

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
    match (names.bound_at(tree, mention.binding), binding.home) {
        (Some(place), _) => place.to_string(),
        (None, Home::BuiltIn(_)) => "built-in".to_owned(),
        (None, _) => "before".to_owned(),
    }
}

/// A line for each name.
pub fn listed(tree: &Tree, names: &Names, places: &Places) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = names
        .mentions(tree)
        .iter()
        .map(|mention| {
            let binding = names.binding(mention.binding);
            let place = tree.source().position(tree.node(mention.node).span.start);
            let is_built_in = matches!(binding.home, Home::BuiltIn(_));
            let used = mention.used.filter(|_| !is_built_in);
            let kept = places.of(mention.binding);
            let captured = match kept {
                Some(kept) if kept.captured => "captured",
                _ if binding.dynamic => "dynamic",
                _ => "",
            };
            let out = used.map_or(String::new(), |used| used.scopes_out.to_string());
            vec![
                Cell::right(place.to_string(), QUIET),
                Cell::new(&binding.name, FORM),
                Cell::new(role(mention), style(mention)),
                Cell::new(home(tree, names, mention), VALUE),
                Cell::right(out, QUIET),
                Cell::right(
                    kept.map_or(String::new(), |kept| kept.slot.to_string()),
                    QUIET,
                ),
                Cell::new(captured, RELATED),
                Cell::new(&binding.space, QUIET),
            ]
        })
        .collect();
    if rows.is_empty() {
        return vec!["there are no names".to_owned()];
    }
    table::lines(
        &[
            "place",
            "name",
            "does",
            "bound at",
            "scopes out",
            "slot",
            "kept",
            "space",
        ],
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

/// The bindings in the order in which they are met, with their numbers from 1.
struct Numbers {
    of: HashMap<BindingId, usize>,
    met: Vec<BindingId>,
}

impl Numbers {
    fn new(mentions: &[Mention]) -> Numbers {
        let (mut of, mut met) = (HashMap::new(), Vec::new());
        for mention in mentions {
            of.entry(mention.binding).or_insert_with(|| {
                met.push(mention.binding);
                met.len()
            });
        }
        Numbers { of, met }
    }
}

/// The source with the number of its binding under each name, and the scopes in which
/// something is bound as lines in the margin.
pub fn over_source(tree: &Tree, names: &Names) -> Vec<String> {
    let source = tree.source();
    let mentions = names.mentions(tree);
    let numbers = Numbers::new(&mentions);
    let (margins, wide) = margins(tree, names);
    let pad = |bars: &str| format!("{bars}{}", " ".repeat(wide - bars.chars().count()));
    let mut lines = Vec::new();
    let mut rest = &mentions[..];
    for (line, (here, below)) in (1u32..).zip(&margins) {
        let span = source.line_span(line);
        if span.is_empty() && line as usize == source.line_count() {
            break;
        }
        let text = plain(source.slice(span)).replace('\t', " ");
        lines.push(format!(
            "{} {} {text}",
            paint(QUIET, format_args!("{line:>4}")),
            paint(QUIET, pad(here))
        ));
        let count = rest.partition_point(|m| tree.node(m.node).span.start < span.end);
        let (own, later) = rest.split_at(count);
        rest = later;
        if !own.is_empty() {
            let marks = marks(tree, &numbers, span.start, own);
            lines.push(format!("     {} {marks}", paint(QUIET, pad(below))));
        }
    }
    lines.push(String::new());
    lines.push(paint(QUIET, "=1 bound here   1 used   !1 changed"));
    let ready: Vec<String> = (1..)
        .zip(&numbers.met)
        .map(|(number, id)| (number, names.binding(*id)))
        .filter(|(_, binding)| matches!(binding.home, Home::BuiltIn(_)))
        .map(|(number, binding): (usize, _)| format!("{number} {}", binding.name))
        .collect();
    if !ready.is_empty() {
        let listed = format_args!("built-in: {}", ready.join(", ")).to_string();
        lines.push(paint(QUIET, listed));
    }
    lines
}

/// What stands under a line: the number of its binding under each name. Names side by side
/// may leave no room: then a mark moves to the right.
fn marks(tree: &Tree, numbers: &Numbers, line_start: u32, mentions: &[Mention]) -> String {
    let mut marks = String::new();
    let mut width = 0;
    let (mut column, mut at) = (0, line_start);
    for mention in mentions {
        let start = tree.node(mention.node).span.start;
        let before = Span {
            start: at,
            end: start.max(at),
        };
        column += plain(tree.source().slice(before)).width();
        at = start.max(at);
        let number = numbers.of[&mention.binding];
        let mark = match mention.used {
            None => format!("={number}"),
            Some(used) if used.changes => format!("!{number}"),
            Some(_) => format!("{number}"),
        };
        let gap = column
            .saturating_sub(width)
            .max(usize::from(width > 0 && column <= width));
        marks.push_str(&" ".repeat(gap));
        marks.push_str(&paint(style(mention), &mark));
        width += gap + mark.len();
    }
    marks
}

/// So many scopes are shown in the margin, one inside the other.
const MOST_BARS: usize = 24;

/// For each line, the bars beside it and under it; and how wide the margin is.
fn margins(tree: &Tree, names: &Names) -> (Vec<(String, String)>, usize) {
    let source = tree.source();
    let lines_of = |node: &_| {
        let span = tree.node(*node).span;
        let last = source.line_of(span.end.max(span.start + 1) - 1);
        (source.line_of(span.start), last)
    };
    let mut scopes: Vec<(u32, u32)> = names.scopes.iter().map(lines_of).collect();
    // The outer before the inner, which the sort keeps where they start together.
    scopes.sort_by_key(|(first, _)| *first);
    // Those that begin and end on the same lines look alike: one bar says as much as three.
    scopes.dedup();
    let mut waiting = scopes.into_iter().peekable();
    let mut open: Vec<(u32, u32)> = Vec::new();
    let mut all = Vec::new();
    let mut wide = 0;
    for line in 1..=source.line_count() as u32 {
        while let Some(scope) = waiting.next_if(|(first, _)| *first == line) {
            open.push(scope);
        }
        let (mut here, mut below) = (String::new(), String::new());
        // The innermost of very many would be out of sight.
        for &(first, last) in open.iter().take(MOST_BARS) {
            here.push(match (line == first, line == last) {
                (true, true) => '╶',
                (true, false) => '┌',
                (false, true) => '└',
                (false, false) => '│',
            });
            below.push(if line == last { ' ' } else { '│' });
        }
        open.retain(|(_, last)| *last > line);
        wide = wide.max(here.chars().count());
        all.push((here, below));
    }
    (all, wide)
}
