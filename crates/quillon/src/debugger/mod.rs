//! Walks through a run for an editor, over the Debug Adapter Protocol: on standard input and output, or at a
//! port of this machine.
//!
//! Messages are read by a thread of their own. What is asked for while the run goes on is looked at in
//! between; while it stands still, everything is answered at once. `line` is the way in and out, `launch`
//! what is to be run, `adapter` leads the walk, `reduced` walks through a reduction instead, `answers` tells what is seen where it stands, `instructions` which
//! instructions are around there, `completions` which names can be typed, `breakpoints` where it stops.

mod adapter;
mod answers;
mod breakpoints;
mod completions;
mod instructions;
mod launch;
mod line;
mod reduced;

use std::io::{self, BufReader, Write};
use std::net::{Ipv4Addr, TcpListener};

use serde_json::json;

use crate::args::Debugger as Args;
use crate::exit::Exit;
use crate::render::screen;
use crate::stop::Stop;
use adapter::Adapter;
use line::Line;

/// Serves a client until it has gone.
pub fn serve(args: &Args) -> Result<Exit, Stop> {
    let line = match args.port {
        None => Line::new(BufReader::new(io::stdin()), Box::new(io::stdout())),
        Some(port) => at_port(port).map_err(Stop::Output)?,
    };
    let mut adapter = Adapter::new(line);
    while let Some(launched) = adapter.prepare() {
        let status = match launched.reduction {
            None => adapter.run(&launched),
            Some(steps) => adapter.reduce(&launched, steps),
        };
        adapter.tell("exited", &json!({ "exitCode": status }));
        adapter.tell("terminated", &json!({}));
    }
    Ok(Exit::Done)
}

/// Waits for a client.
fn at_port(port: u16) -> io::Result<Line> {
    let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port))?;
    screen::tell_line(format_args!("waiting at {}", listener.local_addr()?));
    let (stream, _) = listener.accept()?;
    let output: Box<dyn Write> = Box::new(stream.try_clone()?);
    Ok(Line::new(BufReader::new(stream), output))
}
