//! Writes the tables of classes of characters, says which build this is, and tells the machine whether
//! its handlers can jump to each other: the optimiser must turn a call at the end of a function into a
//! jump, which it does from level 2 on, where arguments travel in registers and nothing is put between.

use std::fmt::Write as _;
use std::hash::{DefaultHasher, Hasher};
use std::path::Path;

/// The file with the tables of classes of characters.
const CLASSES: &str = "classes.rs";

fn main() {
    threading();
    classes();
    build();
}

/// What a build is known by: its sources, and the tables that have been written. A language that another build has compiled is no use to this
/// one.
fn build() {
    println!("cargo::rerun-if-changed=src");
    println!("cargo::rerun-if-changed=Cargo.toml");
    let mut hash = DefaultHasher::new();
    add(Path::new("src"), &mut hash);
    add(Path::new("Cargo.toml"), &mut hash);
    let folder = std::env::var("OUT_DIR").expect("cargo says where to write");
    hash.write(&std::fs::read(Path::new(&folder).join(CLASSES)).unwrap_or_default());
    println!("cargo::rustc-env=QUILLON_CORE_BUILD={:016x}", hash.finish());
}

/// Adds a file, or all files of a folder in the order of their names.
fn add(path: &Path, hash: &mut DefaultHasher) {
    if let Ok(entries) = std::fs::read_dir(path) {
        let mut inside: Vec<_> = entries.flatten().map(|entry| entry.path()).collect();
        inside.sort();
        inside.iter().for_each(|path| add(path, hash));
    } else {
        hash.write(path.to_string_lossy().as_bytes());
        hash.write(&std::fs::read(path).unwrap_or_default());
    }
}

/// Tables, since asking for each code point when a definition is read would take longer than
/// everything else that a small definition needs.
fn classes() {
    let mut out = String::new();
    table(&mut out, "LETTERS", char::is_alphabetic);
    table(&mut out, "IDENTIFIER_START", unicode_ident::is_xid_start);
    table(&mut out, "IDENTIFIER_PART", unicode_ident::is_xid_continue);
    let folder = std::env::var("OUT_DIR").expect("cargo says where to write");
    std::fs::write(Path::new(&folder).join(CLASSES), out).expect("it can be written");
}

/// The code points with a property, as sorted ranges with both ends included.
fn table(out: &mut String, name: &str, has: impl Fn(char) -> bool) {
    let mut ranges: Vec<(u32, u32)> = Vec::new();
    for c in (0..=u32::from(char::MAX)).filter_map(char::from_u32) {
        let code = u32::from(c);
        match ranges.last_mut() {
            Some((_, high)) if has(c) && *high + 1 == code => *high = code,
            _ if has(c) => ranges.push((code, code)),
            _ => {}
        }
    }
    let _ = writeln!(
        out,
        "#[allow(clippy::unreadable_literal)]\nconst {name}: &[(u32, u32)] = &{ranges:?};"
    );
}

fn threading() {
    println!("cargo::rustc-check-cfg=cfg(quillon_threaded)");
    println!("cargo::rerun-if-changed=build.rs");
    println!("cargo::rerun-if-env-changed=CARGO_ENCODED_RUSTFLAGS");
    let value = |name: &str| std::env::var(name).unwrap_or_default();
    let optimised = matches!(value("OPT_LEVEL").as_str(), "2" | "3" | "s");
    let in_registers = matches!(
        value("CARGO_CFG_TARGET_ARCH").as_str(),
        "x86_64" | "aarch64"
    );
    let flags = value("CARGO_ENCODED_RUSTFLAGS");
    let watched = flags.contains("sanitizer") || flags.contains("instrument");
    if optimised && in_registers && !watched {
        println!("cargo::rustc-cfg=quillon_threaded");
    }
}
