//! Kinds of token: what makes them, and what their texts hold.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::token_values::Escapes;
use super::{Group, ORDINARY, token_values};
use crate::definition::{Definition, Holds, Literal, PIECES, Pattern, TokenRule, Turn};
use crate::lazy::Lazy;

/// The index of a token kind; `KindId::END` is the end of the text.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize)]
pub struct KindId(pub u16);

impl KindId {
    /// The end of the text.
    pub const END: KindId = KindId(0);
}

/// What makes tokens of a kind.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Origin {
    /// A literal of a `written` clause.
    Literal,
    /// A line of `tokens`; also the end of the text.
    Pattern,
    /// The layout: such tokens have no text of their own.
    Layout,
    /// Nothing: it is text that no token starts with.
    Odd,
}

/// What of a token comes after what the automaton recognises.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(super) enum More {
    Nothing,
    /// Text in which there may be holes.
    Holes,
    /// Lines, up to one that has only its last word.
    Lines,
}

/// A kind of token.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Kind {
    /// The name of the pattern, or the literal's text.
    pub name: String,
    /// What makes such tokens.
    pub origin: Origin,
    /// Whether it is dropped from the tree.
    pub ignored: bool,
    /// What its text is converted to.
    pub holds: Option<Holds>,
    /// How messages call it.
    pub wording: String,
    pub(super) escapes: Escapes,
    /// How many bytes at either end are not part of the text it holds, where that is
    /// known.
    pub(super) trims: Option<(usize, usize)>,
    /// What it looks like.
    pub(super) pattern: Lazy<Option<Pattern>>,
    /// The opening and the closing text, where it nests.
    pub(super) nests: Option<(String, String)>,
    /// What of it comes after what the automaton recognises, beside what nests.
    pub(super) more: More,
    /// The group that it belongs to.
    pub(super) group: Group,
    /// The group that comes after it.
    pub(super) turn: Turn<Group>,
    /// What a word of the language would be if it were none.
    pub(crate) like: Option<KindId>,
}

impl Kind {
    /// What its tokens look like, if it is not a literal.
    pub(crate) fn pattern(&self) -> Option<&Pattern> {
        self.pattern.as_ref()
    }

    /// Whether it is a literal of a `written` clause.
    pub fn is_literal(&self) -> bool {
        self.origin == Origin::Literal
    }

    /// Whether it is that of text which no token starts with.
    pub(crate) fn is_odd(&self) -> bool {
        self.origin == Origin::Odd
    }

    /// Whether layout makes it.
    pub(crate) fn is_layout(&self) -> bool {
        self.origin == Origin::Layout
    }

    /// The kind of a line of `tokens`.
    pub(super) fn of_rule(definition: &Definition, rule: &TokenRule) -> Kind {
        let name = &rule.name.text;
        let has_pieces = rule.piece || rule.holes.is_some();
        let delimited = rule.pattern.delimited().filter(|_| has_pieces);
        let wording = if rule.piece && !name.ends_with(PIECES[0]) {
            "the rest of the text".to_owned()
        } else {
            let whole = name.strip_suffix(PIECES[0]).filter(|_| rule.piece);
            definition.wording(whole.unwrap_or(name))
        };
        Kind {
            ignored: rule.ignored,
            holds: rule.holds,
            escapes: Escapes::of(&rule.pattern),
            trims: delimited.map(|(open, _, close)| (open.len(), close.len())),
            nests: match &*rule.pattern {
                Pattern::Nested(open, close) => Some((open.clone(), close.clone())),
                _ => None,
            },
            pattern: Some(Pattern::clone(&rule.pattern)).into(),
            more: if rule.until_line {
                More::Lines
            } else if rule.holes.is_some() {
                More::Holes
            } else {
                More::Nothing
            },
            ..Kind::named(name, wording)
        }
    }

    /// Whether a token of the kind goes on after what the automaton recognises.
    pub(super) fn goes_on(&self) -> bool {
        self.nests.is_some() || self.more != More::Nothing || self.turn != Turn::NONE
    }

    /// Whether a token of the kind may be a word of the language, and is looked up among those.
    pub(super) fn is_looked_up(&self) -> bool {
        !self.ignored && !self.goes_on() && self.group == ORDINARY
    }

    /// The value of a text of the kind.
    pub(super) fn value(&self, text: &str) -> Result<Literal, token_values::NoValue> {
        if self.more == More::Lines && self.holds == Some(Holds::Text) {
            return Ok(Literal::Text(token_values::between_lines(text).to_owned()));
        }
        match self.trims {
            Some((before, after)) if self.holds == Some(Holds::Text) => {
                let inner = text.get(before..text.len().saturating_sub(after));
                Ok(Literal::Text(token_values::inside(
                    inner.unwrap_or_default(),
                    &self.escapes,
                )))
            }
            _ => token_values::value(text, self.holds, &self.escapes),
        }
    }

    /// A kind of which nothing else is known.
    pub(super) fn named(name: &str, wording: String) -> Kind {
        Kind {
            name: name.to_owned(),
            origin: Origin::Pattern,
            ignored: false,
            holds: None,
            wording,
            escapes: Escapes::default(),
            trims: None,
            pattern: Lazy::default(),
            nests: None,
            more: More::Nothing,
            group: ORDINARY,
            turn: Turn::NONE,
            like: None,
        }
    }
}

/// The kinds by name: literals, and all others.
#[derive(Clone, Debug, Default)]
pub(super) struct ByName {
    literals: FxHashMap<String, KindId>,
    others: FxHashMap<String, KindId>,
}

impl ByName {
    pub fn new(kinds: &[Kind]) -> ByName {
        let mut names = ByName {
            literals: FxHashMap::default(),
            others: FxHashMap::default(),
        };
        // The end is not asked for by name, and of two alike the first counts.
        for (at, kind) in kinds.iter().enumerate().skip(1).rev() {
            let map = if kind.is_literal() {
                &mut names.literals
            } else {
                &mut names.others
            };
            map.insert(kind.name.clone(), KindId(at as u16));
        }
        names
    }

    pub fn find(&self, name: &str, literal: bool) -> Option<KindId> {
        let map = if literal {
            &self.literals
        } else {
            &self.others
        };
        map.get(name).copied()
    }
}
