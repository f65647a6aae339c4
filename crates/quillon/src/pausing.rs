//! Pauses in what is shown: on a terminal a key goes on.

use std::io::{IsTerminal, Write, stdin, stdout};

use ratatui::crossterm::cursor::MoveToColumn;
use ratatui::crossterm::event::{self, Event, KeyCode, KeyEventKind, KeyModifiers};
use ratatui::crossterm::execute;
use ratatui::crossterm::terminal::{Clear, ClearType, disable_raw_mode, enable_raw_mode};

use crate::render::screen;
use crate::render::style::{QUIET, paint};

/// Waits for a key where somebody can press one; whether to go on.
pub fn goes_on() -> bool {
    if !stdin().is_terminal() || !stdout().is_terminal() {
        return true;
    }
    screen::ask(&paint(QUIET, "── any key goes on, q leaves "));
    let goes_on = pressed().unwrap_or(true);
    let _ = execute!(stdout(), MoveToColumn(0), Clear(ClearType::CurrentLine));
    let _ = stdout().flush();
    goes_on
}

/// Whether the key that is pressed is none that leaves. The terminal is as it was afterwards.
fn pressed() -> std::io::Result<bool> {
    enable_raw_mode()?;
    let key = loop {
        match event::read() {
            Ok(Event::Key(key)) if key.kind != KeyEventKind::Release => break Ok(key),
            Ok(_) => {}
            Err(error) => break Err(error),
        }
    };
    disable_raw_mode()?;
    let key = key?;
    let is_interrupt =
        key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('c');
    Ok(!is_interrupt && !matches!(key.code, KeyCode::Char('q') | KeyCode::Esc))
}
