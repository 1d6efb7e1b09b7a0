//! What the graph tells in figures.

use std::cmp::Reverse;
use std::collections::{BTreeSet, HashMap};

use crate::jobs::links::graph::{Graph, MOST_JOINED, Shared};
use crate::jobs::links::node::NodeKind;
use crate::jobs::links::parts::Parts;
use crate::jobs::links::report::{KindReport, LinksReport, OddRow, SharedRow, SizeRow};

/// As many are kept for people.
const SHOWN: usize = 20;

/// Addresses of a row that are kept for people.
const FIRST: usize = 4;

/// From so many on it is out of the usual: domains of one local part, addresses of one value, values of one address.
const ODD: usize = 4;

/// The upper ends of the sizes that are told together.
const SIZES: [u64; 5] = [2, 3, 5, 10, 100];

/// Counts everything.
pub(super) fn count(graph: &Graph, parts: &Parts, report: &mut LinksReport) {
    report.addresses = graph.addresses.len() as u64;
    report.kinds = graph.shared.iter().map(|shared| kind(graph, shared)).collect();
    let domains = &graph.shared[1];
    for domain in domains.nodes().filter(|domain| domains.joins(*domain)) {
        report.firms += 1;
        report.firm_addresses += domains.sharers(domain) as u64;
    }
    households(graph, report);
    report.groups = parts.sizes.len() as u64;
    report.in_groups = parts.sizes.iter().map(|size| u64::from(*size)).sum();
    report.sizes = sizes(parts);
    report.odd = odd(graph);
}

fn kind(graph: &Graph, shared: &Shared) -> KindReport {
    let several: Vec<u32> = shared.nodes().filter(|node| shared.sharers(*node) > 1).collect();
    let mut largest = several.clone();
    largest.sort_by_key(|node| Reverse(shared.sharers(*node)));
    KindReport {
        kind: shared.kind.clone(),
        distinct: shared.nodes().count() as u64,
        shared: several.len() as u64,
        too_common: several.iter().filter(|node| shared.is_too_common(**node)).count() as u64,
        largest: largest.iter().take(SHOWN).map(|node| row(graph, shared, *node)).collect(),
    }
}

fn row(graph: &Graph, shared: &Shared, node: u32) -> SharedRow {
    let addresses = shared.edges(node).iter().map(|(address, _)| *address);
    SharedRow {
        value: shared.text(node),
        class: shared.class(node).map_or("", |class| class.word()),
        addresses: shared.sharers(node) as u64,
        domains: addresses.clone().map(|address| graph.domain(address)).collect::<BTreeSet<_>>().len() as u64,
        first: addresses.take(FIRST).map(|address| graph.address(address)).collect(),
    }
}

/// Groups that share values of fields, as far as they are not of one firm.
fn households(graph: &Graph, report: &mut LinksReport) {
    let by_fields =
        Parts::of(graph, |shared, node| matches!(shared.kind, NodeKind::Field(_)) && shared.joins(node));
    let domains = &graph.shared[1];
    let mut firm_of = vec![None; graph.addresses.len()];
    for domain in domains.nodes().filter(|domain| domains.is_firm(*domain)) {
        for (address, _) in domains.edges(domain) {
            firm_of[*address as usize] = Some(domain);
        }
    }
    // By part: the firm of the first address, and whether all are there.
    let mut firms: Vec<Option<Option<u32>>> = vec![None; by_fields.sizes.len()];
    for (address, firm) in (0..).zip(&firm_of) {
        let Some(part) = by_fields.part(address) else { continue };
        let known = &mut firms[part as usize - 1];
        *known = Some(firm.filter(|_| known.is_none_or(|known| known == *firm)));
    }
    for (size, firm) in by_fields.sizes.iter().zip(firms) {
        if *size as usize <= MOST_JOINED && firm.flatten().is_none() {
            report.households += 1;
            report.household_addresses += u64::from(*size);
        }
    }
}

fn sizes(parts: &Parts) -> Vec<SizeRow> {
    let froms = [2].into_iter().chain(SIZES.iter().map(|to| to + 1));
    let mut rows: Vec<SizeRow> = froms
        .zip(SIZES.iter().copied().map(Some).chain([None]))
        .map(|(from, to)| SizeRow { from, to, groups: 0, addresses: 0 })
        .collect();
    for size in parts.sizes.iter().map(|size| u64::from(*size)) {
        let row = rows.iter_mut().find(|row| row.to.is_none_or(|to| size <= to));
        let row = row.expect("the last has no limit");
        row.groups += 1;
        row.addresses += size;
    }
    rows.retain(|row| row.groups > 0);
    rows
}

fn odd(graph: &Graph) -> Vec<OddRow> {
    let mut rows = Vec::new();
    for shared in graph.shared.iter().filter(|shared| shared.kind != NodeKind::Domain) {
        let of = match shared.kind {
            NodeKind::LocalPart => NodeKind::Domain,
            _ => NodeKind::Address,
        };
        for node in shared.nodes().filter(|node| shared.sharers(*node) >= ODD && !shared.is_role(*node)) {
            let count = shared.sharers(node) as u64;
            rows.push(OddRow { kind: shared.kind.clone(), value: shared.text(node), count, of: of.clone() });
        }
        if let NodeKind::Field(_) = shared.kind {
            let mut values: HashMap<u32, u64> = HashMap::new();
            for (address, _) in shared.nodes().flat_map(|node| shared.edges(node)) {
                *values.entry(*address).or_default() += 1;
            }
            for (address, count) in values.into_iter().filter(|(_, count)| *count >= ODD as u64) {
                let (kind, value) = (NodeKind::Address, graph.address(address));
                rows.push(OddRow { kind, value, count, of: shared.kind.clone() });
            }
        }
    }
    let key = |row: &OddRow| (Reverse(row.count), row.kind.clone(), row.value.clone(), row.of.clone());
    rows.sort_by_cached_key(key);
    rows.truncate(SHOWN);
    rows
}
