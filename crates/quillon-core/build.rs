//! Tells the machine whether its handlers can jump to each other: the optimiser must turn a
//! call at the end of a function into a jump, which it does from level 2 on, where arguments
//! travel in registers and nothing is put between.

fn main() {
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
