//! From tokens to the tree: LALR(1) tables with the precedence table built in, and
//! several stacks at once where a conflict is left.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::definition::{Definition, Shape};
use crate::diagnostic::{Diagnostic, Outcome, codes, quote};
use crate::lexing::{Kind, KindId, Lexer, Token, Tokens, kind_named};
use crate::source::Span;
use crate::tree::Tree;

mod ahead;
mod aside;
mod assembly;
mod context;
mod cycles;
mod errors;
mod expand;
mod expected;
mod forest;
mod grammar;
mod grouping;
mod haste;
mod items;
mod left;
mod lookahead;
mod mending;
mod pairs;
mod parser;
mod paths;
mod plans;
mod recovery;
mod signs;
mod slips;
mod sparse;
mod stacks;
mod strangers;
mod tables;
mod terminal_sets;
mod touching;
mod trying;
mod undoing;
mod winning;
mod witness;
mod wrong;

pub use ahead::Ahead;
use assembly::Assembly;
use grammar::Grammar;
pub(crate) use grammar::{Nonterminal, Production, Role, Symbol};
pub(crate) use grouping::{Verdict, beside};
use parser::{Obstacle, Run, Step};
use plans::Rules;
use tables::{Lookahead, Tables};
use wrong::Wrong;

pub(crate) use grammar::literals;
pub(crate) use signs::signs_after;

/// A stretch of a text that can be read in two ways.
#[derive(Clone, Debug)]
pub struct Ambiguity {
    /// The stretch.
    pub span: Span,
    /// The tree of each reading.
    pub readings: [Tree; 2],
    /// Whether the text was given up here: it can be read in ever more ways.
    pub is_given_up: bool,
}

/// What could be read of a wrong text.
#[derive(Clone, Debug)]
pub struct Parts {
    /// The tree; a field that could not be read is absent.
    pub tree: Tree,
    /// The stretches that are not in it.
    pub gaps: Vec<Span>,
}

/// What came of reading a text.
#[derive(Clone, Debug)]
pub struct Parsed {
    /// The tree, or what is wrong.
    pub outcome: Outcome<Tree>,
    /// What could be read of it, if it is wrong.
    pub parts: Option<Parts>,
    /// The stretches that its errors speak of.
    pub told: Vec<Span>,
    /// The outermost stretch that can be read in two ways, if that is what is wrong.
    pub ambiguity: Option<Ambiguity>,
}

/// Reads programs of one language.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Parser {
    grammar: Grammar,
    tables: Tables,
    /// What each production makes.
    rules: Rules,
    #[serde(skip)]
    kinds: Arc<[Kind]>,
    wordings: Vec<(String, String)>,
    /// What each form becomes.
    becomes: Vec<Option<Shape>>,
}

impl Parser {
    /// Compiles the `written` clauses of a definition. `entries` are the sorts that
    /// may stand alone.
    pub fn new(
        definition: &Definition,
        lexer: &Lexer,
        entries: &[String],
    ) -> Result<Parser, Vec<Diagnostic>> {
        let grammar = Grammar::new(definition, lexer, entries)?;
        let mut tables = Tables::new(&grammar).map_err(|_| {
            let message = "the forms of this definition are too many for parse tables";
            let diagnostic = Diagnostic::error(codes::DEFINITION_LIMIT, message)
                .at(&definition.source, definition.name.span)
                .why("the tables grow with the square of the forms that can stand in the same places")
                .remedy("make sorts of fewer forms, and read what differs in a word only as one form with a field");
            vec![diagnostic]
        })?;
        let wordings = grammar
            .nonterminals
            .iter()
            .filter_map(|n| match n {
                Nonterminal::Sort(sort) => Some((sort.clone(), definition.wording(sort))),
                Nonterminal::Form(_) | Nonterminal::Helper => None,
            })
            .collect();
        let becomes: Vec<Option<Shape>> = definition
            .forms
            .iter()
            .map(|form| match &form.becomes {
                Some(field) => form
                    .field_index(&field.text)
                    .map(|index| Shape::Field(index as u16)),
                None => definition.shape_of(form),
            })
            .collect();
        let rules = Rules::new(definition, &grammar, &becomes);
        tables.mark_leaves(|production| rules.is_leaf(production));
        Ok(Parser {
            rules,
            grammar,
            tables,
            kinds: lexer.shared_kinds(),
            wordings,
            becomes,
        })
    }

    /// Fills in what a lexer has as well, and is not kept with the rest.
    pub(crate) fn complete(&mut self, lexer: &Lexer) {
        self.kinds = lexer.shared_kinds();
    }

    /// The sorts that may stand alone, in the definition's order.
    pub fn entries(&self) -> impl Iterator<Item = &str> {
        self.grammar.entries.iter().map(|entry| entry.sort.as_str())
    }

    /// The grammar.
    pub(crate) fn grammar(&self) -> &Grammar {
        &self.grammar
    }

    /// Whether a nonterminal can begin with a terminal.
    pub(crate) fn can_begin(&self, nonterminal: u16, terminal: u16) -> bool {
        self.tables.first.contains(nonterminal as usize, terminal)
    }

    /// The size of the tables: states, terminals, and cells with a conflict left.
    pub fn size(&self) -> (usize, usize, usize) {
        (
            self.tables.states.len(),
            self.grammar.terminals.len(),
            self.tables.forks.len(),
        )
    }

    fn lexer_kind(&self, kind: KindId) -> &Kind {
        &self.kinds[kind.0 as usize]
    }

    /// The kind of a literal.
    fn literal_kind(&self, text: &str) -> Option<KindId> {
        kind_named(&self.kinds, text, true)
    }

    /// The kind of a token that layout makes.
    fn layout_kind(&self, name: &str) -> Option<KindId> {
        let is_it = |kind: &Kind| kind.is_layout() && kind.name == name;
        let at = self.kinds.iter().position(is_it)?;
        Some(KindId(at as u16))
    }

    fn sort_wording(&self, sort: &str) -> String {
        self.wordings
            .iter()
            .find(|(name, _)| name == sort)
            .map_or_else(|| sort.to_owned(), |(_, wording)| wording.clone())
    }

    /// The terminals that a sort can begin with.
    fn first_of(&self, sort: &str) -> Vec<u16> {
        self.grammar
            .nonterminals
            .iter()
            .position(|n| matches!(n, Nonterminal::Sort(s) if s == sort))
            .map_or_else(Vec::new, |at| self.tables.first.iter(at).collect())
    }

    fn chains_not(&self, state: u32, terminal: u16) -> bool {
        self.tables.unchained.contains(&(state, terminal))
    }

    /// Reads tokens as the entry of a number (see `entries`).
    pub fn parse(
        &self,
        definition: &Definition,
        lexer: &Lexer,
        tokens: &Tokens,
        entry: usize,
    ) -> Parsed {
        // Most texts are right: only one that is not is read with care.
        let mut run = self.run(definition, tokens, entry).in_haste();
        match self.advance(&mut run, tokens, 0) {
            (_, Step::Accepted) => finish(run, tokens),
            (_, Step::Taken | Step::Refused) => {
                Wrong::new(self, definition, lexer, entry).parse(tokens)
            }
        }
    }

    /// Every production that reading a text uses; nothing if it cannot be read.
    pub(crate) fn used(
        &self,
        definition: &Definition,
        tokens: &Tokens,
        entry: usize,
    ) -> Option<Vec<u32>> {
        let mut run = self.run(definition, tokens, entry).noting();
        let (_, step) = self.advance(&mut run, tokens, 0);
        (step == Step::Accepted).then(|| run.noted())
    }

    /// The outermost stretch of a text that can be read in two ways; nothing if there is
    /// none, or if the text cannot be read at all.
    pub fn ambiguity(
        &self,
        definition: &Definition,
        tokens: &Tokens,
        entry: usize,
    ) -> Option<Ambiguity> {
        let mut run = self.run(definition, tokens, entry);
        match self.advance(&mut run, tokens, 0) {
            (_, Step::Accepted) => finish(run, tokens).ambiguity,
            _ => None,
        }
    }

    /// How many tokens from the first on make up an entry, as many as can; nothing if
    /// none do.
    pub fn front(&self, definition: &Definition, tokens: &Tokens, entry: usize) -> Option<usize> {
        let mut run = self.run(definition, tokens, entry);
        let mut longest = None;
        for (index, token) in tokens.tokens.iter().enumerate() {
            if index > 0 && run.could_end(index as u32) {
                longest = Some(index);
            }
            if run.step(index as u32, *token) != Step::Taken {
                break;
            }
        }
        longest
    }

    fn run<'a>(&'a self, definition: &'a Definition, tokens: &'a Tokens, entry: usize) -> Run<'a> {
        let assembly = Assembly::new(
            definition,
            &self.grammar,
            &self.rules,
            &self.becomes,
            tokens,
        );
        Run::new(&self.grammar, &self.tables, &self.rules, assembly, entry)
    }

    /// Gives the parser tokens from an index on (see `Run::advance`). The line ends that
    /// layout puts at the end of a text are for the forms that want them: to others the
    /// text just ends.
    fn advance(&self, run: &mut Run<'_>, tokens: &Tokens, index: usize) -> (usize, Step) {
        let (index, step) = run.advance(&tokens.tokens, index);
        if step == Step::Refused
            && self.lexer_kind(tokens.tokens[index].kind).is_layout()
            && self.only_layout_from(tokens, index)
            && let Some(end) = tokens.tokens.last()
        {
            return (index, run.step(index as u32, *end));
        }
        (index, step)
    }

    /// Whether there is nothing but what layout adds from a token on.
    fn only_layout_from(&self, tokens: &Tokens, index: usize) -> bool {
        tokens.tokens[index..]
            .iter()
            .all(|t| t.kind == KindId::END || self.lexer_kind(t.kind).is_layout())
    }
}

/// The terminals that a token can be taken as.
fn lookahead_of(grammar: &Grammar, token: Token) -> Lookahead {
    let of = |kind: KindId| {
        let (plain, tight) = grammar.of_kind[kind.0 as usize];
        [tight.filter(|_| token.tight()), plain]
    };
    Lookahead {
        main: of(token.kind),
        soft: token.also().map_or([None, None], of),
    }
}

/// The tree of an accepted text, or what stands in its way.
fn finish(run: Run<'_>, tokens: &Tokens) -> Parsed {
    let source = &tokens.source;
    let of_signs = run.sign_mistakes();
    let (problem, ambiguity) = match run.finish() {
        Ok(tree) if !of_signs.is_empty() => {
            let places = of_signs.iter().filter_map(|d| d.place.as_ref());
            return Parsed {
                told: places.map(|place| place.span).collect(),
                outcome: Outcome::failed(of_signs),
                parts: Some(Parts {
                    tree,
                    gaps: Vec::new(),
                }),
                ambiguity: None,
            };
        }
        Ok(tree) => {
            return Parsed {
                outcome: Outcome {
                    value: Some(tree),
                    diagnostics: Vec::new(),
                },
                parts: None,
                told: Vec::new(),
                ambiguity: None,
            };
        }
        // Only wrong texts are lost, and those have errors of their own.
        Err(Obstacle::Lost) => (None, None),
        Err(Obstacle::TooDeep(span)) => {
            let deepest = crate::native_stack::deepest_tree();
            let problem = Diagnostic::error(
                codes::SYNTAX_DEPTH,
                format!("this is nested more than {deepest} levels deep"),
            )
            .at(source, span)
            .remedy("break it up: bind parts of it to names");
            (Some(problem), None)
        }
        Err(Obstacle::TooMany(span)) => {
            let message = "up to here, this could be read in more ways than can be followed";
            let problem = Diagnostic::error(codes::SYNTAX_AMBIGUOUS, message)
                .at(source, span)
                .remedy("in the program: bracket the parts that belong together")
                .remedy("in the definition: let the forms differ earlier, by their first tokens");
            (Some(problem), None)
        }
        Err(Obstacle::Ambiguous(ambiguity)) => {
            let text = quote(source.slice(ambiguity.span));
            let problem = Diagnostic::error(
                codes::SYNTAX_AMBIGUOUS,
                format!("{text} can be read in two ways"),
            )
            .at(source, ambiguity.span);
            (Some(problem), Some(*ambiguity))
        }
    };
    Parsed {
        outcome: Outcome {
            value: None,
            diagnostics: problem.into_iter().collect(),
        },
        parts: None,
        told: Vec::new(),
        ambiguity,
    }
}
