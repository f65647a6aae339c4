//! Programs of Quay made up at random: most of what they do makes sense, so that most of them run
//! to an end, and some of it does not.

use fastrand::Rng;

/// What a name holds, as far as the author knows.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Kind {
    Integer,
    Text,
    List,
    /// A function from so many integers to one.
    Function(usize),
    /// A coroutine that gives integers.
    Flow,
    /// A map from texts to integers.
    Map,
    /// A dynamic variable that holds an integer.
    Tide,
}

/// Makes programs.
pub struct Author<'r> {
    random: &'r mut Rng,
    names: Vec<(String, Kind)>,
    /// How many loops, functions and flows are around.
    loops: u32,
    functions: u32,
    flows: u32,
    count: u32,
    /// The programs that can be loaded.
    modules: usize,
}

impl<'r> Author<'r> {
    /// Makes programs that can load so many others, called `m0` and so on.
    pub fn new(random: &'r mut Rng, modules: usize) -> Author<'r> {
        Author {
            random,
            names: Vec::new(),
            loops: 0,
            functions: 0,
            flows: 0,
            count: 0,
            modules,
        }
    }

    /// A whole program.
    pub fn program(&mut self) -> String {
        let count = self.random.usize(3..12);
        let mut steps: Vec<String> = (0..count).map(|_| self.step(3)).collect();
        steps.push(self.integer(3));
        steps.join(";\n")
    }

    fn fresh(&mut self) -> String {
        self.count += 1;
        format!("v{}", self.count)
    }

    fn bind(&mut self, kind: Kind) -> String {
        let name = self.fresh();
        self.names.push((name.clone(), kind));
        name
    }

    /// A name that holds something of a kind.
    fn name(&mut self, kind: Kind) -> Option<String> {
        let fitting: Vec<&String> = self
            .names
            .iter()
            .filter(|(_, known)| *known == kind)
            .map(|(name, _)| name)
            .collect();
        let name = self.random.choice(fitting)?;
        Some(name.clone())
    }

    /// Once in a while, something of another kind.
    fn is_odd(&mut self) -> bool {
        self.random.u32(..400) == 0
    }

    fn anything(&mut self, depth: u32) -> String {
        match self.random.u32(..4) {
            0 => self.text(depth),
            1 => self.list(depth),
            2 => "yes".to_owned(),
            _ => self.integer(depth),
        }
    }

    fn integer(&mut self, depth: u32) -> String {
        if self.is_odd() {
            return self.anything(depth.saturating_sub(1));
        }
        if depth == 0 {
            return match (self.random.u32(..5), self.name(Kind::Integer)) {
                (0..3, Some(name)) => name,
                (3, _) if self.random.bool() => "kept".to_owned(),
                _ => self.random.u32(..50).to_string(),
            };
        }
        let inner = depth - 1;
        match self.random.u32(..30) {
            0..4 => {
                let sign = ["+", "-", "*"][self.random.usize(..3)];
                let (a, b) = (self.integer(inner), self.integer(inner));
                format!("wrapped({a} {sign} {b})")
            }
            4 => format!("size({})", self.list(inner)),
            5 => format!("item({}, {})", self.list(inner), self.integer(inner)),
            6 => format!("length({})", self.text(inner)),
            7 => format!("find({}, {})", self.text(inner), self.text(0)),
            8 => {
                let (list, f) = (self.list(inner), self.function(2, inner));
                format!("fold({list}, {}, {f})", self.integer(0))
            }
            9..12 => {
                let params = self.random.usize(..3);
                let f = match self.name(Kind::Function(params)) {
                    Some(name) => name,
                    None => self.function(params, inner),
                };
                let odd = usize::from(self.is_odd());
                let args: Vec<String> = (0..params + odd).map(|_| self.integer(inner)).collect();
                format!("{f}({})", args.join(", "))
            }
            12 => match self.name(Kind::Flow) {
                Some(name) => format!("next({name}, {})", self.integer(inner)),
                None => self.integer(inner),
            },
            13 => match self.name(Kind::Tide) {
                Some(name) => format!("@{name}"),
                None => self.integer(inner),
            },
            14 => match self.name(Kind::Map) {
                Some(name) => format!("get({name}, {})", self.text(0)),
                None => self.integer(inner),
            },
            15 if self.modules > 0 => format!("load \"m{}\"", self.random.usize(..self.modules)),
            16 => {
                let args: Vec<String> = (0..self.random.usize(..4))
                    .map(|_| self.integer(0))
                    .collect();
                format!("rest({})", args.join(", "))
            }
            20 => {
                let how = ["call", "quiet", "each"][self.random.usize(..3)];
                let (f, arg) = (self.function(1, inner), self.integer(inner));
                format!("ask \"{how}\"({f}, {arg})")
            }
            21..24 => self.steered(inner),
            24 | 25 => self.sent(inner),
            26 => format!(
                "wrapped(reckon({}, {}))",
                self.figure(inner),
                self.figure(inner)
            ),
            27 => format!("nth({}, {})", self.list(inner), self.integer(inner)),
            17 => format!(
                "spread([{}, {}], {})",
                self.integer(0),
                self.integer(0),
                self.function(2, inner)
            ),
            _ => self.integer(0),
        }
    }

    /// What a number can be made of, most times.
    fn figure(&mut self, depth: u32) -> String {
        match self.random.u32(..6) {
            0 => self.text(depth),
            1 => "yes".to_owned(),
            _ => self.integer(depth),
        }
    }

    /// A call with arguments of which some may be left out.
    fn steered(&mut self, depth: u32) -> String {
        let (known, loops) = (self.names.len(), std::mem::take(&mut self.loops));
        let count = self.random.usize(..4);
        let params: Vec<String> = (0..count)
            .map(|_| {
                let other = self.integer(0);
                let name = self.bind(Kind::Integer);
                if self.random.bool() {
                    format!("{name} = {other}")
                } else {
                    name
                }
            })
            .collect();
        let body = self.integer(depth);
        self.names.truncate(known);
        self.loops = loops;
        let way = match self.random.u32(..8) {
            0 => "first".to_owned(),
            1 => self.function(1, 0),
            _ => format!("way ({}) {{ {body} }}", params.join(", ")),
        };
        let args: Vec<String> = (0..count.max(1) + usize::from(self.is_odd()))
            .map(|_| self.integer(depth))
            .collect();
        format!("wrapped(reckon(steer [{way}]({}), 0))", args.join(", "))
    }

    /// Something sent to a list or a map by name, with some arguments.
    fn sent(&mut self, depth: u32) -> String {
        let name = ["add", "first", "held", "kept"][self.random.usize(..4)];
        let target = match (self.random.bool(), self.name(Kind::Map)) {
            (true, Some(map)) => map,
            _ => self.list(0),
        };
        let args: Vec<String> = (0..self.random.usize(1..7))
            .map(|_| self.integer(depth))
            .collect();
        format!("send \"{name}\" [{target}]({})", args.join(", "))
    }

    fn text(&mut self, depth: u32) -> String {
        if depth == 0 {
            return match (self.random.bool(), self.name(Kind::Text)) {
                (true, Some(name)) => name,
                _ => ["\"lock\"", "\"\"", "\"e\u{301}水\"", "\"a,b,c\""][self.random.usize(..4)]
                    .to_owned(),
            };
        }
        let inner = depth - 1;
        match self.random.u32(..6) {
            0 => format!("({} & {})", self.text(inner), self.anything(inner)),
            1 => format!("repeated({}, {})", self.text(inner), self.random.u32(..4)),
            2 => format!(
                "padded({}, {}, {})",
                self.text(inner),
                self.random.u32(..12),
                self.text(0)
            ),
            3 => format!("upper({})", self.text(inner)),
            4 => format!("reversed({})", self.text(inner)),
            _ => self.text(0),
        }
    }

    fn list(&mut self, depth: u32) -> String {
        if depth == 0 {
            return match (self.random.bool(), self.name(Kind::List)) {
                (true, Some(name)) => name,
                _ => format!("[{}, {}]", self.integer(0), self.integer(0)),
            };
        }
        let inner = depth - 1;
        match self.random.u32(..9) {
            0 => format!("map({}, {})", self.list(inner), self.function(1, inner)),
            1 => {
                let x = self.fresh();
                let test = format!("{x} < {}", self.integer(0));
                format!("filter({}, fn ({x}) {{ {test} }})", self.list(inner))
            }
            2 => format!("sort({}, fn (a, b) {{ a < b }})", self.list(inner)),
            3 => format!("sorted({})", self.list(inner)),
            4 => format!("range({}, {})", self.random.u32(..5), self.random.u32(..15)),
            5 => format!("filled({}, {})", self.random.u32(..9), self.integer(inner)),
            6 => format!("copy({})", self.list(inner)),
            7 => format!("map(split({}, \",\"), length)", self.text(inner)),
            _ => self.list(0),
        }
    }

    /// A function from integers to an integer, where it stands.
    fn function(&mut self, params: usize, depth: u32) -> String {
        let (known, loops) = (self.names.len(), std::mem::take(&mut self.loops));
        let params: Vec<String> = (0..params).map(|_| self.bind(Kind::Integer)).collect();
        let body = self.integer(depth);
        self.names.truncate(known);
        self.loops = loops;
        format!("fn ({}) {{ {body} }}", params.join(", "))
    }

    fn test(&mut self, depth: u32) -> String {
        let (a, b) = (self.integer(depth), self.integer(depth));
        match self.random.u32(..6) {
            0 => format!("{} == {}", self.list(depth), self.list(depth)),
            1 => format!("{} == {}", self.text(depth), self.text(depth)),
            2 => format!("{a} == {b}"),
            3 => format!("below({a}, {})", self.figure(depth)),
            _ => format!("{a} < {b}"),
        }
    }

    fn block(&mut self, depth: u32) -> String {
        let known = self.names.len();
        let count = self.random.usize(1..4);
        let steps: Vec<String> = (0..count).map(|_| self.step(depth)).collect();
        self.names.truncate(known);
        format!("{{ {} }}", steps.join("; "))
    }

    /// A block in which names hold integers.
    fn block_with(&mut self, names: &[String], depth: u32) -> String {
        let known = self.names.len();
        self.names
            .extend(names.iter().map(|name| (name.clone(), Kind::Integer)));
        let block = self.block(depth);
        self.names.truncate(known);
        block
    }

    fn looped(&mut self, names: &[String], depth: u32) -> String {
        self.loops += 1;
        let block = self.block_with(names, depth);
        self.loops -= 1;
        block
    }

    fn step(&mut self, depth: u32) -> String {
        let inner = depth.saturating_sub(1);
        match self.random.u32(..if depth == 0 { 13 } else { 24 }) {
            0 | 1 => {
                let value = self.integer(2);
                format!("let {} = {value}", self.bind(Kind::Integer))
            }
            2 => {
                let value = self.text(2);
                format!("let {} = {value}", self.bind(Kind::Text))
            }
            3 => {
                let value = self.list(2);
                format!("let {} = {value}", self.bind(Kind::List))
            }
            4 | 5 => match self.name(Kind::Integer) {
                Some(name) => format!("{name} := {}", self.integer(2)),
                None => "say 0".to_owned(),
            },
            6 => format!("say {}", self.anything(2)),
            7 => format!("keep {}", self.integer(1)),
            8 => match self.name(Kind::List) {
                Some(name) => format!("add({name}, {})", self.integer(1)),
                None => "say 1".to_owned(),
            },
            9 if self.flows > 0 => format!("hand {}", self.integer(1)),
            9 => format!("let {} = new()", self.bind(Kind::Map)),
            10 => match self.name(Kind::Map) {
                Some(name) => format!("set({name}, {}, {})", self.text(1), self.integer(1)),
                None => "say 2".to_owned(),
            },
            11 if self.loops > 0 => ["leave", "skip"][self.random.usize(..2)].to_owned(),
            11 => {
                let value = self.integer(1);
                format!("dyn {} = {value}", self.bind(Kind::Tide))
            }
            12 if self.functions > 0 => format!("give {}", self.integer(1)),
            12 => self.integer(2),
            13 | 14 => {
                let (test, yes) = (self.test(1), self.block(inner));
                format!("if {test} {yes} else {}", self.block(inner))
            }
            15 => format!(
                "repeat {} {}",
                self.random.u32(..6),
                self.looped(&[], inner)
            ),
            16 => {
                let items = self.list(2);
                let name = self.fresh();
                format!(
                    "each {name} in {items} {}",
                    self.looped(std::slice::from_ref(&name), inner)
                )
            }
            17 => match self.name(Kind::Flow) {
                Some(flow) => {
                    let name = self.fresh();
                    format!("each {name} in {flow} {}", self.looped(&[], inner))
                }
                None => self.flow(inner),
            },
            18 => {
                let body = self.block(inner);
                let name = self.fresh();
                let after = self.block(inner);
                format!("try {body} mend {name} {after}")
            }
            19 => format!("try {} lastly {}", self.block(inner), self.block(inner)),
            20 if self.random.u32(..4) == 0 => format!("raise {}", self.integer(1)),
            20 | 21 => self.flow(inner),
            _ => self.named_function(inner),
        }
    }

    fn flow(&mut self, depth: u32) -> String {
        let loops = std::mem::take(&mut self.loops);
        self.flows += 1;
        let body = self.block(depth);
        self.flows -= 1;
        self.loops = loops;
        format!("let {} = flow {body}", self.bind(Kind::Flow))
    }

    /// A function with a name; it may call itself, down to an end.
    fn named_function(&mut self, depth: u32) -> String {
        let count = self.random.usize(..3);
        let name = self.bind(Kind::Function(count));
        let loops = std::mem::take(&mut self.loops);
        let known = self.names.len();
        let params: Vec<String> = (0..count).map(|_| self.bind(Kind::Integer)).collect();
        self.functions += 1;
        let mut body = self.block(depth);
        self.functions -= 1;
        self.names.truncate(known);
        self.loops = loops;
        if let [first, others @ ..] = &params[..]
            && self.random.bool()
        {
            let mut args = vec![format!("{first} - 1")];
            args.extend(others.iter().cloned());
            let again = format!("{name}({})", args.join(", "));
            let again = if self.random.bool() {
                again
            } else {
                format!("1 + {again}")
            };
            body = format!("{{ if 0 < {first} {{ give {again} }} else {body} }}");
        }
        format!("fun {name}({}) {body}", params.join(", "))
    }
}
