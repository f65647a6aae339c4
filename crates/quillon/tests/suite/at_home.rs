//! What makes the command line at home on a system: completions, manual pages, help.

use std::fs;

use crate::common::{Folder, program};

#[test]
fn every_shell_has_completions() {
    let folder = Folder::new();
    for (shell, sign) in [
        ("bash", "complete -o nospace"),
        ("zsh", "#compdef quillon"),
        ("fish", "--command quillon"),
        ("powershell", "Register-ArgumentCompleter"),
        ("elvish", "edit:completion:arg-completer[quillon]"),
    ] {
        let ran = folder.quillon(&["completions", shell]);
        ran.ends_with(0).shows(sign).shows("QUILLON_COMPLETE");
    }
    folder.quillon(&["completions", "abacus"]).ends_with(2);
}

/// What a shell is offered for the last word of a line.
fn offered(folder: &Folder, line: &[&str]) -> Vec<String> {
    let mut asked = program();
    asked
        .env("QUILLON_COMPLETE", "bash")
        .env("_CLAP_COMPLETE_INDEX", (line.len() - 1).to_string())
        .env("_CLAP_COMPLETE_COMP_TYPE", "9")
        .env("_CLAP_IFS", "\n");
    let args = [&["--"], line].concat();
    let ran = folder.run_in(asked, ".", &args, "");
    ran.ends_with(0);
    ran.out.lines().map(|line| line.trim().to_owned()).collect()
}

#[test]
fn a_shell_completes_commands_options_and_names_of_the_definition() {
    let folder = Folder::with_demo();
    folder.write("other/gate.quillon", "language Gate\n  reads \".gate\"\n\nform Paddle in Thing\n  written \"paddle\"\n\nsurface Short reads \".short\"\n  Paddle \"p\"\n");
    for (line, wanted) in [
        (&["quillon", "tran"][..], &["translate"][..]),
        (&["quillon", "run", "--files-f"], &["--files-from"]),
        (&["quillon", "generate", "--sort", "St"], &["Statement"]),
        (&["quillon", "trace", "--form", "Whi"], &["While"]),
        (
            &["quillon", "trace", "other/gate.quillon", "--form", ""],
            &["Paddle"],
        ),
        (
            &[
                "quillon",
                "translate",
                "-l",
                "other/gate.quillon",
                "--to",
                "",
            ],
            &["Gate", "Short"],
        ),
        (
            &["quillon", "new", "ferry", "--from", "lock"],
            &["lockstep"],
        ),
        (&["quillon", "new", "ferry", "--from", "nothing"], &[]),
    ] {
        assert_eq!(offered(&folder, line), wanted, "{line:?}");
    }
}

#[test]
fn every_command_has_a_manual_page() {
    let folder = Folder::new();
    let ran = folder.quillon(&["manual", "--into", "man1"]);
    ran.ends_with(0).shows("`man1/quillon.1` written");
    let page = |name: &str| fs::read_to_string(folder.path().join("man1").join(name)).unwrap();
    assert!(
        page("quillon.1").contains("SUBCOMMANDS") || page("quillon.1").contains("quillon\\-run")
    );
    let run = page("quillon-run.1");
    assert!(
        run.contains(".TH quillon-run") || run.contains(".TH quillon\\-run"),
        "{run}"
    );
    assert!(run.contains("Run programs"));
    assert_eq!(
        fs::read_dir(folder.path().join("man1")).unwrap().count(),
        30
    );
}

/// The commands in the examples of a help, each with the lines that it is said to print.
#[cfg(unix)]
fn examples(help: &str) -> Vec<(String, Vec<String>)> {
    let mut found: Vec<(String, Vec<String>)> = Vec::new();
    let lines = help.lines().skip_while(|line| !line.starts_with("Example"));
    for line in lines.skip(1) {
        match (line.strip_prefix("    "), line.strip_prefix("  ")) {
            (Some(printed), _) => {
                if let Some((_, all)) = found.last_mut() {
                    all.push(printed.to_owned());
                }
            }
            (None, Some(command)) => found.push((command.to_owned(), Vec::new())),
            (None, None) => break,
        }
    }
    found
}

#[test]
#[cfg(unix)]
fn what_the_examples_of_the_help_print_is_true() {
    use std::path::Path;
    let folder = Folder::with_demo();
    let languages = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let lockstep = languages.join("lockstep/lockstep.quillon");
    let program = Path::new(env!("CARGO_BIN_EXE_quillon")).parent().unwrap();
    let path = std::env::var("PATH").unwrap_or_default();
    let all = folder.quillon(&["--help"]).out;
    let commands = all.lines().filter_map(|line| line.strip_prefix("  "));
    let commands = commands.filter_map(|line| line.split_whitespace().next());
    let mut tried = 0;
    for command in commands.filter(|command| !command.starts_with('-')) {
        let help = folder.quillon(&[command, "--help"]).out;
        for (line, printed) in examples(&help) {
            if printed.is_empty() || !line.contains("quillon ") {
                continue;
            }
            let copy = folder.path().join("lockstep.quillon");
            if line.contains("lockstep") {
                fs::copy(&lockstep, &copy).unwrap();
            }
            let ran = std::process::Command::new("sh")
                .args(["-c", &line])
                .current_dir(folder.path())
                .env("PATH", format!("{}:{path}", program.display()))
                .output()
                .unwrap();
            let out = String::from_utf8_lossy(&ran.stdout).into_owned();
            assert_eq!(out.lines().collect::<Vec<_>>(), printed, "{line}");
            tried += 1;
            if copy.exists() {
                fs::remove_file(copy).unwrap();
            }
        }
    }
    assert!(tried >= 7, "{tried}");
}

#[test]
fn the_help_has_the_commands_in_groups() {
    let folder = Folder::new();
    let ran = folder.quillon(&["--help"]);
    ran.ends_with(0)
        .shows("\nRunning:\n  run ")
        .shows("\nSharing:\n  reference ")
        .shows("\nOptions:\n")
        .shows("Start with `quillon demo`");
}
