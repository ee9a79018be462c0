//! What the freezers say.

pub mod parse;
pub mod replay;

/// One reading of one freezer.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Reading {
    pub freezer: u16,
    /// Hundredths of a degree Celsius.
    pub hundredths: i32,
}

pub fn open(line: &str) -> std::io::Result<impl Iterator<Item = std::io::Result<Reading>>> {
    let file = std::fs::File::open(line)?;
    Ok(parse::readings(std::io::BufReader::new(file)))
}
