//! Loops that count and decide in one go, functions that call themselves, letters of texts: they come to the same as one
//! step after the other, whatever the values are.

use crate::common::{language, value, value_within};
use quillon_core::Language;
use quillon_core::runtime::Limits;

/// Sums of anything that can be added, comparisons of whatever can be ordered.
const WEIR: &str = r#"
language weir
tokens
  Blank    [ \n]+               ignored
  Decimal  digit+ "." digit+    holds number
  Whole    digit+               holds integer
  Text     "'" [^']* "'"        holds text
  Name     letter+
usual Program, Words, Number, Variable, Group, Add
form Let in Step
  written  "let" name:Name "be" value:Expr
  binds    name in value, onward
  means    name := value
form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form While in Step
  written  "while" test:Expr "do" body:Step* by "," "end"
  means    while test { all body }
form Do in Step
  written  value:Expr
  means    value
form Function in Expr
  written  "fn" params:Name* "->" body:Expr
  binds    params in body
  means    function (params) { body }
form If in Expr
  written  "if" test:Expr "then" yes:Expr "else" no:Expr
  means    if test { yes } else { no }
form Less in Expr
  written  left:Expr "<" right:Expr
  means    left < right
form AtMost in Expr
  written  left:Expr "<=" right:Expr
  means    left <= right
form Same in Expr
  written  left:Expr "=" right:Expr
  means    left = right
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form Letter in Expr
  written  from:Expr "at" place:Expr
  means    text.at(from, place)
form Real in Expr
  written  value:Decimal
  means    value
precedence of Expr, loosest first
  prefix  Function, If
  none    Less, AtMost, Same
  left    Add
  left    Letter
  suffix  Call
"#;

fn weir() -> Language {
    language(WEIR)
}

#[test]
fn loops_that_count_end_where_they_should() {
    let language = weir();
    for (program, wanted) in [
        ("let i be 0; while i < 5 do i := i + 1 end; i", "5"),
        ("let i be 0; while i <= 5 do i := i + 1 end; i", "6"),
        ("let i be 9; while i < 5 do i := i + 1 end; i", "9"),
        (
            "let i be 0; let n be 5; while i < n do i := i + 1 end; i",
            "5",
        ),
        (
            "let i be 0; let n be 5; while i <= n do i := i + 1 end; i",
            "6",
        ),
        (
            "let i be 0; while i < 100000 do i := i + 1 end; i",
            "100000",
        ),
        (
            "let i be 0; while i <= 100000 do i := i + 3 end; i",
            "100002",
        ),
        // Numbers, and integers among them.
        ("let i be 0.5; while i < 5 do i := i + 1 end; i", "5.5"),
        ("let i be 0; while i < 2.5 do i := i + 1 end; i", "3"),
        ("let i be 0; while i <= 2.0 do i := i + 1 end; i", "3"),
        (
            "let i be 0.5; let n be 3; while i < n do i := i + 1 end; i",
            "3.5",
        ),
        // The limit grows with what counts, or is counted itself.
        (
            "let i be 0; let n be 3; while i < n do n := n + 1, i := i + 2 end; i",
            "6",
        ),
        (
            "let i be 0; let n be 3; while n <= i do i := i + 1 end; i",
            "0",
        ),
        ("let i be 3; while i < i do i := i + 1 end; i", "3"),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
}

#[test]
fn what_goes_wrong_in_a_loop_that_counts_is_said_where_it_stands() {
    let language = weir();
    let long = "let i be 9223372036854775800; while i <= 9223372036854775807 do i := i + 1 end";
    for (program, wanted) in [
        (
            long,
            "1:70 9223372036854775807 + 1 is too large for an integer",
        ),
        (
            "let i be 'a'; while i < 5 do i := i + 1 end",
            // What stands first says what is compared.
            "1:25 a text is needed here, and this is an integer: 5",
        ),
        (
            "let i be 0; let n be 'b'; while i < n do i := i + 1 end",
            "1:37 a number is needed here, and this is a text: \"b\"",
        ),
        (
            "let i be 0; let n be 9; while i < n do n := 'c', i := i + 1 end",
            "1:35 a number is needed here, and this is a text: \"c\"",
        ),
        (
            "let i be 0; while i < 5 do i := 'd', i := i + 1 end",
            "1:43 a number is needed here, and this is a text: \"d\"",
        ),
    ] {
        let got = value(&language, program);
        assert!(got.starts_with(wanted), "{program}\n{got}");
    }
    let limits = Limits {
        steps: Some(1000),
        ..Limits::default()
    };
    let endless = "let i be 0; let n be 9; while i < n do n := n + 1, i := i + 1 end";
    assert!(value_within(&language, endless, limits).contains("1000 steps"));
}

#[test]
fn functions_that_call_themselves() {
    let language = weir();
    let fib = "let f be fn n -> if n < 2 then n else f(n + m) + f(n + k)";
    for (program, wanted) in [
        (
            "let f be fn n -> if n < 9 then 1 + f(n + 1) else 0; f(0)",
            "9",
        ),
        (
            "let f be fn n d -> if n < 9 then d + f(n + 1, d) else 0; f(0, 2)",
            "18",
        ),
        // A function in one that calls the one around, not itself.
        (
            "let f be fn n -> if n < 3 then (fn m -> 1 + f(m))(n + 1) else 10; f(0)",
            "13",
        ),
        (
            "let f be fn n -> if n < 2 then (fn a -> (fn m -> 1 + f(m))(a))(n + 1) else 5; f(0)",
            "7",
        ),
        // Another function of the same name, and one that is put away.
        (
            "let f be fn n -> if n < 3 then 1 + f(n + 1) else 0; let g be f; g(0) + f(1)",
            "5",
        ),
        (
            "let f be fn n -> if n < 3 then 1 + f(n + 1) else 0; let g be f; f := fn n -> 100; g(0)",
            "101",
        ),
        // Deep, and far from the end of the registers.
        (
            "let f be fn n -> if n < 5000 then 1 + f(n + 1) else 0; f(0)",
            "5000",
        ),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
    let few = value(&language, "let f be fn n -> 1 + f(n, n); f(0)");
    assert!(few.contains("takes 1 argument"), "{few}");
    let unknown = value(&language, fib);
    assert!(unknown.contains('m'), "{unknown}");
    let limits = Limits {
        depth: 50,
        ..Limits::default()
    };
    let endless = value_within(&language, "let f be fn n -> 1 + f(n); f(0)", limits);
    assert!(endless.contains("50 nested calls"), "{endless}");
}

#[test]
fn letters_are_found_and_compared() {
    let language = weir();
    for (program, wanted) in [
        ("let t be 'lock'; t at 0", "\"l\""),
        ("let t be 'lock'; t at 3", "\"k\""),
        ("let t be 'lock'; (t at 0) = (t at 0)", "true"),
        ("let t be 'lock'; (t at 0) = (t at 1)", "false"),
        ("let t be 'lölö'; (t at 1) = (t at 3)", "true"),
        ("'lock' + 1", "1:1 a number is needed"),
        (
            "let t be 'lock'; let i be 0; let k be 0; while i < 4 do k := k + (if (t at i) = 'o' then 1 else 0), i := i + 1 end; k",
            "1",
        ),
        // Longer than a text that has its bytes in itself, and of the same beginning.
        (
            "'the upper lock of the two' = 'the upper lock of the two'",
            "true",
        ),
        (
            "'the upper lock of the two' = 'the upper lock of the six'",
            "false",
        ),
        ("'the upper lock' = 'the upper lock of the two'", "false"),
    ] {
        let got = value(&language, program);
        assert!(got.starts_with(wanted), "{program}\n{got}");
    }
    for program in [
        "'lock' at 4",
        "'lock' at (0 + 9)",
        "let t be 'lock'; let c be t at 0; t at 4",
    ] {
        let got = value(&language, program);
        assert!(
            got.contains("there is no character"),
            "{program}
{got}"
        );
    }
}
