//! A function ready to run: its code where instructions can remember things, and its
//! constants as values.

use std::cell::Cell;
use std::rc::Rc;

use super::checks;
use super::leading::MARK;
use super::probe::PROBE;
use super::raw::{Pc, Row, scaled};
use crate::bytecode::{Constant, Function, Last};
use crate::values::{Code, Heap, Param, Signature, Value, fits};

/// A function ready to run.
#[derive(Debug)]
pub(crate) struct Loaded {
    pub(super) start: Pc,
    pub(super) constants: Row,
    /// How many registers it needs.
    pub(super) registers: u32,
    /// How many arguments it takes; none fits where it takes any number.
    pub(super) params: u32,
    /// The same if the last may be a list that comes as its items; otherwise none fits.
    pub(super) listed: u32,
    /// What it makes.
    pub(super) functions: Box<[Rc<Loaded>]>,
    /// What it was made from.
    pub(crate) function: Rc<Function>,
    own_code: Box<[Cell<u64>]>,
    own_values: Box<[Value]>,
}

impl Drop for Loaded {
    fn drop(&mut self) {
        checks::leave(&self.own_code);
        checks::leave(&self.own_values);
    }
}

impl Code for Loaded {
    fn name(&self) -> Option<&str> {
        self.function.name.as_deref()
    }

    fn signature(&self) -> Signature<'_> {
        let params = self.function.params.iter().map(|param| Param {
            name: &param.name,
            is_hidden: param.is_hidden,
        });
        Signature {
            name: self.name(),
            params: params.collect(),
            rest: self.function.last == Last::Rest,
        }
    }

    fn captures(&self) -> Vec<&str> {
        let captures = self.function.captures.iter();
        captures.map(|captured| &*captured.name).collect()
    }
}

/// What no call has as its number of arguments.
const ANY_NUMBER: u32 = u32::MAX;

impl Loaded {
    /// Whether it can be called with so many arguments.
    pub fn takes(&self, arguments: usize) -> bool {
        let function = &self.function;
        fits(
            function.params.len(),
            function.last == Last::Rest,
            arguments,
        )
    }

    /// Makes a function ready to run with values of a heap, and watched if it is to be.
    pub fn new(function: &Rc<Function>, heap: &Heap, probed: bool) -> Rc<Loaded> {
        let mut code = ready(function);
        if probed {
            watch(function, &mut code);
        }
        let code: Box<[Cell<u64>]> = code.into_iter().map(Cell::new).collect();
        let values: Box<[Value]> = function
            .constants
            .iter()
            .map(|constant| match constant {
                Constant::Integer(n) => Value::Integer(*n),
                Constant::Number(n) => Value::Number(*n),
                Constant::Text(text) => Value::Text(heap.intern(text)),
            })
            .collect();
        checks::enter(&code);
        checks::enter(&values);
        let inner = function.functions.iter();
        let count = function.params.len() as u32;
        Rc::new(Loaded {
            start: Pc::start(&code),
            constants: Row::constants(&values),
            registers: u32::from(function.registers),
            params: match function.last {
                Last::Argument | Last::Listed => count,
                Last::Rest => ANY_NUMBER,
            },
            listed: match function.last {
                Last::Listed => count,
                Last::Argument | Last::Rest => ANY_NUMBER,
            },
            functions: inner
                .map(|inner| Loaded::new(inner, heap, probed))
                .collect(),
            function: Rc::clone(function),
            own_code: code,
            own_values: values,
        })
    }
}

impl Loaded {
    /// Has a run that is led stop before an instruction, or not any more.
    pub(crate) fn mark(&self, at: usize, is_marked: bool) {
        if let Some(word) = self.own_code.get(at) {
            let number = if is_marked { MARK } else { PROBE };
            word.set(word.get() & !0xff | u64::from(number));
        }
    }

    /// The functions that it makes.
    pub(crate) fn inner(&self) -> &[Rc<Loaded>] {
        &self.functions
    }
}

/// The code as the machine has it. What instructions remember in the words after them is
/// empty at first, whatever those words were.
fn ready(function: &Function) -> Vec<u64> {
    let mut code = vec![0; function.code.len()];
    for at in function.starts() {
        code[at] = scaled(function.code[at]);
    }
    code
}

/// Gives every instruction the number of the probe.
fn watch(function: &Function, code: &mut [u64]) {
    for at in function.starts() {
        code[at] = code[at] & !0xff | u64::from(PROBE);
    }
}
