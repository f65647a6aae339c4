//! `quillon repl`: a conversation with a language.

use std::io::IsTerminal;

use super::{Stop, language};
use crate::args::Repl as Args;
use crate::exit::Exit;
use crate::host::watch_for_interrupts;
use crate::repl::{Conversation, lines};

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let language = language(args.language.as_deref())?;
    if let Some(lack) = language.lacks(quillon_core::Stage::Tree) {
        return Err(Stop::Definition(vec![lack]));
    }
    let mut conversation = Conversation::new(&language, &args.running)?;
    if std::io::stdin().is_terminal() {
        return lines::interactive(&mut conversation);
    }
    watch_for_interrupts();
    lines::piped(&mut conversation, args.keep_going)
}
