//! Types as they are shown and kept.

use std::fmt::Write as _;

use rustc_hash::FxHashSet;

use super::Con;
use super::store::{GENERIC, Slot, Store, TypeId, Variable};
use crate::definition::template::ValueKind;
use crate::definition::{Definition, TypeTerm, TypeTermKind as K};
use crate::diagnostic::article;

/// A type that has been found.
#[derive(Clone, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Type {
    /// Made of others.
    Con(Con, Vec<Type>),
    /// Whatever it is.
    Any,
    /// Whatever fits, by its number in the type; of numbers only if it is `numeric`.
    Variable {
        /// Its number: the same number is the same type.
        number: u32,
        /// Whether only `integer` and `number` fit.
        numeric: bool,
        /// Whether every use may have another.
        general: bool,
    },
}

/// A type of more parts than this is cut short: sharing can make one that is larger than
/// memory when it is written out.
const MOST_PARTS: usize = 4000;

/// What is deeper in a type is cut off: nobody reads it, and it would need a deep native stack.
const MOST_DEEP: usize = 300;

impl Store {
    /// A type as it is shown: what is only given, and is an integer, is `integer`.
    pub fn export(&mut self, id: TypeId) -> Type {
        let mut export = Export::of(self);
        export.look(id, true, 0);
        export.left = MOST_PARTS;
        export.one(id, 0)
    }

    /// A type to be used again: what is an integer goes on being accepted where a number is
    /// needed, wherever it stands.
    pub fn kept(&mut self, id: TypeId) -> Type {
        let mut export = Export::of(self);
        export.shows = false;
        export.one(id, 0)
    }
}

struct Export<'a> {
    store: &'a mut Store,
    met: Vec<TypeId>,
    /// Whether it is for people.
    shows: bool,
    /// The variables that are not only given: by parameters, or in what can be changed.
    taken: FxHashSet<TypeId>,
    left: usize,
}

impl<'a> Export<'a> {
    fn of(store: &'a mut Store) -> Export<'a> {
        Export {
            store,
            met: Vec::new(),
            shows: true,
            taken: FxHashSet::default(),
            left: MOST_PARTS,
        }
    }

    /// Finds the variables that are not only given; `given` says whether what is here is.
    fn look(&mut self, id: TypeId, given: bool, depth: usize) {
        self.left = self.left.saturating_sub(1);
        if self.left == 0 || depth > MOST_DEEP {
            return;
        }
        let (id, slot, _) = self.store.find(id);
        match slot {
            Slot::Con(con, args) => {
                let args = self.store.args(args).to_vec();
                let is_function = matches!(con, Con::Function { .. });
                let last = args.len().saturating_sub(1);
                for (index, arg) in args.into_iter().enumerate() {
                    self.look(arg, given && is_function && index == last, depth + 1);
                }
            }
            Slot::Variable(_) if !given => {
                self.taken.insert(id);
            }
            Slot::Variable(_) | Slot::Any | Slot::Link(_) | Slot::Copy(_) => {}
        }
    }

    /// Whether a variable is an integer: one has reached it, and nobody who uses the type says
    /// what it is.
    fn is_integer(&self, id: TypeId, variable: Variable) -> bool {
        let is_given = self.shows && !self.taken.contains(&id);
        variable.reached && (variable.level != GENERIC || is_given)
    }

    fn one(&mut self, id: TypeId, depth: usize) -> Type {
        self.left = self.left.saturating_sub(1);
        if self.left == 0 || depth > MOST_DEEP {
            return Type::Any;
        }
        let (id, slot, _) = self.store.find(id);
        match slot {
            Slot::Con(con, args) => {
                let args = self.store.args(args).to_vec();
                let inner = args.into_iter().map(|arg| self.one(arg, depth + 1));
                Type::Con(con, inner.collect())
            }
            Slot::Variable(variable) if self.is_integer(id, variable) => {
                Type::Con(Con::Integer, Vec::new())
            }
            Slot::Variable(variable) if variable.level != GENERIC && variable.numeric => {
                Type::Con(Con::Number, Vec::new())
            }
            Slot::Variable(variable) => {
                let known = self.met.iter().position(|met| *met == id);
                let number = known.unwrap_or_else(|| {
                    self.met.push(id);
                    self.met.len() - 1
                });
                Type::Variable {
                    number: number as u32,
                    numeric: variable.numeric || variable.reached,
                    general: variable.level == GENERIC,
                }
            }
            Slot::Any | Slot::Link(_) | Slot::Copy(_) => Type::Any,
        }
    }
}

impl Type {
    /// Whether it is what the notation writes; capitals stand for one another in turn.
    pub fn is(&self, definition: &Definition, term: &TypeTerm) -> bool {
        let mut capitals = Vec::new();
        let wanted = Type::of_term(definition, term, &mut capitals);
        wanted.is_some_and(|wanted| wanted.written(definition) == self.written(definition))
    }

    /// What the notation writes; nothing where it names what is no type.
    fn of_term<'t>(
        definition: &Definition,
        term: &'t TypeTerm,
        capitals: &mut Vec<&'t str>,
    ) -> Option<Type> {
        let mut one = |term| Type::of_term(definition, term, capitals);
        Some(match &term.kind {
            K::Simple(kind) => Type::Con(Con::of_kind(*kind)?, Vec::new()),
            K::Any => Type::Any,
            K::List(inner) => Type::Con(Con::List, vec![one(inner)?]),
            K::Map(inner) => Type::Con(Con::Map, vec![one(inner)?]),
            K::Function(params, result) => {
                let all = params.iter().chain([&**result]);
                let all = all.map(one).collect::<Option<_>>()?;
                Type::Con(Con::Function { rest: false }, all)
            }
            K::Named(name, parts) => {
                let own = definition.own_type(&name.text)?;
                let parts = parts.iter().map(one).collect::<Option<_>>()?;
                Type::Con(Con::Own(own as u16), parts)
            }
            K::Capital(capital) => {
                let known = capitals.iter().position(|met| met == capital);
                let number = known.unwrap_or_else(|| {
                    capitals.push(capital);
                    capitals.len() - 1
                });
                Type::Variable {
                    number: number as u32,
                    numeric: false,
                    general: true,
                }
            }
            K::TypeOf(_) => return None,
        })
    }

    /// As the notation writes it, without what its capitals may be.
    pub fn written(&self, definition: &Definition) -> String {
        let mut out = String::new();
        self.write(definition, &mut out);
        out
    }

    /// As the notation writes it: `function (number, A) to list of A`.
    pub fn shown(&self, definition: &Definition) -> String {
        let mut out = self.written(definition);
        let mut numeric = Vec::new();
        self.numeric_capitals(&mut numeric);
        for (index, capital) in numeric.iter().enumerate() {
            let lead = if index == 0 { ", for" } else { " and" };
            let _ = write!(out, "{lead} {capital} a number");
        }
        out
    }

    fn write(&self, definition: &Definition, out: &mut String) {
        match self {
            Type::Any => out.push_str("any"),
            Type::Variable { number, .. } => out.push_str(&capital(*number)),
            Type::Con(con, args) => match (con, &args[..]) {
                (Con::Function { rest }, [params @ .., result]) => {
                    out.push_str("function (");
                    for (index, param) in params.iter().enumerate() {
                        out.push_str(if index == 0 { "" } else { ", " });
                        param.write(definition, out);
                    }
                    out.push_str(if *rest { "...) to " } else { ") to " });
                    result.write(definition, out);
                }
                (_, []) => out.push_str(con.word(definition)),
                (_, [only]) => {
                    out.push_str(con.word(definition));
                    out.push_str(" of ");
                    only.write(definition, out);
                }
                (_, several) => {
                    out.push_str(con.word(definition));
                    out.push_str(" of (");
                    for (index, one) in several.iter().enumerate() {
                        out.push_str(if index == 0 { "" } else { ", " });
                        one.write(definition, out);
                    }
                    out.push(')');
                }
            },
        }
    }

    fn numeric_capitals(&self, found: &mut Vec<String>) {
        match self {
            Type::Variable {
                number,
                numeric: true,
                ..
            } => {
                let name = capital(*number);
                if !found.contains(&name) {
                    found.push(name);
                }
            }
            Type::Con(_, args) => args.iter().for_each(|arg| arg.numeric_capitals(found)),
            _ => {}
        }
    }

    /// As messages have it: `a list of number`, `an integer`, `nothing`.
    pub fn described(&self, definition: &Definition) -> String {
        match self {
            Type::Con(Con::Truth, _) => ValueKind::Truth.described().to_owned(),
            Type::Con(Con::Nothing, _) => "nothing".to_owned(),
            Type::Any => "anything".to_owned(),
            Type::Variable { .. } => "of a type not known".to_owned(),
            Type::Con(..) => article(&self.shown(definition)),
        }
    }

    /// The same without what is inside, where that is not known.
    pub fn outline(&self, definition: &Definition) -> String {
        match self {
            Type::Con(con, _) if self.is_open() => article(con.word(definition)),
            _ => self.described(definition),
        }
    }

    /// Whether something in it is not known.
    fn is_open(&self) -> bool {
        match self {
            Type::Variable { .. } => true,
            Type::Con(_, args) => args.iter().any(Type::is_open),
            Type::Any => false,
        }
    }
}

/// The capital for a number: A to Z, and after them A1 to Z1.
fn capital(number: u32) -> String {
    let letter = char::from(b'A' + (number % 26) as u8);
    match number / 26 {
        0 => letter.to_string(),
        round => format!("{letter}{round}"),
    }
}

impl Con {
    /// The word in the notation.
    pub fn word(self, definition: &Definition) -> &str {
        match self {
            Con::Integer => ValueKind::Integer.word(),
            Con::Number => ValueKind::Number.word(),
            Con::Text => ValueKind::Text.word(),
            Con::Truth => ValueKind::Truth.word(),
            Con::Nothing => ValueKind::Nothing.word(),
            Con::List => ValueKind::List.word(),
            Con::Map => ValueKind::Map.word(),
            Con::Function { .. } => ValueKind::Function.word(),
            Con::Own(index) => definition
                .types
                .get(index as usize)
                .map_or("", |own| &own.name.text),
        }
    }

    /// Whether it is a function that takes any number of its last parameter.
    pub(crate) fn has_rest(self) -> bool {
        self == Con::Function { rest: true }
    }

    /// That of a kind of value, if all values of the kind have one type.
    pub(super) fn of_kind(kind: ValueKind) -> Option<Con> {
        Some(match kind {
            ValueKind::Integer => Con::Integer,
            ValueKind::Number => Con::Number,
            ValueKind::Text => Con::Text,
            ValueKind::Truth => Con::Truth,
            ValueKind::Nothing => Con::Nothing,
            _ => return None,
        })
    }
}
