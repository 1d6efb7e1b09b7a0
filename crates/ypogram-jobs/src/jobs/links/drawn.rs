//! What of the graph is drawn: the groups of addresses that hang together, the largest first, as far as there is room.

use std::collections::{BTreeSet, HashMap, VecDeque};

use crate::jobs::links::graph::Graph;
use crate::jobs::links::node::NodeKind;
use crate::jobs::links::parts::Parts;
use crate::jobs::links::report::{Drawn, DrawnGroup, DrawnNode};

/// Nodes of one group, at most, where not all groups have room.
const OF_ONE_GROUP: usize = 120;

/// The place of domains among what is shared.
const DOMAINS: usize = 1;

/// A node: an address, or what is shared, as its kind and its number.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
enum Node {
    Shared(usize, u32),
    Address(u32),
}

/// The groups of the addresses in `wanted`, or all, in `most` nodes.
pub(super) fn of(graph: &Graph, parts: &Parts, wanted: Option<&BTreeSet<u32>>, most: usize) -> Drawn {
    let mut numbers: BTreeSet<u32> = match wanted {
        Some(wanted) => wanted.iter().filter_map(|address| parts.part(*address)).collect(),
        None => (1..).take(parts.sizes.len().min(most)).collect(),
    };
    let all = wanted.map_or(parts.sizes.len(), |_| numbers.len());
    // A group has two addresses and what they share at least.
    numbers = numbers.into_iter().take(most).collect();
    let nodes = nodes_of(graph, parts, &numbers);
    let total: usize = nodes.values().map(|links| links.len()).sum();
    let of_one = if total <= most && numbers.len() == all { most } else { OF_ONE_GROUP };
    let (mut drawn, mut room) = (Drawn { groups: Vec::new(), of: all as u64 }, most);
    for number in &numbers {
        let group = group(graph, &nodes[number], of_one.min(most));
        if group.nodes.len() > room {
            break;
        }
        room -= group.nodes.len();
        drawn.groups.push(DrawnGroup { addresses: u64::from(parts.sizes[*number as usize - 1]), ..group });
    }
    drawn
}

/// Each node of a part with those that it hangs on, in order.
type Links = HashMap<Node, Vec<Node>>;

/// The nodes of each of these parts.
fn nodes_of(graph: &Graph, parts: &Parts, numbers: &BTreeSet<u32>) -> HashMap<u32, Links> {
    let mut of: HashMap<u32, Links> = numbers.iter().map(|number| (*number, Links::new())).collect();
    for (kind, shared) in graph.shared.iter().enumerate() {
        for node in shared.nodes().filter(|node| shared.joins(*node)) {
            let edges = shared.edges(node);
            let Some(links) = parts.part(edges[0].0).and_then(|part| of.get_mut(&part)) else { continue };
            let node = Node::Shared(kind, node);
            for (address, _) in edges {
                let address = Node::Address(*address);
                links.entry(node).or_default().push(address);
                links.entry(address).or_default().push(node);
            }
        }
    }
    of
}

/// At most `most` nodes of a group, from the one with the most links on. Where there are more, addresses that hang on nothing but a
/// domain are left out first: the domain tells how many it has.
fn group(graph: &Graph, links: &Links, most: usize) -> DrawnGroup {
    let hangs_on_a_domain = |node: &Node| matches!(links[node][..], [Node::Shared(DOMAINS, _)]);
    let leaves_out = links.len() > most;
    let weight = |node: &Node| (std::cmp::Reverse(links[node].len()), *node);
    let Some(first) = links.keys().min_by_key(|node| weight(node)) else { return DrawnGroup::default() };
    let mut places: HashMap<Node, usize> = HashMap::from([(*first, 0)]);
    let (mut order, mut queue) = (vec![*first], VecDeque::from([*first]));
    while let Some(node) = queue.pop_front() {
        let mut next = links[&node].clone();
        next.retain(|node| !leaves_out || !hangs_on_a_domain(node));
        next.sort_by_key(|node| weight(node));
        for node in next {
            if order.len() < most && !places.contains_key(&node) {
                places.insert(node, order.len());
                order.push(node);
                queue.push_back(node);
            }
        }
    }
    let mut edges: Vec<(usize, usize)> = Vec::new();
    for (place, node) in order.iter().enumerate() {
        if let Node::Shared(..) = node {
            edges.extend(links[node].iter().filter_map(|other| Some((place, *places.get(other)?))));
        }
    }
    DrawnGroup {
        addresses: 0,
        is_cut: order.len() < links.len(),
        nodes: order.iter().map(|node| drawn(graph, *node)).collect(),
        edges,
    }
}

fn drawn(graph: &Graph, node: Node) -> DrawnNode {
    match node {
        Node::Address(address) => DrawnNode {
            kind: NodeKind::Address,
            text: graph.address(address),
            class: "",
            count: u64::from(graph.records[address as usize]),
        },
        Node::Shared(kind, node) => {
            let shared = &graph.shared[kind];
            DrawnNode {
                kind: shared.kind.clone(),
                text: shared.text(node),
                class: shared.class(node).map_or("", |class| class.word()),
                count: shared.sharers(node) as u64,
            }
        }
    }
}
