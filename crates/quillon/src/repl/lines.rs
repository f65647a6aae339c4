//! Reading entries: from a terminal, with editing and history, or from a pipe.

use std::io::BufRead;
use std::path::PathBuf;

use quillon_core::diagnostic::{Diagnostic, codes};
use rustyline::error::ReadlineError;
use rustyline::history::FileHistory;
use rustyline::{Config, Editor};

use super::{After, Conversation};
use crate::commands::Stop;
use crate::exit::Exit;
use crate::host::watch_for_interrupts;
use crate::render::style::{QUIET, paint};

/// Entries from a pipe: no prompt; the first that fails ends it, unless told otherwise.
pub fn piped(conversation: &mut Conversation<'_>, keep_going: bool) -> Result<Exit, Stop> {
    let mut exit = Exit::Done;
    let mut entry = String::new();
    for (number, line) in std::io::stdin().lock().lines().enumerate() {
        let line = line.map_err(|error| unreadable(number + 1, &error))?;
        let ends = line.trim().is_empty();
        if !entry.is_empty() {
            entry.push('\n');
        }
        entry.push_str(&line);
        if !ends && conversation.is_unfinished(&entry) {
            continue;
        }
        match conversation.enter(&std::mem::take(&mut entry)) {
            After::Next => {}
            After::Leave => return Ok(exit),
            After::Failed => {
                exit = Exit::Failed;
                if !keep_going {
                    return Ok(exit);
                }
            }
        }
    }
    if conversation.enter(&entry) == After::Failed {
        exit = Exit::Failed;
    }
    Ok(exit)
}

fn unreadable(line: usize, error: &std::io::Error) -> Stop {
    let why = if error.kind() == std::io::ErrorKind::InvalidData {
        "it is not UTF-8 text".to_owned()
    } else {
        error.to_string()
    };
    Stop::Unreadable(Box::new(Diagnostic::error(
        codes::FILE_UNREADABLE,
        format!("line {line} of standard input cannot be read: {why}"),
    )))
}

/// Entries typed on a terminal.
pub fn interactive(conversation: &mut Conversation<'_>) -> Result<Exit, Stop> {
    let name = conversation.name().to_owned();
    let mut editor = editor()?;
    // After the editor, which wants to be told of interrupts itself, and would be alone.
    watch_for_interrupts();
    let history = history_file(&name);
    if let Some(path) = &history {
        // A first conversation has no history.
        let _ = editor.load_history(path);
    }
    anstream::println!(
        "{}",
        paint(
            QUIET,
            format_args!("{name}; `/help` lists what else can be done, Ctrl-D leaves")
        )
    );
    let first = format!("{name}> ");
    let more = format!("{:>1$} ", "·", name.len() + 1);
    let mut entry = String::new();
    loop {
        let prompt = if entry.is_empty() { &first } else { &more };
        match editor.readline(prompt) {
            Ok(line) => {
                let ends = line.trim().is_empty();
                if !entry.is_empty() {
                    entry.push('\n');
                }
                entry.push_str(&line);
                if !ends && conversation.is_unfinished(&entry) {
                    continue;
                }
                let whole = std::mem::take(&mut entry);
                if !whole.trim().is_empty() {
                    let _ = editor.add_history_entry(whole.trim_end());
                }
                if conversation.enter(&whole) == After::Leave {
                    break;
                }
            }
            Err(ReadlineError::Interrupted) => {
                if entry.is_empty() {
                    anstream::println!("{}", paint(QUIET, "Ctrl-D or `/leave` leaves"));
                }
                entry.clear();
            }
            Err(ReadlineError::Eof) => break,
            Err(error) => return Err(Stop::Output(std::io::Error::other(error))),
        }
    }
    if let Some(path) = &history {
        // Losing the history is no reason to fail.
        let _ = editor.append_history(path);
    }
    Ok(Exit::Done)
}

fn editor() -> Result<Editor<(), FileHistory>, Stop> {
    let config = Config::builder()
        .max_history_size(2000)
        .and_then(|builder| builder.history_ignore_dups(true))
        .map(|builder| builder.auto_add_history(false).build());
    config
        .and_then(Editor::with_config)
        .map_err(|error| Stop::Output(std::io::Error::other(error)))
}

/// Where the history of a language's conversations is kept, if there is such a place.
fn history_file(language: &str) -> Option<PathBuf> {
    let state = std::env::var_os("XDG_STATE_HOME")
        .map(PathBuf::from)
        .or_else(|| Some(PathBuf::from(std::env::var_os("HOME")?).join(".local/state")))?;
    let folder = state.join("quillon");
    std::fs::create_dir_all(&folder).ok()?;
    Some(folder.join(format!("{language}.history")))
}
