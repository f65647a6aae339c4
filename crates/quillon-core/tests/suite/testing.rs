//! Cases, properties, generated programs, coverage, and definitions compared.

use crate::common;
use crate::common::{TOKENS, language, with_tokens};
use quillon_core::definition::{Earlier, Example, read_cases};
use quillon_core::source::SourceText;
use quillon_core::testing::{
    Exchange, ItemKind, Survey, Trial, Verdict, accepted, case_limits, case_of, compare, edited,
    run_case,
};
use quillon_core::{Language, Prepared};

/// Bindings, loops, chance, input, a cell.
const ITEMS: &str = "
precedence of Expr, loosest first
  left  Add
  left  Multiply
state
  level = 2
usual Program, Let, Add, Variable, Words
form Say in Step
  written  \"say\" value:Expr
  means    output(shown(value), \"\\n\")
form Raise in Step
  written  \"raise\" by:Expr
  means    if by < 0 { fault \"a level rises\" at by }; level := level + by
form Value in Step
  written  value:Expr
  means    value
form Choose in Step
  written  \"choose\" one:Expr (\"or\" other:Expr)?
  means    if given other { other } else { one }
form Multiply in Expr
  written  left:Expr \"*\" right:Expr
  means    left * right
form Dice in Expr
  written  \"dice\"
  means    random.integer(1, 1000000)
form Ask in Expr
  written  \"ask\"
  means    input()
form Number in Expr
  written  value:Whole | value:Decimal
  means    value
";

pub fn own() -> Language {
    with_tokens(ITEMS)
}

fn cases(text: &str) -> (std::sync::Arc<SourceText>, Vec<Example>, Vec<String>) {
    let source = SourceText::new("own.cases", text);
    let read = read_cases(&source);
    let said = read.diagnostics.iter().map(common::said).collect();
    (source, read.value.unwrap().cases, said)
}

/// What fails of some cases: the title, and what differs or is wrong.
fn failing(text: &str) -> Vec<String> {
    let own = own();
    let (source, cases, said) = cases(text);
    assert_eq!(said, [""; 0]);
    let prepared = Prepared::new(&own);
    let mut found = Vec::new();
    for case in &cases {
        let result = run_case(&prepared, &source, case, case_limits());
        let differences = result.differences.iter();
        found.extend(differences.map(|d| {
            format!(
                "{}: {} / {} / {}",
                result.title,
                d.what.words(),
                d.expected,
                d.got
            )
        }));
        let wrong = result.diagnostics.iter();
        found.extend(wrong.map(|d| format!("{}: {}", result.title, common::said(d))));
        assert_eq!(
            result.verdict == Verdict::Passed,
            found.is_empty() || found.iter().all(|f| !f.starts_with(&result.title))
        );
    }
    found
}

#[test]
fn cases_say_all_that_they_can() {
    let all = "
case everything at once
  after `let boats = 3`
  after
    | let gates = 4 ;
    | raise 1
  given input
    | one
    | two
  given seed 7
  given state level = 10
  program
    | say ask + ask ;
    | raise boats ;
    | gates
  prints
    | onetwo
  gives 4
  leaves level = 14
  tree Program([Say(Add(Ask, Ask)), Raise(Variable(boats)), Value(Variable(gates))])
  tokens [say, ask, `+`, ask, `;`, raise, Name(boats), `;`, Name]

cases of short ones
  `1 + 2 * 3`     gives 7      tree Add(Number(1), Multiply(Number(2), Number(3)))
  `say \"a\"`       prints \"a\\n\"   tokens [say, Text(\"a\")]
  `raise 0 + x`   fails \"no binding\" at 1:11
  after `let x = 4` `x * 2`   gives 8
  from Program([Say(Add(Number(1), Number(2)))])   prints \"3\\n\"
  from Add(Words(\"lock\"), Words(\"gate\"))   gives \"lockgate\"
  from Program([Let(name: n, value: Number(4)), Value(Variable(n))])   gives 4
";
    let joins = with_tokens(&common::with_usual(ITEMS).replace(
        "means    left + right",
        "means    match left { text t => t & right else => left + right }",
    ));
    let (source, cases, said) = cases(all);
    assert_eq!(said, [""; 0]);
    let prepared = Prepared::new(&joins);
    for case in &cases {
        let result = run_case(&prepared, &source, case, case_limits());
        assert_eq!(result.verdict, Verdict::Passed, "{result:#?}");
    }
}

#[test]
fn what_does_not_hold_is_said_with_both_sides() {
    let found = failing(
        "cases of wrong ones
  `1 + 2`      gives 4
  `say 1`      prints \"2\"
  `1 + 2`      tree Add(Number(1), Number(3))
  `1 + 2`      tokens [Whole(1), `-`, Whole(2)]
  `raise 1`    leaves level = 4
  `1`          fails \"no\"
  from Add(Number(1))            gives 1
  from Add(Nmber(1), Number(2))  gives 1
  after `raise -` `1`            gives 1
",
    );
    assert_eq!(
        found,
        [
            "wrong ones (1): value / 4 / 3",
            "wrong ones (2): output / 2 / 1\n",
            "wrong ones (3): tree / Add(Number(1), Number(3)) / Program([Value(Add(Number(1), Number(2)))])",
            "wrong ones (4): tokens / [Whole(1), `-`, Whole(2)] / [Whole(1), `+`, Whole(2)]",
            "wrong ones (5): state / 4 / 3",
            "wrong ones (6): error / \"no\" / no error; it gives 1",
            "wrong ones (7): 8:8 field `right` is missing here",
            "wrong ones (8): 9:12 this is no Expr, which field `left` needs",
            "wrong ones (9): 1:7 no token starts with `-`",
        ]
    );
}

#[test]
fn mistakes_in_cases_are_found_where_they_stand() {
    let (_, cases, said) = cases(
        "case without a program
  gives 1
case of nothing
  program `1`
case with a wrong seed
  given seed \"x\"
  program `1`
  gives 1
cases of more
  `1` gvies 1
  after 1 `2` gives 2
",
    );
    assert_eq!(
        said,
        [
            "1:1 there is no program here",
            "3:1 this program is expected to do nothing in particular",
            "6:14 expected a whole number, found `\"x\"`",
            "10:7 expected an expectation such as `gives`, found `gvies`",
            "11:9 expected an entry in backquotes, or lines behind bars, found `1`",
        ]
    );
    let empty: Vec<&str> = cases
        .iter()
        .filter(|case| case.expectations.is_empty())
        .map(|case| case.title.as_str())
        .collect();
    assert_eq!(empty, ["of nothing"]);
}

#[test]
fn what_was_got_is_written_where_something_else_was_expected() {
    let text = "cases of sums
  `1 + 2`   gives 4   tree Add(Number(1), Number(1))
  `say 1`   prints \"2\"
  `1 + x`   gives 1

case of nothing yet
  program
    | say 1 ;
    | 5

case of a level
  program `raise 2`
  leaves level = 0
";
    let own = own();
    let prepared = Prepared::new(&own);
    let (source, cases, _) = cases(text);
    let edits: Vec<_> = cases
        .iter()
        .flat_map(|case| accepted(&prepared, &source, case, case_limits()))
        .collect();
    let now = edited(source.text(), &edits);
    assert_eq!(
        now,
        "cases of sums
  `1 + 2`   gives 3   tree Program([Value(Add(Number(1), Number(2)))])
  `say 1`   prints \"1\\n\"
  `1 + x`   fails \"there is no binding called `x`\" at 1:5

case of nothing yet
  program
    | say 1 ;
    | 5
  prints \"1\\n\"
  gives 5

case of a level
  program `raise 2`
  leaves level = 4
"
    );
    let (source, cases, said) = self::cases(&now);
    assert_eq!(said, [""; 0]);
    for case in &cases {
        let result = run_case(&prepared, &source, case, case_limits());
        assert_eq!(result.verdict, Verdict::Passed, "{result:#?}");
        assert_eq!(accepted(&prepared, &source, case, case_limits()), []);
    }
}

#[test]
fn an_exchange_becomes_a_case_with_only_what_it_needs() {
    let own = own();
    let prepared = Prepared::new(&own);
    let after = ["let a = 2", "let b = a + 1", "let c = 9", "say b"].map(Earlier::new);
    let mut exchange = Exchange {
        prepared: &prepared,
        after: &after,
        program: "say ask ;\nb * 2",
        surface: None,
        input: "lock\n",
        value: Some("6"),
        printed: "lock\n",
        limits: case_limits(),
    };
    let case = case_of(&exchange, "b twice").unwrap();
    assert_eq!(
        case,
        "case b twice
  after `let a = 2`
  after `let b = a + 1`
  given input \"lock\\n\"
  program
    | say ask ;
    | b * 2
  prints \"lock\\n\"
  gives 6
"
    );
    let (source, cases, said) = cases(&case);
    assert_eq!(said, [""; 0]);
    let result = run_case(&prepared, &source, &cases[0], case_limits());
    assert_eq!(result.verdict, Verdict::Passed, "{result:#?}");
    exchange.value = Some("7");
    let problem = case_of(&exchange, "b twice").unwrap_err();
    assert!(
        problem.message.contains("gives something else"),
        "{problem:?}"
    );
}

fn untouched(survey: &Survey, kind: ItemKind) -> Vec<(String, Option<String>)> {
    let items = survey.items().iter();
    items
        .filter(|item| item.kind == kind && item.touched == 0)
        .map(|item| (item.name.clone(), item.suggestion.clone()))
        .collect()
}

#[test]
fn what_no_case_touches_is_found_with_a_program_that_would() {
    let own = with_tokens(&format!(
        "{ITEMS}\nmessages\n  name.unbound  \"who is {{name}}?\"\n"
    ));
    let mut survey = Survey::new(&own);
    let prepared = survey.prepared().clone();
    for program in [
        "let a = 1 ; say a + 2 + 3 ; raise 1",
        "say \"x\"",
        "choose 1 or 2",
        "say dice",
        "",
    ] {
        survey.add(&Trial::of(&prepared, &SourceText::new("case", program)));
    }
    survey.suggest();
    let names = |kind| -> Vec<String> {
        untouched(&survey, kind)
            .into_iter()
            .map(|(name, _)| name)
            .collect()
    };
    assert_eq!(names(ItemKind::Form), ["Value", "Multiply", "Ask"]);
    assert_eq!(
        names(ItemKind::Token),
        ["`*`", "`ask`", "Remark", "Decimal"]
    );
    assert_eq!(
        names(ItemKind::Way),
        ["Choose without `\"or\" Expr`", "Number as `Decimal`"]
    );
    assert_eq!(
        names(ItemKind::Pair),
        ["Add around Multiply", "Multiply twice in a row"]
    );
    assert_eq!(
        names(ItemKind::Branch),
        [
            "Raise, when the condition holds: `{ fault \"a level rises\" at by }`",
            "Raise, the error: `fault \"a level rises\" at by`",
            "Choose, otherwise: `{ one }`",
        ]
    );
    assert_eq!(names(ItemKind::Message), ["name.unbound"]);
    // Everything but a comment and a negative level can be had.
    for kind in ItemKind::ALL {
        for (name, program) in untouched(&survey, kind) {
            let out_of_reach = name == "Remark" || name.starts_with("Raise,");
            assert_eq!(program.is_none(), out_of_reach, "{name}: {program:?}");
        }
    }
    let pairs = untouched(&survey, ItemKind::Pair);
    let twice = pairs[1].1.as_deref().unwrap();
    assert_eq!((twice.len(), twice.matches('*').count()), (9, 2), "{twice}");
}

#[test]
fn definitions_are_compared_stage_by_stage() {
    let old = own();
    let new = language(&format!(
        "language Own\n{TOKENS}\n{}",
        ITEMS
            .replace("left  Multiply", "right Multiply")
            .replace("means    left * right", "means    left * right * 2")
    ));
    let (old, new) = (Prepared::new(&old), Prepared::new(&new));
    let differing = |text: &str| -> Vec<String> {
        let found = compare(&old, &new, &SourceText::new("own", text), case_limits());
        found
            .iter()
            .map(|d| format!("{}: {} / {}", d.what.words(), d.expected, d.got))
            .collect()
    };
    assert_eq!(differing("1 + 2"), [""; 0]);
    assert_eq!(differing("2 * 3"), ["value: 6 / 12"]);
    assert_eq!(differing("say 2 * 3"), ["output: 6\n / 12\n"]);
    assert_eq!(differing("raise 1 * 1"), ["state: level = 3 / level = 4"]);
    assert_eq!(
        differing("1 * 2 * x"),
        [
            "tree: Program([Value(Multiply(Multiply(Number(1), Number(2)), Variable(x)))]) / Program([Value(Multiply(Number(1), Multiply(Number(2), Variable(x))))])"
        ]
    );
}

#[test]
fn a_case_can_say_which_kind_of_error_it_means() {
    let all = "
cases of errors
  `1 + x`   fails name.unbound at 1:5
  `1 + `    fails syntax.unfinished
  `1 + x`   fails syntax.unexpected at 1:5
  `1 + x`   fails name.unbound at 1:4
";
    assert_eq!(
        failing(all),
        [
            "errors (3): error / syntax.unexpected at 1:5 / name.unbound, \"there is no binding called `x`\", at 1:5",
            "errors (4): error / name.unbound at 1:4 / name.unbound, \"there is no binding called `x`\", at 1:5",
        ]
    );
    let (.., said) = cases("cases of errors\n  `1 + x`   fails name.unbuond\n");
    assert_eq!(said, ["2:19 there is no error `name.unbuond`"]);
}

#[test]
fn a_tree_that_differs_says_where() {
    let all = "
cases of trees
  `1 + 2`   tree Ad(Number(1), Number(2))
  `1 + 2`   tree Add(Number(1), Number(3))
  `1 + 2`   tree Add(Number(1), Multiply(Number(2), Number(3)))
";
    let (source, cases, _) = cases(all);
    let own = own();
    let prepared = Prepared::new(&own);
    let notes = cases.iter().map(|case| {
        run_case(&prepared, &source, case, case_limits())
            .notes
            .join("; ")
    });
    assert_eq!(
        notes.collect::<Vec<_>>(),
        [
            "there is no form `Ad`; did you mean `Add`? at 1:1",
            "expected `3`, found `2` at 1:5",
            "expected Multiply, found form Number at 1:5",
        ]
    );
}
