//! Signs that programs declare as operators: on which side their operands stand, and how tightly
//! they bind.

use serde::{Deserialize, Serialize};

use super::{Count, Definition, Form, Grouping, Name, Thing};

/// `declares SIGN SIDE at RANK`: from its end on, a program has an operator more.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Declares {
    /// The field whose text is the sign.
    pub sign: Name,
    /// Where its operands stand, and how it groups.
    pub side: DeclaredSide,
    /// How tightly it binds; as loosely as can be, if nothing says so.
    pub rank: Option<DeclaredRank>,
}

/// What a form of a program declares.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Declaration<'t> {
    /// The sign.
    pub sign: &'t str,
    /// How it stands; with the loosest rank, if what is written is none.
    pub fixity: Fixity,
    /// Whether what is written is a rank.
    pub is_ranked: bool,
}

impl Declares {
    /// What a form declares whose fields have these texts.
    pub(crate) fn declaration<'t>(
        &self,
        ranks: Ranks,
        text: impl Fn(&str) -> Option<&'t str>,
    ) -> Option<Declaration<'t>> {
        let side = match &self.side {
            DeclaredSide::Always(side) => *side,
            DeclaredSide::Field(name) => Grouping::of_word(text(&name.text)?)?,
        };
        let rank = match &self.rank {
            None => Some(ranks.from),
            Some(DeclaredRank::Always(rank, _)) => Some(*rank),
            Some(DeclaredRank::Field(name)) => match text(&name.text) {
                None => Some(ranks.from),
                Some(written) => written.parse().ok().filter(|rank| ranks.has(*rank)),
            },
        };
        Some(Declaration {
            sign: text(&self.sign.text)?,
            fixity: Fixity {
                side,
                rank: rank.unwrap_or(ranks.from),
            },
            is_ranked: rank.is_some(),
        })
    }
}

/// Where a declaration has the side of its sign from.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum DeclaredSide {
    /// It is always this one.
    Always(Grouping),
    /// The text of a field is its word.
    Field(Name),
}

/// Where a declaration has the rank of its sign from.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum DeclaredRank {
    /// It is always this one.
    Always(i64, Name),
    /// A field has it.
    Field(Name),
}

/// The ranks that signs can have, from the loosest to the tightest.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub struct Ranks {
    /// The loosest.
    pub from: i64,
    /// The tightest.
    pub to: i64,
}

impl Ranks {
    /// More ranks than these a table cannot have: each makes the parse tables larger.
    pub const MOST: i64 = 30;

    /// Every rank.
    pub fn all(self) -> std::ops::RangeInclusive<i64> {
        self.from..=self.to
    }

    /// Whether a rank is one of them.
    pub fn has(self, rank: i64) -> bool {
        self.all().contains(&rank)
    }
}

/// How a sign stands in a program.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub struct Fixity {
    /// Where its operands stand, and how it groups.
    pub side: Grouping,
    /// How tightly it binds.
    pub rank: i64,
}

impl Fixity {
    /// Whether it stands before its operand, and not behind one.
    pub fn is_before(self) -> bool {
        match self.side {
            Grouping::Prefix => true,
            Grouping::Left | Grouping::Right | Grouping::None | Grouping::Suffix => false,
        }
    }
}

/// Where the operands of an operator stand.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub enum Place {
    /// It stands before its operand.
    Before,
    /// It stands between two.
    Between,
    /// It stands behind its operand.
    Behind,
}

impl Place {
    /// The sides of a sign that stands so.
    pub fn sides(self) -> &'static [Grouping] {
        match self {
            Place::Before => &[Grouping::Prefix],
            Place::Between => &[Grouping::Left, Grouping::Right, Grouping::None],
            Place::Behind => &[Grouping::Suffix],
        }
    }
}

impl Definition {
    /// The forms that declare signs.
    pub(crate) fn declaring(&self) -> impl Iterator<Item = (usize, &Declares)> {
        let forms = self.forms.iter().enumerate();
        forms.filter_map(|(index, form)| Some((index, form.declares.as_ref()?)))
    }

    /// The kinds of token that declared signs are, by name.
    pub(crate) fn sign_kinds(&self) -> Vec<&str> {
        let fields = self.declaring().filter_map(|(index, declares)| {
            let form = &self.forms[index];
            form.fields
                .iter()
                .find(|f| f.name.text == declares.sign.text)
        });
        let things = fields.flat_map(|field| &field.things);
        let mut kinds: Vec<&str> = things
            .filter_map(|thing| match thing {
                Thing::Named(name) => Some(name.text.as_str()),
                Thing::Literal(_) => None,
            })
            .collect();
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// The field of a form that has a sign as its operator, if it is a form of declared signs.
    pub(crate) fn sign_field(&self, form: &Form) -> Option<usize> {
        if !self.is_ranked_by_sign(&form.name.text) {
            return None;
        }
        let kinds = self.sign_kinds();
        form.fields.iter().position(|field| {
            let mut things = field.things.iter();
            field.count == Count::One
                && things.any(|thing| match thing {
                    Thing::Named(name) => kinds.contains(&name.text.as_str()),
                    Thing::Literal(_) => false,
                })
        })
    }

    /// Whether how tightly a form binds depends on its sign.
    fn is_ranked_by_sign(&self, form: &str) -> bool {
        let mut levels = self.precedence.iter().flat_map(|table| &table.levels);
        levels.any(|level| level.ranks.is_some() && level.forms.iter().any(|f| f.text == form))
    }

    /// The ranks that declared signs can have, of the table that has them.
    pub(crate) fn ranks(&self) -> Option<Ranks> {
        let mut levels = self.precedence.iter().flat_map(|table| &table.levels);
        levels.find_map(|level| level.ranks)
    }

    /// How tight a level of a table is among all of it, with each rank a level of its own; of a
    /// level of declared signs, that of a rank.
    pub(crate) fn tightness(&self, table: usize, level: usize, rank: i64) -> usize {
        let levels = &self.precedence[table].levels;
        let ranked = levels.iter().position(|level| level.ranks.is_some());
        let Some((at, ranks)) = ranked.and_then(|at| Some((at, levels[at].ranks?))) else {
            return level;
        };
        if level < at {
            return level;
        }
        let of_rank = |rank: i64| at + (rank.clamp(ranks.from, ranks.to) - ranks.from) as usize;
        match levels[level].rank {
            _ if level == at => of_rank(rank),
            Some(own) => of_rank(own),
            None => {
                let own = levels[at..level]
                    .iter()
                    .filter(|level| level.rank.is_none());
                of_rank(ranks.to) + own.count()
            }
        }
    }
}
