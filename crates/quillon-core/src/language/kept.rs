//! A language as it was compiled, as bytes: making it of them takes a fraction of the time that reading
//! its definition takes. They are of use only to the build that made them, and for the same text.

use std::sync::Arc;

use postcard::{from_bytes, to_stdvec};
use xxhash_rust::xxh3::Xxh3;

use super::Language;
use crate::definition::Definition;
use crate::lexing::Lexer;
use crate::parsing::Parser;
use crate::source::SourceText;

/// What such bytes begin with.
const BEGINNING: &[u8; 8] = b"QlnLang1";

/// How many bytes stand before the language: the beginning, what it is known by, and the sum of the rest.
const HEAD: usize = BEGINNING.len() + 16 + 16;

/// The lexer and the parser of one surface.
type Read = (Lexer, Option<Parser>);

impl Language {
    /// What the language of a text is known by: another text has another, and so has another build of this
    /// program.
    pub fn key(source: &SourceText) -> u128 {
        let mut hash = Xxh3::new();
        hash.update(env!("QUILLON_CORE_BUILD").as_bytes());
        hash.update(source.text().as_bytes());
        hash.digest128()
    }

    /// The language as bytes (see [`Language::from_kept`]), without what was said when it was made.
    pub fn kept(&self) -> Option<Vec<u8>> {
        let shared = &self.shared;
        let read = |of: &'_ Language| (of.shared.lexer.clone(), of.shared.parser.clone());
        let surfaces: Vec<Read> = shared.surfaces.iter().map(read).collect();
        let content = to_stdvec(&(&*shared.definition, read(self), surfaces)).ok()?;
        let mut bytes = Vec::with_capacity(HEAD + content.len());
        bytes.extend_from_slice(BEGINNING);
        bytes.extend_from_slice(&Language::key(&shared.definition.source).to_le_bytes());
        bytes.extend_from_slice(&sum(&content).to_le_bytes());
        bytes.extend(content);
        Some(bytes)
    }

    /// The language of a definition's text, from the bytes of [`Language::kept`]. Nothing where they
    /// are not whole, of another text, or of another build. What they say is not checked beyond that: whoever
    /// keeps them has to see to it that nobody else can write them. [`Language::warnings`] is empty in what
    /// comes back.
    pub fn from_kept(source: &Arc<SourceText>, bytes: &[u8]) -> Option<Language> {
        let content = bytes.strip_prefix(BEGINNING)?;
        let content = content.strip_prefix(&Language::key(source).to_le_bytes()[..])?;
        let (total, content) = content.split_first_chunk::<16>()?;
        if *total != sum(content).to_le_bytes() {
            return None;
        }
        let (mut definition, own, surfaces): (Definition, Read, Vec<Read>) =
            from_bytes(content).ok()?;
        definition.source = Arc::clone(source);
        let others = definition.surfaces.iter();
        let others = others.map(|surface| definition.in_surface(surface));
        let surfaces = others.zip(surfaces);
        let surfaces = surfaces.map(|(definition, read)| completed(definition, read, Vec::new()));
        let surfaces = surfaces.collect();
        Some(completed(definition, own, surfaces))
    }
}

fn sum(content: &[u8]) -> u128 {
    xxhash_rust::xxh3::xxh3_128(content)
}

/// A language with what is not kept because it follows from the rest.
fn completed(
    definition: Definition,
    (mut lexer, mut parser): Read,
    surfaces: Vec<Language>,
) -> Language {
    lexer.complete();
    if let Some(parser) = &mut parser {
        parser.complete(&lexer);
    }
    Language::made(definition, lexer, parser, surfaces, &[])
}
