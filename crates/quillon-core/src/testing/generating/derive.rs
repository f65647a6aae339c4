//! Texts derived from the grammar at random.

use fastrand::Rng;

use super::tokens::{self, Taste};
use crate::lexing::Lexer;
use crate::parsing::{Nonterminal, Parser, Production, Symbol};
use crate::printing::text_of_terminals;

/// More terminals than this no text gets, whatever its size is to be.
const MOST: usize = 20_000;

/// What is known about a grammar for deriving texts from it.
#[derive(Debug)]
pub(in crate::testing) struct Derivation<'a> {
    parser: &'a Parser,
    lexer: &'a Lexer,
    /// The texts of each terminal.
    texts: Vec<Vec<String>>,
    /// The least number of terminals that each nonterminal stands for.
    least: Vec<Option<usize>>,
    /// The least length of a text of each nonterminal.
    lightest: Vec<Option<usize>>,
}

/// How long a text is, by what a terminal counts.
type Weight<'w> = &'w dyn Fn(u16) -> usize;

impl<'a> Derivation<'a> {
    pub(super) fn new(parser: &'a Parser, lexer: &'a Lexer, taste: Taste) -> Derivation<'a> {
        let grammar = parser.grammar();
        let mut rng = Rng::with_seed(0);
        let terminals = grammar.terminals.iter();
        let texts = terminals
            .map(|terminal| tokens::texts(lexer, terminal.kind, taste, &mut rng))
            .collect();
        let mut derivation = Derivation {
            parser,
            lexer,
            texts,
            least: Vec::new(),
            lightest: Vec::new(),
        };
        derivation.least = derivation.least_without(&|_| true, &|_| 1);
        derivation.lightest = derivation.least_without(&|_| true, &|t| derivation.weight(t));
        derivation
    }

    /// The least length of what each nonterminal stands for, by productions that pass.
    fn least_without(
        &self,
        pass: &dyn Fn(&Production) -> bool,
        weight: Weight<'_>,
    ) -> Vec<Option<usize>> {
        let grammar = self.parser.grammar();
        let mut least: Vec<Option<usize>> = vec![None; grammar.nonterminals.len()];
        let mut changed = true;
        while changed {
            changed = false;
            for production in grammar.productions.iter().filter(|p| pass(p)) {
                let Some(length) = self.length(production, &least, weight) else {
                    continue;
                };
                let known = &mut least[production.left as usize];
                if known.is_none_or(|known| length < known) {
                    *known = Some(length);
                    changed = true;
                }
            }
        }
        least
    }

    fn length(
        &self,
        production: &Production,
        least: &[Option<usize>],
        weight: Weight<'_>,
    ) -> Option<usize> {
        let grammar = self.parser.grammar();
        let lengths = production.right.iter().map(|symbol| match symbol {
            Symbol::Terminal(t) => {
                let kind = self.lexer.kind(grammar.terminals[*t as usize].kind);
                let can = kind.is_layout() || !self.texts[*t as usize].is_empty();
                can.then(|| weight(*t))
            }
            Symbol::Nonterminal(n) => least[*n as usize],
        });
        lengths.sum()
    }

    fn nonterminal(&self, sort: &str) -> Option<u16> {
        let all = self.parser.grammar().nonterminals.iter();
        let is_it = |n: &Nonterminal| matches!(n, Nonterminal::Sort(known) if known == sort);
        all.clone().position(is_it).map(|at| at as u16)
    }

    /// A text of a sort, of about so many tokens.
    pub fn text(&self, sort: &str, size: usize, rng: &mut Rng) -> Option<String> {
        let start = self.nonterminal(sort)?;
        let mut terminals = Vec::new();
        self.derive(start, size, rng, &mut terminals)?;
        self.written(&terminals, rng)
    }

    fn written(&self, terminals: &[u16], rng: &mut Rng) -> Option<String> {
        text_of_terminals(self.parser, self.lexer, terminals, |t| {
            rng.choice(self.texts[t as usize].iter()).cloned()
        })
    }

    /// Derives with a stack of its own: each nonterminal with the size that it may take.
    fn derive(&self, start: u16, size: usize, rng: &mut Rng, out: &mut Vec<u16>) -> Option<()> {
        let mut work = vec![(Symbol::Nonterminal(start), size)];
        while let Some((symbol, size)) = work.pop() {
            let nonterminal = match symbol {
                Symbol::Terminal(t) => {
                    out.push(t);
                    continue;
                }
                Symbol::Nonterminal(n) => n,
            };
            if out.len() > MOST {
                return None;
            }
            let production = self.production(nonterminal, size, rng)?;
            let shares = self.shares(production, size, rng);
            work.extend(production.right.iter().copied().zip(shares).rev());
        }
        Some(())
    }

    /// A production that fits into a size; the smallest if none does.
    fn production(&self, nonterminal: u16, size: usize, rng: &mut Rng) -> Option<&'a Production> {
        let grammar = self.parser.grammar();
        let all = grammar.of[nonterminal as usize].iter();
        let all: Vec<(&Production, usize)> = all
            .map(|&id| &grammar.productions[id as usize])
            .filter_map(|p| Some((p, self.length(p, &self.least, &|_| 1)?)))
            .collect();
        let mut fitting: Vec<&Production> = all
            .iter()
            .filter(|(_, length)| *length <= size)
            .map(|(production, _)| *production)
            .collect();
        // What is to be large must not end at once; and every form gets its turn, however
        // many ways it can be written in.
        let is_leaf = |p: &&Production| p.right.iter().all(|s| matches!(s, Symbol::Terminal(_)));
        if size > 6 && fitting.iter().any(|p| !is_leaf(p)) && rng.usize(0..size) > 3 {
            fitting.retain(|production| !is_leaf(production));
        }
        let forms: Vec<Option<usize>> = fitting.iter().map(|p| p.form).collect();
        let form = rng.choice(distinct(&forms));
        if let Some(form) = form {
            fitting.retain(|production| production.form == form);
        }
        let found = rng.choice(fitting);
        found.or_else(|| {
            let smallest = all.iter().min_by_key(|(_, length)| *length);
            smallest.map(|(production, _)| *production)
        })
    }

    /// How much of a size each symbol of a production gets.
    fn shares(&self, production: &Production, size: usize, rng: &mut Rng) -> Vec<usize> {
        let least = |symbol: &Symbol| match symbol {
            Symbol::Terminal(_) => 1,
            Symbol::Nonterminal(n) => self.least[*n as usize].unwrap_or(1),
        };
        let mut shares: Vec<usize> = production.right.iter().map(least).collect();
        let takes: Vec<usize> = (0..shares.len())
            .filter(|&at| matches!(production.right[at], Symbol::Nonterminal(_)))
            .collect();
        let mut rest = size.saturating_sub(shares.iter().sum());
        while rest > 0 {
            let Some(&at) = rng.choice(takes.iter()) else {
                break;
            };
            let part = rng.usize(1..=rest);
            shares[at] += part;
            rest -= part;
        }
        shares
    }

    /// The shortest text of a sort that has none of some forms in it.
    pub fn shortest(&self, sort: &str, without: &dyn Fn(usize) -> bool) -> Option<String> {
        let pass = |production: &Production| !production.form.is_some_and(without);
        let least = self.least_without(&pass, &|t| self.weight(t));
        self.spelled(sort, None, &pass, &least)
    }

    /// The shortest text of a sort with one form at the top.
    pub fn shortest_as(&self, sort: &str, top: usize) -> Option<String> {
        self.spelled(sort, Some(top), &|_| true, &self.lightest)
    }

    /// How long the first text of a terminal is, with a blank.
    fn weight(&self, t: u16) -> usize {
        let first = self.texts[t as usize].first();
        first.map_or(1, |text| text.len() + 1)
    }

    /// A text of the lightest productions that pass, with one form at the top if there is to be one.
    fn spelled(
        &self,
        sort: &str,
        mut top: Option<usize>,
        pass: &dyn Fn(&Production) -> bool,
        least: &[Option<usize>],
    ) -> Option<String> {
        let grammar = self.parser.grammar();
        let mut terminals = Vec::new();
        let mut work = vec![Symbol::Nonterminal(self.nonterminal(sort)?)];
        while let Some(symbol) = work.pop() {
            match symbol {
                Symbol::Terminal(t) => terminals.push(t),
                Symbol::Nonterminal(n) => {
                    let all = grammar.of[n as usize].iter();
                    let productions = all.map(|&id| &grammar.productions[id as usize]);
                    let wanted = top.take();
                    let best = productions
                        .filter(|p| pass(p) && wanted.is_none_or(|form| p.form == Some(form)))
                        .filter_map(|p| Some((self.length(p, least, &|t| self.weight(t))?, p)))
                        .min_by_key(|(length, _)| *length)?;
                    work.extend(best.1.right.iter().copied().rev());
                }
            }
        }
        text_of_terminals(self.parser, self.lexer, &terminals, |t| {
            self.texts[t as usize].first().cloned()
        })
    }

    /// A text of a token of the same kind as another, by its number.
    pub fn other_text(&self, text: &str, number: usize) -> Option<&str> {
        let mut lists = self.texts.iter();
        let list = lists.find(|list| list.len() > 1 && list.iter().any(|known| known == text))?;
        list.get(number).map(String::as_str)
    }
}

/// Each thing once.
fn distinct<T: PartialEq + Clone>(all: &[T]) -> Vec<T> {
    let mut found: Vec<T> = Vec::new();
    for one in all {
        if !found.contains(one) {
            found.push(one.clone());
        }
    }
    found
}
