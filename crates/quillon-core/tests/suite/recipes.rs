//! The recipes: each is pasted into the definition at their head, has examples, passes all of them,
//! and is right without a word.

use crate::common::{language, said};
use quillon_core::Prepared;
use quillon_core::testing::{Verdict, case_limits, examples, run_case};
use std::time::Duration;

const PAGE: &str = include_str!("../../../../docs/recipes.md");

/// A recipe: its title and what is to be pasted.
struct Recipe<'p> {
    title: &'p str,
    text: String,
}

/// The definition at the head of the page, and the recipes.
fn page() -> (String, Vec<Recipe<'static>>) {
    let mut base = String::new();
    let mut recipes = Vec::new();
    let mut title = "";
    let mut lines = PAGE.lines();
    while let Some(line) = lines.next() {
        if let Some(heading) = line.strip_prefix("### ") {
            title = heading;
        }
        let Some(kind) = line.strip_prefix("```quillon") else {
            continue;
        };
        let block: Vec<&str> = lines.by_ref().take_while(|line| *line != "```").collect();
        let text = block.join("\n") + "\n";
        if kind == " base" {
            base = text;
        } else {
            recipes.push(Recipe { title, text });
        }
    }
    (base, recipes)
}

/// The items of a definition, each with the lines that belong to it.
fn items(text: &str) -> Vec<Vec<&str>> {
    let mut items: Vec<Vec<&str>> = Vec::new();
    for line in text.lines() {
        if line.starts_with(|c: char| !c.is_whitespace()) {
            items.push(vec![line]);
        } else if let Some(item) = items.last_mut() {
            item.push(line);
        }
    }
    items
}

/// The base with a recipe pasted into it; a recipe that is a language of its own stands alone.
fn pasted(base: &str, recipe: &str) -> String {
    let (mut all, new) = (items(base), items(recipe));
    if new[0][0].starts_with("language ") && new[0][0] != all[0][0] {
        return recipe.to_owned();
    }
    for item in new {
        match all.iter_mut().find(|known| known[0] == item[0]) {
            Some(known) => *known = item,
            None => all.push(item),
        }
    }
    let items = all.iter().map(|item| item.join("\n") + "\n");
    items.collect()
}

#[test]
fn every_recipe_does_what_it_says() {
    let (base, recipes) = page();
    assert!(recipes.len() >= 40, "{}", recipes.len());
    for Recipe { title, text } in recipes {
        let own = language(&pasted(&base, &text));
        let prepared = Prepared::new(&own);
        let source = own.definition().source.clone();
        let mut count = 0;
        for example in examples(&own) {
            count += 1;
            let result = run_case(&prepared, &source, example, case_limits());
            assert!(
                matches!(result.verdict, Verdict::Passed),
                "{title}: {} {:?} {:?}",
                result.program,
                result.differences,
                result.diagnostics.iter().map(said).collect::<Vec<_>>()
            );
        }
        assert!(count > 0, "{title} has no example");
        let mut advice: Vec<String> = own.advice().iter().map(said).collect();
        let doubts = own.ambiguities(Duration::from_secs(60));
        advice.extend(doubts.diagnostics.iter().map(said));
        assert_eq!(advice, [] as [&str; 0], "{title}");
    }
}

#[test]
fn what_is_pasted_takes_the_place_of_what_begins_alike() {
    let base = "language A\n  reads \".a\"\n\nform B\n  written \"b\"\n";
    assert_eq!(
        pasted(base, "form B\n  written \"c\"\nform D\n  written \"d\"\n"),
        "language A\n  reads \".a\"\n\nform B\n  written \"c\"\nform D\n  written \"d\"\n"
    );
    assert_eq!(pasted(base, "language C\n"), "language C\n");
    let (base, _) = page();
    assert_eq!(items(&base)[0][0], "language Lock");
}
