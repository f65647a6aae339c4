//! Ctrl-C: it ends a run instead of everything.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock, Once};

use quillon_core::runtime::Interrupt;

/// Whether Ctrl-C has been pressed: the run is to end.
static PRESSED: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);

/// Whether the program waits for input, which nothing but the end of all interrupts.
static READING: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);

/// The exit status of a program that Ctrl-C has ended, as shells have it.
const ENDED_BY_INTERRUPT: i32 = 130;

/// Lets Ctrl-C end a run instead of everything; a second one, or one while the program
/// waits for input, ends everything.
pub fn watch_for() {
    static BEGUN: Once = Once::new();
    // Without a handler Ctrl-C ends everything, as it always does.
    BEGUN.call_once(|| drop(watch()));
}

/// In the handler of the signal itself: a thread that waits for it would take longer to begin than a small run.
#[cfg(unix)]
fn watch() -> std::io::Result<()> {
    use signal_hook::consts::SIGINT;
    use signal_hook::flag;
    for ends_everything in [&PRESSED, &READING] {
        let ends_everything = Arc::clone(ends_everything);
        flag::register_conditional_shutdown(SIGINT, ENDED_BY_INTERRUPT, ends_everything)?;
    }
    // After those: they are to see whether it was pressed before.
    flag::register(SIGINT, Arc::clone(&PRESSED)).map(drop)
}

#[cfg(not(unix))]
fn watch() -> Result<(), ctrlc::Error> {
    ctrlc::set_handler(|| {
        let was_pressed = PRESSED.swap(true, Ordering::SeqCst);
        if was_pressed || READING.load(Ordering::SeqCst) {
            std::process::exit(ENDED_BY_INTERRUPT);
        }
    })
}

/// What ends a run when Ctrl-C is pressed.
pub fn interrupt() -> Interrupt {
    Interrupt::from(Arc::clone(&PRESSED))
}

/// Forgets that it was pressed before what is run next.
pub fn forget() {
    interrupt().lower();
}

/// Notes whether the program waits for input.
pub fn set_reading(is_reading: bool) {
    READING.store(is_reading, Ordering::SeqCst);
}
