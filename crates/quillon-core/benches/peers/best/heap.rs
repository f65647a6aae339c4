//! Objects in blocks by size, made one after the other in runs of free room; what nothing leads to is
//! found by marking.

use super::code::Code;
use super::word::Word;

#[derive(Clone, Copy, PartialEq, Eq)]
#[repr(u8)]
pub enum Kind {
    Free,
    Text,
    List,
    Card,
    Func,
    Shared,
    Big,
}

#[repr(C, align(8))]
pub struct Head {
    pub kind: Kind,
    /// Of a text: its bytes stand in itself. Of a list: its items do not.
    pub flag: bool,
    /// Of a text its length, of a card its shape, of a function how much it has captured.
    pub extra: u32,
}

#[repr(C)]
pub struct List {
    pub head: Head,
    pub items: *mut Word,
    pub length: u32,
    pub room: u32,
}

#[repr(C)]
pub struct Text {
    pub head: Head,
    pub buffer: *mut Buffer,
}

/// What longer texts have in common: each has the first bytes of it.
pub struct Buffer {
    pub bytes: Vec<u8>,
    pub users: usize,
}

#[repr(C)]
pub struct Card {
    pub head: Head,
}

#[repr(C)]
pub struct Func {
    pub head: Head,
    pub code: *const Code,
}

/// A shared variable; an integer of more than forty-eight bits has its own value there.
#[repr(C)]
pub struct Shared {
    pub head: Head,
    pub value: Word,
}

const SIZES: [usize; 8] = [16, 32, 48, 64, 96, 128, 256, 512];
const BLOCK: usize = 1 << 16;
/// Where the first object of a block is.
const FIRST: usize = 1024;

/// The most bytes that an object can have.
pub const LARGEST: usize = SIZES[SIZES.len() - 1];

/// Objects of one size, with a mark for each sixteen bytes of them.
#[repr(C)]
struct Block {
    marks: [u64; BLOCK / 16 / 64],
    class: usize,
    /// Some object in it has something outside of itself.
    has_more: bool,
}

impl Block {
    unsafe fn of<T>(object: *const T) -> *mut Block {
        (object as usize & !(BLOCK - 1)) as *mut Block
    }

    unsafe fn mark_of<'a>(object: *const Head) -> (&'a mut u64, u64) {
        let at = (object as usize & (BLOCK - 1)) / 16;
        let block = unsafe { &mut *Block::of(object) };
        (&mut block.marks[at / 64], 1 << (at % 64))
    }
}

/// Where objects of a size are made one after the other, and where it goes on behind that.
#[derive(Clone, Copy)]
struct Run {
    at: usize,
    end: usize,
    block_end: usize,
}

const NO_RUN: Run = Run {
    at: 0,
    end: 0,
    block_end: 0,
};

pub struct Heap {
    runs: [Run; SIZES.len()],
    blocks: Vec<*mut Block>,
    /// Blocks whose free runs have not been used since the last collection, by size.
    waiting: [Vec<*mut Block>; SIZES.len()],
    empty: Vec<*mut Block>,
    /// Bytes made since the last collection, and how many there may be.
    pub made: usize,
    pub limit: usize,
    /// The keys of cards, by shape.
    pub shapes: Vec<Vec<u32>>,
}

impl Heap {
    pub fn new(shapes: Vec<Vec<u32>>) -> Heap {
        let mut heap = Heap {
            runs: [NO_RUN; SIZES.len()],
            blocks: Vec::new(),
            waiting: Default::default(),
            empty: Vec::new(),
            made: 0,
            limit: 1 << 20,
            shapes,
        };
        heap.refill();
        heap
    }

    /// Room for an object of so many bytes, unless it has to be made first.
    #[inline(always)]
    pub fn take(&mut self, size: usize, kind: Kind, extra: u32) -> Option<*mut Head> {
        let class = match size {
            0..=64 => (size - 1) / 16,
            65..=96 => 4,
            97..=128 => 5,
            129..=256 => 6,
            _ => 7,
        };
        let run = &mut self.runs[class];
        if run.at == run.end || self.made >= self.limit {
            return None;
        }
        let head = run.at as *mut Head;
        run.at += SIZES[class];
        self.made += SIZES[class];
        unsafe {
            *head = Head {
                kind,
                flag: false,
                extra,
            }
        };
        Some(head)
    }

    /// The same where there is room of every size.
    pub fn take_made(&mut self, size: usize, kind: Kind, extra: u32) -> *mut Head {
        self.take(size, kind, extra).expect("room has been made")
    }

    /// An object has something outside of itself from here on.
    pub fn has_more<T>(&mut self, object: *const T, bytes: usize) {
        unsafe { (*Block::of(object)).has_more = true };
        self.made += bytes;
    }

    /// Makes room of every size, but for that it frees nothing.
    pub fn refill(&mut self) {
        for class in 0..SIZES.len() {
            while self.runs[class].at == self.runs[class].end {
                self.next_run(class);
            }
        }
    }

    /// Goes on to the next run of free room.
    fn next_run(&mut self, class: usize) {
        let size = SIZES[class];
        let run = self.runs[class];
        let mut at = run.end;
        if at + size > run.block_end {
            let block = self.waiting[class].pop().or_else(|| self.empty.pop());
            let block = block.unwrap_or_else(|| self.new_block());
            unsafe {
                if (*block).class != class {
                    // What objects of another size have left there is none of this one.
                    block.cast::<u8>().add(FIRST).write_bytes(0, BLOCK - FIRST);
                }
                (*block).class = class;
            }
            at = block as usize + FIRST;
            self.runs[class].block_end = block as usize + BLOCK;
        }
        let last = self.runs[class].block_end - size;
        let is_used = |at: usize| unsafe {
            let (word, bit) = Block::mark_of(at as *const Head);
            *word & bit != 0
        };
        while at <= last && is_used(at) {
            at += size;
        }
        let start = at;
        while at <= last && !is_used(at) {
            unsafe {
                if (*Block::of(at as *const Head)).has_more {
                    end(at as *mut Head);
                }
            }
            at += size;
        }
        (self.runs[class].at, self.runs[class].end) = (start, at);
    }

    fn new_block(&mut self) -> *mut Block {
        let layout = std::alloc::Layout::from_size_align(BLOCK, BLOCK).expect("a size");
        let block = unsafe { std::alloc::alloc_zeroed(layout).cast::<Block>() };
        self.blocks.push(block);
        block
    }

    /// Marks what these lead to; everything else is free.
    pub fn collect(&mut self, roots: &[&[Word]]) {
        for block in &self.blocks {
            unsafe { (**block).marks.fill(0) };
        }
        let mut open: Vec<*mut Head> = Vec::new();
        let mut used = 0;
        let mut see = |word: Word, open: &mut Vec<*mut Head>| unsafe {
            if let Some(head) = word.head() {
                let (word, bit) = Block::mark_of(head);
                if *word & bit == 0 {
                    *word |= bit;
                    used += SIZES[(*Block::of(head)).class];
                    open.push(head);
                }
            }
        };
        for root in roots.iter().flat_map(|row| row.iter()) {
            see(*root, &mut open);
        }
        while let Some(head) = open.pop() {
            unsafe {
                let (from, count) = match (*head).kind {
                    Kind::List => {
                        let list = head.cast::<List>();
                        ((*list).items, (*list).length as usize)
                    }
                    Kind::Card => {
                        let keys = &self.shapes[(*head).extra as usize];
                        (head.add(1).cast::<Word>(), keys.len())
                    }
                    Kind::Func => (head.add(2).cast::<Word>(), (*head).extra as usize),
                    Kind::Shared => (head.add(1).cast::<Word>(), 1),
                    Kind::Text | Kind::Big | Kind::Free => continue,
                };
                for at in 0..count {
                    see(*from.add(at), &mut open);
                }
            }
        }
        self.sort_blocks();
        self.made = 0;
        self.limit = used.max(1 << 20);
    }

    /// Which blocks are to be used again, and as what.
    fn sort_blocks(&mut self) {
        self.runs = [NO_RUN; SIZES.len()];
        self.waiting.iter_mut().for_each(Vec::clear);
        self.empty.clear();
        for block in &self.blocks {
            unsafe {
                if (**block).has_more || (**block).marks.iter().any(|word| *word != 0) {
                    self.waiting[(**block).class].push(*block);
                } else {
                    self.empty.push(*block);
                }
            }
        }
        self.refill();
    }
}

/// Gives back what an object has outside of itself.
unsafe fn end(head: *mut Head) {
    unsafe {
        match (*head).kind {
            Kind::List if (*head).flag => {
                let list = head.cast::<List>();
                drop(Vec::from_raw_parts((*list).items, 0, (*list).room as usize));
            }
            Kind::Text if !(*head).flag => {
                let buffer = (*head.cast::<Text>()).buffer;
                (*buffer).users -= 1;
                if (*buffer).users == 0 {
                    drop(Box::from_raw(buffer));
                }
            }
            _ => {}
        }
        (*head).kind = Kind::Free;
    }
}

impl Drop for Heap {
    fn drop(&mut self) {
        self.collect(&[]);
        let layout = std::alloc::Layout::from_size_align(BLOCK, BLOCK).expect("a size");
        for block in std::mem::take(&mut self.blocks) {
            unsafe {
                let size = SIZES[(*block).class];
                let objects = (FIRST..=BLOCK - size).step_by(size);
                objects.for_each(|at| end(block.cast::<u8>().add(at).cast()));
                std::alloc::dealloc(block.cast(), layout);
            }
        }
    }
}
