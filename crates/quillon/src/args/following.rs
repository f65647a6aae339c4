//! What the commands take that follow a run.

use std::path::PathBuf;

use clap::{Args as ClapArgs, ValueEnum};

use super::{Common, Running};

// Which program.
#[derive(Debug, ClapArgs)]
pub struct OneProgram {
    /// The program's file, or - for standard input
    #[arg(required_unless_present = "text", conflicts_with = "text")]
    pub program: Option<PathBuf>,

    /// The program itself
    #[arg(short, long, allow_hyphen_values = true)]
    pub text: Option<String>,
}

/// How a profile is shown.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum ProfileView {
    /// Tables: by line, by form, by function
    Table,
    /// The calls as a picture in SVG, each as wide as its time
    Flame,
    /// The heap at its largest: by what allocated it, and by what refers to it
    Heap,
}

// Arguments of `profile`.
#[derive(Debug, ClapArgs)]
pub struct Profile {
    #[command(flatten)]
    pub program: OneProgram,

    #[command(flatten)]
    pub common: Common,

    /// How to show it
    #[arg(long = "as", value_name = "VIEW", default_value = "table")]
    pub view: ProfileView,

    /// Leave out the run by the walking evaluator, which takes many times as long
    #[arg(long)]
    pub no_walk: bool,

    #[command(flatten)]
    pub running: Running,
}

// Arguments of `walk`.
#[derive(Debug, ClapArgs)]
pub struct Walk {
    #[command(flatten)]
    pub program: OneProgram,

    #[command(flatten)]
    pub common: Common,

    /// Use this file as the input of the program; by default you are asked for it
    #[arg(long, value_name = "FILE")]
    pub input: Option<PathBuf>,

    /// Walk through a reduction of the program instead, of at most STEPS steps (1000)
    #[arg(long, value_name = "STEPS", num_args = 0..=1, require_equals = true, default_missing_value = "1000")]
    pub reduction: Option<usize>,

    #[command(flatten)]
    pub running: Running,
}

// Arguments of `trace`.
#[derive(Debug, ClapArgs)]
pub struct Trace {
    #[command(flatten)]
    pub program: OneProgram,

    #[command(flatten)]
    pub common: Common,

    /// First step to show
    #[arg(long, value_name = "STEP")]
    pub from: Option<u64>,

    /// Last step to show
    #[arg(long, value_name = "STEP")]
    pub to: Option<u64>,

    /// Only steps that begin on this line
    #[arg(long)]
    pub line: Option<u32>,

    /// Only steps of this form
    #[arg(long)]
    pub form: Option<String>,

    /// Only steps that change this variable or cell of the state
    #[arg(long, value_name = "NAME")]
    pub watch: Option<String>,

    /// Show steps up to this depth, and deeper ones as one
    #[arg(long, value_name = "DEPTH")]
    pub fold: Option<usize>,

    #[command(flatten)]
    pub running: Running,
}
