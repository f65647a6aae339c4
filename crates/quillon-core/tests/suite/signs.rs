//! Signs that programs declare as operators.

use crate::common::{errors, language, said, tree, value};
use quillon_core::printing::Brackets;
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::testing::{Trial, properties};
use quillon_core::{Language, Prepared, Reading};

/// Sums whose signs programs can add to; some of its own have ranks, and some stand outside of them.
pub const SUMS: &str = r#"language Sums
  reads ".sum"

tokens
  Blank  [ \n]+            ignored
  Whole  digit+            holds integer
  Name   letter+
  Sign   [<>+*^!?%&/=\-]+

precedence of Expr, loosest first
  prefix    Way
  right     Pick
  declared  Between, Before, Behind  from 1 to 9
  left      Plus, Minus  at 6
  left      Times        at 7
  prefix    Negate
  left      Call

form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Operator in Step
  written  "sign" sign:Sign side:("left" | "right" | "none" | "prefix" | "suffix") rank:Whole? "is" value:Expr
  declares sign side at rank
  binds    sign onward
  means    sign := value
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Show in Step
  written  value:Expr
  means    value
form Block in Step
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
form Pick in Expr
  written  test:Expr "then" one:Expr "else" other:Expr
  means    if test > 0 { one } else { other }
form Between in Expr
  written  left:Expr sign:Sign right:Expr
  uses     sign
  means    call sign with left, right
form Before in Expr
  written  sign:Sign value:Expr
  uses     sign
  means    call sign with value
form Behind in Expr
  written  value:Expr sign:Sign
  uses     sign
  means    call sign with value
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Minus in Expr
  written  left:Expr "-" right:Expr
  means    left - right
form Times in Expr
  written  left:Expr "*" right:Expr
  means    left * right
form Negate in Expr
  written  "-" value:Expr
  means    - value
form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
  means    call callee with args
form Way in Expr
  written  "way" params:Name* by "," ":" body:Expr
  opens    scope
  binds    params in body
  means    function (params) { body }
form Itself in Expr
  written  "(" sign:Sign ")"
  uses     sign
  means    sign
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
form Var in Expr
  written  name:Name
  uses     name
  means    name
form Number in Expr
  written  value:Whole
  means    value
"#;

pub fn sums() -> Language {
    language(SUMS)
}

/// Declarations of a sign for each side, before a text.
fn declared(text: &str) -> String {
    format!(
        "sign <+> left 6 is way a, b: a + b * 10;
         sign <-> left 6 is way a, b: a - b;
         sign ^^ right 8 is way a, b: a * 100 + b;
         sign == none 4 is way a, b: a - b;
         sign ?? prefix 7 is way a: a + 1000;
         sign ! suffix 9 is way a: a * 2;
         {text}"
    )
}

#[test]
fn what_a_program_declares_is_an_operator_from_there_on() {
    let own = sums();
    for (text, wanted) in [
        ("1 <+> 2", "21"),
        // Left and right.
        ("1 <+> 2 <+> 3", "51"),
        ("9 <-> 2 <-> 3", "4"),
        ("1 ^^ 2 ^^ 3", "303"),
        // Beside signs of the language with a rank: of the same one, a looser and a tighter.
        ("1 + 2 <+> 3", "33"),
        ("1 <+> 2 + 3", "24"),
        ("2 * 3 <+> 1", "16"),
        ("1 <+> 2 * 3", "61"),
        ("2 * 1 ^^ 3", "206"),
        ("5 == 2 + 1", "2"),
        // Beside those outside of the ranks.
        ("- 1 ^^ 2", "-98"),
        ("1 <+> 0 then 2 <+> 1 else 3", "12"),
        // Before and behind an operand.
        ("?? 1 * 2", "1002"),
        ("?? 1 + 2", "1003"),
        ("3 ! + 1", "7"),
        ("1 ^^ 2 !", "104"),
        ("?? 2 ! * 2", "1008"),
        ("1 ! !", "4"),
        // As a value.
        ("(<+>)(1, 2)", "21"),
        ("(1 <+> 2) ^^ 3", "2103"),
    ] {
        assert_eq!(value(&own, &declared(text)), wanted, "{text}");
    }
}

#[test]
fn a_sign_can_stand_before_an_operand_and_between_two() {
    let own = sums();
    let program =
        "sign ++ left 5 is way a, b: a * b; sign ++ prefix 8 is way a: a + 1; ++ 2 ++ ++ 3";
    let found = tree(&own, program);
    assert!(
        found.contains("Between(Before(`++`, Number(2)), `++`, Before(`++`, Number(3)))"),
        "{found}"
    );
}

#[test]
fn signs_of_one_rank_that_group_differently_do_not_chain() {
    let own = sums();
    for text in ["1 == 2 == 3", "1 == 2 == 3 + 1"] {
        let found = errors(&own, &declared(text));
        assert!(
            said(&found[0])
                .contains("expected an operator, `;` or the end of the text, found sign `==`"),
            "{found:?}"
        );
        assert!(
            found[0]
                .why
                .iter()
                .any(|why| why.contains("does not chain")),
            "{found:?}"
        );
    }
    let found = errors(
        &own,
        "sign << left 5 is 1; sign >> right 5 is 2; 1 << 2 >> 3",
    );
    assert!(
        found[0]
            .why
            .iter()
            .any(|why| why.contains("does not chain")),
        "{found:?}"
    );
    // Brackets say what is meant.
    assert_eq!(value(&own, &declared("(1 == 2) == 3")), "-4");
}

#[test]
fn what_nothing_declares_is_said_so() {
    let own = sums();
    let of = |text: &str| -> Vec<String> {
        let found = errors(&own, text);
        let line = |d| said(d);
        found.iter().map(line).collect()
    };
    let hint = |text: &str| errors(&own, text)[0].remedies.join("; ");
    assert_eq!(of("1 <+> 2"), ["1:3 nothing declares the operator `<+>`"]);
    assert_eq!(
        hint("1 <+> 2"),
        "declare it before it is used, with `sign <+> left is …`"
    );
    // Once for each sign, and all of them.
    assert_eq!(
        of("1 <+> 2 <+> 3; 4 >< 5"),
        [
            "1:3 nothing declares the operator `<+>`",
            "1:18 nothing declares the operator `><`"
        ]
    );
    assert_eq!(
        hint("sign <+> left 6 is way a, b: a + b; 1 <*> 2"),
        "did you mean `<+>`?"
    );
    // Too early, and on the wrong side.
    let text = "1 <+> 2; sign <+> left 6 is way a, b: a + b";
    assert_eq!(of(text), ["1:3 `<+>` is used before it is declared"]);
    assert_eq!(errors(&own, text)[0].related.len(), 1);
    assert_eq!(
        of(&declared("! 3"))[0],
        "7:10 `!` is declared behind its operand, and stands before its operand"
    );
    assert_eq!(of("?? 3"), ["1:1 nothing declares the operator `??`"]);
}

#[test]
fn a_rank_is_one_of_those_that_there_are() {
    let own = sums();
    let found = errors(&own, "sign <+> left 12 is way a, b: a + b; 1 <+> 2");
    assert_eq!(
        said(&found[0]),
        "1:15 `12` is no rank that an operator can have"
    );
    assert_eq!(
        found[0].why,
        ["ranks are integers from 1, the loosest, to 9, the tightest"]
    );
    // Without one a sign is as loose as can be.
    assert_eq!(
        value(&own, "sign <+> left is way a, b: a * b; 1 + 2 <+> 3 + 4"),
        "21"
    );
}

#[test]
fn a_declaration_counts_from_its_end_on() {
    let own = sums();
    // Declared again, it stands otherwise from there on.
    let program = "sign <+> left 2 is way a, b: a * b;
                   let first = 1 + 1 <+> 2 + 2;
                   { sign <+> left 8 is way a, b: a * b; first * 100 + (1 + 1 <+> 2 + 2) }";
    assert_eq!(value(&own, program), "805");
    // What it stands for follows the scopes.
    let program =
        "sign <+> left 2 is way a, b: a * b; { sign <+> left 2 is way a, b: a - b; 1 }; 7 <+> 2";
    assert_eq!(value(&own, program), "14");
    // Its own value may use what has been declared before.
    let program =
        "sign <+> left 2 is way a, b: a * b; sign <*> left 2 is way a, b: a <+> b <+> 2; 3 <*> 4";
    assert_eq!(value(&own, program), "24");
}

#[test]
fn it_is_printed_with_the_fewest_brackets() {
    let own = sums();
    let printed = |text: &str, brackets| {
        let source = SourceText::new("program", declared(text));
        let tree = own.tree(&source, Reading::Program).value.unwrap();
        let comments = own.comments(&source);
        let printed = own.source_of(&tree, brackets, &comments).unwrap();
        printed.lines().last().unwrap().to_owned()
    };
    for (text, wanted) in [
        ("(1 <+> 2) <+> 3", "1 <+> 2 <+> 3"),
        ("1 <+> (2 <+> 3)", "1 <+> (2 <+> 3)"),
        ("1 ^^ (2 ^^ 3)", "1 ^^ 2 ^^ 3"),
        ("(1 ^^ 2) ^^ 3", "(1 ^^ 2) ^^ 3"),
        ("(1 + 2) <+> 3", "1 + 2 <+> 3"),
        ("1 <+> (2 + 3)", "1 <+> (2 + 3)"),
        ("1 <+> (2 * 3)", "1 <+> 2 * 3"),
        ("(1 <+> 2) * 3", "(1 <+> 2) * 3"),
        ("(1 == 2) == 3", "(1 == 2) == 3"),
        ("(1 ^^ 2) !", "(1 ^^ 2) !"),
        ("1 ^^ (2 !)", "1 ^^ 2 !"),
        ("- (1 ^^ 2)", "-(1 ^^ 2)"),
        ("(- 1) ^^ 2", "-1 ^^ 2"),
    ] {
        let found = printed(text, Brackets::Fewest);
        assert_eq!(
            found.replace(' ', ""),
            wanted.replace(' ', ""),
            "{text}: {found}"
        );
    }
    assert!(printed("1 <+> 2 <+> 3", Brackets::All).contains("(1 <+> 2) <+> 3"));
    // What is printed is read as the same.
    let prepared = Prepared::new(&own);
    for text in [
        "1 <+> (2 ^^ 3) !",
        "?? (1 + 2) == 3 ! ! then 1 else ?? 2",
        "(<+>)(1, 2 <-> (3 <-> 4))",
    ] {
        let source = SourceText::new("program", declared(text));
        let broken = properties(&Trial::of(&prepared, &source));
        assert!(broken.is_empty(), "{text}: {broken:?}");
    }
}

#[test]
fn a_conversation_keeps_what_was_declared() {
    let own = sums();
    let mut session = own.session().start(Recorder::default()).unwrap();
    session.remember(4);
    let mut enter = |text: &str| match session.enter("entry", text) {
        Ok(value) => value.written(),
        Err(problems) => said(&problems[0]),
    };
    enter("sign <+> left 2 is way a, b: a * b");
    assert_eq!(enter("1 + 2 <+> 3 + 4"), "21");
    // One that fails declares nothing.
    enter("sign <+> left 8 is way a, b: a * b; gone");
    assert_eq!(enter("1 + 2 <+> 3 + 4"), "21");
    enter("sign <+> left 8 is way a, b: a * b");
    assert_eq!(enter("1 + 2 <+> 3 + 4"), "11");
    assert!(session.undo() && session.undo());
    let mut enter = |text: &str| match session.enter("entry", text) {
        Ok(value) => value.written(),
        Err(problems) => said(&problems[0]),
    };
    assert_eq!(enter("1 + 2 <+> 3 + 4"), "21");
}

#[test]
fn signs_can_be_built_in() {
    let own = language(&format!(
        "{SUMS}\nprovides\n  \"<>\" (a, b) right at 5 means a * 10 + b\n  \"%\" (a) prefix at 9 means a + 1\n"
    ));
    for (text, wanted) in [
        ("1 <> 2 <> 3", "33"),
        ("1 + 1 <> 2", "22"),
        ("% 3 <> 1", "41"),
        ("1 %> 2", "1:3 nothing declares the operator `%>`"),
    ] {
        assert_eq!(value(&own, text), wanted, "{text}");
    }
}

#[test]
fn words_can_be_operators() {
    let own = language(
        r#"language Words
tokens
  Blank  [ \n]+   ignored
  Whole  digit+   holds integer
  Name   letter+
precedence of Expr, loosest first
  declared  Between, Behind
  left      Call
form Program
  written  steps:Step+ by "."
  opens    scope
  means    all steps
form Infix in Step
  written  "between" name:Name "give" value:Expr
  declares name left
  binds    name onward
  means    name := value
form Postfix in Step
  written  "behind" name:Name "give" value:Expr
  declares name suffix
  binds    name onward
  means    name := value
form Show in Step
  written  value:Expr
  means    value
form Between in Expr
  written  left:Expr name:Name right:Expr
  uses     name
  means    call name with left, right
form Behind in Expr
  written  value:Expr name:Name
  uses     name
  means    call name with value
form Way in Expr
  written  "[" params:Name+ ":" body:Expr "]"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Add in Expr
  written  "sum" "(" one:Expr "," other:Expr ")"
  means    one + other
form Call in Expr
  written  callee:Expr ~ "(" arg:Expr ")"
  means    call callee with arg
form Var in Expr
  written  name:Name
  uses     name
  means    name
form Number in Expr
  written  value:Whole
  means    value
"#,
    );
    let declared = "between and give [a b: sum(a, b)]. behind doubled give [a: sum(a, a)]. ";
    for (text, wanted) in [
        ("1 and 2 and 3", "6"),
        ("1 and 2 doubled", "6"),
        ("doubled(4) and 1", "9"),
    ] {
        assert_eq!(value(&own, &format!("{declared}{text}")), wanted, "{text}");
    }
    assert_eq!(
        value(&own, "1 and 2"),
        "1:3 nothing declares the operator `and`"
    );
}

/// Two operands side by side, and a sign that opens and closes.
#[test]
fn operands_side_by_side_and_bars_go_together_with_declared_signs() {
    let own = language(
        r#"language Weights
tokens
  Blank  [ \n]+      ignored
  Whole  digit+      holds integer
  Name   letter
  Sign   [+*^<>\-]+
precedence of Expr, loosest first
  declared  Between  from 1 to 4
  left      Beside   at 3
  prefix    Minus
form Program
  written  steps:Step+ by ";"
  opens    scope
  means    all steps
form Operator in Step
  written  "op" sign:Sign rank:Whole "=" params:Name* by "," "=>" value:Expr
  declares sign left at rank
  binds    sign onward, params in value
  means    sign := function (params) { value }
form Let in Step
  written  name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Show in Step
  written  value:Expr
  means    value
form Between in Expr
  written  left:Expr sign:Sign right:Expr
  uses     sign
  means    call sign with left, right
form Beside in Expr
  written  left:Expr right:Expr
  means    left * right
form Minus in Expr
  written  "minus" value:Expr
  means    - value
form Size in Expr
  written  "|" inner:Expr "|"
  means    if inner < 0 { - inner } else { inner }
form Var in Expr
  written  name:Name
  uses     name
  means    name
form Number in Expr
  written  value:Whole
  means    value
provides
  "+" (a, b) left at 2 means a + b
"#,
    );
    for (text, wanted) in [
        ("x = 5; 2 x + 1", "11"),
        ("x = 5; 1 + 2 x x", "51"),
        ("x = 5; 2 |minus x|", "10"),
        ("x = 5; |minus x| + |x|", "10"),
        ("op ^ 4 = a, b => a + b + 100; x = 5; 2 x ^ 1", "212"),
        ("op < 1 = a, b => a + minus b; x = 5; 2 x + 1 < x", "6"),
    ] {
        assert_eq!(value(&own, text), wanted, "{text}");
    }
}
