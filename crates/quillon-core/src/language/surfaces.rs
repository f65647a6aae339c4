//! The ways to write a language.

use std::sync::Arc;

use super::Language;

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
        })
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
