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
                "language-configuration.json",
                "snippets/towpath.json",
            ][..],
        ),
        (
            "neovim",
            &[
                "ftdetect/towpath.vim",
                "ftplugin/towpath.lua",
                "syntax/towpath.vim",
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
        ("emacs", &["towpath-mode.el"]),
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
    let configuration = read(&folder, "vscode/language-configuration.json");
    let configuration: Value = serde_json::from_str(&configuration).unwrap();
    assert_eq!(configuration["comments"]["lineComment"], "~");
    assert_eq!(configuration["brackets"].as_array().map(Vec::len), Some(3));
    let snippets: Value =
        serde_json::from_str(&read(&folder, "vscode/snippets/towpath.json")).unwrap();
    assert_eq!(snippets["While"]["body"], "while ${1:test} ${2:body}");
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
