//! What can be typed.

use std::path::PathBuf;

use crate::equipping::Editor;
use clap::{Args as ClapArgs, Parser, Subcommand, ValueEnum};
use quillon_core::Language;

mod arranging;
mod following;
mod grouping;
mod packing;
mod running;
mod sharing;
mod showing;
mod trying;

pub use crate::output::Format;
pub use arranging::arranged;
pub use following::{OneProgram, Profile, ProfileView, Trace, Walk};
pub use grouping::{command, typed, welcome};
pub use packing::of_packed;
pub use running::{EngineChoice, Running};
pub use sharing::{Arrange, Completions, Manual, Pack, Reference};
pub use showing::{
    Code, Core, Explain, Grammar, GrammarView, Scopes, ScopesView, Steps, StepsView, Tokens,
    Translate, Tree, TreeView, Types, TypesView,
};
pub use trying::{Compare, CoverageOf, Generate, Repl, Test, TestFormat};

/// Describe a small scripting language in one file, and use it.
#[derive(Debug, Parser)]
#[command(name = "quillon", version, max_term_width = 96)]
#[command(after_help = "Start with `quillon demo`, or with `quillon new NAME`.
Exit status: 0 done; 1 a program, a case or a check failed; 2 wrong usage;
3 the definition has errors; 4 an input could not be read.")]
pub struct Args {
    /// When to colour what is shown
    #[arg(
        long,
        global = true,
        value_name = "WHEN",
        default_value = "auto",
        hide_short_help = true
    )]
    pub color: Color,

    #[command(subcommand)]
    pub command: Command,
}

/// When to colour.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum Color {
    /// On a terminal, unless NO_COLOR is set
    Auto,
    /// Always
    Always,
    /// Never
    Never,
}

impl Color {
    /// Makes the choice known to everything that writes.
    pub fn apply(self) {
        match self {
            Color::Auto => {}
            Color::Always => anstream::ColorChoice::Always.write_global(),
            Color::Never => anstream::ColorChoice::Never.write_global(),
        }
    }
}

/// The commands. The arguments of one are made when it is asked for: most runs ask for one. What the help says
/// of a command stands here: a documentation comment of its arguments would take its place.
#[derive(Debug, Subcommand)]
#[command(defer = true)]
pub enum Command {
    /// Make a folder with a small working language
    #[command(
        after_help = "Example:\n  quillon new ferry\n  quillon new ferry --from reach\n  cd ferry\n  quillon test\n  quillon run programs/first.ferry"
    )]
    New(New),
    /// Show every stage of the built-in language
    #[command(
        after_help = "Example:\n  quillon demo\n  quillon demo --save towpath     write the language and its programs into a folder\n  quillon demo --list             name the other languages that are bundled"
    )]
    Demo(Demo),
    /// Examine a definition, or a program without running it
    #[command(
        after_help = "Example:\n  quillon check towpath.quillon\n  quillon check programs/tolls.tow\n    no errors in programs/tolls.tow"
    )]
    Check(Check),
    /// Show the grammar of a definition in a standard notation
    #[command(
        after_help = "Example:\n  quillon grammar towpath.quillon\n  quillon grammar --as iso > grammar.ebnf\n  quillon grammar --as html > grammar.html"
    )]
    Grammar(Grammar),
    /// Show the tokens of a program
    #[command(
        after_help = "Example:\n  quillon tokens programs/tolls.tow\n  echo 'let level' | quillon tokens -l towpath.quillon -\n    place  kind       text   value\n      1:1  (literal)  let\n      1:5  Name       level"
    )]
    Tokens(Tokens),
    /// Show the tree of a program
    #[command(
        after_help = "Example:\n  quillon tree programs/tolls.tow\n  quillon tree -l towpath.quillon --as line --text '1 + 2 * 3'\n    Plus(Number(1), Times(Number(2), Number(3)))"
    )]
    Tree(Tree),
    /// Show what each name in a program refers to
    #[command(
        after_help = "Example:\n  quillon scopes programs/tolls.tow\n  quillon scopes --notes -l towpath.quillon --text 'let a be 1 say 2'"
    )]
    Scopes(Scopes),
    /// Show the types of a program
    #[command(
        after_help = "Example:\n  quillon types programs/first.weir\n  quillon types --as table -l weir.quillon --text 'let level = 2; level + 1'\n  quillon types --why 1:16 -l weir.quillon --text 'let level = 2; level + 1'"
    )]
    Types(Types),
    /// Show the Core (intermediate language) of a program
    #[command(
        after_help = "Example:\n  quillon core programs/tolls.tow\n  quillon core -l towpath.quillon --text 'say 1 + 2'"
    )]
    Core(Core),
    /// Show the bytecode of a program
    #[command(
        after_help = "Example:\n  quillon code programs/tolls.tow --lines\n  quillon code -l towpath.quillon --text 'say 1 + 2'"
    )]
    Code(Code),
    /// Rewrite a program in another surface (concrete syntax)
    #[command(
        after_help = "Example:\n  quillon translate --to Flags programs/up.lock\n  quillon translate -l lockstep.quillon --to Flags --text 'fill the lock by 3 feet'\n    + 3"
    )]
    Translate(Translate),
    /// Run programs
    #[command(
        after_help = "Example:\n  quillon run programs/tolls.tow\n  quillon run -l towpath.quillon --value --text '1 + 2'\n    3"
    )]
    Run(Run),
    /// Print every step of a run
    #[command(
        after_help = "Example:\n  quillon trace programs/tolls.tow --fold 4\n  quillon trace -l towpath.quillon --text 'let level be 2 change level to level + 1'\n  quillon trace programs/flight.tow --watch level"
    )]
    Trace(Trace),
    /// Reduce a program step by step
    #[command(
        after_help = "Example:\n  quillon steps programs/fall.sluice\n  quillon steps -l sluice.quillon --text 'gate x { x + 1 } <- 2'\n  quillon steps --as html programs/fall.sluice > steps.html"
    )]
    Steps(Steps),
    /// Show where a run spends its time and its memory
    #[command(
        after_help = "Example:\n  quillon profile programs/tolls.tow\n  quillon profile --as flame programs/tolls.tow > calls.svg"
    )]
    Profile(Profile),
    /// Show everything known about one place in a program
    #[command(after_help = "Example:\n  quillon explain programs/tolls.tow:3:5")]
    Explain(Explain),
    /// Read, run and print, entry by entry
    #[command(
        after_help = "Example:\n  quillon repl -l towpath.quillon\n  echo '1 + 2' | quillon repl -l towpath.quillon\n    3"
    )]
    Repl(Repl),
    /// Run examples and case files
    #[command(
        after_help = "Example:\n  quillon test\n  quillon test towpath.quillon --only skip\n  quillon test cases/tolls.cases --accept\n  quillon test --watch\n  quillon test --coverage\n  quillon test --generated 1000"
    )]
    Test(Test),
    /// Generate programs from a definition
    #[command(
        after_help = "Example:\n  quillon generate towpath.quillon --size 60\n  quillon generate --sort Expr -n 20"
    )]
    Generate(Generate),
    /// Serve an editor over the Language Server Protocol
    ///
    /// Editors start it, once for any number of definitions and programs. It reads standard input and writes
    /// standard output. A program runs only when its lens is clicked.
    #[command(after_help = "Example, for Neovim 0.8 or newer:
  vim.filetype.add({ extension = { quillon = 'quillon', cases = 'quillon-cases', tow = 'towpath' } })
  vim.api.nvim_create_autocmd('FileType', {
    pattern = { 'quillon', 'quillon-cases', 'towpath' },
    callback = function()
      vim.lsp.start({ name = 'quillon', cmd = { 'quillon', 'editor' }, root_dir = vim.fn.getcwd() })
    end })

Others: name `quillon editor` as the language server for files that end in .quillon and for those of your language.")]
    Editor,
    /// Step through a run in the terminal, forwards and backwards
    ///
    /// The screen shows the source with the current form, the names with their values, the calls, the forms around,
    /// and the output. A key goes forwards or backwards, by forms, lines, calls or stops.
    #[command(
        after_help = "Example:\n  quillon walk daylog.tow\n  quillon walk -l towpath.quillon -t 'let tons = 20; say tons + 1'"
    )]
    Walk(Walk),
    /// Serve a debugger over the Debug Adapter Protocol
    ///
    /// Editors start it, once for each run. It goes forwards and backwards, by lines and by instructions, and stops
    /// at breakpoints. The editor sends `program`, and optionally `definition`, `stopOnEntry`, `input`, `seed`.
    #[command(after_help = "Example, for a client that starts it:
  {\"type\": \"quillon\", \"request\": \"launch\", \"program\": \"daylog.tow\", \"stopOnEntry\": true}

Example, for a client that connects to it:
  quillon debugger --port 4711")]
    Debugger(Debugger),
    /// Format programs, definitions and case files
    ///
    /// Indents lines by their nesting, puts blanks and empty lines where the language has them, and breaks lines
    /// that are too long. A program keeps its tree and its comments.
    #[command(
        after_help = "Example:\n  quillon arrange towpath.quillon programs\n  quillon arrange --check .\n    7 files are in order\n  quillon arrange --diff programs/tolls.tow\n  quillon arrange - --named tolls.tow < programs/tolls.tow"
    )]
    Arrange(Arrange),
    /// Make one executable of a language, or of a program
    ///
    /// A packed language has its own name, version and help. It runs programs, has its REPL, formats programs,
    /// and serves editors and debuggers. A packed program is a tool with arguments. Both run by themselves.
    #[command(
        after_help = "Example:\n  quillon pack towpath.quillon --into towpath\n  ./towpath run programs/tolls.tow\n  quillon pack --program programs/tolls.tow --into tolls\n  ./tolls"
    )]
    Pack(Pack),
    /// Write a reference of a language for its users
    ///
    /// It shows every form with its diagram, its names, its type and its passing examples; operators by precedence;
    /// built-in functions; errors. It needs no network.
    #[command(
        after_help = "Example:\n  quillon reference towpath.quillon --into towpath.html\n  quillon reference --into docs"
    )]
    Reference(Reference),
    /// Print a completion script for a shell
    #[command(
        after_help = "Example:\n  source <(quillon completions bash)        in ~/.bashrc; likewise for zsh\n  quillon completions fish | source         in ~/.config/fish/config.fish"
    )]
    Completions(Completions),
    /// Write manual pages
    #[command(
        after_help = "Example:\n  quillon manual --into ~/.local/share/man/man1\n  man quillon-run"
    )]
    Manual(Manual),
    /// Make an editor package for a language
    ///
    /// The package has colours, comments and brackets, and starts `quillon editor`.
    #[command(
        after_help = "Example:\n  quillon equip towpath.quillon --for neovim --into ~/.local/share/nvim/site/pack/towpath/start/towpath\n  quillon equip --for vscode --into towpath-vscode"
    )]
    Equip(Equip),
    /// Run programs with two definitions and show what differs
    #[command(
        after_help = "Example:\n  quillon compare old.quillon towpath.quillon programs\n  quillon compare old.quillon towpath.quillon --brief"
    )]
    Compare(Compare),
}

impl Command {
    /// How the result is to be shown.
    pub fn format(&self) -> Format {
        match self {
            Command::New(_)
            | Command::Demo(_)
            | Command::Editor
            | Command::Walk(_)
            | Command::Debugger(_)
            | Command::Pack(_)
            | Command::Reference(_)
            | Command::Completions(_)
            | Command::Manual(_)
            | Command::Equip(_) => Format::Text,
            Command::Repl(args) => args.format,
            Command::Check(args) => args.format,
            Command::Grammar(args) => args.format,
            Command::Tokens(args) => args.common.format,
            Command::Tree(args) => args.common.format,
            Command::Scopes(args) => args.common.format,
            Command::Code(args) => args.common.format,
            Command::Translate(args) => args.common.format,
            Command::Run(args) => args.common.format,
            Command::Trace(args) => args.common.format,
            Command::Profile(args) => args.common.format,
            Command::Explain(args) => args.common.format,
            Command::Test(args) => args.format.into(),
            Command::Generate(args) => args.format,
            Command::Compare(args) => args.format,
            Command::Types(args) => args.common.format,
            Command::Steps(args) => args.common.format,
            Command::Core(args) => args.common.format,
            Command::Arrange(args) => args.common.format,
        }
    }
}

// Which definition, and how to show what comes.
#[derive(Clone, Debug, ClapArgs)]
pub struct Common {
    /// The definition; by default found by the program's extension, in its folder or above
    ///
    /// A file NAME.quillon needs no `-l` before it.
    #[arg(short, long, value_name = "DEFINITION")]
    pub language: Option<PathBuf>,

    /// The surface (concrete syntax) of the program; by default that of its extension
    #[arg(long, value_name = "SURFACE")]
    pub surface: Option<String>,

    /// Whether types are checked before a program runs
    #[arg(
        long,
        value_name = "WHETHER",
        default_value = "on",
        hide_short_help = true
    )]
    pub types: Checked,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

impl Common {
    /// What is usual, of a definition if there is one.
    pub fn of(definition: Option<PathBuf>) -> Common {
        Common {
            language: definition,
            surface: None,
            types: Checked::On,
            format: Format::Text,
        }
    }
}

/// Whether types are checked before anything runs.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum Checked {
    /// As the definition says
    On,
    /// Not at all: a program runs whatever its types
    Off,
}

impl Checked {
    /// The language, checking types or not.
    pub fn apply(self, language: Language) -> Language {
        match self {
            Checked::On => language,
            Checked::Off => language.without_types(),
        }
    }
}

// Which programs.
#[derive(Debug, ClapArgs)]
pub struct Program {
    /// The programs' files, folders that have some, or - for standard input
    #[arg(required_unless_present = "text", conflicts_with = "text")]
    pub programs: Vec<PathBuf>,

    /// The program itself
    #[arg(short, long, allow_hyphen_values = true)]
    pub text: Option<String>,
}

// Arguments of `new`.
#[derive(Debug, ClapArgs)]
pub struct New {
    /// The language's name; the folder gets the same name
    pub name: String,

    /// Start from one of the bundled languages; without a name, list them
    #[arg(long, value_name = "LANGUAGE", num_args = 0..=1, default_missing_value = "")]
    pub from: Option<String>,
}

// Arguments of `demo`.
#[derive(Debug, ClapArgs)]
pub struct Demo {
    /// Write the language, its programs and its cases into a folder instead
    #[arg(long, value_name = "FOLDER")]
    pub save: Option<PathBuf>,

    /// Name the languages that `new --from` can begin with
    #[arg(long, conflicts_with = "save")]
    pub list: bool,
}

// Arguments of `check`.
#[derive(Debug, ClapArgs)]
pub struct Check {
    /// The definition; without it, the one in this folder or above. Or a program, which is examined without
    /// being run
    pub path: Option<PathBuf>,

    /// How to show the result
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

// Arguments of `debugger`.
#[derive(Debug, ClapArgs)]
pub struct Debugger {
    /// Wait for one client at this port of this machine, instead of standard input and output
    #[arg(long, value_name = "PORT")]
    pub port: Option<u16>,
}

// Arguments of `equip`.
#[derive(Debug, ClapArgs)]
pub struct Equip {
    /// The definition; without it, the one in this folder or above
    pub definition: Option<PathBuf>,

    /// The editor
    #[arg(long = "for", value_name = "EDITOR")]
    pub editor: Editor,

    /// The folder that the package is written into
    #[arg(long, value_name = "FOLDER")]
    pub into: PathBuf,
}

// Arguments of `run`.
#[derive(Debug, ClapArgs)]
pub struct Run {
    /// The programs' files, or - for standard input
    #[arg(required_unless_present = "text", conflicts_with = "text")]
    pub programs: Vec<PathBuf>,

    /// The program itself
    #[arg(short, long, allow_hyphen_values = true)]
    pub text: Option<String>,

    #[command(flatten)]
    pub common: Common,

    /// Show the value of the program at the end
    #[arg(long)]
    pub value: bool,

    /// Show the state before and after
    #[arg(long)]
    pub show_state: bool,

    /// What runs it
    #[arg(long, value_enum, default_value_t)]
    pub engine: EngineChoice,

    /// Keep the program's bytecode in a file instead of running it; `run FILE` runs it
    #[arg(long, value_name = "FILE")]
    pub save: Option<PathBuf>,

    #[command(flatten)]
    pub running: Running,
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory;

    #[test]
    fn the_arguments_are_consistent() {
        super::Args::command().debug_assert();
    }
}
