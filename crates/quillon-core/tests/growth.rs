//! Costs grow with the text: each stage at eight times as much asks for at most twelve times as many
//! bytes of memory, and a run takes at most twelve times as many steps. Counted, not timed.
//!
//! A program of its own, since it counts what the whole process asks for.
#![allow(
    unsafe_code,
    reason = "an allocator that counts can be written in no other way"
)]

use std::alloc::{GlobalAlloc, Layout, System};
use std::cell::Cell;
use std::sync::Arc;

use quillon_core::definition::read_cases;
use quillon_core::native_stack::on_deep_stack;
use quillon_core::printing::{Brackets, Comments};
use quillon_core::profiling::profile;
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

thread_local! {
    static ASKED: Cell<u64> = const { Cell::new(0) };
}

/// The allocator of the system, which also counts the bytes that each thread asks for.
struct Counting;

fn count(bytes: usize) {
    // At the end of a thread there is nothing to count any more.
    let _ = ASKED.try_with(|asked| asked.set(asked.get() + bytes as u64));
}

// SAFETY: everything is done by the allocator of the system.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        count(layout.size());
        unsafe { System.alloc(layout) }
    }

    unsafe fn dealloc(&self, place: *mut u8, layout: Layout) {
        unsafe { System.dealloc(place, layout) }
    }

    unsafe fn realloc(&self, place: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        count(size);
        unsafe { System.realloc(place, layout, size) }
    }
}

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// The bytes that some work asks for.
fn asked<T>(work: impl FnOnce() -> T) -> u64 {
    let before = ASKED.get();
    drop(work());
    ASKED.get() - before
}

/// A text made of a piece for each number.
fn each(count: usize, piece: impl Fn(usize) -> String) -> String {
    let pieces: Vec<String> = (0..count).map(piece).collect();
    pieces.concat()
}

fn towpath() -> Language {
    let text = include_str!("../../../languages/towpath/towpath.quillon");
    Language::from_text("towpath.quillon", text).expect("the demo is right")
}

fn gauge() -> Language {
    let text = include_str!("../../../languages/gauge/gauge.quillon");
    Language::from_text("gauge.quillon", text).expect("the language is right")
}

/// A kind of text: what it is called, a size, and the text of a size.
type Shape = (&'static str, usize, fn(usize) -> String);

/// A stage: what it is called, and the work it does on a text.
type Stage = (&'static str, fn(&Language, &Arc<SourceText>));

const STAGES: [Stage; 8] = [
    ("tokens", |language, source| {
        language.tokens(source);
    }),
    ("tree", |language, source| {
        language.tree(source, Reading::Program);
    }),
    ("names", |language, source| {
        if let Some(tree) = language.tree(source, Reading::Program).value {
            language.names(&tree, Around::Nothing);
        }
    }),
    ("core", |language, source| {
        language.compiled(source, Around::Nothing, Reading::Program);
    }),
    ("code", |language, source| {
        language.code(source, Around::Nothing, Reading::Program);
    }),
    ("source", |language, source| {
        if let Some(tree) = language.tree(source, Reading::Program).value {
            let comments: Comments = language.comments(source);
            language.source_of(&tree, Brackets::Fewest, &comments);
        }
    }),
    ("unfinished", |language, source| {
        language.is_unfinished(source);
    }),
    ("run", |language, source| {
        let mut session = language
            .session()
            .start(Recorder::default())
            .expect("a session");
        session.run_source(source, Reading::Program);
    }),
];

/// Each stage of a language on a text of some size, and of eight times that.
fn grows_with_the_text(language: &Language, what: &str, size: usize, text: fn(usize) -> String) {
    let (small, large) = (text(size), text(8 * size));
    let [small, large] = [small, large].map(|text| SourceText::new("program", text));
    // Lines are indented for each level that they are deep.
    let is_indented = ["nested blocks", "nested functions"].contains(&what);
    let stages = STAGES.iter();
    for (stage, work) in stages.filter(|(stage, _)| !(is_indented && *stage == "source")) {
        // What is made once, and kept, is made before.
        work(language, &small);
        let (little, much) = (
            asked(|| work(language, &small)),
            asked(|| work(language, &large)),
        );
        assert!(
            much <= 12 * little + 100_000,
            "{stage} of {what}: {little} bytes for {size}, {much} for eight times as much"
        );
    }
}

#[test]
fn stages_grow_with_the_program() {
    on_deep_stack(|| {
        let language = towpath();
        let shapes: [Shape; 11] = [
            ("statements", 400, |n| "say 1 + 2 * 3\n".repeat(n)),
            ("bindings", 400, |n| {
                each(n, |i| format!("let v{i} be {i}\n"))
            }),
            ("bindings of one name", 400, |n| {
                "let v be 1 when yes { let v be 2 say v }\n".repeat(n)
            }),
            ("functions", 200, |n| {
                each(n, |i| format!("way f{i}(a, b) {{ answer a + b + {i} }}\n"))
            }),
            ("a long sum", 400, |n| format!("say 1{}", " + 1".repeat(n))),
            ("a long list", 400, |n| {
                format!("say [1{}]", ", 1".repeat(n))
            }),
            ("a long text", 20_000, |n| {
                format!("say \"{}\"", "x".repeat(n))
            }),
            ("nested brackets", 100, |n| {
                format!("say {}1{}", "(".repeat(n), ")".repeat(n))
            }),
            ("nested blocks", 100, |n| {
                format!("{}{}", "when yes { let a be 1 ".repeat(n), "}".repeat(n))
            }),
            ("nested functions", 60, |n| {
                let opened = each(n, |i| format!("way f{i}(a) {{ let b{i} be a "));
                format!("{opened}{}", "}".repeat(n))
            }),
            ("comments", 400, |n| "~ a remark\nsay 1\n".repeat(n)),
        ];
        for (what, size, text) in shapes {
            grows_with_the_text(&language, what, size, text);
        }
    });
}

#[test]
fn what_is_said_of_a_wrong_program_grows_with_it() {
    on_deep_stack(|| {
        let language = towpath();
        let shapes: [Shape; 6] = [
            ("unbound names", 100, |n| "say nobody\n".repeat(n)),
            ("names that read alike", 60, |n| {
                each(n, |i| format!("let boat{i} be 1\nsay boot{i}\n"))
            }),
            ("wrong statements", 100, |n| "say + 1\n".repeat(n)),
            ("unknown characters", 400, |n| "$ ".repeat(n)),
            ("open blocks", 100, |n| "when yes {\n".repeat(n)),
            ("closers alone", 200, |n| "}\n".repeat(n)),
        ];
        for (what, size, text) in shapes {
            grows_with_the_text(&language, what, size, text);
        }
    });
}

#[test]
fn types_grow_with_the_program() {
    on_deep_stack(|| {
        let language = gauge();
        let text = |n: usize| -> String {
            let more = each(n - 1, |i| format!("let l{} = [l{i}]\n", i + 1));
            format!("let l0 = [1]\n{more}")
        };
        let work = |n: usize| {
            let source = SourceText::new("program", text(n));
            asked(|| language.compiled(&source, Around::Nothing, Reading::Program))
        };
        work(20);
        let (little, much) = (work(60), work(480));
        assert!(
            much <= 12 * little + 100_000,
            "{little} bytes, {much} bytes"
        );
    });
}

#[test]
fn a_definition_grows_with_its_forms() {
    let text = |n: usize| -> String {
        let head =
            "language Own\n  starts S\n\ntokens\n  Blank  [ \\n]+  ignored\n  Name  letter+\n\n";
        let form = |i| format!("form F{i} in S\n  written  \"w{i}\" name:Name\n  means    {i}\n\n");
        format!("{head}{}", each(n, form))
    };
    let work = |n: usize| {
        let source = SourceText::new("own.quillon", text(n));
        asked(|| Language::load(&source).value.expect("it is right"))
    };
    work(10);
    let (little, much) = (work(30), work(240));
    // Each state of the parser has a set of the terminals, a bit for each.
    assert!(much <= 20 * little, "{little} bytes, {much} bytes");
}

#[test]
fn case_files_grow_with_their_cases() {
    let work = |n: usize| {
        let text = "case a toll\n  | say 1 + 2\n  prints \"3\"\n\n".repeat(n);
        let source = SourceText::new("own.cases", text);
        asked(|| read_cases(&source))
    };
    work(10);
    let (little, much) = (work(100), work(800));
    assert!(much <= 12 * little + 50_000, "{little} bytes, {much} bytes");
}

/// How many instructions a program takes.
fn instructions(language: &Language, program: String) -> u64 {
    let source = SourceText::new("program", program);
    let session = language.session().counted();
    let mut session = session.start(Recorder::default()).expect("a session");
    let outcome = profile(&mut session, &source, Reading::Program);
    outcome.value.expect("it runs").instructions
}

#[test]
fn runs_take_as_many_instructions_as_they_have_turns() {
    let language = towpath();
    let programs: [fn(usize) -> String; 4] = [
        |n| format!("let s be 0 count i from 1 to {n} {{ change s to s + i }} say s"),
        |n| {
            format!(
                "way down(n) {{ when n < 1 {{ answer 0 }} answer 1 + down(n - 1) }} say down({n})"
            )
        },
        |n| format!("let l be [] count i from 1 to {n} {{ do add(l, i) }} each x in l {{ do x }}"),
        |n| format!("let t be \"\" count i from 1 to {n} {{ change t to t & i }} say length(t)"),
    ];
    for program in programs {
        let (little, much) = (
            instructions(&language, program(100)),
            instructions(&language, program(800)),
        );
        assert!(much <= 9 * little, "{}: {little}, {much}", program(100));
        let run = |n| {
            let source = SourceText::new("program", program(n));
            let mut session = language
                .session()
                .start(Recorder::default())
                .expect("a session");
            asked(|| session.run_source(&source, Reading::Program))
        };
        run(100);
        let (little, much) = (run(500), run(4000));
        assert!(
            much <= 12 * little + 100_000,
            "{}: {little}, {much} bytes",
            program(500)
        );
    }
}
