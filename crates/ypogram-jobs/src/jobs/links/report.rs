//! What came of it.

use serde::Serialize;

use crate::engine::reading::SourceReport;
use crate::jobs::links::node::NodeKind;
use crate::plan::fields::HowChosen;
use crate::plan::read_columns::ReadColumns;

/// What came of it.
#[derive(Debug, Default)]
pub struct LinksReport {
    /// What was read.
    pub sources: Vec<SourceReport>,
    /// Where addresses were looked for.
    pub columns: ReadColumns,
    /// How their fields were chosen.
    pub how: HowChosen,
    /// Records read.
    pub records: u64,
    /// Records without a usable address.
    pub without: u64,
    /// Usable addresses that records hold beside their first.
    pub further: u64,
    /// Distinct addresses.
    pub addresses: u64,
    /// What addresses can share, by kind: local parts, domains, the values of each field.
    pub kinds: Vec<KindReport>,
    /// Domains of firms, schools and the like with several addresses.
    pub firms: u64,
    /// Their addresses.
    pub firm_addresses: u64,
    /// Groups of addresses that share values of fields, and are not all at one firm.
    pub households: u64,
    /// Their addresses.
    pub household_addresses: u64,
    /// Groups of addresses that hang together, directly or over others.
    pub groups: u64,
    /// Their addresses.
    pub in_groups: u64,
    /// How large these groups are.
    pub sizes: Vec<SizeRow>,
    /// What is out of the usual, the oddest first.
    pub odd: Vec<OddRow>,
    /// A field with telephone numbers, by its name, where none was named.
    pub telephone_field: Option<String>,
    /// What stands behind the value that was asked for.
    pub behind: Option<Behind>,
    /// Nodes and edges that were written.
    pub written: (u64, u64),
    /// What is drawn.
    pub drawn: Option<Drawn>,
}

/// What addresses can share, of one kind.
#[derive(Clone, Debug, Serialize)]
pub struct KindReport {
    /// What it is.
    #[serde(flatten)]
    pub kind: NodeKind,
    /// Distinct ones.
    pub distinct: u64,
    /// Those with several addresses.
    pub shared: u64,
    /// Those that so many share that they bring nobody together.
    pub too_common: u64,
    /// Those with the most addresses.
    pub largest: Vec<SharedRow>,
}

/// Something that several addresses share.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct SharedRow {
    /// As it stands.
    pub value: String,
    /// The class of a domain.
    pub class: &'static str,
    /// How many addresses share it.
    pub addresses: u64,
    /// At how many domains.
    pub domains: u64,
    /// The first addresses.
    pub first: Vec<String>,
}

/// Groups of about one size.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct SizeRow {
    /// Addresses of the smallest.
    pub from: u64,
    /// Of the largest; none without limit.
    pub to: Option<u64>,
    /// Groups.
    pub groups: u64,
    /// Their addresses.
    pub addresses: u64,
}

/// Something out of the usual.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct OddRow {
    /// What it is.
    #[serde(flatten)]
    pub kind: NodeKind,
    /// As it stands.
    pub value: String,
    /// How many.
    pub count: u64,
    /// Of what.
    pub of: NodeKind,
}

/// Who stands behind something.
#[derive(Clone, Debug, Serialize)]
pub struct Behind {
    /// What it is.
    #[serde(flatten)]
    pub kind: NodeKind,
    /// As it stands.
    pub value: String,
    /// Its addresses.
    pub addresses: u64,
    /// The first of them.
    pub first: Vec<BehindRow>,
    /// Further addresses that share a local part or a value with those.
    pub beside: u64,
    /// The first of them.
    pub first_beside: Vec<BehindRow>,
}

/// An address behind something.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct BehindRow {
    /// The address.
    pub address: String,
    /// Records that hold it.
    pub records: u64,
    /// What it shares with others.
    pub shares: Vec<ShareRow>,
}

/// Something that an address shares with others.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ShareRow {
    /// What it is.
    #[serde(flatten)]
    pub kind: NodeKind,
    /// As it stands.
    pub value: String,
    /// How many addresses have it.
    pub addresses: u64,
}

/// What is drawn.
#[derive(Clone, Debug, Default)]
pub struct Drawn {
    /// The groups.
    pub groups: Vec<DrawnGroup>,
    /// How many there are in all.
    pub of: u64,
}

/// A group of addresses that hang together.
#[derive(Clone, Debug, Default)]
pub struct DrawnGroup {
    /// Its addresses in all.
    pub addresses: u64,
    /// The nodes that are drawn.
    pub nodes: Vec<DrawnNode>,
    /// Pairs of them.
    pub edges: Vec<(usize, usize)>,
    /// There are more nodes.
    pub is_cut: bool,
}

/// A node that is drawn.
#[derive(Clone, Debug)]
pub struct DrawnNode {
    /// What it is.
    pub kind: NodeKind,
    /// As it stands.
    pub text: String,
    /// The class of a domain.
    pub class: &'static str,
    /// Addresses that share it; of an address, records that hold it.
    pub count: u64,
}
