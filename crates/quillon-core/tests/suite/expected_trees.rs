//! Trees as cases write them: what stands for what, and what is said of those that cannot be.

use crate::common::{said, with_tokens};
use crate::stated::got;
use quillon_core::definition::read_cases;
use quillon_core::source::SourceText;
use quillon_core::testing::{case_limits, run_case};
use quillon_core::{Language, Prepared};

fn gates() -> Language {
    with_tokens(
        r#"
form Program
  written  steps:Step* by ";"
  means    all steps
form Open in Step
  written  "open" gate:Name ("by" feet:Whole)? ways:Way*
  means    spelling of gate
form Shut in Step
  written  "shut" gates:Name+ by ","
  means    "shut"
form Way
  written  side:("left" | "right")
  means    side
form Boxed in Step
  written  "(" step:Step ")"
  becomes  step
form Both in Step
  written  "both" one:Name two:Name
  becomes  Shut([one, two])
form Words in Step
  written  value:Text
  means    value
form Half in Step
  written  value:Decimal
  means    value
"#,
    )
}

#[test]
fn fields_stand_by_position_or_by_name_and_tokens_in_many_ways() {
    let cases = r#"
cases of trees
  `open upper by 4 left right`   tree Open(upper, 4, [Way(left), Way(right)])
  `open upper by 4 left`         tree Open(gate: upper, feet: 4, ways: [Way(`left`)])
  `open upper by 4`              tree Open(feet: 4, gate: `upper`)
  `open upper right`             tree Open(upper, ways: [Way("right")])
  `shut a, b`                    tree Shut([a, `b`])
  `(open upper)`                 tree Open(upper)
  `both a b`                     tree Shut([a, b])
  `"low water"`                  tree Words("low water")
  `1.50`                         tree Half(1.5)
  `open upper; shut a`           tree Program([Open(upper), Shut([a])])
  ``                             tree Program([])
  from Shut([a, b])              gives "shut"
  from Open(upper, ways: [Way(left)])   gives "upper"
  from Open(upper)               prints back "open upper"
"#;
    assert_eq!(got(&gates(), cases), [""; 0]);
}

/// What is said of a tree that a case starts from.
fn wrong(tree: &str) -> String {
    let language = gates();
    let text = format!("cases of trees\n  from {tree}   gives 1\n");
    let source = SourceText::new("own.cases", text);
    let cases = read_cases(&source).value.unwrap().cases;
    let prepared = Prepared::new(&language);
    let result = run_case(&prepared, &source, &cases[0], case_limits());
    let told = result.diagnostics.iter().map(said);
    let remedies = result.diagnostics.iter().flat_map(|one| &one.remedies);
    told.chain(remedies.cloned()).collect::<Vec<_>>().join("; ")
}

#[test]
fn what_is_no_tree_of_the_language_is_said_at_its_place() {
    for (tree, wanted) in [
        ("4", "2:8 a form is needed here"),
        ("[Open(upper)]", "2:8 a form is needed here"),
        (
            "Opn(upper)",
            "2:8 there is no form `Opn`; did you mean `Open`?",
        ),
        (
            "Boxed(Open(upper))",
            "2:8 form `Boxed` is in no tree: it becomes another one",
        ),
        (
            "Both(a, b)",
            "2:8 form `Both` is in no tree: it becomes another one",
        ),
        (
            "Open(upper, fet: 4)",
            "2:20 form `Open` has no field `fet`; did you mean `feet`?",
        ),
        (
            "Open(upper, 4, [], 5)",
            "2:27 form `Open` has only 3 fields",
        ),
        ("Open(feet: 4)", "2:8 field `gate` is missing here"),
        (
            "Shut(a)",
            "2:13 field `gates` is repeated: its items stand in brackets",
        ),
        ("Open(4)", "2:13 this is no Name, which field `gate` needs"),
        (
            "Open(upper, \"four\")",
            "2:20 this is no Whole, which field `feet` needs",
        ),
        (
            "Open(upper, ways: [Way(up)])",
            "2:31 this is no `left` or `right`, which field `side` needs",
        ),
        (
            "Open(upper, ways: [Shut([a])])",
            "2:27 this is no Way, which field `ways` needs",
        ),
        (
            "Open(upper, ways: [[left]])",
            "2:27 this is no Way, which field `ways` needs",
        ),
    ] {
        assert_eq!(wrong(tree), wanted, "{tree}");
    }
}

#[test]
fn a_tree_that_is_another_one_is_shown_as_cases_write_it() {
    let cases = r"
cases of trees
  `open upper by 4`   tree Open(upper, 5)
  `shut a, b`         tree Shut([a])
";
    let told = got(&gates(), cases);
    assert_eq!(told.len(), 2, "{told:?}");
    assert!(told[0].contains("Open(upper, 4"), "{told:?}");
    assert!(told[1].contains("Shut([a, b])"), "{told:?}");
}
