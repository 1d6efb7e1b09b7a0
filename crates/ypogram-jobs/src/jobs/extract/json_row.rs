//! A row as a JSON object, all but its end, which depends on the pieces before.

use serde_json::Value;
use ypogram_core::Form;

use crate::judge::judged_address::JudgedAddress;

/// Where something was found, beside what it is.
pub(super) struct Found<'a> {
    pub(super) field: &'a str,
    pub(super) source: &'a str,
    /// None where it has no place in bytes.
    pub(super) offset: Option<u64>,
    pub(super) name: &'a [u8],
    pub(super) context: Option<&'a [u8]>,
    pub(super) id: Option<&'a [u8]>,
}

/// Appends a judged address with where it stood.
pub(super) fn write_address(judged: &JudgedAddress, form: Form, found: &Found<'_>, out: &mut Vec<u8>) {
    let &Found { name, context, id, .. } = found;
    let mut value = serde_json::to_value(judged).expect("plain data");
    let object = value.as_object_mut().expect("a struct");
    object.insert("form".into(), form.word().into());
    object.insert("name".into(), if name.is_empty() { Value::Null } else { text(name) });
    object.insert("field".into(), found.field.into());
    object.insert("source".into(), found.source.into());
    object.insert("offset".into(), found.offset.into());
    let more = [("context", context), ("id", id)];
    for (key, bytes) in more.into_iter().filter_map(|(key, bytes)| Some((key, bytes?))) {
        object.insert(key.into(), text(bytes));
    }
    write_open(&value, out);
}

/// Appends what was passed over with where it stood.
pub(super) fn write_passed(reason: &str, passed: &[u8], found: &Found<'_>, out: &mut Vec<u8>) {
    let Found { field, source, offset, .. } = found;
    let value = serde_json::json!({ "reason": reason, "text": text(passed), "field": field,
        "source": source, "offset": offset });
    write_open(&value, out);
}

fn text(bytes: &[u8]) -> Value {
    Value::String(String::from_utf8_lossy(bytes).into_owned())
}

/// Appends the object without its closing brace.
fn write_open(value: &Value, out: &mut Vec<u8>) {
    serde_json::to_writer(&mut *out, value).expect("memory takes everything");
    out.pop();
}
