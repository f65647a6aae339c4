//! A reference of a language in Markdown.

use quillon_core::definition::Definition;
use quillon_core::grammar::{self, Notation};
use quillon_core::reference::{Described, Reference};

/// The text.
pub fn markdown(definition: &Definition, reference: &Reference) -> String {
    let mut out = format!("# {}\n\n", reference.name);
    if !reference.about.is_empty() {
        out.push_str(&format!("{}\n\n", reference.about));
    }
    if !reference.extensions.is_empty() {
        let known: Vec<String> = reference.extensions.iter().map(|one| code(one)).collect();
        out.push_str(&format!(
            "The names of its programs end in {}.\n\n",
            known.join(" or ")
        ));
    }
    if let Some(first) = &reference.first {
        out.push_str(&format!("## A first program\n\n{}", block(&first.program)));
        if !first.output.is_empty() {
            out.push_str(&format!("It prints:\n\n{}", block(first.output.trim_end())));
        }
    }
    if !reference.tokens.is_empty() {
        out.push_str("## Words\n\n| word | looks like | is |\n|---|---|---|\n");
        for token in &reference.tokens {
            let row =
                [&token.name, &code(&token.pattern), &token.meaning].map(|cell| in_cell(cell));
            out.push_str(&format!("| {} |\n", row.join(" | ")));
        }
        out.push('\n');
    }
    out.push_str("## Forms\n\n");
    for sort in &reference.sorts {
        out.push_str(&format!("### {}\n\n", sort.name));
        if sort.is_program {
            out.push_str("A whole program.\n\n");
        }
        if !sort.stands_in.is_empty() {
            out.push_str(&format!("Stands in {}.\n\n", sort.stands_in.join(", ")));
        }
        for form in &sort.forms {
            out.push_str(&of_form(form));
        }
    }
    out.push_str(&rest(reference));
    out.push_str("## Grammar\n\nIn the EBNF of the W3C:\n\n");
    out.push_str(&block(grammar::text(definition, Notation::W3c).trim_end()));
    out.trim_end().to_owned() + "\n"
}

fn of_form(form: &Described) -> String {
    let mut out = format!("#### {}\n\n", form.name);
    if !form.remark.is_empty() {
        out.push_str(&format!("{}\n\n", form.remark));
    }
    out.push_str(&block(&form.written));
    let types = form
        .types
        .iter()
        .map(|types| format!("Type: {}", code(types)));
    let facts: Vec<String> = form.names.iter().cloned().chain(types).collect();
    for fact in &facts {
        out.push_str(&format!("- {fact}\n"));
    }
    if !facts.is_empty() {
        out.push('\n');
    }
    for example in &form.examples {
        let before = example.before.iter();
        let program: Vec<&str> = before
            .map(String::as_str)
            .chain([example.program.trim_end()])
            .collect();
        out.push_str(&block(&program.join("\n")));
        let gives: Vec<String> = example.gives.iter().map(|text| code(text)).collect();
        if !gives.is_empty() {
            out.push_str(&format!("{}\n\n", gives.join(", ")));
        }
    }
    out
}

/// Operators, what is built in, and errors.
fn rest(reference: &Reference) -> String {
    let mut out = String::new();
    if !reference.operators.is_empty() {
        out.push_str(
            "## Operators\n\nThose above hold their operands tighter than those below.\n\n",
        );
    }
    for table in &reference.operators {
        out.push_str(&format!(
            "### {}: operators\n\n| form | written | groups |\n|---|---|---|\n",
            table.sort
        ));
        for (how, forms) in &table.levels {
            let names: Vec<&str> = forms.iter().map(|(name, _)| name.as_str()).collect();
            let written: Vec<String> = forms.iter().map(|(_, written)| code(written)).collect();
            let row =
                [names.join(", "), written.join(", "), how.clone()].map(|cell| in_cell(&cell));
            out.push_str(&format!("| {} |\n", row.join(" | ")));
        }
        out.push('\n');
    }
    if !reference.built_in.is_empty() {
        out.push_str("## Built in\n\n| written | does | type |\n|---|---|---|\n");
        for one in &reference.built_in {
            let types = if one.types.is_empty() {
                String::new()
            } else {
                code(&one.types)
            };
            let row = [code(&one.signature), one.help.clone(), types].map(|cell| in_cell(&cell));
            out.push_str(&format!("| {} |\n", row.join(" | ")));
        }
        out.push('\n');
    }
    if !reference.errors.is_empty() {
        out.push_str("## Errors\n\n| says | when there is |\n|---|---|\n");
        for one in &reference.errors {
            let row = [&one.wording, &one.what].map(|cell| in_cell(cell));
            out.push_str(&format!("| {} |\n", row.join(" | ")));
        }
        out.push('\n');
    }
    out
}

/// A block of code, fenced by more backticks than it has in a row.
fn block(text: &str) -> String {
    let fence = "`".repeat(longest_run(text).max(2) + 1);
    format!("{fence}text\n{text}\n{fence}\n\n")
}

/// Code in a line.
fn code(text: &str) -> String {
    let fence = "`".repeat(longest_run(text) + 1);
    let gap = if text.starts_with('`') || text.ends_with('`') {
        " "
    } else {
        ""
    };
    format!("{fence}{gap}{text}{gap}{fence}")
}

/// How many backticks stand in a row at the most.
fn longest_run(text: &str) -> usize {
    let runs = text.split(|c| c != '`').map(str::len);
    runs.max().unwrap_or_default()
}

/// A text in a table.
fn in_cell(text: &str) -> String {
    text.replace('|', "\\|").replace('\n', " ")
}
