//! The parser by hand.

use super::lexer::{DECIMAL, Kind, NAME, TEXT, Token, WHOLE, kind_of, sign};

/// A node, much as Quillon's: what it is, its span, its children in one shared list.
#[derive(Clone, Copy)]
#[expect(dead_code, reason = "a tree is made to be had")]
struct Node {
    form: u16,
    start: u32,
    end: u32,
    first: u32,
    count: u32,
}

struct Words {
    let_: Kind,
    be: Kind,
    change: Kind,
    to: Kind,
    say: Kind,
    do_: Kind,
    when: Kind,
    otherwise: Kind,
    while_: Kind,
    forever: Kind,
    count: Kind,
    from: Kind,
    by: Kind,
    each: Kind,
    in_: Kind,
    stop: Kind,
    skip: Kind,
    alarm: Kind,
    attempt: Kind,
    mend: Kind,
    way: Kind,
    gives: Kind,
    answer: Kind,
    then: Kind,
    or: Kind,
    and: Kind,
    not: Kind,
    yes: Kind,
    no: Kind,
    nothing: Kind,
}

/// Parses a program; the number of nodes, or nothing if it is wrong.
pub fn parse(_text: &str, tokens: &[Token]) -> Option<usize> {
    let k = kind_of;
    let words = Words {
        let_: k("let"),
        be: k("be"),
        change: k("change"),
        to: k("to"),
        say: k("say"),
        do_: k("do"),
        when: k("when"),
        otherwise: k("otherwise"),
        while_: k("while"),
        forever: k("forever"),
        count: k("count"),
        from: k("from"),
        by: k("by"),
        each: k("each"),
        in_: k("in"),
        stop: k("stop"),
        skip: k("skip"),
        alarm: k("alarm"),
        attempt: k("attempt"),
        mend: k("mend"),
        way: k("way"),
        gives: k("gives"),
        answer: k("answer"),
        then: k("then"),
        or: k("or"),
        and: k("and"),
        not: k("not"),
        yes: k("yes"),
        no: k("no"),
        nothing: k("nothing"),
    };
    let mut parser = Parser {
        tokens,
        at: 0,
        w: words,
        nodes: Vec::new(),
        slots: Vec::new(),
    };
    let mut steps = Vec::new();
    while parser.at < tokens.len() {
        steps.push(parser.statement()?);
    }
    let list = parser.node(LIST, 0, &steps);
    parser.node(0, 0, &[list]);
    Some(parser.nodes.len())
}

const LIST: u16 = 900;
const LEAF: u16 = 901;

struct Parser<'a> {
    tokens: &'a [Token],
    at: usize,
    w: Words,
    nodes: Vec<Node>,
    slots: Vec<u32>,
}

impl Parser<'_> {
    fn kind(&self) -> Kind {
        self.tokens.get(self.at).map_or(u16::MAX, |t| t.kind)
    }

    fn eat(&mut self, kind: Kind) -> Option<()> {
        (self.kind() == kind).then(|| self.at += 1)
    }

    fn node(&mut self, form: u16, start: usize, children: &[u32]) -> u32 {
        let first = self.slots.len() as u32;
        self.slots.extend_from_slice(children);
        let from = self.tokens.get(start).map_or(0, |t| t.start);
        let to = self
            .tokens
            .get(self.at.wrapping_sub(1))
            .map_or(0, |t| t.end);
        self.nodes.push(Node {
            form,
            start: from,
            end: to,
            first,
            count: children.len() as u32,
        });
        self.nodes.len() as u32 - 1
    }

    fn leaf(&mut self, kind: Kind) -> Option<u32> {
        let start = self.at;
        self.eat(kind)?;
        Some(self.node(LEAF, start, &[]))
    }

    fn block(&mut self) -> Option<u32> {
        let start = self.at;
        self.eat(sign("{"))?;
        let mut steps = Vec::new();
        while self.eat(sign("}")).is_none() {
            steps.push(self.statement()?);
        }
        let list = self.node(LIST, start, &steps);
        Some(self.node(1, start, &[list]))
    }

    fn params(&mut self) -> Option<u32> {
        let start = self.at;
        self.eat(sign("("))?;
        let mut params = Vec::new();
        while self.kind() == NAME {
            params.push(self.leaf(NAME)?);
            if self.eat(sign(",")).is_none() {
                break;
            }
        }
        self.eat(sign(")"))?;
        Some(self.node(LIST, start, &params))
    }

    fn statement(&mut self) -> Option<u32> {
        let start = self.at;
        let kind = self.kind();
        self.at += 1;
        let w = &self.w;
        if kind == w.let_ {
            let name = self.leaf(NAME)?;
            self.eat(self.w.be)?;
            let value = self.expr(0)?;
            return Some(self.node(2, start, &[name, value]));
        }
        if kind == w.say {
            let mut values = vec![self.expr(0)?];
            while self.eat(sign(",")).is_some() {
                values.push(self.expr(0)?);
            }
            let list = self.node(LIST, start, &values);
            return Some(self.node(3, start, &[list]));
        }
        if kind == w.change {
            let target = self.expr(0)?;
            self.eat(self.w.to)?;
            let value = self.expr(0)?;
            return Some(self.node(4, start, &[target, value]));
        }
        if kind == w.when {
            return self.when(start);
        }
        if kind == w.do_ || kind == w.answer || kind == w.alarm {
            let value = self.expr(0)?;
            return Some(self.node(5, start, &[value]));
        }
        if kind == w.while_ {
            let test = self.expr(0)?;
            let body = self.block()?;
            return Some(self.node(6, start, &[test, body]));
        }
        self.rarer(kind, start)
    }

    fn when(&mut self, start: usize) -> Option<u32> {
        let test = self.expr(0)?;
        let then = self.block()?;
        let mut other = u32::MAX;
        if self.eat(self.w.otherwise).is_some() {
            let from = self.at;
            let inner = if self.eat(self.w.when).is_some() {
                self.when(from)?
            } else {
                self.block()?
            };
            other = self.node(7, from, &[inner]);
        }
        Some(self.node(8, start, &[test, then, other]))
    }

    fn rarer(&mut self, kind: Kind, start: usize) -> Option<u32> {
        if kind == self.w.forever {
            let body = self.block()?;
            return Some(self.node(9, start, &[body]));
        }
        if kind == self.w.count {
            let name = self.leaf(NAME)?;
            self.eat(self.w.from)?;
            let first = self.expr(0)?;
            self.eat(self.w.to)?;
            let last = self.expr(0)?;
            let mut step = u32::MAX;
            if self.eat(self.w.by).is_some() {
                step = self.expr(0)?;
            }
            let body = self.block()?;
            return Some(self.node(10, start, &[name, first, last, step, body]));
        }
        if kind == self.w.each {
            let name = self.leaf(NAME)?;
            self.eat(self.w.in_)?;
            let items = self.expr(0)?;
            let body = self.block()?;
            return Some(self.node(11, start, &[name, items, body]));
        }
        if kind == self.w.stop || kind == self.w.skip {
            return Some(self.node(12, start, &[]));
        }
        if kind == self.w.attempt {
            let risk = self.block()?;
            self.eat(self.w.mend)?;
            let name = self.leaf(NAME)?;
            let cure = self.block()?;
            return Some(self.node(13, start, &[risk, name, cure]));
        }
        if kind == self.w.way {
            let name = self.leaf(NAME)?;
            let params = self.params()?;
            let body = self.block()?;
            return Some(self.node(14, start, &[name, params, body]));
        }
        None
    }

    /// The level of an operator between operands, and whether it groups from the right.
    fn level(&self, kind: Kind) -> Option<(u8, bool)> {
        let w = &self.w;
        Some(if kind == w.or {
            (2, false)
        } else if kind == w.and {
            (3, false)
        } else if [
            sign("="),
            sign("<>"),
            sign("<"),
            sign("<="),
            sign(">"),
            sign(">="),
        ]
        .contains(&kind)
        {
            (5, false)
        } else if kind == sign("&") {
            (6, false)
        } else if kind == sign("+") || kind == sign("-") {
            (7, false)
        } else if [sign("*"), sign("/"), sign("//"), sign("%")].contains(&kind) {
            (8, false)
        } else if kind == sign("^") {
            (10, true)
        } else if kind == sign("#") {
            (11, false)
        } else {
            return None;
        })
    }

    fn expr(&mut self, least: u8) -> Option<u32> {
        let start = self.at;
        let mut left = self.operand()?;
        loop {
            let kind = self.kind();
            if kind == sign("(") && self.tokens[self.at].tight && least <= 11 {
                self.at += 1;
                let mut args = Vec::new();
                while self.kind() != sign(")") {
                    args.push(self.expr(0)?);
                    if self.eat(sign(",")).is_none() {
                        break;
                    }
                }
                self.eat(sign(")"))?;
                let list = self.node(LIST, start, &args);
                left = self.node(20, start, &[left, list]);
                continue;
            }
            if kind == sign(".") && least <= 11 {
                self.at += 1;
                let part = self.leaf(NAME)?;
                left = self.node(21, start, &[left, part]);
                continue;
            }
            let Some((level, right)) = self.level(kind).filter(|(level, _)| *level >= least) else {
                return Some(left);
            };
            self.at += 1;
            let operand = self.expr(if right { level } else { level + 1 })?;
            left = self.node(30 + kind % 64, start, &[left, operand]);
        }
    }

    fn operand(&mut self) -> Option<u32> {
        let start = self.at;
        let kind = self.kind();
        if kind == NAME || kind == WHOLE || kind == DECIMAL || kind == TEXT {
            let leaf = self.leaf(kind)?;
            return Some(self.node(40 + kind, start, &[leaf]));
        }
        self.at += 1;
        if kind == sign("(") {
            let inner = self.expr(0)?;
            self.eat(sign(")"))?;
            return Some(inner);
        }
        if kind == sign("[") {
            return self.list(start);
        }
        if kind == sign("-") {
            let value = self.expr(9)?;
            return Some(self.node(50, start, &[value]));
        }
        if kind == self.w.not {
            let value = self.expr(4)?;
            return Some(self.node(51, start, &[value]));
        }
        if kind == self.w.yes || kind == self.w.no || kind == self.w.nothing {
            return Some(self.node(52, start, &[]));
        }
        if kind == self.w.when {
            let test = self.expr(0)?;
            self.eat(self.w.then)?;
            let yes = self.expr(0)?;
            self.eat(self.w.otherwise)?;
            let no = self.expr(0)?;
            return Some(self.node(53, start, &[test, yes, no]));
        }
        if kind == self.w.way {
            let params = if self.kind() == sign("(") {
                self.params()?
            } else {
                u32::MAX
            };
            let body = if self.eat(self.w.gives).is_some() {
                self.expr(0)?
            } else {
                self.block()?
            };
            return Some(self.node(54, start, &[params, body]));
        }
        None
    }

    fn list(&mut self, start: usize) -> Option<u32> {
        let mut items = Vec::new();
        if self.eat(sign(":")).is_some() {
            self.eat(sign("]"))?;
            return Some(self.node(60, start, &[]));
        }
        while self.kind() != sign("]") {
            let is_entry = self.kind() == NAME
                && self
                    .tokens
                    .get(self.at + 1)
                    .is_some_and(|t| t.kind == sign(":"));
            if is_entry {
                let from = self.at;
                let key = self.leaf(NAME)?;
                self.eat(sign(":"))?;
                let value = self.expr(0)?;
                items.push(self.node(61, from, &[key, value]));
            } else {
                items.push(self.expr(0)?);
            }
            if self.eat(sign(",")).is_none() {
                break;
            }
        }
        self.eat(sign("]"))?;
        let list = self.node(LIST, start, &items);
        Some(self.node(62, start, &[list]))
    }
}
