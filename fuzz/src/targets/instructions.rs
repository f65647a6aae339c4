//! Compiled programs with changed instructions, handlers and counts, without a file between:
//! what the verifier lets by runs to an end.

use std::cell::RefCell;
use std::collections::HashMap;
use std::rc::Rc;

use fastrand::Rng;
use quillon_core::bytecode::{Function, Instruction, Op, Purpose, verify};
use quillon_core::scoping::Around;
use quillon_core::{Prepared, Reading};
use serde::{Deserialize, Serialize};

use super::runs;
use crate::author::Author;
use crate::{Target, corpus};

/// See the module.
pub struct Instructions;

/// A program, and what is changed in its code.
#[derive(Serialize, Deserialize)]
struct Input {
    /// The number of the language among those known.
    language: usize,
    program: String,
    edits: Vec<Edit>,
}

/// A change of a function. Numbers count on from the first again when they are too large.
#[derive(Clone, Copy, Serialize, Deserialize)]
struct Edit {
    /// The function: 0 the program, then those in it, from outside in.
    function: usize,
    /// Which instruction or handler.
    at: usize,
    change: Change,
}

#[derive(Clone, Copy, Serialize, Deserialize)]
enum Change {
    /// Another operation.
    Operation(u8),
    /// The eight bits after the operation.
    Extra(u8),
    /// One of the three fields.
    Field(u8, u16),
    /// A bit of a field the other way round.
    Bit(u8),
    /// Two instructions in each other's place.
    Swap(usize),
    /// The instruction of another place.
    Copy(usize),
    Registers(u16),
    /// A handler's start, end, target or register.
    Handler(u8, u32),
    Purpose(u8),
}

/// How many programs there are for a language that writes its own.
const AUTHORED: u64 = 400;

fn change(random: &mut Rng) -> Change {
    let number = |random: &mut Rng| match random.u32(..4) {
        0 | 1 => random.u16(..16),
        2 => random.u16(..).wrapping_neg() >> random.u32(..16),
        _ => 0u16.wrapping_sub(random.u16(..12)),
    };
    match random.u32(..16) {
        0..=2 => Change::Operation(random.u8(..=Op::ALL.len() as u8)),
        3 => Change::Extra(random.u8(..)),
        4..=7 => Change::Field(random.u8(..3), number(random)),
        8 | 9 => Change::Bit(random.u8(8..64)),
        10 => Change::Swap(random.usize(..1000)),
        11 | 12 => Change::Copy(random.usize(..1000)),
        13 => Change::Registers(number(random)),
        14 => Change::Handler(random.u8(..4), u32::from(number(random))),
        _ => Change::Purpose(random.u8(..3)),
    }
}

fn apply(code: &mut Function, edit: Edit) {
    let count = code.code.len();
    let Some(word) = code.code.get(edit.at % count.max(1)).map(|word| word.0) else {
        return;
    };
    let new = match edit.change {
        Change::Operation(number) => word & !0xff | u64::from(number),
        Change::Extra(bits) => word & !0xff00 | u64::from(bits) << 8,
        Change::Field(field, number) => {
            let shift = 16 * (u64::from(field % 3) + 1);
            word & !(0xffff << shift) | u64::from(number) << shift
        }
        Change::Bit(bit) => word ^ 1 << (bit % 64),
        Change::Swap(other) => {
            let other = other % count;
            let there = code.code[other].0;
            code.code[other] = Instruction(word);
            there
        }
        Change::Copy(other) => code.code[other % count].0,
        Change::Registers(number) => {
            code.registers = number;
            word
        }
        Change::Handler(field, number) => {
            let handlers = code.handlers.len().max(1);
            if let Some(handler) = code.handlers.get_mut(edit.at % handlers) {
                match field % 4 {
                    0 => handler.start = number,
                    1 => handler.end = number,
                    2 => handler.target = number,
                    _ => handler.register = number as u16,
                }
            }
            word
        }
        Change::Purpose(number) => {
            let handlers = code.handlers.len().max(1);
            if let Some(handler) = code.handlers.get_mut(edit.at % handlers) {
                let all = [Purpose::Rescue, Purpose::Cleanup, Purpose::Restore];
                handler.purpose = all[usize::from(number) % 3];
            }
            word
        }
    };
    code.code[edit.at % count] = Instruction(new);
}

/// How many functions there are, itself among them.
fn count(code: &Function) -> usize {
    1 + code
        .functions
        .iter()
        .map(|inner| count(inner))
        .sum::<usize>()
}

/// Finds a function from outside in, and changes it.
fn apply_in(code: &mut Function, number: usize, edit: Edit) {
    let Some(mut number) = number.checked_sub(1) else {
        return apply(code, edit);
    };
    for inner in &mut code.functions {
        let there = count(inner);
        if number < there {
            return apply_in(Rc::make_mut(inner), number, edit);
        }
        number -= there;
    }
}

/// A program compiled, and what sessions of its language begin with: the same ones are asked for
/// again and again.
fn compiled(language: usize, program: &str) -> Option<(Prepared, Rc<Function>)> {
    type Known = HashMap<(usize, String), Option<(Prepared, Rc<Function>)>>;
    thread_local! {
        static PREPARED: RefCell<HashMap<usize, Prepared>> = RefCell::default();
        static KNOWN: RefCell<Known> = RefCell::default();
    }
    let known = corpus::ALL.get(language)?;
    let prepared = PREPARED.with_borrow_mut(|all| {
        let prepared = all.entry(language);
        let prepared = prepared.or_insert_with(|| Prepared::new(&known.language));
        prepared.clone()
    });
    KNOWN.with_borrow_mut(|all| {
        let make = || {
            let source = corpus::source("program", program);
            let code = known
                .language
                .code(&source, Around::Nothing, Reading::Program);
            Some((prepared, code.value?))
        };
        all.entry((language, program.to_owned()))
            .or_insert_with(make)
            .clone()
    })
}

impl Target for Instructions {
    fn name(&self) -> &'static str {
        "instructions"
    }

    fn make(&self, random: &mut Rng) -> Vec<u8> {
        // The last of the languages writes its own programs.
        let last = corpus::ALL.len() - 1;
        let language = random.usize(..2 * corpus::ALL.len()).min(last);
        let programs = &corpus::ALL[language].programs;
        let program = match random.choice(programs) {
            Some(text) if language != last => text.clone(),
            _ => {
                let mut course = Rng::with_seed(random.u64(1000..1000 + AUTHORED));
                Author::new(&mut course, 0).program()
            }
        };
        let edits = (0..random.usize(1..5)).map(|_| Edit {
            function: random.usize(..16),
            at: random.usize(..1000),
            change: change(random),
        });
        let edits = edits.collect();
        let input = Input {
            language,
            program,
            edits,
        };
        serde_json::to_vec(&input).unwrap_or_default()
    }

    fn meet(&self, input: &[u8]) -> Result<(), String> {
        let Ok(input) = serde_json::from_slice::<Input>(input) else {
            return Ok(());
        };
        let Some((prepared, code)) = compiled(input.language, &input.program) else {
            return Ok(());
        };
        let mut changed = Function::clone(&code);
        let functions = count(&changed);
        for edit in input.edits {
            apply_in(&mut changed, edit.function % functions, edit);
        }
        if verify(&changed).is_err() {
            return Ok(());
        }
        runs(&prepared, &Rc::new(changed))
    }
}
