//! The REPL: conversations with languages.
//!
//! `conversation` is a conversation with one language, `orders` what the REPL itself can be told,
//! `views` what can be seen of an entry, `keeping` what is written into files. `lines` reads
//! from a terminal or a pipe, with `editing`, `completing` and `history` for the terminal;
//! `tools` speaks JSON.

use std::path::{Path, PathBuf};

use quillon_core::diagnostic::{Diagnostic, has_errors, plural, quote};
use quillon_core::source::SourceText;

use crate::args::Running;
use crate::files;
use crate::output::give_up;
use crate::render;
use crate::render::screen;
use crate::render::style::{FORM, GOOD, QUIET, VALUE, WARNING, paint};
use crate::render::table::{self, Cell};
use crate::stop::Stop;
use crate::watching::Watch;

mod completing;
mod conversation;
mod editing;
mod history;
pub mod keeping;
pub mod lines;
mod orders;
pub mod tools;
mod views;

use conversation::Conversation;
use orders::Order;
use views::{Seen, View};

/// What came of an entry.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum After {
    /// Go on.
    Next,
    /// Something was wrong with it.
    Failed,
    /// The conversation is over.
    Leave,
}

/// Conversations with one or several languages, of which one is at hand.
pub struct Repl<'r> {
    running: &'r Running,
    conversations: Vec<Conversation<'r>>,
    at: usize,
    also: Vec<View>,
    /// Knows when the file of the definition at hand changes, if that is to be known.
    watch: Option<Watch>,
    /// Whether what entries print is shown at once.
    live: bool,
}

impl<'r> Repl<'r> {
    /// A conversation with a language; with `live`, what entries print is shown at once.
    pub fn new(definition: &Path, running: &'r Running, live: bool) -> Result<Repl<'r>, Stop> {
        Ok(Repl {
            running,
            conversations: vec![Conversation::new(definition, running, live)?],
            at: 0,
            also: Vec::new(),
            watch: None,
            live,
        })
    }

    /// From now on a change of the definition's file counts from the next entry on.
    pub fn watch_definition(&mut self) -> Result<(), Stop> {
        let definition = self.conversation().definition.clone();
        let watch = Watch::new(&[definition]);
        self.watch = Some(watch.map_err(|error| Stop::Output(std::io::Error::other(error)))?);
        Ok(())
    }

    fn conversation(&self) -> &Conversation<'r> {
        &self.conversations[self.at]
    }

    fn conversation_mut(&mut self) -> &mut Conversation<'r> {
        &mut self.conversations[self.at]
    }

    /// The name of the language at hand.
    pub fn name(&self) -> &str {
        self.conversation().name()
    }

    /// Whether a text is the beginning of an entry that goes on.
    pub fn is_unfinished(&self, text: &str) -> bool {
        orders::read(text).is_none()
            && self
                .conversation()
                .language
                .is_unfinished(&SourceText::new("entry", text))
    }

    /// Does what an entry says.
    pub fn enter(&mut self, text: &str) -> After {
        if text.trim().is_empty() {
            return After::Next;
        }
        let reloaded = self.reload_if_changed();
        if let After::Failed = reloaded {
            return reloaded;
        }
        match orders::read(text) {
            Some(Ok(order)) => self.order(order),
            Some(Err(wrong)) => {
                screen::tell_line(format_args!("{wrong}"));
                After::Failed
            }
            None => {
                let source = self.conversation_mut().source(text);
                self.run(&source)
            }
        }
    }

    fn run(&mut self, source: &std::sync::Arc<SourceText>) -> After {
        let Some(exchange) = self.conversation_mut().enter(source) else {
            return After::Failed;
        };
        render::show_all(&exchange.diagnostics);
        let failed = exchange.value.is_none();
        if failed && let Some(order) = orders::meant_by(source.text()) {
            let said = format!("if it was not meant as an entry: `{order}`");
            screen::tell_line(paint(QUIET, said));
            return After::Failed;
        }
        if let Some(value) = exchange.value.as_ref().filter(|value| !value.is_nothing()) {
            screen::say(paint(VALUE, value.written()));
        }
        for view in self.also.clone() {
            self.see_last(view);
        }
        if failed { After::Failed } else { After::Next }
    }

    /// Shows something of the last entry, under its name.
    fn see_last(&self, view: View) -> After {
        let conversation = self.conversation();
        let Some(exchange) = conversation.last() else {
            screen::tell_line(format_args!(
                "there is no entry yet; write one after `/{}`",
                view.name()
            ));
            return After::Failed;
        };
        let seen = views::of_exchange(conversation, view, exchange);
        if !seen.lines.is_empty() {
            screen::say(paint(QUIET, format_args!("── {}", view.name())));
        }
        show(&seen)
    }

    fn see(&mut self, view: View, text: &str) -> After {
        if text.is_empty() {
            if view == View::State && self.conversation().last().is_none() {
                print(&render::state::listed(self.conversation().session.state()));
                return After::Next;
            }
            return self.see_last(view);
        }
        let source = self.conversation_mut().source(text);
        if view.needs_run() {
            let after = self.run(&source);
            return match after {
                After::Next => self.see_last(view),
                other @ (After::Failed | After::Leave) => other,
            };
        }
        show(&views::of_text(self.conversation(), view, &source))
    }

    fn order(&mut self, order: Order) -> After {
        match order {
            Order::See(view, text) => return self.see(view, &text),
            Order::Also(views) => self.also(&views),
            Order::Names => self.names(),
            Order::Ready(name) => return self.ready(&name),
            Order::Load(file) => return self.load(Path::new(&file)),
            Order::Reload => return self.reload(),
            Order::Language(file) => return self.switch(Path::new(&file)),
            Order::Surface(name) => return told(self.conversation_mut().speak(&name)),
            Order::Save(file) => return told(keeping::save(self.conversation(), Path::new(&file))),
            Order::Keep(title) => return told(keeping::keep(self.conversation(), &title)),
            Order::Debug(text) => match self.conversation_mut().walk(&text) {
                Ok(()) => {}
                Err(stop) => return failed(&stop),
            },
            Order::Undo => return self.undo(),
            Order::Help => help(),
            Order::Leave => return After::Leave,
        }
        After::Next
    }

    fn also(&mut self, views: &[View]) {
        for view in views {
            match self.also.iter().position(|known| known == view) {
                Some(at) => {
                    self.also.remove(at);
                }
                None => self.also.push(*view),
            }
        }
        let names: Vec<&str> = self.also.iter().map(|view| view.name()).collect();
        let said = match &names[..] {
            [] => "nothing else is shown after an entry".to_owned(),
            names => format!("shown after every entry: {}", names.join(", ")),
        };
        screen::say(paint(QUIET, said));
    }

    fn names(&self) {
        let names = self.conversation().session.names();
        let rows: Vec<Vec<Cell>> = names
            .into_iter()
            .map(|(name, value)| {
                let (kind, shown) = match value {
                    Some(value) => (value.kind().word(), value.written()),
                    None => ("", "no value yet".to_owned()),
                };
                vec![
                    Cell::new(name, FORM),
                    Cell::new(kind, QUIET),
                    Cell::new(shown, VALUE),
                ]
            })
            .collect();
        if rows.is_empty() {
            screen::say(format_args!("no names have been kept yet"));
        } else {
            print(&table::lines(&["name", "kind", "value"], &rows));
        }
    }

    fn ready(&self, name: &str) -> After {
        match render::ready::listed(&self.conversation().language, name) {
            Ok(lines) => {
                print(&lines);
                After::Next
            }
            Err(wrong) => {
                screen::tell_line(format_args!("{wrong}"));
                After::Failed
            }
        }
    }

    fn load(&mut self, file: &Path) -> After {
        match files::read(file) {
            Ok(source) => self.run(&source),
            Err(problem) => failed(&Stop::Unreadable(problem)),
        }
    }

    fn reload(&mut self) -> After {
        let lost = match self.conversation_mut().reload() {
            Ok(lost) => lost,
            Err(stop) => {
                failed(&stop);
                let said = "the session goes on with the definition as it was";
                screen::tell_line(paint(WARNING, said));
                return After::Failed;
            }
        };
        let kept = plural(self.conversation().session.names().len(), "name");
        let said = format!("{} is reloaded; {kept} kept", self.name());
        screen::say(paint(GOOD, said));
        for lost in lost {
            let what = if lost.is_state {
                "the cell"
            } else {
                "the name"
            };
            let name = quote(&lost.name);
            screen::tell_line(format_args!(
                "{} {what} {name}: {}",
                paint(WARNING, "lost"),
                lost.why
            ));
        }
        After::Next
    }

    /// Reloads the definition if it is watched and its file has changed.
    fn reload_if_changed(&mut self) -> After {
        let definition = self.conversation().definition.clone();
        let name = definition.file_name();
        let is_it = |path: &Path| path.file_name() == name;
        let changed = self.watch.as_ref().is_some_and(|w| w.has_changed(is_it));
        if changed { self.reload() } else { After::Next }
    }

    fn switch(&mut self, file: &Path) -> After {
        let file = definition_of(file);
        let full = |path: &Path| std::fs::canonicalize(path).unwrap_or_else(|_| path.to_owned());
        let known = self.conversations.iter().position(|conversation| {
            full(&conversation.definition) == full(&file) || conversation.definition == file
        });
        let said = match known {
            Some(at) => {
                self.at = at;
                let names = plural(self.conversation().session.names().len(), "name");
                format!("back to {}, with {names}", self.name())
            }
            None => match Conversation::new(&file, self.running, self.live) {
                Ok(conversation) => {
                    self.conversations.push(conversation);
                    self.at = self.conversations.len() - 1;
                    format!("now it is {}", self.name())
                }
                Err(stop) => return failed(&stop),
            },
        };
        if self.watch.is_some()
            && let Err(stop) = self.watch_definition()
        {
            return failed(&stop);
        }
        screen::say(paint(GOOD, said));
        After::Next
    }

    fn undo(&mut self) -> After {
        let Some(text) = self.conversation_mut().undo() else {
            screen::tell_line(format_args!("there is no entry to take back"));
            return After::Failed;
        };
        let said = format!("taken back: {}", text.trim_end());
        screen::say(paint(QUIET, said));
        After::Next
    }
}

/// The definition that a person means by a file or a folder.
fn definition_of(file: &Path) -> PathBuf {
    if file.is_dir()
        && let Ok(found) = files::definition_near(file)
    {
        return found;
    }
    if file.extension().is_none() {
        return file.with_extension(files::DEFINITION);
    }
    file.to_owned()
}

/// Says what was done, or why it was not.
fn told(result: Result<String, Stop>) -> After {
    match result {
        Ok(said) => {
            screen::say(paint(GOOD, said));
            After::Next
        }
        Err(stop) => failed(&stop),
    }
}

fn failed(stop: &Stop) -> After {
    give_up(stop, crate::args::Format::Text);
    After::Failed
}

fn show(seen: &Seen) -> After {
    print(&seen.lines);
    after(&seen.diagnostics)
}

fn after(diagnostics: &[Diagnostic]) -> After {
    render::show_all(diagnostics);
    if has_errors(diagnostics) {
        After::Failed
    } else {
        After::Next
    }
}

fn print(lines: &[String]) {
    for line in lines {
        screen::say(format_args!("{line}"));
    }
}

fn help() {
    let views = View::ALL.into_iter().map(|view| {
        let order = format!("/{} [ENTRY]", view.name());
        (order, format!("show {}", view.what()))
    });
    let others = orders::OTHERS.iter();
    let others = others.map(|(order, what)| ((*order).to_owned(), (*what).to_owned()));
    let rows: Vec<Vec<Cell>> = views
        .chain(others)
        .map(|(order, what)| {
            vec![
                Cell::new(order, FORM),
                Cell::new(what, anstyle::Style::new()),
            ]
        })
        .collect();
    let lines = table::lines(&["", ""], &rows);
    print(&lines[1..]);
    screen::say(paint(
        QUIET,
        "Without ENTRY, the last one is meant. Anything else is an entry; an unfinished one goes\non on the next line, and an empty line ends it.",
    ));
}
