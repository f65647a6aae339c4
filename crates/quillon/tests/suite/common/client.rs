//! A client of the server for editors, that sends what editors send.

#![allow(dead_code, reason = "each test program uses a part of it")]

use std::collections::VecDeque;
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout, Stdio};

use serde_json::{Value, json};

/// Reads a message as the protocols of editors frame it.
pub fn read_message(from: &mut impl BufRead) -> Value {
    let mut length = 0;
    loop {
        let mut line = String::new();
        let count = from.read_line(&mut line).expect("the server writes");
        assert!(count > 0, "the server has ended");
        match line.trim().split_once(": ") {
            Some((_, value)) => length = value.parse().expect("a length"),
            None => break,
        }
    }
    let mut body = vec![0; length];
    from.read_exact(&mut body).expect("a body");
    serde_json::from_slice(&body).expect("JSON")
}

/// Writes a message as the protocols of editors frame it.
pub fn write_message(to: &mut impl Write, body: &str) {
    write!(to, "Content-Length: {}\r\n\r\n{body}", body.len()).expect("the server reads");
    to.flush().expect("the server reads");
}

/// A client with its server.
pub struct Client {
    server: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    number: i64,
    /// What the server has said without being asked.
    pub told: VecDeque<Value>,
}

#[expect(
    clippy::needless_pass_by_value,
    reason = "what is sent is made where it is sent"
)]
impl Client {
    pub fn start(folder: &Path) -> Client {
        Client::with(folder, json!({}))
    }

    pub fn with(folder: &Path, capabilities: Value) -> Client {
        let mut server = super::program()
            .arg("editor")
            .current_dir(folder)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .spawn()
            .expect("the server starts");
        let to = server.stdin.take().expect("its input");
        let from = BufReader::new(server.stdout.take().expect("its output"));
        let mut client = Client {
            server,
            to,
            from,
            number: 0,
            told: VecDeque::new(),
        };
        let params = json!({ "processId": null, "rootUri": null, "capabilities": capabilities });
        let answer = client.ask("initialize", params);
        assert_eq!(answer["serverInfo"]["name"], "quillon");
        client.tell("initialized", json!({}));
        client
    }

    pub fn send_text(&mut self, body: &str) {
        write_message(&mut self.to, body);
    }

    pub fn send(&mut self, message: &Value) {
        self.send_text(&message.to_string());
    }

    pub fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    pub fn receive(&mut self) -> Value {
        read_message(&mut self.from)
    }

    /// The answer to a request: its result, or its error.
    pub fn ask(&mut self, method: &str, params: Value) -> Value {
        self.number += 1;
        let id = self.number;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        self.answer_to(&json!(id))
    }

    pub fn answer_to(&mut self, id: &Value) -> Value {
        loop {
            let mut message = self.receive();
            if message["id"] == *id && message.get("method").is_none() {
                let result = message["result"].take();
                return if result.is_null() {
                    message["error"].take()
                } else {
                    result
                };
            }
            self.told.push_back(message);
        }
    }

    /// What the server says of its own accord under a name.
    pub fn hear(&mut self, method: &str) -> Value {
        loop {
            let at = self
                .told
                .iter()
                .position(|message| message["method"] == method);
            if let Some(mut message) = at.and_then(|at| self.told.remove(at)) {
                return message["params"].take();
            }
            let message = self.receive();
            self.told.push_back(message);
        }
    }

    pub fn open(&mut self, uri: &str, text: &str) {
        let document = json!({ "uri": uri, "languageId": "any", "version": 1, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": document }));
    }

    pub fn change(&mut self, uri: &str, version: i64, changes: Value) {
        let document = json!({ "uri": uri, "version": version });
        let params = json!({ "textDocument": document, "contentChanges": changes });
        self.tell("textDocument/didChange", params);
    }

    /// The messages of what is wrong in a text, the next time they are told.
    pub fn wrong(&mut self, uri: &str) -> Vec<String> {
        loop {
            let told = self.hear("textDocument/publishDiagnostics");
            if told["uri"] == *uri {
                let all = told["diagnostics"].as_array().cloned().unwrap_or_default();
                return all.iter().map(|one| text_of(&one["message"])).collect();
            }
        }
    }

    pub fn at(&mut self, method: &str, uri: &str, (line, character): (u32, u32)) -> Value {
        self.ask(method, place(uri, (line, character)))
    }

    /// The number of the server's process.
    pub fn process(&self) -> u32 {
        self.server.id()
    }

    pub fn end(mut self) {
        let answer = self.ask("shutdown", Value::Null);
        assert_eq!(answer, Value::Null);
        self.tell("exit", Value::Null);
        assert!(self.server.wait().expect("it ends").success());
    }
}

pub fn place(uri: &str, (line, character): (u32, u32)) -> Value {
    json!({
        "textDocument": { "uri": uri },
        "position": { "line": line, "character": character },
    })
}

pub fn text_of(value: &Value) -> String {
    value.as_str().unwrap_or_default().to_owned()
}
