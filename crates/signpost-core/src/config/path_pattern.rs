//! Patterns in `signpost.toml`.

use crate::pattern::{Dialect, Pattern};
use serde::de::{Error, Visitor};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::fmt;
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
        reader.deserialize_str(ReadPattern)
    }
}

/// Refuses a pattern while its text is read, so that the error stands at the very text.
struct ReadPattern;

impl Visitor<'_> for ReadPattern {
    type Value = PathPattern;

    fn expecting(&self, out: &mut fmt::Formatter<'_>) -> fmt::Result {
        out.write_str("a string")
    }

    fn visit_str<E: Error>(self, text: &str) -> Result<PathPattern, E> {
        let pattern = Pattern::parse(text, &Dialect::default());
        pattern.map(PathPattern).map_err(|error| E::custom(format!("`{text}` is no valid pattern: {error}")))
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
