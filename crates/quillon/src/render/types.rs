//! Types over their source, as a table, and as a tree of reasons.

use quillon_core::definition::Definition;
use quillon_core::scoping::{BindingId, Names};
use quillon_core::source::Span;
use quillon_core::tree::{NodeId, Tree};
use quillon_core::typing::{Con, Derivation, Has, Judged, Listed, Type};
use unicode_width::UnicodeWidthStr;

use super::style::{FORM, GOOD, QUIET, VALUE, paint};
use super::table::{self, Cell};

/// The longest piece of program shown in a table, in columns.
const LONGEST: usize = 36;

/// A piece of a program on one line, cut where it is long.
fn piece(tree: &Tree, span: Span) -> String {
    let text = tree.source().slice(span);
    let words: Vec<&str> = text.split_whitespace().collect();
    let text = words.join(" ");
    if text.width() <= LONGEST {
        return text;
    }
    let mut cut = String::new();
    for c in text.chars() {
        if cut.width() + 2 > LONGEST {
            break;
        }
        cut.push(c);
    }
    cut + "…"
}

/// A line for each node and binding.
pub fn table(
    definition: &Definition,
    tree: &Tree,
    names: &Names,
    listed: &[Listed],
) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = listed
        .iter()
        .map(|one| {
            let place = tree.source().position(one.span.start);
            let (what, style) = match one.what {
                Has::Node(_, form) => (definition.forms[form].name.text.clone(), FORM),
                Has::Binding(binding) => (format!("binds {}", names.binding(binding).name), GOOD),
            };
            vec![
                Cell::right(place.to_string(), QUIET),
                Cell::new(piece(tree, one.span), anstyle::Style::new()),
                Cell::new(what, style),
                Cell::new(one.has.shown(definition), VALUE),
            ]
        })
        .collect();
    table::lines(&["place", "text", "what", "type"], &rows)
}

/// A type to be drawn under its text.
struct Mark {
    column: usize,
    /// How many columns of text it is about; those up to the line's end if it goes on.
    width: usize,
    goes_on: bool,
    label: String,
    binds: bool,
}

impl Mark {
    /// The first column after what it is about.
    fn end(&self) -> usize {
        if self.goes_on {
            usize::MAX
        } else {
            self.column + self.width
        }
    }

    /// The first column that another mark in its row can have.
    fn free_from(&self) -> usize {
        self.column + self.width + 1 + self.label.width() + 2
    }
}

/// The source with the types under what has them: the innermost nearest.
pub fn over_source(definition: &Definition, tree: &Tree, listed: &[Listed]) -> Vec<String> {
    let source = tree.source();
    let shown = worth_showing(listed);
    let mut lines = Vec::new();
    for line in 1..=source.line_count() as u32 {
        let span = source.line_span(line);
        if span.is_empty() && line as usize == source.line_count() {
            break;
        }
        let text = source.slice(span).replace('\t', " ");
        lines.push(format!(
            "{} {text}",
            paint(QUIET, format_args!("{line:>4}"))
        ));
        let here = shown.iter().filter(|one| {
            span.start <= one.span.start && one.span.start < span.end.max(span.start + 1)
        });
        let mut marks: Vec<Mark> = here
            .map(|one| {
                let before = Span {
                    start: span.start,
                    end: one.span.start,
                };
                let end = one.span.end.min(span.end);
                let own = Span {
                    start: one.span.start,
                    end,
                };
                Mark {
                    column: source.slice(before).replace('\t', " ").width(),
                    width: source.slice(own).trim_end().width().max(1),
                    goes_on: one.span.end > span.end,
                    label: one.has.shown(definition),
                    binds: matches!(one.what, Has::Binding(_)),
                }
            })
            .collect();
        marks.sort_by_key(|mark| (mark.column, std::cmp::Reverse(mark.end())));
        lines.extend(rows(marks).into_iter().map(|row| format!("     {row}")));
    }
    lines
}

/// Those that say more than what is directly inside or around them.
fn worth_showing(listed: &[Listed]) -> Vec<&Listed> {
    let nothing = Type::Con(Con::Nothing, Vec::new());
    let mut shown: Vec<&Listed> = Vec::new();
    for one in listed {
        let says_nothing = one.has == nothing || one.has == Type::Any;
        let repeats = shown
            .last()
            .is_some_and(|last| last.span == one.span && last.has == one.has);
        if says_nothing && !matches!(one.what, Has::Binding(_)) || repeats {
            continue;
        }
        shown.push(one);
    }
    shown
}

/// Puts marks, which come by where they begin, into rows: first those with none inside, last the outermost; and where labels
/// leave no room, into several rows.
fn rows(marks: Vec<Mark>) -> Vec<String> {
    let heights = heights(&marks);
    let tallest = heights.iter().max().map_or(0, |tallest| tallest + 1);
    let mut levels: Vec<Vec<Vec<Mark>>> = (0..tallest).map(|_| Vec::new()).collect();
    for (mark, height) in marks.into_iter().zip(heights) {
        let own = &mut levels[height];
        let is_free = |row: &Vec<Mark>| {
            let last = row.last();
            last.is_none_or(|last| last.free_from() <= mark.column)
        };
        match own.iter().position(is_free) {
            Some(at) => own[at].push(mark),
            None => own.push(vec![mark]),
        }
    }
    levels.into_iter().flatten().map(row).collect()
}

/// How many marks are inside each, one in the other.
fn heights(marks: &[Mark]) -> Vec<usize> {
    let mut heights = vec![0; marks.len()];
    let mut open: Vec<usize> = Vec::new();
    let close = |open: &mut Vec<usize>, heights: &mut Vec<usize>| {
        if let Some(inner) = open.pop()
            && let Some(&outer) = open.last()
        {
            heights[outer] = heights[outer].max(heights[inner] + 1);
        }
    };
    for (index, mark) in marks.iter().enumerate() {
        while open
            .last()
            .is_some_and(|&last| marks[last].end() <= mark.column)
        {
            close(&mut open, &mut heights);
        }
        open.push(index);
    }
    while !open.is_empty() {
        close(&mut open, &mut heights);
    }
    heights
}

fn row(marks: Vec<Mark>) -> String {
    let mut out = String::new();
    let mut at = 0;
    for mark in marks {
        out.push_str(&" ".repeat(mark.column - at));
        let line = match (mark.width, mark.goes_on) {
            (1, false) => "╵".to_owned(),
            (width, true) => format!("╰{}╌", "─".repeat(width.saturating_sub(2))),
            (width, false) => format!("╰{}╯", "─".repeat(width - 2)),
        };
        let width = line.width();
        let style = if mark.binds { GOOD } else { VALUE };
        out.push_str(&paint(QUIET, line));
        out.push(' ');
        out.push_str(&paint(style, &mark.label));
        at = mark.column + width + 1 + mark.label.width();
    }
    out
}

/// The reasons of a type, as a tree: what it rests on further in.
pub fn derivation(
    definition: &Definition,
    tree: &Tree,
    names: &Names,
    why: &Derivation,
) -> Vec<String> {
    let reasons = Reasons {
        definition,
        tree,
        names,
    };
    let mut rows = Vec::new();
    reasons.add(why, "", "", &mut rows);
    let width = rows
        .iter()
        .map(|(_, width, _)| *width)
        .max()
        .unwrap_or(0)
        .min(64);
    rows.into_iter()
        .map(|(text, own, beside)| {
            let pad = " ".repeat(width.saturating_sub(own));
            format!("{text}{pad}   {}", paint(QUIET, beside))
                .trim_end()
                .to_owned()
        })
        .collect()
}

struct Reasons<'a> {
    definition: &'a Definition,
    tree: &'a Tree,
    names: &'a Names,
}

/// A line, its width, and what stands beside it.
type Row = (String, usize, String);

impl Reasons<'_> {
    fn add(&self, why: &Derivation, lead: &str, below: &str, rows: &mut Vec<Row>) {
        let form = self.tree.form(why.node);
        let form = form.map_or("", |form| self.definition.forms[form].name.text.as_str());
        let beside = match &why.clause {
            Some(clause) => format!("{form}: {clause}"),
            None => format!("{form}: from its meaning"),
        };
        rows.push(self.row(lead, why.node, Some(&why.has), beside));
        for (index, premise) in why.premises.iter().enumerate() {
            let is_last = index + 1 == why.premises.len();
            let (branch, bar) = if is_last {
                ("╰ ", "  ")
            } else {
                ("├ ", "│ ")
            };
            let lead = format!("{below}{branch}");
            match &premise.what {
                Judged::Form(own) => self.add(own, &lead, &format!("{below}{bar}"), rows),
                Judged::Name { node, binding, has } => {
                    let beside = format!("{}: {}", premise.field, self.bound(*binding));
                    rows.push(self.row(&lead, *node, Some(has), beside));
                }
                Judged::Token(node) => {
                    rows.push(self.row(&lead, *node, None, premise.field.clone()));
                }
            }
        }
    }

    fn row(&self, lead: &str, node: NodeId, has: Option<&Type>, beside: String) -> Row {
        let text = piece(self.tree, self.tree.node(node).span);
        let shown = has.map(|has| has.shown(self.definition));
        let plain = match &shown {
            Some(shown) => format!("{lead}{text} : {shown}"),
            None => format!("{lead}{text}"),
        };
        let painted = match &shown {
            Some(shown) => format!("{}{text} : {}", paint(QUIET, lead), paint(VALUE, shown)),
            None => format!("{}{text}", paint(QUIET, lead)),
        };
        (painted, plain.width(), beside)
    }

    fn bound(&self, binding: BindingId) -> String {
        match self.names.bound_at(self.tree, binding) {
            Some(place) => format!("bound at {place}"),
            None => "built-in".to_owned(),
        }
    }
}
