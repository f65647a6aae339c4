//! What anyone may have written does no harm: files out of reach stay so, files that are written are
//! there whole, and a terminal gets nothing to act on.

use std::io::Write;

use crate::common::{Folder, kept_languages, program};

/// A language with files, other programs, texts and lists.
const OWN: &str = r#"language Own
  reads    ".own"
  starts   Program
  entries  Program, Expr

tokens
  Blank   [ \t\r\n]+               ignored
  Whole   digit+                   holds integer
  Text    '"' [^"]* '"'            holds text
  Name    letter (letter | digit)*

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value

form Say in Step
  written  "say" value:Expr
  means    output(shown(value), "\n")

form Forever in Step
  written  "forever" "{" body:Step "}"
  means    while true { body }

form Alone in Step
  written  value:Expr
  means    value

form Call in Expr
  written  callee:Name ~ "(" args:Expr* by "," ")"
  uses     callee
  means    call callee with args

form Number in Expr
  written  value:Whole
  means    value

form Words in Expr
  written  value:Text
  means    value

form Variable in Expr
  written  name:Name
  uses     name
  means    name

provides
  load(path)        means map.length(module.load(path))
  read(path)        means file.read(path)
  write(path, text) means file.write(path, text)
  there(path)       means file.exists(path)
  repeat(t, n)      means text.repeat(t, n)
  fail(t)           means fault t
"#;

fn folder() -> Folder {
    Folder::with_definition(OWN)
}

#[test]
fn programs_are_loaded_from_their_own_folder_and_below() {
    let folder = folder();
    folder.write("work/part.own", "let a = 1; let b = 2");
    folder.write(
        "work/deep/inner.own",
        "let c = load(\"../part.own\"); let d = 1",
    );
    folder.write("secret.own", "let s = 1");
    let run = |text: &str, more: &[&str]| {
        folder.write("work/main.own", text);
        folder.quillon(&[&["run", "--value", "work/main.own"], more].concat())
    };
    assert_eq!(run("load(\"part.own\")", &[]).out, "2\n");
    assert_eq!(run("load(\"deep/inner.own\")", &[]).out, "2\n");
    let secret = folder.path().join("secret.own");
    let secret = secret.to_str().unwrap();
    for path in ["../secret.own", "deep/../../secret.own", secret] {
        let refused = run(&format!("load(\"{path}\")"), &[]);
        refused.ends_with(1);
        refused
            .says("out of reach")
            .says("in its own folder or further in");
        let allowed = run(&format!("load(\"{path}\")"), &["--files-from", "."]);
        assert_eq!(allowed.out, "1\n", "{path}");
    }
    run("load(\"none.own\")", &[])
        .ends_with(1)
        .says("nothing is there");
    run("load(\"deep\")", &[])
        .ends_with(1)
        .says("no ordinary file");
}

#[test]
fn definitions_include_what_lies_beside_them_and_below() {
    let folder = Folder::new();
    folder.write("secret.txt", "a secret");
    folder.write("work/deep/more.quillon", "provides\n  one means 1\n");
    for (file, said) in [
        ("deep/more.quillon", ""),
        ("../secret.txt", "is out of reach"),
        ("/dev/zero", "is out of reach"),
        ("none.quillon", "there is no file"),
        ("deep", "no ordinary file"),
    ] {
        folder.write("work/own.quillon", format!("include \"{file}\"\n{OWN}"));
        let run = folder.quillon(&["check", "work/own.quillon"]);
        assert!(
            run.err.contains(said) && !run.err.contains("a secret"),
            "{file}: {run}"
        );
        assert_eq!(run.status == 0, said.is_empty(), "{file}: {run}");
    }
}

#[test]
fn saved_programs_load_nothing_unless_allowed() {
    let folder = folder();
    folder.write("part.own", "let a = 1; let b = 2");
    folder.write("main.own", "load(\"part.own\")");
    folder
        .quillon(&["run", "--save", "kept", "main.own"])
        .ends_with(0);
    let run = folder.quillon(&["run", "kept"]);
    run.ends_with(1)
        .says("out of reach")
        .says("a saved program");
    let run = folder.quillon(&["run", "--value", "--files-from", ".", "kept"]);
    assert_eq!(run.out, "2\n");
}

#[cfg(unix)]
#[test]
fn links_and_pipes_lead_nowhere() {
    use std::os::unix::fs::symlink;
    let folder = folder();
    folder.write("secret.txt", "a secret");
    folder.write("in/kept.txt", "kept");
    symlink("../secret.txt", folder.path().join("in/out.txt")).unwrap();
    symlink("kept.txt", folder.path().join("in/same.txt")).unwrap();
    symlink("..", folder.path().join("in/up")).unwrap();
    symlink("../none.txt", folder.path().join("in/new.txt")).unwrap();
    let made = std::process::Command::new("mkfifo")
        .arg(folder.path().join("in/pipe"))
        .status();
    assert!(made.is_ok_and(|status| status.success()));
    let run = |text: &str| {
        folder.write("main.own", text);
        folder.quillon(&[
            "run",
            "--value",
            "--files-from",
            "in",
            "--files-into",
            "in",
            "main.own",
        ])
    };
    assert_eq!(run("read(\"in/same.txt\")").out, "\"kept\"\n");
    for path in ["in/out.txt", "in/up/secret.txt", "in/../secret.txt"] {
        let refused = run(&format!("read(\"{path}\")"));
        refused.ends_with(1).says("out of reach");
        run(&format!("write(\"{path}\", \"x\")"))
            .ends_with(1)
            .says("out of reach");
    }
    run("write(\"in/new.txt\", \"x\")").ends_with(1);
    run("read(\"in/pipe\")")
        .ends_with(1)
        .says("no ordinary file");
    run("read(\"in\")").ends_with(1);
    assert_eq!(
        std::fs::read(folder.path().join("secret.txt")).unwrap(),
        b"a secret"
    );
    assert!(!folder.path().join("none.txt").exists());
}

#[test]
fn what_is_read_counts_against_the_memory_of_the_run() {
    let folder = folder();
    folder.write("large.txt", "x".repeat(3 << 20));
    folder.write("large.own", format!("let a = \"{}\"", "x".repeat(200_000)));
    for text in ["read(\"large.txt\")", "load(\"large.own\")"] {
        folder.write("main.own", text);
        let run = folder.quillon(&["run", "--memory", "1M", "--files-from", ".", "main.own"]);
        run.ends_with(1).says("run.memory");
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_an_error() {
    let folder = Folder::with_demo();
    for args in [
        "run programs/tolls.tow",
        "tokens programs/tolls.tow",
        "tree programs/tolls.tow",
        "run --value --text 1",
    ] {
        let mut command = program();
        let full = std::fs::File::options()
            .write(true)
            .open("/dev/full")
            .unwrap();
        let output = command
            .args(args.split(' '))
            .current_dir(folder.path())
            .stdout(full)
            .output()
            .unwrap();
        assert_eq!(output.status.code(), Some(4), "{args}");
        let said = String::from_utf8_lossy(&output.stderr);
        assert!(
            said.contains("the result cannot be written"),
            "{args}: {said}"
        );
    }
}

#[cfg(target_os = "linux")]
#[test]
fn a_file_is_there_whole_or_as_it_was() {
    let folder = folder();
    folder.write("main.own", format!("say \"{}\"", "x".repeat(20_000)));
    folder.write("kept", "what was there");
    folder.write("out/kept.txt", "what was there");
    folder.write("write.own", "write(\"out/kept.txt\", repeat(\"y\", 20000))");
    let program = env!("CARGO_BIN_EXE_quillon");
    let limited = |args: &str| {
        let script = format!("trap '' XFSZ; ulimit -f 2; exec '{program}' {args}");
        let status = std::process::Command::new("bash")
            .args(["-c", &script])
            .current_dir(folder.path())
            .env("QUILLON_CACHE", kept_languages())
            .env("XDG_STATE_HOME", folder.path().join("state"))
            .output()
            .unwrap();
        assert!(!status.status.success(), "{args}");
    };
    limited("run --save kept main.own");
    limited("run --files-into out write.own");
    let read = |name: &str| std::fs::read_to_string(folder.path().join(name)).unwrap();
    assert_eq!(read("kept"), "what was there");
    assert_eq!(read("out/kept.txt"), "what was there");
    let left = std::fs::read_dir(folder.path().join("out"))
        .unwrap()
        .count();
    assert_eq!(left, 1, "something was left beside the file");
}

#[test]
fn nothing_that_a_terminal_acts_on_comes_from_a_program() {
    let folder = folder();
    let odd = "a\u{9b}31mb\u{1b}[2Jc\u{202e}d\u{7}";
    folder.write("odd.own", format!("let x = \"{odd}\"; say x; fail(x)"));
    folder.write(
        "odd.cases",
        format!("case odd {odd}\n  program `\"{odd}\"`\n  gives 1\n"),
    );
    for args in [
        "tokens odd.own",
        "tree odd.own",
        "scopes odd.own",
        "scopes --as table odd.own",
        "core odd.own",
        "code odd.own",
        "trace odd.own",
        "explain odd.own:1:5",
        "profile odd.own",
        "run odd.own --output 0",
        "test",
        "run --text \u{202e}\u{9b}",
    ] {
        let ran = folder.quillon(
            &[
                &["--color", "always"],
                &args.split(' ').collect::<Vec<_>>()[..],
            ]
            .concat(),
        );
        let shown = format!("{}{}", ran.out, ran.err);
        // What is left are styles.
        let text = anstream::adapter::strip_str(&shown).to_string();
        let acts = |c: char| {
            c.is_control() && c != '\n' && c != '\t' || ('\u{202a}'..='\u{202e}').contains(&c)
        };
        assert!(!text.contains(acts), "{args}: {text:?}");
        assert!(!shown.contains("\u{1b}[2J"), "{args}");
    }
}

#[test]
fn a_line_that_is_no_text_does_not_end_a_conversation() {
    let folder = folder();
    let mut child = program()
        .args(["repl", "--format", "json"])
        .current_dir(folder.path())
        .env("XDG_STATE_HOME", folder.path().join("state"))
        .stdin(std::process::Stdio::piped())
        .stdout(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    let lines: &[u8] = b"{\"entry\": \"1\"}\n\xff\xfe\n{\"entry\":\n{\"entry\": \"2\"}\n";
    child.stdin.take().unwrap().write_all(lines).unwrap();
    let output = child.wait_with_output().unwrap();
    let out = String::from_utf8(output.stdout).unwrap();
    let ok: Vec<bool> = out
        .lines()
        .map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap()["ok"] == true)
        .collect();
    assert_eq!(ok, [true, false, false, true], "{out}");
}

#[test]
fn what_is_printed_is_not_kept() {
    let folder = folder();
    folder.write(
        "main.own",
        "let t = repeat(\"x\", 1000000); forever { say t }",
    );
    let args = [
        "run", "--format", "json", "--memory", "8M", "--output", "50000000", "main.own",
    ];
    let run = folder.quillon(&args);
    run.ends_with(1);
    let json = run.json();
    assert_eq!(json["diagnostics"][0]["code"], "run.output");
    assert_eq!(json["output"].as_str().map(str::len), Some(50_000_000));
}

#[cfg(target_os = "linux")]
#[test]
fn little_address_space_is_enough_or_said() {
    let folder = folder();
    folder.write("main.own", "let t = repeat(\"x\", 1000); say 1");
    folder.write(
        "large.own",
        "let t = repeat(\"x\", 200000000); let u = repeat(t, 1); say 1",
    );
    let program = env!("CARGO_BIN_EXE_quillon");
    for (room, file, wanted) in [
        (300_000, "main.own", 0),
        (900_000, "main.own", 0),
        (300_000, "large.own", 1),
    ] {
        let script = format!("ulimit -v {room}; exec '{program}' run {file}");
        let output = std::process::Command::new("bash")
            .args(["-c", &script])
            .current_dir(folder.path())
            .env("QUILLON_CACHE", kept_languages())
            .output()
            .unwrap();
        assert_eq!(
            output.status.code(),
            Some(wanted),
            "{room} {file}: {output:?}"
        );
    }
}

#[test]
fn a_text_with_blanks_at_the_end_of_a_line_is_printed_back() {
    let folder = folder();
    folder.write("main.own", "say \"a  \n\tb \r\nc\"");
    let run = folder.quillon(&["tree", "--as", "source", "main.own"]);
    assert_eq!(run.out, "say \"a  \n\tb \r\nc\"\n");
}
