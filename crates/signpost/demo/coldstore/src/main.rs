use anyhow::Context;
use coldstore::{alarm, sensor};

fn main() -> anyhow::Result<()> {
    let line = std::env::args().nth(1).context("usage: coldstore SERIAL_LINE")?;
    let mut watch = alarm::Watch::default();
    for reading in sensor::open(&line)? {
        if let Some(alarm) = watch.note(&reading?) {
            println!("{}", alarm);
        }
    }
    Ok(())
}
