//! The language of Graphviz.

use crate::formats::graph::GraphAttribute;

pub(super) fn opening(out: &mut Vec<u8>) {
    out.extend_from_slice(b"graph {\n");
}

pub(super) fn node(id: &str, known: &[GraphAttribute], values: &[&str], out: &mut Vec<u8>) {
    out.extend_from_slice(format!("  {id}").as_bytes());
    attributes(known, values, out);
}

pub(super) fn edge([from, to]: [&str; 2], known: &[GraphAttribute], values: &[&str], out: &mut Vec<u8>) {
    out.extend_from_slice(format!("  {from} -- {to}").as_bytes());
    attributes(known, values, out);
}

pub(super) fn closing(out: &mut Vec<u8>) {
    out.extend_from_slice(b"}\n");
}

fn attributes(known: &[GraphAttribute], values: &[&str], out: &mut Vec<u8>) {
    let told = known.iter().zip(values).filter(|(_, value)| !value.is_empty());
    let told: Vec<String> = told
        .map(|(attribute, value)| match attribute.is_number {
            true => format!("{}={value}", attribute.name),
            false => format!("{}={}", attribute.name, quoted(value)),
        })
        .collect();
    out.extend_from_slice(format!(" [{}];\n", told.join(", ")).as_bytes());
}

/// A text in quotes. A backslash begins a sequence in labels, and is doubled; control characters have no place there.
fn quoted(value: &str) -> String {
    let value = value.replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n");
    format!("\"{}\"", value.replace(|c: char| c.is_control(), "\u{FFFD}"))
}
