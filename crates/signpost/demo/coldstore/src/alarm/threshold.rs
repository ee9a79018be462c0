/// Warmer than this a seed ages, in hundredths of a degree Celsius.
pub const WARM: i32 = -1_500;
