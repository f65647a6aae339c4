//! The command line: arguments in, results out. What is computed is computed by
//! `quillon-core`; here it is only asked for and shown.

mod args;
mod atomic;

mod commands;
mod completing;
mod debugger;
mod editor;
mod equipping;
mod exit;
mod files;
mod framed;
mod free_memory;
mod host;
mod inputs;
mod interrupts;
mod json;
mod kept;
mod languages;
mod output;
mod packed;
mod paths;
mod pausing;
mod reach;
mod render;
mod repl;
mod state;
mod stop;
mod walk;
mod watching;

fn main() {
    // All of it on one thread, which uses again what it has given back.
    quillon_core::native_stack::on_deep_stack(|| {
        make_room();
        completing::answer();
        let exit = answered();
        // Here, so that neither the thread nor its stack is taken apart first.
        std::process::exit(exit.number().into())
    });
}

/// What has been asked for is done.
fn answered() -> exit::Exit {
    let (asked, bytes) = match packed::Pack::open() {
        Ok(None) if std::env::args_os().len() <= 1 => {
            let told = output::print_lines(&args::welcome());
            return told.map_or(exit::Exit::Unreadable, |()| exit::Exit::Done);
        }
        Ok(None) => {
            let args = args::typed(&args::arranged(std::env::args_os()));
            (args, None)
        }
        Ok(Some(pack)) => (args::of_packed(pack), pack.program()),
        Err(why) => {
            render::screen::tell_line(why);
            return exit::Exit::Unreadable;
        }
    };
    asked.color.apply();
    let done = match (&asked.command, bytes) {
        (args::Command::Run(run), Some(bytes)) => commands::run_packed(run, bytes),
        (command, _) => commands::run(command),
    };
    done.unwrap_or_else(|error| output::give_up(&error, asked.command.format()))
}

/// Lets the heap of this thread grow by more than a page at a time: where the allocator asks the system for
/// each page anew, that takes a third of the time of a short run. What has been given back once, large, is
/// what the allocator of glibc goes by when it decides how much to keep; elsewhere this does nothing.
fn make_room() {
    const ROOM: usize = 512 << 10;
    for bytes in [2 * ROOM, ROOM] {
        drop(std::hint::black_box(Vec::<u8>::with_capacity(bytes)));
    }
}
