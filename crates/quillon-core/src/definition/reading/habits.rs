//! What people write in a definition who come from other notations.

use super::lexer::Word;

/// The words that constructs of the notation begin with.
pub(super) const KEYWORDS: [&str; 27] = [
    "all", "and", "attempt", "always", "call", "demand", "each", "else", "false", "fault", "fits",
    "function", "given", "if", "jump", "landing", "let", "match", "not", "nothing", "or", "raise",
    "rescue", "spelling", "true", "while", "with",
];

/// What is written here where other notations write a text.
pub(super) fn instead_of(text: &str) -> Option<Vec<Word>> {
    let words: &[&str] = match text {
        "==" | "===" => &["="],
        "!=" | "<>" | "~=" => &["/="],
        "&&" => &["and"],
        "||" => &["or"],
        "!" => &["not"],
        "->" => &["=>"],
        "++" | ".." => &["&"],
        "for" | "foreach" => &["each"],
        "fn" | "fun" | "func" | "lambda" | "def" => &["function"],
        "break" | "continue" => &["jump"],
        "throw" => &["raise"],
        "try" => &["attempt"],
        "catch" => &["rescue"],
        "finally" => &["always"],
        "elif" | "elsif" | "elseif" => &["else", "if"],
        "switch" | "case" => &["match"],
        "default" => &["else"],
        "bool" | "boolean" => &["truth"],
        "string" | "str" => &["text"],
        "int" => &["integer"],
        "float" | "double" => &["number"],
        "array" | "seq" => &["list"],
        "dict" | "object" | "record" => &["map"],
        "null" | "nil" | "none" => &["nothing"],
        "var" | "const" => &["let"],
        "postfix" => &["suffix"],
        "infixl" => &["left"],
        "infixr" => &["right"],
        "infix" | "nonassoc" => &["none"],
        _ => return None,
    };
    let sign = |word: &str| match word {
        "=" => Some("="),
        "/=" => Some("/="),
        "=>" => Some("=>"),
        "&" => Some("&"),
        _ => None,
    };
    let word = |word: &&str| sign(word).map_or_else(|| Word::Name((*word).to_owned()), Word::Sign);
    Some(words.iter().map(word).collect())
}
