//! A client that walks through runs.

#![allow(
    clippy::needless_pass_by_value,
    reason = "what is sent is made where it is sent"
)]

use std::collections::VecDeque;
use std::io::BufReader;
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Stdio};

use serde_json::{Value, json};

use super::client::{read_message, write_message};

pub struct Walker {
    server: Child,
    to: Option<ChildStdin>,
    from: BufReader<ChildStdout>,
    number: i64,
    /// What has been told and not been looked at.
    pub told: VecDeque<Value>,
}

impl Walker {
    pub fn start() -> Walker {
        let mut server = super::program()
            .arg("debugger")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("the server starts");
        let to = server.stdin.take();
        let from = BufReader::new(server.stdout.take().expect("its output"));
        let mut walker = Walker {
            server,
            to,
            from,
            number: 0,
            told: VecDeque::new(),
        };
        let can = walker.ask(
            "initialize",
            json!({ "adapterID": "quillon", "supportsInvalidatedEvent": true }),
        );
        assert_eq!(can["supportsStepBack"], true);
        walker.event("initialized");
        walker
    }

    /// Begins a run with breakpoints at lines.
    pub fn launch(program: &Path, lines: &[u32], more: Value) -> Walker {
        let mut walker = Walker::start();
        let mut arguments = json!({ "program": program });
        for (name, value) in more.as_object().into_iter().flatten() {
            arguments[name] = value.clone();
        }
        walker.ask("launch", arguments);
        let lines: Vec<Value> = lines.iter().map(|line| json!({ "line": line })).collect();
        walker.breakpoints(program, json!(lines));
        walker.ask("configurationDone", json!({}));
        walker
    }

    pub fn breakpoints(&mut self, program: &Path, all: Value) -> Value {
        let arguments = json!({ "source": { "path": program }, "breakpoints": all });
        self.ask("setBreakpoints", arguments)["breakpoints"].clone()
    }

    pub fn send(&mut self, command: &str, arguments: Value) -> i64 {
        self.number += 1;
        let body = json!({ "seq": self.number, "type": "request", "command": command, "arguments": arguments }).to_string();
        self.send_text(&body);
        self.number
    }

    pub fn send_text(&mut self, body: &str) {
        write_message(self.to.as_mut().expect("the server listens"), body);
    }

    pub fn receive(&mut self) -> Value {
        read_message(&mut self.from)
    }

    /// Asks, and gives the body of the answer or, if it is refused, its message.
    pub fn ask(&mut self, command: &str, arguments: Value) -> Value {
        let number = self.send(command, arguments);
        loop {
            let message = self.receive();
            if message["type"] == "response" && message["request_seq"] == number {
                let is_good = message["success"] == true;
                return message[if is_good { "body" } else { "message" }].clone();
            }
            self.told.push_back(message);
        }
    }

    /// The next event of a name.
    pub fn event(&mut self, name: &str) -> Value {
        if let Some(at) = self.told.iter().position(|told| told["event"] == name) {
            return self
                .told
                .remove(at)
                .map_or(Value::Null, |told| told["body"].clone());
        }
        loop {
            let message = self.receive();
            if message["event"] == name {
                return message["body"].clone();
            }
            self.told.push_back(message);
        }
    }

    /// Has the run go on, up to where it stands still; why it does.
    pub fn go(&mut self, command: &str) -> String {
        self.go_with(command, json!({ "threadId": 1 }))
    }

    /// The same with arguments of its own.
    pub fn go_with(&mut self, command: &str, arguments: Value) -> String {
        self.ask(command, arguments);
        self.stopped()
    }

    /// Why the run stands still, or `ended`.
    pub fn stopped(&mut self) -> String {
        loop {
            let is_one = |told: &Value| told["event"] == "stopped" || told["event"] == "terminated";
            if let Some(at) = self.told.iter().position(is_one) {
                let told = self.told.remove(at).unwrap_or_default();
                let reason = told["body"]["reason"].as_str();
                return reason.unwrap_or("ended").to_owned();
            }
            let message = self.receive();
            self.told.push_back(message);
        }
    }

    /// The calls under way: names and lines.
    pub fn calls(&mut self) -> Vec<(String, u64)> {
        let trace = self.ask("stackTrace", json!({ "threadId": 1 }));
        let frames = trace["stackFrames"].as_array().cloned().unwrap_or_default();
        let call = |frame: &Value| {
            (
                frame["name"].as_str().unwrap_or_default().to_owned(),
                frame["line"].as_u64().unwrap_or_default(),
            )
        };
        frames.iter().map(call).collect()
    }

    pub fn line(&mut self) -> u64 {
        self.calls()[0].1
    }

    pub fn evaluate(&mut self, text: &str) -> Value {
        let answer = self.ask("evaluate", json!({ "expression": text, "frameId": 1 }));
        answer.get("result").cloned().unwrap_or(answer)
    }

    /// What has been printed so far.
    pub fn printed(&self) -> String {
        let outputs = self.told.iter().filter(|told| told["event"] == "output");
        let own = outputs.filter(|told| told["body"]["category"] == "stdout");
        own.filter_map(|told| told["body"]["output"].as_str())
            .collect()
    }

    /// Closes the line; the server has to end by itself.
    pub fn close(mut self) {
        self.to = None;
        let ended = self.server.wait().expect("the server ends");
        assert!(ended.success(), "{ended}");
    }

    /// Ends the walk as a client does.
    pub fn end(mut self) {
        self.ask("disconnect", json!({}));
        self.close();
    }
}

impl Drop for Walker {
    fn drop(&mut self) {
        drop(self.server.kill());
        drop(self.server.wait());
    }
}
