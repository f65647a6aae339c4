//! Every operation of the meaning notation, on what it is for and on what it is not for.

mod common;

use quillon_core::meaning::Operation;

/// What a meaning gives, or how it fails.
fn meaning(text: &str) -> String {
    let language = common::language(&format!(
        "language Own\n\ntokens\n  Start  \"go\"\n\nform Go\n  written  \"run\"\n  means    {text}\n"
    ));
    let said = common::value(&language, "run");
    said.strip_prefix("1:1 ").unwrap_or(&said).to_owned()
}

const CASES: &[(&str, &str)] = &[
    ("shown(\"a\")", "\"a\""),
    ("shown([\"a\", 1.0])", "\"[\\\"a\\\", 1.0]\""),
    ("quoted(\"a\\n\")", "\"\\\"a\\\\n\\\"\""),
    (
        "kind(nothing) & kind(true) & kind(1) & kind(1.5)",
        "\"nothingtruthintegernumber\"",
    ),
    (
        "kind([]) & kind(map.new()) & kind(function () { 1 })",
        "\"listmapfunction\"",
    ),
    ("same([1], [1])", "false"),
    ("let a = [1]; same(a, a)", "true"),
    ("same(1, 1.0)", "true"),
    ("output(1, \"a\", nothing); 2", "1anothing2"),
    ("input()", "nothing"),
    ("number.root(9)", "3.0"),
    (
        "number.root(- 9)",
        "a negative number has no root, and this is -9",
    ),
    ("number.power(2, 10)", "1024"),
    ("number.power(2, - 1)", "0.5"),
    ("number.power(2.0, 3)", "8.0"),
    (
        "number.power(3, 99)",
        "3 to the power 99 is too large for an integer",
    ),
    ("number.power(- 1, 9223372036854775807)", "-1"),
    (
        "number.power(- 8, 0.5)",
        "a negative number has no power with a fraction",
    ),
    ("number.absolute(- 3)", "3"),
    ("number.absolute(- 2.5)", "2.5"),
    (
        "[number.round(2.5), number.round(- 2.5), number.round(7)]",
        "[3, -3, 7]",
    ),
    (
        "[number.floor(- 0.5), number.ceiling(- 0.5), number.truncate(- 1.5)]",
        "[-1, 0, -1]",
    ),
    ("number.round(1e300)", "1e300 is no integer of 64 bits"),
    ("number.real(3)", "3.0"),
    ("number.least(3, 1.5, 2)", "1.5"),
    ("number.largest(3, 1.5, 7)", "7"),
    (
        "number.largest(3, \"a\")",
        "a number is needed here, and this is a text: \"a\"",
    ),
    (
        "[integer.quotient(- 7, 2), integer.remainder(- 7, 2)]",
        "[-3, -1]",
    ),
    (
        "[integer.floor_quotient(- 7, 2), integer.modulo(- 7, 2)]",
        "[-4, 1]",
    ),
    (
        "[integer.floor_quotient(7, - 2), integer.modulo(7, - 2)]",
        "[-4, -1]",
    ),
    (
        "integer.modulo(7, 0)",
        "this is zero, and nothing can be divided by zero",
    ),
    (
        "integer.quotient(7.0, 2)",
        "an integer is needed here, and this is a number: 7.0",
    ),
    ("text.length(\"e\u{301}🚤\")", "2"),
    ("text.length(\"a\\r\\nb\")", "3"),
    ("text.at(\"水門\", 1)", "\"門\""),
    ("text.at(\"ab\", 2)", "there is no character 2"),
    ("text.slice(\"canal\", 1, 3)", "\"an\""),
    ("text.slice(\"canal\", 3, 1)", "\"\""),
    ("text.slice(\"canal\", 0, 9)", "there is no position 9"),
    ("text.upper(\"é\") & text.lower(\"ÀB\")", "\"Éàb\""),
    ("text.trim(\"  a \")", "\"a\""),
    ("text.contains(\"canal\", \"nal\")", "true"),
    ("text.replace(\"a-b-c\", \"-\", \"+\")", "\"a+b+c\""),
    ("text.replace(\"abc\", \"\", \"+\")", "\"abc\""),
    (
        "text.repeat(\"ab\", 3) & text.repeat(\"x\", - 1)",
        "\"ababab\"",
    ),
    (
        "text.repeat(\"ab\", 9223372036854775807)",
        "this would grow too large",
    ),
    ("text.split(\"a,b,\", \",\")", "[\"a\", \"b\", \"\"]"),
    ("text.split(\"ab\", \"\")", "[\"a\", \"b\"]"),
    ("text.join([1, \"b\"], \"-\")", "\"1-b\""),
    (
        "text.join(\"ab\", \"-\")",
        "a list is needed here, and this is a text: \"ab\"",
    ),
    (
        "[text.to_integer(\" 12 \"), text.to_integer(\"1.5\"), text.to_integer(\"x\")]",
        "[12, nothing, nothing]",
    ),
    (
        "[text.to_number(\"1.5\"), text.to_number(\"inf\"), text.to_number(\"2\")]",
        "[1.5, nothing, 2.0]",
    ),
    (
        "text.upper(3)",
        "a text is needed here, and this is an integer: 3",
    ),
    ("list.length([1, 2])", "2"),
    ("[list.at([7, 8], 0), list.item([7, 8], 1)]", "[7, 7]"),
    ("list.item([7, 8], 0)", "there is no item 0"),
    ("list.at([], 0)", "there is no item 0"),
    (
        "list.at([1], - 9223372036854775807)",
        "there is no item -9223372036854775807",
    ),
    (
        "let l = [1, 2]; list.put(l, 0, 5); list.put_item(l, 2, 6); l",
        "[5, 6]",
    ),
    (
        "let l = []; list.add(l, 1); list.add(l, 2); [list.take(l), list.take_first(l), l]",
        "[2, 1, []]",
    ),
    (
        "list.take([])",
        "there is nothing to take from an empty list",
    ),
    ("list.slice([1, 2, 3], 1, 3)", "[2, 3]"),
    (
        "[list.contains([1, [2]], [2]), list.contains([1], 2)]",
        "[true, false]",
    ),
    ("list.reverse([1, 2])", "[2, 1]"),
    ("list.sort([3, 1.5, 2])", "[1.5, 2, 3]"),
    ("list.sort([\"b\", \"a\"])", "[\"a\", \"b\"]"),
    (
        "list.sort([1, \"a\"])",
        "a list can be sorted when its items are all numbers or all texts",
    ),
    ("[list.range(1, 3), list.range(3, 1)]", "[[1, 2, 3], []]"),
    (
        "list.range(0, 9223372036854775807)",
        "this would grow too large",
    ),
    (
        "let l = [1]; let c = list.copy(l); list.add(c, 2); [l, c]",
        "[[1], [1, 2]]",
    ),
    ("let l = [1]; list.put(l, 0, l); shown(l)", "\"[[…]]\""),
    (
        "let l = [1]; let m = [1]; list.put(l, 0, l); list.put(m, 0, m); l = m",
        "these are nested too deeply to be compared",
    ),
    (
        "let m = map.new(); map.put(m, \"b\", 1); map.put(m, 2, 3); m",
        "{\"b\": 1, 2: 3}",
    ),
    (
        "let m = map.new(); map.put(m, 1.0, \"a\"); map.get(m, 1)",
        "\"a\"",
    ),
    (
        "let m = map.new(); map.put(m, \"a\", 1); [map.find(m, \"a\"), map.find(m, \"b\"), map.has(m, \"b\")]",
        "[1, nothing, false]",
    ),
    (
        "let m = map.new(); map.put(m, \"a\", 1); map.put(m, \"b\", 2); map.remove(m, \"a\"); [map.keys(m), map.length(m)]",
        "[[\"b\"], 1]",
    ),
    ("map.get(map.new(), \"a\")", "there is no key \"a\""),
    (
        "map.get(map.new(), [])",
        "a key is needed here, and this is a list: []",
    ),
    (
        "\"a\" & 1",
        "a text is needed here, and this is an integer: 1",
    ),
    ("[1] & [2]", "[1, 2]"),
    (
        "1 & \"a\"",
        "a text or a list is needed here, and this is an integer: 1",
    ),
    (
        "[1 < 1.5, 2 >= 2, \"a\" < \"b\", 1 /= 2]",
        "[true, true, true, true]",
    ),
    (
        "1 < \"a\"",
        "a number is needed here, and this is a text: \"a\"",
    ),
    ("- - 9223372036854775807", "9223372036854775807"),
    (
        "- (- 9223372036854775807 - 1)",
        "the opposite of -9223372036854775808 is too large for an integer",
    ),
    ("1 / 3", "0.3333333333333333"),
    (
        "1.0 / 0.0",
        "this is zero, and nothing can be divided by zero",
    ),
    (
        "not 1",
        "a truth value is needed here, and this is an integer: 1",
    ),
    ("true or 1", "true"),
    (
        "false or 1",
        "a truth value is needed here, and this is an integer: 1",
    ),
    (
        "match 1 { text t => t }",
        "nothing here is for an integer: 1",
    ),
    ("match 1.5 { integer n => 1 number => 2 else => 3 }", "2"),
    (
        "let total = 0; each x in [1, 2, 3] { total := total + x }; total",
        "6",
    ),
    (
        "let m = map.new(); map.put(m, \"a\", 1); each k in m { output(k) }",
        "anothing",
    ),
    (
        "each x in 3 { 1 }",
        "a list or a map is needed here, and this is an integer: 3",
    ),
    ("landing a { landing b { jump a with 1 }; 2 }", "1"),
    ("call function () { 7 }", "7"),
    (
        "let fs = []; each x in [1, 2] { list.add(fs, function () { x }) }; [call list.at(fs, 0), call list.at(fs, 1)]",
        "[1, 2]",
    ),
    (
        "attempt { fault \"no \" & \"water\" } rescue e { map.get(e, \"message\") }",
        "\"no water\"",
    ),
    ("let n = 0; while n < 5 { n := n + 1 }; n", "5"),
    (
        "if 1 < 2 { \"a\" } else if true { \"b\" } else { \"c\" }",
        "\"a\"",
    ),
    ("if false { 1 }", "nothing"),
];

#[test]
fn operations_do_what_their_table_says() {
    for (text, wanted) in CASES {
        assert_eq!(meaning(text), *wanted, "{text}");
    }
}

#[test]
fn no_operation_is_left_untried() {
    for operation in Operation::ALL {
        let call = format!("{}(", operation.name());
        assert!(
            CASES.iter().any(|(text, _)| text.contains(&call)),
            "{} is tried nowhere",
            operation.name()
        );
    }
}
