//! A reference of a language as one page that needs nothing but itself.

use quillon_core::definition::Definition;
use quillon_core::reference::{Described, Reference, Shown, Sort};

use super::anchor;
use crate::diagram;
use crate::xml::escaped;

/// How the page looks: in light and in dark, on narrow screens and on paper.
const STYLE: &str = include_str!("page.css");

/// Finds entries by word, and is not needed for anything else.
const SCRIPT: &str = include_str!("page.js");

/// The page.
pub fn page(definition: &Definition, reference: &Reference) -> String {
    let name = escaped(&reference.name);
    let mut out = format!(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
         <meta name=\"color-scheme\" content=\"light dark\">\n<title>{name}: reference</title>\n\
         <style>\n{STYLE}</style>\n</head>\n<body>\n"
    );
    out.push_str(&contents(reference));
    out.push_str(&format!("<main>\n<h1>{name}</h1>\n"));
    out.push_str(&beginning(reference));
    out.push_str(&words(reference));
    out.push_str("<section id=\"forms\">\n<h2>Forms</h2>\n");
    out.push_str(LEGEND);
    for sort in &reference.sorts {
        out.push_str(&of_sort(definition, reference, sort));
    }
    out.push_str("</section>\n");
    out.push_str(&operators(reference));
    out.push_str(&built_in(reference));
    out.push_str(&errors(reference));
    out.push_str(&index(reference));
    out.push_str(&format!(
        "</main>\n<script>\n{SCRIPT}</script>\n</body>\n</html>\n"
    ));
    out
}

const LEGEND: &str = "<p>Each form has a diagram: read it from the left to the right. Boxes with round ends are \
     texts as they are written, soft ones are words, square ones are other forms and lead to them; \
     above a box stands what it is called in the text below.</p>\n";

/// The parts of the page: a name, and whether there is anything in it.
fn parts(reference: &Reference) -> Vec<(&'static str, &'static str)> {
    let all = [
        ("words", "Words", !reference.tokens.is_empty()),
        ("forms", "Forms", true),
        ("operators", "Operators", !reference.operators.is_empty()),
        ("built-in", "Built in", !reference.built_in.is_empty()),
        ("errors", "Errors", !reference.errors.is_empty()),
        ("index", "Index", true),
    ];
    let own = all.into_iter().filter(|(.., is_there)| *is_there);
    own.map(|(id, title, _)| (id, title)).collect()
}

/// The list beside the page.
fn contents(reference: &Reference) -> String {
    let mut out = format!(
        "<nav aria-label=\"Contents\">\n<p class=\"title\"><a href=\"#\">{}</a></p>\n\
         <label class=\"search\" hidden>Search <input type=\"search\" id=\"search\" autocomplete=\"off\"></label>\n<ul>\n",
        escaped(&reference.name)
    );
    for (id, title) in parts(reference) {
        out.push_str(&format!("<li><a href=\"#{id}\">{title}</a>"));
        let inner: Vec<(String, &str)> = match id {
            "forms" => forms(reference)
                .map(|form| (anchor(reference, &form.name), form.name.as_str()))
                .collect(),
            "built-in" => reference
                .built_in
                .iter()
                .map(|one| (format!("built-in-{}", one.name), one.name.as_str()))
                .collect(),
            _ => Vec::new(),
        };
        if !inner.is_empty() {
            out.push_str("\n<ul>\n");
            for (anchor, name) in inner {
                out.push_str(&format!(
                    "<li class=\"entry\"><a href=\"#{}\">{}</a></li>\n",
                    escaped(&anchor),
                    escaped(name)
                ));
            }
            out.push_str("</ul>\n");
        }
        out.push_str("</li>\n");
    }
    out.push_str("</ul>\n</nav>\n");
    out
}

fn forms(reference: &Reference) -> impl Iterator<Item = &Described> {
    reference.sorts.iter().flat_map(|sort| &sort.forms)
}

fn beginning(reference: &Reference) -> String {
    let mut out = paragraph("about", &reference.about);
    if !reference.extensions.is_empty() {
        let known: Vec<String> = reference.extensions.iter().map(|one| code(one)).collect();
        out.push_str(&format!(
            "<p>The names of its programs end in {}.</p>\n",
            known.join(" or ")
        ));
    }
    if let Some(first) = &reference.first {
        out.push_str("<h2 id=\"first\">A first program</h2>\n");
        out.push_str(&format!(
            "<pre class=\"program\">{}</pre>\n",
            escaped(&first.program)
        ));
        if !first.output.is_empty() {
            out.push_str(&format!(
                "<p>It prints:</p>\n<pre class=\"output\">{}</pre>\n",
                escaped(first.output.trim_end())
            ));
        }
    }
    out
}

fn words(reference: &Reference) -> String {
    if reference.tokens.is_empty() {
        return String::new();
    }
    let rows: Vec<[String; 3]> = reference
        .tokens
        .iter()
        .map(|token| {
            let id = escaped(&token.name);
            [
                format!("<span id=\"word-{id}\">{id}</span>"),
                code(&token.pattern),
                escaped(&token.meaning),
            ]
        })
        .collect();
    format!(
        "<section id=\"words\">\n<h2>Words</h2>\n<p>What the texts of the language are made up of, beside the \
         words and signs that its forms are written with.</p>\n{}</section>\n",
        table(["Word", "Looks like", "Is"], &rows)
    )
}

fn of_sort(definition: &Definition, reference: &Reference, sort: &Sort) -> String {
    let id = escaped(&sort.name);
    let mut out = format!("<section>\n<h3 id=\"{id}\" class=\"sort\">{id}</h3>\n");
    if sort.is_program {
        out.push_str("<p>A whole program.</p>\n");
    }
    if !sort.stands_in.is_empty() {
        let links: Vec<String> = sort
            .stands_in
            .iter()
            .map(|form| link(reference, form))
            .collect();
        out.push_str(&format!(
            "<p class=\"in\">Stands in {}.</p>\n",
            links.join(", ")
        ));
    }
    for form in &sort.forms {
        out.push_str(&of_form(definition, reference, form));
    }
    out.push_str("</section>\n");
    out
}

fn of_form(definition: &Definition, reference: &Reference, form: &Described) -> String {
    let name = escaped(&form.name);
    let anchor = escaped(&anchor(reference, &form.name));
    let mut out = format!("<article id=\"{anchor}\">\n<h4>{name}</h4>\n");
    out.push_str(&paragraph("remark", &form.remark));
    if let Some(form) = definition.form(&form.name) {
        out.push_str(&format!(
            "<div class=\"diagram\" role=\"img\" aria-label=\"How {name} is written\">{}</div>\n",
            diagram::of_form(definition, form)
        ));
    }
    out.push_str(&format!(
        "<pre class=\"written\">{}</pre>\n",
        escaped(&form.written)
    ));
    let facts: Vec<String> = form.names.iter().map(|fact| with_code(fact)).collect();
    let types = form.types.iter();
    let types = types.map(|types| format!("Type: {}", code(types)));
    let facts: Vec<String> = facts.into_iter().chain(types).collect();
    if !facts.is_empty() {
        out.push_str(&format!(
            "<ul class=\"facts\"><li>{}</li></ul>\n",
            facts.join("</li>\n<li>")
        ));
    }
    if !form.examples.is_empty() {
        let rows: Vec<String> = form.examples.iter().map(example).collect();
        out.push_str(&format!(
            "<div class=\"examples\">\n{}</div>\n",
            rows.join("")
        ));
    }
    out.push_str("</article>\n");
    out
}

fn example(one: &Shown) -> String {
    let before: Vec<String> = one
        .before
        .iter()
        .map(|text| format!("<pre class=\"before\">{}</pre>\n", escaped(text)))
        .collect();
    let gives: Vec<String> = one.gives.iter().map(|text| escaped(text)).collect();
    format!(
        "<div class=\"example\">{}<pre class=\"program\">{}</pre>\n<p class=\"gives\">{}</p></div>\n",
        before.join(""),
        escaped(one.program.trim_end()),
        gives.join("<br>")
    )
}

fn operators(reference: &Reference) -> String {
    if reference.operators.is_empty() {
        return String::new();
    }
    let mut out = "<section id=\"operators\">\n<h2>Operators</h2>\n<p>Those above hold their operands tighter than \
         those below.</p>\n"
        .to_owned();
    for table_of in &reference.operators {
        let rows: Vec<[String; 3]> = table_of
            .levels
            .iter()
            .map(|(how, forms)| {
                let each = |of: &dyn Fn(&(String, String)) -> String| {
                    forms.iter().map(of).collect::<Vec<_>>().join("<br>")
                };
                [
                    each(&|(name, _)| link(reference, name)),
                    each(&|(_, written)| code(written)),
                    escaped(how),
                ]
            })
            .collect();
        out.push_str(&format!("<h3>{}</h3>\n", escaped(&table_of.sort)));
        out.push_str(&table(["Form", "Written", "Groups"], &rows));
    }
    out + "</section>\n"
}

fn built_in(reference: &Reference) -> String {
    if reference.built_in.is_empty() {
        return String::new();
    }
    let entries: Vec<String> = reference
        .built_in
        .iter()
        .map(|one| {
            let types = if one.types.is_empty() {
                String::new()
            } else {
                format!("<p class=\"type\">Type: {}</p>", code(&one.types))
            };
            format!(
                "<dt id=\"built-in-{}\">{}</dt>\n<dd>{}{types}</dd>\n",
                escaped(&one.name),
                code(&one.signature),
                with_code(&one.help)
            )
        })
        .collect();
    format!(
        "<section id=\"built-in\">\n<h2>Built in</h2>\n<p>Every program finds these.</p>\n<dl>\n{}</dl>\n</section>\n",
        entries.join("")
    )
}

fn errors(reference: &Reference) -> String {
    if reference.errors.is_empty() {
        return String::new();
    }
    let rows: Vec<[String; 2]> = reference
        .errors
        .iter()
        .map(|one| [escaped(&one.wording), escaped(&one.what)])
        .collect();
    format!(
        "<section id=\"errors\">\n<h2>Errors</h2>\n<p>What stands in braces is filled in. The place, and what can be \
         done, are said with each.</p>\n{}</section>\n",
        table(["Says", "When there is"], &rows)
    )
}

/// Every name with a link.
fn index(reference: &Reference) -> String {
    let mut all: Vec<(String, String)> = Vec::new();
    for sort in &reference.sorts {
        all.push((sort.name.clone(), sort.name.clone()));
        let own = sort.forms.iter().filter(|form| form.name != sort.name);
        all.extend(own.map(|form| (form.name.clone(), anchor(reference, &form.name))));
    }
    all.extend(
        reference
            .tokens
            .iter()
            .map(|one| (one.name.clone(), format!("word-{}", one.name))),
    );
    let built_in = reference.built_in.iter();
    all.extend(built_in.map(|one| (one.name.clone(), format!("built-in-{}", one.name))));
    all.sort_by_key(|(name, _)| name.to_lowercase());
    let items: Vec<String> = all
        .iter()
        .map(|(name, anchor)| {
            format!(
                "<li><a href=\"#{}\">{}</a></li>\n",
                escaped(anchor),
                escaped(name)
            )
        })
        .collect();
    format!(
        "<section id=\"index\">\n<h2>Index</h2>\n<ul class=\"index\">\n{}</ul>\n</section>\n",
        items.join("")
    )
}

fn link(reference: &Reference, form: &str) -> String {
    format!(
        "<a href=\"#{}\">{}</a>",
        escaped(&anchor(reference, form)),
        escaped(form)
    )
}

fn table<const N: usize>(heads: [&str; N], rows: &[[String; N]]) -> String {
    let row = |cells: &[String; N]| {
        let cells: Vec<String> = cells
            .iter()
            .map(|cell| format!("<td>{cell}</td>"))
            .collect();
        format!("<tr>{}</tr>\n", cells.join(""))
    };
    let heads: Vec<String> = heads
        .iter()
        .map(|head| format!("<th>{head}</th>"))
        .collect();
    let rows: Vec<String> = rows.iter().map(row).collect();
    format!(
        "<div class=\"table\"><table>\n<thead><tr>{}</tr></thead>\n<tbody>\n{}</tbody>\n</table></div>\n",
        heads.join(""),
        rows.join("")
    )
}

fn paragraph(class: &str, text: &str) -> String {
    if text.is_empty() {
        return String::new();
    }
    format!("<p class=\"{class}\">{}</p>\n", with_code(text))
}

fn code(text: &str) -> String {
    format!("<code>{}</code>", escaped(text))
}

/// A text in which what stands in backticks is code.
fn with_code(text: &str) -> String {
    let mut out = String::new();
    for (at, part) in text.split('`').enumerate() {
        out.push_str(&if at % 2 == 1 {
            code(part)
        } else {
            escaped(part)
        });
    }
    out
}
