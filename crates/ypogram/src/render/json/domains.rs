//! The summary of `domains`.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_jobs::domains::{DomainRow, DomainsReport};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct Counts<'a> {
    records: u64,
    no_domain: u64,
    domains: u64,
    written: u64,
    slips: u64,
    slip_records: u64,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    answers: &'a BTreeMap<&'static str, u64>,
    domain_classes: &'a BTreeMap<&'static str, u64>,
}

#[derive(Serialize)]
struct More<'a> {
    first: &'a [DomainRow],
    first_slips: &'a [DomainRow],
}

/// The summary of `domains`.
pub(crate) fn domains(report: &DomainsReport) -> String {
    let counts = Counts {
        records: report.records,
        no_domain: report.without,
        domains: report.domains,
        written: report.written,
        slips: report.slips,
        slip_records: report.slip_records,
        answers: &report.answers,
        domain_classes: &report.classes,
    };
    Summary::of("domains", &report.sources, counts)
        .with_columns(report.columns.clone())
        .with_notes(&report.notes)
        .text(More { first: &report.first, first_slips: &report.first_slips })
}
