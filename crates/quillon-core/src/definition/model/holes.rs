//! Tokens with holes: `holds text holes "{" Expr "}"`. Such a token is one of two things: a
//! whole one, or a start, something in a hole, perhaps middles with more holes, and an
//! end. What follows from that for the rules and for the `written` clauses is done here,
//! so that nothing else need know of it but the lexer.

use super::{Holds, Name, PIECES, Part, Pattern, Repeat, Thing, TokenRule};

/// The rules of the pieces of a token with holes; none for other tokens.
pub(in crate::definition) fn pieces(rule: &TokenRule) -> Vec<TokenRule> {
    let Some(holes) = &rule.holes else {
        return Vec::new();
    };
    let Some((open, inner, close)) = rule.pattern.delimited() else {
        return Vec::new();
    };
    let texts = [
        (open.as_str(), holes.open.text.as_str()),
        (holes.close.text.as_str(), holes.open.text.as_str()),
        (holes.close.text.as_str(), close.as_str()),
    ];
    PIECES
        .iter()
        .zip(texts)
        .map(|(piece, (first, last))| TokenRule {
            name: named(&rule.name, piece),
            pattern: Pattern::Sequence(vec![
                Pattern::Literal(first.to_owned()),
                Pattern::Star(Box::new(inner.clone())),
                Pattern::Literal(last.to_owned()),
            ])
            .into(),
            ignored: false,
            holds: Some(Holds::Text),
            holes: None,
            piece: true,
            group: rule.group.clone(),
            turn: super::Turn::NONE,
            until_line: false,
        })
        .collect()
}

fn named(name: &Name, piece: &str) -> Name {
    Name {
        text: format!("{}{piece}", name.text),
        span: name.span,
    }
}

/// Says in a `written` clause what fields of tokens with holes are made of.
pub(in crate::definition) fn spell_out(part: &mut Part, tokens: &[TokenRule]) {
    match part {
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter_mut().for_each(|part| spell_out(part, tokens));
        }
        Part::Optional(inner) => spell_out(inner, tokens),
        Part::Repeat(repeat) => {
            spell_out(&mut repeat.part, tokens);
            repeat.by.iter_mut().for_each(|by| spell_out(by, tokens));
        }
        Part::Field(field, things) => {
            let with_holes = tokens.iter().filter(|rule| {
                rule.holes.is_some()
                    && things
                        .iter()
                        .any(|thing| matches!(thing, Thing::Named(n) if n.text == rule.name.text))
            });
            let mut choices: Vec<Part> = with_holes
                .filter_map(|rule| in_pieces(field, rule))
                .collect();
            if !choices.is_empty() {
                choices.insert(0, part.clone());
                *part = Part::Choice(choices);
            }
        }
        Part::Literal(_) | Part::Soft(_) | Part::Unnamed(_) | Part::Tight(_) => {}
    }
}

/// A field of a token with holes, in pieces: a start, what is in the first hole, any
/// number of middles each with what is in the hole after it, and an end.
fn in_pieces(field: &Name, rule: &TokenRule) -> Option<Part> {
    let holes = rule.holes.as_ref()?;
    let one = |name: Name| Part::Field(field.clone(), vec![Thing::Named(name)]);
    let [start, middle, end] = PIECES.map(|piece| one(named(&rule.name, piece)));
    let hole = one(holes.sort.clone());
    let more = Repeat {
        part: Part::Sequence(vec![middle, hole.clone()]),
        at_least_one: false,
        by: None,
        trailing: false,
    };
    Some(Part::Sequence(vec![
        start,
        hole,
        Part::Repeat(Box::new(more)),
        end,
    ]))
}
