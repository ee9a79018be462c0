//! When people are called.

mod threshold;

use crate::sensor::Reading;
use std::fmt;

/// Three warm readings in a row raise an alarm.
const RAISE_AFTER: u8 = 3;

#[derive(Default)]
pub struct Watch {
    warm: u8,
}

#[derive(Debug, PartialEq)]
pub struct Alarm {
    pub freezer: u16,
    pub hundredths: i32,
}

impl Watch {
    pub fn note(&mut self, reading: &Reading) -> Option<Alarm> {
        self.warm = if reading.hundredths > threshold::WARM { self.warm + 1 } else { 0 };
        (self.warm == RAISE_AFTER).then_some(Alarm { freezer: reading.freezer, hundredths: reading.hundredths })
    }
}

impl fmt::Display for Alarm {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "freezer {} is at {:.2} degrees", self.freezer, f64::from(self.hundredths) / 100.0)
    }
}
