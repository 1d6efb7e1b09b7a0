//! Files of graphs: nodes and edges with what is known of them.

mod dot;
mod graphml;

use std::path::Path;

use crate::output::{Output, Target};
use crate::records::error::Result;

/// What a graph is written in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum GraphFormat {
    /// GraphML, the XML that programs for graphs exchange.
    GraphMl,
    /// The language of Graphviz.
    Dot,
}

/// Something that is known of nodes or edges.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct GraphAttribute {
    /// Its name.
    pub name: &'static str,
    /// It is a whole number.
    pub is_number: bool,
}

/// A file of a graph while it is written: first all nodes, then all edges.
pub struct GraphFile {
    output: Output,
    format: GraphFormat,
    attributes: Attributes,
    text: Vec<u8>,
}

/// What is known of nodes and of edges.
struct Attributes {
    node: &'static [GraphAttribute],
    edge: &'static [GraphAttribute],
}

/// Text is handed over when there are so many bytes of it.
const GATHERED: usize = 1 << 16;

impl GraphFormat {
    /// The format that the extension of a file names.
    ///
    /// ```
    /// use ypogram_io::GraphFormat;
    /// assert_eq!(GraphFormat::of("links.GraphML".as_ref()), Some(GraphFormat::GraphMl));
    /// assert_eq!(GraphFormat::of("links.csv".as_ref()), None);
    /// ```
    pub fn of(path: &Path) -> Option<Self> {
        let extension = path.extension()?.to_str()?.to_ascii_lowercase();
        match &*extension {
            "graphml" => Some(GraphFormat::GraphMl),
            "dot" | "gv" => Some(GraphFormat::Dot),
            _ => None,
        }
    }
}

impl GraphFile {
    /// Begins the file of a graph whose edges have no direction.
    ///
    /// # Errors
    /// Where the file exists or cannot be made.
    pub fn begin(
        target: &Target,
        format: GraphFormat,
        node: &'static [GraphAttribute],
        edge: &'static [GraphAttribute],
    ) -> Result<Self> {
        let mut file = GraphFile {
            output: target.open()?,
            format,
            attributes: Attributes { node, edge },
            text: Vec::new(),
        };
        match format {
            GraphFormat::GraphMl => graphml::opening(&file.attributes, &mut file.text),
            GraphFormat::Dot => dot::opening(&mut file.text),
        }
        Ok(file)
    }

    /// Adds a node, with the values of its attributes in order; an empty one is left out.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub fn node(&mut self, id: &str, values: &[&str]) -> Result<()> {
        match self.format {
            GraphFormat::GraphMl => graphml::node(id, values, &mut self.text),
            GraphFormat::Dot => dot::node(id, self.attributes.node, values, &mut self.text),
        }
        self.hand_over(GATHERED)
    }

    /// Adds an edge between two nodes.
    ///
    /// # Errors
    /// Where the file cannot be written.
    pub fn edge(&mut self, between: [&str; 2], values: &[&str]) -> Result<()> {
        match self.format {
            GraphFormat::GraphMl => graphml::edge(between, values, &mut self.text),
            GraphFormat::Dot => dot::edge(between, self.attributes.edge, values, &mut self.text),
        }
        self.hand_over(GATHERED)
    }

    fn hand_over(&mut self, most: usize) -> Result<()> {
        if self.text.len() > most {
            self.output.write(&self.text)?;
            self.text.clear();
        }
        Ok(())
    }

    /// The file, whole but not published yet.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub fn finish(mut self) -> Result<Output> {
        match self.format {
            GraphFormat::GraphMl => graphml::closing(&mut self.text),
            GraphFormat::Dot => dot::closing(&mut self.text),
        }
        self.hand_over(0)?;
        Ok(self.output)
    }
}

#[cfg(test)]
mod tests {
    use quick_xml::Reader;
    use quick_xml::events::Event;

    use super::*;
    use crate::rows::IfThere;

    /// Whatever a label holds, the file is well-formed XML, and the label is read as it was.
    #[test]
    fn labels_come_back() {
        const NODE: &[GraphAttribute] = &[
            GraphAttribute { name: "label", is_number: false },
            GraphAttribute { name: "records", is_number: true },
        ];
        let folder = tempfile::TempDir::new().unwrap();
        let labels = [
            "a&b<c>\"d'@h-works.org",
            "two\nlines\t",
            "\u{1b}[31m",
            "zoë@bücher.example",
            "]]>",
            "back\\slash",
        ];
        let write = |name: &str| {
            let path = folder.path().join(name);
            let target = Target::File { path: path.clone(), if_there: IfThere::Refuse };
            let mut file =
                GraphFile::begin(&target, GraphFormat::of(&path).unwrap(), NODE, &NODE[1..]).unwrap();
            for label in labels {
                file.node("n1", &[label, "7"]).unwrap();
            }
            file.edge(["n1", "n1"], &["3"]).unwrap();
            file.finish().unwrap().finish().unwrap();
            std::fs::read_to_string(path).unwrap()
        };
        let xml = write("links.graphml");
        let (mut reader, mut text, mut read) = (Reader::from_str(&xml), String::new(), Vec::new());
        loop {
            match reader.read_event().unwrap() {
                Event::Eof => break,
                Event::Text(part) => text.push_str(&part),
                Event::GeneralRef(name) => {
                    text.push_str(quick_xml::escape::resolve_predefined_entity(&name).unwrap());
                }
                Event::End(end) if end.name().as_ref() == "data" => read.push(std::mem::take(&mut text)),
                _ => text.clear(),
            }
        }
        let read: Vec<&str> =
            read.iter().map(String::as_str).filter(|text| !["7", "3"].contains(text)).collect();
        assert_eq!(read, labels.map(|label| label.replace('\u{1b}', "\u{FFFD}")));
        assert_eq!(
            write("links.dot").lines().skip(2).collect::<Vec<_>>(),
            [
                "  n1 [label=\"two\\nlines\u{FFFD}\", records=7];",
                "  n1 [label=\"\u{FFFD}[31m\", records=7];",
                "  n1 [label=\"zoë@bücher.example\", records=7];",
                "  n1 [label=\"]]>\", records=7];",
                "  n1 [label=\"back\\\\slash\", records=7];",
                "  n1 -- n1 [records=3];",
                "}",
            ]
        );
    }
}
