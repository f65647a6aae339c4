//! The same work in Rust itself, on types that fit it. What could be worked out beforehand is
//! hidden from the optimiser.

use std::fmt::Write;
use std::hint::black_box;

/// The programs by their names.
pub fn run(name: &str) -> String {
    match name {
        "calls" => climbs(black_box(29)).to_string(),
        "loops" => loops(black_box(1400)).to_string(),
        "sieve" => sieve(black_box(800_000)).to_string(),
        "texts" => texts(black_box(150_000)),
        "closures" => closures(black_box(3000)).to_string(),
        "bodies" => bodies(black_box(20_000)).to_string(),
        "trees" => trees(black_box(24)).to_string(),
        "sorting" => sorting(black_box(150_000)),
        "levels" => levels(black_box(200)).to_string(),
        "higher" => higher(black_box(150)).to_string(),
        "matrix" => matrix(black_box(110)).to_string(),
        "queens" => (0..30)
            .map(|_| Queens::new(black_box(8)).ways(1))
            .sum::<i64>()
            .to_string(),
        "queue" => queue(black_box(300_000)),
        "scanning" => scanning(black_box(6000)),
        "halving" => halving(black_box(40_000)),
        other => panic!("{other} is not there"),
    }
}

fn climbs(locks: i64) -> i64 {
    if locks < 2 {
        return 1;
    }
    black_box(climbs(locks - 1)) + climbs(locks - 2)
}

fn loops(limit: i64) -> i64 {
    let mut rest = 0;
    for upper in 1..=limit {
        for lower in 1..=limit {
            rest += black_box(upper * lower % 7);
        }
    }
    rest
}

fn sieve(limit: usize) -> usize {
    let mut open = vec![true; limit + 1];
    let mut found = 0;
    for n in 2..=limit {
        if open[n] {
            found += 1;
            let mut again = n * n;
            while again <= limit {
                open[again] = false;
                again += n;
            }
        }
    }
    found
}

fn texts(boats: i64) -> String {
    let mut log = String::new();
    for boat in 1..=boats {
        let _ = write!(log, "boat {boat} through");
        if boat % 3 == 0 {
            log.push_str(", loaded");
        }
        log.push(';');
    }
    format!("{boats} {}", log.chars().count())
}

fn keeper(start: i64) -> Box<dyn FnMut(i64) -> i64> {
    let mut boats = start;
    Box::new(move |more| {
        boats += more;
        boats
    })
}

fn closures(posts: i64) -> i64 {
    let mut total = 0;
    for post in 1..=posts {
        let mut pass = keeper(post);
        let toll: Box<dyn Fn(i64) -> i64> = black_box(Box::new(move |n| n * 2 + post));
        for boat in 1..=100 {
            total += pass(toll(boat)) % 11;
        }
    }
    total
}

#[derive(Clone, Copy)]
struct Boat {
    x: f64,
    y: f64,
    u: f64,
    v: f64,
    mass: f64,
}

fn bodies(turns: i64) -> i64 {
    let boat = |x, y, u, v, mass| Boat { x, y, u, v, mass };
    let mut boats = [
        boat(0.0, 0.0, 0.0, 0.0, 40.0),
        boat(5.0, 1.0, 0.1, 2.8, 1.0),
        boat(-9.0, 2.0, -0.2, -2.0, 0.5),
        boat(3.0, -13.0, 1.7, 0.3, 0.2),
        boat(-4.0, 19.0, -1.4, 0.1, 0.1),
    ];
    let time = black_box(0.01);
    for _ in 0..turns {
        for i in 0..5 {
            for j in i + 1..5 {
                let (a, b) = (boats[i], boats[j]);
                let (dx, dy) = (a.x - b.x, a.y - b.y);
                let square = dx * dx + dy * dy + 0.01;
                let pull = time / (square * square.sqrt());
                boats[i].u -= dx * b.mass * pull;
                boats[i].v -= dy * b.mass * pull;
                boats[j].u += dx * a.mass * pull;
                boats[j].v += dy * a.mass * pull;
            }
        }
        for boat in &mut boats {
            boat.x += time * boat.u;
            boat.y += time * boat.v;
        }
    }
    let energy = boats.iter().fold(0.0, |energy, b| {
        energy + b.mass * (b.u * b.u + b.v * b.v) / 2.0
    });
    (energy * 1000.0).round() as i64
}

enum Tree {
    End,
    Parts(Box<(Tree, Tree)>),
}

fn branch(depth: i64) -> Tree {
    if depth == 0 {
        return Tree::Parts(Box::new((Tree::End, Tree::End)));
    }
    Tree::Parts(Box::new((branch(depth - 1), branch(depth - 1))))
}

fn ends(tree: &Tree) -> i64 {
    match tree {
        Tree::End => 0,
        Tree::Parts(parts) => match &**parts {
            (Tree::End, _) => 1,
            (a, b) => ends(a) + ends(b),
        },
    }
}

fn trees(turns: i64) -> i64 {
    (0..turns).map(|_| ends(&black_box(branch(13)))).sum()
}

fn sort(list: &mut [i64], low: usize, high: usize) {
    if low >= high {
        return;
    }
    let middle = list[usize::midpoint(low, high)];
    let (mut i, mut j) = (low, high);
    while i <= j {
        while list[i] < middle {
            i += 1;
        }
        while list[j] > middle {
            j -= 1;
        }
        if i <= j {
            list.swap(i, j);
            i += 1;
            if j == 0 {
                break;
            }
            j -= 1;
        }
    }
    sort(list, low, j);
    sort(list, i, high);
}

fn sorting(count: usize) -> String {
    let mut seed: i64 = 42;
    let mut boats: Vec<i64> = (0..count)
        .map(|_| {
            seed = (seed * 1_103_515_245 + 12345) % 2_147_483_648;
            seed % 100_000
        })
        .collect();
    sort(&mut boats, 0, count - 1);
    format!("{} {} {}", boats[0], boats[count / 2 - 1], boats[count - 1])
}

fn levels(size: i64) -> i64 {
    let mut calm = 0;
    for row in 0..size {
        let cy = row as f64 / 100.0 - 1.0;
        for column in 0..size {
            let cx = column as f64 / 80.0 - 2.0;
            let (mut x, mut y, mut turns) = (0.0, 0.0, 0);
            while turns < 60 && x * x + y * y <= 4.0 {
                let next = x * x - y * y + cx;
                y = 2.0 * x * y + cy;
                x = next;
                turns += 1;
            }
            if turns == 60 {
                calm += 1;
            }
        }
    }
    calm
}

fn higher(days: i64) -> i64 {
    let boats: Vec<i64> = (1..=1000).collect();
    let mut total = 0;
    for day in 1..=days {
        let tolls: Vec<i64> = black_box(&boats).iter().map(|n| n * 3 + day).collect();
        let even: Vec<i64> = black_box(&tolls)
            .iter()
            .copied()
            .filter(|n| n % 2 == 0)
            .collect();
        total += black_box(&even).iter().sum::<i64>();
    }
    total
}

fn matrix(size: i64) -> i64 {
    let net = |shift: i64| -> Vec<Vec<f64>> {
        let row = |i: i64| {
            (1..=size)
                .map(|j| ((i * j + shift) % 10) as f64 / 4.0)
                .collect()
        };
        (1..=size).map(row).collect()
    };
    let (a, b) = (black_box(net(1)), black_box(net(2)));
    let mut total = 0.0;
    for line in &a {
        for j in 0..size as usize {
            let products = line.iter().zip(&b).map(|(one, row)| one * row[j]);
            total += black_box(products.sum::<f64>());
        }
    }
    total.round() as i64
}

struct Queens {
    size: usize,
    columns: Vec<bool>,
    rising: Vec<bool>,
    falling: Vec<bool>,
}

impl Queens {
    fn new(size: usize) -> Queens {
        let free = || vec![false; 2 * size + 1];
        let (columns, rising, falling) = (free(), free(), free());
        Queens {
            size,
            columns,
            rising,
            falling,
        }
    }

    fn ways(&mut self, row: usize) -> i64 {
        if row > self.size {
            return 1;
        }
        let mut found = 0;
        for column in 1..=self.size {
            let (up, down) = (row + column - 1, row + self.size - column);
            if !self.columns[column] && !self.rising[up] && !self.falling[down] {
                (self.columns[column], self.rising[up], self.falling[down]) = (true, true, true);
                found += self.ways(row + 1);
                (self.columns[column], self.rising[up], self.falling[down]) = (false, false, false);
            }
        }
        found
    }
}

fn queue(boats: i64) -> String {
    let mut waiting = std::collections::VecDeque::from([(String::from("none"), 0)]);
    let mut carried = 0;
    for boat in 1..=boats {
        waiting.push_back((String::from("boat"), boat % 40));
        if waiting.len() > 51 {
            waiting.pop_front();
            carried += black_box(&waiting)[0].1;
        }
    }
    format!("{carried} {}", waiting.len() - 1)
}

fn scanning(days: i64) -> String {
    let mut notes = String::new();
    for day in 1..=days {
        let _ = write!(notes, "lock {day} was opened twice; ");
    }
    let (mut words, mut marks, mut inside) = (0, 0, false);
    for letter in black_box(&notes).bytes() {
        match letter {
            b' ' => inside = false,
            b';' => marks += 1,
            _ => {}
        }
        if letter != b' ' && !inside {
            words += 1;
            inside = true;
        }
    }
    format!("{words} {marks}")
}

fn halving(starts: i64) -> String {
    let (mut most, mut best) = (0, 0);
    for start in 1..=starts {
        let (mut level, mut turns) = (black_box(start), 0);
        while level != 1 {
            level = if level % 2 == 1 {
                level * 3 + 1
            } else {
                level / 2
            };
            turns += 1;
        }
        if turns > most {
            (most, best) = (turns, start);
        }
    }
    format!("{best} {most}")
}
