//! Bytecode as its users meet it: listed, kept in files, run by either engine, profiled.

use crate::common::Folder;

const PROGRAM: &str = "way toll(tons) {\n  when tons > 20 { answer tons * 3 }\n  answer tons\n}\nlet sum be 0\ncount boat from 1 to 30 { change sum to sum + toll(boat) }\nsay sum\n";

fn with_program() -> Folder {
    let folder = Folder::with_demo();
    folder.write("tolls.tow", PROGRAM);
    folder
}

#[test]
fn code_lists_functions_with_labels_names_and_sizes() {
    let folder = with_program();
    let ran = folder.quillon(&["code", "tolls.tow"]);
    ran.ends_with(0)
        .shows("the program   ")
        .shows("function 1 toll(tons)   ")
        .shows("jump_greater_integer  r0:tons, 20, → L1, if false")
        .shows("multiply_integer")
        .shows("2 functions, ");
    let ran = folder.quillon(&["code", "--lines", "tolls.tow"]);
    ran.ends_with(0)
        .shows("   6 │ count boat from 1 to 30 { change sum to sum + toll(boat) }");
    // A program with mistakes has none.
    let ran = folder.quillon(&["code", "-l", "towpath.quillon", "--text", "say tns"]);
    ran.ends_with(1).says("no binding called `tns`");
}

#[test]
fn code_as_json_has_every_instruction() {
    let folder = with_program();
    let json = folder
        .quillon(&["code", "--format", "json", "tolls.tow"])
        .json();
    let functions = json["code"]["functions"].as_array().expect("functions");
    assert_eq!(functions[1]["name"], "toll");
    assert_eq!(functions[1]["parameters"][0], "tons");
    let lines = functions[1]["lines"].as_array().expect("instructions");
    assert_eq!(lines[0]["mnemonic"], "jump_greater_integer");
    assert_eq!(lines[0]["bytes"].as_array().map(Vec::len), Some(8));
    assert_eq!(
        (&lines[0]["line"], &lines[0]["column"]),
        (&2.into(), &8.into())
    );
    let count: usize = functions
        .iter()
        .filter_map(|function| function["lines"].as_array().map(Vec::len))
        .sum();
    assert_eq!(json["code"]["instructions"], count);
}

#[test]
fn a_kept_program_runs_without_its_text_and_definition() {
    let folder = with_program();
    folder
        .quillon(&["run", "--save", "kept/tolls.code", "tolls.tow"])
        .ends_with(0)
        .shows("`quillon run` runs it");
    let bytes = std::fs::read(folder.path().join("kept/tolls.code")).expect("the file");
    let elsewhere = Folder::new();
    elsewhere.write("tolls.code", &bytes);
    elsewhere
        .quillon(&["run", "tolls.code"])
        .ends_with(0)
        .shows("975\n");
    // Errors point into the text, which the file has.
    folder.write("wrong.tow", "let a be 1\nsay a + yes\n");
    folder
        .quillon(&["run", "--save", "wrong.code", "wrong.tow"])
        .ends_with(0);
    let ran = folder.quillon(&["run", "wrong.code"]);
    ran.ends_with(1).says("wrong.tow:2:9").says("say a + yes");
}

#[test]
fn damaged_programs_are_refused_in_words() {
    let folder = with_program();
    folder
        .quillon(&["run", "--save", "good", "tolls.tow"])
        .ends_with(0);
    let good = std::fs::read(folder.path().join("good")).expect("the file");
    let mut wrong = good.clone();
    let last = wrong.len() - 9;
    wrong[last] ^= 1;
    folder.write("changed", &wrong);
    folder
        .quillon(&["run", "changed"])
        .ends_with(4)
        .says("its bytes are not what they were")
        .says("save the program again");
    folder.write("cut", &good[..20]);
    folder
        .quillon(&["run", "cut"])
        .ends_with(4)
        .says("it is cut off");
    let mut other = good;
    other[12] = 77;
    folder.write("other", &other);
    folder
        .quillon(&["run", "other"])
        .ends_with(4)
        .says("was kept by another version of Quillon");
}

#[test]
fn both_engines_run_the_demo_alike() {
    let folder = Folder::with_demo();
    let programs = std::fs::read_dir(folder.path().join("programs")).expect("programs");
    let mut count = 0;
    for program in programs {
        let path = program.expect("a program").path();
        let path = path.to_str().expect("a name");
        let by = |engine| folder.quillon(&["run", "--engine", engine, path]);
        let (machine, walk) = (by("machine"), by("walk"));
        assert_eq!(machine.out, walk.out, "{path}");
        assert_eq!(machine.err, walk.err, "{path}");
        count += 1;
    }
    assert!(count > 2, "the demo has programs");
}

#[test]
fn a_profile_says_what_costs() {
    let folder = with_program();
    let ran = folder.quillon(&["profile", "tolls.tow"]);
    ran.ends_with(0)
        .shows("by line")
        .shows("by form")
        .shows("by function")
        .shows("this run is too short to measure")
        .shows("count boat from 1 to 30 { change sum to sum + toll(boat) }");
    // What the program prints is no part of it.
    assert!(!ran.out.contains("975"), "{}", ran.out);
    let json = folder
        .quillon(&["profile", "--format", "json", "tolls.tow"])
        .json();
    let profile = &json["profile"];
    let sum = |key: &str| -> u64 {
        let shares = profile[key].as_array().expect("shares").iter();
        shares
            .filter_map(|share| share["instructions"].as_u64())
            .sum()
    };
    let all = profile["instructions"].as_u64().expect("a count");
    assert!(all > 100);
    assert_eq!(
        (sum("lines"), sum("forms"), sum("functions")),
        (all, all, all)
    );
    assert!(profile["ratio"].as_f64().expect("a ratio") > 0.0);
    let heap = folder.quillon(&["profile", "--as", "heap", "tolls.tow"]);
    heap.ends_with(0)
        .shows("the most in use: ")
        .shows("made by form")
        .shows("what is under way");
    let heap = folder.quillon(&["profile", "--as", "heap", "--format", "json", "tolls.tow"]);
    let alive = &heap.json()["profile"]["alive"];
    let held = alive["held"].as_array().expect("what leads to it").iter();
    let bytes: u64 = held.map(|one| one["bytes"].as_u64().unwrap()).sum();
    assert_eq!(alive["bytes"], bytes);
    assert_eq!(json["profile"]["alive"], serde_json::Value::Null);
    let picture = folder.quillon(&["profile", "--as", "flame", "--no-walk", "tolls.tow"]);
    picture
        .ends_with(0)
        .shows("<svg ")
        .shows("calls of tolls.tow");
}

#[test]
fn a_profile_of_a_longer_run_has_shares_of_time() {
    let folder = Folder::with_demo();
    folder.write(
        "long.tow",
        "let n be 0\nwhile n < 300000 { change n to n + 1 }\nsay n\n",
    );
    let ran = folder.quillon(&["profile", "long.tow"]);
    ran.ends_with(0).shows("times as fast");
    assert!(!ran.out.contains("too short"), "{}", ran.out);
    assert!(
        ran.out
            .lines()
            .any(|line| line.trim_start().starts_with("time "))
    );
}

#[test]
fn a_profile_of_a_run_that_fails_has_the_error_too() {
    let folder = with_program();
    let ran = folder.quillon(&["profile", "-l", "towpath.quillon", "--text", "say 1 / 0"]);
    ran.ends_with(1).says("divided by zero");
}

#[test]
fn a_name_that_its_own_value_looks_at_has_no_value_there_by_either_engine() {
    let folder = Folder::new();
    let gauge = quillon_languages::named("gauge").unwrap();
    folder.write("gauge.quillon", gauge.definition);
    for (program, at) in [
        ("def b = given keeper = [0] in b; b", "1:31"),
        (
            "def b = given k = [1, 2, 3] in given l = [4] in b; b",
            "1:49",
        ),
        ("def b = b; b", "1:9"),
    ] {
        for engine in ["machine", "walk"] {
            folder
                .quillon(&["run", "--value", "--engine", engine, "--text", program])
                .ends_with(1)
                .says("`b` has no value yet")
                .says(&format!("text:{at}"));
        }
    }
}
