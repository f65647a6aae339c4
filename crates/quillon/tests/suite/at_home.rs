//! What makes the command line at home on a system: completions, manual pages, help.

use std::fs;

use crate::common::Folder;

#[test]
fn every_shell_has_completions() {
    let folder = Folder::new();
    for (shell, sign) in [
        ("bash", "complete -F _quillon"),
        ("zsh", "#compdef quillon"),
        ("fish", "complete -c quillon"),
        ("powershell", "Register-ArgumentCompleter"),
        ("elvish", "edit:completion:arg-completer[quillon]"),
    ] {
        let ran = folder.quillon(&["completions", shell]);
        ran.ends_with(0)
            .shows(sign)
            .shows("translate")
            .shows("files-from");
    }
    folder.quillon(&["completions", "abacus"]).ends_with(2);
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
