//! A JSON object on a line, its values as they are written.

use std::fmt;

use serde::Deserialize;
use serde::de::{Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

/// Why a line cannot be used.
#[derive(Debug)]
pub(crate) struct Unusable(pub(crate) String);

/// A key and its value, as it is written.
pub(crate) type Member = (String, Box<RawValue>);

/// The keys of an object in their order.
#[derive(Debug)]
pub(crate) struct JsonLine(Vec<Member>);

impl JsonLine {
    /// Reads `line`; one that is blank has no keys.
    pub(crate) fn read(line: &[u8]) -> Result<Self, Unusable> {
        if line.trim_ascii().is_empty() {
            return Ok(JsonLine(Vec::new()));
        }
        serde_json::from_slice(line).map_err(|error| Unusable(format!("this is not a JSON object: {error}")))
    }

    /// The text in `field`, and all keys; an empty text where there are none.
    pub(crate) fn split(self, field: &str) -> Result<(Vec<u8>, Vec<Member>), Unusable> {
        let JsonLine(members) = self;
        let value = members.iter().find(|(key, _)| key == field).map(|(_, value)| value.get());
        let text: Option<String> = match value {
            None if members.is_empty() => None,
            None => {
                let hint = "name the field that holds the address with --field";
                return Err(Unusable(format!("there is no field ‘{field}’: {hint}")));
            }
            Some(value) => serde_json::from_str(value)
                .map_err(|_| Unusable(format!("‘{field}’ is not a text: send the address as a string")))?,
        };
        Ok((text.unwrap_or_default().into_bytes(), members))
    }
}

impl<'de> Deserialize<'de> for JsonLine {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Members;

        impl<'de> Visitor<'de> for Members {
            type Value = JsonLine;

            fn expecting(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
                formatter.write_str("an object")
            }

            fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<JsonLine, A::Error> {
                let mut members = Vec::new();
                while let Some(member) = map.next_entry()? {
                    members.push(member);
                }
                Ok(JsonLine(members))
            }
        }

        deserializer.deserialize_map(Members)
    }
}
