//! Programs as files: the bytecode with the text it comes from and the definition of its
//! language, so that it runs wherever Quillon is.
//!
//! A file is the twelve bytes `quillon code`, the number of the form of the file and a sum of
//! what follows (FNV-1a; both little-endian, of four and eight bytes), and then a CBOR item (RFC
//! 8949).

use std::rc::Rc;
use std::sync::{Arc, OnceLock};

use serde::{Deserialize, Serialize};

use super::instruction::{Instruction, Op};
use super::unit::{
    Captured, Constant, From, Function, Handler, Last, Local, Origin, Param, Purpose, Site,
};
use super::verify::{verify, with_source};
use crate::definition::template::ValueKind;
use crate::operations::Operation;
use crate::source::{SourceText, Span};

/// How a file of a program begins.
const BEGINNING: &[u8] = b"quillon code";

/// The number of the form of a file: a fingerprint of all that decides how one is read, so that
/// another instruction, operation, kind of value or field makes it another by itself.
fn form() -> u32 {
    static FORM: OnceLock<u32> = OnceLock::new();
    *FORM.get_or_init(|| {
        let mut all = Vec::new();
        for op in Op::ALL {
            let about = op.description();
            all.extend(about.mnemonic.bytes().chain(about.effect.bytes()));
            all.extend(about.fields.map(|role| role as u8));
            all.push(about.extra as u8);
        }
        for operation in Operation::ALL {
            let arity = operation.arity();
            all.extend(operation.name().bytes());
            all.extend([
                arity.least as u8,
                arity.most.map_or(u8::MAX, |most| most as u8),
            ]);
        }
        all.extend(ValueKind::ALL.iter().flat_map(|kind| kind.word().bytes()));
        // The fields of everything that stands in a file, as they are written.
        let written = ciborium::into_writer(&sample(), &mut all);
        debug_assert!(written.is_ok(), "a sample can be written");
        let sum = sum(&all);
        (sum ^ (sum >> 32)) as u32
    })
}

/// A function with one of everything that a file can have in it.
fn sample() -> Function {
    let origin = Origin {
        span: Span { start: 1, end: 2 },
        param: Some(3),
    };
    let handler = |purpose| Handler {
        start: 1,
        end: 2,
        target: 3,
        register: 4,
        purpose,
    };
    let captured = |from| Captured {
        name: "c".into(),
        from,
    };
    Function {
        name: Some("f".into()),
        params: vec![Param {
            name: "p".into(),
            is_hidden: true,
        }],
        last: Last::Rest,
        captures: [From::Register(1), From::Captured(2), From::Itself]
            .map(captured)
            .to_vec(),
        registers: 1,
        code: vec![Instruction(1)],
        constants: vec![
            Constant::Integer(1),
            Constant::Number(1.5),
            Constant::Text("t".into()),
        ],
        functions: Vec::new(),
        handlers: [Purpose::Rescue, Purpose::Cleanup, Purpose::Restore]
            .map(handler)
            .to_vec(),
        site_of: vec![1],
        sites: vec![Site {
            whole: origin,
            operands: vec![origin],
            meaning: Span::default(),
        }],
        locals: vec![Local {
            name: "l".into(),
            register: 1,
            start: 2,
            end: 3,
        }],
        begun: Vec::new(),
        source: SourceText::new("", ""),
        is_program: true,
        built_in: true,
        core: None,
    }
}

/// A program that was kept.
#[derive(Debug)]
pub struct Program {
    /// Its bytecode, found to be good.
    pub code: Rc<Function>,
    /// The definition of its language.
    pub definition: Arc<SourceText>,
}

/// Why a file cannot be used.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Unusable {
    /// What is wrong with it.
    pub message: String,
    /// What can be done.
    pub help: &'static str,
}

impl Unusable {
    fn new(message: impl Into<String>) -> Unusable {
        Unusable {
            message: message.into(),
            help: "save the program again with `quillon run --save`",
        }
    }
}

#[derive(Serialize, Deserialize)]
struct Kept<'a> {
    definition: Text<'a>,
    program: Text<'a>,
    code: Rc<Function>,
}

#[derive(Serialize, Deserialize)]
struct Text<'a> {
    name: std::borrow::Cow<'a, str>,
    text: std::borrow::Cow<'a, str>,
}

impl<'a> Text<'a> {
    fn of(source: &'a SourceText) -> Text<'a> {
        Text {
            name: source.name().into(),
            text: source.text().into(),
        }
    }

    fn source(&self) -> Arc<SourceText> {
        SourceText::new(self.name.clone(), self.text.clone())
    }
}

/// Functions inside functions deeper than this are not kept: they could not be read again.
const DEEPEST: usize = 100;

/// Whether functions are one inside the other deeper than can be kept.
fn is_too_deep(program: &Function) -> bool {
    let mut waiting = vec![(program, 0)];
    while let Some((function, depth)) = waiting.pop() {
        if depth > DEEPEST {
            return true;
        }
        let inner = function.functions.iter();
        waiting.extend(inner.map(|inner| (&**inner, depth + 1)));
    }
    false
}

/// The bytes of a file for a program.
///
/// # Errors
/// The program is such that it could not be read again.
pub fn save(program: &Program) -> Result<Vec<u8>, Unusable> {
    let cannot_be = |why: &str, help| Unusable {
        message: format!("this program cannot be kept: {why}"),
        help,
    };
    if is_too_deep(&program.code) {
        let why = "its functions are one inside the other too deeply";
        return Err(cannot_be(why, "take some of them out of the others"));
    }
    let from_text = "run it from its text";
    verify(&program.code).map_err(|problem| cannot_be(&problem, from_text))?;
    let mut content = Vec::new();
    let kept = Kept {
        definition: Text::of(&program.definition),
        program: Text::of(&program.code.source),
        code: Rc::clone(&program.code),
    };
    ciborium::into_writer(&kept, &mut content)
        .map_err(|error| cannot_be(&error.to_string(), from_text))?;
    let mut bytes = BEGINNING.to_vec();
    bytes.extend(form().to_le_bytes());
    bytes.extend(sum(&content).to_le_bytes());
    bytes.extend(content);
    Ok(bytes)
}

/// Whether these are the bytes of a file of a program, good or not.
pub fn is_program(bytes: &[u8]) -> bool {
    bytes.starts_with(BEGINNING)
}

/// The program in the bytes of a file; everything in it has been checked.
///
/// # Errors
/// The bytes are not those of a program that can be run.
pub fn load(bytes: &[u8]) -> Result<Program, Unusable> {
    let Some(rest) = bytes.strip_prefix(BEGINNING) else {
        return Err(Unusable::new("this is no program that was kept"));
    };
    let Some((kept_form, rest)) = rest.split_first_chunk::<4>() else {
        return Err(cut_off());
    };
    if u32::from_le_bytes(*kept_form) != form() {
        return Err(Unusable::new(
            "this program was kept by another version of Quillon, whose form this one does not read",
        ));
    }
    let Some((kept_sum, content)) = rest.split_first_chunk::<8>() else {
        return Err(cut_off());
    };
    if u64::from_le_bytes(*kept_sum) != sum(content) {
        return Err(Unusable::new(
            "this program has been damaged: its bytes are not what they were",
        ));
    }
    checked(content)
}

fn cut_off() -> Unusable {
    Unusable::new("this program has been damaged: it is cut off")
}

/// The program in the content of a file.
fn checked(content: &[u8]) -> Result<Program, Unusable> {
    let kept: Kept<'static> = ciborium::from_reader(content)
        .map_err(|_| Unusable::new("this program has been damaged: it cannot be read"))?;
    let source = kept.program.source();
    let mut code = kept.code;
    if let Some(code) = Rc::get_mut(&mut code) {
        with_source(code, &source);
    }
    verify(&code)
        .map_err(|problem| Unusable::new(format!("this program has been damaged: {problem}")))?;
    Ok(Program {
        code,
        definition: kept.definition.source(),
    })
}

/// A sum that shows damage, and protects from nothing else: FNV-1a (Fowler, Noll and Vo).
fn sum(bytes: &[u8]) -> u64 {
    let start = 0xcbf2_9ce4_8422_2325;
    bytes.iter().fold(start, |sum: u64, byte| {
        (sum ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::runtime::{Limits, Recorder};
    use crate::scoping::Around;
    use crate::{Language, Reading};

    const DEFINITION: &str = quillon_languages::LANGUAGES[0].definition;
    const PROGRAM: &str = r#"
        way fill(chambers) {
          let all be []
          each c in chambers { when c > 2 { skip } do add(all, c * 1.5) }
          attempt { say all#9 } mend trouble { say trouble.code }
          answer all
        }
        let card be [name: "Heron", length: 12]
        change card.length to card.length + 1
        let n be 0
        while n < 5 { change n to n + 1 when n = 3 { stop } }
        say fill([1, 2, 3]), card, (way (x) gives x + n)(1) % 3
    "#;

    fn language() -> Language {
        let source = SourceText::new("towpath.quillon", DEFINITION);
        Language::load(&source).value.expect("the demo is right")
    }

    fn kept(language: &Language) -> Vec<u8> {
        let source = SourceText::new("a.tow", PROGRAM);
        let code = language.code(&source, Around::Nothing, Reading::Program);
        let program = Program {
            code: code.value.expect("the program is right"),
            definition: Arc::clone(&language.definition().source),
        };
        save(&program).expect("it can be kept")
    }

    fn run(language: &Language, code: &Rc<Function>) -> String {
        let limits = Limits {
            steps: Some(20_000),
            memory: Some(256 << 20),
            ..Limits::default()
        };
        let session = language.session().limits(limits);
        let mut session = session.start(Recorder::default()).expect("a session");
        let outcome = session.run_code(code);
        let errors = outcome.diagnostics.iter().map(|d| d.message.clone());
        session.into_host().printed + &errors.collect::<String>()
    }

    #[test]
    fn a_program_that_was_kept_does_the_same() {
        let language = language();
        let program = load(&kept(&language)).expect("it is good");
        assert_eq!(program.definition.text(), DEFINITION);
        assert_eq!(
            run(&language, &program.code),
            "run.index\n[1.5, 3.0] {\"name\": \"Heron\", \"length\": 13} 1\n"
        );
    }

    /// Random bytes from a number.
    fn course(seed: u64) -> fastrand::Rng {
        fastrand::Rng::with_seed(seed)
    }

    #[test]
    fn damaged_files_are_refused() {
        let language = language();
        let good = kept(&language);
        let mut random = course(1);
        for turn in 0..5000 {
            let mut bytes = good.clone();
            match turn % 3 {
                0 => bytes.truncate(random.usize(..good.len())),
                1 => {
                    let at = random.usize(..good.len());
                    bytes[at] ^= 1 << random.u8(..8);
                }
                _ => {
                    bytes = (0..random.usize(..400)).map(|_| random.u8(..)).collect();
                    if turn % 2 == 0 {
                        bytes.splice(0..0, BEGINNING.iter().copied());
                    }
                }
            }
            assert!(load(&bytes).is_err(), "turn {turn}");
        }
    }

    /// Damage that the sum does not show: what gets by the verifier must still run without
    /// harm, to an end.
    #[test]
    fn code_that_was_changed_is_refused_or_runs_without_harm() {
        let language = language();
        let bytes = kept(&language);
        let content = &bytes[BEGINNING.len() + 12..];
        let mut random = course(2);
        let mut ran = 0;
        for _ in 0..5000 {
            let mut changed = content.to_vec();
            // Where the code is, behind the two texts.
            let from = content.len() - (DEFINITION.len() + PROGRAM.len()).min(content.len());
            for _ in 0..random.usize(1..4) {
                let at = content.len() - 1 - random.usize(..from);
                changed[at] = random.u8(..);
            }
            if let Ok(program) = checked(&changed) {
                run(&language, &program.code);
                ran += 1;
            }
        }
        assert!(ran > 100, "nearly nothing got by the verifier");
    }

    #[test]
    fn instructions_that_were_changed_are_refused_or_run_without_harm() {
        let language = language();
        let program = load(&kept(&language)).expect("it is good");
        let mut random = course(3);
        let mut ran = 0;
        for _ in 0..10_000 {
            let mut bytes = Vec::new();
            ciborium::into_writer(&program.code, &mut bytes).expect("it can be written");
            let mut code: Function = ciborium::from_reader(&bytes[..]).expect("and read");
            with_source(&mut code, &program.code.source);
            let target = match code.functions.len() {
                0 => &mut code,
                count if random.bool() => {
                    let inner = random.usize(..count);
                    Rc::get_mut(&mut code.functions[inner]).expect("nobody else has it")
                }
                _ => &mut code,
            };
            let at = random.usize(..target.code.len());
            let field = random.u8(..5);
            let word = target.code[at].0;
            let changed = match field {
                0 => word & !0xff | u64::from(random.u8(..Op::ALL.len() as u8)),
                1 => word ^ (u64::from(random.u8(..4)) << 8),
                n => word ^ (u64::from(random.u8(..8)) << (16 * (n - 1))),
            };
            target.code[at] = Instruction(changed);
            if verify(&code).is_ok() {
                run(&language, &Rc::new(code));
                ran += 1;
            }
        }
        assert!(ran > 1000, "nearly nothing got by the verifier");
    }
}
