//! The program in a pseudo-terminal.

use std::io::{Read, Write};
use std::path::Path;
use std::sync::{Arc, Mutex};
use std::time::Duration;

use portable_pty::{Child, CommandBuilder, PtyPair, PtySize, native_pty_system};

/// How long something on the screen is waited for.
pub const PATIENCE: Duration = Duration::from_secs(20);

/// The program in a pseudo-terminal: what it writes is gathered, keys can be pressed.
pub struct Pty {
    pub child: Box<dyn Child + Send + Sync>,
    writer: Box<dyn Write + Send>,
    /// All that it has written.
    pub written: Arc<Mutex<Vec<u8>>>,
    pair: PtyPair,
}

fn size(rows: u16, cols: u16) -> PtySize {
    PtySize {
        rows,
        cols,
        ..PtySize::default()
    }
}

impl Pty {
    /// Starts it in a folder, in a terminal of so many rows and columns.
    pub fn start(folder: &Path, (rows, cols): (u16, u16), args: &[&str]) -> Pty {
        let pair = native_pty_system()
            .openpty(size(rows, cols))
            .expect("a terminal");
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_quillon"));
        command.args(args);
        command.cwd(folder);
        command.env("XDG_STATE_HOME", folder.join("state"));
        command.env("QUILLON_CACHE", super::kept_languages());
        command.env("TERM", "xterm-256color");
        command.env("QUILLON_GROUND", "dark");
        command.env_remove("NO_COLOR");
        let child = pair.slave.spawn_command(command).expect("the program");
        let mut reader = pair.master.try_clone_reader().unwrap();
        let writer = pair.master.take_writer().unwrap();
        let written = Arc::new(Mutex::new(Vec::new()));
        let shared = Arc::clone(&written);
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count) = reader.read(&mut bytes) {
                if count == 0 {
                    break;
                }
                shared.lock().unwrap().extend_from_slice(&bytes[..count]);
            }
        });
        Pty {
            child,
            writer,
            written,
            pair,
        }
    }

    /// Presses keys.
    pub fn keys(&mut self, keys: &str) {
        self.writer.write_all(keys.as_bytes()).unwrap();
        self.writer.flush().unwrap();
    }

    /// Gives the terminal another size.
    pub fn resize(&mut self, rows: u16, cols: u16) {
        self.pair.master.resize(size(rows, cols)).unwrap();
    }
}

impl Drop for Pty {
    /// A test that fails leaves nothing running.
    fn drop(&mut self) {
        // It may have ended by itself.
        drop(self.child.kill());
    }
}
