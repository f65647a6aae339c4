//! The nearest spelling, for "did you mean".

/// The optimal string alignment distance (Damerau 1964, restricted to swaps of
/// neighbours) between two words, or `None` when it exceeds `limit`.
fn distance(a: &[char], b: &[char], limit: usize) -> Option<usize> {
    if a.len().abs_diff(b.len()) > limit {
        return None;
    }
    let mut before: Vec<usize> = Vec::new();
    let mut last: Vec<usize> = (0..=b.len()).collect();
    for i in 1..=a.len() {
        let mut row = vec![i; b.len() + 1];
        for j in 1..=b.len() {
            let swap_cost = usize::from(a[i - 1] != b[j - 1]);
            row[j] = (last[j] + 1)
                .min(row[j - 1] + 1)
                .min(last[j - 1] + swap_cost);
            if i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1] {
                row[j] = row[j].min(before[j - 2] + 1);
            }
        }
        before = std::mem::replace(&mut last, row);
    }
    Some(last[b.len()]).filter(|&d| d <= limit)
}

/// The candidate that a person most likely meant by `word`, if any is near: at most
/// one slip in three letters, and never a word of one letter for another. Letter
/// case alone is always near. Ties go to the first candidate.
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let letters: Vec<char> = word.chars().take(64).collect();
    let limit = letters.len().div_ceil(3);
    let mut best: Option<(usize, &str)> = None;
    for candidate in candidates {
        if candidate == word {
            continue;
        }
        if candidate.to_lowercase() == word.to_lowercase() {
            return Some(candidate);
        }
        let other: Vec<char> = candidate.chars().take(64).collect();
        if letters.len() < 2 || other.len() < 2 {
            continue;
        }
        if let Some(d) = distance(&letters, &other, limit)
            && best.is_none_or(|(least, _)| d < least)
        {
            best = Some((d, candidate));
        }
    }
    best.map(|(_, candidate)| candidate)
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
