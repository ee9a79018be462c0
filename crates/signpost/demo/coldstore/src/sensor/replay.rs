//! A recorded day in place of the serial line, for tests.

pub const WARM_MORNING: &str = include_str!("../../recordings/warm-morning.txt");
