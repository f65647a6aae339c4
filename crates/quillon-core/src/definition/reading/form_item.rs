//! The item of a form: dispatches each of its clauses.

use super::cursor::Cursor;
use super::example::example;
use super::expectation::tree_term;
use super::form::{binds, offers, opens, uses, wins, written};
use super::item::Reader;
use super::laid_out::laid_out;
use super::lexer::Word;
use super::lines::Item;
use super::meaning::meaning;
use super::reduces::{order, rule};
use super::signs::declares;
use super::typed::{type_term, typed};
use crate::definition::model::{
    Binds, Declares, Definition, Form, LaidOut, Name, Offers, Opens, Part, Rule, Template,
    TreeTerm, TypeTerm, Typed, Uses, title_of,
};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::lazy::Lazy;
use crate::source::Span;

/// What reads a clause once its word has been read.
type Reading = fn(&mut Cursor<'_>) -> Option<Clause>;

/// The word of each clause, and what reads it; an example is read in a way of its own.
const READINGS: [(&str, Reading); 16] = [
    ("written", |cursor| Some(Clause::Written(written(cursor)?))),
    ("opens", |cursor| Some(Clause::Opens(opens(cursor)?))),
    ("binds", |cursor| Some(Clause::Binds(binds(cursor)?))),
    ("uses", |cursor| Some(Clause::Uses(uses(cursor)?))),
    ("offers", |cursor| Some(Clause::Offers(offers(cursor)?))),
    ("takes", |cursor| {
        let name = cursor.name("a name for what it is run on")?;
        Some(Clause::Takes(name))
    }),
    ("declares", |cursor| {
        Some(Clause::Declares(declares(cursor)?))
    }),
    ("wins", |cursor| Some(Clause::Wins(wins(cursor)?))),
    ("typed", |cursor| Some(Clause::Typed(typed(cursor)?))),
    ("denotes", |cursor| {
        Some(Clause::Denotes(type_term(cursor)?))
    }),
    ("becomes", becomes),
    ("laid out", |cursor| {
        Some(Clause::LaidOut(laid_out(cursor)?))
    }),
    ("checks", |cursor| Some(Clause::Checks(meaning(cursor)?))),
    ("means", |cursor| Some(Clause::Means(meaning(cursor)?))),
    ("is", |cursor| {
        cursor.expect_word("value")?;
        Some(Clause::IsValue)
    }),
    ("reduces", reduces),
];

/// The clauses of a form.
pub(super) const FORM_CLAUSES: [&str; READINGS.len() + 1] = {
    let mut words = ["example"; READINGS.len() + 1];
    let mut at = 0;
    while at < READINGS.len() {
        words[at] = READINGS[at].0;
        at += 1;
    }
    words
};

impl Reader<'_> {
    pub(in crate::definition) fn form(
        &mut self,
        item: &Item,
        rest: Span,
        definition: &mut Definition,
    ) {
        let head = self.read(rest, |cursor| {
            // A form cannot be called `in`: its name is what is missing then.
            if cursor.at_word("in") {
                cursor.missing_name("the form's name");
                return None;
            }
            let name = cursor.name("the form's name")?;
            let sort = if cursor.eat_word("in") {
                Some(cursor.name("the sort it is a way to write")?)
            } else {
                None
            };
            cursor.finish()?;
            Some((name, sort))
        });
        let Some((name, sort)) = head else {
            return;
        };
        let mut form = Form {
            name,
            sort,
            written: Lazy::default(),
            fields: Vec::new(),
            opens: None,
            binds: Vec::new(),
            uses: Vec::new(),
            offers: Vec::new(),
            takes: None,
            declares: None,
            wins: Vec::new(),
            becomes: None,
            sugar: None,
            laid_out: Vec::new(),
            typed: Vec::new(),
            denotes: None,
            checks: Lazy::default(),
            means: Lazy::default(),
            is_value: false,
            reduces_in: Vec::new(),
            rules: Vec::new(),
            examples: Lazy::default(),
            damaged: false,
        };
        for &span in &item.clauses {
            self.form_clause(span, &mut form);
        }
        definition.forms.push(form);
    }

    fn form_clause(&mut self, span: Span, form: &mut Form) {
        let text = self.source.slice(span);
        if let Some(rest) = text.strip_prefix("example")
            && !rest.starts_with(|c: char| c.is_alphanumeric())
        {
            let title = title_of(&form.name, form.examples.len());
            let found = example(self.source, span, title, &mut self.diagnostics);
            form.examples.extend(found);
            return;
        }
        let Some(clause) = self.read(span, |cursor| form_clause(cursor, &form.name)) else {
            // What it would have said is not known to be missing.
            form.damaged = true;
            return;
        };
        let word = clause.word();
        if add(form, clause) {
            let message = format!("form {} says {} twice", quote(&form.name.text), quote(word));
            let span = Span::new(span.start as usize, span.start as usize + word.len());
            self.diagnostics.push(
                Diagnostic::error(codes::DEFINITION_DUPLICATE, message)
                    .at(self.source, span)
                    .remedy(
                        "keep one; alternatives of one form stand in one clause with `|` between",
                    ),
            );
        }
    }
}

/// A clause of a form.
enum Clause {
    Written(Part),
    Opens(Opens),
    Binds(Vec<Binds>),
    Uses(Vec<Uses>),
    Offers(Vec<Offers>),
    Takes(Name),
    Declares(Declares),
    Wins(Vec<Name>),
    Becomes(Name),
    Sugar(TreeTerm, Span),
    LaidOut(Vec<LaidOut>),
    IsValue,
    ReducesIn(Vec<Name>),
    Rule(Rule),
    Checks(Template),
    Means(Template),
    Typed(Typed),
    Denotes(TypeTerm),
}

impl Clause {
    /// The word that it begins with.
    fn word(&self) -> &'static str {
        match self {
            Clause::Written(_) => "written",
            Clause::Opens(_) => "opens",
            Clause::Binds(_) => "binds",
            Clause::Uses(_) => "uses",
            Clause::Offers(_) => "offers",
            Clause::Takes(_) => "takes",
            Clause::Declares(_) => "declares",
            Clause::Wins(_) => "wins",
            Clause::Becomes(_) | Clause::Sugar(..) => "becomes",
            Clause::LaidOut(_) => "laid out",
            Clause::IsValue => "is",
            Clause::ReducesIn(_) | Clause::Rule(_) => "reduces",
            Clause::Checks(_) => "checks",
            Clause::Means(_) => "means",
            Clause::Typed(_) => "typed",
            Clause::Denotes(_) => "denotes",
        }
    }
}

fn form_clause(cursor: &mut Cursor<'_>, form: &Name) -> Option<Clause> {
    let word = cursor.clause(&FORM_CLAUSES, || format!("form {}", quote(&form.text)))?;
    let (_, read) = READINGS.iter().find(|(known, _)| *known == word)?;
    let clause = read(cursor)?;
    cursor.finish()?;
    Some(clause)
}

fn becomes(cursor: &mut Cursor<'_>) -> Option<Clause> {
    if !matches!(cursor.peek_second(), Word::Sign("(")) {
        let field = cursor.name("the field that takes the form's place")?;
        return Some(Clause::Becomes(field));
    }
    let start = cursor.span();
    let term = tree_term(cursor)?;
    Some(Clause::Sugar(term, start.to(cursor.last_span())))
}

fn reduces(cursor: &mut Cursor<'_>) -> Option<Clause> {
    if cursor.at_word("in") {
        return Some(Clause::ReducesIn(order(cursor)?));
    }
    Some(Clause::Rule(rule(cursor)?))
}

/// Adds a clause to a form; whether the form says it twice.
fn add(form: &mut Form, clause: Clause) -> bool {
    match clause {
        Clause::Written(part) => form.written.replace(part).is_some(),
        Clause::Opens(opens) => form.opens.replace(opens).is_some(),
        Clause::Binds(binds) => {
            form.binds.extend(binds);
            false
        }
        Clause::Uses(uses) => {
            form.uses.extend(uses);
            false
        }
        Clause::Offers(offers) => {
            form.offers.extend(offers);
            false
        }
        Clause::Takes(name) => form.takes.replace(name).is_some(),
        Clause::Declares(declares) => form.declares.replace(declares).is_some(),
        Clause::Wins(names) => {
            form.wins.extend(names);
            false
        }
        Clause::Becomes(name) => form.becomes.replace(name).is_some() || form.sugar.is_some(),
        Clause::Sugar(term, span) => {
            form.sugar.replace((term, span)).is_some() || form.becomes.is_some()
        }
        Clause::LaidOut(all) => !std::mem::replace(&mut form.laid_out, all).is_empty(),
        Clause::IsValue => std::mem::replace(&mut form.is_value, true),
        Clause::ReducesIn(fields) => !std::mem::replace(&mut form.reduces_in, fields).is_empty(),
        Clause::Rule(rule) => {
            form.rules.push(rule);
            false
        }
        Clause::Checks(checks) => form.checks.replace(checks).is_some(),
        Clause::Means(means) => form.means.replace(means).is_some(),
        Clause::Typed(typed) => {
            form.typed.push(typed);
            false
        }
        Clause::Denotes(term) => form.denotes.replace(term).is_some(),
    }
}
