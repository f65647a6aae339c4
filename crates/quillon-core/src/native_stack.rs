//! Room on the native stack. The stages between parsing and running go down the tree with
//! native recursion, and ask here how far they may go.

use std::cell::Cell;
use std::sync::Mutex;

/// The stack that `on_deep_stack` gives, in bytes. Only what is used is ever touched.
const DEEP: usize = 1 << 30;

/// The smallest stack that is worth a thread, in bytes.
const LEAST: usize = 4 << 20;

/// What is assumed of a thread that was not started here, in bytes.
const ASSUMED: usize = 512 << 10;

/// The deepest tree where there is room for any.
const DEEPEST_TREE: usize = 50_000;

/// A generous measure of the stack that one level of a tree costs a stage, in bytes.
const PER_LEVEL: usize = 4 << 10;

thread_local! {
    static BUDGET: Cell<usize> = const { Cell::new(ASSUMED) };
}

/// Runs something on a thread with a gigabyte of stack (address space, not memory), so that deep
/// trees have room; with less where there is not so much. Without it everything still works,
/// with lower limits.
///
/// # Panics
/// Panics if the work itself panics.
pub fn on_deep_stack<R: Send>(work: impl FnOnce() -> R + Send) -> R {
    // Whoever starts takes the work; if no thread can be started, it is still there.
    let waiting = Mutex::new(Some(work));
    let take = || waiting.lock().ok().and_then(|mut waiting| waiting.take());
    let mut size = DEEP;
    while size >= LEAST {
        let done = std::thread::scope(|scope| {
            let started = std::thread::Builder::new()
                .name("quillon".to_owned())
                .stack_size(size)
                .spawn_scoped(scope, || {
                    BUDGET.set(size - size / 8);
                    take().map(|work| work())
                });
            match started.map(std::thread::ScopedJoinHandle::join) {
                Ok(Ok(result)) => result,
                Ok(Err(panic)) => std::panic::resume_unwind(panic),
                // There is not so much address space.
                Err(_) => None,
            }
        });
        if let Some(result) = done {
            return result;
        }
        size /= 4;
    }
    match take() {
        Some(work) => work(),
        None => unreachable!("no thread has taken the work"),
    }
}

/// How many bytes of stack a stage may use on this thread.
pub(crate) fn stack_budget() -> usize {
    BUDGET.get()
}

/// How deep a tree may be on this thread, in nodes.
pub fn deepest_tree() -> u32 {
    (stack_budget() / PER_LEVEL).min(DEEPEST_TREE) as u32
}
