//! Every instruction is one that the compiler emits somewhere.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use crate::common::{general, quay, with_tokens};
use quillon_core::bytecode::{Op, listing};
use quillon_core::scoping::{Around, Kept};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

/// The instructions of a program, if it is one of the language.
fn instructions(
    language: &Language,
    program: &str,
    around: Around<'_>,
    reading: Reading<'_>,
) -> Vec<&'static str> {
    let source = SourceText::new("text", program);
    let Some(code) = language.code(&source, around, reading).value else {
        return Vec::new();
    };
    let listing = listing(&code, language.definition());
    let lines = listing.functions.iter().flat_map(|f| &f.lines);
    lines.map(|line| line.mnemonic).collect()
}

/// What the programs beside the definitions of the repository are compiled to.
fn of_the_repository(found: &mut BTreeSet<&'static str>) {
    let languages = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    for folder in fs::read_dir(languages).unwrap().flatten() {
        let name = folder.file_name().into_string().unwrap();
        let Ok(text) = fs::read_to_string(folder.path().join(format!("{name}.quillon"))) else {
            continue;
        };
        let language = Language::load(&SourceText::new(name, text)).value.unwrap();
        for program in fs::read_dir(folder.path().join("programs")).unwrap() {
            let program = fs::read_to_string(program.unwrap().path()).unwrap();
            found.extend(instructions(
                &language,
                &program,
                Around::Nothing,
                Reading::Program,
            ));
        }
    }
}

/// What programs of a language are compiled to, each of which is one.
fn of(language: &Language, around: Around<'_>, programs: &[&str]) -> BTreeSet<&'static str> {
    let each = programs.iter().flat_map(|program| {
        let made = instructions(language, program, around, Reading::Entry);
        assert!(!made.is_empty(), "{program}");
        made
    });
    each.collect()
}

/// Meanings that make what is left.
const MEANINGS: &[&str] = &[
    "{ let x = cell; let f = function () { x := x + 1 }; call f; x }",
    "{ let x = cell; [x - 0.5, x / 0.5, 1 / x, -x, not (x = 1), x /= 1, not cell] }",
    "{ let x = cell; let y = cell + 1; [x / y, x <= y, x > y, x >= y] }",
    "{ let x = cell; let y = cell + 1; [integer.quotient(x, y), integer.remainder(x, y)] }",
    "{ let x = cell; let y = cell + 1; [integer.floor_quotient(x, y), integer.modulo(x, y), integer.modulo(x, 7), integer.remainder(x, 7)] }",
    "{ let x = cell; let y = cell + 1; while x > y { x := y }; while x >= y { x := y } }",
    "{ let x = cell; while x < 0.5 { x := 1 }; while x <= 0.5 { x := 1 }; while x >= 0.5 { x := 1 } }",
    "{ let x = cell; let y = cell; while x < y { x := x + 1 }; while x <= y { x := x + 1 } }",
    "{ let x = cell; while x < 9 { x := x + 1 }; while x <= 9 { x := x + 1 } }",
    "{ let x = cell; while x < 100000 { x := x + 1 }; while x <= 100000 { x := x + 1 } }",
    "match cell { text t => t  list l => l }",
    "list.take(cell)",
    "{ each n in list.range(cell, 3) { cell := n } }",
    "{ let x = cell; if match x { truth t => t  else => false } { 1 } else { 2 } }",
    "{ let x = cell; match x { list l => list.put(l, 0, 1)  else => 0 }; match x { list l => list.at(l, 0)  else => 0 } }",
    "{ let x = cell; [match cell { text t => t  else n => n + 1 }, match cell { text t => t  else n => n + x }] }",
    "{ let n = cell; { let i = number.floor(n); if i /= n { fault \"none\" at n }; i } }",
    "{ let x = cell; let n = cell; match x { list l => list.put(l, { let i = number.floor(n); if i /= n { fault \"none\" at n }; i }, 1)  else => 0 }; match x { list l => list.at(l, { let i = number.floor(n); if i /= n { fault \"none\" at n }; i })  text t => text.at(t, { let i = number.floor(n); if i /= n { fault \"none\" at n }; i })  else => 0 } }",
    "{ let f = function (x, y) { x }; let l = [cell, cell]; list.call(l, f) }",
    "{ let f = function (l) { let a = list.take_first(l); if list.length(l) > 0 { list.take_first(l) } else { a } }; call f with [cell] }",
    "{ let g = function (l) { list.at(l, 0) }; let f = function (x) { call g with [x] }; call f with 1 }",
    "{ let g = function (l) { list.at(l, 0) }; let f = function (x) { (call g with [x]) + 1 }; call f with 1 }",
    "match cell { text t => t  else n => n - 1 }",
    "{ let x = cell; demand x fits number }",
    "{ let x = cell; if map.has(x, \"a\") { map.put(x, \"a\", 1) } else { fault \"none\" at x }; x }",
    "{ let x = cell; if match x { text => false  else => x = 1 } { 1 } else { 2 } }",
    "{ let x = cell; let y = cell; if match x { text => false  else => match y { text => false  else => x = y } } { 1 } else { 2 } }",
    "list.sort_by([cell, 1], function (x, y) { x < y })",
    "coroutine.resume(coroutine.make(function () { 1 }), cell)",
    "attempt { cell } always { cell := 2 }",
    "module.load(\"other\")",
];

#[test]
fn every_instruction_is_emitted_somewhere() {
    let mut found = BTreeSet::new();
    of_the_repository(&mut found);
    let shared = "fn(a) { let f = fn() { a := a + 1 }; f }";
    found.extend(of(&general(), Around::Nothing, &[shared]));
    let level = Kept {
        name: "level".to_owned(),
        fixed: false,
        dynamic: false,
        space: String::new(),
        awaited: false,
    };
    let kept = &["level := level + 1"];
    found.extend(of(&general(), Around::Session(&[level]), kept));
    let tides = "dyn rise = 1; fun f(a) { dyn rise = 2; @rise }; f(1)";
    let turns = "fun f(a) { f(a + 1) }; f(1)";
    found.extend(of(&quay(), Around::Nothing, &[tides, turns]));
    for meaning in MEANINGS {
        let items = format!(
            "state\n  cell = 1\nform Program\n  written \"run\" name:Name a:Whole b:Whole\n  binds name onward\n  means {meaning}\n"
        );
        let language = with_tokens(&items);
        found.extend(of(&language, Around::Nothing, &["run it 3 4"]));
    }
    let all = Op::ALL.iter().map(|op| op.description().mnemonic);
    let missing: Vec<&str> = all.filter(|name| !found.contains(name)).collect();
    // The machine itself puts `stop` at the bottom of its stack.
    assert_eq!(missing, ["stop"]);
}
