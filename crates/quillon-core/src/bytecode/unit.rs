//! A program as bytecode.

use std::rc::Rc;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::instruction::Instruction;
use crate::meaning::FunctionCore;
use crate::source::{SourceText, Span};

/// A constant.
#[derive(Clone, PartialEq, Debug, Serialize, Deserialize)]
pub enum Constant {
    /// An integer.
    Integer(i64),
    /// A number.
    Number(f64),
    /// A text.
    Text(Rc<str>),
}

/// The code of a function.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Function {
    /// Its name, when it is bound to one right away.
    pub name: Option<Rc<str>>,
    /// Its parameters; their registers are the first.
    pub params: Vec<Param>,
    /// How its last parameter gets its value.
    pub last: Last,
    /// What it captures when it is made.
    pub captures: Vec<Captured>,
    /// How many registers a call needs.
    pub registers: u16,
    /// The instructions.
    pub code: Vec<Instruction>,
    /// The constants.
    pub constants: Vec<Constant>,
    /// The functions it makes.
    pub functions: Vec<Rc<Function>>,
    /// What catches failures, the innermost of those around an instruction first.
    pub handlers: Vec<Handler>,
    /// Where in the text each instruction comes from, by its number in `sites`.
    pub site_of: Vec<u32>,
    /// The places in the text.
    pub sites: Vec<Site>,
    /// Which variables are in which registers, and where.
    pub locals: Vec<Local>,
    /// Where parts of meanings are carried out, the outer before the inner, if that is kept; no saved program has it.
    #[serde(skip)]
    pub begun: Vec<Begun>,
    /// The text its places are in; in a file, it stands there once for all functions.
    #[serde(skip, default = "no_source")]
    pub source: Arc<SourceText>,
    /// Whether it is a program, and no function of one.
    pub is_program: bool,
    /// Whether it is built in: its errors are shown at the call.
    pub built_in: bool,
    /// The Core that it was made from, for the engine that walks it; one from a file has none.
    #[serde(skip)]
    pub core: Option<Rc<FunctionCore>>,
}

/// How the last parameter of a function gets its value, if it has any.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Last {
    /// As the others do.
    Argument,
    /// It is a list of all arguments that are left.
    Rest,
    /// It is an argument that, if it is a list, may come as its items: its register has no value yet then, the next
    /// one how many items there are, and they come after it.
    Listed,
}

/// A parameter of a function.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Param {
    /// What it is called.
    pub name: Rc<str>,
    /// Whether the language adds it to those that the program writes, so that messages neither
    /// count nor list it.
    pub is_hidden: bool,
}

/// What a function captures.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Captured {
    /// The variable's name.
    pub name: Rc<str>,
    /// Where it is in the function around.
    pub from: From,
}

/// Where a function finds what it captures when it is made.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum From {
    /// In a register of the function around.
    Register(u16),
    /// Among what the function around has captured.
    Captured(u16),
    /// It is the function itself.
    Itself,
}

/// Where in a text an instruction comes from.
#[derive(Clone, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub struct Site {
    /// The whole of it.
    pub whole: Origin,
    /// Its operands.
    pub operands: Vec<Origin>,
    /// The part of a meaning in the definition that it is made of, if that is kept; no saved program has it.
    #[serde(skip)]
    pub meaning: Span,
}

/// A stretch of text.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub struct Origin {
    /// Where.
    pub span: Span,
    /// The parameter that is just read there, if one is.
    pub param: Option<u16>,
}

/// Where a part of a meaning is carried out.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Begun {
    /// The first instruction of it, and the first behind it.
    pub at: u32,
    /// See `at`.
    pub end: u32,
    /// The part, in the definition.
    pub part: Span,
    /// What it is the meaning of, in the program.
    pub span: Span,
}

/// A variable in a register.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Local {
    /// What the program calls it.
    pub name: Rc<str>,
    /// The register.
    pub register: u16,
    /// The first instruction where it is there, and the first after it.
    pub start: u32,
    /// See `start`.
    pub end: u32,
}

/// What catches failures in a stretch of code.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Handler {
    /// The first instruction of the stretch.
    pub start: u32,
    /// The first after it.
    pub end: u32,
    /// Where it goes on.
    pub target: u32,
    /// The register for what is caught.
    pub register: u16,
    /// What it is for.
    pub purpose: Purpose,
}

/// What a failure is caught for.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Purpose {
    /// To be mended: the register gets what is caught as a value.
    Rescue,
    /// To clean up, and to go on failing: the register gets the failure.
    Cleanup,
    /// To end what must be ended whatever happens.
    Restore,
}

impl Function {
    /// The numbers of the words with which instructions begin.
    pub(crate) fn starts(&self) -> impl Iterator<Item = usize> {
        let after = |at: &usize| {
            let op = self.code.get(*at)?.op();
            Some(at + 1 + op.map_or(0, |op| op.description().extra))
        };
        std::iter::successors(Some(0), after).take_while(|at| *at < self.code.len())
    }

    /// Where an instruction jumps to, if it does and that is in the code.
    pub(crate) fn target(&self, at: usize) -> Option<usize> {
        let by = self.code[at].jump()?;
        let target = usize::try_from(at as i64 + 1 + i64::from(by)).ok();
        target.filter(|target| *target < self.code.len())
    }

    /// Where an instruction comes from.
    pub fn site(&self, at: usize) -> Option<&Site> {
        let number = *self.site_of.get(at)?;
        self.sites.get(number as usize)
    }
}

fn no_source() -> Arc<SourceText> {
    SourceText::new("", "")
}
