//! Editor packages for a described language: everything in them comes from the definition.

use quillon_core::Language;
use quillon_core::editing::{Dialect, Looks, Piece, Role, Rule, forms_to_fill_in, rules};
use quillon_core::lexing::BRACKETS;

mod emacs;
mod notation;
mod vim;
mod vscode;

/// An editor.
#[derive(Clone, Copy, PartialEq, Eq, Debug, clap::ValueEnum)]
pub enum Editor {
    /// Visual Studio Code: a folder that packs with its ordinary tool
    Vscode,
    /// Neovim: a folder for its packages
    Neovim,
    /// Vim: a folder for its packages
    Vim,
    /// Emacs: a file to load
    Emacs,
}

/// How many blanks deeper a line stands than what it is in, unless someone wants it otherwise.
const STEP: usize = 2;

/// A file of a package: its path in it, and its text.
pub struct File {
    pub path: String,
    pub text: String,
}

impl File {
    fn new(path: impl Into<String>, text: impl Into<String>) -> File {
        File {
            path: path.into(),
            text: text.into(),
        }
    }
}

/// What a package has to know of a language.
struct About<'l> {
    language: &'l Language,
    /// Its name, as people call it.
    name: String,
    /// Its name in small letters, as editors call it.
    id: String,
    /// The extensions of its programs, with the point.
    extensions: Vec<String>,
    /// What begins a comment that ends with its line.
    line_comment: Option<String>,
    /// What begins and ends a comment.
    block_comment: Option<(String, String)>,
}

/// The files of a package: the language, and each surface of it as a language of its own.
pub fn package(language: &Language, editor: Editor) -> Vec<File> {
    let surfaces: Vec<(&str, Language)> = language
        .surface_names()
        .filter_map(|name| Some((name, language.surface(name)?)))
        .collect();
    let all: Vec<About<'_>> = surfaces
        .iter()
        .enumerate()
        .map(|(number, (surface, language))| {
            let main = &surfaces[0].0;
            let name = match number {
                0 => (*main).to_owned(),
                _ => format!("{main} {surface}"),
            };
            About::new(language, name)
        })
        .collect();
    match editor {
        Editor::Vscode => vscode::files(&all),
        Editor::Neovim => vim::files(&all, true),
        Editor::Vim => vim::files(&all, false),
        Editor::Emacs => emacs::files(&all),
    }
}

impl<'l> About<'l> {
    fn new(language: &'l Language, name: String) -> About<'l> {
        let extensions = language.definition().extensions.iter();
        let letters = name.to_lowercase();
        let id: String = letters
            .chars()
            .filter(char::is_ascii_alphanumeric)
            .collect();
        let mut about = About {
            language,
            id: if id.is_empty() {
                "described".to_owned()
            } else {
                id
            },
            name,
            extensions: extensions.map(|one| one.text.clone()).collect(),
            line_comment: None,
            block_comment: None,
        };
        for rule in about.rules(Dialect::Usual) {
            match rule.looks {
                Looks::Line(open) => about.line_comment = about.line_comment.or(Some(open)),
                Looks::Between { open, close, .. } if rule.role == Some(Role::Comment) => {
                    about.block_comment = about.block_comment.or(Some((open, close)));
                }
                Looks::Between { .. } | Looks::Words(_) | Looks::Signs(_) | Looks::Fits(_) => {}
            }
        }
        about
    }
}

impl About<'_> {
    fn rules(&self, dialect: Dialect) -> Vec<Rule> {
        rules(self.language.definition(), self.language.lexer(), dialect)
    }

    /// The brackets that the language has, the opening before the closing.
    fn brackets(&self) -> Vec<(&'static str, &'static str)> {
        let kinds = self.language.lexer().kinds();
        let has = |text: &str| {
            kinds
                .iter()
                .any(|kind| kind.is_literal() && kind.name == text)
        };
        BRACKETS
            .into_iter()
            .filter(|(open, close)| has(open) && has(close))
            .collect()
    }

    /// The signs that texts stand between, where both are the same.
    fn quotes(&self) -> Vec<String> {
        let texts = self.rules(Dialect::Usual).into_iter();
        let texts = texts.filter(|rule| rule.role == Some(Role::Text));
        let quotes = texts.filter_map(|rule| match rule.looks {
            Looks::Between { open, close, .. } if open == close => Some(open),
            Looks::Between { .. }
            | Looks::Words(_)
            | Looks::Signs(_)
            | Looks::Fits(_)
            | Looks::Line(_) => None,
        });
        quotes.collect()
    }

    /// The forms that begin with a word of their own, each with its pieces.
    fn snippets(&self) -> Vec<(String, Vec<Piece>)> {
        forms_to_fill_in(self.language)
    }
}
