//! Room on the native stack. The stages between parsing and running go down the tree with
//! native recursion, and ask here how far they may go.

use std::cell::Cell;

/// The stack that `on_deep_stack` gives, in bytes. Only what is used is ever touched.
const DEEP: usize = 1 << 30;

/// What is kept back for work that does not ask, in bytes.
const KEPT_BACK: usize = 96 << 20;

/// What is assumed of a thread that was not started here, in bytes.
const ASSUMED: usize = 512 << 10;

/// The deepest tree where there is room for any.
const DEEPEST_TREE: usize = 50_000;

/// A generous measure of the stack that one level of a tree costs a stage, in bytes.
const PER_LEVEL: usize = 4 << 10;

thread_local! {
    static BUDGET: Cell<usize> = const { Cell::new(ASSUMED) };
}

/// Runs something on a thread with a gigabyte of stack (address space, not memory), so
/// that deep trees have room. Without it everything still works,
/// with lower limits.
///
/// # Panics
/// Panics if the work itself panics, or if no thread can be started.
pub fn on_deep_stack<R: Send>(work: impl FnOnce() -> R + Send) -> R {
    std::thread::scope(|scope| {
        let started = std::thread::Builder::new()
            .name("quillon".to_owned())
            .stack_size(DEEP)
            .spawn_scoped(scope, || {
                BUDGET.set(DEEP - KEPT_BACK);
                work()
            });
        match started.map(std::thread::ScopedJoinHandle::join) {
            Ok(Ok(result)) => result,
            Ok(Err(panic)) => std::panic::resume_unwind(panic),
            Err(error) => panic!("no thread can be started: {error}"),
        }
    })
}

/// How many bytes of stack a stage may use on this thread.
pub fn stack_budget() -> usize {
    BUDGET.get()
}

/// How deep a tree may be on this thread, in nodes.
pub fn deepest_tree() -> u32 {
    (stack_budget() / PER_LEVEL).min(DEEPEST_TREE) as u32
}
