//! Who is called, and who came.

/// Two people must be reachable before an alarm counts as delivered.
pub const REACHABLE: usize = 2;
