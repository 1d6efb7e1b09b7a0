//! Who stands behind an address, a local part, a domain or a value.

use std::collections::BTreeSet;

use crate::jobs::links::graph::Graph;
use crate::jobs::links::node::NodeKind;
use crate::jobs::links::report::{Behind, BehindRow, ShareRow};

/// As many are kept for people.
const SHOWN: usize = 50;

/// Who stands behind `text`, with the addresses that share a local part or a value with those; none where nobody has it.
pub(super) fn of(text: &str, graph: &Graph) -> Option<(Behind, BTreeSet<u32>)> {
    let address = graph.addresses.find(text.trim().to_lowercase().as_bytes());
    let (kind, value, direct) = match address {
        Some(address) => (NodeKind::Address, graph.address(address), vec![address]),
        None => {
            // A domain before a local part of that name.
            let [local_parts, domains, fields @ ..] = &graph.shared[..] else { unreachable!("two at least") };
            let found = [domains, local_parts].into_iter().chain(fields);
            let (shared, node) = found.filter_map(|shared| Some((shared, shared.find(text)?))).next()?;
            let direct = shared.edges(node).iter().map(|(address, _)| *address).collect();
            (shared.kind.clone(), shared.text(node), direct)
        }
    };
    let own: BTreeSet<u32> = direct.iter().copied().collect();
    let mut beside = BTreeSet::new();
    for shared in graph.shared.iter().filter(|shared| shared.kind != NodeKind::Domain) {
        for edges in shared.nodes().filter(|node| shared.joins(*node)).map(|node| shared.edges(node)) {
            if edges.iter().any(|(address, _)| own.contains(address)) {
                beside.extend(
                    edges.iter().map(|(address, _)| *address).filter(|address| !own.contains(address)),
                );
            }
        }
    }
    let beside: Vec<u32> = beside.into_iter().collect();
    let mut first = rows(graph, &direct);
    // That they share what was asked for is known.
    first
        .iter_mut()
        .for_each(|row| row.shares.retain(|share| (&share.kind, &share.value) != (&kind, &value)));
    let behind = Behind {
        kind,
        value,
        addresses: direct.len() as u64,
        first,
        beside: beside.len() as u64,
        first_beside: rows(graph, &beside),
    };
    Some((behind, direct.into_iter().chain(beside).collect()))
}

/// The first of `addresses`, with what they share.
fn rows(graph: &Graph, addresses: &[u32]) -> Vec<BehindRow> {
    let first = &addresses[..addresses.len().min(SHOWN)];
    let mut rows: Vec<BehindRow> = first
        .iter()
        .map(|&address| BehindRow {
            address: graph.address(address),
            records: u64::from(graph.records[address as usize]),
            shares: Vec::new(),
        })
        .collect();
    for shared in &graph.shared {
        for node in shared.nodes().filter(|node| shared.joins(*node)) {
            for (address, _) in shared.edges(node) {
                if let Some(row) = first.iter().position(|known| known == address) {
                    rows[row].shares.push(ShareRow {
                        kind: shared.kind.clone(),
                        value: shared.text(node),
                        addresses: shared.sharers(node) as u64,
                    });
                }
            }
        }
    }
    rows
}
