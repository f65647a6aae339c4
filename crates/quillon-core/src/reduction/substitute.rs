//! `body[x := arg]`: every free use of a name replaced, so that no name in what is put in
//! comes to mean something else (H. B. Curry and R. Feys, "Combinatory Logic", 1958). What
//! binds what, the `binds` and `uses` clauses say; a binder that would capture a name gets
//! another one.

use std::cell::OnceCell;

use rustc_hash::{FxHashMap, FxHashSet};

use super::term::{Slot, TermKind, TermPart, Terms, to_tree};
use crate::definition::Definition;
use crate::lexing::Lexer;
use crate::scoping::{Around, BindingId, Names, resolve};
use crate::tree::NodeId;

/// A binder that has got another name.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Renamed {
    /// What it was called.
    pub from: String,
    /// What it is called now.
    pub to: String,
}

/// What the names of a program mean, by the numbers of their tokens: found once it is asked, since most rules
/// replace no names.
pub(super) struct Meant<'a> {
    definition: &'a Definition,
    program: &'a TermPart,
    found: OnceCell<Found>,
}

struct Found {
    names: Names,
    nodes: FxHashMap<u32, NodeId>,
    /// The token that binds each name.
    binders: FxHashMap<BindingId, u32>,
}

impl<'a> Meant<'a> {
    pub fn of(definition: &'a Definition, program: &'a TermPart) -> Meant<'a> {
        Meant {
            definition,
            program,
            found: OnceCell::new(),
        }
    }

    fn found(&self) -> &Found {
        self.found.get_or_init(|| {
            let (tree, nodes) = to_tree(self.definition, self.program);
            let outcome = resolve(self.definition, &tree, Around::Nothing);
            let names = outcome.value.unwrap_or_default();
            let binds = |(&number, &node): (&u32, &NodeId)| {
                let binding = names.binding_of(node)?;
                names.use_of(node).is_none().then_some((binding, number))
            };
            Found {
                binders: nodes.iter().filter_map(binds).collect(),
                names,
                nodes,
            }
        })
    }

    fn binding(&self, token: u32) -> Option<BindingId> {
        let found = self.found();
        found.names.binding_of(*found.nodes.get(&token)?)
    }

    /// Whether a token uses a name.
    fn is_use(&self, token: u32) -> bool {
        let found = self.found();
        let node = found.nodes.get(&token);
        node.is_some_and(|&node| found.names.use_of(node).is_some())
    }

    /// Whether a token is in the program.
    fn has(&self, token: u32) -> bool {
        self.found().nodes.contains_key(&token)
    }

    /// The token that binds what a token means, if that is in the program.
    fn binder(&self, token: u32) -> Option<u32> {
        let binding = self.binding(token)?;
        self.found().binders.get(&binding).copied()
    }
}

/// Puts things in place of names, in one program.
pub(super) struct Substitution<'a> {
    pub definition: &'a Definition,
    pub lexer: &'a Lexer,
    pub terms: &'a Terms,
    /// What names mean before anything is replaced.
    pub meant: &'a Meant<'a>,
}

/// What came of it.
pub(super) struct Substituted {
    pub body: TermPart,
    /// The old number of each token that has been copied.
    pub copied: FxHashMap<u32, u32>,
}

impl Substitution<'_> {
    /// The body with `by` in place of every use of what `name` binds.
    ///
    /// # Errors
    /// Says which use cannot be replaced: one that is only a part of a form.
    pub fn replace(
        &self,
        body: &TermPart,
        name: &TermPart,
        by: &TermPart,
    ) -> Result<Substituted, String> {
        let mut copied = FxHashMap::default();
        let Some(wanted) = self.meant.binding(name.number) else {
            return Ok(Substituted {
                body: body.clone(),
                copied,
            });
        };
        let mut uses = Vec::new();
        self.uses(body, wanted, &mut uses)?;
        let with = uses
            .into_iter()
            .map(|number| (number, self.terms.copy(by, &mut copied)))
            .collect();
        Ok(Substituted {
            body: self.terms.replaced(body, &with),
            copied,
        })
    }

    /// The forms that are uses of a binding.
    fn uses(&self, part: &TermPart, wanted: BindingId, out: &mut Vec<u32>) -> Result<(), String> {
        let Some((form, slots)) = part.form() else {
            return Ok(());
        };
        let own = &self.definition.forms[form];
        let children: Vec<&TermPart> = slots.iter().flat_map(Slot::parts).collect();
        let is_use = |child: &&&TermPart| {
            self.meant.is_use(child.number) && self.meant.binding(child.number) == Some(wanted)
        };
        if let Some(found) = children.iter().find(is_use) {
            if children.len() == 1 {
                out.push(part.number);
                return Ok(());
            }
            let text = match &found.kind {
                TermKind::Token(_, text) => text.to_string(),
                TermKind::Form(..) => String::new(),
            };
            return Err(format!(
                "`{text}` cannot be replaced in form `{}`, which has more than the name",
                own.name.text
            ));
        }
        for child in children {
            self.uses(child, wanted, out)?;
        }
        Ok(())
    }

    /// Renames what would capture a name in something that has been put in; what was
    /// renamed.
    pub fn mend(
        &self,
        mut program: TermPart,
        copied: &FxHashMap<u32, u32>,
    ) -> (TermPart, Vec<Renamed>) {
        let mut renamed = Vec::new();
        if copied.is_empty() {
            return (program, renamed);
        }
        // Each round renames one binder, of which there are not more than tokens.
        for _ in 0..=copied.len() {
            let now = Meant::of(self.definition, &program);
            let Some(binder) = self.capturing(&now, copied) else {
                break;
            };
            let Some((new, change)) = self.rename(&program, &now, copied, binder) else {
                break;
            };
            renamed.push(change);
            program = new;
        }
        (program, renamed)
    }

    /// A binder that a name in something put in has come to mean, and did not before.
    fn capturing(&self, now: &Meant<'_>, copied: &FxHashMap<u32, u32>) -> Option<u32> {
        let mut tokens: Vec<u32> = copied.keys().copied().collect();
        tokens.sort_unstable();
        let mut captured = tokens
            .into_iter()
            .map(|token| self.captured(now, copied, token));
        captured.find_map(|binder| binder)
    }

    /// The binder that a token has come to mean, if it meant another before it was put in.
    fn captured(&self, now: &Meant<'_>, copied: &FxHashMap<u32, u32>, token: u32) -> Option<u32> {
        if !now.has(token) {
            return None;
        }
        let before = self.meant.binder(*copied.get(&token)?);
        let binder = now.binder(token)?;
        // A binder that was put in as well belongs to the name.
        let origin = copied.get(&binder).copied().unwrap_or(binder);
        (before != Some(origin) && before != Some(binder)).then_some(binder)
    }

    /// Gives a binder another name, with all that it bound before.
    fn rename(
        &self,
        program: &TermPart,
        now: &Meant<'_>,
        copied: &FxHashMap<u32, u32>,
        binder: u32,
    ) -> Option<(TermPart, Renamed)> {
        let binding = now.binding(binder)?;
        let mut taken = FxHashSet::default();
        let mut own = Vec::new();
        let mut waiting = vec![program];
        while let Some(part) = waiting.pop() {
            match &part.kind {
                TermKind::Form(_, slots) => waiting.extend(slots.iter().flat_map(Slot::parts)),
                TermKind::Token(kind, text) => {
                    taken.insert(text.to_string());
                    let is_bound = now.binding(part.number) == Some(binding);
                    if is_bound && self.captured(now, copied, part.number).is_none() {
                        own.push((part.number, *kind, text.to_string()));
                    }
                }
            }
        }
        let (_, kind, from) = own.iter().find(|(number, ..)| *number == binder)?.clone();
        let mark = self.definition.renames.as_deref();
        let to = fresh(self.lexer, kind, &from, mark, &taken)?;
        let with = own
            .into_iter()
            .map(|(number, kind, _)| (number, self.terms.token(kind, &to)))
            .collect();
        Some((self.terms.replaced(program, &with), Renamed { from, to }))
    }
}

/// A name like another that nothing in the program is called: with the definition's mark behind it,
/// if it has one that can stand in a name.
fn fresh(
    lexer: &Lexer,
    kind: crate::lexing::KindId,
    from: &str,
    mark: Option<&str>,
    taken: &FxHashSet<String>,
) -> Option<String> {
    let stem = from.trim_end_matches(|c: char| c.is_ascii_digit());
    let numbered = (2..1000).map(|number| format!("{stem}{number}"));
    let repeated = (2..40).map(|times| from.repeat(times));
    let letters = ('a'..='z').map(|letter| format!("{from}{letter}"));
    let single = ('a'..='z').map(|letter| letter.to_string());
    let marks = mark
        .into_iter()
        .flat_map(|mark| (1..40).map(move |times| mark.repeat(times)));
    let marked = marks.map(|marks| format!("{from}{marks}"));
    let mut choices = marked
        .chain(numbered)
        .chain(repeated)
        .chain(letters)
        .chain(single);
    choices.find(|text| !taken.contains(text) && lexer.is_one(kind, text))
}
