//! Tokens beyond the plain ones: line ends, indentation, what nests, soft keywords.

use crate::common;
use crate::common::{language, mistakes, said, tree};
use quillon_core::Language;
use quillon_core::source::SourceText;

/// A language of lines: `layout` is `lines` or `indentation`.
fn lines(layout: &str, forms: &str) -> Language {
    language(&format!(
        "language Own
  layout   {layout}

tokens
  Blank   [ \\t\\r\\n]+   ignored
  Remark  \"~\" [^\\n]*   ignored
  Whole   digit+        holds integer
  Name    letter+
{forms}"
    ))
}

const COMMANDS: &str = "
form Program
  written  steps:Step* by LineEnd trailing
form Open in Step
  written  \"open\" gates:Name+
form Call in Step
  written  name:Name \"(\" args:Whole* by \",\" \")\"
form Group in Step
  written  \"{\" steps:Step* by LineEnd \"}\"
";

#[test]
fn line_ends_separate_commands_and_do_not_matter_in_brackets() {
    let own = lines("lines", COMMANDS);
    for (text, wanted) in [
        ("open a b\nopen c\n", "Program([Open([a, b]), Open([c])])"),
        (
            "\n\n  open a\r\n\r\n~ nothing\n\nopen b",
            "Program([Open([a]), Open([b])])",
        ),
        (
            "f(1,\n  2\n)\nopen a",
            "Program([Call(f, [1, 2]), Open([a])])",
        ),
        (
            "{\n  open a\n  {\n open b }\n}\nopen c",
            "Program([Group([Open([a]), Group([Open([b])])]), Open([c])])",
        ),
        ("", "Program([])"),
        (
            "open\nopen a",
            "1:5 expected a name, found the end of the line",
        ),
        (
            "open a open b",
            "1:8 expected a name, the end of the line or the end of the text, found `open`",
        ),
    ] {
        assert_eq!(tree(&own, text), wanted, "{text:?}");
    }
}

const BLOCKS: &str = "
form Program
  written  steps:Step* by LineEnd trailing
form While in Step
  written  \"while\" test:Name body:Block
form If in Step
  written  \"if\" test:Name yes:Block (LineEnd \"else\" no:Block)?
form Open in Step
  written  \"open\" gate:Name
form Call in Step
  written  \"call\" \"(\" args:Whole* by \",\" \")\"
form Block
  written  \":\" Indent steps:Step+ by LineEnd Dedent
";

#[test]
fn indentation_makes_blocks() {
    let own = lines("indentation", BLOCKS);
    for (text, wanted) in [
        (
            "while a:\n  open b\n  while c:\n     open d\n\n  open e\nopen f\n",
            "Program([While(a, Block([Open(b), While(c, Block([Open(d)])), Open(e)])), Open(f)])",
        ),
        (
            "if a:\n  open b\nelse:\n  open c\nopen d",
            "Program([If(a, Block([Open(b)]), Block([Open(c)])), Open(d)])",
        ),
        (
            "if a:\n  if b:\n    open c\n  else:\n    open d",
            "Program([If(a, Block([If(b, Block([Open(c)]), Block([Open(d)]))]))])",
        ),
        (
            "while a:\n  while b:\n    open c",
            "Program([While(a, Block([While(b, Block([Open(c)]))]))])",
        ),
        (
            "while a:\n  call (1,\n2,\n      3)\n  open b",
            "Program([While(a, Block([Call([1, 2, 3]), Open(b)]))])",
        ),
        (
            "while a:\nopen b",
            "1:9 expected a deeper line, found the end of the line",
        ),
        (
            "open a\n  open b",
            "2:3 expected the end of the line or the end of the text, found a deeper line",
        ),
    ] {
        assert_eq!(tree(&own, text), wanted, "{text:?}");
    }
}

#[test]
fn indentation_that_fits_nothing_is_an_error_where_it_is() {
    let own = lines("indentation", BLOCKS);
    let errors = |text: &str| -> Vec<String> {
        let outcome = own.tokens(&SourceText::new("text", text));
        outcome.diagnostics.iter().map(said).collect()
    };
    assert_eq!(
        errors("while a:\n    open b\n  open c\n"),
        ["3:3 the indentation of this line fits no block around it"]
    );
    assert_eq!(
        errors("while a:\n  open b\n\topen c\n"),
        ["3:2 this line is indented with other blanks than the lines around it"]
    );
}

#[test]
fn an_open_block_wants_more_lines() {
    let own = lines("indentation", BLOCKS);
    assert!(own.is_unfinished(&SourceText::new("entry", "while a:\n  open b")));
    assert!(own.is_unfinished(&SourceText::new("entry", "while a:")));
    assert!(!own.is_unfinished(&SourceText::new("entry", "open b")));
}

#[test]
fn layout_tokens_need_layout() {
    let text = "language Own\n\ntokens\n  Name  letter+\n\nform A\n  written  name:Name LineEnd\n";
    assert_eq!(
        mistakes(text),
        ["7:22 there is no sort, form or token `LineEnd`"]
    );
}

#[test]
fn comments_can_nest() {
    let own = language(
        "language Own

tokens
  Blank  [ \\n]+               ignored
  Note   nested \"(*\" \"*)\"     ignored
  Name   letter+

form Names
  written  names:Name* (\"(\" | \")\" | \"*\")?
",
    );
    assert_eq!(
        tree(&own, "a (* b (* c *) d (*) e *) *) f"),
        "Names([a, f])"
    );
    assert_eq!(tree(&own, "a (* b *) ("), "Names([a])");
    assert_eq!(
        tree(&own, "a\n (* b (* c *)"),
        "2:2 what starts here like a note is never finished"
    );
    assert!(own.is_unfinished(&SourceText::new("entry", "(* b")));
}

#[test]
fn soft_words_are_names_where_they_are_not_words() {
    let own = language(
        "language Own

tokens
  Blank  [ \\n]+  ignored
  Whole  digit+  holds integer
  Name   letter+

form Program
  written  steps:Step* by \";\"
form Count in Step
  written  \"count\" name:Name \"to\" soft last:Expr (\"by\" soft pace:Expr)?
form Stop in Step
  written  \"stop\" soft
form Set in Step
  written  name:Name \"=\" value:Expr
form Number in Expr
  written  value:Whole
form Variable in Expr
  written  name:Name
",
    );
    for (text, wanted) in [
        (
            "count to to by by by",
            "Program([Count(to, Variable(by), Variable(by))])",
        ),
        (
            "to = by; stop; stop = 3",
            "Program([Set(to, Variable(by)), Stop, Set(stop, Number(3))])",
        ),
        ("count count to 3", "1:7 expected a name, found `count`"),
        ("by", "1:3 expected `=`, found the end of the text"),
    ] {
        assert_eq!(tree(&own, text), wanted, "{text}");
    }
}

#[test]
fn identifiers_can_be_those_of_unicode() {
    let own = language(
        "language Own

tokens
  Blank  \" \"  ignored
  Name   identifier_start identifier_part*

form Names
  written  names:Name*
",
    );
    assert_eq!(
        tree(&own, "écluse_2 水門 x1"),
        "Names([écluse_2, 水門, x1])"
    );
    assert_eq!(tree(&own, "2x"), "1:1 no token starts with `2`");
}

#[test]
fn an_entry_that_wants_no_line_end_needs_none() {
    let own = lines(
        "lines\n  entries  Program, Sum",
        "
form Program
  written  sums:Step* by LineEnd trailing
form Step
  written  \"do\" sum:Sum
form Sum
  written  left:Whole \"+\" right:Whole
",
    );
    assert_eq!(tree(&own, "1 + 2\n"), "Sum(1, 2)");
    assert_eq!(
        tree(&own, "do 1 + 2\ndo 3 + 4"),
        "Program([Step(Sum(1, 2)), Step(Sum(3, 4))])"
    );
    assert_eq!(
        tree(&own, "1 +\n"),
        "1:4 expected a whole, found the end of the text"
    );
}

#[test]
fn no_token_has_to_take_the_line_ends_that_layout_looks_after() {
    let language = common::language(
        "language Own
  layout lines
tokens
  Blank  [ \\t]+  ignored
  Name   letter+
form Program
  written  steps:Step+ by LineEnd trailing
form Step
  written  name:Name
",
    );
    assert_eq!(
        common::tree(&language, "a\n\r\n  b\nc"),
        "Program([Step(a), Step(b), Step(c)])"
    );
}
