//! Changes of a definition that could settle a doubt, each tried on the text in doubt before it is
//! offered.

use super::Grammar;
use crate::definition::{Definition, Grouping, Level, Name, PrecedenceTable};
use crate::diagnostic::{one_of, quote};
use crate::lexing::Tokens;
use crate::parsing::{Ambiguity, Parser};

/// No change is tried on a text of more bytes than this: it would take too long.
const LONGEST_TRIED: usize = 1 << 16;

/// Something to add to a definition.
#[derive(Clone, Debug)]
pub(super) enum Change {
    /// A line at the tight end of the table of a sort.
    Line {
        sort: String,
        grouping: Grouping,
        forms: Vec<String>,
    },
    /// A place in the table for a form, by another one there.
    Place {
        form: String,
        side: Side,
        other: String,
    },
    /// That a form wins over another.
    Wins { winner: String, loser: String },
}

/// Where a form is ranked.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Side {
    Beside,
    Above,
    Below,
}

impl Side {
    fn word(self) -> &'static str {
        match self {
            Side::Beside => "beside",
            Side::Above => "above",
            Side::Below => "below",
        }
    }
}

impl Change {
    /// The definition with the change.
    fn made(&self, definition: &Definition) -> Definition {
        let mut changed = definition.clone();
        let name = |text: &str| Name {
            text: text.to_owned(),
            span: definition.name.span,
        };
        match self {
            Change::Line {
                sort,
                grouping,
                forms,
            } => {
                let tables = &mut changed.precedence;
                let known = tables.iter().position(|table| table.sort.text == *sort);
                let table = known.unwrap_or_else(|| {
                    tables.push(PrecedenceTable {
                        sort: name(sort),
                        levels: Vec::new(),
                    });
                    tables.len() - 1
                });
                tables[table].levels.push(Level {
                    grouping: *grouping,
                    forms: forms.iter().map(|form| name(form)).collect(),
                    ranks: None,
                    rank: None,
                });
            }
            Change::Place { form, side, other } => {
                if let Some((table, level, grouping)) = definition.level_of(other)
                    // What signs decide, the table does not.
                    && definition.precedence[table].levels[level].ranks.is_none()
                {
                    let levels = &mut changed.precedence[table].levels;
                    let own = Level {
                        grouping,
                        forms: vec![name(form)],
                        ranks: None,
                        rank: None,
                    };
                    match side {
                        Side::Beside => levels[level].forms.push(name(form)),
                        Side::Above => levels.insert(level, own),
                        Side::Below => levels.insert(level + 1, own),
                    }
                }
            }
            Change::Wins { winner, loser } => {
                let mut forms = changed.forms.iter_mut();
                if let Some(form) = forms.find(|form| form.name.text == *winner) {
                    form.wins.push(name(loser));
                }
            }
        }
        changed
    }
}

/// A text in doubt, on which changes are tried.
pub(super) struct Trial<'a> {
    grammar: Grammar<'a>,
    /// Its tokens and the entry that it is read as; nothing where trying would take too long.
    text: Option<(Tokens, usize)>,
}

impl<'a> Trial<'a> {
    pub fn of(grammar: Grammar<'a>, found: &Ambiguity) -> Trial<'a> {
        let source = found.readings[0].source();
        let text = (source.text().len() <= LONGEST_TRIED && !found.is_given_up)
            .then(|| grammar.lexer.tokens(source).value)
            .flatten()
            .and_then(|tokens| {
                let in_doubt = |&entry: &usize| {
                    let found = grammar.parser.ambiguity(grammar.definition, &tokens, entry);
                    found.is_some()
                };
                let entry = (0..grammar.parser.grammar().entries.len()).find(in_doubt)?;
                Some((tokens, entry))
            });
        Trial { grammar, text }
    }

    /// The changes with which the text has one reading.
    pub fn kept(&self, changes: Vec<Change>) -> Vec<Change> {
        let settles = |change: &Change| match &self.text {
            Some((tokens, entry)) => self.settles(change, tokens, *entry),
            None => true,
        };
        changes.into_iter().filter(settles).collect()
    }

    fn settles(&self, change: &Change, tokens: &Tokens, entry: usize) -> bool {
        let Grammar {
            definition,
            lexer,
            parser,
        } = self.grammar;
        let changed = change.made(definition);
        let entries = parser.grammar().entries.iter();
        let entries: Vec<String> = entries.map(|entry| entry.sort.clone()).collect();
        Parser::new(&changed, lexer, &entries).is_ok_and(|parser| {
            let parsed = parser.parse(&changed, lexer, tokens, entry);
            parsed.ambiguity.is_none() && parsed.outcome.value.is_some()
        })
    }
}

/// Some changes of one kind as something to do; nothing if there are none.
pub(super) fn told(definition: &Definition, changes: &[Change]) -> Option<String> {
    match changes.first()? {
        Change::Line { sort, forms, .. } => {
            let table = format!("`precedence of {sort}`");
            let lines: Vec<String> = changes
                .iter()
                .filter_map(|change| match change {
                    Change::Line { grouping, .. } => Some(*grouping),
                    Change::Place { .. } | Change::Wins { .. } => None,
                })
                .map(|grouping| quote(&format!("{} {}", grouping.word(), forms.join(", "))))
                .collect();
            let is_of_sort = |form: &String| {
                let form = definition.form(form);
                form.is_some_and(|form| form.sort_name() == sort)
            };
            Some(match &forms[..] {
                [only] if is_of_sort(only) => format!("add a line {} to {table}", one_of(&lines)),
                [only] => format!("rank {only} in {table}, too"),
                all => format!("rank {} in {table}", all.join(" and ")),
            })
        }
        Change::Place { form, other, .. } => {
            let sides = changes.iter().filter_map(|change| match change {
                Change::Place { side, .. } => Some(side.word().to_owned()),
                Change::Line { .. } | Change::Wins { .. } => None,
            });
            let sides = one_of(&sides.collect::<Vec<_>>());
            let (table, ..) = definition.level_of(other)?;
            let sort = &definition.precedence[table].sort.text;
            Some(format!(
                "rank {form} in `precedence of {sort}`, {sides} {other}"
            ))
        }
        Change::Wins { .. } => {
            let each = changes.iter().filter_map(|change| match change {
                Change::Wins { winner, loser } => {
                    Some(format!("`wins over {loser}` to form {winner}"))
                }
                Change::Line { .. } | Change::Place { .. } => None,
            });
            Some(format!("add {}", each.collect::<Vec<_>>().join(", or ")))
        }
    }
}
