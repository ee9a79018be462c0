//! The command-line tool: arguments, rendering and exit codes. All the work is done in `signpost-core`.

mod apply;
mod ask;
mod cli;
mod commands;
#[cfg(test)]
mod documents;
mod exit;
mod git;
mod options;
mod paths;
#[cfg(test)]
mod reference_page;
mod render;
mod session;
mod write;

use std::process::ExitCode;

fn main() -> ExitCode {
    let cli = match cli::Cli::read() {
        Ok(cli) => cli,
        Err(error) => {
            let _ = error.print();
            if let Some(tip) = cli::tip(&error) {
                anstream::eprintln!("\n{tip}");
            }
            return if error.use_stderr() { exit::Exit::Failed.into() } else { exit::Exit::Fine.into() };
        }
    };
    cli.global.color.write_global();
    match cli.run() {
        Ok(exit) => exit.into(),
        // As the system's own tools end whose reader has gone.
        Err(exit::Failure::Closed) => ExitCode::from(exit::CLOSED_PIPE),
        Err(failure) => {
            render::failure(&failure);
            exit::Exit::Failed.into()
        }
    }
}
