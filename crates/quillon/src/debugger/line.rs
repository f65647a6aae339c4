//! What goes to a client and comes from it.

use std::cell::{Cell, RefCell};
use std::collections::VecDeque;
use std::io::{BufRead, Write};
use std::rc::Rc;
use std::sync::mpsc::{self, Receiver};

use serde_json::{Value, json};

use crate::framed::{self, Framed};

/// A request.
#[derive(Clone, Debug)]
pub struct Request {
    pub number: i64,
    pub command: String,
    pub arguments: Value,
}

/// The line to a client; copies are the same one.
#[derive(Clone)]
pub struct Line(Rc<Ends>);

struct Ends {
    output: RefCell<Box<dyn Write>>,
    sent: Cell<i64>,
    input: Receiver<Option<Request>>,
    waiting: RefCell<VecDeque<Request>>,
    is_closed: Cell<bool>,
}

impl Line {
    /// A line on which a thread listens.
    pub fn new(mut input: impl BufRead + Send + 'static, output: Box<dyn Write>) -> Line {
        let (to, from) = mpsc::sync_channel(1024);
        // It ends with the process: nobody can interrupt a read.
        std::thread::spawn(move || {
            loop {
                let request = match framed::receive(&mut input) {
                    Ok(Framed::Body(body)) => understood(&body),
                    Ok(Framed::Garbage) => continue,
                    Ok(Framed::End) | Err(_) => break,
                };
                if let Some(request) = request
                    && to.send(Some(request)).is_err()
                {
                    return;
                }
            }
            // When nobody listens any more, it is over anyway.
            drop(to.send(None));
        });
        Line(Rc::new(Ends {
            output: RefCell::new(output),
            sent: Cell::new(0),
            input: from,
            waiting: RefCell::default(),
            is_closed: Cell::new(false),
        }))
    }

    /// The next request; nothing when the client has gone.
    pub fn next(&self) -> Option<Request> {
        if let Some(request) = self.0.waiting.borrow_mut().pop_front() {
            return Some(request);
        }
        if self.0.is_closed.get() {
            return None;
        }
        let next = self.0.input.recv().ok().flatten();
        self.0.is_closed.set(next.is_none());
        next
    }

    /// A request that is there already.
    pub fn waiting(&self) -> Option<Request> {
        self.0.waiting.borrow_mut().pop_front()
    }

    /// Whether there is something to be looked at: a request, or that the client has gone.
    pub fn is_waiting(&self) -> bool {
        while let Ok(came) = self.0.input.try_recv() {
            match came {
                Some(request) => self.0.waiting.borrow_mut().push_back(request),
                None => self.0.is_closed.set(true),
            }
        }
        self.0.is_closed.get() || !self.0.waiting.borrow().is_empty()
    }

    /// Whether the client has gone.
    pub fn is_closed(&self) -> bool {
        self.0.is_closed.get() && self.0.waiting.borrow().is_empty()
    }

    fn send(&self, mut message: Value) {
        let number = self.0.sent.get() + 1;
        self.0.sent.set(number);
        message["seq"] = number.into();
        // When nobody reads any more the input ends, too.
        drop(framed::send(
            &mut **self.0.output.borrow_mut(),
            &message.to_string(),
        ));
    }

    /// Tells the client of something.
    pub fn tell(&self, event: &str, body: &Value) {
        self.send(json!({ "type": "event", "event": event, "body": body }));
    }

    /// Answers a request, or says why not.
    pub fn answer(&self, request: &Request, answer: Result<Value, String>) {
        let mut message = json!({
            "type": "response",
            "request_seq": request.number,
            "command": request.command,
            "success": answer.is_ok(),
        });
        match answer {
            Ok(body) => message["body"] = body,
            Err(why) => {
                message["body"] = json!({ "error": { "id": 1, "format": "{why}", "variables": { "why": why }, "showUser": true } });
                message["message"] = why.into();
            }
        }
        self.send(message);
    }
}

/// A message as a request, if it is one.
fn understood(body: &[u8]) -> Option<Request> {
    let message: Value = serde_json::from_slice(body).ok()?;
    (message["type"] == "request").then(|| Request {
        number: message["seq"].as_i64().unwrap_or_default(),
        command: message["command"].as_str().unwrap_or_default().to_owned(),
        arguments: message["arguments"].clone(),
    })
}
