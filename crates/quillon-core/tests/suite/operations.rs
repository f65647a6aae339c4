//! Every operation of the meaning notation, on what it is for and on what it is not for.

use crate::common;
use quillon_core::Language;
use quillon_core::operations::Operation;

/// What a meaning gives, or how it fails. `any(…)` hides the kind of a value until the
/// meaning runs: one that can never fit would be a mistake of the definition.
pub fn meaning(text: &str) -> String {
    let said = common::value(&language(text), "run");
    said.strip_prefix("1:1 ").unwrap_or(&said).to_owned()
}

pub fn language(text: &str) -> Language {
    common::language(&format!(
        "language Own\n\ntokens\n  Start  \"go\"\n\nform Go\n  written  \"run\"\n  means    {text}\n\ndefine any(v) = v\n"
    ))
}

pub const CASES: &[(&str, &str)] = &[
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
    ("[input.character(), input.all()]", "[nothing, \"\"]"),
    (
        "[number.fixed(2.345, 2), number.fixed(- 3, 1), number.fixed(0.5, 0)]",
        "[\"2.35\", \"-3.0\", \"0\"]",
    ),
    (
        "number.fixed(1, - 1)",
        "there can be 0 to 300 places, and this is an integer: -1",
    ),
    (
        "[number.exponential(0), number.logarithm(1), number.sine(0), number.cosine(0), number.angle(0, 1)]",
        "[1.0, 0.0, 0.0, 1.0, 0.0]",
    ),
    (
        "number.logarithm(0)",
        "only a number above zero has a logarithm, and this is 0",
    ),
    ("integer.exact_quotient(- 12, 4)", "-3"),
    (
        "integer.exact_quotient(7, 2)",
        "7 cannot be divided by 2 without a remainder",
    ),
    (
        "integer.exact_quotient(7, 0)",
        "this is zero, and nothing can be divided by zero",
    ),
    (
        "[integer.wrapped(256, 0, 255), integer.wrapped(- 1, 0, 255), integer.wrapped(7, 0, 255), integer.wrapped(128, - 128, 127)]",
        "[0, 255, 7, -128]",
    ),
    (
        "integer.wrapped(9223372036854775807, 0, 9223372036854775806)",
        "0",
    ),
    (
        "[integer.clamped(300, 0, 255), integer.clamped(- 1, 0, 255), integer.clamped(9, 0, 255)]",
        "[255, 0, 9]",
    ),
    ("integer.clamped(1, 5, 2)", "nothing lies between 5 and 2"),
    (
        "let most = 9223372036854775807; [integer.add_wrapping(most, 1), integer.subtract_wrapping(- most, 2), integer.multiply_wrapping(most, 2)]",
        "[-9223372036854775808, 9223372036854775807, -2]",
    ),
    (
        "let most = 9223372036854775807; [integer.add_saturating(most, 1), integer.subtract_saturating(- most, 2), integer.multiply_saturating(most, 2)]",
        "[9223372036854775807, -9223372036854775808, 9223372036854775807]",
    ),
    (
        "[integer.bits_and(12, 10), integer.bits_or(12, 10), integer.bits_xor(12, 10), integer.bits_not(0)]",
        "[8, 14, 6, -1]",
    ),
    (
        "[integer.shift_left(1, 63), integer.shift_right(- 8, 1)]",
        "[-9223372036854775808, -4]",
    ),
    (
        "integer.shift_left(1, 64)",
        "bits cannot be shifted by 64 places",
    ),
    (
        "[integer.in_base(255, 16), integer.in_base(- 5, 2), integer.in_base(0, 36)]",
        "[\"ff\", \"-101\", \"0\"]",
    ),
    ("integer.in_base(1, 1)", "there is no base 1"),
    (
        "[text.find(\"né lock\", \"l\"), text.find(\"a\", \"b\"), text.find_last(\"abab\", \"ab\")]",
        "[3, nothing, 2]",
    ),
    (
        "[text.starts(\"lock\", \"lo\"), text.ends(\"lock\", \"lo\")]",
        "[true, false]",
    ),
    (
        "text.format(\"{} of {}, {2}, {{}}\", [\"a\", 2])",
        "\"a of 2, 2, {}\"",
    ),
    (
        "text.format(\"{boat} pays {toll}\", map.of(\"boat\", \"Ada\", \"toll\", 2.5))",
        "\"Ada pays 2.5\"",
    ),
    ("text.format(\"{} {}\", [1])", "there is no value for `{}`"),
    ("text.format(\"{\", [1])", "a `{` stands alone in this text"),
    (
        "[text.pad_left(\"7\", 3, \"0\"), text.pad_right(\"ab\", 5, \".-\"), text.pad_left(\"long\", 2, \" \")]",
        "[\"007\", \"ab.-.\", \"long\"]",
    ),
    (
        "[text.reverse(\"abé\"), text.lines(\"a\\nb\\n\")]",
        "[\"éba\", [\"a\", \"b\"]]",
    ),
    (
        "[text.points(\"aé\"), text.from_points([97, 233])]",
        "[[97, 233], \"aé\"]",
    ),
    (
        "[text.bytes(\"é\"), text.from_bytes([195, 169]), text.from_bytes([195])]",
        "[[195, 169], \"é\", nothing]",
    ),
    (
        "text.from_bytes([256])",
        "an item of the list is no byte: an integer: 256",
    ),
    (
        "[text.to_integer_in(\"ff\", 16), text.to_integer_in(\"2\", 2)]",
        "[255, nothing]",
    ),
    (
        "let l = [1, 3]; list.insert(l, 1, 2); list.insert(l, 3, 4); [list.remove(l, 0), l]",
        "[1, [2, 3, 4]]",
    ),
    ("list.insert([1], 3, 2)", "there is no place 3"),
    (
        "[list.find([1, 2.0, 2], 2), list.find([], 1)]",
        "[1, nothing]",
    ),
    ("list.filled(3, 0)", "[0, 0, 0]"),
    ("map.of(\"a\", 1, 2, true)", "{\"a\": 1, 2: true}"),
    ("map.of(\"a\")", "this key has no value"),
    (
        "let m = map.of(\"a\", 1); let c = map.copy(m); map.put(c, \"b\", 2); [m, map.values(c)]",
        "[{\"a\": 1}, [1, 2]]",
    ),
    ("let n = random.integer(3, 5); n >= 3 and n <= 5", "true"),
    ("random.integer(5, 3)", "there is no integer from 5 to 3"),
    ("let n = random.number(); n >= 0 and n < 1", "true"),
    ("list.sort(random.shuffle([3, 1, 2]))", "[1, 2, 3]"),
    ("clock.now() > 0 and clock.running() >= 0", "true"),
    ("program.arguments()", "[]"),
    (
        "program.leave(3)",
        "the program leaves here, with the exit status 3",
    ),
    ("host.call(\"toll\", 1)", "nothing here is called `toll`"),
    ("file.read(\"a\")", "the file a is out of reach"),
    ("file.write(\"a\", \"b\")", "the file a is out of reach"),
    ("file.exists(\"a\")", "the file a is out of reach"),
    ("module.load(\"a\")", "the program a is out of reach"),
    (
        "let c = coroutine.make(function () { coroutine.suspend(1); 2 }); [coroutine.resume(c), coroutine.ended(c), coroutine.resume(c)]",
        "[1, false, 2]",
    ),
    (
        "let total = 0; each x in coroutine.make(function () { coroutine.suspend(1); coroutine.suspend(2) }) { total := total + x }; total",
        "3",
    ),
    (
        "list.map(any(1), any(2))",
        "a list is needed here, and this is an integer: 1",
    ),
    (
        "list.filter([1], any(2))",
        "a function is needed here, and this is an integer: 2",
    ),
    ("list.fold([], 3, function () { 1 })", "3"),
    ("list.sort_by([1], function () { 1 })", "[1]"),
    ("attempt { 1 } always { output(\"end \") }", "end 1"),
    ("number.root(9)", "3.0"),
    (
        "number.root(- 9)",
        "a negative number has no root, and this is -9",
    ),
    ("number.power(2, 10)", "1024"),
    ("number.power(2, - 1)", "0.5"),
    ("number.power(2.0, 3)", "8.0"),
    (
        "number.power(0, - 1)",
        "zero has no negative power: that would be a division by zero",
    ),
    ("number.power(0.0, 0)", "1.0"),
    (
        "[number.remainder(7, 3), number.remainder(- 7, 3), number.remainder(7.5, - 2), number.remainder(- 7.5, 2)]",
        "[1, -1, 1.5, -1.5]",
    ),
    (
        "[number.modulo(7, 3), number.modulo(- 7, 3), number.modulo(7.5, - 2), number.modulo(- 7.5, 2)]",
        "[1, 2, -0.5, 0.5]",
    ),
    (
        "number.modulo(1.5, 0)",
        "this is zero, and nothing can be divided by zero",
    ),
    (
        "[text.byte_length(\"é\"), text.byte_at(\"aé\", 0), text.byte_at(\"aé\", 2)]",
        "[2, 97, 169]",
    ),
    ("text.byte_at(\"a\", 1)", "there is no byte 1"),
    (
        "attempt { 1 / 0 } rescue e { [caught.kind(e), caught.message(e), list.length(caught.calls(e))] }",
        "[\"run.division\", \"this is zero, and nothing can be divided by zero\", 0]",
    ),
    (
        "attempt { raise [1] } rescue e { [caught.kind(e), caught.message(e), caught.calls(e)] }",
        "[\"raised\", \"[1]\", []]",
    ),
    (
        "let copied = attempt { 1 / 0 } rescue e { e }; attempt { raise map.of(\"code\", \"run.division\") } rescue e { [caught.kind(e), caught.kind(copied), caught.kind(map.copy(copied))] }",
        "[\"raised\", \"run.division\", \"run.division\"]",
    ),
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
        "number.largest(3, any(\"a\"))",
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
        "integer.quotient(any(7.0), 2)",
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
        "text.join(any(\"ab\"), \"-\")",
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
        "text.upper(any(3))",
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
        "true",
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
        "let key = []; map.get(map.new(), key)",
        "a key is needed here, and this is a list: []",
    ),
    (
        "\"a\" & any(1)",
        "a text is needed here, and this is an integer: 1",
    ),
    ("[1] & [2]", "[1, 2]"),
    (
        "any(1) & \"a\"",
        "a text or a list is needed here, and this is an integer: 1",
    ),
    (
        "[1 < 1.5, 2 >= 2, \"a\" < \"b\", 1 /= 2]",
        "[true, true, true, true]",
    ),
    (
        "any(1) < \"a\"",
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
        "not any(1)",
        "a truth value is needed here, and this is an integer: 1",
    ),
    ("true or any(1)", "true"),
    (
        "false or any(1)",
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
        "a list, a map or a coroutine is needed here, and this is an integer: 3",
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
    ("list.call([1, 2], function (a, b) { a - b })", "-1"),
    ("1 fits integer", "true"),
    (
        "[1 fits number, 1.5 fits integer, \"a\" fits any]",
        "[true, false, true]",
    ),
    (
        "[[[1], []] fits list of list of number, [1, \"a\"] fits list of number]",
        "[true, false]",
    ),
    ("map.of(\"a\", 1) fits map of text", "false"),
    ("not 1 fits text", "true"),
    ("demand 4 fits integer", "4"),
    (
        "attempt { let v = 4; fault \"too low\" at v } rescue e { map.get(e, \"message\") }",
        "\"too low\"",
    ),
    (
        "attempt { demand [1, \"a\"] fits list of number } rescue e { map.get(e, \"message\") }",
        "\"a list of numbers is needed here, and in this one there is a text: \\\"a\\\"\"",
    ),
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
        let call = match operation {
            Operation::Fits => " fits ".to_owned(),
            Operation::Demand => "demand ".to_owned(),
            Operation::FaultAt => "fault \"".to_owned(),
            Operation::TextOf => "text.join([".to_owned(),
            _ => format!("{}(", operation.name()),
        };
        assert!(
            CASES.iter().any(|(text, _)| text.contains(&call)),
            "{} is tried nowhere",
            operation.name()
        );
    }
}
