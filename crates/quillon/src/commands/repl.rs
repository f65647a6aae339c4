//! `quillon repl`: a conversation with a language.

use std::io::IsTerminal;
use std::path::Path;

use crate::args::{Format, Repl as Args};
use crate::exit::Exit;
use crate::files;
use crate::interrupts;
use crate::repl::{Repl, lines, tools};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let definition = match &args.language {
        Some(path) => path.clone(),
        None => files::definition_near(Path::new("."))?,
    };
    let live = args.format == Format::Text;
    let mut repl = Repl::new(&definition, &args.running, live)?;
    if args.watch {
        repl.watch_definition()?;
    }
    if !live {
        interrupts::watch_for();
        return tools::answer(&mut repl, args.keep_going);
    }
    if std::io::stdin().is_terminal() {
        return lines::interactive(&mut repl);
    }
    interrupts::watch_for();
    lines::piped(&mut repl, args.keep_going)
}
