//! `--watch`: again whenever a definition, a case file or a program changes.

use std::path::{Path, PathBuf};

use super::once;
use crate::args::{Format, Test as Args};
use crate::exit::Exit;
use crate::output::give_up;
use crate::render::screen;
use crate::render::style::{QUIET, paint};
use crate::stop::Stop;
use crate::watching::Watch;

pub fn watch(args: &Args) -> Result<Exit, Stop> {
    let here = [PathBuf::from(".")];
    let asked = if args.paths.is_empty() {
        &here
    } else {
        &args.paths[..]
    };
    let mut watched = asked.to_vec();
    watched.extend(args.language.clone());
    let watch = Watch::new(&watched).map_err(|error| Stop::Output(std::io::Error::other(error)))?;
    loop {
        // A definition that is wrong just now may be right after the next change.
        if let Err(stop) = once(args) {
            match stop {
                Stop::Output(_) => return Err(stop),
                Stop::Unreadable(_) | Stop::Definition(_) | Stop::Usage(_) => {
                    give_up(&stop, Format::Text)
                }
            };
        }
        screen::tell_line(paint(QUIET, "waiting for a change; Ctrl-C ends it"));
        if !watch.wait(counts) {
            return Ok(Exit::Done);
        }
        screen::tell_line("");
    }
}

/// Whether a change of a file matters. What `--accept` and editors leave beside it does not.
fn counts(path: &Path) -> bool {
    let name = path
        .file_name()
        .map(|name| name.to_string_lossy().into_owned());
    name.is_some_and(|name| !name.starts_with('.') && !name.ends_with('~'))
}
