//! Grammars of many shapes: nothing is factored by hand, and nothing is chosen silently.

use crate::common;
use crate::common::{TOKENS, mistakes, tree, with_tokens};

#[track_caller]
fn reads(items: &str, expected: &[(&str, &str)]) {
    let language = with_tokens(items);
    for (text, wanted) in expected {
        assert_eq!(tree(&language, text), *wanted, "{text}");
    }
}

const NUMBER: &str = "
form Number in Expr
  written  value:Whole
form Variable in Expr
  written  name:Name
form Group in Expr
  written  \"(\" inner:Expr \")\"
  becomes  inner
";

#[test]
fn twelve_levels_of_operators_bracket_as_the_table_says() {
    let items = format!(
        "
precedence of Expr, loosest first
  prefix  Fun, If
  right   Choice
  left    Or
  left    And
  prefix  Not
  none    Equal, Less
  right   Cons
  left    Add, Subtract
  left    Multiply
  prefix  Negate
  right   Power
  suffix  Factorial
  left    Call, Item
form Fun in Expr
  written  \"fun\" param:Name \".\" body:Expr
form If in Expr
  written  \"if\" test:Expr \"then\" yes:Expr (\"else\" no:Expr)?
form Choice in Expr
  written  test:Expr \"?\" yes:Expr \":\" no:Expr
form Or in Expr
  written  left:Expr \"or\" right:Expr
form And in Expr
  written  left:Expr \"and\" right:Expr
form Not in Expr
  written  \"not\" value:Expr
form Equal in Expr
  written  left:Expr \"=\" right:Expr
form Less in Expr
  written  left:Expr \"<\" right:Expr
form Cons in Expr
  written  left:Expr \"::\" right:Expr
form Add in Expr
  written  left:Expr \"+\" right:Expr
form Subtract in Expr
  written  left:Expr \"-\" right:Expr
form Multiply in Expr
  written  left:Expr \"*\" right:Expr
form Negate in Expr
  written  \"-\" value:Expr
form Power in Expr
  written  left:Expr \"^\" right:Expr
form Factorial in Expr
  written  value:Expr \"!\"
form Call in Expr
  written  callee:Expr ~ \"(\" args:Expr* by \",\" \")\"
form Item in Expr
  written  of:Expr \"[\" index:Expr \"]\"
{}",
        NUMBER
            .replace(
                "form Number in Expr\n  written  value:Whole",
                "form N in Expr\n  written  value:Whole"
            )
            .replace("form Variable", "form V")
    );
    reads(
        &items,
        &[
            ("a - b - c", "Subtract(Subtract(V(a), V(b)), V(c))"),
            ("a - -b", "Subtract(V(a), Negate(V(b)))"),
            ("-a ^ b", "Negate(Power(V(a), V(b)))"),
            ("a ^ -b ^ c", "Power(V(a), Negate(Power(V(b), V(c))))"),
            ("a ^ b ^ c", "Power(V(a), Power(V(b), V(c)))"),
            ("a :: b :: c + d", "Cons(V(a), Cons(V(b), Add(V(c), V(d))))"),
            ("not a = b", "Not(Equal(V(a), V(b)))"),
            ("a = not b and c", "And(Equal(V(a), Not(V(b))), V(c))"),
            (
                "a ? b : c ? d : e",
                "Choice(V(a), V(b), Choice(V(c), V(d), V(e)))",
            ),
            (
                "a ? b ? c : d : e",
                "Choice(V(a), Choice(V(b), V(c), V(d)), V(e))",
            ),
            ("a + fun x. x + b", "Add(V(a), Fun(x, Add(V(x), V(b))))"),
            ("(fun x. x) + b", "Add(Fun(x, V(x)), V(b))"),
            (
                "a * if b then c else d + e",
                "Multiply(V(a), If(V(b), V(c), Add(V(d), V(e))))",
            ),
            (
                "if a then if b then c else d",
                "If(V(a), If(V(b), V(c), V(d)))",
            ),
            ("a ! ^ b", "Power(Factorial(V(a)), V(b))"),
            ("-a!", "Negate(Factorial(V(a)))"),
            ("f(a)(b)[c]", "Item(Call(Call(V(f), [V(a)]), [V(b)]), V(c))"),
            ("-f(a) * b", "Multiply(Negate(Call(V(f), [V(a)])), V(b))"),
            (
                "a = b = c",
                "1:7 expected an operator or the end of the text, found `=`",
            ),
            ("a < b", "Less(V(a), V(b))"),
        ],
    );
}

#[test]
fn a_bracketed_name_list_may_turn_out_to_be_parameters() {
    reads(
        &format!(
            "
precedence of Expr, loosest first
  prefix  Arrow
  left    Add
  left    Call
form Arrow in Expr
  written  \"(\" params:Name* by \",\" \")\" \"=>\" body:Expr | params:Name \"=>\" body:Expr
form Add in Expr
  written  left:Expr \"+\" right:Expr
form Call in Expr
  written  callee:Expr ~ \"(\" args:Expr* by \",\" \")\"
{NUMBER}"
        ),
        &[
            ("(a)", "Variable(a)"),
            ("(a) => a", "Arrow([a], Variable(a))"),
            (
                "(a, b) => a + b",
                "Arrow([a, b], Add(Variable(a), Variable(b)))",
            ),
            ("() => 1", "Arrow([], Number(1))"),
            ("a => (b) => a", "Arrow([a], Arrow([b], Variable(a)))"),
            (
                "((a) => a)((b))",
                "Call(Arrow([a], Variable(a)), [Variable(b)])",
            ),
            ("((((((a))))))", "Variable(a)"),
            (
                "((((((a)))))) + (b) + ((c) => c)",
                "Add(Add(Variable(a), Variable(b)), Arrow([c], Variable(c)))",
            ),
        ],
    );
}

#[test]
fn what_differs_only_at_the_end_needs_no_factoring() {
    reads(
        &format!(
            "
form Program
  written  steps:Step* by \";\" trailing
form Assign in Step
  written  target:Name \"=\" value:Expr
form Label in Step
  written  target:Name \":\" step:Step
form Bare in Step
  written  value:Expr
form Decide in Step
  written  \"on\" \"(\" name:Name \")\" \"go\" | \"on\" \"(\" value:Expr \")\" \"stay\"
{NUMBER}"
        ),
        &[
            (
                "a; a = 1; a: b = 2;",
                "Program([Bare(Variable(a)), Assign(a, Number(1)), Label(a, Assign(b, Number(2)))])",
            ),
            (
                "on (a) stay; on (a) go",
                "Program([Decide(value: Variable(a)), Decide(a)])",
            ),
            ("", "Program([])"),
        ],
    );
}

#[test]
fn recursion_may_hide_behind_what_is_not_there() {
    reads(
        "
form Chain
  written  before:Mark* inner:Chain \"x\" | \"y\"
form Mark
  written  \"m\"
",
        &[
            ("y", "Chain([])"),
            ("y x x", "Chain([], Chain([], Chain([])))"),
            ("m m y x", "Chain([Mark, Mark], Chain([]))"),
            ("m y x x", "1:1 `m y x x` can be read in two ways"),
        ],
    );
}

#[test]
fn forms_that_could_hold_nothing_but_themselves_are_refused() {
    let number = "form Number in Expr\n  written  value:Whole\n";
    for (forms, said) in [
        (
            "form Same in Expr\n  written  inner:Expr\n",
            "`Same` may be nothing but itself",
        ),
        (
            "form Signed in Expr\n  written  (\"-\")? inner:Expr\n",
            "`Signed` may be nothing but itself",
        ),
        (
            "form Out in Expr\n  written  inner:Term\nform Back in Term\n  written  inner:Expr\n",
            "may be nothing but itself",
        ),
        (
            "form Loose in Expr\n  written  \"<\" items:Maybe* \">\"\nform Maybe\n  written  one:Number?\n",
            "what `Loose` repeats can be nothing at all",
        ),
    ] {
        let messages = mistakes(&format!("language Own\n{TOKENS}\n{forms}{number}"));
        assert!(
            messages.iter().any(|m| m.contains(said)),
            "{forms}: {messages:?}"
        );
    }
    // With a token beside it, or something between, each is another one.
    for forms in [
        "form Signed in Expr\n  written  \"-\" inner:Expr\n",
        "form Loose in Expr\n  written  \"<\" items:Maybe* by \",\" \">\"\nform Maybe\n  written  one:Number?\n",
    ] {
        let messages = mistakes(&format!("language Own\n{TOKENS}\n{forms}{number}"));
        assert_eq!(messages, [] as [&str; 0], "{forms}");
    }
}

#[test]
fn ambiguity_shows_both_readings_and_precedence_settles_it() {
    let items = |line: &str| {
        format!(
            "{line}
form If in Step
  written  \"if\" test:Name yes:Step (\"else\" no:Step)?
form Do in Step
  written  name:Name
"
        )
    };
    let open = with_tokens(&items(""));
    let source = quillon_core::source::SourceText::new("text", "if a if b c else d");
    let error = &open.tree(&source, quillon_core::Reading::Entry).diagnostics[0];
    assert_eq!(error.why[0], "as  If(a, If(b, Do(c)), Do(d))");
    assert_eq!(error.why[1], "or  If(a, If(b, Do(c), Do(d)))");
    let settled = with_tokens(&items("precedence of Step, loosest first\n  right  If\n"));
    assert_eq!(
        tree(&settled, "if a if b c else d"),
        "If(a, If(b, Do(c), Do(d)))"
    );
}

#[test]
fn application_by_standing_side_by_side() {
    reads(
        &format!(
            "
precedence of Expr, loosest first
  prefix  Fun
  left    Add
  left    Apply
form Fun in Expr
  written  \"fn\" param:Name \".\" body:Expr
form Add in Expr
  written  left:Expr \"+\" right:Expr
form Apply in Expr
  written  callee:Expr argument:Expr
{NUMBER}"
        ),
        &[
            (
                "f a b",
                "Apply(Apply(Variable(f), Variable(a)), Variable(b))",
            ),
            (
                "f a + g b",
                "Add(Apply(Variable(f), Variable(a)), Apply(Variable(g), Variable(b)))",
            ),
            (
                "f (g a)",
                "Apply(Variable(f), Apply(Variable(g), Variable(a)))",
            ),
            (
                "f fn x. x y",
                "Apply(Variable(f), Fun(x, Apply(Variable(x), Variable(y))))",
            ),
        ],
    );
}

#[test]
fn postfix_and_prefix_and_bracket_notations() {
    reads(
        "
form Plus in Expr
  written  left:Expr right:Expr \"+\"
form Times in Expr
  written  left:Expr right:Expr \"*\"
form N in Expr
  written  value:Whole
",
        &[
            ("1 2 3 * +", "Plus(N(1), Times(N(2), N(3)))"),
            ("1 2 + 3 *", "Times(Plus(N(1), N(2)), N(3))"),
        ],
    );
    reads(
        "
form Let in Expr
  written  \"(\" \"let\" \"(\" bindings:Binding* \")\" body:Expr \")\"
form Binding
  written  \"[\" name:Name value:Expr \"]\"
form Apply in Expr
  written  \"(\" callee:Expr args:Expr* \")\"
form V in Expr
  written  name:Name
form N in Expr
  written  value:Whole
",
        &[
            (
                "(let ([a 1] [b (f 2)]) (g a b))",
                "Let([Binding(a, N(1)), Binding(b, Apply(V(f), [N(2)]))], Apply(V(g), [V(a), V(b)]))",
            ),
            ("(f)", "Apply(V(f), [])"),
        ],
    );
}

#[test]
fn one_character_instructions_with_nested_loops() {
    let language = common::language(
        "language Tape

tokens
  Other  [^+-<>[]  ignored

form Program
  written  steps:Step*

form More in Step
  written  \"+\"

form Loop in Step
  written  \"[\" steps:Step* \"]\"
"
        .replace("[^+-<>[]", "[^+\\[\\]]")
        .as_str(),
    );
    assert_eq!(
        tree(&language, "+ say [+[+]]!"),
        "Program([More, Loop([More, Loop([More])])])"
    );
    assert_eq!(
        tree(&language, "[+"),
        "1:3 expected a step or `]`, found the end of the text"
    );
}

#[test]
fn parts_may_be_optional_repeated_grouped_and_alternative() {
    reads(
        "
form Boat
  written  \"boat\" name:Name (\"of\" (length:Whole | length:Decimal) \"m\")? (\"with\" cargo:Name (\",\" cargo:Name)*)? mark:(\"!\" | \"?\")?
",
        &[
            ("boat heron", "Boat(heron, cargo: [])"),
            ("boat heron of 3 m", "Boat(heron, 3, [])"),
            ("boat heron of 2.5 m with coal, silk !", "Boat(heron, 2.5, [coal, silk], `!`)"),
            ("boat heron with coal", "Boat(heron, cargo: [coal])"),
            ("boat heron of m", "1:15 expected a decimal or a whole, found `m`"),
        ],
    );
}

#[test]
fn many_optional_parts_do_not_multiply_out() {
    let optional: Vec<String> = (0..16).map(|i| format!("(\"k{i}\" f{i}:Name)?")).collect();
    let items = format!("\nform Many\n  written  {}\n", optional.join(" "));
    let language = with_tokens(&items);
    assert_eq!(tree(&language, "k1 a k15 b"), "Many(f1: a, f15: b)");
    assert_eq!(tree(&language, ""), "Many");
}

#[test]
fn a_form_can_be_asked_for_by_name() {
    reads(
        &format!(
            "
form Set
  written  target:Variable \"=\" value:Expr
{NUMBER}"
        ),
        &[
            ("a = 1", "Set(Variable(a), Number(1))"),
            ("1 = 1", "1:1 expected a name, found whole `1`"),
        ],
    );
}

#[test]
fn tight_parts_must_touch() {
    reads(
        &format!(
            "
precedence of Expr, loosest first
  left  Call
form Program
  written  values:Expr*
form Call in Expr
  written  callee:Expr ~ \"(\" args:Expr* by \",\" \")\"
{NUMBER}"
        ),
        &[
            ("f(a)", "Program([Call(Variable(f), [Variable(a)])])"),
            ("f (a)", "Program([Variable(f), Variable(a)])"),
        ],
    );
    let misplaced = format!(
        "language Own\n{}\nform A\n  written  \"a\" ~ inner:A | \"b\"\n",
        common::TOKENS
    );
    assert_eq!(
        mistakes(&misplaced),
        ["12:16 `~` must stand before a quoted text or a token"]
    );
}

#[test]
fn keywords_are_reserved_and_longest_match_keeps_names_whole() {
    reads(
        "
form If
  written  \"if\" name:Name
",
        &[
            ("if iffy", "If(iffy)"),
            ("if if", "1:4 expected a name, found `if`"),
        ],
    );
}

#[test]
fn long_lists_and_long_chains_take_linear_time() {
    let language = with_tokens(&format!(
        "
precedence of Expr, loosest first
  left  Add
form Add in Expr
  written  left:Expr \"+\" right:Expr
form List in Expr
  written  \"[\" items:Expr* by \",\" \"]\"
{NUMBER}"
    ));
    let list = format!("[{}]", vec!["1"; 200_000].join(", "));
    assert!(tree(&language, &list).starts_with("List([Number(1), "));
    let deep = format!("{}1{}", "[".repeat(100_000), "]".repeat(100_000));
    assert!(tree(&language, &deep).contains("levels deep"));
}
