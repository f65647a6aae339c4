//! Core as an outline, a line a piece: what a program becomes before it is run.

use serde::Serialize;

use super::core::{ArmCore, Core, CoreKind, FunctionCore, PartId, Variable};
use crate::source::{Position, SourceText};
use crate::tree::value_text;

use CoreKind as K;

/// A line of the outline.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct CoreLine {
    /// How deep the piece lies.
    pub depth: usize,
    /// What it does.
    pub does: &'static str,
    /// With what: a variable, a value, a label.
    pub with: String,
    /// Where in the program it comes from.
    pub line: u32,
    /// The column there.
    pub column: u32,
}

/// A piece that is still to be told of.
enum Work<'a> {
    Core(&'a Core, usize, &'a SourceText),
    Function(&'a FunctionCore, usize),
    Arm(&'a ArmCore, usize, &'a SourceText),
    Part(PartId, &'a Core, usize, &'a SourceText),
}

/// The outline of a program's Core, functions inside it included. Works with a stack of its
/// own, so that depth costs no native stack.
pub fn core_lines(program: &FunctionCore) -> Vec<CoreLine> {
    let mut out = Vec::new();
    let mut work = vec![Work::Function(program, 0)];
    while let Some(next) = work.pop() {
        match next {
            Work::Function(function, depth) => {
                let does = if depth == 0 { "program" } else { "function" };
                let start = function.source.position(function.body.span.start);
                out.push(line(depth, does, heading(function), start));
                let parts = function.parts.iter().enumerate().rev();
                work.extend(parts.filter_map(|(id, part)| {
                    let part = part.as_ref()?;
                    Some(Work::Part(id as PartId, part, depth + 1, &function.source))
                }));
                work.push(Work::Core(&function.body, depth + 1, &function.source));
            }
            Work::Part(id, core, depth, source) => {
                let start = source.position(core.span.start);
                out.push(line(depth, "part", id.to_string(), start));
                work.push(Work::Core(core, depth + 1, source));
            }
            Work::Arm(arm, depth, source) => {
                let kind = arm.kind.map_or("else", |kind| kind.word());
                let slot = arm
                    .slot
                    .map_or(String::new(), |slot| format!(" in slot {slot}"));
                let start = source.position(arm.body.span.start);
                out.push(line(depth, "arm", format!("{kind}{slot}"), start));
                work.push(Work::Core(&arm.body, depth + 1, source));
            }
            Work::Core(core, depth, source) => {
                if let CoreKind::Function(function) = &core.kind {
                    work.push(Work::Function(function, depth));
                    continue;
                }
                let (does, with) = told(&core.kind);
                out.push(line(depth, does, with, source.position(core.span.start)));
                work.extend(parts(core, depth + 1, source).into_iter().rev());
            }
        }
    }
    out
}

fn line(depth: usize, does: &'static str, with: String, at: Position) -> CoreLine {
    CoreLine {
        depth,
        does,
        with,
        line: at.line,
        column: at.column,
    }
}

fn parts<'a>(core: &'a Core, depth: usize, source: &'a SourceText) -> Vec<Work<'a>> {
    let mut found = Vec::new();
    if let K::Match(subject, arms) = &core.kind {
        found.push(Work::Core(subject, depth, source));
        found.extend(arms.iter().map(|arm| Work::Arm(arm, depth, source)));
    } else {
        core.each_part(&mut |part| found.push(Work::Core(part, depth, source)));
    }
    found
}

/// A function's name, parameters and captures.
fn heading(function: &FunctionCore) -> String {
    let params: Vec<String> = function
        .params
        .iter()
        .map(|param| {
            let kind = if param.is_cell { "cell" } else { "slot" };
            format!("{} in {kind} {}", param.name, param.slot)
        })
        .collect();
    let rest = if function.rest { "..." } else { "" };
    let mut out = function
        .name
        .as_ref()
        .map_or(String::new(), ToString::to_string);
    if !params.is_empty() {
        out.push_str(&format!("({}{rest})", params.join(", ")));
    }
    if !function.captures.is_empty() {
        let captures = function.captures.iter();
        let captures: Vec<String> = captures
            .map(|capture| format!("{} from {}", capture.name, variable(&capture.from)))
            .collect();
        out.push_str(&format!(" captures {}", captures.join(", ")));
    }
    out
}

fn variable(variable: &Variable) -> String {
    match variable {
        Variable::Slot(slot) => format!("slot {slot}"),
        Variable::Cell(slot) => format!("cell {slot}"),
        Variable::Captured(index) => format!("captured {index}"),
        Variable::Session(index) => format!("session {index}"),
        Variable::BuiltIn(index) => format!("built-in {index}"),
        Variable::State(index) => format!("state {index}"),
        Variable::Dynamic(name) => format!("dynamic {name}"),
    }
}

/// What a piece does, and with what.
fn told(kind: &CoreKind) -> (&'static str, String) {
    let none = String::new();
    match kind {
        K::Literal(literal) => ("value", value_text(literal)),
        K::Read(from, name) => ("read", format!("{name} in {}", variable(from))),
        K::Write(to, Some(name), _) => ("write", format!("{name} in {}", variable(to))),
        K::Write(to, None, _) => ("write", variable(to)),
        K::Fresh(slots, _) => {
            let slots = slots.iter();
            let slots: Vec<String> = slots
                .map(|(slot, cell)| format!("{} {slot}", if *cell { "cell" } else { "slot" }))
                .collect();
            ("fresh", slots.join(", "))
        }
        K::Rebind(names, _) => ("rebind", names.join(", ")),
        K::Mark(..) => ("mark", none),
        K::Enter(part) => ("enter part", part.to_string()),
        K::Parts(parts, _) => {
            let parts: Vec<String> = parts.iter().map(ToString::to_string).collect();
            ("enters parts", parts.join(", "))
        }
        K::Sequence(_) => ("sequence", none),
        K::If(_) => ("if", none),
        K::While(_) => ("while", none),
        K::Each(slot, _) => ("each", format!("in slot {slot}")),
        K::Count(slot, _) => ("count", format!("in slot {slot}")),
        K::Landing(label, _) => ("landing", label.to_string()),
        K::Jump(label, _) => ("jump", label.to_string()),
        K::Function(_) => ("function", none),
        K::Call(..) => ("call", none),
        K::Binary(operator, _) => ("operator", operator.sign().to_owned()),
        K::Negate(_) => ("negate", none),
        K::Not(_) => ("not", none),
        K::And(_) => ("and", none),
        K::Or(_) => ("or", none),
        K::Apply(operation, _) => ("apply", operation.name().to_owned()),
        K::List(_) => ("list", none),
        K::Match(..) => ("match", none),
        K::Fault(_) => ("fault", none),
        K::Raise(_) => ("raise", none),
        K::Attempt(slot, _) => ("attempt", format!("caught in slot {slot}")),
        K::Cleanup(_) => ("cleanup", none),
    }
}
