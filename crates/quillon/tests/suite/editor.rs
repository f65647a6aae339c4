//! The server for editors, driven over pipes with the messages that a client sends.

use std::path::Path;

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::client::{Client, place, text_of};

fn uri_of(folder: &Folder, file: &str) -> String {
    let path = folder.path().canonicalize().expect("a folder").join(file);
    format!("file://{}", path.display())
}

/// A folder with the demo, and a program in it that is open in a client.
fn opened(program: &str) -> (Folder, Client, String) {
    let folder = Folder::with_demo();
    let uri = uri_of(&folder, "programs/new.tow");
    let mut client = Client::start(folder.path());
    client.open(&uri, program);
    (folder, client, uri)
}

fn labels(completion: &Value) -> Vec<String> {
    let items = completion.as_array().cloned().unwrap_or_default();
    let mut labels: Vec<String> = items.iter().map(|item| text_of(&item["label"])).collect();
    labels.dedup();
    labels
}

const PROGRAM: &str = "let toll be 4\nway due(tons) { answer tons * toll }\nsay due(3)\n";

#[test]
fn its_help_says_how_an_editor_is_told() {
    let ran = Folder::new().quillon(&["editor", "--help"]);
    ran.ends_with(0).shows("cmd = { 'quillon', 'editor' }");
}

#[test]
fn a_program_is_known_at_every_place() {
    let (_folder, mut client, uri) = opened(PROGRAM);
    assert_eq!(client.wrong(&uri), Vec::<String>::new());

    let hover = client.at("textDocument/hover", &uri, (2, 5));
    let shown = text_of(&hover["contents"]["value"]);
    assert!(
        shown.starts_with("function `due`") && shown.contains("bound in line 2"),
        "{shown}"
    );

    let bound = client.at("textDocument/definition", &uri, (1, 31));
    assert_eq!(
        bound["range"]["start"],
        json!({ "line": 0, "character": 4 })
    );

    let mut params = place(&uri, (0, 5));
    params["context"] = json!({ "includeDeclaration": false });
    let places = client.ask("textDocument/references", params);
    assert_eq!(places.as_array().map(Vec::len), Some(1));

    let highlights = client.at("textDocument/documentHighlight", &uri, (1, 9));
    let kinds: Vec<&Value> = highlights
        .as_array()
        .unwrap()
        .iter()
        .map(|one| &one["kind"])
        .collect();
    assert_eq!(kinds, [&json!(3), &json!(2)], "bound, then read");

    let document = json!({ "textDocument": { "uri": uri } });
    let symbols = client.ask("textDocument/documentSymbol", document.clone());
    let names: Vec<String> = symbols
        .as_array()
        .unwrap()
        .iter()
        .map(|one| text_of(&one["name"]))
        .collect();
    assert_eq!(names, ["toll", "due"]);

    let colours = client.ask("textDocument/semanticTokens/full", document);
    assert_eq!(
        colours["data"].as_array().unwrap()[..10],
        [0, 0, 3, 0, 0, 0, 4, 4, 5, 1].map(|n| json!(n))
    );

    let params =
        json!({ "textDocument": { "uri": uri }, "positions": [{ "line": 1, "character": 24 }] });
    let around = client.ask("textDocument/selectionRange", params);
    assert_eq!(
        around[0]["range"]["end"],
        json!({ "line": 1, "character": 27 })
    );
    assert_eq!(
        around[0]["parent"]["range"]["end"],
        json!({ "line": 1, "character": 34 })
    );
    client.end();
}

#[test]
fn a_name_is_exchanged_or_the_reason_is_told() {
    let (_folder, mut client, uri) = opened(PROGRAM);
    let mut params = place(&uri, (0, 5));
    params["newName"] = json!("rate");
    let edits = client.ask("textDocument/rename", params.clone());
    assert_eq!(edits["changes"][&uri].as_array().map(Vec::len), Some(2));
    params["newName"] = json!("tons");
    let refused = client.ask("textDocument/rename", params);
    let why = text_of(&refused["message"]);
    assert!(
        why.contains("`toll` in line 2 would mean something else"),
        "{why}"
    );
    let refused = client.at("textDocument/prepareRename", &uri, (0, 12));
    assert_eq!(refused["message"], "no name stands here");
    client.end();
}

#[test]
fn what_is_wrong_is_told_with_what_mends_it() {
    let (_folder, mut client, uri) = opened("let toll be 4\nsay tol\nlet spare be 2\n");
    let wrong = client.wrong(&uri);
    assert_eq!(
        wrong[0],
        "there is no binding called `tol`\ntry: did you mean `toll`?"
    );
    assert_eq!(
        wrong.last().map(String::as_str),
        Some("`spare` is never used")
    );
    let start = json!({ "line": 1, "character": 4 });
    let params = json!({
        "textDocument": { "uri": uri },
        "range": { "start": start, "end": start },
        "context": { "diagnostics": [] },
    });
    let actions = client.ask("textDocument/codeAction", params);
    assert_eq!(actions[0]["title"], "change to `toll`");
    // Or it is to be a name of its own.
    assert_eq!(actions[1]["title"], "bind it first: let tol be 0");
    let edit = &actions[1]["edit"]["changes"][&uri][0];
    assert_eq!(edit["newText"], "let tol be 0\n");
    assert_eq!(edit["range"]["start"], json!({ "line": 1, "character": 0 }));
    let edit = &actions[0]["edit"]["changes"][&uri][0];
    assert_eq!(edit["newText"], "toll");
    let change = json!([{ "range": edit["range"], "text": edit["newText"] }]);
    client.change(&uri, 2, change);
    assert_eq!(client.wrong(&uri), ["`spare` is never used"]);
    client.end();
}

#[test]
fn what_is_being_written_is_offered_from_what_can_stand_there() {
    let (_folder, mut client, uri) = opened(&format!("{PROGRAM}say due(to"));
    let offered = client.at("textDocument/completion", &uri, (3, 10));
    assert_eq!(labels(&offered), ["toll"]);
    let help = client.at("textDocument/signatureHelp", &uri, (3, 10));
    assert_eq!(help["signatures"][0]["label"], "due(tons)");
    assert_eq!(help["activeParameter"], 0);
    client.end();
}

#[test]
fn a_definition_is_told_of_with_its_examples() {
    let folder = Folder::with_demo();
    let path = folder.path().join("towpath.quillon");
    let text = std::fs::read_to_string(path).unwrap();
    let uri = uri_of(&folder, "towpath.quillon");
    let refresh = json!({ "workspace": { "inlayHint": { "refreshSupport": true } } });
    let mut client = Client::with(folder.path(), refresh);
    client.open(&uri, &text.replacen("gives 42", "gives 43", 1));
    assert_eq!(client.wrong(&uri), Vec::<String>::new());
    client.hear("workspace/inlayHint/refresh");
    let all =
        json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 9999, "character": 0 } });
    let hints = client.ask(
        "textDocument/inlayHint",
        json!({ "textDocument": { "uri": uri }, "range": all }),
    );
    let hints = hints.as_array().unwrap();
    let failed: Vec<String> = hints
        .iter()
        .map(|one| text_of(&one["label"]))
        .filter(|l| l != "passes")
        .collect();
    assert_eq!(failed, ["fails: got 42"]);
    assert!(hints.len() > 60);
    assert_eq!(
        client.wrong(&uri),
        ["value differs: expected 43\nwhy: got 42"]
    );
    let line = |start: &str| {
        text.lines()
            .position(|line| line.starts_with(start))
            .unwrap() as u32
    };
    let bound = client.at(
        "textDocument/definition",
        &uri,
        (line("form While") + 1, 26),
    );
    assert_eq!(
        bound["range"]["start"]["line"],
        json!(line("form Way in Expr")),
        "the first of its sort"
    );
    let symbols = client.ask(
        "textDocument/documentSymbol",
        json!({ "textDocument": { "uri": uri } }),
    );
    let forms = symbols
        .as_array()
        .unwrap()
        .iter()
        .filter(|one| one["kind"] == 5);
    assert!(forms.count() > 50);
    client.end();
}

#[test]
fn a_definition_changes_its_open_programs_and_a_broken_one_leaves_the_last() {
    let folder = Folder::with_demo();
    let text = std::fs::read_to_string(folder.path().join("towpath.quillon")).unwrap();
    let (program, definition) = (
        uri_of(&folder, "programs/new.tow"),
        uri_of(&folder, "towpath.quillon"),
    );
    let mut client = Client::start(folder.path());
    client.open(&program, "tell 1\n");
    assert!(client.wrong(&program)[0].contains("`tell`"));
    client.open(
        &definition,
        &text.replacen("\"say\" values", "\"tell\" values", 1),
    );
    while !client.wrong(&program).is_empty() {}
    client.change(
        &definition,
        2,
        json!([{ "text": text.replacen("form Say", "from Say", 1) }]),
    );
    let told = client.hear("window/showMessage");
    assert!(text_of(&told["message"]).ends_with("go on with the last version that had none"));
    assert_eq!(client.wrong(&program), Vec::<String>::new());
    client.end();
}

#[test]
fn nothing_that_is_sent_ends_the_server() {
    let folder = Folder::with_demo();
    let uri = uri_of(&folder, "programs/new.tow");
    let mut client = Client::start(folder.path());
    client.send_text("{\"jsonrpc\": \"2.0\", \"id\": 7, ");
    assert_eq!(
        client.answer_to(&Value::Null)["message"],
        "this is no message"
    );
    let half = format!(
        "{{\"jsonrpc\":\"2.0\",\"method\":\"textDocument/didOpen\",\"params\":{{\"textDocument\":{{\"uri\":\"{uri}\",\"languageId\":\"tow\",\"version\":1,\"text\":\"say \\\"\\ud83d\\\"\"}}}}}}"
    );
    client.send_text(&half);
    assert_eq!(client.wrong(&uri), Vec::<String>::new());
    let unknown = client.ask("textDocument/nonsense", json!({}));
    assert_eq!(unknown["code"], -32601);
    let garbled = client.ask("textDocument/hover", json!({ "textDocument": 3 }));
    assert_eq!(garbled["code"], -32602);
    for elsewhere in [
        "file:///nowhere/at/all.tow",
        "untitled:Untitled-1",
        "http://example/x.tow",
    ] {
        client.open(elsewhere, "say 1");
        client.at("textDocument/hover", elsewhere, (0, 1));
        client.tell(
            "textDocument/didClose",
            json!({ "textDocument": { "uri": elsewhere } }),
        );
    }
    // A request that is taken back before it comes up.
    client.change(
        &uri,
        2,
        json!([{ "text": PROGRAM.repeat(40).replace("let toll be 4", "") }]),
    );
    client.send(&json!({ "jsonrpc": "2.0", "id": "a", "method": "textDocument/documentSymbol", "params": { "textDocument": { "uri": uri } } }));
    client.send(&json!({ "jsonrpc": "2.0", "id": "b", "method": "textDocument/documentSymbol", "params": { "textDocument": { "uri": uri } } }));
    client.tell("$/cancelRequest", json!({ "id": "b" }));
    client.answer_to(&json!("a"));
    let taken_back = client.answer_to(&json!("b"));
    assert!(
        taken_back.is_array() || taken_back["code"] == -32800,
        "{taken_back}"
    );
    client.end();
}

/// Numbers that look random, the same in every run.
struct Chance(u64);

impl Chance {
    fn below(&mut self, most: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % most.max(1) as u64) as usize
    }
}

/// Random edits and requests, on texts of every language that comes along: each is answered.
#[test]
fn random_edits_and_requests_are_all_answered() {
    const STEPS: usize = 100_000;
    const ASKED: [&str; 17] = [
        "hover",
        "definition",
        "references",
        "documentHighlight",
        "prepareRename",
        "completion",
        "signatureHelp",
        "documentSymbol",
        "foldingRange",
        "selectionRange",
        "semanticTokens/full",
        "rename",
        "formatting",
        "rangeFormatting",
        "onTypeFormatting",
        "inlayHint",
        "codeLens",
    ];
    let languages = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let mut texts: Vec<(String, String)> = Vec::new();
    let mut folders = vec![languages.clone()];
    while let Some(folder) = folders.pop() {
        let mut entries: Vec<_> = std::fs::read_dir(folder)
            .unwrap()
            .map(|entry| entry.unwrap().path())
            .collect();
        entries.sort();
        for path in entries {
            if path.is_dir() {
                folders.push(path);
            } else if let Ok(text) = std::fs::read_to_string(&path)
                && path.extension().is_some_and(|extension| extension != "md")
                && text.len() < 6_000
            {
                texts.push((
                    format!("file://{}", path.canonicalize().unwrap().display()),
                    text,
                ));
            }
        }
    }
    let mut client = Client::start(&languages);
    for (uri, text) in &texts {
        client.open(uri, text);
    }
    let mut chance = Chance(0x5eed_0fca);
    let pieces = [
        "(", ")", "{", "}", "\"", "\n", " ", "let", "x", "1", "é", "😀", "\r\n", "-- ", ";", "\t",
    ];
    for step in 0..STEPS {
        let (uri, text) = &texts[chance.below(texts.len())];
        let lines = text.lines().count() + 2;
        let mut spot = || json!({ "line": chance.below(lines), "character": chance.below(60) });
        let (start, end) = (spot(), spot());
        if chance.below(3) == 0 {
            let mut piece = pieces[chance.below(pieces.len())].to_owned();
            // Mostly little changes: a text stays something for a while.
            let end = if chance.below(20) == 0 {
                end
            } else {
                start.clone()
            };
            if chance.below(50) == 0 {
                piece.clone_from(text);
                client.change(uri, step as i64, json!([{ "text": piece }]));
            } else {
                let range = json!({ "start": start, "end": end });
                client.change(uri, step as i64, json!([{ "range": range, "text": piece }]));
            }
        } else {
            let asked = ASKED[chance.below(ASKED.len())];
            let params = json!({
                "textDocument": { "uri": uri },
                "position": start,
                "positions": [start, end],
                "newName": "other",
                "range": { "start": start, "end": end },
                "ch": "\n",
                "options": { "tabSize": 4, "insertSpaces": false },
                "context": { "includeDeclaration": true },
            });
            client.ask(&format!("textDocument/{asked}"), params);
        }
        client.told.clear();
    }
    client.end();
}
