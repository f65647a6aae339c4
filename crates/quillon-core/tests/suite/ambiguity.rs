//! Ambiguity is found before any program meets it, and shown with both readings.

use std::time::Duration;

use crate::common::{language, mistakes, tree, with_tokens};
use quillon_core::printing::Brackets;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

const LIMIT: Duration = Duration::from_secs(60);

/// What the search says: each text with its readings and what would settle it.
pub fn found(language: &Language) -> Vec<String> {
    let findings = language.ambiguities(LIMIT);
    assert!(!findings.cut_short);
    findings
        .diagnostics
        .iter()
        .map(|d| {
            format!(
                "{}: {}; {}",
                d.message,
                d.why.join("; "),
                d.remedies.join("")
            )
        })
        .collect()
}

const ATOMS: &str = "
form Number in Expr
  written  value:Whole
form Group in Expr
  written  \"(\" inner:Expr \")\"
  becomes  inner
";

#[test]
fn operators_without_a_table_are_shown_in_brackets() {
    let own = with_tokens(&format!(
        "form Add in Expr\n  written  left:Expr \"+\" right:Expr\n{ATOMS}"
    ));
    assert_eq!(
        found(&own),
        [
            "`0 + 0 + 0` can be read in two ways: as  `(0 + 0) + 0`   Add(Add(Number(0), Number(0)), Number(0)); or  `0 + (0 + 0)`   Add(Number(0), Add(Number(0), Number(0))); add a line `left Add` or `right Add` to `precedence of Expr`"
        ]
    );
}

#[test]
fn an_operator_missing_from_the_table_is_named() {
    let own = with_tokens(&format!(
        "precedence of Expr, loosest first\n  left  Add\nform Add in Expr\n  written  left:Expr \"+\" right:Expr\nform Minus in Expr\n  written  \"-\" value:Expr\n{ATOMS}"
    ));
    let said = found(&own);
    assert_eq!(said.len(), 1, "{said:#?}");
    assert!(
        said[0].starts_with("`- 0 + 0` can be read in two ways: as  `(-0) + 0`"),
        "{}",
        said[0]
    );
    assert!(
        said[0].ends_with("rank Minus in `precedence of Expr`, beside, above or below Add"),
        "{}",
        said[0]
    );
}

#[test]
fn lists_that_run_together_and_optional_ends_are_found() {
    let own = with_tokens(
        "form Program\n  written  steps:Step*\nform If in Step\n  written  \"if\" test:Name yes:Step (\"else\" no:Step)?\nform Open in Step\n  written  \"open\" gates:Name*\nform Bare in Step\n  written  name:Name\n",
    );
    let said = found(&own);
    assert!(
        said.iter().any(|s| s.starts_with("`open a` can be")),
        "{said:#?}"
    );
    assert!(said.iter().any(|s| s.contains("If(a, If(a, ")), "{said:#?}");
}

#[test]
fn what_needs_no_search_is_not_searched() {
    let own = language(include_str!(
        "../../../../languages/towpath/towpath.quillon"
    ));
    let findings = own.ambiguities(LIMIT);
    assert_eq!((findings.tried, findings.diagnostics.len()), (0, 0));
}

#[test]
fn a_grammar_that_only_looks_ambiguous_has_no_findings() {
    let own = with_tokens(&format!(
        "form Arrow in Expr\n  written  \"(\" params:Name* by \",\" \")\" \"=>\" body:Expr\nform Variable in Expr\n  written  name:Name\n{ATOMS}"
    ));
    assert_eq!(found(&own), [] as [&str; 0]);
}

#[test]
fn a_search_that_is_cut_short_says_so() {
    let mut forms = String::new();
    for i in 0..60 {
        forms += &format!("form F{i} in Expr\n  written  left:Expr \"o{i}\" right:Expr\n");
    }
    let own = with_tokens(&format!("{forms}{ATOMS}"));
    assert!(own.ambiguities(Duration::from_millis(5)).cut_short);
}

#[test]
fn what_can_be_read_in_two_ways_is_not_read_as_another_entry() {
    let own = language(&format!(
        "language Own\n  starts Program\n  entries Program, Step\n{}\nform Program\n  written  steps:Step+\nform Step\n  written  left:Expr (\"+\" right:Expr)? | sum:Sum\nform Sum\n  written  left:Expr \"+\" right:Expr\nform Expr\n  written  value:Whole\n",
        crate::common::TOKENS
    ));
    let source = quillon_core::source::SourceText::new("text", "1 + 2");
    let outcome = own.tree(&source, quillon_core::Reading::Entry);
    assert_eq!(outcome.diagnostics.len(), 1);
    assert_eq!(
        outcome.diagnostics[0].message,
        "`1 + 2` can be read in two ways"
    );
}

#[test]
fn operators_without_a_rank_are_one_warning_with_the_lines_to_add() {
    let binary = |name: &str, sign: &str| {
        format!(
            "form {name} in Expr\n  written  left:Expr \"{sign}\" right:Expr\n  means    left {sign} right\n"
        )
    };
    let own = with_tokens(&format!(
        "{}{}{}{ATOMS}",
        binary("Sum", "+"),
        binary("Less", "<"),
        binary("Product", "*")
    ));
    let said = found(&own);
    assert_eq!(said.len(), 1, "{said:#?}");
    assert!(said[0].starts_with("`Sum`, `Less` and `Product` have no rank, so that "));
    assert!(said[0].ends_with(
        "add `precedence of Expr, loosest first` with the lines `none Less`; `left Sum`; `left Product`"
    ));
}

/// Blocks and records that begin alike, with what more some of the forms say.
fn braces(of_block: &str, of_record: &str) -> String {
    format!(
        "
form Program
  written  steps:Step*
form Block in Step
  written  \"{{\" steps:Step* \"}}\"
{of_block}form Alone in Step
  written  value:Expr \";\"
form Sum in Expr
  written  left:Expr \"+\" right:Post
form OnePost in Expr
  written  inner:Post
  becomes  inner
form Item in Post
  written  list:Post \"[\" place:Expr \"]\"
form OneAtom in Post
  written  inner:Atom
  becomes  inner
form List in Atom
  written  \"[\" items:Expr* by \",\" \"]\"
form Record in Atom
  written  \"{{\" \"}}\"
{of_record}form Number in Atom
  written  value:Whole
"
    )
}

#[test]
fn forms_behind_layers_of_others_are_tried_side_by_side() {
    let said = found(&with_tokens(&braces("", "")));
    assert_eq!(said.len(), 1, "{said:#?}");
    assert!(
        said[0].starts_with("`{ } [0];` can be read in two ways"),
        "{said:#?}"
    );
    assert!(
        said[0]
            .ends_with("add `wins over Record` to form Block, or `wins over Block` to form Record"),
        "{said:#?}"
    );
}

#[test]
fn a_form_can_win_over_another() {
    let block = with_tokens(&braces("  wins  over Record\n", ""));
    assert_eq!(found(&block), [] as [&str; 0]);
    let record = with_tokens(&braces("", "  wins  over Block\n"));
    assert_eq!(found(&record), [] as [&str; 0]);
    let (list, item) = ("Alone(List([Number(0)]))", "Alone(Item(Record, Number(0)))");
    for (text, as_block, as_record) in [
        ("{ } [0];", format!("Block([]), {list}"), item.to_owned()),
        // Only where both can be does one win.
        (
            "{ };",
            "Alone(Record)".to_owned(),
            "Alone(Record)".to_owned(),
        ),
        (
            "{ 1; }",
            "Block([Alone(Number(1))])".to_owned(),
            "Block([Alone(Number(1))])".to_owned(),
        ),
        (
            "{ { } [0]; } 1 + { };",
            format!("Block([Block([]), {list}]), Alone(Sum(Number(1), Record))"),
            format!("Block([{item}]), Alone(Sum(Number(1), Record))"),
        ),
    ] {
        assert_eq!(
            tree(&block, text),
            format!("Program([{as_block}])"),
            "{text}"
        );
        assert_eq!(
            tree(&record, text),
            format!("Program([{as_record}])"),
            "{text}"
        );
    }
    // A long program is no slower for it, and every place is settled by itself.
    let long = "{ } [0]; ".repeat(200);
    let wanted = vec![format!("Block([]), {list}"); 200].join(", ");
    assert_eq!(tree(&block, &long), format!("Program([{wanted}])"));
}

#[test]
fn what_a_form_wins_over_is_another_form() {
    let said = |items: &str| mistakes(&format!("language Own\n{}{items}", crate::common::TOKENS));
    let own = |more: &str| {
        format!(
            "form Program\n  written  value:Whole\n{more}form Other in Program\n  written  \"o\"\n"
        )
    };
    assert_eq!(
        said(&own("  wins  over Othr\n")),
        ["12:14 there is no form `Othr`"]
    );
    assert_eq!(
        said(&own("  wins  over Program\n")),
        ["12:14 a form cannot win over itself"]
    );
    assert_eq!(
        said(&(own("  wins  over Other\n") + "  wins  over Program\n")),
        ["15:14 forms `Program` and `Other` win over each other"]
    );
}

/// A definition with a doubt, and what is offered.
fn offered(items: &str) -> (String, String) {
    let text = format!("language Own\n{}{items}", crate::common::TOKENS);
    let said = found(&language(&text));
    let remedy = said[0].rsplit("; ").next().unwrap_or_default();
    (text, remedy.to_owned())
}

#[test]
fn what_is_offered_settles_the_doubt() {
    // Both are ranked already: to rank one again would be an error.
    let (text, remedy) = offered(
        "
precedence of Expr, loosest first
  right Assign
  none  Equal
form Program
  written  value:Expr
form Assign in Expr
  written  place:Place \"=\" value:Expr
form Equal in Expr
  written  left:Expr \"=\" right:Expr
form Use in Expr
  written  name:Name
form Spot in Place
  written  name:Name
",
    );
    for line in remedy.split(", or ") {
        let words: Vec<&str> = line.split('`').collect();
        let form = line.rsplit(' ').next().unwrap_or_default();
        assert!(words[1].starts_with("wins over "), "{remedy}");
        let heading = format!("form {form} in ");
        let at = text.find(&heading).unwrap_or_else(|| panic!("{remedy}"));
        let end = at + text[at..].find('\n').unwrap_or_default();
        let changed = format!("{}\n  {}{}", &text[..end], words[1], &text[end..]);
        assert_eq!(mistakes(&changed), [] as [&str; 0], "{remedy}");
        assert_eq!(found(&language(&changed)), [] as [&str; 0], "{remedy}");
    }
}

#[test]
fn two_ways_to_one_tree_are_no_two_readings() {
    let own = with_tokens(
        "
precedence of Term, loosest first
  left Apply
form Apply in Term
  written  fn:Term arg:Term
form Use in Term
  written  name:Name
form Done in Term
  written  inner:Term \"!\"
  becomes  inner
form Noted in Term
  written  \"note\" inner:Term
  becomes  inner
",
    );
    assert_eq!(tree(&own, "a!"), "Use(a)");
    assert_eq!(tree(&own, "note a!"), "Use(a)");
    assert_eq!(tree(&own, "note note a!!"), "Use(a)");
    assert_eq!(tree(&own, "note a b!"), "Apply(Use(a), Use(b))");
    assert_eq!(tree(&own, "note note a b!!"), "Apply(Use(a), Use(b))");
    let own = with_tokens(
        "
form Sum in Term
  written  left:Term \"+\" right:Term
form Use in Term
  written  name:Name
form Done in Term
  written  inner:Term \"!\"
  becomes  inner
",
    );
    // What comes to different trees is still told.
    assert_eq!(
        tree(&own, "a + b + c!"),
        "1:1 `a + b + c` can be read in two ways"
    );
}

/// A language in which the sign of one operator stands between the operands of another.
fn shared_sign(table: &str) -> Language {
    with_tokens(&format!(
        "precedence of Expr, loosest first\n{table}
form Or in Expr
  written  left:Expr \"or\" right:Expr
form And in Expr
  written  left:Expr \"and\" right:Expr
form Not in Expr
  written  \"not\" value:Expr
form Between in Expr
  written  value:Expr \"between\" low:Expr \"and\" high:Expr
form Plus in Expr
  written  left:Expr \"+\" right:Expr
{ATOMS}"
    ))
}

#[test]
fn a_looser_operator_stands_in_brackets_where_its_sign_separates() {
    let own = shared_sign("  left Or\n  left And\n  prefix Not\n  none Between\n  left Plus\n");
    assert_eq!(found(&own), [""; 0]);
    for (text, wanted, printed) in [
        (
            "1 between 2 and 3 and 4",
            "And(Between(Number(1), Number(2), Number(3)), Number(4))",
            "1 between 2 and 3 and 4",
        ),
        (
            "1 between (2 and 3) and (4 and 5)",
            "Between(Number(1), And(Number(2), Number(3)), And(Number(4), Number(5)))",
            "1 between (2 and 3) and (4 and 5)",
        ),
        (
            "1 and 2 between 3 and 4 and 5",
            "And(And(Number(1), Between(Number(2), Number(3), Number(4))), Number(5))",
            "1 and 2 between 3 and 4 and 5",
        ),
        (
            "1 between 2 and 3 or 4 and 5",
            "Or(Between(Number(1), Number(2), Number(3)), And(Number(4), Number(5)))",
            "1 between 2 and 3 or 4 and 5",
        ),
        (
            "1 between (2 and 3 or 4) and 5",
            "Between(Number(1), Or(And(Number(2), Number(3)), Number(4)), Number(5))",
            "1 between (2 and 3 or 4) and 5",
        ),
        // One that is looser still would take the sign for what it ends with.
        (
            "1 between (2 or 3) and 4",
            "Between(Number(1), Or(Number(2), Number(3)), Number(4))",
            "1 between (2 or 3) and 4",
        ),
        (
            "(1 between 2 and 3) + 4 between (not 2) and 5",
            "Between(Plus(Between(Number(1), Number(2), Number(3)), Number(4)), Not(Number(2)), Number(5))",
            "(1 between 2 and 3) + 4 between not 2 and 5",
        ),
        (
            "not 1 + 2 between 2 + 3 and 4 + 5 and 6",
            "And(Not(Between(Plus(Number(1), Number(2)), Plus(Number(2), Number(3)), Plus(Number(4), Number(5)))), Number(6))",
            "not 1 + 2 between 2 + 3 and 4 + 5 and 6",
        ),
        (
            "1 between (not 2 and 3) and 4",
            "Between(Number(1), And(Not(Number(2)), Number(3)), Number(4))",
            "1 between (not 2 and 3) and 4",
        ),
    ] {
        is_read_and_printed(&own, text, wanted, printed);
    }
}

/// A text is read as this tree and printed back so with the fewest brackets, and that is read as the
/// same.
fn is_read_and_printed(own: &Language, text: &str, wanted: &str, printed: &str) {
    assert_eq!(tree(own, text), wanted, "{text}");
    let source = SourceText::new("own", text);
    let parsed = own.tree(&source, Reading::Entry).value.unwrap();
    let back = own.source_of(&parsed, Brackets::Fewest, &own.comments(&source));
    assert_eq!(back.unwrap().trim_end(), printed);
    assert_eq!(tree(own, printed), wanted, "{printed}");
}

#[test]
fn a_tighter_operator_takes_a_sign_that_separates_first() {
    let own = shared_sign("  left Or\n  prefix Not\n  none Between\n  left And\n  left Plus\n");
    assert_eq!(found(&own), [""; 0]);
    for (text, wanted, printed) in [
        (
            "1 between 2 and 3",
            "Between(Number(1), Number(2), Number(3))",
            "1 between 2 and 3",
        ),
        (
            "1 between 2 and 3 and 4",
            "Between(Number(1), And(Number(2), Number(3)), Number(4))",
            "1 between 2 and 3 and 4",
        ),
        (
            "1 between 2 and (3 and 4)",
            "Between(Number(1), Number(2), And(Number(3), Number(4)))",
            "1 between 2 and (3 and 4)",
        ),
        (
            "1 and 2 between 3 and 4 or 5",
            "Or(Between(And(Number(1), Number(2)), Number(3), Number(4)), Number(5))",
            "1 and 2 between 3 and 4 or 5",
        ),
    ] {
        is_read_and_printed(&own, text, wanted, printed);
    }
}
