//! Languages that are kept as they were compiled: nobody can tell but by the time it takes.

use std::path::{Path, PathBuf};

use crate::common::{Folder, Ran, program};

const DEFINITION: &str = "
language Gate
  reads \".gate\"
tokens
  Blank  [ \\n]+  ignored
  Whole  digit+  holds integer
form Program
  written  items:Item* by \";\"
  means    all items
form Number in Item
  written  value:Whole
  means    output(shown(value))
";

/// Runs the program with a folder for languages of its own.
fn run(folder: &Folder, kept: &Path) -> Ran {
    let output = program()
        .args(["run", "main.gate"])
        .current_dir(folder.path())
        .env("QUILLON_CACHE", kept)
        .output()
        .unwrap();
    Ran {
        status: output.status.code().unwrap(),
        out: String::from_utf8(output.stdout).unwrap(),
        err: String::from_utf8(output.stderr).unwrap(),
    }
}

fn gate() -> (Folder, PathBuf) {
    let folder = Folder::new();
    folder.write("gate.quillon", DEFINITION);
    folder.write("main.gate", "1; 7");
    let kept = folder.path().join("kept");
    (folder, kept)
}

fn files(kept: &Path) -> Vec<PathBuf> {
    let entries = std::fs::read_dir(kept).into_iter().flatten().flatten();
    let mut files: Vec<PathBuf> = entries.map(|entry| entry.path()).collect();
    files.sort();
    files
}

#[test]
fn a_language_is_kept_once_for_each_text() {
    let (folder, kept) = gate();
    let first = run(&folder, &kept);
    first.ends_with(0);
    assert_eq!(files(&kept).len(), 1);
    assert_eq!(run(&folder, &kept), first);
    assert_eq!(files(&kept).len(), 1);
    // Another text is another language.
    folder.write(
        "gate.quillon",
        DEFINITION.replace("shown(value)", "shown(value + 1)"),
    );
    let other = run(&folder, &kept);
    assert_ne!(other.out, first.out);
    assert_eq!(files(&kept).len(), 2);
    folder.write("gate.quillon", DEFINITION);
    assert_eq!(run(&folder, &kept), first);
    assert_eq!(files(&kept).len(), 2);
}

#[test]
fn one_that_is_damaged_is_made_again() {
    let (folder, kept) = gate();
    let first = run(&folder, &kept);
    let file = files(&kept).remove(0);
    let whole = std::fs::read(&file).unwrap();
    let mut damaged = whole.clone();
    let middle = damaged.len() / 2;
    damaged[middle] ^= 0x55;
    for wrong in [&damaged[..], &whole[..middle], &[]] {
        std::fs::write(&file, wrong).unwrap();
        assert_eq!(run(&folder, &kept), first);
        assert_eq!(std::fs::read(&file).unwrap(), whole);
    }
}

#[test]
fn where_none_can_be_kept_all_works() {
    let (folder, kept) = gate();
    let first = run(&folder, &kept);
    folder.write("in the way", "");
    assert_eq!(run(&folder, &folder.path().join("in the way")), first);
    assert_eq!(run(&folder, Path::new("")), first);
    assert!(folder.path().join("in the way").is_file());
}

#[test]
fn no_more_are_kept_than_are_worth_it() {
    let (folder, kept) = gate();
    run(&folder, &kept);
    for number in 0..80 {
        std::fs::write(kept.join(format!("{number}.language")), "old").unwrap();
    }
    std::fs::write(kept.join("of somebody else"), "stays").unwrap();
    folder.write("gate.quillon", format!("{DEFINITION}\n"));
    run(&folder, &kept).ends_with(0);
    let left = files(&kept);
    let languages = left.iter().filter(|path| path.extension().is_some());
    assert_eq!(languages.count(), 64);
    assert!(kept.join("of somebody else").is_file());
}

#[test]
fn two_at_once_do_not_get_in_each_others_way() {
    let (folder, kept) = gate();
    let runs: Vec<Ran> = std::thread::scope(|scope| {
        let each = || scope.spawn(|| run(&folder, &kept));
        let started: Vec<_> = (0..6).map(|_| each()).collect();
        started.into_iter().map(|one| one.join().unwrap()).collect()
    });
    for ran in &runs {
        ran.ends_with(0);
        assert_eq!(ran, &runs[0]);
    }
    assert_eq!(files(&kept).len(), 1);
}

#[cfg(unix)]
#[test]
fn what_others_could_have_written_is_not_believed() {
    use std::os::unix::fs::PermissionsExt;
    let (folder, kept) = gate();
    let first = run(&folder, &kept);
    let mine = files(&kept).remove(0);
    let mode = |path: &Path| std::fs::metadata(path).unwrap().permissions().mode();
    assert_eq!(mode(&kept) & 0o077, 0);
    // A language that means something else, under the name of this one.
    folder.write(
        "gate.quillon",
        DEFINITION.replace("shown(value)", "shown(value + 1)"),
    );
    run(&folder, &kept);
    let other = files(&kept).into_iter().find(|path| *path != mine).unwrap();
    std::fs::copy(&other, &mine).unwrap();
    folder.write("gate.quillon", DEFINITION);
    assert_eq!(run(&folder, &kept), first);
    assert_ne!(
        std::fs::read(&mine).unwrap(),
        std::fs::read(&other).unwrap()
    );
    // In a folder where others can write nothing is looked for, and nothing kept.
    std::fs::set_permissions(&kept, PermissionsExt::from_mode(0o770)).unwrap();
    folder.write("gate.quillon", format!("{DEFINITION}\n\n"));
    assert_eq!(run(&folder, &kept), first);
    assert_eq!(files(&kept).len(), 2);
}
