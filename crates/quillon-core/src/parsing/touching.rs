//! A token that touches the one before it may be what only such a token can be, or what it is
//! anywhere. It is the former wherever the text can go on so. That is asked of the whole stack:
//! the tables alone know what can follow a form somewhere, not what can follow it here.

use rustc_hash::FxHashSet;

use super::parser::Run;
use super::plans::Plan;
use super::stacks::Entry;
use super::stacks::{Stacks, is_entry};
use super::tables::{Action, Lookahead};

/// Where a terminal has been refused on a plain stack: a height, the entry there by its first
/// token and its state, and a state that would stand on it.
pub(super) type Refusals = FxHashSet<(u16, u32, u32, u32, u32)>;

impl Lookahead {
    /// Both ways in which a token that touches the one before it can be taken, if there are two.
    pub fn both(self) -> Option<[u16; 2]> {
        match self.main {
            [Some(tight), Some(loose)] if !self.is_soft() => Some([tight, loose]),
            _ => None,
        }
    }

    /// One terminal and no other.
    pub fn only(terminal: u16) -> Lookahead {
        Lookahead {
            main: [None, Some(terminal)],
            soft: [None, None],
        }
    }
}

impl Run<'_> {
    /// As which of two terminals the token at hand is taken on the plain stack.
    pub(super) fn chosen(&mut self, [tight, loose]: [u16; 2]) -> Lookahead {
        Lookahead::only(if self.refuses(tight) { loose } else { tight })
    }

    /// Whether a terminal cannot be taken on the plain stack, whatever is reduced before. What has
    /// been walked in vain is noted, so that a chain of operators is not walked again at each.
    fn refuses(&mut self, terminal: u16) -> bool {
        let mut walked = Vec::new();
        let mut height = self.plain.len() - 1;
        let mut state = self.plain[height].state;
        // States that reductions would put on the entry at `height`, but for the topmost.
        let mut above: Vec<u32> = Vec::new();
        let mut is_above = false;
        let refused = loop {
            match self.tables.action(state, terminal) {
                Action::Error => break true,
                Action::Fork(_) | Action::Shift(_) | Action::Leaf(_) => return false,
                Action::Reduce(id) => {
                    let rule = self.rules.rule(id);
                    if rule.plan == Plan::Accept {
                        return false;
                    }
                    let mut length = rule.length as usize;
                    let added = above.len() + usize::from(is_above);
                    if length >= added {
                        height -= length - added;
                        above.clear();
                    } else {
                        if length > 0 {
                            length -= 1;
                        } else {
                            above.push(state);
                        }
                        above.truncate(above.len() - length);
                    }
                    let below = above.last().copied();
                    state = self
                        .tables
                        .goto(below.unwrap_or(self.plain[height].state), rule.left);
                    is_above = true;
                    if above.is_empty() && !self.is_mended {
                        let entry = self.plain[height];
                        let place = (terminal, height as u32, entry.start, entry.state, state);
                        if self.refusals.contains(&place) {
                            break true;
                        }
                        walked.push(place);
                    }
                }
            }
        };
        self.refusals.extend(walked);
        refused
    }
}

/// A state that reductions would put on a node, or on another such state.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Virtual {
    state: u32,
    below: Below,
}

#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Below {
    Node(u32),
    Virtual(u32),
}

impl Stacks<'_> {
    /// Takes a token that touches the one before it: on each stack as what only such a token can
    /// be, where that is possible, and otherwise as what it is anywhere. Whether any stack can.
    pub(super) fn take_touching(
        &mut self,
        plain: &[Entry],
        index: u32,
        [tight, loose]: [u16; 2],
    ) -> bool {
        let tops = self.tops.clone();
        let (tights, looses): (Vec<u32>, Vec<u32>) = tops
            .iter()
            .partition(|&&top| self.can_take(plain, top, tight));
        let mut taken = Vec::new();
        for (tops, terminal) in [(tights, tight), (looses, loose)] {
            if tops.is_empty() {
                continue;
            }
            self.tops = tops;
            let terminals = Lookahead::only(terminal);
            self.reduce(plain, index, terminals);
            if self.shift(index, terminals) {
                taken.extend(std::mem::take(&mut self.tops));
            }
        }
        self.tops = if taken.is_empty() {
            tops
        } else {
            self.merged(&taken)
        };
        !taken.is_empty()
    }

    /// Whether a stack can take a terminal, whatever is reduced before.
    fn can_take(&mut self, plain: &[Entry], top: u32, terminal: u16) -> bool {
        let (grammar, tables) = (self.grammar, self.tables);
        let mut made: Vec<Virtual> = Vec::new();
        let mut seen: FxHashSet<Virtual> = FxHashSet::default();
        let mut work = vec![Below::Node(top)];
        while let Some(at) = work.pop() {
            let state = self.state_at(&made, at);
            for action in tables.each(tables.action(state, terminal)) {
                let id = match action {
                    Action::Shift(_) | Action::Leaf(_) => return true,
                    Action::Reduce(id) if !is_entry(grammar, id) => id,
                    Action::Reduce(_) | Action::Error | Action::Fork(_) => continue,
                };
                let production = &grammar.productions[id as usize];
                for below in self.ends(plain, &made, at, production.right.len()) {
                    let state = tables.goto(self.state_at(&made, below), production.left);
                    let next = Virtual { state, below };
                    if state != 0 && seen.insert(next) {
                        made.push(next);
                        work.push(Below::Virtual(made.len() as u32 - 1));
                    }
                }
            }
        }
        false
    }

    fn state_at(&self, made: &[Virtual], at: Below) -> u32 {
        match at {
            Below::Node(node) => self.state_of(node),
            Below::Virtual(index) => made[index as usize].state,
        }
    }

    /// Where the ways down of a length end, each once.
    fn ends(
        &mut self,
        plain: &[Entry],
        made: &[Virtual],
        from: Below,
        length: usize,
    ) -> Vec<Below> {
        let mut ends = vec![from];
        for _ in 0..length {
            let mut next = FxHashSet::default();
            for at in ends {
                match at {
                    Below::Virtual(index) => {
                        next.insert(made[index as usize].below);
                    }
                    Below::Node(node) => {
                        let below = self.below(plain, node);
                        next.extend(below.into_iter().map(Below::Node));
                    }
                }
            }
            ends = next.into_iter().collect();
        }
        ends
    }
}
