//! Operations that reach out of the program: input, output, chance, the clock, files.

use std::time::{SystemTime, UNIX_EPOCH};

use super::texts::text;
use super::{integer, list_room};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::metering::Stopped;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::host::{Amount, Metered, Refused};
use crate::runtime::number::Outcome;
use crate::values::shown;
use crate::values::{Heap, Held, LARGEST, Value};

pub(super) fn apply(
    operation: Operation,
    args: &[Value],
    host: &mut Metered<'_>,
    random: &mut fastrand::Rng,
) -> Outcome {
    use Operation as O;
    Ok(match operation {
        O::Output => {
            for value in args {
                host.output(&shown(value)?)?;
            }
            Value::Nothing
        }
        O::Input => read(host, Amount::Line)?.unwrap_or_default(),
        O::InputCharacter => read(host, Amount::Character)?.unwrap_or_default(),
        O::InputAll => read(host, Amount::All)?.unwrap_or_else(|| Value::text("")),
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
            list_room(list.len())?;
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
        O::ClockRunning => {
            let running = Heap::with(|heap| heap.meter.running());
            Value::Number(running.as_secs_f64())
        }
        _ => return file(operation, args, host),
    })
}

/// The most that may be read at once: what there is room for.
fn most() -> usize {
    Heap::with(|heap| heap.meter.left(heap.used())).min(LARGEST)
}

fn read(host: &mut Metered<'_>, amount: Amount) -> Result<Option<Value>, Box<Problem>> {
    let read = host.input(amount, most()).map_err(|_| {
        // What has been read of it is gone.
        let mut problem = Box::<Problem>::from(Stopped::Memory);
        problem.may_be_tried_again = false;
        problem
    });
    Ok(read?.map(Value::text))
}

/// Whether an operation takes something that cannot be taken again: there should be room for it.
pub(crate) fn takes_input(operation: Operation) -> bool {
    use Operation as O;
    matches!(operation, O::Input | O::InputCharacter | O::InputAll)
}

fn file(operation: Operation, args: &[Value], host: &mut Metered<'_>) -> Outcome {
    let path = text(args, 0)?;
    let refused = |refused: Refused| refused.problem(0, codes::RUN_FILE);
    Ok(match operation {
        Operation::FileRead => {
            let read = host.read_file(&path, most());
            Value::text(read.map_err(|problem| problem.problem(0, codes::RUN_FILE))?)
        }
        Operation::FileWrite => {
            host.write_file(&path, &text(args, 1)?).map_err(refused)?;
            Value::Nothing
        }
        _ => Value::Truth(host.has_file(&path).map_err(refused)?),
    })
}
