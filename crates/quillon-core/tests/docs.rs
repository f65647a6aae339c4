//! The tables in the documents are those of the code. After a deliberate change, run with
//! `UPDATE_DOCS=1`.

use std::path::Path;

use quillon_core::diagnostic::codes;
use quillon_core::meaning::Operation;

/// Compares what stands between a mark and `<!-- end -->` with what should.
fn compare(file: &str, mark: &str, wanted: &str) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("../../docs")
        .join(file);
    let text = std::fs::read_to_string(&path).unwrap();
    let open = format!("<!-- {mark} -->\n");
    let start = text.find(&open).expect("the mark") + open.len();
    let end = start + text[start..].find("<!-- end -->").expect("the end");
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(&path, format!("{}{wanted}{}", &text[..start], &text[end..])).unwrap();
    } else {
        assert_eq!(&text[start..end], wanted, "{file}");
    }
}

#[test]
fn the_notation_lists_every_operation() {
    let mut table = "| operation | gives | what | errors |\n|---|---|---|---|\n".to_owned();
    for operation in Operation::ALL {
        let arity = operation.arity();
        let more = if arity.most.is_none() { "…" } else { "" };
        let errors = operation.errors().iter();
        let errors: Vec<String> = errors.map(|code| format!("`{}`", code.0)).collect();
        table.push_str(&format!(
            "| `{}({}{more})` | {} | {} | {} |\n",
            operation.name(),
            operation.operands().join(", "),
            operation.gives(),
            operation.what(),
            errors.join(", ")
        ));
    }
    compare("notation.md", "operations", &table);
}

#[test]
fn every_operation_can_be_found_by_its_name() {
    for operation in Operation::ALL {
        assert_eq!(Operation::named(operation.name()), Some(*operation));
        assert!(operation.arity().fits(operation.arity().least));
    }
    assert_eq!(Operation::named("list.lenght"), None);
}

#[test]
fn the_commands_list_every_code() {
    let mut table = "| code | stands for |\n|---|---|\n".to_owned();
    for (code, what) in codes::ALL {
        table.push_str(&format!("| `{}` | {what} |\n", code.0));
    }
    compare("commands.md", "codes", &table);
}
