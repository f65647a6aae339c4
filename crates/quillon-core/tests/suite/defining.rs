//! What an editor asks of definitions and case files.

use quillon_core::editing::{
    Cased, Described, ItemKind, Role, around_in_notation, begun, colours_of_notation,
};
use quillon_core::source::{SourceText, Span};

#[test]
fn the_names_of_a_definition_lead_to_what_they_name() {
    let text = "language Own
tokens
  Name  letter+
form Program
  written  steps:Step* by \";\"
  means    all steps
form Set in Step
  written  name:Name \"to\" value:Step
  binds    name onward
  means    joined(name, value)
form Get in Step
  written  name:Name
  uses     name
  means    number.floor(1)
define joined(a, b) = a & b
";
    let source = SourceText::new("own.quillon", text);
    let described = Described::new(&source);
    let items: Vec<(&str, ItemKind)> = described
        .items()
        .iter()
        .map(|one| (&one.name[..], one.kind))
        .collect();
    assert_eq!(
        items,
        [
            ("language Own", ItemKind::Other),
            ("tokens", ItemKind::Other),
            ("Program", ItemKind::Form),
            ("Set", ItemKind::Form),
            ("Get", ItemKind::Form),
            ("joined", ItemKind::Helper),
        ]
    );
    let at = |text_before: &str| (text.find(text_before).unwrap() + text_before.len()) as u32;
    let line = |offset: u32| {
        described
            .defined_at(offset)
            .map(|span| source.line_of(span.start))
    };
    assert_eq!(
        line(at("steps:St")),
        Some(7),
        "a sort leads to its first form"
    );
    assert_eq!(line(at("name:Na")), Some(3), "a token to its line");
    assert_eq!(
        line(at("means    joi")),
        Some(15),
        "a helper to where it is defined"
    );
    assert_eq!(
        line(at("binds    na")),
        Some(8),
        "a field to where it is written"
    );
    assert_eq!(
        described.standings(at("binds    na")).len(),
        3,
        "a field is its form's own"
    );
    assert_eq!(described.standings(at("name:Na")).len(), 3);
    let about = described.about(at("number.fl")).map(|(_, about)| about);
    assert!(about.is_some_and(|about| about.starts_with("`number.floor`: ")));
    let offered = |offset: u32| described.candidates(offset).1;
    assert!(offered(at("Own\n")).contains(&"tokens".to_owned()));
    assert!(offered(at("form Program\n  ")).contains(&"written".to_owned()));
    assert!(offered(at("value:S")).contains(&"Step".to_owned()));
    assert!(offered(at("means    jo")).contains(&"joined".to_owned()));
}

#[test]
fn a_case_file_knows_what_its_definition_names() {
    let definition = "language Own\ntokens\n  Whole digit+ holds integer\nform Add in Expr\n  written left:Expr \"+\" right:Expr\nform Number in Expr\n  written value:Whole\n";
    let described = Described::new(&SourceText::new("definition", definition));
    let text = "case Add is not a name here\n  program\n    | Add(right: 1)\n  tree Add(Number(1), right: Add(left: 2, right: 3))\n  tokens [Whole(1)]\ncases of one line\n  `1 + 2`   gives \"Add\"   tree Add(1, right: 2)\n";
    let cased = Cased::new(&SourceText::new("cases", text));
    let at = |what: &str| text.find(what).unwrap() as u32;
    let starts = |spans: Vec<Span>| -> Vec<String> {
        let shown = |span: Span| {
            let rest = &text[span.start as usize..];
            rest.chars().take(8).collect()
        };
        spans.into_iter().map(shown).collect()
    };
    let named = |what: &str| {
        let place = definition.find(what).unwrap() as u32;
        described.named_at(place).unwrap()
    };
    assert_eq!(
        starts(cased.standings(&named("Add in"))),
        ["Add(Numb", "Add(left", "Add(1, r"]
    );
    assert_eq!(
        starts(cased.standings(&named("right:"))),
        ["right: A", "right: 3", "right: 2"]
    );
    assert_eq!(starts(cased.standings(&named("Whole digit"))), ["Whole(1)"]);
    let defined = cased.defined_at(at("right: A"), &described).unwrap();
    assert_eq!(defined.start as usize, definition.find("right:").unwrap());
    let about = |what: &str| cased.about(at(what), &described).map(|(_, said)| said);
    assert_eq!(
        about("Whole(1)"),
        Some("`Whole digit+ holds integer`".to_owned())
    );
    assert!(
        about("tokens")
            .unwrap()
            .starts_with("`tokens`: the tokens are these")
    );
    assert_eq!(about("Add is"), None);
    let (_, offered) = cased.candidates(at("Number(1)") + 2, &described);
    assert_eq!(offered, ["Number"]);
    let (_, offered) = cased.candidates(at("tokens [") + 2, &described);
    assert_eq!(offered, ["tokens"]);
}

/// What each word of a text is, as `word role`.
fn roles(text: &str, definition: &str) -> Vec<String> {
    let source = SourceText::new("own", text);
    let described = Described::new(&SourceText::new("definition", definition));
    let role = |role: Role| match role {
        Role::Name { what, binds, .. } => format!("{what:?}{}", if binds { "!" } else { "" }),
        other @ (Role::Keyword
        | Role::Operator
        | Role::Number
        | Role::Text
        | Role::Kind
        | Role::Comment) => format!("{other:?}"),
    };
    let all = colours_of_notation(&source, &described).into_iter();
    all.map(|one| format!("{} {}", source.slice(one.span), role(one.role)))
        .collect()
}

#[test]
fn every_word_of_a_definition_has_a_role() {
    let text = "language Sill
tokens
  Whole  digit+ [a-z]  holds integer  -- a number
-- what opens
form Open in Step
  written  \"open\" feet:Whole
  means    let wide = list.length(feet); doubled(wide) + 1; level := wide
  example
    | open  3
    prints \"3\"
define doubled(n) = n * 2
state
  level = 0
";
    let roles = roles(text, text);
    let has = |wanted: &str| assert!(roles.contains(&wanted.to_owned()), "{wanted}: {roles:#?}");
    for wanted in [
        "language Keyword",
        "tokens Keyword",
        "Whole Kind",
        "[a-z] Text",
        "holds Keyword",
        "-- a number Comment",
        "-- what opens Comment",
        "form Keyword",
        "Open Kind",
        "in Keyword",
        "Step Kind",
        "written Keyword",
        "\"open\" Text",
        "feet Parameter!",
        "feet Parameter",
        "means Keyword",
        "let Keyword",
        "wide Variable",
        "length BuiltInFunction",
        "doubled Function",
        "1 Number",
        ":= Operator",
        "level Variable",
        "| open  3 Text",
        "prints Keyword",
        "n Variable",
    ] {
        has(wanted);
    }
    let mut last = 0;
    let described = Described::new(&SourceText::new("own", text));
    for one in colours_of_notation(&SourceText::new("own", text), &described) {
        assert!(one.span.start >= last, "in order, none in another");
        last = one.span.end;
    }
}

#[test]
fn every_word_of_a_case_file_has_a_role() {
    let definition = "form Open in Step\n  written \"open\"\n";
    let text = "cases of doors that open\n  `open`   tree Open() gives 1  -- so\ncase of two\n  program\n    | open\n  gives 1\n";
    assert_eq!(
        roles(text, definition),
        [
            "cases Keyword",
            "`open` Text",
            "tree Keyword",
            "Open Kind",
            "( Operator",
            ") Operator",
            "gives Keyword",
            "1 Number",
            "-- so Comment",
            "case Keyword",
            "program Keyword",
            "| open Text",
            "gives Keyword",
            "1 Number",
        ]
    );
}

#[test]
fn stretches_of_a_definition_lie_in_each_other() {
    let text = "language Sill\n\nform Open in Step\n  written  \"open\"\n  means    let a = 1;\n           a + 1\n\nform Shut in Step\n";
    let source = SourceText::new("own", text);
    let at = text.find("+ 1").unwrap() as u32;
    let around = around_in_notation(&source, at);
    let around: Vec<&str> = around.iter().map(|span| source.slice(*span)).collect();
    assert_eq!(around[..2], ["+", "a + 1"]);
    assert!(around[2].starts_with("means    let") && around[2].ends_with("a + 1"));
    assert!(around[3].starts_with("form Open") && around[3].ends_with("a + 1"));
    assert_eq!(around[4], text);
    assert_eq!(
        around_in_notation(&source, text.len() as u32).last(),
        around_in_notation(&source, 0).last()
    );
}

#[test]
fn the_call_in_a_meaning_is_known_while_it_is_written() {
    let call = |line: &str| {
        let head = "language Own\ndefine joined(first, second) = first & second\n\
                    form Get in Step\n  written  name:Name\n";
        let text = format!("{head}  means    {}", line.replace('^', ""));
        let source = SourceText::new("own.quillon", text.as_str());
        let before = &line[..line.find('^').expect("a place")];
        let offset = (head.len() + "  means    ".len() + before.len()) as u32;
        Described::new(&source).call_at(offset).map(|call| {
            format!(
                "{}({}) {}",
                call.function,
                call.parameters.join(", "),
                call.argument
            )
        })
    };
    let told = |text: &str| Some(text.to_owned());
    assert_eq!(call("joined(^"), told("joined(first, second) 0"));
    assert_eq!(
        call("joined(\"a, (b\", ^name)"),
        told("joined(first, second) 1"),
        "signs in a quoted text are none"
    );
    assert_eq!(
        call("integer.clamped(joined(name, [1, 2]), ^"),
        told("integer.clamped(n, low, high) 1"),
        "what is closed is not around the place"
    );
    assert_eq!(call("output(1, 2, 3, ^"), told("output(value) 0"));
    assert_eq!(
        call("joined([name, (^"),
        told("joined(first, second) 0"),
        "brackets without a name before them are part of the argument"
    );
    assert_eq!(call("joined(name, name) & ^"), None);
    assert_eq!(call("other(^"), None);
}

#[test]
fn a_line_that_is_begun_stands_where_it_goes_on() {
    let column = |text: &str| {
        let (before, after) = text.split_once('^').expect("a place");
        let source = SourceText::new("own.quillon", format!("{before}{after}"));
        begun(&source, before.len() as u32).map(|(_, blanks)| blanks.len())
    };
    let form = "form Get in Step\n  written  name:Name\n";
    assert_eq!(column("form Get in Step\n^"), Some(2), "a clause");
    assert_eq!(column(&format!("{form}^")), Some(2), "the next clause");
    assert_eq!(
        column(&format!("{form}  means    joined(name,\n^")),
        Some(13),
        "one step deeper than what the clause says"
    );
    assert_eq!(
        column(&format!("{form}  means    joined(name,\n^)")),
        Some(11),
        "what closes a bracket stands as deep as the line that opens it"
    );
    assert_eq!(column("define few(n) = {\n^"), Some(2));
    assert_eq!(column("define few(n) = {\n  match n {\n^"), Some(4));
    assert_eq!(
        column("cases for \"own.quillon\"\ncase a (title\n^"),
        Some(2)
    );
    assert_eq!(
        column(&format!("{form}  example\n    | first\n^")),
        Some(4),
        "the next line of a program"
    );
    assert_eq!(column(&format!("{form}\n^")), None, "all is open");
    assert_eq!(column("^"), None);
    assert_eq!(column("tokens\n  Name letter+\n^"), Some(2));
}
