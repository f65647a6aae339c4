//! What a meaning puts together step by step: lists and texts that begin empty, places that are counted up. They come to
//! the same as when each step is done as it is written, and take no more code than what is meant.

use crate::common::{value, with_tokens};
use crate::kinds::code;
use quillon_core::Language;

/// Lists, texts and names for the items of lists, each said by steps.
const ITEMS: &str = r#"
state
  kept = 0
form Program
  written  steps:Expr*
  opens    scope
  means    all steps
form Let in Expr
  written  "(" "let" name:Name value:Expr ")"
  binds    name onward
  means    name := value; nothing
form Take in Expr
  written  "(" "take" "(" names:Name+ ")" value:Expr ")"
  binds    names onward
  means    let v = value; let i = 0; each n in names { n := list.at(v, i); i := i + 1 }; nothing
form List in Expr
  written  "(" "list" args:Expr* ")"
  means    let made = []; each a in args { list.add(made, a) }; made
form Join in Expr
  written  "(" "text" args:Expr* ")"
  means    let parts = []; each a in args { list.add(parts, shown(a)) }; text.join(parts, "")
form Dashed in Expr
  written  "(" "dashed" args:Expr* ")"
  means    let parts = ["<"]; each a in args { list.add(parts, shown(a)) }; list.add(parts, ">"); text.join(parts, "-")
form Give in Expr
  written  "(" "give" names:Name+ "as" values:Expr+ ")"
  uses     names to change
  means    let all_of = [values]; let i = 0; each n in names { n := list.at(all_of, i); i := i + 1 }
form Left in Expr
  written  "(" "left" args:Expr* ")"
  means    landing out { let made = []; each a in args { list.add(made, shown(a)) }; jump out with text.join(made, "+") }
form Kept in Expr
  written  "(" "keep" args:Expr* ")"
  means    let sum = 0; each a in args { sum := sum + a }; kept := sum; kept
form Raised in Expr
  written  "(" "raised" args:Expr* ")"
  means    let made = []; each a in args { list.add(made, a) }; raise made
form Turned in Expr
  written  "(" "turned" args:Expr* ")"
  means    let made = []; let out = []; each a in args { list.add(made, a) }; each m in made { list.insert(out, 0, m) }; out
form Longer in Expr
  written  "(" "longer" args:Expr* ")"
  means    let made = []; each a in args { list.add(made, list.length(made)); list.add(made, a) }; made
form Own in Expr
  written  "(" "own" args:Expr* ")"
  means    let made = []; each a in args { list.add(made, a) }; list.add(made, function () { list.length(made) }); list.add(made, 7); list.add(made, call list.at(made, list.length(made) - 2)); list.at(made, list.length(made) - 1)
form Anew in Expr
  written  "(" "anew" a:Expr b:Expr ")"
  means    let l = [a]; list.add(l, b); let first = l; l := [b]; list.add(l, a); [first, l]
form Until in Expr
  written  "(" "until" args:Expr* ")"
  means    landing out { let made = []; each a in args { list.add(made, if a = nothing { jump out with made } else { a }) }; list.add(made, "all"); made }
form Rows in Expr
  written  "(" "rows" times:Expr arg:Expr ")"
  means    let rows = []; let i = 0; let t = times; while i < t { let row = []; list.add(row, i); list.add(row, arg); list.add(rows, row); i := i + 1 }; rows
form Most in Expr
  written  "(" "most" ")"
  means    let n = 9223372036854775807; n := n - 1; n := n + 1; n := n + 1; n
form Counted in Expr
  written  "(" "counted" test:Expr ")"
  means    let n = 1; n := n + 1; if test { n := n + 10 }; n := n + 1; n
form Inner in Expr
  written  "(" "inner" ")"
  means    let n = 0; let f = function () { n := n + 1 }; call f; let m = n; n := 5; call f; let both = []; list.add(both, m); list.add(both, n); both
form Beside in Expr
  written  "(" "beside" left:Expr right:Expr ")"
  means    shown(left) & shown(right)
form Push in Expr
  written  "(" "push" list:Expr value:Expr ")"
  means    list.add(list, value); list
form Try in Expr
  written  "(" "try" body:Expr ")"
  means    attempt { body } rescue e { caught.message(e) }
form Say in Expr
  written  "(" "say" value:Expr ")"
  means    let v = value; output(shown(v), " "); v
form Fn in Expr
  written  "(" "fn" "(" params:Name* ")" body:Expr ")"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  "(" "do" callee:Expr args:Expr* ")"
  means    call callee with args
form Number in Expr
  written  value:Whole | value:Decimal
  means    value
form Word in Expr
  written  value:Text
  means    value
form True in Expr
  written  "yes"
  means    true
form False in Expr
  written  "no"
  means    false
form None in Expr
  written  "none"
  means    nothing
form Var in Expr
  written  name:Name
  uses     name
  means    name
"#;

fn jetty() -> Language {
    with_tokens(ITEMS)
}

#[test]
fn steps_come_to_what_they_say() {
    let own = jetty();
    for (program, wanted) in [
        ("(list)", "[]"),
        ("(list 1 (list 2 3) \"a\")", "[1, [2, 3], \"a\"]"),
        ("(list (say 1) (say 2))", "1 2 [1, 2]"),
        ("(text)", "\"\""),
        ("(text \"a\")", "\"a\""),
        (
            "(text \"a\" 1 2.5 none (list 1 \"b\"))",
            "\"a12.5nothing[1, \\\"b\\\"]\"",
        ),
        (
            "(text (text \"lock \" 1) \", \" (text \"lock \" 2))",
            "\"lock 1, lock 2\"",
        ),
        // What is shown is what it was then, whatever comes after it.
        ("(let l (list)) (text l (push l 1) l)", "\"[][1][1]\""),
        (
            "(let l (list)) (text l (push l 1) (push l 2))",
            "\"[][1][1, 2]\"",
        ),
        ("(let l (list)) (beside l (push l 1))", "\"[][1]\""),
        (
            "(let l (list)) (beside (push l 1) (text l (push l 2)))",
            "\"[1][1][1, 2]\"",
        ),
        (
            "(let l (list)) (let f (fn (x) (push l x))) (text 1 l (do f 1) 2 l)",
            "\"1[][1]2[1]\"",
        ),
        ("(text (say \"a\") (say \"b\"))", "a b \"ab\""),
        ("(dashed)", "\"<->\""),
        ("(dashed 1 \"a\")", "\"<-1-a->\""),
        ("(let a 1) (give a as 5) a", "5"),
        ("(let a 1) (let b 2) (give a b as b a) (list a b)", "[2, 1]"),
        ("(let a 1) (give a as (say 5) (say 6)) a", "5 6 5"),
        (
            "(let a 1) (let b 2) (give a b as 3) a",
            "1:21 there is no item 1",
        ),
        ("(left 1 \"a\")", "\"1+a\""),
        ("(list (keep 1 2 3) (keep))", "[6, 0]"),
        (
            "(keep 1 \"a\")",
            "1:9 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "(raised 1 2)",
            "1:1 this was raised and nothing caught it: [1, 2]",
        ),
        ("(turned 1 2 3)", "[3, 2, 1]"),
        // Whoever asks the list while it grows sees how far it is.
        ("(longer 7 8)", "[0, 7, 2, 8]"),
        ("(own 1 2)", "4"),
        ("(anew 1 2)", "[[1, 2], [2, 1]]"),
        ("(until 1 2)", "[1, 2, \"all\"]"),
        ("(until 1 none 2)", "[1]"),
        ("(rows 2 \"x\")", "[[0, \"x\"], [1, \"x\"]]"),
        ("(take (a b) (list 1 2)) (list b a)", "[2, 1]"),
        (
            "(let l (list 1 2 3)) (take (a b) l) (list b a l)",
            "[2, 1, [1, 2, 3]]",
        ),
        ("(take (a b c) (list 1 2)) a", "1:1 there is no item 2"),
        (
            "(try (take (a b) (list (say 1))))",
            "1 \"there is no item 1\"",
        ),
        // What is too large is so when the run comes there.
        (
            "(most)",
            "1:1 9223372036854775807 + 1 is too large for an integer",
        ),
        ("(inner)", "[1, 6]"),
        ("(list (counted yes) (counted no))", "[13, 3]"),
        (
            "(let f (fn (x) (text \"<\" (text x) \">\"))) (list (do f 1) (do f \"a\"))",
            "[\"<1>\", \"<a>\"]",
        ),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
    let many: Vec<String> = (0..200).map(|n| n.to_string()).collect();
    let many = many.join(" ");
    let listed = value(&own, &format!("(list {many})"));
    assert!(listed.ends_with("198, 199]"), "{listed}");
    let long = value(&own, &format!("(text {many})"));
    assert!(long.ends_with("198199\""), "{long}");
}

#[test]
fn steps_take_no_more_than_what_is_meant() {
    let own = jetty();
    let code = |body: &str| {
        let mut code = code(&own, &format!("(fn (a b) {body})"));
        // The program itself only makes the function.
        code.drain(..2);
        code
    };
    assert_eq!(code("(list a b)"), ["list", "return"]);
    assert_eq!(code("(text a b)"), ["join_shown", "return"]);
    assert_eq!(code("(text \"a\")"), ["constant", "return"]);
    let given = code("(do (fn (x) x) (give a as b))");
    for needless in ["list", "item_integer"] {
        assert!(!given.contains(&needless.to_owned()), "{given:?}");
    }
    assert_eq!(
        code("(left a b)"),
        ["move", "constant", "move", "apply", "return"]
    );
    let two = code("(do (fn (x) (list x)) (take (c d) (list b a)))");
    let makes = two.iter().filter(|name| *name == "list");
    assert_eq!(makes.count(), 1, "{two:?}");
    assert!(!two.iter().any(|name| name.starts_with("item")), "{two:?}");
    let one = code("(take (c d) a)");
    for needless in ["integer", "item", "add_integer", "move"] {
        assert!(!one.contains(&needless.to_owned()), "{one:?}");
    }
}
