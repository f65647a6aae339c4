//! The nearest spelling, for "did you mean".

/// Of longer words, only the beginnings are compared.
const LONGEST: usize = 64;

/// A word of so many letters may be short for another that begins with it.
const SHORTEST: usize = 4;

/// The candidate that a person most likely meant by `word`, if any is near: at most
/// one slip in three letters, and never a word of one letter for another. Letter
/// case alone is always near, and where none is, a word that one of both begins with. Ties go to
/// the first candidate.
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let (beginning, letters) = beginning(word);
    let limit = letters.div_ceil(3);
    let mut best: Option<(usize, &str)> = None;
    // A word may be short for another.
    let mut short: Option<&str> = None;
    for candidate in candidates {
        if candidate == word {
            continue;
        }
        if candidate.to_lowercase() == word.to_lowercase() {
            return Some(candidate);
        }
        let (other, count) = self::beginning(candidate);
        let (long, least) = (letters.max(count), letters.min(count));
        if least >= SHORTEST && long > least && word.starts_with(other) | other.starts_with(word) {
            short.get_or_insert(candidate);
        }
        if letters < 2 || count < 2 || letters.abs_diff(count) > limit {
            continue;
        }
        // F. J. Damerau, 1964, restricted to swaps of neighbours.
        let distance = strsim::osa_distance(beginning, other);
        if distance <= limit && best.is_none_or(|(least, _)| distance < least) {
            best = Some((distance, candidate));
        }
    }
    best.map(|(_, candidate)| candidate).or(short)
}

/// The beginning of a word, and how many letters it has.
fn beginning(word: &str) -> (&str, usize) {
    match word.char_indices().nth(LONGEST) {
        Some((end, _)) => (&word[..end], LONGEST),
        None => (word, word.chars().count()),
    }
}

#[cfg(test)]
mod tests {
    use super::nearest;

    #[test]
    fn finds_slips_and_leaves_strangers_alone() {
        let known = ["written", "means", "binds", "uses"];
        assert_eq!(nearest("writen", known), Some("written"));
        assert_eq!(nearest("maens", known), Some("means"));
        assert_eq!(nearest("Binds", known), Some("binds"));
        assert_eq!(nearest("banana", known), None);
        assert_eq!(nearest("x", ["y", "z"]), None);
        assert_eq!(nearest("x", ["X"]), Some("X"));
    }
}
