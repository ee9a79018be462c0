use crate::cli::{Format, Global};
use crate::exit::{Exit, Failure};
use crate::render;
use clap::Args;
use signpost_core::check;
use signpost_core::config::nearest;

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
    let ends_so = |name: &str| name.split('/').nth(1) == Some(asked);
    let mut chosen: Vec<_> = check::all().filter(|info| info.name == asked || ends_so(info.name)).collect();
    let one = chosen.len() == 1;
    if chosen.is_empty() {
        chosen = check::all().filter(|info| asked.is_empty() || info.group() == asked).collect();
    }
    if chosen.is_empty() {
        let names =
            check::all().flat_map(|info| [info.name, info.group(), info.name.split('/').nth(1).unwrap_or_default()]);
        let help = match nearest(asked, names) {
            Some(near) => format!("did you mean `{near}`?"),
            None => "`signpost explain` lists them all".to_owned(),
        };
        return Err(Failure::told(format!("there is no check `{asked}`"), help));
    }
    match (global.format(), one) {
        (Format::Json, _) => render::print_json(&render::explain::json(&chosen))?,
        (Format::Text, true) => render::print(&render::explain::one(chosen[0]))?,
        (Format::Text, false) => render::print(&render::explain::list(&chosen))?,
    }
    Ok(Exit::Fine)
}
