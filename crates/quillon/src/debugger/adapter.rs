//! Leads a run as a client says.

use quillon_core::Reading;
use quillon_core::debugging::{At, Guide, Order, Pace, Reason, Stopped, Stops, walk};
use quillon_core::diagnostic::{Diagnostic, Outcome, codes};
use quillon_core::values::Held;
use serde_json::{Value, json};

use super::answers::{DO, Nodes, Since};
use super::breakpoints::{Breakpoints, RAISED, UNCAUGHT};
use super::launch::Launched;
use super::line::{Line, Request};

/// The only thread that there is.
pub const THREAD: i64 = 1;

/// What leads a run for a client.
pub struct Adapter {
    pub(super) line: Line,
    pub(super) breakpoints: Breakpoints,
    nodes: Nodes,
    /// Whether the client wants to be told that what it knows of variables is so no more.
    takes_invalidated: bool,
    /// Whether the run stands still at its beginning, as long as it has not begun.
    stops_on_entry: Option<bool>,
    pub(super) is_over: bool,
}

impl Adapter {
    pub fn new(line: Line) -> Adapter {
        Adapter {
            line,
            breakpoints: Breakpoints::default(),
            nodes: Nodes::default(),
            takes_invalidated: false,
            stops_on_entry: None,
            is_over: false,
        }
    }

    /// Tells the client of something.
    pub fn tell(&self, event: &str, body: &Value) {
        self.line.tell(event, body);
    }

    /// Answers the client until a program can be run; nothing when it has gone.
    pub fn prepare(&mut self) -> Option<Launched> {
        let mut launched = None;
        let mut is_configured = false;
        while !self.is_over {
            let request = self.line.next()?;
            let answer = match request.command.as_str() {
                "initialize" => {
                    self.takes_invalidated = request.arguments["supportsInvalidatedEvent"] == true;
                    self.line.answer(&request, Ok(capabilities()));
                    self.tell("initialized", &json!({}));
                    continue;
                }
                "launch" => match Launched::new(&request.arguments) {
                    Ok(found) => {
                        self.breakpoints.gather(Some(&found));
                        launched = Some(found);
                        Ok(json!({}))
                    }
                    Err(why) => Err(why),
                },
                "configurationDone" => {
                    is_configured = true;
                    Ok(json!({}))
                }
                _ => self.set(&request, launched.as_ref()),
            };
            self.line.answer(&request, answer);
            if is_configured && launched.is_some() {
                return launched;
            }
        }
        None
    }

    /// Runs a program; its exit status.
    pub fn run(&mut self, launched: &Launched) -> i32 {
        self.stops_on_entry = Some(launched.stops_on_entry && launched.is_debugged);
        let mut host = launched.host(&self.line);
        let source = &launched.source;
        let mut led = Led {
            adapter: self,
            launched,
        };
        let outcome = walk(
            &launched.builder,
            source,
            Reading::Program,
            &mut host,
            &mut led,
        );
        host.status(&outcome)
    }

    pub(super) fn tell_of(&self, diagnostics: &[Diagnostic]) {
        let wrong = |one: &&Diagnostic| one.is_error() && one.code != codes::RUN_LEFT;
        for one in diagnostics.iter().filter(wrong) {
            let place = one.place.as_ref().map(|place| {
                let position = place.source.position(place.span.start);
                format!(
                    "{}:{}:{}: ",
                    place.source.name(),
                    position.line,
                    position.column
                )
            });
            let text = format!("{}{}\n", place.unwrap_or_default(), one.message);
            self.tell("output", &json!({ "category": "stderr", "output": text }));
        }
    }

    /// What can be asked for at any time.
    pub(super) fn set(
        &mut self,
        request: &Request,
        launched: Option<&Launched>,
    ) -> Result<Value, String> {
        let arguments = &request.arguments;
        Ok(match request.command.as_str() {
            "setBreakpoints" => self.breakpoints.set_in_text(arguments, launched),
            "setFunctionBreakpoints" => self.breakpoints.set_in_functions(arguments, launched),
            "setDataBreakpoints" => self.breakpoints.set_at_changes(arguments, launched),
            "dataBreakpointInfo" => json!({
                "dataId": arguments["name"],
                "description": "another value of it",
                "accessTypes": ["write"],
            }),
            "setExceptionBreakpoints" => self.breakpoints.set_faults(arguments, launched),
            "threads" => json!({ "threads": [{ "id": THREAD, "name": "the program" }] }),
            "disconnect" | "terminate" => {
                self.is_over = true;
                json!({})
            }
            "stackTrace" | "scopes" | "variables" | "evaluate" | "setVariable" | "disassemble"
            | "completions" | "gotoTargets" | "goto" | "exceptionInfo" => {
                return Err("the run goes on: this can be told where it stands still".to_owned());
            }
            other => return Err(format!("{other} is not known here")),
        })
    }

    /// How a request has the run go on, if it does; steps go through meanings where those are shown, unless
    /// they are to be of a line.
    pub(super) fn order(request: &Request, shows_meanings: bool) -> Option<Order> {
        let size = request.arguments["granularity"].as_str();
        let pace = |line: Pace, part: Pace| match size {
            Some("instruction") => Pace::Instruction,
            Some("line") => line,
            _ if shows_meanings => part,
            _ => line,
        };
        Some(match request.command.as_str() {
            "continue" => Order::Forwards(Pace::Stop),
            "next" => Order::Forwards(pace(Pace::Line, Pace::Part)),
            "stepIn" => Order::Forwards(pace(Pace::IntoLine, Pace::IntoPart)),
            "stepOut" => Order::Forwards(Pace::Out),
            "stepBack" => Order::Backwards(pace(Pace::Line, Pace::Part)),
            "reverseContinue" => Order::Backwards(Pace::Stop),
            "restart" => Order::Anew,
            _ => return None,
        })
    }

    /// Has the innermost call go on at another place, and tells where it stands then.
    fn go_on_elsewhere(
        &mut self,
        at: &mut Stopped<'_, '_, '_>,
        request: &Request,
        launched: &Launched,
    ) {
        let number = request.arguments["targetId"].as_u64().unwrap_or(u64::MAX);
        let places = at.elsewhere();
        let Some(place) = places.get(number as usize) else {
            let why = "it cannot go on there from where it stands";
            self.line.answer(request, Err(why.to_owned()));
            return;
        };
        at.go_on_at(*place);
        self.nodes.begin(launched.shows_meanings);
        self.line.answer(request, Ok(json!({})));
        let body = json!({ "reason": "goto", "threadId": THREAD, "allThreadsStopped": true });
        self.tell("stopped", &body);
    }

    /// Tells what the last answer has changed, or has not.
    fn tell_since(&mut self) {
        match self.nodes.since() {
            Since::Changed if self.takes_invalidated => {
                let body = json!({ "areas": ["variables"], "threadId": THREAD });
                self.tell("invalidated", &body);
            }
            Since::Nothing | Since::Changed => {}
            Since::OnCopies(text) => {
                let said = format!(
                    "that was worked out on copies, and the run is as it was: {DO}{text} does it there\n"
                );
                self.tell("output", &json!({ "category": "console", "output": said }));
            }
        }
    }

    fn tell_stopped(&self, reason: &Reason) {
        let mut told = json!({ "threadId": THREAD, "allThreadsStopped": true });
        let (what, text) = match reason {
            Reason::Beginning => ("entry", None),
            Reason::Asked => ("pause", None),
            Reason::Went => ("step", None),
            Reason::Stop(number) => {
                told["hitBreakpointIds"] = json!([self.breakpoints.numbers.get(*number)]);
                let stop = self.breakpoints.stops.all.get(*number);
                let is_change = stop.is_some_and(|stop| matches!(stop.at, At::Change(_)));
                let what = if is_change {
                    "data breakpoint"
                } else {
                    "breakpoint"
                };
                (what, None)
            }
            Reason::Fault { error, .. } => ("exception", Some(&error.message)),
            Reason::Condition(_, error) => ("breakpoint", Some(&error.message)),
        };
        told["reason"] = what.into();
        if let Some(text) = text {
            told["text"] = text.as_str().into();
            told["description"] = text.as_str().into();
        }
        self.tell("stopped", &told);
    }
}

/// What the client can ask for.
fn capabilities() -> Value {
    json!({
        "supportsConfigurationDoneRequest": true,
        "supportsFunctionBreakpoints": true,
        "supportsDataBreakpoints": true,
        "supportsRestartRequest": true,
        "supportsConditionalBreakpoints": true,
        "supportsHitConditionalBreakpoints": true,
        "supportsLogPoints": true,
        "supportsDisassembleRequest": true,
        "supportsEvaluateForHovers": true,
        "supportsStepBack": true,
        "supportsSetVariable": true,
        "supportsGotoTargetsRequest": true,
        "supportsCompletionsRequest": true,
        "supportsSteppingGranularity": true,
        "supportsExceptionInfoRequest": true,
        "supportsTerminateRequest": true,
        "supportsDelayedStackTraceLoading": true,
        "exceptionBreakpointFilters": [
            { "filter": RAISED, "label": "Everything that fails", "default": false },
            { "filter": UNCAUGHT, "label": "What fails and is not mended", "default": true },
        ],
    })
}

/// A run that a client leads.
struct Led<'a> {
    adapter: &'a mut Adapter,
    launched: &'a Launched,
}

impl Guide for Led<'_> {
    fn stops(&self) -> &Stops {
        &self.adapter.breakpoints.stops
    }

    fn is_asked_for(&self) -> bool {
        self.adapter.line.is_waiting()
    }

    fn logged(&mut self, text: &str) {
        let text = format!("{text}\n");
        self.adapter
            .tell("output", &json!({ "category": "console", "output": text }));
    }

    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order {
        let launched = self.launched;
        let adapter = &mut *self.adapter;
        if adapter.stops_on_entry.take() == Some(false) {
            return Order::Forwards(Pace::Stop);
        }
        if *at.reason() == Reason::Asked {
            // Perhaps only for something that can be done while it goes on.
            let mut is_paused = false;
            while let Some(request) = adapter.line.waiting() {
                let answer = if request.command == "pause" {
                    is_paused = true;
                    Ok(json!({}))
                } else {
                    adapter.set(&request, Some(launched))
                };
                adapter.line.answer(&request, answer);
            }
            if adapter.is_over || adapter.line.is_closed() {
                adapter.is_over = true;
                return Order::End;
            }
            if !is_paused {
                return Order::On;
            }
        }
        adapter.nodes.begin(launched.shows_meanings);
        adapter.tell_stopped(at.reason());
        while !adapter.is_over {
            let Some(request) = adapter.line.next() else {
                break;
            };
            if let Some(order) = Adapter::order(&request, launched.shows_meanings) {
                adapter
                    .line
                    .answer(&request, Ok(json!({ "allThreadsContinued": true })));
                if order == Order::Anew {
                    adapter.stops_on_entry = Some(launched.stops_on_entry);
                }
                return order;
            }
            if request.command == "goto" {
                adapter.go_on_elsewhere(at, &request, launched);
                continue;
            }
            let seen = adapter.nodes.answer(at, &request);
            let answer = seen.unwrap_or_else(|| adapter.set(&request, Some(launched)));
            adapter.line.answer(&request, answer);
            adapter.tell_since();
        }
        adapter.is_over = true;
        Order::End
    }

    fn ended(&mut self, outcome: &Outcome<Held>) -> Order {
        self.adapter.tell_of(&outcome.diagnostics);
        Order::End
    }
}
