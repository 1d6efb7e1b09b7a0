//! The summary of `links`.

use serde::Serialize;
use ypogram_jobs::links::{Behind, KindReport, LinksReport, OddRow, SizeRow};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct Counts {
    records: u64,
    no_usable_address: u64,
    further_addresses: u64,
    addresses: u64,
    firms: u64,
    firm_addresses: u64,
    households: u64,
    household_addresses: u64,
    address_groups: u64,
    addresses_in_groups: u64,
    nodes_written: u64,
    edges_written: u64,
}

#[derive(Serialize)]
struct More<'a> {
    kinds: &'a [KindReport],
    sizes: &'a [SizeRow],
    odd: &'a [OddRow],
    behind: Option<&'a Behind>,
}

/// The summary of `links`.
pub(crate) fn links(report: &LinksReport) -> String {
    let counts = Counts {
        records: report.records,
        no_usable_address: report.without,
        further_addresses: report.further,
        addresses: report.addresses,
        firms: report.firms,
        firm_addresses: report.firm_addresses,
        households: report.households,
        household_addresses: report.household_addresses,
        address_groups: report.groups,
        addresses_in_groups: report.in_groups,
        nodes_written: report.written.0,
        edges_written: report.written.1,
    };
    Summary::of("links", &report.sources, counts).with_columns(report.columns.clone()).text(More {
        kinds: &report.kinds,
        sizes: &report.sizes,
        odd: &report.odd,
        behind: report.behind.as_ref(),
    })
}
