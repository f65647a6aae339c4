//! The REPL: what an entry does. How lines are read is in `lines`.

use std::sync::Arc;

use quillon_core::diagnostic::{Diagnostic, has_errors, nearest, quote};
use quillon_core::source::SourceText;
use quillon_core::{Engine, Language, Reading, Session};

use crate::args::Running;
use crate::commands::Stop;
use crate::host::{Terminal, forget_interrupts};
use crate::render;
use crate::render::style::{FORM, QUIET, VALUE, paint};
use crate::render::table::{self, Cell};

pub mod lines;

/// What the REPL itself can be told, with what it does.
const ORDERS: [(&str, &str); 7] = [
    (
        "/tokens ENTRY",
        "show the tokens of an entry, without running it",
    ),
    (
        "/tree ENTRY",
        "show the tree of an entry, without running it",
    ),
    ("/names", "list the names kept so far, with their values"),
    ("/state", "show the state"),
    ("/ready", "list what is ready-made"),
    ("/help", "show this list"),
    ("/leave", "leave; so does Ctrl-D"),
];

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

/// A conversation with a language.
pub struct Conversation<'l> {
    language: &'l Language,
    session: Session,
    host: Terminal,
    count: usize,
}

impl<'l> Conversation<'l> {
    pub fn new(language: &'l Language, running: &Running) -> Result<Conversation<'l>, Stop> {
        let mut host = Terminal::new(running.allowed());
        let session = running
            .session(Engine::Machine, language, &mut host)?
            .map_err(|problem| Stop::Definition(vec![*problem]))?;
        Ok(Conversation {
            language,
            session,
            host,
            count: 0,
        })
    }

    /// The language's name.
    pub fn name(&self) -> &str {
        &self.language.definition().name.text
    }

    /// Whether a text is the beginning of an entry that goes on.
    pub fn is_unfinished(&self, text: &str) -> bool {
        !text.starts_with('/') && self.language.is_unfinished(&SourceText::new("entry", text))
    }

    /// Does what an entry says.
    pub fn enter(&mut self, text: &str) -> After {
        if text.trim().is_empty() {
            return After::Next;
        }
        if let Some(order) = text.trim_end().strip_prefix('/')
            && order.starts_with(|c: char| c.is_ascii_lowercase())
        {
            return self.order(order);
        }
        let source = self.source(text);
        forget_interrupts();
        let outcome = self.session.enter(&source, &mut self.host);
        self.host.flush();
        render::show_all(&outcome.diagnostics);
        match outcome.value {
            Some(value) if value.is_nothing() => After::Next,
            Some(value) => {
                anstream::println!("{}", paint(VALUE, value.written()));
                After::Next
            }
            None => After::Failed,
        }
    }

    fn source(&mut self, text: &str) -> Arc<SourceText> {
        self.count += 1;
        SourceText::new(format!("entry {}", self.count), text)
    }

    fn order(&mut self, order: &str) -> After {
        let (word, rest) = order.split_once(char::is_whitespace).unwrap_or((order, ""));
        match word {
            "leave" => return After::Leave,
            "help" => help(),
            "names" => self.names(),
            "ready" => self.ready(),
            "state" => print(&render::state::listed(self.session.state())),
            "tokens" => {
                let source = self.source(rest);
                let outcome = self.language.tokens(&source);
                if let Some(tokens) = &outcome.value {
                    print(&render::tokens::listing(self.language, tokens, false));
                }
                return after(&outcome.diagnostics);
            }
            "tree" => {
                let source = self.source(rest);
                let outcome = self.language.tree(&source, Reading::Entry);
                if let Some(tree) = &outcome.value {
                    print(&render::tree::outline(self.language, tree));
                }
                return after(&outcome.diagnostics);
            }
            _ => {
                let known: Vec<&str> = ORDERS
                    .iter()
                    .filter_map(|(o, _)| o.trim_start_matches('/').split(' ').next())
                    .collect();
                let near = nearest(word, known);
                let hint = near.map_or_else(
                    || "`/help` lists what there is".to_owned(),
                    |near| format!("did you mean `/{near}`?"),
                );
                anstream::eprintln!("there is no {}; {hint}", quote(&format!("/{word}")));
                return After::Failed;
            }
        }
        After::Next
    }

    fn names(&self) {
        let rows: Vec<Vec<Cell>> = self
            .session
            .names()
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
            anstream::println!("no names have been kept yet");
        } else {
            print(&table::lines(&["name", "kind", "value"], &rows));
        }
    }

    fn ready(&self) {
        let provides = &self.language.definition().provides;
        if provides.is_empty() {
            anstream::println!("{} has nothing ready-made", self.name());
        }
        for provided in provides {
            let params = provided.params.as_ref().map_or(String::new(), |params| {
                let names: Vec<&str> = params.iter().map(|p| p.text.as_str()).collect();
                format!(
                    "({}{})",
                    names.join(", "),
                    if provided.rest { "..." } else { "" }
                )
            });
            anstream::println!("{}{params}", paint(FORM, &provided.name.text));
        }
    }
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
        anstream::println!("{line}");
    }
}

fn help() {
    let rows: Vec<Vec<Cell>> = ORDERS
        .iter()
        .map(|(order, what)| {
            vec![
                Cell::new(*order, FORM),
                Cell::new(*what, anstyle::Style::new()),
            ]
        })
        .collect();
    let lines = table::lines(&["", ""], &rows);
    print(&lines[1..]);
    anstream::println!(
        "{}",
        paint(
            QUIET,
            "Anything else is an entry. An unfinished one goes on on the next line; an empty line ends it."
        )
    );
}
