//! What must hold of programs before they run.

use crate::common::{errors, mistakes, said, value, with_tokens};
use quillon_core::definition::read_cases;
use quillon_core::source::SourceText;
use quillon_core::testing::{Verdict, case_limits, run_case};
use quillon_core::{Language, Prepared};

/// All that is wrong with a program, with places.
fn wrong(language: &Language, program: &str) -> Vec<String> {
    errors(language, program).iter().map(said).collect()
}

/// Jumps to labels, which may come later.
const LABELS: &str = r#"
state
  labels = map.new()  for checks
  is_first = true     for checks
  gone = 0
form Program
  written  steps:Step+ by ";"
  checks   { all steps; is_first := false; all steps }
  means    all steps
form Label in Step
  written  "mark" name:Name
  checks   if is_first and map.has(labels, spelling of name) { fault "two marks are called " & spelling of name at name } else { map.put(labels, spelling of name, true) }
  means    nothing
form Goto in Step
  written  "go" name:Name
  checks   if not is_first and not map.has(labels, spelling of name) { fault "there is no mark " & spelling of name at name }
  means    gone := gone + 1
form Say in Step
  written  "say" value:Whole
  means    output(value, " ")
"#;

#[test]
fn a_label_that_is_jumped_to_exists() {
    let language = with_tokens(LABELS);
    assert_eq!(
        value(&language, "say 1; go end; mark end; go end"),
        "1 nothing"
    );
    assert_eq!(
        wrong(&language, "say 1; go end; mark ned; go ned; go up"),
        ["1:11 there is no mark end", "1:37 there is no mark up"]
    );
    // Nothing has run.
    assert_eq!(
        value(&language, "say 1; go end"),
        "1:11 there is no mark end"
    );
}

#[test]
fn cells_that_are_for_checks_are_no_state_of_a_run() {
    let language = with_tokens(LABELS);
    let session = language.session();
    let mut host = quillon_core::runtime::Recorder::default();
    let session = session.start(&mut host).unwrap();
    let cells: Vec<&str> = session.state().map(|(name, _)| name).collect();
    assert_eq!(cells, ["gone"]);
}

#[test]
fn a_broken_rule_has_a_code_that_cases_and_wordings_can_name() {
    let language = with_tokens(&format!(
        "{LABELS}messages\n  rule.broken \"not so: {{message}}\"\n"
    ));
    let cases = "
cases of marks
  `go up`            fails rule.broken at 1:4
  `go up`            fails \"not so: there is no mark up\"
  `mark up; go up`   leaves gone = 1
";
    let source = SourceText::new("own.cases", cases.to_owned());
    let prepared = Prepared::new(&language);
    for case in read_cases(&source).value.unwrap().cases {
        let result = run_case(&prepared, &source, &case, case_limits());
        assert_eq!(result.verdict, Verdict::Passed, "{result:#?}");
    }
}

/// A form that stands only inside another, not counting through functions.
const INSIDE: &str = r#"
precedence of Expr, loosest first
  prefix  Way
state
  loops = 0  for checks
form Program
  written  steps:Expr+ by ";"
  means    all steps
form Loop in Expr
  written  "loop" "{" steps:Expr* by ";" "}"
  checks   { loops := loops + 1; all steps; loops := loops - 1 }
  means    landing out { while true { all steps } }
form Way in Expr
  written  "way" body:Expr
  checks   { let before = loops; loops := 0; body; loops := before }
  means    function () { landing out { body } }
form Out in Expr
  written  "out"
  checks   if loops = 0 { fault "`out` stands in no loop" }
  means    jump out
form Many in Expr
  written  "[" items:Expr* by "," "]"
  means    items
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
"#;

#[test]
fn a_form_stands_only_inside_another() {
    let language = with_tokens(INSIDE);
    assert_eq!(wrong(&language, "loop { out }"), [""; 0]);
    assert_eq!(
        wrong(&language, "loop { [way 1]; loop { (out) }; out }").len(),
        1
    );
    assert_eq!(
        wrong(&language, "[out, loop { way out; out }]; (out)"),
        [
            "1:2 `out` stands in no loop",
            "1:18 `out` stands in no loop",
            "1:32 `out` stands in no loop"
        ]
    );
}

/// States and the ways between them: all can be reached, and every way leads somewhere.
const STATES: &str = r#"
state
  leading = map.new()   for checks
  reached = map.new()   for checks
  first   = nothing     for checks
  turn    = 1           for checks
define follow() = {
  let open = [first];
  while list.length(open) > 0 {
    let at = list.take(open);
    if not map.has(reached, at) {
      map.put(reached, at, true);
      match map.find(leading, at) { list others => each to in others { list.add(open, to) } else => nothing }
    }
  }
}
form Machine
  written  states:State+
  checks   { all states; turn := 2; follow(); all states }
form State
  written  "state" name:Name "to" ways:Name* by ","
  checks   if turn = 1 {
      if first = nothing { first := spelling of name };
      map.put(leading, spelling of name, spelling of ways)
    } else {
      if not map.has(reached, spelling of name) { fault "nothing leads to " & spelling of name at name };
      each way in ways { if not map.has(leading, spelling of way) { fault "no state is called " & spelling of way at way } }
    }
"#;

#[test]
fn every_state_can_be_reached() {
    let language = with_tokens(STATES);
    let told = |program: &str| {
        let source = SourceText::new("text", program.to_owned());
        let tree = language.tree(&source, quillon_core::Reading::Program);
        let tree = tree.value.unwrap();
        let around = quillon_core::scoping::Around::Nothing;
        let names = language.names(&tree, around).value.unwrap();
        language
            .refused(&tree, &names)
            .iter()
            .map(said)
            .collect::<Vec<_>>()
    };
    assert_eq!(
        told("state low to rising state rising to high, low state high to low"),
        [""; 0]
    );
    assert_eq!(
        told("state low to low, hgih state lost to low state high to low"),
        [
            "1:19 no state is called hgih",
            "1:30 nothing leads to lost",
            "1:48 nothing leads to high"
        ]
    );
}

/// Quantities with units: what a form checks gives what it is in.
const UNITS: &str = r#"
precedence of Expr, loosest first
  left  Add
  left  Times
form Program
  written  steps:Step+ by ";"
  opens    scope
  means    all steps
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  checks   name := value
  means    name := value
form Show in Step
  written  value:Expr
  means    value
form Way in Step
  written  "way" name:Name "(" param:Name ")" "=" body:Expr
  opens    scope around body
  binds    name onward, param in body
  checks   { let unit = body; name := nothing }
  means    name := function (param) { body }
form Add in Expr
  written  left:Expr "+" right:Expr
  checks   {
      let one = left;
      let other = right;
      if one /= nothing and other /= nothing and one /= other { fault "this is in " & shown(other) & ", and the other side in " & shown(one) at right };
      if one = nothing { other } else { one }
    }
  means    left + right
form Times in Expr
  written  left:Expr "*" right:Expr
  checks   { let one = left; let other = right; if one = nothing { other } else { if other /= nothing { fault "a product of two units" }; one } }
  means    left * right
form Quantity in Expr
  written  value:Whole unit:("m" | "s")?
  checks   if given unit { spelling of unit } else { nothing }
  means    value
form Group in Expr
  written  "(" inner:Expr ")"
  means    inner
usual Variable
"#;

#[test]
fn a_declared_unit_fits() {
    let language = with_tokens(UNITS);
    assert_eq!(value(&language, "let a = 3 m; (a + 4 m) * 2 + 1"), "15");
    assert_eq!(
        wrong(
            &language,
            "let a = 3 m; let b = (a + 1) * 2; b + 4 s; a * b; a + b"
        ),
        [
            "1:39 this is in s, and the other side in m",
            "1:44 a product of two units"
        ]
    );
    // A parameter has no value yet, and is in nothing.
    assert_eq!(
        wrong(&language, "way f(a) = a + 3 m + 2 s; f"),
        ["1:22 this is in s, and the other side in m"]
    );
    // In a conversation each entry is looked at by itself.
    let mut host = quillon_core::runtime::Recorder::default();
    let mut session = language.session().start(&mut host).unwrap();
    for (entry, fine) in [
        ("let a = 3 m", true),
        ("a + 2 s", true),
        ("1 m + 2 s", false),
    ] {
        let source = SourceText::new("entry", entry.to_owned());
        assert_eq!(
            session.enter_source(&source).value.is_some(),
            fine,
            "{entry}"
        );
    }
}

/// Definitions that must not go in a circle: each is looked at once, by what it needs.
const CIRCLES: &str = r#"
state
  needs = map.new()  for checks
  known = map.new()  for checks
  turn  = 1          for checks
define settle() = {
  let more = true;
  while more {
    more := false;
    each name in map.keys(needs) {
      if not map.has(known, name) {
        let open = false;
        each need in map.get(needs, name) { if map.has(needs, need) and not map.has(known, need) { open := true } };
        if not open { map.put(known, name, true); more := true }
      }
    }
  }
}
form Program
  written  defs:Def+
  checks   { all defs; settle(); turn := 2; all defs }
form Def
  written  name:Name "needs" others:Name* by ","
  checks   if turn = 1 { map.put(needs, spelling of name, spelling of others) } else { if not map.has(known, spelling of name) { fault spelling of name & " needs itself in the end" at name } }
"#;

#[test]
fn definitions_do_not_go_in_a_circle() {
    let language = with_tokens(CIRCLES);
    let cases = "
cases of needs
  `a needs b b needs c c needs`     tree Program([Def(a, [b]), Def(b, [c]), Def(c, [])])
  `a needs b b needs a c needs d`   fails \"a needs itself in the end\" at 1:1
";
    let source = SourceText::new("own.cases", cases.to_owned());
    let prepared = Prepared::new(&language);
    for case in read_cases(&source).value.unwrap().cases {
        let result = run_case(&prepared, &source, &case, case_limits());
        assert_eq!(result.verdict, Verdict::Passed, "{result:#?}");
    }
}

#[test]
fn what_goes_wrong_in_a_check_is_said_and_ends() {
    let with = |checks: &str| {
        with_tokens(&format!(
            "form Program\n  written \"run\" value:Whole\n  checks {checks}\n  means value\n"
        ))
    };
    assert_eq!(
        wrong(&with("list.at([], value)"), "run 1"),
        ["1:5 there is no item 1"]
    );
    let endless = wrong(&with("while true { value }"), "run 1");
    assert_eq!(endless.len(), 1);
    assert!(endless[0].contains("steps"), "{endless:?}");
    assert_eq!(value(&with("value"), "run 1"), "1");
}

#[test]
fn mistakes_in_checks_are_found_with_the_definition() {
    let with = |checks: &str| {
        mistakes(&format!(
            "language Own\ntokens\n  Name letter+\nform F\n  written \"f\" name:Name\n  checks {checks}\n  means nothing\n"
        ))
    };
    assert_eq!(with("spelling of name"), [""; 0]);
    assert_eq!(
        with("spelling of nme"),
        ["6:22 form `F` has no field `nme`"]
    );
    assert_eq!(
        with("lenght(name)"),
        ["6:10 there is no helper or operation `lenght`"]
    );
}

#[test]
fn checks_take_as_many_steps_as_the_program_is_long() {
    let language = with_tokens(LABELS);
    for count in [100, 10_000] {
        let gos = vec!["go end"; count].join("; ");
        assert_eq!(wrong(&language, &format!("{gos}; mark end")), [""; 0]);
    }
}

/// Kinds of boats, and choices among them that have an arm for each.
const CHOICES: &str = r#"
state
  kinds = map.new()  for checks
  arms = []          for checks
form Program
  written  steps:Step+ by ";"
  opens    scope
  means    all steps
form Kind in Step
  written  "kind" name:Name "is" ways:Name+ by "|"
  checks   { let own = []; each way in ways { list.add(own, spelling of way) }; map.put(kinds, spelling of name, own) }
  means    nothing
form Choose in Step
  written  "choose" kind:Name "by" arms_of:Arm+ ("else" other:Step)? "end"
  checks   if not map.has(kinds, spelling of kind) { fault "there is no kind " & spelling of kind at kind } else { let outer = arms; arms := []; all arms_of; if not given other { each way in map.get(kinds, spelling of kind) { if not list.contains(arms, way) { fault "no arm is for " & way at kind } } }; if given other { other }; arms := outer }
  means    all arms_of
form Arm
  written  "if" way:Name "then" step:Step
  checks   { let own = arms; if list.contains(own, spelling of way) { fault "two arms are for " & spelling of way at way } else { list.add(own, spelling of way) }; step; arms := own }
  means    step
form Say in Step
  written  "say" value:Whole
  means    output(value, " ")
"#;

#[test]
fn the_arms_of_a_choice_are_complete() {
    let language = with_tokens(CHOICES);
    let wrong = |program: &str| wrong(&language, &format!("kind Boat is barge | tug; {program}"));
    assert_eq!(
        wrong("choose Boat by if barge then say 1 if tug then say 2 end"),
        [""; 0]
    );
    assert_eq!(
        wrong("choose Boat by if tug then say 2 else say 1 end"),
        [""; 0]
    );
    assert_eq!(
        wrong("choose Boat by if tug then say 2 end"),
        ["1:34 no arm is for barge"]
    );
    assert_eq!(
        wrong(
            "choose Boat by if tug then say 1 if barge then say 2 if tug then say 3 end; choose Bote by if tug then say 1 end"
        ),
        ["1:83 two arms are for tug", "1:110 there is no kind Bote"]
    );
    // One choice in an arm of another.
    assert_eq!(
        wrong(
            "kind Lock is upper | lower; choose Boat by if tug then choose Lock by if upper then say 1 if barge then say 3 end end"
        ),
        ["1:62 no arm is for barge", "1:89 no arm is for lower"],
    );
}
