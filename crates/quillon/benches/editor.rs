//! How long the server for editors takes, over pipes, with the messages that an editor sends.
//!
//! `cargo bench -p quillon` prints the median and the slowest of many keys: from a key to what is
//! wrong then, for programs of the demo language and for its definition, and from a question to its answer; and the
//! memory of the server after 100 and after 10,000 changes (on Linux).

use std::path::{Path, PathBuf};
use std::time::Instant;

use serde_json::json;

use client::{Client, place};

#[path = "../tests/suite/common/client.rs"]
mod client;

const DEFINITION: &str = include_str!("../../../languages/towpath/towpath.quillon");
const PROGRAM: &str = include_str!("../../../languages/towpath/programs/flight.tow");

/// The demo's program again and again, each in a block of its own, until it has so many lines.
fn text_of(lines: usize) -> String {
    let mut text = String::new();
    while text.lines().count() < lines {
        text += "when yes {\n";
        text += PROGRAM;
        text += "}\n";
    }
    text
}

/// The built program; definitions are read by the server, which keeps none.
fn program() -> std::process::Command {
    std::process::Command::new(env!("CARGO_BIN_EXE_quillon"))
}

fn address(path: &Path) -> String {
    format!("file://{}", path.display())
}

/// The median and the slowest of some times, in milliseconds.
fn told(what: &str, mut times: Vec<f64>) {
    times.sort_by(f64::total_cmp);
    let median = times[times.len() / 2];
    let slowest = times.last().copied().unwrap_or_default();
    println!("{what:<58} {median:>8.2} {slowest:>8.2}");
}

/// Puts in a blank or takes it away, and waits until what is wrong has been told of that version.
fn key(client: &mut Client, uri: &str, version: i64, line: u32) -> f64 {
    let start = Instant::now();
    change(client, uri, version, line);
    heard(client, uri, version);
    start.elapsed().as_secs_f64() * 1000.0
}

fn change(client: &mut Client, uri: &str, version: i64, line: u32) {
    let end = u32::from(version % 2 == 1);
    let text = if end == 0 { " " } else { "" };
    let range = json!({
        "start": { "line": line, "character": 0 },
        "end": { "line": line, "character": end },
    });
    client.change(uri, version, json!([{ "range": range, "text": text }]));
}

fn heard(client: &mut Client, uri: &str, version: i64) {
    loop {
        let said = client.hear("textDocument/publishDiagnostics");
        if said["uri"] == uri && said["version"] == version {
            return;
        }
    }
}

/// The memory of a process in megabytes, where the system tells.
fn memory(process: u32) -> Option<f64> {
    let status = std::fs::read_to_string(format!("/proc/{process}/status")).ok()?;
    let line = status.lines().find(|line| line.starts_with("VmRSS:"))?;
    let kilobytes: f64 = line.split_whitespace().nth(1)?.parse().ok()?;
    Some(kilobytes / 1024.0)
}

fn of_programs(folder: &Path) {
    for lines in [1_000, 20_000] {
        let mut client = Client::start(folder);
        let uri = address(&folder.join("long.tow"));
        client.open(&uri, &text_of(lines));
        heard(&mut client, &uri, 1);
        let middle = (lines / 2) as u32;
        let keys = (2..42).map(|version| key(&mut client, &uri, version, middle));
        told(
            &format!("from a key to what is wrong, {lines} lines"),
            keys.collect(),
        );
        for (what, method) in [
            ("completion", "textDocument/completion"),
            ("hover", "textDocument/hover"),
            ("colours", "textDocument/semanticTokens/full"),
            ("outline", "textDocument/documentSymbol"),
        ] {
            let mut version = 42;
            let answers = (0..20).map(|_| {
                key(&mut client, &uri, version, middle);
                version += 1;
                let start = Instant::now();
                client.ask(method, place(&uri, (middle, 0)));
                start.elapsed().as_secs_f64() * 1000.0
            });
            told(&format!("{what}, {lines} lines"), answers.collect());
        }
        client.end();
    }
}

fn of_definitions(folder: &Path) {
    let mut client = Client::start(folder);
    let uri = address(&folder.join("towpath.quillon"));
    client.open(&uri, DEFINITION);
    heard(&mut client, &uri, 1);
    let forms = DEFINITION.matches("\nform ").count();
    let helpers = DEFINITION
        .lines()
        .position(|line| line.starts_with("define "));
    let line = helpers.map_or(0, |line| line as u32 - 1);
    let mut first = Vec::new();
    let mut last = Vec::new();
    for version in 2..22 {
        let start = Instant::now();
        change(&mut client, &uri, version, line);
        heard(&mut client, &uri, version);
        first.push(start.elapsed().as_secs_f64() * 1000.0);
        // Once more when its examples have been run.
        heard(&mut client, &uri, version);
        last.push(start.elapsed().as_secs_f64() * 1000.0);
    }
    told(
        &format!("definition of {forms} forms, what is wrong"),
        first,
    );
    told(&format!("definition of {forms} forms, with examples"), last);
    client.end();
}

fn of_memory(folder: &Path) {
    let mut client = Client::start(folder);
    let uri = address(&folder.join("long.tow"));
    client.open(&uri, &text_of(1_000));
    heard(&mut client, &uri, 1);
    let mut shown = Vec::new();
    for version in 2..=10_001 {
        key(&mut client, &uri, version, 500);
        if [101, 10_001].contains(&version) {
            shown.extend(memory(client.process()));
        }
    }
    if let [early, late] = shown[..] {
        println!("memory after 100 and after 10,000 changes, MB {early:>19.1} {late:>8.1}");
    }
    client.end();
}

fn main() {
    let folder: PathBuf = tempfile::tempdir().expect("a folder").keep();
    std::fs::write(folder.join("towpath.quillon"), DEFINITION).expect("a file");
    println!("{:<58} {:>8} {:>8}", "", "median", "slowest, ms");
    of_programs(&folder);
    of_definitions(&folder);
    of_memory(&folder);
    std::fs::remove_dir_all(&folder).expect("the folder goes");
}
