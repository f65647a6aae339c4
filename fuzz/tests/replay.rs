//! Every input that once found something, and the first few of each target, are met well.

use std::path::Path;

use fastrand::Rng;
use quillon_core::native_stack::on_deep_stack;
use quillon_fuzz::{meet, targets};

#[test]
fn what_was_found_is_met_well() {
    on_deep_stack(|| {
        let mut count = 0;
        for target in targets::ALL {
            let folder = Path::new(env!("CARGO_MANIFEST_DIR"))
                .join("findings")
                .join(target.name());
            for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
                let input = std::fs::read(entry.path()).unwrap();
                let met = meet(target, &input);
                assert_eq!(met, Ok(()), "{} {}", target.name(), entry.path().display());
                count += 1;
            }
        }
        assert!(count >= 6, "{count}");
    });
}

#[test]
fn the_first_inputs_of_each_target_are_met_well() {
    on_deep_stack(|| {
        for target in targets::ALL {
            for seed in 0..100 {
                let input = target.make(&mut Rng::with_seed(seed));
                let met = meet(target, &input);
                assert_eq!(met, Ok(()), "{} seed {seed}", target.name());
            }
        }
    });
}

#[test]
fn each_target_is_tried_in_ci() {
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../.ci/run");
    let script = std::fs::read_to_string(script).unwrap();
    for target in targets::ALL {
        let line = format!("\n{} --inputs ", target.name());
        assert!(script.contains(&line), "{} in .ci/run", target.name());
    }
}

#[test]
fn most_programs_made_up_run_to_an_end() {
    use quillon_core::{Prepared, Reading};
    use quillon_fuzz::targets::engines::Outside;
    let quay = quillon_fuzz::corpus::quay();
    let prepared = Prepared::new(&quay.language);
    let ended = (0..300).filter(|&seed| {
        let mut random = Rng::with_seed(seed);
        let text = quillon_fuzz::author::Author::new(&mut random, 0).program();
        let limits = quillon_core::testing::case_limits();
        let session = prepared
            .session()
            .engine(quillon_core::Engine::Machine)
            .limits(limits)
            .start(Outside::default());
        let source = quillon_fuzz::corpus::source("program", text);
        session.is_ok_and(|mut session| {
            session
                .run_source(&source, Reading::Program)
                .value
                .is_some()
        })
    });
    let ended = ended.count();
    assert!(ended > 200, "{ended} of 300");
}
