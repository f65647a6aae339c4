//! Arguments of the commands that make a language, and what is written in it, ready for others.

use std::path::PathBuf;

use clap::Args as ClapArgs;

use super::Common;

// Arguments of `arrange`.
#[derive(Debug, ClapArgs)]
pub struct Arrange {
    /// Programs, definitions and case files, folders that have some, or - for standard input
    #[arg(required = true)]
    pub files: Vec<PathBuf>,

    /// Write nothing; list the files that are not in order, and exit with 1 if there are any
    #[arg(long)]
    pub check: bool,

    /// Write nothing; show what would change
    #[arg(long)]
    pub diff: bool,

    /// The file name that standard input stands for, which tells its language
    #[arg(long, value_name = "FILE")]
    pub named: Option<PathBuf>,

    /// Indentation of a program: a number of spaces, or `tab`
    #[arg(long, value_name = "STEP", default_value = "2", value_parser = step)]
    pub indent: Step,

    #[command(flatten)]
    pub common: Common,
}

// Arguments of `completions`.
#[derive(Debug, ClapArgs)]
pub struct Completions {
    /// The shell
    pub shell: clap_complete::Shell,
}

// Arguments of `manual`.
#[derive(Debug, ClapArgs)]
pub struct Manual {
    /// The folder to write into
    #[arg(long, value_name = "FOLDER")]
    pub into: PathBuf,
}

// Arguments of `reference`.
#[derive(Debug, ClapArgs)]
pub struct Reference {
    /// The definition; without it, the one in this folder or above
    pub definition: Option<PathBuf>,

    /// The file to write: a page if it ends in `.html`, Markdown if it ends in `.md`; or a folder that gets both.
    /// Without it, the page goes to standard output
    #[arg(long, value_name = "FILE")]
    pub into: Option<PathBuf>,

    /// The first program to show; by default the shortest in `programs` beside the definition
    #[arg(long, value_name = "PROGRAM")]
    pub first: Option<PathBuf>,
}

// Arguments of `pack`.
#[derive(Debug, ClapArgs)]
pub struct Pack {
    /// The definition; without it, the one in this folder or above
    pub definition: Option<PathBuf>,

    /// The executable to write; its name is that of the language or program
    #[arg(long, value_name = "FILE")]
    pub into: PathBuf,

    /// Pack this program with its language, as a tool of its own
    #[arg(long, value_name = "PROGRAM")]
    pub program: Option<PathBuf>,

    /// The version that the executable reports
    #[arg(long, value_name = "VERSION", default_value = "1.0.0")]
    pub release: String,
}

/// A step that lines are set in: so many blanks, or a tab where there are none.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Step(pub Option<u8>);

/// The most blanks that a step may have.
const WIDEST_STEP: u8 = 16;

fn step(text: &str) -> Result<Step, String> {
    if text == "tab" {
        return Ok(Step(None));
    }
    let count = text.parse().ok().filter(|count| *count <= WIDEST_STEP);
    let count = count.ok_or_else(|| format!("a number up to {WIDEST_STEP}, or `tab`"))?;
    Ok(Step(Some(count)))
}
