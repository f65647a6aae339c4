//! Making values: into a register, or wherever they are.

use super::emit::UNPLACED;
use super::guards::passed_on;
use super::looking::variable_read;
use super::{Builder, Home, MOST, Names, Operand, Register, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::bytecode::unit::Begun;
use crate::definition::Literal;
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// So many nodes are looked through to see whether they set a variable; beyond, it is
/// assumed.
const LOOKED_THROUGH: usize = 60;

impl Builder<'_, '_> {
    /// Compiles a piece of Core; its value goes where it is wanted.
    pub(super) fn generate(&mut self, core: &Core, want: Want) {
        if self.is_unreachable() {
            return;
        }
        let core = self.simple(core);
        let own = (core.meaning, core.span);
        let is_kept = self.shared.names == Names::Kept && !core.meaning.is_empty();
        if !is_kept || own == self.meaning {
            self.generate_kind(core, want);
            return;
        }
        let number = self.begun.len();
        self.begun.push(Begun {
            at: self.code.len() as u32,
            end: 0,
            part: core.meaning,
            span: core.span,
        });
        let around = std::mem::replace(&mut self.meaning, own);
        self.generate_kind(core, want);
        self.meaning = around;
        self.begun[number].end = self.code.len() as u32;
    }

    fn generate_kind(&mut self, core: &Core, want: Want) {
        match &core.kind {
            K::Mark(_, body) => self.generate(body, want),
            K::Sequence(parts) => self.sequence(core, parts, want),
            K::Parts(parts, body) => self.with_parts(core, parts, body, want),
            K::Enter(part) => self.enter(core, *part, want),
            K::Fresh(slots, body) => self.fresh(core, slots, body, want),
            K::Rebind(names, body) => self.rebind(core, names, body, want),
            K::If([test, yes, no]) => self.conditional(core, [test, yes, no], want),
            K::While([test, body]) => self.repeat(core, test, body, want),
            K::Each(slot, [list, body]) => self.each(core, *slot, [list, body], want),
            K::Count(slot, [from, to, body]) => self.count(core, *slot, [from, to, body], want),
            K::Landing(label, body) => self.landing(core, *label, body, want),
            K::Jump(label, value) => self.go(core, *label, value),
            K::Match(subject, arms) => self.matching(core, subject, arms, want),
            K::Attempt(slot, [body, rescue]) => self.attempt(core, *slot, [body, rescue], want),
            K::Cleanup([body, after]) => self.cleanup(core, [body, after], want),
            K::Write(variable, _, value) => {
                self.write(core, variable, value);
                self.give_nothing(core, want);
            }
            K::Fault(message) => self.fail(core, message, Op::Fault),
            K::Raise(value) => self.fail(core, value, Op::Raise),
            K::Call(callee, args) => self.call(core, callee, args, want),
            _ => self.plain(core, want),
        }
    }

    /// Compiles what leaves by an error: a fault with a message, a value that is raised.
    fn fail(&mut self, core: &Core, with: &Core, op: Op) {
        let top = self.top;
        let register = self.operand_register(with);
        let site = self.site(core, &[]);
        self.emit(Instruction::new(op, 0, register, 0, 0), site);
        self.top = top;
    }

    /// Compiles what just makes a value.
    fn plain(&mut self, core: &Core, want: Want) {
        let top = self.top;
        match want {
            Want::Into(register) => self.value_into(core, register),
            Want::Effect => match &core.kind {
                K::Literal(_) | K::Function(_) => {}
                _ if self.folded(core, 0).is_some() => {}
                K::Apply(operation, args) => self.apply(core, *operation, args, None),
                _ => {
                    self.operand(core);
                }
            },
            Want::Tail if self.folded(core, 0) == Some(Literal::Nothing) => {
                self.give_nothing(core, want);
            }
            Want::Tail => {
                let register = self.operand_register(core);
                if !self.is_unreachable() {
                    let site = self.site(core, &[]);
                    self.emit(Instruction::Return(register), site);
                }
            }
        }
        self.top = top;
    }

    /// Gives nothing where a value is wanted.
    pub(super) fn give_nothing(&mut self, core: &Core, want: Want) {
        let site = self.site(core, &[]);
        match want {
            Want::Effect => {}
            Want::Into(register) => {
                self.emit(Instruction::Nothing(register), site);
            }
            Want::Tail => {
                self.emit(Instruction::ReturnNothing(), site);
            }
        }
    }

    /// Gives the value of a register where one is wanted.
    pub(super) fn give(&mut self, core: &Core, register: Register, want: Want) {
        let site = self.site(core, &[]);
        match want {
            Want::Into(into) if into != register => {
                self.emit(Instruction::Move(into, register), site);
            }
            Want::Into(_) | Want::Effect => {}
            Want::Tail => {
                self.emit(Instruction::Return(register), site);
            }
        }
    }

    /// Makes a value of something that is no statement, in a register.
    fn value_into(&mut self, core: &Core, into: Register) {
        if let Some(literal) = self.folded(core, 0) {
            let site = self.site(core, &[]);
            self.load(&literal, into, site);
            return;
        }
        match &core.kind {
            K::Literal(literal) => {
                let site = self.site(core, &[]);
                self.load(literal, into, site);
            }
            K::Read(variable, name) => self.read_into(core, variable, name, into),
            K::Function(function) => self.make_function(core, function, into, None),
            K::Binary(operator, [left, right]) => self.binary(core, *operator, [left, right], into),
            K::Negate(part) => {
                let register = self.operand_register(part);
                let site = self.site(core, &[part]);
                self.emit(Instruction::Negate(into, register), site);
            }
            K::Not(_) | K::And(_) | K::Or(_) => self.truth_into(core, into),
            K::Apply(operation, args) => self.apply(core, *operation, args, Some(into)),
            K::List(items) => self.list(core, items, into),
            _ => self.generate(core, Want::Into(into)),
        }
    }

    /// Where the value of a piece of Core is, making it if need be.
    pub(super) fn operand(&mut self, core: &Core) -> Operand {
        let core = self.simple(core);
        if let Some(literal) = self.folded(core, 0) {
            return Operand::Literal(literal);
        }
        if let K::Mark(_, body) = &core.kind {
            return self.operand(body);
        }
        if let K::Read(Variable::Slot(slot) | Variable::Cell(slot), name) = &core.kind
            && !self.facts(*slot).shared
            && let Home::Register(register) = self.home(*slot)
        {
            self.check_set(core, *slot, name, register);
            return Operand::Register(register);
        }
        if let K::Apply(O::Demand, args) = &core.kind
            && let Some(register) = self.demanded(core, args)
        {
            return Operand::Register(register);
        }
        if let Some(item) = self.item_in_place(core) {
            return Operand::Register(item);
        }
        if let Some(register) = self.let_through(core) {
            return Operand::Register(register);
        }
        if let Some(register) = self.converted(core, None) {
            return Operand::Register(register);
        }
        let register = self.register();
        let top = self.top;
        self.generate(core, Want::Into(register));
        self.top = top;
        Operand::Register(register)
    }

    /// The same, in a register.
    pub(super) fn operand_register(&mut self, core: &Core) -> Register {
        let operand = self.operand(core);
        self.in_register(&operand)
    }

    /// An operand in a register.
    pub(super) fn in_register(&mut self, operand: &Operand) -> Register {
        match operand {
            Operand::Register(register) => *register,
            Operand::Literal(literal) => {
                let register = self.register();
                self.load(literal, register, UNPLACED);
                register
            }
        }
    }

    /// Where the value of a piece of Core is, such that it stays that value while others are
    /// made.
    pub(super) fn stable_operand(&mut self, core: &Core, others: &[&CorePart]) -> Operand {
        let operand = self.operand(core);
        let K::Read(Variable::Slot(slot) | Variable::Cell(slot), _) = &self.in_place(core).kind
        else {
            return operand;
        };
        let changes = self.facts(*slot).writes > 1
            && others.iter().any(|other| {
                let mut left = LOOKED_THROUGH;
                sets(other, *slot, &mut left)
            });
        match operand {
            Operand::Register(register) if changes => {
                let copy = self.register();
                let site = self.site(core, &[]);
                self.emit(Instruction::Move(copy, register), site);
                Operand::Register(copy)
            }
            other @ (Operand::Register(_) | Operand::Literal(_)) => other,
        }
    }

    /// The piece of Core whose value an operand is, where that stays where it is: what only looks at a variable
    /// has it in the variable's own register.
    pub(super) fn in_place<'c>(&self, core: &'c Core) -> &'c Core {
        passed_on(self.simple(core))
    }

    /// Makes a list.
    fn list(&mut self, core: &Core, items: &[CorePart], into: Register) {
        const ROW: usize = 64;
        let site = self.site(core, &[]);
        let top = self.top;
        if items.len() <= ROW {
            let first = self.row_to_read(items);
            self.emit(Instruction::List(into, first, items.len() as u16), site);
        } else {
            // The list is nowhere to be seen before it is whole.
            let whole = self.register();
            self.emit(Instruction::List(whole, 0, 0), site);
            for item in items {
                let top = self.top;
                let register = self.operand_register(item);
                self.emit(Instruction::Push(whole, register), site);
                self.top = top;
            }
            self.give(core, whole, Want::Into(into));
        }
        self.top = top;
    }

    /// Values in registers one after the other, to be looked at only: where variables are such registers, these.
    pub(super) fn row_to_read(&mut self, parts: &[CorePart]) -> Register {
        let mut there = Vec::with_capacity(parts.len());
        for part in parts {
            let is_always_there = self.is_at_hand(part) && self.folded(part, 0).is_none();
            match variable_read(self.in_place(part)).filter(|_| is_always_there) {
                Some(slot) => there.extend(self.register_of(slot)),
                None => break,
            }
        }
        let first = there.first().copied().unwrap_or_default();
        let are_a_row = (first..).zip(&there).all(|(place, own)| place == *own);
        if there.len() == parts.len() && are_a_row && !parts.is_empty() {
            return first;
        }
        self.row(parts)
    }

    /// Makes values in registers one after the other; the first of them.
    pub(super) fn row(&mut self, parts: &[CorePart]) -> Register {
        let first = self.top;
        for part in parts {
            let register = self.register();
            let top = self.top;
            self.generate(part, Want::Into(register));
            self.top = top;
        }
        first.min(MOST) as u16
    }

    /// The literal that a piece of Core always gives, if that can be seen. What would end in
    /// an error is left for the run.
    pub(super) fn folded(&mut self, core: &Core, depth: u32) -> Option<Literal> {
        const DEEPEST: u32 = 6;
        if depth > DEEPEST {
            return None;
        }
        let core = self.simple(core);
        match &core.kind {
            K::Literal(Literal::List(_) | Literal::Map(_)) => None,
            K::Literal(literal) => Some(literal.clone()),
            K::Read(Variable::Slot(slot) | Variable::Cell(slot), _) => match self.home(*slot) {
                Home::Literal(literal) => Some(literal),
                Home::None | Home::Register(_) | Home::Same(..) | Home::Items(..) => None,
            },
            K::Apply(O::ListLength, args) => self.count_of_items(args),
            K::Apply(O::TextJoin, args) => super::texts::joined_literals(args).map(Literal::Text),
            K::Apply(operation, args) if let [operand] = &args[..] => {
                let operand = self.folded(operand, depth + 1)?;
                super::arithmetic::converted(*operation, &operand)
            }
            K::Binary(operator, [left, right]) => {
                let right = self.folded(right, depth + 1)?;
                let left = self.folded(left, depth + 1)?;
                super::arithmetic::fold(*operator, &left, &right)
            }
            K::Negate(part) => match self.folded(part, depth + 1)? {
                Literal::Integer(n) => n.checked_neg().map(Literal::Integer),
                Literal::Number(n) => Some(Literal::Number(-n)),
                Literal::Nothing
                | Literal::Truth(_)
                | Literal::Text(_)
                | Literal::List(_)
                | Literal::Map(_) => None,
            },
            K::Not(part) => match self.folded(part, depth + 1)? {
                Literal::Truth(truth) => Some(Literal::Truth(!truth)),
                _ => None,
            },
            _ => None,
        }
    }
}

/// Whether a piece of Core may set a slot.
fn sets(core: &Core, slot: u32, left: &mut usize) -> bool {
    if *left == 0 {
        return true;
    }
    *left -= 1;
    // What a part sets is not looked for.
    if let K::Enter(_) = core.kind {
        return true;
    }
    if let K::Write(Variable::Slot(own) | Variable::Cell(own), ..) = core.kind
        && own == slot
    {
        return true;
    }
    let mut found = false;
    core.each_part(&mut |part| found = found || sets(part, slot, left));
    found
}
