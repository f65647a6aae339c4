//! Making functions and calling them; small built-in ones are filled in where they are
//! called.

use std::rc::Rc;

use super::items::ListedArguments;
use super::slots::{Around, Facts, Names};
use super::{Builder, Capturing, Home, MOST, Operand, Register, Scope, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::bytecode::unit::Site;
use crate::meaning::{Core, CoreKind as K, CorePart, FunctionCore, ParamCore, Variable};

/// Built-in functions of more nodes than this are called.
const FILLED_IN: u32 = 40;

/// Most functions filled in one inside the other.
const DEEPEST: usize = 6;

/// So often is one filled in inside itself.
const MOST_INSIDE_ITSELF: usize = 3;

/// Most arguments of a call.
const MOST_ARGUMENTS: usize = 255;

impl Builder<'_, '_> {
    /// Makes a function. `itself` is the slot that it is put into right away.
    pub(super) fn make_function(
        &mut self,
        core: &Core,
        function: &Rc<FunctionCore>,
        into: Register,
        itself: Option<u32>,
    ) {
        let top = self.top;
        let site = self.site(core, &[]);
        let from: Vec<_> = function
            .captures
            .iter()
            .map(|capture| self.captured_from(&capture.from, itself))
            .collect();
        let capturing = from.iter().map(|(_, how)| *how).collect();
        let mut made = Builder::function(function, self.shared, capturing, false);
        for (captured, (from, _)) in made.captures.iter_mut().zip(from) {
            captured.from = from;
        }
        let number = self.functions.len() as i32;
        self.functions.push(Rc::new(made));
        self.emit(Instruction::Function(into, number), site);
        self.top = top;
    }

    /// Calls a function.
    pub(super) fn call(&mut self, core: &Core, callee: &CorePart, args: &[CorePart], want: Want) {
        let top = self.top;
        if let Some((function, facts)) = self.filled_in(callee, args) {
            self.fill_in(core, args, function, facts, want);
            self.top = top;
            return;
        }
        if args.len() > MOST_ARGUMENTS {
            self.too_large("a call has more than 255 arguments");
            return;
        }
        if let Some(arguments) = self.listed_arguments(args) {
            self.call_listed(core, callee, (args, &arguments), want);
            self.top = top;
            return;
        }
        let count = args.len() as u8;
        let mut operands: Vec<&Core> = vec![callee];
        operands.extend(args.iter().map(|arg| &**arg));
        let is_tail = self.is_tail(core, want);
        let fixed = match self.called(callee) {
            Some(Variable::Captured(index)) if is_tail => {
                let is_itself = self.is_itself(index, args);
                is_itself.then_some((Op::TailCallItself, 0))
            }
            _ if is_tail => None,
            Some(Variable::Captured(index)) => self.call_of_captured(index, args),
            Some(Variable::BuiltIn(index)) => Some((Op::CallBuiltIn, index as u16)),
            Some(_) | None => None,
        };
        let (op, function) = if let Some(fixed) = fixed {
            fixed
        } else {
            let others: Vec<&CorePart> = args.iter().collect();
            let operand = self.stable_operand(callee, &others);
            let op = if is_tail { Op::TailCall } else { Op::Call };
            (op, self.in_register(&operand))
        };
        let into = self.target_of_call(want);
        let window = self.row(args);
        // A call without arguments has its registers there too.
        self.most = self.most.max(usize::from(window) + 1);
        let site = self.site(core, &operands);
        if is_tail {
            self.emit(Instruction::new(op, count, 0, window, function), site);
        } else {
            self.emit(Instruction::new(op, count, into, window, function), site);
            if want == Want::Tail {
                self.emit(Instruction::Return(into), site);
            }
        }
        self.top = top;
    }

    /// The variable that holds what is called, by the name that it has where it always holds the same.
    fn called(&mut self, callee: &Core) -> Option<Variable> {
        let K::Read(variable, _) = &callee.kind else {
            return None;
        };
        if let Variable::Slot(slot) = variable
            && let Home::Same(variable, _) = self.home(*slot)
        {
            return Some(variable);
        }
        Some(variable.clone())
    }

    /// The instruction that calls what a captured variable always holds, and where that is found.
    fn call_of_captured(&self, index: u32, args: &[CorePart]) -> Option<(Op, u16)> {
        if self.is_itself(index, args) {
            return Some((Op::CallItself, 0));
        }
        let index = self.always_captured(index)?;
        Some((Op::CallCaptured, index))
    }

    /// Whether a captured variable always holds the function being compiled, and that takes so many arguments.
    fn is_itself(&self, index: u32, args: &[CorePart]) -> bool {
        self.capturing[index as usize] == Capturing::Itself && self.takes(args.len())
    }

    /// Where a captured variable is, if it always holds the same.
    fn always_captured(&self, index: u32) -> Option<u16> {
        match self.capturing[index as usize] {
            Capturing::Itself | Capturing::Value(_) => Some(index as u16),
            Capturing::Variable => None,
        }
    }

    /// Whether a call takes the place of the running function.
    fn is_tail(&self, core: &Core, want: Want) -> bool {
        let is_inside = |scope: &Scope| core.is_among_built_in(&scope.core);
        want == Want::Tail
            && self.attempts == 0
            && self.cleanups.is_empty()
            && !self.scopes.last().is_some_and(is_inside)
    }

    /// The register for what a call gives: the one where its arguments begin, unless it is wanted elsewhere.
    fn target_of_call(&self, want: Want) -> Register {
        match want {
            Want::Into(register) => register,
            Want::Effect | Want::Tail => self.top.min(MOST) as u16,
        }
    }

    /// Calls a function with arguments that end in a list.
    fn call_listed(
        &mut self,
        core: &Core,
        callee: &CorePart,
        (args, listed): (&[CorePart], &ListedArguments<'_>),
        want: Want,
    ) {
        let is_tail = self.is_tail(core, want);
        let captured = match self.called(callee) {
            Some(Variable::Captured(index)) if !is_tail => self.always_captured(index),
            Some(_) | None => None,
        };
        let (op, function) = if let Some(index) = captured {
            (Op::CallListedCaptured, index)
        } else {
            let others: Vec<&CorePart> = args.iter().collect();
            let operand = self.stable_operand(callee, &others);
            (Op::CallListed, self.in_register(&operand))
        };
        let into = self.target_of_call(want);
        let (window, counts) = self.listed_row(listed);
        let mut operands: Vec<&Core> = vec![callee];
        operands.extend(args.iter().map(|arg| &**arg));
        let site = self.site(core, &operands);
        if is_tail {
            self.emit(Instruction::TailCallListed(counts, window, function), site);
            return;
        }
        self.emit(Instruction::new(op, counts, into, window, function), site);
        if want == Want::Tail {
            self.emit(Instruction::Return(into), site);
        }
    }

    /// Whether the function being compiled takes just so many arguments.
    fn takes(&self, count: usize) -> bool {
        let core = &self.scopes[0].core;
        !core.rest && core.params.len() == count
    }

    /// The built-in function that is called, if it can be filled in.
    fn filled_in(
        &mut self,
        callee: &Core,
        args: &[CorePart],
    ) -> Option<(Rc<FunctionCore>, Rc<Facts>)> {
        let Some(Variable::BuiltIn(index)) = self.called(callee) else {
            return None;
        };
        let index = index as usize;
        let function = self.shared.built_in.function(index)?;
        let writers = &mut self.shared.writers;
        let facts = self.shared.facts[index].get_or_insert_with(|| {
            let around = Around {
                captured: &[],
                built_in: self.shared.built_in,
                names: Names::AsNeeded,
            };
            Rc::new(super::facts::study(function, around, writers))
        });
        let fits = function.params.len() == args.len() && !function.rest;
        let inside = self
            .scopes
            .iter()
            .filter(|scope| Rc::ptr_eq(&scope.core, function));
        let small = facts.size <= FILLED_IN
            && facts.is_plain
            && self.scopes.len() < DEEPEST
            && inside.count() < MOST_INSIDE_ITSELF;
        let params = function.params.iter();
        let unchanged = params
            .map(|param| &facts.slots[param.slot as usize])
            .all(|facts| facts.writes == 1 && !facts.shared);
        (fits && small && unchanged).then(|| (Rc::clone(function), Rc::clone(facts)))
    }

    /// Compiles the body of a function where it is called.
    fn fill_in(
        &mut self,
        core: &Core,
        args: &[CorePart],
        function: Rc<FunctionCore>,
        facts: Rc<Facts>,
        want: Want,
    ) {
        let mut homes = vec![Home::None; facts.slots.len()];
        for (index, (arg, &ParamCore { slot, .. })) in args.iter().zip(&function.params).enumerate()
        {
            let others: Vec<&CorePart> = args[index + 1..].iter().collect();
            let is_listed = facts.lists.given.is_some() && index + 1 == args.len();
            if is_listed && let Some(home) = self.argument_items(arg) {
                homes[slot as usize] = home;
                continue;
            }
            homes[slot as usize] = match self.stable_operand(arg, &others) {
                Operand::Register(register) => Home::Register(register),
                Operand::Literal(literal) => Home::Literal(literal),
            };
        }
        let call = Site {
            whole: self.origin(core),
            operands: args.iter().map(|arg| self.origin(arg)).collect(),
            meaning: self.meaning_of(core),
        };
        let body = Rc::clone(&function.body);
        self.scopes.push(Scope {
            core: function,
            facts,
            homes,
            parts: Vec::new(),
            inlined: Some(call),
        });
        self.generate(&body, want);
        self.scopes.pop();
    }
}
