//! Watches the freezers.

pub mod alarm;
pub mod sensor;
