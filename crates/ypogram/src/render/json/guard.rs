//! What `register guard` reports.

use serde::Serialize;
use ypogram_jobs::guard::GuardReport;

use crate::render::json::summary::Summary;

#[derive(Serialize)]
struct Counts {
    records: u64,
    no_usable_address: u64,
    groups: u64,
    going: u64,
    other_person: u64,
    not_comparable: u64,
    to_standard_form: u64,
}

#[derive(Serialize)]
struct More<'a> {
    table: &'a str,
    column: &'a str,
    key_column: &'a str,
    referring: &'a [String],
    #[serde(skip_serializing_if = "str::is_empty")]
    sql: &'a str,
}

/// What stands in the way of a rule for a column of `database`, and the SQL.
pub(crate) fn guarded(database: &str, report: &GuardReport) -> String {
    let counts = Counts {
        records: report.rows,
        no_usable_address: report.unusable,
        groups: report.groups,
        going: report.going,
        other_person: report.other_person,
        not_comparable: report.not_comparable,
        to_standard_form: report.to_standard_form,
    };
    Summary::of_names("register guard", [database].into_iter(), counts).text(More {
        table: &report.table,
        column: &report.column,
        key_column: &report.key_column,
        referring: &report.referring,
        sql: &report.sql,
    })
}
