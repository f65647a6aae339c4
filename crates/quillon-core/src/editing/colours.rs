//! What each token is, for those who colour it.

use rustc_hash::FxHashMap;

use super::{Looked, What};
use crate::definition::Holds;
use crate::lexing::Token;
use crate::scoping::BindingId;
use crate::source::Span;

/// What a token is to a reader.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Role {
    /// A word of the language.
    Keyword,
    /// A sign of the language.
    Operator,
    /// A number.
    Number,
    /// A text.
    Text,
    /// What the language passes over.
    Comment,
    /// A form, a sort or a token of a definition.
    Kind,
    /// A name.
    Name {
        /// What it stands for.
        what: What,
        /// Whether it is bound here.
        binds: bool,
        /// Whether its variable is changed here.
        changes: bool,
    },
}

/// A token with its role.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Coloured {
    /// Where it stands.
    pub span: Span,
    /// What it is.
    pub role: Role,
}

impl Looked {
    /// The tokens that are something to a reader, in the order of the text.
    pub fn colours(&self) -> Vec<Coloured> {
        let mut of_names: FxHashMap<Span, Role> = FxHashMap::default();
        if let Some((tree, names)) = self.named() {
            let mut known: FxHashMap<BindingId, What> = FxHashMap::default();
            for mention in names.mentions(tree) {
                let what = known.entry(mention.binding);
                let what = *what.or_insert_with(|| self.what(mention.binding));
                let role = Role::Name {
                    what,
                    binds: mention.used.is_none(),
                    changes: mention.used.is_some_and(|used| used.changes),
                };
                of_names.insert(tree.node(mention.node).span, role);
            }
        }
        let coloured = self.tokens().filter_map(|token| {
            let role = of_names.get(&token.span).copied();
            let role = role.or_else(|| self.role(token))?;
            Some(Coloured {
                span: token.span,
                role,
            })
        });
        coloured.collect()
    }

    fn role(&self, token: Token) -> Option<Role> {
        let kind = self.language.lexer().kind(token.kind);
        let text = self.source.slice(token.span);
        if kind.is_literal() {
            let is_word = text.chars().any(char::is_alphabetic);
            return Some(if is_word {
                Role::Keyword
            } else {
                Role::Operator
            });
        }
        if kind.ignored {
            return (!text.trim().is_empty()).then_some(Role::Comment);
        }
        match kind.holds? {
            Holds::Integer | Holds::Number => Some(Role::Number),
            Holds::Text => Some(Role::Text),
        }
    }
}
