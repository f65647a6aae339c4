//! How a session begins.

use super::inner::{Inner, Watching};
use super::{Engine, Session, cell_index};
use crate::diagnostic::{Diagnostic, Diagnostics};
use crate::language::{Language, Prepared};
use crate::runtime::{Host, Limits};
use crate::values::Held;

/// A session that has not begun.
#[derive(Clone, Debug)]
pub struct SessionBuilder {
    prepared: Prepared,
    engine: Engine,
    limits: Limits,
    seed: Option<u64>,
    /// What cells of the state hold, by number.
    state: Vec<(usize, Held)>,
    watching: Watching,
}

impl Language {
    /// A session of the language, to be begun. What sessions of one language have in common is made
    /// each time; where there are many, make it once ([`Prepared::session`]).
    ///
    /// ```
    /// use quillon_core::Language;
    /// use quillon_core::runtime::{Limits, Recorder};
    ///
    /// let text = "language Sum
    ///   starts Sum
    /// tokens
    ///   Blank  [ ]+      ignored
    ///   Whole  digit+    holds integer
    /// state
    ///   total = 0
    /// form Sum
    ///   written  items:Whole+ by \"+\"
    ///   means    each item in items { total := total + item }; total
    /// ";
    /// let language = Language::from_text("sum.quillon", text)?;
    /// let limits = Limits { steps: Some(1000), ..Limits::default() };
    /// let session = language.session().limits(limits).state("total", 100)?;
    /// let mut session = session.start(Recorder::default())?;
    /// assert_eq!(session.run("first", "1 + 2")?.as_integer(), Some(103));
    /// assert_eq!(session.run("second", "3")?.as_integer(), Some(106));
    /// # Ok::<(), quillon_core::diagnostic::Diagnostics>(())
    /// ```
    pub fn session(&self) -> SessionBuilder {
        Prepared::new(self).session()
    }
}

impl Prepared {
    /// A session of the language, to be begun.
    pub fn session(&self) -> SessionBuilder {
        SessionBuilder {
            prepared: self.clone(),
            engine: Engine::default(),
            limits: Limits::default(),
            seed: None,
            state: Vec::new(),
            watching: Watching::No,
        }
    }
}

impl SessionBuilder {
    /// What runs the programs: the machine, if nothing is said.
    #[must_use]
    pub fn engine(mut self, engine: Engine) -> SessionBuilder {
        self.engine = engine;
        self
    }

    /// How far each run may go.
    #[must_use]
    pub fn limits(mut self, limits: Limits) -> SessionBuilder {
        self.limits = limits;
        self
    }

    /// Makes chance take the same course in every session with this number.
    #[must_use]
    pub fn seed(mut self, seed: u64) -> SessionBuilder {
        self.seed = Some(seed);
        self
    }

    /// What a cell of the state holds at first, instead of what the definition says.
    ///
    /// # Errors
    /// There is no such cell.
    pub fn state(
        mut self,
        name: &str,
        value: impl Into<Held>,
    ) -> Result<SessionBuilder, Box<Diagnostic>> {
        let index = cell_index(self.prepared.language(), name)?;
        self.state.push((index, value.into()));
        Ok(self)
    }

    /// Counts what the machine does, for a profile.
    #[must_use]
    pub fn counted(mut self) -> SessionBuilder {
        self.watching = Watching::Counted;
        self
    }

    /// Counts what the machine does, and notes what is in use when the most is.
    #[must_use]
    pub fn weighed(mut self) -> SessionBuilder {
        self.watching = Watching::Weighed;
        self
    }

    /// Lets somebody lead the runs.
    #[must_use]
    pub(crate) fn led(mut self) -> SessionBuilder {
        self.watching = Watching::Led;
        self
    }

    /// The language.
    pub fn language(&self) -> &Language {
        self.prepared.language()
    }

    /// What its sessions are made of, and how far they may go.
    pub(crate) fn basis(&self) -> (&Prepared, Limits) {
        (&self.prepared, self.limits)
    }

    /// The number by which chance takes its course, chosen now if none is.
    pub(crate) fn seeded(mut self) -> SessionBuilder {
        self.seed = Some(self.seed.unwrap_or_else(|| fastrand::u64(..)));
        self
    }

    /// Begins the session with its host: `Recorder`, one of your own, or `&mut` one. The constants
    /// of the definition, and its cells, are computed here.
    ///
    /// # Errors
    /// What goes wrong in a constant or a cell of the definition, or a value given for a cell that
    /// has a function of another session in it.
    pub fn start<H: Host>(self, mut host: H) -> Result<Session<H>, Diagnostics> {
        let (engine, limits) = (self.engine, self.limits);
        let mut inner = Inner::new(engine, &self.prepared, limits, &mut host, self.watching)?;
        // What the constants cost is no part of a run.
        inner.take_probe();
        for (index, value) in &self.state {
            inner
                .set_cell(*index, value)
                .map_err(Box::<Diagnostic>::from)?;
        }
        let said = Vec::new();
        let mut session = Session { inner, host, said };
        if let Some(seed) = self.seed {
            session.seed(seed);
        }
        Ok(session)
    }
}
