//! What `repl` and `test` take.

use std::path::PathBuf;
use std::time::Duration;

use clap::{Args as ClapArgs, ValueEnum};

use super::running::seconds;
use super::{Format, Running};

// Arguments of `repl`.
#[derive(Debug, ClapArgs)]
pub struct Repl {
    /// The definition; without it, the one in this folder or above. A file NAME.quillon needs no
    /// `-l` before it
    #[arg(short, long, value_name = "DEFINITION")]
    pub language: Option<PathBuf>,

    /// From a pipe: go on after an entry that fails
    #[arg(long)]
    pub keep_going: bool,

    /// Reload the definition whenever it is saved
    #[arg(long)]
    pub watch: bool,

    /// Format of entries and answers: text, or one JSON object a line
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,

    #[command(flatten)]
    pub running: Running,
}

/// One of the parts that a suite is split into: by turns, so that each has as much to do.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Shard {
    /// Its number, from 0, and how many there are.
    number: u64,
    count: u64,
}

impl Shard {
    /// Whether something belongs to it, by its number.
    pub fn has(self, number: u64) -> bool {
        number % self.count == self.number
    }
}

fn shard(text: &str) -> Result<Shard, String> {
    let numbers = text.split_once('/').and_then(|(number, count)| {
        let (number, count): (u64, u64) = (number.parse().ok()?, count.parse().ok()?);
        let number = number.checked_sub(1).filter(|number| *number < count)?;
        Some(Shard { number, count })
    });
    numbers.ok_or_else(|| "write which part of how many, as `2/4`".to_owned())
}

// Arguments of `test`.
#[expect(clippy::struct_excessive_bools, reason = "each is a switch of its own")]
#[derive(Debug, ClapArgs)]
#[command(group = clap::ArgGroup::new("generating").multiple(true))]
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

    /// Write the result of each failing case into its file as the expected one
    #[arg(long)]
    pub accept: bool,

    /// List what no case touches, with a small program for each; KIND limits the list to one
    /// kind
    #[arg(long, value_name = "KIND", num_args = 0..=1, require_equals = true, default_missing_value = "all")]
    pub coverage: Option<CoverageOf>,

    /// Also check N generated programs
    #[arg(long, value_name = "N", group = "generating")]
    pub generated: Option<u64>,

    /// Also run N generated programs that are well typed, and report type errors at run time
    #[arg(group = "generating", long, value_name = "N", num_args = 0..=1, default_missing_value = "1000", require_equals = true)]
    pub soundness: Option<u64>,

    /// Approximate size of a generated program, in tokens
    #[arg(
        long,
        value_name = "TOKENS",
        default_value = "40",
        requires = "generating"
    )]
    pub size: usize,

    /// Seed of the first generated program
    #[arg(long, value_name = "N", default_value = "0", requires = "generating")]
    pub seed: u64,

    /// Save each generated program that fails as a case, as small as possible
    #[arg(long, requires = "generating")]
    pub keep: bool,

    /// Run again whenever a file changes
    #[arg(long, conflicts_with = "accept")]
    pub watch: bool,

    /// Run part K of N, such as `2/4`; all parts together run everything once
    #[arg(long, value_name = "K/N", value_parser = shard, conflicts_with_all = ["accept", "watch", "coverage"])]
    pub shard: Option<Shard>,

    /// Time limit of a case
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
            TestFormat::Text | TestFormat::Junit | TestFormat::Tap => Format::Text,
        }
    }
}

/// What coverage is shown of.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum CoverageOf {
    /// Everything
    All,
    /// Kinds of token
    Tokens,
    /// Forms
    Forms,
    /// The ways to write them
    Ways,
    /// Forms in other surfaces
    Surfaces,
    /// Operators side by side
    Pairs,
    /// Branches of meanings
    Branches,
    /// Error messages of the definition
    Errors,
}

// Arguments of `generate`.
#[derive(Debug, ClapArgs)]
pub struct Generate {
    /// The definition; without it, the one in this folder or above
    pub definition: Option<PathBuf>,

    /// Generate texts of this sort, which must be an entry; by default whole programs
    #[arg(long, value_name = "SORT")]
    pub sort: Option<String>,

    /// Write them in another surface of the language
    #[arg(long, value_name = "SURFACE")]
    pub surface: Option<String>,

    /// Generate programs that find mistakes, not such as a person could have written: with unusual texts, large
    /// numbers, and values of kinds that do not fit
    #[arg(long)]
    pub odd: bool,

    /// Approximate size, in tokens
    #[arg(long, value_name = "TOKENS", default_value = "40")]
    pub size: usize,

    /// How many
    #[arg(short = 'n', long, value_name = "N", default_value = "1")]
    pub count: u64,

    /// Seed of the first program: the same seed gives the same program
    #[arg(long, value_name = "N", default_value = "0")]
    pub seed: u64,

    /// Write each program into a file in this folder
    #[arg(long, value_name = "FOLDER")]
    pub save: Option<PathBuf>,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

// Arguments of `compare`.
#[derive(Debug, ClapArgs)]
pub struct Compare {
    /// The old definition
    pub old: PathBuf,

    /// The new definition
    pub new: PathBuf,

    /// Programs, case files, or folders that have them; without any, the examples, cases and
    /// programs of both
    pub programs: Vec<PathBuf>,

    /// Show only which programs differ, and in what
    #[arg(long)]
    pub brief: bool,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}
