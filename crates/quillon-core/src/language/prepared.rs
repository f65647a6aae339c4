//! What every session of a language begins with, made once.

use std::cell::{OnceCell, RefCell};
use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::Language;
use crate::bytecode::{self, Function, Names};
use crate::diagnostic::Diagnostics;
use crate::meaning::{self, FunctionCore, Marks};
use crate::runtime::Failure;
use crate::tree::Tree;

/// The Core and the bytecode of all that a language has ready, for any number of sessions.
#[derive(Clone, Debug)]
pub struct Prepared {
    inner: Rc<Inner>,
    language: Language,
}

#[derive(Debug)]
struct Inner {
    /// What the definition `provides`, and then the helpers that are functions of their own.
    built_in: Vec<Ready>,
    /// The Core of the built-in functions, in the definition's order; nothing for constants.
    functions: Vec<Option<Rc<FunctionCore>>>,
    state: Vec<Ready>,
    marks: Marks,
    /// The same for the other surfaces, made when they are asked for.
    surfaces: RefCell<FxHashMap<String, Prepared>>,
}

/// Something built-in, or what a cell of the state holds at first.
#[derive(Debug)]
pub(crate) struct Ready {
    pub core: Rc<FunctionCore>,
    /// Whether it is called by programs, and not once at the beginning.
    pub is_function: bool,
    /// How many of the built-in functions its bytecode may have filled in.
    known: usize,
    code: OnceCell<Rc<Function>>,
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
        let ready = |core: FunctionCore, is_function, known| Ready {
            core: Rc::new(core),
            is_function,
            known,
            code: OnceCell::new(),
        };
        let all = definition.provides.iter().enumerate();
        let provided = all.map(|(index, provided)| {
            let core = meaning::built_in(definition, provided, marks);
            ready(core, provided.params.is_some(), index)
        });
        let helpers = definition.recursive_helpers();
        let helpers = helpers.map(|helper| {
            let core = meaning::helper(definition, helper, marks);
            ready(core, true, 0)
        });
        let built_in: Vec<Ready> = provided.chain(helpers).collect();
        let functions = built_in
            .iter()
            .map(|ready| ready.is_function.then(|| Rc::clone(&ready.core)))
            .collect();
        let state = definition.state.iter();
        let state = state
            .map(|cell| ready(meaning::initial(definition, cell), false, built_in.len()))
            .collect();
        Prepared {
            inner: Rc::new(Inner {
                built_in,
                functions,
                state,
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

    /// The Core of the built-in functions.
    pub(crate) fn functions(&self) -> &[Option<Rc<FunctionCore>>] {
        &self.inner.functions
    }

    pub(crate) fn built_in(&self) -> &[Ready] {
        &self.inner.built_in
    }

    pub(crate) fn state(&self) -> &[Ready] {
        &self.inner.state
    }

    /// The bytecode of something built-in.
    pub(crate) fn code<'a>(&self, ready: &'a Ready) -> Result<&'a Rc<Function>, Diagnostics> {
        if let Some(code) = ready.code.get() {
            return Ok(code);
        }
        let known = &self.inner.functions[..ready.known];
        let made = bytecode::compile(&ready.core, known, Names::AsNeeded).map_err(|problem| {
            let failure = Failure::at_start(*problem, &ready.core.source);
            Diagnostics::from(failure.diagnostic())
        })?;
        Ok(ready.code.get_or_init(|| Rc::new(made)))
    }
}
