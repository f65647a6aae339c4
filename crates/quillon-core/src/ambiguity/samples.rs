//! Short texts of a grammar, made on purpose to stand where readings could part.

use crate::lexing::Lexer;
use crate::parsing::{Parser, Production, Symbol};
use crate::printing::text_of_terminals;

/// What a terminal looks like, what every nonterminal can shortly be, and what stands
/// around it in a shortest program.
pub(super) struct Samples<'a> {
    parser: &'a Parser,
    lexer: &'a Lexer,
    texts: Vec<Option<String>>,
    shortest: Vec<Option<Vec<u16>>>,
    around: Vec<Option<(Vec<u16>, Vec<u16>)>>,
}

impl<'a> Samples<'a> {
    pub fn new(parser: &'a Parser, lexer: &'a Lexer) -> Samples<'a> {
        let grammar = parser.grammar();
        let texts = grammar
            .terminals
            .iter()
            .map(|terminal| lexer.sample(terminal.kind))
            .collect();
        let mut samples = Samples {
            parser,
            lexer,
            texts,
            shortest: vec![None; grammar.nonterminals.len()],
            around: vec![None; grammar.nonterminals.len()],
        };
        samples.find_shortest();
        samples.find_around();
        samples
    }

    /// What a production can shortly be, if all its parts can be anything.
    fn of_production(&self, production: &Production) -> Option<Vec<u16>> {
        self.with(production, &[])
    }

    /// The same, with other texts at some places.
    fn with(&self, production: &Production, places: &[(usize, &[u16])]) -> Option<Vec<u16>> {
        let mut out = Vec::new();
        for (at, &symbol) in production.right.iter().enumerate() {
            match (places.iter().find(|(place, _)| *place == at), symbol) {
                (Some((_, text)), _) => out.extend_from_slice(text),
                (None, Symbol::Terminal(t)) => out.push(t),
                (None, Symbol::Nonterminal(n)) => {
                    out.extend_from_slice(self.shortest[n as usize].as_ref()?);
                }
            }
        }
        Some(out)
    }

    fn find_shortest(&mut self) {
        let mut changed = true;
        while changed {
            changed = false;
            for production in &self.parser.grammar().productions {
                let Some(text) = self.of_production(production) else {
                    continue;
                };
                let known = &mut self.shortest[production.left as usize];
                if known.as_ref().is_none_or(|known| text.len() < known.len()) {
                    *known = Some(text);
                    changed = true;
                }
            }
        }
    }

    /// From the program downward: the shortest surroundings of each nonterminal.
    fn find_around(&mut self) {
        let grammar = self.parser.grammar();
        let Some(entry) = grammar.entries.first() else {
            return;
        };
        let top = grammar.productions[entry.production as usize].left;
        self.around[top as usize] = Some((Vec::new(), Vec::new()));
        let mut changed = true;
        while changed {
            changed = false;
            for production in &grammar.productions {
                let Some((before, after)) = self.around[production.left as usize].clone() else {
                    continue;
                };
                for (at, &symbol) in production.right.iter().enumerate() {
                    let Symbol::Nonterminal(n) = symbol else {
                        continue;
                    };
                    let (Some(left), Some(right)) = (
                        self.stretch(&production.right[..at]),
                        self.stretch(&production.right[at + 1..]),
                    ) else {
                        continue;
                    };
                    let found = ([&before[..], &left].concat(), [&right[..], &after].concat());
                    let length = found.0.len() + found.1.len();
                    let known = &mut self.around[n as usize];
                    if known
                        .as_ref()
                        .is_none_or(|(b, a)| length < b.len() + a.len())
                    {
                        *known = Some(found);
                        changed = true;
                    }
                }
            }
        }
    }

    fn stretch(&self, symbols: &[Symbol]) -> Option<Vec<u16>> {
        let mut out = Vec::new();
        for &symbol in symbols {
            match symbol {
                Symbol::Terminal(t) => out.push(t),
                Symbol::Nonterminal(n) => {
                    out.extend_from_slice(self.shortest[n as usize].as_ref()?);
                }
            }
        }
        Some(out)
    }

    /// Gives every text to `tell`, with its length in tokens, until that says to stop:
    /// first those with one production inside another, then those with two inside one.
    pub fn each_text(&self, longest: usize, tell: &mut dyn FnMut(usize, &str) -> bool) {
        let grammar = self.parser.grammar();
        for production in &grammar.productions {
            for place in nonterminals(production) {
                for inner in self.inside(production, place) {
                    if !self.try_one(production, &[(place, &inner)], longest, tell) {
                        return;
                    }
                }
            }
        }
        for production in &grammar.productions {
            let places = nonterminals(production);
            for (index, &one) in places.iter().enumerate() {
                for &two in &places[index + 1..] {
                    for left in self.inside(production, one) {
                        for right in self.inside(production, two) {
                            let both = [(one, &left[..]), (two, &right[..])];
                            if !self.try_one(production, &both, longest, tell) {
                                return;
                            }
                        }
                    }
                }
            }
        }
    }

    /// What the nonterminal at a place can be, one text a production. What is nothing but another
    /// nonterminal is whatever that can be: operators can be layered in many sorts.
    fn inside(&self, production: &Production, place: usize) -> Vec<Vec<u16>> {
        let Symbol::Nonterminal(n) = production.right[place] else {
            return Vec::new();
        };
        let grammar = self.parser.grammar();
        let mut layers = vec![n];
        let mut texts = Vec::new();
        let mut next = 0;
        while let Some(&layer) = layers.get(next) {
            next += 1;
            for &id in &grammar.of[layer as usize] {
                let inner = &grammar.productions[id as usize];
                match inner.right[..] {
                    [Symbol::Nonterminal(below)] if !layers.contains(&below) => layers.push(below),
                    [Symbol::Nonterminal(_)] => {}
                    _ => texts.extend(self.of_production(inner)),
                }
            }
        }
        texts
    }

    fn try_one(
        &self,
        production: &Production,
        places: &[(usize, &[u16])],
        longest: usize,
        tell: &mut dyn FnMut(usize, &str) -> bool,
    ) -> bool {
        let Some((before, after)) = &self.around[production.left as usize] else {
            return true;
        };
        let Some(middle) = self.with(production, places) else {
            return true;
        };
        let terminals = [&before[..], &middle, after].concat();
        if terminals.len() > longest {
            return true;
        }
        match self.text(&terminals) {
            Some(text) => tell(terminals.len(), &text),
            None => true,
        }
    }

    /// The text of some terminals.
    fn text(&self, terminals: &[u16]) -> Option<String> {
        text_of_terminals(self.parser, self.lexer, terminals, |t| {
            self.texts[t as usize].clone()
        })
    }
}

fn nonterminals(production: &Production) -> Vec<usize> {
    (0..production.right.len())
        .filter(|&at| matches!(production.right[at], Symbol::Nonterminal(_)))
        .collect()
}
