//! What bytecode must be like before the machine runs it: the machine follows what an
//! instruction says without a look at where it leads.

use std::rc::Rc;

use super::instruction::{Counts, Instruction, MOST_REGISTERS, Op, Role};
use super::unit::{Constant, From, Function, Last};
use crate::operations::Operation;
use crate::runtime::{CarriedOut, carried_out};

/// Checks a program; what is wrong with it, if anything is.
///
/// # Errors
/// The first thing that is wrong, with the function and the instruction.
pub fn verify(program: &Function) -> Result<(), String> {
    if !program.captures.is_empty() || !program.params.is_empty() {
        return Err("the program itself captures something or takes arguments".to_owned());
    }
    all(program)
}

/// Checks a function with those inside it, also one that a program is not asked to be.
pub(super) fn all(function: &Function) -> Result<(), String> {
    let mut waiting: Vec<(&Function, Option<&Function>)> = vec![(function, None)];
    while let Some((function, around)) = waiting.pop() {
        let checker = Verifier {
            function,
            starts: starts(function)?,
        };
        let named = |problem: String| match &function.name {
            Some(name) => format!("in the function {name}: {problem}"),
            None => problem,
        };
        checker.check(around).map_err(named)?;
        let inner = function.functions.iter().rev();
        waiting.extend(inner.map(|inner| (&**inner, Some(function))));
    }
    Ok(())
}

/// Which words begin an instruction.
fn starts(function: &Function) -> Result<Vec<bool>, String> {
    let mut starts = vec![false; function.code.len()];
    let mut at = 0;
    while at < function.code.len() {
        starts[at] = true;
        let op = function.code[at].op();
        let op = op.ok_or_else(|| format!("there is no instruction of the number at {at}"))?;
        at += 1 + op.description().extra;
    }
    if at == function.code.len() && at > 0 {
        Ok(starts)
    } else {
        Err("the code ends in the middle of an instruction".to_owned())
    }
}

struct Verifier<'a> {
    function: &'a Function,
    starts: Vec<bool>,
}

impl Verifier<'_> {
    fn check(&self, around: Option<&Function>) -> Result<(), String> {
        let function = self.function;
        let registers = usize::from(function.registers);
        let params = function.params.len();
        let fits = match function.last {
            Last::Argument => params <= registers,
            Last::Rest => (1..=registers).contains(&params),
            Last::Listed => (1..registers).contains(&params),
        };
        if registers > MOST_REGISTERS || !fits {
            return Err("its parameters do not fit its registers".to_owned());
        }
        self.check_captures(around)?;
        self.check_sites()?;
        let code = &function.code;
        let begun = (0..code.len()).filter(|&at| self.starts[at]);
        for at in begun {
            let wrong = |problem: &str| format!("the instruction at {at} {problem}");
            let word = code[at];
            let Some(op) = word.op() else {
                return Err(wrong("has no number of one"));
            };
            self.check_fields(op, word)
                .map_err(|problem| wrong(&problem))?;
            self.check_way(at, op, word).map_err(wrong)?;
        }
        for handler in &function.handlers {
            let [start, end, target] =
                [handler.start, handler.end, handler.target].map(|at| at as usize);
            // It leads on: no failure goes round in circles.
            let leads_on = start <= end && end <= target && self.is_start(target);
            if !leads_on || usize::from(handler.register) >= registers {
                return Err("what catches failures leads nowhere".to_owned());
            }
        }
        Ok(())
    }

    fn check_captures(&self, around: Option<&Function>) -> Result<(), String> {
        for captured in &self.function.captures {
            let is_there = match captured.from {
                From::Itself => true,
                From::Register(register) => around.is_some_and(|f| register < f.registers),
                From::Captured(number) => {
                    around.is_some_and(|f| usize::from(number) < f.captures.len())
                }
            };
            if !is_there {
                return Err(format!("{} is captured from nowhere", captured.name));
            }
        }
        Ok(())
    }

    fn check_sites(&self) -> Result<(), String> {
        let function = self.function;
        let text = function.source.text();
        let sites = &function.site_of;
        let all_there = sites
            .iter()
            .all(|&site| (site as usize) < function.sites.len());
        if sites.len() != function.code.len() || !all_there {
            return Err("not every instruction comes from somewhere".to_owned());
        }
        for site in &function.sites {
            for origin in site.operands.iter().chain([&site.whole]) {
                let span = origin.span;
                let (start, end) = (span.start as usize, span.end as usize);
                let inside =
                    start <= end && text.is_char_boundary(start) && text.is_char_boundary(end);
                if !inside {
                    return Err("an instruction comes from outside of the text".to_owned());
                }
            }
        }
        Ok(())
    }

    fn is_start(&self, at: usize) -> bool {
        self.starts.get(at).copied().unwrap_or(false)
    }

    /// Checks what the fields name.
    fn check_fields(&self, op: Op, word: Instruction) -> Result<(), String> {
        let fields = op.description().fields;
        let values = [u16::from(word.x()), word.a(), word.b(), word.c()];
        for (index, (&role, &value)) in fields.iter().zip(&values).enumerate() {
            let next = values.get(index + 1).copied().unwrap_or(0);
            if !self.is_there(op, word, role, value, next) {
                return Err(format!("names {value} where nothing of that number is"));
            }
        }
        Ok(())
    }

    fn is_there(&self, op: Op, word: Instruction, role: Role, value: u16, next: u16) -> bool {
        let function = self.function;
        let number = usize::from(value);
        let registers = usize::from(function.registers);
        let long = usize::try_from(word.long()).unwrap_or(usize::MAX);
        match role {
            Role::Read | Role::Write | Role::Both => {
                // Two items are compared at a time.
                let more = usize::from(op == Op::SortAsk && role == Role::Write);
                number + more < registers
            }
            Role::Constant => number < function.constants.len(),
            Role::LongConstant => long < function.constants.len(),
            Role::Name => matches!(function.constants.get(number), Some(Constant::Text(_))),
            Role::Captured => number < function.captures.len(),
            Role::Function => long < function.functions.len(),
            Role::Registers => number + usize::from(next) <= registers,
            Role::Row => number + usize::from(word.x()) <= registers,
            Role::Names => {
                let names = function
                    .constants
                    .get(number..number + usize::from(word.x()));
                names.is_some_and(|names| names.iter().all(|one| matches!(one, Constant::Text(_))))
            }
            Role::Window
                if matches!(
                    op,
                    Op::CallListed | Op::CallListedCaptured | Op::TailCallListed
                ) =>
            {
                number + Counts::of(word.x()).registers() <= registers
            }
            Role::Given => {
                // The items are behind their number.
                let last = usize::from(word.c()) + usize::from(op != Op::GivenLength);
                number + 2 + last <= registers
            }
            Role::Window => number < registers && number + usize::from(word.x()) <= registers,
            Role::Flag | Role::Base => value <= 1,
            Role::Operation => {
                let operation = u8::try_from(number).ok().and_then(Operation::numbered);
                operation.is_some_and(|operation| {
                    let is_of_two = op == Op::ApplyTwo;
                    let is_carried_out = match carried_out(operation) {
                        CarriedOut::Native(_) => true,
                        CarriedOut::Host(_) => !is_of_two,
                        CarriedOut::Engine(_) => false,
                    };
                    let count = if is_of_two { 2 } else { usize::from(word.c()) };
                    is_carried_out && operation.arity().fits(count)
                })
            }
            Role::None
            | Role::Integer
            | Role::Long
            | Role::Jump
            | Role::LongJump
            | Role::Count
            | Role::Listed
            | Role::Place
            | Role::Kind => true,
        }
    }

    /// Checks where an instruction goes on.
    fn check_way(&self, at: usize, op: Op, word: Instruction) -> Result<(), &'static str> {
        let code = &self.function.code;
        let after = at + 1 + op.description().extra;
        if let Some(jump) = word.jump() {
            let target = at as i64 + 1 + i64::from(jump);
            let target = usize::try_from(target).ok();
            let Some(target) = target.filter(|&target| self.is_start(target)) else {
                return Err("jumps to where no instruction is");
            };
            // Every way back is counted, and this one is not.
            let is_uncounted = matches!(op, Op::JumpKind | Op::JumpUnlessKind | Op::JumpNumber);
            if is_uncounted && target <= at {
                return Err("goes back without being counted");
            }
        }
        let is_tried = code
            .get(after)
            .is_some_and(|next| next.op() == Some(Op::Done));
        if is_tried && !op.may_be_tried() {
            return Err("is not one that can be tried");
        }
        match op {
            Op::Stop => Err("is the machine's own"),
            _ if op.is_tried() => {
                let next = code.get(after).filter(|next| next.op() == Some(Op::Jump));
                let leads_on = next.is_some_and(|next| next.long() >= 0);
                if leads_on && self.is_start(after + 1) {
                    Ok(())
                } else {
                    Err("is not followed by a jump onward")
                }
            }
            Op::Done => {
                if word.long() >= 0 && self.is_start(after) {
                    Ok(())
                } else {
                    Err("does not lead on")
                }
            }
            _ if op.also_compares() => {
                let next = code.get(after).copied();
                let both = next.and_then(|next| word.before(next));
                if both == Some(word) && self.is_start(after + 1) {
                    Ok(())
                } else {
                    Err("is not followed by what belongs to it")
                }
            }
            Op::CallListed | Op::TailCallListed => {
                // What stands there is made a list before the function is called.
                let window = usize::from(word.b());
                let taken = window..window + Counts::of(word.x()).registers();
                if taken.contains(&usize::from(word.c())) {
                    return Err("calls what its arguments take the place of");
                }
                if op == Op::TailCallListed {
                    return Ok(());
                }
                self.goes_on(after)
            }
            Op::CallItself | Op::TailCallItself => {
                let takes = self.function.params.len();
                if self.function.last == Last::Rest || usize::from(word.x()) != takes {
                    return Err("calls its function with other arguments than it takes");
                }
                if op == Op::TailCallItself {
                    return Ok(());
                }
                self.goes_on(after)
            }
            Op::EachNext | Op::ModuleLoad => {
                let next = code.get(after).and_then(|next| next.op());
                let expected = match op {
                    Op::EachNext => Op::EachCheck,
                    _ => Op::ModuleDone,
                };
                if next == Some(expected) && self.is_start(after + 1) {
                    Ok(())
                } else {
                    Err("is not followed by what belongs to it")
                }
            }
            _ if word.never_goes_on() => Ok(()),
            _ => self.goes_on(after),
        }
    }

    /// Checks that there is an instruction to go on with.
    fn goes_on(&self, after: usize) -> Result<(), &'static str> {
        if self.is_start(after) {
            Ok(())
        } else {
            Err("runs past the end of the code")
        }
    }
}

/// Gives a program and everything in it its text.
pub(super) fn with_source(
    function: &mut Function,
    source: &std::sync::Arc<crate::source::SourceText>,
) {
    function.source = std::sync::Arc::clone(source);
    for inner in &mut function.functions {
        if let Some(inner) = Rc::get_mut(inner) {
            with_source(inner, source);
        }
    }
}
