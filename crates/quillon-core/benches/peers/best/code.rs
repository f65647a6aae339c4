//! The instructions of the best machine, and what its compiler makes.

use super::word::Word;
use crate::peers::tree::Var;

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[repr(u8)]
pub enum Op {
    Move,
    Const,
    Share,
    GetShared,
    SetShared,
    Captured,
    GetOuter,
    SetOuter,
    Me,
    Add,
    Sub,
    Mul,
    Div,
    Over,
    Mod,
    AddInt,
    MulInt,
    OverInt,
    ModInt,
    AddConst,
    SubConst,
    MulConst,
    DivConst,
    Join,
    JoinConst,
    Lt,
    Le,
    Gt,
    Ge,
    Eq,
    Ne,
    Jump,
    /// Jumps unless a holds, or if it does where `x` is 1; so do those after it with what they
    /// compare.
    JumpUnless,
    UnlessLt,
    UnlessLe,
    UnlessEq,
    UnlessNe,
    UnlessLtInt,
    UnlessLeInt,
    UnlessGtInt,
    UnlessGeInt,
    UnlessEqInt,
    UnlessNeInt,
    UnlessLtConst,
    UnlessLeConst,
    UnlessGtConst,
    UnlessGeConst,
    UnlessEqConst,
    UnlessNeConst,
    /// Adds one and jumps if not past the end.
    Loop,
    Call,
    CallMe,
    Return,
    ReturnNothing,
    Closure,
    List,
    Card,
    Item,
    ItemInt,
    SetItem,
    Part,
    SetPart,
    EachBegin,
    EachNext,
    Push,
    Length,
    Root,
    Round,
    Say,
    Stop,
}

/// An instruction: its number, a byte, three fields of sixteen bits.
pub fn word(op: Op, x: u8, a: u16, b: u16, c: u16) -> u64 {
    u64::from(op as u8)
        | u64::from(x) << 8
        | u64::from(a) << 16
        | u64::from(b) << 32
        | u64::from(c) << 48
}

#[derive(Default)]
pub struct Code {
    pub words: Vec<u64>,
    pub constants: Vec<Word>,
    pub registers: usize,
    pub params: usize,
    pub funcs: Vec<(Box<Code>, Vec<Var>)>,
}

/// A program, with the keys of each shape of cards.
pub struct Program {
    pub code: Box<Code>,
    pub shapes: Vec<Vec<u32>>,
}

/// The registers before a window, in which a call keeps where it came from.
pub const LINK: u16 = 4;
