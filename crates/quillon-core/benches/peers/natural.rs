//! The demo language described in another way: as people describe such a language who do not think
//! of what a meaning costs. Sums also join texts, anything can be a test, and what has several
//! meanings asks for the kind of what it has.

/// Helpers that the meanings use, before the first form.
const HELPERS: &str = r"
define truthy(v) = match v { truth t => t  nothing => false  else => true }

define sum(a, b) = match a {
  text t => t & shown(b)
  else => match b { text u => shown(a) & u  else => a + b }
}

-- Programs and blocks
";

/// What stands for what.
const MEANINGS: [(&str, &str); 8] = [
    ("\n-- Programs and blocks\n", HELPERS),
    ("means    left + right\n", "means    sum(left, right)\n"),
    (
        "means    if test { then }",
        "means    if truthy(test) { then }",
    ),
    (
        "means    landing stop { while test {",
        "means    landing stop { while truthy(test) {",
    ),
    (
        "means    left or right\n",
        "means    let a = left; if truthy(a) { a } else { right }\n",
    ),
    (
        "means    left and right\n",
        "means    let a = left; if truthy(a) { right } else { a }\n",
    ),
    ("means    not value\n", "means    not truthy(value)\n"),
    (
        "means    if test { yes }",
        "means    if truthy(test) { yes }",
    ),
];

/// A definition of the demo language with its meanings said in that way.
pub fn definition(usual: &str) -> String {
    MEANINGS.iter().fold(usual.to_owned(), |text, (old, new)| {
        assert_eq!(text.matches(old).count(), 1, "{old}");
        text.replacen(old, new, 1)
    })
}
