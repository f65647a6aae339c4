//! How a profile looks.

use quillon_core::diagnostic::plural;
use quillon_core::profiling::{Piece, Profile, Share};

use super::style::{FORM, GOOD, HEADING, QUIET, VALUE, paint};
use super::table::{Cell, lines as table};

/// Most forms and functions that are listed.
const MOST: usize = 12;

/// A profile as tables, the source first.
pub fn shown(profile: &Profile) -> Vec<String> {
    let mut out = summary(profile);
    let share = if is_measured(profile) {
        "time"
    } else {
        "share"
    };
    out.push(String::new());
    out.push(paint(HEADING, "by line"));
    let rows: Vec<Vec<Cell>> = profile.lines.iter().map(|s| row(s, profile)).collect();
    out.extend(table(
        &[
            share,
            "",
            "instructions",
            "allocations",
            "bytes",
            "line",
            "",
        ],
        &rows,
    ));
    for (heading, shares) in [
        ("by form", &profile.forms),
        ("by function", &profile.functions),
    ] {
        out.push(String::new());
        out.push(paint(HEADING, heading));
        let rows: Vec<Vec<Cell>> = shares.iter().take(MOST).map(|s| row(s, profile)).collect();
        out.extend(table(
            &[share, "", "", "instructions", "allocations", "bytes"],
            &rows,
        ));
        if shares.len() > MOST {
            out.push(paint(
                QUIET,
                format_args!("and {} more", shares.len() - MOST),
            ));
        }
    }
    out
}

fn summary(profile: &Profile) -> Vec<String> {
    let mut out = vec![format!(
        "{} in {}; {}, {}; {}",
        plural_of(profile.instructions, "instruction"),
        seconds(profile.machine_seconds),
        plural_of(profile.allocations, "allocation"),
        bytes(profile.bytes),
        plural_of(profile.collections, "collection"),
    )];
    if !is_measured(profile) {
        let note = "this run is too short to measure: shares are of instructions, not of time";
        out.push(paint(QUIET, note));
    } else if let (Some(walker), Some(ratio)) = (profile.walker_seconds, profile.ratio) {
        out.push(format!(
            "the machine {}, the walking evaluator {}: {}",
            seconds(profile.machine_seconds),
            seconds(walker),
            paint(GOOD, format_args!("{ratio:.1} times as fast"))
        ));
    }
    out
}

/// A run shorter than this, in seconds, is over before the clock can tell its parts.
const SHORTEST: f64 = 1e-3;

/// Whether a run took long enough for shares of its time to mean something.
fn is_measured(profile: &Profile) -> bool {
    profile.machine_seconds >= SHORTEST && profile.flame.seconds > 0.0
}

/// What was in use when the most was, as tables.
pub fn heap(profile: &Profile) -> Vec<String> {
    let alive = profile.alive.as_ref();
    let Some(alive) = alive.filter(|alive| alive.pieces > 0) else {
        return vec!["nothing was made on the heap".to_owned()];
    };
    let mut out = vec![format!(
        "the most in use: {} in {}, after {}",
        bytes(alive.bytes),
        plural_of(alive.pieces, "piece"),
        plural_of(alive.instructions, "instruction"),
    )];
    let of_name = &["", "", "bytes", "pieces", "", ""][..];
    let of_line = &["", "", "bytes", "pieces", "line", "", ""][..];
    for (heading, columns, pieces, most) in [
        ("held by", of_name, &alive.held, MOST),
        ("made by form", of_name, &alive.forms, MOST),
        ("made by line", of_line, &alive.lines, usize::MAX),
    ] {
        out.push(String::new());
        out.push(paint(HEADING, heading));
        let rows = pieces.iter().take(most).map(|one| piece(one, alive.bytes));
        let rows: Vec<Vec<Cell>> = rows.collect();
        out.extend(table(columns, &rows));
        if pieces.len() > most {
            let left = pieces.len() - most;
            out.push(paint(QUIET, format_args!("and {left} more")));
        }
    }
    out
}

fn piece(piece: &Piece, all: u64) -> Vec<Cell> {
    let plain = anstyle::Style::new();
    let part = piece.bytes as f64 / all.max(1) as f64;
    let kinds = piece.kinds.iter().map(|one| one.kind);
    let kinds = kinds.collect::<Vec<_>>().join(", ");
    let mut cells = vec![
        Cell::right(format!("{:.1} %", part * 100.0), VALUE),
        Cell::new(bar(part), FORM),
        Cell::right(bytes(piece.bytes), plain),
        Cell::right(piece.pieces.to_string(), plain),
    ];
    cells.extend(piece.line.map(|line| Cell::right(line.to_string(), QUIET)));
    cells.push(Cell::new(piece.name.clone(), plain));
    cells.push(Cell::new(kinds, QUIET));
    cells
}

fn plural_of(count: u64, word: &str) -> String {
    plural(usize::try_from(count).unwrap_or(usize::MAX), word)
}

fn row(share: &Share, profile: &Profile) -> Vec<Cell> {
    let part = if is_measured(profile) {
        share.seconds / profile.flame.seconds
    } else {
        share.instructions as f64 / profile.instructions.max(1) as f64
    };
    let plain = anstyle::Style::new();
    let count = |n: u64| if n == 0 { String::new() } else { n.to_string() };
    let made = if share.bytes == 0 {
        String::new()
    } else {
        bytes(share.bytes)
    };
    let name = Cell::new(share.name.clone(), plain);
    let mut cells = vec![
        Cell::right(format!("{:.1} %", part * 100.0), VALUE),
        Cell::new(bar(part), FORM),
    ];
    let costs = [
        Cell::right(count(share.instructions), plain),
        Cell::right(count(share.allocations), plain),
        Cell::right(made, plain),
    ];
    if let Some(line) = share.line {
        // The text of a line is long, and stands last.
        cells.extend(costs);
        cells.push(Cell::right(line.to_string(), QUIET));
        cells.push(name);
    } else {
        cells.push(name);
        cells.extend(costs);
    }
    cells
}

/// A part of the whole as a bar.
fn bar(part: f64) -> String {
    const LONGEST: f64 = 20.0;
    const EIGHTHS: [&str; 8] = ["", "▏", "▎", "▍", "▌", "▋", "▊", "▉"];
    let eighths = (part.clamp(0.0, 1.0) * LONGEST * 8.0).round() as usize;
    "█".repeat(eighths / 8) + EIGHTHS[eighths % 8]
}

fn seconds(seconds: f64) -> String {
    if seconds >= 1.0 {
        format!("{seconds:.2} s")
    } else {
        format!("{:.2} ms", seconds * 1e3)
    }
}

fn bytes(bytes: u64) -> String {
    match bytes {
        0..10_000 => format!("{bytes} B"),
        10_000..10_000_000 => format!("{:.0} KB", bytes as f64 / 1e3),
        _ => format!("{:.0} MB", bytes as f64 / 1e6),
    }
}
