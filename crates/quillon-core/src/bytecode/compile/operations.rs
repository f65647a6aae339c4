//! Operations of the meaning notation: most are carried out by one instruction for all; the
//! frequent have one of their own, and those that call functions become loops.

use super::kinds::Kinds;
use super::{Builder, MOST, Operand, Register, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{Core, CorePart};
use crate::operations::{EngineOperation as E, Operation as O};
use crate::runtime::{CarriedOut, carried_out};
use crate::values::exact_integer;

/// An operation that calls a function for each item of a list.
#[derive(Clone, Copy, PartialEq, Eq)]
enum EachItem {
    Map,
    Filter,
    Fold,
    Sort,
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
        if let Some(item) = self.item_in_place(core) {
            self.give(core, item, Want::Into(into));
            return;
        }
        if self.on_given(core, operation, args, into) {
            return;
        }
        match carried_out(operation) {
            CarriedOut::Engine(operation) => self.by_engine(core, operation, args, into),
            CarriedOut::Native(_) | CarriedOut::Host(_) => {
                if !self.special(core, operation, args, into, is_wanted) {
                    self.general(core, operation, args, into);
                }
            }
        }
        self.top = top;
    }

    /// An operation that calls functions, or goes on elsewhere.
    fn by_engine(&mut self, core: &Core, operation: E, args: &[CorePart], into: Register) {
        match operation {
            E::ListMap => self.each_item(core, EachItem::Map, args, into),
            E::ListFilter => self.each_item(core, EachItem::Filter, args, into),
            E::ListFold => self.each_item(core, EachItem::Fold, args, into),
            E::ListSortBy => self.each_item(core, EachItem::Sort, args, into),
            E::ListCall => {
                let list = self.stable_operand(&args[0], &[&args[1]]);
                let list = self.in_register(&list);
                let function = self.operand_register(&args[1]);
                // As in other calls, what is called and its arguments, where they stand there.
                let mut operands: Vec<&Core> = vec![&args[1]];
                operands.extend(args[0].listed());
                let site = self.site(core, &operands);
                // The arguments take the place of the list.
                let window = self.register();
                self.emit(Instruction::Move(window, list), site);
                self.emit(Instruction::CallItems(into, window, function), site);
            }
            E::CoroutineSuspend => {
                let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
                let site = self.site(core, &cores);
                let value = self.given_or_nothing(args.first(), site);
                self.emit(Instruction::Suspend(into, value), site);
            }
            E::CoroutineResume => {
                let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
                let others: Vec<&CorePart> = args[1..].iter().collect();
                let coroutine = self.stable_operand(&args[0], &others);
                let coroutine = self.in_register(&coroutine);
                let site = self.site(core, &cores);
                let value = self.given_or_nothing(args.get(1), site);
                self.emit(Instruction::Resume(into, coroutine, value), site);
            }
            E::ModuleLoad => {
                let path = self.operand_register(&args[0]);
                let site = self.site(core, &[&args[0]]);
                let top = self.top;
                let window = self.register();
                self.top = top;
                self.emit(Instruction::ModuleLoad(into, path, window), site);
                self.emit(Instruction::ModuleDone(into), site);
            }
        }
    }

    /// An operand that may be missing: it is nothing then.
    fn given_or_nothing(&mut self, operand: Option<&CorePart>, site: u32) -> Register {
        if let Some(operand) = operand {
            return self.operand_register(operand);
        }
        let nothing = self.register();
        self.load(&Literal::Nothing, nothing, site);
        nothing
    }

    /// An operation by the instruction for all of them.
    fn general(&mut self, core: &Core, operation: O, args: &[CorePart], into: Register) {
        let operands: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let first = match args {
            [only] => self.operand_register(only),
            [one, two] if matches!(carried_out(operation), CarriedOut::Native(_)) => {
                let a = self.stable_operand(one, &[two]);
                let b = self.operand(two);
                let (a, b) = (self.in_register(&a), self.in_register(&b));
                let site = self.site(core, &operands);
                let number = operation.number();
                self.emit(Instruction::ApplyTwo(number, into, a, b), site);
                return;
            }
            _ => self.row_to_read(args),
        };
        let count = args.len().min(MOST) as u16;
        let site = self.site(core, &operands);
        self.emit(
            Instruction::Apply(operation.number(), into, first, count),
            site,
        );
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
                self.emit(Instruction::MapGet(into, map, name), site);
                self.emit_word(site);
            }
            (O::MapFind, [map, key]) => {
                let Some(name) = self.key(key) else {
                    return false;
                };
                let map = self.operand_register(map);
                let site = self.site(core, &[&args[0], key]);
                let found = self.mark();
                self.try_one(Instruction::TryMapGet(into, map, name), found, site);
                let key = self.operand_register(key);
                let number = operation.number();
                self.emit(Instruction::ApplyTwo(number, into, map, key), site);
                self.here(found);
            }
            (O::MapPut, [map, key, value]) => {
                let Some(name) = self.key(key) else {
                    return self.on_operands(core, operation, args, into, is_wanted);
                };
                let map = self.stable_operand(map, &[value]);
                let map = self.in_register(&map);
                let value = self.operand_register(value);
                let site = self.site(core, &[&args[0], key, &args[2]]);
                self.emit(Instruction::MapPut(map, name, value), site);
                self.emit_word(site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (O::Demand, args) if let Some(value) = self.demanded(core, args) => {
                if is_wanted {
                    self.give(core, value, Want::Into(into));
                }
            }
            (O::TextJoin, args) if self.join_written(core, args, into) => {}
            (O::MapOf, args) if self.record_of(core, args, into) => {}
            (O::MapNew, []) => {
                let site = self.site(core, &[]);
                self.emit(Instruction::MapNew(into), site);
            }
            _ => return self.on_operands(core, operation, args, into, is_wanted),
        }
        true
    }

    /// A key that is a literal text, as the number of a constant.
    pub(super) fn key(&mut self, key: &Core) -> Option<u16> {
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
        if let (true, [left, right]) = (divides(op), args) {
            let site = self.site(core, &[left, right]);
            let of_any = matches!(operation, O::NumberRemainder | O::NumberModulo);
            let number = Kinds::of(ValueKind::Number);
            let of_fractions = of_any && self.kinds_of_subject(core).is_within(number);
            let emit = |builder: &mut Self, a: &Operand, b: &Operand| {
                let b = if of_fractions { &as_integer(b) } else { b };
                let instruction = builder.division(op, of_any, a, b);
                builder.emit(instruction.with_a(into), site);
            };
            if !self.on_guessed([left, right], site, &emit) {
                let a = self.stable_operand(left, &[right]);
                let b = self.operand(right);
                emit(self, &a, &b);
            }
            return true;
        }
        let mut operands = Vec::new();
        for (index, arg) in args.iter().enumerate() {
            let others: Vec<&CorePart> = args[index + 1..].iter().collect();
            operands.push(self.stable_operand(arg, &others));
        }
        let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let site = self.site(core, &cores);
        if let (Some(with_integer), Some(Operand::Literal(Literal::Integer(n)))) =
            (with_integer(op), operands.get(1))
            && (0..=i64::from(i16::MAX)).contains(n)
        {
            let n = *n as u16;
            let first = self.in_register(&operands[0]);
            let base = base(operation);
            self.emit(Instruction::new(with_integer, base, into, first, n), site);
            return true;
        }
        let registers: Vec<Register> = operands.iter().map(|o| self.in_register(o)).collect();
        let base = base(operation);
        match (op, &registers[..]) {
            (Op::PutItem | Op::PutKey, [one, two, three]) => {
                self.emit(Instruction::new(op, base, *one, *two, *three), site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (Op::ListAdd, [list, value]) => {
                self.emit(Instruction::new(op, 0, *list, *value, 0), site);
                if is_wanted {
                    self.load(&Literal::Nothing, into, site);
                }
            }
            (_, [one]) => {
                self.emit(Instruction::new(op, base, into, *one, 0), site);
            }
            (_, [one, two, ..]) => {
                self.emit(Instruction::new(op, base, into, *one, *two), site);
            }
            _ => return false,
        }
        true
    }

    /// The instruction for a division of integers, or `of_any` numbers, without where its value goes.
    fn division(&mut self, op: Op, of_any: bool, a: &Operand, b: &Operand) -> Instruction {
        let any = u8::from(of_any);
        let a = self.in_register(a);
        if let (Some(with_integer), Operand::Literal(Literal::Integer(n))) = (with_integer(op), b)
            && (1..=i64::from(i16::MAX)).contains(n)
        {
            return Instruction::new(with_integer, any, 0, a, *n as u16);
        }
        let b = self.in_register(b);
        Instruction::new(op, any, 0, a, b)
    }

    /// Operations that call a function for each item: loops around calls.
    fn each_item(&mut self, core: &Core, what: EachItem, args: &[CorePart], into: Register) {
        let cores: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let last = args.len() - 1;
        let site = self.site(core, &cores);
        let others: Vec<&CorePart> = args[1..].iter().collect();
        let given = self.stable_operand(&args[0], &others);
        let given = self.in_register(&given);
        let so_far = self.register();
        if what == EachItem::Fold {
            self.generate(&args[1], Want::Into(so_far));
        }
        let function = self.operand_register(&args[last]);
        let function_site = self.site(core, &[&args[last]]);
        let turns = self.register();
        self.emit(
            match what {
                EachItem::Sort => Instruction::SortBegin(turns, given),
                EachItem::Map | EachItem::Filter | EachItem::Fold => {
                    Instruction::ItemsBegin(turns, given)
                }
            },
            site,
        );
        self.emit(Instruction::CheckFunction(function), function_site);
        if matches!(what, EachItem::Map | EachItem::Filter) {
            self.emit(Instruction::List(so_far, 0, 0), site);
        }
        let item = self.register();
        // The window of the calls, wide enough for two arguments.
        let window = self.register();
        let second = self.register();
        match what {
            EachItem::Map => self.turns(turns, window, site, |builder| {
                builder.emit(Instruction::Call(1, item, window, function), site);
                builder.emit(Instruction::Push(so_far, item), site);
            }),
            EachItem::Filter => self.turns(turns, item, site, |builder| {
                let past = builder.mark();
                builder.emit(Instruction::Move(window, item), site);
                builder.emit(Instruction::Call(1, window, window, function), site);
                builder.emit(Instruction::CheckAnswer(window), function_site);
                builder.emit(Instruction::JumpIf(0, window, 0), site);
                builder.to(past);
                builder.emit(Instruction::Push(so_far, item), site);
                builder.here(past);
            }),
            EachItem::Fold => self.turns(turns, second, site, |builder| {
                builder.emit(Instruction::Move(window, so_far), site);
                builder.emit(Instruction::Call(2, so_far, window, function), site);
            }),
            EachItem::Sort => {
                let (again, ask) = (self.mark(), self.mark());
                self.jump(ask, site);
                self.here(again);
                self.emit(Instruction::Call(2, item, window, function), site);
                self.emit(Instruction::SortAnswer(turns, item), function_site);
                self.here(ask);
                self.emit(Instruction::SortAsk(turns, window, 0), site);
                self.to(again);
                self.emit(Instruction::SortEnd(so_far, turns), site);
            }
        }
        self.give(core, so_far, Want::Into(into));
    }
}

/// The instruction of an operation that has one.
fn own_instruction(operation: O) -> Option<Op> {
    Some(match operation {
        O::IntegerQuotient => Op::Quotient,
        O::IntegerRemainder | O::NumberRemainder => Op::Remainder,
        O::IntegerFloorQuotient => Op::FloorQuotient,
        O::IntegerModulo | O::NumberModulo => Op::Modulo,
        O::Shown => Op::Shown,
        O::ListLength => Op::ListLength,
        O::ListAt | O::ListItem => Op::Item,
        O::ListPut | O::ListPutItem => Op::PutItem,
        O::ListAdd => Op::ListAdd,
        O::ListTake => Op::ListTake,
        O::MapPut => Op::PutKey,
        _ => return None,
    })
}

/// A divisor of what is not an integer: what is left is a number, whether this is an integer or a number.
fn as_integer(divisor: &Operand) -> Operand {
    match divisor {
        Operand::Literal(Literal::Number(n)) => {
            let whole = exact_integer(*n).map(Literal::Integer);
            Operand::Literal(whole.unwrap_or(Literal::Number(*n)))
        }
        Operand::Literal(literal) => Operand::Literal(literal.clone()),
        Operand::Register(register) => Operand::Register(*register),
    }
}

/// Whether it divides integers.
fn divides(op: Op) -> bool {
    matches!(
        op,
        Op::Quotient | Op::Remainder | Op::FloorQuotient | Op::Modulo
    )
}

/// The same with an integer as its second operand, above 0 where it divides.
fn with_integer(op: Op) -> Option<Op> {
    match op {
        Op::FloorQuotient => Some(Op::FloorQuotientInteger),
        Op::Modulo => Some(Op::ModuloInteger),
        Op::Remainder => Some(Op::RemainderInteger),
        Op::Item => Some(Op::ItemInteger),
        _ => None,
    }
}

/// What an operation counts items from.
pub(super) fn base(operation: O) -> u8 {
    u8::from(matches!(operation, O::ListItem | O::ListPutItem))
}
