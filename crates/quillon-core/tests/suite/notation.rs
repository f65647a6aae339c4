//! What describing one language after the other has asked of the notation: helpers that use
//! themselves, functions in meanings, errors at values, loops with names, letters in any case,
//! operators whose parts are of other sorts.

use crate::common;
use std::time::Duration;

use crate::common::{language, mistakes, tree, value, with_tokens};
use quillon_core::Language;
use quillon_core::grammar::{self, Notation};

#[track_caller]
pub fn gives(language: &Language, cases: &[(&str, &str)]) {
    for (program, wanted) in cases {
        assert_eq!(value(language, program), *wanted, "{program}");
    }
}

/// Programs with what they print, and what they end in.
#[track_caller]
pub fn prints(language: &Language, cases: &[(&str, &str)]) {
    for (program, wanted) in cases {
        let told = value(language, program);
        let rest = told.strip_suffix("nothing");
        let told = rest
            .filter(|rest| rest.is_empty() || rest.ends_with('\n'))
            .unwrap_or(&told);
        assert_eq!(told, *wanted, "{program}");
    }
}

pub const ATOMS: &str = "
usual Number, List
";

#[test]
fn helpers_may_use_themselves_and_each_other() {
    let own = with_tokens(&format!(
        r#"
form Do in Expr
  written  name:("product" | "even" | "show" | "pair" | "kept") value:Expr
  means    if name = "product" {{ product(value) }} else if name = "even" {{ even(value) }}
           else if name = "show" {{ show(value) }} else if name = "pair" {{ paired(value) }}
           else {{ kept }}
{ATOMS}
define product(n) = if n < 2 {{ 1 }} else {{ n * product(n - 1) }}
define even(n) = if n = 0 {{ true }} else {{ odd(n - 1) }}
define odd(n) = if n = 0 {{ false }} else {{ even(n - 1) }}
define show(v) = match v {{
  list => "(" & text.join(list.map(v, function (item) {{ show(item) }}), " ") & ")"
  else => shown(v)
}}
define paired(n) = [product(n), twice(n)]
define twice(n) = n + n
state
  kept = product(4)
provides
  six means product(3)
  product(n) means product(n)
"#
    ));
    gives(
        &own,
        &[
            ("product 10", "3628800"),
            ("even 50001", "false"),
            ("show [1, [2, [], 3]]", "\"(1 (2 () 3))\""),
            ("pair 3", "[6, 6]"),
            ("kept 0", "24"),
            (
                "product [1]",
                "1:9 a number or a text is needed here, and this is a list: [1]",
            ),
        ],
    );
}

#[test]
fn functions_in_meanings_have_parameters_of_their_own() {
    let own = with_tokens(&format!(
        r#"
form Add in Expr
  written  "add" step:Expr values:Expr
  means    let by = step; list.map(values, function (value) {{ value + by }})
form Ordered in Expr
  written  "ordered" values:Expr
  means    list.sort_by(values, function (a, b) {{ a > b }})
form Constant in Expr
  written  "constant" value:Expr
  means    call (function (old, new) {{ value }}) with 1, 2
{ATOMS}"#
    ));
    gives(
        &own,
        &[
            ("add 2 [1, 5]", "[3, 7]"),
            ("ordered [1, 3, 2]", "[3, 2, 1]"),
            ("constant 7", "7"),
            (
                "add 2 [1, []]",
                "1:1 a number is needed here, and this is a list: []",
            ),
        ],
    );
    let misspelt = "form F\n  written  \"f\" params:Name* body:Whole\n  binds    params in body\n  means    function (parms) { body }\n";
    assert_eq!(
        mistakes(&format!("language Own\n{}\n{misspelt}", common::TOKENS)),
        ["14:22 nothing in this function uses `parms`"]
    );
}

#[test]
fn an_error_can_stand_at_a_value() {
    let own = with_tokens(&format!(
        r#"
form Share in Expr
  written  "share" a:Expr b:Expr
  means    share(a, b)
form Deep in Expr
  written  "deep" a:Expr b:Expr
  means    deep(3, b)
form Each in Expr
  written  "each" items:Expr*
  means    each one in items {{ if one = 0 {{ fault "no zero here" at one }} }}
form Call in Expr
  written  name:Name "(" args:Expr* by "," ")"
  uses     name
  means    call name with args
{ATOMS}
define share(a, b) = {{ if b = 0 {{ fault "nothing to share by" at b }}; a / b }}
define deep(n, v) = if n = 0 {{ fault "too deep" at v }} else {{ deep(n - 1, v) }}
provides
  shared(a, b) means {{ if b = 0 {{ fault "nothing to share by" at b }}; a / b }}
"#
    ));
    gives(
        &own,
        &[
            ("share 4 2", "2.0"),
            ("share 4 0", "1:9 nothing to share by"),
            ("deep 1 7", "1:8 too deep"),
            ("each 1 2 0 3", "1:10 no zero here"),
            ("shared(4, 0)", "1:11 nothing to share by"),
        ],
    );
}

#[test]
fn a_jump_can_say_which_landing_it_means() {
    let own = with_tokens(
        r#"
form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps; n
form Loop in Step
  written  (label:Name ":")? "loop" "{" steps:Step* by ";" "}"
  means    landing leave called label { while true { landing next called label { all steps } } }
form Leave in Step
  written  "leave" label:Name?
  means    jump leave called label
form Next in Step
  written  "next" label:Name?
  means    jump next called label
form Up in Step
  written  "up"
  means    n := n + 1
form Until in Step
  written  "past" limit:Whole what:Step
  means    if n > limit { what }
form Inside in Step
  written  "inside" "{" steps:Step* by ";" "}"
  means    call function () { all steps }
state
  n = 0
"#,
    );
    gives(
        &own,
        &[
            ("loop { up; past 3 leave }", "4"),
            ("a: loop { loop { up; past 3 leave a } }", "4"),
            ("a: loop { b: loop { up; past 3 leave a; next b } }", "4"),
            ("a: loop { up; past 5 leave; loop { up; next a } }", "7"),
            (
                "outer: loop { leave uter }",
                "1:21 nothing here that could be ended is called `uter`",
            ),
            (
                "leave",
                "1:1 there is nothing here that this `leave` could end",
            ),
            (
                "leave a",
                "1:7 there is nothing here that this `leave` could end",
            ),
            (
                "a: loop { inside { leave a } }",
                "1:26 there is nothing here that this `leave` could end",
            ),
        ],
    );
}

#[test]
fn a_language_may_ignore_case() {
    let own = language(
        r#"
language Own
  starts   Program
  ignores  case
tokens
  Blank  [ \n]+          ignored
  Remark "rem" [^\n]*    ignored
  Whole  digit+          holds integer
  Name   letter+
  Sign   [+-]+
form Program
  written  "begin" steps:Step* by ";" "end"
  opens    scope
  means    all steps
form Let in Step
  written  "let" name:Name "=" value:Whole
  binds    name onward
  means    name := value
form Say in Step
  written  "say" name:Name
  uses     name
  means    name
form Kind in Step
  written  "kind" kind:("Barge" | "Punt")
  means    kind
form Loop in Step
  written  label:Name ":" "leave" other:Name
  means    landing leave called label { jump leave called other }; 1
provides
  Pi means 3
"#,
    );
    gives(
        &own,
        &[
            ("BEGIN Let Gate = 4; SAY gATE end", "4"),
            ("begin say PI End", "3"),
            // Words of the language are as the definition writes them.
            ("begin KIND barge end", "\"Barge\""),
            ("begin A: leave a end REM and more", "1"),
            (
                "begin let a = 1; let A = 2 end",
                "1:22 `A` is bound twice in the same scope",
            ),
            (
                "begin say lets end",
                "1:11 there is no binding called `lets`",
            ),
        ],
    );
    let grammar = grammar::text(own.definition(), Notation::W3c);
    assert!(grammar.starts_with("/* capital and small letters are alike */\n"));
    assert_eq!(tree(&own, "BEGIN KIND PUNT END"), "Program([Kind(PUNT)])");
}

#[test]
fn a_field_of_a_child_can_be_set() {
    let own = with_tokens(&format!(
        r#"
form With in Expr
  written  "with" pairs:Pair* body:Expr
  opens    scope around body
  binds    pairs.name in body
  means    each pair in pairs {{ pair.name := pair.value }}; body
form Pair
  written  name:Name "=" value:Expr
form Variable in Expr
  written  name:Name
  uses     name
  means    name
{ATOMS}
provides
  "one" means 1
"#
    ));
    gives(
        &own,
        &[
            ("with a = 1 b = 2 [a, b]", "[1, 2]"),
            ("with a = 1 with a = [a] a", "[1]"),
            ("one", "1"),
        ],
    );
    let unbound = "form F\n  written  \"f\" pairs:Pair*\n  means    each p in pairs { p.value := 1 }\nform Pair\n  written  value:Whole\n";
    assert_eq!(
        mistakes(&format!("language Own\n{}\n{unbound}", common::TOKENS)),
        ["13:30 `p.value` is not a variable: nothing binds it"]
    );
    let whole = "form F\n  written  \"f\" pairs:Pair* body:Whole\n  binds    pairs.name in body\n  means    function (pairs) { body }\nform Pair\n  written  name:Name\n";
    let whole = format!("language Own\n{}\n{whole}", common::TOKENS);
    assert_eq!(
        mistakes(&whole),
        ["14:22 `pairs` is not a variable: form `F` binds `pairs.name`"]
    );
    let remedied = whole.replace("(pairs)", "(pairs.name)");
    assert_eq!(mistakes(&remedied), [""; 0]);
}

#[test]
fn what_a_child_has_can_be_asked_for_and_run() {
    let own = with_tokens(&format!(
        r#"
form Program
  written  lines:Line* by ";"
  means    let out = []; each line in lines {{
             if given line.label {{ list.add(out, line.label) }};
             each item in line.items {{ list.add(out, item taking 10) }};
             if given line.last {{ list.add(out, line.last taking 100) }};
             if given line.label {{ if line.label = "no" {{ fault "not this" at line.label }} }};
             list.add(out, all line.values)
           }}; out
form Line
  written  (label:Name ":")? items:Item* ("last" last:Item)? ("values" values:Expr*)?
           "end"
form Item
  written  "item" value:Whole
  takes    more
  means    value + more
{ATOMS}"#
    ));
    gives(
        &own,
        &[
            (
                "a: item 1 item 2 last item 3 values 4 5 end; item 1 end",
                "[\"a\", 11, 12, 103, 5, 11, nothing]",
            ),
            ("end; no: end", "1:6 not this"),
        ],
    );
}

#[test]
fn a_built_in_name_may_be_any_token() {
    let own = language(
        "language Own\ntokens\n  Blank \" \"+ ignored\n  Whole digit+ holds integer\n  Sign [+*?a-z]+\nform Call in Expr\n  written \"(\" f:Sign args:Expr* \")\"\n  uses f\n  means call f with args\nform Number in Expr\n  written value:Whole\n  means value\nprovides\n  \"+\"(a, b) means a + b\n  \"zero?\"(a) means a = 0\n",
    );
    gives(&own, &[("(+ 1 (+ 2 3))", "6"), ("(zero? 1)", "false")]);
}

/// An operator whose left side is of another sort, which begins with an expression itself.
fn places(more: &str) -> Language {
    with_tokens(&format!(
        r#"
precedence of Expr, loosest first
  right   Set
  prefix  Negate
  suffix  Field{more}

form Set in Expr
  written  place:Place "=" value:Expr
form Negate in Expr
  written  "-" value:Expr
form Field in Expr
  written  owner:Expr "." name:Name
form Number in Expr
  written  value:Whole
form Part in Place
  written  owner:Expr "." name:Name
"#
    ))
}

fn advice(language: &Language) -> Vec<String> {
    let found = language.ambiguities(Duration::from_secs(60));
    let found = found.diagnostics.iter();
    found
        .map(|d| format!("{}: {}", d.message, d.remedies.join("")))
        .collect()
}

#[test]
fn forms_of_other_sorts_can_be_ranked_with_operators() {
    let own = places(", Part");
    assert_eq!(advice(&own), Vec::<String>::new());
    assert_eq!(tree(&own, "- 1.a"), "Negate(Field(Number(1), a))");
    assert_eq!(
        tree(&own, "- 1.a = 2"),
        "Negate(Set(Part(Number(1), a), Number(2)))"
    );
    // What is ranked is grouped by the table also where something that is not goes on alike.
    let own = places("");
    assert_eq!(tree(&own, "- 1.a"), "Negate(Field(Number(1), a))");
    assert_eq!(
        advice(&own)[0],
        "`- 0.a = 0` can be read in two ways: rank Part in `precedence of Expr`, too"
    );
    assert_eq!(
        mistakes(&format!(
            "language Own\n{}\nprecedence of Expr, loosest first\n  left Other\nform Other\n  written \"o\" name:Name\nform Number in Expr\n  written value:Whole\n",
            common::TOKENS
        )),
        ["12:8 form `Other` is no way to write `Expr`, and has none in it"]
    );
}

#[test]
fn what_is_taken_for_two_things_is_named() {
    let own = with_tokens(
        "
form Program
  written  steps:Step* by \";\"
form Block in Step
  written  \"{\" steps:Step* by \";\" \"}\"
form Do in Step
  written  value:Expr
form Map in Expr
  written  \"{\" pairs:Pair* by \",\" \"}\"
form Pair
  written  key:Name \":\" value:Expr
form Number in Expr
  written  value:Whole
",
    );
    assert_eq!(
        advice(&own),
        [
            "`{ }` can be read in two ways: add `wins over Do` to form Block, or `wins over Block` to form Do"
        ]
    );
    let own = with_tokens(
        "form Program\n  written  lines:Line* by \";\"\nform Line\n  written  name:Name? value:Whole?\n",
    );
    assert_eq!(
        advice(&own)[0],
        "the empty text can be read in two ways: Line can be written as nothing: let a part of it always be there"
    );
}
