//! Both engines come to the same on programs made up at random: value, output, error and its
//! place (`common::value` compares them, and runs each again with a heap that is always full).

use crate::common;
use quillon_core::Language;
use quillon_core::source::SourceText;

const TOWPATH: &str = include_str!("../../../../languages/towpath/towpath.quillon");

/// Makes programs: most of what they do makes sense, and some of it does not.
struct Author {
    random: fastrand::Rng,
    /// The names that can be used, with how many arguments they take if they are ways.
    names: Vec<(String, Option<usize>)>,
    loops: u32,
    ways: u32,
    count: u32,
}

impl Author {
    fn new(seed: u64) -> Author {
        Author {
            random: fastrand::Rng::with_seed(seed),
            names: Vec::new(),
            loops: 0,
            ways: 0,
            count: 0,
        }
    }

    fn fresh(&mut self) -> String {
        self.count += 1;
        format!("v{}", self.count)
    }

    fn name(&mut self, way: bool) -> Option<(String, usize)> {
        let fit: Vec<_> = self
            .names
            .iter()
            .filter(|(_, params)| params.is_some() == way)
            .collect();
        if fit.is_empty() {
            return None;
        }
        let (name, params) = fit[self.random.usize(..fit.len())];
        Some((name.clone(), params.unwrap_or(0)))
    }

    fn expression(&mut self, depth: u32) -> String {
        if depth == 0 {
            return self.small();
        }
        let inner = depth - 1;
        // Most that does not belong together is left out: a program that ends in an error of kinds
        // has not shown much before that.
        let odd = self.is_odd();
        match self.random.u32(..15) {
            4..=8 if !odd => format!("({} + {})", self.expression(inner), self.small()),
            0..4 => {
                let operators = ["+", "-", "*", "/", "//", "%"];
                let operators = &operators[..if odd { 6 } else { 3 }];
                let operator = operators[self.random.usize(..operators.len())];
                let (a, b) = (self.expression(inner), self.expression(inner));
                format!("({a} {operator} {b})")
            }
            4 => format!("({} & {})", self.expression(inner), self.expression(inner)),
            5 => format!("[{}, {}]", self.expression(inner), self.expression(inner)),
            6 => format!("[name: {}, tons: {}]", self.small(), self.expression(inner)),
            7 => format!("{}#{}", self.expression(inner), self.small()),
            8 => format!("{}.tons", self.expression(inner)),
            9 => {
                let test = self.test(inner);
                let (a, b) = (self.expression(inner), self.expression(inner));
                format!("(when {test} then {a} otherwise {b})")
            }
            10 | 11 => match self.name(true) {
                Some((name, params)) => {
                    let odd = usize::from(self.is_odd());
                    let args: Vec<String> =
                        (0..params + odd).map(|_| self.expression(inner)).collect();
                    format!("{name}({})", args.join(", "))
                }
                None => self.small(),
            },
            12 if odd => format!("length({})", self.expression(inner)),
            12 => format!("length([{}, {}])", self.small(), self.expression(inner)),
            13 => {
                let name = self.fresh();
                self.names.push((name.clone(), None));
                let result = self.expression(inner);
                self.names.pop();
                let arg = self.small();
                format!("(way ({name}) gives {result})({arg})")
            }
            _ => self.small(),
        }
    }

    fn is_odd(&mut self) -> bool {
        self.random.u32(..60) == 0
    }

    fn small(&mut self) -> String {
        let most = if self.is_odd() { 10 } else { 9 };
        match self.random.u32(..most) {
            0..5 => match self.name(false) {
                Some((name, _)) => name,
                None => "1".to_owned(),
            },
            5..8 => self.random.i32(-3..400).to_string().replace('-', "0 - "),
            8 => format!("{}.5", self.random.u32(..9)),
            _ => ["yes", "nothing", "\"lock\"", "[]"][self.random.usize(..4)].to_owned(),
        }
    }

    fn test(&mut self, depth: u32) -> String {
        let (a, b) = (self.expression(depth), self.expression(depth));
        let signs = ["=", "<>", "<", "<=", ">", ">="];
        let sign = signs[self.random.usize(..signs.len())];
        match self.random.u32(..6) {
            0 if depth > 0 => format!("{} and {}", self.test(depth - 1), self.test(depth - 1)),
            1 if depth > 0 => format!("{} or {}", self.test(depth - 1), self.test(depth - 1)),
            2 => format!("not ({a} {sign} {b})"),
            _ => format!("{a} {sign} {b}"),
        }
    }

    fn block(&mut self, depth: u32) -> String {
        let known = self.names.len();
        let count = self.random.u32(1..4);
        let steps: Vec<String> = (0..count).map(|_| self.statement(depth)).collect();
        self.names.truncate(known);
        format!("{{ {} }}", steps.join(" "))
    }

    fn looped(&mut self, depth: u32) -> String {
        self.loops += 1;
        let block = self.block(depth);
        self.loops -= 1;
        block
    }

    fn statement(&mut self, depth: u32) -> String {
        let inner = depth.saturating_sub(1);
        match self.random.u32(..if depth == 0 { 6 } else { 14 }) {
            0 | 1 => {
                let value = self.expression(2);
                let name = self.fresh();
                self.names.push((name.clone(), None));
                format!("let {name} be {value}")
            }
            2 | 3 => match self.name(false) {
                Some((name, _)) => format!("change {name} to {}", self.expression(2)),
                None => "say 0".to_owned(),
            },
            4 => format!("say {}", self.expression(2)),
            5 if self.loops > 0 => ["stop", "skip"][self.random.usize(..2)].to_owned(),
            5 => format!("do {}", self.expression(2)),
            6 | 7 => {
                let test = self.test(1);
                let then = self.block(inner);
                format!("when {test} {then} otherwise {}", self.block(inner))
            }
            8 => {
                let name = self.fresh();
                self.names.push((name.clone(), None));
                let body = self.looped(inner);
                self.names.pop();
                format!("count {name} from 1 to {} {body}", self.random.u32(1..5))
            }
            9 => {
                let items = if self.is_odd() {
                    self.expression(2)
                } else {
                    format!("[{}, {}]", self.expression(1), self.expression(1))
                };
                let name = self.fresh();
                self.names.push((name.clone(), None));
                let body = self.looped(inner);
                self.names.pop();
                format!("each {name} in {items} {body}")
            }
            10 => {
                let risk = self.block(inner);
                let name = self.fresh();
                let known = self.names.len();
                // It holds what was raised, or a map that says what went wrong.
                if self.is_odd() {
                    self.names.push((name.clone(), None));
                }
                let cure = self.block(inner);
                self.names.truncate(known);
                format!("attempt {risk} mend {name} {cure}")
            }
            11 if self.random.u32(..4) == 0 => format!("alarm {}", self.expression(1)),
            12 if self.ways > 0 => format!("answer {}", self.expression(2)),
            _ => self.way(inner),
        }
    }

    fn way(&mut self, depth: u32) -> String {
        let name = self.fresh();
        let params: Vec<String> = (0..self.random.usize(..3)).map(|_| self.fresh()).collect();
        let loops = std::mem::take(&mut self.loops);
        let known = self.names.len();
        // It can use what is around it, and now and then call itself, mostly without end.
        let calls_itself = self.is_odd();
        if calls_itself {
            self.names.push((name.clone(), Some(params.len())));
        }
        self.names.extend(params.iter().map(|p| (p.clone(), None)));
        self.ways += 1;
        let (body, last) = (self.block(depth), self.expression(1));
        self.ways -= 1;
        self.loops = loops;
        self.names.truncate(known);
        self.names.push((name.clone(), Some(params.len())));
        format!(
            "way {name}({}) {{ when yes {body} answer {last} }}",
            params.join(", ")
        )
    }
}

#[test]
fn engines_agree_on_programs_made_up_at_random() {
    let source = SourceText::new("towpath.quillon", TOWPATH);
    let language = Language::load(&source).value.expect("the demo is right");
    let mut ended = 0;
    for seed in 0..1500 {
        let mut author = Author::new(seed);
        let mut steps: Vec<String> = (0..6).map(|_| author.statement(3)).collect();
        steps.push(format!("answer {}", author.expression(3)));
        let program = steps.join("\n");
        let limits = quillon_core::runtime::Limits {
            steps: Some(30_000),
            depth: 200,
            memory: Some(64 << 20),
            ..quillon_core::runtime::Limits::default()
        };
        ended += u32::from(common::comes_to_its_end(&language, &program, limits));
    }
    assert!(
        ended > 900,
        "most programs come to their end: {ended} of 1500"
    );
}
