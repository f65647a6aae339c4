//! What people get wrong in a text: a few tokens in place of others mend it.

use crate::lexing::{KindId, Token, Tokens};
use crate::source::Span;

/// Why some tokens should be others.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) enum Slip {
    /// Something is missing.
    Missing,
    /// Something else should stand there.
    Instead,
    /// Something should not be there.
    TooMany,
    /// A word of the language is misspelt.
    Misspelt,
    /// Other languages write it so.
    Foreign,
    /// Other languages begin remarks so.
    Remark,
    /// Other languages put texts between such quotes.
    Quotes,
    /// There is a blank where none may be.
    Blank,
    /// A word of the language stands where a name is wanted.
    Reserved,
    /// The form that was meant begins with another word.
    Head,
    /// A variable is given a value as other languages do it.
    Assignment,
}

/// Some tokens that should be others.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) struct Mending {
    pub slip: Slip,
    /// The first of the tokens that are wrong, or the one before which some are missing.
    pub at: usize,
    /// How many are wrong.
    pub count: usize,
    /// What should stand there.
    pub with: Vec<KindId>,
}

impl Mending {
    /// The text that is wrong.
    pub fn span(&self, tokens: &Tokens) -> Span {
        let first = tokens.tokens[self.at].span;
        let last = self.at + self.count.max(1) - 1;
        first.to(tokens.tokens[last].span)
    }

    /// The tokens that are put in: each stands for the text in whose place it is.
    pub fn stand_ins(&self, tokens: &[Token]) -> Vec<Token> {
        let token = |(number, kind): (usize, &KindId)| {
            let span = match self.count {
                0 => tokens[self.at.saturating_sub(1)].span.after(),
                count => tokens[self.at + number.min(count - 1)].span,
            };
            let stand_in = Token::new(*kind, span);
            // What ends where no blank may be goes on touching what comes before it.
            if self.slip == Slip::Blank && number == 0 {
                stand_in.touching()
            } else {
                stand_in
            }
        };
        self.with.iter().enumerate().map(token).collect()
    }

    /// The tokens with the slip mended.
    pub fn mended(&self, tokens: &Tokens) -> Tokens {
        let mut mended = tokens.clone();
        let new = self.stand_ins(&tokens.tokens);
        mended.tokens.splice(self.at..self.at + self.count, new);
        mended
    }
}
