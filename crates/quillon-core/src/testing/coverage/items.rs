//! Everything of a language that a program may touch.

use rustc_hash::FxHashMap;

use super::{Item, ItemKind};
use crate::definition::{Count, Definition, Grouping, Part, Thing};
use crate::diagnostic::quote;
use crate::grammar::Notation;
use crate::language::Language;
use crate::lexing::KindId;
use crate::meaning::{BranchKind, branches};
use crate::source::Span;

/// How often a repeated field has an item.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(super) enum Times {
    None,
    One,
    Several,
}

/// The items by what they are found by.
#[derive(Debug, Default)]
pub(super) struct Index {
    pub forms: FxHashMap<usize, usize>,
    /// By form, choice, and way.
    pub ways: FxHashMap<(usize, u16, u16), usize>,
    /// By form, field, and number.
    pub times: FxHashMap<(usize, usize, Times), usize>,
    pub tokens: FxHashMap<KindId, usize>,
    pub branches: FxHashMap<Span, usize>,
    /// By the error's code, or by the whole wording of a jump that finds no landing.
    pub messages: FxHashMap<String, usize>,
    /// By surface and form.
    pub surfaces: FxHashMap<(usize, usize), usize>,
    /// By table, looser level, and tighter level.
    pub pairs: FxHashMap<(usize, usize, usize), usize>,
}

struct Lister<'a> {
    definition: &'a Definition,
    items: Vec<Item>,
    index: Index,
}

/// All items in the order of the definition, with ways to find them.
pub(super) fn all_items(language: &Language) -> (Vec<Item>, Index) {
    let mut lister = Lister {
        definition: language.definition(),
        items: Vec::new(),
        index: Index::default(),
    };
    lister.tokens(language);
    lister.forms();
    lister.surfaces();
    lister.pairs();
    lister.branches();
    lister.messages();
    (lister.items, lister.index)
}

impl Lister<'_> {
    fn add(&mut self, kind: ItemKind, name: String, span: Span) -> usize {
        self.items.push(Item {
            kind,
            name,
            span,
            touched: 0,
            suggestion: None,
        });
        self.items.len() - 1
    }

    fn tokens(&mut self, language: &Language) {
        for (id, kind) in (0u16..).zip(language.lexer().kinds()).skip(1) {
            if kind.is_layout() || kind.is_odd() {
                continue;
            }
            let mut rules = self.definition.tokens.iter();
            let rule = rules.find(|rule| rule.name.text == kind.name);
            let span = rule.map_or(self.definition.name.span, |rule| rule.name.span);
            let (name, span) = if kind.is_literal() {
                (quote(&kind.name), self.literal_span(&kind.name))
            } else {
                (kind.name.clone(), span)
            };
            let item = self.add(ItemKind::Token, name, span);
            self.index.tokens.insert(KindId(id), item);
        }
    }

    /// Where a literal stands first.
    fn literal_span(&self, text: &str) -> Span {
        let forms = self.definition.forms.iter();
        let mut written = forms.filter_map(|form| form.written.as_ref());
        let found = written.find_map(|part| span_of_literal(part, text));
        found.unwrap_or(self.definition.name.span)
    }

    fn forms(&mut self) {
        let definition = self.definition;
        for (number, form) in definition.forms.iter().enumerate() {
            let Some(written) = &*form.written else {
                continue;
            };
            let name = &form.name;
            let item = self.add(ItemKind::Form, name.text.clone(), name.span);
            self.index.forms.insert(number, item);
            let mut choices = Vec::new();
            written.choices(&mut choices);
            for (choice, part) in (0u16..).zip(choices) {
                for (way, words) in (0u16..).zip(ways(part)) {
                    let words = format!("{} {words}", name.text);
                    let item = self.add(ItemKind::Way, words, name.span);
                    self.index.ways.insert((number, choice, way), item);
                }
            }
            // What becomes another form has no place in the tree to be counted at.
            if form.becomes.is_some() || form.sugar.is_some() {
                continue;
            }
            for (at, field) in form.fields.iter().enumerate() {
                if field.count != Count::Many {
                    continue;
                }
                for (times, word) in [
                    (Times::None, "none"),
                    (Times::One, "one"),
                    (Times::Several, "several"),
                ] {
                    if times == Times::None && needs_one(written, &field.name.text) {
                        continue;
                    }
                    let words = format!("{} with {word} of {}", name.text, field.name.text);
                    let item = self.add(ItemKind::Way, words, field.name.span);
                    self.index.times.insert((number, at, times), item);
                }
            }
        }
    }

    fn surfaces(&mut self) {
        let definition = self.definition;
        for (number, surface) in definition.surfaces.iter().enumerate() {
            for (name, _) in &surface.lines {
                let words = format!("{} in {}", name.text, surface.name.text);
                let item = self.add(ItemKind::Surface, words, name.span);
                let forms = &definition.forms;
                let form = forms.iter().position(|form| form.name.text == name.text);
                if let Some(form) = form {
                    self.index.surfaces.insert((number, form), item);
                }
            }
        }
    }

    fn pairs(&mut self) {
        for (number, table) in self.definition.precedence.iter().enumerate() {
            for (loose, level) in table.levels.iter().enumerate() {
                let names = |level: &crate::definition::Level| {
                    let names: Vec<&str> = level.forms.iter().map(|f| f.text.as_str()).collect();
                    names.join(", ")
                };
                let own = matches!(level.grouping, Grouping::Left | Grouping::Right);
                for (more, tight) in table.levels[loose..].iter().enumerate() {
                    if more == 0 && !own {
                        continue;
                    }
                    let words = if more == 0 {
                        format!("{} twice in a row", names(level))
                    } else {
                        format!("{} around {}", names(level), names(tight))
                    };
                    let span = level.forms.first().map_or(table.sort.span, |f| f.span);
                    let item = self.add(ItemKind::Pair, words, span);
                    self.index.pairs.insert((number, loose, loose + more), item);
                }
            }
        }
    }

    fn branches(&mut self) {
        for branch in branches(self.definition) {
            let text = self.definition.source.slice(branch.span);
            let what = match branch.kind {
                BranchKind::Then => "when the condition holds",
                BranchKind::Else if text.is_empty() => "when the condition does not hold",
                BranchKind::Else => "otherwise",
                BranchKind::Arm => "the arm",
                BranchKind::Turn => "a turn",
                BranchKind::Rescue => "what is rescued",
                BranchKind::Fault => "the error",
            };
            let shown = match shortened(text) {
                text if text.is_empty() => String::new(),
                text => format!(": {}", quote(&text)),
            };
            let words = format!("{}, {what}{shown}", branch.of);
            let item = self.add(ItemKind::Branch, words, branch.span);
            self.index.branches.insert(branch.span, item);
        }
    }

    fn messages(&mut self) {
        for message in &self.definition.messages {
            if !message.is_code() && !message.unmatched {
                continue;
            }
            let (words, key) = if message.unmatched {
                let words = format!("a jump {} without a landing", message.subject.text);
                (words, message.text.clone())
            } else {
                (message.subject.text.clone(), message.subject.text.clone())
            };
            let item = self.add(ItemKind::Message, words, message.subject.span);
            self.index.messages.insert(key, item);
        }
    }
}

fn shortened(text: &str) -> String {
    const LONGEST: usize = 40;
    let line: String = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if line.chars().count() <= LONGEST {
        return line;
    }
    let cut: String = line.chars().take(LONGEST).collect();
    format!("{cut}…")
}

/// The ways of a choice, in words.
fn ways(part: &Part) -> Vec<String> {
    let text = |part: &Part| quote(&Notation::W3c.text_of(part));
    match part {
        Part::Choice(parts) => parts.iter().map(|p| format!("as {}", text(p))).collect(),
        Part::Optional(part) => {
            vec![
                format!("with {}", text(part)),
                format!("without {}", text(part)),
            ]
        }
        Part::Field(name, things) => things
            .iter()
            .map(|thing| match thing {
                Thing::Named(thing) => format!("with {} as {}", name.text, thing.text),
                Thing::Literal(thing) => format!("with {} as {}", name.text, quote(&thing.text)),
            })
            .collect(),
        _ => Vec::new(),
    }
}

/// Whether a repeated field always has an item.
fn needs_one(part: &Part, field: &str) -> bool {
    match part {
        Part::Sequence(parts) => parts.iter().any(|part| needs_one(part, field)),
        Part::Choice(parts) => parts.iter().all(|part| needs_one(part, field)),
        Part::Repeat(repeat) => repeat.at_least_one && needs_one(&repeat.part, field),
        Part::Field(name, _) => name.text == field,
        Part::Literal(_)
        | Part::Soft(_)
        | Part::Unnamed(_)
        | Part::Optional(_)
        | Part::Tight(_) => false,
    }
}

fn span_of_literal(part: &Part, text: &str) -> Option<Span> {
    match part {
        Part::Literal(name) | Part::Soft(name) => (name.text == text).then_some(name.span),
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().find_map(|part| span_of_literal(part, text))
        }
        Part::Optional(part) => span_of_literal(part, text),
        Part::Repeat(repeat) => span_of_literal(&repeat.part, text)
            .or_else(|| repeat.by.as_ref().and_then(|by| span_of_literal(by, text))),
        Part::Field(_, things) => things.iter().find_map(|thing| match thing {
            Thing::Literal(name) if name.text == text => Some(name.span),
            Thing::Named(_) | Thing::Literal(_) => None,
        }),
        Part::Unnamed(_) | Part::Tight(_) => None,
    }
}
