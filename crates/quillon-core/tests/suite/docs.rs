//! The tables in the documents are those of the code. After a deliberate change, run with
//! `UPDATE_DOCS=1`.

use std::path::Path;

use quillon_core::bytecode::{Instruction, Op, Role};
use quillon_core::diagnostic::codes;
use quillon_core::operations::Operation;

/// Compares what stands between a mark and `<!-- end -->` with what should.
fn compare(file: &str, mark: &str, wanted: &str) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("../../docs")
        .join(file);
    let text = std::fs::read_to_string(&path).unwrap();
    let open = format!("<!-- {mark} -->\n");
    let start = text.find(&open).expect("the mark") + open.len();
    let end = start + text[start..].find("<!-- end -->").expect("the end");
    if std::env::var_os("UPDATE_DOCS").is_some() {
        std::fs::write(&path, format!("{}{wanted}{}", &text[..start], &text[end..])).unwrap();
    } else {
        let there = text[start..end].lines();
        let differs = wanted.lines().map(Some).chain([None]);
        let differs = differs.zip(there.map(Some).chain([None]));
        let first = differs.into_iter().find(|(wanted, there)| wanted != there);
        assert!(
            first.is_none(),
            "docs/{file} is not what the code says, first here: {first:?}; run it with UPDATE_DOCS=1"
        );
    }
}

#[test]
fn the_notation_lists_every_operation() {
    let mut table = "| operation | gives | what | errors |\n|---|---|---|---|\n".to_owned();
    // What is no call stands among the meanings.
    let calls = Operation::ALL.iter().filter(|o| !o.name().contains(' '));
    for operation in calls {
        let arity = operation.arity();
        let more = if arity.most.is_none() { "…" } else { "" };
        let operands = operation.operands().iter();
        let operands: Vec<&str> = operands.map(|operand| operand.name).collect();
        let errors = operation.errors().iter();
        let errors: Vec<String> = errors.map(|code| format!("`{}`", code.0)).collect();
        table.push_str(&format!(
            "| `{}({}{more})` | {} | {} | {} |\n",
            operation.name(),
            operands.join(", "),
            operation.gives_described(),
            operation.what(),
            errors.join(", ")
        ));
    }
    compare("notation.md", "operations", &table);
}

#[test]
fn the_machine_lists_every_instruction() {
    let mut table = "| no. | instruction | x | a | b | c | does | errors |\n".to_owned();
    table.push_str("|---|---|---|---|---|---|---|---|\n");
    for (number, op) in Op::ALL.iter().enumerate() {
        let description = op.description();
        assert_eq!(Instruction::new(*op, 0, 0, 0, 0).op(), Some(*op));
        let errors = description.errors.iter();
        let errors: Vec<String> = errors.map(|error| format!("`{error}`")).collect();
        let fields = description.fields.map(in_words).join(" | ");
        let extra = match description.extra {
            0 => "",
            _ => "; a word follows",
        };
        table.push_str(&format!(
            "| {number} | `{}` | {fields} | {}{extra} | {} |\n",
            description.mnemonic,
            description.effect,
            errors
                .join(", ")
                .replace("`those of the operation`", "those of the operation"),
        ));
    }
    compare("machine.md", "instructions", &table);
}

/// What a field of an instruction stands for.
fn in_words(role: Role) -> &'static str {
    match role {
        Role::None => "",
        Role::Read => "register",
        Role::Write => "register =",
        Role::Both => "register, register =",
        Role::Constant => "constant",
        Role::LongConstant => "constant (with c)",
        Role::Name => "name",
        Role::Integer => "integer",
        Role::Long => "integer (with c)",
        Role::Jump => "jump",
        Role::LongJump => "jump (with c)",
        Role::Captured => "captured",
        Role::Function => "function (with c)",
        Role::Registers => "registers",
        Role::Count => "count",
        Role::Window => "window",
        Role::Place => "place",
        Role::Flag => "flag",
        Role::Base => "base",
        Role::Kind => "kind",
        Role::Operation => "operation",
        Role::Row => "registers, x of them",
        Role::Names => "names, x of them",
        Role::Listed => "arguments and items",
        Role::Given => "list or items",
    }
}

/// Every error that an instruction names is a code there is.
#[test]
fn instructions_name_errors_that_there_are() {
    for op in Op::ALL {
        for error in op.description().errors {
            let known = codes::ALL.iter().any(|(code, _)| code.0 == *error);
            assert!(
                known || *error == "those of the operation",
                "{op:?} {error}"
            );
        }
    }
}

#[test]
fn every_operation_can_be_found_by_its_name() {
    for operation in Operation::ALL {
        assert_eq!(Operation::named(operation.name()), Some(*operation));
        assert!(operation.arity().fits(operation.arity().least));
    }
    assert_eq!(Operation::named("list.lenght"), None);
}

#[test]
fn the_commands_list_every_code() {
    let mut table = "| code | stands for |\n|---|---|\n".to_owned();
    for (code, what) in codes::ALL {
        table.push_str(&format!("| `{}` | {what} |\n", code.0));
    }
    compare("commands.md", "codes", &table);
}

/// What the message about an unknown word lists, in quotes.
fn listed(definition: &str) -> Vec<String> {
    let problems = quillon_core::Language::from_text("own.quillon", definition).unwrap_err();
    let unknown = problems.iter().find(|one| one.message.contains("`xyzzy`"));
    let why = &unknown.expect("the word is not known").why[0];
    let words = why.split('`').skip(1).step_by(2);
    words.map(str::to_owned).collect()
}

fn items() -> Vec<String> {
    let items = listed("language Own\n\nxyzzy\n");
    assert!(items.len() > 9, "{items:?}");
    items
}

fn clauses() -> Vec<String> {
    let clauses = listed("language Own\n\nform A\n  xyzzy 1\n");
    assert!(clauses.len() > 12, "{clauses:?}");
    clauses
}

#[test]
fn each_item_and_each_clause_of_a_form_says_what_it_cannot_read() {
    let clauses = clauses().into_iter().map(|word| ("form A\n  ", word));
    let items = items().into_iter().map(|word| ("", word));
    for (above, word) in clauses.chain(items) {
        let before = format!("language Own\n\n{above}");
        let definition = format!("{before}{word} ] }}\n");
        let problems = quillon_core::Language::from_text("own.quillon", &definition).unwrap_err();
        let mut places = problems.iter().filter_map(|one| one.place.as_ref());
        assert!(
            places.any(|place| place.span.end as usize > before.len()),
            "`{word} ]` is taken without a word: {problems:?}"
        );
    }
}

#[test]
fn each_clause_of_a_form_is_used_in_a_test() {
    let suite = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/suite");
    let mut texts = String::new();
    for file in std::fs::read_dir(suite).unwrap() {
        let path = file.unwrap().path();
        if path.extension().is_some_and(|extension| extension == "rs") {
            texts.push_str(&std::fs::read_to_string(path).unwrap());
        }
    }
    for word in clauses() {
        // Where a definition stands in a test, a clause is at the beginning of a line or of a text.
        let begins = ["\\n", "\n", "\""].map(|before| format!("{before}  {word} "));
        let used = begins.iter().any(|begins| texts.contains(begins));
        assert!(used, "no test has a form with `{word}`");
    }
}

#[test]
fn each_item_and_each_clause_of_a_form_has_a_section() {
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/notation.md");
    let page = std::fs::read_to_string(page).unwrap();
    let headings: Vec<&str> = page.lines().filter(|line| line.starts_with('#')).collect();
    let has_section = |word: &str| {
        let begins = |quoted: &str| quoted.split(' ').next() == word.split(' ').next();
        headings
            .iter()
            .any(|heading| heading.split('`').skip(1).step_by(2).any(begins))
    };
    for word in items().iter().chain(&clauses()) {
        assert!(
            has_section(word),
            "`{word}` has no section in docs/notation.md"
        );
    }
}
