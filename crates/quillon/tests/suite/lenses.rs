//! What an editor shows above programs, cases and forms, and what comes of a click.

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::client::{Client, text_of};

const DEFINITION: &str = r#"language Sums
  reads ".sum"
tokens
  Blank  [ \n]+     ignored
  Whole  digit+     holds integer
precedence of Sum, loosest first
  left  Join
form Program
  written  sums:Sum* by ";"
  means    all sums
  example  `1 & 2; 3`   gives 3
form Number in Sum
  written  value:Whole
  means    value
form Join in Sum
  written  left:Sum "&" right:Sum
  means    left + right
form Shown in Sum
  written  "show" value:Sum
  means    output(value)
"#;

struct Opened {
    client: Client,
    folder: Folder,
    uri: String,
}

/// A definition, or a file beside it, open in a client that can do everything.
fn opened(file: &str, text: &str) -> Opened {
    let folder = Folder::new();
    folder.write("sums.quillon", DEFINITION);
    let capabilities = json!({ "workspace": {
        "applyEdit": true,
        "codeLens": { "refreshSupport": true },
        "inlayHint": { "refreshSupport": true },
    } });
    let mut client = Client::with(folder.path(), capabilities);
    let path = folder.path().canonicalize().unwrap().join(file);
    let uri = format!("file://{}", path.display());
    client.open(&uri, text);
    Opened {
        client,
        folder,
        uri,
    }
}

impl Opened {
    fn lenses(&mut self) -> Vec<Value> {
        let params = json!({ "textDocument": { "uri": self.uri } });
        let all = self.client.ask("textDocument/codeLens", params);
        all.as_array().cloned().unwrap_or_default()
    }

    fn titles(&mut self) -> Vec<String> {
        let all = self.lenses();
        all.iter()
            .map(|lens| text_of(&lens["command"]["title"]))
            .collect()
    }

    /// Clicks the first lens with a title.
    fn click(&mut self, title: &str) -> Value {
        let lenses = self.lenses();
        let lens = lenses.iter().find(|lens| lens["command"]["title"] == title);
        let command = &lens.unwrap_or_else(|| panic!("no {title}"))["command"];
        let params = json!({ "command": command["command"], "arguments": command["arguments"] });
        self.client.ask("workspace/executeCommand", params)
    }
}

#[test]
fn a_program_is_run_when_it_is_asked_for() {
    let mut opened = opened("new.sum", "show 4; 20 & 3");
    assert_eq!(opened.titles(), ["run this program"]);
    let came = opened.click("run this program");
    assert_eq!(came["value"], "23");
    assert_eq!(came["printed"], "4");
    assert_eq!(came["errors"], json!([]));
    let said = opened.client.hear("window/showMessage");
    assert!(
        text_of(&said["message"]).contains("printed 4, gave 23"),
        "{said}"
    );
    opened.client.hear("workspace/codeLens/refresh");
    assert_eq!(opened.titles(), ["run again: it printed 4, gave 23"]);
    let start = json!({ "line": 0, "character": 0 });
    let change = json!([{ "range": { "start": start, "end": start }, "text": "show;" }]);
    let uri = opened.uri.clone();
    opened.client.change(&uri, 2, change);
    assert_eq!(opened.titles(), ["run this program"]);
    let came = opened.click("run this program");
    assert_eq!(came["errors"].as_array().map(Vec::len), Some(1), "{came}");
    opened.client.end();
}

#[test]
fn a_case_is_run_when_it_is_asked_for() {
    let cases = "case sums\n  program `1 & 1`\n  gives 2\ncase wrong\n  program `5`\n  gives 6\n";
    let mut opened = opened("sums.cases", cases);
    assert_eq!(opened.titles(), ["run this case", "run this case"]);
    assert_eq!(opened.click("run this case")["verdict"], "passes");
    let lenses = opened.lenses();
    let arguments = &lenses[1]["command"]["arguments"];
    let params = json!({ "command": "quillon.case", "arguments": arguments });
    let came = opened.client.ask("workspace/executeCommand", params);
    assert_eq!(came["verdict"], "fails");
    assert_eq!(came["differences"][0]["got"], "5");
    let gone = json!({ "command": "quillon.case", "arguments": [opened.uri, 3] });
    let refused = opened.client.ask("workspace/executeCommand", gone);
    assert!(text_of(&refused["message"]).contains("no case begins there"));
    opened.client.end();
}

#[test]
fn a_form_without_an_example_gets_the_smallest() {
    let mut opened = opened("sums.quillon", DEFINITION);
    let title = "no example yet: add the smallest";
    let titles = opened.titles();
    assert_eq!(titles.iter().filter(|one| *one == title).count(), 3);
    let form = json!({ "command": "quillon.example", "arguments": [opened.uri, "Shown"] });
    let clause = opened.client.ask("workspace/executeCommand", form);
    let edit = opened.client.hear("workspace/applyEdit");
    let change = &edit["edit"]["changes"][&opened.uri][0];
    assert_eq!(change["range"]["start"]["line"], 19);
    let whole = format!("{}{}\n", DEFINITION.trim_end(), text_of(&change["newText"]));
    assert!(whole.contains("example `show "), "{clause}");
    opened.folder.write("sums.quillon", &whole);
    opened.folder.quillon(&["test"]).ends_with(0);
    let nothing = json!({ "command": "quillon.example", "arguments": [opened.uri, "Other"] });
    let refused = opened.client.ask("workspace/executeCommand", nothing);
    assert_eq!(refused["message"], "there is no such form");
    opened.client.end();
}

#[test]
fn texts_with_two_readings_are_found_while_one_writes() {
    let two = DEFINITION.replace("precedence of Sum, loosest first\n  left  Join\n", "");
    let mut opened = opened("sums.quillon", &two);
    let uri = opened.uri.clone();
    loop {
        let found = opened.client.wrong(&uri);
        if found.iter().any(|one| one.contains("two ways")) {
            break;
        }
    }
    let shown = opened.click("show both readings");
    assert!(text_of(&shown).contains("Join"), "{shown}");
    opened.client.end();
}

#[test]
fn a_form_and_a_field_are_renamed_in_their_cases_too() {
    let mut opened = opened("sums.quillon", DEFINITION);
    let cases = "case one\n  program `1 & 2`\n  tree Join(1, right: 2)\n  gives 3\n";
    opened.folder.write("cases/sums.cases", cases);
    let uri = opened.uri.clone();
    let line = |start: &str| {
        let mut lines = DEFINITION.lines();
        lines.position(|line| line.starts_with(start)).unwrap() as u32
    };
    let mut rename = |place: (u32, u32), name: &str| {
        let mut params = crate::common::client::place(&uri, place);
        params["newName"] = json!(name);
        opened.client.ask("textDocument/rename", params)["changes"].take()
    };
    let in_cases = |changes: &Value| -> Value {
        let files = changes.as_object().unwrap();
        assert_eq!(files.len(), 2);
        let mut files = files.iter();
        let found = files.find(|(uri, _)| uri.contains("sums.cases"));
        found.unwrap().1[0]["range"]["start"].clone()
    };
    let join = rename((line("form Join"), 6), "Both");
    assert_eq!(in_cases(&join), json!({ "line": 2, "character": 7 }));
    let right = rename((line("form Join") + 1, 25), "last");
    assert_eq!(in_cases(&right), json!({ "line": 2, "character": 15 }));
    let of_cases = uri.replace("sums.quillon", "cases/sums.cases");
    opened.client.open(&of_cases, cases);
    let bound = opened
        .client
        .at("textDocument/definition", &of_cases, (2, 8));
    assert_eq!(bound["uri"], uri);
    assert_eq!(bound["range"]["start"]["line"], line("form Join"));
    // An editor asks first whether there is a name at all.
    let client = &mut opened.client;
    let asked = client.at("textDocument/prepareRename", &uri, (line("form Join"), 6));
    assert_eq!(asked["start"]["character"], 5);
    let keyword = client.at("textDocument/prepareRename", &uri, (line("form Join"), 1));
    assert!(text_of(&keyword["message"]).contains("nothing that has a name"));
    let asked = client.at("textDocument/prepareRename", &of_cases, (2, 8));
    assert_eq!(asked["start"]["character"], 7);
    let mut params = crate::common::client::place(&of_cases, (2, 8));
    params["newName"] = json!("Both");
    let renamed = client.ask("textDocument/rename", params)["changes"].take();
    assert_eq!(renamed, join, "wherever it is begun");
    let hover = opened.client.at("textDocument/hover", &of_cases, (3, 3));
    assert!(text_of(&hover["contents"]["value"]).contains("the value is this one"));
    opened.client.end();
}
