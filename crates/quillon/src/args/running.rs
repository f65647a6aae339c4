//! What every command that runs something takes.

use std::path::PathBuf;
use std::time::Duration;

use clap::Args as ClapArgs;
use quillon_core::runtime::Host;
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Session, SessionBuilder};

use crate::free_memory;
use crate::reach::Reach;
use crate::state;
use crate::stop::Stop;

/// What runs a program.
#[derive(Clone, Copy, Default, Debug, clap::ValueEnum)]
pub enum EngineChoice {
    /// Bytecode and the machine
    #[default]
    Machine,
    /// The walking evaluator, the reference
    Walk,
}

impl From<EngineChoice> for Engine {
    fn from(choice: EngineChoice) -> Engine {
        match choice {
            EngineChoice::Machine => Engine::Machine,
            EngineChoice::Walk => Engine::Walk,
        }
    }
}

// How to run.
#[derive(Debug, ClapArgs)]
pub struct Running {
    /// Start with the state in this file: a JSON object with a value for each cell
    #[arg(long, value_name = "FILE", hide_short_help = true)]
    state: Option<PathBuf>,

    #[command(flatten)]
    limits: RunLimits,

    #[command(flatten)]
    outside: Outside,

    /// Arguments for the program
    #[arg(last = true, value_name = "ARGUMENT")]
    arguments: Vec<String>,
}

impl Running {
    /// What the run of a program can reach.
    pub fn reach(&self, program: &SourceText) -> Reach {
        self.reach_of_saved().of_program(program)
    }

    /// What the run of a saved program can reach, which could come from anyone.
    pub fn reach_of_saved(&self) -> Reach {
        Reach {
            read: self.outside.files_from.clone(),
            write: self.outside.files_into.clone(),
            programs: None,
            arguments: self.arguments.clone(),
        }
    }

    /// The same for reading alone: for a run that has been made before.
    pub fn reading_only(&self, program: &SourceText) -> Reach {
        Reach {
            write: Vec::new(),
            ..self.reach(program)
        }
    }

    /// A session within the limits, with the state and the seed asked for.
    pub fn session<H: Host>(
        &self,
        engine: Engine,
        language: &Language,
        host: H,
    ) -> Result<Session<H>, Stop> {
        start(self.builder(language)?.engine(engine), host)
    }

    /// The same with a session that counts what the machine does.
    pub fn counting<H: Host>(&self, language: &Language, host: H) -> Result<Session<H>, Stop> {
        start(self.builder(language)?.counted(), host)
    }

    /// The same, of which it is noted what is in use.
    pub fn weighing<H: Host>(&self, language: &Language, host: H) -> Result<Session<H>, Stop> {
        start(self.builder(language)?.weighed(), host)
    }

    /// What runs within the limits, with the state and the seed asked for.
    pub fn builder(&self, language: &Language) -> Result<SessionBuilder, Stop> {
        let mut builder = language.session().limits(self.limits.limits());
        if let Some(seed) = self.outside.seed {
            builder = builder.seed(seed);
        }
        match &self.state {
            Some(path) => state::given(path, builder),
            None => Ok(builder),
        }
    }
}

fn start<H: Host>(builder: SessionBuilder, host: H) -> Result<Session<H>, Stop> {
    let session = builder.start(host);
    session.map_err(|problems| Stop::Definition(problems.into()))
}

// How far a run may go.
#[derive(Debug, ClapArgs)]
#[command(next_help_heading = "Limits")]
struct RunLimits {
    /// Stop a run after N steps
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..))]
    steps: Option<u64>,

    /// Stop a run when calls are nested more than N deep
    #[arg(
        long,
        value_name = "N",
        default_value_t = 2_000_000,
        hide_short_help = true
    )]
    depth: u32,

    /// Stop a run that needs more memory than this, such as `64M` or `2G`; less where the
    /// machine has less
    #[arg(long, value_name = "SIZE", default_value = "4G", value_parser = size, hide_short_help = true)]
    memory: u64,

    /// Stop a run after this time
    #[arg(long, value_name = "SECONDS", value_parser = seconds)]
    time: Option<Duration>,

    /// Stop a run that prints more bytes than this
    #[arg(long, value_name = "BYTES", hide_short_help = true)]
    output: Option<u64>,
}

/// A time in seconds, as `1.5`.
pub(super) fn seconds(text: &str) -> Result<Duration, String> {
    let number: f64 = text
        .parse()
        .map_err(|_| "write seconds, as `1.5`".to_owned())?;
    Duration::try_from_secs_f64(number).map_err(|_| "write seconds, as `1.5`".to_owned())
}

/// A size in bytes, as `64M`.
fn size(text: &str) -> Result<u64, String> {
    let wrong = || "write a size in bytes, as `500000`, `64M` or `2G`".to_owned();
    let digits = text.trim_end_matches(|c: char| c.is_ascii_alphabetic());
    let unit: u64 = match text[digits.len()..].to_ascii_uppercase().as_str() {
        "" => 1,
        "K" => 1 << 10,
        "M" => 1 << 20,
        "G" => 1 << 30,
        _ => return Err(wrong()),
    };
    let number: u64 = digits.parse().map_err(|_| wrong())?;
    number.checked_mul(unit).ok_or_else(wrong)
}

// What a run can reach.
#[derive(Debug, ClapArgs)]
#[command(next_help_heading = "What a run can reach")]
struct Outside {
    /// Let the program read files in this folder
    #[arg(long, value_name = "FOLDER", hide_short_help = true)]
    files_from: Vec<PathBuf>,

    /// Let the program write files in this folder
    #[arg(long, value_name = "FOLDER", hide_short_help = true)]
    files_into: Vec<PathBuf>,

    /// Random seed: the same seed gives the same random numbers
    #[arg(long, value_name = "N", hide_short_help = true)]
    seed: Option<u64>,
}

impl RunLimits {
    /// As the core has them.
    fn limits(&self) -> quillon_core::runtime::Limits {
        quillon_core::runtime::Limits {
            steps: self.steps,
            depth: self.depth,
            time: self.time,
            output: self.output,
            memory: Some(free_memory::at_most(self.memory)),
        }
    }
}
