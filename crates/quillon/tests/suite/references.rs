//! References of languages, as they are written.

use std::collections::HashSet;
use std::fs;

use crate::common::Folder;

/// The values of an attribute of a page.
fn values<'p>(page: &'p str, attribute: &str) -> Vec<&'p str> {
    let begun = format!(" {attribute}=\"");
    let parts = page.split(begun.as_str()).skip(1);
    parts.filter_map(|part| part.split('"').next()).collect()
}

/// Checks that every link of a page leads somewhere, and that every place has a name of its own.
#[track_caller]
fn check_links(page: &str) {
    let ids = values(page, "id");
    let known: HashSet<&str> = ids.iter().copied().collect();
    assert_eq!(known.len(), ids.len(), "a name twice: {ids:?}");
    for link in values(page, "href") {
        let place = link
            .strip_prefix('#')
            .unwrap_or_else(|| panic!("{link} leads out"));
        assert!(
            place.is_empty() || known.contains(place),
            "{link} leads nowhere"
        );
    }
    assert!(
        !page.contains("http://") || !page.contains("src="),
        "it needs nothing else"
    );
}

/// Checks that elements that are opened are closed, the last one first.
#[track_caller]
fn check_elements(page: &str) {
    let body = page.split("<script>").next().unwrap();
    let empty = ["meta", "br", "input", "rect", "circle", "path", "!DOCTYPE"];
    let mut open: Vec<&str> = Vec::new();
    for part in body.split('<').skip(1) {
        let name = part
            .split([' ', '>', '\n'])
            .next()
            .unwrap()
            .trim_end_matches('/');
        if let Some(name) = part
            .strip_prefix('/')
            .and_then(|rest| rest.split('>').next())
        {
            assert_eq!(open.pop(), Some(name), "…<{}", &part[..part.len().min(60)]);
        } else if !empty.contains(&name) {
            open.push(name);
        }
    }
    assert_eq!(open, ["html", "body"], "what comes after is the script");
}

#[test]
fn every_language_that_comes_along_has_a_page_whose_links_lead_somewhere() {
    let languages = concat!(env!("CARGO_MANIFEST_DIR"), "/../../languages");
    let folder = Folder::new();
    let mut count = 0;
    for entry in fs::read_dir(languages).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        if !path.is_dir() {
            continue;
        }
        let definition = path.join(format!("{name}.quillon"));
        let ran = folder.quillon(&["reference", definition.to_str().unwrap()]);
        ran.ends_with(0);
        assert_eq!(ran.err, "", "{name}");
        check_links(&ran.out);
        check_elements(&ran.out);
        count += 1;
    }
    assert!(count > 10);
}

#[test]
fn a_page_has_all_that_a_user_needs() {
    let folder = Folder::with_demo();
    let ran = folder.quillon(&["reference", "--into", "towpath.html"]);
    ran.ends_with(0).shows("`towpath.html` written");
    let page = fs::read_to_string(folder.path().join("towpath.html")).unwrap();
    for part in [
        "<h1>Towpath</h1>",
        "<h2 id=\"first\">A first program</h2>",
        "It prints:",
        "<h4>Let</h4>",
        "<code>name</code> is bound, and known from there on.",
        "<h2>Operators</h2>",
        "<h2>Built in</h2>",
        "<h2>Index</h2>",
        "prefers-color-scheme: dark",
        "@media print",
        "<svg ",
    ] {
        assert!(page.contains(part), "{part}");
    }
}

#[test]
fn a_folder_gets_both() {
    let folder = Folder::with_demo();
    folder
        .quillon(&["reference", "--into", "docs"])
        .ends_with(0)
        .shows("`docs/index.html` written")
        .shows("`docs/reference.md` written");
    let text = fs::read_to_string(folder.path().join("docs/reference.md")).unwrap();
    assert!(text.starts_with("# Towpath\n\n"), "{text}");
    assert!(text.contains("\n## Built in\n\n| written | does | type |\n"));
    assert!(text.contains("\n#### Let\n\n```text\n\"let\" name:Name"));
    let rows = text.lines().filter(|line| line.starts_with('|'));
    let cells = |row: &str| row.replace("\\|", "").matches('|').count();
    assert!(rows.map(cells).all(|count| count == 3 || count == 4));
}

#[test]
fn what_does_not_hold_is_named_and_left_out() {
    let folder = Folder::with_definition(
        "language Own
  reads   \".own\"
  starts  Sum
tokens
  Blank  [ \\n]+  ignored
  Whole  digit+  holds integer
-- A number, `<as it is>`.
form Sum
  written  value:Whole
  means    value
  example  `1`  gives 2
  example  `3`  gives 3
",
    );
    let ran = folder.quillon(&["reference", "own.quillon"]);
    ran.ends_with(0)
        .says("an example does not hold, and is left out: Sum: 1")
        .says("`quillon test` says what comes of it");
    assert!(!ran.out.contains("gives 2"));
    ran.shows("gives 3");
    ran.shows("A number, <code>&lt;as it is&gt;</code>.");
    check_links(&ran.out);
    check_elements(&ran.out);
    let nothing = Folder::with_definition("language Own\n  reads \".own\"\n");
    nothing.quillon(&["reference"]).ends_with(3);
}
