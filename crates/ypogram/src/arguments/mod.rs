//! The command line: what can be typed, and what help says of it. A file for each command, and for each group of options that
//! several share.

mod bounces;
mod check;
mod clean;
mod compare;
mod dedupe;
mod demo;
mod dns;
mod domains;
mod duplicates;
mod explain;
mod extract;
mod format;
mod judging;
mod links;
mod lists;
mod machine;
mod output;
mod page;
mod pattern;
mod redact;
mod register;
mod rules;
mod rules_export;
mod run;
mod settle;
mod shared;
mod shell;
pub(crate) mod short_help;
mod source;
mod split;
mod survey;
mod table;
#[cfg(feature = "worker")]
mod worker;

use clap::{Parser, Subcommand};

use crate::color::Color;

pub(crate) use bounces::BouncesArguments;
pub(crate) use check::CheckArguments;
pub(crate) use clean::CleanArguments;
pub(crate) use compare::CompareArguments;
pub(crate) use dedupe::DedupeArguments;
pub(crate) use demo::DemoArguments;
#[cfg_attr(not(feature = "dns"), allow(unused_imports))]
pub(crate) use dns::{DnsArguments, server};
pub(crate) use domains::DomainsArguments;
pub(crate) use duplicates::DuplicateArguments;
pub(crate) use explain::ExplainArguments;
pub(crate) use extract::ExtractArguments;
pub(crate) use format::RowFormatArgument;
pub(crate) use judging::{JudgingArguments, LetterCaseArgument, SelectionArguments};
pub(crate) use links::LinksArguments;
pub(crate) use lists::{ListEditArguments, ListNewArguments, ListsArguments, ListsCommand};
pub(crate) use machine::MachineArguments;
pub(crate) use output::{FailOn, OutputArguments};
pub(crate) use page::PageArguments;
pub(crate) use pattern::PatternArguments;
pub(crate) use redact::{RedactArguments, RedactByArgument, RedactCommand};
#[cfg_attr(not(feature = "sqlite"), allow(unused_imports))]
pub(crate) use register::{
    AdmissionArguments, RegisterAddArguments, RegisterArguments, RegisterCommand, RegisterEditArguments,
    RegisterGuardArguments, RegisterLookArguments, RegisterStoreArguments,
};
pub(crate) use rules::{LearnHouseArguments, RulesArguments, RulesCommand};
pub(crate) use rules_export::{DialectArgument, FlavourArgument, PlaceArgument, RulesExportArguments};
pub(crate) use run::RunArguments;
pub(crate) use settle::SettleArguments;
pub(crate) use shared::SharedArgument;
pub(crate) use shell::{CompletionsArguments, ManArguments};
pub(crate) use source::{FieldArguments, ReadingArguments, SourceArguments};
pub(crate) use split::SplitArguments;
pub(crate) use survey::SurveyArguments;
pub(crate) use table::TableArguments;
#[cfg(feature = "worker")]
pub(crate) use worker::WorkerArguments;

/// Cleans contact lists: finds the email addresses, judges them, finds duplicates, and accounts for every record.
#[derive(Debug, Parser)]
#[command(name = "ypogram", version, max_term_width = 110, arg_required_else_help = true)]
#[command(after_help = "\
Start here:
  ypogram demo                                      see it work on made-up data
  ypogram survey members.csv                        what is in the file, before anything is touched
  ypogram explain 'night.owl@gmial,com'             what is wrong with it, and what was meant
  ypogram clean members.csv --field email           a messy file in, a clean list out

Exit codes: 0 done; 1 done, and something is to be told; 2 call, rulebook or input unusable; 3 output \
not written; 130 stopped with Ctrl-C; 143 stopped by the system.")]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,

    /// Whether what is shown has colours
    #[arg(
        long,
        global = true,
        hide_short_help = true,
        value_name = "WHEN",
        value_enum,
        default_value = "auto",
        hide_possible_values = false,
        help_heading = "Output"
    )]
    pub(crate) color: Color,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    Survey(SurveyArguments),
    Extract(ExtractArguments),
    Check(CheckArguments),
    Explain(ExplainArguments),
    Split(SplitArguments),
    Dedupe(DedupeArguments),
    Domains(DomainsArguments),
    Links(Box<LinksArguments>),
    Compare(CompareArguments),
    Register(RegisterArguments),
    Redact(Box<RedactArguments>),
    Bounces(BouncesArguments),
    Clean(CleanArguments),
    Settle(SettleArguments),
    Run(RunArguments),
    Lists(ListsArguments),
    Rules(RulesArguments),
    #[cfg(feature = "worker")]
    Worker(Box<WorkerArguments>),
    Demo(DemoArguments),
    Completions(CompletionsArguments),
    Man(ManArguments),
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory as _;

    use super::*;

    /// What help is wrapped at where there is no terminal.
    const WIDTH: usize = 100;

    /// A line of an example that is wider than the page is broken in the middle; paragraphs are broken where they have to be.
    #[test]
    fn examples_fit_the_page() {
        let arguments = Arguments::command();
        arguments.clone().debug_assert();
        let commands = std::iter::once(&arguments).chain(arguments.get_subcommands());
        let mut examples = 0;
        for command in commands {
            let help = command.get_after_help().map(ToString::to_string).unwrap_or_default();
            for line in help.lines().filter(|line| line.starts_with("  ")) {
                assert!(line.chars().count() <= WIDTH, "{}: {line}", command.get_name());
                examples += 1;
            }
        }
        assert!(examples > 20, "{examples}");
    }
}
