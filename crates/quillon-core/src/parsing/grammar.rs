//! The forms of a definition as a context-free grammar.

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::expand::Expander;
use super::signs::SignTerminals;
use crate::definition::{Definition, Fixity, Form, Grouping, Place, TableLevel};
use crate::diagnostic::{Diagnostic, codes};
use crate::lexing::{KindId, Lexer, Token};

/// A terminal or a nonterminal, by index.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize)]
pub(crate) enum Symbol {
    Terminal(u16),
    Nonterminal(u16),
}

/// A token kind as the tables see it: some places want it to touch the token before.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub(crate) struct Terminal {
    pub kind: KindId,
    pub tight: bool,
    /// How it stands, if it is a sign that a program has declared.
    pub fixity: Option<Fixity>,
}

/// What a nonterminal stands for.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(crate) enum Nonterminal {
    /// All forms of a sort.
    Sort(String),
    /// One form of a sort, asked for by name.
    Form(usize),
    /// A repetition or a group.
    Helper,
}

/// What becomes of a symbol of a production.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Serialize, Deserialize)]
pub(crate) enum Role {
    /// It is not in the tree.
    Drop,
    /// It is the field's child, or one of them.
    Field(u16),
    /// A shared list, whose items are the field's children.
    Items(u16),
    /// An item of a shared list.
    Item,
    /// A helper whose parts belong to the same form.
    Inner,
}

/// One way to write a nonterminal.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Production {
    pub left: u16,
    pub right: Vec<Symbol>,
    pub roles: Vec<Role>,
    /// The form it belongs to: the one it is, or the one whose part it is.
    pub form: Option<usize>,
    /// Whether a reduction makes a node of the form.
    pub node: bool,
    /// Table, level and grouping of an operator.
    pub level: Option<(usize, usize, Grouping)>,
    /// Which way it goes at the choices of the form (see `Part::choices`).
    pub choices: Vec<(u16, u16)>,
}

impl Production {
    /// Where the token of a field stands, if it is a token.
    pub fn place_of(&self, field: usize) -> Option<usize> {
        let mut parts = self.right.iter().zip(&self.roles);
        parts.position(|(symbol, role)| {
            matches!(symbol, Symbol::Terminal(_)) && *role == Role::Field(field as u16)
        })
    }
}

/// What may stand alone.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Entry {
    pub sort: String,
    pub production: u32,
}

/// As what a token is taken; `NONE` where it cannot be.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(crate) struct Simple {
    /// As one that touches nothing.
    pub loose: u16,
    /// As one that touches the token before it: first, where that can stand there.
    pub tight: u16,
}

/// Stands for no terminal.
pub(super) const NONE: u16 = u16::MAX;

impl Default for Simple {
    fn default() -> Simple {
        Simple {
            loose: NONE,
            tight: NONE,
        }
    }
}

/// A grammar; production by production, entries first.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Grammar {
    pub terminals: Vec<Terminal>,
    pub nonterminals: Vec<Nonterminal>,
    pub productions: Vec<Production>,
    /// The productions of each nonterminal.
    pub of: Vec<Vec<u32>>,
    pub entries: Vec<Entry>,
    /// The nonterminal that is ranked by each precedence table, if it is in the grammar.
    pub operands: Vec<Option<u16>>,
    /// Forms that win over others where a text can be read as either, each with the other.
    pub wins: FxHashSet<(usize, usize)>,
    /// The plain and the tight terminal of each token kind.
    pub of_kind: Vec<(Option<u16>, Option<u16>)>,
    /// As what tokens of each kind are taken, where they are no signs of programs.
    simple: Vec<Simple>,
    /// The terminals of signs that programs declare.
    pub signs: SignTerminals,
}

/// The literals of all `written` clauses, each once, in order; with whether any mention
/// of it is `soft`.
pub(crate) fn literals(definition: &Definition) -> Vec<(String, bool)> {
    let mut found: Vec<(String, bool)> = Vec::new();
    let mut soft = Vec::new();
    for part in definition
        .forms
        .iter()
        .filter_map(|form| form.written.as_ref())
    {
        let mut all = Vec::new();
        part.literals(&mut all);
        part.soft_literals(&mut soft);
        for text in all {
            if !found.iter().any(|(known, _)| known == text) {
                found.push((text.to_owned(), false));
            }
        }
    }
    for (text, is_soft) in &mut found {
        *is_soft = soft.contains(&text.as_str());
    }
    found
}

impl Grammar {
    /// As what a token is taken that is no sign of programs and no soft word.
    #[inline]
    pub fn simple(&self, token: Token) -> Simple {
        if token.also().is_some() {
            return Simple::default();
        }
        let Simple { loose, tight } = self.simple[token.kind.0 as usize];
        let tight = if token.tight() { tight } else { NONE };
        Simple { loose, tight }
    }

    /// The grammar of a definition whose names have been checked. `entries` are the
    /// sorts that may stand alone.
    pub fn new(
        definition: &Definition,
        lexer: &Lexer,
        entries: &[String],
    ) -> Result<Grammar, Vec<Diagnostic>> {
        let mut builder = Builder {
            definition,
            lexer,
            grammar: Grammar {
                terminals: vec![Terminal {
                    kind: KindId::END,
                    tight: false,
                    fixity: None,
                }],
                nonterminals: Vec::new(),
                productions: Vec::new(),
                of: Vec::new(),
                entries: Vec::new(),
                operands: Vec::new(),
                wins: wins(definition),
                of_kind: vec![(None, None); lexer.kinds().len()],
                simple: Vec::new(),
                signs: SignTerminals::of(definition, |name| lexer.kind_of(name, false)),
            },
            of_sort: of_sort(definition),
            named: named(definition),
            levels: definition.levels(),
            sorts: FxHashMap::default(),
            forms: FxHashMap::default(),
            lists: FxHashMap::default(),
            diagnostics: Vec::new(),
        };
        builder.grammar.of_kind[0] = (Some(0), None);
        for sort in entries {
            let symbol = builder.sort(sort);
            let left = builder.helper();
            let production = builder.production(Production {
                left,
                right: vec![symbol],
                roles: vec![Role::Inner],
                form: None,
                node: false,
                level: None,
                choices: Vec::new(),
            });
            builder.grammar.entries.push(Entry {
                sort: sort.clone(),
                production,
            });
        }
        let Grammar { of_kind, signs, .. } = &builder.grammar;
        let kinds = (0u16..).map(KindId).zip(of_kind);
        let simple = kinds.map(|(kind, &(loose, tight))| {
            let terminal = |terminal: Option<u16>| terminal.filter(|_| !signs.has(kind));
            Simple {
                loose: terminal(loose).unwrap_or(NONE),
                tight: terminal(tight).unwrap_or(NONE),
            }
        });
        builder.grammar.simple = simple.collect();
        let tables = definition.precedence.iter();
        let operands = tables.map(|table| builder.sorts.get(&table.sort.text).copied());
        builder.grammar.operands = operands.collect();
        let counts = [
            builder.grammar.nonterminals.len(),
            builder.grammar.terminals.len(),
        ];
        if counts.iter().any(|&count| count > MOST) {
            return Err(vec![too_large(definition)]);
        }
        let circles = super::cycles::check(&builder.grammar, definition);
        builder.diagnostics.extend(circles);
        if builder.diagnostics.is_empty() {
            Ok(builder.grammar)
        } else {
            Err(builder.diagnostics)
        }
    }
}

/// The forms of each sort, in order.
fn of_sort(definition: &Definition) -> FxHashMap<&str, Vec<usize>> {
    let mut all: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
    for (index, form) in definition.forms.iter().enumerate() {
        all.entry(form.sort_name()).or_default().push(index);
    }
    all
}

/// The forms by name; of two alike the first counts.
fn named(definition: &Definition) -> FxHashMap<&str, usize> {
    let forms = definition.forms.iter().enumerate().rev();
    forms
        .map(|(index, form)| (&form.name.text[..], index))
        .collect()
}

fn wins(definition: &Definition) -> FxHashSet<(usize, usize)> {
    let index = named(definition);
    let of_form = |(winner, form): (usize, &Form)| {
        let losers = form
            .wins
            .iter()
            .filter_map(|name| index.get(&name.text[..]));
        losers.map(|loser| (winner, *loser)).collect::<Vec<_>>()
    };
    definition
        .forms
        .iter()
        .enumerate()
        .flat_map(of_form)
        .collect()
}

/// The most terminals, and nonterminals, that the tables can tell apart.
const MOST: usize = u16::MAX as usize;

fn too_large(definition: &Definition) -> Diagnostic {
    let message = format!("this definition has more than {MOST} repetitions, sorts or tokens");
    Diagnostic::error(codes::DEFINITION_LIMIT, message)
        .at(&definition.source, definition.name.span)
        .remedy("describe the language in fewer forms, with fewer repeated parts")
}

/// What tells shared lists apart: what is repeated, what stands between, and the
/// precedence of the forms that have it.
pub(super) type ListKey = (
    Vec<Symbol>,
    Vec<Vec<Symbol>>,
    Option<(usize, usize, Grouping)>,
);

/// Makes the grammar; nonterminals are added as they are met.
pub(super) struct Builder<'a> {
    pub definition: &'a Definition,
    pub lexer: &'a Lexer,
    pub grammar: Grammar,
    /// The forms of each sort.
    of_sort: FxHashMap<&'a str, Vec<usize>>,
    /// The forms by name.
    named: FxHashMap<&'a str, usize>,
    levels: FxHashMap<&'a str, TableLevel>,
    sorts: FxHashMap<String, u16>,
    forms: FxHashMap<usize, u16>,
    /// Shared lists, each with its nonterminal.
    pub lists: FxHashMap<ListKey, u16>,
    pub diagnostics: Vec<Diagnostic>,
}

impl Builder<'_> {
    fn nonterminal(&mut self, what: Nonterminal) -> u16 {
        self.grammar.nonterminals.push(what);
        self.grammar.of.push(Vec::new());
        self.grammar.nonterminals.len() as u16 - 1
    }

    pub fn helper(&mut self) -> u16 {
        self.nonterminal(Nonterminal::Helper)
    }

    pub fn production(&mut self, production: Production) -> u32 {
        let id = self.grammar.productions.len() as u32;
        self.grammar.of[production.left as usize].push(id);
        self.grammar.productions.push(production);
        id
    }

    pub fn terminal(&mut self, kind: KindId, tight: bool) -> Symbol {
        let terminals = &mut self.grammar.terminals;
        let slot = &mut self.grammar.of_kind[kind.0 as usize];
        let slot = if tight { &mut slot.1 } else { &mut slot.0 };
        let id = *slot.get_or_insert_with(|| {
            let fixity = None;
            terminals.push(Terminal {
                kind,
                tight,
                fixity,
            });
            terminals.len() as u16 - 1
        });
        Symbol::Terminal(id)
    }

    /// The nonterminal of a sort, with its productions.
    fn sort(&mut self, sort: &str) -> Symbol {
        if let Some(&id) = self.sorts.get(sort) {
            return Symbol::Nonterminal(id);
        }
        let id = self.nonterminal(Nonterminal::Sort(sort.to_owned()));
        self.sorts.insert(sort.to_owned(), id);
        for form in self.of_sort.get(sort).cloned().unwrap_or_default() {
            self.form_productions(form, id);
        }
        Symbol::Nonterminal(id)
    }

    fn form_productions(&mut self, form: usize, left: u16) {
        let definition = self.definition;
        let Some(part) = &*definition.forms[form].written else {
            return;
        };
        let level = self.levels.get(&definition.forms[form].name.text[..]);
        let level = level
            .copied()
            .map(|(table, line, grouping)| (table, definition.tightness(table, line, 0), grouping));
        let drafts = Expander::new(self, form, level, part).alternatives(part);
        let sign = definition.sign_field(&definition.forms[form]);
        for draft in drafts {
            let production = draft.production(left, form, true, level);
            match sign.and_then(|field| production.place_of(field)) {
                Some(place) => self.by_sign(&production, place),
                None => {
                    self.production(production);
                }
            }
        }
    }

    /// The productions of a form whose sign is declared: one for each way in which it can stand.
    fn by_sign(&mut self, production: &Production, place: usize) {
        let definition = self.definition;
        let (Symbol::Terminal(plain), Some((table, line, _)), Some(ranks)) = (
            production.right[place],
            production.level,
            definition.ranks(),
        ) else {
            return;
        };
        let plain = self.grammar.terminals[plain as usize];
        let is_operand =
            |symbol: Option<&Symbol>| symbol == Some(&Symbol::Nonterminal(production.left));
        let operands = [production.right.first(), production.right.last()].map(is_operand);
        let stands = match operands {
            [true, true] => Place::Between,
            [false, true] => Place::Before,
            [true, false] => Place::Behind,
            [false, false] => return,
        };
        for &side in stands.sides() {
            for rank in ranks.all() {
                let fixity = Fixity { side, rank };
                let terminals = &mut self.grammar.terminals;
                let terminal = self.grammar.signs.terminal(terminals, plain, fixity);
                let mut production = production.clone();
                production.right[place] = Symbol::Terminal(terminal);
                production.level = Some((table, definition.tightness(table, line, rank), side));
                self.production(production);
            }
        }
    }

    /// The symbol of a name in a `written` clause: a sort, a token, or one form.
    pub fn named(&mut self, name: &str, tight: bool) -> Symbol {
        let is_sort = self.of_sort.contains_key(name);
        if !is_sort && let Some(kind) = self.lexer.kind_of(name, false) {
            return self.terminal(kind, tight);
        }
        if is_sort {
            return self.sort(name);
        }
        let form = self.named.get(name).copied().unwrap_or_default();
        if let Some(&id) = self.forms.get(&form) {
            return Symbol::Nonterminal(id);
        }
        let id = self.nonterminal(Nonterminal::Form(form));
        self.forms.insert(form, id);
        self.form_productions(form, id);
        Symbol::Nonterminal(id)
    }
}
