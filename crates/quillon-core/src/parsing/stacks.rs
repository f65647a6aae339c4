//! Several stacks at once, sharing what they have in common (Tomita 1985; the order of
//! reductions after Nozohoor-Farshi 1991, so that empty productions on the left are no
//! trouble). The parser comes here where its tables leave a conflict, and goes back to
//! its plain stack as soon as one stack is left.

use rustc_hash::FxHashMap;

use super::assembly::token_of;
use super::forest::{Forest, Ref, Referent};
use super::grammar::Grammar;
use super::paths::Paths;
use super::tables::{Action, Lookahead, Tables};

/// A state on a plain stack, with what led to it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Entry {
    pub state: u32,
    /// The first token of what led to it.
    pub start: u32,
    /// What it carries (see `assembly`).
    pub what: u32,
    /// How deep the tree of it is, in nodes.
    pub height: u32,
}

/// A way down from a node.
#[derive(Clone, Copy, Debug)]
struct Link {
    to: u32,
    value: Ref,
}

#[derive(Clone, Debug)]
struct Node {
    state: u32,
    links: Vec<Link>,
    /// The height on the plain stack below that the node stands for.
    height: Option<u32>,
}

/// Stacks that share their lower parts; lowest of all is the plain stack.
#[derive(Clone, Debug)]
pub(super) struct Stacks<'a> {
    pub(super) grammar: &'a Grammar,
    pub(super) tables: &'a Tables,
    /// What has been derived on the way.
    pub forest: Forest,
    nodes: Vec<Node>,
    /// Nodes that stand for a height of the plain stack.
    of_height: FxHashMap<u32, u32>,
    /// The tops of the stacks, each of its own state.
    pub tops: Vec<u32>,
    by_state: FxHashMap<u32, u32>,
    wait: u32,
    patience: u32,
    /// Steps down the stacks that have been made.
    pub effort: u64,
    /// The productions reduced that declare signs, with those of their parts that are tokens.
    pub declared: Vec<(u32, Vec<Option<u32>>)>,
}

impl<'a> Stacks<'a> {
    /// Starts from a plain stack.
    pub fn new(grammar: &'a Grammar, tables: &'a Tables, plain: &[Entry]) -> Stacks<'a> {
        let mut stacks = Stacks {
            grammar,
            tables,
            forest: Forest::default(),
            nodes: Vec::new(),
            of_height: FxHashMap::default(),
            tops: Vec::new(),
            by_state: FxHashMap::default(),
            wait: 0,
            patience: 1,
            effort: 0,
            declared: Vec::new(),
        };
        let top = stacks.at_height(plain, plain.len() as u32 - 1);
        stacks.tops.push(top);
        stacks
    }

    fn at_height(&mut self, plain: &[Entry], height: u32) -> u32 {
        if let Some(&node) = self.of_height.get(&height) {
            return node;
        }
        self.nodes.push(Node {
            state: plain[height as usize].state,
            links: Vec::new(),
            height: Some(height),
        });
        let node = self.nodes.len() as u32 - 1;
        self.of_height.insert(height, node);
        node
    }

    /// Makes sure that a node's way down the plain stack is there.
    fn ready(&mut self, plain: &[Entry], node: u32) {
        if let Some(height) = self.nodes[node as usize].height
            && height > 0
            && self.nodes[node as usize].links.is_empty()
        {
            let to = self.at_height(plain, height - 1);
            self.nodes[node as usize].links.push(Link {
                to,
                value: Ref::plain(height),
            });
        }
    }

    /// One way down from each top: the height of the plain stack where it ends, and the states
    /// above with their values, lowest first.
    pub fn ways_down(&self) -> Vec<(u32, Vec<(u32, Ref)>)> {
        let mut all = Vec::new();
        for &top in &self.tops {
            let mut entries = Vec::new();
            let mut node = &self.nodes[top as usize];
            loop {
                if let Some(height) = node.height {
                    entries.reverse();
                    all.push((height, entries));
                    break;
                }
                let Some(link) = node.links.first() else {
                    break;
                };
                entries.push((node.state, link.value));
                node = &self.nodes[link.to as usize];
            }
        }
        all
    }

    /// The entries down from each top, one way for each, lowest first, above a height of the plain
    /// stack.
    pub fn ways(&self, plain: &[Entry]) -> Vec<(u32, Vec<Entry>)> {
        let entry = |(state, value): (u32, Ref)| Entry {
            state,
            start: self.start(plain, value),
            what: 0,
            height: 0,
        };
        let ways = self.ways_down().into_iter();
        ways.map(|(height, above)| (height, above.into_iter().map(entry).collect()))
            .collect()
    }

    /// The stacks, each down one way from its top.
    pub fn plain_stacks(&self, plain: &[Entry]) -> Vec<Vec<Entry>> {
        let ways = self.ways(plain).into_iter();
        ways.map(|(height, above)| {
            let mut stack = plain[..=height as usize].to_vec();
            stack.extend(above);
            stack
        })
        .collect()
    }

    /// Finds every path of a length down from a node; only those over a link, if one is given.
    fn find(
        &mut self,
        plain: &[Entry],
        from: u32,
        length: usize,
        over: Option<(u32, usize)>,
        paths: &mut Paths,
    ) {
        paths.begin(from, length, over.is_none());
        while let Some(going) = paths.next() {
            let node = going.node;
            if going.left == 0 {
                if going.passed {
                    paths.end(going);
                }
                continue;
            }
            self.ready(plain, node);
            // Only among the tops can the way still come to a link of one of them.
            let is_top = self.by_state.get(&self.nodes[node as usize].state) == Some(&node);
            if !going.passed && !is_top {
                continue;
            }
            let links = &self.nodes[node as usize].links;
            self.effort += links.len() as u64;
            for (index, link) in links.iter().enumerate() {
                let passed = going.passed || over == Some((node, index));
                paths.go(going, link.to, link.value, passed);
            }
        }
    }

    /// The state of a node.
    pub(super) fn state_of(&self, node: u32) -> u32 {
        self.nodes[node as usize].state
    }

    /// The nodes just below a node.
    pub(super) fn below(&mut self, plain: &[Entry], node: u32) -> Vec<u32> {
        self.ready(plain, node);
        let links = &self.nodes[node as usize].links;
        self.effort += links.len() as u64;
        links.iter().map(|link| link.to).collect()
    }

    /// Tops of one state made one, with the ways down of all.
    pub(super) fn merged(&mut self, tops: &[u32]) -> Vec<u32> {
        let mut kept: Vec<u32> = Vec::new();
        for &top in tops {
            let state = self.nodes[top as usize].state;
            let known = kept
                .iter()
                .find(|&&node| self.nodes[node as usize].state == state);
            match known.copied() {
                Some(node) => {
                    let links = std::mem::take(&mut self.nodes[top as usize].links);
                    self.nodes[node as usize].links.extend(links);
                }
                None => kept.push(top),
            }
        }
        kept
    }

    /// The token that a value is, if it is one.
    fn token(&self, plain: &[Entry], value: Ref) -> Option<u32> {
        match self.forest.referent(value) {
            Referent::Token(index) => Some(index),
            Referent::Plain(height) => token_of(plain[height as usize]),
            Referent::Derivation(_) => None,
        }
    }

    /// The first token of a value.
    fn start(&self, plain: &[Entry], value: Ref) -> u32 {
        match self.forest.referent(value) {
            Referent::Token(index) => index,
            Referent::Plain(height) => plain[height as usize].start,
            Referent::Derivation(derivation) => derivation.start,
        }
    }

    /// Does every reduction that can be followed by one of the terminals of the token at
    /// an index.
    pub fn reduce(&mut self, plain: &[Entry], index: u32, terminals: Lookahead) {
        let (grammar, tables) = (self.grammar, self.tables);
        self.by_state = self
            .tops
            .iter()
            .map(|&top| (self.nodes[top as usize].state, top))
            .collect();
        let mut work: Vec<(u32, Option<(u32, usize)>)> =
            self.tops.iter().map(|&top| (top, None)).collect();
        let mut paths = Paths::default();
        while let Some((node, over)) = work.pop() {
            for action in actions(tables, self.nodes[node as usize].state, terminals) {
                let Action::Reduce(id) = action else {
                    continue;
                };
                let production = &grammar.productions[id as usize];
                if is_entry(grammar, id) || (over.is_some() && production.right.is_empty()) {
                    continue;
                }
                let length = production.right.len();
                self.find(plain, node, length, over, &mut paths);
                for (end, values) in paths.all() {
                    let state = tables.goto(self.nodes[end as usize].state, production.left);
                    if state != 0 && !self.is_settled(state, end) {
                        let start = match values.first() {
                            Some(&first) => self.start(plain, first),
                            None => index,
                        };
                        if grammar.declares(id) {
                            let tokens = values.iter().map(|&v| self.token(plain, v));
                            self.declared.push((id, tokens.collect()));
                        }
                        let value = self.forest.add(id, values, start, index);
                        self.push(plain, state, end, value, &mut work);
                    }
                }
            }
        }
    }

    /// Whether a state is on top of a node already, with something that has two readings.
    fn is_settled(&self, state: u32, below: u32) -> bool {
        let Some(&top) = self.by_state.get(&state) else {
            return false;
        };
        let mut links = self.nodes[top as usize].links.iter();
        let link = links.find(|link| link.to == below);
        link.is_some_and(|link| self.forest.is_settled(link.value))
    }

    /// Adds a state on top of a node; what it makes possible goes to `work`.
    fn push(
        &mut self,
        plain: &[Entry],
        state: u32,
        below: u32,
        value: Ref,
        work: &mut Vec<(u32, Option<(u32, usize)>)>,
    ) {
        let Some(&top) = self.by_state.get(&state) else {
            self.nodes.push(Node {
                state,
                links: vec![Link { to: below, value }],
                height: None,
            });
            let top = self.nodes.len() as u32 - 1;
            self.by_state.insert(state, top);
            self.tops.push(top);
            work.push((top, None));
            return;
        };
        self.ready(plain, top);
        if let Some(link) = self.nodes[top as usize]
            .links
            .iter()
            .find(|l| l.to == below)
        {
            self.forest.also(self.grammar, link.value, value);
            return;
        }
        self.nodes[top as usize]
            .links
            .push(Link { to: below, value });
        let index = self.nodes[top as usize].links.len() - 1;
        // Reductions done before may also go over the new link.
        work.extend(self.tops.iter().map(|&node| (node, Some((top, index)))));
    }

    /// Takes a token on every stack that can; false when none can, and then the stacks
    /// are as they were.
    pub fn shift(&mut self, index: u32, terminals: Lookahead) -> bool {
        let mut next: Vec<u32> = Vec::new();
        for top in self.tops.clone() {
            for action in actions(self.tables, self.nodes[top as usize].state, terminals) {
                let Action::Shift(state) = action else {
                    continue;
                };
                let link = Link {
                    to: top,
                    value: Ref::token(index),
                };
                let known = next
                    .iter()
                    .find(|&&n| self.nodes[n as usize].state == state);
                if let Some(&node) = known {
                    self.nodes[node as usize].links.push(link);
                    continue;
                }
                self.nodes.push(Node {
                    state,
                    links: vec![link],
                    height: None,
                });
                next.push(self.nodes.len() as u32 - 1);
            }
        }
        let taken = !next.is_empty();
        if taken {
            self.tops = next;
        }
        taken
    }

    /// What the whole text was read as, once the end has been reached.
    pub fn accepted(&mut self, plain: &[Entry]) -> Option<Ref> {
        let (grammar, tables) = (self.grammar, self.tables);
        for top in self.tops.clone() {
            self.ready(plain, top);
        }
        self.tops.iter().find_map(|&top| {
            let node = &self.nodes[top as usize];
            let accepts = tables
                .each(tables.action(node.state, 0))
                .iter()
                .any(|a| matches!(a, Action::Reduce(id) if is_entry(grammar, *id)));
            if accepts {
                node.links.first().map(|link| link.value)
            } else {
                None
            }
        })
    }

    /// If one stack is left, with one way down, the height of the plain stack it
    /// stands on and the entries above, each a state with its value.
    pub fn single(&mut self) -> Option<(u32, Vec<(u32, Ref)>)> {
        let [top] = self.tops[..] else {
            return None;
        };
        // Looking down costs time; after looking in vain, wait twice as long.
        if self.wait > 0 {
            self.wait -= 1;
            return None;
        }
        let mut entries = Vec::new();
        let mut node = &self.nodes[top as usize];
        loop {
            match (node.height, &node.links[..]) {
                (Some(height), [] | [_]) => {
                    entries.reverse();
                    return Some((height, entries));
                }
                (None, [link]) => {
                    entries.push((node.state, link.value));
                    node = &self.nodes[link.to as usize];
                }
                _ => {
                    self.wait = self.patience;
                    self.patience = self.patience.saturating_mul(2);
                    return None;
                }
            }
        }
    }
}

/// Whether a production is an entry's own: reducing it accepts the text.
pub(super) fn is_entry(grammar: &Grammar, production: u32) -> bool {
    grammar.productions[production as usize].form.is_none()
}

/// What can be done in a state with a token. A soft word is followed both ways.
fn actions(tables: &Tables, state: u32, terminals: Lookahead) -> Vec<Action> {
    let mut actions = tables.each(tables.first_action(state, terminals.main));
    if terminals.is_soft() {
        for action in tables.each(tables.first_action(state, terminals.soft)) {
            if !actions.contains(&action) {
                actions.push(action);
            }
        }
    }
    actions
}
