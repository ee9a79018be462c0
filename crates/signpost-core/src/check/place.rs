//! Files that stand where no assistant reads them.

pub(super) mod near_miss_name;
pub(super) mod never_loaded;
