//! What one program touches.

use rustc_hash::FxHashSet;

use super::super::engines::Trial;
use super::super::touched::Touched;
use super::Survey;
use super::items::Times;
use crate::definition::Count;
use crate::diagnostic::Diagnostic;
use crate::tree::{NodeId, Tree};

impl Survey {
    /// The items that a program touches.
    pub(super) fn touched(&self, trial: &Trial<'_>) -> FxHashSet<usize> {
        let mut found = FxHashSet::default();
        let language = trial.language();
        let mut errors: Vec<Diagnostic> = Vec::new();
        if trial.tree.is_none() {
            let tokens = language.all_tokens(&trial.program);
            errors.extend(tokens.diagnostics);
            if let Some(tokens) = tokens.value {
                let all = tokens.tokens.iter().chain(&tokens.ignored);
                found.extend(all.filter_map(|token| self.index.tokens.get(&token.kind)));
            }
            let parsed = language.tree(&trial.program, trial.reading());
            errors.extend(parsed.diagnostics);
            if let Some(tree) = parsed.value {
                self.in_grammar(trial, &mut found);
                self.in_tree(&tree, &mut found);
            }
        }
        if language.lacks(crate::Stage::Meaning).is_none() {
            let mut branches = Touched::default();
            errors.extend(trial.touch(&mut branches));
            found.extend(branches.0.iter().filter_map(|s| self.index.branches.get(s)));
        }
        for error in errors.iter().filter(|error| error.is_error()) {
            let keys = [error.code.0, &error.message];
            found.extend(keys.iter().filter_map(|key| self.index.messages.get(*key)));
        }
        found
    }

    /// The forms and the ways that reading it takes.
    fn in_grammar(&self, trial: &Trial<'_>, found: &mut FxHashSet<usize>) {
        let language = trial.language();
        let (Some(parser), Some(tokens)) = (
            language.parser(),
            language.lexer().tokens(&trial.program).value,
        ) else {
            return;
        };
        let names = self.language.surface_names().skip(1);
        let mut surfaces = names.map(|name| self.language.surface(name));
        let surface = surfaces.position(|known| known.is_some_and(|known| known.is(language)));
        let entries = 0..parser.entries().count();
        let mut used =
            entries.filter_map(|entry| parser.used(language.definition(), &tokens, entry));
        for id in used.next().unwrap_or_default() {
            let production = &parser.grammar().productions[id as usize];
            let Some(form) = production.form else {
                continue;
            };
            let here = surface.and_then(|surface| self.index.surfaces.get(&(surface, form)));
            found.extend(here);
            if production.node {
                found.extend(self.index.forms.get(&form));
            }
            // The ways of a form are those of its own `written`.
            let ways = production.choices.iter().filter(|_| here.is_none());
            found.extend(
                ways.filter_map(|(choice, way)| self.index.ways.get(&(form, *choice, *way))),
            );
        }
    }

    /// The repetitions and the operators side by side in its tree.
    fn in_tree(&self, tree: &Tree, found: &mut FxHashSet<usize>) {
        let definition = self.language.definition();
        let mut work = vec![tree.root()];
        while let Some(node) = work.pop() {
            let Some(form) = tree.form(node) else {
                continue;
            };
            for (at, field) in definition.forms[form].fields.iter().enumerate() {
                let children = tree.children(node, at);
                if field.count == Count::Many {
                    let times = match children.len() {
                        0 => Times::None,
                        1 => Times::One,
                        _ => Times::Several,
                    };
                    found.extend(self.index.times.get(&(form, at, times)));
                }
                for &child in children {
                    found.extend(self.pair(tree, node, child));
                    work.push(child);
                }
            }
        }
    }

    /// An operator whose operand is another that binds as tightly or more: side by side
    /// without brackets.
    fn pair(&self, tree: &Tree, node: NodeId, child: NodeId) -> Option<usize> {
        let definition = self.language.definition();
        let level = |node: NodeId| {
            let form = &definition.forms[tree.form(node)?];
            definition.level_of(&form.name.text)
        };
        let ((table, outer, _), (other, inner, _)) = (level(node)?, level(child)?);
        let key = (table, outer, inner);
        self.index
            .pairs
            .get(&key)
            .filter(|_| table == other)
            .copied()
    }
}
