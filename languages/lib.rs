//! The languages that come with Quillon: the demo, and the gallery to begin from. Texts only, for whoever has `quillon-core`
//! or the command line read them.

/// A bundled language.
#[derive(Clone, Copy, Debug)]
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

impl Bundled {
    /// The text of one of its programs or case files, by where it stands in its folder: `programs/tolls.tow`.
    pub fn file(&self, path: &str) -> Option<&'static str> {
        let mut files = self.files.iter();
        files.find(|(own, _)| *own == path).map(|(_, text)| *text)
    }
}

/// Reads the texts of a language in: they are named one by one, so that nothing else of its folder is taken along.
macro_rules! bundled {
    ($name:literal, $shows:literal, [$($path:literal),* $(,)?]) => {
        Bundled {
            name: $name,
            shows: $shows,
            definition: include_str!(concat!($name, "/", $name, ".quillon")),
            files: &[$((
                $path,
                include_str!(concat!($name, "/", $path)),
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

#[cfg(test)]
mod tests {
    use super::*;

    /// The paths of all files below a folder.
    fn below(folder: &std::path::Path) -> Vec<String> {
        let Ok(entries) = std::fs::read_dir(folder) else {
            return Vec::new();
        };
        let name =
            |path: &std::path::Path| path.file_name().map(|n| n.to_string_lossy().into_owned());
        let mut found = Vec::new();
        for path in entries.flatten().map(|entry| entry.path()) {
            let own = name(&path).unwrap_or_default();
            if path.is_dir() {
                found.extend(below(&path).iter().map(|inner| format!("{own}/{inner}")));
            } else {
                found.push(own);
            }
        }
        found
    }

    #[test]
    fn every_program_and_case_file_of_every_folder_is_here() {
        let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR"));
        for language in LANGUAGES {
            let mut own: Vec<String> =
                vec![format!("{}.quillon", language.name), "README.md".to_owned()];
            own.extend(language.files.iter().map(|(path, _)| (*path).to_owned()));
            let mut found = below(&root.join(language.name));
            own.sort();
            found.sort();
            assert_eq!(own, found, "{}", language.name);
        }
    }

    #[test]
    fn languages_and_their_files_are_found_by_name() {
        let demo = named("towpath").expect("the demo");
        assert_eq!(demo.name, LANGUAGES[0].name);
        assert!(demo.definition.contains("language Towpath"));
        assert!(
            demo.file("programs/flight.tow")
                .is_some_and(|text| !text.is_empty())
        );
        assert!(named("nowhere").is_none() && demo.file("programs").is_none());
    }
}
