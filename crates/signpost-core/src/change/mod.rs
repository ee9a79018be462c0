//! What writes: each plans its changes and leaves writing them to whoever asked.

mod address;

pub mod absorb;
pub mod adopt;
pub mod draft_profile;
pub mod init;
pub mod new_rule;
pub mod publish;
pub mod split;
