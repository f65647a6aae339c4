//! Functions as the users of a language meet them: what messages count and list, and what they
//! are called.

use crate::common::{errors, mistakes, value, with_tokens};

#[test]
fn a_parameter_that_the_language_adds_is_neither_counted_nor_listed() {
    let language = with_tokens(
        r#"
form Program
  written  steps:Expr* by ";" trailing
  opens    scope
  means    all steps
form Let in Expr
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Get in Expr
  written  name:Name
  uses     name
  means    name
form Own in Expr
  written  name:"this"
  uses     name
  means    name
form It in Expr
  written  name:"it"
  uses     name
  means    name
form Count in Expr
  written  count:Whole
  means    count
form Order in Expr
  written  "order" "(" params:Name* by "," ")" body:Expr
  binds    "this" in body, params in body
  means    function (this, params) { body }
form Given in Expr
  written  "given" body:Expr
  binds    "it" in body
  means    function (it) { body }
form Send in Expr
  written  "send" target:Expr "to" order:Expr "(" args:Expr* by "," ")"
  means    call order with target, args
form Call in Expr
  written  "call" f:Expr "(" args:Expr* by "," ")"
  means    call f with args
form Show in Expr
  written  "show" item:Expr
  means    shown(item)
"#,
    );
    let told = |program: &str| {
        let errors = errors(&language, program);
        let first = &errors[0];
        format!("{} {:?}", first.message, first.why)
    };
    assert_eq!(
        value(&language, "let pay = order (toll) toll; send 7 to pay (3);"),
        "3"
    );
    assert_eq!(
        value(&language, "let pay = order (toll) this; send 7 to pay (3);"),
        "7"
    );
    assert_eq!(
        told("let pay = order (toll) toll; send 7 to pay (3, 4);"),
        "`pay` takes 1 argument, and gets 2 [\"its parameter is toll\"]"
    );
    assert_eq!(
        told("let moor = order () this; send 7 to moor (3);"),
        "`moor` takes 0 arguments, and gets 1 []"
    );
    // Where the program writes no parameter at all, those of the language count.
    assert_eq!(
        told("let twice = given it; call twice (1, 2);"),
        "`twice` takes 1 argument, and gets 2 [\"its parameter is it\"]"
    );
    assert_eq!(
        value(&language, "let pay = order (toll, day) toll; show pay;"),
        "\"function pay(toll, day)\""
    );
}

#[test]
fn a_meaning_can_say_what_a_function_is_called() {
    let language = with_tokens(
        r#"
form Program
  written  steps:Expr* by ";" trailing
  opens    scope
  means    all steps
form Kind in Expr
  written  "kind" orders:Order* "end"
  means    { let made = map.of(); each order in orders { order taking made }; made }
form Order
  written  "to" name:Name "(" params:Name* by "," ")" ":" body:Expr
  binds    params in body
  takes    made
  means    map.put(made, spelling of name, function called "order " name (params) { body })
form Let in Expr
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Get in Expr
  written  name:Name
  uses     name
  means    name
form Count in Expr
  written  count:Whole
  means    count
form Ask in Expr
  written  "ask" target:Expr order:Name "(" args:Expr* by "," ")"
  means    call map.get(target, spelling of order) with args
form Sink in Expr
  written  "sink"
  means    fault "it has sunk"
"#,
    );
    let program = "let barge = kind to pay (toll): toll to dive (): sink end;";
    assert_eq!(
        value(&language, &format!("{program} ask barge pay (3)")),
        "3"
    );
    let wrong = errors(&language, &format!("{program} ask barge pay ()"));
    assert_eq!(wrong[0].message, "`order pay` takes 1 argument, and gets 0");
    let sunk = errors(&language, &format!("{program} ask barge dive ()"));
    let calls = &sunk[0].calls;
    assert_eq!(calls[0].function, "order dive");
}

#[test]
fn what_a_function_is_called_after_must_be_there() {
    let wrong = |means: &str| {
        mistakes(&format!(
            "language L\ntokens\n  Name  letter+\n  Blank  \" \"  ignored\nform F\n  written \"f\" name:Name rest:Name*\n  means {means}\n"
        ))
    };
    assert_eq!(
        wrong("function called name (a) { a }"),
        Vec::<String>::new()
    );
    assert_eq!(
        wrong("function called nmae (a) { a }"),
        ["7:25 form `F` has no field `nmae`"]
    );
    assert_eq!(
        wrong("function called (a) { a }"),
        ["7:25 found `(` where a field or a text is expected"]
    );
}

/// Ready-made functions that find fault with what they are given, directly and further in.
const FAULTS: &str = r#"
form Program
  written  steps:Expr* by ";"
  means    all steps
form Use in Expr
  written  name:Name
  uses     name
  means    name
form Call in Expr
  written  f:Expr ~ "(" args:Expr* by "," ")"
  means    call f with args
form Apply in Expr
  written  "apply" f:Expr "to" args:Expr* by ","
  means    list.call([args], f)
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Half in Expr
  written  "half" value:Expr
  means    half_of(value + 0)
form Number in Expr
  written  value:Whole
  means    value
form Word in Expr
  written  value:Text
  means    value
define half_of(v) = v / 2
define checked(n) = { let m = n; if m < 1 { fault "too few" at m } else { m } }
precedence of Expr, loosest first
  left   Plus
  prefix Half, Apply
  suffix Call
provides
  direct(n) means fault "too few" at n
  late(n) means let v = n; fault "too few" at v
  twice(n) means let v = n; let w = v; { let x = w; fault "too few" at x }
  helped(n) means checked(n)
  further(n) means { let m = n; checked(m) }
  share(a, b) means if b = 0 { fault "too few" at b } else { a / b }
  changed(n) means let v = n; v := 0; fault "too few" at v
"#;

#[test]
fn a_fault_about_a_parameter_points_at_the_argument() {
    let language = with_tokens(FAULTS);
    for (program, column) in [
        ("1; direct(1 + 2)", 11),
        ("late(1 + 2)", 6),
        ("twice(1 + 2)", 7),
        ("helped(0 + 0)", 8),
        ("further(0 + 0)", 9),
        ("share(1, 0 + 0)", 10),
        ("apply share to 1, 0 + 0", 19),
        ("apply late to 1 + 2", 15),
        // What has been set is no argument any more.
        ("changed(1 + 2)", 1),
    ] {
        assert_eq!(
            value(&language, program),
            format!("1:{column} too few"),
            "{program}"
        );
    }
    // An operand inside a helper is the operand, wherever it is worked out.
    assert_eq!(
        value(&language, "half \"low\""),
        "1:6 a number is needed here, and this is a text: \"low\""
    );
}
