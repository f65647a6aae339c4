//! From tokens to the tree: LALR(1) tables with the precedence table built in, and
//! several stacks at once where a conflict is left.

use crate::definition::{Definition, Shape};
use crate::diagnostic::{Diagnostic, Outcome, codes, quote};
use crate::lexing::{BRACKETS, Kind, KindId, Lexer, Token, Tokens};
use crate::source::Span;
use crate::tree::Tree;

mod build;
mod errors;
mod expand;
mod expected;
mod forest;
mod grammar;
mod items;
mod lookahead;
mod parser;
mod recovery;
mod stacks;
mod tables;

use build::{Builder, Failure};
use expected::Inquiry;
use forest::{Forest, Ref};
use grammar::Grammar;
pub(crate) use grammar::{Nonterminal, Production, Role, Symbol};
use parser::{Run, Step};
use recovery::{Repair, Repairer};
use tables::{Lookahead, Tables};

pub(crate) use grammar::literals;

/// A stretch of a text that can be read in two ways.
#[derive(Clone, Debug)]
pub struct Ambiguity {
    /// The stretch.
    pub span: Span,
    /// The tree of each reading.
    pub readings: [Tree; 2],
}

/// Syntax errors of one text beyond this many are not looked for.
const MOST_ERRORS: usize = 25;

/// Reads programs of one language.
#[derive(Clone, Debug)]
pub struct Parser {
    grammar: Grammar,
    tables: Tables,
    kinds: Vec<Kind>,
    wordings: Vec<(String, String)>,
    field_names: Vec<Vec<String>>,
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
        let tables = Tables::new(&grammar);
        let wordings = grammar
            .nonterminals
            .iter()
            .filter_map(|n| match n {
                Nonterminal::Sort(sort) => Some((sort.clone(), definition.wording(sort))),
                _ => None,
            })
            .collect();
        let field_names = definition
            .forms
            .iter()
            .map(|form| form.fields.iter().map(|f| f.name.text.clone()).collect())
            .collect();
        Ok(Parser {
            grammar,
            tables,
            kinds: lexer.kinds().to_vec(),
            wordings,
            field_names,
            becomes: definition
                .forms
                .iter()
                .map(|form| match &form.becomes {
                    Some(field) => form
                        .field_index(&field.text)
                        .map(|index| Shape::Field(index as u16)),
                    None => definition.shape_of(form),
                })
                .collect(),
        })
    }

    /// The sorts that may stand alone, in the definition's order.
    pub fn entries(&self) -> impl Iterator<Item = &str> {
        self.grammar.entries.iter().map(|entry| entry.sort.as_str())
    }

    /// The grammar.
    pub(crate) fn grammar(&self) -> &Grammar {
        &self.grammar
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
            .map_or_else(Vec::new, |at| self.tables.first[at].iter().collect())
    }

    fn chains_not(&self, state: u32, terminal: u16) -> bool {
        self.tables.unchained.contains(&(state, terminal))
    }

    /// Reads tokens as the entry of a number (see `entries`).
    pub fn parse(&self, definition: &Definition, tokens: &Tokens, entry: usize) -> Outcome<Tree> {
        let mut run = Run::new(&self.grammar, &self.tables, entry);
        let mut diagnostics = Vec::new();
        // Set once a mend has put in an opening bracket: that it is not closed is then no
        // mistake of the text.
        let mut opened = false;
        let mut index = 0;
        while let Some(token) = tokens.tokens.get(index) {
            match self.step(&mut run, tokens, index, *token) {
                Step::Taken => index += 1,
                Step::Refused => {
                    match self.mend(tokens, index, &mut run, &mut diagnostics, &mut opened) {
                        Some(next) => index = next,
                        None => break,
                    }
                }
                Step::Accepted(_) if !diagnostics.is_empty() => break,
                Step::Accepted(root) => {
                    let builder = self.builder(definition, &run.forest, tokens);
                    return finish(&builder, root);
                }
            }
        }
        Outcome {
            value: None,
            diagnostics,
        }
    }

    /// The first place of a text that can be read in two ways, with the two readings;
    /// nothing if there is none, or if the text cannot be read at all.
    pub fn readings(
        &self,
        definition: &Definition,
        tokens: &Tokens,
        entry: usize,
    ) -> Option<Ambiguity> {
        let mut run = Run::new(&self.grammar, &self.tables, entry);
        for (index, token) in tokens.tokens.iter().enumerate() {
            let root = match self.step(&mut run, tokens, index, *token) {
                Step::Taken => continue,
                Step::Refused => return None,
                Step::Accepted(root) => root,
            };
            let builder = self.builder(definition, &run.forest, tokens);
            let Err(Failure::Ambiguous(node)) = builder.build(root, None) else {
                return None;
            };
            let reading = |number| builder.build(node, Some((node, number))).ok();
            return Some(Ambiguity {
                span: builder.span(node),
                readings: [reading(0)?, reading(1)?],
            });
        }
        None
    }

    /// What makes the tree of a reading.
    fn builder<'a>(
        &'a self,
        definition: &'a Definition,
        forest: &'a Forest,
        tokens: &'a Tokens,
    ) -> Builder<'a> {
        Builder {
            definition,
            grammar: &self.grammar,
            forest,
            tokens,
            becomes: &self.becomes,
            depth: crate::deep::deepest_tree(),
        }
    }

    /// Gives the parser a token. The line ends that layout puts at the end of a text are
    /// for the forms that want them: to others the text just ends.
    fn step(&self, run: &mut Run<'_>, tokens: &Tokens, index: usize, token: Token) -> Step {
        let step = run.step(index as u32, token);
        if step == Step::Refused
            && self.lexer_kind(token.kind).is_layout()
            && self.only_layout_from(tokens, index)
            && let Some(end) = tokens.tokens.last()
        {
            run.take_back();
            return run.step(index as u32, *end);
        }
        step
    }

    /// Whether there is nothing but what layout adds from a token on.
    fn only_layout_from(&self, tokens: &Tokens, index: usize) -> bool {
        tokens.tokens[index..]
            .iter()
            .all(|t| t.kind == KindId::END || self.lexer_kind(t.kind).is_layout())
    }

    /// Reports a token that was refused, and mends the reading so that it can go on; gives
    /// the token to go on with.
    fn mend(
        &self,
        tokens: &Tokens,
        index: usize,
        run: &mut Run<'_>,
        diagnostics: &mut Vec<Diagnostic>,
        opened: &mut bool,
    ) -> Option<usize> {
        run.take_back();
        let stacks = run.plain_stacks();
        let (error, repair) = {
            let inquiry = Inquiry {
                grammar: &self.grammar,
                tables: &self.tables,
                forest: &run.forest,
            };
            let error = errors::unexpected(self, tokens, index, &stacks, &inquiry);
            let repairer = Repairer {
                parser: self,
                tokens: &tokens.tokens,
                stack: stacks.first()?,
            };
            let ended = error.code == codes::SYNTAX_UNFINISHED;
            let enough = diagnostics.len() + 1 >= MOST_ERRORS;
            let repair = if ended || enough {
                None
            } else {
                repairer.repair(index, &inquiry)
            };
            (error, repair)
        };
        if *opened && error.code == codes::SYNTAX_UNFINISHED {
            return None;
        }
        if let Some(Repair::Insert(kind)) = repair {
            let name = &self.lexer_kind(kind).name;
            *opened |= BRACKETS.iter().any(|(open, _)| open == name);
        }
        diagnostics.push(error);
        if diagnostics.len() == MOST_ERRORS {
            diagnostics.push(Diagnostic::note(
                codes::SYNTAX_UNEXPECTED,
                format!("reading stops after {MOST_ERRORS} errors"),
            ));
        }
        let stand_in = |kind| Token {
            kind,
            ..tokens.tokens[index]
        };
        match repair? {
            Repair::Skip => Some(index + 1),
            Repair::Insert(kind) => {
                run.step(index as u32, stand_in(kind));
                Some(index)
            }
            Repair::Replace(kind) => {
                run.step(index as u32, stand_in(kind));
                Some(index + 1)
            }
            Repair::Phrase {
                height,
                nonterminal,
                upto,
            } => {
                run.give_up(&stacks[0], height, nonterminal, upto as u32);
                Some(upto)
            }
        }
    }
}

/// The terminals that a token can be taken as.
fn lookahead_of(grammar: &Grammar, token: Token) -> Lookahead {
    let of = |kind: KindId| {
        let (plain, tight) = grammar.of_kind[kind.0 as usize];
        [tight.filter(|_| token.tight), plain]
    };
    Lookahead {
        main: of(token.kind),
        soft: token.also.map_or([None, None], of),
    }
}

/// The tree, or what stands in its way.
fn finish(builder: &Builder<'_>, root: Ref) -> Outcome<Tree> {
    let diagnostic = match builder.build(root, None) {
        Ok(tree) => {
            return Outcome {
                value: Some(tree),
                diagnostics: Vec::new(),
            };
        }
        Err(Failure::TooDeep(span)) => Diagnostic::error(
            codes::SYNTAX_DEPTH,
            format!("this is nested more than {} levels deep", builder.depth),
        )
        .at(&builder.tokens.source, span)
        .remedy("break it up: bind parts of it to names"),
        Err(Failure::Ambiguous(node)) => ambiguous(builder, node),
    };
    Outcome {
        value: None,
        diagnostics: vec![diagnostic],
    }
}

/// The error for a text with two readings; `Language` adds the readings as source.
fn ambiguous(builder: &Builder<'_>, node: Ref) -> Diagnostic {
    let span = builder.span(node);
    Diagnostic::error(
        codes::SYNTAX_AMBIGUOUS,
        format!(
            "{} can be read in two ways",
            quote(builder.tokens.source.slice(span))
        ),
    )
    .at(&builder.tokens.source, span)
}
