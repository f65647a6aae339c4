//! Several ways to write one language; comments and layout when a tree is printed; one
//! entry off the front; definitions in several files.

use std::sync::Arc;

use crate::common::{language, mistakes, said, value, with_tokens};
use quillon_core::definition::with_includes;
use quillon_core::printing::Brackets;
use quillon_core::source::SourceText;
use quillon_core::tree::one_line;
use quillon_core::{Language, Reading};

const FORMS: &str = r#"
precedence of Expr, loosest first
  left  Add
  left  Times
form Program
  written  steps:Step*
  opens    scope
  means    all steps
usual Let, Add, Group, Number
form When in Step
  written   "when" test:Expr "do" steps:Step* ("else" others:Step*)? "end"
  opens     scope
  laid out  steps deeper, others deeper
  means     if test = 0 { all others } else { all steps }
form Say in Step
  written  "say" values:Expr+ by ","
  means    output(text.join(values, " "), "\n")
form Times in Expr
  written  left:Expr "*" right:Expr
  means    left * right
form Var in Expr
  written  name:Name
  uses     name
  means    name
surface Back reads ".back"
  Add    left:Expr right:Expr "+"
  Times  left:Expr right:Expr "*"
  Let    value:Expr "into" name:Name ";"
"#;

fn source(text: &str) -> Arc<SourceText> {
    SourceText::new("text", text)
}

fn sluice() -> Language {
    with_tokens(FORMS)
}

/// A text in one surface as another writes it, with its comments.
fn translated(from: &Language, to: &Language, text: &str) -> String {
    let text = source(text);
    let tree = from.tree(&text, Reading::Entry);
    let tree = tree.value.unwrap_or_else(|| {
        panic!(
            "{:?}",
            tree.diagnostics.iter().map(said).collect::<Vec<_>>()
        )
    });
    let comments = from.comments(&text);
    to.source_of(&tree, Brackets::Fewest, &comments).unwrap()
}

#[test]
fn a_surface_gives_the_same_trees() {
    let own = sluice();
    let back = own.surface("Back").unwrap();
    let one = own.tree(&source("let a = (1 + 2) * 3 say a"), Reading::Program);
    let other = back.tree(&source("1 2 + 3 * into a; say a"), Reading::Program);
    let line = |tree| one_line(own.definition(), own.lexer(), &tree);
    let expected = "Program([Let(a, Times(Add(Number(1), Number(2)), Number(3))), Say([Var(a)])])";
    assert_eq!(line(one.value.unwrap()), expected);
    assert_eq!(line(other.value.unwrap()), expected);
    assert_eq!(value(&back, "1 2 + 3 * into a; say a 1 +"), "10\nnothing");
    assert_eq!(own.surface_name_of_file("lift.back"), "Back");
    assert_eq!(own.surface_name_of_file("lift.own"), "Own");
    assert!(own.surface("Front").is_none());
}

#[test]
fn programs_go_from_one_surface_to_another_and_back() {
    let own = sluice();
    let back = own.surface("Back").unwrap();
    let text = "\
~ at the front
let a = 2 ~ two

~ before b
let b = (a + 3) * a
when b do ~ begins
  say a, b
  ~ last inside
else
  say b
end

~ at the end
";
    assert_eq!(translated(&own, &own, text), text);
    let there = translated(&own, &back, text);
    assert!(
        there.contains("a 3 + a * into b;\nwhen b do ~ begins\n  say a, b\n"),
        "{there}"
    );
    assert_eq!(translated(&back, &own, &there), text);
    // A keyword of the other surface cannot be a name there.
    let keyword = source("let into = 1 say into");
    let tree = own.tree(&keyword, Reading::Program).value.unwrap();
    let comments = own.comments(&keyword);
    assert!(own.round_trip(&tree, &comments, Reading::Program).is_ok());
    assert!(back.round_trip(&tree, &comments, Reading::Program).is_err());
}

#[test]
fn the_lines_of_a_surface_have_the_fields_of_their_forms() {
    let with = |lines: &str| {
        let all = mistakes(&format!(
            "language Own\ntokens\n  Blank [ ]+ ignored\n  Name letter+\nform F\n  written \"f\" names:Name* last:Name\nform G\n  binds last onward\n{lines}"
        ));
        all.into_iter()
            .filter(|m| !m.starts_with('8'))
            .collect::<Vec<_>>()
    };
    assert_eq!(
        with("surface S reads \".s\"\n  F names:Name last:Name\n"),
        ["10:3 `names` of form `F` is always there here, and repeated in the form"]
    );
    assert_eq!(
        with("surface S reads \".s\"\n  F names:Name*\n"),
        ["10:3 `last` of form `F` is not there here, and always there in the form"]
    );
    assert_eq!(
        with("surface S reads \".s\"\n  E names:Name*\n  G \"g\"\n"),
        [
            "10:3 there is no form `E`",
            "11:3 form `G` is not written in the language itself"
        ]
    );
    assert_eq!(
        with("surface Own reads \".s\"\n  F last:Name names:Name*\n  F last:Name names:Name*\n"),
        [
            "9:9 surface `Own` is described twice",
            "11:3 form `F` is described twice"
        ]
    );
}

#[test]
fn laid_out_says_where_lines_end() {
    let own = language(
        "language Own\ntokens\n  Blank [ \\n]+ ignored\n  Name letter+\n  Whole digit+
form Book
  written   pages:Page*
  laid out  pages apart
form Page
  written   \"page\" title:Name lines:Line* notes:Note? \"over\"
  laid out  lines deeper, notes deeper, \"over\" lines
form Line
  written   \"line\" words:Name* by \"-\"
  laid out  words inline
form Note
  written   \"(\" count:Whole \")\"
",
    );
    assert_eq!(
        translated(&own, &own, "page a line b-c line d (1) over page e over"),
        "page a\n  line b - c\n  line d\n  (1)\nover\n\npage e\nover\n"
    );
    assert_eq!(
        mistakes(
            "language Own\ntokens\n  Name letter+\nform F\n  written n:Name\n  laid out m deeper\n"
        ),
        ["6:12 form `F` has no field `m`"]
    );
    assert_eq!(
        mistakes(
            "language Own\ntokens\n  Name letter+\nform F\n  written n:Name\n  laid out n deep\n"
        ),
        ["6:14 expected `inline`, `lines`, `deeper`, `apart`, `close` or `spaced`, found `deep`"]
    );
}

#[test]
fn one_entry_is_read_off_the_front() {
    let own = with_tokens(&format!("{FORMS}\n").replace("language Own", "language Own"));
    let front = |text: &str, reading| {
        let (outcome, end) = own.front(&source(text), reading);
        match outcome.value {
            Some(tree) => {
                let line = one_line(own.definition(), own.lexer(), &tree);
                format!("{line} to {}", end.unwrap())
            }
            None => said(&outcome.diagnostics[0]),
        }
    };
    let program = Reading::Program;
    assert_eq!(
        front("say 1 + 2 )) rest", program),
        "Program([Say([Add(Number(1), Number(2))])]) to 9"
    );
    assert_eq!(
        front("say 1 + 2 $ 3", program),
        "Program([Say([Add(Number(1), Number(2))])]) to 9"
    );
    // As long as can be: an operator without its operand is not part of it.
    assert_eq!(
        front("say 1 +", program),
        "Program([Say([Number(1)])]) to 5"
    );
    assert_eq!(
        front("+ 1", program),
        "1:1 expected a step or the end of the text, found `+`"
    );
}

#[test]
fn a_definition_can_stand_in_several_files() {
    let files = |name: &str| match name {
        "tokens" => Ok("tokens\n  Blank [ ]+ ignored\n  Name letter+".to_owned()),
        "bad" => Ok("tokens\n  Blank [ ]+ ignored\n  Name leter+\n".to_owned()),
        "round" => Ok("include \"main\"\n".to_owned()),
        "both" => Ok("include \"tokens\"\ninclude \"tokens\"\n".to_owned()),
        other => Err(format!("there is no file {other}")),
    };
    let load = |text: &str| {
        let main = SourceText::new("main", text);
        let whole = with_includes(&main, &mut |_, name| {
            if name == "main" {
                return Ok(SourceText::new("main", text));
            }
            files(name).map(|text| SourceText::new(name, text))
        });
        let diagnostics = match whole {
            Ok(whole) => Language::load(&whole).diagnostics,
            Err(diagnostics) => diagnostics,
        };
        let listed: Vec<String> = diagnostics
            .iter()
            .map(|d| format!("{} {}", d.place.as_ref().unwrap().source.name(), said(d)))
            .collect();
        listed.join("\n")
    };
    let form = "form F\n  written n:Nam\n";
    assert_eq!(
        load(&format!("language M\ninclude \"both\"\n{form}")),
        "main 4:13 there is no sort, form or token `Nam`"
    );
    assert_eq!(
        load(&format!("language M\ninclude \"bad\"\n{form}").replace("Nam\n", "Blank\n")),
        "bad 3:8 `leter` is no class of characters\nmain 4:13 `Blank` is ignored, so no form can ask for it"
    );
    assert_eq!(
        load("language M\n\ninclude \"round\"\n"),
        "round 1:9 these files include each other in a circle"
    );
    assert_eq!(
        load("language M\ninclude \"gone\"\n"),
        "main 2:9 `gone` cannot be included: there is no file gone"
    );
    assert_eq!(
        load("language M\ninclude gone\n"),
        "main 2:9 expected the file to include, in quotes, found `gone`"
    );
}

/// What is built in has a name of its own in another surface.
const NAMED: &str = r#"
provides
  toll(boats)  means boats * 4
  rate         means 7
  "@"(value)   means value
surface Other reads ".other"
  toll  called zoll
  rate  called "satz"
  Say   "sage" values:Expr+ by ","
"#;

const CALLS: &str = r#"
form Call in Expr
  written  callee:Expr ~ "(" arg:Expr ")"
  means    call callee with arg
"#;

#[test]
fn what_is_built_in_can_be_called_otherwise_in_a_surface() {
    let forms = FORMS.replace("left  Times", "left  Times\n  suffix  Call");
    let forms = forms.split("surface Back").next().unwrap().to_owned();
    let own = with_tokens(&format!("{forms}{CALLS}{NAMED}"));
    let other = own.surface("Other").unwrap();
    assert_eq!(value(&own, "say toll(rate)"), "28\nnothing");
    assert_eq!(value(&other, "sage zoll(satz)"), "28\nnothing");
    assert_eq!(
        value(&other, "sage toll(1)"),
        "1:6 there is no binding called `toll`"
    );
    // A name of the program that is bound keeps its name; what is built in changes it.
    let program = source("let zoll = toll(rate) say zoll");
    let tree = own.tree(&program, Reading::Program).value.unwrap();
    let there = own.as_in(&tree, &other);
    let written = |tree| other.source_of(tree, Brackets::Fewest, &own.comments(&program));
    assert_eq!(
        written(&there).unwrap(),
        "let zoll = zoll(satz)\nsage zoll\n"
    );
    let back = source("let a = zoll(satz) sage a");
    let tree = other.tree(&back, Reading::Program).value.unwrap();
    let here = other.as_in(&tree, &own);
    let text = own.source_of(&here, Brackets::Fewest, &other.comments(&back));
    assert_eq!(text.unwrap(), "let a = toll(rate)\nsay a\n");
    for (lines, wanted) in [
        (
            "surface O reads \".o\"\n  tol called zoll\n",
            "nothing built-in is called `tol`",
        ),
        (
            "surface O reads \".o\"\n  toll called zoll\n  toll called z\n",
            "name `toll` is described twice",
        ),
        (
            "surface O reads \".o\"\n  toll called rate\n",
            "something else is called `rate` here",
        ),
    ] {
        let text = format!(
            "language Own\ntokens\n  Name letter+\nform F\n  written \"f\"\nprovides\n  toll(a) means a\n  rate means 1\n{lines}"
        );
        let found = mistakes(&text);
        assert!(found.iter().any(|m| m.ends_with(wanted)), "{found:?}");
    }
}

#[test]
fn a_name_that_is_a_word_in_another_surface_is_pointed_at() {
    let own = sluice();
    let back = own.surface("Back").unwrap();
    let stranger = |text: &str| {
        let text = source(text);
        let tree = own.tree(&text, Reading::Program).value.unwrap();
        let span = back.stranger(&tree)?;
        Some(text.position(span.start).to_string())
    };
    assert_eq!(stranger("let a = 1 say a"), None);
    assert_eq!(stranger("let a = 1\nlet into = a"), Some("2:5".to_owned()));
}
