//! `quillon completions` and `quillon manual`: what makes the command line at home on a system.

use std::path::Path;

use clap::Command as Clap;

use crate::args::{Completions as Args, Manual as ManualArgs, command};
use crate::commands::new::write;
use crate::completing::script;
use crate::exit::Exit;
use crate::output::{hand_over, print_lines};
use crate::paths::shown;
use crate::stop::Stop;

/// What makes a shell complete what is typed.
pub fn run(args: &Args) -> Result<Exit, Stop> {
    let script = script(&args.shell.to_string()).unwrap_or_default();
    hand_over(&script)?;
    Ok(Exit::Done)
}

/// A manual page for the whole, and one for each command.
pub fn manual(args: &ManualArgs) -> Result<Exit, Stop> {
    let all = command();
    let mut pages = vec![("quillon".to_owned(), all.clone())];
    pages.extend(all.get_subcommands().map(|one| {
        let name = format!("quillon-{}", one.get_name());
        (name.clone(), one.clone().display_name(name))
    }));
    let mut lines = Vec::new();
    for (name, command) in pages {
        let file = args.into.join(format!("{name}.1"));
        write_page(&file, command)?;
        lines.push(format!("{} written", shown(&file)));
    }
    print_lines(&lines)?;
    Ok(Exit::Done)
}

fn write_page(file: &Path, command: Clap) -> Result<(), Stop> {
    let mut page = Vec::new();
    clap_mangen::Man::new(command).render(&mut page)?;
    write(file, page)
}
