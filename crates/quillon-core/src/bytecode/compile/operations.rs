//! Operations of the meaning notation: most are carried out by one instruction for all; the
//! frequent have one of their own, and those that call functions become loops.

use super::emit::Mark;
use super::{Builder, MOST, Register, Want};
use crate::bytecode::instruction::Op;
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// What a match does with a list, tried before its kind is asked for.
pub(super) struct Tried {
    op: Op,
    base: u8,
    list: Register,
    rest: Vec<Register>,
}

impl Builder<'_, '_> {
    /// Carries out an operation; its value goes into a register, if it is wanted.
    pub(super) fn apply(
        &mut self,
        core: &Core,
        operation: O,
        args: &[CorePart],
        into: Option<Register>,
    ) {
        let top = self.top;
        let is_wanted = into.is_some();
        let into = match into {
            Some(register) => register,
            None => self.register(),
        };
        match (operation, args) {
            (O::ListMap | O::ListFilter | O::ListFold | O::ListSortBy, _) => {
                self.higher(core, operation, args, into);
            }
            (O::ListCall, [list, function]) => {
                let list = self.lasting(list, &[function]);
                let list = self.in_register(&list);
                let function = self.operand_register(function);
                let site = self.site(core, &[]);
                // The arguments take the place of the list.
                let window = self.register();
                self.emit(Op::Move, 0, window, list, 0, site);
                self.emit(Op::CallItems, 0, into, window, function, site);
            }
            (O::CoroutineSuspend, []) => {
                let site = self.site(core, &[]);
                let nothing = self.register();
                self.load(&Literal::Nothing, nothing, site);
                self.emit(Op::Suspend, 0, into, nothing, 0, site);
            }
            (O::CoroutineResume, [coroutine]) => {
                let coroutine = self.operand_register(coroutine);
                let nothing = self.register();
                let site = self.site(core, &[&args[0]]);
                self.load(&Literal::Nothing, nothing, site);
                self.emit(Op::Resume, 0, into, coroutine, nothing, site);
            }
            (O::ModuleLoad, [path]) => {
                let path = self.operand_register(path);
                let site = self.site(core, &[&args[0]]);
                let top = self.top;
                let window = self.register();
                self.top = top;
                self.emit(Op::ModuleLoad, 0, into, path, window, site);
                self.emit(Op::ModuleDone, 0, into, 0, 0, site);
            }
            _ => {
                if !self.special(core, operation, args, into, is_wanted) {
                    self.general(core, operation, args, into);
                }
            }
        }
        self.top = top;
    }

    /// An operation by the instruction for all of them.
    fn general(&mut self, core: &Core, operation: O, args: &[CorePart], into: Register) {
        let operands: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let first = match args {
            [only] => self.operand_register(only),
            _ => self.row(args),
        };
        let count = args.len().min(MOST) as u16;
        let site = self.site(core, &operands);
        self.emit(Op::Apply, operation.number(), into, first, count, site);
    }

    /// An operation with an instruction of its own; whether there is one.
    fn special(
        &mut self,
        core: &Core,
        operation: O,
        args: &[CorePart],
        into: Register,
        is_wanted: bool,
    ) -> bool {
        match (operation, args) {
            (O::MapGet, [map, key]) => {
                let Some(name) = self.key(key) else {
                    return false;
                };
                let map = self.operand_register(map);
                let site = self.site(core, &[&args[0], key]);
                self.emit(Op::MapGet, 0, into, map, name, site);
                self.emit_word(site);
            }
            (O::MapPut, [map, key, value]) => {
                let Some(name) = self.key(key) else {
                    return false;
                };
                let map = self.lasting(map, &[value]);
                let map = self.in_register(&map);
                let value = self.operand_register(value);
                let site = self.site(core, &[&args[0], key, &args[2]]);
                self.emit(Op::MapPut, 0, map, name, value, site);
                self.emit_word(site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (O::MapNew, []) => {
                let site = self.site(core, &[]);
                self.emit(Op::MapNew, 0, into, 0, 0, site);
            }
            _ => return self.on_operands(core, operation, args, into, is_wanted),
        }
        true
    }

    /// A key that is a literal text, as the number of a constant.
    fn key(&mut self, key: &Core) -> Option<u16> {
        match self.folded(key, 0)? {
            text @ Literal::Text(_) => self.short_constant(&text),
            _ => None,
        }
    }

    /// An instruction on the operands, wherever they are.
    fn on_operands(
        &mut self,
        core: &Core,
        operation: O,
        args: &[CorePart],
        into: Register,
        is_wanted: bool,
    ) -> bool {
        let Some(op) = own_instruction(operation) else {
            return false;
        };
        let mut operands = Vec::new();
        for (index, arg) in args.iter().enumerate() {
            let others: Vec<&CorePart> = args[index + 1..].iter().collect();
            operands.push(self.lasting(arg, &others));
        }
        let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let site = self.site(core, &cores);
        if let (Some(with_integer), Some(super::Operand::Literal(Literal::Integer(n)))) =
            (with_integer(op), operands.get(1))
            && (1..=i64::from(i16::MAX)).contains(n)
        {
            let n = *n as u16;
            let first = self.in_register(&operands[0]);
            self.emit(with_integer, 0, into, first, n, site);
            return true;
        }
        let registers: Vec<Register> = operands.iter().map(|o| self.in_register(o)).collect();
        let base = base(operation);
        match (op, &registers[..]) {
            (Op::PutItem, [list, index, value]) => {
                self.emit(op, base, *list, *index, *value, site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (Op::ListAdd, [list, value]) => {
                self.emit(op, 0, *list, *value, 0, site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (_, [one]) => {
                self.emit(op, base, into, *one, 0, site);
            }
            (_, [one, two, ..]) => {
                self.emit(op, base, into, *one, *two, site);
            }
            _ => return false,
        }
        true
    }

    /// Operations that call functions: loops around calls.
    fn higher(&mut self, core: &Core, operation: O, args: &[CorePart], into: Register) {
        let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let last = args.len() - 1;
        let site = self.site(core, &cores);
        let others: Vec<&CorePart> = args[1..].iter().collect();
        let given = self.lasting(&args[0], &others);
        let given = self.in_register(&given);
        let so_far = self.register();
        if operation == O::ListFold {
            self.generate(&args[1], Want::Into(so_far));
        }
        let function = self.operand_register(&args[last]);
        let function_site = self.site(core, &[&args[last]]);
        let turns = self.register();
        let begin = match operation {
            O::ListSortBy => Op::SortBegin,
            _ => Op::ItemsBegin,
        };
        self.emit(begin, 0, turns, given, 0, site);
        self.emit(Op::CheckFunction, 0, function, 0, 0, function_site);
        if matches!(operation, O::ListMap | O::ListFilter) {
            self.emit(Op::List, 0, so_far, 0, 0, site);
        }
        let item = self.register();
        // The window of the calls, wide enough for two arguments.
        let window = self.register();
        let second = self.register();
        match operation {
            O::ListMap => self.turns(turns, window, site, |builder| {
                builder.emit(Op::Call, 1, item, window, function, site);
                builder.emit(Op::Push, 0, so_far, item, 0, site);
            }),
            O::ListFilter => self.turns(turns, item, site, |builder| {
                let past = builder.mark();
                builder.emit(Op::Move, 0, window, item, 0, site);
                builder.emit(Op::Call, 1, window, window, function, site);
                builder.emit(Op::CheckAnswer, 0, window, 0, 0, function_site);
                builder.emit_long(Op::JumpIf, 0, window, 0, site);
                builder.to(past);
                builder.emit(Op::Push, 0, so_far, item, 0, site);
                builder.here(past);
            }),
            O::ListFold => self.turns(turns, second, site, |builder| {
                builder.emit(Op::Move, 0, window, so_far, 0, site);
                builder.emit(Op::Call, 2, so_far, window, function, site);
            }),
            _ => {
                let (again, ask) = (self.mark(), self.mark());
                self.jump(ask, site);
                self.here(again);
                self.emit(Op::Call, 2, item, window, function, site);
                self.emit(Op::SortAnswer, 0, turns, item, 0, function_site);
                self.here(ask);
                self.emit(Op::SortAsk, 0, turns, window, 0, site);
                self.to(again);
                self.emit(Op::SortEnd, 0, so_far, turns, 0, site);
            }
        }
        self.give(core, so_far, Want::Into(into));
    }

    /// What a match on a kind does if its subject is a list, where that is one instruction on
    /// registers at hand: then the instruction can be tried first.
    pub(super) fn tried(&mut self, subject: &Core, arms: &[ArmCore], want: Want) -> Option<Tried> {
        let arm = arms
            .iter()
            .find(|arm| arm.kind.is_none_or(|kind| kind == ValueKind::List))?;
        let K::Apply(operation, args) = &arm.body.kind else {
            return None;
        };
        let (op, base) = match operation {
            O::ListLength => (Op::TryLength, 0),
            O::ListAt | O::ListItem => (Op::TryItem, base(*operation)),
            O::ListPut | O::ListPutItem => (Op::TryPutItem, base(*operation)),
            _ => return None,
        };
        let is_subject = |core: &Core| match (&core.kind, &subject.kind) {
            (K::Read(Variable::Slot(own), _), _) if Some(*own) == arm.slot => true,
            (K::Read(Variable::Slot(own), _), K::Read(Variable::Slot(other), _)) => own == other,
            _ => false,
        };
        let (first, rest) = args.split_first()?;
        if !is_subject(first) {
            return None;
        }
        // Setting an item gives nothing, and there is no room to say so.
        if op == Op::TryPutItem && want != Want::Effect {
            return None;
        }
        let list = self.at_hand(first)?;
        let rest: Option<Vec<Register>> = rest.iter().map(|part| self.at_hand(part)).collect();
        Some(Tried {
            op,
            base,
            list,
            rest: rest?,
        })
    }

    /// The register that a literal is put into, or that a variable is in, if it is just read
    /// and always set.
    fn at_hand(&mut self, core: &Core) -> Option<Register> {
        if let Some(literal) = self.folded(core, 0) {
            return Some(self.in_register(&super::Operand::Literal(literal)));
        }
        let K::Read(Variable::Slot(slot), _) = core.kind else {
            return None;
        };
        let facts = self.facts(slot);
        if facts.shared || facts.maybe_unset {
            return None;
        }
        self.register_of(slot)
    }

    /// Tries an instruction on a list; where it can be done, the match is done.
    pub(super) fn try_first(&mut self, core: &Core, tried: &Tried, want: Want, end: Mark) {
        let top = self.top;
        let site = self.site(core, &[]);
        let into = match want {
            Want::Into(register) => register,
            _ => self.register(),
        };
        match (tried.op, &tried.rest[..]) {
            (Op::TryPutItem, [index, value]) => {
                self.emit(tried.op, tried.base, tried.list, *index, *value, site);
            }
            (_, [index]) => {
                self.emit(tried.op, tried.base, into, tried.list, *index, site);
            }
            _ => {
                self.emit(tried.op, 0, into, tried.list, 0, site);
            }
        }
        self.jump(end, site);
        // Where it cannot be done, the jump is passed over.
        self.reached();
        self.top = top;
    }
}

/// The instruction of an operation that has one.
fn own_instruction(operation: O) -> Option<Op> {
    Some(match operation {
        O::IntegerQuotient => Op::Quotient,
        O::IntegerRemainder => Op::Remainder,
        O::IntegerFloorQuotient => Op::FloorQuotient,
        O::IntegerModulo => Op::Modulo,
        O::Shown => Op::Shown,
        O::ListLength => Op::ListLength,
        O::ListAt | O::ListItem => Op::Item,
        O::ListPut | O::ListPutItem => Op::PutItem,
        O::ListAdd => Op::ListAdd,
        O::CoroutineResume => Op::Resume,
        O::CoroutineSuspend => Op::Suspend,
        _ => return None,
    })
}

/// The same with an integer above 0 as its second operand.
fn with_integer(op: Op) -> Option<Op> {
    match op {
        Op::FloorQuotient => Some(Op::FloorQuotientInteger),
        Op::Modulo => Some(Op::ModuloInteger),
        _ => None,
    }
}

/// What an operation counts items from.
fn base(operation: O) -> u8 {
    u8::from(matches!(operation, O::ListItem | O::ListPutItem))
}
