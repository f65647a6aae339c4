//! The deterministic automaton that recognises every token in one pass.

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::byte_sets::Bytes;
use super::classes::Classes;
use super::nfa::{Closure, Nfa, ranks};
use crate::definition::{CharSet, Pattern};

/// More states than any real token set needs; beyond, the definition is refused.
const MOST_STATES: usize = 20_000;

/// The state from which nothing leads on.
pub(super) const DEAD: u32 = 0;

/// A minimal deterministic automaton over character classes.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(from = "Bare", into = "Bare")]
pub(super) struct Automaton {
    classes: Classes,
    /// Moves, a row of `classes.count()` for each state; state 0 is dead.
    moves: Vec<u32>,
    /// The kind recognised in each state, plus one; zero for none.
    accepts: Vec<u16>,
    /// The moves over ASCII bytes once more: most of every text goes this way.
    rows: Vec<Row>,
    /// The bytes that lead from each state back to itself, and those that lead on from it.
    bytes: Vec<[Bytes; 2]>,
    /// The sets of bytes that lead from some state back to itself.
    loops: Vec<[bool; 256]>,
    start: u32,
}

/// What of an automaton the rest follows from.
#[derive(Serialize, Deserialize)]
struct Bare {
    classes: Classes,
    moves: Vec<u32>,
    accepts: Vec<u16>,
    start: u32,
}

impl From<Bare> for Automaton {
    fn from(bare: Bare) -> Automaton {
        let mut automaton = Automaton {
            classes: bare.classes,
            moves: bare.moves,
            accepts: bare.accepts,
            rows: Vec::new(),
            bytes: Vec::new(),
            loops: Vec::new(),
            start: bare.start,
        };
        automaton.tabulate();
        automaton
    }
}

impl From<Automaton> for Bare {
    fn from(automaton: Automaton) -> Bare {
        Bare {
            classes: automaton.classes,
            moves: automaton.moves,
            accepts: automaton.accepts,
            start: automaton.start,
        }
    }
}

/// What a state does with ASCII bytes.
#[derive(Clone, Debug)]
struct Row {
    next: [u16; 256],
    /// The set of bytes that lead back to the state, where there are many: its number in
    /// `loops` plus one; `OVER` where nothing leads on.
    stays: u16,
    /// Whether no other ASCII byte leads on.
    ends: bool,
}

/// Marks a state from which no ASCII byte leads on.
const OVER: u16 = u16::MAX;

/// With fewer bytes than this that lead back to a state, they are not looked for first.
const MANY: usize = 8;

impl Automaton {
    /// Builds the automaton; among kinds that match the same text, the one that
    /// stands first in `patterns` is recognised. Nothing if it would be too large.
    pub fn new(patterns: &[(u16, Pattern)]) -> Option<Automaton> {
        let nfa = Nfa::new(patterns);
        if nfa.too_large {
            return None;
        }
        let (classes, of_set) = Classes::new(&nfa.sets)?;
        let rank = ranks(patterns);
        let mut automaton = subsets(&nfa, classes, &of_set, &rank)?;
        automaton.minimise();
        automaton.tabulate();
        Some(automaton)
    }

    /// The state in which every token starts.
    pub fn start(&self) -> u32 {
        self.start
    }

    /// The longest text recognised at a place: its kind and where it ends; or where the
    /// automaton gave up, and in which state.
    pub fn longest(&self, text: &str, start: usize) -> Result<(u16, usize), (usize, u32)> {
        let mut state = self.start;
        let mut at = start;
        let mut best = None;
        for c in text[start..].chars() {
            let next = self.after(state, c);
            if next == DEAD {
                break;
            }
            state = next;
            at += c.len_utf8();
            if let Some(kind) = self.accepted(state) {
                best = Some((kind, at));
            }
        }
        best.ok_or((at, state))
    }

    /// The number of states.
    pub fn count(&self) -> u32 {
        self.accepts.len() as u32
    }

    /// Where a state leads, with the characters that lead there.
    pub fn moves_from(&self, state: u32) -> impl Iterator<Item = (CharSet, u32)> {
        let width = self.classes.count();
        let row = &self.moves[state as usize * width..(state as usize + 1) * width];
        row.iter()
            .enumerate()
            .map(|(class, to)| (self.classes.set(class as u8), *to))
    }

    fn tabulate(&mut self) {
        let width = self.classes.count();
        let bytes: Vec<Bytes> = (0..width)
            .map(|class| self.classes.bytes(class as u8))
            .collect();
        let mut sets: Vec<Bytes> = Vec::new();
        for state in 0..self.count() {
            let mut row = Row {
                next: [DEAD as u16; 256],
                stays: 0,
                ends: false,
            };
            let (mut own, mut others) = (Bytes::default(), Bytes::default());
            let moves = &self.moves[state as usize * width..][..width];
            for (class, &to) in moves.iter().enumerate().filter(|(_, to)| **to != DEAD) {
                for byte in bytes[class].each() {
                    row.next[byte as usize] = to as u16;
                }
                let side = if to == state { &mut own } else { &mut others };
                side.extend(bytes[class]);
            }
            if own.len() as usize >= MANY {
                let known = sets.iter().position(|set| *set == own);
                let at = known.unwrap_or_else(|| {
                    sets.push(own);
                    self.loops.push(own.table());
                    sets.len() - 1
                });
                row.stays = at as u16 + 1;
            }
            row.ends = others.is_empty();
            if row.ends && own.is_empty() {
                row.stays = OVER;
            }
            self.rows.push(row);
            self.bytes.push([own, others]);
        }
    }

    /// The ASCII bytes that lead from a state back to itself, and those that lead on from it.
    pub fn bytes_from(&self, state: u32) -> [Bytes; 2] {
        self.bytes[state as usize]
    }

    /// Goes on over ASCII bytes from the start as far as anything can be recognised: the
    /// state in which that ended, and where.
    #[inline]
    pub fn run_ascii(&self, bytes: &[u8], mut at: usize) -> (u32, usize) {
        let Some(&first) = bytes.get(at) else {
            return (self.start, at);
        };
        let mut state = u32::from(self.rows[self.start as usize].next[first as usize]);
        if state == DEAD {
            return (self.start, at);
        }
        at += 1;
        loop {
            let row = &self.rows[state as usize];
            if row.stays > 0 {
                if row.stays == OVER {
                    break;
                }
                let set = &self.loops[row.stays as usize - 1];
                at += run_of(set, &bytes[at..]);
                if row.ends {
                    break;
                }
            }
            let Some(&byte) = bytes.get(at) else { break };
            let next = u32::from(row.next[byte as usize]);
            if next == DEAD {
                break;
            }
            state = next;
            at += 1;
        }
        (state, at)
    }

    /// The state after any character.
    #[inline]
    pub fn after(&self, state: u32, c: char) -> u32 {
        self.moves[state as usize * self.classes.count() + self.classes.of(c) as usize]
    }

    /// Whether a state leads on with some character that is not ASCII.
    pub fn leads_beyond_ascii(&self, state: u32) -> bool {
        self.classes.beyond_ascii().any(|class| {
            let at = state as usize * self.classes.count() + class as usize;
            self.moves[at] != DEAD
        })
    }

    /// The kind recognised in a state.
    #[inline]
    pub fn accepted(&self, state: u32) -> Option<u16> {
        self.accepts[state as usize].checked_sub(1)
    }

    /// Every kind that can still be recognised from a state on.
    pub fn reachable_kinds(&self, state: u32) -> Vec<u16> {
        let width = self.classes.count();
        let mut seen = vec![false; self.accepts.len()];
        let mut work = vec![state];
        let mut kinds = Vec::new();
        while let Some(state) = work.pop() {
            if state == DEAD || std::mem::replace(&mut seen[state as usize], true) {
                continue;
            }
            kinds.extend(self.accepted(state));
            work.extend(&self.moves[state as usize * width..(state as usize + 1) * width]);
        }
        kinds.sort_unstable();
        kinds.dedup();
        kinds
    }

    /// Merges states that no text tells apart (Moore 1956: refine a partition until
    /// nothing changes).
    fn minimise(&mut self) {
        let width = self.classes.count();
        let count = self.accepts.len();
        let mut block: Vec<u32> = self.accepts.iter().map(|&a| u32::from(a) + 1).collect();
        block[DEAD as usize] = 0;
        let mut blocks = 0;
        // What each state is told apart by: its block, and those that it leads to.
        let mut keys: Vec<u32> = Vec::with_capacity(count * (width + 1));
        loop {
            keys.clear();
            for (state, row) in self.moves.chunks(width).enumerate() {
                keys.push(block[state]);
                keys.extend(row.iter().map(|&to| block[to as usize]));
            }
            let mut known: FxHashMap<&[u32], u32> = FxHashMap::default();
            for (state, key) in keys.chunks(width + 1).enumerate() {
                let fresh = known.len() as u32;
                block[state] = *known.entry(key).or_insert(fresh);
            }
            if known.len() == blocks {
                break;
            }
            blocks = known.len();
        }
        let mut moves = vec![DEAD; blocks * width];
        let mut accepts = vec![0; blocks];
        for state in 0..count {
            let to = block[state] as usize;
            accepts[to] = self.accepts[state];
            for class in 0..width {
                moves[to * width + class] = block[self.moves[state * width + class] as usize];
            }
        }
        self.start = block[self.start as usize];
        self.moves = moves;
        self.accepts = accepts;
    }
}

/// How many bytes from the start are in a set: eight at a time without a branch between,
/// since nobody foresees where a word ends.
#[inline]
fn run_of(set: &[bool; 256], bytes: &[u8]) -> usize {
    let mut length = 0;
    for eight in bytes.chunks_exact(8) {
        let mut inside = 0u32;
        for (at, byte) in eight.iter().enumerate() {
            inside |= u32::from(set[*byte as usize]) << at;
        }
        let run = inside.trailing_ones() as usize;
        length += run;
        if run < 8 {
            return length;
        }
    }
    let rest = &bytes[length..];
    length + rest.iter().take_while(|byte| set[**byte as usize]).count()
}

/// The subset construction (Rabin and Scott 1959).
fn subsets(
    nfa: &Nfa,
    classes: Classes,
    of_set: &[Vec<u8>],
    rank: &FxHashMap<u16, usize>,
) -> Option<Automaton> {
    let width = classes.count();
    let mut steps = Steps::new(nfa, of_set, width);
    let mut known: FxHashMap<Vec<u32>, u32> = FxHashMap::default();
    let start = steps.start();
    known.insert(Vec::new(), DEAD);
    known.insert(start.clone(), 1);
    let mut sets: Vec<Vec<u32>> = vec![Vec::new(), start];
    let mut moves = vec![DEAD; width];
    let mut accepts = vec![0];
    while let Some(set) = sets.get(accepts.len()) {
        accepts.push(nfa.accepted(set, rank).map_or(0, |kind| kind + 1));
        let row = moves.len();
        moves.resize(row + width, DEAD);
        steps.from(set);
        for class in 0..width {
            let Some(target) = steps.take(class) else {
                continue;
            };
            moves[row + class] = known.get(target).copied().unwrap_or_else(|| {
                known.insert(target.to_vec(), sets.len() as u32);
                sets.push(target.to_vec());
                sets.len() as u32 - 1
            });
        }
        if sets.len() > MOST_STATES {
            return None;
        }
    }
    Some(Automaton {
        classes,
        moves,
        accepts,
        rows: Vec::new(),
        bytes: Vec::new(),
        loops: Vec::new(),
        start: 1,
    })
}

/// The steps from sets of states, by the class of the character read; used again for each set.
struct Steps<'a> {
    nfa: &'a Nfa,
    of_set: &'a [Vec<u8>],
    /// Where each class leads.
    targets: Vec<Vec<u32>>,
    closure: Closure<'a>,
}

impl<'a> Steps<'a> {
    fn new(nfa: &'a Nfa, of_set: &'a [Vec<u8>], width: usize) -> Steps<'a> {
        Steps {
            nfa,
            of_set,
            targets: vec![Vec::new(); width],
            closure: Closure::new(nfa),
        }
    }

    /// Where every text starts.
    fn start(&mut self) -> Vec<u32> {
        self.closure.of(&mut vec![0]).to_vec()
    }

    /// Works out where each class leads from some states.
    fn from(&mut self, set: &[u32]) {
        for &state in set {
            if let Some((reads, to)) = self.nfa.states[state as usize].reads {
                for &class in &self.of_set[reads as usize] {
                    self.targets[class as usize].push(to);
                }
            }
        }
    }

    /// The states that a class leads to, if there are any; they are forgotten.
    fn take(&mut self, class: usize) -> Option<&[u32]> {
        let target = &mut self.targets[class];
        (!target.is_empty()).then(|| self.closure.of(target))
    }
}

/// A state of the automaton before it is made minimal.
pub(super) struct Surveyed {
    /// Every kind whose pattern matches here, the one that is recognised first.
    pub accepts: Vec<u16>,
    /// A shortest text that leads here.
    pub text: String,
}

/// Every state that some text leads to, nearest first. Nothing if there are too many.
pub(super) fn survey(patterns: &[(u16, Pattern)]) -> Option<Vec<Surveyed>> {
    let nfa = Nfa::new(patterns);
    let (classes, of_set) = Classes::new(&nfa.sets)?;
    let rank = ranks(patterns);
    let mut steps = Steps::new(&nfa, &of_set, classes.count());
    let start = steps.start();
    let mut known: FxHashSet<Vec<u32>> = FxHashSet::default();
    known.insert(start.clone());
    let mut queue = std::collections::VecDeque::from([(start, String::new())]);
    let mut found = Vec::new();
    while let Some((set, text)) = queue.pop_front() {
        let mut accepts: Vec<u16> = set
            .iter()
            .filter_map(|&s| nfa.states[s as usize].accepts)
            .collect();
        accepts.sort_by_key(|kind| rank[kind]);
        accepts.dedup();
        steps.from(&set);
        for class in 0..classes.count() {
            let Some(target) = steps.take(class) else {
                continue;
            };
            if !known.contains(target) {
                known.insert(target.to_vec());
                let mut longer = text.clone();
                longer.push(classes.example(class as u8));
                queue.push_back((target.to_vec(), longer));
            }
        }
        found.push(Surveyed { accepts, text });
        if found.len() > MOST_STATES {
            return None;
        }
    }
    Some(found)
}
