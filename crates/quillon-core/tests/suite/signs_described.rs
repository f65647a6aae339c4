//! Operators that programs declare: what definitions say of them, and programs that are made up.

use crate::common::{mistakes, tree};
use crate::signs::{SUMS, sums};
use quillon_core::testing::Generator;

#[test]
fn what_a_definition_says_of_signs_fits_together() {
    let with = |from: &str, to: &str| mistakes(&SUMS.replacen(from, to, 1));
    for (from, to, wanted) in [
        (
            "declares sign side at rank",
            "declares sing side at rank",
            "form `Operator` has no field `sing`",
        ),
        (
            "declares sign side at rank",
            "declares value side at rank",
            "`value` is not one token, and cannot be a sign",
        ),
        (
            "declares sign side at rank",
            "declares sign rank at rank",
            "`rank` does not say the side of a sign",
        ),
        (
            "declares sign side at rank",
            "declares sign left at 12",
            "12 is none of the ranks from 1 to 9",
        ),
        (
            "  declared  Between, Before, Behind  from 1 to 9\n",
            "",
            "no level of a precedence table is for declared signs",
        ),
        (
            "from 1 to 9",
            "from 1 to 90",
            "from 1 to 90 are not between 1 and 30 ranks",
        ),
        (
            "Between, Before, Behind  from",
            "Between, Before, Behind, Pick  from",
            "form `Pick` has no sign that can be declared",
        ),
        (
            "Plus, Minus  at 6",
            "Plus, Minus  at 8",
            "a looser rank stands below a tighter one",
        ),
        (
            "prefix    Negate\n",
            "prefix    Negate\n  left      Itself at 8\n",
            "levels with a rank stand directly below that of declared signs",
        ),
        (
            "right     Pick",
            "right     Pick at 3",
            "levels with a rank stand directly below that of declared signs",
        ),
    ] {
        let found = with(from, to);
        assert!(
            found.iter().any(|line| line.contains(wanted)),
            "{to}: {found:?}"
        );
    }
}

#[test]
fn made_up_programs_declare_what_they_use() {
    let own = sums();
    let generator = Generator::new(&own, None).unwrap();
    let mut used = 0;
    for seed in 0..300 {
        let Some(text) = generator.program(seed, 60) else {
            continue;
        };
        let found = tree(&own, &text);
        assert!(found.starts_with("Program("), "{text}: {found}");
        used += usize::from(
            ["Between(", "Before(", "Behind("]
                .iter()
                .any(|form| found.contains(form)),
        );
    }
    assert!(used > 20, "{used}");
}
