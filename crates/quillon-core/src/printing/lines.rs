//! Puts words on lines, and breaks lines that get too long where that reads well: at the outermost
//! place first, and only where what follows does not fit any more (after Oppen, "Prettyprinting",
//! 1980, with blocks whose breaks are taken one by one).

/// How deep one level is indented, in blanks.
const STEP: usize = 2;

/// What stands on lines.
enum Atom<'t> {
    /// A word, and whether a blank stands before it.
    Word(&'t str, bool),
    /// So many line ends, and how deep the next line is.
    Ends(usize, usize),
    /// The line may be broken here, in place of a blank.
    Break,
    /// What can be broken begins: lines broken in it are deeper.
    Open,
    /// It ends.
    Close,
}

/// A text in the making. Line ends wait for what comes after them, so that several in a
/// row are one, and a comment can still come before them.
#[derive(Default)]
pub(super) struct Lines<'t> {
    atoms: Vec<Atom<'t>>,
    pub depth: usize,
    /// How many line ends wait.
    waiting: usize,
    /// How many wait for a comment to come before them.
    kept: usize,
}

impl<'t> Lines<'t> {
    pub fn end_line(&mut self, count: usize) {
        self.waiting = self.waiting.max(count);
    }

    /// Puts off the line ends that wait until after a comment.
    pub fn stay(&mut self) {
        self.kept = std::mem::take(&mut self.waiting);
    }

    /// The next word may begin a line of its own.
    pub fn may_break(&mut self) {
        self.atoms.push(Atom::Break);
    }

    pub fn open(&mut self) {
        self.atoms.push(Atom::Open);
    }

    pub fn close(&mut self) {
        self.atoms.push(Atom::Close);
    }

    pub fn put(&mut self, word: &'t str, gap: bool) {
        if self.waiting > 0 {
            self.atoms.push(Atom::Ends(self.waiting, self.depth));
        }
        self.atoms.push(Atom::Word(word, gap && self.waiting == 0));
        self.waiting = std::mem::take(&mut self.kept);
    }

    /// The text, with lines of at most so many characters as far as they can be broken.
    pub fn finish(self, width: usize) -> String {
        let fits = Fits::of(&self.atoms);
        let mut out = Output::default();
        let mut blocks: Vec<usize> = Vec::new();
        let mut is_broken = false;
        for (at, atom) in self.atoms.iter().enumerate() {
            match atom {
                Atom::Open => blocks.push(out.indent + STEP),
                Atom::Close => {
                    blocks.pop();
                }
                Atom::Break => {
                    let needed = out.column + fits.needed(at);
                    if !is_broken && needed > width && self.comes_after_blank(at) {
                        is_broken = true;
                        out.new_line(1, blocks.last().copied().unwrap_or_default());
                    }
                }
                Atom::Ends(count, depth) => {
                    if !out.text.is_empty() {
                        out.new_line(*count, depth * STEP);
                    }
                }
                Atom::Word(word, gap) => {
                    out.gap(*gap && !std::mem::take(&mut is_broken));
                    out.word(word);
                }
            }
        }
        out.text
    }
}

impl Lines<'_> {
    /// Whether the next word after a break has a blank before it that a line end can stand for.
    fn comes_after_blank(&self, at: usize) -> bool {
        let mut next = self.atoms[at + 1..].iter();
        next.find_map(|atom| match atom {
            Atom::Word(_, gap) => Some(*gap),
            Atom::Ends(..) => Some(false),
            Atom::Break | Atom::Open | Atom::Close => None,
        })
        .unwrap_or_default()
    }
}

/// How much room there must be behind each break.
struct Fits {
    /// The characters before each atom, line ends left out.
    before: Vec<usize>,
    /// Where the next break of the same block or of one around it is, or the end of the line.
    until: Vec<usize>,
}

impl Fits {
    fn of(atoms: &[Atom<'_>]) -> Fits {
        let mut before = Vec::with_capacity(atoms.len());
        let mut depths = Vec::with_capacity(atoms.len());
        let (mut count, mut depth) = (0, 0usize);
        for atom in atoms {
            before.push(count);
            depths.push(depth);
            match atom {
                Atom::Word(word, gap) => count += usize::from(*gap) + word.chars().count(),
                Atom::Open => depth += 1,
                Atom::Close => depth = depth.saturating_sub(1),
                Atom::Ends(..) | Atom::Break => {}
            }
        }
        let mut until = vec![count; atoms.len()];
        let mut line_end = count;
        // The breaks that come, each less deep than those before it on the stack.
        let mut coming: Vec<(usize, usize)> = Vec::new();
        for (at, atom) in atoms.iter().enumerate().rev() {
            match atom {
                Atom::Ends(..) => {
                    coming.clear();
                    line_end = before[at];
                }
                Atom::Break => {
                    while coming.last().is_some_and(|(depth, _)| *depth > depths[at]) {
                        coming.pop();
                    }
                    until[at] = coming.last().map_or(line_end, |(_, place)| *place);
                    coming.push((depths[at], before[at]));
                }
                Atom::Word(..) | Atom::Open | Atom::Close => {}
            }
        }
        Fits { before, until }
    }

    fn needed(&self, at: usize) -> usize {
        self.until[at] - self.before[at]
    }
}

/// The text, and where its last line is.
#[derive(Default)]
struct Output {
    text: String,
    column: usize,
    /// How far the last line is indented.
    indent: usize,
}

impl Output {
    fn new_line(&mut self, count: usize, indent: usize) {
        self.text.push_str(&"\n".repeat(count));
        self.text.push_str(&" ".repeat(indent));
        (self.column, self.indent) = (indent, indent);
    }

    fn gap(&mut self, gap: bool) {
        if gap && !self.text.is_empty() {
            self.text.push(' ');
            self.column += 1;
        }
    }

    fn word(&mut self, word: &str) {
        self.text.push_str(word);
        // A text or a comment can have several lines.
        match word.rsplit_once('\n') {
            Some((_, last)) => self.column = last.chars().count(),
            None => self.column += word.chars().count(),
        }
    }
}
