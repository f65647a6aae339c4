//! Diagnostics in our colours.

use anstyle::Style;
use quillon_core::diagnostic::Diagnostic;
use quillon_render::Role;

use super::screen;
use super::style::{ERROR, NOTE, QUIET, RELATED, REMEDY, STRONG, WARNING, paint};

/// Shows diagnostics on standard error.
pub fn show_all(diagnostics: &[Diagnostic]) {
    for diagnostic in diagnostics {
        show(diagnostic);
    }
}

/// Shows one diagnostic on standard error.
pub fn show(diagnostic: &Diagnostic) {
    screen::tell(&rendered(diagnostic));
}

/// The whole diagnostic, with styles.
pub fn rendered(diagnostic: &Diagnostic) -> String {
    let styled = quillon_render::diagnostic(diagnostic);
    styled.shown(|role, text| match style_of(role) {
        Some(style) => paint(style, text),
        None => text.to_owned(),
    })
}

fn style_of(role: Role) -> Option<Style> {
    match role {
        Role::Strong => Some(STRONG),
        Role::Quiet => Some(QUIET),
        Role::Error => Some(ERROR),
        Role::Warning => Some(WARNING),
        Role::Note => Some(NOTE),
        Role::Related => Some(RELATED),
        Role::Remedy => Some(REMEDY),
        _ => None,
    }
}
