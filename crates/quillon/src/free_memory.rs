//! How much memory there is: an allocation that fails would end the program, so a run gets no
//! more than what the system has.

use std::io::Read;

/// The most bytes that a run may have that is to have so many: less where the machine, the
/// container or a limit of the shell has less.
pub fn at_most(asked: u64) -> u64 {
    // The rest is for the program itself, and for what others need meanwhile.
    let share = |bytes: u64| bytes / 4 * 3;
    let sources = [address_space(), free_memory(), container()];
    sources
        .into_iter()
        .flatten()
        .map(share)
        .fold(asked, u64::min)
}

/// The address space that is left, where there is a limit on it.
#[cfg(unix)]
fn address_space() -> Option<u64> {
    let limit = rustix::process::getrlimit(rustix::process::Resource::As).current?;
    Some(limit.saturating_sub(1024 * kilobytes("/proc/self/status", "VmSize:")?))
}

/// The address space that is left: nothing limits it.
#[cfg(not(unix))]
fn address_space() -> Option<u64> {
    None
}

/// The memory that could be had without anything being put aside.
fn free_memory() -> Option<u64> {
    Some(1024 * kilobytes("/proc/meminfo", "MemAvailable:")?)
}

/// The limit of the container that this runs in.
fn container() -> Option<u64> {
    let limit = std::fs::read_to_string("/sys/fs/cgroup/memory.max").ok()?;
    limit.trim().parse().ok()
}

/// A number of kilobytes from one of the tables that the system keeps.
fn kilobytes(table: &str, name: &str) -> Option<u64> {
    // The size of such a file is not known before it is read: with room for all of it, it is read at once.
    let mut text = String::with_capacity(8 << 10);
    let mut file = std::fs::File::open(table).ok()?;
    file.read_to_string(&mut text).ok()?;
    let line = text.lines().find_map(|line| line.strip_prefix(name))?;
    line.split_whitespace().next()?.parse().ok()
}

#[cfg(test)]
mod tests {
    use super::at_most;

    #[test]
    fn little_is_given_as_it_is_asked_for() {
        assert_eq!(at_most(1 << 20), 1 << 20);
        assert!(at_most(u64::MAX) > 0);
    }
}
