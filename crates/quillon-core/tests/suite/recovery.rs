//! Many syntax errors in one text.

use crate::common;
use quillon_core::source::SourceText;

#[test]
fn errors_of_a_long_text_are_capped_and_that_is_said() {
    let language = common::language(include_str!(
        "../../../../languages/towpath/towpath.quillon"
    ));
    let outcome = language.tree(
        &SourceText::new("wrong", "say [1 2]\n".repeat(20_000)),
        quillon_core::Reading::Program,
    );
    assert_eq!(outcome.diagnostics.len(), 26);
    assert_eq!(
        outcome.diagnostics[25].message,
        "reading stops after 25 errors"
    );
}
