//! What opens and what closes: brackets, and the words at both ends of a form.

use rustc_hash::FxHashMap;

use crate::definition::{Definition, Part};
use crate::lexing::{BRACKETS, Kind, KindId, kind_named};

/// What closes what a literal opens.
#[derive(Clone, Debug)]
pub(super) struct Pair {
    pub closer: KindId,
    /// What may stand between the two for the same form: `else` between `if` and `end`.
    pub middle: Vec<KindId>,
}

/// The pairs of a language, by what opens.
pub(super) fn pairs(definition: &Definition, kinds: &[Kind]) -> FxHashMap<KindId, Pair> {
    let kind = |text: &str| kind_named(kinds, text, true);
    let mut found: FxHashMap<KindId, Pair> = FxHashMap::default();
    let mut unsure = Vec::new();
    for part in definition
        .forms
        .iter()
        .filter_map(|form| form.written.as_ref())
    {
        for part in alternatives(part) {
            let mut all = Vec::new();
            part.literals(&mut all);
            let ends = ends(part, &all);
            let (Some(first), Some(last)) = ends else {
                // A word that nothing closes here may open nothing elsewhere.
                unsure.extend(ends.0.and_then(kind));
                continue;
            };
            let (Some(opener), Some(closer)) = (kind(first), kind(last)) else {
                continue;
            };
            let middle = all.iter().filter(|text| **text != first && **text != last);
            let middle = middle.filter_map(|text| kind(text));
            match found.get_mut(&opener) {
                Some(known) if known.closer == closer => known.middle.extend(middle),
                Some(_) => unsure.push(opener),
                None => {
                    let middle = middle.collect();
                    found.insert(opener, Pair { closer, middle });
                }
            }
        }
    }
    found.retain(|opener, _| !unsure.contains(opener));
    found
}

fn alternatives(part: &Part) -> Vec<&Part> {
    match part {
        Part::Choice(parts) => parts.iter().collect(),
        one => vec![one],
    }
}

/// What opens a form, and what closes it: a bracket wherever it stands, a word in front.
fn ends<'p>(part: &'p Part, all: &[&'p str]) -> (Option<&'p str>, Option<&'p str>) {
    let Part::Sequence(parts) = part else {
        return (None, None);
    };
    let text = |part: Option<&'p Part>| match part {
        Some(Part::Literal(text)) => Some(text.text.as_str()),
        _ => None,
    };
    let (first, last) = (text(parts.first()), text(parts.last()));
    let bracket = BRACKETS.iter().find(|(_, close)| Some(*close) == last);
    match bracket {
        Some((open, _)) => {
            let open = all.iter().find(|text| **text == *open).copied();
            (open, last.filter(|_| open.is_some()))
        }
        None if BRACKETS.iter().any(|(open, _)| Some(*open) == first) => (None, None),
        None => (first, last.filter(|_| parts.len() > 1)),
    }
}
