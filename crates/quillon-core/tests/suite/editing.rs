//! What an editor asks of programs.

use quillon_core::Language;
use quillon_core::editing::{Filling, Indent, Looked, Piece, Role, Standing, Symbol, What};
use quillon_core::source::{SourceText, Span};

use crate::common;

/// A language of functions with braces, and one built-in function.
fn ways() -> Language {
    common::with_tokens(
        r#"
precedence of Expr, loosest first
  left Add
usual Program, Let, Add, Group, Words, Number, Variable
form Do in Step
  written  value:Expr
  means    value
-- A function with a name.
form Way in Step
  written  "way" name:Name "(" params:Name* by "," ")" "{" steps:Step* by ";" "}"
  opens    scope
  binds    name in steps, onward
  binds    params in steps
  means    name := function (params) { all steps }
form Change in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form Call in Expr
  written  name:Name "(" args:Expr* by "," ")"
  uses     name
  means    call name with args
provides
  twice(n)  means n + n   -- twice as much
"#,
    )
}

fn look(language: &Language, text: &str) -> Looked {
    Looked::new(language, &SourceText::new("program", text))
}

/// The text without the mark `|`, and where that was.
fn marked(text: &str) -> (String, u32) {
    let at = text.find('|').expect("a mark");
    (text.replacen('|', "", 1), at as u32)
}

fn look_at(language: &Language, text: &str) -> (Looked, u32) {
    let (text, at) = marked(text);
    (look(language, &text), at)
}

fn texts(looked: &Looked, spans: impl IntoIterator<Item = Span>) -> Vec<String> {
    let text = |span: Span| format!("{}@{}", looked.source().slice(span), span.start);
    spans.into_iter().map(text).collect()
}

#[test]
fn a_name_is_found_wherever_it_means_the_same_and_nowhere_else() {
    let program = "let a = 1; way f(a) { a + 1 }; a := |a + 2";
    let (looked, at) = look_at(&ways(), program);
    let standings = looked.standings(at);
    let spans = standings.iter().map(|one| one.span);
    assert_eq!(texts(&looked, spans), ["a@4", "a@31", "a@36"]);
    let flags: Vec<(bool, bool)> = standings
        .iter()
        .map(|one| (one.binds, one.changes))
        .collect();
    assert_eq!(flags, [(true, false), (false, true), (false, false)]);
    assert_eq!(looked.bound_at(at), Some(Span::new(4, 5)));
    assert_eq!(
        looked.standings(0),
        Vec::<Standing>::new(),
        "no name stands there"
    );
}

#[test]
fn what_a_name_stands_for_is_told_by_what_binds_it() {
    let language = ways();
    for (program, what) in [
        ("let |a = 1", What::Variable),
        ("way |f(a) { a }", What::Function),
        ("way f(|a) { a }", What::Parameter),
        ("way f(a) { |a }", What::Parameter),
        ("|twice(2)", What::BuiltInFunction),
    ] {
        let (looked, at) = look_at(&language, program);
        let about = looked.about(at).and_then(|about| about.name);
        assert_eq!(about.map(|name| name.what), Some(what), "{program}");
    }
    let (looked, at) = look_at(&language, "tw|ice(2)");
    let name = looked
        .about(at)
        .and_then(|about| about.name)
        .expect("a name");
    assert_eq!(name.signature.as_deref(), Some("twice(n)"));
    assert_eq!(name.help, "twice as much");
    assert_eq!(name.bound, None);
}

#[test]
fn a_form_is_told_with_how_it_is_written_and_what_is_said_above_it() {
    let (looked, at) = look_at(&ways(), "wa|y f() { 1 }");
    let form = looked
        .about(at)
        .and_then(|about| about.form)
        .expect("a form");
    assert_eq!(form.name, "Way");
    assert_eq!(form.remark, "A function with a name.");
    assert!(
        form.written
            .starts_with(r#""way" name:Name "(" params:Name* by ",""#),
        "{form:?}"
    );
}

#[test]
fn types_are_told_where_the_language_has_them() {
    let language = common::language(include_str!("../../../../languages/gauge/gauge.quillon"));
    let (looked, at) = look_at(&language, "level high := 2; tell hi|gh + 1");
    let name = looked
        .about(at)
        .and_then(|about| about.name)
        .expect("a name");
    assert_eq!(name.type_of.as_deref(), Some("integer"));
    let hints = looked.types_of_names(Span::new(0, 99));
    assert_eq!(hints, [(10, "integer".to_owned())]);
}

#[test]
fn a_name_is_exchanged_only_where_everything_goes_on_meaning_the_same() {
    let language = ways();
    let renamed = |program: &str, name: &str| {
        let (looked, at) = look_at(&language, program);
        looked.renamed(at, name).map(|spans| texts(&looked, spans))
    };
    let places = renamed("let |a = 1; a + a", "level");
    assert_eq!(places, Ok(vec!["a@4".into(), "a@11".into(), "a@15".into()]));
    for (program, name, why) in [
        (
            "let |a = 1; way f(b) { a + b }",
            "b",
            "would mean something else",
        ),
        (
            "let |a = 1; let b = 2; way f() { b }",
            "b",
            "is bound twice in the same scope",
        ),
        ("let |a = 1; a", "let", "is a word of the language"),
        ("let |a = 1; a", "2nd", "is no name"),
        ("let |a = 1; a", "two words", "is no name"),
        ("|twice(2)", "thrice", "belongs to the language"),
        ("let a = |1", "b", "no name stands here"),
        ("let |a = 1; a + c", "b", "has to be right before"),
    ] {
        let refused = renamed(program, name).expect_err(program);
        assert!(refused.contains(why), "{program}: {refused}");
    }
}

#[test]
fn only_what_the_grammar_lets_stand_at_a_place_is_offered() {
    let language = ways();
    let offered = |program: &str| {
        let (looked, at) = look_at(&language, program);
        let (span, all) = looked.candidates(at);
        let mut texts: Vec<String> = all.into_iter().map(|one| one.text).collect();
        texts.dedup();
        (looked.source().slice(span).to_owned(), texts)
    };
    assert_eq!(
        offered("let level = 1; |"),
        (
            String::new(),
            vec!["level".into(), "twice".into(), "let".into(), "way".into(),]
        )
    );
    assert_eq!(
        offered("let level = 1; le|"),
        ("le".into(), vec!["level".into(), "let".into()])
    );
    assert_eq!(
        offered("let |").1,
        Vec::<String>::new(),
        "a new name is nobody's guess"
    );
    assert_eq!(
        offered("let level = 1; way f(boat) { |").1[..2],
        ["boat", "f"]
    );
    // What is wrong further up does not matter.
    let wrong = "let level = 1;\nlet = 3 3;\nlet height = |";
    assert_eq!(offered(wrong).1, ["level", "twice"]);
}

#[test]
fn a_word_is_offered_with_the_form_that_it_begins() {
    let (looked, at) = look_at(&ways(), "wa|");
    let (_, all) = looked.candidates(at);
    assert_eq!(all[0].filling, Filling::Word);
    assert_eq!(all[0].form, []);
    let hole = |name: &str| Piece::Hole(name.to_owned());
    let text = |text: &str| Piece::Text(text.to_owned());
    assert_eq!(all[1].form, [text("way "), hole("name"), text(" ( ) { }")]);
}

#[test]
fn the_call_that_is_being_written_is_found_with_its_argument() {
    let language = ways();
    let call = |program: &str| {
        let (looked, at) = look_at(&language, program);
        let call = looked.call_at(at)?;
        Some((call.function, call.parameters.join(" "), call.argument))
    };
    let add = "way add(a, b) { a + b };\n";
    assert_eq!(
        call(&format!("{add}add(1, |")),
        Some(("add".into(), "a b".into(), 1))
    );
    assert_eq!(
        call(&format!("{add}add(twice(|")),
        Some(("twice".into(), "n".into(), 0))
    );
    assert_eq!(
        call(&format!("{add}add(twice(1, 2), |3)")),
        Some(("add".into(), "a b".into(), 1))
    );
    assert_eq!(call(&format!("{add}(1 + |2)")), None);
}

#[test]
fn arguments_are_told_what_they_are_for() {
    let text = "way due(tons, days) { tons }; let days = 2; due(3 + 1, days); twice(days); due(5)";
    let looked = look(&ways(), text);
    let shown = |within: Span| -> Vec<String> {
        let all = looked.names_of_arguments(within).into_iter();
        all.map(|(at, name)| {
            let rest = &text[at as usize..];
            format!(
                "{name}: {}",
                rest.split([',', ')']).next().unwrap_or_default()
            )
        })
        .collect()
    };
    assert_eq!(
        shown(Span::new(0, text.len())),
        ["tons: 3 + 1", "n: days", "tons: 5"],
        "one that is called like its parameter needs no name"
    );
    assert_eq!(shown(Span::new(text.len() - 6, text.len())), ["tons: 5"]);
}

#[test]
fn the_outline_has_what_is_seen_around_its_form() {
    fn shown(all: &[Symbol]) -> Vec<String> {
        let one = |one: &Symbol| match &shown(&one.inside)[..] {
            [] => one.name.clone(),
            inside => format!("{}[{}]", one.name, inside.join(" ")),
        };
        all.iter().map(one).collect()
    }
    let looked = look(
        &ways(),
        "let a = 1; way f(b) { let c = b; way g() { 1 } }; let d = 2",
    );
    assert_eq!(shown(&looked.outline()), ["a", "f[c g]", "d"]);
}

#[test]
fn a_text_is_made_up_of_lines_that_fold_and_stretches_around_a_place() {
    let text = "let a = 1;\nway f() {\n  way g() {\n    1 + 2\n  }\n}";
    let looked = look(&ways(), text);
    let folded: Vec<u32> = looked
        .foldings()
        .iter()
        .map(|(span, _)| span.start)
        .collect();
    assert_eq!(folded, [11, 23]);
    let at = text.find("1 +").unwrap() as u32;
    let around = looked.around(at);
    let around: Vec<&str> = around
        .iter()
        .map(|span| looked.source().slice(*span))
        .collect();
    assert_eq!(around[..2], ["1", "1 + 2"]);
    assert!(around[2].starts_with("way g") && around[3].starts_with("way f"));
    assert_eq!(around[4], text);
}

#[test]
fn every_token_has_the_role_of_what_it_stands_for() {
    let looked = look(&ways(), "~ remark\nlet a = \"x\"; way f(b) { a + b + 1 }");
    let roles: Vec<String> = looked
        .colours()
        .iter()
        .map(|one| {
            let role = match one.role {
                Role::Name { what, .. } => format!("{what:?}"),
                other @ (Role::Keyword
                | Role::Operator
                | Role::Number
                | Role::Text
                | Role::Kind
                | Role::Comment) => {
                    format!("{other:?}")
                }
            };
            format!("{} {role}", looked.source().slice(one.span))
        })
        .collect();
    assert_eq!(
        roles[..6],
        [
            "~ remark Comment",
            "let Keyword",
            "a Variable",
            "= Operator",
            "\"x\" Text",
            "; Operator",
        ]
    );
    assert!(roles.contains(&"f Function".to_owned()) && roles.contains(&"b Parameter".to_owned()));
    assert!(roles.contains(&"1 Number".to_owned()));
}

#[test]
fn names_that_nobody_needs_are_known() {
    let looked = look(&ways(), "let a = 1; let b = 2; b := 3; let c = 4; c");
    let unused: Vec<&str> = looked.unused().map(|note| &note.message[..]).collect();
    assert_eq!(unused, ["`a` is never used", "`b` is set and never read"]);
    let misspelt = look(&ways(), "let total = 1; let other = 2; totla");
    let unused: Vec<&str> = misspelt.unused().map(|note| &note.message[..]).collect();
    assert_eq!(unused, ["`other` is never used"], "one slip, one message");
    let broken = look(&ways(), "let total = 1; let other = 2; twice(total + + ; 3");
    let unused: Vec<&str> = broken.unused().map(|note| &note.message[..]).collect();
    assert!(!unused.contains(&"`total` is never used"), "{unused:?}");
}

#[test]
fn what_a_remedy_changes_makes_the_text_right() {
    let language = ways();
    for (wrong, right) in [
        ("let level = 1; levle + 1", "let level = 1; level + 1"),
        ("lett a = 1; a + 1", "let a = 1; a + 1"),
        ("way f(a { a + 1 }", "way f(a) { a + 1 }"),
        ("let a = 1 let b = 2; a + b", "let a = 1; let b = 2; a + b"),
        ("way f() { 1 }} ; f()", "way f() { 1 } ; f()"),
    ] {
        let looked = look(&language, wrong);
        let mends = looked
            .diagnostics()
            .iter()
            .filter_map(quillon_core::diagnostic::Diagnostic::mend);
        let mut mended = wrong.to_owned();
        for mend in mends.collect::<Vec<_>>().into_iter().rev() {
            mended.replace_range(mend.place.span.range(), &mend.text);
        }
        assert_eq!(mended, right);
        assert!(look(&language, right).diagnostics().is_empty(), "{right}");
    }
}

#[test]
fn what_stands_around_an_unfinished_line_is_known() {
    let language = ways();
    for program in [
        "let level = 1;\nway f(a) { lev|el + a };\nf(",
        "way f(a) { let level = a; lev|el + level };\nlet b = ",
        "let level = 1; lev|el + 1; way g(a) {\n  let c =",
    ] {
        let (looked, at) = look_at(&language, program);
        assert!(!looked.diagnostics().is_empty(), "{program}");
        let name = looked.about(at).and_then(|about| about.name);
        assert_eq!(
            name.map(|name| name.name).as_deref(),
            Some("level"),
            "{program}"
        );
        assert!(
            looked.bound_at(at).is_some() && !looked.outline().is_empty(),
            "{program}"
        );
    }
}

/// Blocks that end in words, and one that ends in nothing of its own.
fn shifts() -> Language {
    common::with_tokens(
        r#"
usual Program, Let, Words, Number, Variable
form Shift in Step
  written  "shift" name:Name "does" steps:Step* by ";" "over"
  opens    scope
  binds    name in steps
  means    name := 1; all steps
form Either in Step
  written  "should" test:Expr "then" yes:Step* by ";" ("else" no:Step* by ";")? "over"
  opens    scope
  means    all yes
form Say in Step
  written  "say" value:Expr
  means    output(value)
"#,
    )
}

#[test]
fn names_are_offered_in_blocks_that_words_end() {
    for program in [
        "let level = 1; shift night does say le|",
        "let level = 1; shift night does let depth = 2; should 1 then say |",
        "let level = 1; shift night does should 1 then say 1 else say 2; say |",
        "let level = 1; shift night does should 1 then say 1 over; say | ",
    ] {
        let (looked, at) = look_at(&shifts(), program);
        let (_, all) = looked.candidates(at);
        let offered: Vec<&str> = all.iter().map(|one| one.text.as_str()).collect();
        assert!(offered.contains(&"level"), "{program}: {offered:?}");
        let has_night = offered.contains(&"night");
        assert!(
            has_night || program.contains("le|"),
            "{program}: {offered:?}"
        );
    }
    let (looked, at) = look_at(&shifts(), "shift night does say 1 over; say n|");
    let (_, all) = looked.candidates(at);
    assert!(all.iter().all(|one| one.text != "night"), "out of sight");
}

#[test]
fn nothing_is_offered_in_a_comment() {
    for program in ["say 1; ~ and le|", "~ |", "say 1 ~ one|\n; say 2"] {
        let (looked, at) = look_at(&shifts(), program);
        assert_eq!(looked.candidates(at).1, [], "{program}");
    }
}

#[test]
fn a_place_inside_the_end_of_a_line_is_a_place() {
    let (looked, at) = look_at(&ways(), "let level = 1;\r|\nlet = 3");
    assert!(looked.call_at(at).is_none());
    let (_, offered) = looked.candidates(at);
    assert!(offered.iter().any(|one| one.text == "level"));
}

pub fn tidied(language: &Language, text: &str) -> String {
    let looked = look(language, text);
    let blanks = looked.tidied(&Indent::of_blanks(2)).unwrap();
    let mut out = text.to_owned();
    for (span, blanks) in blanks.iter().rev() {
        out.replace_range(span.range(), blanks);
    }
    out
}

#[test]
fn lines_stand_as_deep_as_what_they_are_in() {
    let language = ways();
    let rough = "\n\nway due(tons) {\n      tons + 1;   \n\n\n\n   twice(\ntons,\n2\n)\n  };\nlet total =\ndue(3)   +\n 4;\ndue(\n5)";
    let neat = "way due(tons) {\n  tons + 1;\n\n  twice(\n    tons,\n    2\n  )\n};\nlet total =\n  due(3) +\n  4;\ndue(\n  5)";
    assert_eq!(tidied(&language, rough), neat);
    assert_eq!(tidied(&language, neat), neat);
}

#[test]
fn what_is_set_under_each_other_stays_so() {
    let text = "let a  = 1;\nlet bb = 2;\nlet c =   3";
    assert_eq!(tidied(&ways(), text), "let a  = 1;\nlet bb = 2;\nlet c = 3");
}

#[test]
fn words_that_end_blocks_stand_as_deep_as_what_begins_them() {
    let language = common::with_tokens(
        r#"
usual Program, Words, Number, Variable, Let
form When in Step
  written  "when" test:Expr "do" steps:Step* by ";" ("else" others:Step* by ";")? "done"
"#,
    );
    let rough = "when 1 do\n~ first\nlet a = 1;\n     let b = 2\n ~ last\nelse\nwhen 2 do\nlet c = 3\n done ~ so\ndone";
    let neat = "when 1 do\n  ~ first\n  let a = 1;\n  let b = 2\n  ~ last\nelse\n  when 2 do\n    let c = 3\n  done ~ so\ndone";
    assert_eq!(tidied(&language, rough), neat);
}

#[test]
fn a_wrong_program_is_not_put_in_order() {
    let looked = look(&ways(), "let a = 1;\nlet = 2");
    let why = looked.tidied(&Indent::of_tabs()).unwrap_err();
    assert!(why.starts_with("the program is wrong in line 2: "), "{why}");
    assert_eq!(tidied(&ways(), "  let a = unknown"), "let a = unknown");
    let (looked, at) = look_at(&ways(), "way due(tons) {\n  twice(\n|tons");
    let step = Indent::of_blanks(2);
    assert_eq!(looked.begun_line(at, &step).unwrap().1, "    ");
}
