//! Keys that a map may not have, asked for again and again in the same place: whatever it remembers, the answer is
//! right.

use crate::common::{value, with_tokens};
use crate::kinds::code;

/// Things that know a craft, which may know another one; a key is looked for along them.
const CRAFTS: &str = r#"
precedence of Expr, loosest first
  right  Set
  left   Plus
  left   Call, Send
usual Program
form Alone in Step
  written  value:Expr
  means    value
form Way in Expr
  written  "way" params:Name* by "," ":" body:Expr "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form Made in Expr
  written  "made" entries:Entry* by "," "end"
  means    let m = map.new(); each e in entries { map.put(m, spelling of e.key, e.value) }; m
form Entry
  written  key:Name "=" value:Expr
  means    value
form Put in Expr
  written  "put" value:Expr "as" key:Name "into" of:Expr "end"
  means    map.put(of, spelling of key, value); of
form Drop in Expr
  written  "drop" key:Name "of" of:Expr "end"
  means    map.remove(of, spelling of key); of
form Many in Expr
  written  "many" count:Expr "in" of:Expr "end"
  means    let m = of; each n in list.range(1, count) { map.put(m, shown(n), n) }; m
form Knows in Expr
  written  "knows" key:Name "of" of:Expr "end"
  means    if map.has(of, spelling of key) { 1 } else { 0 }
form Lacks in Expr
  written  "lacks" key:Name "of" of:Expr "end"
  means    if not map.has(of, spelling of key) { 1 } else { 0 }
form Both in Expr
  written  "both" one:Name two:Name "of" of:Expr "end"
  means    let m = of; if map.has(m, spelling of one) and map.has(m, spelling of two) { 1 } else { 0 }
form While in Expr
  written  "while" key:Name "of" of:Expr "do" body:Expr "end"
  means    let m = of; while map.has(m, spelling of key) { body }; m
form Send in Expr
  written  target:Expr "." name:Name
  means    along(target, spelling of name)
form Block in Expr
  written  "{" steps:Step+ by ";" "}"
  opens    scope
  means    all steps
form Set in Expr
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value; name
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
usual Let, Var, Number, List, Words, Group
define along(m, key) =
  if map.has(map.get(m, "ways"), key) { map.get(map.get(m, "ways"), key) }
  else if map.has(m, "base") { along(map.get(m, "base"), key) }
  else { fault "nobody knows the way" at key }
"#;

fn all_give(cases: &[(&str, &str)]) {
    let crafts = with_tokens(CRAFTS);
    for (program, wanted) in cases {
        assert_eq!(value(&crafts, program), *wanted, "{program}");
    }
}

#[test]
fn a_key_that_may_be_missing_is_looked_up_at_once() {
    let crafts = with_tokens(CRAFTS);
    for program in [
        "let f = way m: knows tons of m end end; f",
        "let f = way m: m.toll end; f",
    ] {
        let names = code(&crafts, program);
        assert!(names.contains(&"try_map_get".to_owned()), "{names:?}");
    }
    all_give(&[
        (
            "let f = way m: knows tons of m end end; [f(made tons = 1 end), f(made end), f(made tons = 2, bow = 1 end)]",
            "[1, 0, 1]",
        ),
        (
            "let f = way m: lacks tons of m end end; [f(made tons = 1 end), f(made end)]",
            "[0, 1]",
        ),
        (
            "let f = way m: both tons bow of m end end; [f(made tons = 1 end), f(made tons = 2, bow = 1 end), f(made bow = 1 end)]",
            "[0, 1, 0]",
        ),
        (
            "let f = way m: knows tons of m end end; f(5)",
            "1:30 a map is needed here, and this is an integer: 5",
        ),
        (
            "let f = way m: lacks tons of m end end; f([])",
            "1:30 a map is needed here, and this is a list: []",
        ),
    ]);
}

#[test]
fn what_was_missing_may_be_there_later() {
    let f = "let f = way m: knows tons of m end end; ";
    all_give(&[
        (
            &format!(
                "{f} let m = made end; [f(m), f(put 1 as tons into m end), f(m), f(drop tons of m end), f(m)]"
            ),
            "[0, 1, 1, 0, 0]",
        ),
        (
            &format!(
                "{f} let m = made bow = 1 end; [f(m), f(m), f(put 1 as tons into m end), f(made bow = 2 end), f(m)]"
            ),
            "[0, 0, 1, 0, 1]",
        ),
        // So many keys that they are found in a table.
        (
            &format!(
                "{f} let m = made end; [f(many 300 in m end), f(m), f(put 1 as tons into m end), f(drop tons of m end)]"
            ),
            "[0, 0, 1, 0]",
        ),
        (
            &format!(
                "{f} let m = many 300 in made end end; [f(made end), f(m), f(made tons = 1 end), f(m), f(made end)]"
            ),
            "[0, 0, 1, 0, 0]",
        ),
        (
            "let m = made tons = 1, bow = 2 end; while tons of m do drop tons of m end end",
            "{\"bow\": 2}",
        ),
    ]);
}

#[test]
fn a_key_is_found_along_maps_in_maps() {
    let boats = "let boat = made ways = made toll = 1, pay = 2 end end; let barge = made ways = made toll = 3 end, base = boat end; let f = way m: m.toll end; let g = way m: m.pay end; ";
    all_give(&[
        (
            &format!("{boats} [f(boat), f(barge), f(boat), g(barge), g(boat), g(barge)]"),
            "[1, 3, 1, 2, 2, 2]",
        ),
        (
            &format!("{boats} {{ put 9 as pay into barge.toll end; 1 }}"),
            "1:190 a map is needed here, and this is an integer: 3",
        ),
        (
            &format!(
                "{boats} let w = made end; let raft = made ways = w, base = barge end; [f(raft), {{ put 7 as toll into w end; f(raft) }}, f(barge)]"
            ),
            "[3, 7, 3]",
        ),
        (
            &format!("{boats} let h = way m: m.sail end; h(barge)"),
            "1:185 nobody knows the way",
        ),
        (
            &format!("{boats} f(made end)"),
            "1:131 there is no key \"ways\"",
        ),
        (
            &format!("{boats} f(made ways = 5 end)"),
            "1:131 a map is needed here, and this is an integer: 5",
        ),
        (
            &format!("{boats} f(6)"),
            "1:131 a map is needed here, and this is an integer: 6",
        ),
    ]);
}
