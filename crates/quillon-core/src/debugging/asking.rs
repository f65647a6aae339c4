//! Texts that are worked out where a run stands still: on copies, or with what they do to the run.

use std::rc::Rc;

use super::known::Known;
use super::names::{Named, own_set};
use crate::diagnostic::{Diagnostics, Outcome};
use crate::machine::{Leader, Loaded, Until, View, Way, Why};
use crate::scoping::Kept;
use crate::session::{Answer, Question, SessionBuilder};
use crate::values::{Held, Value};

/// A text with the names around it.
pub(super) struct Asked {
    question: Rc<Question>,
    /// What is kept under each name, as the session has it while the text is worked out.
    around: Vec<Value>,
    /// The variables of the call, which come last there.
    own: Vec<Named>,
}

/// A text that has been carried out.
pub(super) struct Carried {
    pub question: Rc<Question>,
    /// What it was run as, and other programs that it has loaded.
    pub programs: Vec<Rc<Loaded>>,
}

impl Asked {
    /// A text where a call stands, by its number from the innermost on.
    ///
    /// # Errors
    /// What is wrong with it.
    pub fn new(
        view: &View<'_, '_>,
        builder: &SessionBuilder,
        known: &Known,
        call: usize,
        text: &str,
    ) -> Result<Asked, Diagnostics> {
        // Functions know what the session keeps by where it is, so that stays where it is. What the run will
        // keep has its place, too.
        let session = &view.memory().session;
        let last = known.kept.values().max();
        let count = session.len().max(last.map_or(0, |slot| slot + 1));
        let nameless = Kept {
            name: String::new(),
            fixed: true,
            dynamic: false,
            space: String::new(),
            awaited: false,
        };
        let mut names = vec![nameless; count];
        for (name, slot) in &known.kept {
            if let Some(kept) = known.bound.get(name) {
                names[*slot].clone_from(kept);
            }
        }
        let mut around = session.clone();
        around.resize(count, Value::Unset);
        // Each of them is one that programs bind.
        let own = own_set(view, known, call);
        names.extend(own.iter().map(|one| known.bound[&one.name].clone()));
        around.extend(own.iter().map(Named::kept));
        let question = known.question(builder, names, text)?;
        Ok(Asked {
            question,
            around,
            own,
        })
    }

    /// What it comes to on copies, so that the run stays as it is, and without anything outside.
    ///
    /// # Errors
    /// What goes wrong in it, or that something cannot be copied.
    pub fn answer(self, view: &View<'_, '_>) -> Result<Answer, Diagnostics> {
        self.question.answer(view.memory(), self.around)
    }

    /// Whether it can be carried out.
    ///
    /// # Errors
    /// It is too large.
    pub fn is_ready(&self, view: &View<'_, '_>) -> Result<(), Diagnostics> {
        let code = self.question.code(&view.memory().heap);
        code.map(drop)
    }

    /// Carries it out in the run, with what it does to that and outside. Its own names are its own.
    ///
    /// # Errors
    /// What goes wrong in it: what it has done until then is done.
    pub fn carry_out(
        self,
        view: &mut View<'_, '_>,
        carried: &mut Vec<Carried>,
    ) -> Result<Held, Diagnostics> {
        let heap = Rc::clone(&view.memory().heap);
        let code = self.question.code(&heap)?;
        let first = self.around.len() - self.own.len();
        view.memory_mut().session = self.around;
        let mut aside = Aside::default();
        let result = view.run(Question::function(code), Question::MOST_STEPS, &mut aside);
        for (slot, own) in (first..).zip(&self.own) {
            if let Some(value) = view.memory().in_session(slot) {
                own.put(view, value);
            }
        }
        let told = self.question.told(&heap, &result);
        carried.push(Carried {
            question: self.question,
            programs: aside.programs,
        });
        told
    }
}

/// Lets a text run to its end.
#[derive(Default)]
struct Aside {
    programs: Vec<Rc<Loaded>>,
}

impl Leader for Aside {
    fn ready(&mut self, program: &Rc<Loaded>) {
        self.programs.push(Rc::clone(program));
    }

    fn stopped(&mut self, _view: &mut View<'_, '_>, _why: Why<'_>) -> Way {
        Way::On(Until::END)
    }

    fn ended(&mut self, _view: &mut View<'_, '_>, _outcome: &Outcome<Held>) -> Way {
        Way::End
    }
}
