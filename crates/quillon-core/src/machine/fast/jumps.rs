//! Reads the machine code of the handlers as it was built: each must go on by a jump. A call in its place
//! would take some of the native stack at each instruction, until a long loop has none left.
//!
//! Whether the optimiser makes a jump of a call can differ from build to build where something on the
//! native stack is lent to another function, so no handler may do that at all.

use std::collections::{BTreeMap, BTreeSet};

use iced_x86::{Decoder, DecoderOptions, Instruction, Mnemonic, OpKind, Register};
use object::{Object, ObjectSection, ObjectSymbol, SymbolKind};

use super::{HANDLERS, slow};

/// Where a function ends, and its name, by where it begins.
type Functions = BTreeMap<u64, (u64, String)>;

/// What a function of machine code does to go on elsewhere.
#[derive(Default)]
struct Ways {
    /// It jumps by the table of handlers.
    goes_on: bool,
    /// It calls by a table, and stands on the native stack meanwhile.
    calls_by_table: bool,
    /// It takes the address of something on the native stack.
    lends: bool,
    /// The functions that it jumps to.
    jumps: Vec<u64>,
    /// The functions that it calls.
    calls: Vec<u64>,
}

/// Whether an instruction goes where an entry of a table of addresses says.
fn is_by_table(instruction: &Instruction) -> bool {
    instruction.op0_kind() == OpKind::Memory && instruction.memory_index_scale() == 8
}

fn ways(code: &[u8], start: u64, end: u64) -> Ways {
    let mut ways = Ways::default();
    for instruction in Decoder::with_ip(64, code, start, DecoderOptions::NONE) {
        let is_direct = instruction.op0_kind() == OpKind::NearBranch64;
        let to = instruction.near_branch_target();
        match instruction.mnemonic() {
            Mnemonic::Call if is_direct => ways.calls.push(to),
            Mnemonic::Call => ways.calls_by_table |= is_by_table(&instruction),
            _ if is_direct && !(start..end).contains(&to) => ways.jumps.push(to),
            Mnemonic::Lea if instruction.op0_register() != Register::RSP => {
                ways.lends |= instruction.memory_base() == Register::RSP;
            }
            Mnemonic::Jmp => ways.goes_on |= is_by_table(&instruction),
            _ => {}
        }
    }
    ways
}

/// The functions of a program.
fn functions(file: &object::File<'_>) -> Functions {
    file.symbols()
        .filter(|symbol| symbol.kind() == SymbolKind::Text && symbol.size() > 0)
        .map(|symbol| {
            let name = symbol.name().unwrap_or_default().to_owned();
            (symbol.address(), (symbol.address() + symbol.size(), name))
        })
        .collect()
}

/// All that handlers jump to, directly or over others, and what these call: that must not go on with the next handler.
fn reached(
    file: &object::File<'_>,
    functions: &Functions,
    handlers: Vec<u64>,
) -> BTreeMap<u64, Ways> {
    let text = file.section_by_name(".text").expect("a program has code");
    let mut reached = BTreeMap::new();
    let mut waiting: Vec<(u64, bool)> = handlers.into_iter().map(|start| (start, true)).collect();
    let mut called = Vec::new();
    while let Some((start, is_jumped_to)) = waiting.pop().or_else(|| called.pop()) {
        let Some((end, _)) = functions
            .get(&start)
            .filter(|_| !reached.contains_key(&start))
        else {
            continue;
        };
        let code = text.data_range(start, end - start).ok().flatten();
        let ways = ways(code.expect("a function lies in the code"), start, *end);
        waiting.extend(ways.jumps.iter().map(|to| (*to, is_jumped_to)));
        // What is called calls whatever it likes.
        if is_jumped_to {
            called.extend(ways.calls.iter().map(|to| (*to, false)));
        }
        reached.insert(start, ways);
    }
    reached
}

/// Those that end in the next handler, over others that do too.
fn going_on(reached: &BTreeMap<u64, Ways>) -> BTreeSet<u64> {
    let mut going_on = BTreeSet::new();
    loop {
        let before = going_on.len();
        for (start, ways) in reached {
            if ways.goes_on
                || ways.calls_by_table
                || ways.jumps.iter().any(|to| going_on.contains(to))
            {
                going_on.insert(*start);
            }
        }
        if going_on.len() == before {
            return going_on;
        }
    }
}

#[test]
fn handlers_go_on_by_a_jump() {
    let program = std::env::current_exe().expect("it has a place");
    let bytes = std::fs::read(program).expect("it can be read");
    let file = object::File::parse(&*bytes).expect("it is a program");
    let functions = functions(&file);
    // How much further on the program lies than its file says.
    let (in_file, _) = functions
        .iter()
        .find(|(_, (_, name))| name.contains("machine4slow9carry_out"))
        .expect("its functions have their names");
    let further = slow::carry_out as *const () as u64 - in_file;
    let handlers: Vec<u64> = HANDLERS
        .iter()
        .map(|handler| *handler as *const () as u64 - further)
        .collect();
    let unknown = handlers
        .iter()
        .filter(|start| !functions.contains_key(start))
        .count();
    assert_eq!(unknown, 0, "handlers that are no functions of the file");

    let reached = reached(&file, &functions, handlers);
    let going_on = going_on(&reached);
    assert!(going_on.len() > 50, "only {} of them go on", going_on.len());
    let faults: Vec<&str> = going_on
        .iter()
        .filter(|start| {
            let ways = &reached[start];
            let comes_back = ways.calls.iter().any(|to| going_on.contains(to));
            ways.calls_by_table || ways.lends || comes_back
        })
        .map(|start| functions[start].1.as_str())
        .collect();
    assert!(
        faults.is_empty(),
        "these do not surely go on by a jump: {faults:#?}"
    );
}
