//! Questions to the person at the terminal.

use crate::exit::Failure;
use std::io::{BufRead, IsTerminal, Write};

/// Whether somebody is there to answer.
pub fn can_ask() -> bool {
    std::io::stdin().is_terminal() && std::io::stderr().is_terminal()
}

/// Asks for one line; the end of the input is an empty answer.
pub fn line(question: &str) -> Result<String, Failure> {
    let failed = |error: std::io::Error| Failure::told(format!("cannot ask: {error}"), "give the answer as an option");
    let mut err = anstream::stderr().lock();
    write!(err, "{question} ").and_then(|()| err.flush()).map_err(failed)?;
    let mut answer = String::new();
    std::io::stdin().lock().read_line(&mut answer).map_err(failed)?;
    Ok(answer.trim().to_owned())
}

/// Asks yes or no; an empty answer is no.
pub fn yes(question: &str) -> Result<bool, Failure> {
    Ok(matches!(line(&format!("{question} [y/N]"))?.to_lowercase().as_str(), "y" | "yes"))
}
