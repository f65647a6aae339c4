//! What the tests share: a temporary folder, and the built program run in it.

#![allow(dead_code, reason = "each test program uses a part of it")]

pub mod client;
pub mod pty;
pub mod walker;

use std::fmt;
use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

/// The built program, which keeps the languages that it compiles where no user's are.
pub fn program() -> std::process::Command {
    let mut command = std::process::Command::new(env!("CARGO_BIN_EXE_quillon"));
    command.env("QUILLON_CACHE", kept_languages());
    command
}

/// Where the tests keep the languages that are compiled.
pub fn kept_languages() -> PathBuf {
    Path::new(env!("CARGO_TARGET_TMPDIR")).join("languages")
}

/// A temporary folder with files, in which the program runs.
pub struct Folder {
    folder: TempDir,
}

/// What a run of the program did.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Ran {
    pub status: i32,
    pub out: String,
    pub err: String,
}

impl fmt::Display for Ran {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "status {}\n{}{}", self.status, self.out, self.err)
    }
}

impl Ran {
    /// Standard output as JSON.
    pub fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.out).unwrap_or_else(|e| panic!("{e} in:\n{self}"))
    }

    /// Checks the exit status, showing everything if it is another.
    #[track_caller]
    pub fn ends_with(&self, status: i32) -> &Ran {
        assert_eq!(self.status, status, "{self}");
        self
    }

    /// Checks that standard error has this in it.
    #[track_caller]
    pub fn says(&self, text: &str) -> &Ran {
        assert!(self.err.contains(text), "{text:?} is not in:\n{self}");
        self
    }

    /// Checks that standard output has this in it.
    #[track_caller]
    pub fn shows(&self, text: &str) -> &Ran {
        assert!(self.out.contains(text), "{text:?} is not in:\n{self}");
        self
    }
}

impl Folder {
    /// An empty folder.
    pub fn new() -> Folder {
        Folder {
            folder: tempfile::tempdir().expect("a temporary folder"),
        }
    }

    /// A folder with the demo language, its programs and its cases.
    pub fn with_demo() -> Folder {
        let folder = Folder::new();
        folder.quillon(&["demo", "--save", "."]).ends_with(0);
        folder
    }

    /// A folder with one definition, `own.quillon`.
    pub fn with_definition(text: &str) -> Folder {
        let folder = Folder::new();
        folder.write("own.quillon", text);
        folder
    }

    /// Its path.
    pub fn path(&self) -> &Path {
        self.folder.path()
    }

    /// Writes a file, and the folders it lies in.
    pub fn write(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        let path = self.path().join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(&path, text).unwrap();
        path
    }

    /// Runs the program here.
    pub fn quillon(&self, args: &[&str]) -> Ran {
        self.quillon_with(args, "")
    }

    /// Runs the program here with something on standard input.
    pub fn quillon_with(&self, args: &[&str], input: &str) -> Ran {
        self.quillon_in(".", args, input)
    }

    /// Runs the program in a folder inside this one.
    pub fn quillon_in(&self, inside: &str, args: &[&str], input: &str) -> Ran {
        self.run_in(program(), inside, args, input)
    }

    /// Runs something there.
    pub fn run_in(
        &self,
        command: std::process::Command,
        inside: &str,
        args: &[&str],
        input: &str,
    ) -> Ran {
        let output = Command::from_std(command)
            .args(args)
            .current_dir(self.path().join(inside))
            .env("XDG_STATE_HOME", self.path().join("state"))
            .env_remove("NO_COLOR")
            .write_stdin(input)
            .output()
            .expect("the program runs");
        let text = |bytes: Vec<u8>| String::from_utf8(bytes).expect("UTF-8 output");
        Ran {
            status: output.status.code().unwrap_or(-1),
            out: text(output.stdout),
            err: text(output.stderr),
        }
    }
}
