//! What the tests share: small languages, and what their stages make of a text.

#![allow(dead_code, reason = "each test program uses a part of it")]

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::source::SourceText;
use quillon_core::tree::one_line;
use quillon_core::{Engine, Language};

/// Tokens that most of the small languages share.
pub const TOKENS: &str = "
tokens
  Blank    [ \\t\\r\\n]+                       ignored
  Remark   \"~\" [^\\n]*                       ignored
  Whole    digit+                            holds integer
  Decimal  digit+ \".\" digit+                 holds number
  Text     '\"' ([^\"\\\\\\n] | \"\\\\\" any)* '\"'   holds text
  Name     (letter | \"_\") (letter | digit | \"_\")*
";

/// Forms that most of the small languages share. A definition of a test has those that a line
/// `usual Let, Number` of it names.
const USUAL: &str = r#"
form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
form Add in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
form List in Expr
  written  "[" items:Expr* by "," "]"
  means    items
form Words in Expr
  written  value:Text
  means    value
form Number in Expr
  written  value:Whole
  means    value
form Variable in Expr
  written  name:Name
  uses     name
  means    name
form Get in Expr
  written  name:Name
  uses     name
  means    name
"#;

/// A definition with its usual forms in the place of the line that names them.
pub fn with_usual(definition: &str) -> String {
    let usual = |line: &str| {
        let names = line.strip_prefix("usual ")?.split(", ");
        let forms = names.map(|name| {
            let from = USUAL.find(&format!("form {name}"));
            let form = &USUAL[from.unwrap_or_else(|| panic!("{name} is not usual"))..];
            let end = form.find("\nform ").unwrap_or(form.len());
            form[..end].trim_end()
        });
        Some(forms.collect::<Vec<_>>().join("\n"))
    };
    let lines = definition.split('\n');
    let lines = lines.map(|line| usual(line).unwrap_or_else(|| line.to_owned()));
    lines.collect::<Vec<_>>().join("\n")
}

/// The text of a definition of a test.
pub fn own(definition: &str) -> std::sync::Arc<SourceText> {
    SourceText::new("own.quillon", with_usual(definition))
}

/// A compiled language; its errors end the test.
#[track_caller]
pub fn language(definition: &str) -> Language {
    let outcome = Language::load(&own(definition));
    match outcome.value {
        Some(language) => language,
        None => panic!(
            "{:#?}",
            outcome.diagnostics.iter().map(said).collect::<Vec<_>>()
        ),
    }
}

/// A language of these items, with the shared tokens.
#[track_caller]
pub fn with_tokens(items: &str) -> Language {
    language(&format!("language Own\n{TOKENS}\n{items}"))
}

/// A language in which programs can use most of what the engines have.
pub fn quay() -> Language {
    language(include_str!("../../../../../fuzz/language/quay.quillon"))
}

/// The messages about a definition, with their places.
pub fn mistakes(definition: &str) -> Vec<String> {
    Language::load(&own(definition))
        .diagnostics
        .iter()
        .map(said)
        .collect()
}

/// A diagnostic as `LINE:COLUMN MESSAGE`.
pub fn said(diagnostic: &Diagnostic) -> String {
    match &diagnostic.place {
        Some(place) => format!(
            "{} {}",
            place.source.position(place.span.start),
            diagnostic.message
        ),
        None => diagnostic.message.clone(),
    }
}

/// The tree of a text on one line, or the first error.
pub fn tree(language: &Language, text: &str) -> String {
    let outcome = language.tree(&SourceText::new("text", text), quillon_core::Reading::Entry);
    match outcome.value {
        Some(tree) => one_line(language.definition(), language.lexer(), &tree),
        None => said(&outcome.diagnostics[0]),
    }
}

/// The value of a program, or the first error; what it prints comes first.
pub fn value(language: &Language, text: &str) -> String {
    let limits = Limits {
        steps: Some(5_000_000),
        ..Limits::default()
    };
    value_within(language, text, limits)
}

/// The same within some limits.
pub fn value_within(language: &Language, text: &str, limits: Limits) -> String {
    value_with(language, text, limits, &mut Recorder::default())
}

/// The same with something around it; what was printed before comes first.
pub fn value_with(language: &Language, text: &str, limits: Limits, host: &mut Recorder) -> String {
    both(language, text, limits, host).told
}

/// Whether a program comes to its end, on both engines alike.
pub fn comes_to_its_end(language: &Language, text: &str, limits: Limits) -> bool {
    let end = both(language, text, limits, &mut Recorder::default());
    end.errors.is_empty()
}

/// The errors that a program ends with, on both engines alike.
pub fn errors(language: &Language, text: &str) -> Vec<Diagnostic> {
    let limits = Limits {
        steps: Some(5_000_000),
        ..Limits::default()
    };
    both(language, text, limits, &mut Recorder::default()).errors
}

/// How a program ends.
struct End {
    /// What it prints, and its value or its error.
    told: String,
    /// What was wrong, if anything was.
    errors: Vec<Diagnostic>,
}

impl End {
    fn is_cut_short(&self) -> bool {
        let limits = [
            codes::RUN_STEPS,
            codes::RUN_DEPTH,
            codes::RUN_TIME,
            codes::RUN_OUTPUT,
            codes::RUN_MEMORY,
            codes::RUN_SIZE,
        ];
        self.errors.iter().any(|error| limits.contains(&error.code))
    }
}

/// How a program ends by the machine. The other engine comes to the same, and so does the machine
/// when memory is short; only limits are counted differently.
fn both(language: &Language, text: &str, limits: Limits, host: &mut Recorder) -> End {
    let (input, printed) = (host.input.clone(), host.printed.clone());
    let again = |engine, collect| {
        let mut host = Recorder {
            input: input.clone(),
            printed: printed.clone(),
            taken: 0,
        };
        ended(language, text, limits, &mut host, engine, collect)
    };
    let end = ended(language, text, limits, host, Engine::Machine, 0);
    let walked = again(Engine::Walk, 300);
    if !end.is_cut_short() && !walked.is_cut_short() {
        assert_eq!(end.told, walked.told, "machine and walker differ on {text}");
        let short = again(Engine::Machine, 300);
        assert_eq!(
            end.told, short.told,
            "memory is lost when it is short in {text}"
        );
    }
    end
}

/// How a program ends by an engine.
fn ended(
    language: &Language,
    text: &str,
    limits: Limits,
    host: &mut Recorder,
    engine: Engine,
    collect: u32,
) -> End {
    let session = language.session().engine(engine).limits(limits);
    let mut session = match session.start(&mut *host) {
        Ok(session) => session,
        Err(problems) => {
            return End {
                told: said(&problems[0]),
                errors: problems.into(),
            };
        }
    };
    session.seed(7);
    session.collect_always(collect);
    let outcome = session.run_source(&SourceText::new("text", text), quillon_core::Reading::Entry);
    let (end, errors) = match outcome.value {
        Some(value) => (value.written(), Vec::new()),
        None => (said(&outcome.diagnostics[0]), outcome.diagnostics),
    };
    End {
        told: format!("{}{end}", host.printed),
        errors,
    }
}

/// A language with a little of everything.
pub fn general() -> Language {
    with_tokens(GENERAL)
}

/// Its items, beside the tokens.
pub const GENERAL: &str = r#"
precedence of Expr, loosest first
  prefix  Fun, LetIn
  left    Same
  left    Add, Subtract
  left    Multiply, Divide
  left    Call, Item

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    landing give { all steps }

form Block
  written  "{" steps:Step* by ";" trailing "}"
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value

form Const in Step
  written  "const" name:Name "=" value:Expr
  binds    name onward fixed
  means    name := value

form Rec in Step
  written  "rec" name:Name "=" value:Expr
  binds    name in value, onward
  means    name := value

form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value

form Loop in Step
  written  "loop" body:Block
  means    landing leave { while true { landing next { body } } }

form Leave in Step
  written  "leave"
  means    jump leave

form Next in Step
  written  "next"
  means    jump next

form When in Step
  written  "when" test:Expr body:Block other:Block?
  means    if test { body } else { if given other { other } else { "no" } }

form Try in Step
  written  "try" body:Block "or" name:Name cure:Block
  binds    name in cure
  means    attempt { body } rescue e { name := e; cure }

form Tidy in Step
  written  "try" body:Block "lastly" after:Block
  means    attempt { body } always { after }

form Everywhere in Step
  written  "every" name:Name "of" list:Expr body:Block
  binds    name in body
  means    landing leave { each item in list { landing next { with name = item { body } } } }

form Source in Expr
  written  "source" body:Block
  means    coroutine.make(function () { landing give { body } })

form Raise in Step
  written  "raise" value:Expr
  means    raise value

form Give in Step
  written  "give" value:Expr
  means    jump give with value

form Print in Step
  written  "print" values:Expr+ by ","
  means    each v in values { output(shown(v), " ") }

form Plain in Step
  written  value:Expr
  means    value

form LetIn in Expr
  written  "with" name:Name "=" value:Expr "do" body:Expr
  binds    name in body
  means    name := value; body

form Fun in Expr
  written  "fn" "(" params:Name* by "," ")" body:Block
  binds    params in body
  means    function (params) { landing give { body } }

form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
  means    call callee with args

form Item in Expr
  written  of:Expr ~ "[" index:Expr "]"
  means    match of { map m => map.get(m, index)  else => list.at(of, index) }

form Same in Expr
  written  left:Expr "==" right:Expr
  means    left = right

form Add in Expr
  written  left:Expr "+" right:Expr
  means    if kind(left) = "text" { left & right } else { left + right }

form Subtract in Expr
  written  left:Expr "-" right:Expr
  means    left - right

form Multiply in Expr
  written  left:Expr "*" right:Expr
  means    left * right

form Divide in Expr
  written  left:Expr "/" right:Expr
  means    left / right

form List in Expr
  written  "[" items:Expr* by "," "]"
  means    items

form Number in Expr
  written  value:Whole | value:Decimal
  means    value

form Words in Expr
  written  value:Text
  means    value

form Truth in Expr
  written  yes:"yes" | no:"no"
  means    if given yes { true } else { false }

form Kind in Expr
  written  "kind" "(" value:Expr ")"
  means    match value { integer n => "integer " & shown(n)  list => "a list"  else other => kind(other) }

form Refuse in Expr
  written  "refuse" "(" first:Expr "," second:Expr ")"
  means    fault "refused: " & shown(second) at second

form Variable in Expr
  written  name:Name
  uses     name
  means    name

form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner

define twice(x) = x + x
define fourfold(x) = twice(twice(x))

provides
  four(x)              means fourfold(x)
  push(list, value)    means list.add(list, value)
  put(m, k, v)         means map.put(m, k, v)
  size(list)           means list.length(list)
  new()                means map.new()
  count(every...)      means list.length(every)
  pair(a, rest...)     means [a, rest]
  limit                means 10 * 10
  half(n)              means integer.quotient(n, 2)
  nothing_much()       means nothing
  hand(value)          means coroutine.suspend(value)
  resume(c, values...) means if list.length(values) = 0 { coroutine.resume(c) } else { coroutine.resume(c, list.at(values, 0)) }
  ended(c)             means coroutine.ended(c)
  map(list, f)         means list.map(list, f)
  filter(list, f)      means list.filter(list, f)
  fold(list, start, f) means list.fold(list, start, f)
  sorted(list, f)      means list.sort_by(list, f)
  less(a, b)           means a < b
  load(path)           means module.load(path)
  get(m, k)            means map.get(m, k)
"#;
