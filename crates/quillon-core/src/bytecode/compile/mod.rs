//! From Core to bytecode, in one walk over the tree after a study of each function's
//! variables. Where a value is wanted is passed down, so that most values are made where they
//! belong (destination-driven code generation, after Dybvig, Hieb and Butler, 1990).

mod arithmetic;
mod calls;
mod captures;
mod conditions;
mod control;
mod conversions;
mod deciding;
mod demands;
mod emit;
mod facts;
mod flow;
mod folding;
mod guards;
mod guesses;
mod items;
mod kinds;
mod lists;
mod looking;
mod lookups;
mod loops;
mod operations;
mod outcomes;
mod parts;
mod places;
mod records;
mod slots;
mod texts;
mod tidying;
mod tries;
mod values;
mod variables;

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::instruction::{Instruction, MOST_REGISTERS};
use super::unit::{
    Begun, Captured, Constant, From, Function, Handler, Last, Local, Origin, Param, Site,
};
use crate::definition::Literal;
use crate::diagnostic::codes;
use crate::meaning::{Capture, Core, Fillable, FunctionCore, Label, ParamCore, Variable};
use crate::runtime::{Culprit, Problem};
use crate::source::Span;
use captures::Capturing;
use emit::{Mark, Patch};
use facts::{Writers, study};
use kinds::Kinds;
use lists::Lists;
use parts::EnteredPart;
pub(crate) use slots::Names;
use slots::{Around, Facts, Lives};

/// The most that a field of an instruction can count.
pub const MOST: usize = u16::MAX as usize;

/// Compiles a program. A problem is one of size: a function that needs more than the fields
/// of an instruction can say.
pub(crate) fn compile(
    program: &Rc<FunctionCore>,
    built_in: Fillable<'_>,
    names: Names,
) -> Result<Function, Box<Problem>> {
    let mut shared = Shared {
        built_in,
        names,
        facts: vec![None; built_in.len()],
        writers: Writers::default(),
        too_large: None,
    };
    let function = Builder::function(program, &mut shared, Vec::new(), !program.built_in);
    match shared.too_large {
        None => {
            // What runs without having been kept is not verified each time.
            debug_assert_eq!(super::verify::all(&function), Ok(()));
            Ok(function)
        }
        Some(what) => {
            let message = format!("this program is too large for the machine: {what}");
            let problem = Problem::new(Culprit::Whole, codes::RUN_SIZE, message);
            Err(problem.why("the walking engine has no such limit"))
        }
    }
}

/// What all functions of a program share while they are compiled.
struct Shared<'r> {
    built_in: Fillable<'r>,
    names: Names,
    /// What is known of the built-in functions that have been asked about.
    facts: Vec<Option<Rc<Facts>>>,
    writers: Writers,
    /// What is too large, if something is.
    too_large: Option<String>,
}

/// A register.
type Register = u16;

/// What is to become of a value.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Want {
    /// It is not needed.
    Effect,
    /// It goes into a register.
    Into(Register),
    /// It is what the function gives.
    Tail,
}

/// Where a value is.
#[derive(Clone, PartialEq, Debug)]
enum Operand {
    Register(Register),
    Literal(Literal),
}

/// Where a slot is kept.
#[derive(Clone, Debug, Default)]
enum Home {
    #[default]
    None,
    Register(Register),
    Literal(Literal),
    /// It always holds what this variable of another function does, of this name.
    Same(Variable, Rc<str>),
    /// It is a list, which has so many items in registers from one on.
    Items(Register, usize),
}

/// A function whose Core is compiled: the one being built, or one filled in where it is
/// called.
struct Scope {
    core: Rc<FunctionCore>,
    facts: Rc<Facts>,
    homes: Vec<Home>,
    /// The parts that are being entered, those of inner regions last.
    parts: Vec<EnteredPart>,
    /// For a function filled in: where its call comes from, and each argument.
    inlined: Option<Site>,
}

/// A landing that jumps can go to.
struct Landing {
    label: Label,
    want: Want,
    /// The register for a value that is brought past a cleanup, where the wanted one is the
    /// caller's.
    carried: Option<Register>,
    end: Mark,
    /// How many cleanups are around it.
    cleanups: usize,
}

/// A cleanup around what is being compiled.
struct Cleanup {
    /// Where it begins.
    after: Mark,
    /// The register that says how to go on after it.
    how: Register,
    /// The jumps that go through it.
    through: Vec<(Mark, usize)>,
}

/// A function under construction.
struct Builder<'s, 'r> {
    shared: &'s mut Shared<'r>,
    scopes: Vec<Scope>,
    capturing: Vec<Capturing>,
    code: Vec<Instruction>,
    site_of: Vec<u32>,
    sites: Vec<Site>,
    known_sites: FxHashMap<Site, u32>,
    /// The part of a meaning that is being compiled, and what it is the meaning of.
    meaning: (Span, Span),
    constants: Vec<Constant>,
    known_constants: FxHashMap<(u8, u64, Option<Rc<str>>), u32>,
    /// Names that stand one after the other among the constants, with the number of the first.
    known_rows: FxHashMap<Box<[Rc<str>]>, u16>,
    functions: Vec<Rc<Function>>,
    handlers: Vec<Handler>,
    locals: Vec<Local>,
    /// Those of them that have not come to their end, in the order in which they began.
    alive: Vec<usize>,
    begun: Vec<Begun>,
    marks: Vec<Option<u32>>,
    patches: Vec<Patch>,
    /// Where code was last that is reached in some other way than from before.
    reached_at: usize,
    landings: Vec<Landing>,
    cleanups: Vec<Cleanup>,
    /// How many things are around inside which no call is a tail call, beside cleanups.
    attempts: u32,
    /// The first free register, and the most that were in use.
    top: usize,
    most: usize,
}

impl Builder<'_, '_> {
    /// Compiles a function.
    fn function(
        core: &Rc<FunctionCore>,
        shared: &mut Shared<'_>,
        capturing: Vec<Capturing>,
        is_program: bool,
    ) -> Function {
        let captured: Vec<Kinds> = capturing.iter().map(|how| how.kinds()).collect();
        let around = Around {
            captured: &captured,
            built_in: shared.built_in,
            names: shared.names,
        };
        let facts = Rc::new(study(core, around, &mut shared.writers));
        let mut builder = Builder {
            shared,
            scopes: vec![Scope {
                core: Rc::clone(core),
                homes: vec![Home::None; facts.slots.len()],
                facts,
                parts: Vec::new(),
                inlined: None,
            }],
            capturing,
            code: Vec::new(),
            site_of: Vec::new(),
            sites: Vec::new(),
            known_sites: FxHashMap::default(),
            meaning: Default::default(),
            constants: Vec::new(),
            known_constants: FxHashMap::default(),
            known_rows: FxHashMap::default(),
            functions: Vec::new(),
            handlers: Vec::new(),
            locals: Vec::new(),
            alive: Vec::new(),
            begun: Vec::new(),
            marks: Vec::new(),
            patches: Vec::new(),
            reached_at: 0,
            landings: Vec::new(),
            cleanups: Vec::new(),
            // A program is called by nothing, so that nothing takes its place.
            attempts: u32::from(is_program),
            top: 0,
            most: 0,
        };
        builder.body(core);
        builder.finish(core, is_program)
    }

    fn body(&mut self, core: &Rc<FunctionCore>) {
        for &ParamCore { slot, .. } in &core.params {
            let register = self.register();
            self.scope().homes[slot as usize] = Home::Register(register);
            self.begin_local(slot, register);
        }
        // Where the last of them comes as its items, these come after their number.
        if let Some(items) = self.facts_of_lists().listed() {
            self.top += 1 + items;
            self.most = self.most.max(self.top);
        }
        for &ParamCore { slot, .. } in &core.params {
            if self.facts(slot).shared
                && let Home::Register(register) = self.home(slot)
            {
                let site = self.site(&core.body, &[]);
                self.emit(Instruction::Share(register), site);
            }
        }
        // What lives as long as the function has its register from the start.
        for slot in core.params.len() as u32..core.slots {
            let facts = self.facts(slot);
            if facts.lives == Lives::Throughout && facts.writes > 0 {
                let unset = facts.maybe_unset;
                let register = self.register();
                self.scope().homes[slot as usize] = Home::Register(register);
                if unset {
                    let site = self.site(&core.body, &[]);
                    self.emit(Instruction::Unset(register), site);
                }
            }
        }
        self.generate(&core.body, Want::Tail);
    }

    fn finish(mut self, core: &Rc<FunctionCore>, is_program: bool) -> Function {
        self.end_locals(0);
        self.settle();
        if self.most > MOST_REGISTERS {
            self.too_large("a function needs more than 32768 registers");
        }
        let last = match self.facts_of_lists().listed() {
            Some(_) => Last::Listed,
            None if core.rest => Last::Rest,
            None => Last::Argument,
        };
        let captures = |capture: &Capture| Captured {
            name: Rc::clone(&capture.name),
            from: From::Itself,
        };
        let param = |param: &ParamCore| Param {
            name: Rc::clone(&param.name),
            is_hidden: param.is_hidden,
        };
        Function {
            name: core.name.clone(),
            params: core.params.iter().map(param).collect(),
            last,
            captures: core.captures.iter().map(captures).collect(),
            registers: self.most.min(MOST_REGISTERS) as u16,
            code: self.code,
            constants: self.constants,
            functions: self.functions,
            handlers: self.handlers,
            site_of: self.site_of,
            sites: self.sites,
            locals: self.locals,
            begun: self.begun,
            source: Arc::clone(&core.source),
            is_program,
            built_in: core.built_in,
            core: Some(Rc::clone(core)),
        }
    }

    fn too_large(&mut self, what: &str) {
        self.shared.too_large.get_or_insert_with(|| what.to_owned());
    }

    /// The function whose Core is being compiled.
    fn scope(&mut self) -> &mut Scope {
        let last = self.scopes.len() - 1;
        &mut self.scopes[last]
    }

    fn facts(&self, slot: u32) -> &slots::SlotFacts {
        let scope = &self.scopes[self.scopes.len() - 1];
        &scope.facts.slots[slot as usize]
    }

    fn facts_of_lists(&self) -> &Lists {
        &self.scopes[self.scopes.len() - 1].facts.lists
    }

    /// Where a slot is kept.
    fn home(&mut self, slot: u32) -> Home {
        let home = self.scope().homes[slot as usize].clone();
        if !matches!(home, Home::None) {
            return home;
        }
        let facts = self.facts(slot).clone();
        let home = match (facts.literal, facts.alias) {
            (Some(literal), _) => Home::Literal(literal),
            (None, Some(other)) => self.home(other),
            // Never set: reading it is an error.
            (None, None) => Home::Register(self.register()),
        };
        self.scope().homes[slot as usize] = home.clone();
        home
    }

    /// The register of a slot that is set or has no other place.
    fn register_of(&mut self, slot: u32) -> Option<Register> {
        match self.home(slot) {
            Home::Register(register) => Some(register),
            Home::None | Home::Literal(_) | Home::Same(..) | Home::Items(..) => None,
        }
    }

    /// A variable is in a register from here on.
    fn begin_local(&mut self, slot: u32, register: Register) {
        if let Some(name) = self
            .facts(slot)
            .name
            .clone()
            .filter(|name| !name.is_empty())
        {
            let start = self.code.len() as u32;
            self.alive.push(self.locals.len());
            self.locals.push(Local {
                name,
                register,
                start,
                end: u32::MAX,
            });
        }
    }

    /// Variables in registers from one on are there no more.
    fn end_locals(&mut self, from: usize) {
        let end = self.code.len() as u32;
        // What began later has a later register.
        while let Some(local) = self.alive.last().map(|last| &mut self.locals[*last])
            && usize::from(local.register) >= from
        {
            local.end = end;
            self.alive.pop();
        }
    }

    /// A free register.
    fn register(&mut self) -> Register {
        let register = self.top;
        self.top += 1;
        self.most = self.most.max(self.top);
        register.min(MOST) as u16
    }

    /// Where a piece of Core comes from, for messages: as a whole, and its operands.
    fn site(&mut self, whole: &Core, operands: &[&Core]) -> u32 {
        let site = Site {
            whole: self.origin(whole),
            operands: operands.iter().map(|core| self.origin(core)).collect(),
            meaning: self.meaning_of(whole),
        };
        if let Some(&known) = self.known_sites.get(&site) {
            return known;
        }
        let number = self.sites.len() as u32;
        self.sites.push(site.clone());
        self.known_sites.insert(site, number);
        number
    }

    /// The part of a meaning that a piece of Core is made of, where that is kept.
    fn meaning_of(&self, core: &Core) -> Span {
        match self.shared.names {
            Names::Kept if core.meaning.is_empty() => self.meaning.0,
            Names::Kept => core.meaning,
            Names::AsNeeded => Span::default(),
        }
    }

    /// Where a piece of Core comes from; in a function filled in, from its call, or from the
    /// argument that it just reads.
    fn origin(&self, core: &Core) -> Origin {
        let scope = &self.scopes[self.scopes.len() - 1];
        let param = match core.kind {
            crate::meaning::CoreKind::Read(Variable::Slot(slot) | Variable::Cell(slot), _) => {
                let mut params = scope.core.params.iter();
                params.position(|param| param.slot == slot)
            }
            _ => None,
        };
        match (&scope.inlined, param) {
            (Some(call), Some(param)) => call.operands.get(param).copied().unwrap_or(call.whole),
            (Some(call), None) => call.whole,
            (None, param) => Origin {
                span: core.span,
                param: param.map(|param| param as u16),
            },
        }
    }
}
