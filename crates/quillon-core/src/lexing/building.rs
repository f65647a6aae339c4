//! From the patterns and literals of a definition to a lexer.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::automaton::Automaton;
use super::blocks::Blocks;
use super::holes::Pieces;
use super::kind::ByName;
use super::nfa::Matching;
use super::words::{Word, Words};
use super::{Care, Kind, KindId, Lexer, ORDINARY, Origin, Signs, layout};
use crate::definition::{self, Definition, Holds, Layout, Name, Pattern, Turn};
use crate::diagnostic::{Diagnostic, codes, quote};

impl Kind {
    /// The kind of what is no token.
    fn odd() -> Kind {
        Kind {
            origin: Origin::Odd,
            ignored: true,
            ..Kind::named("what is no token", "what is no token".to_owned())
        }
    }

    /// The kind of a token that layout makes.
    fn of_layout(name: &str) -> Kind {
        let wording = match name {
            "LineEnd" => "the end of the line",
            "Indent" => "a deeper line",
            _ => "the end of the block",
        };
        Kind {
            origin: Origin::Layout,
            ..Kind::named(name, wording.to_owned())
        }
    }
}

impl Lexer {
    /// Compiles the patterns of a definition and the literals of its `written` clauses
    /// (`own`), each with whether it is soft. `literals` has those and the ones of the
    /// language's other surfaces: it gives them their numbers.
    pub fn new(
        definition: &Definition,
        literals: &[(String, bool)],
        own: &[(String, bool)],
    ) -> Result<Lexer, Box<Diagnostic>> {
        let mut kinds = vec![Kind::named("end", "the end of the text".to_owned())];
        for (literal, _) in literals {
            kinds.push(Kind {
                origin: Origin::Literal,
                ..Kind::named(literal, quote(literal))
            });
        }
        let groups = groups(definition);
        let number = |name: &Name| {
            let known = groups.iter().position(|group| *group == name.text);
            known.unwrap_or_default() as u16
        };
        let mut patterns = Vec::new();
        let mut of_groups: Vec<Vec<(u16, Pattern)>> = vec![Vec::new(); groups.len()];
        let mut holes = Vec::new();
        for rule in &definition.tokens {
            let id = kinds.len() as u16;
            let group = rule.group.as_ref().map_or(ORDINARY, number);
            kinds.push(Kind {
                group,
                turn: Turn {
                    enters: rule.turn.enters.as_ref().map(number),
                    leaves: rule.turn.leaves,
                },
                ..Kind::of_rule(definition, rule)
            });
            if rule.piece {
                continue;
            }
            let pattern = match Pieces::new(rule, KindId(id)) {
                Some(Ok(pieces)) => {
                    let opening = Pattern::Literal(pieces.open.clone());
                    holes.push(pieces);
                    opening
                }
                Some(Err(())) => return Err(too_large(definition)),
                None if definition.ignores_case => rule.pattern.ignoring_case(),
                None => Pattern::clone(&rule.pattern),
            };
            if group == ORDINARY {
                patterns.push((id, pattern));
            } else {
                of_groups[group as usize].push((id, pattern));
            }
        }
        let layout = definition.layout.map_or(&[][..], Layout::tokens);
        kinds.extend(layout.iter().map(|name| Kind::of_layout(name)));
        let odd = KindId(kinds.len() as u16);
        kinds.push(Kind::odd());
        let mut alone = Matching::new(&patterns);
        // Where layout looks after line ends, no pattern has to.
        if definition.layout.is_some() && !alone.can_begin_with("\n") {
            let breaks = ["\n", "\r\n"].map(|text| Pattern::Literal(text.to_owned()));
            patterns.push((kinds.len() as u16, Pattern::Choice(breaks.into())));
            kinds.push(Kind {
                ignored: true,
                ..Kind::named("line break", "the end of the line".to_owned())
            });
            alone = Matching::new(&patterns);
        }
        let looked_up = looked_up(definition, [literals, own], &alone, &mut kinds);
        // On a tie literals win.
        let mut ordinary = looked_up.spelt_out;
        ordinary.extend(patterns);
        of_groups[usize::from(ORDINARY)] = ordinary;
        let mut automata = Vec::new();
        for patterns in &of_groups {
            automata.push(Automaton::new(patterns).ok_or_else(|| too_large(definition))?);
        }
        let care = care(&kinds, &looked_up.words);
        let words = looked_up.words.into_iter();
        let words = words.map(|(text, _, word)| (text, word)).collect();
        let mut lexer = Lexer {
            blocks: Vec::new(),
            by_name: ByName::default(),
            kinds: kinds.into(),
            signs: Arc::new(Signs::built_in(definition)),
            automata,
            first: definition.first_group.as_ref().map_or(ORDINARY, number),
            words: Words::new(words, definition.ignores_case),
            ignores_case: definition.ignores_case,
            holes,
            layout: None,
            odd,
            care,
        };
        lexer.complete();
        lexer.layout = definition
            .layout
            .map(|layout| layout::Rules::new(definition, layout, &lexer));
        Ok(lexer)
    }

    /// Fills in what follows from the rest, and is not kept with it.
    pub(crate) fn complete(&mut self) {
        let blocks = self.automata.iter();
        self.blocks = blocks
            .map(|automaton| Blocks::new(automaton, &self.care))
            .collect();
        self.by_name = ByName::new(&self.kinds);
    }
}

/// What is done with tokens of each kind, where the words with these patterns are looked up.
fn care(kinds: &[Kind], words: &[(String, u16, Word)]) -> Vec<Care> {
    let care = kinds.iter().map(|kind| Care {
        ignored: kind.ignored,
        goes_on: kind.goes_on(),
        is_value: matches!(kind.holds, Some(Holds::Integer | Holds::Number)),
        word: false,
    });
    let mut care: Vec<Care> = care.collect();
    for &(_, pattern, _) in words {
        care[pattern as usize].word = true;
    }
    care
}

/// How literals are told from other tokens.
struct LookedUp {
    /// Those that a pattern matches as well, with its kind: they are looked up.
    words: Vec<(String, u16, Word)>,
    /// The others, which are patterns of their own.
    spelt_out: Vec<(u16, Pattern)>,
}

/// Tells the literals that are looked up from the others. `literals` are those of all surfaces, `own`
/// those of this one; `alone` are the patterns.
fn looked_up(
    definition: &Definition,
    [literals, own]: [&[(String, bool)]; 2],
    alone: &Matching,
    kinds: &mut [Kind],
) -> LookedUp {
    let mut found = LookedUp {
        words: Vec::new(),
        spelt_out: Vec::new(),
    };
    let own: FxHashMap<&str, bool> = own.iter().map(|(text, soft)| (&**text, *soft)).collect();
    for (index, (literal, _)) in (1u16..).zip(literals) {
        let Some(&soft) = own.get(&**literal) else {
            continue;
        };
        let kind = KindId(index);
        let mut pattern = alone.whole(literal);
        if definition.ignores_case {
            let others = [literal.to_lowercase(), literal.to_uppercase()];
            pattern = pattern.filter(|_| others.iter().all(|o| alone.whole(o) == pattern));
        }
        match pattern {
            // What is ignored is not looked up: there the automaton tells them apart.
            Some(pattern) if kinds[pattern as usize].is_looked_up() => {
                kinds[index as usize].like = Some(KindId(pattern));
                let word = Word { kind, soft };
                found.words.push((literal.clone(), pattern, word));
            }
            Some(_) | None => {
                let mut spelt = Pattern::Literal(literal.clone());
                if definition.ignores_case {
                    spelt = spelt.ignoring_case();
                }
                found.spelt_out.push((index, spelt));
            }
        }
    }
    found
}

/// The names of the groups of tokens, the ordinary one's first.
fn groups(definition: &Definition) -> Vec<&str> {
    let mut all = vec![definition::ORDINARY];
    for group in definition
        .tokens
        .iter()
        .filter_map(|rule| rule.group.as_ref())
    {
        if !all.contains(&group.text.as_str()) {
            all.push(&group.text);
        }
    }
    all
}

fn too_large(definition: &Definition) -> Box<Diagnostic> {
    let problem = Diagnostic::error(
        codes::DEFINITION_LIMIT,
        "the token patterns together need too large a table",
    )
    .at(&definition.source, definition.name.span)
    .remedy("simplify the patterns: repeated optional parts that overlap are the usual cause");
    Box::new(problem)
}
