//! The exit statuses, all in one place.

use std::process::ExitCode;

/// How the program ends.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Exit {
    /// Done.
    Done = 0,
    /// A program, a case or a check failed.
    Failed = 1,
    /// Wrong usage; clap uses the same number.
    Usage = 2,
    /// The definition has errors, or lacks what the work needs.
    Definition = 3,
    /// An input could not be read.
    Unreadable = 4,
}

impl Exit {
    /// The worse of two.
    pub fn and(self, other: Exit) -> Exit {
        self.max(other)
    }
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> ExitCode {
        ExitCode::from(exit as u8)
    }
}

#[cfg(test)]
mod tests {
    use super::Exit;

    #[test]
    fn the_numbers_are_those_in_the_manual() {
        let all = [
            Exit::Done,
            Exit::Failed,
            Exit::Usage,
            Exit::Definition,
            Exit::Unreadable,
        ];
        assert_eq!(all.map(|e| e as u8), [0, 1, 2, 3, 4]);
        assert_eq!(Exit::Failed.and(Exit::Done), Exit::Failed);
    }
}
