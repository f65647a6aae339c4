//! Goes from step to step, until a program is finished or no rule can be used.

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::rules::{Rules, Unused};
use super::substitute::{Meant, Renamed, Substitution};
use super::term::{Path, TermPart, Terms, to_tree};
use super::{Bounds, Ended, Kept, Marks, Reduction, Shown};
use crate::language::{Language, Reading};
use crate::native_stack::deepest_tree;
use crate::printing::{Brackets, Comments};
use crate::source::{SourceText, Span};
use crate::tree::{NodeId, Tree};

/// What is to be done next.
enum Next {
    /// A form at the end of a path is replaced.
    Replaced(Box<Replaced>),
    /// It is finished.
    Done,
    /// No rule can be used on the form at the end of a path, for these reasons.
    Stuck(Path, Vec<String>),
}

impl Next {
    /// The way to what is next, if there is something.
    fn path(&self) -> Option<&Path> {
        match self {
            Next::Replaced(replaced) => Some(&replaced.path),
            Next::Stuck(path, _) => Some(path),
            Next::Done => None,
        }
    }
}

struct Replaced {
    path: Path,
    program: TermPart,
    by: String,
    renamed: Vec<Renamed>,
}

/// Reduces a program step by step.
pub(super) struct Reducer<'a> {
    language: &'a Language,
    reading: Reading<'a>,
    terms: Terms,
}

impl<'a> Reducer<'a> {
    pub fn new(language: &'a Language, reading: Reading<'a>) -> Reducer<'a> {
        Reducer {
            language,
            reading,
            terms: Terms::default(),
        }
    }

    /// Reduces a tree within bounds.
    pub fn reduce(&self, tree: &Tree, bounds: Bounds) -> Reduction {
        let mut program = self.terms.of_tree(tree, tree.root());
        let mut steps: Vec<Shown> = Vec::new();
        let mut seen: FxHashMap<u128, usize> = FxHashMap::default();
        let mut made: Option<Box<Replaced>> = None;
        let mut number = 0;
        loop {
            let next = self.next(&program);
            let before = seen.insert(program.key(), number);
            let ended = ended(&next, before, number, bounds);
            if ended.is_some() || bounds.kept == Kept::Every {
                steps.push(self.shown(&program, made.take(), next.path()));
            }
            if let Some(ended) = ended {
                let last = to_tree(self.language.definition(), &program).0;
                return Reduction { steps, ended, last };
            }
            if let Next::Replaced(replaced) = next {
                program = Rc::clone(&replaced.program);
                made = Some(replaced);
            }
            number += 1;
        }
    }

    /// A program as it is shown: what made it, and where the next step is made.
    fn shown(
        &self,
        program: &TermPart,
        made: Option<Box<Replaced>>,
        will_change: Option<&Path>,
    ) -> Shown {
        let changed = made.as_ref().map(|made| &made.path);
        let (text, marks) = self.text(program, changed, will_change);
        let (by, renamed) = made.map(|made| (made.by, made.renamed)).unzip();
        Shown {
            text,
            marks,
            by,
            renamed: renamed.unwrap_or_default(),
        }
    }

    /// The text of a program, with the parts at the ends of two paths in it.
    fn text(
        &self,
        program: &TermPart,
        changed: Option<&Path>,
        will_change: Option<&Path>,
    ) -> (String, Marks) {
        let (tree, _) = to_tree(self.language.definition(), program);
        let printed = self
            .language
            .source_of(&tree, Brackets::Fewest, &Comments::default());
        let Some(text) = printed else {
            return (tree.source().text().trim_end().to_owned(), Marks::default());
        };
        let text = text.trim_end().to_owned();
        let source: Arc<SourceText> = SourceText::new("step", text.clone());
        let again = self.language.tree(&source, self.reading).value;
        let at = |path: Option<&Path>| -> Option<Span> {
            let again = again.as_ref()?;
            let node = same_place(&tree, again, path?)?;
            Some(again.node(node).span)
        };
        let marks = Marks {
            changed: at(changed),
            will_change: at(will_change),
        };
        (text, marks)
    }

    fn next(&self, program: &TermPart) -> Next {
        let rules = Rules {
            definition: self.language.definition(),
            lexer: self.language.lexer(),
            terms: &self.terms,
        };
        let mut path = Path::new();
        let mut at = Rc::clone(program);
        // Down to the first part that is to be reduced and is not finished.
        'down: loop {
            if rules.is_value(&at) {
                return Next::Done;
            }
            let Some((index, slots)) = at.form() else {
                return Next::Done;
            };
            let form = &rules.definition.forms[index];
            for field in &form.reduces_in {
                let Some(field) = form.field_index(&field.text) else {
                    continue;
                };
                let children = slots[field].parts().iter().enumerate();
                let mut open = children.filter(|(_, child)| !rules.is_value(child));
                if let Some((number, child)) = open.next() {
                    path.push((field, number));
                    let child = Rc::clone(child);
                    at = child;
                    continue 'down;
                }
            }
            break;
        }
        self.at_end(&rules, program, path, &at)
    }

    fn at_end(&self, rules: &Rules<'a>, program: &TermPart, path: Path, at: &TermPart) -> Next {
        let definition = self.language.definition();
        let Some((index, _)) = at.form() else {
            return Next::Done;
        };
        let form = &definition.forms[index];
        let meant = Meant::of(definition, program);
        let mut why = Vec::new();
        for rule in &form.rules {
            let words = definition.source.slice(rule.span).split_whitespace();
            let text = words.collect::<Vec<_>>().join(" ");
            match rules.apply(rule, at, &meant) {
                Ok(made) => {
                    let with = [(at.number, made.part)].into_iter().collect();
                    let program = self.terms.replaced(program, &with);
                    let substitution = Substitution {
                        definition,
                        lexer: self.language.lexer(),
                        terms: &self.terms,
                        meant: &meant,
                    };
                    let (program, renamed) = substitution.mend(program, &made.copied);
                    return Next::Replaced(Box::new(Replaced {
                        path,
                        program,
                        by: format!("{}: {text}", form.name.text),
                        renamed,
                    }));
                }
                Err(Unused::Fits(reason)) => why.push(format!("`{text}` does not fit: {reason}")),
                Err(Unused::Fails(reason)) => {
                    why.push(format!("`{text}` fits, and cannot be done: {reason}"));
                    break;
                }
            }
        }
        if why.is_empty() {
            let name = &form.name.text;
            why.push(format!("form `{name}` is no value, and has no rule"));
        }
        Next::Stuck(path, why)
    }
}

/// How a reduction has ended, if it has: after so many steps, with a program that has been there `before`.
fn ended(next: &Next, before: Option<usize>, number: usize, bounds: Bounds) -> Option<Ended> {
    match next {
        Next::Done => Some(Ended::Value),
        Next::Stuck(_, why) => Some(Ended::Stuck(why.clone())),
        Next::Replaced(_) if before.is_some() => before.map(Ended::Cycle),
        Next::Replaced(_) if number >= bounds.steps => Some(Ended::Limit),
        Next::Replaced(replaced) if replaced.program.is_larger(bounds.parts) => {
            Some(Ended::Size(bounds.parts))
        }
        // What is done with a program goes down it with the native stack.
        Next::Replaced(replaced) if replaced.program.depth > deepest_tree() => {
            Some(Ended::Depth(deepest_tree()))
        }
        Next::Replaced(_) => None,
    }
}

/// The node at the end of a path, if it is the same way there in both trees.
fn same_place(tree: &Tree, again: &Tree, path: &Path) -> Option<NodeId> {
    let (mut here, mut there) = (tree.root(), again.root());
    for &(field, number) in path {
        if tree.node(here).what != again.node(there).what {
            return None;
        }
        here = *tree.children(here, field).get(number)?;
        there = *again.children(there, field).get(number)?;
    }
    Some(there)
}
