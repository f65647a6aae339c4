//! Forms that become other forms.

use crate::common;
use crate::common::{mistakes, tree, value, with_tokens};

const CORE: &str = "
usual Program, Let, List
form When in Step
  written  \"when\" test:Expr yes:Block no:Block?
  means    if test { yes } else { if given no { no } }
form Plain in Step
  written  value:Expr
  means    value
form Block
  written  \"{\" steps:Step* by \";\" \"}\"
  opens    scope
  means    all steps
form Not in Expr
  written  \"not\" \"(\" value:Expr \")\"
  means    not value
form Less in Expr
  written  \"less\" \"(\" left:Expr \",\" right:Expr \")\"
  means    left < right
form V in Expr
  written  name:Name
  uses     name
  means    name
form N in Expr
  written  value:Whole
  means    value
";

#[test]
fn a_form_can_become_others_put_together_from_its_fields() {
    let own = with_tokens(&format!(
        "{CORE}
form Unless in Step
  written  \"unless\" test:Expr yes:Block
  becomes  When(Not(test), yes)
form Twice in Expr
  written  \"twice\" \"(\" one:Expr more:Expr* \")\"
  becomes  List([one, N0, more])
form N0 in Expr
  written  \"zero\"
  means    0
form Quick in Step
  written  \"quick\" name:Name value:Expr
  becomes  Let(name, value)
"
    ));
    assert_eq!(
        tree(&own, "unless less(1, 2) { 3 }"),
        "Program([When(Not(Less(N(1), N(2))), Block([Plain(N(3))]))])"
    );
    assert_eq!(value(&own, "unless less(2, 1) { 3 }"), "3");
    assert_eq!(value(&own, "twice(1 2 3)"), "[1, 0, 2, 3]");
    // Names keep their places, and their errors.
    assert_eq!(value(&own, "quick a 4; a"), "4");
    assert_eq!(
        value(&own, "quick a 4; quick a 5"),
        "1:18 `a` is bound twice in the same scope"
    );
    assert_eq!(
        value(&own, "unless 7 { 1 }"),
        "1:8 a truth value is needed here, and this is an integer: 7"
    );
}

#[test]
fn what_a_form_becomes_is_checked() {
    let wrong = |becomes: &str| {
        let text = format!(
            "language Own\n{}{CORE}\nform Unless in Step\n  written  \"unless\" test:Expr yes:Block\n  becomes  {becomes}\n",
            common::TOKENS
        );
        mistakes(&text)
            .into_iter()
            .map(|m| m.split_once(' ').unwrap().1.to_owned())
            .collect::<Vec<_>>()
    };
    assert_eq!(
        wrong("When(Not(tset), yes)"),
        ["`tset` is neither a field of form `Unless` nor a form"]
    );
    assert_eq!(
        wrong("Wehn(test, yes)"),
        ["`Wehn` is neither a field of form `Unless` nor a form"]
    );
    assert_eq!(wrong("When(test)"), ["form `When` needs its field `yes`"]);
    assert_eq!(
        wrong("When(test, yes, yes, yes)"),
        ["form `When` has only 3 fields"]
    );
    assert_eq!(
        wrong("When(test, yes, maybe: yes)"),
        ["form `When` has no field `maybe`"]
    );
    assert_eq!(
        wrong("When(test, yes, no: yes)"),
        ["field `yes` stands there twice"]
    );
    assert_eq!(
        wrong("Not(test)"),
        ["form `Unless` is in `Step`, and what it becomes is in `Expr`"]
    );
    assert_eq!(
        wrong("When(3, yes)"),
        ["a value has no place in a program; use a field"]
    );
    assert_eq!(
        wrong("Unless(test, yes)"),
        ["form `Unless` is never in a tree: it becomes something else itself"]
    );
}
