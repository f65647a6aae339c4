//! The operations that a meaning can use, with how many operands each takes.

use crate::diagnostic::{Code, codes};

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
    Fits "A fits TYPE" ("A", "TYPE") 2 2 gives "truth", "whether a value has a declared type";
    Demand "demand A fits TYPE" ("A", "TYPE", "why") 3 3 gives "like A", "the value, which must have a declared type";
    FaultAt "fault MESSAGE at A" ("A", "MESSAGE") 2 2 gives "nothing", "a run error at the place of a value";
    Same "same" ("a", "b") 2 2 gives "truth", "whether both are the very same list, map or function, or equal otherwise";
    Output "output" ("value") 0 any gives "nothing", "prints the values one after the other, without a line end";
    Input "input" () 0 0 gives "text or nothing", "the next line of input without its line end; nothing at the end";
    InputCharacter "input.character" () 0 0 gives "text or nothing", "the next character of input, a line end too; nothing at the end";
    InputAll "input.all" () 0 0 gives "text", "all of the input that is left";
    NumberRoot "number.root" ("x") 1 1 gives "number", "the square root; an error for a negative number";
    NumberPower "number.power" ("x", "y") 2 2 gives "integer or number", "x to the y; an integer when both are and y is not negative";
    NumberAbsolute "number.absolute" ("x") 1 1 gives "like x", "the distance from zero";
    NumberRound "number.round" ("x") 1 1 gives "integer", "the nearest integer, halves away from zero";
    NumberFloor "number.floor" ("x") 1 1 gives "integer", "the largest integer that is not above x";
    NumberCeiling "number.ceiling" ("x") 1 1 gives "integer", "the smallest integer that is not below x";
    NumberTruncate "number.truncate" ("x") 1 1 gives "integer", "x without its fraction";
    NumberFixed "number.fixed" ("x", "places") 2 2 gives "text", "x with so many places after the point, the last one rounded";
    NumberExponential "number.exponential" ("x") 1 1 gives "number", "e to the x";
    NumberLogarithm "number.logarithm" ("x") 1 1 gives "number", "the natural logarithm; an error unless x is above zero";
    NumberSine "number.sine" ("x") 1 1 gives "number", "the sine of an angle in radians";
    NumberCosine "number.cosine" ("x") 1 1 gives "number", "the cosine of an angle in radians";
    NumberAngle "number.angle" ("y", "x") 2 2 gives "number", "the angle in radians of the point at x and y";
    NumberReal "number.real" ("x") 1 1 gives "number", "x as a number, even when it is an integer";
    NumberLeast "number.least" ("x") 1 any gives "like its operands", "the least of its operands";
    NumberLargest "number.largest" ("x") 1 any gives "like its operands", "the largest of its operands";
    IntegerQuotient "integer.quotient" ("a", "b") 2 2 gives "integer", "a divided by b, rounded toward zero";
    IntegerRemainder "integer.remainder" ("a", "b") 2 2 gives "integer", "what integer.quotient leaves; it has the sign of a";
    IntegerFloorQuotient "integer.floor_quotient" ("a", "b") 2 2 gives "integer", "a divided by b, rounded down";
    IntegerModulo "integer.modulo" ("a", "b") 2 2 gives "integer", "what integer.floor_quotient leaves; it has the sign of b";
    IntegerExactQuotient "integer.exact_quotient" ("a", "b") 2 2 gives "integer", "a divided by b; an error when something is left";
    IntegerWrapped "integer.wrapped" ("n", "low", "high") 3 3 gives "integer", "n brought between low and high, going on at the other end: `integer.wrapped(n, 0, 255)` is a byte";
    IntegerClamped "integer.clamped" ("n", "low", "high") 3 3 gives "integer", "n, or the nearest of low and high when it is not between them";
    IntegerAddWrapping "integer.add_wrapping" ("a", "b") 2 2 gives "integer", "the sum, the last 64 bits of it";
    IntegerSubtractWrapping "integer.subtract_wrapping" ("a", "b") 2 2 gives "integer", "the difference, the last 64 bits of it";
    IntegerMultiplyWrapping "integer.multiply_wrapping" ("a", "b") 2 2 gives "integer", "the product, the last 64 bits of it";
    IntegerAddSaturating "integer.add_saturating" ("a", "b") 2 2 gives "integer", "the sum, or the nearest integer there is";
    IntegerSubtractSaturating "integer.subtract_saturating" ("a", "b") 2 2 gives "integer", "the difference, or the nearest integer there is";
    IntegerMultiplySaturating "integer.multiply_saturating" ("a", "b") 2 2 gives "integer", "the product, or the nearest integer there is";
    IntegerBitsAnd "integer.bits_and" ("a", "b") 2 2 gives "integer", "the bits that both have";
    IntegerBitsOr "integer.bits_or" ("a", "b") 2 2 gives "integer", "the bits that one or both have";
    IntegerBitsXor "integer.bits_xor" ("a", "b") 2 2 gives "integer", "the bits that just one has";
    IntegerBitsNot "integer.bits_not" ("a") 1 1 gives "integer", "the bits that a does not have";
    IntegerShiftLeft "integer.shift_left" ("a", "n") 2 2 gives "integer", "the bits n places up, those that leave lost; n is from 0 to 63";
    IntegerShiftRight "integer.shift_right" ("a", "n") 2 2 gives "integer", "the bits n places down, the sign kept; n is from 0 to 63";
    IntegerInBase "integer.in_base" ("n", "base") 2 2 gives "text", "n in a base from 2 to 36";
    TextLength "text.length" ("t") 1 1 gives "integer", "the number of characters as a person counts them";
    TextAt "text.at" ("t", "i") 2 2 gives "text", "the character at i, counted from 0";
    TextSlice "text.slice" ("t", "from", "to") 3 3 gives "text", "the characters from `from` up to and without `to`, counted from 0";
    TextUpper "text.upper" ("t") 1 1 gives "text", "in capital letters";
    TextLower "text.lower" ("t") 1 1 gives "text", "in small letters";
    TextTrim "text.trim" ("t") 1 1 gives "text", "without blanks at both ends";
    TextContains "text.contains" ("t", "part") 2 2 gives "truth", "whether part stands somewhere in t";
    TextFind "text.find" ("t", "part") 2 2 gives "integer or nothing", "where part first stands in t, counted in characters from 0";
    TextFindLast "text.find_last" ("t", "part") 2 2 gives "integer or nothing", "where part last stands in t, counted in characters from 0";
    TextStarts "text.starts" ("t", "part") 2 2 gives "truth", "whether t starts with part";
    TextEnds "text.ends" ("t", "part") 2 2 gives "truth", "whether t ends with part";
    TextReplace "text.replace" ("t", "old", "new") 3 3 gives "text", "with every `old` replaced by `new`";
    TextRepeat "text.repeat" ("t", "n") 2 2 gives "text", "t n times over";
    TextSplit "text.split" ("t", "by") 2 2 gives "list", "the parts between the separators; the characters when `by` is empty";
    TextJoin "text.join" ("list", "by") 2 2 gives "text", "the items as `shown` has them, with `by` between";
    TextFormat "text.format" ("t", "values") 2 2 gives "text", "t with its placeholders filled in as `shown` has them: from a list each `{}` by the next item and `{2}` by the second, from a map `{key}`; `{{` and `}}` are braces";
    TextPadLeft "text.pad_left" ("t", "width", "with") 3 3 gives "text", "with enough of `with` in front to be so many columns wide";
    TextPadRight "text.pad_right" ("t", "width", "with") 3 3 gives "text", "with enough of `with` behind to be so many columns wide";
    TextReverse "text.reverse" ("t") 1 1 gives "text", "the last character first";
    TextLines "text.lines" ("t") 1 1 gives "list", "its lines without their line ends";
    TextPoints "text.points" ("t") 1 1 gives "list", "its code points, as integers";
    TextFromPoints "text.from_points" ("list") 1 1 gives "text", "the text of these code points";
    TextBytes "text.bytes" ("t") 1 1 gives "list", "its bytes in UTF-8, as integers";
    TextFromBytes "text.from_bytes" ("list") 1 1 gives "text or nothing", "the text of these bytes, if they are UTF-8";
    TextToInteger "text.to_integer" ("t") 1 1 gives "integer or nothing", "the integer that t spells, if it does";
    TextToIntegerIn "text.to_integer_in" ("t", "base") 2 2 gives "integer or nothing", "the integer that t spells in a base from 2 to 36, if it does";
    TextToNumber "text.to_number" ("t") 1 1 gives "number or nothing", "the number that t spells, if it does";
    ListLength "list.length" ("list") 1 1 gives "integer", "the number of items";
    ListAt "list.at" ("list", "i") 2 2 gives "any", "the item at i, counted from 0";
    ListItem "list.item" ("list", "n") 2 2 gives "any", "the nth item, counted from 1";
    ListPut "list.put" ("list", "i", "value") 3 3 gives "nothing", "puts value at i, counted from 0";
    ListPutItem "list.put_item" ("list", "n", "value") 3 3 gives "nothing", "makes value the nth item, counted from 1";
    ListAdd "list.add" ("list", "value") 2 2 gives "nothing", "adds value at the end";
    ListTake "list.take" ("list") 1 1 gives "any", "takes the last item away and gives it";
    ListTakeFirst "list.take_first" ("list") 1 1 gives "any", "takes the first item away and gives it";
    ListInsert "list.insert" ("list", "i", "value") 3 3 gives "nothing", "puts value before what is at i, counted from 0";
    ListRemove "list.remove" ("list", "i") 2 2 gives "any", "takes the item at i away, counted from 0, and gives it";
    ListFind "list.find" ("list", "value") 2 2 gives "integer or nothing", "where the first item is that equals value, counted from 0";
    ListSlice "list.slice" ("list", "from", "to") 3 3 gives "list", "a new list of the items from `from` up to and without `to`, counted from 0";
    ListContains "list.contains" ("list", "value") 2 2 gives "truth", "whether some item equals value";
    ListReverse "list.reverse" ("list") 1 1 gives "list", "a new list, the last item first";
    ListSort "list.sort" ("list") 1 1 gives "list", "a new list in rising order, of numbers or of texts";
    ListSortBy "list.sort_by" ("list", "f") 2 2 gives "list", "a new list, sorted so that `f(a, b)` is true where a comes before b; equals stay in order";
    ListMap "list.map" ("list", "f") 2 2 gives "list", "what the function gives for each item";
    ListFilter "list.filter" ("list", "f") 2 2 gives "list", "the items for which the function gives true";
    ListCall "list.call" ("list", "f") 2 2 gives "any", "what the function gives, the items being its arguments";
    ListFold "list.fold" ("list", "start", "f") 3 3 gives "any", "start, then `f(so far, item)` for each item";
    ListFilled "list.filled" ("n", "value") 2 2 gives "list", "a new list of n times value";
    ListRange "list.range" ("from", "to") 2 2 gives "list", "the integers from `from` up to and with `to`";
    ListCopy "list.copy" ("list") 1 1 gives "list", "a new list with the same items";
    MapNew "map.new" () 0 0 gives "map", "a new map without entries";
    MapOf "map.of" ("key", "value") 0 any gives "map", "a new map of the keys and values, which take turns";
    MapGet "map.get" ("map", "key") 2 2 gives "any", "the value at a key; an error when there is none";
    MapFind "map.find" ("map", "key") 2 2 gives "any", "the value at a key; nothing when there is none";
    MapPut "map.put" ("map", "key", "value") 3 3 gives "nothing", "sets the value at a key";
    MapHas "map.has" ("map", "key") 2 2 gives "truth", "whether there is such a key";
    MapRemove "map.remove" ("map", "key") 2 2 gives "nothing", "takes a key and its value away";
    MapKeys "map.keys" ("map") 1 1 gives "list", "the keys, in the order in which they were first put";
    MapValues "map.values" ("map") 1 1 gives "list", "the values, in the order of the keys";
    MapCopy "map.copy" ("map") 1 1 gives "map", "a new map with the same entries";
    MapLength "map.length" ("map") 1 1 gives "integer", "the number of keys";
    CoroutineMake "coroutine.make" ("f") 1 1 gives "coroutine", "a coroutine that runs a function without parameters once it is resumed";
    CoroutineResume "coroutine.resume" ("c", "value") 1 2 gives "any", "goes on with it, `value` being what suspended it gives; what it is suspended with next, or gives at its end";
    CoroutineSuspend "coroutine.suspend" ("value") 0 1 gives "any", "suspends the coroutine that runs, from however deep inside; what it is resumed with";
    CoroutineEnded "coroutine.ended" ("c") 1 1 gives "truth", "whether it has come to its end";
    RandomInteger "random.integer" ("low", "high") 2 2 gives "integer", "any integer from low to high";
    RandomNumber "random.number" () 0 0 gives "number", "any number from 0 up to and without 1";
    RandomShuffle "random.shuffle" ("list") 1 1 gives "list", "a new list with the items in any order";
    ClockNow "clock.now" () 0 0 gives "number", "the seconds since 1970 began";
    ClockRunning "clock.running" () 0 0 gives "number", "the seconds since the run began";
    FileRead "file.read" ("path") 1 1 gives "text", "what is in a file; only where the run may read";
    FileWrite "file.write" ("path", "text") 2 2 gives "nothing", "makes text what is in a file; only where the run may write";
    FileExists "file.exists" ("path") 1 1 gives "truth", "whether there is such a file; only where the run may read";
    HostCall "host.call" ("name", "value") 1 any gives "any", "what the program that runs this one gives for a name and values; an error where it knows none of that name";
    ModuleLoad "module.load" ("path") 1 1 gives "map", "runs another program, once however often it is loaded; its outermost names with what they hold";
}

impl Operation {
    /// The operation of a name.
    pub fn named(name: &str) -> Option<Operation> {
        Operation::ALL.iter().copied().find(|o| o.name() == name)
    }

    /// The errors it can end in, beside `run.kind` for an operand of a kind that it does not
    /// take, and the limits of a run.
    pub fn errors(self) -> &'static [Code] {
        use Operation as O;
        match self {
            O::NumberRoot
            | O::NumberLogarithm
            | O::NumberFixed
            | O::IntegerWrapped
            | O::IntegerClamped
            | O::IntegerShiftLeft
            | O::IntegerShiftRight
            | O::IntegerInBase
            | O::TextToIntegerIn
            | O::TextFromPoints
            | O::TextFromBytes
            | O::RandomInteger => &[codes::RUN_DOMAIN],
            O::NumberPower => &[codes::RUN_OVERFLOW, codes::RUN_DOMAIN],
            O::NumberAbsolute
            | O::NumberRound
            | O::NumberFloor
            | O::NumberCeiling
            | O::NumberTruncate => &[codes::RUN_OVERFLOW],
            O::IntegerQuotient
            | O::IntegerFloorQuotient
            | O::IntegerRemainder
            | O::IntegerModulo => &[codes::RUN_DIVISION, codes::RUN_OVERFLOW],
            O::IntegerExactQuotient => {
                &[codes::RUN_DIVISION, codes::RUN_DOMAIN, codes::RUN_OVERFLOW]
            }
            O::TextAt
            | O::TextSlice
            | O::ListAt
            | O::ListItem
            | O::ListPut
            | O::ListPutItem
            | O::ListTake
            | O::ListTakeFirst
            | O::ListRemove
            | O::ListSlice => &[codes::RUN_INDEX],
            O::ListInsert => &[codes::RUN_INDEX, codes::RUN_SIZE],
            O::TextFormat => &[codes::RUN_KEY, codes::RUN_DOMAIN, codes::RUN_SIZE],
            O::TextReplace
            | O::TextRepeat
            | O::TextJoin
            | O::TextPadLeft
            | O::TextPadRight
            | O::ListAdd
            | O::ListFilled
            | O::ListRange
            | O::MapPut => &[codes::RUN_SIZE],
            O::MapGet => &[codes::RUN_KEY],
            O::MapOf | O::ListMap | O::ListFilter | O::ListFold | O::ListCall | O::ListSortBy => {
                &[codes::RUN_ARITY]
            }
            O::CoroutineResume => &[codes::RUN_COROUTINE, codes::RUN_ARITY],
            O::CoroutineSuspend => &[codes::RUN_COROUTINE],
            O::FileRead => &[codes::RUN_FILE, codes::RUN_SIZE],
            O::FileWrite | O::FileExists => &[codes::RUN_FILE],
            O::HostCall => &[codes::RUN_HOST],
            O::ModuleLoad => &[codes::RUN_MODULE],
            _ => &[],
        }
    }
}
