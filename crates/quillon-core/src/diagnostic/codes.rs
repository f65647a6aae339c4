//! The stable codes, each with what it stands for. The first word is the stage.

/// A stable name for one kind of mistake.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, serde::Serialize)]
#[serde(transparent)]
pub struct Code(pub &'static str);

impl Code {
    /// Whether it is that of types that do not fit, found before anything runs.
    pub(crate) fn is_of_types(self) -> bool {
        self.0.starts_with("type.")
    }
}

macro_rules! codes {
    ($($name:ident = $code:literal, $what:literal;)*) => {
        $(#[doc = $what] pub const $name: Code = Code($code);)*
        /// Every code with what it stands for, in order.
        pub const ALL: &[(Code, &str)] = &[$(($name, $what)),*];
    };
}

codes! {
    // The definition.
    DEFINITION_CHARACTER = "definition.character", "a character that is no part of the notation";
    DEFINITION_UNCLOSED = "definition.unclosed", "a quotation, class or bracket in the definition that is never closed";
    DEFINITION_ITEM = "definition.item", "a line in column one that starts no known item";
    DEFINITION_INCLUDE = "definition.include", "another file that cannot be included";
    DEFINITION_CLAUSE = "definition.clause", "an indented line that is no known clause of its item";
    DEFINITION_SYNTAX = "definition.syntax", "a clause that is not written as the notation has it";
    DEFINITION_NAME = "definition.name", "a name that the definition gives to nothing";
    DEFINITION_FIELD = "definition.field", "a field that the form does not have";
    DEFINITION_DUPLICATE = "definition.duplicate", "something said twice";
    DEFINITION_PATTERN = "definition.pattern", "a token pattern that cannot work";
    DEFINITION_PRECEDENCE = "definition.precedence", "a precedence line that fits no form";
    DEFINITION_MEANING = "definition.meaning", "a meaning that cannot be run";
    DEFINITION_EMPTY = "definition.empty", "a definition that describes nothing";
    DEFINITION_TYPE = "definition.type", "a type clause that names what is not there";
    DEFINITION_RULE = "definition.rule", "a rule of reduction that names what is not there";
    DEFINITION_LACKS = "definition.lacks", "a clause that the work asked for needs and the definition does not have";
    DEFINITION_LIMIT = "definition.limit", "a definition too large for the tables";
    CHECK_TOKENS = "check.tokens", "tokens that are probably not what was meant";
    CHECK_SORTS = "check.sorts", "a sort or a form that no program has, or that never ends";
    CHECK_PRECEDENCE = "check.precedence", "a rank that does not fit the shape of its form";
    CHECK_NAMES = "check.names", "a name that is bound, used, landed on or kept for nothing";
    CHECK_MEANING = "check.meaning", "a meaning that does something else than it seems to, or more than once";
    CHECK_TYPES = "check.types", "a type clause that nothing can meet, or that a later one undoes";
    CHECK_AMBIGUOUS = "check.ambiguous", "forms that together can be read in two ways";
    // Tokens.
    TOKEN_UNKNOWN = "token.unknown", "characters that no token starts with";
    TOKEN_UNFINISHED = "token.unfinished", "a token or a hole that is begun and never finished";
    TOKEN_INTEGER = "token.integer", "a whole number too large for an integer";
    TOKEN_INDENTATION = "token.indentation", "a line indented like no block around it";
    TOKEN_HELD = "token.held", "a token whose text is not the value it is said to hold";
    // Trees.
    SYNTAX_UNEXPECTED = "syntax.unexpected", "a token that cannot stand where it stands";
    SYNTAX_UNFINISHED = "syntax.unfinished", "a text that ends too early";
    SYNTAX_AMBIGUOUS = "syntax.ambiguous", "a text that can be read in two ways";
    SYNTAX_TRANSLATION = "syntax.translation", "a program that means something else in another surface";
    SYNTAX_OPERATOR = "syntax.operator", "a sign that nothing declares as the operator that it is used as, or with a rank that there is not";
    SYNTAX_DEPTH = "syntax.depth", "a text nested more deeply than the limit";
    // Names.
    NAME_UNBOUND = "name.unbound", "a name that nothing binds";
    NAME_DUPLICATE = "name.duplicate", "a name bound twice in one scope";
    NAME_NOTE = "name.note", "a name that may not be meant so, said on request";
    NAME_FIXED = "name.fixed", "a change to something that cannot be changed";
    NAME_LANDING = "name.landing", "a jump with nothing to land on";
    // Types.
    TYPE_MISMATCH = "type.mismatch", "a type that does not fit, found before anything runs";
    TYPE_COUNT = "type.count", "a function with another number of parameters than is wanted, found before anything runs";
    TYPE_ENDLESS = "type.endless", "a type that would have to contain itself";
    TYPE_CHOICE = "type.choice", "types that fit none of the ways a form can be typed";
    // Runs.
    RUN_KIND = "run.kind", "a value of a kind that does not belong there";
    RUN_DIVISION = "run.division", "a division by zero";
    RUN_OVERFLOW = "run.overflow", "an integer result outside 64 bits";
    RUN_DOMAIN = "run.domain", "a value outside what an operation is defined for";
    RUN_INDEX = "run.index", "an index with no item";
    RUN_KEY = "run.key", "a key that a map does not have";
    RUN_ARITY = "run.arity", "a call with the wrong number of arguments";
    RUN_UNSET = "run.unset", "a variable read before it has a value";
    RUN_MATCH = "run.match", "a value that no arm fits";
    RULE_BROKEN = "rule.broken", "something that the definition checks of a program before it runs";
    RUN_FAULT = "run.fault", "an error that the definition itself raises";
    RUN_RAISED = "run.raised", "a raised value that nothing caught";
    RUN_DEPTH = "run.depth", "calls nested more deeply than the limit";
    RUN_STEPS = "run.steps", "more steps than the limit";
    RUN_TIME = "run.time", "a run that takes longer than the limit";
    RUN_OUTPUT = "run.output", "more output than the limit";
    RUN_MEMORY = "run.memory", "more memory than the limit";
    RUN_INTERRUPTED = "run.interrupted", "a run that was interrupted from outside";
    RUN_LEFT = "run.left", "a run that the program itself has ended";
    RUN_COROUTINE = "run.coroutine", "a coroutine that cannot be resumed";
    RUN_SUSPEND = "run.suspend", "a suspension where no coroutine runs";
    RUN_FILE = "run.file", "a file that a run cannot or may not use";
    RUN_HOST = "run.host", "something that the program around a run does not do";
    RUN_MODULE = "run.module", "another program that cannot be loaded";
    RUN_SIZE = "run.size", "a value larger than the limit";
    RUN_SILENT = "run.silent", "a run that prints nothing, said so that nobody wonders";
    RUN_BYTECODE = "run.bytecode", "bytecode that cannot be run";
    // Cases.
    CASE_EMPTY = "case.empty", "a case that expects nothing";
    CASE_FAILED = "case.failed", "a case that does not hold";
    CASE_SYNTAX = "case.syntax", "a case file that is not written as cases are";
    // Files.
    FILE_UNREADABLE = "file.unreadable", "a file that cannot be read";
    USAGE = "usage", "something asked for that cannot be done";
    FILE_STATE = "file.state", "a file that gives no state";
    FILE_LANGUAGE = "file.language", "a program whose definition cannot be found";
}

#[cfg(test)]
mod tests {
    use super::ALL;

    #[test]
    fn codes_are_unique() {
        let mut seen: Vec<&str> = ALL.iter().map(|(code, _)| code.0).collect();
        seen.sort_unstable();
        seen.dedup();
        assert_eq!(seen.len(), ALL.len());
    }
}
