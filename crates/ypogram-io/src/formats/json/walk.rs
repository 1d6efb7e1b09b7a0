//! The values of an object, each with its path.

use std::borrow::Cow;

use serde::Deserialize;
use serde::de::{Deserializer as _, MapAccess, Visitor};
use serde_json::value::RawValue;

/// Calls `each` with the path and the text of every value in `object` that is no object itself, or an empty one; the parts of a path
/// are separated by dots.
///
/// # Errors
/// Where the text is not one JSON object.
pub(crate) fn walk<'t>(object: &'t str, each: &mut dyn FnMut(&str, &'t str)) -> serde_json::Result<()> {
    walk_below(object, (&mut String::new(), DEEPEST), each)
}

/// Levels of objects within objects at most.
pub(crate) const DEEPEST: usize = 128;

/// The same for an object at a path, which may hold so many levels more.
fn walk_below<'t>(
    object: &'t str,
    (path, levels): (&mut String, usize),
    each: &mut dyn FnMut(&str, &'t str),
) -> serde_json::Result<()> {
    let Some(levels) = levels.checked_sub(1) else {
        return Err(serde::de::Error::custom(format!("it has more than {DEEPEST} levels of objects")));
    };
    let mut deserializer = serde_json::Deserializer::from_str(object);
    deserializer.deserialize_map(Object { path, levels, each })?;
    deserializer.end()
}

struct Object<'p, 'e, 't> {
    path: &'p mut String,
    levels: usize,
    each: &'e mut dyn FnMut(&str, &'t str),
}

#[derive(Deserialize)]
struct Key<'t>(#[serde(borrow)] Cow<'t, str>);

impl<'t> Visitor<'t> for Object<'_, '_, 't> {
    type Value = ();

    fn expecting(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        formatter.write_str("a JSON object")
    }

    fn visit_map<A: MapAccess<'t>>(self, mut map: A) -> Result<(), A::Error> {
        let Object { path, levels, each } = self;
        let above = path.len();
        while let Some(Key(key)) = map.next_key()? {
            let value: &'t RawValue = map.next_value()?;
            if above > 0 {
                path.push('.');
            }
            path.push_str(&key);
            let text = value.get();
            match text.starts_with('{') && !is_empty(text) {
                true => walk_below(text, (path, levels), each).map_err(serde::de::Error::custom)?,
                false => each(path, text),
            }
            path.truncate(above);
        }
        Ok(())
    }
}

/// Whether there is nothing in an object.
fn is_empty(object: &str) -> bool {
    object[1..].trim_start().starts_with('}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_value_has_its_path() {
        let object = r#"{"a": 1, "b": {"c": "x\"", "d": {"e": [1, {"f": 2}], "g": {}}}, "ö\u0041.h": null}"#;
        let mut found = Vec::new();
        walk(object, &mut |path, text| found.push(format!("{path}={text}"))).unwrap();
        let expected = ["a=1", r#"b.c="x\"""#, r#"b.d.e=[1, {"f": 2}]"#, "b.d.g={}", "öA.h=null"];
        assert_eq!(found, expected);
        let deep = |levels: usize| format!("{}1{}", "{\"a\":".repeat(levels), "}".repeat(levels));
        assert!(walk(&deep(DEEPEST), &mut |_, _| {}).is_ok());
        assert!(walk(&deep(DEEPEST + 1), &mut |_, _| {}).is_err());
        for bad in ["", "[1]", "{", r#"{"a": 1} x"#, "5", r#"{"a" 1}"#] {
            assert!(walk(bad, &mut |_, _| {}).is_err(), "{bad}");
        }
    }
}
