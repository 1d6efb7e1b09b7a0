//! The graph: addresses, and what they share.

use ypogram_core::Class;

use crate::engine::texts::Texts;
use crate::jobs::links::gathered::{AddressLinks, Gathered};
use crate::jobs::links::node::NodeKind;
use crate::jobs::links::values;
use crate::plan::contact_trait::ContactTrait;

/// Local parts and values that more addresses share bring nobody together: they are a common name, a switchboard, a word for nothing.
pub(super) const MOST_JOINED: usize = 16;

/// The graph.
pub(super) struct Graph {
    /// The addresses.
    pub(super) addresses: Texts,
    /// How many records hold each.
    pub(super) records: Vec<u32>,
    /// What they share: local parts, domains, then the values of each field.
    pub(super) shared: Vec<Shared>,
}

/// What addresses share, of one kind.
pub(super) struct Shared {
    pub(super) kind: NodeKind,
    /// As it is compared.
    pub(super) keys: Texts,
    /// As it stands; none where that is the same.
    shown: Vec<Box<str>>,
    /// What the values of a field are.
    pub(super) what: Option<ContactTrait>,
    /// What kind of mailbox each domain gives.
    class: Vec<Option<Class>>,
    /// Each is the local part of a role account.
    is_role: Vec<bool>,
    /// Where the edges of each end.
    ends: Vec<usize>,
    /// Addresses, and how many records say so, sorted.
    edges: Vec<(u32, u32)>,
    /// For a telephone number, the number that stands for it.
    stands_for: Vec<u32>,
}

impl Graph {
    /// The graph of what was gathered.
    pub(super) fn of(gathered: Gathered) -> Self {
        let Gathered { addresses, links, local_parts, is_role, domains, class, fields } = gathered;
        let edges = |number: fn(&AddressLinks) -> u32| -> Vec<(u32, u32, u32)> {
            (0..).zip(&links).map(|(address, links)| (number(links), address, links.records)).collect()
        };
        let shared = |kind, keys: Texts, edges| {
            let (ends, edges) = by_node(keys.len(), edges);
            let (shown, class, is_role, stands_for) = Default::default();
            Shared { kind, keys, shown, what: None, class, is_role, ends, edges, stands_for }
        };
        let (of_local_parts, of_domains) = (edges(|links| links.local_part), edges(|links| links.domain));
        let local_parts = shared(NodeKind::LocalPart, local_parts, of_local_parts);
        let domains = shared(NodeKind::Domain, domains, of_domains);
        let mut all = vec![Shared { is_role, ..local_parts }, Shared { class, ..domains }];
        for field in fields {
            let stands_for = match field.what {
                Some(ContactTrait::Telephone) => {
                    let text = |number| std::str::from_utf8(field.keys.get(number)).unwrap_or_default();
                    values::one_of_same_numbers(&(0..).take(field.keys.len()).map(text).collect::<Vec<_>>())
                }
                _ => Vec::new(),
            };
            let value = |value: u32| stands_for.get(value as usize).copied().unwrap_or(value);
            let edges = field.edges.iter().map(|(&(of, address), &records)| (value(of), address, records));
            let of_field = shared(NodeKind::Field(field.name), field.keys, edges.collect());
            all.push(Shared { shown: field.shown, what: field.what, stands_for, ..of_field });
        }
        Graph { addresses, records: links.iter().map(|links| links.records).collect(), shared: all }
    }

    /// An address as text.
    pub(super) fn address(&self, number: u32) -> String {
        String::from_utf8_lossy(self.addresses.get(number)).into_owned()
    }

    /// The domain of an address.
    pub(super) fn domain(&self, address: u32) -> String {
        let address = self.address(address);
        address.rsplit_once('@').map_or_else(String::new, |(_, domain)| domain.to_owned())
    }
}

/// Edges by the node they hang on, each pair once.
fn by_node(nodes: usize, mut edges: Vec<(u32, u32, u32)>) -> (Vec<usize>, Vec<(u32, u32)>) {
    edges.sort_unstable();
    let mut ends = Vec::with_capacity(nodes);
    let mut told: Vec<(u32, u32)> = Vec::with_capacity(edges.len());
    let mut rest = &edges[..];
    for node in (0..).take(nodes) {
        let (own, behind) = rest.split_at(rest.partition_point(|(of, ..)| *of <= node));
        for same in own.chunk_by(|one, other| one.1 == other.1) {
            told.push((same[0].1, same.iter().map(|(.., records)| *records).sum()));
        }
        ends.push(told.len());
        rest = behind;
    }
    (ends, told)
}

impl Shared {
    /// The nodes, but for telephone numbers for which others stand.
    pub(super) fn nodes(&self) -> impl Iterator<Item = u32> + '_ {
        (0..).take(self.keys.len()).filter(|&node| !self.edges(node).is_empty())
    }

    /// The addresses that share it, each with how many records say so.
    pub(super) fn edges(&self, node: u32) -> &[(u32, u32)] {
        let node = node as usize;
        let start = node.checked_sub(1).map_or(0, |before| self.ends[before]);
        &self.edges[start..self.ends[node]]
    }

    /// How many addresses share it.
    pub(super) fn sharers(&self, node: u32) -> usize {
        self.edges(node).len()
    }

    /// As it stands.
    pub(super) fn text(&self, node: u32) -> String {
        match self.shown.get(node as usize) {
            Some(shown) => shown.to_string(),
            None => String::from_utf8_lossy(self.keys.get(node)).into_owned(),
        }
    }

    /// What kind of mailbox a domain gives.
    pub(super) fn class(&self, node: u32) -> Option<Class> {
        self.class.get(node as usize).copied().flatten()
    }

    /// The node of a value as somebody types it.
    pub(super) fn find(&self, text: &str) -> Option<u32> {
        let keys = match &self.kind {
            NodeKind::Field(_) => {
                values::values_of(text.as_bytes(), self.what).into_iter().map(|(key, _)| key).collect()
            }
            _ => vec![text.trim().to_lowercase()],
        };
        let node = keys.iter().find_map(|key| self.keys.find(key.as_bytes()))?;
        Some(self.stands_for.get(node as usize).copied().unwrap_or(node))
    }

    /// Whether it brings those together who share it: strangers share a provider, an `info` and what very many have.
    pub(super) fn joins(&self, node: u32) -> bool {
        let sharers = self.sharers(node);
        match self.kind {
            NodeKind::Domain => sharers > 1 && self.is_firm(node),
            _ => (2..=MOST_JOINED).contains(&sharers) && !self.is_role(node),
        }
    }

    /// Whether it is the local part of a role account.
    pub(super) fn is_role(&self, node: u32) -> bool {
        self.is_role.get(node as usize) == Some(&true)
    }

    /// More share it than are brought together by it.
    pub(super) fn is_too_common(&self, node: u32) -> bool {
        self.kind != NodeKind::Domain && self.sharers(node) > MOST_JOINED && !self.is_role(node)
    }

    /// Whether a domain is that of a firm, a school or the like, and not of those who give mailboxes to everybody.
    pub(super) fn is_firm(&self, node: u32) -> bool {
        const PROVIDERS: [Class; 6] =
            [Class::Free, Class::Isp, Class::Paid, Class::Relay, Class::Disposable, Class::Token];
        self.class(node).is_some_and(|class| !PROVIDERS.contains(&class))
    }
}
