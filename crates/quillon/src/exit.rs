//! The exit statuses, all in one place.

/// How the program ends.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Exit {
    /// Done: 0.
    Done,
    /// A program, a case or a check failed: 1.
    Failed,
    /// Wrong usage: 2; clap uses the same number.
    Usage,
    /// The definition has errors, or lacks what the work needs: 3.
    Definition,
    /// An input could not be read: 4.
    Unreadable,
    /// A program has left with a status of its own.
    Left(u8),
}

impl Exit {
    /// Its number.
    pub fn number(self) -> u8 {
        match self {
            Exit::Done => 0,
            Exit::Failed => 1,
            Exit::Usage => 2,
            Exit::Definition => 3,
            Exit::Unreadable => 4,
            Exit::Left(status) => status,
        }
    }

    /// The worse of two.
    pub fn and(self, other: Exit) -> Exit {
        if other.number() > self.number() {
            other
        } else {
            self
        }
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
        assert_eq!(all.map(Exit::number), [0, 1, 2, 3, 4]);
        assert_eq!(Exit::Failed.and(Exit::Done), Exit::Failed);
    }
}
