//! Conversations in JSON with the built program: every line that is no blank is answered by one
//! line of JSON, whatever comes in.

use std::io::{Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use fastrand::Rng;
use serde_json::{Value, json};

use crate::{Target, corpus, mutate};

pub struct Orders;

/// Where the built program is: where it is said to be, or beside this one.
fn quillon() -> Option<PathBuf> {
    if let Some(told) = std::env::var_os("QUILLON_PROGRAM") {
        return Some(PathBuf::from(told));
    }
    let own = std::env::current_exe().ok()?;
    let folders = own.ancestors().skip(1).take(2);
    let name = format!("quillon{}", std::env::consts::EXE_SUFFIX);
    folders
        .map(|folder| folder.join(&name))
        .find(|path| path.is_file())
}

impl Target for Orders {
    fn name(&self) -> &'static str {
        "orders"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let known = &corpus::ALL[random.usize(..corpus::ALL.len())];
        let mut lines = Vec::new();
        for _ in 0..random.usize(5..60) {
            let text = random.choice(&known.programs).cloned().unwrap_or_default();
            let text = text
                .lines()
                .nth(random.usize(..12))
                .unwrap_or("1")
                .to_owned();
            let text = mutate::text(random, &text, "x := 1 ( [ {");
            let orders = ["names", "state", "undo", "reload", "none"];
            let views = [
                "tokens", "tree", "scopes", "core", "code", "trace", "time", "odd",
            ];
            let mut asked = match random.u32(..8) {
                0 | 1 => json!({ "order": orders[random.usize(..orders.len())] }),
                2 => json!({ "look": text, "views": [views[random.usize(..views.len())]] }),
                3 => {
                    json!({ "entry": text, "views": [views[random.usize(..views.len())]], "id": random.u8(..) })
                }
                _ => json!({ "entry": text, "input": "a\nb" }),
            };
            if random.u32(..10) == 0 {
                asked["odd"] = Value::Null;
            }
            let mut line = asked.to_string().into_bytes();
            if random.u32(..6) == 0 {
                mutate::bytes(random, &mut line);
            }
            lines.push(line);
        }
        let mut input = known.definition.clone().into_bytes();
        input.push(0);
        input.extend(lines.join(&b'\n'));
        input
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Some(program) = quillon() else {
            return Ok(());
        };
        let folder = tempfile::tempdir().map_err(|error| error.to_string())?;
        let mut parts = input.splitn(2, |byte| *byte == 0);
        let definition = folder.path().join("own.quillon");
        std::fs::write(&definition, parts.next().unwrap_or_default()).map_err(|e| e.to_string())?;
        let lines = parts.next().unwrap_or_default();
        converse(&program, &definition, folder.path(), lines)
    }
}

fn converse(program: &Path, definition: &Path, folder: &Path, lines: &[u8]) -> Result<(), String> {
    let mut child = Command::new(program)
        .args([
            "repl",
            "--format",
            "json",
            "--keep-going",
            "--time",
            "1",
            "--memory",
            "64M",
            "--steps",
            "100000",
        ])
        .arg("--language")
        .arg(definition)
        .current_dir(folder)
        .env("XDG_STATE_HOME", folder.join("state"))
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .map_err(|error| error.to_string())?;
    let (given, taken) = (child.stdin.take(), child.stdout.take());
    let mut out = String::new();
    std::thread::scope(|scope| {
        scope.spawn(|| {
            // One that has ended takes nothing more: its status tells.
            let _ = given.map(|mut given| given.write_all(lines));
        });
        taken.map(|mut taken| taken.read_to_string(&mut out))
    });
    let begun = Instant::now();
    let status = loop {
        match child.try_wait().map_err(|error| error.to_string())? {
            Some(status) => break status,
            None if begun.elapsed() > Duration::from_secs(20) => {
                let _ = child.kill();
                return Err("it does not end".to_owned());
            }
            None => std::thread::sleep(Duration::from_millis(1)),
        }
    };
    if !matches!(status.code(), Some(0 | 1 | 3)) {
        return Err(format!("it ended with {status}"));
    }
    let is_wrong = |line: &&str| serde_json::from_str::<Value>(line).is_err();
    match out.lines().find(is_wrong) {
        Some(line) => Err(format!("an answer that is no JSON: {line}")),
        None => Ok(()),
    }
}
