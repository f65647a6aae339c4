//! How a run goes wrong.

use std::collections::VecDeque;
use std::sync::Arc;

use crate::definition::Definition;
use crate::diagnostic::{CallSite, Cause, Code, Diagnostic, LeftOut, Place, codes, plural, quote};
use crate::metering::{Stopped, in_bytes};
use crate::source::{SourceText, Span, floor};
use crate::values::{
    EngineState, Heap, Key, LARGEST, Marker, Signature, Traced, Value, described, told,
};

/// Which part of an operation is at fault.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Culprit {
    /// An operand, by its number.
    Operand(usize),
    /// The operation as a whole.
    Whole,
}

/// What an operation has against its operands.
#[derive(Clone, Debug)]
pub(crate) struct Problem {
    /// Which operand.
    pub culprit: Culprit,
    /// The code.
    pub code: Code,
    /// What is wrong.
    pub message: String,
    /// The cause, where the message does not say it.
    pub why: Option<String>,
    /// Parts of the message by name.
    pub details: Vec<(&'static str, String)>,
    /// Whether an operand that is a parameter is the fault of the argument in the call.
    pub blames_argument: bool,
    /// Whether what was asked for may be there after a collection: nothing has been changed.
    pub may_be_tried_again: bool,
    /// The error of the host that it comes from.
    pub cause: Option<Cause>,
    /// The error of a function that the host has called back, which it passes on.
    pub passed_on: Option<Box<Diagnostic>>,
}

impl From<Stopped> for Box<Problem> {
    /// The limit that was come to, in words.
    fn from(stopped: Stopped) -> Box<Problem> {
        Heap::with(|heap| {
            let limits = heap.meter.limits();
            match stopped {
                Stopped::Steps => {
                    let steps = limits.steps.unwrap_or(u64::MAX);
                    stopped_after(codes::RUN_STEPS, &format!("{steps} steps"))
                }
                Stopped::Time => {
                    let seconds = limits.time.unwrap_or_default().as_secs_f64();
                    stopped_after(codes::RUN_TIME, &format!("{seconds} seconds"))
                }
                Stopped::Interrupted => Problem::new(
                    Culprit::Whole,
                    codes::RUN_INTERRUPTED,
                    "the run was interrupted here",
                ),
                Stopped::Size => {
                    Problem::new(Culprit::Whole, codes::RUN_SIZE, "this would grow too large").why(
                        format!(
                            "a text has at most {LARGEST} bytes and a list at most {LARGEST} items"
                        ),
                    )
                }
                Stopped::Memory => {
                    let mut problem = too_much_memory(heap);
                    problem.may_be_tried_again = true;
                    problem
                }
            }
        })
    }
}

fn stopped_after(limit: Code, after: &str) -> Box<Problem> {
    Problem::new(
        Culprit::Whole,
        limit,
        format!("the run was stopped after {after}"),
    )
    .why("it may never end; if it does, it needs a higher limit")
}

/// More memory than there may be, or than there is.
fn too_much_memory(heap: &Heap) -> Box<Problem> {
    let limit = heap.meter.limits().memory.unwrap_or(u64::MAX);
    let values = in_bytes(heap.used() as u64);
    let calls = heap.meter.calls();
    let message = if heap.meter.is_short() {
        "the run was stopped: it needs more memory than there is".to_owned()
    } else {
        let limit = in_bytes(limit);
        format!("the run was stopped: it needs more than {limit} of memory")
    };
    Problem::new(Culprit::Whole, codes::RUN_MEMORY, message).why(format!(
        "{calls} calls are under way, and values take {values}"
    ))
}

impl Problem {
    /// A problem with an operand.
    pub fn new(culprit: Culprit, code: Code, message: impl Into<String>) -> Box<Problem> {
        Box::new(Problem {
            culprit,
            code,
            message: message.into(),
            why: None,
            details: Vec::new(),
            blames_argument: false,
            may_be_tried_again: false,
            cause: None,
            passed_on: None,
        })
    }

    /// Adds a part of the message by name.
    #[must_use]
    pub fn detail(
        mut self: Box<Self>,
        name: &'static str,
        text: impl Into<String>,
    ) -> Box<Problem> {
        self.details.push((name, text.into()));
        self
    }

    /// An operand of a kind that does not belong there.
    pub fn kind(operand: usize, wanted: &str, found: &Value) -> Box<Problem> {
        Problem::new(
            Culprit::Operand(operand),
            codes::RUN_KIND,
            format!("{wanted} is needed here, and this is {}", described(found)),
        )
        .detail("wanted", wanted)
        .detail("got", described(found))
    }

    /// An error that the definition itself raises, with a message.
    pub fn fault(culprit: Culprit, message: &Value) -> Box<Problem> {
        let said = told(message);
        let is_empty = said.trim().is_empty();
        let message = if is_empty {
            "an error without a message"
        } else {
            &said
        };
        Problem::new(culprit, codes::RUN_FAULT, message)
    }

    /// As a diagnostic of no place in a program.
    pub fn without_place(self) -> Diagnostic {
        let mut diagnostic = Diagnostic::error(self.code, self.message).caused_by(self.cause);
        for (name, text) in self.details {
            diagnostic = diagnostic.with_detail(name, text);
        }
        match self.why {
            Some(why) => diagnostic.why(why),
            None => diagnostic,
        }
    }

    /// Adds the cause.
    #[must_use]
    pub fn why(mut self: Box<Self>, why: impl Into<String>) -> Box<Problem> {
        self.why = Some(why.into());
        self
    }
}

/// A function called with a number of arguments that it does not take.
pub(crate) fn wrong_count(signature: &Signature<'_>, count: usize) -> Box<Problem> {
    let rest = signature.rest;
    let params = signature.names(false);
    let hidden = signature.names(true);
    // What the language adds is in the call as well.
    let count = count.saturating_sub(hidden.len());
    let who = match signature.name {
        Some(name) => quote(name),
        None => "this function".to_owned(),
    };
    let least = params.len() - usize::from(rest);
    let wanted = format!(
        "{}{}",
        plural(least, "argument"),
        if rest { " or more" } else { "" }
    );
    let problem = Problem::new(
        Culprit::Whole,
        codes::RUN_ARITY,
        format!("{who} takes {wanted}, and gets {count}"),
    )
    .detail("function", who)
    .detail("wanted", wanted)
    .detail("got", count.to_string());
    if params.is_empty() {
        return problem;
    }
    let listed = match params.as_slice() {
        [one] => format!("its parameter is {one}"),
        all => format!("its parameters are {}", all.join(", ")),
    };
    problem.why(listed)
}

/// More calls one inside the other than there may be.
pub(crate) fn too_deep(calls: u32) -> Box<Problem> {
    Problem::new(
        Culprit::Whole,
        codes::RUN_DEPTH,
        format!("{calls} nested calls, and that is the limit"),
    )
    .why("a function that calls itself must come to an end")
}

/// A raised value that nothing catches.
pub(crate) fn not_caught(value: &Value) -> Box<Problem> {
    let message = format!("this was raised and nothing caught it: {}", told(value));
    Problem::new(Culprit::Whole, codes::RUN_RAISED, message)
}

/// A variable that is read before it is set.
pub(crate) fn not_set(name: &str, is_dynamic: bool) -> Box<Problem> {
    let why = if is_dynamic {
        "none of its bindings is under way"
    } else {
        "it is bound, but what gives it a value has not run"
    };
    let message = format!("{} has no value yet", quote(name));
    Problem::new(Culprit::Whole, codes::RUN_UNSET, message)
        .why(why)
        .detail("name", name)
}

/// A failure that is to be shown at a call further out: one inside a built-in function, or
/// of a parameter that is not of the type it is declared to have.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct OfCall {
    /// The parameter that is at fault, if one is.
    pub param: Option<u32>,
}

/// A function that is left with a failure.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Passed<'a> {
    /// Its name, if it has one.
    pub function: Option<&'a str>,
    /// Whether it is built in, and whether what called it is.
    pub is_built_in: bool,
    /// See `is_built_in`.
    pub from_built_in: bool,
}

/// Whether an error is that of a limit of the run.
pub(crate) fn is_limit(code: Code) -> bool {
    let limits = [
        codes::RUN_STEPS,
        codes::RUN_DEPTH,
        codes::RUN_TIME,
        codes::RUN_OUTPUT,
        codes::RUN_MEMORY,
    ];
    limits.contains(&code)
}

/// Why a run stopped.
#[derive(Clone, Debug)]
pub struct Failure {
    /// The code.
    pub code: Code,
    /// What is wrong.
    pub message: String,
    /// The cause.
    pub why: Option<String>,
    /// Parts of the message by name.
    pub details: Vec<(&'static str, String)>,
    /// Where.
    pub place: Place,
    /// The raised value, if one was raised.
    pub raised: Option<Value>,
    /// The calls on the way, innermost first: the first of them.
    pub calls: Vec<CallSite>,
    /// The last of them.
    pub last_calls: VecDeque<CallSite>,
    /// Calls between those that are not listed, since there are too many.
    pub more_calls: u32,
    /// The error of the host that it comes from.
    pub cause: Option<Cause>,
    /// Set while the failure is not where it is to be shown.
    pub belongs_to_call: Option<OfCall>,
    /// A function of the program that was left, and that something built-in has called: the
    /// call is noted where the program called that.
    pub called_back: Option<String>,
}

/// Most calls that a failure lists from either end.
const MOST_CALLS: usize = 6;

impl Traced for Failure {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&self.raised);
    }

    fn bytes_beside(&self) -> usize {
        0
    }
}

impl EngineState for Failure {
    fn copied(&self, copy: &mut dyn FnMut(Value) -> Value) -> Option<Box<dyn EngineState>> {
        Some(Box::new(Failure {
            raised: self.raised.map(copy),
            ..self.clone()
        }))
    }
}

impl Failure {
    /// A problem at a place; that of a call further out, perhaps.
    pub fn new(problem: Problem, place: Place, belongs_to_call: Option<OfCall>) -> Box<Failure> {
        let mut failure = Box::new(Failure {
            code: problem.code,
            message: problem.message,
            why: problem.why,
            details: problem.details,
            place,
            raised: None,
            calls: Vec::new(),
            last_calls: VecDeque::new(),
            more_calls: 0,
            cause: problem.cause,
            belongs_to_call,
            called_back: None,
        });
        // It goes on where it was.
        if let Some(inner) = problem.passed_on {
            failure.details = inner.details().to_vec();
            failure.place = inner.place.unwrap_or(failure.place);
            failure.calls = inner.calls;
            failure.belongs_to_call = None;
        }
        failure
    }

    /// A problem with a program as a whole.
    pub fn at_start(problem: Problem, source: &Arc<SourceText>) -> Box<Failure> {
        Failure::new(problem, Place::new(source, Span::new(0, 0)), None)
    }

    /// Whether `attempt` catches it: limits end the run whatever the program says.
    pub fn is_catchable(&self) -> bool {
        let ends_it = [codes::RUN_INTERRUPTED, codes::RUN_LEFT];
        !is_limit(self.code) && !ends_it.contains(&self.code)
    }

    /// What a `rescue` gets: the raised value, or a map that says what went wrong, in the
    /// words of the definition if it has any.
    pub fn caught(&self, wording: Option<&Definition>) -> Value {
        if let Some(value) = &self.raised {
            return *value;
        }
        let position = self.place.source.position(self.place.span.start);
        let mut message = [self.clone().diagnostic()];
        if let Some(definition) = wording {
            definition.reword(&mut message);
        }
        let key = Key::text;
        let caught = Value::map([
            (key("code"), Value::text(self.code.0)),
            (key("message"), Value::text(message[0].message.as_str())),
            (key("line"), Value::Integer(i64::from(position.line))),
            (key("column"), Value::Integer(i64::from(position.column))),
        ]);
        if let (Value::Map(map), Value::List(calls)) = (caught, Value::list(self.calls_caught())) {
            map.set_calls(calls);
        }
        caught
    }

    /// The calls that were under way, each as a map, the innermost first.
    fn calls_caught(&self) -> Vec<Value> {
        let of_call = |call: &CallSite| {
            let position = call.place.source.position(call.place.span.start);
            let key = Key::text;
            Value::map([
                (key("function"), Value::text(call.function.as_str())),
                (key("line"), Value::Integer(i64::from(position.line))),
                (key("column"), Value::Integer(i64::from(position.column))),
                (key("times"), Value::Integer(i64::from(call.times))),
            ])
        };
        self.calls
            .iter()
            .chain(&self.last_calls)
            .map(of_call)
            .collect()
    }

    /// Notes the call of a function that is left. What is built in is no call that the
    /// program's author knows: it could as well have been filled in.
    pub fn passed(&mut self, left: Passed<'_>, place: Place) {
        if !left.is_built_in {
            // There can be very many calls.
            const LONGEST: usize = 200;
            let name = left.function.unwrap_or("a function without a name");
            self.called_back = Some(name[..floor(name, LONGEST)].to_owned());
        }
        if !left.from_built_in
            && let Some(function) = self.called_back.take()
        {
            self.note(function, place);
        }
    }

    fn note(&mut self, function: String, place: Place) {
        let call = CallSite {
            function,
            place,
            times: 1,
        };
        let repeated = |last: &CallSite| last.function == call.function && last.place == call.place;
        let latest = self.last_calls.back_mut().or(self.calls.last_mut());
        if let Some(last) = latest.filter(|last| repeated(last)) {
            last.times += 1;
        } else if self.calls.len() < MOST_CALLS {
            self.calls.push(call);
        } else {
            self.last_calls.push_back(call);
            if self.last_calls.len() > MOST_CALLS
                && let Some(left_out) = self.last_calls.pop_front()
            {
                self.more_calls += left_out.times;
            }
        }
    }

    /// As a diagnostic.
    pub fn diagnostic(self) -> Diagnostic {
        let mut diagnostic =
            Diagnostic::error(self.code, self.message).at(&self.place.source, self.place.span);
        diagnostic = diagnostic.caused_by(self.cause);
        for (name, text) in self.details {
            diagnostic = diagnostic.with_detail(name, text);
        }
        if let Some(why) = self.why {
            diagnostic = diagnostic.why(why);
        }
        diagnostic.calls_left_out = (self.more_calls > 0).then_some(LeftOut {
            after: self.calls.len(),
            count: self.more_calls,
        });
        diagnostic.calls = self.calls;
        diagnostic.calls.extend(self.last_calls);
        diagnostic
    }
}
