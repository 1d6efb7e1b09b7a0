//! What `survey` takes.

use std::path::PathBuf;

use clap::Args;

use super::{JudgingArguments, MachineArguments, OutputArguments, PageArguments, SourceArguments};

/// Look before touching: how full each field is, how addresses stand in it, what is wrong, and where else there are some
#[derive(Debug, Args)]
#[command(after_help = "\
Every line of the survey tells the --show that opens the records behind it.

Examples:
  ypogram survey members.csv
  ypogram survey members.csv --show form=mailto                    the records behind a figure
  ypogram survey members.csv --where field=email,address=no        those without an address there
  ypogram survey members-cleaned/kept.csv --against members.csv    what changed
  ypogram survey members.csv --html survey.html                    a page to send around")]
#[command(mut_arg("output", |file| file.help("File for the records of --show or --label; `-` is standard output [default: standard output]")))]
#[command(mut_arg("names", |pattern| pattern.help("Count the cells of every field that fit this pattern of the rulebook, or a ready-made one (`ypogram rules patterns` has them); can be repeated").help_heading("What to look at")))]
pub(crate) struct SurveyArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    #[command(flatten)]
    pub(crate) patterns: super::PatternArguments,

    /// Survey, or with --show or --label write, only the records that meet the condition, written as for --show
    #[arg(long = "where", value_name = "CONDITION", help_heading = "What to look at")]
    pub(crate) only: Option<String>,

    /// Write the records that meet the condition, whole, with their lines: finding=CODE, form=WORD, shape=SHAPE, kind=WORD,
    /// filled=yes|no, address=yes|no, at-sign=yes|no, value=TEXT, domain=NAME, local-part=TEXT, class=WORD,
    /// operator=NAME, verdict=WORD, usable=as-it-stands|after-repair|from-text, repair=CODE, list=NAME, unmatched=NAME, pattern=NAME, fault=RULE; != is the contrary. Several
    /// separated by commas hold together; those behind field=NAME are about that field
    #[arg(long, value_name = "CONDITION", help_heading = "What to look at", conflicts_with_all = ["label", "against", "save", "html"])]
    pub(crate) show: Option<String>,

    /// Write every record with the kind of what this field holds: address, telephone, name, …
    #[arg(long, value_name = "FIELD", help_heading = "What to look at", conflicts_with_all = ["against", "save", "html"])]
    pub(crate) label: Option<String>,

    /// Shapes down to letters and digits
    #[arg(long, help_heading = "What to look at")]
    pub(crate) fine: bool,

    /// The rarest shapes instead of the most frequent
    #[arg(long, help_heading = "What to look at")]
    pub(crate) rare: bool,

    /// Hold it against another file, or a survey that was kept with --save
    #[arg(long, value_name = "OTHER", help_heading = "What to look at")]
    pub(crate) against: Option<PathBuf>,

    /// Keep the survey in this file, to hold another against it later
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) save: Option<PathBuf>,

    #[command(flatten)]
    pub(crate) page: PageArguments,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}
