//! Addresses that hang together, directly or over others.

use crate::jobs::links::graph::{Graph, Shared};

/// The parts of the graph with two addresses at least, the largest first.
pub(super) struct Parts {
    /// By address: the number of its part, from 1; 0 where it is alone.
    pub(super) of: Vec<u32>,
    /// By part: how many addresses are in it.
    pub(super) sizes: Vec<u32>,
}

impl Parts {
    /// The parts that come from what `joins`.
    pub(super) fn of(graph: &Graph, joins: impl Fn(&Shared, u32) -> bool) -> Self {
        let mut leads: Vec<u32> = (0..).take(graph.addresses.len()).collect();
        for shared in &graph.shared {
            for node in shared.nodes().filter(|node| joins(shared, *node)) {
                let edges = shared.edges(node);
                for (other, _) in &edges[1..] {
                    let (one, other) = (leader(&mut leads, edges[0].0), leader(&mut leads, *other));
                    // The first address leads, so that parts of one size stay in its order.
                    leads[one.max(other) as usize] = one.min(other);
                }
            }
        }
        let mut sizes = vec![0_u32; leads.len()];
        for address in (0..).take(leads.len()) {
            sizes[leader(&mut leads, address) as usize] += 1;
        }
        let mut several: Vec<u32> = (0..).take(leads.len()).filter(|led| sizes[*led as usize] > 1).collect();
        several.sort_by_key(|led| std::cmp::Reverse(sizes[*led as usize]));
        let mut numbers = vec![0_u32; leads.len()];
        for (number, led) in (1..).zip(&several) {
            numbers[*led as usize] = number;
        }
        Parts {
            of: leads.iter().map(|led| numbers[*led as usize]).collect(),
            sizes: several.iter().map(|led| sizes[*led as usize]).collect(),
        }
    }

    /// The part of an address; none where it is alone.
    pub(super) fn part(&self, address: u32) -> Option<u32> {
        Some(self.of[address as usize]).filter(|part| *part > 0)
    }
}

/// The first address of those that hang together with this one so far.
fn leader(leads: &mut [u32], mut address: u32) -> u32 {
    while leads[address as usize] != address {
        let next = leads[address as usize];
        leads[address as usize] = leads[next as usize];
        address = next;
    }
    address
}
