//! Signs that programs declare as operators. For the tables, a sign of each side and rank is a
//! terminal of its own, and so is one that is no operator; which of them a token is taken as
//! depends on what has been declared before it.

use std::collections::BTreeMap;

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Terminal};
use super::lookahead_of;
use crate::definition::{DeclaredRank, DeclaredSide, Definition, Fixity, Grouping, Place, Thing};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::lexing::{KindId, Signs, Token, Tokens};
use crate::source::{SourceText, Span};
use crate::tree::{NodeId, Tree};

/// How a sign may stand that nothing declares, the likeliest first.
const GUESSES: [Grouping; 3] = [Grouping::Left, Grouping::Suffix, Grouping::Prefix];

/// The terminals of signs.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct SignTerminals {
    /// The terminal of each kind and fixity: anywhere, and where it touches what is before it.
    of: FxHashMap<(KindId, Fixity), [Option<u16>; 2]>,
    /// Whether tokens of a kind can be declared.
    kinds: Vec<KindId>,
    /// The loosest rank, which a sign has that nobody has declared.
    loosest: i64,
    /// The forms that declare signs.
    declaring: Vec<usize>,
}

impl SignTerminals {
    /// None yet, for the signs that a definition lets programs declare.
    pub fn of(definition: &Definition, kind: impl Fn(&str) -> Option<KindId>) -> SignTerminals {
        SignTerminals {
            of: FxHashMap::default(),
            kinds: definition
                .sign_kinds()
                .into_iter()
                .filter_map(kind)
                .collect(),
            loosest: definition.ranks().map_or(0, |ranks| ranks.from),
            declaring: definition.declaring().map(|(form, _)| form).collect(),
        }
    }

    /// The terminal of a sign with a fixity, made if there is none.
    pub fn terminal(
        &mut self,
        terminals: &mut Vec<Terminal>,
        plain: Terminal,
        fixity: Fixity,
    ) -> u16 {
        let slots = self.of.entry((plain.kind, fixity)).or_default();
        *slots[usize::from(plain.tight)].get_or_insert_with(|| {
            terminals.push(Terminal {
                fixity: Some(fixity),
                ..plain
            });
            terminals.len() as u16 - 1
        })
    }

    /// Whether a sign that nothing declares is taken to stand so.
    pub fn is_guess(&self, fixity: Fixity) -> bool {
        fixity.rank == self.loosest && GUESSES.contains(&fixity.side)
    }

    /// Whether tokens of a kind can be declared.
    pub fn has(&self, kind: KindId) -> bool {
        self.kinds.contains(&kind)
    }
}

/// The terminals that a token may be taken as: as the first that it can be.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Choices {
    terminals: [u16; Choices::MOST],
    count: usize,
    /// How many of them are right; as one of the others it is a mistake.
    right: usize,
}

impl Choices {
    /// One behind an operand, one before one, the kind itself, and what it could be by mistake:
    /// each anywhere, or only where it touches what is before it.
    const MOST: usize = 12;

    /// All right.
    pub fn of(terminals: &[u16]) -> Choices {
        let mut choices = Choices::default();
        choices.extend(terminals.iter().copied());
        choices.right = choices.count;
        choices
    }

    fn extend(&mut self, terminals: impl IntoIterator<Item = u16>) {
        for terminal in terminals {
            self.terminals[self.count] = terminal;
            self.count += 1;
        }
    }

    /// Those that are right.
    pub fn right(&self) -> &[u16] {
        &self.terminals[..self.right]
    }

    /// Those that are mistakes.
    pub fn mistaken(&self) -> &[u16] {
        &self.terminals[self.right..self.count]
    }
}

impl Grammar {
    /// The terminals that a token may be taken as that may be a declared sign.
    pub(super) fn sign_choices(
        &self,
        signs: &Signs,
        text: &str,
        index: u32,
        token: Token,
    ) -> Choices {
        let mut choices = Choices::default();
        let [after, before] = signs.at(text, index);
        for fixity in [after, before].into_iter().flatten() {
            self.push_sign(&mut choices, token, fixity);
        }
        let (plain, tight) = self.of_kind[token.kind.0 as usize];
        choices.extend(tight.filter(|_| token.tight()));
        choices.extend(plain);
        choices.right = choices.count;
        for side in GUESSES {
            let rank = self.signs.loosest;
            let guess = Fixity { side, rank };
            let declared = if guess.is_before() { before } else { after };
            if declared.is_none() {
                self.push_sign(&mut choices, token, guess);
            }
        }
        choices
    }

    /// The terminals that a token may be taken as, the likeliest first, with the signs that are
    /// operators in the end.
    pub(super) fn ways(&self, signs: &Signs, source: &SourceText, token: Token) -> Vec<u16> {
        if self.signs.has(token.kind) {
            let text = source.slice(token.span);
            return self
                .sign_choices(signs, text, u32::MAX, token)
                .right()
                .to_vec();
        }
        let main = lookahead_of(self, token).main;
        main.into_iter().flatten().collect()
    }

    fn push_sign(&self, choices: &mut Choices, token: Token, fixity: Fixity) {
        if let Some([plain, tight]) = self.signs.of.get(&(token.kind, fixity)) {
            choices.extend(tight.filter(|_| token.tight()));
            choices.extend(*plain);
        }
    }

    /// Whether reducing a production makes a sign an operator.
    pub(super) fn declares(&self, production: u32) -> bool {
        let production = &self.productions[production as usize];
        let is_declaring = |form: usize| self.signs.declaring.contains(&form);
        production.node && production.form.is_some_and(is_declaring)
    }
}

/// What is wrong with how a program declares signs, or uses them.
#[derive(Clone, Copy, Debug)]
enum Mistake {
    /// Nothing has made the token an operator, where it stands.
    Undeclared(Place),
    /// The token is no rank that there is.
    Rank,
}

/// The signs of a text being read.
pub(super) struct SignReading<'a> {
    definition: &'a Definition,
    tokens: &'a Tokens,
    pub signs: Signs,
    /// What is wrong, by token.
    mistakes: BTreeMap<u32, Mistake>,
}

impl<'a> SignReading<'a> {
    /// With those that are known before the text.
    pub fn new(definition: &'a Definition, tokens: &'a Tokens) -> SignReading<'a> {
        SignReading {
            definition,
            tokens,
            signs: Signs::clone(&tokens.signs),
            mistakes: BTreeMap::new(),
        }
    }

    /// Notes what a form declares, from a token on. `token` gives the token of a field.
    pub fn declare(&mut self, form: usize, from: u32, token: impl Fn(usize) -> Option<u32>) {
        let form = &self.definition.forms[form];
        let (Some(declares), Some(ranks)) = (&form.declares, self.definition.ranks()) else {
            return;
        };
        let field = |name: &str| form.field_index(name).and_then(&token);
        let text = |name: &str| field(name).map(|at| self.text(at));
        let Some(found) = declares.declaration(ranks, text) else {
            return;
        };
        if let (Some(DeclaredRank::Field(name)), false) = (&declares.rank, found.is_ranked) {
            let mistakes = field(&name.text).map(|at| (at, Mistake::Rank));
            self.mistakes.extend(mistakes);
        }
        self.signs.declare(found.sign, found.fixity, from);
    }

    /// Notes as what a token has been taken: whether as an operator that it is not.
    pub fn taken(&mut self, index: u32, mistaken: Option<Fixity>) {
        match mistaken {
            Some(fixity) => {
                let place = Place::of(fixity.side);
                self.mistakes.insert(index, Mistake::Undeclared(place));
            }
            None => {
                self.mistakes.remove(&index);
            }
        }
    }

    /// All that is wrong, in the order of the text.
    pub fn diagnostics(&self) -> Vec<Diagnostic> {
        let mut said: FxHashSet<&str> = FxHashSet::default();
        let mut found = Vec::new();
        for (&index, mistake) in &self.mistakes {
            match *mistake {
                // Each sign is said once.
                Mistake::Undeclared(place) => {
                    let text = self.text(index);
                    if said.insert(text) {
                        found.push(self.unknown(index, place));
                    }
                }
                Mistake::Rank => found.push(self.no_rank(index)),
            }
        }
        found
    }

    /// The text of a token.
    pub fn text(&self, index: u32) -> &'a str {
        self.tokens.source.slice(self.span(index))
    }

    fn span(&self, index: u32) -> Span {
        self.tokens.tokens[index as usize].span
    }

    fn no_rank(&self, index: u32) -> Diagnostic {
        let message = format!(
            "{} is no rank that an operator can have",
            quote(self.text(index))
        );
        let error = Diagnostic::error(codes::SYNTAX_OPERATOR, message)
            .at(&self.tokens.source, self.span(index));
        match self.definition.ranks() {
            Some(ranks) => error.why(format!(
                "ranks are integers from {}, the loosest, to {}, the tightest",
                ranks.from, ranks.to
            )),
            None => error,
        }
    }

    /// A sign that is no operator where it stands.
    fn unknown(&self, index: u32, place: Place) -> Diagnostic {
        let sign = self.text(index);
        let first = self.signs.first(sign);
        let message = match first {
            Some((from, fixity)) if from <= index => format!(
                "{} is declared {}, and stands {}",
                quote(sign),
                fixity.side.stands(),
                place.stands()
            ),
            Some(_) => format!("{} is used before it is declared", quote(sign)),
            None => format!("nothing declares the operator {}", quote(sign)),
        };
        let mut error = Diagnostic::error(codes::SYNTAX_OPERATOR, message)
            .at(&self.tokens.source, self.span(index));
        if let Some((from, _)) = first.filter(|(from, _)| *from > index) {
            let end = self.span(from.saturating_sub(1)).after();
            error = error.related(&self.tokens.source, end, "it is declared here");
        }
        let near = nearest(sign, self.signs.names()).filter(|_| first.is_none());
        error = error.did_you_mean(near);
        match self.declaration(sign, place) {
            Some(text) if error.remedies.is_empty() => {
                error.remedy(format!("declare it before it is used, with `{text}`"))
            }
            _ => error,
        }
    }

    /// How a program declares a sign for a place, as far as the definition tells.
    fn declaration(&self, sign: &str, place: Place) -> Option<String> {
        let mut all = self.definition.declaring();
        let (form, declares) = all.find(|(_, declares)| match declares.side {
            DeclaredSide::Always(side) => place.sides().contains(&side),
            DeclaredSide::Field(_) => true,
        })?;
        let form = &self.definition.forms[form];
        let written = form.written.as_ref()?;
        let is_of_place = |word: &&str| {
            let side = Grouping::of_word(word);
            side.is_none_or(|side| place.sides().contains(&side))
        };
        Some(written.sketch(&|field, things| {
            if field == declares.sign.text {
                return sign.to_owned();
            }
            let words = things.iter().filter_map(Thing::literal);
            let word = words.clone().find(is_of_place).or(words.clone().next());
            word.unwrap_or("…").to_owned()
        }))
    }
}

impl Grouping {
    /// Where its operands are.
    fn stands(self) -> &'static str {
        match self {
            Grouping::Left | Grouping::Right | Grouping::None => "between two operands",
            Grouping::Prefix => "before its operand",
            Grouping::Suffix => "behind its operand",
        }
    }
}

impl Place {
    fn stands(self) -> &'static str {
        self.sides().first().map_or("alone", |side| side.stands())
    }

    fn of(side: Grouping) -> Place {
        match side {
            Grouping::Left | Grouping::Right | Grouping::None => Place::Between,
            Grouping::Prefix => Place::Before,
            Grouping::Suffix => Place::Behind,
        }
    }
}

/// The signs that are operators after a tree, beside those that are known before it. `met` is told
/// of each node that has such a sign as its operator, with how that stands where it is: behind an
/// operand, and before one.
pub(crate) fn signs_after(
    definition: &Definition,
    tree: &Tree,
    met: &mut dyn FnMut(NodeId, [Option<Fixity>; 2]),
) -> Signs {
    let mut signs = Signs::clone(tree.signs());
    let Some(ranks) = definition.ranks() else {
        return signs;
    };
    let fields = definition
        .forms
        .iter()
        .map(|form| definition.sign_field(form));
    let fields: Vec<Option<usize>> = fields.collect();
    let mut waiting = vec![(tree.root(), false)];
    while let Some((id, is_over)) = waiting.pop() {
        let form = tree.form(id);
        let text = |field: usize| Some(tree.text(*tree.children(id, field).first()?));
        if is_over {
            let form = form.map(|form| &definition.forms[form]);
            let found = form.and_then(|form| {
                let of_name = |name: &str| text(form.field_index(name)?);
                form.declares.as_ref()?.declaration(ranks, of_name)
            });
            if let Some(found) = found {
                signs.declare(found.sign, found.fixity, 0);
            }
            continue;
        }
        if let Some(sign) = form.and_then(|form| fields[form]).and_then(text) {
            met(id, signs.at(sign, 0));
        }
        if form.is_some_and(|form| definition.forms[form].declares.is_some()) {
            waiting.push((id, true));
        }
        for index in (0..tree.field_count(id)).rev() {
            let children = tree.children(id, index).iter().rev();
            waiting.extend(children.map(|child| (*child, false)));
        }
    }
    signs
}
