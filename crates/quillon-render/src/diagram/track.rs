//! A `written` clause as a railroad: what comes in a row, where it forks, where it goes
//! round.

use quillon_core::definition::{Definition, Form, Layout, Part, Thing};

/// What a box stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Stop {
    /// A text as it is.
    Literal,
    /// A token of some pattern, or of layout.
    Token,
    /// A sort or a form, which has a diagram of its own.
    Sort,
}

/// A stretch of railroad.
#[derive(Clone, Debug)]
pub(super) enum Track {
    /// A box; above it the field that it is for.
    Box {
        text: String,
        stop: Stop,
        field: Option<String>,
    },
    /// One after the other.
    Row(Vec<Track>),
    /// One of several; the first goes straight on.
    Fork(Vec<Track>),
    /// Once or more, by way of something else.
    Loop(Box<Track>, Box<Track>),
}

impl Track {
    /// Nothing: just rail.
    fn rail() -> Track {
        Track::Row(Vec::new())
    }

    /// The railroad of a form.
    pub fn of_form(definition: &Definition, form: &Form) -> Track {
        form.written
            .as_ref()
            .map_or_else(Track::rail, |part| Track::of(definition, part))
    }

    fn of(definition: &Definition, part: &Part) -> Track {
        match part {
            Part::Sequence(parts) => {
                let parts = parts.iter().filter(|part| !matches!(part, Part::Tight(_)));
                Track::Row(parts.map(|part| Track::of(definition, part)).collect())
            }
            Part::Choice(parts) => Track::Fork(
                parts
                    .iter()
                    .map(|part| Track::of(definition, part))
                    .collect(),
            ),
            Part::Literal(name) | Part::Soft(name) => Track::literal(&name.text, None),
            Part::Unnamed(name) => Track::named(definition, &name.text, None),
            Part::Tight(_) => Track::rail(),
            Part::Field(field, things) => {
                let field = Some(field.text.as_str());
                let mut stops: Vec<Track> = things
                    .iter()
                    .map(|thing| match thing {
                        Thing::Named(name) => Track::named(definition, &name.text, field),
                        Thing::Literal(name) => Track::literal(&name.text, field),
                    })
                    .collect();
                match stops.len() {
                    1 => stops.remove(0),
                    _ => Track::Fork(stops),
                }
            }
            Part::Optional(inner) => Track::Fork(vec![Track::rail(), Track::of(definition, inner)]),
            Part::Repeat(repeat) => {
                let by = repeat.by.as_ref();
                let by = by.map_or_else(Track::rail, |by| Track::of(definition, by));
                let inner = Track::of(definition, &repeat.part);
                let mut track = Track::Loop(Box::new(inner), Box::new(by.clone()));
                if repeat.trailing {
                    let end = Track::Fork(vec![Track::rail(), by]);
                    track = Track::Row(vec![track, end]);
                }
                if repeat.at_least_one {
                    track
                } else {
                    Track::Fork(vec![Track::rail(), track])
                }
            }
        }
    }

    fn literal(text: &str, field: Option<&str>) -> Track {
        Track::Box {
            text: text.to_owned(),
            stop: Stop::Literal,
            field: field.map(str::to_owned),
        }
    }

    fn named(definition: &Definition, name: &str, field: Option<&str>) -> Track {
        let is_token = definition.tokens.iter().any(|rule| rule.name.text == name)
            || Layout::Indentation.tokens().contains(&name);
        Track::Box {
            text: name.to_owned(),
            stop: if is_token { Stop::Token } else { Stop::Sort },
            field: field.map(str::to_owned),
        }
    }
}
