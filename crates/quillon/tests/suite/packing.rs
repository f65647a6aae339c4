//! Languages and programs as executables of their own.

use std::fs;
use std::path::{Path, PathBuf};

use assert_cmd::Command;

use crate::common::{Folder, Ran};

/// Runs an executable in an empty folder, with nothing kept.
fn ran(executable: &Path, args: &[&str], input: &str) -> Ran {
    ran_in(&Folder::new(), executable, args, input)
}

fn ran_in(folder: &Folder, executable: &Path, args: &[&str], input: &str) -> Ran {
    let output = Command::new(executable)
        .args(args)
        .current_dir(folder.path())
        .env("QUILLON_CACHE", "")
        .env("XDG_STATE_HOME", folder.path().join("state"))
        .env_remove("QUILLON_FILES_FROM")
        .write_stdin(input)
        .output()
        .expect("it runs");
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("UTF-8 output");
    Ran {
        status: output.status.code().unwrap_or(-1),
        out: text(output.stdout),
        err: text(output.stderr),
    }
}

/// The demo's language by itself, and a folder with nothing else in it.
fn towpath() -> (Folder, PathBuf) {
    let demo = Folder::with_demo();
    let folder = Folder::new();
    let executable = folder.path().join("towpath");
    let ran = demo.quillon(&[
        "pack",
        "--into",
        executable.to_str().unwrap(),
        "--release",
        "2.1",
    ]);
    ran.ends_with(0).shows("is the language Towpath, by itself");
    (folder, executable)
}

const DAY: &str = "let tons be [5, 12]\neach one in tons { say one * 2 }\n";

#[test]
fn a_language_needs_nothing_else() {
    let (folder, towpath) = towpath();
    let run = |args: &[&str], input: &str| ran_in(&folder, &towpath, args, input);
    assert_eq!(run(&["--version"], "").out, "towpath 2.1\n");
    let help = run(&["--help"], "");
    help.ends_with(0).shows("Usage: towpath").shows("repl");
    for other in ["quillon", "--language", "translate", "pack"] {
        assert!(!help.out.contains(other), "{other}: {help}");
    }
    run(&[], "").ends_with(2);
    folder.write("day.tow", DAY);
    assert_eq!(run(&["day.tow"], "").out, "10\n24\n");
    assert_eq!(run(&["run", "day.tow"], "").out, "10\n24\n");
    run(&["run", "-t", "say 1 + 2"], "")
        .ends_with(0)
        .shows("3\n");
    run(&["repl"], "let a be 4\na * 2\n")
        .ends_with(0)
        .shows("8\n");
    run(&["check", "day.tow"], "")
        .ends_with(0)
        .shows("no errors in day.tow");
    folder.write("wrong.tow", "say  tns\n");
    run(&["check", "wrong.tow"], "")
        .ends_with(1)
        .says("there is no binding called `tns`");
    run(&["arrange", "wrong.tow"], "").ends_with(0);
    let arranged = fs::read_to_string(folder.path().join("wrong.tow")).unwrap();
    assert_eq!(arranged, "say tns\n");
    run(&["trace", "day.tow"], "").ends_with(0).shows("Say");
    folder.write("day.txt", DAY);
    run(&["day.txt"], "")
        .ends_with(4)
        .says("`day.txt` is no program of towpath")
        .says("the names of its programs end in .tow");
    run(&["nothing.tow"], "")
        .ends_with(4)
        .says("there is no file");
}

#[test]
fn a_language_serves_editors() {
    let (folder, towpath) = towpath();
    let message = |body: &str| format!("Content-Length: {}\r\n\r\n{body}", body.len());
    let uri = "file:///canal/day.tow";
    let open = format!(
        r#"{{"jsonrpc":"2.0","method":"textDocument/didOpen","params":{{"textDocument":{{"uri":"{uri}","languageId":"towpath","version":1,"text":"say 1"}}}}}}"#
    );
    let hover = format!(
        r#"{{"jsonrpc":"2.0","id":3,"method":"textDocument/hover","params":{{"textDocument":{{"uri":"{uri}"}},"position":{{"line":0,"character":1}}}}}}"#
    );
    let asked = [
        r#"{"jsonrpc":"2.0","id":1,"method":"initialize","params":{"capabilities":{}}}"#,
        r#"{"jsonrpc":"2.0","method":"initialized","params":{}}"#,
        open.as_str(),
        hover.as_str(),
        r#"{"jsonrpc":"2.0","id":2,"method":"shutdown"}"#,
        r#"{"jsonrpc":"2.0","method":"exit"}"#,
    ];
    let input: String = asked.iter().map(|body| message(body)).collect();
    let told = ran_in(&folder, &towpath, &["editor"], &input);
    told.shows("form **Say**");
}

/// A language of programs that are started with arguments, read, and leave.
pub const TOOLS: &str = "-- Tools for keepers. More of it comes here.
language Tools
  reads   \".tool\"
  starts  Steps
tokens
  Blank  [ \\t\\r\\n]+  ignored
  Text   '\"' [^\"]* '\"'  holds text
  Whole  digit+  holds integer
form Steps
  written  steps:Step* by \";\"
  means    all steps; nothing
form Given in Step
  written  \"given\"
  means    each one in program.arguments() { output(one, \"\\n\") }
form Echo in Step
  written  \"echo\"
  means    output(input.all(), \"\\n\")
form Leave in Step
  written  \"leave\" status:Whole
  means    program.leave(status)
form Say in Step
  written  \"say\" text:Text
  means    output(text, \"\\n\")
form Show in Step
  written  \"show\" file:Text
  means    output(file.read(file))
";

/// A program of it by itself.
fn tool(program: &str) -> (Folder, PathBuf) {
    let folder = Folder::new();
    folder.write("tools/tools.quillon", TOOLS);
    folder.write("tools/day.tool", program);
    let args = ["pack", "--program", "tools/day.tool", "--into", "day"];
    folder
        .quillon(&args)
        .ends_with(0)
        .shows("`day` is the program `tools/day.tool`, by itself");
    fs::remove_dir_all(folder.path().join("tools")).unwrap();
    let executable = folder.path().join("day");
    (folder, executable)
}

#[test]
fn a_program_is_a_tool_with_arguments_and_an_exit_status() {
    let (_folder, day) = tool("given; echo; leave 7; say \"never\"");
    let told = ran(&day, &["--help", "two words", "--", "-x"], "from a pipe");
    assert_eq!(told.out, "--help\ntwo words\n--\n-x\nfrom a pipe\n");
    assert_eq!((told.status, told.err.as_str()), (7, ""));
    let (_folder, day) = tool("leave 0; say \"never\"");
    let told = ran(&day, &[], "");
    assert_eq!((told.status, told.out + &told.err), (0, String::new()));
    let (_folder, quiet) = tool("");
    let told = ran(&quiet, &[], "");
    assert_eq!((told.status, told.out + &told.err), (0, String::new()));
}

#[test]
fn who_runs_it_decides_what_it_reads() {
    let (folder, day) = tool("show \"log.txt\"");
    folder.write("log.txt", "Heron, 18 tons\n");
    ran_in(&folder, &day, &[], "")
        .ends_with(1)
        .says("the file log.txt");
    let output = Command::new(&day)
        .current_dir(folder.path())
        .env("QUILLON_FILES_FROM", ".")
        .output()
        .unwrap();
    assert_eq!(output.stdout, b"Heron, 18 tons\n");
}

#[test]
fn what_is_cut_off_or_damaged_says_so() {
    let (folder, day) = tool("say \"whole\"");
    assert_eq!(ran(&day, &[], "").out, "whole\n");
    let whole = fs::read(&day).unwrap();
    let with = |name: &str, bytes: &[u8]| {
        let path = folder.path().join(name);
        fs::copy(&day, &path).unwrap();
        fs::write(&path, bytes).unwrap();
        ran(&path, &[], "")
    };
    let cut = with("cut", &whole[..whole.len() - 1]);
    cut.ends_with(4)
        .says("has been cut off")
        .says("get it once more");
    let mut more = whole.clone();
    more.push(0);
    with("more", &more)
        .ends_with(4)
        .says("something has been added");
    let mut other = whole.clone();
    *other.last_mut().unwrap() ^= 1;
    with("other", &other).ends_with(4).says("is damaged");
    let told = format!("{}", with("other", &other));
    assert!(!told.contains("whole"), "{told}");
}

#[test]
fn what_is_wrong_is_not_packed() {
    let folder = Folder::with_definition(TOOLS);
    folder.write("day.tool", "given; gven");
    let args = ["pack", "--program", "day.tool", "--into", "day"];
    folder.quillon(&args).ends_with(1).says("gven");
    assert!(!folder.path().join("day").exists());
    folder.write("bad.quillon", "language Bad\n  reads 3\n");
    folder
        .quillon(&["pack", "bad.quillon", "--into", "bad"])
        .ends_with(3);
    assert!(!folder.path().join("bad").exists());
    folder.write("good.tool", "given");
    folder
        .quillon(&["pack", "own.quillon", "--into", "nowhere/day"])
        .ends_with(4)
        .says("`nowhere/day` cannot be written");
}

#[test]
fn a_definition_of_several_files_is_packed_as_one() {
    let folder = Folder::new();
    let (head, forms) = TOOLS.split_once("form Given").unwrap();
    folder.write("own.quillon", format!("{head}include \"more.quillon\"\n"));
    folder.write("more.quillon", format!("form Given{forms}"));
    folder
        .quillon(&["pack", "own.quillon", "--into", "tools"])
        .ends_with(0);
    let tools = folder.path().join("tools");
    let other = Folder::new();
    other.write("day.tool", "say \"whole\"; given");
    let told = ran_in(&other, &tools, &["run", "day.tool", "--", "Heron"], "");
    assert_eq!(told.out, "whole\nHeron\n", "{told}");
    let help = ran(&tools, &["--help"], "");
    help.shows("Tools for keepers\n");
}
