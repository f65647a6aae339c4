//! What of a language no case touches: forms, the ways to write them, tokens, branches of
//! meanings, errors, and operators side by side.
//!
//! `items` lists all there is, `touch` says what one program touches, `suggest` finds small
//! programs for what none does.

use rustc_hash::FxHashSet;

use super::engines::Trial;
use crate::language::Language;
use crate::language::Prepared;
use crate::source::Span;

mod items;
mod suggest;
mod touch;

use items::{Index, all_items};

/// What kind of thing can be touched.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, serde::Serialize)]
#[serde(rename_all = "lowercase")]
#[non_exhaustive]
pub enum ItemKind {
    /// A form.
    Form,
    /// A way to write a form, or a number of repetitions in it.
    Way,
    /// A kind of token.
    Token,
    /// A branch of a meaning.
    Branch,
    /// An error with a wording of the definition's own.
    Message,
    /// Operators of two levels side by side.
    Pair,
    /// A form as another surface writes it.
    Surface,
}

impl ItemKind {
    /// All of them, in the order of the stages.
    pub const ALL: [ItemKind; 7] = [
        ItemKind::Token,
        ItemKind::Form,
        ItemKind::Way,
        ItemKind::Surface,
        ItemKind::Pair,
        ItemKind::Branch,
        ItemKind::Message,
    ];

    /// Many of them, in words.
    pub fn words(self) -> &'static str {
        match self {
            ItemKind::Form => "forms",
            ItemKind::Way => "ways to write forms",
            ItemKind::Token => "tokens",
            ItemKind::Branch => "branches of meanings",
            ItemKind::Message => "errors",
            ItemKind::Pair => "operators side by side",
            ItemKind::Surface => "forms in other surfaces",
        }
    }
}

/// Something that a program may touch.
#[derive(Clone, Debug)]
pub struct Item {
    /// What kind of thing it is.
    pub kind: ItemKind,
    /// What it is, in words.
    pub name: String,
    /// Where it stands in the definition.
    pub span: Span,
    /// How many programs touch it.
    pub touched: usize,
    /// A small program that would, if none does and one has been found.
    pub suggestion: Option<String>,
}

/// Finds out what programs touch.
#[derive(Debug)]
pub struct Survey {
    language: Language,
    prepared: Prepared,
    items: Vec<Item>,
    index: Index,
}

impl Survey {
    /// A survey of a language, of which nothing has been touched.
    pub fn new(language: &Language) -> Survey {
        let (items, index) = all_items(language);
        Survey {
            language: language.clone(),
            prepared: Prepared::marked(language),
            items,
            index,
        }
    }

    /// What sessions of the language begin with, for the trials of this survey.
    pub fn prepared(&self) -> &Prepared {
        &self.prepared
    }

    /// Notes what a program touches.
    pub fn add(&mut self, trial: &Trial<'_>) {
        for item in self.touched(trial) {
            self.items[item].touched += 1;
        }
    }

    /// Everything, with how often it was touched.
    pub fn items(&self) -> &[Item] {
        &self.items
    }

    /// The smallest program that is found for any of some items.
    pub(super) fn smallest(&self, wanted: &FxHashSet<usize>) -> Option<String> {
        let found = suggest::suggestions(self, wanted).into_values();
        found.min_by_key(String::len)
    }

    /// Looks for a small program for everything that nothing has touched.
    pub fn suggest(&mut self) {
        let missing: FxHashSet<usize> = (0..self.items.len())
            .filter(|&at| self.items[at].touched == 0)
            .collect();
        for (item, text) in suggest::suggestions(self, &missing) {
            self.items[item].suggestion = Some(text);
        }
    }
}
