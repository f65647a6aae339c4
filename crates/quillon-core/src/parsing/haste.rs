//! The loop over most tokens: of a text that is right, on one stack, where the tables leave no
//! conflict. It reduces at once, before it is known that the token at hand can be taken.

use super::assembly::Assembly;
use super::grammar::NONE;
use super::parser::{Run, Step};
use super::plans::Plan;
use super::tables::Action;
use crate::lexing::Token;

impl Run<'_> {
    /// Takes tokens from an index on: the index of the first that was not taken, and what came of
    /// it. Nothing came of it where more has to be looked at; when it is refused, some of the stack
    /// may be reduced already.
    pub(super) fn hasten(&mut self, tokens: &[Token], mut index: usize) -> (usize, Option<Step>) {
        let (grammar, tables, rules) = (self.grammar, self.tables, self.rules);
        let stack = &mut self.plain;
        let assembly = &mut self.assembly;
        let mut state = stack[stack.len() - 1].state;
        'tokens: while let Some(&token) = tokens.get(index) {
            let ways = grammar.simple(token);
            let mut terminal = ways.loose;
            if ways.tight != NONE {
                match tables.action(state, ways.tight) {
                    Action::Shift(_) | Action::Leaf(_) => terminal = ways.tight,
                    Action::Error => {}
                    Action::Reduce(_) | Action::Fork(_) => return (index, None),
                }
            }
            if terminal == NONE {
                return (index, None);
            }
            // One test after the other: a jump to one of five places is foreseen less often.
            let cell = loop {
                let cell = tables.cell(state, terminal);
                let Some(production) = cell.reduces() else {
                    break cell;
                };
                let rule = rules.rule(production);
                if rule.plan == Plan::Accept {
                    return (index, Some(Step::Accepted));
                }
                let below = stack.len() - rule.length as usize - 1;
                state = tables.goto(stack[below].state, rule.left);
                assembly.put_together(stack, (production, rule), state, index as u32);
            };
            match cell.action() {
                Action::Shift(to) => {
                    state = to;
                    stack.push(Assembly::take(index as u32, state));
                }
                Action::Leaf(production) => {
                    let rule = rules.rule(production);
                    state = tables.goto(state, rule.left);
                    assembly.leaf(stack, rule, index as u32, state);
                }
                Action::Error => return (index, Some(Step::Refused)),
                Action::Reduce(_) | Action::Fork(_) => break 'tokens,
            }
            index += 1;
        }
        (index, None)
    }
}
