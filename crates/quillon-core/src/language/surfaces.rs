//! The ways to write a language.

use std::borrow::Cow;
use std::sync::Arc;

use super::Language;
use crate::definition::Provided;
use crate::scoping::{Around, Home};
use crate::tree::Tree;

impl Language {
    /// The names of the ways to write the language, the first one's its own.
    pub fn surface_names(&self) -> impl Iterator<Item = &str> {
        let others = self.shared.definition.surfaces.iter().map(|s| &s.name);
        std::iter::once(&self.shared.definition.name)
            .chain(others)
            .map(|name| name.text.as_str())
    }

    /// The language in the surface of a name.
    pub fn surface(&self, name: &str) -> Option<Language> {
        let found = match self.surface_names().position(|known| known == name)? {
            0 => self,
            at => self.shared.surfaces.get(at - 1)?,
        };
        Some(Language {
            shared: Arc::clone(&found.shared),
            types_off: self.types_off,
            signs: self.signs.clone(),
        })
    }

    /// A tree of this surface as another one has it: what is built in may be called otherwise
    /// there.
    pub fn as_in<'t>(&self, tree: &'t Tree, to: &Language) -> Cow<'t, Tree> {
        let (here, there) = (self.definition(), to.definition());
        let pairs = here.provides.iter().zip(&there.provides);
        let differ = |(one, other): (&Provided, &Provided)| one.name.text != other.name.text;
        if !pairs.into_iter().any(differ) {
            return Cow::Borrowed(tree);
        }
        let Some(names) = self.names(tree, Around::Nothing).value else {
            return Cow::Borrowed(tree);
        };
        let mentions = names.mentions(tree).into_iter();
        let renamed = mentions.filter_map(|mention| {
            let Home::BuiltIn(index) = names.binding(mention.binding).home else {
                return None;
            };
            let provided = there.provides.get(index as usize)?;
            Some((mention.node, provided.name.text.clone()))
        });
        Cow::Owned(tree.with_names(renamed.collect()))
    }

    /// The name of the surface that a file is written in, by its extension.
    pub fn surface_name_of_file(&self, file: &str) -> &str {
        let mut surfaces = self.shared.definition.surfaces.iter();
        let reads = surfaces.find(|s| s.extensions.iter().any(|e| file.ends_with(&e.text)));
        &reads
            .map_or(&self.shared.definition.name, |surface| &surface.name)
            .text
    }
}
