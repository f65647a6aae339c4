//! Trees of the same shape.

use super::{Tree, What};

/// Whether two trees have the same forms with the same tokens in them, wherever those stand.
pub(crate) fn alike(one: &Tree, two: &Tree) -> bool {
    let mut work = vec![(one.root(), two.root())];
    while let Some((a, b)) = work.pop() {
        match (one.node(a).what, two.node(b).what) {
            (What::Token(x), What::Token(y)) => {
                if x != y || one.text(a) != two.text(b) {
                    return false;
                }
            }
            (What::Form(x), What::Form(y)) if x != y => return false,
            (What::Form(_), What::Form(_)) | (What::List, What::List) => {}
            (What::Token(_) | What::Form(_) | What::List, _) => return false,
        }
        for field in 0..one.field_count(a) {
            let (left, right) = (one.children(a, field), two.children(b, field));
            if left.len() != right.len() {
                return false;
            }
            work.extend(left.iter().copied().zip(right.iter().copied()));
        }
    }
    true
}
