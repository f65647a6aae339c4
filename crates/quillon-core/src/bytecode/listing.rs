//! Bytecode as a person reads it.

use std::collections::BTreeMap;
use std::rc::Rc;

use serde::Serialize;

use super::instruction::{Counts, Instruction, Op, Role};
use super::unit::{Constant, Function, Last};
use crate::definition::Definition;
use crate::definition::template::ValueKind;
use crate::diagnostic::quoted;
use crate::operations::Operation;

/// A program's bytecode, function by function.
#[derive(Clone, Debug, Serialize)]
pub struct Listing {
    /// The functions, each before those that it makes.
    pub functions: Vec<FunctionListing>,
    /// How many instructions there are.
    pub instructions: usize,
    /// How many bytes they take.
    pub bytes: usize,
    /// How many constants there are.
    pub constants: usize,
}

/// The bytecode of a function.
#[derive(Clone, Debug, Serialize)]
pub struct FunctionListing {
    /// Its number.
    pub number: usize,
    /// Its name, if it has one.
    pub name: Option<String>,
    /// The names of its parameters.
    pub parameters: Vec<String>,
    /// Whether the last takes all arguments that are left.
    pub rest: bool,
    /// How many registers a call needs.
    pub registers: u16,
    /// The constants, as the notation writes them.
    pub constants: Vec<String>,
    /// The names of what it captures.
    pub captures: Vec<String>,
    /// Its instructions.
    pub lines: Vec<Line>,
    /// What catches failures, in words.
    pub handlers: Vec<String>,
}

/// An instruction.
#[derive(Clone, Debug, Serialize)]
pub struct Line {
    /// Its place, in instructions from the start of the function.
    pub address: usize,
    /// Its bytes, and those of the words that belong to it.
    pub bytes: Vec<u8>,
    /// Its name.
    pub mnemonic: &'static str,
    /// Its operands with what they stand for.
    pub operands: Vec<String>,
    /// What other instructions jump to it by.
    pub label: Option<String>,
    /// The line and the column in the source that it comes from.
    pub line: u32,
    /// See `line`.
    pub column: u32,
}

/// Lists a program.
pub fn listing(program: &Rc<Function>, definition: &Definition) -> Listing {
    let mut all: Vec<Rc<Function>> = vec![Rc::clone(program)];
    let mut at = 0;
    while at < all.len() {
        let inner = all[at].functions.clone();
        // Right after the function that makes them.
        for (index, function) in inner.into_iter().enumerate() {
            all.insert(at + 1 + index, function);
        }
        at += 1;
    }
    let numbers: BTreeMap<*const Function, usize> = all
        .iter()
        .enumerate()
        .map(|(number, function)| (Rc::as_ptr(function), number))
        .collect();
    let functions: Vec<FunctionListing> = all
        .iter()
        .enumerate()
        .map(|(number, function)| {
            let lister = Lister {
                function,
                definition,
                numbers: &numbers,
                labels: labels(function),
            };
            lister.list(number)
        })
        .collect();
    Listing {
        instructions: functions.iter().map(|f| f.lines.len()).sum(),
        bytes: all.iter().map(|f| f.code.len() * size_of::<u64>()).sum(),
        constants: all.iter().map(|f| f.constants.len()).sum(),
        functions,
    }
}

/// The instructions of some code with their addresses, without the words that belong to them.
fn instructions(code: &[Instruction]) -> impl Iterator<Item = (usize, Op, Instruction)> + '_ {
    let mut at = 0;
    std::iter::from_fn(move || {
        let word = *code.get(at)?;
        let op = word.op()?;
        let address = at;
        at += 1 + op.description().extra;
        Some((address, op, word))
    })
}

/// A label for each instruction that is jumped to, in the order of the addresses.
fn labels(function: &Function) -> BTreeMap<usize, String> {
    let mut targets: BTreeMap<usize, String> = BTreeMap::new();
    for (address, _, word) in instructions(&function.code) {
        if let Some(jump) = word.jump() {
            let target = address as i64 + 1 + i64::from(jump);
            targets.insert(target.max(0) as usize, String::new());
        }
    }
    for handler in &function.handlers {
        targets.insert(handler.target as usize, String::new());
    }
    for (number, label) in targets.values_mut().enumerate() {
        *label = format!("L{}", number + 1);
    }
    targets
}

struct Lister<'a> {
    function: &'a Function,
    definition: &'a Definition,
    numbers: &'a BTreeMap<*const Function, usize>,
    labels: BTreeMap<usize, String>,
}

impl Lister<'_> {
    fn list(&self, number: usize) -> FunctionListing {
        let function = self.function;
        let lines = instructions(&function.code).map(|(address, op, word)| {
            let site = function.site(address);
            let start = site.map_or(0, |site| site.whole.span.start);
            let position = function.source.position(start);
            let extra = op.description().extra;
            let words = &function.code[address..=address + extra];
            Line {
                address,
                bytes: words.iter().flat_map(|word| word.0.to_le_bytes()).collect(),
                mnemonic: op.description().mnemonic,
                operands: self.operands(address, op, word),
                label: self.labels.get(&address).cloned(),
                line: position.line,
                column: position.column,
            }
        });
        FunctionListing {
            number,
            name: function.name.as_deref().map(str::to_owned),
            parameters: function
                .params
                .iter()
                .map(|param| param.name.to_string())
                .collect(),
            rest: function.last == Last::Rest,
            registers: function.registers,
            constants: function.constants.iter().map(written).collect(),
            captures: function
                .captures
                .iter()
                .map(|c| c.name.to_string())
                .collect(),
            lines: lines.collect(),
            handlers: self.handlers(),
        }
    }

    fn handlers(&self) -> Vec<String> {
        let handlers = self.function.handlers.iter();
        handlers
            .map(|handler| {
                format!(
                    "{} to {}: a failure goes on at {}, kept in r{}",
                    handler.start,
                    handler.end,
                    self.label(handler.target as usize),
                    handler.register
                )
            })
            .collect()
    }

    fn label(&self, address: usize) -> String {
        self.labels
            .get(&address)
            .cloned()
            .unwrap_or_else(|| address.to_string())
    }

    fn operands(&self, address: usize, op: Op, word: Instruction) -> Vec<String> {
        let [x, a, b, c] = op.description().fields;
        let mut out = Vec::new();
        // What `x` says comes last: it is rather about how.
        for (role, value, next) in [
            (a, word.a(), word.b()),
            (b, word.b(), word.c()),
            (c, word.c(), 0),
        ] {
            out.extend(self.operand(address, op, word, role, value, next));
        }
        out.extend(self.operand(address, op, word, x, u16::from(word.x()), 0));
        out
    }

    fn operand(
        &self,
        address: usize,
        op: Op,
        word: Instruction,
        role: Role,
        value: u16,
        next: u16,
    ) -> Option<String> {
        let number = usize::from(value);
        Some(match role {
            Role::None => return None,
            Role::Read | Role::Write | Role::Both | Role::Given => self.register(address, value),
            Role::Constant | Role::Name => self.constant(number),
            Role::LongConstant => self.constant(word.long() as usize),
            Role::Integer => (value as i16).to_string(),
            Role::Long => word.long().to_string(),
            Role::Jump | Role::LongJump => {
                let target = address as i64 + 1 + i64::from(word.jump().unwrap_or_default());
                format!("→ {}", self.label(target.max(0) as usize))
            }
            Role::Captured => match self.function.captures.get(number) {
                Some(captured) => format!("captured {}", captured.name),
                None => format!("captured {number}"),
            },
            Role::Function => {
                let function = self.function.functions.get(word.long() as usize);
                let number = function.and_then(|f| self.numbers.get(&Rc::as_ptr(f)));
                let name = function.and_then(|f| f.name.as_deref()).unwrap_or_default();
                let number = number.map_or_else(String::new, ToString::to_string);
                format!("function {number} {name}").trim_end().to_owned()
            }
            Role::Registers => match next {
                0 => "no registers".to_owned(),
                1 => self.register(address, value),
                _ => format!("r{value} to r{}", value + next - 1),
            },
            Role::Row => match word.x() {
                0 => "no registers".to_owned(),
                1 => self.register(address, value),
                count => format!("r{value} to r{}", value + u16::from(count) - 1),
            },
            Role::Names => {
                let names = (0..usize::from(word.x())).map(|index| self.constant(number + index));
                names.collect::<Vec<_>>().join(", ")
            }
            Role::Count if matches!(op, Op::GivenLength | Op::GivenTake | Op::TryGiven) => {
                format!("{number} taken")
            }
            Role::Count if op == Op::GivenItem => format!("item {number}"),
            Role::Listed => {
                let Counts { before, items } = Counts::of(word.x());
                format!("{} and a list of {items}", arguments(usize::from(before)))
            }
            Role::Count if matches!(op, Op::List | Op::Apply | Op::MapRow) => return None,
            Role::Count => arguments(number),
            Role::Window => format!("from r{value}"),
            Role::Place => self.place(op, number),
            Role::Flag => match op {
                Op::AddInteger
                | Op::AddThenLess
                | Op::AddThenLessOrEqual
                | Op::AddThenLessInteger
                | Op::AddThenLessOrEqualInteger
                | Op::AddThenLessConstant
                | Op::AddThenLessOrEqualConstant
                | Op::AddConstant
                | Op::MultiplyInteger
                | Op::MultiplyConstant => {
                    return (number == 1).then(|| "the literal first".to_owned());
                }
                Op::Remainder | Op::RemainderInteger | Op::Modulo | Op::ModuloInteger => {
                    return (number == 1).then(|| "of any numbers".to_owned());
                }
                Op::Truth => (number == 1).to_string(),
                _ if number == 1 => "if true".to_owned(),
                _ => "if false".to_owned(),
            },
            Role::Base => format!("from {number}"),
            Role::Kind => ValueKind::ALL
                .get(number)
                .map_or_else(|| number.to_string(), |kind| kind.word().to_owned()),
            Role::Operation => u8::try_from(number)
                .ok()
                .and_then(Operation::numbered)
                .map_or_else(|| number.to_string(), |o| o.name().to_owned()),
        })
    }

    /// A register, with the variable that is in it.
    fn register(&self, address: usize, register: u16) -> String {
        let at = address as u32;
        let mut locals = self.function.locals.iter().rev();
        let local = locals.find(|local| {
            // A variable is there from the instruction on that sets it.
            local.register == register && local.start <= at && at < local.end
        });
        match local {
            Some(local) => format!("r{register}:{}", local.name),
            None => format!("r{register}"),
        }
    }

    fn constant(&self, number: usize) -> String {
        let constant = self.function.constants.get(number);
        constant.map_or_else(|| format!("constant {number}"), written)
    }

    fn place(&self, op: Op, number: usize) -> String {
        let definition = self.definition;
        let name = match op {
            Op::GetState | Op::PutState => definition.state.get(number).map(|c| &c.name.text),
            Op::GetBuiltIn | Op::CallBuiltIn => {
                // Helpers that are functions of their own come after what is built in.
                let helpers = definition.recursive_helpers().map(|helper| &helper.name);
                let provided = definition.provides.iter().map(|provided| &provided.name);
                provided.chain(helpers).nth(number).map(|name| &name.text)
            }
            _ => None,
        };
        match name {
            Some(name) => name.clone(),
            None => format!("variable {number}"),
        }
    }
}

/// A constant as the notation writes it.
fn written(constant: &Constant) -> String {
    match constant {
        Constant::Integer(n) => n.to_string(),
        Constant::Number(n) => format!("{n:?}"),
        Constant::Text(text) => quoted(text),
    }
}

/// So many arguments, in words.
fn arguments(count: usize) -> String {
    match count {
        1 => "1 argument".to_owned(),
        _ => format!("{count} arguments"),
    }
}
