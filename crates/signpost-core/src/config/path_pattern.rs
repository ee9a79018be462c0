//! Patterns in `signpost.toml`.

use crate::pattern::{Dialect, Pattern};
use serde::{Deserialize, Deserializer, Serialize, Serializer, de::Error};
use std::ops::Deref;

/// A path pattern from the root; without a slash at any depth, braces understood. It is compiled when it is read, so that
/// one that is not valid is an error at its place.
#[derive(Clone, Debug)]
pub struct PathPattern(Pattern);

impl Deref for PathPattern {
    type Target = Pattern;

    fn deref(&self) -> &Pattern {
        &self.0
    }
}

impl<'de> Deserialize<'de> for PathPattern {
    fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
        let text = String::deserialize(reader)?;
        match Pattern::parse(&text, &Dialect::default()) {
            Ok(pattern) => Ok(PathPattern(pattern)),
            Err(error) => Err(D::Error::custom(format!("`{text}` is no valid pattern: {error}"))),
        }
    }
}

impl Serialize for PathPattern {
    fn serialize<S: Serializer>(&self, writer: S) -> Result<S::Ok, S::Error> {
        writer.serialize_str(self.text())
    }
}

#[cfg(feature = "schema")]
impl schemars::JsonSchema for PathPattern {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> std::borrow::Cow<'static, str> {
        "PathPattern".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        <String as schemars::JsonSchema>::json_schema(generator)
    }
}
