//! Maps whose keys are numbers, read from JSON. There a key is a text; inside a tagged enum serde hands it over as one.

use std::collections::BTreeMap;
use std::fmt;

use serde::Deserialize;
use serde::de::{Deserializer, Error, Visitor};

#[derive(PartialEq, Eq, PartialOrd, Ord)]
struct Key(u32);

impl<'de> Deserialize<'de> for Key {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        struct KeyVisitor;
        impl Visitor<'_> for KeyVisitor {
            type Value = Key;
            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a whole number, or one as a text")
            }
            fn visit_u64<E: Error>(self, n: u64) -> Result<Key, E> {
                u32::try_from(n).map(Key).map_err(E::custom)
            }
            fn visit_str<E: Error>(self, text: &str) -> Result<Key, E> {
                text.parse().map(Key).map_err(E::custom)
            }
        }
        from.deserialize_any(KeyVisitor)
    }
}

/// Reads such a map.
pub(crate) fn map<'de, D: Deserializer<'de>, V: Deserialize<'de>>(from: D) -> Result<BTreeMap<u32, V>, D::Error> {
    let map = BTreeMap::<Key, V>::deserialize(from).map_err(D::Error::custom)?;
    Ok(map.into_iter().map(|(k, v)| (k.0, v)).collect())
}
