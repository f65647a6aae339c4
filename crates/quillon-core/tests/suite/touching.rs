//! Tokens that touch the one before them, beside the same tokens that need not: what precedence
//! says stays as it is.

use crate::common::{language, said, tree};

/// Places in brackets, in a statement where the bracket must touch, and in expressions where it
/// need not. `^` groups from the right.
const PLACES: &str = r#"
language Places
tokens
  Blank  [ ]+    ignored
  Whole  digit+  holds integer
precedence of Expr, loosest first
  left   Plus
  right  Power
  suffix Item
form Program
  written  steps:Step*
form Do in Step
  written  "do" value:Expr ";"
form Put in Step
  written  "put" from:Expr ~ "[" place:Expr "]" "=" value:Expr ";"
form Plus in Expr
  written  left:Expr "+" right:Expr
form Power in Expr
  written  left:Expr "^" right:Expr
form Item in Expr
  written  list:Expr "[" place:Expr "]"
form Number in Expr
  written  value:Whole
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
"#;

#[test]
fn precedence_decides_beside_what_must_touch() {
    let language = language(PLACES);
    let reads = |text: &str, wanted: &str| assert_eq!(tree(&language, text), wanted, "{text}");
    let item = "Item(Number(2), Number(3))";
    for text in ["do 1 + 2[3];", "do 1 + 2 [3];"] {
        reads(text, &format!("Program([Do(Plus(Number(1), {item}))])"));
    }
    reads(
        "do 1 ^ 2[3] ^ 4[5];",
        &format!("Program([Do(Power(Number(1), Power({item}, Item(Number(4), Number(5)))))])"),
    );
    reads(
        "put 1 + 2[3] = 4;",
        "Program([Put(Plus(Number(1), Number(2)), Number(3), Number(4))])",
    );
    reads(
        "put 1 + 2 [3][4] = 5;",
        &format!("Program([Put(Plus(Number(1), {item}), Number(4), Number(5))])"),
    );
    reads(
        "put (1 + 2[3])[4] = 5;",
        &format!("Program([Put(Plus(Number(1), {item}), Number(4), Number(5))])"),
    );
}

#[test]
fn it_is_the_same_while_several_readings_are_followed() {
    // Whether a step is a `Pair` or a `Single` shows at its end only.
    let language = language(&format!(
        "{PLACES}
form Single in Step
  written  \"so\" one:Expr \"!\"
form Pair in Step
  written  \"so\" one:Other \"?\"
form Wrapped in Other
  written  inner:Expr
"
    ));
    let reads = |text: &str, wanted: &str| assert_eq!(tree(&language, text), wanted, "{text}");
    let value = "Plus(Number(1), Item(Number(2), Number(3)))";
    reads("so 1 + 2[3]!", &format!("Program([Single({value})])"));
    reads(
        "so 1 + 2[3]?",
        &format!("Program([Pair(Wrapped({value}))])"),
    );
}

#[test]
fn what_touches_is_a_call_where_both_can_be() {
    let language = language(
        r#"
language Calls
tokens
  Blank  [ ]+     ignored
  Name   letter+
precedence of Expr, loosest first
  left   Next
  suffix Call
form Program
  written  value:Expr
form Next in Expr
  written  fn:Expr arg:Expr
form Call in Expr
  written  fn:Expr ~ "(" arg:Expr ")"
form Word in Expr
  written  name:Name
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
"#,
    );
    let reads = |text: &str, wanted: &str| assert_eq!(tree(&language, text), wanted, "{text}");
    reads("f(x)", "Program(Call(Word(f), Word(x)))");
    reads("f (x)", "Program(Next(Word(f), Word(x)))");
    reads("f g(x)", "Program(Next(Word(f), Call(Word(g), Word(x))))");
    reads("f g (x)", "Program(Next(Next(Word(f), Word(g)), Word(x)))");
}

/// Two forms that begin with an expression and a bracket, which must touch in one of them.
fn begin_alike(mark: &str) -> String {
    format!(
        r#"
language Places
tokens
  Blank  [ ]+    ignored
  Whole  digit+  holds integer
precedence of Expr, loosest first
  suffix Item
form Program
  written  steps:Step*
form Put in Step
  written  from:Expr {mark}"[" place:Expr "]" "=" value:Expr ";"
form Do in Step
  written  value:Expr ";"
form Item in Expr
  written  list:Expr ~ "[" place:Expr "]"
form Number in Expr
  written  value:Whole
"#
    )
}

#[test]
fn a_form_that_only_a_blank_leads_to_is_told() {
    let own = language(&begin_alike(""));
    let advice = own.advice();
    let told: Vec<String> = advice.iter().map(said).collect();
    assert_eq!(
        told,
        ["11:22 form `Put` is only read where a blank stands before its `[`"]
    );
    assert_eq!(advice[0].remedies, ["write `~` before the `[` here, too"]);
    assert_eq!(
        tree(&own, "1 [2] = 3;"),
        "Program([Put(Number(1), Number(2), Number(3))])"
    );
    let mended = language(&begin_alike("~ "));
    assert!(mended.advice().is_empty());
    assert_eq!(
        tree(&mended, "1[2][3] = 4; 1[2];"),
        "Program([Put(Item(Number(1), Number(2)), Number(3), Number(4)), Do(Item(Number(1), Number(2)))])"
    );
}

/// A language of blocks by indentation, with a form that goes on behind one.
fn blocks(when: &str) -> Vec<String> {
    let language = language(&format!(
        "language Blocks\n  layout indentation\ntokens\n  Blank  [ ]+  ignored\n  Whole  digit+
form Program\n  written  steps:Step* by LineEnd trailing
form Number in Step\n  written  value:Whole
form Block\n  written  \":\" Indent steps:Step+ by LineEnd Dedent
form When in Step\n  written  {when}\n"
    ));
    language.advice().iter().map(said).collect()
}

#[test]
fn a_word_behind_a_block_by_indentation_needs_a_line_end() {
    let told = |word: &str, place: &str| {
        format!("{place} `{word}` is never read here: where a block ends, its line ends, too")
    };
    assert_eq!(
        blocks("\"when\" test:Whole yes:Block (\"else\" no:Block)?"),
        [told("else", "13:41")]
    );
    assert_eq!(
        blocks("\"do\" steps:Block \"until\" test:Whole"),
        [told("until", "13:29")]
    );
    assert_eq!(
        blocks("\"do\" steps:Block ~ \"end\" | \"each\" (steps:Block | other:Block) \"end\""),
        [told("end", "13:31"), told("end", "13:74")]
    );
    // What begins with a line end, or may come without a block, is read.
    for right in [
        "\"when\" test:Whole yes:Block (LineEnd \"else\" no:Block)?",
        "\"when\" test:Whole yes:(Block | Number) \"end\"",
        "\"when\" test:Whole yes:Block?  \"end\"",
        "\"when\" test:Whole yes:Block LineEnd \"end\"",
    ] {
        assert_eq!(blocks(right), [""; 0], "{right}");
    }
}
