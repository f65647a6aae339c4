//! `quillon explain`: everything known about one place of a program.

use std::path::PathBuf;
use std::sync::Arc;

use quillon_core::Language;
use quillon_core::Reading;
use quillon_core::diagnostic::{Diagnostic, codes, quote};
use quillon_core::lexing::KindId;
use quillon_core::scoping::{Around, Home, Names};
use quillon_core::source::{SourceText, Span};
use quillon_core::tree::{NodeId, Tree, value_text};
use serde_json::{Value, json};

use crate::args::{Explain as Args, Format};
use crate::exit::Exit;
use crate::files;
use crate::languages::Languages;
use crate::output::{print_json, print_lines, report, status};
use crate::render::style::{FORM, QUIET, VALUE, paint};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let (path, line, column) = place(&args.place)?;
    let language = Languages::default()
        .of_program(&args.common, &path)?
        .language;
    let source = files::read(&path)?;
    let offset = offset_at(&source, line, column)?;
    let parsed = language.tree(&source, Reading::Program);
    let mut diagnostics = parsed.diagnostics;
    let mut facts = vec![token_fact(&language, &source, offset)];
    if let Some(tree) = &parsed.value {
        let found = language.names(tree, Around::Nothing);
        diagnostics.extend(found.diagnostics);
        facts.extend(tree_facts(&language, tree, offset));
        facts.extend(
            found
                .value
                .iter()
                .flat_map(|names| name_facts(&language, tree, names, offset)),
        );
        facts.extend(meaning_fact(&language, tree, offset));
    }
    if args.common.format == Format::Json {
        let object: serde_json::Map<String, Value> = facts
            .into_iter()
            .map(|fact| (fact.what.to_owned(), fact.data))
            .collect();
        let mut json = Value::Object(object);
        json["diagnostics"] = json!(diagnostics);
        print_json(&json)?;
        return Ok(status(&diagnostics));
    }
    for fact in &facts {
        let mut what = format!("{:>9}", fact.what);
        for line in fact.text.lines() {
            print_lines(&[format!("{}  {line}", paint(QUIET, &what))])?;
            what = " ".repeat(9);
        }
    }
    report(&diagnostics, Format::Text);
    Ok(status(&diagnostics))
}

/// Something known, for people and for tools.
struct Fact {
    what: &'static str,
    text: String,
    data: Value,
}

/// The offset of a place in a text.
fn offset_at(source: &SourceText, line: u32, column: u32) -> Result<u32, Stop> {
    source.offset_at(line, column).ok_or_else(|| {
        let lines = source.line_count();
        let (message, why) = if line as usize > lines {
            let message = format!("{} has no line {line}", source.name());
            (message, format!("it ends with line {lines}"))
        } else {
            let end = source.position(source.line_span(line).end);
            let message = format!("line {line} of {} has no column {column}", source.name());
            (message, format!("it ends at column {}", end.column))
        };
        Stop::Usage(Box::new(Diagnostic::error(codes::USAGE, message).why(why)))
    })
}

/// The offset of a place written as `LINE:COLUMN`.
pub(super) fn place_of(source: &SourceText, text: &str) -> Result<u32, Stop> {
    let number = |part: &str| part.parse::<u32>().ok().filter(|&n| n > 0);
    let parts = text.split_once(':');
    let Some((Some(line), Some(column))) = parts.map(|(l, c)| (number(l), number(c))) else {
        let problem = Diagnostic::error(codes::USAGE, format!("{} names no place", quote(text)))
            .remedy("write the line and the column, as `3:5`");
        return Err(Stop::Usage(Box::new(problem)));
    };
    offset_at(source, line, column)
}

/// `FILE:LINE:COLUMN` taken apart.
fn place(text: &str) -> Result<(PathBuf, u32, u32), Stop> {
    let mut parts = text.rsplitn(3, ':');
    let (column, line, file) = (parts.next(), parts.next(), parts.next());
    let number = |part: Option<&str>| part.and_then(|p| p.parse::<u32>().ok()).filter(|&n| n > 0);
    if let (Some(column), Some(line), Some(file)) = (number(column), number(line), file) {
        return Ok((PathBuf::from(file), line, column));
    }
    let problem = Diagnostic::error(codes::USAGE, format!("{} names no place", quote(text)))
        .remedy("write the file, the line and the column, as `programs/tolls.tow:3:5`");
    Err(Stop::Usage(Box::new(problem)))
}

fn token_fact(language: &Language, source: &Arc<SourceText>, offset: u32) -> Fact {
    let tokens = language.all_tokens(source).value;
    let at = |token: &&quillon_core::lexing::Token| {
        token.kind != KindId::END && token.span.start <= offset && offset < token.span.end
    };
    let found = tokens
        .as_ref()
        .and_then(|tokens| tokens.tokens.iter().chain(&tokens.ignored).find(at));
    let Some(token) = found else {
        return Fact {
            what: "token",
            text: "none stands here".to_owned(),
            data: Value::Null,
        };
    };
    let kind = language.lexer().kind(token.kind);
    let text = source.slice(token.span);
    let held = kind
        .holds
        .map(|_| value_text(&language.lexer().value(source, *token)));
    let name = if kind.is_literal() {
        "literal"
    } else {
        kind.name.as_str()
    };
    let mut line = format!("{} {text:?}", paint(FORM, name));
    if let Some(held) = &held {
        line += &format!(" holds {}", paint(VALUE, held));
    }
    if kind.ignored {
        line += " (ignored)";
    }
    Fact {
        what: "token",
        text: line,
        data: json!({
            "kind": name, "text": text, "value": held, "ignored": kind.ignored,
            "place": place_json(source, token.span),
        }),
    }
}

/// The form at the place, and the path to it.
fn tree_facts(language: &Language, tree: &Tree, offset: u32) -> Vec<Fact> {
    let definition = language.definition();
    let mut steps = Vec::new();
    let mut innermost = None;
    let mut form_above: Option<usize> = None;
    for step in tree.path(offset) {
        let form = tree.form(step.node);
        let name = form.map(|form| definition.forms[form].name.text.as_str());
        let label = step.field.zip(form_above).map(|(field, above)| {
            let field = &definition.forms[above].fields[field].name.text;
            match step.number {
                Some(number) => format!("{field}[{number}]"),
                None => field.clone(),
            }
        });
        steps.push(match (label, name) {
            (Some(label), Some(name)) => format!("{label}: {name}"),
            (Some(label), None) => label,
            (None, name) => name.unwrap_or_default().to_owned(),
        });
        if form.is_some() {
            form_above = form;
            innermost = Some(step.node);
        }
    }
    let Some(node) = innermost else {
        return Vec::new();
    };
    let span = tree.node(node).span;
    let name = &definition.forms[form_above.unwrap_or_default()].name.text;
    let text = tree.source().slice(span);
    vec![
        Fact {
            what: "form",
            text: format!("{} {}", paint(FORM, name), first_line(text)),
            data: json!({ "name": name, "text": text, "place": place_json(tree.source(), span) }),
        },
        Fact {
            what: "path",
            text: steps.join(" › "),
            data: json!(steps),
        },
    ]
}

/// What the name at the place means, and where its variable is kept.
fn name_facts(language: &Language, tree: &Tree, names: &Names, offset: u32) -> Vec<Fact> {
    let covers = |node: NodeId| {
        let span = tree.node(node).span;
        span.start <= offset && offset < span.end
    };
    let mentions = names.mentions(tree);
    let Some(mention) = mentions.iter().find(|mention| covers(mention.node)) else {
        return Vec::new();
    };
    let binding = names.binding(mention.binding);
    let role = crate::render::names::role(mention);
    let place = binding.span.map(|span| tree.source().position(span.start));
    let mut text = match (place, binding.home) {
        (_, _) if mention.used.is_none() => format!("{} is bound here", quote(&binding.name)),
        (Some(place), _) => format!("{role} {}, bound at {place}", quote(&binding.name)),
        (None, Home::BuiltIn(_)) => {
            format!("{role} {}, which is built in", quote(&binding.name))
        }
        (None, _) => format!("{role} {}, bound before", quote(&binding.name)),
    };
    if let Some(used) = mention.used.filter(|_| place.is_some()) {
        text += &format!(", scopes out: {}", used.scopes_out);
    }
    for (is, word) in [(binding.fixed, "fixed"), (binding.dynamic, "dynamic")] {
        if is {
            text += &format!(", {word}");
        }
    }
    let kept = language.places(tree, names).of(mention.binding);
    let mut facts = vec![Fact {
        what: "name",
        text,
        data: json!({
            "name": binding.name, "role": role, "fixed": binding.fixed,
            "dynamic": binding.dynamic,
            "scopesOut": mention.used.map(|used| used.scopes_out),
            "bound": binding.span.map(|span| place_json(tree.source(), span)),
        }),
    }];
    if let Some(kept) = kept {
        facts.push(Fact {
            what: "slot",
            text: format!(
                "{} of {}{}",
                kept.slot,
                match kept.function {
                    0 => "the program".to_owned(),
                    number => format!("function {number}"),
                },
                if kept.captured {
                    ", captured by a function inside"
                } else {
                    ""
                }
            ),
            data: json!({
                "slot": kept.slot, "function": kept.function, "captured": kept.captured,
            }),
        });
    }
    facts
}

/// The meaning of the innermost form at the place, as the definition has it.
fn meaning_fact(language: &Language, tree: &Tree, offset: u32) -> Option<Fact> {
    let definition = language.definition();
    let node = tree
        .path(offset)
        .into_iter()
        .rev()
        .find_map(|step| tree.form(step.node))?;
    let form = &definition.forms[node];
    let Some(means) = &*form.means else {
        return Some(Fact {
            what: "means",
            text: format!("form {} has no meaning yet", quote(&form.name.text)),
            data: Value::Null,
        });
    };
    let place = definition.source.position(means.span.start);
    let text = definition.source.slice(means.span);
    Some(Fact {
        what: "means",
        text: format!(
            "{text}\n{}",
            paint(QUIET, format_args!("{}:{place}", definition.source.name()))
        ),
        data: json!({ "text": text, "place": place_json(&definition.source, means.span) }),
    })
}

fn first_line(text: &str) -> String {
    let mut lines = text.lines();
    let first = lines.next().unwrap_or_default();
    match lines.next() {
        Some(_) => format!("{first} …"),
        None => first.to_owned(),
    }
}

fn place_json(source: &SourceText, span: Span) -> Value {
    let position = source.position(span.start);
    json!({
        "file": source.name(), "line": position.line, "column": position.column,
        "start": span.start, "end": span.end,
    })
}
