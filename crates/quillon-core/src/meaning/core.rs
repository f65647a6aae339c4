//! Core: the small language that every program becomes. Names are slots, every
//! node has its place in a source text, and nothing refers to the definition.

use std::rc::Rc;
use std::sync::Arc;

use crate::definition::Literal;
use crate::definition::template::{BinaryOperator, ValueKind};
use crate::operations::Operation;
use crate::source::{SourceText, Span};

/// A piece of Core with its place.
#[derive(Debug)]
pub struct Core {
    /// What it does.
    pub kind: CoreKind,
    /// The text it comes from.
    pub span: Span,
    /// The part of a meaning that it was made of, in the definition; empty where it belongs to what is
    /// around it.
    pub meaning: Span,
}

/// Where a variable is found.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Variable {
    /// A slot of the running function.
    Slot(u32),
    /// A slot that holds a cell, since another function shares the variable.
    Cell(u32),
    /// A cell that the running function was made with.
    Captured(u32),
    /// A variable of the session, which outlives the run.
    Session(u32),
    /// A built-in function or constant.
    BuiltIn(u32),
    /// A cell of the state.
    State(u32),
    /// What the latest binding of a name holds that is under way.
    Dynamic(Rc<str>),
}

/// The number of a landing, unique within a function.
pub type Label = u32;

/// The number of a part of a function.
pub type PartId = u32;

/// A piece of Core that an evaluation can hold on to.
pub type CorePart = Rc<Core>;

/// What Core can do.
#[derive(Debug)]
pub enum CoreKind {
    /// A fixed value.
    Literal(Literal),
    /// Reads a variable; the name is for messages.
    Read(Variable, Rc<str>),
    /// Sets a variable; gives nothing. The name is that of the program, if it has one there.
    Write(Variable, Option<Rc<str>>, CorePart),
    /// Makes fresh variables of these slots (those that are cells get new cells), and
    /// goes on.
    Fresh(Vec<(u32, bool)>, CorePart),
    /// Goes on with fresh dynamic variables of these names; what they held before comes back
    /// when that ends, however it ends.
    Rebind(Vec<Rc<str>>, CorePart),
    /// Something begins and ends here, for those who watch.
    Mark(Marked, CorePart),
    /// A part of the function, run here as it stands there.
    Enter(PartId),
    /// What enters these parts of the function, and nothing else does.
    Parts(Vec<PartId>, CorePart),
    /// One after the other; gives the last, or nothing when empty.
    Sequence(Vec<CorePart>),
    /// `if`.
    If([CorePart; 3]),
    /// `while`; gives nothing.
    While([CorePart; 2]),
    /// Runs the body once for each item of a list, with the item in a slot.
    Each(u32, [CorePart; 2]),
    /// Runs the body once for each integer from the first up to and with the second, with the integer in a
    /// slot.
    Count(u32, [CorePart; 3]),
    /// A place that jumps with its label go to the end of; gives what a jump brings.
    Landing(Label, CorePart),
    /// Goes to the end of a landing of the same function, with a value.
    Jump(Label, CorePart),
    /// Makes a function.
    Function(Rc<FunctionCore>),
    /// Calls a function.
    Call(CorePart, Vec<CorePart>),
    /// An operator with two operands.
    Binary(BinaryOperator, [CorePart; 2]),
    /// The opposite of a number.
    Negate(CorePart),
    /// The opposite of a truth value.
    Not(CorePart),
    /// `and`.
    And([CorePart; 2]),
    /// `or`.
    Or([CorePart; 2]),
    /// An operation on values.
    Apply(Operation, Vec<CorePart>),
    /// A new list.
    List(Vec<CorePart>),
    /// Tells kinds of value apart; the slot gets the value.
    Match(CorePart, Vec<ArmCore>),
    /// Stops with an error of the definition's wording, at a place.
    Fault(CorePart),
    /// Stops with a value that can be caught.
    Raise(CorePart),
    /// Runs the first; when it fails or raises, the second, with what was caught in the
    /// slot.
    Attempt(u32, [CorePart; 2]),
    /// Runs the first and then, whatever came of it, the second; gives what the first
    /// gave.
    Cleanup([CorePart; 2]),
}

/// What begins and ends at a mark.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Marked {
    /// A node of the tree.
    Node {
        /// Its number in the tree.
        node: u32,
        /// Its form, by its index in the definition.
        form: u16,
    },
    /// What a node of a form is run on, read before and after it; the form by its index.
    Taken(u16),
    /// A branch of a meaning, by where it stands in the definition (see `branches`).
    Branch(Span),
}

/// What of a program is marked for those who watch it.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum Marks {
    /// Nothing.
    #[default]
    None,
    /// Its nodes.
    Nodes,
    /// The branches of meanings.
    Branches,
}

/// One arm of a match.
#[derive(Debug)]
pub struct ArmCore {
    /// The kind it takes; anything when missing.
    pub kind: Option<ValueKind>,
    /// The slot for the value.
    pub slot: Option<u32>,
    /// What it does.
    pub body: CorePart,
}

/// The code of a function.
#[derive(Debug)]
pub struct FunctionCore {
    /// Its name, when it is bound to one right away.
    pub name: Option<Rc<str>>,
    /// Its parameters.
    pub params: Vec<ParamCore>,
    /// Whether the last parameter takes all arguments that are left, as a list.
    pub rest: bool,
    /// Where each captured cell comes from, in the function around.
    pub captures: Vec<Capture>,
    /// How many slots a call needs.
    pub slots: u32,
    /// What it does.
    pub body: CorePart,
    /// What it enters from more than one place; nothing for what stands in just one.
    pub parts: Vec<Option<CorePart>>,
    /// The text its places are in.
    pub source: Arc<SourceText>,
    /// Whether it is built in: its errors are shown at the call.
    pub built_in: bool,
}

/// A parameter of a function.
#[derive(Debug)]
pub struct ParamCore {
    /// What it is called.
    pub name: Rc<str>,
    /// Its slot.
    pub slot: u32,
    /// Whether the slot holds a cell, since another function shares the variable.
    pub is_cell: bool,
    /// Whether the language adds it to those that the program writes, so that messages neither
    /// count nor list it.
    pub is_hidden: bool,
}

/// Where a function finds a cell when it is made.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Capture {
    /// The variable's name.
    pub name: Rc<str>,
    /// Where the cell is in the function around.
    pub from: Variable,
}

impl FunctionCore {
    /// A part that is entered.
    pub(crate) fn part(&self, part: PartId) -> Option<&CorePart> {
        self.parts.get(part as usize)?.as_ref()
    }

    /// The body, and the parts that it enters.
    pub(crate) fn pieces(&self) -> impl Iterator<Item = &CorePart> {
        std::iter::once(&self.body).chain(self.parts.iter().flatten())
    }
}

impl Core {
    /// A piece of Core.
    pub fn new(kind: CoreKind, span: Span) -> Core {
        let meaning = Span::default();
        Core {
            kind,
            span,
            meaning,
        }
    }

    /// The same, made of a part of a meaning, if it is not of another.
    #[must_use]
    pub(super) fn made_of(mut self, meaning: Span) -> Core {
        if self.meaning.is_empty() {
            self.meaning = meaning;
        }
        self
    }

    /// Whether something built-in calls something built-in here. Such a call is never one
    /// in tail position: that each is noted tells which of the program's own is at fault.
    pub(crate) fn is_among_built_in(&self, function: &FunctionCore) -> bool {
        let CoreKind::Call(callee, _) = &self.kind else {
            return false;
        };
        function.built_in && matches!(callee.kind, CoreKind::Read(Variable::BuiltIn(_), _))
    }

    /// The items of a list that is made here.
    pub(crate) fn listed(&self) -> impl Iterator<Item = &Core> {
        let items: &[CorePart] = match &self.kind {
            CoreKind::List(items) => items,
            _ => &[],
        };
        items.iter().map(|item| &**item)
    }

    /// Calls `visit` on each direct part, functions' bodies not among them.
    pub(crate) fn each_part<'a>(&'a self, visit: &mut dyn FnMut(&'a Core)) {
        use CoreKind as K;
        let mut all = |parts: &'a [CorePart]| parts.iter().for_each(|part| visit(part));
        match &self.kind {
            K::Literal(_) | K::Read(..) | K::Function(_) | K::Enter(_) => {}
            K::Write(_, _, a)
            | K::Mark(_, a)
            | K::Parts(_, a)
            | K::Fresh(_, a)
            | K::Rebind(_, a)
            | K::Landing(_, a)
            | K::Jump(_, a)
            | K::Negate(a)
            | K::Not(a)
            | K::Fault(a)
            | K::Raise(a) => visit(a),
            K::If(parts) | K::Count(_, parts) => all(parts),
            K::While(parts)
            | K::Each(_, parts)
            | K::Binary(_, parts)
            | K::And(parts)
            | K::Or(parts)
            | K::Attempt(_, parts)
            | K::Cleanup(parts) => all(parts),
            K::Sequence(parts) | K::Apply(_, parts) | K::List(parts) => all(parts),
            K::Call(callee, args) => {
                visit(callee);
                args.iter().for_each(|part| visit(part));
            }
            K::Match(subject, arms) => {
                visit(subject);
                arms.iter().for_each(|arm| visit(&arm.body));
            }
        }
    }

    /// Calls `visit` on each direct part, functions' bodies not among them. Only while
    /// nothing else holds on to the parts.
    pub(crate) fn each_part_mut(&mut self, visit: &mut dyn FnMut(&mut Core)) {
        use CoreKind as K;
        let mut visit = |part: &mut CorePart| {
            if let Some(part) = Rc::get_mut(part) {
                visit(part);
            }
        };
        match &mut self.kind {
            K::Literal(_) | K::Read(..) | K::Function(_) | K::Enter(_) => {}
            K::Write(_, _, a)
            | K::Mark(_, a)
            | K::Parts(_, a)
            | K::Fresh(_, a)
            | K::Rebind(_, a)
            | K::Landing(_, a)
            | K::Jump(_, a)
            | K::Negate(a)
            | K::Not(a)
            | K::Fault(a)
            | K::Raise(a) => visit(a),
            K::If(parts) | K::Count(_, parts) => parts.iter_mut().for_each(visit),
            K::While(parts)
            | K::Each(_, parts)
            | K::Binary(_, parts)
            | K::And(parts)
            | K::Or(parts)
            | K::Attempt(_, parts)
            | K::Cleanup(parts) => parts.iter_mut().for_each(visit),
            K::Sequence(parts) | K::Apply(_, parts) | K::List(parts) => {
                parts.iter_mut().for_each(visit);
            }
            K::Call(callee, args) => {
                visit(callee);
                args.iter_mut().for_each(visit);
            }
            K::Match(subject, arms) => {
                visit(subject);
                arms.iter_mut().for_each(|arm| visit(&mut arm.body));
            }
        }
    }
}

/// Whether a piece of Core may read or set a slot, or captures it, as far as so many nodes tell.
pub(crate) fn mentions(core: &Core, slot: u32, left: &mut usize) -> bool {
    if *left == 0 {
        return true;
    }
    *left -= 1;
    let is_own = |variable: &Variable| matches!(variable, Variable::Slot(own) | Variable::Cell(own) if *own == slot);
    match &core.kind {
        // What a part does is not looked for.
        CoreKind::Enter(_) => return true,
        CoreKind::Read(variable, _) | CoreKind::Write(variable, ..) if is_own(variable) => {
            return true;
        }
        CoreKind::Function(function) if function.captures.iter().any(|one| is_own(&one.from)) => {
            return true;
        }
        _ => {}
    }
    let mut found = false;
    core.each_part(&mut |part| found = found || mentions(part, slot, left));
    found
}
