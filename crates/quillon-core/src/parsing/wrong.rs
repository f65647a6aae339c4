//! Reading on in a wrong text: each token that is refused is an error, what is wrong is mended so
//! that the next one can be found, and what could be read makes a tree with gaps. A slip to the
//! left of where reading got stuck is mended in the tokens, and they are read again.

use std::borrow::Cow;

use rustc_hash::FxHashMap;

use super::errors::{self, Told};
use super::expected::{Inquiry, Wanted};
use super::mending::{self, Advice, Question};
use super::pairs::{Pair, pairs};
use super::parser::{Run, Step};
use super::recovery::{Repair, Repairer};
use super::slips::{Mending, Slip};
use super::strangers::Strangers;
use super::witness::Witness;
use super::{Parsed, Parser, Parts};
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Outcome, codes};
use crate::lexing::{BRACKETS, KindId, Lexer, Token, Tokens, is_closing};
use crate::source::Span;

/// Syntax errors of one text beyond this many are not looked for.
const MOST_ERRORS: usize = 25;

/// More mends than this are not made, whether they are told or not.
const MOST_MENDS: usize = 60;

/// So often the tokens are mended and read again: each time takes as long as reading a right text.
const MOST_ROUNDS: usize = 6;

/// What is wrong with a text, as far as it has been read.
pub(super) struct Wrong<'a> {
    parser: &'a Parser,
    definition: &'a Definition,
    lexer: &'a Lexer,
    entry: usize,
    strangers: Strangers,
    diagnostics: Vec<Diagnostic>,
    gaps: Vec<Span>,
    /// What closes brackets and blocks that mends have put in: that it is missing is then no mistake
    /// of the text.
    owed: Vec<KindId>,
    /// Whether mends have put in anything of that kind.
    opened: bool,
    /// Words of the language that stand where names are wanted: each is said once.
    reserved: Vec<String>,
    /// Whether the text has been found to end too early, which is said once.
    ended: bool,
    /// How many blocks have been mended away whose ends are still to come.
    surplus: usize,
    /// What has been done about the tokens that were refused, to be done again in the next round.
    done: Vec<Mend>,
    rounds: usize,
    /// The line on which something was mended by guess: what is wrong behind it may follow from that.
    guessed: Option<Span>,
    /// Stretches that errors speak of.
    told: Vec<Span>,
    /// What opens and what closes.
    pairs: FxHashMap<KindId, Pair>,
    /// Whether indentation has been asked in vain.
    is_deaf: bool,
}

/// A repair of a refused token.
#[derive(Clone, Debug)]
struct Mend {
    index: usize,
    repair: Repair,
    /// The number of the stack.
    stack: usize,
}

impl Mend {
    /// A repair on the only stack, or the first.
    fn new(index: usize, repair: Repair) -> Mend {
        Mend {
            index,
            repair,
            stack: 0,
        }
    }
}

/// How reading goes on after a token that was refused.
enum Next {
    /// With the token at an index.
    Token(usize),
    /// From the start, with other tokens.
    Again(Mending),
    /// Not at all.
    Stop,
}

impl<'a> Wrong<'a> {
    /// Nothing, so far.
    pub fn new(
        parser: &'a Parser,
        definition: &'a Definition,
        lexer: &'a Lexer,
        entry: usize,
    ) -> Wrong<'a> {
        Wrong {
            parser,
            definition,
            lexer,
            entry,
            strangers: Strangers::of(definition, &parser.kinds),
            diagnostics: Vec::new(),
            gaps: Vec::new(),
            owed: Vec::new(),
            opened: false,
            reserved: Vec::new(),
            ended: false,
            surplus: 0,
            done: Vec::new(),
            rounds: 0,
            guessed: None,
            told: Vec::new(),
            pairs: pairs(definition, &parser.kinds),
            is_deaf: false,
        }
    }

    /// Reads tokens of which some cannot stand where they stand.
    pub fn parse(mut self, tokens: &Tokens) -> Parsed {
        let mut tokens = Cow::Borrowed(tokens);
        loop {
            let (again, tree) = self.round(&tokens);
            let Some(mending) = again else {
                return Parsed {
                    outcome: Outcome {
                        value: None,
                        diagnostics: self.diagnostics,
                    },
                    parts: tree.map(|tree| Parts {
                        tree,
                        gaps: self.gaps,
                    }),
                    told: self.told,
                    ambiguity: None,
                };
            };
            self.rounds += 1;
            tokens = Cow::Owned(self.mended(&mending, &tokens));
        }
    }

    /// The tokens with a slip mended.
    fn mended(&self, mending: &Mending, tokens: &Tokens) -> Tokens {
        let mended = mending.mended(tokens);
        let name = |kind: &KindId| self.parser.lexer_kind(*kind).name.as_str();
        let mut put_in = mending.with.iter().map(name);
        // Line ends do not count inside brackets, and a line of remarks is none.
        let closes = put_in.any(is_closing);
        if closes || mending.slip == Slip::Remark {
            return self.lexer.laid_out_anew(mended);
        }
        mended
    }

    /// Reads all tokens once: what to mend before they are read again, or the tree.
    fn round(&mut self, tokens: &Tokens) -> (Option<Mending>, Option<crate::tree::Tree>) {
        let mut run = self.parser.run(self.definition, tokens, self.entry);
        run.is_wrong();
        let mut known = self.done.clone().into_iter().peekable();
        let mut index = 0;
        while index < tokens.tokens.len() {
            let step;
            (index, step) = self.parser.advance(&mut run, tokens, index);
            match step {
                Step::Taken => {}
                Step::Accepted => {
                    self.diagnostics.extend(run.sign_mistakes());
                    return (None, run.finish().ok());
                }
                Step::Refused => {
                    if let Some(mend) = known.next_if(|mend| mend.index == index) {
                        index = self.carry_out(&mend, tokens, &mut run);
                        continue;
                    }
                    match self.refused(index, tokens, &mut run) {
                        Next::Token(next) => index = next,
                        Next::Again(mending) => return (Some(mending), None),
                        Next::Stop => break,
                    }
                }
            }
        }
        (None, None)
    }

    /// Reports a token that was refused, and says how to go on.
    fn refused(&mut self, index: usize, tokens: &Tokens, run: &mut Run<'_>) -> Next {
        if self.is_surplus(index, tokens) {
            self.surplus -= 1;
            return self.mend(Mend::new(index, Repair::Skip(1)), tokens, run);
        }
        if let Some(witness) = self.witness(index, tokens) {
            let error = errors::unclosed(self.parser, tokens, &witness);
            self.report(error);
            return Next::Again(witness.mending);
        }
        let (advice, repair, error) = self.judged(index, tokens, run);
        let ends = error.code == codes::SYNTAX_UNFINISHED;
        let at = tokens.tokens[index].span.start;
        let is_guess = self
            .guessed
            .is_some_and(|line| line.start <= at && at < line.end);
        let is_known = is_guess || ends && (self.opened || self.ended);
        if !is_known && !self.follows(advice.as_ref(), index, tokens) {
            self.report(error);
        }
        self.ended |= ends;
        let has_enough = self.diagnostics.len() >= MOST_ERRORS;
        if has_enough || self.done.len() + self.rounds >= MOST_MENDS {
            return Next::Stop;
        }
        let tried = advice.filter(|advice| advice.is_tried);
        match (tried, repair) {
            (Some(advice), _) => self.follow(advice, index, tokens, run),
            (None, Some(repair)) => {
                let line = line_of(index, tokens);
                self.gaps.push(line);
                self.guessed = Some(line);
                self.mend(Mend::new(index, repair), tokens, run)
            }
            (None, None) => Next::Stop,
        }
    }

    /// Whether an error only follows from what has been said.
    fn follows(&mut self, advice: Option<&Advice>, index: usize, tokens: &Tokens) -> bool {
        let text = |at: usize| tokens.source.slice(tokens.tokens[at].span);
        let is_reserved = |text: &str| self.reserved.iter().any(|known| known == text);
        if index > 0 && is_reserved(text(index - 1)) && tokens.tokens[index].kind == KindId::END {
            return true;
        }
        let Some(Advice { mending, .. }) = advice else {
            return false;
        };
        match mending.slip {
            Slip::Reserved => {
                let word = text(mending.at);
                let is_known = is_reserved(word);
                self.reserved.push(word.to_owned());
                is_known
            }
            Slip::Missing | Slip::Instead => {
                let owed = mending.with.first();
                let at = self.owed.iter().position(|own| Some(own) == owed);
                at.is_some_and(|at| {
                    self.owed.remove(at);
                    true
                })
            }
            _ => false,
        }
    }

    fn report(&mut self, error: Diagnostic) {
        self.diagnostics.push(error);
        if self.diagnostics.len() == MOST_ERRORS {
            self.diagnostics.push(Diagnostic::note(
                codes::SYNTAX_UNEXPECTED,
                format!("reading stops after {MOST_ERRORS} errors"),
            ));
        }
    }

    /// What is to be done about a refused token, what else can be, and what is said of it.
    fn judged(
        &self,
        index: usize,
        tokens: &Tokens,
        run: &Run<'_>,
    ) -> (Option<Advice>, Option<Repair>, Diagnostic) {
        let parser = self.parser;
        let stacks = run.plain_stacks();
        let inquiry = Inquiry {
            grammar: &parser.grammar,
            tables: &parser.tables,
        };
        let wanted: Vec<Vec<Wanted>> = stacks.iter().map(|s| inquiry.wanted(s)).collect();
        let repairer = |stack| Repairer {
            parser,
            source: &tokens.source,
            tokens: &tokens.tokens,
            signs: run.signs(),
            stack,
        };
        let repairers: Vec<Repairer<'_>> = stacks.iter().map(|stack| repairer(stack)).collect();
        let left = if self.rounds < MOST_ROUNDS {
            run.stacks_before()
        } else {
            Vec::new()
        };
        let advice = mending::mending(&Question {
            index,
            repairers: &repairers,
            left: &left,
            inquiry: &inquiry,
            wanted: &wanted,
            strangers: &self.strangers,
        });
        let mut told = Told {
            parser,
            tokens,
            index,
            signs: run.signs(),
            mending: None,
            strangers: &self.strangers,
        };
        // A form that only other languages have is not mended by a change further on.
        let is_far = advice.as_ref().is_none_or(|advice| advice.is_far);
        let advice = advice.filter(|_| is_far || !told.is_strange());
        told.mending = advice.as_ref().map(|advice| &advice.mending);
        let error = told.unexpected(&stacks, &wanted, &inquiry);
        // Whatever else could be done takes longer to find.
        let is_mended = advice.as_ref().is_some_and(|advice| advice.is_tried);
        let first = repairers.first().zip(wanted.first());
        let repair = first
            .filter(|_| !is_mended)
            .and_then(|(repairer, wanted)| repairer.repair(index, wanted));
        (advice, repair, error)
    }

    /// Whether a token ends a block that has been mended away.
    fn is_surplus(&self, index: usize, tokens: &Tokens) -> bool {
        let dedent = self.parser.layout_kind("Dedent");
        self.surplus > 0 && dedent == Some(tokens.tokens[index].kind)
    }

    /// What indentation says of something that is not closed, if more can be read then.
    fn witness(&mut self, index: usize, tokens: &Tokens) -> Option<Witness> {
        if self.rounds >= MOST_ROUNDS || self.is_deaf {
            return None;
        }
        let witness = Witness::of(self.parser, &self.pairs, tokens, index)?;
        let mended = self.mended(&witness.mending, tokens);
        // What is put in counts.
        self.is_deaf = self.reach(&mended) <= index + witness.mending.with.len();
        (!self.is_deaf).then_some(witness)
    }

    /// How far tokens can be read, what is known to be wrong with them mended.
    fn reach(&self, tokens: &Tokens) -> usize {
        let mut run = self.parser.run(self.definition, tokens, self.entry);
        run.is_wrong();
        let mut known = self.done.iter().peekable();
        let mut index = 0;
        loop {
            let step;
            (index, step) = self.parser.advance(&mut run, tokens, index);
            match (step, known.peek()) {
                (Step::Refused, Some(mend)) if mend.index == index => {
                    index = self.carry_out(mend, tokens, &mut run);
                    known.next();
                }
                (Step::Accepted, _) => return tokens.tokens.len() + MOST_ROUNDS,
                (Step::Taken | Step::Refused, _) => return index,
            }
        }
    }

    /// Does what mends the text.
    fn follow(&mut self, advice: Advice, index: usize, tokens: &Tokens, run: &mut Run<'_>) -> Next {
        let Advice { mending, stack, .. } = advice;
        if mending.count > 0 {
            self.told.push(mending.span(tokens));
        }
        let indent = self.parser.layout_kind("Indent");
        if mending.count == 1 && indent == Some(tokens.tokens[index].kind) {
            self.surplus += 1;
        }
        let touches = matches!(mending.slip, Slip::Blank | Slip::Remark);
        let again = mending.at < index || touches || self.opens_line(&mending, tokens);
        let repair = match (&mending.with[..], mending.count) {
            ([], 1) if !again => Repair::Skip(1),
            ([kind], 0) if !again => Repair::Insert(*kind),
            ([kind], 1) if !again => Repair::Replace(*kind),
            _ => return Next::Again(mending),
        };
        let mend = Mend {
            index,
            repair,
            stack,
        };
        self.mend(mend, tokens, run)
    }

    /// Whether line ends count again after what is put in.
    fn opens_line(&self, mending: &Mending, tokens: &Tokens) -> bool {
        let name = |kind: &KindId| self.parser.lexer_kind(*kind).name.as_str();
        let mut put_in = mending.with.iter().map(name);
        let closes = put_in.any(is_closing);
        let end = tokens.tokens[mending.at].kind == KindId::END;
        closes && !end && self.parser.layout_kind("LineEnd").is_some()
    }

    fn mend(&mut self, mend: Mend, tokens: &Tokens, run: &mut Run<'_>) -> Next {
        let next = self.carry_out(&mend, tokens, run);
        self.note(&mend, tokens, run, next);
        self.done.push(mend);
        Next::Token(next)
    }

    /// Notes what a repair leaves out or opens.
    fn note(&mut self, mend: &Mend, tokens: &Tokens, run: &Run<'_>, next: usize) {
        match mend.repair {
            Repair::Insert(kind) | Repair::Replace(kind) => {
                let name = &self.parser.lexer_kind(kind).name;
                let bracket = BRACKETS.iter().find(|(open, _)| open == name);
                let is_block = self.parser.layout_kind("Indent") == Some(kind);
                self.opened |= bracket.is_some() || is_block;
                if bracket.is_some() {
                    // Where it would be closed is a guess.
                    self.guessed = Some(line_of(mend.index, tokens));
                }
                self.owed
                    .extend(bracket.and_then(|(_, close)| self.parser.literal_kind(close)));
                if is_block {
                    self.owed.extend(self.parser.layout_kind("Dedent"));
                }
            }
            Repair::Skip(_) => {}
            Repair::Phrase { .. } => {
                let start = run.top_start(next);
                let last = next.saturating_sub(1).max(start);
                let gap = tokens.tokens[start].span.to(tokens.tokens[last].span);
                self.gaps.push(gap);
            }
        }
    }

    /// Carries out a repair; gives the token to go on with.
    fn carry_out(&self, mend: &Mend, tokens: &Tokens, run: &mut Run<'_>) -> usize {
        let index = mend.index;
        let supply = |run: &mut Run<'_>, kind: KindId| {
            let token = Token::new(kind, tokens.tokens[index].span);
            let is_literal = self.parser.lexer_kind(kind).is_literal();
            run.supply(index as u32, token, is_literal);
        };
        match mend.repair {
            Repair::Skip(count) => index + count,
            Repair::Insert(kind) => {
                supply(run, kind);
                index
            }
            Repair::Replace(kind) => {
                supply(run, kind);
                index + 1
            }
            Repair::Phrase {
                height,
                nonterminal,
                upto,
            } => {
                run.settle_on(mend.stack);
                run.give_up(height, nonterminal, upto as u32);
                upto
            }
        }
    }
}

/// The line of a token.
fn line_of(index: usize, tokens: &Tokens) -> Span {
    let source = &tokens.source;
    source.line_span(source.line_of(tokens.tokens[index].span.start))
}
