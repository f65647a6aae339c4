//! Programs made up at random, with others that they load: both engines come to the same, and
//! the machine comes to the same when memory is short, under random small limits.

use std::collections::HashMap;
use std::sync::{Arc, LazyLock};
use std::time::{Duration, Instant};

use fastrand::Rng;
use quillon_core::runtime::{
    Amount, Caller, Host, HostError, Limits, NotRead, Recorder, Refused, TooLarge,
};
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use quillon_core::{Engine, Prepared, Reading};
use serde_json::{Value, json};

use crate::author::Author;
use crate::{Target, corpus};

/// Programs made up, on both engines.
pub struct Engines;

static QUAY: LazyLock<corpus::Known> = LazyLock::new(corpus::quay);

impl Target for Engines {
    fn name(&self) -> &'static str {
        "engines"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        let modules: Vec<String> = (0..random.usize(..3))
            .map(|number| Author::new(random, number).program())
            .collect();
        let program = Author::new(random, modules.len()).program();
        let some = |random: &mut Rng, most: u64| {
            let limit = random.u64(1..most);
            if random.bool() {
                Value::Null
            } else {
                limit.into()
            }
        };
        json!({
            "program": program,
            "modules": modules,
            "steps": some(random, 20_000),
            "depth": random.u64(1..200),
            "output": some(random, 500),
            "memory": some(random, 4 << 20),
        })
        .to_string()
        .into_bytes()
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Ok(input) = serde_json::from_slice::<Value>(input) else {
            return Ok(());
        };
        let limits = Limits {
            steps: Some(input["steps"].as_u64().unwrap_or(50_000)),
            depth: input["depth"].as_u64().unwrap_or(200) as u32,
            output: input["output"].as_u64(),
            memory: Some(input["memory"].as_u64().unwrap_or(32 << 20)),
            time: Some(Duration::from_secs(2)),
        };
        let texts = input["modules"].as_array().into_iter().flatten();
        let modules: Vec<&str> = texts.filter_map(Value::as_str).collect();
        let program = input["program"].as_str().unwrap_or_default();
        let start = Instant::now();
        let machine = ran(Engine::Machine, program, &modules, limits, 0);
        if start.elapsed() > Duration::from_secs(4) {
            return Err("the limit on time does not hold".to_owned());
        }
        let walker = ran(Engine::Walk, program, &modules, limits, 60);
        if machine.is_limited || walker.is_limited {
            return Ok(());
        }
        if machine.told != walker.told {
            return Err(format!(
                "machine:\n{}\nwalker:\n{}",
                machine.told, walker.told
            ));
        }
        let short = ran(Engine::Machine, program, &modules, limits, 200);
        if short.is_limited || short.told == machine.told {
            return Ok(());
        }
        Err(format!(
            "machine:\n{}\nshort of memory:\n{}",
            machine.told, short.told
        ))
    }
}

/// How a run ended: whether at a limit, and all that can be seen of it.
pub(super) struct Ended {
    pub is_limited: bool,
    pub told: String,
}

/// The outside of a run, with other programs.
#[derive(Debug, Default)]
pub struct Outside {
    own: Recorder,
    programs: HashMap<String, Arc<SourceText>>,
    /// Whether nobody answers who is asked.
    is_silent: bool,
}

impl Outside {
    /// With the programs that are called `m0`, `m1` and so on.
    pub fn with_programs(modules: &[&str]) -> Outside {
        let programs = modules.iter().enumerate().map(|(number, text)| {
            let name = format!("m{number}");
            (name.clone(), SourceText::new(name, *text))
        });
        Outside {
            programs: programs.collect(),
            ..Outside::default()
        }
    }

    /// The same, and nobody answers who is asked.
    #[must_use]
    pub fn silent(self) -> Outside {
        Outside {
            is_silent: true,
            ..self
        }
    }

    /// What has been printed.
    pub fn printed(self) -> String {
        self.own.printed
    }
}

impl Host for Outside {
    fn output(&mut self, text: &str) {
        self.own.output(text);
    }

    fn keeps_output(&self) -> bool {
        true
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.own.input(amount, most)
    }

    /// Calls back the function it is given: once, once whatever comes of it, or some times.
    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        if self.is_silent {
            return Err("nobody answers".into());
        }
        let [function, value] = values else {
            return Err("a function and a value are needed".into());
        };
        let function = function.as_function().ok_or("a function is needed")?;
        let mut once = |host: &mut Outside| caller.call(&function, (value,), host);
        match name {
            "call" => Ok(once(self)?),
            "quiet" => Ok(once(self).unwrap_or_else(|_| Held::integer(7))),
            _ => {
                let all: Result<Vec<Held>, _> = (0..3).map(|_| once(self)).collect();
                Ok(Held::from(all?.len() as i64))
            }
        }
    }

    fn program(
        &mut self,
        path: &str,
        _: &SourceText,
        _: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        let found = self.programs.get(path).cloned();
        found.ok_or_else(|| Refused::new("there is none", "it was not made").into())
    }
}

fn ran(engine: Engine, program: &str, modules: &[&str], limits: Limits, collect: u32) -> Ended {
    let host = Outside::with_programs(modules);
    let prepared = Prepared::new(&QUAY.language);
    let session = prepared.session().engine(engine).limits(limits);
    let Ok(mut session) = session.start(host) else {
        return Ended {
            is_limited: true,
            told: String::new(),
        };
    };
    session.collect_always(collect);
    let source = corpus::source("program", program);
    let outcome = session.run_source(&source, Reading::Program);
    let mut told = std::mem::take(&mut session.host_mut().own.printed);
    for (name, value) in session.state() {
        told.push_str(&format!("{name} = {}\n", value.written()));
    }
    if let Some(value) = &outcome.value {
        told.push_str(&format!("gives {}\n", value.written()));
    }
    let mut is_limited = false;
    for diagnostic in &outcome.diagnostics {
        let limits = ["steps", "depth", "time", "output", "memory", "size"];
        is_limited |= limits
            .iter()
            .any(|l| diagnostic.code.0 == format!("run.{l}"));
        // What another program's own error is about is in the one line that it is told in.
        told.push_str(&format!("{}\n", diagnostic.in_one_line()));
        for call in &diagnostic.calls {
            told.push_str(&format!(
                "  in {} x{} at {}\n",
                call.function,
                call.times,
                call.place.source.position(call.place.span.start)
            ));
        }
    }
    Ended { is_limited, told }
}
