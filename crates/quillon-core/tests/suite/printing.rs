//! Trees printed back as source: the same tree comes of it, with the fewest brackets.

use crate::common::{language, said, with_tokens};
use quillon_core::printing::{Brackets, Comments};
use quillon_core::source::SourceText;
use quillon_core::tree::one_line;
use quillon_core::{Language, Reading};

const TOWPATH: &str = include_str!("../../../../languages/towpath/towpath.quillon");

fn printed(language: &Language, text: &str, brackets: Brackets) -> String {
    let tree = language.tree(&SourceText::new("text", text), Reading::Entry);
    let tree = tree
        .value
        .unwrap_or_else(|| panic!("{text}: {:?}", tree.diagnostics));
    language
        .source_of(&tree, brackets, &Comments::default())
        .unwrap()
        .trim_end()
        .to_owned()
}

#[test]
fn operators_get_the_fewest_brackets_or_all() {
    let own = language(TOWPATH);
    for (text, fewest, all) in [
        (
            "1+2*(3-4)-(5-6)",
            "1 + 2 * (3 - 4) - (5 - 6)",
            "(1 + (2 * (3 - 4))) - (5 - 6)",
        ),
        ("((1))", "1", "1"),
        ("(-a)^2", "(-a) ^ 2", "(-a) ^ 2"),
        ("-(a^2)", "-a ^ 2", "- (a ^ 2)"),
        ("(2^3)^2^1", "(2 ^ 3) ^ 2 ^ 1", "(2 ^ 3) ^ (2 ^ 1)"),
        (
            "(when a then b otherwise c) + when a then b otherwise (c + d)",
            "(when a then b otherwise c) + when a then b otherwise c + d",
            "(when a then b otherwise c) + (when a then b otherwise (c + d))",
        ),
        (
            "1 + (when a then b otherwise c) + d",
            "(1 + when a then b otherwise c) + d",
            "(1 + (when a then b otherwise c)) + d",
        ),
        (
            "not (a and b) or c = d",
            "not (a and b) or c = d",
            "(not (a and b)) or (c = d)",
        ),
        (
            "(1 < 2) = (3 < 4)",
            "(1 < 2) = (3 < 4)",
            "(1 < 2) = (3 < 4)",
        ),
        ("(a.b)(c)#1", "a.b(c) # 1", "((a.b)(c)) # 1"),
        ("a#(b + 1)", "a # (b + 1)", "a # (b + 1)"),
    ] {
        assert_eq!(printed(&own, text, Brackets::Fewest), fewest);
        assert_eq!(printed(&own, text, Brackets::All), all);
    }
}

#[test]
fn every_program_of_the_demo_prints_back() {
    let own = language(TOWPATH);
    let programs = [
        include_str!("../../../../languages/towpath/programs/tolls.tow"),
        include_str!("../../../../languages/towpath/programs/filling.tow"),
        include_str!("../../../../languages/towpath/programs/flight.tow"),
        include_str!("../../../../languages/towpath/programs/daylog.tow"),
    ];
    for text in programs {
        let tree = own
            .tree(&SourceText::new("text", text), Reading::Program)
            .value
            .unwrap();
        assert_eq!(
            own.round_trip(&tree, &Comments::default(), Reading::Program),
            Ok(())
        );
        // What is printed is printed the same again.
        let once = own
            .source_of(&tree, Brackets::Fewest, &Comments::default())
            .unwrap();
        let again = own.tree(&SourceText::new("once", once.clone()), Reading::Program);
        assert_eq!(
            own.source_of(
                &again.value.unwrap(),
                Brackets::Fewest,
                &Comments::default()
            )
            .unwrap(),
            once
        );
    }
}

#[test]
fn blocks_stand_on_lines_of_their_own() {
    let own = language(TOWPATH);
    assert_eq!(
        printed(
            &own,
            "way f(a,b){answer a+b} when yes{say f(1,2)}otherwise{}",
            Brackets::Fewest
        ),
        "way f (a, b) {\n  answer a + b\n}\nwhen yes {\n  say f(1, 2)\n} otherwise { }"
    );
}

#[test]
fn what_would_be_read_on_into_what_follows_stands_in_brackets() {
    let own = language(
        "language Own
  reads    \".own\"
  starts   Expr

tokens
  Blank  [ ]+      ignored
  Name   letter+

precedence of Expr, loosest first
  prefix Minus
  suffix Call, Part
  suffix Send

form Call in Expr
  written  target:Expr \"(\" arg:Expr? \")\"

form Part in Expr
  written  object:Expr \".\" name:Name

form Send in Expr
  written  object:Expr \".\" name:Name \"(\" arg:Expr? \")\"

form Minus in Expr
  written  \"-\" value:Expr

form Word in Expr
  written  name:Name

form Group in Expr
  written  \"[\" inner:Expr \"]\"
  becomes  inner
",
    );
    for text in [
        "a.b(c)",
        "[a.b](c)",
        "[a.b](c)(d)",
        "[a(b).c]([d.e]())",
        "[-a.b](c)",
        "-[a.b](c)",
        "a.b.c(d)",
        "[a.b.c](d)",
    ] {
        let back = printed(&own, text, Brackets::Fewest);
        assert_eq!(back.replace(' ', ""), text);
    }
}

#[test]
fn groups_options_and_layout_print_back() {
    let own = with_tokens(
        "
form Boat
  written  \"boat\" name:Name (\"of\" length:Whole \"m\")? (\"with\" cargo:Name (\",\" cargo:Name)*)? mark:(\"!\" | \"?\")?
",
    );
    for text in [
        "boat heron",
        "boat heron of 3 m",
        "boat heron with coal, silk, stone !",
        "boat heron of 3 m with coal ?",
    ] {
        assert_eq!(printed(&own, text, Brackets::Fewest), text);
    }
    let lines = language(
        "language Own
  layout   indentation

tokens
  Blank   [ \\n]+   ignored
  Name    letter+

form Program
  written  steps:Step* by LineEnd trailing
form While in Step
  written  \"while\" test:Name body:Block
form Open in Step
  written  \"open\" gate:Name
form Block
  written  \":\" Indent steps:Step+ by LineEnd Dedent
",
    );
    let text = "while a:\n    open b\n    while c:\n     open d\n\nopen e";
    let tidy = "while a:\n  open b\n  while c:\n    open d\nopen e";
    assert_eq!(printed(&lines, text, Brackets::Fewest), tidy);
    let again = lines
        .tree(&SourceText::new("tidy", tidy), Reading::Program)
        .value
        .unwrap();
    assert_eq!(
        one_line(lines.definition(), lines.lexer(), &again),
        "Program([While(a, Block([Open(b), While(c, Block([Open(d)]))])), Open(e)])"
    );
}

#[test]
fn what_cannot_be_written_is_not() {
    let own = with_tokens(
        "
precedence of Expr, loosest first
  left  Add
  left  Multiply
form Add in Expr
  written  left:Expr \"+\" right:Expr
form Multiply in Expr
  written  left:Expr \"*\" right:Expr
form Open in Expr
  written  \"<\" inner:Expr \">\"
form Number in Expr
  written  value:Whole
form Noise in Expr
  written  \"noise\" Name
",
    );
    let tree = own
        .tree(&SourceText::new("text", "noise abc"), Reading::Entry)
        .value
        .unwrap();
    assert_eq!(
        own.source_of(&tree, Brackets::Fewest, &Comments::default()),
        None
    );
    assert_eq!(
        printed(&own, "<1 + 2> * 3", Brackets::Fewest),
        "< 1 + 2 > * 3"
    );
}

/// A language of blocks by indentation, one of which goes on with a word.
const BLOCKS: &str = r#"
language Blocks
  layout indentation
tokens
  Blank   [ \t]+        ignored
  Remark  "~" [^\n]*    ignored
  Whole   digit+        holds integer
form Program
  written  steps:Step* by LineEnd trailing
form Say in Step
  written  "say" value:Whole
form Repeat in Step
  written  "repeat" body:Block LineEnd "until" value:Whole
form If in Step
  written  "if" value:Whole yes:Block (LineEnd "else" no:Block)?
form Lines in Block
  written  Indent body:Step+ by LineEnd Dedent
"#;

const TIDY: &str = "\
repeat
  say 1
until 2
if 1
  repeat
    say 3
  until 4
else
  if 5
    say 6
say 7
";

#[test]
fn comments_stay_before_the_word_that_they_stand_before() {
    let own = language(BLOCKS);
    let round = |text: &str| {
        let source = SourceText::new("text", text);
        let tree = own.tree(&source, Reading::Program).value;
        let tree = tree.unwrap_or_else(|| panic!("{text}"));
        let comments = own.comments(&source);
        assert_eq!(own.round_trip(&tree, &comments, Reading::Program), Ok(()));
        own.source_of(&tree, Brackets::Fewest, &comments).unwrap()
    };
    assert_eq!(round(TIDY), TIDY);
    let lines: Vec<&str> = TIDY.lines().collect();
    for at in 0..lines.len() {
        let column = lines[at].len() - lines[at].trim_start().len();
        let own_line = format!("{}~ a note", " ".repeat(column));
        let mut noted = lines.clone();
        noted.insert(at, &own_line);
        let noted = noted.join("\n") + "\n";
        assert_eq!(round(&noted), noted);
        let after = format!("{} ~ a note", lines[at]);
        let mut noted = lines.clone();
        noted[at] = &after;
        let noted = noted.join("\n") + "\n";
        assert_eq!(round(&noted), noted);
    }
    // The end of a block: the column tells whether a note belongs to it.
    let ends = "repeat\n  say 1\n  ~ inside\n~ outside\nuntil 2\n";
    assert_eq!(round(ends), ends);
}

/// Two forms end in lists, one of them in a part that may be missing; both have the separator of a
/// third, which has them as items.
#[test]
fn a_separator_behind_a_list_without_an_end_is_not_taken_for_its_own() {
    let own = language(
        "language Own
  reads    \".own\"
  starts   Step

tokens
  Blank  [ ]+      ignored
  Name   letter+

precedence of Step, loosest first
  right Hail, Raise
  left Beside

form Fleet in Step
  written  \"[\" boats:Step+ by \";\" \"]\"

form Hail in Step
  written  \"hail\" boats:Step+ by \";\"

form Raise in Step
  written  \"raise\" lock:Name (\"for\" boats:Step+ by \";\")?

form Beside in Step
  written  left:Step \"+\" right:Step

form Word in Step
  written  name:Name

form Group in Step
  written  \"(\" inner:Step \")\"
  becomes  inner
",
    );
    for text in [
        "[hail a; b]",
        "[(hail a); b]",
        "[(raise a for b; c); hail d]",
        "[raise a; b]",
        "[(a + hail b); c]",
        "[hail (hail a); b]",
        "[a; (hail b; c); [hail d; e]]",
    ] {
        assert_eq!(printed(&own, text, Brackets::Fewest), text);
    }
}

#[test]
fn brackets_of_a_form_are_no_call() {
    let own = with_tokens(
        r#"
precedence of Expr, loosest first
  none   Less
  left   Plus
  suffix Call, Item
form Program
  written  steps:Step* by ";"
form When in Step
  written  "when" "(" test:Expr ")" then:Step
form Put in Step
  written  "put" from:Expr "[" place:Expr "]" "as" value:Expr
form Alone in Step
  written  value:Expr
form Call in Expr
  written  f:Expr "(" args:Expr* by "," ")"
form Item in Expr
  written  list:Expr "[" place:Expr "]"
form Less in Expr
  written  left:Expr "<" right:Expr
form Plus in Expr
  written  left:Expr "+" right:Expr
form Use in Expr
  written  name:Name
form Number in Expr
  written  value:Whole
form Inner in Expr
  written  "(" inner:Expr ")"
  becomes  inner
"#,
    );
    for (text, wanted) in [
        ("when ((1 < 2)) f(3)", "when (1 < 2) f (3)"),
        ("when (1) when (f(1 < 2)) 2", "when (1) when (f (1 < 2)) 2"),
        ("f(1 < 2)", "f (1 < 2)"),
        ("(1 + 2)(3)", "(1 + 2) (3)"),
        (
            "put (1 + 2)[3 < 4] as 5 < 6",
            "put (1 + 2) [3 < 4] as 5 < 6",
        ),
        ("put (1[2])[3] as 4", "put 1 [2] [3] as 4"),
    ] {
        assert_eq!(printed(&own, text, Brackets::Fewest), wanted, "{text}");
        assert_eq!(printed(&own, wanted, Brackets::Fewest), wanted, "{text}");
    }
}

#[test]
fn a_token_without_a_field_is_printed_as_its_only_spelling() {
    let items = |sign: &str| {
        format!(
            "language Own\ntokens\n  Blank  [ \\n]+  ignored\n  Sign   {sign}\n  Stop   [;]\n  Name   letter+\nform Program\n  written  steps:Step* by Stop\nform Put in Step\n  written  name:Name Sign value:Name\n"
        )
    };
    for sign in ["\":=\"", "\":\" [=]", "(\":=\" | \":\" \"=\")"] {
        let own = language(&items(sign));
        assert_eq!(
            printed(&own, "a:=b ;c := d", Brackets::Fewest),
            "a := b;\nc := d",
            "{sign}"
        );
        assert_eq!(advice(&own), [] as [&str; 0]);
    }
    let own = language(&items("\"->\" | \"=>\""));
    assert_eq!(
        advice(&own),
        ["10:22 trees of form `Put` cannot be written as source again"]
    );
    // What may be left out is left out.
    let optional = items("\"->\" | \"=>\"").replace("name:Name Sign", "name:Name Sign?");
    let own = language(&optional);
    assert_eq!(advice(&own), [] as [&str; 0]);
    assert_eq!(printed(&own, "a -> b", Brackets::Fewest), "a b");
}

fn advice(language: &Language) -> Vec<String> {
    let about_tokens = |found: &quillon_core::diagnostic::Diagnostic| {
        found.code == quillon_core::diagnostic::codes::CHECK_TOKENS
    };
    let all = language.advice();
    all.iter()
        .filter(|found| about_tokens(found))
        .map(said)
        .collect()
}
