//! Tokens that are found by the block are those that are found one by one.

use crate::common::language;
use proptest::prelude::*;
use quillon_core::Language;
use quillon_core::diagnostic::Diagnostic;
use quillon_core::source::SourceText;

const TOWPATH: &str = include_str!("../../../../languages/towpath/towpath.quillon");

/// Languages whose tokens cannot be told from their bytes alone, each in a way of its own.
const ODD: [&str; 8] = [
    // Names of any letters, numbers in several notations, signs that begin each other.
    r#"language Own
tokens
  Blank  [ \t\n]+  ignored
  Note   "--" [^\n]*  ignored
  Whole  digit+ | "0x" [0-9a-f]+  holds integer
  Real   digit+ "." digit+ ("e" "-"? digit+)?  holds number
  Text   '"' ([^"\\\n] | "\\" any)* '"'  holds text
  Name   letter (letter | digit | "_")*
form All
  written items:Item*
form One in Item
  written it:(Whole | Real | Text | Name)
form Sign in Item
  written "-" | "->" | "<" | "<=" | "<=>" | "(" | ")" | "_" | "let" | "otherwise" | "≤" | "-≤" | "wenn" soft
"#,
    // Names that end in a mark, capitals apart, line ends that matter.
    r#"language Own
tokens
  Blank  " "+  ignored
  Line   "\n"
  Kind   [A-Z] [a-z0-9]*
  Name   [a-z] [a-z0-9]* ("?" | "!")?
  Whole  digit+ holds number
form All
  written items:(Line | Kind | Name | Whole | "let" | "Let" | "?" | "!" | "-")*
"#,
    // Blanks that are also in a token, and names with blanks inside.
    r#"language Own
tokens
  Blank  [ \n]+  ignored
  Wide   " " "|"
  Name   [a-z]+ ("-" [a-z]+)*
form All
  written items:(Wide | Name | "-" | "|" | "let" | "let-go")*
"#,
    // Comments that nest, and numbers that go on as names.
    r#"language Own
tokens
  Blank  [ \n\t]+  ignored
  Note   nested "(-" "-)"  ignored
  Whole  digit+ holds integer
  Name   [a-z0-9_]+
form All
  written items:(Whole | Name | "(" | ")" | "-" | "12x")*
"#,
    // Capital and small letters alike.
    r#"language Own
  ignores case
tokens
  Blank  [ \n\t]+  ignored
  Name   letter+
form All
  written items:(Name | "let" | "otherwise" | "<" | "<>" | "1")*
"#,
    // No blanks, and no words.
    r#"language Own
tokens
  Other  [^a-z<>]  ignored
form All
  written items:("a" | "ab" | "<" | "<<" | "<->")*
"#,
    // Groups.
    r#"language Own
tokens Outside first
  Plain  [^{]+
  Open   "{"  enters tokens
tokens
  Blank  [ \n]+  ignored
  Close  "}"  leaves
  Name   letter+
form All
  written items:(Plain | Open | Close | Name | "let" | "-")*
"#,
    // Layout.
    r#"language Own
  layout lines
tokens
  Blank  [ \t]+  ignored
  Name   letter+
  Whole  digit+ holds integer
form All
  written items:(Name | Whole | LineEnd | "let" | "(" | ")" | "[" | "]")*
"#,
];

const PIECES: [&str; 60] = [
    "let",
    "Let",
    "otherwise",
    "Otherwise",
    "otherwist",
    "wenn",
    "level",
    "level_2",
    "x",
    "X",
    "a",
    "ab",
    "abc",
    "12",
    "0",
    "007",
    "1.5",
    "1.",
    ".5",
    "0x1F",
    "0xff",
    "2e-3",
    "1.5e7",
    "12x",
    "3abc",
    "99999999999999999999",
    "<",
    "<=",
    "<=>",
    "<>",
    "<<",
    "<->",
    "-",
    "->",
    "--",
    "-≤",
    "≤",
    "(",
    ")",
    "(-",
    "-)",
    "[",
    "]",
    "{",
    "}",
    "|",
    "_",
    "?",
    "!",
    "\"a b\"",
    "\"a\\\"b\"",
    "\"",
    "~ note",
    "é",
    "naïve",
    "日本",
    " ",
    "  ",
    "\n",
    "\t",
];

fn same_by_the_block(language: &Language, text: &str) {
    let source = SourceText::new("text", text);
    // Where what is ignored is asked for, no block is looked at.
    let one_by_one = language.all_tokens(&source);
    let by_block = language.tokens(&source);
    let tokens = by_block.value.as_ref().map(|tokens| &tokens.tokens);
    assert_eq!(
        tokens,
        one_by_one.value.as_ref().map(|all| &all.tokens),
        "{text:?}"
    );
    let messages = |found: &[Diagnostic]| -> Vec<String> {
        found.iter().map(Diagnostic::in_one_line).collect()
    };
    assert_eq!(
        messages(&by_block.diagnostics),
        messages(&one_by_one.diagnostics),
        "{text:?}"
    );
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn tokens_are_the_same_by_the_block_and_one_by_one(
        picks in prop::collection::vec((0..PIECES.len(), 0..3u8), 0..120),
    ) {
        let mut text = String::new();
        for (piece, blank) in picks {
            text.push_str(PIECES[piece]);
            text.push_str([" ", "", "\n"][blank as usize]);
        }
        // Long enough that all of it stands in blocks.
        text.push_str(&" ".repeat(80));
        for definition in [TOWPATH].iter().chain(&ODD) {
            same_by_the_block(&common(definition), &text);
        }
    }
}

/// A language of a definition, made once.
fn common(definition: &'static str) -> Language {
    use std::cell::RefCell;
    use std::collections::HashMap;
    thread_local! {
        static MADE: RefCell<HashMap<&'static str, Language>> = RefCell::default();
    }
    MADE.with_borrow_mut(|made| {
        made.entry(definition)
            .or_insert_with(|| language(definition))
            .clone()
    })
}

#[test]
fn words_and_blanks_longer_than_a_block_are_one() {
    let own = language(ODD[0]);
    for length in [7, 8, 9, 62, 63, 64, 65, 127, 128, 129, 200] {
        for before in ["", "a ", "- ", "\"t\" "] {
            let name = "n".repeat(length);
            let blanks = " ".repeat(length);
            for text in [
                format!("{before}{name} b{blanks}"),
                format!("{before}{name}-{name}{blanks}->{blanks}x"),
                format!("{before}{name}é{blanks}"),
                format!("{before}{}1.5 {name}-≤{blanks}", "1".repeat(length)),
                format!("{before}{blanks}<=>{name}<={blanks}{name}<{name}"),
            ] {
                same_by_the_block(&own, &text);
            }
        }
    }
}
