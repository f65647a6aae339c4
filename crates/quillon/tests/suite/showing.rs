//! Trees and grammars in all notations that they come in.

use crate::commands::TINY;
use crate::common::Folder;

#[test]
fn trees_come_as_s_expression_graph_and_picture() {
    let folder = Folder::with_demo();
    let view = |view: &str| {
        let text = [
            "tree",
            "--as",
            view,
            "--text",
            "when yes { say [1], \"a<\" }",
        ];
        folder.quillon(&text).ends_with(0).out.clone()
    };
    assert_eq!(
        view("sexp"),
        "(Program (: (When (Yes) (Block (: (Say (: (List (: (Number 1))) (Words \"a<\"))))) ())))\n"
    );
    let dot = view("dot");
    assert!(dot.starts_with("digraph tree {") && dot.trim_end().ends_with('}'));
    assert!(
        dot.contains("label=\"values[1]\"") && dot.contains("\\\"a<\\\""),
        "{dot}"
    );
    let svg = view("svg");
    assert!(
        svg.starts_with("<svg ") && svg.contains("a&lt;") && svg.trim_end().ends_with("</svg>")
    );
    assert_eq!(
        svg.matches("<rect").count(),
        1 + dot.matches("shape=").count()
    );
}

#[test]
fn several_programs_and_folders_are_shown_one_after_the_other() {
    let folder = Folder::with_demo();
    let all = folder.quillon(&["tree", "--as", "line", "programs"]);
    all.ends_with(0)
        .shows("── programs/daylog.tow")
        .shows("── programs/tolls.tow");
    assert_eq!(all.out.lines().count(), 8);
    let json = folder.quillon(&[
        "tokens",
        "--format",
        "json",
        "programs/tolls.tow",
        "programs/flight.tow",
    ]);
    let json = json.ends_with(0).json();
    assert_eq!(json[1]["file"], "programs/flight.tow");
    folder.write("programs/bad.tow", "say (");
    folder
        .quillon(&["tree", "programs"])
        .ends_with(1)
        .says("programs/bad.tow:1:6");
}

#[test]
fn several_syntax_errors_are_found_in_one_reading() {
    let folder = Folder::with_demo();
    folder.write(
        "wrong.tow",
        "let a = 1\nsay a\nsay [1 2]\nwihle a < 3 { say a }\n",
    );
    let run = folder.quillon(&["run", "wrong.tow"]);
    run.ends_with(1)
        .says("wrong.tow:1:7")
        .says("wrong.tow:3:7")
        .says("wrong.tow:4:1")
        .says("did you mean `while`?");
    assert_eq!(run.err.matches("error").count(), 3, "{run}");
}

#[test]
fn the_grammar_comes_in_two_standard_notations_beside_the_abstract_syntax() {
    let folder = Folder::with_definition(TINY);
    folder
        .quillon(&["grammar"])
        .ends_with(0)
        .shows("Step\n  ::= \"let\" Name \"=\" Expr\n    | Expr")
        .shows("Step\n  = Let(name: Name, value: Expr)\n  | Value(value: Expr)");
    folder
        .quillon(&["grammar", "--as", "iso"])
        .ends_with(0)
        .shows("Program\n  = [Step, {\";\", Step}, [\";\"]]\n  ;");
    let json = folder.quillon(&["grammar", "--format", "json"]).json();
    assert!(json["w3c"].as_str().unwrap().contains("::="));
    let tokens_only = &TINY[..TINY.find("precedence").unwrap()];
    Folder::with_definition(tokens_only)
        .quillon(&["grammar"])
        .ends_with(3)
        .says("has no forms yet");
}
