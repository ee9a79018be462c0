use crate::exit::{Exit, Failure};
use crate::options::{Format, Global};
use crate::render;
use clap::Args;
use signpost_core::check;

/// Teach a check: what it finds, why that matters, how to mend it, with a bad and a good example
///
/// Without a check, or with a group such as `scope`, lists the checks.
#[derive(Debug, Args)]
pub struct ExplainArgs {
    /// A check, such as `scope/matches-nothing`, or a group
    #[arg(value_name = "CHECK")]
    check: Option<String>,
}

pub fn run(args: &ExplainArgs, global: &Global) -> Result<Exit, Failure> {
    let asked = args.check.as_deref().unwrap_or_default();
    let chosen = if asked.is_empty() { check::all().collect() } else { check::named(asked) };
    let one = chosen.len() == 1;
    if chosen.is_empty() {
        return Err(Failure::told(format!("there is no check `{asked}`"), check::did_you_mean(asked)));
    }
    match (global.format(), one) {
        (Format::Json, _) => render::print_json(&render::explain::json(&chosen))?,
        (Format::Text, true) => render::print(&render::explain::one(chosen[0]))?,
        (Format::Text, false) => render::print(&render::explain::list(&chosen))?,
    }
    Ok(Exit::Fine)
}
