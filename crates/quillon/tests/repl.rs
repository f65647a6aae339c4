//! The REPL from a pipe: entries, orders, errors.

mod common;

use common::Folder;

fn talk(input: &str) -> common::Ran {
    Folder::with_demo().quillon_with(&["repl", "--keep-going"], input)
}

#[test]
fn values_are_shown_and_names_are_kept() {
    let ran = talk("let boats be 3\nboats * 2\n\"gate\"\nnothing\nsay boats\n");
    ran.ends_with(0);
    assert_eq!(ran.out, "6\n\"gate\"\n3\n");
}

#[test]
fn an_unfinished_entry_goes_on_on_the_next_line() {
    let ran = talk("way toll(tons) {\n  answer tons *\n    4\n}\ntoll(3)\n[1,\n2]\n");
    ran.ends_with(0);
    assert_eq!(ran.out, "12\n[1, 2]\n");
}

#[test]
fn an_empty_line_ends_an_entry_that_never_would() {
    let ran = talk("say (1 +\n\nsay 2\n");
    ran.ends_with(1)
        .says("the text ends where an expression is expected");
    assert_eq!(ran.out, "2\n");
}

#[test]
fn functions_and_closures_live_on() {
    let ran = talk(
        "way counter() { let n be 0 answer way () { change n to n + 1 answer n } }\nlet one be counter()\none()\none()\nlet n be 100\none()\nchange n to n + 1\nn\n",
    );
    assert_eq!(ran.out, "1\n2\n3\n101\n", "{ran}");
}

#[test]
fn names_can_be_bound_again_and_old_functions_keep_theirs() {
    let ran =
        talk("let rate be 4\nway toll(t) { answer t * rate }\nlet rate be 10\ntoll(2)\nrate\n");
    assert_eq!(ran.out, "8\n10\n", "{ran}");
}

#[test]
fn an_error_leaves_names_as_they_were() {
    let ran = talk(
        "let n be 1\nchange n to 1 / 0\nn\nlet m be 1 / 0\nm\nattempt { change n to 5 alarm \"no\" } mend what { say what }\nn\n",
    );
    ran.ends_with(1).says("no binding called `m`");
    assert_eq!(ran.out, "1\nno\n5\n", "{ran}");
}

#[test]
fn errors_in_old_entries_point_into_them() {
    let ran = talk("way toll(boat) { answer boat.tons }\ntoll([:])\n");
    ran.says("entry 1:1:25").says("toll called at entry 2:1:1");
}

#[test]
fn a_failed_entry_ends_it_unless_told_otherwise() {
    let folder = Folder::with_demo();
    let ran = folder.quillon_with(&["repl"], "say 1\nsay 1 / 0\nsay 2\n");
    ran.ends_with(1);
    assert_eq!(ran.out, "1\n");
}

#[test]
fn orders_show_stages_names_and_what_is_ready() {
    let ran = talk("let level be 2\n/names\n/tree 1 + 2\n/tokens say 1\n/ready\n/help\n");
    ran.ends_with(0)
        .shows("level  integer  2")
        .shows("right: Number")
        .shows("largest(first, rest...)")
        .shows("/leave");
    talk("/nmaes\n").ends_with(1).says("did you mean `/names`?");
    talk("/leave\nsay 1\n").ends_with(0);
    talk("/tree 1 +\n")
        .ends_with(1)
        .says("expression is expected");
}

#[test]
fn bytes_that_are_no_text_end_it_with_a_message() {
    let folder = Folder::with_demo();
    let output = assert_cmd::Command::new(env!("CARGO_BIN_EXE_quillon"))
        .args(["repl"])
        .current_dir(folder.path())
        .write_stdin(&b"say 1\n\xff\n"[..])
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(4));
    assert_eq!(output.stdout, b"1\n");
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(
        said.contains("line 2 of standard input cannot be read"),
        "{said}"
    );
}
