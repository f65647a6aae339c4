//! Readings that go against the precedence table somewhere inside are none; forms that begin alike.

use crate::ambiguity::found;
use crate::common::{tree, with_tokens};

/// Fields, items and calls of methods, and assignments to them: these begin with the same tokens, and are
/// the loosest of all.
const FIELDS_ASSIGNED: &str = "precedence of Expr, loosest first
  right   SetField, SetItem
  prefix  Not
  left    Both
  left    Plus
  left    Times
  left    Call, Item, Field, Method
form Program
  written  steps:Expr* by \";\"
form SetField in Expr
  written  target:Expr \".\" name:Name \":=\" value:Expr
form SetItem in Expr
  written  target:Expr \"[\" place:Expr \"]\" \":=\" value:Expr
form Plus in Expr
  written  left:Expr \"+\" right:Expr
form Times in Expr
  written  left:Expr \"*\" right:Expr
form Item in Expr
  written  target:Expr \"[\" place:Expr \"]\"
form Not in Expr
  written  \"not\" value:Expr
form Both in Expr
  written  left:Expr \"and\" right:Expr
form Call in Expr
  written  callee:Expr \"(\" args:Expr* by \",\" \")\"
form Field in Expr
  written  target:Expr \".\" name:Name
form Method in Expr
  written  target:Expr \".\" name:Name \"(\" args:Expr* by \",\" \")\"
  wins over Call
form Variable in Expr
  written  name:Name
form Group in Expr
  written  \"(\" inner:Expr \")\"
  becomes  inner
";

#[test]
fn two_forms_that_begin_alike_are_one_finding() {
    let own = with_tokens(&FIELDS_ASSIGNED.replace("  wins over Call\n", ""));
    let said = found(&own);
    assert_eq!(said.len(), 1, "{said:#?}");
    assert!(
        said[0]
            .ends_with("add `wins over Method` to form Call, or `wins over Call` to form Method"),
        "{said:?}"
    );
}

#[test]
fn what_is_grouped_wrongly_deep_inside_a_reading_is_none() {
    let own = with_tokens(FIELDS_ASSIGNED);
    let a_b = "Method(Variable(a), b, [])";
    for (text, wanted) in [
        ("not a.b()", format!("Not({a_b})")),
        (
            "not a.b().c(d)",
            format!("Not(Method({a_b}, c, [Variable(d)]))"),
        ),
        ("x and a.b()", format!("Both(Variable(x), {a_b})")),
        (
            "not x and a.b()()",
            format!("Not(Both(Variable(x), Call({a_b}, [])))"),
        ),
        (
            "not a.b := c.d()",
            "SetField(Not(Variable(a)), b, Method(Variable(c), d, []))".to_owned(),
        ),
        (
            "s + l * b[k][j]",
            format!(
                "Plus(Variable(s), Times(Variable(l), {}))",
                "Item(Item(Variable(b), Variable(k)), Variable(j))"
            ),
        ),
        (
            "s * l + b[k].c[j].d()",
            format!(
                "Plus(Times(Variable(s), Variable(l)), {})",
                "Method(Item(Field(Item(Variable(b), Variable(k)), c), Variable(j)), d, [])"
            ),
        ),
        ("(not a).b()", "Method(Not(Variable(a)), b, [])".to_owned()),
    ] {
        assert_eq!(tree(&own, text), format!("Program([{wanted}])"), "{text}");
    }
    assert_eq!(found(&own), [""; 0]);
}

/// Operands with operators between them, with brackets around all that the precedence table groups.
fn grouped(operands: &[String], operators: &[(&str, u8)]) -> String {
    // The last of the loosest comes last.
    let loosest = operators.iter().map(|(_, rank)| *rank).min();
    let last = operators
        .iter()
        .rposition(|(_, rank)| Some(*rank) == loosest);
    let Some(at) = last else {
        return operands[0].clone();
    };
    format!(
        "({}) {} ({})",
        grouped(&operands[..=at], &operators[..at]),
        operators[at].0,
        grouped(&operands[at + 1..], &operators[at + 1..])
    )
}

#[test]
fn what_stands_behind_an_operand_belongs_to_that_alone() {
    let own = with_tokens(FIELDS_ASSIGNED);
    let ranked = [("and", 1), ("+", 2), ("*", 3)];
    let suffixes = [
        ".m()",
        ".m",
        "[k]",
        "(k)",
        ".m().n",
        ".m()()",
        "[k].m()",
        ".m(a + b * c.n())",
    ];
    for chosen in 0..27 {
        let operators = [chosen / 9, chosen / 3 % 3, chosen % 3].map(|one| ranked[one]);
        for (suffix, at) in suffixes
            .iter()
            .flat_map(|suffix| [0, 1, 2, 3].map(|at| (suffix, at)))
        {
            let operands: Vec<String> = ["p", "q", "r", "s"]
                .iter()
                .enumerate()
                .map(|(index, name)| {
                    if index == at {
                        format!("{name}{suffix}")
                    } else {
                        (*name).to_owned()
                    }
                })
                .collect();
            let mut text = operands[0].clone();
            for (operator, operand) in operators.iter().zip(&operands[1..]) {
                text.push_str(&format!(" {} {operand}", operator.0));
            }
            let wanted = tree(&own, &grouped(&operands, &operators));
            assert_eq!(tree(&own, &text), wanted, "{text}");
        }
    }
}
