//! Languages in which every number has a fraction: places are checked to be whole, and what is checked is found at once.
//! Programs do the same as by the walking engine, whatever is no place at all.

use crate::common::{language, value, with_tokens};
use crate::notation::{gives, prints};

/// Programs of the drifters with what they print, and what they end in.
#[track_caller]
fn all(programs: &[(&str, &str)]) {
    prints(
        &language(include_str!("../../benches/peers/drift.quillon")),
        programs,
    );
}

#[test]
fn whole_places_are_found_and_others_are_not() {
    let at = "let f = task(l, n) { l[n] };\n";
    let list = "[10, 20, 30]";
    all(&[
        (
            &format!("{at}tell(f({list}, 0), f({list}, 2), f({list}, 4 / 2), f({list}, -0))"),
            "10 30 30 10\n",
        ),
        (
            &format!(
                "{at}tell(f('lock', 0), f('lock', 3)); tell(f(@{{a = 1}}, 'a'), f(@{{a = 1}}, 'b'))"
            ),
            "l k\n1 nothing\n",
        ),
        (
            &format!("{at}f({list}, 0.5)"),
            "1:24 a place is a whole number",
        ),
        (
            &format!("{at}f('lock', 1.5)"),
            "1:24 a place is a whole number",
        ),
        (
            "let l = [1, 2]; l[0.5] := 3",
            "1:19 a place is a whole number",
        ),
        (
            "let l = [1, 2]; let n = 1; l[n] := 7; l[0] := 8; tell(l[0], l[1])",
            "8 7\n",
        ),
    ]);
}

#[test]
fn places_that_no_list_has_end_in_the_error_of_the_list() {
    let list = "let l = [10, 20, 30];\nlet f = task(n) { l[n] };\n";
    for (place, wanted) in [
        ("3", "2:19 there is no item 3"),
        ("-1", "2:19 there is no item -1"),
        ("2251799813685248", "2:19 there is no item 2251799813685248"),
        (
            "-2251799813685249",
            "2:19 there is no item -2251799813685249",
        ),
        ("9007199254740992", "2:19 there is no item 9007199254740992"),
        ("6755399441055744", "2:19 there is no item 6755399441055744"),
        (
            "-6755399441055744",
            "2:19 there is no item -6755399441055744",
        ),
        (
            "-13510798882111488",
            "2:19 there is no item -13510798882111488",
        ),
    ] {
        all(&[(&format!("{list}f({place})"), wanted)]);
    }
}

#[test]
fn numbers_that_are_no_integers_at_all_are_no_places() {
    let list = "let l = [10, 20, 30];\nlet f = task(n) { l[n] };\nlet big = 1;\nfor i from 1 upto 400 { big := big * 10 };\n";
    for n in ["big", "-big", "big - big"] {
        let drift = language(include_str!("../../benches/peers/drift.quillon"));
        let told = value(&drift, &format!("{list}f({n})"));
        assert!(told.contains("no integer of 64 bits"), "{told}");
    }
}

#[test]
fn what_is_left_of_numbers_by_a_literal_is_the_same_as_by_a_variable() {
    for a in [
        "7",
        "-7",
        "7.5",
        "-7.5",
        "0",
        "-0",
        "9007199254740993",
        "0.1",
    ] {
        for b in ["2", "3", "2.5", "1", "32767", "32768", "0.1"] {
            all(&[(
                &format!(
                    "let by = task(a, b) {{ a mod b }};\nlet n = {a} * 1;\ntell(n mod {b} == by({a}, {b}), 1 / (n mod {b} + 0.5) == 1 / (by({a}, {b}) + 0.5))"
                ),
                "true true\n",
            )]);
        }
    }
    all(&[
        (
            "let n = 7 * 1; tell(n mod 2, -n mod 2, n / 2 mod 2, n mod 2.5)",
            "1 1 1.5 2\n",
        ),
        (
            "let n = 7 * 1; n mod 0",
            "1:22 this is zero, and nothing can be divided by zero",
        ),
        (
            "let f = task(n) { n mod 2 }; f('a')",
            "1:19 a number is needed here, and this is a text: \"a\"",
        ),
    ]);
}

/// A language whose forms bring a number to an integer in one way each, and say of which kind what they give is.
fn brought(ways: &[(&str, &str)]) -> quillon_core::Language {
    let mut text = String::from(
        "form Number in Expr\n  written  value:Whole | value:Decimal\n  means    value\n\n",
    );
    for (form, meaning) in ways {
        text += &format!(
            "form {form} in Expr\n  written  \"{}\" value:Expr\n  means    {meaning}\n\n",
            form.to_lowercase()
        );
    }
    with_tokens(&text)
}

#[test]
fn every_way_to_check_gives_what_it_says() {
    let kind = "match v { integer i => [\"integer\", i]  number n => [\"number\", n]  else => v }";
    let ways = [
        (
            "Floored",
            "let n = value; let v = { let i = number.floor(n); if i /= n { fault \"not whole\" at n }; i }; KIND",
        ),
        (
            "Rounded",
            "let n = value; let v = { let i = number.round(n); if i = n { i } else { fault \"not whole\" at n } }; KIND",
        ),
        (
            "Kept",
            "let n = value; let v = { let i = number.floor(n); if i /= n { fault \"not whole\" at n }; n }; KIND",
        ),
        (
            "Cut",
            "let n = value; let v = if number.truncate(n) = n { number.truncate(n) } else { nothing }; KIND",
        ),
        (
            "Small",
            "let n = value; let v = { let i = number.ceiling(n); if i /= n { fault \"not whole\" at n }; if i > 9 { fault \"not small\" at n }; i }; KIND",
        ),
    ];
    let ways = ways.map(|(form, meaning)| (form, meaning.replace("KIND", kind)));
    let ways: Vec<(&str, &str)> = ways.iter().map(|(form, m)| (*form, m.as_str())).collect();
    gives(
        &brought(&ways),
        &[
            ("floored 2.0", "[\"integer\", 2]"),
            ("floored 2", "[\"integer\", 2]"),
            ("floored 2.5", "1:9 not whole"),
            ("rounded 2.0", "[\"integer\", 2]"),
            ("rounded 2.5", "1:9 not whole"),
            ("kept 2.0", "[\"number\", 2.0]"),
            ("kept 2", "[\"integer\", 2]"),
            ("kept 2.5", "1:6 not whole"),
            ("cut 2.0", "[\"integer\", 2]"),
            ("cut 2.5", "nothing"),
            ("small 2.0", "[\"integer\", 2]"),
            ("small 9.0", "[\"integer\", 9]"),
            ("small 10.0", "1:7 not small"),
            ("small 9.5", "1:7 not whole"),
        ],
    );
}

#[test]
fn a_place_that_is_checked_and_left_as_it_is_is_no_integer() {
    let own = with_tokens(
        r#"
form Number in Expr
  written  value:Whole | value:Decimal
  means    value

form Checked in Expr
  written  "checked" place:Expr
  means    let l = [10, 20, 30]; let n = place;
           { let i = number.floor(n); if i /= n { fault "not whole" at n }; list.at(l, n) }

form Brought in Expr
  written  "brought" place:Expr
  means    let l = [10, 20, 30]; let n = place;
           { let i = number.floor(n); if i /= n { fault "not whole" at n }; list.at(l, i) }

form Before in Expr
  written  "before" place:Expr
  means    let l = [10, 20, 30]; let n = place;
           { let i = number.floor(n); if i /= n { fault "not whole" at n }; if i < 1 { fault "too low" at n }; list.at(l, i - 1) }
"#,
    );
    gives(
        &own,
        &[
            ("checked 1", "20"),
            (
                "checked 1.0",
                "1:9 an integer is needed here, and this is a number: 1.0",
            ),
            ("checked 1.5", "1:9 not whole"),
            ("brought 1", "20"),
            ("brought 1.0", "20"),
            ("brought 1.5", "1:9 not whole"),
            ("before 1.0", "10"),
            ("before 3.0", "30"),
            ("before 0.0", "1:8 too low"),
            ("before 0.5", "1:8 not whole"),
        ],
    );
}

#[test]
fn what_is_always_the_same_is_made_before_the_program_runs() {
    all(&[
        (
            "tell('boat ' + 12 + ' of ' + 1.5, 3 + '', '' + none)",
            "boat 12 of 1.5 3 nothing\n",
        ),
        ("tell([10, 20][1], [10, 20][-0])", "20 10\n"),
        ("[10, 20][0.25]", "1:10 a place is a whole number"),
    ]);
}
