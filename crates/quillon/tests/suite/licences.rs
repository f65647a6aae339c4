//! Under which licences the crates stand that the program is made of.

use std::path::Path;
use std::process::Command;

use serde_json::Value;
use spdx::{Expression, LicenseReq, ParseMode};

/// What `deny.toml` allows.
fn allowed(root: &Path) -> Vec<String> {
    let text = std::fs::read_to_string(root.join("deny.toml")).unwrap();
    let (_, after) = text.split_once("allow = [").unwrap();
    let (list, _) = after.split_once(']').unwrap();
    let quoted = list.split('"').skip(1).step_by(2);
    quoted.map(str::to_owned).collect()
}

#[test]
fn every_dependency_stands_under_a_licence_that_is_allowed() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let allowed = allowed(&root);
    // Cargo has the crates for this kind of machine only.
    let told = Command::new("rustc").arg("-vV").output().unwrap();
    let told = String::from_utf8(told.stdout).unwrap();
    let here = told.lines().find_map(|line| line.strip_prefix("host: "));
    let told = Command::new(env!("CARGO"))
        .args(["metadata", "--format-version", "1", "--locked", "--offline"])
        .args(["--filter-platform", here.unwrap()])
        .current_dir(&root)
        .output()
        .unwrap();
    let told: Value = serde_json::from_slice(&told.stdout).unwrap();
    let packages = told["packages"].as_array().unwrap();
    assert!(packages.len() > 50);
    for package in packages {
        let name = &package["name"];
        let written = package["license"].as_str().unwrap_or_default();
        let licence = Expression::parse_mode(written, ParseMode::LAX)
            .unwrap_or_else(|error| panic!("{name}: {written:?}: {error}"));
        let is_allowed = |req: &LicenseReq| allowed.contains(&req.to_string());
        assert!(licence.evaluate(is_allowed), "{name}: {written}");
    }
}
