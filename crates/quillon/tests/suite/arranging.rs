//! Files put in order.

use std::fs;

use crate::common::Folder;

fn read(folder: &Folder, file: &str) -> String {
    fs::read_to_string(folder.path().join(file)).unwrap()
}

const ROUGH: &str = "~ The tolls of a day.\n\n\n\nway toll(tons) {\nlet base be   tons * 2\n    answer base\n}\n   each tons in [5, 12] { say toll(tons) }   \n";
const NEAT: &str = "~ The tolls of a day.\n\nway toll(tons) {\n  let base be tons * 2\n  answer base\n}\neach tons in [5, 12] { say toll(tons) }\n";

#[test]
fn programs_are_put_in_order_where_they_are() {
    let folder = Folder::with_demo();
    folder.write("day.tow", ROUGH);
    folder.write("neat.tow", NEAT);
    let ran = folder.quillon(&["arrange", "day.tow", "neat.tow"]);
    ran.ends_with(0)
        .shows("day.tow is in order now")
        .shows("1 file is in order already");
    assert_eq!(read(&folder, "day.tow"), NEAT);
    let ran = folder.quillon(&["arrange", "day.tow"]);
    ran.ends_with(0);
    assert_eq!(ran.out, "1 file is in order already\n");
    assert_eq!(read(&folder, "day.tow"), NEAT);
}

#[test]
fn nothing_is_written_where_it_is_only_asked() {
    let folder = Folder::with_demo();
    folder.write("day.tow", ROUGH);
    folder.write("neat.tow", NEAT);
    let ran = folder.quillon(&["arrange", "--check", "day.tow", "neat.tow"]);
    ran.ends_with(1)
        .shows("day.tow is not in order\n1 file is in order\n");
    let ran = folder.quillon(&["arrange", "--diff", "day.tow", "neat.tow"]);
    ran.ends_with(1);
    assert!(
        ran.out
            .starts_with("--- day.tow\n+++ day.tow\n@@ -1,9 +1,7 @@\n")
    );
    ran.shows("-let base be   tons * 2\n-    answer base\n+  let base be tons * 2\n");
    assert_eq!(read(&folder, "day.tow"), ROUGH);
    folder
        .quillon(&["arrange", "--check", "neat.tow"])
        .ends_with(0);
    let ran = folder.quillon(&["arrange", "--diff", "neat.tow"]);
    assert_eq!((ran.status, ran.out.as_str()), (0, ""));
}

#[test]
fn what_is_wrong_stays_as_it_is_and_is_told() {
    let folder = Folder::with_demo();
    folder.write("wrong.tow", "let  be 3\n");
    folder.write("day.tow", ROUGH);
    folder.write("own.quillon", "language Own\n  reads \".own\n");
    let ran = folder.quillon(&["arrange", "wrong.tow", "day.tow", "own.quillon"]);
    ran.ends_with(1)
        .says("── wrong.tow\nerror: expected a name, found `be`")
        .says("── own.quillon\nerror: this quoted text")
        .shows("day.tow is in order now");
    assert_eq!(read(&folder, "wrong.tow"), "let  be 3\n");
    assert_eq!(read(&folder, "day.tow"), NEAT);
    let json = folder.quillon(&["arrange", "--format", "json", "wrong.tow", "day.tow"]);
    let json = json.ends_with(1).json();
    assert_eq!(json[0]["state"], "wrong");
    assert_eq!(json[0]["diagnostics"][0]["severity"], "error");
    assert_eq!(json[1]["state"], "in order");
}

#[test]
fn standard_input_goes_to_standard_output() {
    let folder = Folder::with_demo();
    let ran = folder.quillon_with(&["arrange", "-"], ROUGH);
    assert_eq!((ran.status, ran.out.as_str()), (0, NEAT), "{ran}");
    let ran = folder.quillon_with(&["arrange", "-", "--named", "later/day.tow"], ROUGH);
    assert_eq!((ran.status, ran.out.as_str()), (0, NEAT), "{ran}");
    let ran = folder.quillon_with(
        &["arrange", "-", "--named", "a.cases"],
        "case  one\n   1 + 1\n",
    );
    ran.ends_with(0);
    let ran = folder.quillon_with(&["arrange", "-", "--check"], ROUGH);
    assert_eq!(
        (ran.status, ran.out.as_str()),
        (1, "standard input is not in order\n")
    );
    let ran = folder.quillon_with(&["arrange", "-"], "let  be 3\n");
    ran.ends_with(1).says("1 │ let  be 3");
    assert_eq!(ran.out, "", "nothing of what is wrong");
}

#[test]
fn folders_stand_for_what_is_in_them() {
    let folder = Folder::with_demo();
    fs::create_dir(folder.path().join("later")).unwrap();
    folder.write("later/day.tow", ROUGH);
    folder.write("later/notes.txt", "  not   a program");
    let ran = folder.quillon(&["arrange", "--check", "."]);
    ran.ends_with(1).shows("day.tow is not in order");
    folder.quillon(&["arrange", "."]).ends_with(0);
    assert_eq!(read(&folder, "later/notes.txt"), "  not   a program");
    folder.quillon(&["arrange", "--check", "."]).ends_with(0);
    fs::create_dir(folder.path().join("none")).unwrap();
    let ran = folder.quillon(&["arrange", "none"]);
    ran.ends_with(4)
        .says("neither a program nor a definition nor a case file");
}

#[test]
fn steps_are_as_wide_as_is_asked() {
    let folder = Folder::with_demo();
    let asked = |step: &str| folder.quillon_with(&["arrange", "-", "--indent", step], ROUGH);
    assert!(asked("4").out.contains("\n    answer base\n"));
    assert!(asked("tab").out.contains("\n\tanswer base\n"));
    asked("far")
        .ends_with(2)
        .says("a number up to 16, or `tab`");
}

#[test]
fn marks_and_line_ends_of_a_file_stay() {
    let folder = Folder::with_demo();
    let marked = format!("\u{feff}{}", ROUGH.replace('\n', "\r\n"));
    let path = folder.write("day.tow", marked);
    folder.quillon(&["arrange", "day.tow"]).ends_with(0);
    let wanted = format!("\u{feff}{}", NEAT.replace('\n', "\r\n"));
    assert_eq!(fs::read_to_string(path).unwrap(), wanted);
    let definition = read(&folder, "towpath.quillon");
    let marked = format!("\u{feff}{}", definition.replace('\n', "\r\n"));
    let path = folder.write("towpath.quillon", &marked);
    folder.quillon(&["arrange", "towpath.quillon"]).ends_with(0);
    assert_eq!(fs::read_to_string(path).unwrap(), marked);
}

#[test]
fn definitions_and_cases_that_come_along_are_in_order() {
    let languages = concat!(env!("CARGO_MANIFEST_DIR"), "/../../languages");
    let folder = Folder::new();
    let ran = folder.quillon(&["arrange", "--check", languages]);
    ran.ends_with(0);
}
