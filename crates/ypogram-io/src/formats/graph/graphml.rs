//! GraphML.

use std::borrow::Cow;
use std::io;

use quick_xml::Writer;
use quick_xml::escape::escape;
use quick_xml::events::{BytesDecl, BytesStart, Event};

use crate::formats::graph::Attributes;

const NAMESPACE: &str = "http://graphml.graphdrawing.org/xmlns";

/// Writing to memory does not fail.
const IN_MEMORY: &str = "memory is written";

pub(super) fn opening(attributes: &Attributes, out: &mut Vec<u8>) {
    let write = |out: &mut Vec<u8>| -> io::Result<()> {
        let mut xml = Writer::new(out);
        xml.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
        let start = BytesStart::new("graphml").with_attributes([("xmlns", NAMESPACE)]);
        line(&mut xml, Event::Start(start))?;
        for (letter, of, known) in [("n", "node", attributes.node), ("e", "edge", attributes.edge)] {
            for (nth, attribute) in known.iter().enumerate() {
                let value = if attribute.is_number { "long" } else { "string" };
                let id = format!("{letter}{nth}");
                let key = BytesStart::new("key").with_attributes([
                    ("id", &*id),
                    ("for", of),
                    ("attr.name", attribute.name),
                    ("attr.type", value),
                ]);
                line(&mut xml, Event::Empty(key))?;
            }
        }
        let graph = BytesStart::new("graph").with_attributes([("edgedefault", "undirected")]);
        line(&mut xml, Event::Start(graph))
    };
    write(out).expect(IN_MEMORY);
}

pub(super) fn node(id: &str, values: &[&str], out: &mut Vec<u8>) {
    out.extend_from_slice(b"\n<node id=\"");
    out.extend_from_slice(id.as_bytes());
    out.extend_from_slice(b"\">");
    data("n", values, out);
    out.extend_from_slice(b"</node>");
}

pub(super) fn edge([from, to]: [&str; 2], values: &[&str], out: &mut Vec<u8>) {
    for part in ["\n<edge source=\"", from, "\" target=\"", to, "\">"] {
        out.extend_from_slice(part.as_bytes());
    }
    data("e", values, out);
    out.extend_from_slice(b"</edge>");
}

pub(super) fn closing(out: &mut Vec<u8>) {
    out.extend_from_slice(b"\n</graph>\n</graphml>\n");
}

fn line(xml: &mut Writer<&mut Vec<u8>>, event: Event<'_>) -> io::Result<()> {
    xml.get_mut().push(b'\n');
    xml.write_event(event)
}

/// The values that are told; the name of the attribute of each is its letter and its place.
fn data(letter: &str, values: &[&str], out: &mut Vec<u8>) {
    const PLACES: [&str; 10] = ["0", "1", "2", "3", "4", "5", "6", "7", "8", "9"];
    for (place, value) in PLACES.iter().zip(values).filter(|(_, value)| !value.is_empty()) {
        for part in ["<data key=\"", letter, place, "\">", &escape(of_xml(value)), "</data>"] {
            out.extend_from_slice(part.as_bytes());
        }
    }
}

/// XML 1.0 §2.2 has no place for most control characters, in no way of writing.
fn of_xml(value: &str) -> Cow<'_, str> {
    let is_outside = |c: char| matches!(c, '\u{FFFE}' | '\u{FFFF}') || c < ' ' && !matches!(c, '\t' | '\n');
    match value.contains(is_outside) {
        true => Cow::Owned(value.replace(is_outside, "\u{FFFD}")),
        false => Cow::Borrowed(value),
    }
}
