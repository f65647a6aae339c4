//! Answers an editor over the Language Server Protocol, on standard input and output.
//!
//! Messages are read by a thread of their own and handled one after the other; what is wrong in a text
//! is worked out when nothing waits to be answered, so that each key puts it off.

use std::collections::VecDeque;
use std::io::{self, BufReader};
use std::sync::mpsc::{self, Receiver, RecvTimeoutError, TryRecvError};
use std::time::Duration;

use lsp_server::{ErrorCode, Message, Notification, Request, RequestId, Response};
use serde_json::Value;

use crate::exit::Exit;
use errands::{Done, Errands};
use server::Server;
use wire::Received;

mod answers;
mod cases;
mod definitions;
mod errands;
mod examples;
mod formatting;
mod languages;
mod lenses;
mod notation;
mod positions;
mod programs;
mod server;
mod telling;
mod texts;
mod wire;
mod writing;

/// So long nothing may come before texts are looked through.
const PAUSE: Duration = Duration::from_millis(3);

/// Serves the editor until it says that it is over.
pub fn serve() -> Exit {
    let (sender, receiver) = mpsc::sync_channel(1024);
    let errands = Errands(sender.clone());
    // It ends with the process: nobody can interrupt a read.
    std::thread::spawn(move || {
        let mut input = BufReader::new(io::stdin().lock());
        while let Ok(received) = wire::receive(&mut input) {
            let is_end = matches!(received, Received::End);
            if sender.send(Incoming::Received(received)).is_err() || is_end {
                return;
            }
        }
        // What cannot be read any more is over, too. When the server is over already, nobody listens.
        drop(sender.send(Incoming::Received(Received::End)));
    });
    let mut queue = Queue {
        receiver,
        waiting: VecDeque::new(),
        is_over: false,
    };
    let mut server = Server::new(send, errands);
    while let Some(next) = queue.next(&mut server) {
        let message = match next {
            Next::Message(message) => message,
            Next::Done(done) => {
                lenses::done(&mut server, *done);
                continue;
            }
        };
        match message {
            Message::Request(request) => {
                let response = if queue.is_cancelled(&request.id) {
                    let code = ErrorCode::RequestCanceled as i32;
                    let message = "the editor has taken it back".to_owned();
                    Some(Response::new_err(request.id, code, message))
                } else {
                    server.answer(request)
                };
                if let Some(response) = response {
                    send(&Message::Response(response));
                }
            }
            Message::Notification(told) if told.method == "exit" => {
                return if server.is_shut_down() {
                    Exit::Done
                } else {
                    Exit::Failed
                };
            }
            Message::Notification(told) => server.hear(told),
            Message::Response(_) => {}
        }
    }
    Exit::Done
}

/// Sends a message. When nobody listens any more the input ends, too.
fn send(message: &Message) {
    let mut out = io::stdout().lock();
    drop(message.write(&mut out));
}

/// What comes to the server: from the editor, or from an errand of its own.
enum Incoming {
    Received(Received),
    Done(Box<Done>),
}

/// What is to be handled.
enum Next {
    Message(Message),
    Done(Box<Done>),
}

/// What has come in and what is not yet handled.
struct Queue {
    receiver: Receiver<Incoming>,
    waiting: VecDeque<Next>,
    is_over: bool,
}

impl Queue {
    /// The next message; until one comes, what can be done meanwhile is done.
    fn next(&mut self, server: &mut Server) -> Option<Next> {
        loop {
            self.take_all();
            if let Some(message) = self.waiting.pop_front() {
                return Some(message);
            }
            if self.is_over {
                return None;
            }
            if !server.has_work() {
                match self.receiver.recv() {
                    Ok(received) => self.put(received),
                    Err(_) => self.is_over = true,
                }
                continue;
            }
            match self.receiver.recv_timeout(PAUSE) {
                Ok(received) => self.put(received),
                Err(RecvTimeoutError::Timeout) => server.work(),
                Err(RecvTimeoutError::Disconnected) => self.is_over = true,
            }
        }
    }

    fn take_all(&mut self) {
        loop {
            match self.receiver.try_recv() {
                Ok(received) => self.put(received),
                Err(TryRecvError::Empty) => return,
                Err(TryRecvError::Disconnected) => {
                    self.is_over = true;
                    return;
                }
            }
        }
    }

    fn put(&mut self, incoming: Incoming) {
        match incoming {
            Incoming::Received(Received::Message(message)) => {
                self.waiting.push_back(Next::Message(message));
            }
            Incoming::Received(Received::Garbage) => send_parse_error(),
            Incoming::Received(Received::End) => self.is_over = true,
            Incoming::Done(done) => self.waiting.push_back(Next::Done(done)),
        }
    }

    /// Whether a message that waits takes a request back.
    fn is_cancelled(&self, id: &RequestId) -> bool {
        self.waiting.iter().any(|next| {
            let Next::Message(Message::Notification(Notification { method, params })) = next else {
                return false;
            };
            method == "$/cancelRequest"
                && serde_json::from_value::<RequestId>(params["id"].clone())
                    .is_ok_and(|cancelled| cancelled == *id)
        })
    }
}

/// Says that a message could not be understood; nobody knows which request it was.
fn send_parse_error() {
    let error = serde_json::json!({
        "jsonrpc": "2.0",
        "id": Value::Null,
        "error": { "code": ErrorCode::ParseError as i32, "message": "this is no message" },
    });
    let body = error.to_string();
    let mut out = io::stdout().lock();
    let header = format!("Content-Length: {}\r\n\r\n", body.len());
    let written = io::Write::write_all(&mut out, format!("{header}{body}").as_bytes());
    drop(written.and_then(|()| io::Write::flush(&mut out)));
}

/// A request that this server does not know.
fn unknown(request: Request) -> Response {
    let message = format!("{} is not known here", request.method);
    Response::new_err(request.id, ErrorCode::MethodNotFound as i32, message)
}
