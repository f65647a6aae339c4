//! How bytecode looks.

use quillon_core::bytecode::{FunctionListing, Line, Listing};
use quillon_core::diagnostic::plural;
use quillon_core::source::SourceText;

use super::style::{FORM, HEADING, QUIET, RELATED, STRONG, paint};
use super::table::{Cell, lines as table};

/// A program's bytecode as lines; with its source, the lines of that stand between.
pub fn listed(listing: &Listing, source: Option<&SourceText>) -> Vec<String> {
    let mut out = Vec::new();
    for function in &listing.functions {
        out.push(heading(function));
        out.extend(body(function, source));
        for handler in &function.handlers {
            out.push(paint(QUIET, format_args!("  from {handler}")));
        }
        out.push(String::new());
    }
    out.push(paint(
        QUIET,
        format_args!(
            "{}, {} in {} bytes, {}",
            plural(listing.functions.len(), "function"),
            plural(listing.instructions, "instruction"),
            listing.bytes,
            plural(listing.constants, "constant")
        ),
    ));
    out
}

fn heading(function: &FunctionListing) -> String {
    let name = match (function.number, &function.name) {
        (0, _) => "the program".to_owned(),
        (number, Some(name)) => format!("function {number} {name}"),
        (number, None) => format!("function {number}"),
    };
    let rest = if function.rest { "..." } else { "" };
    let params = format!("({}{rest})", function.parameters.join(", "));
    let params = if function.number == 0 { "" } else { &params };
    let mut about = vec![plural(usize::from(function.registers), "register")];
    if !function.captures.is_empty() {
        about.push(format!("captures {}", function.captures.join(", ")));
    }
    format!(
        "{}{params}   {}",
        paint(HEADING, name),
        paint(QUIET, about.join(", "))
    )
}

/// The instructions, with lines of the source above those that come from them.
fn body(function: &FunctionListing, source: Option<&SourceText>) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = function.lines.iter().map(row).collect();
    let made = table(&["", "at", "bytes", "instruction", "operands"], &rows);
    let Some(source) = source else {
        return made;
    };
    let mut out = vec![made[0].clone()];
    let mut shown = 0;
    for (line, text) in function.lines.iter().zip(&made[1..]) {
        if line.line != shown {
            shown = line.line;
            let number = paint(QUIET, format_args!("{shown:>4} │"));
            let written = source.slice(source.line_span(shown));
            out.push(format!("{number} {}", paint(STRONG, written.trim_end())));
        }
        out.push(text.clone());
    }
    out
}

fn row(line: &Line) -> Vec<Cell> {
    let label = line.label.as_ref().map(|label| format!("{label}:"));
    let bytes = line.bytes.chunks(8).map(|word| {
        let digits: Vec<String> = word.iter().map(|byte| format!("{byte:02x}")).collect();
        digits.join(" ")
    });
    let bytes: Vec<String> = bytes.collect();
    let more = if bytes.len() > 1 { " +" } else { "" };
    vec![
        Cell::right(label.unwrap_or_default(), RELATED),
        Cell::right(line.address.to_string(), QUIET),
        Cell::new(format!("{}{more}", bytes[0]), QUIET),
        Cell::new(line.mnemonic, FORM),
        Cell::new(line.operands.join(", "), anstyle::Style::new()),
    ]
}
