//! Editor packages.

use serde_json::Value;

use crate::common::Folder;

fn read(folder: &Folder, file: &str) -> String {
    let path = folder.path().join(file);
    std::fs::read_to_string(&path).unwrap_or_else(|error| panic!("{file}: {error}"))
}

#[test]
fn a_package_has_all_that_its_editor_needs() {
    let folder = Folder::with_demo();
    for (editor, files) in [
        (
            "vscode",
            &[
                "package.json",
                "extension.js",
                "languages/towpath.json",
                "snippets/towpath.json",
                "languages/quillon.json",
                "syntaxes/quillon.tmLanguage.json",
            ][..],
        ),
        (
            "neovim",
            &[
                "ftdetect/towpath.vim",
                "ftplugin/towpath.lua",
                "syntax/towpath.vim",
                "ftdetect/quillon.vim",
                "ftplugin/quillon.lua",
                "syntax/quillon.vim",
            ],
        ),
        (
            "vim",
            &[
                "ftdetect/towpath.vim",
                "ftplugin/towpath.vim",
                "syntax/towpath.vim",
            ],
        ),
        ("emacs", &["towpath-mode.el", "quillon-mode.el"]),
    ] {
        let ran = folder.quillon(&["equip", "--for", editor, "--into", editor]);
        ran.ends_with(0).shows("README.md` says how to install it");
        for file in files {
            let text = read(&folder, &format!("{editor}/{file}"));
            assert!(text.len() > 20, "{file}");
            if std::path::Path::new(file)
                .extension()
                .is_some_and(|one| one == "json")
            {
                let json: Value = serde_json::from_str(&text).expect(file);
                assert!(json.is_object());
            }
        }
    }
    let configuration = read(&folder, "vscode/languages/towpath.json");
    let configuration: Value = serde_json::from_str(&configuration).unwrap();
    assert_eq!(configuration["comments"]["lineComment"], "~");
    assert_eq!(configuration["brackets"].as_array().map(Vec::len), Some(3));
    let snippets: Value =
        serde_json::from_str(&read(&folder, "vscode/snippets/towpath.json")).unwrap();
    assert_eq!(snippets["While"]["body"], "while ${1:test} ${2:body}");
    let manifest: Value = serde_json::from_str(&read(&folder, "vscode/package.json")).unwrap();
    let debugger = &manifest["contributes"]["debuggers"][0];
    assert_eq!(debugger["type"], "towpath");
    let launch = &debugger["configurationAttributes"]["launch"]["properties"];
    assert_eq!(launch["meanings"]["type"], "boolean");
    assert_eq!(launch["args"]["type"], "array");
    assert_eq!(launch["reduction"]["type"][1], "integer");
    let breakpoints = manifest["contributes"]["breakpoints"].as_array().unwrap();
    assert!(breakpoints.iter().any(|one| one["language"] == "quillon"));
    assert_eq!(
        manifest["contributes"]["breakpoints"][0]["language"],
        "towpath"
    );
    assert!(read(&folder, "vscode/extension.js").contains("[\"debugger\"]"));
    assert!(read(&folder, "neovim/ftplugin/towpath.lua").contains("dap.configurations['towpath']"));
    let notation = read(&folder, "neovim/syntax/quillon.vim");
    assert!(
        notation.contains("|form|") && notation.contains("|written"),
        "{notation}"
    );
    let manifest = read(&folder, "vscode/package.json");
    assert!(manifest.contains(".cases") && manifest.contains("source.quillon"));
    assert!(read(&folder, "neovim/ftplugin/towpath.lua").contains("commentstring = '~ %s'"));
}

#[test]
fn tokens_of_every_kind_are_coloured_by_their_patterns() {
    let definition = r#"language Own
  reads ".own"
tokens
  Blank   [ \n]+                          ignored
  Remark  "--" [^\n]*                     ignored
  Block   nested "(*" "*)"                ignored
  Other   "/*" (any* - (any* "*/" any*)) "*/"  ignored
  Text    "'" ([^'\\] | "\\" any)* "'"    holds text
  Whole   digit+                          holds integer
  Name    letter (letter | digit)*
form Program
  written  steps:Step* by ";"
form Let in Step
  written  "let" name:Name ":=" value:Whole
form Say in Step
  written  "say" value:Text
"#;
    let folder = Folder::with_definition(definition);
    folder
        .quillon(&["equip", "--for", "vscode", "--into", "."])
        .ends_with(0);
    let colours: Value =
        serde_json::from_str(&read(&folder, "syntaxes/own.tmLanguage.json")).unwrap();
    let patterns = colours["patterns"].as_array().unwrap();
    let shown: Vec<String> = patterns
        .iter()
        .map(|one| {
            let looks = ["match", "begin"].map(|key| one[key].as_str().unwrap_or_default());
            format!(
                "{} {}",
                one["name"].as_str().unwrap_or_default(),
                looks.concat()
            )
        })
        .collect();
    assert_eq!(
        shown[..5],
        [
            "comment.line.own --.*$",
            r"comment.block.own \(\*",
            r"comment.block.own \/\*",
            "string.quoted.own '",
            "constant.numeric.own [0-9]+",
        ]
    );
    assert!(shown[5].starts_with("keyword.control.own ") && shown[5].contains("let|say"));
    assert_eq!(patterns[3]["patterns"][0]["match"], r"\\.");
    assert_eq!(
        shown.last().map(String::as_str),
        Some("keyword.operator.own :=|;")
    );
}

#[test]
fn holes_have_the_language_inside_and_glued_words_need_no_ends() {
    let definition = r#"language Own
  reads ".own"
tokens
  Blank  [ \n]+                          ignored
  Text   "'" ([^'\\] | "\\" any)* "'"    holds text   holes "<" Step ">"
form Program
  written  steps:Step*
form Up in Step
  written  "u"
form Twice in Step
  written  "uu"
form Say in Step
  written  value:Text
surface Signs reads ".sig"
  Up  "^"
"#;
    let folder = Folder::with_definition(definition);
    folder
        .quillon(&["equip", "--for", "vscode", "--into", "."])
        .ends_with(0);
    let read_json = |file| -> Value { serde_json::from_str(&read(&folder, file)).unwrap() };
    let colours = read_json("syntaxes/own.tmLanguage.json");
    assert_eq!(colours["patterns"][0]["patterns"][1]["include"], "#hole0");
    assert_eq!(colours["repository"]["hole0"]["end"], ">");
    let inside = &colours["repository"]["hole0"]["patterns"];
    assert_eq!(inside[1]["include"], "$self");
    assert_eq!(colours["patterns"][1]["match"], "uu|u");
    let other = read_json("syntaxes/ownsigns.tmLanguage.json");
    assert!(other.to_string().contains(r"\\^"), "{other}");
    let extensions = &read_json("package.json")["contributes"]["languages"][1]["extensions"];
    assert_eq!(extensions[0], ".sig");
    for editor in ["neovim", "emacs"] {
        folder
            .quillon(&["equip", "--for", editor, "--into", editor])
            .ends_with(0);
    }
    let syntax = read(&folder, "neovim/syntax/own.vim");
    assert!(
        syntax.contains("syntax region ownHole matchgroup=ownText start=\"\\v\\<\""),
        "{syntax}"
    );
    assert!(read(&folder, "neovim/ftdetect/ownsigns.vim").contains("*.sig"));
    let mode = read(&folder, "emacs/ownsigns-mode.el");
    assert!(mode.contains("\\\\.sig"));
    assert!(mode.contains("'(\"quillon\" \"debugger\")"), "{mode}");
}

#[test]
fn every_bundled_language_has_packages() {
    let folder = Folder::new();
    let languages = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    for entry in std::fs::read_dir(languages).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        let definition = path.join(format!("{name}.quillon"));
        if !definition.exists() {
            continue;
        }
        for editor in ["vscode", "neovim", "vim", "emacs"] {
            let into = format!("{name}-{editor}");
            let definition = definition.to_string_lossy();
            folder
                .quillon(&["equip", &definition, "--for", editor, "--into", &into])
                .ends_with(0);
        }
    }
}
