//! What describes one project: its settings and profiles put together, the instruction files that are found, read and
//! taken for rules, and the guidance that they are published from.

pub mod condition;
pub mod discovery;
pub mod guidance;
pub mod lock;
pub mod references;
pub mod rule;
pub mod settled;
pub mod workspace;
