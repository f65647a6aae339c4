//! Operations that reach out of the program: input, output, chance, the clock, files.

use std::time::{SystemTime, UNIX_EPOCH};

use super::texts::text;
use super::{bounded, integer};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::host::{Amount, Metered};
use crate::runtime::number::Outcome;
use crate::values::shown;
use crate::values::{Heap, Held, Value};

pub(super) fn apply(
    operation: Operation,
    args: &[Value],
    host: &mut Metered<'_>,
    random: &mut fastrand::Rng,
) -> Outcome {
    use Operation as O;
    let read = |input: Option<String>| input.map_or(Value::Nothing, |text| Value::text(&text));
    Ok(match operation {
        O::Output => {
            for value in args {
                match value {
                    Value::Text(text) => host.output(text)?,
                    other => host.output(&shown(other))?,
                }
            }
            Value::Nothing
        }
        O::Input => read(host.input(Amount::Line)),
        O::InputCharacter => read(host.input(Amount::Character)),
        O::InputAll => Value::text(&host.input(Amount::All).unwrap_or_default()),
        O::RandomInteger => {
            let (low, high) = (integer(args, 0)?, integer(args, 1)?);
            if high < low {
                return Err(Problem::new(
                    Culprit::Operand(1),
                    codes::RUN_DOMAIN,
                    format!("there is no integer from {low} to {high}"),
                )
                .why("the lower bound comes first"));
            }
            Value::Integer(random.i64(low..=high))
        }
        O::RandomNumber => Value::Number(random.f64()),
        O::RandomShuffle => {
            let Value::List(list) = &args[0] else {
                return Err(Problem::kind(0, "a list", &args[0]));
            };
            let mut items = list.copied();
            random.shuffle(&mut items);
            Value::list(items)
        }
        O::ClockNow => {
            let now = SystemTime::now().duration_since(UNIX_EPOCH);
            Value::Number(now.map_or(0.0, |since| since.as_secs_f64()))
        }
        O::HostCall => {
            return Heap::with_shared(|heap| {
                let given: Vec<Held> = args[1..].iter().map(|arg| Held::of(heap, *arg)).collect();
                let result = host.call(&text(args, 0)?, &given);
                let result = result.map_err(|refused| refused.problem(0, codes::RUN_HOST))?;
                Ok(result.on(heap))
            });
        }
        O::ClockRunning => Value::Number(host.running().as_secs_f64()),
        _ => return file(operation, args, host),
    })
}

fn file(operation: Operation, args: &[Value], host: &mut Metered<'_>) -> Outcome {
    let path = text(args, 0)?;
    let result = match operation {
        Operation::FileRead => {
            let read = host.read_file(&path);
            if let Ok(read) = &read {
                bounded(read.len())?;
            }
            read.map(|content| Value::text(&content))
        }
        Operation::FileWrite => host
            .write_file(&path, &text(args, 1)?)
            .map(|()| Value::Nothing),
        _ => host.has_file(&path).map(Value::Truth),
    };
    result.map_err(|refused| refused.problem(0, codes::RUN_FILE))
}
