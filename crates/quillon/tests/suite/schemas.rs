//! What is printed as JSON is as the schemas in `docs/schemas` say, and has nothing that they do not say.

use std::path::{Path, PathBuf};

use boon::{Compiler, SchemaIndex, Schemas};
use quillon_languages::LANGUAGES;
use serde_json::{Value, json};

use crate::common::Folder;

const NAMES: [&str; 5] = ["diagnostics", "tokens", "tree", "names", "grammar"];

/// The schemas, closed: what is not named in them is wrong.
struct Known {
    schemas: Schemas,
    places: Vec<SchemaIndex>,
}

impl Known {
    fn new() -> Known {
        let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
        for name in NAMES {
            let path = file(name);
            let text = std::fs::read_to_string(&path).unwrap();
            let mut schema: Value = serde_json::from_str(&text).unwrap();
            close(&mut schema);
            compiler.add_resource(&at(name), schema).unwrap();
        }
        let mut places = Vec::new();
        for name in NAMES {
            match compiler.compile(&at(name), &mut schemas) {
                Ok(place) => places.push(place),
                Err(error) => panic!("{error}"),
            }
        }
        Known { schemas, places }
    }

    #[track_caller]
    fn holds(&self, name: &str, value: &Value, what: &str) {
        let index = NAMES.iter().position(|own| *own == name).unwrap();
        if let Err(error) = self.schemas.validate(value, self.places[index]) {
            panic!("{what}: {error:#}");
        }
    }

    fn refuses(&self, name: &str, value: &Value) -> bool {
        let index = NAMES.iter().position(|own| *own == name).unwrap();
        self.schemas.validate(value, self.places[index]).is_err()
    }
}

fn file(name: &str) -> PathBuf {
    let docs = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/schemas");
    docs.join(format!("{name}.schema.json"))
}

fn at(name: &str) -> String {
    format!("http://localhost/{name}.schema.json")
}

fn close(schema: &mut Value) {
    match schema {
        Value::Object(map) => {
            if map.contains_key("properties") {
                map.insert("additionalProperties".to_owned(), json!(false));
            }
            map.values_mut().for_each(close);
        }
        Value::Array(all) => all.iter_mut().for_each(close),
        Value::Null | Value::Bool(_) | Value::Number(_) | Value::String(_) => {}
    }
}

fn printed(folder: &Folder, args: &[&str]) -> Value {
    let text = folder.quillon(args).out;
    serde_json::from_str(&text).unwrap_or_else(|error| panic!("{args:?}: {error}: {text}"))
}

#[test]
fn what_is_printed_of_every_bundled_language_is_as_the_schemas_say() {
    let known = Known::new();
    let folder = Folder::new();
    for language in LANGUAGES {
        let name = language.name;
        let own = |path: &str| format!("{name}/{path}");
        let definition = own(&format!("{name}.quillon"));
        folder.write(&definition, language.definition);
        let grammar = printed(&folder, &["grammar", "--format", "json", &definition]);
        known.holds("grammar", &grammar, name);
        let is_program = |path: &str| path.starts_with("programs/");
        let programs = language.files.iter().filter(|(path, _)| is_program(path));
        for (path, text) in programs {
            let path = own(path);
            folder.write(&path, text);
            for (command, schema) in [("tokens", "tokens"), ("tree", "tree"), ("scopes", "names")] {
                let json = printed(&folder, &[command, "--format", "json", &path]);
                assert_eq!(json["diagnostics"], json!([]), "{path}");
                known.holds(schema, &json, &path);
            }
        }
    }
}

#[test]
fn what_is_wrong_is_as_the_schemas_say() {
    let known = Known::new();
    let folder = Folder::with_demo();
    folder.write("wrong.tow", "let level be 3\nanswer levle ( 2\n§\n");
    for (command, schema) in [("tokens", "tokens"), ("tree", "tree"), ("scopes", "names")] {
        let json = printed(&folder, &[command, "--format", "json", "wrong.tow"]);
        assert_ne!(json["diagnostics"], json!([]), "{command}");
        known.holds(schema, &json, command);
    }
    let missing = printed(&folder, &["tree", "--format", "json", "nowhere.tow"]);
    known.holds("diagnostics", &missing, "a file that is not there");
    folder.write("deep.tow", "way f(n) { answer f(n) + 1 }\nanswer f(1)\n");
    let run = printed(&folder, &["run", "--format", "json", "deep.tow"]);
    assert_eq!(run["version"], 1);
    let diagnostics = json!({ "version": run["version"], "diagnostics": run["diagnostics"] });
    assert!(diagnostics["diagnostics"][0]["calls"].is_array());
    known.holds("diagnostics", &diagnostics, "a run that fails");
}

#[test]
fn several_programs_are_a_list_each_with_its_version() {
    let known = Known::new();
    let folder = Folder::with_demo();
    folder.write("a.tow", "say 1\n");
    folder.write("b.tow", "say 2\n");
    for (command, schema) in [("tokens", "tokens"), ("tree", "tree"), ("scopes", "names")] {
        let all = printed(&folder, &[command, "--format", "json", "a.tow", "b.tow"]);
        let all = all.as_array().unwrap();
        assert_eq!(all.len(), 2);
        for one in all {
            assert!(one["file"].is_string());
            known.holds(schema, one, command);
        }
    }
}

#[test]
fn the_schemas_refuse_what_lacks_something_or_has_something_else() {
    let known = Known::new();
    let folder = Folder::with_demo();
    folder.write("a.tow", "say 1\n");
    let tree = printed(&folder, &["tree", "--format", "json", "a.tow"]);
    known.holds("tree", &tree, "as it is");
    let mut other = tree.clone();
    other["tree"].as_object_mut().unwrap().remove("span");
    assert!(known.refuses("tree", &other));
    let mut other = tree.clone();
    other["version"] = json!(2);
    assert!(known.refuses("tree", &other));
    let mut other = tree;
    other["odd"] = json!(true);
    assert!(known.refuses("tree", &other));
}
