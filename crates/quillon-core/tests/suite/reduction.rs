//! Reduction: rules, their order, names that must not be captured, and how it can end.

use crate::common;
use crate::common::{language, mistakes, with_tokens};
use quillon_core::reduction::{Bounds, Ended, Kept, Reduction, reduce};
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{Verdict, case_limits, check_soundness, examples, run_case};
use quillon_core::{Language, Prepared, Reading};

/// A calculus that goes under its binders, so that what is put in can have free names.
fn calculus() -> Language {
    with_tokens(
        r#"
precedence of Term, loosest first
  prefix Function
  left   Plus
  left   Apply

form Function in Term
  written  name:Name "." body:Term
  binds    name in body
  is value
  reduces in body

form Apply in Term
  written  callee:Term "!" argument:Term
  is value
  reduces in callee, then in argument
  reduces  callee is Function(x, body) to body[x := argument]

form Plus in Term
  written  left:Term "+" right:Term
  reduces in left, then in right
  reduces  left is Number(a), right is Number(b) when a < 100 to Number(a + b)

form Pair in Term
  written  "(" parts:Term* by "," ")"
  reduces in parts
  reduces  parts is [one] to one
  reduces  parts is [one, two, others...] to Plus(one, Pair([two, others...]))

form Variable in Term
  written  name:Name
  uses     name
  is value

form Number in Term
  written  value:Whole
  is value

form Group in Term
  written  "[" inner:Term "]"
  becomes  inner
"#,
    )
}

fn reduced(language: &Language, text: &str, most: usize) -> Reduction {
    let source = SourceText::new("program", text);
    let outcome = reduce(
        language,
        &source,
        Reading::Entry,
        Bounds {
            steps: most,
            ..Bounds::default()
        },
    );
    outcome
        .value
        .unwrap_or_else(|| panic!("{:#?}", outcome.diagnostics))
}

/// The texts of all steps.
fn texts(language: &Language, text: &str) -> Vec<String> {
    let steps = reduced(language, text, 50).steps;
    steps.into_iter().map(|step| step.text).collect()
}

#[test]
fn steps_follow_the_order_of_the_fields() {
    let language = calculus();
    assert_eq!(
        texts(&language, "[1 + 2] + [3 + 4]"),
        ["1 + 2 + [3 + 4]", "3 + [3 + 4]", "3 + 7", "10"]
    );
    assert_eq!(
        texts(&language, "(1, 2, 3)"),
        [
            "(1, 2, 3)",
            "1 + (2, 3)",
            "1 + [2 + (3)]",
            "1 + [2 + 3]",
            "1 + 5",
            "6"
        ]
    );
}

#[test]
fn of_a_reduction_the_last_step_alone_can_be_kept() {
    let language = calculus();
    for text in [
        "[1 + 2] + [3 + 4]",
        "f.[x.x!x] ! [y.f!y]",
        "[x.x!x] ! [x.x!x]",
        "(1, 2) ! 3",
    ] {
        let source = SourceText::new("program", text);
        let ends = |kept: Kept| {
            let bounds = Bounds {
                steps: 20,
                kept,
                ..Bounds::default()
            };
            let reduction = reduce(&language, &source, Reading::Entry, bounds).value;
            let mut reduction = reduction.expect("it has both names and rules");
            let last = reduction.steps.pop().expect("there is a last one");
            (reduction.ended, last.text, reduction.steps.len())
        };
        let (every, last) = (ends(Kept::Every), ends(Kept::Last));
        assert_eq!((&every.0, &every.1), (&last.0, &last.1));
        assert_eq!(last.2, 0);
    }
}

#[test]
fn what_changes_is_marked_in_both_texts() {
    let found = reduced(&calculus(), "1 + [2 + 3]", 50);
    let marked = |number: usize, next: bool| {
        let step = &found.steps[number];
        let marks = step.marks;
        let span = if next {
            marks.will_change
        } else {
            marks.changed
        };
        span.map(|span| &step.text[span.start as usize..span.end as usize])
    };
    assert_eq!(marked(0, false), None);
    assert_eq!(marked(0, true), Some("2 + 3"));
    assert_eq!(marked(1, false), Some("5"));
    assert_eq!(marked(1, true), Some("1 + 5"));
}

#[test]
fn no_name_is_captured() {
    let language = {
        let definition = calculus().definition().source.text().to_owned();
        // An application is finished only where nothing can be done with it.
        common::language(&definition.replace(
            "written  callee:Term \"!\" argument:Term\n  is value\n",
            "written  callee:Term \"!\" argument:Term\n",
        ))
    };
    // Going under `y`, what is put in for `x` is the outer `y`.
    let found = reduced(&language, "y. [x. y. x] ! y", 50);
    let last = found.steps.last().unwrap();
    assert_eq!(last.text, "y.y2.y");
    assert_eq!(last.renamed[0].from, "y");
    assert_eq!(last.renamed[0].to, "y2");
    assert_eq!(found.ended, Ended::Value);
    // Nothing is renamed where nothing would be captured.
    let found = reduced(&language, "y. [x. z. x] ! y", 50);
    assert_eq!(found.steps.last().unwrap().text, "y.z.y");
    assert!(found.steps.iter().all(|step| step.renamed.is_empty()));
    // A binder inside that hides the name is left alone.
    let found = reduced(&language, "y. [x. x. x] ! y", 50);
    assert_eq!(found.steps.last().unwrap().text, "y.x.x");
}

#[test]
fn it_ends_in_a_value_stuck_in_a_circle_or_at_the_limit() {
    let language = language(&calculus().definition().source.text().replace(
        "written  callee:Term \"!\" argument:Term\n  is value\n",
        "written  callee:Term \"!\" argument:Term\n",
    ));
    let ended = |text: &str| reduced(&language, text, 20).ended;
    assert_eq!(ended("[x. x] ! 3"), Ended::Value);
    let Ended::Stuck(why) = ended("3 ! 4") else {
        panic!("it is stuck");
    };
    assert_eq!(
        why,
        [
            "`reduces callee is Function(x, body) to body[x := argument]` does not fit: `callee` is no Function"
        ]
    );
    let Ended::Stuck(why) = ended("[[100] + 1]") else {
        panic!("it is stuck");
    };
    assert!(why[0].ends_with("`a < 100` does not hold"), "{why:?}");
}

/// What grows into the depth ends before the native stack does: on a thread of a test, and the
/// later the more room there is.
#[test]
fn a_program_that_grows_ever_deeper_ends_in_time() {
    let grow = "form Grow in Term\n  written  \"grow\" value:Whole\n  reduces  to Plus(Grow(value), Number(value))\n";
    let language = language(&(calculus().definition().source.text().to_owned() + "\n" + grow));
    let text = "grow 1";
    let ended = reduced(&language, text, 1000).ended;
    let Ended::Depth(here) = ended else {
        panic!("it ends in another way: {ended:?}");
    };
    quillon_core::native_stack::on_deep_stack(|| {
        assert!(here < quillon_core::native_stack::deepest_tree());
        assert_eq!(reduced(&language, text, 300).ended, Ended::Limit);
    });
}

#[test]
fn mistakes_in_rules_are_found_where_they_stand() {
    let found = mistakes(&format!(
        "language Own\n{}\nform Plus\n  written  left:Number \"+\" right:Number\n  reduces in lft\n  reduces  left is Nmber(a) to Number(a)\n  reduces  left is Number(a, b) to itself\n  reduces  left is Number(a) to Number(c)\n  reduces  left is value to Number\n\nform Number\n  written  value:Whole\n  is value\n",
        common::TOKENS
    ));
    let messages: Vec<&str> = found
        .iter()
        .map(|said| said.split_once(' ').map_or("", |(_, message)| message))
        .collect();
    assert_eq!(
        messages,
        [
            "the rule has no `lft`",
            "there is no form `Nmber`",
            "form `Number` has 1 field, and here are names for 2",
            "the rule has no `c`",
            "field `value` of form `Number` is missing here",
        ]
    );
}

/// Truth and numbers by rules alone; the type of a test is said, or is not.
fn rules_only(test: &str) -> Language {
    with_tokens(&format!(
        r#"
form Zero in Term
  written  "zero"
  is value
  typed    gives number
form Yes in Term
  written  "yes"
  is value
  typed    gives truth
form If in Term
  written  "if" test:Term "then" one:Term "else" two:Term
  typed    {test} one : T, two : T gives T
  reduces in test
  reduces  test is Yes to one
  reduces  test is Zero to two
  example  `if yes then zero else yes`              reduces to `zero`
  example  `if if zero then zero else yes then (zero) else zero`   reduces to `(zero)`
  example  `if if yes then yes else yes then zero else zero`  stuck at `zero`
  example  `if zero then zero else yes`             reduces to `zero`
  example  `if no then zero else zero`              stuck at `if no then zero else zero`
  example  `if zero then zero else zero`            types number
form No in Term
  written  "no"
  is value
  typed    gives truth
form Group in Term
  written  "(" inner:Term ")"
  becomes  inner
"#
    ))
}

#[test]
fn what_a_program_is_rewritten_to_can_be_expected() {
    let own = rules_only("");
    let prepared = Prepared::new(&own);
    let results: Vec<String> = examples(&own)
        .map(|case| {
            let source = &own.definition().source;
            let result = run_case(&prepared, source, case, case_limits());
            let differences = result.differences.iter();
            let mut told = differences.map(|d| format!("{}, not {}", d.got, d.expected));
            match result.verdict {
                Verdict::Passed => "passed".to_owned(),
                Verdict::Failed | Verdict::Waiting => told.next().unwrap_or_default(),
            }
        })
        .collect();
    assert_eq!(
        results,
        [
            "passed",
            "passed",
            "`zero`, not stuck at `zero`",
            "`yes`, not `zero`",
            "passed",
            "passed",
        ]
    );
}

#[test]
fn a_form_with_rules_is_finished_where_none_can_be_used() {
    let own = with_tokens(
        "
precedence of Term, loosest first
  left  Apply
form Apply in Term
  written  callee:Term argument:Term
  is value
  reduces in callee
  reduces  callee is Same to argument
  reduces  callee is Apply(first, kept), first is Keep to kept
form Same in Term
  written  \"same\"
  is value
form Keep in Term
  written  \"keep\"
  is value
form Word in Term
  written  name:Name
  is value
",
    );
    let last = |text: &str| {
        let reduction = reduced(&own, text, 20);
        assert_eq!(reduction.ended, Ended::Value, "{text}");
        reduction.steps.last().map(|step| step.text.clone())
    };
    assert_eq!(last("keep a b").as_deref(), Some("a"));
    assert_eq!(last("same keep a b c").as_deref(), Some("a c"));
    assert_eq!(last("keep same").as_deref(), Some("keep same"));
}

#[test]
fn where_there_are_only_rules_what_types_promise_is_not_to_get_stuck() {
    let check = |own: &Language, text: &str| {
        let source = SourceText::new("program", text);
        check_soundness(&Prepared::new(own), &source, Limits::default())
    };
    let own = rules_only("");
    let hole = check(&own, "if no then zero else zero").expect("its types fit");
    assert_eq!(hole.verdict, Verdict::Failed);
    assert_eq!(
        hole.notes,
        ["a `typed` clause promises too much: it goes wrong in form `If`"]
    );
    assert!(check(&own, "if no then zero else no").is_none());
    let fine = check(&own, "if yes then zero else zero").expect("its types fit");
    assert_eq!(fine.verdict, Verdict::Passed);
    assert!(check(&rules_only("test : number,"), "if yes then zero else zero").is_none());
}

#[test]
fn a_language_says_how_a_binder_is_renamed() {
    let calculus = |names: &str, clause: &str| {
        let text = format!(
            "language Own\n{clause}tokens\n  Blank \" \"+ ignored\n  Name {names}\nform Function in Term\n  written \"fn\" name:Name \".\" body:Term\n  binds name in body\n  is value\n  reduces in body\nform Apply in Term\n  written \"(\" callee:Term argument:Term \")\"\n  is value\n  reduces in callee, then in argument\n  reduces callee is Function(x, body) to body[x := argument]\nform Variable in Term\n  written name:Name\n  uses name or free\n  is value\n"
        );
        language(&text)
    };
    let last = |language: &Language, text: &str| {
        let source = SourceText::new("text", text.to_owned());
        let found = reduce(language, &source, Reading::Entry, Bounds::default());
        let last = found.value.unwrap().last;
        let comments = quillon_core::printing::Comments::default();
        let brackets = quillon_core::printing::Brackets::Fewest;
        language.source_of(&last, brackets, &comments).unwrap()
    };
    let primed = calculus("letter (letter | \"'\" | digit)*", "  renames with \"'\"\n");
    assert_eq!(
        last(&primed, "fn y. (fn x. fn y. (x y) y)"),
        "fn y.fn y'.(y y')"
    );
    assert_eq!(
        last(&primed, "fn y. fn y'. (fn x. fn y. (x (y y')) y)"),
        "fn y.fn y'.fn y''.(y (y'' y'))"
    );
    // Names that cannot end so are numbered, and then other letters are tried.
    let numbered = calculus("letter (letter | digit)*", "  renames with \"'\"\n");
    assert_eq!(
        last(&numbered, "fn y. (fn x. fn y. (x y) y)"),
        "fn y.fn y2.(y y2)"
    );
    assert_eq!(
        mistakes("language Own\n  renames \"'\"\ntokens\n  Name letter+\n"),
        ["2:10 `with` is missing here"]
    );
}
