//! What `compare` takes.

use std::path::PathBuf;

use clap::Args;
use ypogram_io::nearest;
use ypogram_jobs::ContactTrait;

use super::{JudgingArguments, MachineArguments, OutputArguments, SourceArguments};

/// Hold new records against what is known: which are new, which are known, and which must not be used
#[derive(Debug, Args)]
#[command(after_help = "\
Each new record is the first of these: unusable, withdrawn, known, duplicate (earlier among the new ones), new. A \
list given with --with or --withdrawn may hold SHA-256 of addresses in lower case instead of addresses. An address may stand \
where a source could.

Examples:
  ypogram compare open-nights.csv --with members.csv                    the figures, both ways
  ypogram compare open-nights.csv --with members.csv -o compared        a file of each
  ypogram compare open-nights.csv --with members.csv --withdrawn withdrawn.txt --mark -o marked.csv
  ypogram compare volunteers.vcf --with members.csv --missing missing.csv --changed changed.csv
  ypogram compare loans.csv --with members.csv --near twins.csv --near-field name=borrower
  ypogram compare zeno.inglewood@quarryfarm.example --with members.csv   whether one is known")]
#[command(mut_arg("output", |folder| folder
    .value_name("FOLDER")
    .help("Folder for a file of each state, or with --mark the file for all [default: only the figures are told]")))]
#[command(mut_arg("force", |force| force.help("Replace the outputs of an earlier run in that folder, or the files that are named")))]
pub(crate) struct CompareArguments {
    #[command(flatten)]
    pub(crate) sources: SourceArguments,

    /// What is known already: a file, with a sheet or table behind `#`, or a column of one, as in app.sqlite#members.mail; can be repeated
    #[arg(long = "with", value_name = "KNOWN", required = true, help_heading = "Input")]
    pub(crate) known: Vec<PathBuf>,

    /// A field of what is known that should hold an address; can be repeated [default: found by looking]
    #[arg(long = "known-field", value_name = "NAME", help_heading = "Input")]
    pub(crate) known_fields: Vec<String>,

    /// A list of addresses or whole domains that asked to be left alone; can be repeated
    #[arg(long, value_name = "LIST", help_heading = "Input")]
    pub(crate) withdrawn: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) judging: JudgingArguments,

    /// One file of all new records, each marked with what it is and which known record it is
    #[arg(long, requires = "output", help_heading = "Output")]
    pub(crate) mark: bool,

    /// File for known records that are not among the new ones
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) missing: Option<PathBuf>,

    /// File for every field that differs where a record is in both
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) changed: Option<PathBuf>,

    /// File for probable twins: known records that are probably of the person of a new one whose mailbox is not known, by name,
    /// telephone, street and address; they change nothing
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) near: Option<PathBuf>,

    /// A field that --near goes by, as in name=borrower, telephone=mobile or street=line1; can be repeated [default: fields of such names]
    #[arg(long = "near-field", value_name = "WHAT=FIELD", requires = "near", help_heading = "Input", value_parser = near_field)]
    pub(crate) near_fields: Vec<(ContactTrait, String)>,

    /// The format of the rows [default: as the source, or as the name of the output says]
    #[arg(long, value_name = "FORMAT", help_heading = "Output", value_parser = super::format::of_outputs())]
    pub(crate) to: Option<ypogram_io::Format>,

    #[command(flatten)]
    pub(crate) output: OutputArguments,

    #[command(flatten)]
    pub(crate) machine: MachineArguments,
}

/// A field that probable twins are found by, from `WHAT=FIELD`.
fn near_field(text: &str) -> Result<(ContactTrait, String), String> {
    let Some((what, field)) = text.split_once('=').filter(|(_, field)| !field.is_empty()) else {
        return Err("say what it holds and its name, as in name=borrower".to_owned());
    };
    let of = ContactTrait::ALL.into_iter().find(|of| of.word() == what);
    let of = of.ok_or_else(|| {
        let known = ContactTrait::ALL.map(ContactTrait::word);
        let like = known.into_iter().find(|known| known.contains(what)).or_else(|| nearest(what, known));
        let like = like.map_or(String::new(), |like| format!("; did you mean {like}={field}?"));
        format!("‘{what}’ is not one of {}{like}", known.join(", "))
    })?;
    Ok((of, field.to_owned()))
}
