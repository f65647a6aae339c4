//! What the forms of a language are for, told by what they mean: so that someone who writes what
//! other languages write for the same thing can be told how it is written here.

use crate::definition::template::{BinaryOperator as Op, Template, TemplateKind as T};
use crate::definition::{Definition, Form, Literal, Part, Reach, Thing};

mod marks;
mod spellings;

pub(crate) use marks::{Marks, QUOTES, is_remark_opener, is_sign};
pub(crate) use spellings::{is_known_head, is_known_sign, spellings};

/// What a form is for, in a word of the trade.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Purpose {
    Equal,
    Unequal,
    Less,
    AtMost,
    More,
    AtLeast,
    And,
    Or,
    Not,
    Add,
    Subtract,
    Multiply,
    Divide,
    Quotient,
    Remainder,
    Power,
    Join,
    True,
    False,
    Nothing,
    If,
    Else,
    While,
    Until,
    Each,
    Leave,
    Again,
    Bind,
    Assign,
    Function,
    Arrow,
    Return,
    Print,
    Raise,
    Attempt,
}

/// How a language writes each of the things that it has.
#[derive(Clone, Debug, Default)]
pub(crate) struct Purposes(Vec<(Purpose, String)>);

impl Purposes {
    /// What the forms and the built-in functions of a definition are for.
    pub fn of(definition: &Definition) -> Purposes {
        let mut all = Vec::new();
        let jumps = Jumps::of(definition);
        for form in &definition.forms {
            if let (Some(purpose), Some(sign)) = (purpose(form, &jumps), sign(form)) {
                all.push((purpose, sign));
            }
            let inner = match purpose(form, &jumps) {
                Some(Purpose::If) => inner_word(form).map(|word| (Purpose::Else, word)),
                Some(Purpose::Function) => arrow(form).map(|word| (Purpose::Arrow, word)),
                _ => None,
            };
            all.extend(inner);
        }
        for provided in &definition.provides {
            if is_output(&provided.means) {
                all.push((Purpose::Print, provided.name.text.clone()));
            }
        }
        Purposes(all)
    }

    /// The forms of which it is plain what they are for, by name.
    pub fn of_forms(definition: &Definition) -> Vec<(String, Purpose)> {
        let jumps = Jumps::of(definition);
        let forms = definition.forms.iter();
        forms
            .filter_map(|form| Some((form.name.text.clone(), purpose(form, &jumps)?)))
            .collect()
    }

    /// What is written here for what other languages write so, with what it is for.
    pub fn meant_by<'p>(&'p self, foreign: &'p str) -> impl Iterator<Item = (Purpose, &'p str)> {
        let all = self.0.iter().map(|(purpose, own)| (*purpose, own.as_str()));
        all.filter(move |(purpose, own)| spellings(*purpose).contains(&foreign) && *own != foreign)
    }

    /// Whether this is written for something here.
    pub fn has(&self, own: &str) -> bool {
        self.0.iter().any(|(_, known)| known == own)
    }

    /// What is written here where other languages write this, each once.
    pub fn instead_of<'p>(&'p self, foreign: &'p str) -> Vec<&'p str> {
        let mut found = Vec::new();
        for (_, own) in self.meant_by(foreign) {
            if !found.contains(&own) {
                found.push(own);
            }
        }
        found
    }
}

/// The landings that end a loop, and those that end one turn of it.
#[derive(Default)]
struct Jumps {
    leave: Vec<String>,
    again: Vec<String>,
}

impl Jumps {
    fn of(definition: &Definition) -> Jumps {
        let mut jumps = Jumps::default();
        for form in &definition.forms {
            if let Some(means) = &*form.means {
                jumps.look_at(means, false);
            }
        }
        jumps
    }

    fn look_at(&mut self, template: &Template, in_loop: bool) {
        if let T::Landing(target, body) = &template.kind {
            if in_loop {
                self.again.push(target.name.text.clone());
            } else if has_loop(body) {
                self.leave.push(target.name.text.clone());
            }
        }
        let in_loop = match &template.kind {
            T::While(..) | T::Each(..) => true,
            // A function is called from anywhere.
            T::Function(..) => false,
            _ => in_loop,
        };
        template.each_part(&mut |part| self.look_at(part, in_loop));
    }
}

fn has_loop(template: &Template) -> bool {
    let mut found = matches!(template.kind, T::While(..) | T::Each(..));
    template.each_part(&mut |part| found |= has_loop(part));
    found
}

/// What a form is for, if its meaning says so plainly.
fn purpose(form: &Form, jumps: &Jumps) -> Option<Purpose> {
    let means = core_of(form.means.as_ref()?);
    let plainly = match &means.kind {
        T::Literal(Literal::Truth(true)) if form.fields.is_empty() => Some(Purpose::True),
        T::Literal(Literal::Truth(false)) if form.fields.is_empty() => Some(Purpose::False),
        T::Literal(Literal::Nothing) if form.fields.is_empty() => Some(Purpose::Nothing),
        T::Binary(op, a, b) if is_operand(a) && is_operand(b) => Some(of_operator(*op)),
        T::And(a, b) if is_operand(a) && is_operand(b) => Some(Purpose::And),
        T::Or(a, b) if is_operand(a) && is_operand(b) => Some(Purpose::Or),
        T::Not(a) if is_operand(a) => Some(Purpose::Not),
        T::Not(a) => match &a.kind {
            T::Binary(Op::Equal, ..) => Some(Purpose::Unequal),
            _ => None,
        },
        T::Apply(name, _) => match name.text.as_str() {
            "number.power" => Some(Purpose::Power),
            "integer.remainder" | "integer.modulo" => Some(Purpose::Remainder),
            "integer.quotient" | "integer.floor_quotient" => Some(Purpose::Quotient),
            "output" => Some(Purpose::Print),
            _ => None,
        },
        T::If(test, ..) if is_operand(test) => Some(Purpose::If),
        T::While(test, _) => match &test.kind {
            T::Not(inner) if is_operand(inner) => Some(Purpose::Until),
            _ if is_operand(test) => Some(Purpose::While),
            _ => None,
        },
        T::Each(_, list, _) if is_operand(list) => Some(Purpose::Each),
        T::Function(..) => Some(Purpose::Function),
        T::Set(_, value) if matches!(value.kind, T::Function(..)) => Some(Purpose::Function),
        T::Set(path, _) => {
            let mut changes = form.uses.iter().filter(|uses| uses.to_change);
            let is_changed = changes.any(|uses| uses.field.text == path.field.text);
            Some(if is_changed {
                Purpose::Assign
            } else {
                Purpose::Bind
            })
        }
        T::Jump(_, Some(_)) => Some(Purpose::Return),
        T::Jump(target, None) if jumps.again.contains(&target.name.text) => Some(Purpose::Again),
        T::Jump(target, None) if jumps.leave.contains(&target.name.text) => Some(Purpose::Leave),
        T::Raise(_) => Some(Purpose::Raise),
        T::Attempt(..) => Some(Purpose::Attempt),
        T::Block(parts) if parts.last().is_some_and(is_output) => Some(Purpose::Print),
        _ => None,
    };
    let binds = form
        .binds
        .iter()
        .any(|clause| clause.onward && !clause.throughout);
    plainly.or(binds.then_some(Purpose::Bind))
}

/// What is left of a meaning without what stands around it in most of them.
fn core_of(template: &Template) -> &Template {
    match &template.kind {
        T::Landing(_, body) => core_of(body),
        T::Block(parts) => match &parts[..] {
            [only] => core_of(only),
            [first, last] if matches!(last.kind, T::Literal(Literal::Nothing)) => core_of(first),
            _ => template,
        },
        _ => template,
    }
}

fn is_output(template: &Template) -> bool {
    matches!(&template.kind, T::Apply(name, _) if name.text == "output")
}

/// Whether a meaning is one operand, whatever is asked of it.
fn is_operand(template: &Template) -> bool {
    match &template.kind {
        T::Name(_) | T::Member(..) => true,
        T::Fits(inner, ..) => is_operand(inner),
        T::Apply(_, args) => args.len() == 1 && args.iter().all(is_operand),
        _ => false,
    }
}

fn of_operator(op: Op) -> Purpose {
    match op {
        Op::Add => Purpose::Add,
        Op::Subtract => Purpose::Subtract,
        Op::Multiply => Purpose::Multiply,
        Op::Divide => Purpose::Divide,
        Op::Join => Purpose::Join,
        Op::Equal => Purpose::Equal,
        Op::Unequal => Purpose::Unequal,
        Op::Less => Purpose::Less,
        Op::LessOrEqual => Purpose::AtMost,
        Op::Greater => Purpose::More,
        Op::GreaterOrEqual => Purpose::AtLeast,
    }
}

/// The words that a form is known by: those between its operands, or those in front.
fn sign(form: &Form) -> Option<String> {
    let parts = match form.written.as_ref()? {
        Part::Sequence(parts) => &parts[..],
        one => std::slice::from_ref(one),
    };
    let is_literal = |part: &&Part| matches!(part, Part::Literal(_) | Part::Soft(_));
    let words: Vec<&str> = parts
        .iter()
        .skip_while(|part| !is_literal(part))
        .take_while(is_literal)
        .filter_map(|part| match part {
            Part::Literal(text) | Part::Soft(text) => Some(text.text.as_str()),
            _ => None,
        })
        .collect();
    let is_head = parts.first().is_some_and(|part| is_literal(&part));
    match words[..] {
        [] => None,
        [bracket, word, ..] if is_head && is_sign(bracket) => Some(word.to_owned()),
        [first, ..] if is_head => Some(first.to_owned()),
        _ => Some(words.join(" ")),
    }
}

/// The last word inside a form that has one in front.
fn inner_word(form: &Form) -> Option<String> {
    let mut all = Vec::new();
    form.written.as_ref()?.literals(&mut all);
    let is_word = |text: &&&str| text.starts_with(char::is_alphabetic);
    let last = all.iter().skip(1).rfind(is_word)?;
    Some((*last).to_owned())
}

/// The sign between what a function takes and what it does.
fn arrow(form: &Form) -> Option<String> {
    let Part::Sequence(parts) = form.written.as_ref()? else {
        return None;
    };
    match &parts[..] {
        [.., Part::Literal(sign), Part::Field(..)] if is_sign(&sign.text) => {
            Some(sign.text.clone())
        }
        _ => None,
    }
}

/// How a form that makes a variable is written with a name, the rest left open; nothing if no form
/// makes one that can be changed.
pub(crate) fn binding_of(definition: &Definition, name: &str, space: &str) -> Option<String> {
    definition.forms.iter().find_map(|form| {
        let clause = form.binds.iter().find(|clause| {
            let own = clause
                .space
                .as_ref()
                .map_or("", |space| space.text.as_str());
            own == space && clause.onward && !clause.fixed && clause.reach != Reach::Unwritten
        })?;
        let mut out = Vec::new();
        outlined(form.written.as_ref()?, &clause.field.text, name, &mut out);
        // A name alone gives nothing a value.
        (out.len() > 1).then(|| out.join(" "))
    })
}

/// Writes a form with a name, what has to stand beside it left open.
fn outlined(part: &Part, field: &str, name: &str, out: &mut Vec<String>) {
    match part {
        Part::Sequence(parts) => {
            for part in parts {
                outlined(part, field, name, out);
            }
        }
        Part::Choice(parts) => {
            if let Some(first) = parts.first() {
                outlined(first, field, name, out);
            }
        }
        Part::Literal(text) | Part::Soft(text) => out.push(text.text.clone()),
        Part::Field(own, _) if own.text == field => out.push(name.to_owned()),
        Part::Field(..) | Part::Unnamed(_) => out.push("…".to_owned()),
        Part::Repeat(_) | Part::Optional(_) | Part::Tight(_) => {}
    }
}

/// What stands before the value where a variable is made, or changed: the texts of literals and
/// the name of a token for the variable's name, and which of them that is.
pub(crate) fn lead(definition: &Definition, changes: bool) -> Option<(Vec<String>, usize)> {
    definition.forms.iter().find_map(|form| {
        let mut uses = form.uses.iter().filter(|uses| uses.to_change);
        let mut binds = form.binds.iter().filter(|clause| clause.onward && !clause.throughout);
        let field = if changes {
            &uses.next()?.field.text
        } else {
            &binds.next()?.field.text
        };
        let means = form.means.as_ref().map(core_of);
        if !matches!(means.map(|means| &means.kind), Some(T::Set(path, _)) if path.field.text == *field) {
            return None;
        }
        let Part::Sequence(parts) = form.written.as_ref()? else {
            return None;
        };
        let mut before = Vec::new();
        let mut name = None;
        for part in parts {
            match part {
                Part::Literal(text) | Part::Soft(text) => before.push(text.text.clone()),
                Part::Field(own, things) if own.text == *field => {
                    let [Thing::Named(token)] = &things[..] else {
                        return None;
                    };
                    name = Some(before.len());
                    before.push(token.text.clone());
                }
                Part::Optional(_) | Part::Tight(_) => {}
                Part::Sequence(_)
                | Part::Choice(_)
                | Part::Field(..)
                | Part::Unnamed(_)
                | Part::Repeat(_) => break,
            }
        }
        Some((before, name?))
    })
}
