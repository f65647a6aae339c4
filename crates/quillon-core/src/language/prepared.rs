//! What every session of a language begins with, made once.

use std::cell::{OnceCell, RefCell};
use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::Language;
use crate::bytecode::{self, Function, Names};
use crate::meaning::{self, BuiltIns, Fillable, FunctionCore, Marks};
use crate::runtime::Problem;
use crate::tree::Tree;

/// The Core and the bytecode of all that a language has ready, for any number of sessions.
#[derive(Clone, Debug)]
pub struct Prepared {
    inner: Rc<Inner>,
    language: Language,
}

#[derive(Debug)]
struct Inner {
    built_ins: BuiltIns,
    /// The bytecode of each, made when it is asked for.
    codes: Vec<Code>,
    state: Vec<(Rc<FunctionCore>, Code)>,
    marks: Marks,
    /// The same for the other surfaces, made when they are asked for.
    surfaces: RefCell<FxHashMap<String, Prepared>>,
}

/// Bytecode, once it has been asked for.
type Code = OnceCell<Rc<Function>>;

/// Something built-in, or what a cell of the state holds at first.
#[derive(Debug)]
pub(crate) struct Ready<'p> {
    /// A function, or what makes the value.
    pub core: &'p Rc<FunctionCore>,
    code: &'p Code,
    /// What may be filled in in it.
    fillable: Fillable<'p>,
}

impl Prepared {
    /// Makes it for a language.
    pub fn new(language: &Language) -> Prepared {
        Prepared::made(language, Marks::None)
    }

    /// The same, with the branches of built-in functions marked for those who watch.
    pub(crate) fn marked(language: &Language) -> Prepared {
        Prepared::made(language, Marks::Branches)
    }

    fn made(language: &Language, marks: Marks) -> Prepared {
        let definition = language.definition();
        let built_ins = BuiltIns::new(language.shared_definition(), marks);
        let state = definition.state.iter().map(|cell| {
            let core = meaning::initial(definition, cell);
            (Rc::new(core), Code::new())
        });
        Prepared {
            inner: Rc::new(Inner {
                codes: vec![Code::new(); built_ins.len()],
                built_ins,
                state: state.collect(),
                marks,
                surfaces: RefCell::default(),
            }),
            language: language.clone(),
        }
    }

    /// The same for the language in the surface of a name.
    pub fn surface(&self, name: &str) -> Option<Prepared> {
        if let Some(known) = self.inner.surfaces.borrow().get(name) {
            return Some(known.clone());
        }
        let made = Prepared::made(&self.language.surface(name)?, self.inner.marks);
        let mut surfaces = self.inner.surfaces.borrow_mut();
        surfaces.insert(name.to_owned(), made.clone());
        Some(made)
    }

    /// The same, after a text in which signs may have been declared.
    pub(crate) fn after(&self, tree: &Tree) -> Prepared {
        Prepared {
            inner: Rc::clone(&self.inner),
            language: self
                .language
                .after(tree)
                .unwrap_or_else(|| self.language.clone()),
        }
    }

    /// The language.
    pub fn language(&self) -> &Language {
        &self.language
    }

    /// The built-in functions that may be filled in where they are called: all.
    pub(crate) fn functions(&self) -> Fillable<'_> {
        let built_ins = &self.inner.built_ins;
        built_ins.first(built_ins.len())
    }

    /// The Core of what is built in.
    pub(crate) fn built_ins(&self) -> &BuiltIns {
        &self.inner.built_ins
    }

    /// Something built-in.
    pub(crate) fn built_in(&self, index: usize) -> Option<Ready<'_>> {
        let built_ins = &self.inner.built_ins;
        Some(Ready {
            core: built_ins.core(index)?,
            code: self.inner.codes.get(index)?,
            fillable: built_ins.first(built_ins.known_to(index)),
        })
    }

    /// What the cells of the state hold at first.
    pub(crate) fn state(&self) -> impl Iterator<Item = Ready<'_>> {
        self.inner.state.iter().map(|(core, code)| Ready {
            core,
            code,
            fillable: self.functions(),
        })
    }
}

impl<'p> Ready<'p> {
    /// Its bytecode.
    ///
    /// # Errors
    /// It is too large.
    pub fn code(&self) -> Result<&'p Rc<Function>, Box<Problem>> {
        if let Some(code) = self.code.get() {
            return Ok(code);
        }
        let made = bytecode::compile(self.core, self.fillable, Names::AsNeeded)?;
        Ok(self.code.get_or_init(|| Rc::new(made)))
    }
}
