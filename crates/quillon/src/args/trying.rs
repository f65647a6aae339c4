//! What `repl` and `test` take.

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args as ClapArgs, ValueEnum};

use super::running::seconds;
use super::{Format, Running};

/// Arguments of `repl`.
#[derive(Debug, ClapArgs)]
pub struct Repl {
    /// The definition; without it, the one in this folder or above
    #[arg(short, long, value_name = "DEFINITION")]
    pub language: Option<PathBuf>,

    /// From a pipe: go on after an entry that fails
    #[arg(long)]
    pub keep_going: bool,

    /// Go on with the definition as it is saved, from the next entry on
    #[arg(long)]
    pub watch: bool,

    /// How entries come and answers go: as text, or as a JSON object a line
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,

    #[command(flatten)]
    pub running: Running,
}

/// Arguments of `test`.
#[derive(Debug, ClapArgs)]
pub struct Test {
    /// Definitions, case files, or folders that have them; without any, the definition in
    /// this folder or above, with its cases
    pub paths: Vec<PathBuf>,

    /// The definition of the case files
    #[arg(short, long, value_name = "DEFINITION")]
    pub language: Option<PathBuf>,

    /// Only cases with this in their title
    #[arg(long, value_name = "WORDS")]
    pub only: Option<String>,

    /// Only cases that failed the last time
    #[arg(long)]
    pub failed: bool,

    /// List the cases that pass, too
    #[arg(long)]
    pub list: bool,

    /// Write what each failing case came to into its file, as what is expected from now on
    #[arg(long)]
    pub accept: bool,

    /// Run again whenever a file changes
    #[arg(long, conflicts_with = "accept")]
    pub watch: bool,

    /// Stop a case after so many seconds
    #[arg(long, value_name = "SECONDS", value_parser = seconds, default_value = "10")]
    pub time: Duration,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: TestFormat,
}

/// How what came of cases is shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum TestFormat {
    /// For people
    Text,
    /// For tools
    Json,
    /// As JUnit XML
    Junit,
    /// As TAP 14
    Tap,
}

impl From<TestFormat> for Format {
    fn from(format: TestFormat) -> Format {
        match format {
            TestFormat::Json => Format::Json,
            _ => Format::Text,
        }
    }
}
