//! The graph as a file, or as two tables.

use std::collections::BTreeSet;

use ypogram_io::{GraphAttribute, GraphFile, Output, Result};

use crate::engine::side_table::SideTable;
use crate::jobs::links::graph::{Graph, Shared};
use crate::jobs::links::node::NodeKind;
use crate::jobs::links::options::GraphTarget;
use crate::jobs::links::parts::Parts;

const fn text(name: &'static str) -> GraphAttribute {
    GraphAttribute { name, is_number: false }
}

const fn number(name: &'static str) -> GraphAttribute {
    GraphAttribute { name, is_number: true }
}

/// What is told of a node.
const OF_NODES: &[GraphAttribute] =
    &[text("kind"), text("label"), text("class"), number("records"), number("addresses"), number("group")];

/// What is told of an edge.
const OF_EDGES: &[GraphAttribute] = &[text("kind"), number("records")];

/// Where nodes and edges go.
enum Sink {
    Graph(Box<GraphFile>),
    Tables(Box<SideTable>, Box<SideTable>),
}

impl Sink {
    fn open(target: &GraphTarget) -> Result<Option<Self>> {
        let tables = |target, names: &[&str], known: &[GraphAttribute], rows| {
            let columns: Vec<&str> = names.iter().copied().chain(known.iter().map(|one| one.name)).collect();
            let numbers = known.iter().filter(|one| one.is_number).map(|one| one.name);
            SideTable::open(target, &columns, &numbers.collect::<Vec<_>>(), rows).map(Box::new)
        };
        Ok(match target {
            GraphTarget::Nowhere => None,
            GraphTarget::File(target, format) => {
                Some(Sink::Graph(Box::new(GraphFile::begin(target, *format, OF_NODES, OF_EDGES)?)))
            }
            GraphTarget::Tables { nodes, edges, rows } => {
                let nodes = tables(nodes, &["id"], OF_NODES, rows)?;
                Some(Sink::Tables(nodes, tables(edges, &["from", "to"], OF_EDGES, rows)?))
            }
        })
    }

    fn node(&mut self, id: &str, values: &[&str]) -> Result<()> {
        match self {
            Sink::Graph(file) => file.node(id, values),
            Sink::Tables(nodes, _) => nodes.add([id].iter().chain(values)),
        }
    }

    fn edge(&mut self, between: [&str; 2], values: &[&str]) -> Result<()> {
        match self {
            Sink::Graph(file) => file.edge(between, values),
            Sink::Tables(_, edges) => edges.add(between.iter().chain(values)),
        }
    }

    fn finish(self) -> Result<()> {
        Output::finish_all(match self {
            Sink::Graph(file) => vec![file.finish()?],
            Sink::Tables(nodes, edges) => vec![nodes.finish()?, edges.finish()?],
        })
    }
}

/// Writes the graph, or what of it hangs on the addresses in `wanted`; gives how many nodes and edges that is.
pub(super) fn write(
    target: &GraphTarget,
    graph: &Graph,
    parts: &Parts,
    wanted: Option<&BTreeSet<u32>>,
) -> Result<(u64, u64)> {
    let Some(mut sink) = Sink::open(target)? else { return Ok((0, 0)) };
    let (mut nodes, mut edges) = (0, 0);
    let is_wanted = |address: &u32| wanted.is_none_or(|wanted| wanted.contains(address));
    for address in (0..).take(graph.addresses.len()).filter(is_wanted) {
        let part = parts.of[address as usize].to_string();
        let records = graph.records[address as usize].to_string();
        let label = graph.address(address);
        sink.node(&id("a", address), &[NodeKind::Address.word(), &label, "", &records, "1", &part])?;
        nodes += 1;
    }
    for (nth, shared) in graph.shared.iter().enumerate() {
        for node in shared.nodes().filter(|node| shared.edges(*node).iter().any(|(of, _)| is_wanted(of))) {
            write_shared(&mut sink, (nth, shared), node, parts)?;
            nodes += 1;
        }
    }
    for (nth, shared) in graph.shared.iter().enumerate() {
        for node in shared.nodes() {
            for (address, records) in shared.edges(node).iter().filter(|(address, _)| is_wanted(address)) {
                let between = [&*id("a", *address), &*id(&prefix(nth), node)];
                sink.edge(between, &[shared.kind.word(), &records.to_string()])?;
                edges += 1;
            }
        }
    }
    sink.finish()?;
    Ok((nodes, edges))
}

fn write_shared(sink: &mut Sink, (nth, shared): (usize, &Shared), node: u32, parts: &Parts) -> Result<()> {
    let sharers = shared.edges(node);
    let records: u64 = sharers.iter().map(|(_, records)| u64::from(*records)).sum();
    let group = if shared.joins(node) { parts.of[sharers[0].0 as usize] } else { 0 };
    let class = shared.class(node).map_or("", |class| class.word());
    let numbers = [records, sharers.len() as u64, u64::from(group)].map(|number| number.to_string());
    let [records, addresses, group] = &numbers;
    let values = [shared.kind.word(), &*shared.text(node), class, records, addresses, group];
    sink.node(&id(&prefix(nth), node), &values)
}

/// What the identifiers of local parts, domains and the values of each field begin with.
fn prefix(nth: usize) -> String {
    match nth {
        0 => "l".to_owned(),
        1 => "d".to_owned(),
        field => format!("v{}_", field - 1),
    }
}

fn id(prefix: &str, number: u32) -> String {
    format!("{prefix}{}", u64::from(number) + 1)
}
