//! Definitions and case files with their columns in order.

use std::path::PathBuf;

use quillon_core::definition::arranged;
use quillon_core::source::SourceText;

/// A text with its columns in order.
fn in_order(text: &str) -> String {
    let source = SourceText::new("gate.quillon", text);
    arranged(&source).expect("a text that can be read as words")
}

/// All definitions and case files that the program brings with it.
fn bundled() -> Vec<PathBuf> {
    let root = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let mut found = Vec::new();
    let mut folders = vec![root];
    while let Some(folder) = folders.pop() {
        for entry in std::fs::read_dir(folder).expect("a folder") {
            let path = entry.expect("an entry").path();
            if path.is_dir() {
                folders.push(path);
            } else if path
                .extension()
                .is_some_and(|e| e == "quillon" || e == "cases")
            {
                found.push(path);
            }
        }
    }
    found
}

/// The definitions and case files that we ship look as the tool has them.
#[test]
fn our_own_are_in_order() {
    for path in bundled() {
        let text = std::fs::read_to_string(&path).expect("a file");
        assert_eq!(in_order(&text), text, "{}", path.display());
    }
}

/// With all runs of blanks changed, a definition of ours comes back as it was.
#[test]
fn blanks_that_say_nothing_make_no_difference() {
    for path in bundled() {
        let text = std::fs::read_to_string(&path).expect("a file");
        let wider = text.replace("\n  written", "\n\n     written");
        let wider = wider.replace("\n  example  `", "\n  example \t `");
        let wider = wider.replace("`   gives ", "` gives ");
        let order = in_order(&wider);
        let lines = |text: &str| {
            let lines = text.lines().filter(|line| !line.is_empty());
            lines.map(str::to_owned).collect::<Vec<_>>()
        };
        assert_eq!(lines(&order), lines(&text), "{}", path.display());
    }
}

#[test]
fn columns_stand_under_each_other() {
    let text = "language Sill
 reads \".sill\"
 starts Gates
tokens
 Blank [ \\t]+ ignored
 Mark \"~\" [^\\n]* ignored -- as in a log
 Whole digit+ holds integer
form   Gates
  written gates:Gate*
form Open in   Gate
      written   \"open\" feet:Whole
      means output(feet)
      example `open 3` prints \"3\"
      example `open` fails \"the text ends\"
      laid out as lines
";
    let wanted = "language Sill
  reads   \".sill\"
  starts  Gates

tokens
  Blank  [ \\t]+      ignored
  Mark   \"~\" [^\\n]*  ignored  -- as in a log
  Whole  digit+      holds integer

form Gates
  written  gates:Gate*

form Open in Gate
  written   \"open\" feet:Whole
  means     output(feet)
  example   `open 3`   prints \"3\"
  example   `open`     fails \"the text ends\"
  laid out  as lines
";
    assert_eq!(in_order(text), wanted);
}

#[test]
fn what_goes_on_stands_as_deep_as_its_brackets() {
    let text = "form Count in Step
  written \"count\" (\"up\"
      | \"down\") last:Expr
  means let at = 1;
    while at <= last {
    output(text.join([
    at,
     last], \" \"),
    \"\\n\");
     at := at
     + 1
         }
  example
       | count up 3
       |   and   so on  
      prints \"1\"

define kind(v) =
 match v {
 map m => \"a map\"
 integer => \"whole\"
 }

define twice(f) = {
      f();
   f()
   }
";
    let wanted = "form Count in Step
  written  \"count\" (\"up\"
             | \"down\") last:Expr
  means    let at = 1;
           while at <= last {
             output(text.join([
               at,
               last], \" \"),
               \"\\n\");
             at := at
               + 1
           }
  example
    | count up 3
    |   and   so on  
    prints \"1\"

define kind(v) =
  match v {
    map m   => \"a map\"
    integer => \"whole\"
  }

define twice(f) = {
  f();
  f()
}
";
    assert_eq!(in_order(text), wanted);
}

#[test]
fn comments_and_single_lines_stay_where_they_are() {
    let text = "\n\n-- of gates\nlanguage Sill\ndefine one() = 1\ndefine two() = 2\n\n\n\n-- what is said\n  -- of it\nmessages\n-- of an expression\n Expr \"an expression\"\n    -- more may come\n";
    let wanted = "-- of gates\nlanguage Sill\ndefine one() = 1\ndefine two() = 2\n\n-- what is said\n-- of it\nmessages\n  -- of an expression\n  Expr  \"an expression\"\n  -- more may come\n";
    assert_eq!(in_order(text), wanted);
}

#[test]
fn programs_and_texts_of_several_lines_are_not_touched() {
    let text = "form Open in Step\n   means   1\n example `a\n      b   c`   gives 1\n";
    let wanted = "form Open in Step\n  means  1\n example `a\n      b   c`   gives 1\n";
    let order = in_order(text);
    assert!(order == wanted || order == text, "{order}");
    assert_eq!(in_order(&order), order);
}

#[test]
fn case_files_are_put_in_order() {
    let text = "cases of   gates that open\n `open 3` prints \"3\"\n `open`   fails \"ends\" at 1:5\ncase  of two  lines\n   program\n      | open 3\n      |   open 4\n   prints   \"34\"   given input \"1\"\n";
    let wanted = "cases of   gates that open\n  `open 3`   prints \"3\"\n  `open`     fails \"ends\" at 1:5\n\ncase  of two  lines\n  program\n    | open 3\n    |   open 4\n  prints \"34\" given input \"1\"\n";
    assert_eq!(in_order(text), wanted);
}

#[test]
fn line_ends_stay_what_they_are() {
    assert_eq!(
        in_order("language Sill\r\n reads \".sill\"\r\n"),
        "language Sill\r\n  reads  \".sill\"\r\n"
    );
    assert_eq!(in_order("language Sill"), "language Sill\n");
    assert_eq!(in_order(""), "");
}

#[test]
fn what_cannot_be_read_as_words_is_said() {
    let source = SourceText::new("gate.quillon", "language Sill\n  reads \".sill\n");
    let error = arranged(&source).expect_err("an open text");
    assert!(error.message.contains("never closed"), "{}", error.message);
}
