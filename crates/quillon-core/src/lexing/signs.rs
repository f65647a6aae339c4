//! Signs that are operators because a program says so: how each stands, and from where on.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use crate::definition::{Definition, Fixity};

/// The signs that are operators, each from some token on.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub struct Signs {
    known: FxHashMap<String, Declared>,
}

/// How a sign stands, with the token from which on it does, in order.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
struct Declared {
    /// Where it comes behind an operand.
    after: Vec<(u32, Fixity)>,
    /// Where it comes before one, and behind none.
    before: Vec<(u32, Fixity)>,
}

impl Signs {
    /// Those that are built in.
    pub(crate) fn built_in(definition: &Definition) -> Signs {
        let mut signs = Signs::default();
        for provided in &definition.provides {
            if let Some(fixity) = provided.fixity {
                signs.declare(&provided.name.text, fixity, 0);
            }
        }
        signs
    }

    /// Makes a sign an operator from a token on.
    pub(crate) fn declare(&mut self, sign: &str, fixity: Fixity, from: u32) {
        let declared = self.known.entry(sign.to_owned()).or_default();
        let all = if fixity.is_before() {
            &mut declared.before
        } else {
            &mut declared.after
        };
        // A wrong text is read again from a token before.
        let at = all.partition_point(|(known, _)| *known <= from);
        all.insert(at, (from, fixity));
    }

    /// How a sign stands at a token: behind an operand, and before one.
    pub(crate) fn at(&self, sign: &str, token: u32) -> [Option<Fixity>; 2] {
        let Some(declared) = self.known.get(sign) else {
            return [None, None];
        };
        [&declared.after, &declared.before].map(|all| {
            let known = all.partition_point(|(from, _)| *from <= token);
            known.checked_sub(1).map(|last| all[last].1)
        })
    }

    /// Every sign that is an operator somewhere.
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.known.keys().map(String::as_str)
    }

    /// How a sign stands first, and from which token on.
    pub(crate) fn first(&self, sign: &str) -> Option<(u32, Fixity)> {
        let declared = self.known.get(sign)?;
        let both = [declared.after.first(), declared.before.first()];
        both.into_iter()
            .flatten()
            .min_by_key(|(from, _)| *from)
            .copied()
    }

    /// The same signs, each as it stands at the end, from the first token on.
    pub(crate) fn at_end(&self) -> Signs {
        let mut signs = Signs::default();
        for (sign, declared) in &self.known {
            for all in [&declared.after, &declared.before] {
                if let Some((_, fixity)) = all.last() {
                    signs.declare(sign, *fixity, 0);
                }
            }
        }
        signs
    }
}
