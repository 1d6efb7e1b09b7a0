//! How addresses are judged and which of them are wanted: the same everywhere.

use std::path::PathBuf;

use clap::{Args, ValueEnum};
use ypogram_core::{Grammar, SameMailbox};

/// How addresses are judged.
#[derive(Debug, Default, Args)]
#[command(next_help_heading = "Judging")]
pub(crate) struct JudgingArguments {
    /// The rulebook to go by [default: ypogram.toml in the working directory, where there is one]
    #[arg(long, value_name = "FILE", conflicts_with = "no_rules")]
    pub(crate) rules: Option<PathBuf>,

    /// Go by no rulebook, even where there is one
    #[arg(long)]
    pub(crate) no_rules: bool,

    /// The grammar to hold addresses against [default: smtp]
    #[arg(long, value_name = "GRAMMAR")]
    pub(crate) grammar: Option<GrammarArgument>,

    /// When two addresses are one mailbox [default: provider]
    #[arg(long, value_name = "RULE")]
    pub(crate) same: Option<SameArgument>,

    /// The letter case of local parts in the standard form [default: lower]
    #[arg(long, value_name = "CASE")]
    pub(crate) letter_case: Option<LetterCaseArgument>,

    /// A list of your own and what it does, as in partners=partners.csv,class=partner; can be repeated
    #[arg(long = "list", value_name = "NAME=FILE,…")]
    pub(crate) own_lists: Vec<String>,
}

/// Which usable records are wanted.
#[derive(Debug, Args)]
#[command(next_help_heading = "Selection")]
pub(crate) struct SelectionArguments {
    /// Only usable records of these classes or with these findings, such as business,education; the others are set aside
    /// with the reason
    #[arg(long, value_name = "SORT,…", value_delimiter = ',')]
    pub(crate) only: Vec<String>,

    /// Set aside usable records of these classes or with these findings, such as free,disposable,role-account
    #[arg(long, value_name = "SORT,…", value_delimiter = ',')]
    pub(crate) without: Vec<String>,
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum GrammarArgument {
    /// RFC 5321 Mailbox, with the UTF-8 of RFC 6531
    Smtp,
    /// RFC 5322 address, with comments, names, groups and obsolete forms
    Header,
    /// The valid e-mail address of the HTML standard
    Html,
}

impl From<GrammarArgument> for Grammar {
    fn from(argument: GrammarArgument) -> Self {
        match argument {
            GrammarArgument::Smtp => Grammar::Smtp,
            GrammarArgument::Header => Grammar::Header,
            GrammarArgument::Html => Grammar::Html,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum SameArgument {
    /// The local part as written
    Exact,
    /// Letter case ignored
    Case,
    /// Letter case ignored, and what the domain's provider documents: dots, tags, joined domains
    Provider,
    /// Letter case, dots and everything from the first plus ignored, at every domain
    Everywhere,
}

impl From<SameArgument> for SameMailbox {
    fn from(argument: SameArgument) -> Self {
        match argument {
            SameArgument::Exact => SameMailbox::Exact,
            SameArgument::Case => SameMailbox::Case,
            SameArgument::Provider => SameMailbox::Provider,
            SameArgument::Everywhere => SameMailbox::Everywhere,
        }
    }
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum LetterCaseArgument {
    Lower,
    Keep,
}
