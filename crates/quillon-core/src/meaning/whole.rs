//! The Core of whole programs, of what is built in, and of what cells hold at first.

use super::core::{FunctionCore, Marks};
use super::function::{Finished, Places, fresh};
use super::instantiate::Maker;
use crate::definition::{Definition, Helper, Provided, StateCell};
use crate::diagnostic::Outcome;
use crate::lexing::Lexer;
use crate::scoping::{BindingId, Names};
use crate::tree::Tree;

/// The Core of a program: a function without parameters.
pub fn program(
    definition: &Definition,
    lexer: &Lexer,
    tree: &Tree,
    names: &Names,
) -> Outcome<FunctionCore> {
    make(
        Maker::new(definition, tree.source(), Some((lexer, tree, names))),
        None,
    )
}

/// The same, with marks for those who watch.
pub fn marked(
    definition: &Definition,
    lexer: &Lexer,
    tree: &Tree,
    names: &Names,
    marks: Marks,
) -> Outcome<FunctionCore> {
    let mut maker = Maker::new(definition, tree.source(), Some((lexer, tree, names)));
    maker.marks = marks;
    make(maker, None)
}

/// Where the variables of a program's bindings are kept; of those that have a slot.
pub fn places(definition: &Definition, lexer: &Lexer, tree: &Tree, names: &Names) -> Places {
    let mut maker = Maker::new(definition, tree.source(), Some((lexer, tree, names)));
    maker.functions.enter();
    maker.node(tree.root());
    let places = maker.variables.iter();
    let places = places.map(|(&binding, &variable)| (binding, maker.functions.place(variable)));
    Places(places.collect())
}

/// The Core of a program that gives a map of some of its variables.
pub fn module(
    definition: &Definition,
    lexer: &Lexer,
    tree: &Tree,
    names: &Names,
    exports: &[BindingId],
) -> Outcome<FunctionCore> {
    let maker = Maker::new(definition, tree.source(), Some((lexer, tree, names)));
    make(maker, Some(exports))
}

fn make(mut maker: Maker<'_>, exports: Option<&[BindingId]>) -> Outcome<FunctionCore> {
    let Some((_, tree, _)) = maker.program else {
        return Outcome {
            value: None,
            diagnostics: maker.diagnostics,
        };
    };
    let name = exports.map(|_| format!("the program {}", tree.source().name()));
    maker.functions.enter();
    maker.exports = exports.iter().copied().flatten().copied().collect();
    let mut body = maker.node(tree.root());
    if let Some(exports) = exports {
        let parts = vec![body, maker.exported(exports)];
        let slots = std::mem::take(&mut maker.exported_slots);
        body = fresh(slots, parts, tree.node(tree.root()).span);
    }
    let finished = maker.functions.leave(Finished {
        name: name.as_deref(),
        params: &[],
        rest: false,
        body,
        source: tree.source(),
        built_in: false,
    });
    let failed = crate::diagnostic::has_errors(&maker.diagnostics);
    Outcome {
        value: (!failed).then_some(finished),
        diagnostics: maker.diagnostics,
    }
}

/// The Core of a built-in function, or of the value of a constant.
pub(super) fn built_in(definition: &Definition, provided: &Provided, marks: Marks) -> FunctionCore {
    let params = provided.params.as_deref().unwrap_or_default();
    let name = Some(provided.name.text.as_str());
    let mut maker = Maker::new(definition, &definition.source, None);
    maker.marks = marks;
    maker.of_definition(name, params, provided.rest, &provided.means)
}

/// The Core of a helper that is a function of its own.
pub fn helper(definition: &Definition, helper: &Helper, marks: Marks) -> FunctionCore {
    let name = Some(helper.name.text.as_str());
    let mut maker = Maker::new(definition, &definition.source, None);
    maker.marks = marks;
    maker.of_definition(name, &helper.params, false, &helper.body)
}

/// The Core of what a cell of the state holds at first.
pub(crate) fn initial(definition: &Definition, cell: &StateCell) -> FunctionCore {
    let maker = Maker::new(definition, &definition.source, None);
    maker.of_definition(None, &[], false, &cell.initial)
}
