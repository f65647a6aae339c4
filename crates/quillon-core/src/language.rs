//! A compiled language: the stages from text to Core.

use std::sync::Arc;

use crate::ambiguity;
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Outcome, codes, has_errors, quote};
use crate::lexing::{KindId, Lexer, Token, Tokens};
use crate::meaning;
use crate::parsing::{self, Ambiguity, Parser};
use crate::printing::{self, Brackets, Comments};
use crate::scoping::{self, Around, Names};
use crate::source::{SourceText, Span};
use crate::tree::Tree;
use crate::typing::{self, Type, Types};

/// What a definition must have got to for some work to be possible.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Stage {
    /// Splitting a text into tokens.
    Tokens,
    /// Reading a text as a tree.
    Tree,
    /// Finding the types of a program.
    Types,
    /// Running a program.
    Meaning,
    /// Reducing a program.
    Reduction,
}

/// What a text is read as.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Reading<'a> {
    /// A whole program.
    Program,
    /// The first of the entries that fits: a program, or something smaller.
    Entry,
    /// This sort, which must be one of the entries.
    Sort(&'a str),
}

/// A language, compiled from its definition. Copies share all of it.
#[derive(Clone, Debug)]
pub struct Language {
    compiled: Arc<Compiled>,
    /// Whether the types of programs are left unchecked.
    types_off: bool,
}

#[derive(Debug)]
struct Compiled {
    definition: Arc<Definition>,
    lexer: Lexer,
    parser: Option<Parser>,
    /// The same in its other surfaces.
    surfaces: Vec<Language>,
}

impl Language {
    /// Reads, checks and compiles a definition. The value is there only when it has no
    /// errors; warnings and notes may come with it.
    pub fn load(source: &Arc<SourceText>) -> Outcome<Language> {
        let Outcome {
            value,
            mut diagnostics,
        } = Definition::read(source);
        let Some(definition) = value else {
            return Outcome {
                value: None,
                diagnostics,
            };
        };
        diagnostics.extend(meaning::check(&definition));
        diagnostics.sort_by_key(|d| d.place.as_ref().map_or(0, |place| place.span.start));
        if has_errors(&diagnostics) {
            return Outcome {
                value: None,
                diagnostics,
            };
        }
        let value = match Language::compile(definition) {
            Ok(language) => Some(language),
            Err(errors) => {
                diagnostics.extend(errors);
                None
            }
        };
        Outcome { value, diagnostics }
    }

    fn compile(definition: Definition) -> Result<Language, Vec<Diagnostic>> {
        let others: Vec<Definition> = definition
            .surfaces
            .iter()
            .map(|surface| definition.in_surface(surface))
            .collect();
        // All surfaces number their tokens alike, so that a tree read in one can be
        // written in another.
        let mut literals = parsing::literals(&definition);
        for other in &others {
            for (text, soft) in parsing::literals(other) {
                if !literals.iter().any(|(known, _)| *known == text) {
                    literals.push((text, soft));
                }
            }
        }
        let surfaces = others
            .into_iter()
            .map(|other| Language::compile_one(other, &literals, Vec::new()))
            .collect::<Result<_, _>>()?;
        Language::compile_one(definition, &literals, surfaces)
    }

    fn compile_one(
        definition: Definition,
        literals: &[(String, bool)],
        surfaces: Vec<Language>,
    ) -> Result<Language, Vec<Diagnostic>> {
        let own = parsing::literals(&definition);
        let lexer = Lexer::new(&definition, literals, &own).map_err(|error| vec![*error])?;
        let entries = entries(&definition);
        let parser = if entries.is_empty() {
            None
        } else {
            Some(Parser::new(&definition, &lexer, &entries)?)
        };
        Ok(Language {
            compiled: Arc::new(Compiled {
                definition: Arc::new(definition),
                lexer,
                parser,
                surfaces,
            }),
            types_off: false,
        })
    }

    /// Whether this is a copy of another: the same definition, compiled once.
    pub fn is(&self, other: &Language) -> bool {
        Arc::ptr_eq(&self.compiled, &other.compiled) && self.types_off == other.types_off
    }

    /// The same language, whose programs run without their types being checked.
    #[must_use]
    pub fn without_types(&self) -> Language {
        Language {
            types_off: true,
            ..self.clone()
        }
    }

    /// Whether the types of programs are found before they run.
    pub fn checks_types(&self) -> bool {
        !self.types_off && self.definition().is_typed()
    }

    /// The names of the ways to write the language, the first one's its own.
    pub fn surface_names(&self) -> impl Iterator<Item = &str> {
        let others = self.compiled.definition.surfaces.iter().map(|s| &s.name);
        std::iter::once(&self.compiled.definition.name)
            .chain(others)
            .map(|name| name.text.as_str())
    }

    /// The language in the surface of a name.
    pub fn surface(&self, name: &str) -> Option<Language> {
        let found = match self.surface_names().position(|known| known == name)? {
            0 => self,
            at => self.compiled.surfaces.get(at - 1)?,
        };
        Some(Language {
            compiled: Arc::clone(&found.compiled),
            types_off: self.types_off,
        })
    }

    /// The name of the surface that a file is written in, by its extension.
    pub fn surface_name_of_file(&self, file: &str) -> &str {
        let mut surfaces = self.compiled.definition.surfaces.iter();
        let reads = surfaces.find(|s| s.extensions.iter().any(|e| file.ends_with(&e.text)));
        &reads
            .map_or(&self.compiled.definition.name, |surface| &surface.name)
            .text
    }

    /// The definition, to be kept.
    pub(crate) fn shared_definition(&self) -> Arc<Definition> {
        Arc::clone(&self.compiled.definition)
    }

    /// The definition.
    pub fn definition(&self) -> &Definition {
        &self.compiled.definition
    }

    /// What is probably not meant in the definition: warnings and notes, found by looking
    /// longer than every command should.
    pub fn advice(&self) -> Vec<Diagnostic> {
        let mut found = crate::lexing::mistakes(&self.compiled.definition, &self.compiled.lexer);
        found.extend(typing::impossible(&self.compiled.definition));
        found.extend(meaning::repeats(&self.compiled.definition));
        found
    }

    /// The compiled tokens.
    pub fn lexer(&self) -> &Lexer {
        &self.compiled.lexer
    }

    /// The compiled grammar, when there are forms with a `written` clause.
    pub fn parser(&self) -> Option<&Parser> {
        self.compiled.parser.as_ref()
    }

    /// What the definition lacks for some work, as an error for the designer.
    pub fn lacks(&self, stage: Stage) -> Option<Diagnostic> {
        let name = &self.compiled.definition.name.text;
        let lack = |message: String, remedy: &str| {
            Some(
                Diagnostic::error(codes::DEFINITION_LACKS, message)
                    .at(
                        &self.compiled.definition.source,
                        self.compiled.definition.name.span,
                    )
                    .remedy(remedy),
            )
        };
        if self.compiled.lexer.kinds().len() <= 1 {
            return lack(
                format!("{name} has no tokens yet, so its programs cannot be tokenized"),
                "add an item `tokens` with a line for each kind of token",
            );
        }
        if stage != Stage::Tokens && self.compiled.parser.is_none() {
            return lack(
                format!(
                    "{name} can be tokenized, and has no forms yet: its programs cannot be read as trees"
                ),
                "add an item `form NAME` with a clause `written …`",
            );
        }
        if stage == Stage::Types && !self.definition().is_typed() {
            return lack(
                format!("{name} has no types yet: none of its forms has a `typed` clause"),
                "add a clause `typed …` to each form: `typed left, right : number gives number`",
            );
        }
        if stage == Stage::Reduction && !self.definition().is_reducing() {
            return lack(
                format!("{name} has no rules of reduction, so its programs cannot be rewritten"),
                "add `is value` to the forms that are finished, and `reduces … to …` to others",
            );
        }
        let no_meaning = self
            .definition()
            .forms
            .iter()
            .all(|form| form.means.is_none());
        if stage == Stage::Meaning && no_meaning {
            return lack(
                format!("{name} can be parsed, and has no meaning yet: its programs cannot be run"),
                "add a clause `means …` to each form",
            );
        }
        None
    }

    /// Splits a text into tokens.
    pub fn tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        match self.lacks(Stage::Tokens) {
            Some(lack) => failed(vec![lack]),
            None => self.worded(self.compiled.lexer.tokens(source)),
        }
    }

    /// Splits a text into tokens and keeps the ignored ones, too.
    pub fn all_tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        match self.lacks(Stage::Tokens) {
            Some(lack) => failed(vec![lack]),
            None => self.worded(self.compiled.lexer.all_tokens(source)),
        }
    }

    /// Reads a text as a tree.
    pub fn tree(&self, source: &Arc<SourceText>, reading: Reading<'_>) -> Outcome<Tree> {
        if let Some(lack) = self.lacks(Stage::Tree) {
            return failed(vec![lack]);
        }
        let tokens = self.compiled.lexer.tokens(source);
        match tokens.value {
            Some(found) if !has_errors(&tokens.diagnostics) => self.tree_of(&found, reading),
            _ => self.worded(failed(tokens.diagnostics)),
        }
    }

    /// An outcome with its errors in the words of the definition.
    pub(crate) fn worded<T>(&self, mut outcome: Outcome<T>) -> Outcome<T> {
        self.compiled.definition.reword(&mut outcome.diagnostics);
        outcome
    }

    /// Reads tokens as a tree.
    pub fn tree_of(&self, tokens: &Tokens, reading: Reading<'_>) -> Outcome<Tree> {
        let Some(parser) = &self.compiled.parser else {
            return failed(self.lacks(Stage::Tree).into_iter().collect());
        };
        let names: Vec<&str> = parser.entries().collect();
        let chosen = chosen(parser, reading);
        if let (Reading::Sort(entry), []) = (reading, &chosen[..]) {
            let listed: Vec<String> = names.iter().map(|n| quote(n)).collect();
            return failed(vec![
                Diagnostic::error(
                    codes::DEFINITION_NAME,
                    format!("{} may not stand alone", quote(entry)),
                )
                .at(&tokens.source, Span::default())
                .why(format!("what may stand alone is {}", listed.join(", ")))
                .remedy(format!("add {entry} to `entries`")),
            ]);
        }
        let mut furthest: Option<Outcome<Tree>> = None;
        for index in chosen {
            let parsed = parser.parse(&self.compiled.definition, tokens, index);
            let mut outcome = parsed.outcome;
            if let (Some(found), [diagnostic]) = (&parsed.ambiguity, &mut outcome.diagnostics[..]) {
                self.show_readings(diagnostic, found);
            }
            if outcome.value.is_some() {
                return outcome;
            }
            let reach = |o: &Outcome<Tree>| {
                let first = o.diagnostics.first().and_then(|d| d.place.as_ref());
                first.map_or(0, |place| place.span.start)
            };
            if furthest
                .as_ref()
                .is_none_or(|best| reach(&outcome) > reach(best))
            {
                furthest = Some(outcome);
            }
        }
        self.worded(furthest.unwrap_or_else(|| failed(Vec::new())))
    }

    /// Adds the two readings of an ambiguous text to its error, and what would settle it.
    fn show_readings(&self, diagnostic: &mut Diagnostic, found: &Ambiguity) {
        diagnostic.why.extend(ambiguity::readings(self, found));
        diagnostic
            .remedies
            .push("in the program: bracket the part that belongs together".to_owned());
        let settlement = ambiguity::settlement(&self.compiled.definition, found);
        diagnostic
            .remedies
            .push(format!("in the definition: {settlement}"));
    }

    /// The source of a tree, with the fewest brackets or with all, and with the comments
    /// given; nothing if there is a part that cannot be written. A tree that was read in
    /// another surface of the language is written in this one.
    pub fn source_of(
        &self,
        tree: &Tree,
        brackets: Brackets,
        comments: &Comments,
    ) -> Option<String> {
        let parser = self.compiled.parser.as_ref()?;
        printing::source_of(
            &self.compiled.definition,
            &self.compiled.lexer,
            parser,
            tree,
            brackets,
            comments,
        )
    }

    /// The comments of a text, to be written with the tree of it.
    pub fn comments(&self, source: &Arc<SourceText>) -> Comments {
        Comments::of(&self.compiled.lexer, source)
    }

    /// Writes a tree with comments, reads it again as the same entry and compares; what was
    /// written, if another tree came of it.
    pub fn round_trip(
        &self,
        tree: &Tree,
        comments: &Comments,
        reading: Reading<'_>,
    ) -> Result<(), String> {
        let Some(parser) = &self.compiled.parser else {
            return Ok(());
        };
        let (definition, lexer) = (&self.compiled.definition, &self.compiled.lexer);
        let mut result = Ok(());
        for entry in chosen(parser, reading) {
            result = printing::round_trip(definition, lexer, parser, tree, comments, entry);
            if result.is_ok() {
                break;
            }
        }
        result
    }

    /// Reads one entry off the front of a text, as long as can be: its tree, and the offset
    /// where it ends. What comes after it may be anything.
    pub fn front(
        &self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
    ) -> (Outcome<Tree>, Option<u32>) {
        let (Some(parser), None) = (&self.compiled.parser, self.lacks(Stage::Tree)) else {
            return (self.tree(source, reading), None);
        };
        let scanned = self.compiled.lexer.tokens(source);
        let Some(mut tokens) = scanned.value else {
            return (self.tree(source, reading), None);
        };
        // Nothing that is no token can be part of the entry.
        let errors = scanned.diagnostics.iter().filter(|d| d.is_error());
        let places = errors.filter_map(|d| Some(d.place.as_ref()?.span.start));
        if let Some(bad) = places.min() {
            tokens.tokens.retain(|token| token.span.start < bad);
            let end = Span {
                start: bad,
                end: bad,
            };
            tokens.tokens.push(Token::new(KindId::END, end));
        }
        let entries = chosen(parser, reading);
        let fronts = entries.into_iter().filter_map(|entry| {
            Some((
                parser.front(&self.compiled.definition, &tokens, entry)?,
                entry,
            ))
        });
        // Of entries of the same length the first one listed counts.
        let longest = fronts.max_by_key(|&(count, entry)| (count, std::cmp::Reverse(entry)));
        let Some((count, entry)) = longest else {
            return (self.tree(source, reading), None);
        };
        let end = tokens.tokens[count - 1].span.after();
        tokens.tokens.truncate(count);
        tokens.tokens.push(Token::new(KindId::END, end));
        let sort = parser.entries().nth(entry).unwrap_or_default();
        (self.tree_of(&tokens, Reading::Sort(sort)), Some(end.end))
    }

    /// Every entry that a text could be read as, the program first.
    pub fn readings(&self) -> impl Iterator<Item = Reading<'_>> {
        self.compiled
            .parser
            .iter()
            .flat_map(Parser::entries)
            .map(Reading::Sort)
    }

    /// Finds the types of a tree; `kept` are those of what a session has kept.
    pub fn types(&self, tree: &Tree, names: &Names, kept: &[Type]) -> Outcome<Types> {
        if let Some(lack) = self.lacks(Stage::Types) {
            return failed(vec![lack]);
        }
        let (definition, lexer) = (&self.compiled.definition, &self.compiled.lexer);
        self.worded(typing::check(definition, lexer, tree, names, kept))
    }

    /// Finds what the names of a tree mean.
    pub fn names(&self, tree: &Tree, around: Around<'_>) -> Outcome<Names> {
        self.worded(scoping::resolve(&self.compiled.definition, tree, around))
    }
}

pub(crate) fn failed<T>(diagnostics: Vec<Diagnostic>) -> Outcome<T> {
    Outcome {
        value: None,
        diagnostics,
    }
}

/// The numbers of the entries that a text may be read as.
pub(crate) fn chosen(parser: &Parser, reading: Reading<'_>) -> Vec<usize> {
    match reading {
        Reading::Program => vec![0],
        Reading::Entry => (0..parser.entries().count()).collect(),
        Reading::Sort(sort) => parser
            .entries()
            .position(|e| e == sort)
            .into_iter()
            .collect(),
    }
}

/// The sorts that may stand alone: the program's first, then the others.
fn entries(definition: &Definition) -> Vec<String> {
    let written: Vec<_> = definition
        .forms
        .iter()
        .filter(|form| form.written.is_some())
        .collect();
    let first = written.first().map(|form| form.sort_name());
    let starts = definition.starts.as_ref().map(|name| name.text.as_str());
    let mut entries: Vec<String> = Vec::new();
    let named = definition.entries.iter().map(|name| name.text.as_str());
    for sort in starts.or(first).into_iter().chain(named) {
        let is_written = written.iter().any(|form| form.sort_name() == sort);
        if is_written && !entries.iter().any(|e| e == sort) {
            entries.push(sort.to_owned());
        }
    }
    entries
}
