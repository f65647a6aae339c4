//! The table of operations: each with its operands and what they must be, its result, the errors it
//! can end in, what carries it out, and what it does in a line. Everything else about operations
//! is made from it: [`super::Operation`], and in `runtime` the way to the functions.

/// Hands the table to a macro.
///
/// A row is `VARIANT "name" (operand: WANTED, …) LEAST to MOST gives GIVEN, errors […], by WAY, "what it
/// does";`. How many operands there are is said where it is not as many as are listed. Ways are `values
/// FUNCTION` for one of the operands alone, `outside FUNCTION` for one that also has what is around
/// the run (both in `runtime::natives`), `host FUNCTION` for one
/// that the host carries out, and `engine NAME` for what only an engine can do.
macro_rules! with_operations {
    ($then:ident) => {
        $then! {
            Shown "shown" (value: Any) gives Text, errors [], by values general::shown,
                "the value as a person reads it; a text stays as it is";
            Quoted "quoted" (value: Any) gives Text, errors [], by values general::quoted,
                "the value as one would write it; a text is in quotes";
            Kind "kind" (value: Any) gives Text, errors [], by values general::kind,
                "the name of the value's kind";
            Fits "A fits TYPE" (A: Any, TYPE: Any) gives Truth, errors [], by values fitting::fits,
                "whether a value has a declared type";
            Demand "demand A fits TYPE" (A: Any, TYPE: Any, why: Any) gives LikeFirst, errors [], by values fitting::demand,
                "the value, which must have a declared type";
            FaultAt "fault MESSAGE at A" (A: Any, MESSAGE: Any) gives Never, errors [RUN_FAULT], by values general::fault_at,
                "a run error at the place of a value";
            Same "same" (a: Any, b: Any) gives Truth, errors [], by values general::same,
                "whether both are the very same list, map or function, or equal otherwise";
            Output "output" (value: Any) 0 to any gives Nothing, errors [], by outside input::output,
                "prints the values one after the other, without a line end";
            Input "input" () gives TextOrNothing, errors [], by outside input::line,
                "the next line of input without its line end; nothing at the end";

            InputCharacter "input.character" () gives TextOrNothing, errors [], by outside input::character,
                "the next character of input, a line end too; nothing at the end";
            InputAll "input.all" () gives Text, errors [], by outside input::all,
                "all of the input that is left";

            NumberRoot "number.root" (x: Number) gives Number, errors [RUN_DOMAIN], by values numbers::root,
                "the square root; an error for a negative number";
            NumberPower "number.power" (x: Number, y: Number) gives IntegerOrNumber, errors [RUN_OVERFLOW, RUN_DOMAIN], by values numbers::power,
                "x to the y; an integer when both are and y is not negative; an error for zero to a negative power";
            NumberRemainder "number.remainder" (x: Number, y: Number) gives IntegerOrNumber, errors [RUN_DIVISION, RUN_OVERFLOW], by values numbers::remainder,
                "what is left when y is taken from x as often as it fits; it has the sign of x";
            NumberModulo "number.modulo" (x: Number, y: Number) gives IntegerOrNumber, errors [RUN_DIVISION, RUN_OVERFLOW], by values numbers::modulo,
                "what is left of x when it is divided by y and rounded down; it has the sign of y";
            NumberAbsolute "number.absolute" (x: Number) gives LikeFirst, errors [RUN_OVERFLOW], by values numbers::absolute,
                "the distance from zero";
            NumberRound "number.round" (x: Number) gives Integer, errors [RUN_OVERFLOW], by values numbers::round,
                "the nearest integer, halves away from zero";
            NumberFloor "number.floor" (x: Number) gives Integer, errors [RUN_OVERFLOW], by values numbers::floor,
                "the largest integer that is not above x";
            NumberCeiling "number.ceiling" (x: Number) gives Integer, errors [RUN_OVERFLOW], by values numbers::ceiling,
                "the smallest integer that is not below x";
            NumberTruncate "number.truncate" (x: Number) gives Integer, errors [RUN_OVERFLOW], by values numbers::truncate,
                "x without its fraction";
            NumberFixed "number.fixed" (x: Number, places: Integer) gives Text, errors [RUN_DOMAIN], by values numbers::fixed,
                "x with so many places after the point, the last one rounded";
            NumberExponential "number.exponential" (x: Number) gives Number, errors [], by values numbers::exponential,
                "e to the x";
            NumberLogarithm "number.logarithm" (x: Number) gives Number, errors [RUN_DOMAIN], by values numbers::logarithm,
                "the natural logarithm; an error unless x is above zero";
            NumberSine "number.sine" (x: Number) gives Number, errors [], by values numbers::sine,
                "the sine of an angle in radians";
            NumberCosine "number.cosine" (x: Number) gives Number, errors [], by values numbers::cosine,
                "the cosine of an angle in radians";
            NumberAngle "number.angle" (y: Number, x: Number) gives Number, errors [], by values numbers::angle,
                "the angle in radians of the point at x and y";
            NumberReal "number.real" (x: Number) gives Number, errors [], by values numbers::real,
                "x as a number, even when it is an integer";
            NumberLeast "number.least" (x: Number) 1 to any gives LikeOperands, errors [], by values numbers::least,
                "the least of its operands";
            NumberLargest "number.largest" (x: Number) 1 to any gives LikeOperands, errors [], by values numbers::largest,
                "the largest of its operands";

            IntegerQuotient "integer.quotient" (a: Integer, b: Integer) gives Integer, errors [RUN_DIVISION, RUN_OVERFLOW], by values integers::quotient,
                "a divided by b, rounded toward zero";
            IntegerRemainder "integer.remainder" (a: Integer, b: Integer) gives Integer, errors [RUN_DIVISION, RUN_OVERFLOW], by values integers::remainder,
                "what integer.quotient leaves; it has the sign of a";
            IntegerFloorQuotient "integer.floor_quotient" (a: Integer, b: Integer) gives Integer, errors [RUN_DIVISION, RUN_OVERFLOW], by values integers::floor_quotient,
                "a divided by b, rounded down";
            IntegerModulo "integer.modulo" (a: Integer, b: Integer) gives Integer, errors [RUN_DIVISION, RUN_OVERFLOW], by values integers::modulo,
                "what integer.floor_quotient leaves; it has the sign of b";
            IntegerExactQuotient "integer.exact_quotient" (a: Integer, b: Integer) gives Integer, errors [RUN_DIVISION, RUN_DOMAIN, RUN_OVERFLOW], by values integers::exact_quotient,
                "a divided by b; an error when something is left";
            IntegerWrapped "integer.wrapped" (n: Integer, low: Integer, high: Integer) gives Integer, errors [RUN_DOMAIN], by values integers::wrapped,
                "n brought between low and high, going on at the other end: `integer.wrapped(n, 0, 255)` is a byte";
            IntegerClamped "integer.clamped" (n: Integer, low: Integer, high: Integer) gives Integer, errors [RUN_DOMAIN], by values integers::clamped,
                "n, or the nearest of low and high when it is not between them";
            IntegerAddWrapping "integer.add_wrapping" (a: Integer, b: Integer) gives Integer, errors [], by values integers::add_wrapping,
                "the sum, the last 64 bits of it";
            IntegerSubtractWrapping "integer.subtract_wrapping" (a: Integer, b: Integer) gives Integer, errors [], by values integers::subtract_wrapping,
                "the difference, the last 64 bits of it";
            IntegerMultiplyWrapping "integer.multiply_wrapping" (a: Integer, b: Integer) gives Integer, errors [], by values integers::multiply_wrapping,
                "the product, the last 64 bits of it";
            IntegerAddSaturating "integer.add_saturating" (a: Integer, b: Integer) gives Integer, errors [], by values integers::add_saturating,
                "the sum, or the nearest integer there is";
            IntegerSubtractSaturating "integer.subtract_saturating" (a: Integer, b: Integer) gives Integer, errors [], by values integers::subtract_saturating,
                "the difference, or the nearest integer there is";
            IntegerMultiplySaturating "integer.multiply_saturating" (a: Integer, b: Integer) gives Integer, errors [], by values integers::multiply_saturating,
                "the product, or the nearest integer there is";
            IntegerBitsAnd "integer.bits_and" (a: Integer, b: Integer) gives Integer, errors [], by values integers::bits_and,
                "the bits that both have";
            IntegerBitsOr "integer.bits_or" (a: Integer, b: Integer) gives Integer, errors [], by values integers::bits_or,
                "the bits that one or both have";
            IntegerBitsXor "integer.bits_xor" (a: Integer, b: Integer) gives Integer, errors [], by values integers::bits_xor,
                "the bits that just one has";
            IntegerBitsNot "integer.bits_not" (a: Integer) gives Integer, errors [], by values integers::bits_not,
                "the bits that a does not have";
            IntegerShiftLeft "integer.shift_left" (a: Integer, n: Integer) gives Integer, errors [RUN_DOMAIN], by values integers::shift_left,
                "the bits n places up, those that leave lost; n is from 0 to 63";
            IntegerShiftRight "integer.shift_right" (a: Integer, n: Integer) gives Integer, errors [RUN_DOMAIN], by values integers::shift_right,
                "the bits n places down, the sign kept; n is from 0 to 63";
            IntegerInBase "integer.in_base" (n: Integer, base: Integer) gives Text, errors [RUN_DOMAIN], by values integers::in_base,
                "n in a base from 2 to 36";

            TextLength "text.length" (t: Text) gives Integer, errors [], by values texts::length,
                "the number of characters as a person counts them";
            TextAt "text.at" (t: Text, i: Integer) gives Text, errors [RUN_INDEX], by values texts::at,
                "the character at i, counted from 0";
            TextSlice "text.slice" (t: Text, from: Integer, to: Integer) gives Text, errors [RUN_INDEX], by values texts::slice,
                "the characters from `from` up to and without `to`, counted from 0";
            TextUpper "text.upper" (t: Text) gives Text, errors [], by values texts::upper,
                "in capital letters";
            TextLower "text.lower" (t: Text) gives Text, errors [], by values texts::lower,
                "in small letters";
            TextTrim "text.trim" (t: Text) gives Text, errors [], by values texts::trim,
                "without blanks at both ends";
            TextContains "text.contains" (t: Text, part: Text) gives Truth, errors [], by values texts::contains,
                "whether part stands somewhere in t";
            TextFind "text.find" (t: Text, part: Text) gives IntegerOrNothing, errors [], by values texts::find,
                "where part first stands in t, counted in characters from 0";
            TextFindLast "text.find_last" (t: Text, part: Text) gives IntegerOrNothing, errors [], by values texts::find_last,
                "where part last stands in t, counted in characters from 0";
            TextStarts "text.starts" (t: Text, part: Text) gives Truth, errors [], by values texts::starts,
                "whether t starts with part";
            TextEnds "text.ends" (t: Text, part: Text) gives Truth, errors [], by values texts::ends,
                "whether t ends with part";
            TextReplace "text.replace" (t: Text, old: Text, new: Text) gives Text, errors [RUN_SIZE], by values texts::replace,
                "with every `old` replaced by `new`";
            TextRepeat "text.repeat" (t: Text, n: Integer) gives Text, errors [RUN_SIZE], by values texts::repeat,
                "t n times over";
            TextSplit "text.split" (t: Text, by: Text) gives List, errors [], by values texts::split,
                "the parts between the separators; the characters when `by` is empty";
            TextJoin "text.join" (list: List, by: Text) gives Text, errors [RUN_SIZE], by values texts::join,
                "the items as `shown` has them, with `by` between";
            TextOf "text & …" (value: Any) 0 to any gives Text, errors [RUN_SIZE], by values texts::of,
                "the values one after the other, as `shown` has them";
            TextFormat "text.format" (t: Text, values: Any) gives Text, errors [RUN_KEY, RUN_DOMAIN, RUN_SIZE], by values texts::format,
                "t with its placeholders filled in as `shown` has them: from a list each `{}` by the next item and `{2}` by the second, from a map `{key}`; `{{` and `}}` are braces";
            TextPadLeft "text.pad_left" (t: Text, width: Integer, with: Text) gives Text, errors [RUN_SIZE], by values texts::pad_left,
                "with enough of `with` in front to be so many columns wide";
            TextPadRight "text.pad_right" (t: Text, width: Integer, with: Text) gives Text, errors [RUN_SIZE], by values texts::pad_right,
                "with enough of `with` behind to be so many columns wide";
            TextReverse "text.reverse" (t: Text) gives Text, errors [], by values texts::reverse,
                "the last character first";
            TextLines "text.lines" (t: Text) gives List, errors [], by values texts::lines,
                "its lines without their line ends";
            TextPoints "text.points" (t: Text) gives List, errors [], by values spelling::points,
                "its code points, as integers";
            TextFromPoints "text.from_points" (list: List) gives Text, errors [RUN_DOMAIN], by values spelling::from_points,
                "the text of these code points";
            TextBytes "text.bytes" (t: Text) gives List, errors [], by values spelling::bytes,
                "its bytes in UTF-8, as integers";
            TextFromBytes "text.from_bytes" (list: List) gives TextOrNothing, errors [RUN_DOMAIN], by values spelling::from_bytes,
                "the text of these bytes, if they are UTF-8";
            TextByteLength "text.byte_length" (t: Text) gives Integer, errors [], by values spelling::byte_length,
                "the number of its bytes in UTF-8";
            TextByteAt "text.byte_at" (t: Text, i: Integer) gives Integer, errors [RUN_INDEX], by values spelling::byte_at,
                "the byte at i in UTF-8, as an integer, counted from 0";
            TextToInteger "text.to_integer" (t: Text) gives IntegerOrNothing, errors [], by values spelling::to_integer,
                "the integer that t spells, if it does";
            TextToIntegerIn "text.to_integer_in" (t: Text, base: Integer) gives IntegerOrNothing, errors [RUN_DOMAIN], by values spelling::to_integer_in,
                "the integer that t spells in a base from 2 to 36, if it does";
            TextToNumber "text.to_number" (t: Text) gives NumberOrNothing, errors [], by values spelling::to_number,
                "the number that t spells, if it does";

            ListLength "list.length" (list: List) gives Integer, errors [], by values lists::length,
                "the number of items";
            ListAt "list.at" (list: List, i: Integer) gives Any, errors [RUN_INDEX], by values lists::at,
                "the item at i, counted from 0";
            ListItem "list.item" (list: List, n: Integer) gives Any, errors [RUN_INDEX], by values lists::item,
                "the nth item, counted from 1";
            ListPut "list.put" (list: List, i: Integer, value: Any) gives Nothing, errors [RUN_INDEX], by values lists::put,
                "puts value at i, counted from 0";
            ListPutItem "list.put_item" (list: List, n: Integer, value: Any) gives Nothing, errors [RUN_INDEX], by values lists::put_item,
                "makes value the nth item, counted from 1";
            ListAdd "list.add" (list: List, value: Any) gives Nothing, errors [RUN_SIZE], by values lists::add,
                "adds value at the end";
            ListTake "list.take" (list: List) gives Any, errors [RUN_INDEX], by values lists::take,
                "takes the last item away and gives it";
            ListTakeFirst "list.take_first" (list: List) gives Any, errors [RUN_INDEX], by values lists::take_first,
                "takes the first item away and gives it";
            ListInsert "list.insert" (list: List, i: Integer, value: Any) gives Nothing, errors [RUN_INDEX, RUN_SIZE], by values lists::insert,
                "puts value before what is at i, counted from 0";
            ListRemove "list.remove" (list: List, i: Integer) gives Any, errors [RUN_INDEX], by values lists::remove,
                "takes the item at i away, counted from 0, and gives it";
            ListFind "list.find" (list: List, value: Any) gives IntegerOrNothing, errors [], by values lists::find,
                "where the first item is that equals value, counted from 0";
            ListSlice "list.slice" (list: List, from: Integer, to: Integer) gives List, errors [RUN_INDEX], by values lists::slice,
                "a new list of the items from `from` up to and without `to`, counted from 0";
            ListContains "list.contains" (list: List, value: Any) gives Truth, errors [], by values lists::contains,
                "whether some item equals value";
            ListReverse "list.reverse" (list: List) gives List, errors [], by values lists::reverse,
                "a new list, the last item first";
            ListSort "list.sort" (list: List) gives List, errors [], by values lists::sort,
                "a new list in rising order, of numbers or of texts";
            ListSortBy "list.sort_by" (list: List, f: Function) gives List, errors [RUN_ARITY], by engine EngineOperation::ListSortBy,
                "a new list, sorted so that `f(a, b)` is true where a comes before b; equals stay in order";
            ListMap "list.map" (list: List, f: Function) gives List, errors [RUN_ARITY], by engine EngineOperation::ListMap,
                "what the function gives for each item";
            ListFilter "list.filter" (list: List, f: Function) gives List, errors [RUN_ARITY], by engine EngineOperation::ListFilter,
                "the items for which the function gives true";
            ListCall "list.call" (list: List, f: Function) gives Any, errors [RUN_ARITY], by engine EngineOperation::ListCall,
                "what the function gives, the items being its arguments";
            ListFold "list.fold" (list: List, start: Any, f: Function) gives Any, errors [RUN_ARITY], by engine EngineOperation::ListFold,
                "start, then `f(so far, item)` for each item";
            ListFilled "list.filled" (n: Integer, value: Any) gives List, errors [RUN_SIZE], by values lists::filled,
                "a new list of n times value";
            ListRange "list.range" (from: Integer, to: Integer) gives List, errors [RUN_SIZE], by values lists::range,
                "the integers from `from` up to and with `to`";
            ListCopy "list.copy" (list: List) gives List, errors [], by values lists::copy,
                "a new list with the same items";

            MapNew "map.new" () gives Map, errors [], by values maps::new,
                "a new map without entries";
            MapOf "map.of" (key: Key, value: Any) 0 to any gives Map, errors [RUN_ARITY], by values maps::of,
                "a new map of the keys and values, which take turns";
            MapGet "map.get" (map: Map, key: Key) gives Any, errors [RUN_KEY], by values maps::get,
                "the value at a key; an error when there is none";
            MapFind "map.find" (map: Map, key: Key) gives Any, errors [], by values maps::find,
                "the value at a key; nothing when there is none";
            MapPut "map.put" (map: Map, key: Key, value: Any) gives Nothing, errors [RUN_SIZE], by values maps::put,
                "sets the value at a key";
            MapHas "map.has" (map: Map, key: Key) gives Truth, errors [], by values maps::has,
                "whether there is such a key";
            MapRemove "map.remove" (map: Map, key: Key) gives Nothing, errors [], by values maps::remove,
                "takes a key and its value away";
            MapKeys "map.keys" (map: Map) gives List, errors [], by values maps::keys,
                "the keys, in the order in which they were first put";
            MapValues "map.values" (map: Map) gives List, errors [], by values maps::values,
                "the values, in the order of the keys";
            MapCopy "map.copy" (map: Map) gives Map, errors [], by values maps::copy,
                "a new map with the same entries";
            MapLength "map.length" (map: Map) gives Integer, errors [], by values maps::length,
                "the number of keys";

            CaughtKind "caught.kind" (value: Any) gives Text, errors [], by values caught::kind,
                "of what a `rescue` gets: the code of the error, and `raised` where a program raised it";
            CaughtMessage "caught.message" (value: Any) gives Text, errors [], by values caught::message,
                "of what a `rescue` gets: the message of the error, and the value as `shown` has it where a program raised it";

            CaughtCalls "caught.calls" (value: Any) gives List, errors [], by values caught::calls,
                "of what a `rescue` gets: the calls that the error led out of, the innermost first, each a map with `function`, `line`, `column` and `times`; none where a program raised it";

            CoroutineMake "coroutine.make" (f: Function) gives Coroutine, errors [], by values general::coroutine_make,
                "a coroutine that runs a function without parameters once it is resumed";
            CoroutineResume "coroutine.resume" (c: Coroutine, value: Any) 1 to 2 gives Any, errors [RUN_COROUTINE, RUN_ARITY], by engine EngineOperation::CoroutineResume,
                "goes on with it, `value` being what suspended it gives; what it is suspended with next, or gives at its end";
            CoroutineSuspend "coroutine.suspend" (value: Any) 0 to 1 gives Any, errors [RUN_SUSPEND], by engine EngineOperation::CoroutineSuspend,
                "suspends the coroutine that runs, from however deep inside; what it is resumed with";
            CoroutineEnded "coroutine.ended" (c: Coroutine) gives Truth, errors [], by values general::coroutine_ended,
                "whether it has come to its end";

            RandomInteger "random.integer" (low: Integer, high: Integer) gives Integer, errors [RUN_DOMAIN], by outside chance::integer,
                "any integer from low to high";
            RandomNumber "random.number" () gives Number, errors [], by outside chance::number,
                "any number from 0 up to and without 1";
            RandomShuffle "random.shuffle" (list: List) gives List, errors [], by outside chance::shuffle,
                "a new list with the items in any order";

            ClockNow "clock.now" () gives Number, errors [], by outside clock::now,
                "the seconds since 1970 began";
            ClockRunning "clock.running" () gives Number, errors [], by outside clock::running,
                "the seconds since the run began";

            FileRead "file.read" (path: Text) gives Text, errors [RUN_FILE, RUN_SIZE], by outside file::read,
                "what is in a file; only where the run may read";
            FileWrite "file.write" (path: Text, text: Text) gives Nothing, errors [RUN_FILE], by outside file::write,
                "makes text what is in a file; only where the run may write";
            FileExists "file.exists" (path: Text) gives Truth, errors [RUN_FILE], by outside file::exists,
                "whether there is such a file; only where the run may read";

            ProgramArguments "program.arguments" () gives List, errors [], by outside program::arguments,
                "the texts that the program has been started with";
            ProgramLeave "program.leave" (status: Integer) gives Nothing, errors [RUN_DOMAIN, RUN_LEFT], by outside program::leave,
                "ends the run with an exit status from 0 to 255; nothing catches that";

            HostCall "host.call" (name: Text, value: Any) 1 to any gives Any, errors [RUN_HOST], by host call_host,
                "what the program that runs this one gives for a name and values; an error where it knows none of that name";

            ModuleLoad "module.load" (path: Text) gives Map, errors [RUN_MODULE], by engine EngineOperation::ModuleLoad,
                "runs another program, once however often it is loaded; its outermost names with what they hold";
        }
    };
}

pub(crate) use with_operations;
