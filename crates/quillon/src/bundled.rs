//! The languages bundled with the program: its demo, and the gallery to begin from.

/// A bundled language.
#[derive(Debug)]
pub struct Bundled {
    /// Its name, as `--from` takes it.
    pub name: &'static str,
    /// What it shows, in a few words.
    pub shows: &'static str,
    /// The text of its definition.
    pub definition: &'static str,
    /// Its programs and its cases: where each stands in its folder, and the text.
    pub files: &'static [(&'static str, &'static str)],
}

macro_rules! bundled {
    ($name:literal, $shows:literal, [$($path:literal),* $(,)?]) => {
        Bundled {
            name: $name,
            shows: $shows,
            definition: include_str!(concat!("../../../languages/", $name, "/", $name, ".quillon")),
            files: &[$((
                $path,
                include_str!(concat!("../../../languages/", $name, "/", $path)),
            )),*],
        }
    };
}

/// All of them, the demo's first.
pub const LANGUAGES: &[Bundled] = &[
    bundled!(
        "towpath",
        "a bit of everything: the language of `quillon demo`",
        [
            "programs/tolls.tow",
            "programs/daylog.tow",
            "programs/filling.tow",
            "programs/flight.tow",
            "cases/mistakes.cases",
            "cases/statements.cases",
        ]
    ),
    bundled!(
        "keel",
        "brackets and prefix, shadowing, functions in a name space of their own",
        ["programs/locks.keel", "cases/keel.cases",]
    ),
    bundled!(
        "gauge",
        "expressions whose types are found before they run",
        ["programs/locks.gauge", "cases/gauge.cases",]
    ),
    bundled!(
        "sluice",
        "a calculus with two meanings, rewritten step by step",
        ["programs/fall.sluice", "cases/sluice.cases",]
    ),
    bundled!(
        "tally",
        "a postfix calculator with a stack and variables",
        ["programs/toll.tally", "cases/tally.cases",]
    ),
    bundled!(
        "weir",
        "commands over gates, with a state that lasts",
        ["programs/morning.weir", "cases/weir.cases",]
    ),
    bundled!(
        "click",
        "a counter, the smallest state",
        ["programs/noon.click", "cases/click.cases",]
    ),
    bundled!(
        "punt",
        "single characters over a row of bytes",
        [
            "programs/hail.punt",
            "programs/long.punt",
            "cases/punt.cases",
        ]
    ),
    bundled!(
        "bank",
        "blocks by indentation",
        ["programs/dredging.bank", "cases/bank.cases",]
    ),
    bundled!(
        "lockstep",
        "orders on lines, in two surfaces",
        [
            "programs/down.flags",
            "programs/up.lock",
            "cases/lockstep.cases",
        ]
    ),
    bundled!(
        "ledger",
        "declared kinds checked at calls, counted loops",
        ["programs/week.ledger", "cases/ledger.cases",]
    ),
    bundled!(
        "reach",
        "arrow functions beside brackets",
        ["programs/tolls.reach", "cases/reach.cases",]
    ),
    bundled!(
        "fleet",
        "objects, patterns, flows, texts with holes, mishaps",
        ["programs/harbour.fleet", "cases/fleet.cases",]
    ),
];

/// The one of a name.
pub fn named(name: &str) -> Option<&'static Bundled> {
    LANGUAGES.iter().find(|language| language.name == name)
}
