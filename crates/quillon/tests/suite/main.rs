//! The built program, on files in a temporary folder.

mod common;

mod arranging;
mod asking;
mod at_home;
mod commands;
mod debugger;
mod debugger_places;
mod documents;
mod editor;
mod equipping;
mod formatting;
mod gallery;
mod guide;
mod kept;
mod languages;
mod lenses;
mod licences;
mod machine;
mod mistakes;
mod names;
mod outlines;
mod packing;
mod reach;
mod references;
mod repl;
mod reports;
mod safety;
mod schemas;
mod showing;
mod structure;
mod terminal;
mod testing;
mod tools;
mod walk;
mod writing;
