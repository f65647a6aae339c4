//! Tells the machine whether its handlers can jump to each other: the optimiser must turn a
//! call at the end of a function into a jump, which it does from level 2 on.

fn main() {
    println!("cargo::rustc-check-cfg=cfg(quillon_threaded)");
    let level = std::env::var("OPT_LEVEL").unwrap_or_default();
    let target = std::env::var("CARGO_CFG_TARGET_ARCH").unwrap_or_default();
    // Elsewhere arguments may not all be in registers.
    let enough = matches!(level.as_str(), "2" | "3" | "s");
    if enough && matches!(target.as_str(), "x86_64" | "aarch64") {
        println!("cargo::rustc-cfg=quillon_threaded");
    }
    println!("cargo::rerun-if-changed=build.rs");
}
