//! What people call operations who know them by other words: `list.push` is `list.add`. Only for messages.

use super::Operation;

/// What values are called elsewhere, with what they are called here.
const KINDS: &[(&str, &[&str])] = &[
    ("text", &["string", "str"]),
    ("list", &["array", "vector", "seq", "stack"]),
    ("map", &["dict", "dictionary", "table", "record", "hash"]),
    ("number", &["math", "float", "decimal"]),
    ("integer", &["int", "whole"]),
    ("coroutine", &["generator", "fiber"]),
];

/// What operations are called elsewhere, with what they are called here; the first that there is of its kind is meant.
const WORDS: &[(&str, &[&str])] = &[
    ("length", &["size", "count", "len"]),
    ("add", &["push", "append", "add_last"]),
    ("take", &["pop", "take_last", "remove_last", "pop_last"]),
    ("take_first", &["shift", "pop_first", "remove_first"]),
    ("at", &["get", "nth", "character", "item_at"]),
    ("get", &["at", "lookup"]),
    ("put", &["set", "store"]),
    ("contains", &["has", "includes"]),
    ("has", &["contains", "has_key", "contains_key", "includes"]),
    ("find", &["index_of", "position", "search"]),
    ("slice", &["sub", "substring", "part", "between"]),
    ("upper", &["uppercase", "to_upper"]),
    ("lower", &["lowercase", "to_lower"]),
    ("trim", &["strip"]),
    ("starts", &["begins", "has_prefix"]),
    ("ends", &["finishes", "has_suffix"]),
    ("join", &["concat", "concatenate"]),
    ("remove", &["delete", "erase"]),
    ("filter", &["select", "where", "keep"]),
    ("map", &["collect", "transform", "each"]),
    ("fold", &["reduce"]),
    ("copy", &["clone", "duplicate"]),
    ("new", &["empty", "create", "make"]),
    ("make", &["new", "create"]),
    ("filled", &["fill", "repeat", "of"]),
    ("ceiling", &["up"]),
    ("floor", &["down"]),
    ("truncate", &["whole"]),
    ("absolute", &["magnitude"]),
    ("root", &["sqrt", "square_root"]),
    ("logarithm", &["ln"]),
    ("angle", &["atan", "arctangent"]),
    ("least", &["min", "minimum"]),
    ("largest", &["max", "maximum"]),
    ("quotient", &["div", "divide"]),
    ("modulo", &["mod"]),
    ("remainder", &["rem"]),
    ("points", &["codes", "code_points"]),
    ("suspend", &["yield", "pause"]),
    ("resume", &["next", "continue"]),
    ("ended", &["done", "finished"]),
    ("leave", &["exit", "quit"]),
    ("now", &["time"]),
];

/// The operation that a name means which there is not, if others call one so.
pub(crate) fn meant(name: &str) -> Option<Operation> {
    let (kind, word) = name.split_once('.')?;
    let called = |(_, others): &&(&str, &[&str])| others.contains(&kind);
    let kind = KINDS.iter().find(called).map_or(kind, |(own, _)| *own);
    let named = |word: &str| Operation::named(&format!("{kind}.{word}"));
    let same = WORDS.iter().filter(|(_, others)| others.contains(&word));
    named(word).or_else(|| same.into_iter().find_map(|(own, _)| named(own)))
}

#[cfg(test)]
mod tests {
    use super::{KINDS, Operation, WORDS, meant};

    #[test]
    fn what_others_say_is_no_name_here_and_leads_to_one() {
        let kinds: Vec<&str> = Operation::ALL
            .iter()
            .filter_map(|operation| operation.name().split_once('.'))
            .map(|(kind, _)| kind)
            .collect();
        for (own, others) in KINDS {
            assert!(kinds.contains(own), "{own}");
            assert!(others.iter().all(|other| !kinds.contains(other)), "{own}");
        }
        for (own, others) in WORDS {
            for other in *others {
                let leads = kinds.iter().any(|kind| {
                    let name = format!("{kind}.{other}");
                    let wanted = format!("{kind}.{own}");
                    Operation::named(&name).is_none()
                        && meant(&name).is_some_and(|meant| meant.name() == wanted)
                });
                assert!(leads, "{other} leads to no {own}");
            }
        }
    }

    #[test]
    fn other_words_are_known() {
        for (name, wanted) in [
            ("map.size", Some("map.length")),
            ("list.take_last", Some("list.take")),
            ("array.push", Some("list.add")),
            ("string.length", Some("text.length")),
            ("dict.contains", Some("map.has")),
            ("coroutine.new", Some("coroutine.make")),
            ("text.join_all", None),
            ("size", None),
            ("list.", None),
        ] {
            assert_eq!(meant(name).map(Operation::name), wanted, "{name}");
        }
    }
}
