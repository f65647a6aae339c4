//! The operations that a meaning can use, with how many operands each takes.

/// How many operands an operation takes.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Arity {
    /// At least so many.
    pub least: usize,
    /// At most so many; any number when missing.
    pub most: Option<usize>,
}

impl Arity {
    /// Whether a count of operands fits.
    pub fn fits(self, count: usize) -> bool {
        count >= self.least && self.most.is_none_or(|most| count <= most)
    }

    /// In words: `2 operands`, `1 operand or more`.
    pub fn described(self, word: &str) -> String {
        use crate::diagnostic::plural;
        match self.most {
            Some(most) if most == self.least => plural(most, word),
            Some(most) => format!("{} to {}", self.least, plural(most, word)),
            None => format!("{} or more", plural(self.least, word)),
        }
    }
}

macro_rules! operations {
    ($($variant:ident $name:literal ($($operand:literal),*) $least:literal $most:tt gives $gives:literal, $what:literal;)*) => {
        /// An operation.
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
        pub enum Operation {
            $(#[doc = $what] $variant),*
        }

        impl Operation {
            /// All of them.
            pub const ALL: &'static [Operation] = &[$(Operation::$variant),*];

            /// Its name in the meaning notation.
            pub fn name(self) -> &'static str {
                match self { $(Operation::$variant => $name),* }
            }

            /// Its operands' names.
            pub fn operands(self) -> &'static [&'static str] {
                match self { $(Operation::$variant => &[$($operand),*]),* }
            }

            /// How many operands it takes.
            pub fn arity(self) -> Arity {
                match self { $(Operation::$variant => Arity { least: $least, most: operations!(@most $most) }),* }
            }

            /// The kind of its result, in words.
            pub fn gives(self) -> &'static str {
                match self { $(Operation::$variant => $gives),* }
            }

            /// What it does, in one line.
            pub fn what(self) -> &'static str {
                match self { $(Operation::$variant => $what),* }
            }
        }
    };
    (@most any) => { None };
    (@most $most:literal) => { Some($most) };
}

operations! {
    Shown "shown" ("value") 1 1 gives "text", "the value as a person reads it; a text stays as it is";
    Quoted "quoted" ("value") 1 1 gives "text", "the value as one would write it; a text is in quotes";
    Kind "kind" ("value") 1 1 gives "text", "the name of the value's kind";
    Same "same" ("a", "b") 2 2 gives "truth", "whether both are the very same list, map or function, or equal otherwise";
    Output "output" ("value") 0 any gives "nothing", "prints the values one after the other, without a line end";
    Input "input" () 0 0 gives "text or nothing", "the next line of input without its line end; nothing at the end";
    NumberRoot "number.root" ("x") 1 1 gives "number", "the square root; an error for a negative number";
    NumberPower "number.power" ("x", "y") 2 2 gives "integer or number", "x to the y; an integer when both are and y is not negative";
    NumberAbsolute "number.absolute" ("x") 1 1 gives "like x", "the distance from zero";
    NumberRound "number.round" ("x") 1 1 gives "integer", "the nearest integer, halves away from zero";
    NumberFloor "number.floor" ("x") 1 1 gives "integer", "the largest integer that is not above x";
    NumberCeiling "number.ceiling" ("x") 1 1 gives "integer", "the smallest integer that is not below x";
    NumberTruncate "number.truncate" ("x") 1 1 gives "integer", "x without its fraction";
    NumberReal "number.real" ("x") 1 1 gives "number", "x as a number, even when it is an integer";
    NumberLeast "number.least" ("x") 1 any gives "like its operands", "the least of its operands";
    NumberLargest "number.largest" ("x") 1 any gives "like its operands", "the largest of its operands";
    IntegerQuotient "integer.quotient" ("a", "b") 2 2 gives "integer", "a divided by b, rounded toward zero";
    IntegerRemainder "integer.remainder" ("a", "b") 2 2 gives "integer", "what integer.quotient leaves; it has the sign of a";
    IntegerFloorQuotient "integer.floor_quotient" ("a", "b") 2 2 gives "integer", "a divided by b, rounded down";
    IntegerModulo "integer.modulo" ("a", "b") 2 2 gives "integer", "what integer.floor_quotient leaves; it has the sign of b";
    TextLength "text.length" ("t") 1 1 gives "integer", "the number of characters as a person counts them";
    TextAt "text.at" ("t", "i") 2 2 gives "text", "the character at i, counted from 0";
    TextSlice "text.slice" ("t", "from", "to") 3 3 gives "text", "the characters from `from` up to and without `to`, counted from 0";
    TextUpper "text.upper" ("t") 1 1 gives "text", "in capital letters";
    TextLower "text.lower" ("t") 1 1 gives "text", "in small letters";
    TextTrim "text.trim" ("t") 1 1 gives "text", "without blanks at both ends";
    TextContains "text.contains" ("t", "part") 2 2 gives "truth", "whether part stands somewhere in t";
    TextReplace "text.replace" ("t", "old", "new") 3 3 gives "text", "with every `old` replaced by `new`";
    TextRepeat "text.repeat" ("t", "n") 2 2 gives "text", "t n times over";
    TextSplit "text.split" ("t", "by") 2 2 gives "list", "the parts between the separators; the characters when `by` is empty";
    TextJoin "text.join" ("list", "by") 2 2 gives "text", "the items as `shown` has them, with `by` between";
    TextToInteger "text.to_integer" ("t") 1 1 gives "integer or nothing", "the integer that t spells, if it does";
    TextToNumber "text.to_number" ("t") 1 1 gives "number or nothing", "the number that t spells, if it does";
    ListLength "list.length" ("list") 1 1 gives "integer", "the number of items";
    ListAt "list.at" ("list", "i") 2 2 gives "any", "the item at i, counted from 0";
    ListItem "list.item" ("list", "n") 2 2 gives "any", "the nth item, counted from 1";
    ListPut "list.put" ("list", "i", "value") 3 3 gives "nothing", "puts value at i, counted from 0";
    ListPutItem "list.put_item" ("list", "n", "value") 3 3 gives "nothing", "makes value the nth item, counted from 1";
    ListAdd "list.add" ("list", "value") 2 2 gives "nothing", "adds value at the end";
    ListTake "list.take" ("list") 1 1 gives "any", "takes the last item away and gives it";
    ListTakeFirst "list.take_first" ("list") 1 1 gives "any", "takes the first item away and gives it";
    ListSlice "list.slice" ("list", "from", "to") 3 3 gives "list", "a new list of the items from `from` up to and without `to`, counted from 0";
    ListContains "list.contains" ("list", "value") 2 2 gives "truth", "whether some item equals value";
    ListReverse "list.reverse" ("list") 1 1 gives "list", "a new list, the last item first";
    ListSort "list.sort" ("list") 1 1 gives "list", "a new list in rising order, of numbers or of texts";
    ListRange "list.range" ("from", "to") 2 2 gives "list", "the integers from `from` up to and with `to`";
    ListCopy "list.copy" ("list") 1 1 gives "list", "a new list with the same items";
    MapNew "map.new" () 0 0 gives "map", "a new map without entries";
    MapGet "map.get" ("map", "key") 2 2 gives "any", "the value at a key; an error when there is none";
    MapFind "map.find" ("map", "key") 2 2 gives "any", "the value at a key; nothing when there is none";
    MapPut "map.put" ("map", "key", "value") 3 3 gives "nothing", "sets the value at a key";
    MapHas "map.has" ("map", "key") 2 2 gives "truth", "whether there is such a key";
    MapRemove "map.remove" ("map", "key") 2 2 gives "nothing", "takes a key and its value away";
    MapKeys "map.keys" ("map") 1 1 gives "list", "the keys, in the order in which they were first put";
    MapLength "map.length" ("map") 1 1 gives "integer", "the number of keys";
}

impl Operation {
    /// The operation of a name.
    pub fn named(name: &str) -> Option<Operation> {
        Operation::ALL.iter().copied().find(|o| o.name() == name)
    }
}
