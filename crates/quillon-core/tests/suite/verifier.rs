//! What the machine relies on: code that does not keep it is refused before it runs, and what the compiler makes is not.

use std::rc::Rc;

use crate::common::general;
use quillon_core::Reading;
use quillon_core::bytecode::{
    Captured, Constant, From, Function, Handler, Instruction, Last, MOST_REGISTERS, Op, Origin,
    Purpose, verify,
};
use quillon_core::operations::Operation;
use quillon_core::scoping::Around;
use quillon_core::source::{SourceText, Span};

/// What a program is compiled to, with a function in it.
fn compiled() -> Function {
    let source = SourceText::new("program", "let f = fn(a) { a + 1 }; f(2)");
    let code = general().code(&source, Around::Nothing, Reading::Entry);
    (*code.value.unwrap()).clone()
}

/// A program of these instructions, with four registers, a text and an integer.
fn with(code: Vec<Instruction>) -> Function {
    let mut program = compiled();
    program.site_of = vec![0; code.len()];
    program.code = code;
    program.registers = 4;
    program.constants = vec![Constant::Text("a".into()), Constant::Integer(1)];
    program.handlers.clear();
    program.locals.clear();
    program
}

/// Why a function is refused.
fn refused(function: &Function) -> String {
    verify(function).expect_err("it is no good")
}

fn word(op: Op, x: u8, a: u16, b: u16, c: u16) -> Instruction {
    Instruction::new(op, x, a, b, c)
}

/// An instruction with an integer in its last two fields.
fn long(op: Op, far: i32) -> Instruction {
    word(op, 0, 0, far as u16, (far >> 16) as u16)
}

/// An end for code that is looked at up to there.
fn end() -> Instruction {
    word(Op::ReturnNothing, 0, 0, 0, 0)
}

#[test]
fn what_the_compiler_makes_is_accepted() {
    assert_eq!(verify(&compiled()), Ok(()));
    assert_eq!(verify(&with(vec![end()])), Ok(()));
}

#[test]
fn registers_constants_and_functions_are_there() {
    let last = word(Op::Move, 0, 3, 0, 0);
    assert_eq!(verify(&with(vec![last, end()])), Ok(()));
    for (bad, number) in [
        (word(Op::Move, 0, 4, 0, 0), 4),
        (word(Op::Move, 0, 0, 4, 0), 4),
        (word(Op::Move, 0, 0, 0xffff, 0), 0xffff),
        (word(Op::Constant, 0, 0, 2, 0), 2),
        (word(Op::AddConstant, 0, 0, 0, 2), 2),
        // A name is a text.
        (word(Op::CheckSet, 0, 0, 1, 0), 1),
        (word(Op::GetCaptured, 0, 0, 0, 0), 0),
        (word(Op::Function, 0, 0, 9, 0), 9),
        // Registers one after the other: all of them.
        (word(Op::List, 0, 0, 1, 4), 1),
        (word(Op::Call, 4, 0, 1, 0), 1),
        (word(Op::Call, 0, 0, 4, 0), 4),
        // Two registers for the machine, then the items.
        (word(Op::CallListed, 1, 0, 2, 0), 2),
        (word(Op::TailCallListed, 1 << 5, 0, 2, 0), 2),
        (word(Op::GivenTake, 0, 0, 0, 2), 0),
        (word(Op::GivenItem, 0, 0, 2, 0), 2),
        (word(Op::GivenLength, 0, 0, 0, 3), 0),
        // Two items that are compared.
        (word(Op::SortAsk, 0, 0, 3, 0), 3),
        (word(Op::Truth, 2, 0, 0, 0), 2),
        (word(Op::Item, 2, 0, 0, 0), 2),
    ] {
        let problem = refused(&with(vec![bad, end()]));
        let wanted = format!("the instruction at 0 names {number} where nothing of that number is");
        assert_eq!(problem, wanted, "{bad:?}");
    }
}

#[test]
fn what_is_called_stands_beside_the_list_that_its_arguments_become() {
    let code = |callee: u16, window: u16| {
        verify(&with(vec![
            word(Op::CallListed, 0, 0, window, callee),
            end(),
        ]))
    };
    assert_eq!(code(0, 1), Ok(()));
    assert_eq!(code(3, 1), Ok(()));
    for (callee, window) in [(0, 0), (1, 0), (2, 1)] {
        assert!(code(callee, window).is_err(), "{callee} {window}");
    }
}

#[test]
fn a_row_of_keys_and_values_is_there_as_a_whole() {
    let row = |count: u8, values: u16, keys: u16| {
        let mut program = with(vec![
            word(Op::MapRow, count, 0, values, keys),
            Instruction(0),
            end(),
        ]);
        let more = ["b", "c"].map(|key| Constant::Text(key.into()));
        program.constants.extend(more);
        verify(&program)
    };
    assert_eq!(row(2, 2, 2), Ok(()));
    assert_eq!(row(0, 4, 4), Ok(()));
    for (count, values, keys) in [(2, 3, 2), (3, 1, 2), (2, 2, 1), (1, 2, 4), (255, 0, 2)] {
        assert!(row(count, values, keys).is_err(), "{count} {values} {keys}");
    }
}

#[test]
fn operations_are_there_and_have_as_many_operands_as_they_take() {
    let apply = |operation: u8, count: u16| {
        verify(&with(vec![word(Op::Apply, operation, 0, 0, count), end()]))
    };
    let number = |name: &str| {
        let at = Operation::ALL.iter().position(|one| one.name() == name);
        at.unwrap() as u8
    };
    assert_eq!(apply(number("text.upper"), 1), Ok(()));
    assert!(apply(number("text.upper"), 2).is_err());
    assert!(apply(number("text.slice"), 2).is_err());
    assert_eq!(apply(number("output"), 4), Ok(()));
    // What the engine does itself has instructions of its own.
    assert!(apply(number("list.map"), 2).is_err());
    assert!(apply(255, 1).is_err());
}

#[test]
fn jumps_lead_to_instructions_of_the_same_code() {
    let jump = |far: i32| long(Op::Jump, far);
    assert_eq!(verify(&with(vec![jump(0), end()])), Ok(()));
    for far in [1, 2, 1 << 30, -2, i32::MIN, i32::MAX] {
        assert_eq!(
            refused(&with(vec![jump(far), end()])),
            "the instruction at 0 jumps to where no instruction is",
            "{far}"
        );
    }
    // Into the middle of one that has two words.
    let get = word(Op::MapGet, 0, 0, 0, 0);
    assert_eq!(
        refused(&with(vec![jump(1), get, Instruction(0), end()])),
        "the instruction at 0 jumps to where no instruction is"
    );
    // Each way back is counted, and a test for a kind is not.
    let kind = long(Op::JumpKind, -1);
    assert_eq!(
        refused(&with(vec![kind, end()])),
        "the instruction at 0 goes back without being counted"
    );
}

#[test]
fn code_ends_where_nothing_goes_on() {
    assert_eq!(
        refused(&with(vec![])),
        "the code ends in the middle of an instruction"
    );
    assert_eq!(
        refused(&with(vec![word(Op::MapGet, 0, 0, 0, 0)])),
        "the code ends in the middle of an instruction"
    );
    assert_eq!(
        refused(&with(vec![word(Op::Move, 0, 0, 0, 0)])),
        "the instruction at 0 runs past the end of the code"
    );
    assert_eq!(
        refused(&with(vec![word(Op::Stop, 0, 0, 0, 0), end()])),
        "the instruction at 0 is the machine's own"
    );
    assert_eq!(
        refused(&with(vec![Instruction(0xff), end()])),
        "there is no instruction of the number at 0"
    );
}

#[test]
fn what_is_tried_is_followed_by_a_jump_onward() {
    let onward = word(Op::Jump, 0, 0, 0, 0);
    for op in [
        Op::TryLength,
        Op::TryItem,
        Op::TryPutItem,
        Op::TryAdd,
        Op::TryAddInteger,
        Op::TryItemInteger,
        Op::TryKey,
        Op::TryGiven,
        Op::TryJumpIf,
    ] {
        let tried = word(op, 0, 0, 0, 0);
        assert_eq!(verify(&with(vec![tried, onward, end()])), Ok(()), "{op:?}");
        for after in [end(), long(Op::Jump, -2)] {
            assert_eq!(
                refused(&with(vec![tried, after, end()])),
                "the instruction at 0 is not followed by a jump onward",
                "{op:?}"
            );
        }
    }
    let next = word(Op::EachNext, 0, 0, 0, 0);
    assert_eq!(
        refused(&with(vec![next, end()])),
        "the instruction at 0 is not followed by what belongs to it"
    );
}

#[test]
fn what_catches_failures_leads_onward() {
    let handler = |start, end, target, register| Handler {
        start,
        end,
        target,
        register,
        purpose: Purpose::Rescue,
    };
    let caught = |handler: Handler| {
        let mut program = with(vec![word(Op::Move, 0, 0, 0, 0), end(), end()]);
        program.handlers.push(handler);
        verify(&program)
    };
    assert_eq!(caught(handler(0, 1, 2, 3)), Ok(()));
    for bad in [
        handler(1, 0, 2, 0),
        handler(0, 2, 1, 0),
        handler(0, 1, 3, 0),
        handler(0, 1, 2, 4),
        handler(0, u32::MAX, u32::MAX, 0),
    ] {
        assert_eq!(
            caught(bad),
            Err("what catches failures leads nowhere".to_owned()),
            "{bad:?}"
        );
    }
}

#[test]
fn registers_and_places_are_within_bounds() {
    let mut program = with(vec![end()]);
    program.registers = MOST_REGISTERS as u16 + 1;
    assert_eq!(refused(&program), "its parameters do not fit its registers");
    let mut program = with(vec![end()]);
    program.last = Last::Rest;
    assert_eq!(refused(&program), "its parameters do not fit its registers");
    // Behind a list that may come as its items is their number.
    let mut inner = (*compiled().functions[0]).clone();
    (inner.last, inner.code) = (Last::Listed, vec![end()]);
    (inner.site_of, inner.handlers) = (vec![0], Vec::new());
    for (registers, fits) in [(1, false), (2, true)] {
        inner.registers = registers;
        let mut program = with(vec![end()]);
        program.functions = vec![Rc::new(inner.clone())];
        assert_eq!(verify(&program).is_ok(), fits, "{registers}");
    }
    let mut program = with(vec![end()]);
    program.site_of = vec![9];
    assert_eq!(
        refused(&program),
        "not every instruction comes from somewhere"
    );
    let mut program = with(vec![end()]);
    program.site_of.push(0);
    assert_eq!(
        refused(&program),
        "not every instruction comes from somewhere"
    );
    for span in [
        Span { start: 2, end: 1 },
        Span {
            start: 0,
            end: 1 << 20,
        },
    ] {
        let mut program = with(vec![end()]);
        program.sites[0].whole = Origin { span, param: None };
        assert_eq!(
            refused(&program),
            "an instruction comes from outside of the text"
        );
    }
}

#[test]
fn functions_inside_are_checked_and_named() {
    let mut program = compiled();
    let mut inner = (*program.functions[0]).clone();
    inner.name = Some("f".into());
    inner.code[0] = word(Op::Move, 0, 200, 0, 0);
    program.functions[0] = Rc::new(inner.clone());
    assert_eq!(
        refused(&program),
        "in the function f: the instruction at 0 names 200 where nothing of that number is"
    );
    inner.code[0] = word(Op::Move, 0, 0, 0, 0);
    for from in [From::Register(300), From::Captured(0)] {
        inner.captures = vec![Captured {
            name: "n".into(),
            from,
        }];
        program.functions[0] = Rc::new(inner.clone());
        assert_eq!(
            refused(&program),
            "in the function f: n is captured from nowhere"
        );
    }
    // A program captures nothing.
    let mut program = with(vec![end()]);
    program.captures = vec![Captured {
        name: "n".into(),
        from: From::Itself,
    }];
    assert_eq!(
        refused(&program),
        "the program itself captures something or takes arguments"
    );
}

#[test]
fn what_does_two_things_is_followed_by_the_second() {
    let add = |op| word(op, 0, 1, 1, 1);
    let turn = |op, x, a, b| word(op, x, a, b, 0xfffe);
    for (op, jump, other) in [
        (Op::AddThenLess, Op::JumpLess, Op::JumpLessOrEqual),
        (Op::AddThenLessOrEqual, Op::JumpLessOrEqual, Op::JumpLess),
        (Op::AddThenLessInteger, Op::JumpLessInteger, Op::JumpLess),
        (
            Op::AddThenLessOrEqualInteger,
            Op::JumpLessOrEqualInteger,
            Op::JumpLessInteger,
        ),
        (
            Op::AddThenLessConstant,
            Op::JumpLessConstant,
            Op::JumpLessInteger,
        ),
        (
            Op::AddThenLessOrEqualConstant,
            Op::JumpLessOrEqualConstant,
            Op::JumpGreaterConstant,
        ),
    ] {
        let right = with(vec![add(op), turn(jump, 1, 1, 0), end()]);
        assert_eq!(verify(&right), Ok(()), "{op:?}");
        for wrong in [
            turn(other, 1, 1, 0),
            // It jumps where the comparison does not hold, and compares something else.
            turn(jump, 0, 1, 0),
            turn(jump, 1, 2, 0),
            end(),
        ] {
            let found = refused(&with(vec![add(op), wrong, end()]));
            assert!(found.contains("followed by what belongs"), "{op:?} {found}");
        }
        assert!(verify(&with(vec![add(op)])).is_err());
    }
    // What a sum is compared with is no other name for it.
    let itself = with(vec![
        add(Op::AddThenLess),
        turn(Op::JumpLess, 1, 1, 1),
        end(),
    ]);
    assert!(refused(&itself).contains("followed by what belongs"));
}

#[test]
fn only_what_does_nothing_but_numbers_is_tried_before_done() {
    let done = |far: i32| long(Op::Done, far);
    let sum = word(Op::Add, 0, 0, 1, 2);
    assert_eq!(verify(&with(vec![sum, done(0), end()])), Ok(()));
    assert_eq!(
        refused(&with(vec![sum, done(-2), end()])),
        "the instruction at 1 does not lead on"
    );
    for op in [Op::Move, Op::Equal, Op::Join, Op::ListLength] {
        assert_eq!(
            refused(&with(vec![word(op, 0, 0, 1, 1), done(0), end()])),
            "the instruction at 0 is not one that can be tried",
            "{op:?}"
        );
    }
}

#[test]
fn a_function_calls_itself_with_what_it_takes() {
    let mut program = compiled();
    let mut inner = (*program.functions[0]).clone();
    inner.registers = 4;
    inner.site_of = vec![0; 2];
    let last = inner.last;
    for (op, a) in [(Op::CallItself, 1), (Op::TailCallItself, 0)] {
        inner.last = last;
        inner.code = vec![word(op, 1, a, 2, 0), end()];
        program.functions = vec![Rc::new(inner.clone())];
        assert_eq!(verify(&program), Ok(()));
        for count in [0, 2] {
            inner.code[0] = word(op, count, a, 2, 0);
            program.functions = vec![Rc::new(inner.clone())];
            assert!(refused(&program).contains("other arguments"), "{count}");
        }
        inner.code[0] = word(op, 1, a, 2, 0);
        inner.last = Last::Rest;
        program.functions = vec![Rc::new(inner.clone())];
        assert!(refused(&program).contains("other arguments"));
    }
    // The window of a call at the end lies within the registers, too.
    inner.last = last;
    inner.code = vec![word(Op::TailCallItself, 1, 0, 4, 0), end()];
    program.functions = vec![Rc::new(inner)];
    assert!(verify(&program).is_err());
}
