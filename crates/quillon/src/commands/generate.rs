//! `quillon generate`: programs made up from a definition.

use quillon_core::diagnostic::{Diagnostic, codes, plural};
use quillon_core::testing::Generator;
use serde_json::{Value, json};

use crate::args::{Format, Generate as Args};
use crate::atomic;
use crate::exit::Exit;
use crate::languages::{in_surface, language};
use crate::output::{hand_over, print_json, print_lines};
use crate::render::progress::progress;
use crate::render::style::{GOOD, QUIET, paint};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let mut language = language(args.definition.as_deref())?;
    if let Some(name) = &args.surface {
        language = in_surface(&language, name)?;
    }
    let sort = args.sort.as_deref();
    let generator = if args.odd {
        Generator::new(&language, sort)
    } else {
        Generator::plausible(&language, sort)
    };
    let generator = generator.map_err(|problem| Stop::Definition(vec![*problem]))?;
    let seeds = args.seed..args.seed.saturating_add(args.count);
    let bar = progress(args.count as usize, "programs");
    let made: Vec<(u64, String)> = seeds
        .filter_map(|seed| {
            bar.inc(1);
            Some((seed, generator.program(seed, args.size)?))
        })
        .collect();
    bar.finish_and_clear();
    let missing = args.count - made.len() as u64;
    if let Some(folder) = &args.save {
        let extension = language.definition().extensions.first();
        let extension = extension.map_or(".txt", |name| name.text.as_str());
        for (seed, text) in &made {
            let path = folder.join(format!("generated-{seed}{extension}"));
            atomic::update(&path, |_| text.clone())?;
        }
        let count = plural(made.len(), "program");
        print_lines(&[paint(GOOD, format_args!("{count} in {}", folder.display()))])?;
    } else if args.format == Format::Json {
        let programs: Vec<Value> = made
            .iter()
            .map(|(seed, text)| json!({ "seed": seed, "text": text }))
            .collect();
        print_json(&json!({ "programs": programs, "missing": missing }))?;
    } else {
        for (seed, text) in &made {
            if args.count > 1 {
                print_lines(&[paint(QUIET, format_args!("── seed {seed}"))])?;
            }
            hand_over(text)?;
        }
    }
    if missing == 0 {
        return Ok(Exit::Done);
    }
    let problem = Diagnostic::error(
        codes::USAGE,
        format!(
            "no program could be generated from {}",
            plural(missing as usize, "seed")
        ),
    )
    .why("every text that was tried breaks a rule of names, or cannot be read back as it was meant")
    .remedy("try another `--size` or another `--seed`");
    crate::render::show(&problem);
    Ok(Exit::Failed)
}
