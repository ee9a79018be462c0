//! One file a command.

pub mod absorb;
pub mod adopt;
pub mod at;
pub mod doubts;
pub mod draft;
pub mod explain;
pub mod init;
pub mod lint;
pub mod parity;
pub mod profile;
pub mod publish;
pub mod scope;
pub mod split;
pub mod survey;
pub mod tour;
pub mod weigh;
