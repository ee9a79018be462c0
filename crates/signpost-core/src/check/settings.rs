//! x
use crate::config::{Config, ConfigError};
pub(crate) fn validate(_c:&Config,_t:&str)->Result<(),ConfigError>{Ok(())}
