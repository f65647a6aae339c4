//! Functions as the users of a language meet them: what messages count and list, and what they
//! are called.

use crate::common::{errors, mistakes, value, value_within, with_tokens};
use quillon_core::Reading;
use quillon_core::bytecode::listing;
use quillon_core::runtime::Limits;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;

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
        ["7:25 expected a field or a text, found `(`"]
    );
}

/// Built-in functions that find fault with what they are given, directly and further in.
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

/// A language whose calls look at what is called, and so mention their parts twice.
const TWICE: &str = r#"
form Program
  written  steps:Expr* by ";"
  opens    scope
  means    all steps
form Let in Expr
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Set in Expr
  written  "set" name:Name "=" value:Expr
  uses     name to change
  means    name := value; name
usual Get, Group, Number
form Way in Expr
  written  "way" "(" params:Name* by "," ")" body:Expr
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  f:Expr ~ "(" args:Expr* by "," ")"
  means    match f { function g => call g with args  list items => [items, args]  else => [f, [args]] }
form If in Expr
  written  "if" test:Expr "then" yes:Expr "else" no:Expr
  means    if truthy(test) { yes } else { no }
form Or in Expr
  written  left:Expr "or" right:Expr
  means    if truthy(left) { left } else { right }
form Both in Expr
  written  "both" value:Expr
  means    [value, value]
form Safe in Expr
  written  "safe" value:Expr
  means    attempt { [value, value] } rescue e { [caught.message(e), value] }
form Twice in Expr
  written  "twice" value:Expr
  means    { let i = 0; while i < 2 { value; i := i + 1 }; value }
form Leave in Expr
  written  "leave" value:Expr
  means    jump out with value
form Out in Expr
  written  "out" value:Expr
  means    landing out { if truthy(value) { value } else { [value, value] } }
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Note in Expr
  written  "note" value:Expr
  means    { output(shown(value), " "); value }
define truthy(v) = match v { truth t => t  nothing => false  integer n => n /= 0  else => true }
precedence of Expr, loosest first
  prefix Let, Set, If, Way, Both, Safe, Twice, Leave, Out, Note
  left   Or
  left   Plus
  suffix Call
"#;

#[test]
fn what_is_mentioned_twice_is_run_as_often_and_made_once() {
    let language = with_tokens(TWICE);
    for (program, wanted) in [
        ("both (note 1 + 2 + 3 + 4 + 5)", "15 15 [15, 15]"),
        ("let f = way (a, b) a + b; f(f(1, 2), f(3, 4))", "10"),
        ("let n = 0; both set n = n + 1 + 0 + 0 + 0", "[1, 2]"),
        ("let n = 0; (set n = n + 1 + 0 + 0 + 0) or 7", "2"),
        ("let n = 0; twice set n = n + 1 + 0 + 0 + 0; n", "3"),
        ("safe 1 + 2 + 3 + 4 + 5 + 6", "[21, 21]"),
        (
            "let n = 0; let f = way (x) set n = n + x + 0 + 0; both f(1)",
            "[1, 2]",
        ),
        (
            "both both both (1 + 2 + 3 + 4 + 5)",
            "[[[15, 15], [15, 15]], [[15, 15], [15, 15]]]",
        ),
        ("out if 0 + 0 + 0 + 0 then 1 else leave 5 + 6 + 7", "18"),
        (
            "let f = way (x) way () set x = x + 1 + 0 + 0; let g = f(1); both g()",
            "[2, 3]",
        ),
        (
            "let n = 1; let f = way (x) both (if n then set n = 0 + 0 + 0 else set n = x + x + x); f(2)",
            "[0, 6]",
        ),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
}

#[test]
fn an_error_in_what_is_mentioned_twice_is_where_it_stands() {
    let language = with_tokens(TWICE);
    for (program, wanted) in [
        (
            "both (1 + 2 + 3 + 4 + way () 1)",
            "1:23 a number is needed here, and this is function()",
        ),
        (
            "let f = way (x) both (1 + 2 + 3 + x()); f(4)",
            "1:35 only a function can be called, and this is an integer: 4",
        ),
    ] {
        let said = value(&language, program);
        assert_eq!(
            said.split_once(' ').map(|(place, _)| place),
            wanted.split_once(' ').map(|(place, _)| place),
            "{said}"
        );
    }
}

#[test]
fn code_is_linear_however_often_a_meaning_mentions_a_part() {
    let language = with_tokens(TWICE);
    let length = |program: &str| {
        let source = SourceText::new("text", program);
        let code = language.code(&source, Around::Nothing, Reading::Entry);
        let code = code.value.unwrap_or_else(|| panic!("{program}"));
        let listing = listing(&code, language.definition());
        let functions = listing.functions.iter();
        functions
            .map(|function| function.lines.len())
            .sum::<usize>()
    };
    let nests: [fn(&str) -> String; 5] = [
        |inner| format!("f({inner}, 1)"),
        |inner| format!("both (1 + {inner})"),
        |inner| format!("out {inner}"),
        |inner| format!("({inner} or f)"),
        |inner| format!("way () twice {inner}"),
    ];
    for nest in nests {
        let nested = |depth: usize| (0..depth).fold("1".to_owned(), |inner, _| nest(&inner));
        let sizes = [8, 16, 32].map(|depth| length(&format!("let f = 0; {}", nested(depth))));
        let (first, second) = (sizes[1] - sizes[0], sizes[2] - sizes[1]);
        assert!(second <= 2 * first + 8, "{}: {sizes:?}", nest("…"));
    }
}

#[test]
fn a_call_in_tail_position_uses_no_stack_where_it_is_mentioned_twice() {
    let language = with_tokens(TWICE);
    let program = "let f = way (n, g) if n then g(0, g) else 7 + 0 + 0 + 0 + 0 + 0; f(1, f)";
    assert_eq!(value(&language, program), "7");
    let language = with_tokens(
        r#"
form Program
  written  steps:Expr* by ";"
  opens    scope
  means    all steps
form Way in Expr
  written  "way" name:Name param:Name body:Expr
  binds    name throughout, param in body
  means    name := function (param) { body }
form Either in Expr
  written  "if" test:Expr "or" other:Expr "then" yes:Expr "else" no:Expr
  means    if test > 0 { yes } else { if other > 0 { yes } else { no } }
form Call in Expr
  written  name:Name "(" arg:Expr ")"
  uses     name
  means    call name with arg
form Less in Expr
  written  "less" value:Expr
  means    value - 1
usual Get, Number
"#,
    );
    let limits = Limits {
        depth: 10,
        ..Limits::default()
    };
    let program = "way down n if n or n then down(less less less less n) else n; down(100000)";
    assert_eq!(value_within(&language, program, limits), "0");
}

#[test]
fn a_loop_over_bound_names_reads_and_sets_their_variables() {
    let language = with_tokens(
        r#"
form Program
  written  steps:Expr* by ";"
  means    all steps
form Way in Expr
  written  "way" "(" params:Name* by "," ")" body:Expr
  binds    params in body
  means    function (values) { each param in params { param := list.take_first(values) }; body }
form Split in Expr
  written  "split" names:Name* by "," "from" value:Expr "in" body:Expr
  binds    names in body
  means    let left = value; each one in names { one := list.take_first(left) };
           let sum = 0; each one in names { sum := sum + one }; [sum, body]
form Call in Expr
  written  f:Expr ~ "(" args:Expr* by "," ")"
  means    call f with [args]
form List in Expr
  written  "[" items:Expr* by "," "]"
  means    [items]
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
usual Get, Number, Group
precedence of Expr, loosest first
  prefix Way, Split
  left   Plus
  suffix Call
"#,
    );
    assert_eq!(value(&language, "(way (a, b) a + b)(1, 2)"), "3");
    assert_eq!(value(&language, "split a, b from [3, 4] in a"), "[7, 3]");
    assert_eq!(value(&language, "(way (a) way (b) a + b)(1)(2)"), "3");
    let advice = language.advice();
    assert!(advice.is_empty(), "{advice:#?}");
}
