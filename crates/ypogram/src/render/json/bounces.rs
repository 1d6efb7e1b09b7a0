//! The summary of `bounces`.

use std::collections::BTreeMap;

use serde::Serialize;
use ypogram_jobs::bounces::{BouncesReport, Unread};

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct Counts<'a> {
    files: u64,
    messages: u64,
    with_recipients: u64,
    other: u64,
    unread: u64,
    recipients: u64,
    written: u64,
    what: BTreeMap<&'a str, u64>,
}

#[derive(Serialize)]
struct More<'a> {
    unread: &'a [Unread],
    troubles: &'a [String],
}

/// The summary of `bounces`.
pub(crate) fn bounces(report: &BouncesReport) -> String {
    let counts = Counts {
        files: report.files.len() as u64,
        messages: report.messages,
        with_recipients: report.with_recipients,
        other: report.other,
        unread: report.unread.len() as u64,
        recipients: report.recipients,
        written: report.rows,
        what: report.what.iter().copied().collect(),
    };
    Summary::of_names("bounces", report.files.iter().map(String::as_str), counts)
        .text(More { unread: &report.unread, troubles: &report.troubles })
}
