//! What a meaning does one after the other: names that it sets again, jumps that are the last thing done, comparisons with
//! fixed values. They come to the same as when each is done as it is written, and take no more code than what is meant.

use crate::common::{value, with_tokens};
use crate::kinds::code;
use quillon_core::Language;

/// Prefix sums, differences and chains of comparisons of any length, and a test with its own idea of truth.
fn wharf(truthy: &str) -> Language {
    with_tokens(&format!(
        r#"precedence of Expr, loosest first
  left  Call
form Program
  written  steps:Expr*
  opens    scope
  means    all steps
form Let in Expr
  written  "(" "let" name:Name value:Expr ")"
  binds    name onward
  means    name := value; nothing
form Set in Expr
  written  "(" "set" name:Name value:Expr ")"
  uses     name to change
  means    let v = value; name := v; v
form Sum in Expr
  written  "(" "sum" args:Expr+ ")"
  means    let sum = 0; each a in args {{ sum := sum + a }}; sum
form Times in Expr
  written  "(" "times" args:Expr+ ")"
  means    let product = 1; each a in args {{ product := product * a }}; product
form Minus in Expr
  written  "(" "minus" value:Expr ")"
  means    -value
form Less in Expr
  written  "(" "less" first:Expr rest:Expr* ")"
  means    let left = first; each a in rest {{ left := left - a }}; left
form Under in Expr
  written  "(" "under" first:Expr rest:Expr+ ")"
  means    landing no {{ let left = first; each r in rest {{ let right = r; if not (left < right) {{ jump no with false }}; left := right }}; true }}
form Any in Expr
  written  "(" "any" args:Expr+ ")"
  means    landing yes {{ let last = false; each a in args {{ last := a; if truthy(last) {{ jump yes with last }} }}; last }}
form If in Expr
  written  "(" "if" test:Expr yes:Expr no:Expr ")"
  means    if truthy(test) {{ yes }} else {{ no }}
form Fn in Expr
  written  "(" "fn" "(" params:Name* ")" body:Expr+ ")"
  opens    scope
  binds    params in body
  means    function (params) {{ all body }}
form Call in Expr
  written  callee:Expr ~ "(" args:Expr* ")"
  means    call callee with args
form Kept in Expr
  written  "(" "kept" args:Expr+ ")"
  means    let n = 0; let seen = []; each a in args {{ n := n + a; let m = n; list.add(seen, function () {{ m }}); list.add(seen, function () {{ n }}) }}; n := n * 10; list.map(seen, function (f) {{ call f }})
form Often in Expr
  written  "(" "often" times:Expr step:Expr ")"
  means    let n = 0; let i = 0; let t = times; n := 1; while i < t {{ let old = n; n := n + step; old := old + n; i := i + 1; if old = 0 {{ n := 0 }} }}; n := n + 1; n
form Tried in Expr
  written  "(" "tried" body:Expr ")"
  means    let n = 1; n := 2; attempt {{ n := 3; body; n := 4 }} rescue e {{ n := n * 10 }}; n := n + 1; n
form Choice in Expr
  written  "(" "choice" value:Expr ")"
  means    let n = 0; let v = value; n := 1; match v {{ integer i => {{ n := i }} text t => {{ n := n + text.length(t) }} else => nothing }}; if v = 7 {{ n := n + 1; n := n * 2 }}; n := n + 100; n
form Gate in Expr
  written  "(" "gate" a:Expr b:Expr ")"
  means    let x = 0; landing out {{ if truthy(a) {{ jump out with 1 }} else {{ if truthy(b) {{ x := 5 }} else {{ x := 7 }}; x := x + 1 }}; x := x * 2; {{ let y = x; if y = 12 {{ jump out with "twelve" }}; x := x + y }}; if x > 20 {{ x * 10 }} else {{ jump out with x }} }}
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
define truthy(v) = {truthy}
"#
    ))
}

/// Ways to say that all but two values count as true.
const TRUTHS: [&str; 8] = [
    "match v { truth t => t  nothing => false  else => true }",
    "v /= false and v /= nothing",
    "nothing /= v and v /= false",
    "not (v = false or v = nothing)",
    "if v = nothing { false } else { v /= false }",
    "if v = nothing { false } else if v = false { false } else { true }",
    "if v = false or v = nothing { false } else { true }",
    "v = true or not (v = false or v = nothing)",
];

#[test]
fn names_that_are_set_again_hold_what_they_were_set_to_last() {
    let own = wharf(TRUTHS[1]);
    for (program, wanted) in [
        ("(sum 1 2 3)", "6"),
        ("(sum 1)", "1"),
        ("(sum 1 2.5)", "3.5"),
        ("(sum 1 2 3 4 5 6 7 8 9 10 11 12)", "78"),
        // The number -0 shows where a fold begins.
        ("(sum (minus 0.0))", "0.0"),
        ("(sum (minus 0.0) 0)", "0.0"),
        ("(sum (minus 0.0) (minus 0.0))", "0.0"),
        ("(sum 0 (minus 0.0))", "0.0"),
        ("(times (minus 0.0))", "-0.0"),
        ("(times (minus 0.0) 1)", "-0.0"),
        ("(times 2 3 4)", "24"),
        ("(times 2.5)", "2.5"),
        ("(let a 4) (times a (times a (set a 5)) a)", "400"),
        ("(let a 1) (tried (sum \"x\" (set a 5))) a", "1"),
        ("(let a 1) (tried (times \"x\" (set a 5))) a", "1"),
        ("(less 10)", "10"),
        ("(less 10 1 2)", "7"),
        ("(let a 4) (less a 1 (set a 9) a)", "-15"),
        ("(let a 4) (sum a (sum a (set a 5)) a)", "18"),
        // Functions that are made on the way share the one, and each has its own of the other.
        ("(kept 1 2)", "[1, 30, 3, 30]"),
        ("(often 3 2)", "8"),
        ("(often 0 5)", "2"),
        ("(tried 5)", "5"),
        ("(tried (sum 1 yes))", "31"),
        ("(choice 7)", "116"),
        ("(choice 8)", "108"),
        ("(choice \"lock\")", "105"),
        ("(choice none)", "101"),
        (
            "(sum 1 \"a\")",
            "1:8 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "(sum \"a\" 1)",
            "1:6 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "(less 1 2 none)",
            "1:11 a number is needed here, and this is nothing",
        ),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn jumps_at_the_end_of_their_landing_give_its_value() {
    for truthy in TRUTHS {
        let own = wharf(truthy);
        for (program, wanted) in [
            ("(under 1 2)", "true"),
            ("(under 2 1)", "false"),
            ("(under 1 2 3 4)", "true"),
            ("(under 1 2 2 4)", "false"),
            // What comes after is not done.
            ("(let a 0) (under 2 1 (set a 5)) a", "0"),
            ("(let a 0) (under 1 2 (set a 5)) a", "5"),
            ("(any no none 3 (sum 1 none))", "3"),
            ("(any no none)", "nothing"),
            ("(any none no)", "false"),
            ("(any 0)", "0"),
            ("(gate yes no)", "1"),
            ("(gate no yes)", "\"twelve\""),
            ("(gate no none)", "320"),
            ("(if (under 1 2 3) 1 2)", "1"),
            ("(if (under 1 3 3) 1 2)", "2"),
            ("(if (any no (under 2 1) none) 1 2)", "2"),
            // Many arguments are more jumps than are made so.
            ("(under 1 2 3 4 5 6 7 8 9 10 11 12 13)", "true"),
            ("(under 1 2 3 4 5 6 7 8 9 10 11 12 12)", "false"),
            (
                "(under 1 \"a\")",
                "1:10 a number is needed here, and this is a text: \"a\"",
            ),
        ] {
            assert_eq!(value(&own, program), wanted, "{truthy}: {program}");
        }
    }
}

#[test]
fn what_counts_as_true_is_the_same_however_it_is_said() {
    for truthy in TRUTHS {
        let own = wharf(truthy);
        for (test, wanted) in [
            ("yes", "1"),
            ("no", "2"),
            ("none", "2"),
            ("0", "1"),
            ("0.0", "1"),
            ("\"\"", "1"),
            ("(fn () 1)", "1"),
            ("(under 1 2)", "1"),
            ("(under 2 1)", "2"),
        ] {
            let program = format!("(if {test} 1 2)");
            assert_eq!(value(&own, &program), wanted, "{truthy}: {program}");
            let program = format!("(let f (fn (a) (if a 1 2))) f({test})");
            assert_eq!(value(&own, &program), wanted, "{truthy}: {program}");
        }
    }
    // Fixed values of other kinds, one number of both kinds.
    let own = wharf("v /= false and v /= 0 and v /= \"\" and v /= nothing");
    for (test, wanted) in [
        ("yes", "1"),
        ("no", "2"),
        ("none", "2"),
        ("0", "2"),
        ("0.0", "2"),
        ("1", "1"),
        ("0.5", "1"),
        ("\"\"", "2"),
        ("\"a\"", "1"),
        ("(fn () 1)", "1"),
    ] {
        let program = format!("(let f (fn (a) (if a 1 2))) f({test})");
        assert_eq!(value(&own, &program), wanted, "{program}");
    }
}

#[test]
fn chains_take_no_more_than_what_is_meant() {
    let simple = {
        let own = wharf(TRUTHS[0]);
        code(&own, "(fn (a b) (if (under a b) 1 2))").len()
    };
    for truthy in TRUTHS {
        let own = wharf(truthy);
        let code = |program: &str| code(&own, program);
        let chain = code("(fn (a b) (if (under a b) 1 2))");
        assert_eq!(chain.len(), simple, "{truthy}: {chain:?}");
        for needless in [
            "truth",
            "jump_kind",
            "jump_equal",
            "jump_if",
            "move",
            "nothing",
        ] {
            assert!(
                !chain.iter().any(|name| name == needless),
                "{truthy}: {chain:?}"
            );
        }
        let sum = code("(fn (a b) (sum a b))");
        let adds = sum.iter().filter(|name| name.starts_with("add"));
        assert_eq!(adds.count(), 2, "{sum:?}");
        // A fold that begins with what changes nothing does not do that.
        for (fold, wanted) in [
            ("(fn (a) (sum a 1))", ["add_integer"]),
            ("(fn (a) (sum a 1 2))", ["add_integer"]),
            ("(fn (a b) (times a b))", ["multiply"]),
            ("(fn (a) (times a 2))", ["multiply_integer"]),
        ] {
            let made = code(fold);
            let adds = |name: &&String| name.starts_with("add") || name.starts_with("mult");
            let made: Vec<&String> = made.iter().filter(adds).collect();
            assert_eq!(made[0], wanted[0], "{fold}: {made:?}");
            assert!(made.len() == 1 || fold.contains("1 2"), "{fold}: {made:?}");
        }
        let needless = |name: &&String| ["integer", "move"].contains(&name.as_str());
        assert!(!sum.iter().any(|name| needless(&name)), "{sum:?}");
    }
}

#[test]
fn what_begins_empty_takes_over_what_comes_next() {
    let own = with_tokens(
        r#"usual Program, Number
form Log in Step
  written  "log" times:Expr
  means    let log = ""; let i = 0; let t = times; while i < t { let out = ""; out := text.join([out, log], ""); out := text.join([out, "boat "], ""); log := out; i := i + 1 }; text.length(log)
"#,
    );
    // Copied at each turn, it would take more steps than a run may.
    assert_eq!(value(&own, "log 30000"), "150000");
}

#[test]
fn a_jump_over_a_jump_is_turned_round() {
    let own = wharf(TRUTHS[0]);
    let program =
        "(fn (a b) (if (under a b) (set a 1) none) (if a (set b 2) none) (if (any a b) 1 2))";
    let made = code(&own, program);
    let after = made.windows(2).filter(|pair| pair[1] == "jump");
    let over: Vec<_> = after
        .filter(|pair| pair[0].starts_with("jump_") && pair[0] != "jump_if")
        .collect();
    assert!(over.is_empty(), "{made:?}");
}
