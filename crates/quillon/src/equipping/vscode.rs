//! A package for Visual Studio Code: colours in the JSON form of regular expressions that many editors
//! read, brackets, comments, snippets, and a client that starts the server.

use quillon_core::editing::{Dialect, Looks, Piece, Role, Rule, escaped, one_of};
use serde_json::{Map, Value, json};

use super::{About, File, STEP, notation};

pub fn files(all: &[About<'_>]) -> Vec<File> {
    let pretty = |value: &Value| format!("{value:#}\n");
    let Some(main) = all.first() else {
        return Vec::new();
    };
    let mut files = vec![
        File::new("package.json", pretty(&manifest(main, all))),
        File::new("extension.js", client(main, all)),
        File::new("README.md", readme(main)),
        File::new(
            "LICENSE",
            format!(
                "Made from the definition of {}; what may be done with it, the definition's author says.\n",
                main.name
            ),
        ),
        File::new(".vscodeignore", ".gitignore\n"),
    ];
    for about in all {
        files.extend([
            File::new(configured(about), pretty(&configuration(about))),
            File::new(coloured(about), pretty(&colours(about))),
            File::new(abbreviated(about), pretty(&snippets(about))),
        ]);
    }
    files.push(File::new(
        "languages/quillon.json",
        pretty(&notation::configuration()),
    ));
    files.push(File::new(
        "syntaxes/quillon.tmLanguage.json",
        pretty(&notation::colours()),
    ));
    files
}

/// The file with what the editor has to know of a language.
fn configured(about: &About<'_>) -> String {
    format!("languages/{}.json", about.id)
}

/// The file with the colours of a language.
fn coloured(about: &About<'_>) -> String {
    format!("syntaxes/{}.tmLanguage.json", about.id)
}

/// The file with the snippets of a language.
fn abbreviated(about: &About<'_>) -> String {
    format!("snippets/{}.json", about.id)
}

fn manifest(main: &About<'_>, all: &[About<'_>]) -> Value {
    let id = &main.id;
    let of_each = |made: &dyn Fn(&About<'_>) -> Value, more: Option<Value>| -> Vec<Value> {
        all.iter().map(made).chain(more).collect()
    };
    let own = notation::ID;
    let ids = all.iter().map(|about| about.id.as_str()).chain([own]);
    let indented: Map<String, Value> = ids
        .map(|id| {
            let steps = json!({ "editor.tabSize": STEP, "editor.insertSpaces": true });
            (format!("[{id}]"), steps)
        })
        .collect();
    json!({
        "name": id,
        "displayName": main.name,
        "description": format!("The language {}: colours, and all that its definition knows", main.name),
        "version": "0.1.0",
        "publisher": "local",
        "license": "SEE LICENSE IN LICENSE",
        "repository": { "type": "git", "url": "." },
        "engines": { "vscode": "^1.75.0" },
        "categories": ["Programming Languages"],
        "main": "./extension.js",
        "activationEvents": of_each(
            &|about| json!(format!("onLanguage:{}", about.id)),
            Some(json!(format!("onLanguage:{own}"))),
        ),
        "contributes": {
            "languages": of_each(&|about| json!({
                "id": about.id,
                "aliases": [about.name],
                "extensions": about.extensions,
                "configuration": format!("./{}", configured(about)),
            }), Some(json!({
                "id": own,
                "aliases": ["Quillon"],
                "extensions": [".quillon", ".cases"],
                "configuration": "./languages/quillon.json",
            }))),
            "grammars": of_each(&|about| json!({
                "language": about.id,
                "scopeName": format!("source.{}", about.id),
                "path": format!("./{}", coloured(about)),
            }), Some(json!({
                "language": own,
                "scopeName": format!("source.{own}"),
                "path": "./syntaxes/quillon.tmLanguage.json",
            }))),
            "snippets": of_each(&|about| json!({
                "language": about.id,
                "path": format!("./{}", abbreviated(about)),
            }), None),
            "configurationDefaults": indented,
            "breakpoints": of_each(
                &|about| json!({ "language": about.id }),
                Some(json!({ "language": own })),
            ),
            "debuggers": [debugger(main, all)],
            "configuration": {
                "title": main.name,
                "properties": {
                    format!("{id}.server"): {
                        "type": "string",
                        "default": "quillon",
                        "description": "The program that answers the editor, as `quillon editor`",
                    },
                },
            },
        },
        "dependencies": { "vscode-languageclient": "^8.1.0" },
    })
}

/// How runs are walked through.
fn debugger(main: &About<'_>, all: &[About<'_>]) -> Value {
    let languages: Vec<&str> = all.iter().map(|about| about.id.as_str()).collect();
    let launch = json!({
        "type": main.id,
        "request": "launch",
        "name": format!("Walk through a program in {}", main.name),
        "program": "${file}",
        "stopOnEntry": false,
    });
    json!({
        "type": main.id,
        "label": main.name,
        "languages": languages,
        "initialConfigurations": [launch],
        "configurationAttributes": {
            "launch": {
                "required": ["program"],
                "properties": {
                    "program": { "type": "string", "default": "${file}", "description": "The program's file" },
                    "definition": { "type": "string", "description": "The definition; found by the program's extension without it" },
                    "stopOnEntry": { "type": "boolean", "default": false, "description": "Whether the run stands still at its beginning" },
                    "meanings": { "type": "boolean", "default": false, "description": "Whether steps go through what the definition says of each form" },
                    "reduction": { "type": ["boolean", "integer"], "default": false, "description": "Whether to walk through the steps of a reduction instead of a run, or through how many at most" },
                    "args": { "type": "array", "items": { "type": "string" }, "description": "What the program is given as arguments" },
                    "input": { "type": "string", "description": "What the program reads" },
                    "seed": { "type": "integer", "description": "The course that chance takes" },
                },
            },
        },
    })
}

fn configuration(about: &About<'_>) -> Value {
    let brackets: Vec<[&str; 2]> = about
        .brackets()
        .iter()
        .map(|(open, close)| [*open, *close])
        .collect();
    let mut pairs: Vec<Value> = about
        .brackets()
        .iter()
        .map(|(open, close)| json!({ "open": open, "close": close }))
        .collect();
    let quotes = about.quotes().into_iter();
    pairs.extend(
        quotes
            .map(|quote| json!({ "open": quote, "close": quote, "notIn": ["string", "comment"] })),
    );
    let mut comments = serde_json::Map::new();
    if let Some(line) = &about.line_comment {
        comments.insert("lineComment".to_owned(), json!(line));
    }
    if let Some((open, close)) = &about.block_comment {
        comments.insert("blockComment".to_owned(), json!([open, close]));
    }
    json!({
        "comments": comments,
        "brackets": brackets,
        "autoClosingPairs": pairs,
        "surroundingPairs": pairs,
    })
}

fn colours(about: &About<'_>) -> Value {
    let id = &about.id;
    let rules = about.rules(Dialect::Usual);
    let numbered = rules.iter().enumerate();
    let patterns =
        numbered.filter_map(|(number, rule)| Some((number, rule, pattern(rule, number, id)?)));
    let patterns: Vec<(usize, &Rule, Value)> = patterns.collect();
    let nesting = patterns
        .iter()
        .filter(|(_, rule, _)| matches!(rule.looks, Looks::Between { nests: true, .. }));
    let mut repository: serde_json::Map<String, Value> = nesting
        .map(|(number, _, pattern)| (nested(*number), pattern.clone()))
        .collect();
    for (number, rule, _) in &patterns {
        if let Looks::Between {
            hole: Some((open, close)),
            ..
        } = &rule.looks
        {
            let [open, close] = [open, close].map(|text| escaped(text, Dialect::Usual));
            let inside =
                json!([{ "include": format!("#{}", bracketed(*number)) }, { "include": "$self" }]);
            let pair = json!({ "begin": open, "end": close, "patterns": inside });
            let mut hole = pair.clone();
            hole["contentName"] = json!(format!("meta.embedded.line.{id}"));
            repository.insert(holed(*number), hole);
            repository.insert(bracketed(*number), pair);
        }
    }
    let patterns: Vec<Value> = patterns
        .into_iter()
        .map(|(_, _, pattern)| pattern)
        .collect();
    json!({
        "name": about.name,
        "scopeName": format!("source.{id}"),
        "patterns": patterns,
        "repository": repository,
    })
}

/// What a theme knows tokens of a role by.
fn scope(role: Option<Role>, looks: &Looks) -> &'static str {
    match (role, looks) {
        (Some(Role::Comment), Looks::Line(_)) => "comment.line",
        (Some(Role::Comment), _) => "comment.block",
        (Some(Role::Text), _) => "string.quoted",
        (Some(Role::Number), _) => "constant.numeric",
        (Some(Role::Keyword), _) => "keyword.control",
        (Some(Role::Operator), _) => "keyword.operator",
        (Some(Role::Kind | Role::Name { .. }) | None, _) => "variable.other",
    }
}

/// What a rule whose tokens nest is called, so that it can have itself inside.
fn nested(number: usize) -> String {
    format!("nested{number}")
}

/// What the holes of a rule's tokens are called.
fn holed(number: usize) -> String {
    format!("hole{number}")
}

/// What is called what stands in a hole between the same signs.
fn bracketed(number: usize) -> String {
    format!("bracketed{number}")
}

fn pattern(rule: &Rule, number: usize, id: &str) -> Option<Value> {
    let name = format!("{}.{id}", scope(rule.role, &rule.looks));
    let usual = |text: &String| escaped(text, Dialect::Usual);
    Some(match &rule.looks {
        Looks::Words(words) => {
            let words = one_of(words, Dialect::Usual);
            json!({ "name": name, "match": format!(r"(?<![\p{{L}}\d_])(?:{words})(?![\p{{L}}\d_])") })
        }
        Looks::Signs(signs) => json!({ "name": name, "match": one_of(signs, Dialect::Usual) }),
        Looks::Fits(regular) if regular.is_empty() => return None,
        Looks::Fits(regular) => json!({ "name": name, "match": regular }),
        Looks::Line(open) => json!({ "name": name, "match": format!("{}.*$", usual(open)) }),
        Looks::Between {
            open,
            close,
            escapes,
            nests,
            hole,
        } => {
            let mut inner = Vec::new();
            if *escapes {
                let escape = format!("constant.character.escape.{id}");
                inner.push(json!({ "name": escape, "match": r"\\." }));
            }
            if *nests {
                inner.push(json!({ "include": format!("#{}", nested(number)) }));
            }
            if hole.is_some() {
                inner.push(json!({ "include": format!("#{}", holed(number)) }));
            }
            json!({ "name": name, "begin": usual(open), "end": usual(close), "patterns": inner })
        }
    })
}

fn snippets(about: &About<'_>) -> Value {
    let mut all = serde_json::Map::new();
    for (form, pieces) in about.snippets() {
        let prefix = match pieces.first() {
            Some(Piece::Text(text)) => text.split_whitespace().next().unwrap_or(&form).to_owned(),
            Some(Piece::Hole(_)) | None => form.clone(),
        };
        all.insert(
            form,
            json!({ "prefix": prefix, "body": quillon_core::editing::snippet(&pieces) }),
        );
    }
    Value::Object(all)
}

fn client(main: &About<'_>, all: &[About<'_>]) -> String {
    let (id, name) = (&main.id, &main.name);
    let documents: Vec<String> = all
        .iter()
        .map(|about| format!("{{ language: \"{}\" }}", about.id))
        .collect();
    format!(
        r#"// Starts the server and lets it answer, and what walks through runs.
const {{ debug, workspace, DebugAdapterExecutable }} = require("vscode");
const {{ LanguageClient }} = require("vscode-languageclient/node");

let client;

exports.activate = function (context) {{
  const command = workspace.getConfiguration("{id}").get("server") || "quillon";
  context.subscriptions.push(debug.registerDebugAdapterDescriptorFactory("{id}", {{
    createDebugAdapterDescriptor: () => new DebugAdapterExecutable(command, ["debugger"]),
  }}));
  const server = {{ command, args: ["editor"] }};
  const documents = [{documents}, {{ language: "quillon" }}];
  const watched = workspace.createFileSystemWatcher("**/*.quillon");
  client = new LanguageClient("{id}", "{name}", server, {{
    documentSelector: documents,
    synchronize: {{ fileEvents: watched }},
  }});
  return client.start();
}};

exports.deactivate = function () {{
  return client && client.stop();
}};
"#,
        documents = documents.join(", ")
    )
}

fn readme(about: &About<'_>) -> String {
    format!(
        "# {name} for Visual Studio Code

Colours, brackets, comments, snippets, a client for the server of {name}, and walks through runs.

To try it: `npm install` in this folder, and copy the folder to `~/.vscode/extensions/{id}`.
To pack it: `npm install`, then `npx @vscode/vsce package`; `code --install-extension {id}-0.1.0.vsix` installs it.

It starts `quillon editor` and `quillon debugger`: `quillon` has to be on the path, or the setting `{id}.server` names it.
",
        name = about.name,
        id = about.id
    )
}
