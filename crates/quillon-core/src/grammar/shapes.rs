//! A language as data, for tools that are built on it: tokens, grammar, the shapes of trees, and what is done to names.

use serde::Serialize;

use super::Notation;
use super::ebnf::{Tightness, Writer};
use crate::definition::{
    Binds, Count, Definition, Field, Form, Holds, Layout, Name, Part, PrecedenceTable, Reach,
    Thing, TokenRule, Uses,
};

/// What of a definition says how programs are read and what their trees and names are.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct LanguageShape<'d> {
    name: &'d str,
    extensions: Vec<&'d str>,
    starts: Option<&'d str>,
    entries: Vec<&'d str>,
    layout: Option<&'static str>,
    ignores_case: bool,
    tokens: Vec<TokenShape<'d>>,
    sorts: Vec<SortShape<'d>>,
    forms: Vec<FormShape<'d>>,
    precedence: Vec<TableShape<'d>>,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct TokenShape<'d> {
    name: &'d str,
    /// In the notation of W3C's EBNF.
    pattern: String,
    ignored: bool,
    holds: Option<&'static str>,
    group: Option<&'d str>,
    enters: Option<&'d str>,
    leaves: bool,
}

#[derive(Debug, Serialize)]
struct SortShape<'d> {
    name: &'d str,
    forms: Vec<&'d str>,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct FormShape<'d> {
    name: &'d str,
    sort: &'d str,
    written: Option<PartShape<'d>>,
    fields: Vec<FieldShape<'d>>,
    /// The field that it becomes, where it is not in the tree itself.
    becomes: Option<&'d str>,
    /// Whether other forms stand for it in the tree.
    is_sugar: bool,
    /// The fields that a scope is opened around, all of the form where none is named.
    opens_scope: Option<Vec<&'d str>>,
    binds: Vec<BindShape<'d>>,
    uses: Vec<UseShape<'d>>,
}

#[derive(Debug, Serialize)]
struct FieldShape<'d> {
    name: &'d str,
    count: &'static str,
    of: Vec<ThingShape<'d>>,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
enum ThingShape<'d> {
    Named(&'d str),
    Text(&'d str),
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
enum PartShape<'d> {
    Sequence(Vec<PartShape<'d>>),
    Choice(Vec<PartShape<'d>>),
    Text(&'d str),
    Field {
        name: &'d str,
        of: Vec<ThingShape<'d>>,
    },
    Named(&'d str),
    Optional(Box<PartShape<'d>>),
    #[serde(rename_all = "camelCase")]
    Repeat {
        part: Box<PartShape<'d>>,
        at_least_one: bool,
        by: Option<Box<PartShape<'d>>>,
        trailing: bool,
    },
    /// No blank may stand before the next part.
    Tight(bool),
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
#[expect(
    clippy::struct_excessive_bools,
    reason = "each is a word of the clause"
)]
struct BindShape<'d> {
    name: NameShape<'d>,
    space: Option<&'d str>,
    throughout: bool,
    onward: bool,
    inside: Vec<&'d str>,
    fixed: bool,
    dynamic: bool,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct UseShape<'d> {
    name: NameShape<'d>,
    space: Option<&'d str>,
    to_change: bool,
    or_binds: bool,
    or_free: bool,
}

/// Where a name stands.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
enum NameShape<'d> {
    /// In a field of the form.
    Field(&'d str),
    /// In a field of the forms in a field: both, by a point.
    Part(String),
    /// Wherever the forms in a field offer names.
    OfferedBy(&'d str),
    /// Nowhere: it is bound without being written.
    Unwritten(&'d str),
}

#[derive(Debug, Serialize)]
struct TableShape<'d> {
    sort: &'d str,
    levels: Vec<LevelShape<'d>>,
}

#[derive(Debug, Serialize)]
struct LevelShape<'d> {
    grouping: &'static str,
    forms: Vec<&'d str>,
}

/// A language as data.
pub fn shapes(definition: &Definition) -> LanguageShape<'_> {
    LanguageShape {
        name: &definition.name.text,
        extensions: texts(&definition.extensions),
        starts: text(definition.starts.as_ref()),
        entries: texts(&definition.entries),
        layout: definition.layout.map(|layout| match layout {
            Layout::Lines => "lines",
            Layout::Indentation => "indentation",
        }),
        ignores_case: definition.ignores_case,
        tokens: definition.tokens.iter().map(token).collect(),
        sorts: definition.sorts().into_iter().map(sort).collect(),
        forms: definition.forms.iter().map(form).collect(),
        precedence: definition.precedence.iter().map(table).collect(),
    }
}

fn sort<'d>((name, forms): (&'d str, Vec<&'d Form>)) -> SortShape<'d> {
    let names = forms.into_iter().map(|form| form.name.text.as_str());
    SortShape {
        name,
        forms: names.collect(),
    }
}

fn texts(names: &[Name]) -> Vec<&str> {
    names.iter().map(|name| name.text.as_str()).collect()
}

fn text(name: Option<&Name>) -> Option<&str> {
    name.map(|name| name.text.as_str())
}

fn token(rule: &TokenRule) -> TokenShape<'_> {
    let writer = Writer {
        notation: Notation::W3c,
    };
    TokenShape {
        name: &rule.name.text,
        pattern: writer.pattern(&rule.pattern, Tightness::Choice),
        ignored: rule.ignored,
        holds: rule.holds.map(|holds| match holds {
            Holds::Integer => "integer",
            Holds::Number => "number",
            Holds::Text => "text",
        }),
        group: text(rule.group.as_ref()),
        enters: text(rule.turn.enters.as_ref()),
        leaves: rule.turn.leaves,
    }
}

fn form(form: &Form) -> FormShape<'_> {
    FormShape {
        name: &form.name.text,
        sort: form.sort_name(),
        written: form.written.as_ref().map(part),
        fields: form.fields.iter().map(field).collect(),
        becomes: text(form.becomes.as_ref()),
        is_sugar: form.sugar.is_some(),
        opens_scope: form.opens.as_ref().map(|opens| texts(&opens.around)),
        binds: form.binds.iter().map(bind).collect(),
        uses: form.uses.iter().map(use_of).collect(),
    }
}

fn field(field: &Field) -> FieldShape<'_> {
    FieldShape {
        name: &field.name.text,
        count: match field.count {
            Count::One => "one",
            Count::Optional => "optional",
            Count::Many => "many",
        },
        of: field.things.iter().map(thing).collect(),
    }
}

fn thing(thing: &Thing) -> ThingShape<'_> {
    match thing {
        Thing::Named(name) => ThingShape::Named(&name.text),
        Thing::Literal(name) => ThingShape::Text(&name.text),
    }
}

fn part(written: &Part) -> PartShape<'_> {
    match written {
        Part::Sequence(parts) => PartShape::Sequence(parts.iter().map(part).collect()),
        Part::Choice(parts) => PartShape::Choice(parts.iter().map(part).collect()),
        Part::Literal(name) | Part::Soft(name) => PartShape::Text(&name.text),
        Part::Field(name, things) => PartShape::Field {
            name: &name.text,
            of: things.iter().map(thing).collect(),
        },
        Part::Unnamed(name) => PartShape::Named(&name.text),
        Part::Optional(inner) => PartShape::Optional(Box::new(part(inner))),
        Part::Repeat(repeat) => PartShape::Repeat {
            part: Box::new(part(&repeat.part)),
            at_least_one: repeat.at_least_one,
            by: repeat.by.as_ref().map(|by| Box::new(part(by))),
            trailing: repeat.trailing,
        },
        Part::Tight(_) => PartShape::Tight(true),
    }
}

fn bind(binds: &Binds) -> BindShape<'_> {
    let field = binds.field.text.as_str();
    BindShape {
        name: match &binds.reach {
            Reach::Itself => NameShape::Field(field),
            Reach::Part(inner) => NameShape::Part(format!("{field}.{}", inner.text)),
            Reach::Offered => NameShape::OfferedBy(field),
            Reach::Unwritten => NameShape::Unwritten(field),
        },
        space: text(binds.space.as_ref()),
        throughout: binds.throughout,
        onward: binds.onward,
        inside: texts(&binds.inside),
        fixed: binds.fixed,
        dynamic: binds.dynamic,
    }
}

fn use_of(uses: &Uses) -> UseShape<'_> {
    UseShape {
        name: NameShape::Field(&uses.field.text),
        space: text(uses.space.as_ref()),
        to_change: uses.to_change,
        or_binds: uses.or_binds,
        or_free: uses.or_free,
    }
}

fn table(table: &PrecedenceTable) -> TableShape<'_> {
    let levels = table.levels.iter().map(|level| LevelShape {
        grouping: level.grouping.word(),
        forms: texts(&level.forms),
    });
    TableShape {
        sort: &table.sort.text,
        levels: levels.collect(),
    }
}
