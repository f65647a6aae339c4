//! Programs that are made up for a language.

use crate::common;
use crate::common::language;
use crate::testing::own;
use quillon_core::source::SourceText;
use quillon_core::testing::{Generator, Trial, shrink};
use quillon_core::{Engine, Language, Prepared};

/// Languages of very different looks.
fn languages() -> Vec<Language> {
    let lines = "language Lines
  layout lines
tokens
  Blank [ \\t]+ ignored
  Whole digit+ holds integer
  Name letter+
form Program
  written  steps:Step*
  opens    scope
  means    all steps
form Keep in Step
  written  value:Expr \"->\" name:Name LineEnd
  binds    name onward
  means    name := value
form Loop in Step
  written  \"loop\" LineEnd body:Step* \"end\" LineEnd
  opens    scope around body
  means    landing out { all body }
form Out in Step
  written  \"out\" LineEnd
  means    jump out
usual Variable, Number
messages
  out unmatched \"nowhere to go out of\"
";
    let blocks = "language Blocks
  layout indentation
tokens
  Blank [ \\t]+ ignored
  Whole digit+ holds integer
  Name letter+
precedence of Expr, loosest first
  left Sum
form Program
  written  steps:Step* by LineEnd trailing
  opens    scope
  means    all steps
form Def in Step
  written  \"def\" name:Name \"(\" params:Name* by \",\" \")\" body:Body
  binds    name throughout
  binds    params in body
  means    name := function (params) { body }
form Body
  written  \":\" Indent steps:Step+ by LineEnd Dedent
  opens    scope
  means    all steps
form Give in Step
  written  value:Expr
  means    value
form Sum in Expr
  written  left:Expr \"+\" right:Expr
  means    left + right
usual Variable, Number
";
    let signs = "language Signs
tokens
  Blank [ \\n]+ ignored
form Program
  written  steps:Step*
  means    all steps
form Up in Step
  written  \"+\"
  means    nothing
form Around in Step
  written  \"[\" steps:Step* \"]\"
  means    all steps
";
    vec![own(), language(lines), language(blocks), language(signs)]
}

#[test]
fn made_up_programs_keep_the_rules_and_are_always_the_same() {
    for own in languages() {
        let name = own.definition().name.text.clone();
        let generator = Generator::new(&own, None).unwrap();
        let mut lengths = Vec::new();
        for seed in 0..60 {
            let text = generator
                .program(seed, 30)
                .unwrap_or_else(|| panic!("{name}: seed {seed} makes nothing"));
            assert_eq!(generator.program(seed, 30).as_ref(), Some(&text));
            let source = SourceText::new("made up", text.clone());
            let compiled = own.compiled(
                &source,
                quillon_core::scoping::Around::Nothing,
                quillon_core::Reading::Program,
            );
            assert_eq!(
                compiled
                    .diagnostics
                    .iter()
                    .map(common::said)
                    .collect::<Vec<_>>(),
                [""; 0],
                "{name}: {text}"
            );
            let prepared = Prepared::new(&own);
            let found = quillon_core::testing::properties(&Trial::of(&prepared, &source));
            assert!(found.is_empty(), "{name}: {text}\n{found:?}");
            lengths.push(text.len());
        }
        lengths.sort_unstable();
        lengths.dedup();
        assert!(
            lengths.len() > 5,
            "{name}: they are too much alike: {lengths:?}"
        );
    }
}

#[test]
fn plausible_programs_run_and_use_ordinary_words() {
    for own in languages() {
        let name = own.definition().name.text.clone();
        let generator = Generator::plausible(&own, None).unwrap();
        let prepared = Prepared::new(&own);
        let mut lengths = 0;
        for seed in 0..20 {
            let text = generator
                .program(seed, 30)
                .unwrap_or_else(|| panic!("{name}: seed {seed} makes nothing"));
            assert_eq!(generator.program(seed, 30).as_ref(), Some(&text));
            let source = SourceText::new("made up", text.clone());
            let ran = Trial::of(&prepared, &source).run(Engine::Machine);
            let errors: Vec<String> = ran.errors.iter().map(common::said).collect();
            assert_eq!(errors, [""; 0], "{name}: {text}");
            assert!(!text.contains("9223372036854775807"), "{name}: {text}");
            let is_ordinary = |c: char| c.is_ascii_graphic() || c.is_whitespace();
            assert!(text.chars().all(is_ordinary), "{name}: {text}");
            lengths += text.len();
        }
        assert!(lengths > 20 * 10, "{name}: next to nothing is left of them");
    }
}

#[test]
fn a_sort_that_may_not_stand_alone_is_refused() {
    let own = own();
    let problem = Generator::new(&own, Some("Expr")).unwrap_err();
    assert_eq!(problem.message, "`Expr` may not stand alone");
}

#[test]
fn programs_shrink_to_what_matters() {
    let own = own();
    let generator = Generator::new(&own, None).unwrap();
    let long = "let a = 1 ; say 2 * (3) ; say a + 4 * 7 + 2 ; raise 3 ; choose a or \"gate\"";
    let long = long.replace("(3)", "3");
    let keeps = |wanted: &'static str| move |text: &str| text.contains(wanted);
    assert_eq!(shrink(&generator, &long, keeps("*")), "4 * 7");
    assert_eq!(shrink(&generator, &long, keeps("\"gate\"")), "\"gate\"");
    assert_eq!(shrink(&generator, &long, keeps("or")), "choose a or 0");
    assert_eq!(shrink(&generator, &long, |_| false), long);
}
