//! The terminal during a walk: taken over when it begins, and as it was before whatever ends it.

use std::collections::VecDeque;
use std::io;

use ratatui::crossterm::event::{self, Event, KeyEvent, KeyEventKind};
use ratatui::{DefaultTerminal, Frame};
use tui_input::Input;
use tui_input::backend::crossterm::EventHandler;

use super::keys::{self, Asked};

/// What is on a screen.
pub trait Screen {
    /// Puts it there, with what is typed at the bottom, if something is.
    fn draw(&self, frame: &mut Frame<'_>, prompt: Option<&Prompt>);

    /// Whether a key asks to see no more.
    fn leaves(&self, key: KeyEvent) -> bool;
}

/// The terminal, and what is shown in it.
pub struct Window<S> {
    terminal: DefaultTerminal,
    pub screen: S,
    /// Keys that have been pressed while the run went on, and say more than that it is to stop.
    waiting: VecDeque<KeyEvent>,
    _watch: Watch,
}

/// What is typed at the bottom of the screen.
pub struct Prompt {
    pub asked: Asked,
    pub typed: Input,
}

impl<S: Screen> Window<S> {
    /// Takes the terminal over.
    pub fn open(screen: S) -> io::Result<Window<S>> {
        let watch = Watch::begin()?;
        Ok(Window {
            terminal: ratatui::try_init()?,
            _watch: watch,
            screen,
            waiting: VecDeque::new(),
        })
    }

    /// Shows how everything stands.
    pub fn draw(&mut self, prompt: Option<&Prompt>) -> io::Result<()> {
        let screen = &self.screen;
        self.terminal.draw(|frame| screen.draw(frame, prompt))?;
        Ok(())
    }

    /// Takes note of a key that has stopped the run.
    pub fn note_key(&mut self, key: KeyEvent) {
        self.waiting.clear();
        self.waiting.extend(self.screen.leaves(key).then_some(key));
    }

    /// Takes note of a key that counts once the run stands still.
    pub fn keep_key(&mut self, key: KeyEvent) {
        self.waiting.push_back(key);
    }

    /// The next key, everything being shown meanwhile.
    pub fn key(&mut self) -> io::Result<KeyEvent> {
        if let Some(key) = self.waiting.pop_front() {
            return Ok(key);
        }
        loop {
            self.draw(None)?;
            if let Event::Key(key) = event::read()?
                && key.kind != KeyEventKind::Release
            {
                return Ok(key);
            }
        }
    }

    /// Has something typed; nothing if that is given up.
    pub fn ask(&mut self, asked: Asked, begun: String) -> io::Result<Option<String>> {
        let mut prompt = Prompt {
            asked,
            typed: Input::new(begun),
        };
        loop {
            self.draw(Some(&prompt))?;
            let event = event::read()?;
            if let Event::Key(key) = event {
                if key.kind == KeyEventKind::Release {
                    continue;
                }
                match keys::ends_typing(key) {
                    Some(true) => return Ok(Some(prompt.typed.value().to_owned())),
                    Some(false) => return Ok(None),
                    None => {}
                }
            }
            prompt.typed.handle_event(&event);
        }
    }
}

impl<S> Drop for Window<S> {
    fn drop(&mut self) {
        ratatui::restore();
    }
}

/// Gives the terminal back when the process is told to end, as long as it is there.
#[cfg(unix)]
struct Watch(signal_hook::iterator::Handle);

#[cfg(unix)]
impl Watch {
    fn begin() -> io::Result<Watch> {
        use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
        let mut signals = signal_hook::iterator::Signals::new([SIGHUP, SIGINT, SIGTERM])?;
        let handle = signals.handle();
        std::thread::spawn(move || {
            if let Some(signal) = signals.forever().next() {
                ratatui::restore();
                std::process::exit(128 + signal);
            }
        });
        Ok(Watch(handle))
    }
}

#[cfg(unix)]
impl Drop for Watch {
    fn drop(&mut self) {
        self.0.close();
    }
}

/// Elsewhere the system gives the terminal back.
#[cfg(not(unix))]
struct Watch;

#[cfg(not(unix))]
impl Watch {
    fn begin() -> io::Result<Watch> {
        Ok(Watch)
    }
}
