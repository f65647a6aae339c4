//! Tokens that depend on where they stand.

use crate::common::{errors, language, mistakes, said, tree, value};
use quillon_core::diagnostic::codes;
use quillon_core::printing::Brackets;
use quillon_core::source::SourceText;
use quillon_core::testing::{Trial, properties};
use quillon_core::{Language, Prepared, Reading};

/// A letter with holes: everything outside of `{{ … }}` is text.
const LETTERS: &str = r#"language Letters
  reads ".letter"

tokens Outside first
  Words  ([^{] | "{" [^{])+
  Open   "{{"  enters tokens

tokens
  Blank   [ \n]+                     ignored
  Remark  "~" [^\n}]*                ignored
  Close   "}}"                       leaves
  Whole   digit+                     holds integer
  Text    '"' [^"]* '"'              holds text
  Name    letter+

form Page
  written  parts:Part*
  opens    scope
  means    all parts
form Plain in Part
  written  text:Words
  means    output(text)
form Hole in Part
  written  Open value:Expr Close
  means    output(shown(value))
form Set in Part
  written  Open "let" name:Name "=" value:Expr Close
  binds    name onward
  means    name := value
form Each in Part
  written  Open "each" name:Name "in" list:Expr Close body:Part* Open "end" Close
  opens    scope around body
  binds    name in body
  means    each item in list { name := item; all body }
form If in Part
  written  Open "if" test:Expr Close body:Part* (Open "else" Close other:Part*)? Open "end" Close
  means    if test > 0 { all body } else { all other }
form List in Expr
  written  "[" items:Expr* by "," "]"
  means    items
form Number in Expr
  written  value:Whole
  means    value
form Quoted in Expr
  written  value:Text
  means    value
form Get in Expr
  written  name:Name
  uses     name
  means    name
"#;

fn letters() -> Language {
    language(LETTERS)
}

fn unfinished(language: &Language, text: &str) -> bool {
    language.is_unfinished(&SourceText::new("text", text.to_owned()))
}

#[test]
fn what_stands_outside_is_text() {
    let letters = letters();
    for (program, wanted) in [
        (
            "Dear keeper,\n  the lock is shut. ",
            "Dear keeper,\n  the lock is shut. nothing",
        ),
        (
            "{{let name = \"Heron\"}}Dear {{ name }}, { no hole }",
            "Dear Heron, { no hole }nothing",
        ),
        (
            "{{ each boat in [\"Otter\", \"Coot\"] }}- {{ boat }}\n{{ end }}all",
            "- Otter\n- Coot\nallnothing",
        ),
        (
            "{{ if 0 ~ a remark }}let each{{ else }}{{ if 1 }}in{{end}}{{ end }}",
            "innothing",
        ),
        ("", "nothing"),
    ] {
        assert_eq!(value(&letters, program), wanted, "{program}");
    }
    assert_eq!(
        tree(&letters, "let {{ let x = 1 }} = 1"),
        "Page([Plain(`let `), Set(x, Number(1)), Plain(` = 1`)])"
    );
}

#[test]
fn mistakes_are_said_where_they_stand() {
    let letters = letters();
    let told = |program: &str| {
        let all = errors(&letters, program);
        all.iter().map(said).collect::<Vec<_>>()
    };
    assert_eq!(
        told("Dear {{ x }}!"),
        ["1:9 there is no binding called `x`"]
    );
    for (program, place) in [
        ("Dear {{ 1", "1:10"),
        ("{{ each x in 1 }} a", "1:20"),
        ("a {{ ? }} b", "1:6"),
    ] {
        let all = told(program);
        assert!(!all.is_empty(), "{program}");
        assert!(all[0].starts_with(place), "{program}: {all:?}");
    }
    // What is not closed goes on, as an entry of a conversation.
    assert!(unfinished(&letters, "Dear {{ 1"));
    assert!(unfinished(&letters, "{{ each x in 1 }} a"));
    assert!(!unfinished(&letters, "Dear {{ 1 }}"));
}

#[test]
fn what_is_printed_is_read_back_with_its_text_as_it_was() {
    let letters = letters();
    let printed = |text: &str| {
        let source = SourceText::new("text", text.to_owned());
        let tree = letters.tree(&source, Reading::Program).value.unwrap();
        let comments = letters.comments(&source);
        letters
            .source_of(&tree, Brackets::Fewest, &comments)
            .unwrap()
    };
    let text = "Dear {{ name }},\n  {{ each x in [1, 2] }}- {{ x }}\n{{ end }}\nbye\n";
    assert_eq!(printed(text), text);
    assert_eq!(
        printed("a{{name}}{{let   x=[ 1,2 ]}} b"),
        "a{{ name }}{{ let x = [1, 2] }} b"
    );
    let prepared = Prepared::new(&letters);
    for text in [
        text,
        "{{ if 1 }}\n\n{{ else }} x {{ end }}",
        "{ {",
        "{{ \"{{\" }}",
    ] {
        let source = SourceText::new("text", text.to_owned());
        let broken = properties(&Trial::of(&prepared, &source));
        assert!(broken.is_empty(), "{text}: {broken:?}");
    }
}

#[test]
fn programs_are_made_up_in_groups_too() {
    let letters = letters();
    let generator = quillon_core::testing::Generator::new(&letters, None).unwrap();
    let made: Vec<String> = (0..30)
        .filter_map(|seed| generator.program(seed, 30))
        .collect();
    assert!(made.len() > 10, "{made:?}");
    let prepared = Prepared::new(&letters);
    for text in made {
        let source = SourceText::new("text", text.clone());
        let broken = properties(&Trial::of(&prepared, &source));
        assert!(broken.is_empty(), "{text:?}: {broken:?}");
    }
}

/// Blocks in which nothing is read, and texts that end at a line that they name.
const RAW: &str = r#"language Raw
  reads ".raw"

tokens
  Blank  [ \n]+                ignored
  Begin  "raw!"                enters Inside
  Long   "<<" letter+          holds text   until line
  Name   letter+

tokens Inside
  Lines  ([^!] | "!" [^r])+
  Done   "!raw"                leaves

form Program
  written  steps:Step*
  means    all steps
form Block in Step
  written  Begin text:Lines? Done
  means    if given text { output("(", text, ")") } else { output("()") }
form Note in Step
  written  "note" text:Long
  means    output("[", text, "]")
form Word in Step
  written  name:Name
  means    output(name, ".")
"#;

#[test]
fn a_block_can_be_raw() {
    let raw = language(RAW);
    assert_eq!(
        value(&raw, "lock raw! note << { gate }\n  ! !raw gate"),
        "lock.( note << { gate }\n  ! )gate.nothing"
    );
    assert_eq!(value(&raw, "raw!!raw"), "()nothing");
    assert!(unfinished(&raw, "raw! lock"));
}

#[test]
fn a_text_ends_at_the_line_that_it_names() {
    let raw = language(RAW);
    assert_eq!(
        value(&raw, "note <<END\n  water: 4\nEND of it\n  END\nlock"),
        "[  water: 4\nEND of it\n]lock.nothing"
    );
    assert_eq!(value(&raw, "note <<A\nA"), "[]nothing");
    assert!(unfinished(&raw, "note <<END\nwater"));
    let told: Vec<String> = errors(&raw, "lock note <<END\nwater\n")
        .iter()
        .map(said)
        .collect();
    assert_eq!(
        told[0],
        "1:11 what starts here like a long is never finished"
    );
}

#[test]
fn groups_that_cannot_be_are_errors_of_the_definition() {
    let with = |lines: &str| mistakes(&format!("language Own\ntokens\n  Name letter+{lines}\n"));
    assert_eq!(
        with("  enters Raw"),
        ["3:24 there is no group of tokens `Raw`"]
    );
    assert_eq!(
        with("\ntokens Raw\n  Line [^\\n]+"),
        ["4:8 no token enters the group `Raw`"]
    );
    assert_eq!(
        with("\ntokens Raw first\n  Line [^\\n]+\ntokens Other first\n  Word digit+"),
        ["6:8 texts begin in `Raw` already"]
    );
    assert_eq!(with("  until"), ["3:22 `line` is missing here"]);
}

/// What is warned of in a version of the letters.
fn warned(from: &str, to: &str) -> Vec<String> {
    assert!(LETTERS.contains(from), "{from}");
    let source = SourceText::new("letters.quillon", LETTERS.replacen(from, to, 1));
    let language = Language::load(&source).value.expect("a language");
    let told = language.advice().into_iter();
    told.filter(|one| one.code == codes::CHECK_TOKENS)
        .map(|one| format!("{} / {}", said(&one), one.remedies[0]))
        .collect()
}

#[test]
fn a_group_that_is_not_changed_where_it_has_to_be_is_warned_of() {
    assert_eq!(warned("Outside first", "Outside first"), [""; 0]);
    let lost = warned("leaves\n  Whole", "\n  Whole");
    assert_eq!(lost.len(), 1, "{lost:?}");
    assert!(
        lost[0].contains("nothing that is to come after `}}` is ever read"),
        "{lost:?}"
    );
    assert!(lost[0].contains("write `leaves` behind it"), "{lost:?}");
    let lost = warned("\"{{\"  enters tokens", "\"{{\"");
    assert!(
        lost[0].contains("nothing that is to come after `{{` is ever read"),
        "{lost:?}"
    );
    assert!(
        lost[0].contains("write `enters tokens` behind it"),
        "{lost:?}"
    );
    // Raw text that goes on to the end of the file is left by nothing.
    let raw = "language Raw\ntokens\n  Blank [ \\n]+ ignored\n  Name letter+\n  Rest \"---\" enters Raw\n\
        tokens Raw\n  All any+\nform Page\n  written names:Name* (Rest rest:All)?\n";
    let raw = Language::load(&SourceText::new("raw.quillon", raw));
    let advice = raw.value.expect("a language").advice();
    assert!(advice.is_empty(), "{advice:?}");
}
