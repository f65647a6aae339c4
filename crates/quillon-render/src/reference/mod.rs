//! References of languages: as a page, and as Markdown.

use quillon_core::reference::Reference;

mod html;
mod markdown;

pub use html::page;
pub use markdown::markdown;

/// Where a form stands on a page: a form that is called like a sort stands elsewhere than that.
fn anchor(reference: &Reference, form: &str) -> String {
    let is_sort = reference.sorts.iter().any(|sort| sort.name == form);
    if is_sort {
        format!("form-{form}")
    } else {
        form.to_owned()
    }
}
