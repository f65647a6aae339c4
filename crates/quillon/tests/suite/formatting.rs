//! Programs put in order by an editor.

use std::path::{Path, PathBuf};

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::client::{Client, text_of};

/// The programs of the bundled languages.
fn programs() -> Vec<PathBuf> {
    let languages = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let files = |folder: PathBuf| -> Vec<PathBuf> {
        let entries = std::fs::read_dir(folder).into_iter().flatten();
        entries.map(|entry| entry.unwrap().path()).collect()
    };
    let languages = languages.canonicalize().unwrap();
    let folders = files(languages).into_iter();
    folders
        .flat_map(|folder| files(folder.join("programs")))
        .collect()
}

/// A text with changes made, which are in lines and bytes.
fn changed(text: &str, edits: &Value) -> String {
    let starts: Vec<usize> = std::iter::once(0)
        .chain(text.match_indices('\n').map(|(at, _)| at + 1))
        .collect();
    let offset = |place: &Value| {
        let part = |name: &str| place[name].as_u64().unwrap() as usize;
        starts[part("line")] + part("character")
    };
    let mut out = text.to_owned();
    for edit in edits.as_array().unwrap().iter().rev() {
        let range = &edit["range"];
        let range = offset(&range["start"])..offset(&range["end"]);
        out.replace_range(range, &text_of(&edit["newText"]));
    }
    out
}

fn client(folder: &Path) -> Client {
    let bytes = json!({ "general": { "positionEncodings": ["utf-8"] } });
    Client::with(folder, bytes)
}

fn options(uri: &str) -> Value {
    json!({ "textDocument": { "uri": uri }, "options": { "tabSize": 2, "insertSpaces": true } })
}

#[test]
fn programs_get_their_lines_back_where_they_were() {
    let mut client = client(&std::env::temp_dir());
    let mut flattened = 0;
    for path in programs() {
        let uri = format!("file://{}", path.display());
        let text = std::fs::read_to_string(&path).unwrap();
        let flat: Vec<&str> = text.lines().map(str::trim).collect();
        client.open(&uri, &(flat.join("  \n") + "\n\n\n"));
        let edits = client.ask("textDocument/formatting", options(&uri));
        if edits.is_array() {
            let back = changed(&(flat.join("  \n") + "\n\n\n"), &edits);
            // What is set under each other by blanks within lines is another matter.
            let squeezed = |text: &str| -> Vec<String> {
                let lines = text.lines().map(|line| {
                    let inner = line.trim_start();
                    let words: Vec<&str> = inner.split_whitespace().collect();
                    " ".repeat(line.len() - inner.len()) + &words.join(" ")
                });
                lines.collect()
            };
            assert_eq!(squeezed(&back), squeezed(&text), "{}", path.display());
            flattened += 1;
        } else {
            // Where deeper lines are a part of the language there is nothing to be read.
            let why = text_of(&edits["message"]);
            assert!(why.contains("expected a deeper line"), "{uri}: {why}");
        }
        client.change(&uri, 2, json!([{ "text": text }]));
        let edits = client.ask("textDocument/formatting", options(&uri));
        let once = changed(&text, &edits);
        client.change(&uri, 3, json!([{ "text": once }]));
        let again = client.ask("textDocument/formatting", options(&uri));
        assert_eq!(again, json!([]), "{uri}");
    }
    assert!(flattened > 15);
    client.end();
}

#[test]
fn a_stretch_and_a_line_are_put_in_order_by_themselves() {
    let folder = Folder::with_demo();
    let uri = format!(
        "file://{}/new.tow",
        folder.path().canonicalize().unwrap().display()
    );
    let mut client = client(folder.path());
    let text = "when yes {\nsay 1\nsay 2\n}\n";
    client.open(&uri, text);
    let mut params = options(&uri);
    let place = |line: u32, character: u32| json!({ "line": line, "character": character });
    params["range"] = json!({ "start": place(2, 0), "end": place(2, 3) });
    let edits = client.ask("textDocument/rangeFormatting", params);
    assert_eq!(changed(text, &edits), "when yes {\nsay 1\n  say 2\n}\n");

    let begun = "when yes {\n  each boat in [1] {\n\n";
    client.change(&uri, 2, json!([{ "text": begun }]));
    let mut params = options(&uri);
    params["position"] = place(2, 0);
    params["ch"] = json!("\n");
    let edits = client.ask("textDocument/onTypeFormatting", params.clone());
    assert_eq!(edits[0]["newText"], "    ");
    client.change(
        &uri,
        3,
        json!([{ "text": "when yes {\n  each boat in [1] {\n    }\n" }]),
    );
    params["position"] = place(2, 5);
    params["ch"] = json!("}");
    let edits = client.ask("textDocument/onTypeFormatting", params);
    assert_eq!(edits[0]["newText"], "  ");
    client.end();
}

#[test]
fn definitions_and_case_files_are_put_in_order() {
    let folder = Folder::with_demo();
    let mut client = client(folder.path());
    let order = |client: &mut Client, name: &str, text: &str| {
        let path = folder.path().canonicalize().unwrap().join(name);
        let uri = format!("file://{}", path.display());
        client.open(&uri, text);
        let edits = client.ask("textDocument/formatting", options(&uri));
        if edits.is_array() {
            changed(text, &edits)
        } else {
            text_of(&edits["message"])
        }
    };
    let definition = "language   Sill\n reads \".sill\"\n\n\n starts Gate\ntokens\n Blank [ ]+ ignored\n Whole digit+  holds integer\n";
    assert_eq!(
        order(&mut client, "sill.quillon", definition),
        "language Sill\n  reads   \".sill\"\n\n  starts  Gate\n\ntokens\n  Blank  [ ]+    ignored\n  Whole  digit+  holds integer\n"
    );
    let cases = "cases of gates\n `1` gives 1\n `1 + 2`  gives 3\n";
    assert_eq!(
        order(&mut client, "gates.cases", cases),
        "cases of gates\n  `1`       gives 1\n  `1 + 2`   gives 3\n"
    );
    // A comment that touches the word before it.
    let touching = "cases of é😀\n `1`   gives 1-- é\n";
    assert_eq!(
        order(&mut client, "touching.cases", touching),
        "cases of é😀\n  `1`   gives 1  -- é\n"
    );
    let wrong = "language Sill\n  reads \".sill\n";
    let why = order(&mut client, "wrong.quillon", wrong);
    assert_eq!(
        why,
        "the text is wrong in line 2: this quoted text is never closed"
    );
    client.end();
}

#[test]
fn lines_of_a_definition_are_set_in_as_they_are_typed() {
    let folder = Folder::with_demo();
    let mut client = client(folder.path());
    let path = folder.path().canonicalize().unwrap().join("sill.quillon");
    let uri = format!("file://{}", path.display());
    let head = "form Gate\n  written  name:Name\n";
    let typed = |client: &mut Client, text: &str, at: (u32, u32), sign: &str| {
        client.open(&uri, text);
        let mut params = options(&uri);
        params["position"] = json!({ "line": at.0, "character": at.1 });
        params["ch"] = json!(sign);
        let edits = client.ask("textDocument/onTypeFormatting", params);
        changed(text, &edits)
    };
    assert_eq!(
        typed(&mut client, "form Gate\n", (1, 0), "\n"),
        "form Gate\n  "
    );
    assert_eq!(
        typed(
            &mut client,
            &format!("{head}  means    output(\n"),
            (3, 0),
            "\n"
        ),
        format!("{head}  means    output(\n{}", " ".repeat(13))
    );
    assert_eq!(
        typed(
            &mut client,
            &format!("{head}  means    output(\n    1\n    )\n"),
            (4, 5),
            ")"
        ),
        format!("{head}  means    output(\n    1\n{})\n", " ".repeat(11)),
        "the line that is typed, and no other"
    );
    let help = client.at("textDocument/signatureHelp", &uri, (3, 5));
    assert_eq!(help["signatures"][0]["label"], "output(value)");
    assert_eq!(help["activeParameter"], 0);
    client.end();
}
