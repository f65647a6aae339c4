//! Tokens that can never come where they are to, since another group of tokens is read there: a `leaves` or an `enters`
//! that is missing.

use std::collections::BTreeSet;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::definition::{Definition, Form, ORDINARY, Part, Thing};
use crate::diagnostic::{Diagnostic, codes, one_of, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let rules = &definition.tokens;
    let has_groups = rules.iter().any(|rule| rule.group.is_some());
    // What is ignored and changes the group can stand anywhere.
    let is_hidden = rules
        .iter()
        .any(|rule| rule.ignored && (rule.turn.enters.is_some() || rule.turn.leaves));
    if !has_groups || is_hidden || definition.forms.len() > MOST_FORMS {
        return Vec::new();
    }
    let mut order = Order::new(definition);
    if !order.study() {
        return Vec::new();
    }
    let rules = (0..rules.len()).filter(|at| !order.follow[*at].is_empty());
    rules.filter_map(|at| order.warning(at)).collect()
}

/// More forms than this are not looked through.
const MOST_FORMS: usize = 1000;

/// Forms that begin with each other through more levels than this are not followed to the end.
const MOST_ROUNDS: usize = 60;

type Tokens = BTreeSet<usize>;

/// What a part can begin and end with.
#[derive(Clone, Default)]
struct Ends {
    /// Whether it can be nothing.
    is_empty: bool,
    first: Tokens,
    last: Tokens,
}

/// Which tokens can come after which, by what is written. Tokens have the numbers of their rules; quoted texts
/// come after those.
struct Order<'d> {
    definition: &'d Definition,
    numbers: FxHashMap<&'d str, usize>,
    texts: FxHashMap<&'d str, usize>,
    /// How messages call each, and its group.
    called: Vec<(String, &'d str)>,
    /// What each form, and the forms of each sort, can begin and end with.
    ends: FxHashMap<&'d str, Ends>,
    follow: Vec<Tokens>,
}

impl<'d> Order<'d> {
    fn new(definition: &'d Definition) -> Order<'d> {
        let rules = definition.tokens.iter();
        let group = |at: usize| match &definition.tokens[at].group {
            Some(group) => &group.text[..],
            None => ORDINARY,
        };
        let called = rules.clone().enumerate().map(|(at, rule)| {
            let text = rule
                .pattern
                .fixed()
                .unwrap_or_else(|| rule.name.text.clone());
            (quote(&text), group(at))
        });
        Order {
            definition,
            numbers: rules
                .enumerate()
                .map(|(at, rule)| (&rule.name.text[..], at))
                .collect(),
            texts: FxHashMap::default(),
            called: called.collect(),
            ends: FxHashMap::default(),
            follow: vec![Tokens::new(); definition.tokens.len()],
        }
    }

    /// Finds what can come after each token; whether all of it was found.
    fn study(&mut self) -> bool {
        let forms = self.definition.forms.iter();
        let sorts: FxHashSet<&str> = forms.map(Form::sort_name).collect();
        for _ in 0..MOST_ROUNDS {
            let mut has_more = false;
            for form in &self.definition.forms {
                let Some(part) = &*form.written else {
                    continue;
                };
                let found = self.part(part);
                has_more |= join(self.ends.entry(form.sort_name()).or_default(), &found);
                // Of a sort and a form of one name, the sort is meant.
                if !sorts.contains(&form.name.text[..]) {
                    has_more |= join(self.ends.entry(&form.name.text).or_default(), &found);
                }
            }
            if !has_more {
                return true;
            }
        }
        false
    }

    fn part(&mut self, part: &'d Part) -> Ends {
        match part {
            Part::Sequence(parts) => {
                let mut all = Ends {
                    is_empty: true,
                    ..Ends::default()
                };
                for part in parts {
                    let next = self.part(part);
                    self.meet(&all.last, &next.first);
                    if all.is_empty {
                        all.first.extend(&next.first);
                    }
                    if !next.is_empty {
                        all.last.clear();
                    }
                    all.last.extend(&next.last);
                    all.is_empty &= next.is_empty;
                }
                all
            }
            Part::Choice(parts) => {
                let mut all = Ends::default();
                for part in parts {
                    let one = self.part(part);
                    join(&mut all, &one);
                }
                all
            }
            Part::Literal(text) | Part::Soft(text) => self.text(&text.text),
            Part::Field(_, things) => {
                let mut all = Ends::default();
                for thing in things {
                    let one = match thing {
                        Thing::Named(name) => self.named(&name.text),
                        Thing::Literal(text) => self.text(&text.text),
                    };
                    join(&mut all, &one);
                }
                all
            }
            Part::Unnamed(name) => self.named(&name.text),
            Part::Optional(part) => Ends {
                is_empty: true,
                ..self.part(part)
            },
            Part::Repeat(repeat) => {
                let mut all = self.part(&repeat.part);
                let by = repeat.by.as_ref().map(|by| self.part(by));
                match &by {
                    Some(by) => {
                        self.meet(&all.last, &by.first);
                        self.meet(&by.last, &all.first);
                    }
                    None => self.meet(&all.last, &all.first),
                }
                if let Some(by) = by.filter(|_| repeat.trailing) {
                    all.last.extend(by.last);
                }
                all.is_empty |= !repeat.at_least_one;
                all
            }
            Part::Tight(_) => Ends {
                is_empty: true,
                ..Ends::default()
            },
        }
    }

    fn text(&mut self, text: &'d str) -> Ends {
        let next = self.called.len();
        let number = *self.texts.entry(text).or_insert(next);
        if number == next {
            self.called.push((quote(text), ORDINARY));
            self.follow.push(Tokens::new());
        }
        only(number)
    }

    fn named(&self, name: &str) -> Ends {
        match self.numbers.get(name) {
            Some(number) => only(*number),
            None => self.ends.get(name).cloned().unwrap_or_default(),
        }
    }

    fn meet(&mut self, before: &Tokens, after: &Tokens) {
        for token in before {
            self.follow[*token].extend(after);
        }
    }

    /// The groups that can be under one: those of the tokens that enter it.
    fn under(&self, group: &str) -> BTreeSet<&'d str> {
        let entering = self
            .definition
            .tokens
            .iter()
            .enumerate()
            .filter(|(_, rule)| {
                let enters = rule.turn.enters.as_ref();
                enters.is_some_and(|enters| enters.text == group)
            });
        entering.map(|(at, _)| self.called[at].1).collect()
    }

    /// What is wrong with the token of a rule, if nothing that can come after it is in the group that is read then.
    fn warning(&self, at: usize) -> Option<Diagnostic> {
        let rule = &self.definition.tokens[at];
        let own = self.called[at].1;
        let read: BTreeSet<&str> = match &rule.turn.enters {
            Some(group) => [&group.text[..]].into(),
            // What a token leaves may have been entered by one that left another.
            None if rule.turn.leaves => return None,
            None => [own].into(),
        };
        let follow = &self.follow[at];
        if follow
            .iter()
            .any(|next| read.contains(self.called[*next].1))
        {
            return None;
        }
        let wanted: BTreeSet<&str> = follow.iter().map(|next| self.called[*next].1).collect();
        let group = wanted.first()?;
        let remedy = if wanted.len() > 1 {
            "say with `enters` or `leaves` behind it which group comes then".to_owned()
        } else if rule.turn.enters.is_none() && self.under(own).contains(group) {
            "write `leaves` behind it".to_owned()
        } else {
            format!("write `enters {group}` behind it")
        };
        let names: Vec<String> = follow
            .iter()
            .map(|next| self.called[*next].0.clone())
            .collect();
        let message = format!(
            "nothing that is to come after {} is ever read",
            self.called[at].0
        );
        let why = format!(
            "{} is read after it, and {} would have to come, of {}",
            group_in_words(read.first()?),
            one_of(&names[..names.len().min(MOST_NAMES)]),
            group_in_words(group),
        );
        let warning = Diagnostic::warning(codes::CHECK_TOKENS, message)
            .at(&self.definition.source, rule.name.span)
            .why(why)
            .remedy(remedy);
        Some(warning)
    }
}

/// So many of what would have to come are told.
const MOST_NAMES: usize = 3;

fn group_in_words(group: &str) -> String {
    match group {
        ORDINARY => "the ordinary group".to_owned(),
        group => format!("the group {}", quote(group)),
    }
}

fn only(number: usize) -> Ends {
    Ends {
        is_empty: false,
        first: [number].into(),
        last: [number].into(),
    }
}

/// Adds what another can begin and end with; whether that was new.
fn join(all: &mut Ends, one: &Ends) -> bool {
    let count = |ends: &Ends| (ends.is_empty, ends.first.len(), ends.last.len());
    let before = count(all);
    all.is_empty |= one.is_empty;
    all.first.extend(&one.first);
    all.last.extend(&one.last);
    count(all) != before
}
