//! Surveys, which are kept in files and read again as well.

use serde::Serialize;
use ypogram_jobs::LAYOUT;
use ypogram_jobs::survey::SurveyReport;

use crate::render::json::summary::lines;

/// A survey, as it is kept and read again.
pub(crate) fn survey(report: &SurveyReport) -> String {
    lines(report)
}

/// A survey and the one that it is held against.
pub(crate) fn surveys(now: &SurveyReport, before: &SurveyReport) -> String {
    #[derive(Serialize)]
    struct Both<'a> {
        layout: u32,
        command: &'static str,
        before: &'a SurveyReport,
        now: &'a SurveyReport,
    }
    lines(&Both { layout: LAYOUT, command: "survey", before, now })
}
