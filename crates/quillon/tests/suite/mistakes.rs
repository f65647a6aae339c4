//! The look of what is said about mistakes, one golden file each: programs of the demo
//! language and definitions in `tests/mistakes`. After a deliberate change, run with
//! `INSTA_UPDATE=always` and read the difference.

use std::path::Path;

use crate::common::Folder;

/// Every mistake, run as its user would; a definition is checked, then tested.
#[test]
fn every_mistake_is_said_as_before() {
    let folder = Folder::with_demo();
    let mut names: Vec<String> = std::fs::read_dir(mistakes())
        .unwrap()
        .map(|entry| entry.unwrap().file_name().into_string().unwrap())
        .filter(|name| !name.contains(".snap"))
        .collect();
    names.sort();
    assert!(names.len() >= 20);
    for name in names {
        let text = std::fs::read_to_string(mistakes().join(&name)).unwrap();
        folder.write(&name, &text);
        let said = if name.ends_with(".quillon") {
            let checked = folder.quillon(&["check", &name]);
            if checked.status == 0 {
                let tested = folder.quillon(&["test", &name]);
                format!("quillon check\n{checked}\nquillon test\n{tested}")
            } else {
                format!("quillon check\n{checked}")
            }
        } else {
            folder
                .quillon(&["run", "--depth", "5000", &name])
                .to_string()
        };
        let (stem, _) = name.rsplit_once('.').unwrap();
        insta::with_settings!({
            snapshot_path => mistakes(),
            prepend_module_to_snapshot => false,
            omit_expression => true,
        }, {
            insta::assert_snapshot!(stem, said);
        });
    }
}

fn mistakes() -> std::path::PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/suite/mistakes")
}
