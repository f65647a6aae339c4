//! What many languages write for the same thing.

use super::Purpose as P;

/// How other languages write what a form is for.
pub(crate) fn spellings(purpose: P) -> &'static [&'static str] {
    match purpose {
        P::Equal => &["==", "=", "===", "eq", "equals", "is"],
        P::Unequal => &["!=", "<>", "/=", "~=", "!==", "=/=", "ne", "≠"],
        P::Less => &["<", "lt"],
        P::AtMost => &["<=", "=<", "le", "≤"],
        P::More => &[">", "gt"],
        P::AtLeast => &[">=", "=>", "ge", "≥"],
        P::And => &["&&", "and", "&", "/\\", "AND"],
        P::Or => &["||", "or", "|", "\\/", "OR"],
        P::Not => &["!", "not", "~", "NOT"],
        P::Add => &["+", "plus"],
        P::Subtract => &["-", "minus", "−"],
        P::Multiply => &["*", "×", "times", "·"],
        P::Divide => &["/", "÷"],
        P::Quotient => &["//", "div", "\\"],
        P::Remainder => &["%", "mod", "%%", "rem"],
        P::Power => &["**", "^", "pow"],
        P::Join => &["++", "..", "<>", "&", ".", "~"],
        P::True => &["true", "True", "TRUE", "yes"],
        P::False => &["false", "False", "FALSE", "no"],
        P::Nothing => &[
            "null",
            "nil",
            "none",
            "None",
            "undefined",
            "NULL",
            "void",
            "nothing",
        ],
        P::If => &["if", "when", "If", "IF", "cond"],
        P::Else => &["else", "otherwise", "ELSE", "elif", "elsif"],
        P::While => &["while", "loop", "WHILE"],
        P::Until => &["until", "UNTIL"],
        P::Each => &["for", "foreach", "each", "FOR"],
        P::Leave => &["break", "leave", "exit", "stop"],
        P::Again => &["continue", "next", "skip"],
        P::Bind => &["let", "var", "const", "def", "local", "my", "val", "set"],
        P::Assign => &[":=", "=", "<-", "set"],
        P::Function => &[
            "function", "func", "fun", "fn", "def", "proc", "sub", "lambda", "define",
        ],
        P::Arrow => &["->", "=>", "→", "|->"],
        P::Return => &["return", "give", "answer", "yield"],
        P::Print => &[
            "print", "println", "echo", "puts", "say", "write", "display", "show",
        ],
        P::Raise => &["raise", "throw", "error", "fail"],
        P::Attempt => &["try", "attempt"],
    }
}

/// Whether some language writes an operator so.
pub(crate) fn is_known_sign(text: &str) -> bool {
    let operators = [
        P::Equal,
        P::Unequal,
        P::AtMost,
        P::AtLeast,
        P::And,
        P::Or,
        P::Quotient,
        P::Power,
        P::Join,
        P::Assign,
        P::Arrow,
    ];
    let mut all = operators.iter().flat_map(|purpose| spellings(*purpose));
    all.any(|known| *known == text)
}

/// Whether in some languages forms begin with a word.
pub(crate) fn is_known_head(text: &str) -> bool {
    let heads = [
        P::If,
        P::Else,
        P::While,
        P::Until,
        P::Each,
        P::Bind,
        P::Function,
        P::Return,
        P::Print,
        P::Raise,
        P::Attempt,
    ];
    let mut all = heads.iter().flat_map(|purpose| spellings(*purpose));
    all.any(|known| *known == text)
}
