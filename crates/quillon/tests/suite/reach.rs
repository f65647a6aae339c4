//! What a run can reach, how far it may go, and following it step by step.

use crate::common::{Folder, program};

/// A language whose programs load others and use files.
const DEFINITION: &str = r#"
language Office
  reads ".office"

tokens
  Blank   [ \t\r\n]+        ignored
  Text    '"' [^"\n]* '"'   holds text
  Whole   digit+            holds integer
  Name    letter+

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value

form Count in Step
  written  "count"
  means    level := level + 1

form Say in Step
  written  "say" value:Expr
  means    output(shown(value), "\n")

form Load in Expr
  written  "load" path:Text
  means    module.load(path)

form Read in Expr
  written  "read" path:Text
  means    file.read(path)

form Write in Step
  written  "write" path:Text "," text:Text
  means    file.write(path, text)

form Dice in Expr
  written  "dice"
  means    random.integer(1, 1000000)

form Wait in Step
  written  "wait"
  means    while true { 1 }

form Number in Expr
  written  value:Whole
  means    value

form Variable in Expr
  written  name:Name
  uses     name
  means    name

state
  level = 0
"#;

fn office() -> Folder {
    let folder = Folder::new();
    folder.write("office.quillon", DEFINITION);
    folder
}

#[test]
fn programs_load_others_once_and_circles_show_their_chain() {
    let folder = office();
    folder.write(
        "tolls/rates.office",
        "say 1; let rate = 3; let more = load \"../far.office\"",
    );
    folder.write("far.office", "let far = 9");
    folder.write(
        "main.office",
        "let a = load \"tolls/rates.office\"; say a; say load \"./tolls/../tolls/rates.office\"",
    );
    let run = folder.quillon(&["run", "main.office"]);
    let both = "{\"rate\": 3, \"more\": {\"far\": 9}}\n";
    assert_eq!(run.out, format!("1\n{both}{both}"));
    folder.write("a.office", "let x = load \"b.office\"");
    folder.write("b.office", "let x = load \"a.office\"");
    let run = folder.quillon(&["run", "a.office"]);
    run.ends_with(1);
    run.says("b.office loads a.office loads b.office");
    run.says("the program b.office called at a.office:1:9");
    folder.write("c.office", "let x = load \"wrong.office\"");
    folder.write("wrong.office", "let = 3");
    let run = folder.quillon(&["run", "c.office"]);
    run.says("the program `wrong.office` has mistakes");
    let run = folder.quillon(&[
        "run",
        "-l",
        "office.quillon",
        "--text",
        "say load \"none.office\"",
    ]);
    run.says("the program none.office cannot be read");
}

#[test]
fn files_are_reached_only_in_the_folders_that_are_allowed() {
    let folder = office();
    folder.write("logs/day.txt", "high water");
    folder.write("secret.txt", "no");
    folder.write("read.office", "say read \"logs/day.txt\"");
    let run = folder.quillon(&["run", "read.office"]);
    run.ends_with(1);
    run.says("the file logs/day.txt is out of reach");
    run.says("`--files-from FOLDER`");
    let run = folder.quillon(&["run", "--files-from", "logs", "read.office"]);
    assert_eq!(run.out, "high water\n");
    folder.write("out.office", "say read \"logs/../secret.txt\"");
    let run = folder.quillon(&["run", "--files-from", "logs", "out.office"]);
    run.says("out of reach");
    folder.write("write.office", "write \"logs/new.txt\", \"low\"");
    let run = folder.quillon(&["run", "--files-from", "logs", "write.office"]);
    run.says("`--files-into FOLDER`");
    let run = folder.quillon(&["run", "--files-into", "logs", "write.office"]);
    run.ends_with(0);
    run.says("note: this program has come to its end, and prints nothing");
    assert_eq!(
        std::fs::read_to_string(folder.path().join("logs/new.txt")).unwrap(),
        "low"
    );
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink(
            folder.path().join("secret.txt"),
            folder.path().join("logs/link.txt"),
        )
        .unwrap();
        folder.write("link.office", "say read \"logs/link.txt\"");
        let run = folder.quillon(&["run", "--files-from", "logs", "link.office"]);
        run.says("out of reach");
    }
}

#[test]
fn chance_takes_the_course_of_its_seed() {
    let folder = office();
    folder.write("dice.office", "say dice; say dice");
    let with = |seed: &str| folder.quillon(&["run", "--seed", seed, "dice.office"]).out;
    assert_eq!(with("1"), with("1"));
    assert_ne!(with("1"), with("2"));
}

#[test]
fn a_run_stops_at_its_memory_and_says_what_size_it_takes() {
    let folder = Folder::with_demo();
    let growing = "let t be \"0123456789\" forever { change t to t & t }";
    let run = |size: &str| folder.quillon(&["run", "--memory", size, "--text", growing]);
    run("1M")
        .ends_with(1)
        .says("it needs more than 1 MiB of memory");
    run("500000").says("more than 488 KiB of memory");
    run("1Q")
        .ends_with(2)
        .says("write a size in bytes, as `500000`, `64M` or `2G`");
}

#[cfg(unix)]
#[test]
fn an_interrupt_ends_the_run_and_says_where() {
    let folder = office();
    let child = program()
        .args(["run", "-l", "office.quillon", "--text", "say 1; wait"])
        .current_dir(folder.path())
        .stdout(std::process::Stdio::piped())
        .stderr(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    // Long enough for the program to run on a slow machine; it never ends by itself.
    std::thread::sleep(std::time::Duration::from_millis(800));
    let id = child.id().to_string();
    std::process::Command::new("kill")
        .args(["-INT", &id])
        .status()
        .unwrap();
    let output = child.wait_with_output().unwrap();
    assert_eq!(output.status.code(), Some(1));
    assert_eq!(String::from_utf8_lossy(&output.stdout), "1\n");
    let err = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(err.contains("the run was interrupted here"), "{err}");
}

#[test]
fn a_trace_shows_each_step_with_its_value_and_what_it_changes() {
    let folder = office();
    folder.write("day.office", "let a = 1;\ncount;\nsay a");
    let trace = folder.quillon(&["trace", "day.office"]);
    assert_eq!(
        trace.out,
        "     1     1:1  Program let a = 1; count; say a
     2     1:1  │ Let let a = 1
     3     1:9  │ │ Number 1  → 1
                │ │ a unset ⇒ 1
     4     2:1  │ Count count
                │ │ level 0 ⇒ 1
     5     3:1  │ Say say a
     6     3:5  │ │ Variable a  → 1
                │ │ prints \"1\\n\"
"
    );
    let only =
        |option: &str, value: &str| folder.quillon(&["trace", "day.office", option, value]).out;
    assert_eq!(
        only("--watch", "level"),
        "     4     2:1  Count count\n                │ level 0 ⇒ 1\n"
    );
    assert_eq!(
        only("--form", "Variable"),
        "     6     3:5  Variable a  → 1\n"
    );
    assert_eq!(only("--line", "2"), only("--watch", "level"));
    assert_eq!(only("--from", "6"), "     6     3:5  │ │ Variable a  → 1\n");
    let shallow = only("--fold", "2");
    assert!(
        shallow.contains("│ Let let a = 1\n") && !shallow.contains("Number"),
        "{shallow}"
    );
    let json = folder.quillon(&[
        "trace",
        "day.office",
        "--format",
        "json",
        "--to",
        "4",
        "--form",
        "Count",
    ]);
    let step = json.json();
    assert_eq!(step["changes"][0]["name"], "level");
    assert_eq!(step["changes"][0]["after"], "1");
    assert_eq!(
        (step["step"].as_u64(), step["depth"].as_u64()),
        (Some(4), Some(1))
    );
    let wrong = folder.quillon(&["trace", "day.office", "--form", "Cuont"]);
    wrong.ends_with(2);
    wrong.says("did you mean `Count`?");
    folder.write("bad.office", "let a = read \"x\"");
    let failed = folder.quillon(&["trace", "bad.office"]);
    failed.ends_with(1);
    failed.shows("Read read \"x\"  left");
    failed.says("out of reach");
}

#[test]
fn everything_about_a_place_can_be_asked() {
    let folder = office();
    folder.write("day.office", "let a = 1;\nsay a");
    let explained = folder.quillon(&["explain", "day.office:2:5"]);
    assert_eq!(
        explained.out,
        "    token  Name \"a\"
     form  Variable a
     path  Program › steps[1]: Say › value: Variable › name
     name  uses `a`, bound at 1:5, scopes out: 0
     slot  0 of the program
    means  name
           office.quillon:56:12
"
    );
    let json = folder.quillon(&["explain", "day.office:2:5", "--format", "json"]);
    let facts = json.json();
    assert_eq!(facts["form"]["name"], "Variable");
    assert_eq!(facts["slot"]["slot"], 0);
    assert_eq!(facts["name"]["bound"]["column"], 5);
    for (place, said) in [
        ("day.office:9:1", "day.office has no line 9"),
        ("day.office:1:40", "line 1 of day.office has no column 40"),
        ("day.office", "`day.office` names no place"),
    ] {
        let run = folder.quillon(&["explain", place]);
        run.ends_with(2);
        run.says(said);
    }
    let blank = folder.quillon(&["explain", "day.office:1:4"]);
    blank.shows("Blank \" \" (ignored)");
}

#[test]
fn scopes_show_slots_and_are_drawn() {
    let folder = office();
    folder.write("day.office", "let a = 1; say a");
    let table = folder.quillon(&["scopes", "day.office", "--as", "table"]);
    let slot_of_use: Vec<&str> = table
        .out
        .lines()
        .last()
        .unwrap()
        .split_whitespace()
        .collect();
    assert_eq!(slot_of_use, ["1:16", "a", "uses", "1:5", "0", "0"]);
    let dot = folder.quillon(&["scopes", "day.office", "--as", "dot"]);
    dot.shows("label=\"Program 1:1\\na · slot 0\"");
    let svg = folder.quillon(&["scopes", "day.office", "--as", "svg"]);
    assert!(
        svg.out.starts_with("<svg") && svg.out.contains("a · slot 0"),
        "{}",
        svg.out
    );
    let json = folder.quillon(&["scopes", "day.office", "--format", "json"]);
    let names = json.json();
    assert_eq!(names["names"][1]["slot"], 0);
    assert_eq!(names["names"][1]["captured"], false);
}

#[test]
fn input_is_read_by_lines_by_characters_and_as_a_whole() {
    let folder = Folder::with_definition(
        r#"language Reading
  reads ".read"
tokens
  Blank  [ \n]+  ignored
form Program
  written  steps:Step*
  means    all steps
form Line in Step
  written  "line"
  means    output(quoted(input()), "\n")
form One in Step
  written  "one"
  means    output(quoted(input.character()), "\n")
form All in Step
  written  "all"
  means    output(quoted(input.all()), "\n")
"#,
    );
    let read = |program: &str, input: &str| {
        let ran = folder.quillon_with(&["run", "--text", program], input);
        ran.ends_with(0).out.clone()
    };
    assert_eq!(read("line line line", "a\nb"), "\"a\"\n\"b\"\nnothing\n");
    // A character is one of Unicode, however many bytes it has.
    assert_eq!(
        read("one one one one one one", "aé€🚢\n"),
        "\"a\"\n\"é\"\n\"€\"\n\"🚢\"\n\"\\n\"\nnothing\n"
    );
    assert_eq!(read("one all all", "abc\nd"), "\"a\"\n\"bc\\nd\"\n\"\"\n");
    assert_eq!(
        read("line one all", "first\nsecond\nthird"),
        "\"first\"\n\"s\"\n\"econd\\nthird\"\n"
    );
    assert_eq!(read("one line", ""), "nothing\nnothing\n");
}
