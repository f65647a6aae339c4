//! Forms that could stand in themselves without end, since nothing else has to stand beside
//! them: a text would have endlessly many trees.

use super::grammar::{Grammar, Nonterminal, Production, Symbol};
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, codes, quote};

/// A diagnostic for each circle of nonterminals that can be nothing but each other.
pub(super) fn check(grammar: &Grammar, definition: &Definition) -> Vec<Diagnostic> {
    let absent = can_be_absent(grammar);
    let edges: Vec<Vec<(usize, usize)>> = grammar
        .of
        .iter()
        .map(|productions| {
            let each = productions.iter().map(|&id| id as usize);
            let inside = each.map(|id| (id, &grammar.productions[id]));
            inside
                .flat_map(|(id, p)| alone_in(p, &absent).map(move |inner| (id, inner)))
                .collect()
        })
        .collect();
    let mut seen = vec![Seen::Not; edges.len()];
    let mut found = Vec::new();
    for start in 0..edges.len() {
        if seen[start] == Seen::Not
            && let Some(circle) = circle_from(start, &edges, &mut seen)
        {
            found.push(diagnostic(grammar, definition, &circle));
        }
    }
    found.retain({
        let mut known = Vec::new();
        move |d: &Diagnostic| {
            let is_new = !known.contains(&d.message);
            known.push(d.message.clone());
            is_new
        }
    });
    found
}

/// Which nonterminals can stand for nothing at all.
fn can_be_absent(grammar: &Grammar) -> Vec<bool> {
    let mut absent = vec![false; grammar.of.len()];
    // In how many productions a nonterminal is waited for, and how many each waits for.
    let mut waits: Vec<usize> = grammar.productions.iter().map(|p| p.right.len()).collect();
    let mut waiting: Vec<Vec<usize>> = vec![Vec::new(); grammar.of.len()];
    for (id, production) in grammar.productions.iter().enumerate() {
        for symbol in &production.right {
            if let Symbol::Nonterminal(n) = symbol {
                waiting[*n as usize].push(id);
            }
        }
    }
    let mut ready: Vec<usize> = (0..waits.len()).filter(|&id| waits[id] == 0).collect();
    while let Some(id) = ready.pop() {
        let left = grammar.productions[id].left as usize;
        if std::mem::replace(&mut absent[left], true) {
            continue;
        }
        for &other in &waiting[left] {
            waits[other] -= 1;
            if waits[other] == 0 {
                ready.push(other);
            }
        }
    }
    absent
}

/// The nonterminals that can be all there is of a production.
fn alone_in<'a>(
    production: &'a Production,
    absent: &'a [bool],
) -> impl Iterator<Item = usize> + use<'a> {
    let must_be = |symbol: &Symbol| match symbol {
        Symbol::Terminal(_) => true,
        Symbol::Nonterminal(n) => !absent[*n as usize],
    };
    let needed = production.right.iter().filter(|s| must_be(s)).count();
    let each = production.right.iter();
    each.filter_map(move |symbol| match symbol {
        Symbol::Nonterminal(n) if needed == usize::from(must_be(symbol)) => Some(*n as usize),
        Symbol::Nonterminal(_) | Symbol::Terminal(_) => None,
    })
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Seen {
    Not,
    /// On the way that is followed.
    OnTheWay,
    Done,
}

/// The productions of a circle that can be reached from a nonterminal, if there is one.
fn circle_from(
    start: usize,
    edges: &[Vec<(usize, usize)>],
    seen: &mut [Seen],
) -> Option<Vec<usize>> {
    let mut way = vec![(start, 0)];
    seen[start] = Seen::OnTheWay;
    let mut circle = None;
    while let Some((at, next)) = way.last_mut() {
        let Some(&(_, to)) = edges[*at].get(*next) else {
            seen[*at] = Seen::Done;
            way.pop();
            continue;
        };
        *next += 1;
        match seen[to] {
            Seen::Not => {
                seen[to] = Seen::OnTheWay;
                way.push((to, 0));
            }
            Seen::OnTheWay if circle.is_none() => {
                let from = way.iter().position(|(at, _)| *at == to).unwrap_or_default();
                let productions = way[from..].iter();
                circle = Some(
                    productions
                        .map(|(at, next)| edges[*at][next - 1].0)
                        .collect(),
                );
            }
            Seen::OnTheWay | Seen::Done => {}
        }
    }
    circle
}

fn diagnostic(grammar: &Grammar, definition: &Definition, circle: &[usize]) -> Diagnostic {
    let productions: Vec<&Production> = circle.iter().map(|&id| &grammar.productions[id]).collect();
    let node = productions.iter().find(|p| p.node).or(productions.first());
    let form = node.and_then(|p| p.form).unwrap_or_default();
    let form = &definition.forms[form];
    let name = quote(&form.name.text);
    let is_repeated = productions
        .iter()
        .all(|p| grammar.nonterminals[p.left as usize] == Nonterminal::Helper);
    let (message, why, remedy) = if is_repeated {
        (
            format!("what {name} repeats can be nothing at all"),
            "it could be there any number of times in the same place".to_owned(),
            "let it have at least one token, or put something between with `by`",
        )
    } else {
        let sort = form.sort_name();
        let others: Vec<String> = productions
            .iter()
            .filter(|p| p.node)
            .filter_map(|p| Some(quote(&definition.forms[p.form?].name.text)))
            .collect();
        let why = match &others[..] {
            [_] => format!(
                "it is {sort} and may hold nothing but {sort}, so it could hold itself without end"
            ),
            _ => format!("{} may each be nothing but the next", others.join(", ")),
        };
        (
            format!("{name} may be nothing but itself"),
            why,
            "give it a token of its own, as in `written \"-\" value:Expr`, or leave it out",
        )
    };
    Diagnostic::error(codes::CHECK_AMBIGUOUS, message)
        .at(&definition.source, form.name.span)
        .why(why)
        .remedy(remedy)
}
