//! What `run` takes.

use std::path::PathBuf;

use clap::Args;

use super::PageArguments;

/// Run a job of the rulebook: its steps one after the other, all outputs published together or none
#[derive(Debug, Args)]
#[command(mut_arg("html", |html| html.conflicts_with_all(["plan", "first"])))]
#[command(after_help = "\
A job stands in the rulebook, a table [[job.NAME.step]] for each step: do names the command, source the files or the \
outputs of earlier steps (clean.kept), output what is published; every other option has its name of the command line.

Examples:
  ypogram run monthly --plan                 what would be done, in words
  ypogram run monthly --first 20             try it on the first 20 records; nothing is published
  ypogram run monthly --force --since .      replace last month's outputs, and compare
  ypogram run monthly members.csv --force    other sources for the first step
  ypogram run monthly --force --html monthly.html --workbook monthly.xlsx")]
pub(crate) struct RunArguments {
    /// The job, by its name in the rulebook
    #[arg(value_name = "JOB")]
    pub(crate) job: String,

    /// Sources in place of those of the first step
    #[arg(value_name = "SOURCE")]
    pub(crate) sources: Vec<PathBuf>,

    /// The rulebook with the job [default: ypogram.toml in the working directory]
    #[arg(long, value_name = "FILE")]
    pub(crate) rules: Option<PathBuf>,

    /// Tell in words what would be done, and do nothing
    #[arg(long, conflicts_with_all = ["first", "force"])]
    pub(crate) plan: bool,

    /// Try it on the first N records of the first step; nothing is published
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u64).range(1..))]
    pub(crate) first: Option<u64>,

    /// Write changes.csv as well, into the folder of the step that cleans: what is new, gone, changed or ended elsewhere since the run
    /// of clean, or of this job, that wrote this folder; it may be the one that is being replaced
    #[arg(long, value_name = "FOLDER")]
    pub(crate) since: Option<PathBuf>,

    #[command(flatten)]
    pub(crate) page: PageArguments,

    /// Write a workbook (.xlsx) with a sheet for each published table, and a summary
    #[arg(long, value_name = "FILE", conflicts_with_all = ["plan", "first"], help_heading = "Output")]
    pub(crate) workbook: Option<PathBuf>,

    /// Replace outputs that exist
    #[arg(long)]
    pub(crate) force: bool,

    /// Print the summary as JSON
    #[arg(long)]
    pub(crate) json: bool,

    /// Print no summary
    #[arg(short, long)]
    pub(crate) quiet: bool,
}
