//! Walks through programs made up at random, forwards and backwards, on which other programs are carried out: one
//! that goes back from checkpoints sees what one sees that always begins again.

use std::sync::LazyLock;

use fastrand::Rng;
use quillon_core::Reading;
use quillon_core::debugging::{Guide, Order, Pace, Stopped, Stops, walk};
use quillon_core::diagnostic::{Diagnostic, Outcome};
use quillon_core::runtime::Limits;
use quillon_core::values::Held;
use serde_json::{Value, json};

use super::engines::Outside;
use crate::author::Author;
use crate::{Target, corpus};

/// Walks through programs made up.
pub struct Walks;

static QUAY: LazyLock<corpus::Known> = LazyLock::new(corpus::quay);

impl Target for Walks {
    fn name(&self) -> &'static str {
        "walks"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let modules: Vec<String> = (0..random.usize(..2))
            .map(|number| Author::new(random, number).program())
            .collect();
        let orders: Vec<u64> = (0..random.usize(3..12))
            .map(|_| random.u64(..6000))
            .collect();
        json!({
            "program": Author::new(random, modules.len()).program(),
            "text": Author::new(random, modules.len()).program(),
            "modules": modules,
            "apart": random.u64(1..300),
            "orders": orders,
        })
        .to_string()
        .into_bytes()
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Ok(input) = serde_json::from_slice::<Value>(input) else {
            return Ok(());
        };
        let again = walked(&input, u64::MAX);
        let back = walked(&input, input["apart"].as_u64().unwrap_or(1));
        // What ends at a limit of memory does so a little earlier or later.
        let is_short = |seen: &String| seen.contains("of memory");
        if again == back || again.iter().chain(&back).any(is_short) {
            return Ok(());
        }
        let differs = again
            .iter()
            .zip(&back)
            .position(|(one, other)| one != other);
        let at = differs.unwrap_or(again.len().min(back.len()));
        Err(format!(
            "{at}\nfrom the beginning: {:?}\nfrom checkpoints: {:?}",
            again.get(at),
            back.get(at)
        ))
    }
}

/// All that is seen on a walk, with checkpoints so far apart.
fn walked(input: &Value, apart: u64) -> Vec<String> {
    let texts = input["modules"].as_array().into_iter().flatten();
    let modules: Vec<&str> = texts.filter_map(Value::as_str).collect();
    let orders = input["orders"].as_array().into_iter().flatten();
    let mut walker = Walker {
        stops: Stops::default(),
        orders: orders.filter_map(Value::as_u64).collect(),
        text: input["text"].as_str().unwrap_or_default().to_owned(),
        seen: Vec::new(),
        apart,
    };
    walker.orders.reverse();
    walker.stops.faults.raised = true;
    let limits = Limits {
        steps: Some(20_000),
        depth: 200,
        memory: Some(32 << 20),
        ..Limits::default()
    };
    // What a host does that calls the run back is recorded, but not what it called.
    let mut host = Outside::with_programs(&modules).silent();
    let program = input["program"].as_str().unwrap_or_default();
    let source = corpus::source("program", program);
    let builder = QUAY.language.session().limits(limits).seed(1);
    walk(&builder, &source, Reading::Program, &mut host, &mut walker);
    walker.seen.push(host.printed());
    walker.seen
}

struct Walker {
    stops: Stops,
    /// The last comes first.
    orders: Vec<u64>,
    /// What is carried out now and then.
    text: String,
    seen: Vec<String>,
    apart: u64,
}

impl Walker {
    fn next(&mut self) -> Order {
        let Some(number) = self.orders.pop() else {
            return Order::End;
        };
        let paces = [
            Pace::Instruction,
            Pace::IntoForm,
            Pace::Form,
            Pace::IntoLine,
            Pace::Line,
            Pace::Out,
            Pace::Stop,
        ];
        let pace = paces[number as usize / 8 % paces.len()];
        match number % 8 {
            0..4 => Order::To(number),
            4 | 5 => Order::Backwards(pace),
            6 => Order::Forwards(pace),
            _ => Order::ToBeginning,
        }
    }
}

impl Guide for Walker {
    fn stops(&self) -> &Stops {
        &self.stops
    }

    fn checkpoints_apart(&self) -> u64 {
        self.apart
    }

    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order {
        let mut seen = format!("{} {:?} {}", at.moment(), at.reason(), at.printed());
        for call in 0..at.calls().len().min(6) {
            let span = at.calls()[call].span;
            seen += &format!("\n{}-{}", span.start, span.end);
            for one in at.variables(call).iter().chain(&at.state()) {
                seen += &format!(" {}={}", one.name, one.value.written());
            }
        }
        self.seen.push(seen);
        if let Some(number) = self.orders.last().filter(|number| *number % 5 == 0) {
            let call = *number as usize / 5 % at.calls().len();
            let came = at.carry_out(call, &self.text);
            let came = came.map_or_else(|problems| problems.to_string(), |value| value.written());
            self.seen.push(format!("{came} {}", at.printed()));
        }
        self.next()
    }

    fn logged(&mut self, text: &str) {
        self.seen.push(text.to_owned());
    }

    fn ended(&mut self, outcome: &Outcome<Held>) -> Order {
        let problems = outcome.diagnostics.iter();
        let told: Vec<String> = problems.map(Diagnostic::in_one_line).collect();
        let value = outcome.value.as_ref().map(Held::written);
        self.seen.push(format!("ended {value:?} {told:?}"));
        self.next()
    }
}
