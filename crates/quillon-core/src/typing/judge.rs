//! The judgments of one node: its `typed` clause, with the node's own fields put in.

use std::rc::Rc;

use super::checker::TypeChecker;
use super::choice::Waiting;
use super::derived::last_field;
use super::store::{Clash, Fit, How, Origin, TypeId};
use super::terms::{Meanings, Meant, named};
use crate::definition::{
    Count, Definition, Form, Judgment, Name, Subject, TypeTerm, TypeTermKind as K, Typed, Uses,
};
use crate::tree::{NodeId, Tree};

/// A node that is being judged.
#[derive(Debug)]
pub(super) struct Judging<'a> {
    id: NodeId,
    form: &'a Form,
    index: usize,
    /// The clauses that could count.
    clauses: Vec<&'a Typed>,
    meant: Meanings,
    /// The judgments of the only clause that are made already, with the subject's number.
    made: Vec<(usize, usize)>,
    /// Whether landings and jumps have been seen to.
    connected: bool,
}

/// Two types that do not go together, and where.
#[derive(Clone, Copy, Debug)]
pub(super) struct Misfit {
    pub node: NodeId,
    pub found: TypeId,
    pub wanted: TypeId,
    pub clash: Clash,
}

/// A subject of a judgment: a child with its type, and how it has to fit.
#[derive(Clone, Copy, Debug)]
struct Judged {
    node: NodeId,
    found: TypeId,
    fit: Fit,
}

impl<'a> TypeChecker<'a> {
    pub fn begin_judging(&mut self, form: &'a Form, id: NodeId) -> Judging<'a> {
        let tree = self.tree;
        let clauses: Vec<&Typed> = counting(form, tree, id).collect();
        let meant = match clauses[..] {
            [only] => self.sequences(form, id, only),
            _ => Vec::new(),
        };
        Judging {
            id,
            form,
            index: tree.form(id).unwrap_or_default(),
            clauses,
            meant,
            made: Vec::new(),
            connected: false,
        }
    }

    /// Types for the capitals that stand for as many as a repeated field has children.
    pub(super) fn sequences(&mut self, form: &Form, id: NodeId, typed: &Typed) -> Meanings {
        let is_repeated = |name: &Name| {
            let field = form.field_index(&name.text);
            field.is_some_and(|field| form.fields[field].count == Count::Many)
        };
        let mut meant = Vec::new();
        for judgment in &typed.judgments {
            let K::Capital(capital) = &judgment.wanted.kind else {
                continue;
            };
            if !typed.is_sequence(capital, is_repeated) || named(&meant, capital).is_some() {
                continue;
            }
            let counts = judgment
                .subjects
                .iter()
                .map(|s| self.nodes(form, id, s).len());
            let count = counts.max().unwrap_or(0);
            let fresh = (0..count).map(|_| self.store.fresh(self.level)).collect();
            meant.push((capital.clone(), Meant::Many(fresh)));
        }
        meant
    }

    /// The children that a subject speaks of.
    fn nodes(&self, form: &Form, id: NodeId, subject: &Subject) -> Vec<NodeId> {
        let Some(field) = form.field_index(&subject.name().text) else {
            return Vec::new();
        };
        let children = self.tree.children(id, field);
        match subject {
            Subject::Name(_) => children.to_vec(),
            Subject::Part(_, part) => self.tree.parts(self.definition, children, &part.text),
        }
    }

    /// The order in which the judgments of a clause are made.
    pub(super) fn order(&mut self, clause: &Typed, form: &Form) -> Rc<[(usize, usize)]> {
        let definition = self.definition;
        let known = self.orders.entry(clause.span.start);
        Rc::clone(known.or_insert_with(|| order(definition, clause, form).into()))
    }

    /// Makes the judgments of fields that pass, if there is one clause only.
    pub fn judge_fields(&mut self, judging: &mut Judging<'a>, which: impl Fn(usize) -> bool) {
        let [clause] = judging.clauses[..] else {
            return;
        };
        for &(at, of) in self.order(clause, judging.form).iter() {
            let judgment = &clause.judgments[at];
            let subject = &judgment.subjects[of];
            let field = judging.form.field_index(&subject.name().text);
            if field.is_some_and(|field| !which(field)) || judging.made.contains(&(at, of)) {
                continue;
            }
            judging.made.push((at, of));
            let (form, id) = (judging.form, judging.id);
            for misfit in self.judge(form, id, judgment, subject, &mut judging.meant) {
                self.report(&misfit);
            }
        }
    }

    /// Brings what jumps, and what a landing's body gives, together; once.
    pub fn connect(&mut self, judging: &mut Judging<'a>) {
        if std::mem::replace(&mut judging.connected, true) {
            return;
        }
        let Judging {
            id, form, index, ..
        } = *judging;
        let clauses = std::mem::take(&mut judging.clauses);
        self.reach_landings(form, index, id, &clauses, &mut judging.meant);
        self.follow_jumps(form, index, id);
        judging.clauses = clauses;
    }

    /// Makes all judgments that are left, and gives the node's type.
    pub fn finish_judging(&mut self, mut judging: Judging<'a>) -> TypeId {
        self.judge_fields(&mut judging, |_| true);
        self.connect(&mut judging);
        let Judging {
            id,
            form,
            clauses,
            mut meant,
            ..
        } = judging;
        if let Some(denotes) = &form.denotes {
            let origin = Origin {
                node: id,
                how: How::Declared,
            };
            return self.term(denotes, Some((form, id)), &mut meant, origin);
        }
        match clauses[..] {
            [] => self.given_by(None, form, id, &mut meant),
            [only] => self.given_by(only.gives.as_ref(), form, id, &mut meant),
            _ => {
                let given = self.store.fresh(self.level);
                self.waiting.push(Waiting {
                    id,
                    form,
                    clauses,
                    given,
                });
                self.settle_last();
                given
            }
        }
    }

    /// The type that a form gives: what its clause says, or what follows from its meaning.
    pub(super) fn given_by(
        &mut self,
        said: Option<&TypeTerm>,
        form: &Form,
        id: NodeId,
        meant: &mut Meanings,
    ) -> TypeId {
        let origin = Origin {
            node: id,
            how: How::Gives,
        };
        match (said, &*form.means) {
            (Some(said), _) => self.term(said, Some((form, id)), meant, origin),
            (None, Some(meaning)) => self.derived(meaning, form, id),
            (None, None) => self.store.any(None),
        }
    }

    /// What a landing's body ends in is among what the landing gives.
    fn reach_landings(
        &mut self,
        form: &Form,
        index: usize,
        id: NodeId,
        clauses: &[&Typed],
        meant: &mut Meanings,
    ) {
        let own = self.outlines[index].landings.clone();
        let first = self.landings.len() - own.len();
        for (at, landing) in own.into_iter().enumerate() {
            let landed = self.landings[first + at].1;
            let field = last_field(landing.body);
            let judged = clauses.first().filter(|_| clauses.len() == 1);
            let said = judged.and_then(|clause| {
                let mut judgments = clause.judgments.iter();
                let about = |subject: &Subject| matches!(subject, Subject::Name(name) if Some(name.text.as_str()) == field);
                judgments.find(|judgment| judgment.subjects.iter().any(about))
            });
            let origin = Origin {
                node: id,
                how: How::Wants,
            };
            let (found, fit) = match said {
                Some(judgment) => {
                    let at = Some((form, id));
                    let said = self.term(&judgment.wanted, at, meant, origin);
                    (said, Fit::Same)
                }
                None => (self.derived(landing.body, form, id), Fit::Accepted),
            };
            if let Err(clash) = self.store.relate(found, landed, fit) {
                let field = field.and_then(|field| form.field_index(field));
                let child = field.and_then(|field| self.tree.children(id, field).last().copied());
                self.report(&Misfit {
                    node: child.unwrap_or(id),
                    found,
                    wanted: landed,
                    clash,
                });
            }
        }
    }

    /// Makes one judgment about one subject.
    pub(super) fn judge(
        &mut self,
        form: &Form,
        id: NodeId,
        judgment: &Judgment,
        subject: &Subject,
        meant: &mut Meanings,
    ) -> Vec<Misfit> {
        let mut misfits = Vec::new();
        for (number, judged) in self
            .judged(form, id, subject, meant)
            .into_iter()
            .enumerate()
        {
            let origin = Origin {
                node: judged.node,
                how: How::Wants,
            };
            let one = match &judgment.wanted.kind {
                K::Capital(capital) => match named(meant, capital) {
                    Some(Meant::Many(types)) => types.get(number).copied(),
                    _ => None,
                },
                _ => None,
            };
            let wanted = match one {
                Some(one) => one,
                None => self.term(&judgment.wanted, Some((form, id)), meant, origin),
            };
            if let Err(clash) = self.store.relate(judged.found, wanted, judged.fit) {
                misfits.push(Misfit {
                    node: judged.node,
                    found: judged.found,
                    wanted,
                    clash,
                });
            }
        }
        misfits
    }

    /// What a subject speaks of, with the types there are.
    fn judged(
        &mut self,
        form: &Form,
        id: NodeId,
        subject: &Subject,
        meant: &mut Meanings,
    ) -> Vec<Judged> {
        if let Subject::Name(name) = subject
            && let Some(binding) = self.names.unwritten(form, id, &name.text)
        {
            let found = self.own_type(binding);
            return vec![Judged {
                node: id,
                found,
                fit: Fit::Same,
            }];
        }
        if let Subject::Name(name) = subject
            && form.field_index(&name.text).is_none()
        {
            let found = self.capital(&name.text, meant);
            return vec![Judged {
                node: id,
                found,
                fit: Fit::Accepted,
            }];
        }
        let mut all = Vec::new();
        for node in self.nodes(form, id, subject) {
            let denotes = self.tree.form(node).is_some_and(|index| {
                let form = &self.definition.forms[index];
                form.denotes.is_some()
            });
            let own = self.names.binding_of(node).filter(|_| {
                let used = self.names.use_of(node);
                used.is_none_or(|used| used.changes)
            });
            let (found, fit) = match own {
                Some(binding) => (self.settled_type(binding, node), Fit::Same),
                None if denotes => (self.visit(node), Fit::Same),
                None => (self.of_child(node), Fit::Accepted),
            };
            all.push(Judged { node, found, fit });
        }
        all
    }

    /// The type of a binding where it is bound or changed.
    fn settled_type(&mut self, binding: crate::scoping::BindingId, node: NodeId) -> TypeId {
        if self.names.binding(binding).span.is_none() {
            let origin = Origin {
                node,
                how: How::Gives,
            };
            return self.used_type(binding, origin);
        }
        self.own_type(binding)
    }
}

/// The clauses of a form whose optional fields are there, or not, as they ask.
pub(super) fn counting<'f>(
    form: &'f Form,
    tree: &Tree,
    id: NodeId,
) -> impl Iterator<Item = &'f Typed> {
    let holds = move |typed: &&Typed| {
        typed.given.iter().all(|(name, there)| {
            let field = form.field_index(&name.text);
            field.is_some_and(|field| tree.children(id, field).is_empty() != *there)
        })
    };
    form.typed.iter().filter(holds)
}

/// The order in which the judgments of a clause are made, with the number of the subject:
/// first names that are bound or changed and annotations, which say what a type is; then
/// capitals and functions, which say what is wanted; then the others.
fn order(definition: &Definition, clause: &Typed, form: &Form) -> Vec<(usize, usize)> {
    let rank = |judgment: usize, subject: &Subject| {
        let name = &subject.name().text;
        let is_function = matches!(clause.judgments[judgment].wanted.kind, K::Function(..));
        if form.field_index(name).is_none() || is_function {
            1
        } else if matches!(subject, Subject::Part(..)) || is_declared(definition, form, name) {
            0
        } else {
            2
        }
    };
    let mut all = Vec::new();
    for (at, judgment) in clause.judgments.iter().enumerate() {
        for (of, subject) in judgment.subjects.iter().enumerate() {
            all.push((rank(at, subject), at, of));
        }
    }
    all.sort_unstable();
    all.into_iter().map(|(_, at, of)| (at, of)).collect()
}

/// The fields that say what a type is, where one of them is an annotation; otherwise none.
pub(super) fn declared_fields(definition: &Definition, form: &Form) -> Rc<[bool]> {
    let fields = form.fields.iter();
    let declared: Vec<bool> = fields
        .map(|field| is_declared(definition, form, &field.name.text))
        .collect();
    let has_annotation = form.fields.iter().any(|field| {
        let mut forms = definition.forms_of(&field.things).into_iter();
        forms.any(|form| form.denotes.is_some())
    });
    declared
        .into_iter()
        .map(|is| is && has_annotation)
        .collect()
}

/// Whether a field says what a type is: a name that the form binds or changes, or an
/// annotation.
fn is_declared(definition: &Definition, form: &Form, name: &str) -> bool {
    let binds = form.binds.iter().any(|clause| clause.field.text == name);
    let changes = |u: &Uses| u.field.text == name && u.to_change;
    let denotes = |field: usize| {
        let mut forms = definition.forms_of(&form.fields[field].things).into_iter();
        forms.any(|form| form.denotes.is_some())
    };
    binds || form.uses.iter().any(changes) || form.field_index(name).is_some_and(denotes)
}
