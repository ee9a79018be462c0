//! Lines like `F017 -2013 5A`: freezer, hundredths of a degree, checksum.

use super::Reading;
use std::io::BufRead;

pub fn readings(lines: impl BufRead) -> impl Iterator<Item = std::io::Result<Reading>> {
    lines.lines().filter_map(|line| line.map(|line| reading(&line)).transpose())
}

/// `None` for a line that fails its checksum: it is dropped, never guessed.
pub fn reading(line: &str) -> Option<Reading> {
    let mut parts = line.split(' ');
    let freezer = parts.next()?.strip_prefix('F')?.parse().ok()?;
    let hundredths = parts.next()?.parse().ok()?;
    let sum = u8::from_str_radix(parts.next()?, 16).ok()?;
    let own = line.rsplit_once(' ')?.0.bytes().fold(0, |sum: u8, byte| sum ^ byte);
    (own == sum).then_some(Reading { freezer, hundredths })
}
