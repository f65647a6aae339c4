//! Scopes on their own: which binding a name means, whatever the meanings are.

use crate::common::{said, with_tokens};
use quillon_core::scoping::{Around, Home, Kept};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

const FORMS: &str = "
form Program
  written  steps:Step*
  opens    scope
form Let in Step
  written  \"let\" name:Name value:Step
  binds    name onward
form Rec in Step
  written  \"rec\" name:Name value:Step
  binds    name in value, onward
form Fun in Step
  written  \"fun\" params:Name+ \":\" body:Step
  binds    params in body
form Fixed in Step
  written  \"fix\" name:Name
  binds    name onward fixed
form Block in Step
  written  \"{\" steps:Step* \"}\"
  opens    scope
form Half in Step
  written  \"half\" inside:Step \"/\" outside:Step
  opens    scope around inside
form Use in Step
  written  \"use\" name:Name
  uses     name
form Change in Step
  written  \"change\" name:Name
  uses     name to change
provides
  ready(x)  means x
";

/// Each use in a program as `NAME@COLUMN -> COLUMN of its binding`, or the errors.
fn uses(language: &Language, text: &str, around: Around<'_>) -> Vec<String> {
    let source = SourceText::new("text", text);
    let tree = language
        .tree(&source, Reading::Program)
        .value
        .expect("a tree");
    let outcome = language.names(&tree, around);
    if outcome.has_errors() {
        return outcome.diagnostics.iter().map(said).collect();
    }
    let names = outcome.value.unwrap();
    let mut found = Vec::new();
    for number in 0..tree.len() as u32 {
        let node = quillon_core::tree::NodeId(number);
        let Some(form) = tree.form(node) else {
            continue;
        };
        let name = &language.definition().forms[form].name.text;
        if name != "Use" && name != "Change" {
            continue;
        }
        let leaf = tree.children(node, 0)[0];
        let binding = names.binding(names.binding_of(leaf).unwrap());
        let at = source.position(tree.node(leaf).span.start).column;
        let to = match (binding.home, binding.span) {
            (Home::BuiltIn(_), _) => "built-in".to_owned(),
            (Home::Session(index), None) => format!("session {index}"),
            (_, Some(span)) => source.position(span.start).column.to_string(),
            (Home::Node(_), None) => "nowhere".to_owned(),
        };
        found.push(format!("{}@{at} -> {to}", tree.text(leaf)));
    }
    found
}

#[track_caller]
fn means(text: &str, wanted: &[&str]) {
    let language = with_tokens(FORMS);
    assert_eq!(uses(&language, text, Around::Nothing), wanted, "{text}");
}

#[test]
fn onward_begins_after_the_form() {
    means(
        "let a use ready use a",
        &["ready@11 -> built-in", "a@21 -> 5"],
    );
    means("let a use a", &["1:11 there is no binding called `a`"]);
    means("rec a use a use a", &["a@11 -> 5", "a@17 -> 5"]);
}

#[test]
fn inner_scopes_shadow_and_end() {
    means(
        "let a {} { use a let a {} use a } use a",
        &["a@16 -> 5", "a@31 -> 22", "a@39 -> 5"],
    );
    means(
        "{ let a {} } use a",
        &["1:18 there is no binding called `a`"],
    );
    means(
        "let a {} let a {}",
        &["1:14 `a` is bound twice in the same scope"],
    );
}

#[test]
fn bindings_in_fields_are_seen_only_there() {
    means("fun a b : { use a use b }", &["a@17 -> 5", "b@23 -> 7"]);
    means(
        "fun a : use a use a",
        &["1:19 there is no binding called `a`"],
    );
    means("let a {} fun a : use a use a", &["a@22 -> 14", "a@28 -> 5"]);
    means(
        "fun a a : use a",
        &["1:7 `a` is bound twice in the same scope"],
    );
}

#[test]
fn a_scope_can_be_around_one_field() {
    means(
        "half let a {} / use a",
        &["1:21 there is no binding called `a`"],
    );
    means("half {} / let a {} use a", &["a@24 -> 15"]);
}

#[test]
fn what_cannot_be_changed_is_not() {
    means("let a {} change a", &["a@17 -> 5"]);
    means(
        "fix a change a",
        &["1:14 `a` is fixed and cannot be changed"],
    );
    means(
        "change ready",
        &["1:8 `ready` is built in and cannot be changed"],
    );
    means("let ready {} change ready", &["ready@21 -> 5"]);
}

#[test]
fn a_session_gives_its_names_and_takes_new_ones() {
    let language = with_tokens(FORMS);
    let kept = [
        Kept {
            name: "old".to_owned(),
            fixed: false,
            dynamic: false,
            space: String::new(),
            awaited: false,
        },
        Kept {
            name: "set".to_owned(),
            fixed: true,
            dynamic: false,
            space: String::new(),
            awaited: false,
        },
    ];
    let around = Around::Session(&kept);
    assert_eq!(
        uses(
            &language,
            "use old let new {} use new let old {} use old",
            around
        ),
        ["old@5 -> session 0", "new@24 -> 13", "old@43 -> 32"]
    );
    assert_eq!(
        uses(&language, "change set", around),
        ["1:8 `set` is fixed and cannot be changed"]
    );
}
