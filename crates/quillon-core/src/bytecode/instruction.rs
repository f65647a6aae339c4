//! The instructions of the machine: one table, from which the listing, the verifier and the
//! documentation are made.

/// The most registers of a function. The machine counts them in halves in a field of sixteen
/// bits, so the number of each is below half of what a field can say.
pub const MOST_REGISTERS: usize = 1 << 15;

const _: () = assert!((MOST_REGISTERS - 1) * 2 <= u16::MAX as usize);

/// What a field of an instruction stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Role {
    /// Nothing; it is 0.
    None,
    /// A register that is read.
    Read,
    /// A register that is written.
    Write,
    /// A register that is read and written.
    Both,
    /// A constant, by its number.
    Constant,
    /// A constant, by its number in this field and the next.
    LongConstant,
    /// A constant that is a text, by its number: a name or a key.
    Name,
    /// An integer that fits into the field, with its sign.
    Integer,
    /// An integer in this field and the next, with its sign.
    Long,
    /// How far to jump, counted from the next instruction.
    Jump,
    /// How far to jump, in this field and the next.
    LongJump,
    /// A captured value, by its number.
    Captured,
    /// A function made by this one, by its number in this field and the next.
    Function,
    /// The first of some registers; the next field says how many.
    Registers,
    /// The first of as many registers as `x` says.
    Row,
    /// The first of as many constants that are texts as `x` says.
    Names,
    /// How many: of registers, or of arguments.
    Count,
    /// The first register of a call: the arguments begin there, and with them the registers
    /// of what is called.
    Window,
    /// A variable of the session, of what is built in, or of the state, by its number.
    Place,
    /// Whether something is to be so: 1 or 0.
    Flag,
    /// What is counted from: 0 or 1.
    Base,
    /// How many arguments, in the upper three bits, and how many items of a list after them.
    Listed,
    /// A register for a list, or for nothing where the number of its items and the items come after it.
    Given,
    /// A kind of value, by its number.
    Kind,
    /// An operation of the meaning notation, by its number.
    Operation,
}

/// An instruction and what it means.
#[derive(Debug)]
pub struct Description {
    /// Its name in a listing.
    pub mnemonic: &'static str,
    /// What its fields `x`, `a`, `b` and `c` stand for.
    pub fields: [Role; 4],
    /// How many words follow it that belong to it.
    pub extra: usize,
    /// What it does.
    pub effect: &'static str,
    /// The errors it can end in.
    pub errors: &'static [&'static str],
}

/// Makes the constructor of an instruction: a function of the fields that it has.
macro_rules! constructor {
    ($name:ident $effect:literal None $($rest:ident)*) => {
        constructor!(@a $name $effect [] [0,] $($rest)*);
    };
    ($name:ident $effect:literal $x:ident $($rest:ident)*) => {
        constructor!(@a $name $effect [x: u8,] [x,] $($rest)*);
    };
    (@a $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] None $($rest:ident)*) => {
        constructor!(@b $name $effect [$($param)*] [$($field)* 0,] $($rest)*);
    };
    (@a $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] $a:ident $($rest:ident)*) => {
        constructor!(@b $name $effect [$($param)* a: u16,] [$($field)* a,] $($rest)*);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] LongConstant None) => {
        constructor!(@long $name $effect [$($param)*] [$($field)*]);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] Long None) => {
        constructor!(@long $name $effect [$($param)*] [$($field)*]);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] LongJump None) => {
        constructor!(@long $name $effect [$($param)*] [$($field)*]);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] Function None) => {
        constructor!(@long $name $effect [$($param)*] [$($field)*]);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] None $c:ident) => {
        constructor!(@c $name $effect [$($param)*] [$($field)* 0,] $c);
    };
    (@b $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] $b:ident $c:ident) => {
        constructor!(@c $name $effect [$($param)* b: u16,] [$($field)* b,] $c);
    };
    (@c $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] None) => {
        constructor!(@made $name $effect [$($param)*] [$($field)* 0]);
    };
    (@c $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*] $c:ident) => {
        constructor!(@made $name $effect [$($param)* c: u16] [$($field)* c]);
    };
    (@made $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*]) => {
        #[doc = $effect]
        pub(super) fn $name($($param)*) -> Instruction {
            Instruction::new(Op::$name, $($field)*)
        }
    };
    (@long $name:ident $effect:literal [$($param:tt)*] [$($field:tt)*]) => {
        #[doc = $effect]
        pub(super) fn $name($($param)* long: i32) -> Instruction {
            Instruction::new(Op::$name, $($field)* 0, 0).with_long(long)
        }
    };
}

macro_rules! instructions {
    ($($variant:ident $mnemonic:literal [$x:ident $a:ident $b:ident $c:ident] $(+ $extra:literal)? $effect:literal $([$($error:literal),*])?;)*) => {
        /// What an instruction does.
        #[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
        #[repr(u8)]
        pub enum Op {
            $(#[doc = $effect] $variant),*
        }

        impl Op {
            /// All of them, in the order of their numbers.
            pub const ALL: &'static [Op] = &[$(Op::$variant),*];

            /// What it means.
            pub fn description(self) -> &'static Description {
                const DESCRIPTIONS: &[Description] = &[$(Description {
                    mnemonic: $mnemonic,
                    fields: [Role::$x, Role::$a, Role::$b, Role::$c],
                    extra: 0 $(+ $extra)?,
                    effect: $effect,
                    errors: &[$($($error),*)?],
                }),*];
                &DESCRIPTIONS[self as usize]
            }
        }

        // One for each instruction, also for those that are only chosen by an operator.
        #[allow(non_snake_case, dead_code)]
        impl Instruction {
    /// This addition as one that also does what the instruction after it says: a comparison of the sum with something
    /// else, that jumps where it holds. None where the two are not that.
    pub(crate) fn before(self, jump: Instruction) -> Option<Instruction> {
        let op = jump.op().and_then(Op::after_adding)?;
        let compares_registers = matches!(op, Op::AddThenLess | Op::AddThenLessOrEqual);
        let is_other = !compares_registers || jump.b() != self.a();
        let fits = jump.x() == 1 && jump.a() == self.a() && is_other;
        fits.then(|| Instruction::new(op, self.x(), self.a(), self.b(), self.c()))
    }

            $(constructor! { $variant $effect $x $a $b $c })*
        }
    };
}

instructions! {
    Move "move" [None Write Read None] "a becomes b";
    Constant "constant" [None Write LongConstant None] "a becomes a constant";
    Integer "integer" [None Write Long None] "a becomes an integer";
    Truth "truth" [Flag Write None None] "a becomes true or false";
    Nothing "nothing" [None Write None None] "a becomes nothing";
    Unset "unset" [None Write None None] "a has no value yet";
    CheckSet "check_set" [None Read Name None] "an error if a has no value yet" ["run.unset"];

    Fresh "fresh" [None Write None None] "a becomes a new variable that functions share, without a value yet";
    Share "share" [None Both None None] "a becomes a new variable that functions share, and that holds what a was";
    GetShared "get_shared" [None Write Read Name] "a becomes what the shared variable in b holds; c is its name for messages" ["run.unset"];
    PutShared "put_shared" [None Read Read None] "the shared variable in a holds b";
    GetCaptured "get_captured" [None Write Captured None] "a becomes a captured value";
    GetOuter "get_outer" [None Write Captured Name] "a becomes what a captured variable holds" ["run.unset"];
    PutOuter "put_outer" [None Captured Read None] "a captured variable holds b";
    GetSession "get_session" [None Write Place Name] "a becomes what a variable of the session holds" ["run.unset"];
    PutSession "put_session" [None Place Read None] "a variable of the session holds b";
    GetBuiltIn "get_built_in" [None Write Place Name] "a becomes what is built in" ["run.unset"];
    GetState "get_state" [None Write Place Name] "a becomes what a cell of the state holds" ["run.unset"];
    PutState "put_state" [None Place Read None] "a cell of the state holds b";
    GetDynamic "get_dynamic" [None Write Name Name] "a becomes what a dynamic variable holds" ["run.unset"];
    PutDynamic "put_dynamic" [None Name Read None] "a dynamic variable holds b";
    TakeDynamic "take_dynamic" [None Write Name None] "a becomes what a dynamic variable holds, and that has no value from here on";
    RestoreDynamic "restore_dynamic" [None Name Read None] "a dynamic variable is again what it was when it was taken into b";

    Add "add" [None Write Read Read] "a becomes b + c" ["run.kind", "run.overflow"];
    AddInteger "add_integer" [Flag Write Read Integer] "a becomes b + an integer, which stood first if x is 1" ["run.kind", "run.overflow"];
    AddConstant "add_constant" [Flag Write Read Constant] "a becomes b + a constant, which stood first if x is 1" ["run.kind", "run.overflow"];
    Subtract "subtract" [None Write Read Read] "a becomes b - c" ["run.kind", "run.overflow"];
    SubtractInteger "subtract_integer" [None Write Read Integer] "a becomes b - an integer" ["run.kind", "run.overflow"];
    SubtractConstant "subtract_constant" [None Write Read Constant] "a becomes b - a constant" ["run.kind", "run.overflow"];
    SubtractFrom "subtract_from" [None Write Constant Read] "a becomes a constant - c" ["run.kind", "run.overflow"];
    Multiply "multiply" [None Write Read Read] "a becomes b * c" ["run.kind", "run.overflow"];
    MultiplyInteger "multiply_integer" [Flag Write Read Integer] "a becomes b * an integer, which stood first if x is 1" ["run.kind", "run.overflow"];
    MultiplyConstant "multiply_constant" [Flag Write Read Constant] "a becomes b * a constant, which stood first if x is 1" ["run.kind", "run.overflow"];
    Divide "divide" [None Write Read Read] "a becomes b / c, a number" ["run.kind", "run.division"];
    DivideConstant "divide_constant" [None Write Read Constant] "a becomes b / a constant, a number" ["run.kind", "run.division"];
    DivideFrom "divide_from" [None Write Constant Read] "a becomes a constant / c, a number" ["run.kind", "run.division"];
    Quotient "quotient" [None Write Read Read] "a becomes `integer.quotient` of b and c" ["run.kind", "run.division", "run.overflow"];
    Remainder "remainder" [Flag Write Read Read] "a becomes `integer.remainder` of b and c, or `number.remainder` if x is 1" ["run.kind", "run.division"];
    RemainderInteger "remainder_integer" [Flag Write Read Integer] "a becomes `integer.remainder` of b and an integer above 0, or `number.remainder` if x is 1" ["run.kind"];
    FloorQuotient "floor_quotient" [None Write Read Read] "a becomes `integer.floor_quotient` of b and c" ["run.kind", "run.division", "run.overflow"];
    FloorQuotientInteger "floor_quotient_integer" [None Write Read Integer] "a becomes `integer.floor_quotient` of b and an integer above 0" ["run.kind"];
    Modulo "modulo" [Flag Write Read Read] "a becomes `integer.modulo` of b and c, or `number.modulo` if x is 1" ["run.kind", "run.division"];
    ModuloInteger "modulo_integer" [Flag Write Read Integer] "a becomes `integer.modulo` of b and an integer above 0, or `number.modulo` if x is 1" ["run.kind"];
    Join "join" [None Write Read Read] "a becomes b & c, two texts or two lists" ["run.kind", "run.size"];
    JoinShown "join_shown" [None Write Read Read] "a becomes `shown` of b & `shown` of c" ["run.size"];
    JoinShownConstant "join_shown_constant" [None Write Read Name] "a becomes `shown` of b & a text" ["run.size"];
    Shown "shown" [None Write Read None] "a becomes `shown` of b";
    Negate "negate" [None Write Read None] "a becomes the opposite of the number b" ["run.kind", "run.overflow"];
    Not "not" [None Write Read None] "a becomes the opposite of the truth value b" ["run.kind"];
    Equal "equal" [None Write Read Read] "a becomes whether b = c";
    Unequal "unequal" [None Write Read Read] "a becomes whether b /= c";
    Less "less" [None Write Read Read] "a becomes whether b < c" ["run.kind"];
    LessOrEqual "less_or_equal" [None Write Read Read] "a becomes whether b <= c" ["run.kind"];
    Greater "greater" [None Write Read Read] "a becomes whether b > c" ["run.kind"];
    GreaterOrEqual "greater_or_equal" [None Write Read Read] "a becomes whether b >= c" ["run.kind"];

    Jump "jump" [None None LongJump None] "goes on elsewhere";
    Done "done" [None None LongJump None] "goes on elsewhere. The instruction before it is tried: where it is not on numbers, or cannot be done, the run goes on after this one";
    JumpIf "jump_if" [Flag Read LongJump None] "jumps if the truth value a is x" ["run.kind"];
    TryJumpIf "try_jump_if" [Flag Read LongJump None] "like `jump_if`; goes on after the next instruction if a is no truth value";
    JumpEqual "jump_equal" [Flag Read Read Jump] "jumps if (a = b) is x";
    JumpLess "jump_less" [Flag Read Read Jump] "jumps if (a < b) is x" ["run.kind"];
    JumpLessOrEqual "jump_less_or_equal" [Flag Read Read Jump] "jumps if (a <= b) is x" ["run.kind"];
    JumpGreater "jump_greater" [Flag Read Read Jump] "jumps if (a > b) is x" ["run.kind"];
    JumpGreaterOrEqual "jump_greater_or_equal" [Flag Read Read Jump] "jumps if (a >= b) is x" ["run.kind"];
    JumpEqualInteger "jump_equal_integer" [Flag Read Integer Jump] "jumps if (a = an integer) is x";
    JumpLessInteger "jump_less_integer" [Flag Read Integer Jump] "jumps if (a < an integer) is x" ["run.kind"];
    JumpLessOrEqualInteger "jump_less_or_equal_integer" [Flag Read Integer Jump] "jumps if (a <= an integer) is x" ["run.kind"];
    JumpGreaterInteger "jump_greater_integer" [Flag Read Integer Jump] "jumps if (a > an integer) is x" ["run.kind"];
    JumpGreaterOrEqualInteger "jump_greater_or_equal_integer" [Flag Read Integer Jump] "jumps if (a >= an integer) is x" ["run.kind"];
    JumpEqualNumbers "jump_equal_numbers" [Flag Read Read Jump] "like `jump_equal`; tried, it is done of integers and numbers only";
    JumpEqualNumbersInteger "jump_equal_numbers_integer" [Flag Read Integer Jump] "like `jump_equal_integer`; tried, it is done of integers and numbers only";
    JumpEqualConstant "jump_equal_constant" [Flag Read Constant Jump] "jumps if (a = a constant) is x";
    JumpLessConstant "jump_less_constant" [Flag Read Constant Jump] "jumps if (a < a constant) is x" ["run.kind"];
    JumpLessOrEqualConstant "jump_less_or_equal_constant" [Flag Read Constant Jump] "jumps if (a <= a constant) is x" ["run.kind"];
    JumpGreaterConstant "jump_greater_constant" [Flag Read Constant Jump] "jumps if (a > a constant) is x" ["run.kind"];
    JumpGreaterOrEqualConstant "jump_greater_or_equal_constant" [Flag Read Constant Jump] "jumps if (a >= a constant) is x" ["run.kind"];
    AddThenLess "add_then_less" [Flag Write Read Integer] "like `add_integer`; of integers it carries out the `jump_less` after it, too" ["run.kind", "run.overflow"];
    AddThenLessOrEqual "add_then_less_or_equal" [Flag Write Read Integer] "the same with a `jump_less_or_equal` after it" ["run.kind", "run.overflow"];
    AddThenLessInteger "add_then_less_integer" [Flag Write Read Integer] "the same with a `jump_less_integer` after it" ["run.kind", "run.overflow"];
    AddThenLessOrEqualInteger "add_then_less_or_equal_integer" [Flag Write Read Integer] "the same with a `jump_less_or_equal_integer` after it" ["run.kind", "run.overflow"];
    AddThenLessConstant "add_then_less_constant" [Flag Write Read Integer] "the same with a `jump_less_constant` after it" ["run.kind", "run.overflow"];
    AddThenLessOrEqualConstant "add_then_less_or_equal_constant" [Flag Write Read Integer] "the same with a `jump_less_or_equal_constant` after it" ["run.kind", "run.overflow"];
    JumpKind "jump_kind" [Kind Read LongJump None] "jumps if a is of a kind";
    JumpUnlessKind "jump_unless_kind" [Kind Read LongJump None] "jumps if a is not of a kind";
    JumpNumber "jump_number" [None Read LongJump None] "jumps if a is an integer or a number";
    NoMatch "no_match" [None Read None None] "ends in an error: no arm of a match is for a" ["run.match"];

    Function "function" [None Write Function None] "a becomes a new function, with what it captures";
    Call "call" [Count Write Window Read] "calls c with x arguments; a becomes what it gives" ["run.kind", "run.arity", "run.depth"];
    CallCaptured "call_captured" [Count Write Window Captured] "calls a captured function with x arguments" ["run.kind", "run.arity", "run.depth"];
    CallItself "call_itself" [Count Write Window None] "calls the running function with x arguments, as many as it takes" ["run.depth"];
    CallBuiltIn "call_built_in" [Count Write Window Place] "calls what is built in with x arguments" ["run.unset", "run.kind", "run.arity", "run.depth"];
    CallItems "call_items" [None Write Window Read] "calls c with the items of the list b as its arguments; a becomes what it gives" ["run.kind", "run.arity", "run.size", "run.depth"];
    CallListed "call_listed" [Listed Write Window Read] "calls c with as many arguments and a list of as many items as x says; a becomes what it gives. After the arguments come two registers for the machine, then the items; a function whose last parameter may be listed gets them there" ["run.kind", "run.arity", "run.depth"];
    CallListedCaptured "call_listed_captured" [Listed Write Window Captured] "the same of a captured function" ["run.kind", "run.arity", "run.depth"];
    TailCallListed "tail_call_listed" [Listed None Window Read] "like `call_listed`, in the place of the running function" ["run.kind", "run.arity"];
    TailCall "tail_call" [Count None Window Read] "calls c with x arguments in the place of the running function" ["run.kind", "run.arity"];
    TailCallItself "tail_call_itself" [Count None Window None] "calls the running function in its own place with x arguments, as many as it takes";
    Return "return" [None Read None None] "gives a to what called the running function";
    ReturnNothing "return_nothing" [None None None None] "gives nothing to what called the running function";
    Stop "stop" [None None None None] "ends the run, or a coroutine; only the machine itself puts it anywhere";

    List "list" [None Write Registers Count] "a becomes a new list of some registers";
    Push "push" [None Read Read None] "adds b to the new list a";
    Apply "apply" [Operation Write Registers Count] "a becomes what an operation gives for some registers" ["those of the operation"];
    ApplyTwo "apply_two" [Operation Write Read Read] "a becomes what an operation gives for b and c" ["those of the operation"];
    ListLength "list_length" [None Write Read None] "a becomes `list.length` of b" ["run.kind"];
    Item "item" [Base Write Read Read] "a becomes the item c of the list b, counted from x" ["run.kind", "run.index"];
    ItemInteger "item_integer" [Base Write Read Integer] "a becomes an item of the list b, counted from x" ["run.kind", "run.index"];
    PutItem "put_item" [Base Read Read Read] "item b of the list a, counted from x, becomes c" ["run.kind", "run.index"];
    TryLength "try_length" [None Write Read None] "like `list_length`; goes on after the next instruction if b is no list";
    TryItem "try_item" [Base Write Read Read] "like `item`; goes on after the next instruction if b is no list or has no such item";
    TryItemInteger "try_item_integer" [Base Write Read Integer] "like `item_integer`; goes on after the next instruction if b is no list or has no such item";
    TryWhole "try_whole" [None Write Read None] "a becomes the integer that b is equal to; goes on after the next instruction if there is none";
    TryItemWhole "try_item_whole" [Base Write Read Read] "like `try_item`, with c the integer that it is equal to";
    TryLetter "try_letter" [Base Write Read Read] "a becomes the character c of the text b, counted from x; goes on after the next instruction if b is no text, has no such character, or where its characters are is not known";
    TryLetterWhole "try_letter_whole" [Base Write Read Read] "like `try_letter`, with c the integer that it is equal to";
    TryPutItem "try_put_item" [Base Read Read Read] "like `put_item`; goes on after the next instruction if a is no list or has no such item";
    TryPutItemWhole "try_put_item_whole" [Base Read Read Read] "like `try_put_item`, with b the integer that it is equal to";
    TryAdd "try_add" [None Write Read Read] "like `add`; goes on after the next instruction if b and c are not two integers or two numbers, or the sum is too large";
    TryAddInteger "try_add_integer" [None Write Read Integer] "like `add_integer`; goes on after the next instruction if b is no number, or the sum is too large";
    ListAdd "list_add" [None Read Read None] "adds b to the list a" ["run.kind", "run.size"];
    ListTake "list_take" [None Write Read None] "a becomes the last item of the list b, which is taken away" ["run.kind", "run.index"];
    GivenLength "given_length" [None Write Given Count] "a becomes `list.length` of the list that was given in b, or as its items after it, of which c have been taken" ["run.kind"];
    GivenTake "given_take" [None Write Given Count] "a becomes `list.take_first` of the same" ["run.kind", "run.index"];
    TryGiven "try_given" [None Write Given Count] "like `given_take`; goes on after the next instruction if there is no such item, or a list was given";
    GivenItem "given_item" [Base Write Given Count] "a becomes the item c of the same, counted from x; none has been taken" ["run.kind", "run.index"];
    MapGet "map_get" [None Write Read Name] + 1 "a becomes the value at a key of the map b; the word after it remembers where that was" ["run.kind", "run.key"];
    MapPut "map_put" [None Read Name Read] + 1 "sets the value at a key of the map a to c; the word after it remembers where that was" ["run.kind", "run.size"];
    TryKey "try_key" [None Write Read Read] "a becomes the value at the key c of the map b; goes on after the next instruction if b is no map or has no such key";
    TryMapGet "try_map_get" [None Write Read Name] + 1 "like `map_get`; goes on after the next instruction if b is no map or has no such key";
    TryMapPut "try_map_put" [None Read Name Read] + 1 "like `map_put`; goes on after the next instruction if a is no map or has no such key";
    PutKey "put_key" [None Read Read Read] "sets the value at the key b of the map a to c" ["run.kind", "run.size"];
    MapNew "map_new" [None Write None None] "a becomes a new map";
    MapRow "map_row" [Count Write Row Names] + 1 "a becomes a new map: x keys from c on, with the values from b on; the word after it remembers its shape";

    EachBegin "each_begin" [None Write Read None] "a becomes a loop over the list, the keys of the map, or the coroutine b" ["run.kind"];
    EachNext "each_next" [None Read Write Jump] "b becomes the next item of the loop a, and jumps; at the end goes on after the next instruction; a coroutine is resumed, and gives b" ["run.depth"];
    EachCheck "each_check" [None Read None Jump] "jumps unless the coroutine of the loop a has come to its end";
    CountBegin "count_begin" [None Read Read Jump] "an error if a or b is no integer; jumps if a is above b" ["run.kind"];
    CountNext "count_next" [None Both Read Jump] "a becomes the integer after it and jumps if it is below b";
    ItemsBegin "items_begin" [None Write Read None] "a becomes a loop over the list b" ["run.kind"];
    CheckFunction "check_function" [None Read None None] "an error if a is no function" ["run.kind"];
    SortBegin "sort_begin" [None Write Read None] "a becomes a sort of the list b" ["run.kind"];
    SortAsk "sort_ask" [None Read Write Jump] "b and the register after it become two items to be compared, and jumps; goes on when all are sorted";
    SortAnswer "sort_answer" [None Read Read None] "whether the first of the two items comes before the second is b" ["run.kind"];
    SortEnd "sort_end" [None Write Read None] "a becomes the list that the sort b has made";
    CheckAnswer "check_answer" [None Read None None] "an error if a, which a function gave, is not a truth value" ["run.kind"];

    Resume "resume" [None Write Read Read] "resumes the coroutine b with c; a becomes what it is suspended with, or gives at its end" ["run.kind", "run.coroutine", "run.arity", "run.depth"];
    Suspend "suspend" [None Write Read None] "suspends the running coroutine with b; a becomes what it is resumed with" ["run.coroutine"];
    ModuleLoad "module_load" [None Write Read Window] "a becomes what the program at the path b has given, and goes on after the next instruction; a program that has not run is run, with its registers from c on" ["run.kind", "run.module"];
    ModuleDone "module_done" [None Read None None] "keeps a as what the program that was loaded last has given";

    Fault "fault" [None Read None None] "ends in an error with the wording a" ["run.fault"];
    Raise "raise" [None Read None None] "raises a" ["run.raised"];
    Finish "finish" [None Read None None] "after a cleanup: goes on failing if a is a failure";
}

/// An instruction: a word of eight bytes, from the lowest the operation, `x`, and `a`, `b`
/// and `c` of two bytes each.
#[derive(Clone, Copy, PartialEq, Eq, Debug, serde::Serialize, serde::Deserialize)]
pub struct Instruction(pub u64);

/// How many arguments a call has that ends in a list, and how many items the list has.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Counts {
    /// The arguments before the list, seven at most.
    pub before: u8,
    /// Its items, 31 at most.
    pub items: u8,
}

impl Counts {
    /// As a field of an instruction says them.
    #[inline]
    pub fn of(field: u8) -> Counts {
        Counts {
            before: field >> 5,
            items: field & 31,
        }
    }

    /// As a field of an instruction says them.
    pub fn field(self) -> u8 {
        self.before << 5 | self.items
    }

    /// How many registers of its window the call uses: two are for the machine.
    pub fn registers(self) -> usize {
        usize::from(self.before) + 2 + usize::from(self.items)
    }
}

impl Instruction {
    /// An instruction.
    pub fn new(op: Op, x: u8, a: u16, b: u16, c: u16) -> Instruction {
        let halves = u64::from(a) << 16 | u64::from(b) << 32 | u64::from(c) << 48;
        Instruction(u64::from(op as u8) | u64::from(x) << 8 | halves)
    }

    /// The number of its operation.
    #[inline]
    pub fn number(self) -> u8 {
        self.0 as u8
    }

    /// Its operation, if there is one of that number.
    pub fn op(self) -> Option<Op> {
        Op::ALL.get(self.number() as usize).copied()
    }

    /// The field `x`.
    #[inline]
    pub fn x(self) -> u8 {
        (self.0 >> 8) as u8
    }

    /// The field `a`.
    #[inline]
    pub fn a(self) -> u16 {
        (self.0 >> 16) as u16
    }

    /// The field `b`.
    #[inline]
    pub fn b(self) -> u16 {
        (self.0 >> 32) as u16
    }

    /// The field `c`.
    #[inline]
    pub fn c(self) -> u16 {
        (self.0 >> 48) as u16
    }

    /// The fields `b` and `c` as one integer.
    #[inline]
    pub fn long(self) -> i32 {
        (self.0 >> 32) as i32
    }

    /// The same with another integer in `b` and `c`.
    #[must_use]
    pub(crate) fn with_long(self, long: i32) -> Instruction {
        Instruction(self.0 & 0xffff_ffff | u64::from(long as u32) << 32)
    }

    /// The same with another `a`.
    #[must_use]
    pub(crate) fn with_a(self, a: u16) -> Instruction {
        Instruction(self.0 & !0xffff_0000 | u64::from(a) << 16)
    }

    /// The same with another `x`.
    #[must_use]
    pub(crate) fn with_x(self, x: u8) -> Instruction {
        Instruction(self.0 & !0xff00 | u64::from(x) << 8)
    }

    /// The same with another `c`.
    #[must_use]
    pub(crate) fn with_c(self, c: u16) -> Instruction {
        Instruction(self.0 & 0x0000_ffff_ffff_ffff | u64::from(c) << 48)
    }

    /// How far it jumps, if it does.
    pub fn jump(self) -> Option<i32> {
        let fields = self.op()?.description().fields;
        if fields[3] == Role::Jump {
            return Some(i32::from(self.c() as i16));
        }
        (fields[2] == Role::LongJump).then(|| self.long())
    }
}
