//! Forms with several clauses: the first that fits counts, as soon as enough is known.

use super::checker::TypeChecker;
use super::judge::Misfit;
use super::store::{Fit, TypeId};
use crate::definition::{Form, Typed};
use crate::tree::NodeId;

/// A node of whose clauses several still fit.
#[derive(Debug)]
pub(super) struct Waiting<'a> {
    pub id: NodeId,
    pub form: &'a Form,
    pub clauses: Vec<&'a Typed>,
    /// The type of what it gives.
    pub given: TypeId,
}

impl TypeChecker<'_> {
    /// Settles the latest of the nodes that wait, if nothing in it is open.
    pub(super) fn settle_last(&mut self) {
        let Some(last) = self.waiting.last() else {
            return;
        };
        let (id, form) = (last.id, last.form);
        let fields = 0..form.fields.len();
        let children: Vec<NodeId> = fields
            .flat_map(|f| self.tree.children(id, f))
            .copied()
            .collect();
        let settled = children.into_iter().all(|child| {
            let own = self.of_child(child);
            self.store.is_settled(own)
        });
        let at = self.waiting.len() - 1;
        let fitting = self.fitting(at);
        if settled || fitting.len() < 2 {
            self.take(at, fitting.first().copied());
        }
    }

    /// Settles the nodes that wait, from one on: those first that fit one clause only, then
    /// the others by the first of their clauses that fits.
    pub fn settle(&mut self, from: usize) {
        while self.waiting.len() > from {
            let mut settled = false;
            let mut at = from;
            while at < self.waiting.len() {
                let fitting = self.fitting(at);
                if fitting.len() < 2 {
                    self.take(at, fitting.first().copied());
                    settled = true;
                } else {
                    at += 1;
                }
            }
            if !settled && self.waiting.len() > from {
                let fitting = self.fitting(from);
                self.take(from, fitting.first().copied());
            }
        }
    }

    /// The clauses that a node that waits can be judged by.
    fn fitting(&mut self, at: usize) -> Vec<usize> {
        let Waiting {
            id,
            form,
            ref clauses,
            given,
        } = self.waiting[at];
        let clauses = clauses.clone();
        let fits = |&number: &usize| {
            let mark = self.store.mark();
            let misfits = self.judge_by(form, id, clauses[number], given);
            self.store.undo(mark);
            misfits.is_empty()
        };
        (0..clauses.len()).filter(fits).collect()
    }

    /// Judges a node that waits by one of its clauses, and reports it if there is none.
    fn take(&mut self, at: usize, clause: Option<usize>) {
        let waiting = self.waiting.remove(at);
        match clause {
            Some(number) => {
                self.chosen.insert(waiting.id, number);
                let clause = waiting.clauses[number];
                self.judge_by(waiting.form, waiting.id, clause, waiting.given);
            }
            None => self.report_choice(&waiting),
        }
    }

    fn judge_by(&mut self, form: &Form, id: NodeId, clause: &Typed, given: TypeId) -> Vec<Misfit> {
        let mut meant = self.sequences(form, id, clause);
        let mut misfits = Vec::new();
        for &(at, of) in self.order(clause, form).iter() {
            let judgment = &clause.judgments[at];
            let subject = &judgment.subjects[of];
            misfits.extend(self.judge(form, id, judgment, subject, &mut meant));
            if !misfits.is_empty() {
                return misfits;
            }
        }
        let own = self.given_by(clause.gives.as_ref(), form, id, &mut meant);
        if let Err(clash) = self.store.relate(own, given, Fit::Same) {
            misfits.push(Misfit {
                node: id,
                found: own,
                wanted: given,
                clash,
            });
        }
        misfits
    }
}
