//! Reading entries: from a terminal, with editing and history, or from a pipe.

use std::cell::RefCell;
use std::io::BufRead;
use std::rc::Rc;

use anstream::ColorChoice;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::source::SourceText;
use rustyline::error::ReadlineError;
use rustyline::history::MemHistory;
use rustyline::{ColorMode, CompletionType, Config, Editor};

use super::editing::{Around, Typing};
use super::{After, Repl, history};
use crate::exit::Exit;
use crate::interrupts;
use crate::render::screen;
use crate::render::style::{QUIET, paint};
use crate::stop::Stop;

/// The next line of standard input, or what is wrong with it; nothing at its end. The lock is
/// not kept, since a program may want to read, too.
pub fn next_line() -> Option<std::io::Result<String>> {
    let mut line = Vec::new();
    match std::io::stdin().lock().read_until(b'\n', &mut line) {
        Ok(0) => None,
        Ok(_) => {
            let text = String::from_utf8(line).map_err(|_| {
                std::io::Error::new(std::io::ErrorKind::InvalidData, "it is not UTF-8")
            });
            Some(text.map(|text| text.trim_end_matches(['\n', '\r']).to_owned()))
        }
        Err(error) => Some(Err(error)),
    }
}

/// Entries from a pipe: no prompt; the first that fails ends it, unless told otherwise.
pub fn piped(repl: &mut Repl<'_>, keep_going: bool) -> Result<Exit, Stop> {
    let mut exit = Exit::Done;
    let mut entry = String::new();
    let mut number = 0;
    loop {
        number += 1;
        let line = next_line().transpose();
        let line = line.map_err(|error| unreadable(number, &error))?;
        let is_last = line.is_none();
        let ends = line.as_ref().is_none_or(|line| line.trim().is_empty());
        if let Some(line) = line {
            if !entry.is_empty() {
                entry.push('\n');
            }
            entry.push_str(&line);
        }
        if !ends && repl.is_unfinished(&entry) {
            continue;
        }
        match repl.enter(&std::mem::take(&mut entry)) {
            After::Next => {}
            After::Leave => return Ok(exit),
            After::Failed => {
                exit = Exit::Failed;
                if !keep_going {
                    return Ok(exit);
                }
            }
        }
        if is_last {
            return Ok(exit);
        }
    }
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

type Lines = Editor<Typing, MemHistory>;

/// Entries typed on a terminal.
pub fn interactive(repl: &mut Repl<'_>) -> Result<Exit, Stop> {
    let around = Rc::new(RefCell::new(around(repl)));
    let mut editor = editor(Rc::clone(&around))?;
    // After the editor, which wants to be told of interrupts itself, and would be alone.
    interrupts::watch_for();
    let mut language = repl.name().to_owned();
    fill_history(&mut editor, &language)?;
    let help = format!("{language}; `/help` lists what else can be done, Ctrl-D leaves");
    screen::say(paint(QUIET, help));
    let mut entry = String::new();
    loop {
        if *repl.name() != language {
            repl.name().clone_into(&mut language);
            fill_history(&mut editor, &language)?;
        }
        entry.clone_into(&mut around.borrow_mut().begun);
        let prompt = prompt(repl, &entry);
        let line = match typed_ahead() {
            Some(line) => {
                screen::say(format_args!("{}{line}", paint(QUIET, &prompt)));
                Ok(line)
            }
            None => editor.readline(&prompt),
        };
        match line {
            Ok(line) => {
                let ends = line.trim().is_empty();
                entry.push_str(&line);
                if !ends && repl.is_unfinished(&entry) {
                    entry.push('\n');
                    continue;
                }
                let whole = std::mem::take(&mut entry);
                if !whole.trim().is_empty() {
                    let text = whole.trim_end();
                    // The same twice is kept once; one that is too long is not offered again.
                    if editor.add_history_entry(text).unwrap_or(false) {
                        history::add(&language, text);
                    }
                }
                if repl.enter(&whole) == After::Leave {
                    break;
                }
                *around.borrow_mut() = self::around(repl);
            }
            Err(ReadlineError::Interrupted) => {
                if entry.is_empty() {
                    screen::say(paint(QUIET, "Ctrl-D or `/leave` leaves"));
                }
                entry.clear();
            }
            Err(ReadlineError::Eof) => break,
            Err(error) => return Err(broken(error)),
        }
    }
    Ok(Exit::Done)
}

/// A line that was typed while an entry ran. The editor would read all such lines at once and
/// keep the first.
#[cfg(unix)]
fn typed_ahead() -> Option<String> {
    use rustix::event::{PollFd, PollFlags, Timespec, poll};
    let input = std::io::stdin();
    let mut ready = [PollFd::new(&input, PollFlags::IN)];
    let now = Timespec {
        tv_sec: 0,
        tv_nsec: 0,
    };
    match poll(&mut ready, Some(&now)) {
        Ok(count) if count > 0 => next_line()?.ok(),
        Ok(_) | Err(_) => None,
    }
}

/// Elsewhere there is no way to ask whether a line waits.
#[cfg(not(unix))]
fn typed_ahead() -> Option<String> {
    None
}

fn broken(error: ReadlineError) -> Stop {
    Stop::Output(std::io::Error::other(error))
}

/// The language's name, or what is open in an entry that goes on.
fn prompt(repl: &Repl<'_>, entry: &str) -> String {
    let first = format!("{}> ", repl.name());
    if entry.is_empty() {
        return first;
    }
    let open = open_in(repl, entry);
    let width = first.chars().count().saturating_sub(2);
    format!("{open:>width$}│ ")
}

/// The words and brackets that are open, the innermost last.
fn open_in(repl: &Repl<'_>, entry: &str) -> String {
    const WIDEST: usize = 24;
    let language = &repl.conversation().language;
    let source = SourceText::new("entry", entry.to_owned());
    let tokens = language.lexer().tokens(&source);
    let unfinished = tokens.diagnostics.iter().find(|d| d.is_error());
    let mut words: Vec<String> = if let Some(place) = unfinished.and_then(|d| d.place.as_ref()) {
        // A token that is not closed is all that counts.
        let text = source.slice(place.span);
        text.chars().take(1).map(String::from).collect()
    } else {
        let open = language.ahead(&source).open.into_iter();
        open.map(|span| source.slice(span).to_owned()).collect()
    };
    let mut cut = false;
    while words.len() > 1 && words.iter().map(|w| w.chars().count() + 1).sum::<usize>() > WIDEST {
        words.remove(0);
        cut = true;
    }
    let dots = if cut { "… " } else { "" };
    format!("{dots}{} ", words.join(" "))
}

/// What the line that is typed next is a part of.
fn around(repl: &Repl<'_>) -> Around {
    let conversation = repl.conversation();
    let names = conversation.session.names().into_iter();
    Around {
        language: conversation.language.clone(),
        begun: String::new(),
        names: names
            .map(|(name, value)| (name.to_owned(), value))
            .collect(),
        colours: has_colours(),
        is_done: false,
    }
}

fn has_colours() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != ColorChoice::Never
}

fn editor(around: Rc<RefCell<Around>>) -> Result<Lines, Stop> {
    let colours = if has_colours() {
        ColorMode::Enabled
    } else {
        ColorMode::Disabled
    };
    let config = Config::builder()
        .completion_type(CompletionType::List)
        .color_mode(colours)
        .auto_add_history(false)
        .build();
    let history = MemHistory::with_config(&config);
    let mut editor = Editor::with_history(config, history).map_err(broken)?;
    editor.set_helper(Some(Typing(around)));
    Ok(editor)
}

/// Offers the entries of a language's earlier conversations, and no others.
fn fill_history(editor: &mut Lines, language: &str) -> Result<(), Stop> {
    editor.clear_history().map_err(broken)?;
    for entry in history::load(language) {
        // One that is too long is not offered again.
        let _ = editor.add_history_entry(entry);
    }
    Ok(())
}
